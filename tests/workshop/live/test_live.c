/* SPDX-License-Identifier: MIT */
/* Readings as they come: what a board sends, when, and what the gate makes of it. */
#include "../../support/suite.h"

#include <ficklegate/keep.h>
#include <ficklegate/live.h>
#include <ficklegate/scenes.h>
#include <ficklegate/watch.h>

#include <inttypes.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

/* What was heard: changes, what was told, rows. */
typedef struct heard {
    char text[1 << 16];
    size_t size;
    bool rows; /* they are wanted too */
} heard;

static void add(heard *h, const char *format, ...) __attribute__((format(printf, 2, 3)));

static void add(heard *h, const char *format, ...)
{
    va_list values;
    va_start(values, format);
    h->size += (size_t)vsnprintf(h->text + h->size, sizeof h->text - h->size, format, values);
    va_end(values);
    ck_assert(h->size < sizeof h->text);
}

static bool on_change(void *context, const fg_change *c)
{
    add(context, "%" PRId64 " %.*s %.*s>%.*s\n", c->t_ms, (int)c->declared->name.size, c->declared->name.at,
        (int)c->was.size, c->was.size ? c->was.at : "", (int)c->is.size, c->is.at);
    return true;
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count)
{
    heard *h = context;
    if (!h->rows) return true;
    add(h, "row %" PRId64, t_ms);
    for (size_t i = 1; i < count; i++) add(h, ",%.*s", (int)cells[i].size, cells[i].size ? cells[i].at : "");
    add(h, "\n");
    return true;
}

static bool on_said(void *context, const fg_said *s)
{
    add(context, "said %" PRId64 " %.*s %.*s %s\n", s->t_ms, (int)s->declared->name.size, s->declared->name.at,
        (int)s->said.size, s->said.at, s->agrees ? "agrees" : "differs");
    return true;
}

static void on_tell(void *context, const char *text) { add(context, "* %s\n", text); }

static fg_gate_file gate_of(const char *text)
{
    fg_gate_file file;
    fg_mistake mistake;
    ck_assert_msg(fg_gate_file_of_text(&file, "a.gate", fg_text_of(text), (fg_settings){0}, &mistake) == FG_OK, "%s",
                  text);
    return file;
}

/* A script: "@100 LINE" comes at 100 ms, "~200" is a moment at which nothing comes, "%100 BYTES" are bytes without a
 * line end, "=depth 5" holds a sensor, "#100 name value" is a message. */
static void play(fg_live *live, const fg_program *program, const char *script)
{
    char line[4096];
    bool more = true;
    while (*script && more) {
        const size_t size = strcspn(script, "\n");
        ck_assert_uint_lt(size, sizeof line);
        memcpy(line, script, size);
        line[size] = '\0';
        script += size + (script[size] == '\n');
        char *rest = line + 1;
        const int64_t now = *line == '=' ? 0 : strtoll(rest, &rest, 10);
        rest += *rest == ' ';
        char *blank = strchr(rest, ' ');
        switch (*line) {
        case '@': more = fg_live_bytes(live, rest, strlen(rest), now) && fg_live_bytes(live, "\r\n", 2, now); break;
        case '%': more = fg_live_bytes(live, rest, strlen(rest), now); break;
        case '~': more = fg_live_until(live, now); break;
        case '=':
            *blank = '\0';
            ck_assert_int_eq(fg_live_hold(live, fg_program_find(program, fg_text_of(rest)), fg_text_of(blank + 1)),
                             FG_OK);
            break;
        case '#':
            *blank = '\0';
            more = fg_live_message(live, fg_text_of(rest), fg_text_of(blank + 1), now);
            break;
        default: ck_abort_msg("%s", line);
        }
    }
}

static const char basic[] = "sensor depth { unit cm; step 0.1; raw 0..1000 reads 0..100 }\n"
                            "sensor wind\nflag key\n"
                            "threshold deep from depth { over 5 }\n"
                            "lamp red { on when deep and key }\n";
static const char single[] = "sensor depth\nthreshold deep from depth { over 5 }\n";
static const char timed[] = "every 100ms\nsensor depth { stale after 300ms }\nthreshold deep from depth { over 5 }\n";

