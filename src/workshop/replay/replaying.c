/* SPDX-License-Identifier: MIT */
/* A recording through a gate on the simulated board: rows become readings, steps become reports of what changed. */
#include "workshop/replay/promises.h"
#include "workshop/replay/replaying.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* ---- rows ---- */

/* The first row sets the clock. */
static int64_t from_first(fg_replaying *r, int64_t t_ms)
{
    fg_player *p = &r->player;
    if (!p->began) {
        r->first_ms = t_ms;
        p->clock = (fg_time)(uint64_t)t_ms;
    }
    return t_ms - r->first_ms;
}

static bool is_behind(const fg_replaying *r, int64_t t_ms) { return r->readings->to_ms && t_ms > r->readings->to_ms; }

/* Plays up to a row; false if it is behind the part, or the observer has seen enough. */
static bool begin_row(fg_replaying *r, int64_t t_ms, uint64_t line)
{
    fg_player *p = &r->player;
    r->over = is_behind(r, t_ms);
    if (!fg_player_until(p, r->over && p->pace ? r->readings->to_ms + 1 : t_ms, line) || r->over) return false;
    fg_player_row(p, t_ms);
    return true;
}

/* Is a row the very next step, and within the part? */
static bool follows_on(const fg_replaying *r, int64_t t_ms, int64_t before_ms)
{
    const fg_player *p = &r->player;
    if (t_ms <= before_ms || t_ms - p->t_ms >= r->quiet.wants.until || is_behind(r, t_ms)) return false;
    return !p->pace || t_ms - before_ms == p->pace;
}

enum { PAUSE_MOST = 7 };

/* Before which row the stretch that begins here ends. */
static size_t end_of_stretch(fg_replaying *r, const fg_number_rows *rows, size_t from)
{
    enum { FIRST_LOOK = 64 };
    size_t to = from, timely = from;
    for (size_t look = FIRST_LOOK, most = from; to == most && to + 1 < rows->count; look *= 2) {
        most = rows->count - 1 - to < look ? rows->count - 1 : to + look;
        to += fg_quiet_rows(&r->quiet, rows, to, most);
    }
    for (int64_t before = r->player.t_ms; timely < to; timely++) {
        const int64_t t_ms = rows->t_ms[timely] - r->first_ms;
        if (!follows_on(r, t_ms, before)) break;
        before = t_ms;
    }
    if (timely > from && rows->t_ms[timely] == rows->t_ms[timely - 1]) timely--; /* both have one step */
    return timely;
}

static void feed(fg_replaying *r, size_t column, int32_t number, fg_time now)
{
    fg_run *run = r->player.run;
    const fg_input *input = &r->inputs[column];
    const uint16_t sensors = r->player.program->gate.size.sensors;
    if (input->number >= sensors)
        fg_feed_flag(run, (uint16_t)(input->number - sensors), number != 0, now);
    else if (input->counts)
        fg_feed_counts(run, input->number, number, now);
    else
        fg_feed(run, input->number, number, now);
}

static fg_time clock_of(const fg_replaying *r, int64_t t_ms)
{
    return r->player.clock + (fg_time)(t_ms - r->first_ms - r->player.t_ms);
}

static void step_inputs(fg_replaying *r, const fg_number_rows *rows, size_t row)
{
    const fg_time now = clock_of(r, rows->t_ms[row]);
    for (size_t k = 0; k < rows->width; k++) feed(r, k, rows->columns[k][row], now);
    fg_step_inputs(r->player.run, now);
}

/* The newest of the rows that are left out go into the windows, the last one into all else. */
static void fill_windows(fg_replaying *r, const fg_number_rows *rows, size_t from, size_t to)
{
    const fg_quiet *q = &r->quiet;
    const size_t last = to - 1, memory = (size_t)q->memory;
    const size_t first = to - from > memory ? to - memory : from;
    for (size_t i = q->remembered_count ? first : last; i < last; i++) {
        const fg_time now = clock_of(r, rows->t_ms[i]);
        for (uint16_t k = 0; k < q->remembered_count; k++) {
            const uint16_t sensor = q->remembered[k];
            const size_t column = q->column_of[sensor];
            if (column != FG_NO_COLUMN) feed(r, column, rows->columns[column][i], now);
            fg_step_sensor(r->player.run, sensor, now);
        }
    }
    step_inputs(r, rows, last);
}

/* Whoever looks at each step sees what sensors read in it; all else is as before. Says before which row that ends. */
static size_t tell_steps(fg_replaying *r, const fg_number_rows *rows, size_t from, size_t to)
{
    fg_player *p = &r->player;
    for (size_t i = from; i < to; i++) {
        step_inputs(r, rows, i);
        p->stopped = !p->observer->step(p->observer->context, p->run, p->changes.answers, rows->t_ms[i] - r->first_ms);
        if (p->stopped) return i + 1;
    }
    return to;
}

