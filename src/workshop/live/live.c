/* SPDX-License-Identifier: MIT */
/* Rows of readings as they come, through a gate on the simulated board. */
#include "workshop/live/live.h"

#include <stdlib.h>
#include <string.h>

/* ---- the start ---- */

static void add_column(fg_live *l, const fg_declared *d)
{
    l->column_of[d - l->player.program->declared] = l->column_count;
    l->columns[l->column_count++] = d->name;
}

static bool make_columns(fg_live *l)
{
    const fg_program *program = l->player.program;
    const size_t most = (size_t)program->declared_count + 1;
    l->columns = calloc(most, sizeof *l->columns);
    l->cells = calloc(most, sizeof *l->cells);
    l->column_of = calloc(most, sizeof *l->column_of);
    l->held = calloc((size_t)l->player.sim.input_count + 1, sizeof *l->held);
    l->was_read = calloc((size_t)l->player.sim.input_count + 1, sizeof *l->was_read);
    l->converted = calloc((size_t)l->player.sim.input_count + 1, sizeof *l->converted);
    if (!l->columns || !l->cells || !l->column_of || !l->held || !l->was_read || !l->converted) return false;
    l->columns[l->column_count++] = fg_text_of("t_ms");
    for (uint32_t i = 0; i < program->declared_count; i++)
        if (fg_program_reads(l->player.program, &program->declared[i])) add_column(l, &program->declared[i]);
    for (uint32_t i = 0; l->player.sayings && i < program->declared_count; i++)
        if (fg_player_said_of(&l->player, program->declared[i].name)) add_column(l, &program->declared[i]);
    return true;
}

fg_live *fg_live_start(const fg_program *program, const fg_live_options *options, const fg_replay_observer *observer,
                       fg_replay_report *report)
{
    fg_live *l = calloc(1, sizeof *l);
    fg_mistake mistake = {0};
    *report = (fg_replay_report){0};
    if (!l) return NULL;
    l->options = *options;
    l->player = (fg_player){.program = program,
                            .observer = observer,
                            .report = report,
                            .pace = options->reading.row_steps ? 0 : program->gate.every};
    if (fg_player_start(&l->player) && make_columns(l) &&
        (!observer->columns || observer->columns(observer->context, l->columns, l->column_count, &mistake))) {
        l->only = fg_player_only(&l->player);
        return l;
    }
    fg_live_end(l);
    return NULL;
}

/* ---- rows ---- */

static uint16_t input_number(const fg_live *l, const fg_declared *d)
{
    return (uint16_t)(d->index + (d->kind == FG_KIND_FLAG ? l->player.program->gate.size.sensors : 0));
}

/* A row in counts is kept in units, which a recording of several names can have for all of them. */
static fg_text in_units(fg_live *l, const fg_input *input, fg_text cell)
{
    const fg_sensor *c = &l->player.program->gate.sensors[input->declared->index];
    fg_value counts, value;
    char *text = l->converted[input->number];
    if (fg_value_read(cell.at, cell.size, 0, &counts) != FG_OK) return cell;
    if (!fg_scale_value(c->scale, c->scale_count, counts, &value)) return fg_text_of("faulty");
    return (fg_text){text, fg_value_write(value, input->declared->decimals, text)};
}

static void begin_row(fg_live *l)
{
    for (size_t i = 0; i < l->column_count; i++) l->cells[i] = (fg_text){0};
}

/* What is held by hand is read anew with every row. */
static void add_held(fg_live *l)
{
    const fg_program *program = l->player.program;
    for (uint32_t i = 0; l->held_count && i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        if (!fg_program_reads(l->player.program, d)) continue;
        const char *value = l->held[input_number(l, d)];
        if (value) l->cells[l->column_of[i]] = fg_text_of(value);
    }
}

static void feed(fg_live *l)
{
    const fg_program *program = l->player.program;
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        const fg_text cell = l->column_of[i] ? l->cells[l->column_of[i]] : (fg_text){0};
        if (!cell.size) continue;
        if (fg_program_reads(l->player.program, d)) {
            const fg_input input = {.declared = d, .number = input_number(l, d)};
            l->was_read[input.number] = true;
            fg_player_cell(&l->player, &input, cell, l->line_number);
        } else {
            fg_player_say(&l->player, d, cell, l->line_number);
        }
    }
}

