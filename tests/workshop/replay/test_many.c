/* SPDX-License-Identifier: MIT */
/* Several recordings and several devices: each comes out as if it were alone, and what was tried adds up. */
#include "../../support/case_file.h"
#include "../../support/suite.h"

#include <ficklegate/workshop.h>

#include <inttypes.h>
#include <stdatomic.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

static const char gates[2][500] = {
    "every 50ms\nsensor d { unit cm; step 0.1; mean 3; bridge 200ms; stale after 1s }\nflag k { settle 100ms }\n"
    "bands b from d { low | 20 | mid | 60 | high; margin 2; settle 100ms }\nlatch l { set when b is high; clear when k "
    "}\n"
    "count n { add when l; limit 0..9 }\nlamp red { on when l; on 20% if unsure }\n",
    "sensor d { unit cm; step 0.1; median 3 }\nflag k\nbands b from d { low 0..20; high over 30; settle 100ms }\n"
    "lamp red { follow d 0..100 when b is high for 200ms; on when k }\n"};

enum { DEVICES = 5, ROWS = 3000, TEXT = 1 << 20 };

typedef struct said {
    char *text;
    size_t size;
    fg_replay_report report;
    fg_coverage *coverage;
} said;

typedef struct fleet {
    said devices[DEVICES];
    size_t begun, ended;
} fleet;

static bool on_change(void *context, const fg_change *c)
{
    said *s = context;
    s->size += (size_t)snprintf(s->text + s->size, TEXT - s->size, "%" PRId64 " %.*s %.*s %.*s\n", c->t_ms,
                                (int)c->declared->name.size, c->declared->name.at, (int)c->is.size, c->is.at,
                                (int)c->because.size, c->because.at);
    ck_assert_uint_lt(s->size, TEXT - 1000);
    return true;
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    (void)before;
    (void)t_ms;
    fg_coverage_step(((said *)context)->coverage, run);
    return true;
}

static bool on_device(void *context, fg_text name, size_t number, fg_replay_observer *observer)
{
    fleet *f = context;
    ck_assert_uint_eq(number, f->begun++);
    ck_assert_uint_eq(name.size, 1);
    *observer = (fg_replay_observer){.context = &f->devices[name.at[0] - 'A'], .change = on_change, .step = on_step};
    return true;
}

static void on_end(void *context, size_t number, const fg_replay_report *report)
{
    fleet *f = context;
    ck_assert_uint_eq(number, f->ended++);
    f->devices['E' - 'A' - number].report = *report; /* they are named from behind */
}

static uint32_t state;

static uint32_t dice(uint32_t sides)
{
    state = state * 1664525u + 1013904223u;
    return (state >> 8) % sides;
}

/* Rows of all devices in turn, in `all`, and of each alone. The clock of C wraps, that of D begins anew behind a
 * heading that comes again. */
static void make_up(const char *all, char paths[DEVICES][40])
{
    FILE *files[DEVICES], *together = fopen(all, "w");
    int64_t t[DEVICES] = {0, 50, 4294900000, 700, 100000};
    int32_t d[DEVICES] = {0};
    fputs("t_ms,who,d,k\n", together);
    for (int i = 0; i < DEVICES; i++) fputs("t_ms,d,k\n", files[i] = fopen(paths[i], "w"));
    for (int row = 0; row < ROWS; row++) {
        const int i = row < DEVICES ? DEVICES - 1 - row : (int)dice(DEVICES);
        char cells[60];
        if (row == ROWS / 2) {
            fputs("t_ms,who,d,k\n", together);
            for (int k = 0; k < DEVICES; k++) fputs("t_ms,d,k\n", files[k]);
            t[3] = 0;
        }
        if (dice(4)) t[i] += 50 + 25 * (int64_t)dice(3);
        if (!dice(30)) d[i] = (int32_t)dice(900);
        if (i == 2 && t[i] >= (int64_t)1 << 32) t[i] -= (int64_t)1 << 32;
        snprintf(cells, sizeof cells, "%s%d.%d%s,%s\n", dice(20) ? "" : "x", d[i] / 10, d[i] % 10, dice(9) ? "" : "7",
                 dice(3)   ? ""
                 : dice(2) ? "1"
                           : "no");
        fprintf(together, "%" PRId64 ",%c,%s", t[i], 'A' + i, cells);
        fprintf(files[i], "%" PRId64 ",%s", t[i], cells);
    }
    for (int i = 0; i < DEVICES; i++) fclose(files[i]);
    fclose(together);
}