#define FORM(names)  "* the first readings are of " names "; their time is that of arrival\n"
#define TIMED(names) "* the first readings are of " names "; their time is the one that comes with them\n"

static const struct {
    const char *name, *gate, *script, *heard;
    fg_recording_options reading;
    fg_time idle;
    bool rows, compare;
} scripts[] = {
    {"named lines, each a step",
     single,
     "@0 depth=3\n@50 depth=7\n~60",
     FORM("depth") "0 depth >ok\n0 deep >no\n50 deep no>yes\n",
     {0},
     0,
     false,
     false},
    {"readings of one millisecond are one row",
     single,
     "@0 depth=3\n@0 depth=7\n~60",
     FORM("depth") "0 depth >ok\n0 deep >yes\n",
     {0},
     0,
     false,
     false},
    {"numbers alone are the only sensor's",
     single,
     "@0 3\n@50 7\n~60",
     FORM("depth") "row 0,3\n0 depth >ok\n0 deep >no\nrow 50,7\n50 deep no>yes\n",
     {0},
     0,
     true,
     false},
    {"numbers without a name",
     basic,
     "@0 3 4\n@50 5 6",
     "* line 1 holds 2 numbers without a name; say what each is, in their order: --columns t_ms,depth\n",
     {0},
     0,
     true,
     false},
    {"numbers that were named",
     basic,
     "@9 0;3;4;1\n@10 100;6;4;1\n@11 200;6;4\n~12",
     TIMED("depth, wind, key") "row 0,3,4,1\nrow 100,6,4,1\n* line 3 holds 3 numbers, and there are 4 names for them; "
                               "a line with another count is torn\n",
     {.names = "t_ms,depth,wind,key"},
     0,
     true,
     false},
    {"a heading that comes again",
     basic,
     "@0 t_ms,depth,key\n@1 1000,3,0\n@2 1100,6,1\n@3 ready\n@4 t_ms,depth,key\n@5 0,7,1\n@6 100,2,1",
     TIMED("depth, key") "row 0,3,,0\nrow 100,6,,1\n* line 4 holds no readings: ready\n* the board started again, or "
                         "its clock was set back: its time went from 1.100 s to 0.000 s; the run goes on\nrow "
                         "103,7,,1\nrow 203,2,,1\n",
     {0},
     0,
     true,
     false},
    {"no first reading is a heading",
     single,
     "@0 3\n@1 depth\n@2 4",
     FORM("depth") "row 0,3\nrow 2,4\n",
     {0},
     0,
     true,
     false},
    {"words in cells",
     basic,
     "@0 depth;key\n@1 3;yes\n@2 4;no",
     FORM("depth, key") "row 0,3,,yes\nrow 1,4,,no\n",
     {0},
     0,
     true,
     false},
    {"JSON",
     basic,
     "@0 {\"depth\": 4.5, \"key\": true, \"wind\": null}\n@1 {\"depth\":\n@2 {\"depth\": 5}",
     FORM("depth, key, wind") "row 0,4.5,,1\n* line 2 holds no readings: {\"depth\":\nrow 2,5,,\n",
     {0},
     0,
     true,
     false},
    {"counts of a converter are kept in the unit",
     basic,
     "@0 depth.raw=123 key=1\n@1 depth.raw=x",
     FORM("depth.raw, key") "row 0,12.3,,1\nrow 1,x,,\n",
     {0},
     0,
     true,
     false},
    {"counts of two converters in one row",
     "sensor a { step 0.1; raw 0..100 reads 0..10 }\nsensor b { step 0.1; raw 0..100 reads 0..50 }\n",
     "@0 a.raw=55 b.raw=55",
     FORM("a.raw, b.raw") "row 0,5.5,27.5\n",
     {0},
     0,
     true,
     false},
    {"time begins with the first reading",
     single,
     "@0 t_ms=5\n@9 t_ms=200 depth=3\n@10 t_ms=300 depth=4",
     TIMED("depth") "row 0,3\nrow 100,4\n",
     {0},
     0,
     true,
     false},
    {"a clock in front",
     single,
     "@0 23:59:59.900 depth=3\n@1 00:00:00.100 depth=4",
     TIMED("depth") "row 0,3\nrow 200,4\n",
     {0},
     0,
     true,
     false},
    {"a clock of 32 bits that wraps",
     single,
     "@0 t_ms=4294967290 depth=3\n@1 t_ms=4 depth=4",
     TIMED("depth") "row 0,3\nrow 10,4\n",
     {0},
     0,
     true,
     false},
    {"a time that no board can have come to is torn",
     single,
     "@0 t_ms=100 depth=3\n@9 t_ms=99999999999 depth=9\n@20 t_ms=120 depth=4",
     TIMED("depth") "row 0,3\nrow 20,4\n",
     {0},
     0,
     true,
     false},
    {"a torn time",
     single,
     "@0 t_ms=100 depth=3\n@9 t_ms=1depth=9\n@20 t_ms=120 depth=4",
     TIMED("depth") "row 0,3\n* line 2 holds no readings: t_ms=1depth=9\nrow 20,4\n",
     {0},
     0,
     true,
     false},
    {"a name that is nearly one",
     basic,
     "@0 Depth=3 wind=2\n@1 Depth=4",
     "* the board sends 'Depth', which nothing uses; if it is depth, write --column depth=Depth\n" FORM(
         "Depth, wind") "row 0,,2,\n",
     {0},
     0,
     true,
     false},
    {"nothing that the gate knows",
     single,
     "@0 a=3\n@1 a=4\n@2 a=4\n@3 a=5",
     "* nothing that comes is a sensor or flag of the gate: it sends a, the gate reads depth\n",
     {0},
     0,
     true,
     false},
    {"another unit",
     basic,
     "@0 depth=3 mm wind=1\n@1 depth=4 mm\n@2 depth=5 cm",
     "* depth comes in mm, and its sensor is in cm; every number is taken as cm; write unit mm in the gate, or let the "
     "board print cm\n" FORM("depth, wind") "row 0,3,1,\nrow 1,4,,\nrow 2,5 cm,,\n",
     {0},
     0,
     true,
     false},
    {"bytes that are no text",
     single,
     "@0 \xff\x80\n@1 \xfe\n@2 \x01\x02\n@3 \xff\n@4 \xff\n@5 \xff",
     "* line 1 holds no readings: \\xff\\x80\n* what comes is no text; on a serial line the speed may be wrong: --baud "
     "115200 or 9600\n",
     {0},
     0,
     true,
     false},
    {"bytes piece by piece", single, "%0 dep\n%5 th=3\n@9 ", FORM("depth") "row 0,3\n", {0}, 0, true, false},
    {"steps at their own pace",
     timed,
     "@0 depth=3\n~101\n@150 depth=7\n~201\n~301",
     FORM("depth") "0 depth >ok\n0 deep >no\n200 deep no>yes\n",
     {0},
     0,
     false,
     false},
    {"a cable that is pulled makes a sensor stale",
     timed,
     "@0 depth=7\n~250\n~900",
     FORM("depth") "0 depth >ok\n0 deep >yes\n400 depth ok>faulty\n400 deep yes>unsure\n",
     {0},
     0,
     false,
     false},
    {"and so does one whose board has a clock",
     timed,
     "@0 t_ms=5000 depth=7\n~250\n~1300",
     TIMED("depth") "0 depth >ok\n0 deep >yes\n400 depth ok>faulty\n400 deep yes>unsure\n",
     {0},
     100,
     false,
     false},
    {"lines of one moment are one row",
     basic,
     "@0 t_ms=0 depth=7\n@5 t_ms=0 key=1\n~19\n~21\n@400 t_ms=400 depth=3\n~421\n@425 t_ms=400 key=0\n~450",
     TIMED("depth") "0 depth >ok\n0 wind >faulty\n0 key >yes\n0 deep >yes\n0 red >on\n400 deep yes>no\n400 red "
                    "on>off\n401 key yes>no\n",
     {0},
     100,
     false,
     false},
    {"a reading that is late counts now",
     timed,
     "@0 t_ms=0 depth=7\n~1000\n@1001 t_ms=200 depth=3\n@1101 t_ms=300 depth=4\n@2000 t_ms=1200 depth=5",
     TIMED("depth") "row 0,7\nrow 700,3\nrow 700,4\nrow 1200,5\n",
     {0},
     100,
     true,
     false},
    {"silence is a row where steps are rows",
     single,
     "@0 depth=3\n~350",
     FORM("depth") "row 0,3\nrow 100,\nrow 200,\nrow 300,\n",
     {0},
     100,
     true,
     false},
    {"held by hand",
     single,
     "=depth 3\n~10\n~220\n=depth 8\n~320\n@350 depth=1\n=depth \n~360\n@370 depth=2",
     "row 0,3\nrow 100,3\nrow 200,3\nrow 300,8\n" FORM("depth") "row 340,8\nrow 360,2\n",
     {0},
     100,
     true,
     false},
    {"held at every step",
     timed,
     "=depth 3\n~10\n~220\n=depth faulty\n~320",
     "row 0,3\n0 depth >ok\n0 deep >no\nrow 100,3\nrow 200,3\nrow 300,faulty\n300 depth ok>faulty\n300 deep "
     "no>unsure\n",
     {0},
     100,
     true,
     false},
    {"held after steps without a row",
     timed,
     "@0 depth=3\n~250\n=depth 9\n~420",
     FORM("depth") "row 0,3\nrow 300,9\nrow 400,9\n",
     {0},
     100,
     true,
     false},
    {"messages",
     basic,
     "#0 depth 3\n#5 key yes\n#9 x {\"depth\":6,\"key\":0}\n~10",
     FORM("depth") "row 0,3,,\nrow 5,,,yes\nrow 9,6,,0\n",
     {0},
     0,
     true,
     false},
    {"what a board says it did",
     single,
     "@0 depth=3 deep=no\n@10 depth=7 deep=no\n@20 depth=8 deep=yes\n~30",
     FORM("depth, deep") "said 0 deep no agrees\nsaid 10 deep no differs\nsaid 20 deep yes agrees\n",
     {0},
     0,
     false,
     true},
    {"every",
     single,
     "@0 3\n@0 4\n@0 7\n~1",
     "* the first readings are of depth; their time is what --every says\nrow 0,3\nrow 500,4\nrow 1000,7\n",
     {.every = 500},
     0,
     true,
     false},
};