/* The cells are there; now it is played. */
static bool end_row(fg_live *l, int64_t t_ms, int64_t anchor_now)
{
    fg_player *p = &l->player;
    const fg_replay_observer *o = p->observer;
    add_held(l);
    if (!fg_player_until(p, t_ms, l->line_number)) return false;
    l->cells[0] = (fg_text){l->time, (size_t)snprintf(l->time, sizeof l->time, "%lld", (long long)t_ms)};
    fg_player_row(p, t_ms);
    if (o->row && !o->row(o->context, t_ms, l->cells, l->column_count)) return false;
    feed(l);
    l->clock.anchor_now = anchor_now;
    l->clock.anchor_ms = t_ms;
    l->clock.rows++;
    return fg_player_row_ends(p) && !fg_player_is_cut_short(p);
}

/* Another unit than the sensor's is told once, and one that changes makes a reading that is none. */
static fg_text in_own_unit(fg_live *l, fg_live_name *n, const fg_live_part *part)
{
    const fg_declared *d = n->input.declared;
    if (!part->unit.size) return part->value;
    const fg_text whole = {part->value.at, (size_t)(part->unit.at + part->unit.size - part->value.at)};
    if (!d) return whole;
    if (!n->unit) {
        n->unit = fg_c_string_of(part->unit);
        if (n->unit && d->unit.size && !n->input.counts && !fg_text_same(part->unit, d->unit))
            fg_live_tell(l,
                         "%.*s comes in %s, and its sensor is in %.*s; every number is taken as %.*s; write unit %s in "
                         "the gate, or let the board print %.*s",
                         (int)d->name.size, d->name.at, n->unit, (int)d->unit.size, d->unit.at, (int)d->unit.size,
                         d->unit.at, n->unit, (int)d->unit.size, d->unit.at);
    }
    return n->unit && fg_text_same(fg_text_of(n->unit), part->unit) ? part->value : whole;
}

static void take_part(fg_live *l, fg_live_name *n, const fg_live_part *part)
{
    const fg_declared *d = n->input.declared ? n->input.declared : n->said_of;
    if (!d) return;
    const size_t column = l->column_of[d - l->player.program->declared];
    l->cells[column] = in_own_unit(l, n, part);
    if (n->input.declared && n->input.counts) l->cells[column] = in_units(l, &n->input, l->cells[column]);
}

/* What the readings are called and where their times come from, the first time there is one. */
static void tell_form(fg_live *l, const fg_live_part *parts, size_t count, bool timed)
{
    char names[200] = "";
    size_t size = 0;
    for (size_t i = 0; i < count && size + 40 < sizeof names; i++) {
        const fg_live_name *n = fg_live_name_of(l, parts[i].name);
        if (!n || n->time != FG_TIME_NONE) continue;
        size += (size_t)snprintf(names + size, sizeof names - size, "%s%.*s", size ? ", " : "",
                                 (int)(parts[i].name.size < 30 ? parts[i].name.size : 30), parts[i].name.at);
    }
    l->told_form = true;
    fg_live_tell(l, "the first readings are of %s; their time is %s", names,
                 timed                      ? "the one that comes with them"
                 : l->options.reading.every ? "what --every says"
                                            : "that of arrival");
}

/* Rows come, and nothing in them is a sensor or flag of the gate. */
static void tell_strange(fg_live *l, const fg_live_part *parts, size_t count)
{
    enum { ENOUGH = 3 };
    char sent[200] = "", read[200] = "";
    size_t size = 0, more = 0;
    if (l->told_nothing || ++l->strange < ENOUGH) return;
    l->told_nothing = true;
    for (size_t i = 0; i < count && size + 40 < sizeof sent; i++)
        size += (size_t)snprintf(sent + size, sizeof sent - size, "%s%.*s", i ? ", " : "",
                                 (int)(parts[i].name.size < 30 ? parts[i].name.size : 30), parts[i].name.at);
    for (uint32_t i = 0; i < l->player.program->declared_count && more + 40 < sizeof read; i++) {
        const fg_declared *d = &l->player.program->declared[i];
        if (!fg_program_reads(l->player.program, d)) continue;
        more += (size_t)snprintf(read + more, sizeof read - more, "%s%.*s", more ? ", " : "",
                                 (int)(d->name.size < 30 ? d->name.size : 30), d->name.at);
    }
    fg_live_tell(l, "nothing that comes is a sensor or flag of the gate: it sends %s, the gate reads %s", sent, read);
}