START_TEST(test_devices)
{
    char all[] = "/tmp/fickle-fleet-XXXXXX", paths[DEVICES][40];
    fg_gate_file gate;
    fg_mistake mistake;
    fleet together = {0}, alone = {0};
    state = (uint32_t)_i;
    close(mkstemp(all));
    for (int i = 0; i < DEVICES; i++) snprintf(paths[i], sizeof paths[i], "%s.%d", all, i);
    ck_assert_int_eq(fg_gate_file_of_text(&gate, "fleet.gate", fg_text_of(gates[_i & 1]), (fg_settings){0}, &mistake),
                     FG_OK);
    make_up(all, paths);
    for (int i = 0; i < DEVICES; i++)
        for (int k = 0; k < 2; k++) {
            said *s = k ? &alone.devices[i] : &together.devices[i];
            s->text = calloc(TEXT, 1);
            s->coverage = fg_coverage_start(&gate.program);
            ck_assert(s->text && s->coverage);
        }
    const fg_readings readings = {
        .recording = all, .options = {.by = "who"}, .from_ms = _i % 3 * 4000, .to_ms = _i % 2 * 30000};
    const fg_devices_observer observer = {.context = &together, .begin = on_device, .end = on_end};
    ck_assert_msg(fg_replay_devices(&gate.program, &readings, &observer, &mistake) == FG_OK, "%s", mistake.text);
    ck_assert_uint_eq(together.ended, DEVICES);
    for (int i = 0; i < DEVICES; i++) {
        said *a = &alone.devices[i], *b = &together.devices[i];
        const fg_readings own = {.recording = paths[i], .from_ms = readings.from_ms, .to_ms = readings.to_ms};
        const fg_replay_observer change = {.context = a, .change = on_change, .step = on_step};
        uint64_t tried[2], of;
        ck_assert_int_eq(fg_replay(&gate.program, &own, &change, &a->report, &mistake), FG_OK);
        ck_assert_str_eq(b->text, a->text);
        ck_assert_uint_gt(a->size, 1000);
        ck_assert_uint_eq(b->report.rows, a->report.rows);
        ck_assert_uint_eq(b->report.steps, a->report.steps);
        ck_assert_uint_eq(b->report.changes, a->report.changes);
        ck_assert_uint_eq(b->report.faulty_steps, a->report.faulty_steps);
        ck_assert_uint_eq(b->report.unreadable, a->report.unreadable);
        ck_assert_int_eq(b->report.length_ms, a->report.length_ms);
        fg_coverage_count(a->coverage, &tried[0], &of);
        fg_coverage_count(b->coverage, &tried[1], &of);
        ck_assert_uint_eq(tried[0], tried[1]);
        unlink(paths[i]);
    }
    for (int i = 0; i < DEVICES; i++)
        for (int k = 0; k < 2; k++) {
            said *s = k ? &alone.devices[i] : &together.devices[i];
            free(s->text);
            fg_coverage_end(s->coverage);
        }
    fg_gate_file_close(&gate);
    unlink(all);
}
END_TEST

/* ---- several gates at once ---- */