/* Of a script that wants rows, the changes are looked at only where it names some. */
static void drop_changes(char *text, bool keep)
{
    char *to = text;
    for (char *at = text; *at;) {
        const size_t size = strcspn(at, "\n") + 1;
        if (keep || *at < '0' || *at > '9') {
            memmove(to, at, size);
            to += size;
        }
        at += size;
    }
    *to = '\0';
}

START_TEST(what_comes_is_understood)
{
    heard h = {.rows = scripts[_i].rows};
    fg_gate_file file = gate_of(scripts[_i].gate);
    fg_replay_report report;
    const fg_live_options options = {
        .reading = scripts[_i].reading, .idle_ms = scripts[_i].idle, .tell = on_tell, .context = &h};
    const fg_replay_observer observer = {
        .context = &h, .change = on_change, .row = on_row, .said = scripts[_i].compare ? on_said : NULL};
    fg_live *live = fg_live_start(&file.program, &options, &observer, &report);
    ck_assert_ptr_nonnull(live);
    play(live, &file.program, scripts[_i].script);
    const bool changes = strstr(scripts[_i].heard, ">");
    drop_changes(h.text, changes);
    ck_assert_msg(!strcmp(h.text, scripts[_i].heard), "%s:\n%s\ninstead of\n%s", scripts[_i].name, h.text,
                  scripts[_i].heard);
    fg_live_end(live);
    fg_gate_file_close(&file);
}
END_TEST