bool fg_live_take(fg_live *l, const fg_live_part *parts, size_t count, fg_text clock, int64_t now_ms)
{
    fg_time_kind kind = clock.size ? FG_TIME_ANY : FG_TIME_NONE;
    fg_text written = clock;
    bool used = false;
    int64_t t_ms;
    begin_row(l);
    for (size_t i = 0; i < count; i++) {
        fg_live_name *n = fg_live_name_of(l, parts[i].name);
        if (!n) continue;
        if (n->time != FG_TIME_NONE && !clock.size) {
            const bool torn = parts[i].unit.size && !fg_text_is(parts[i].unit, n->time == FG_TIME_MS ? "ms" : "s");
            kind = n->time;
            written = torn ? (fg_text){"torn", 4} : parts[i].value;
        }
        used = used || n->input.declared || n->said_of;
        take_part(l, n, &parts[i]);
    }
    if (!used) {
        tell_strange(l, parts, count);
        return true;
    }
    if (!fg_live_row_time(l, kind, written, now_ms, &t_ms)) {
        l->lines.torn++;
        return true;
    }
    if (!l->told_form) tell_form(l, parts, count, written.size != 0);
    return end_row(l, t_ms, now_ms);
}

bool fg_live_row(fg_live *l, const fg_text *columns, const fg_text *cells, size_t count, int64_t t_ms)
{
    fg_live_clock *c = &l->clock;
    begin_row(l);
    for (size_t i = 0; i < count; i++) {
        fg_live_name *n = fg_live_name_of(l, columns[i]);
        if (n) take_part(l, n, &(fg_live_part){columns[i], fg_text_trimmed(cells[i]), {0}});
    }
    l->line_number++;
    if (!l->player.began) c->shift_ms = -t_ms;
    c->own = true;
    c->newest_ms = t_ms;
    return end_row(l, t_ms + c->shift_ms, t_ms + c->shift_ms);
}

/* ---- by hand ---- */

fg_status fg_live_hold(fg_live *l, const fg_declared *input, fg_text value)
{
    if (!fg_program_reads(l->player.program, input)) return FG_ERROR_ARGUMENT;
    char **held = &l->held[input_number(l, input)];
    char *copy = value.size ? fg_c_string_of(value) : NULL;
    if (value.size && !copy) return FG_ERROR_MEMORY;
    l->held_count += copy && !*held;
    l->held_count -= !copy && *held;
    free(*held);
    *held = copy;
    return FG_OK;
}

fg_text fg_live_held(const fg_live *l, const fg_declared *input)
{
    const char *held = fg_program_reads(l->player.program, input) ? l->held[input_number(l, input)] : NULL;
    return held ? fg_text_of(held) : (fg_text){0};
}

/* ---- time ---- */

/* How far apart rows are that nobody sent; 0: there are none. What is held by hand is read as often as a board reads.
 */
static int64_t idle_rows(const fg_live *l)
{
    if (!l->options.idle_ms) return 0;
    if (l->player.pace) return l->held_count ? l->player.pace : 0;
    return l->options.idle_ms;
}

/* When the next of them is; steps that are made already came before it. INT64_MAX: there is none. */
static int64_t next_idle_row(const fg_live *l)
{
    const fg_player *p = &l->player;
    const int64_t apart = idle_rows(l), next = p->t_ms + apart;
    if (!apart) return INT64_MAX;
    return p->pace && p->next_ms > next ? p->next_ms : next;
}

/* Where times come from the board, the clock of arrival counts only when it says nothing. */
static int64_t lag(const fg_live *l) { return l->clock.own ? 3 * (int64_t)l->options.idle_ms : 0; }

/* Lines that a board prints together may have the same time: so long another one is waited for. */
enum { TOGETHER_MS = 20 };

/* The step of the newest row is still to come, and the board's clock says when. */
static bool own_row_waits(const fg_live *l)
{
    const fg_player *p = &l->player;
    return l->clock.own && (p->pace ? p->next_ms <= p->t_ms : p->waits);
}

static int64_t greater(int64_t a, int64_t b) { return a > b ? a : b; }