START_TEST(test_together)
{
    enum { GATES = 4 };
    static const char text[] =
        "number cut = 20 cm\nevery 50ms\nsensor d { unit cm; step 0.1; mean 3; stale after 1s }\n"
        "flag k\nbands b from d { low | cut | high; margin 2; settle 100ms }\n"
        "lamp red { on when b is high; on 20% if unsure }\n";
    static const char *const values[GATES] = {"10 cm", "20 cm", "45.5 cm", "60 cm"};
    char all[] = "/tmp/fickle-fleet-XXXXXX", paths[DEVICES][40];
    fg_gate_file gates_at[GATES];
    fg_setting settings[GATES];
    const fg_program *programs[GATES];
    fg_replay_observer observers[GATES];
    fg_replay_report reports[GATES];
    fg_mistake mistake;
    said together[GATES] = {{0}}, alone = {.text = calloc(TEXT, 1)};
    state = (uint32_t)_i;
    close(mkstemp(all));
    for (int i = 0; i < DEVICES; i++) snprintf(paths[i], sizeof paths[i], "%s.%d", all, i);
    make_up(all, paths);
    for (int i = 0; i < GATES; i++) {
        settings[i] = (fg_setting){fg_text_of("cut"), fg_text_of(values[i])};
        ck_assert_int_eq(fg_gate_file_of_text(&gates_at[i], "a.gate", fg_text_of(text),
                                              (fg_settings){.at = &settings[i], .count = 1}, &mistake),
                         FG_OK);
        programs[i] = &gates_at[i].program;
        together[i].text = calloc(TEXT, 1);
        together[i].coverage = fg_coverage_start(programs[i]);
        observers[i] = (fg_replay_observer){
            .context = &together[i], .change = on_change, .without_reasons = _i & 1, .step = _i & 2 ? on_step : NULL};
    }
    const fg_readings readings = {.recording = paths[1], .from_ms = _i / 4 * 3000, .to_ms = _i / 4 * 20000};
    ck_assert_msg(fg_replay_together(programs, observers, GATES, &readings, reports, &mistake) == FG_OK, "%s",
                  mistake.text);
    for (int i = 0; i < GATES; i++) {
        fg_replay_report report;
        alone.size = 0;
        alone.coverage = together[i].coverage;
        fg_replay_observer observer = observers[i];
        observer.context = &alone;
        ck_assert_int_eq(fg_replay(programs[i], &readings, &observer, &report, &mistake), FG_OK);
        ck_assert_str_eq(together[i].text, alone.text);
        ck_assert_uint_gt(alone.size, 500);
        ck_assert_int_eq(strstr(alone.text, " cm is ") == NULL, _i & 1);
        ck_assert_uint_eq(report.rows, reports[i].rows);
        ck_assert_uint_eq(report.steps, reports[i].steps);
        ck_assert_uint_eq(report.changes, reports[i].changes);
        ck_assert_uint_eq(report.unreadable, reports[i].unreadable);
        ck_assert_int_eq(report.length_ms, reports[i].length_ms);
        if (i) ck_assert_str_ne(together[i].text, together[i - 1].text);
    }
    for (int i = 0; i < GATES; i++) {
        free(together[i].text);
        fg_coverage_end(together[i].coverage);
        fg_gate_file_close(&gates_at[i]);
    }
    for (int i = 0; i < DEVICES; i++) unlink(paths[i]);
    free(alone.text);
    unlink(all);
}
END_TEST

/* One that has seen enough ends all: at that step where they are played beside each other, else with the row at hand.
 */
typedef struct enough {
    uint64_t changes, most;
    int64_t last_ms;
} enough;

static bool on_enough(void *context, const fg_change *c)
{
    enough *e = context;
    e->last_ms = c->t_ms;
    return ++e->changes < e->most;
}

START_TEST(test_together_ends)
{
    enum { GATES = 3, SEEN = 7 };
    static const char *const values[GATES] = {"1 cm", "3 cm", "5 cm"};
    const fg_readings readings = {.recording = "a.csv",
                                  .options.text = fg_text_of("t_ms,d\n0,0\n100,6\n200,0\n300,6\n"
                                                             "400,0\n500,6\n600,0\n700,6\n")};
    fg_gate_file gates_at[GATES];
    fg_setting settings[GATES];
    const fg_program *programs[GATES];
    fg_replay_observer observers[GATES];
    fg_replay_report reports[GATES];
    enough of[GATES];
    fg_mistake mistake;
    for (int i = 0; i < GATES; i++) {
        settings[i] = (fg_setting){fg_text_of("cut"), fg_text_of(values[i])};
        ck_assert_int_eq(fg_gate_file_of_text(&gates_at[i], "a.gate",
                                              fg_text_of("number cut = 2 cm\nsensor d { unit cm }\n"
                                                         "threshold deep from d { over cut }\n"),
                                              (fg_settings){.at = &settings[i], .count = 1}, &mistake),
                         FG_OK);
        programs[i] = &gates_at[i].program;
        of[i] = (enough){.most = i == _i % GATES ? SEEN : UINT64_MAX};
        observers[i] =
            (fg_replay_observer){.context = &of[i], .change = on_enough, .without_reasons = i < GATES - _i / GATES};
    }
    ck_assert_int_eq(fg_replay_together(programs, observers, GATES, &readings, reports, &mistake), FG_OK);
    ck_assert_uint_eq(of[_i % GATES].changes, SEEN);
    for (int i = 0; i < GATES; i++) {
        ck_assert_int_le(of[i].last_ms, of[_i % GATES].last_ms + (_i < GATES ? 0 : 100));
        ck_assert_uint_eq(reports[i].changes, of[i].changes);
        fg_gate_file_close(&gates_at[i]);
    }
    ck_assert_int_lt(of[_i % GATES].last_ms, 700);
}
END_TEST

