/* SPDX-License-Identifier: MIT */
/* fickle live GATE SOURCE */
#include "live.h"

#include <errno.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#ifdef FG_WITHOUT_JSON
enum { LIVE_FORMS = 1 << FORM_TEXT | 1 << FORM_CSV };
#else
enum { LIVE_FORMS = 1 << FORM_TEXT | 1 << FORM_CSV | 1 << FORM_JSONL };
#endif

enum { BAUD = TOOL_OPTION_OWN, SPEED, LABEL_AS, TO, COMPARE, TOPIC, LOGIN, CA };

static const struct argp_option own_options[] = {
    {"scene", 'n', "NAME", 0, "a scene of the gate file, at its own pace", 0},
    {"speed", SPEED, "N", 0, "play a scene or recording N times as fast", 0},
    {"baud", BAUD, "N", 0, "the speed of a serial device; 9600 if nothing is said", 0},
    {"save", 'k', "FILE", 0, "keep what comes, as a recording: FILE.csv, .jsonl or .sqlite", 0},
    {"label-as", LABEL_AS, "COLUMN", 0, "with --save: keys give the readings labels, which are kept in this column", 0},
    {"to", TO, "WHERE", 0,
     "switch outputs for real: a line for each change to - (standard output) or a serial device, or topics below "
     "mqtt://HOST/TOPIC",
     0},
    {"compare", COMPARE, NULL, 0, "hold what a board says of its rules, counts and outputs against the gate", 0},
    {"topic", TOPIC, "NAME=TOPIC", 0,
     "a broker's topic that has this sensor or flag, if its last level is not its name", 0},
    {"login", LOGIN, "FILE", 0, "user and password for a broker, a line each; else FICKLE_USER and FICKLE_PASSWORD", 0},
    {"ca", CA, "FILE", 0, "whom to trust with mqtts://", 0},
    {"only", 'O', "NAMES", 0, "just these names, with commas between", 0},
    TOOL_READING_OPTIONS,
    {0}};

static void check(struct argp_state *state, const live_options *o)
{
    if (!o->common.gate)
        tool_wrong_use(state, "name a gate file");
    else if (o->common.recording && o->common.scene)
        tool_wrong_use(state, "name a source or give --scene, not both");
    else if (!o->common.recording && !o->common.scene)
        tool_wrong_use(state,
                       "say where readings come from: a serial device such as /dev/ttyACM0, - for standard input, hand "
                       "for keys, a recording, or --scene NAME");
    else if (o->common.recording && !strcmp(o->common.gate, "-") && !strcmp(o->common.recording, "-"))
        tool_wrong_use(state, "only one of the two can be standard input");
    else if (o->label_as && !o->common.save)
        tool_wrong_use(state, "--label-as needs a file for the labelled readings: --save notes.csv");
    else if (o->to && !strcmp(o->to, "-") && o->common.form != FORM_TEXT)
        tool_wrong_use(state, "--to - prints a line for each output; leave --as away");
}

static void add_topic(struct argp_state *state, live_options *o, const char *argument)
{
    const char *equals = strchr(argument, '=');
    if (!equals || equals == argument || !equals[1])
        tool_wrong_use(state, "--topic needs NAME=TOPIC, as in depth=garden/barrel/level, not '%s'", argument);
    if (o->topic_count == FG_BROKER_TOPICS_MOST)
        tool_wrong_use(state, "--topic can be given %d times at most", FG_BROKER_TOPICS_MOST);
    o->topics[o->topic_count++] = argument;
}

static error_t parse(int key, char *argument, struct argp_state *state)
{
    live_options *o = state->input;
    double number;
    if (tool_reading_option_of(&o->common, key, argument, state) == 0) return 0;
    switch (key) {
    case ARGP_KEY_INIT:
        o->baud = FG_BAUD_USUAL;
        o->speed = 1;
        return tool_begin(&o->common, state);
    case 'n': o->common.scene = argument; return 0;
    case 'O': o->common.only = argument; return 0;
    case 'k': o->common.save = argument; return 0;
    case LABEL_AS: o->label_as = argument; return 0;
    case TO: o->to = argument; return 0;
    case TOPIC: add_topic(state, o, argument); return 0;
    case LOGIN: o->login = argument; return 0;
    case CA: o->ca = argument; return 0;
    case COMPARE: o->common.compare = true; return 0;
    case BAUD:
        if (!tool_number(argument, 1e9, &number))
            tool_wrong_use(state, "--baud needs a speed, as in 115200, not '%s'", argument);
        o->baud = (uint32_t)number;
        return 0;
    case SPEED:
        if (!tool_number(argument, 1e6, &o->speed))
            tool_wrong_use(state, "--speed needs a number, as in 10, not '%s'", argument);
        return 0;
    case ARGP_KEY_ARG:
        if (!o->common.gate)
            o->common.gate = argument;
        else if (!o->common.recording)
            o->common.recording = tool_recording_named(state, &o->common, argument);
        else
            tool_wrong_use(state, "unexpected argument '%s'", argument);
        return 0;
    case ARGP_KEY_END: check(state, o); return 0;
    default: return ARGP_ERR_UNKNOWN;
    }
}