/* ---- what is kept replays to the same ---- */

static const char endless[] = "every 100ms\n"
                              "sensor depth { unit cm; step 0.1; trust 0..200; stale after 2s; median 3 }\n"
                              "flag key\n"
                              "threshold deep from depth { over 60; margin 2; settle 1s }\n"
                              "bands tide from depth { low | 20 | fair | 140 | high; settle 500ms }\n"
                              "latch alarm { set when tide is high; clear when key }\n"
                              "lamp red { on when alarm\n on 40% when depth faulty }\n"
                              "scene \"a day\" { lasts 60s; every 170ms; seed 4; depth swings 0 to 180 every 20s; "
                              "depth noise 3; depth drops out from 30s to 31s;"
                              " depth falls silent from 40s to 45s; key presses at 12s for 1s }\n";

typedef struct sender {
    fg_live *live;
    fg_keeper *keeper;
    unsigned state;
} sender;

static bool send_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    (void)context, (void)columns, (void)count, (void)mistake;
    return true;
}

/* As a board sends it, in pieces of any size, with noise on the line. */
static bool send_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line,
                     fg_mistake *mistake)
{
    sender *s = context;
    char text[200];
    (void)count, (void)mistake;
    int size =
        snprintf(text, sizeof text, "%st_ms=%" PRId64 " depth=%.*s key=%.*s\r\n", line % 17 ? "" : "\xff#half a li\n",
                 t_ms + 12345, (int)cells[1].size, cells[1].size ? cells[1].at : "", (int)cells[2].size, cells[2].at);
    for (int from = 0; from < size;) {
        s->state = s->state * 1103515245u + 12345u;
        int part = (int)(s->state >> 16) % 20 + 1;
        if (part > size - from) part = size - from;
        if (!fg_live_bytes(s->live, text + from, (size_t)part, 1000 + t_ms)) return false;
        from += part;
    }
    return fg_live_until(s->live, 1000 + t_ms + 1);
}