/* Leaves out the rows from this one on that change nothing, and says how many. The rows before it have had their
 * steps. */
static size_t leave_out(fg_replaying *r, const fg_number_rows *rows, size_t from)
{
    enum { WORTH_IT = 2 };
    fg_player *p = &r->player;
    fg_quiet *q = &r->quiet;
    const int64_t first = rows->t_ms[from] - r->first_ms;
    if (q->pause && q->pause--) return 0;
    /* Whoever looks at the part alone sees its first step worked out, and is told of promises that are broken in it. */
    if (!from || rows->count - from < WORTH_IT || p->t_ms < p->from_ms) return 0;
    if (p->pace && (p->next_ms != first || p->t_ms + p->pace != first)) return 0;
    if (p->promises && fg_promises_wait(p->promises)) return 0;
    size_t to = fg_quiet_find(q, rows, from - 1) ? end_of_stretch(r, rows, from) : from;
    if (to - from < WORTH_IT) {
        if (q->wants.why) p->report->busy = q->wants.why;
        q->pause = q->next_pause = q->next_pause < PAUSE_MOST ? 2 * q->next_pause + 1 : PAUSE_MOST;
        return 0;
    }
    q->next_pause = 0;
    if (p->observer->step)
        to = tell_steps(r, rows, from, to);
    else
        fill_windows(r, rows, from, to);
    fg_player_left_out(p, to - from, rows->t_ms[to - 1] - r->first_ms);
    return to - from;
}

bool fg_replaying_numbers(fg_replaying *r, const fg_number_rows *rows)
{
    for (size_t i = 0; i < rows->count; i++) {
        if (r->may_leave_out && r->player.began && !is_behind(r, rows->t_ms[i] - r->first_ms)) {
            if (!fg_player_until(&r->player, rows->t_ms[i] - r->first_ms, rows->line + i)) return false;
            i += leave_out(r, rows, i);
            if (r->player.stopped) return false;
        }
        if (!begin_row(r, from_first(r, rows->t_ms[i]), rows->line + i)) return false;
        for (size_t k = 0; k < rows->width; k++)
            if (rows->columns[k][i] != FG_NUMBER_NONE) fg_player_number(&r->player, &r->inputs[k], rows->columns[k][i]);
        if (!fg_player_row_ends(&r->player)) return false;
    }
    return true;
}

/* Where every cell is a reading, numbers will do. */
const fg_number_column *fg_replaying_wanted(fg_replaying *r)
{
    const fg_replay_observer *observer = r->player.observer;
    size_t count = 0;
    if (observer->row || observer->said) return NULL;
    r->wanted = calloc(r->column_count + 1, sizeof *r->wanted);
    r->inputs = calloc(r->column_count + 1, sizeof *r->inputs);
    if (!r->wanted || !r->inputs) return NULL; /* by cells then */
    for (size_t i = 0; i < r->column_count; i++) {
        const fg_input *input = &r->columns[i].input;
        if (!input->declared) continue;
        r->wanted[i] = (fg_number_column){.wanted = true,
                                          .is_flag = input->declared->kind == FG_KIND_FLAG,
                                          .decimals = input->counts ? 0 : input->declared->decimals};
        r->inputs[count++] = *input;
    }
    r->quiet = (fg_quiet){.wants.run = r->player.run, .beside = r->player.beside, .inputs = r->inputs, .width = count};
    r->may_leave_out = fg_quiet_start(&r->quiet) && !r->readings->options.row_by_row;
    return r->wanted;
}

bool fg_replaying_row(fg_replaying *r, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line)
{
    fg_player *p = &r->player;
    const int64_t now = from_first(r, t_ms);
    if (!begin_row(r, now, line)) return false;
    if (p->observer->row && !p->observer->row(p->observer->context, now, cells, count)) {
        p->stopped = true;
        return false;
    }
    for (size_t i = 0; i < count; i++) {
        if (r->columns[i].input.declared) fg_player_cell(p, &r->columns[i].input, cells[i], line);
        if (r->columns[i].said_of) fg_player_say(p, r->columns[i].said_of, cells[i], line);
    }
    return fg_player_row_ends(p);
}

void fg_replaying_last_steps(fg_replaying *r)
{
    fg_player *p = &r->player;
    if (!p->began || p->stopped) return;
    p->report->length_ms = r->over ? r->readings->to_ms : p->t_ms;
    if (!r->over) fg_player_last_step(p); /* the row behind the part has made its last step */
    if (!p->stopped && p->observer->end) p->observer->end(p->observer->context, p->run);
}

/* ---- the heading ---- */