static int64_t run_time(const fg_live *l, int64_t now_ms) { return l->clock.anchor_ms + now_ms - l->clock.anchor_now; }

bool fg_live_until_run(fg_live *l, int64_t t_ms)
{
    fg_player *p = &l->player;
    if (!p->began) return true;
    for (int64_t next = next_idle_row(l); next < t_ms; next = next_idle_row(l)) {
        begin_row(l);
        if (!end_row(l, next, l->clock.anchor_now + next - l->clock.anchor_ms)) return false;
    }
    if (t_ms > l->clock.reached_ms) l->clock.reached_ms = t_ms;
    return fg_player_until(p, t_ms, l->line_number) && !fg_player_is_cut_short(p);
}

bool fg_live_until(fg_live *l, int64_t now_ms)
{
    if (!l->player.began) {
        if (!l->held_count) return true;
        begin_row(l);
        return end_row(l, 0, now_ms);
    }
    if (l->clock.own && !l->options.idle_ms) return true;
    int64_t t_ms = run_time(l, now_ms - lag(l));
    if (own_row_waits(l) && now_ms - l->clock.anchor_now >= TOGETHER_MS) t_ms = greater(t_ms, l->player.t_ms + 1);
    return t_ms <= l->clock.reached_ms || fg_live_until_run(l, t_ms);
}

int64_t fg_live_next(const fg_live *l)
{
    const fg_player *p = &l->player;
    const int64_t idle = next_idle_row(l);
    int64_t next = INT64_MAX;
    if (!p->began) return l->held_count ? 0 : INT64_MAX;
    if (l->clock.own && !l->options.idle_ms) return INT64_MAX;
    if (p->pace) next = p->next_ms;
    if (!p->pace && p->waits) next = p->t_ms;
    if (idle < next) next = idle;
    if (own_row_waits(l)) return l->clock.anchor_now + TOGETHER_MS;
    return next == INT64_MAX ? next : l->clock.anchor_now + next + 1 - l->clock.anchor_ms + lag(l);
}

/* ---- what is at the moment ---- */

int64_t fg_live_time(const fg_live *l)
{
    if (!l->player.began) return -1;
    return l->clock.reached_ms > l->player.t_ms ? l->clock.reached_ms : l->player.t_ms;
}

const fg_run *fg_live_run(const fg_live *l) { return l->player.run; }

bool fg_live_was_read(const fg_live *l, const fg_declared *input)
{
    return fg_program_reads(l->player.program, input) && l->was_read[input_number(l, input)];
}

fg_text fg_live_because(fg_live *l, const fg_declared *declared)
{
    fg_player *p = &l->player;
    if (!p->changes.began) return (fg_text){0};
    p->because.size = 0;
    p->explainer.before = NULL;
    fg_explain(&p->explainer, declared, &p->because);
    return fg_buffer_text(&p->because);
}

fg_live_lines fg_live_line_counts(const fg_live *l) { return l->lines; }

/* ---- the end ---- */

/* Steps behind the last row are made again by whoever replays what was kept, if there is a row for them. */
static void keep_last_steps(fg_live *l)
{
    fg_player *p = &l->player;
    const fg_replay_observer *o = p->observer;
    const int64_t last = p->next_ms - p->pace;
    if (!p->began || p->stopped) return;
    if (!p->pace || p->next_ms <= p->t_ms)
        fg_player_last_step(p);
    else if (last > p->t_ms && o->row) {
        begin_row(l);
        l->cells[0] = (fg_text){l->time, (size_t)snprintf(l->time, sizeof l->time, "%lld", (long long)last)};
        (void)o->row(o->context, last, l->cells, l->column_count);
    }
    p->report->length_ms = last > p->t_ms ? last : p->t_ms;
}

void fg_live_end(fg_live *l)
{
    if (!l) return;
    if (l->column_count) keep_last_steps(l);
    fg_player_end(&l->player);
    fg_live_names_end(l);
    for (size_t i = 0; l->held && i <= l->player.sim.input_count; i++) free(l->held[i]);
    fg_buffer_free(&l->line);
    fg_buffer_free(&l->told);
    free(l->converted);
    free(l->heading);
    free(l->columns);
    free(l->cells);
    free(l->column_of);
    free(l->held);
    free(l->was_read);
    free(l);
}