/* ---- what is wrong with devices ---- */

static const struct {
    const char *recording, *mistake;
    uint64_t line;
} torn[] = {
    {"t_ms,d\n0,1\n", "there is no column 'who' to tell devices apart; it has t_ms, d", 1},
    {"who,d\n0,1\n", "there is no heading with a time column", 1},
    {"t_ms,who,d\n0,A,1\n1,,2\n", "this row does not say which device it is of: its 'who' is empty", 3},
    {"t_ms,who,d\n5,A,1\n9,B,1\n6,A,2\n8,B,1\n", "the time goes backwards here: 8 ms after 9 ms", 5},
    {"t_ms,who,x\n0,A,1\n", "no column belongs to a sensor or flag of the gate", 1},
    {"t_ms,who,d,d.raw\n0,A,1,1\n", "the column 'd.raw' holds counts", 1},
    {"t_ms,who,d\n", "has a heading but no rows", 0},
    {"{\"t_ms\":0,\"who\":\"A\",\"d\":1}\n{\"t_ms\":1,\"d\":1}\n",
     "this row does not say which device it is of: its 'who' is empty", 2},
};

START_TEST(test_devices_torn)
{
    char path[] = "/tmp/fickle-fleet-XXXXXX";
    fg_gate_file gate;
    fg_mistake mistake;
    fleet f = {0};
    for (int i = 0; i < DEVICES; i++) {
        f.devices[i].text = calloc(TEXT, 1);
        ck_assert_ptr_nonnull(f.devices[i].text);
    }
    ck_assert_int_eq(fg_gate_file_of_text(&gate, "a.gate", fg_text_of(gates[1]), (fg_settings){0}, &mistake), FG_OK);
    for (int i = 0; i < DEVICES; i++) f.devices[i].coverage = fg_coverage_start(&gate.program);
    close(mkstemp(path));
    write_whole(path, torn[_i].recording, strlen(torn[_i].recording));
    const fg_readings readings = {.recording = path, .options = {.by = "who"}};
    const fg_devices_observer observer = {.context = &f, .begin = on_device, .end = on_end};
    ck_assert_int_eq(fg_replay_devices(&gate.program, &readings, &observer, &mistake), FG_ERROR_RECORDING);
    ck_assert_msg(strstr(mistake.text, torn[_i].mistake), "%s", mistake.text);
    ck_assert_uint_eq(mistake.line, torn[_i].line);
    ck_assert_str_eq(mistake.file, path);
    ck_assert_uint_eq(f.ended, 0);
    for (int i = 0; i < DEVICES; i++) {
        free(f.devices[i].text);
        fg_coverage_end(f.devices[i].coverage);
    }
    fg_gate_file_close(&gate);
    unlink(path);
}
END_TEST

/* ---- jobs ---- */

enum { PIECES = 300 };

typedef struct order {
    atomic_uint done[PIECES], at_work, most;
    unsigned told, ends_at;
} order;

static void work(void *context, unsigned number, fg_progress progress)
{
    order *o = context;
    const unsigned now = atomic_fetch_add(&o->at_work, 1) + 1;
    unsigned most = atomic_load(&o->most);
    while (now > most && !atomic_compare_exchange_weak(&o->most, &most, now)) continue;
    if (progress.tell) progress.tell(progress.context, 0, 1, 2);
    usleep(number * 7919 % 400);
    atomic_fetch_add(&o->done[number], 1);
    atomic_fetch_sub(&o->at_work, 1);
}

static bool tell(void *context, unsigned number)
{
    order *o = context;
    ck_assert_uint_eq(number, o->told);
    ck_assert_uint_eq(atomic_load(&o->done[number]), 1);
    for (unsigned i = number + 17; i < PIECES; i++) /* of 8 jobs no more than 16 wait */
        ck_assert_uint_eq(atomic_load(&o->done[i]), 0);
    return ++o->told != o->ends_at;
}

static void on_progress(void *context, uint64_t ended, uint64_t done, uint64_t all)
{
    ck_assert_uint_le(ended, PIECES);
    ck_assert_uint_le(done, all);
    if (ended == PIECES) ck_assert_uint_eq(done, all);
    (*(unsigned *)context)++;
}