static const char *const kept_as[] = {"kept.csv", "kept.jsonl", "kept.sqlite"};
static heard changes[2];
static sender kept_by;

static bool keep_row(void *context, int64_t t_ms, const fg_text *cells, size_t count)
{
    (void)context, (void)t_ms, (void)count;
    fg_keep_row(kept_by.keeper, cells);
    return fg_keep_until(kept_by.keeper, t_ms);
}

static bool start_to_keep(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    (void)context;
    kept_by.keeper = fg_keep_start(kept_as[kept_by.state % 3], columns, count, mistake);
    return kept_by.keeper != NULL;
}

START_TEST(what_is_kept_replays_to_the_same)
{
    char folder[] = "/tmp/fickle-live-XXXXXX";
    ck_assert_ptr_nonnull(mkdtemp(folder));
    ck_assert_int_eq(chdir(folder), 0);
    fg_gate_file file = gate_of(endless);
    fg_replay_report report;
    fg_mistake mistake;
    memset(changes, 0, sizeof changes);
    kept_by = (sender){.state = (unsigned)_i};
    const fg_live_options options = {.idle_ms = 100};
    const fg_replay_observer observer = {
        .context = &changes[0], .change = on_change, .columns = start_to_keep, .row = keep_row};
    kept_by.live = fg_live_start(&file.program, &options, &observer, &report);
    ck_assert_ptr_nonnull(kept_by.live);
    const fg_recording_sink sink = {.context = &kept_by, .heading = send_heading, .row = send_row};
    ck_assert_int_eq(fg_scene_read(&file.program, &file.program.scenes[0], &sink, &mistake), FG_OK);
    ck_assert(fg_live_until(kept_by.live, 1000 + 60000 + 7777)); /* and nothing more comes */
    fg_live_end(kept_by.live);
    ck_assert_int_eq(fg_keep_end(kept_by.keeper, &mistake), FG_OK);

    const fg_readings readings = {.recording = kept_as[_i]};
    const fg_replay_observer again = {.context = &changes[1], .change = on_change};
    ck_assert_msg(fg_replay(&file.program, &readings, &again, &report, &mistake) == FG_OK, "%s", mistake.text);
    ck_assert_uint_gt(changes[0].size, 1000);
    ck_assert_str_eq(changes[1].text, changes[0].text);
    ck_assert_int_eq(unlink(kept_as[_i]), 0);
    ck_assert_int_eq(rmdir(folder), 0);
    fg_gate_file_close(&file);
}
END_TEST