/* ---- what the run tells ---- */

static void on_tell(const live_session *s, const char *text)
{
    if (s->view)
        live_view_note(s->view, text);
    else if (!s->options->common.quiet)
        tool_say("%s: %s\n", s->name, text);
}

static bool on_broken(void *context, const fg_broken *broken)
{
    live_session *s = context;
    char *text = tool_broken_text(&s->file->program, broken, NULL);
    if (!text) return false;
    if (s->view) {
        text[strlen(text) - 1] = '\0'; /* its line end */
        live_view_note(s->view, text);
    } else {
        tool_say("%s", text);
    }
    free(text);
    return true;
}

/* Each line goes out whole as soon as it is known. */
static bool print_change(live_session *s, const fg_change *change)
{
    fg_memory_file line;
    if (!fg_memory_file_open(&line)) return false;
    s->changes.output = line.file;
    const bool printed = tool_changes_print(&s->changes, change);
    if (!fg_memory_file_close(&line)) return false;
    const fg_text text = {line.text, line.size};
    if (s->changes.form == FORM_TEXT)
        tool_output_show(text);
    else
        tool_text(stdout, text);
    const bool flushed = !text.size || tool_output_flush();
    free(line.text);
    return flushed && printed;
}

static bool prints(const live_session *s) { return !s->view && !(s->options->to && !strcmp(s->options->to, "-")); }

static bool on_change(void *context, const fg_change *change)
{
    live_session *s = context;
    if (s->way && fg_kind_is(change->declared->kind, FG_KIND_IS_OUTPUT))
        live_way_switch(s, change->declared->name, change->is);
    if (s->view) live_view_change(s->view, change);
    return prints(s) ? print_change(s, change) : true;
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count)
{
    live_session *s = context;
    (void)t_ms;
    if (s->watch) fg_watch_row(s->watch, cells, count);
    if (!s->keeper) return true;
    memcpy(s->kept, cells, count * sizeof *cells);
    s->kept[count] = s->label > 0 ? *s->labels[s->label] : (fg_text){0};
    fg_keep_row(s->keeper, s->kept);
    return true;
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    const live_session *s = context;
    (void)before;
    fg_watch_step(s->watch, run, t_ms);
    return true;
}

static bool on_said(void *context, const fg_said *said)
{
    live_session *s = context;
    char text[300];
    size_t known = 0;
    while (known < s->compared.count && s->compared.names[known].declared != said->declared) known++;
    const bool first = !said->agrees && (known == s->compared.count || !s->compared.names[known].said);
    if (first && tool_is_chosen(&s->changes.chosen, said->declared)) {
        snprintf(text, sizeof text, "%.3f s: of %.*s the board says %.*s, the gate %.*s: %.*s",
                 (double)said->t_ms / 1000, (int)said->declared->name.size, said->declared->name.at,
                 (int)said->said.size, said->said.at, (int)said->own.size, said->own.at, (int)said->because.size,
                 said->because.at);
        live_tell(s, text);
    }
    return fg_compared_add(&s->compared, said);
}

/* The file begins when it is known which columns there are. */
static bool on_columns(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    live_session *s = context;
    const live_options *o = s->options;
    if (!o->common.save) return true;
    s->kept = calloc(count + 1, sizeof *s->kept);
    if (!s->kept) return false;
    memcpy(s->kept, columns, count * sizeof *columns);
    if (o->label_as) s->kept[count] = fg_text_of(o->label_as);
    s->keeper = fg_keep_start(o->common.save, s->kept, count + (o->label_as != NULL), mistake);
    if (s->keeper) return true;
    tool_print_mistake(mistake);
    s->wrong = true;
    return false;
}