/* Gives a column to its sensor or flag; each has one at most. */
static bool take_column(fg_replaying *r, size_t i, fg_text name, const fg_declared **owners, fg_mistake *mistake)
{
    fg_input input;
    if (!fg_player_input(&r->player, name, &input)) return true;
    if (input.counts && !r->player.program->gate.sensors[input.declared->index].scale_count) {
        fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                       "the column '%.*s' holds counts, but the sensor has no 'raw ... reads' to make units of them",
                       (int)name.size, name.at);
        return false;
    }
    if (owners[input.number]) {
        fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0, "'%.*s' has two columns; remove one of them",
                       (int)input.declared->name.size, input.declared->name.at);
        return false;
    }
    owners[input.number] = input.declared;
    r->columns[i].input = input;
    return true;
}

/* A column that nothing uses and that is called as this input, but for letter case, unit, or what stands around it. */
static fg_text column_like(const fg_replaying *r, const fg_text *columns, size_t count, fg_text name)
{
    fg_text best = {0}, unit;
    for (size_t i = 0; i < count; i++) {
        const fg_text bare = fg_column_name(columns[i], &unit);
        if (r->columns[i].input.declared) continue;
        if (fg_text_alike(bare, name)) return columns[i];
        for (size_t k = 0; !best.size && name.size > 2 && k + name.size <= bare.size; k++)
            if (fg_text_alike((fg_text){bare.at + k, name.size}, name)) best = columns[i];
    }
    return best;
}

static void note_unread(fg_replaying *r, const fg_text *columns, size_t count, const fg_declared *input)
{
    fg_replay_report *report = r->player.report;
    fg_list_name(report->unread, sizeof report->unread, input->name);
    if (report->unread_count++) return;
    fg_text_keep(report->unread_name, sizeof report->unread_name, input->name);
    const fg_text like = column_like(r, columns, count, input->name);
    if (like.size < sizeof report->unread_like) fg_text_keep(report->unread_like, sizeof report->unread_like, like);
}

bool fg_replaying_heading(fg_replaying *r, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    const fg_player *p = &r->player;
    const fg_declared **owners = calloc((size_t)p->sim.input_count + 1, sizeof(fg_declared *));
    r->columns = calloc(count, sizeof *r->columns);
    r->column_count = count;
    size_t said = 0;
    bool good = owners && r->columns;
    if (!good) fg_mistake_set(mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory for its columns");
    for (size_t i = 0; good && i < count; i++) {
        fg_replaying_column *c = &r->columns[i];
        fg_list_name(p->report->columns, sizeof p->report->columns, columns[i]);
        good = take_column(r, i, columns[i], owners, mistake);
        c->said_of = p->observer->said ? fg_player_said_of(p, columns[i]) : NULL;
        said += c->said_of != NULL;
        if (!c->input.declared && !c->said_of && fg_time_kind_of(columns[i]) == FG_TIME_NONE)
            fg_list_name(p->report->ignored, sizeof p->report->ignored, columns[i]);
    }
    uint32_t inputs = 0;
    for (uint32_t i = 0; good && i < p->program->declared_count; i++) {
        const fg_declared *d = &p->program->declared[i];
        if (!fg_program_reads(p->program, d)) continue;
        inputs++;
        if (owners[d->index + (d->kind == FG_KIND_FLAG ? p->program->gate.size.sensors : 0)]) continue;
        note_unread(r, columns, count, d);
    }
    if (good && p->report->unread_count == inputs) {
        fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                       "no column belongs to a sensor or flag of the gate; it has %s, the gate has %s",
                       p->report->columns, inputs ? p->report->unread : "none");
        good = false;
    }
    if (good && p->observer->said && !said) {
        fg_mistake_set(
            mistake, FG_ERROR_RECORDING, "", 0,
            "no column is named like a rule, count or output of the gate, so there is nothing to compare; it "
            "has %s",
            p->report->columns);
        good = false;
    }
    free(owners);
    return good && (!p->observer->columns || p->observer->columns(p->observer->context, columns, count, mistake));
}

void fg_replaying_note(fg_replaying *r, const char *text)
{
    fg_text_keep(r->player.report->note, sizeof r->player.report->note, (fg_text){text, strlen(text)});
}

/* ---- begin and end ---- */

fg_replaying fg_replaying_begin(const fg_program *program, const fg_readings *readings,
                                const fg_replay_observer *observer, fg_replay_report *report)
{
    *report = (fg_replay_report){0};
    return (fg_replaying){.player = {.program = program,
                                     .observer = observer,
                                     .report = report,
                                     .pace = readings->options.row_steps ? 0 : program->gate.every,
                                     .from_ms = readings->from_ms,
                                     .gap = readings->options.gap,
                                     .gap_context = readings->options.gap_context},
                          .readings = readings};
}

void fg_replaying_end(fg_replaying *r)
{
    free(r->columns);
    free(r->wanted);
    free(r->inputs);
    fg_quiet_end(&r->quiet);
    fg_player_end(&r->player);
}