/* ---- what is watched ---- */

static const char stops_of[] = "sensor a { trust 0..20 }\nthreshold over_five from a { over 5 }\n"
                               "bands b from a { low | 6 | high }\nhysteresis c from a { on over 12; off under 9 }\n"
                               "sensor way { circle 360 }\nthreshold north from way { within 350..10 }\n";

static const struct {
    const char *sensor;
    fg_value from;
    int way;
    const char *stops;
} stops[] = {
    {"a", 0, 1, "4 5 6 7 8 9 10 11 12 13 20"},
    {"a", 20, -1, "13 12 11 10 9 8 7 6 5 4 0"},
    {"way", 12, 1, "349 350 351 359"},
    {"way", 12, -1, "11 10 9 0"},
};

START_TEST(the_next_limit_is_found)
{
    fg_gate_file file = gate_of(stops_of);
    fg_watch *watch = fg_watch_start(&file.program);
    const fg_declared *d = fg_program_find(&file.program, fg_text_of(stops[_i].sensor));
    heard h = {{0}, 0, false};
    for (fg_value at = stops[_i].from; fg_watch_next_stop(watch, d, at, stops[_i].way, &at);)
        add(&h, "%s%d", h.size ? " " : "", at);
    ck_assert_str_eq(h.text, stops[_i].stops);
    fg_watch_end(watch);
    fg_gate_file_close(&file);
}
END_TEST

static bool watch_row(void *context, int64_t t_ms, const fg_text *cells, size_t count)
{
    (void)t_ms;
    fg_watch_row(context, cells, count);
    return true;
}

static bool watch_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    (void)before;
    fg_watch_step(context, run, t_ms);
    return true;
}

START_TEST(figures_since_the_mark_and_under_labels)
{
    fg_gate_file file = gate_of("sensor depth { step 0.1; trust 0..50 }\n");
    fg_watch *watch = fg_watch_start(&file.program);
    fg_replay_report report;
    const fg_live_options options = {.reading = {.every = 100}};
    const fg_replay_observer observer = {.context = watch, .row = watch_row, .step = watch_step};
    fg_live *live = fg_live_start(&file.program, &options, &observer, &report);
    const fg_declared *d = fg_program_find(&file.program, fg_text_of("depth"));
    fg_figures f;
    for (int i = 0; i < 40; i++) { /* creeps up for two seconds, then lies still */
        char line[32];
        if (i == 22) fg_watch_label(watch, 2);
        if (i == 10) fg_watch_mark(watch);
        snprintf(line, sizeof line, i == 35 ? "99\n" : "%d.%d\n", i < 20 ? i : 20, i % 2);
        ck_assert(fg_live_bytes(live, line, strlen(line), 0));
    }
    fg_live_end(live);
    fg_watch_figures(watch, d, -1, &f);
    ck_assert_uint_eq(f.count, 30); /* the step of the reading before the mark came behind it */
    ck_assert_uint_eq(f.faults, 1);
    ck_assert_int_eq(f.lowest, 91);
    ck_assert_int_eq(f.highest, 201);
    fg_watch_figures(watch, d, 2, &f);
    ck_assert_uint_eq(f.count, 18);
    ck_assert(f.median == 200 || f.median == 201);
    ck_assert_int_eq(f.noise, 1);
    ck_assert(f.still);
    fg_watch_figures(watch, d, 1, &f);
    ck_assert_uint_eq(f.count, 0);
    fg_watch_end(watch);
    fg_gate_file_close(&file);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_loop_test(tests, what_comes_is_understood, 0, COUNT_OF(scripts));
    tcase_add_loop_test(tests, what_is_kept_replays_to_the_same, 0, COUNT_OF(kept_as));
    tcase_add_loop_test(tests, the_next_limit_is_found, 0, COUNT_OF(stops));
    tcase_add_test(tests, figures_since_the_mark_and_under_labels);
}

int main(void) { return run_suite("live", fill); }