/* ---- the run ---- */

static void keep(live_session *s, int64_t now)
{
    char text[600];
    if (!s->keeper || fg_keep_until(s->keeper, now)) return;
    snprintf(text, sizeof text, "%.200s %.300s; the run goes on, and it is tried again",
             fg_keep_mistake(s->keeper)->file, fg_keep_mistake(s->keeper)->text);
    live_tell(s, text);
}

static bool on_turn(live_session *s, int64_t until_ms)
{
    enum { LONGEST_MS = 100 };
    int64_t now = live_clock(s), wait = LONGEST_MS;
    const int64_t due = s->kind == LIVE_PLAYED ? INT64_MAX : fg_live_next(s->live);
    if (!s->still && until_ms - now < wait) wait = until_ms - now;
    if (!s->still && due != INT64_MAX && due - now < wait) wait = due - now;
    struct pollfd from[] = {{live_source_handle(s), POLLIN, 0},
                            {s->view ? live_view_handle(s->view) : -1, POLLIN, 0},
                            {live_way_handle(s->way), POLLIN, 0}};
    const int ready = poll(from, 3, wait > 0 ? (int)wait : 0);
    if (tool_stopped || (ready < 0 && errno != EINTR)) return false;
    if (from[0].revents && !live_source_read(s)) return false;
    if (s->view) live_view_keys(s->view);
    now = tool_now();
    live_way_turn(s);
    if (!live_source_turn(s, now)) return false;
    /* While there is something to read nobody is silent, however long it takes to work it off. */
    if (!from[0].revents && s->kind != LIVE_PLAYED && !fg_live_until(s->live, live_clock(s))) return false;
    keep(s, now);
    if (s->view) live_view_draw(s->view);
    return !s->quits;
}

/* Until the source ends; what somebody looks at stays until the person has seen enough. */
static void go_on(live_session *s)
{
    if (s->kind == LIVE_PLAYED) s->wrong = !live_play(s);
    while (s->kind != LIVE_PLAYED && !s->over && on_turn(s, INT64_MAX)) continue;
    if (!s->view || s->quits || tool_stopped || s->wrong) return;
    live_tell(s, "that was the last reading; q ends");
    while (on_turn(s, INT64_MAX)) continue;
}

static void print_lines(const live_session *s)
{
    char a[64];
    const fg_live_lines lines = fg_live_line_counts(s->live);
    if (!lines.all) return;
    tool_say("%s: %s", s->name, tool_counted(lines.all, "line", a));
    if (lines.others) tool_say(", %s of them without readings", tool_grouped(lines.others, a));
    if (lines.torn) tool_say(", %s torn", tool_grouped(lines.torn, a));
    tool_say("\n");
}

static void print_unread(const live_session *s)
{
    for (uint32_t i = 0; i < s->file->program.declared_count; i++) {
        const fg_declared *d = &s->file->program.declared[i];
        if (!fg_program_reads(&s->file->program, d) || fg_live_was_read(s->live, d)) continue;
        tool_say("%s: no reading of %.*s came, so it was faulty throughout\n", s->name, (int)d->name.size, d->name.at);
    }
}

/* What was kept, and what to do with it. */
static int end_file(live_session *s)
{
    char room[64];
    const live_options *o = s->options;
    fg_mistake mistake;
    const uint64_t rows = s->keeper ? fg_keep_rows(s->keeper) : 0;
    const bool kept = s->keeper != NULL;
    const fg_status status = fg_keep_end(s->keeper, &mistake);
    s->keeper = NULL;
    if (status != FG_OK) tool_print_mistake(&mistake);
    if (kept && !o->common.quiet && status == FG_OK) {
        tool_say("%s: %s kept\n", o->common.save, tool_counted(rows, "row", room));
        if (o->label_as)
            tool_say("next: fickle tune %s %s --label %s\n", tool_path(o->common.gate), o->common.save, o->label_as);
    }
    return status == FG_OK ? EXIT_WELL : EXIT_WRONG;
}