START_TEST(test_jobs)
{
    static const unsigned ends[] = {0, 1, 100};
    static order o;
    unsigned heard = 0;
    memset(&o, 0, sizeof o);
    o.ends_at = ends[_i];
    const fg_jobs jobs = {
        .count = PIECES, .jobs = 8, .context = &o, .work = work, .tell = tell, .progress = {&heard, on_progress}};
    ck_assert(fg_jobs_run(&jobs));
    ck_assert_uint_eq(o.told, ends[_i] ? ends[_i] : PIECES);
    ck_assert_uint_le(atomic_load(&o.most), 8);
    ck_assert_uint_gt(heard, 0);
    for (unsigned i = 0; i < o.told; i++) ck_assert_uint_eq(atomic_load(&o.done[i]), 1);
}
END_TEST

/* ---- coverage that adds up ---- */

START_TEST(test_coverage_adds_up)
{
    static const char *const rows[] = {
        "t_ms,d,k\n0,5,0\n100,5,0\n200,31.1,0\n300,31.1,0\n500,31.1,0\n800,31.1,0\n900,31.1,0\n",
        "t_ms,d,k\n0,30,no\n100,20,x\n200,20,1\n"};
    char path[] = "/tmp/fickle-covered-XXXXXX";
    fg_gate_file gate;
    fg_mistake mistake;
    fg_replay_report report;
    said s[2] = {{0}};
    uint64_t tried[3], all;
    ck_assert_int_eq(fg_gate_file_of_text(&gate, "a.gate", fg_text_of(gates[1]), (fg_settings){0}, &mistake), FG_OK);
    close(mkstemp(path));
    for (int i = 0; i < 2; i++) {
        s[i].coverage = fg_coverage_start(&gate.program);
        write_whole(path, rows[i], strlen(rows[i]));
        const fg_replay_observer observer = {.context = &s[i], .step = on_step};
        ck_assert_int_eq(fg_replay(&gate.program, &(fg_readings){.recording = path}, &observer, &report, &mistake),
                         FG_OK);
        fg_coverage_count(s[i].coverage, &tried[i], &all);
    }
    ck_assert_int_eq(fg_coverage_save(s[0].coverage, path, &mistake), FG_OK);
    char *text = read_whole(path, NULL);
    ck_assert_ptr_nonnull(strstr(text, "name,situation,tried\nd,faulty,no\n"));
    ck_assert_ptr_nonnull(strstr(text, "\nb,low,yes\n"));
    ck_assert_ptr_nonnull(strstr(text, "\nred,row 1,yes\n"));
    ck_assert_int_eq(fg_coverage_load(s[1].coverage, path, &mistake), FG_OK);
    fg_coverage_add(s[0].coverage, s[1].coverage); /* which has both now */
    fg_coverage_count(s[0].coverage, &tried[2], &all);
    ck_assert_uint_gt(tried[2], tried[0]);
    ck_assert_uint_gt(tried[2], tried[1]);
    fg_coverage_count(s[1].coverage, &tried[0], &all);
    ck_assert_uint_eq(tried[0], tried[2]);
    /* behind one another, as a spreadsheet writes line ends; a mistake changes nothing */
    fg_coverage *fresh = fg_coverage_start(&gate.program);
    FILE *out = fopen(path, "w");
    fprintf(out, "%s\r\n%sred,row 2,yes\r\nred,row 3,yes\n", text, text);
    fclose(out);
    ck_assert_int_eq(fg_coverage_load(fresh, path, &mistake), FG_ERROR_RECORDING);
    ck_assert_msg(strstr(mistake.text, "'red,row 3,yes' is no situation of this gate"), "%s", mistake.text);
    fg_coverage_count(fresh, &tried[0], &all);
    ck_assert_uint_eq(tried[0], 0);
    fg_coverage_end(fresh);
    free(text);
    for (int i = 0; i < 2; i++) fg_coverage_end(s[i].coverage);
    fg_gate_file_close(&gate);
    unlink(path);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_loop_test(tests, test_devices, 0, 6);
    tcase_add_loop_test(tests, test_together, 0, 8);
    tcase_add_loop_test(tests, test_together_ends, 0, 6);
    tcase_add_loop_test(tests, test_devices_torn, 0, COUNT_OF(torn));
    tcase_add_loop_test(tests, test_jobs, 0, 3);
    tcase_add_test(tests, test_coverage_adds_up);
}

int main(void) { return run_suite("many", fill); }