static int report(live_session *s)
{
    const live_options *o = s->options;
    int status = s->wrong ? EXIT_WRONG : EXIT_WELL;
    if (!o->common.quiet) {
        print_lines(s);
        print_unread(s);
    }
    fg_live_end(s->live);
    s->live = NULL;
    const int kept = end_file(s);
    if (kept != EXIT_WELL) status = kept;
    if (o->common.compare && status == EXIT_WELL)
        return tool_compare_print(&o->common, &s->changes.chosen, &s->compared, &s->report, o->common.save);
    tool_print_report(&o->common, &s->report);
    return status == EXIT_WELL && s->report.broken ? EXIT_HELD_NOT : status;
}

/* Somebody looks where results go to a terminal, and nothing else was asked for. */
static bool wants_view(const live_session *s)
{
    return isatty(STDOUT_FILENO) && s->options->common.form == FORM_TEXT && prints(s);
}

static bool begin(live_session *s)
{
    const live_options *o = s->options;
    s->watch = fg_watch_start(&s->file->program);
    const fg_live_options how = {.reading = o->common.reading,
                                 .idle_ms = s->kind == LIVE_PLAYED ? 0 : LIVE_IDLE_MS,
                                 .leap_ms = s->kind == LIVE_SERIAL || s->kind == LIVE_BROKER ? LIVE_LEAP_MS : 0,
                                 .tell = live_tell,
                                 .context = s};
    static fg_replay_observer observer;
    observer = (fg_replay_observer){.context = s,
                                    .change = on_change,
                                    .row = on_row,
                                    .step = on_step,
                                    .columns = on_columns,
                                    .broken = on_broken,
                                    .said = o->common.compare ? on_said : NULL};
    if (s->watch) s->live = fg_live_start(&s->file->program, &how, &observer, &s->report);
    if (!s->live && !s->wrong) tool_no_memory();
    if (!s->live) return false;
    if (s->kind == LIVE_HAND && !live_hand_begin(s)) {
        tool_no_memory();
        return false;
    }
    if (wants_view(s)) s->view = live_view_start(s);
    if (s->kind == LIVE_HAND && !s->view) {
        tool_say("fickle: error: hand needs a terminal for its keys; --scene NAME plays readings without one\n");
        return false;
    }
    if (!s->view && o->label_as) live_tell(s, "there is no terminal, so no key gives a label");
    return true;
}

static int run(void *given, const fg_gate_file *file)
{
    const live_options *o = given;
    live_session s = {.tell = on_tell,
                      .turn = on_turn,
                      .options = o,
                      .file = file,
                      .changes = {.form = o->common.form, .all = o->common.verbose},
                      .stream = -1,
                      .label = -1};
    int status = EXIT_WRONG;
    if (!tool_names(&o->common, file, &s.changes.chosen)) return EXIT_WRONG;
    if (o->label_as && !live_labels_find(&s)) return EXIT_WRONG;
    if (!live_source_open(&s)) return EXIT_WRONG;
    tool_ends_itself = true;
    if (o->to) s.way = live_way_open(&s, o->to);
    if ((!o->to || s.way) && begin(&s)) {
        tool_changes_begin(&s.changes, &file->program);
        s.changes.output = stdout;
        if (prints(&s)) tool_changes_heading(&s.changes);
        (void)tool_output_flush();
        go_on(&s);
        live_way_end(&s);
        live_view_end(s.view);
        s.view = NULL;
        status = report(&s);
    }
    live_way_end(&s);
    live_view_end(s.view);
    fg_live_end(s.live);
    if (s.keeper) (void)end_file(&s);
    fg_watch_end(s.watch);
    fg_compared_end(&s.compared);
    live_source_close(&s);
    free(s.kept);
    tool_ends_itself = false;
    return status;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE [SOURCE]",
    .doc =
        "Lets readings go through a gate as they come, and shows what they make of it."
        "\vSOURCE is a serial device (/dev/ttyACM0), a broker (mqtt://HOST/TOPIC), - for standard input, hand for "
        "sensors that keys move, or a recording. A board prints a line for each reading, such as depth=12.5 wind=3; "
        "docs/boards.md has it in five "
        "lines of C. In a terminal there is a view, whose last line says its keys; elsewhere a line for each change. "
        "Ctrl-C ends it, and every output goes to its rest level."};

const tool_command command_live = {.name = "live",
                                   .use = "live GATE SOURCE",
                                   .line = "readings as they come, or moved by hand",
                                   .argp = &argp,
                                   .options_size = sizeof(live_options),
                                   .forms = LIVE_FORMS,
                                   .verbose = true,
                                   .promises = true,
                                   .run = run};
