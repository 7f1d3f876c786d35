/* SPDX-License-Identifier: MIT */
/* A gate on the simulated board: steps are made when they are due, and become reports of what changed. */
#include "workshop/replay/player.h"

#include "workshop/replay/promises.h"
#include "workshop/replay/report.h"

#include <stdlib.h>
#include <string.h>

/* ---- reports ---- */

/* What comes before the part is played without a word. */
static bool is_told(const fg_player *p, int64_t t_ms) { return t_ms >= p->from_ms; }

static bool report_change(fg_player *p, fg_change *change)
{
    p->report->changes++;
    if (!p->observer->change) return true;
    p->because.size = 0;
    if (!p->observer->without_reasons) fg_explain(&p->explainer, change->declared, &p->because);
    change->because = fg_buffer_text(&p->because);
    if (p->because.full || p->changes.text.full) return false;
    return p->observer->change(p->observer->context, change);
}

static bool report_changes(fg_player *p, int64_t t_ms)
{
    const bool told = is_told(p, t_ms);
    p->explainer.before = p->changes.began ? p->changes.answers : NULL;
    for (uint32_t i = 0; i < p->program->declared_count; i++) {
        const fg_declared *d = &p->program->declared[i];
        fg_change change = {.t_ms = t_ms};
        const bool changed = fg_changes_of(&p->changes, d, &change);
        if (changed && told && !report_change(p, &change)) return false;
        if (p->beside && !fg_beside_tell(p->beside, i, changed ? &change : NULL, t_ms, told)) return false;
        if (changed) fg_changes_told(&p->changes, d);
    }
    fg_changes_all_told(&p->changes);
    if (p->beside) fg_beside_all_told(p->beside);
    return true;
}

static void count_faulty(fg_player *p)
{
    const fg_gate *gate = &p->program->gate;
    for (uint16_t i = 0; i < gate->size.sensors; i++) {
        const fg_sensor_state *state = fg_sensor_at(p->run, i);
        p->report->faulty_steps += !state->ok;
        p->report->zeros_missed += state->zero_missed;
    }
    for (uint16_t i = 0; i < gate->size.flags; i++)
        p->report->faulty_steps += fg_flag_at(p->run, i)->bridged == FG_UNSURE;
}

static void count_refused(fg_player *p, int64_t t_ms)
{
    for (uint16_t i = 0; i < p->program->gate.size.pulses; i++) {
        bool spent;
        const bool refused = fg_changes_refused(&p->changes, i, &spent) && is_told(p, t_ms);
        if (refused) fg_report_refused(p->report, p->program, i, spent, t_ms);
        if (p->beside) fg_beside_refused(p->beside, i, refused, spent, is_told(p, t_ms), t_ms);
    }
}

/* ---- what a board said ---- */

static fg_text own_text(fg_player *p, const fg_declared *d, char *digits)
{
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) return fg_changes_output(&p->changes, d->index);
    if (d->kind == FG_KIND_COUNT) return (fg_text){digits, fg_value_write(fg_count_value(p->run, d->index), 0, digits)};
    return fg_answer_text(d, fg_answer(p->run, d->slot));
}

static bool agrees(const fg_player *p, const fg_declared *d, fg_text said, fg_text own)
{
    bool yes;
    fg_value count;
    if (fg_text_same(said, own)) return true;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT | FG_KIND_LABELS)) return false;
    if (d->kind == FG_KIND_COUNT)
        return fg_value_read(said.at, said.size, 0, &count) == FG_OK && count == fg_count_value(p->run, d->index);
    return fg_flag_word(said, &yes) && fg_answer(p->run, d->slot) == (yes ? FG_YES : FG_NO);
}

/* Holds what the newest row said against the step that was made last. */
static bool tell_said(fg_player *p, bool between)
{
    for (uint32_t i = 0; i < p->program->declared_count; i++) {
        fg_saying *s = &p->sayings[i];
        const fg_declared *d = &p->program->declared[i];
        char digits[FG_VALUE_TEXT_SIZE];
        if (!s->text.size) continue;
        fg_said said = {.t_ms = p->t_ms, .line = s->line, .declared = d, .said = fg_buffer_text(&s->text)};
        said.between = between;
        said.own = own_text(p, d, digits);
        said.agrees = agrees(p, d, said.said, said.own);
        p->because.size = 0;
        p->explainer.before = p->changes.began ? p->changes.answers : NULL;
        if (!said.agrees) fg_explain(&p->explainer, d, &p->because);
        said.because = fg_buffer_text(&p->because);
        if (p->because.full || p->changes.text.full) return false;
        if (!p->observer->said(p->observer->context, &said)) return false;
        s->text.size = 0;
    }
    return true;
}

void fg_player_say(fg_player *p, const fg_declared *of, fg_text said, uint64_t line)
{
    said = fg_text_trimmed(said);
    if (!p->sayings || !said.size || !is_told(p, p->t_ms)) return;
    fg_saying *s = &p->sayings[of - p->program->declared];
    s->text.size = 0;
    s->line = line;
    fg_buffer_add(&s->text, said);
    p->because.full = p->because.full || s->text.full; /* which ends it */
}

/* ---- promises ---- */

static bool on_broken(void *context, const fg_broken *broken)
{
    fg_player *p = context;
    p->report->broken++;
    return !p->observer->broken || p->observer->broken(p->observer->context, broken);
}

static bool keep_promises(fg_player *p, int64_t t_ms)
{
    const fg_promises_told told = {.run = p->run,
                                   .explainer = &p->explainer,
                                   .because = &p->because,
                                   .written = &p->changes.text,
                                   .context = p,
                                   .broken = is_told(p, t_ms) ? on_broken : NULL};
    p->explainer.before = p->changes.began ? p->changes.answers : NULL;
    return fg_promises_step(p->promises, &told, t_ms);
}

/* ---- steps ---- */

/* `t_ms` from the first row, at which the board's clock says `now`. */
static bool step_at(fg_player *p, int64_t t_ms, fg_time now)
{
    fg_changes_keep(&p->changes);
    p->sim.now = now;
    (void)fg_port_step(&p->port, p->run);
    if (p->beside) fg_beside_step(p->beside, p->run);
    count_refused(p, t_ms);
    if (is_told(p, t_ms)) {
        p->report->steps++;
        count_faulty(p);
    }
    const bool quiet = !fg_changes_any(&p->changes) && !(p->beside && fg_beside_any(p->beside));
    bool go_on = quiet || report_changes(p, t_ms);
    if (go_on && p->promises) go_on = keep_promises(p, t_ms);
    if (go_on && p->observer->step)
        go_on = p->observer->step(p->observer->context, p->run, p->changes.began ? p->changes.answers : NULL, t_ms);
    if (go_on && p->sayings && t_ms == p->t_ms) go_on = tell_said(p, false);
    p->changes.began = true;
    p->waits = false;
    p->stopped = !go_on;
    return go_on;
}

/* Where steps are rows, the clock stops after 24 days without one: no wait is longer, and its 32 bits hold no more. */
static fg_time clock_after(const fg_player *p, int64_t passed)
{
    return p->clock + (fg_time)(!p->pace && passed > FG_TIME_MOST ? FG_TIME_MOST : passed);
}

bool fg_player_until(fg_player *p, int64_t t_ms, uint64_t line)
{
    enum { OFTEN = 1 << 16 };
    if (!p->pace) return !p->waits || t_ms <= p->t_ms || step_at(p, p->t_ms, p->clock);
    const uint64_t steps = t_ms > p->next_ms ? (uint64_t)(t_ms - p->next_ms + p->pace - 1) / p->pace : 0;
    if (steps > FG_GAP_STEPS && p->gap) p->gap(p->gap_context, line, t_ms - p->t_ms, steps);
    for (uint64_t step = 1; p->next_ms < t_ms; p->next_ms += p->pace, step++) {
        if (!step_at(p, p->next_ms, p->clock + (fg_time)(p->next_ms - p->t_ms))) return false;
        if (step % OFTEN == 0 && p->observer->progress.tell)
            p->observer->progress.tell(p->observer->progress.context, p->report->rows, step, steps);
    }
    return true;
}

void fg_player_row(fg_player *p, int64_t t_ms)
{
    p->began = true;
    p->waits = true;
    p->clock = clock_after(p, t_ms - p->t_ms);
    p->t_ms = t_ms;
}

/* ---- rows ---- */

static bool read_flag(fg_text cell, int32_t *value)
{
    bool yes;
    if (!fg_flag_word(cell, &yes)) return false;
    *value = yes;
    return true;
}

void fg_player_cell(fg_player *p, const fg_input *input, fg_text cell, uint64_t line)
{
    int32_t value = 0;
    cell = fg_text_trimmed(cell);
    if (!cell.size) return;
    const bool flag = input->declared->kind == FG_KIND_FLAG;
    bool good = flag
                    ? read_flag(cell, &value)
                    : fg_value_read(cell.at, cell.size, input->counts ? 0 : input->declared->decimals, &value) == FG_OK;
    const bool told = is_told(p, p->t_ms);
    if (!good && told) fg_report_unreadable(p->report, input->declared, cell, line);
    if (good && told && !flag && !input->counts) fg_report_finer(p->report, input->declared, cell, line);
    fg_reading_kind kind = !good ? FG_READING_FAULT : input->counts ? FG_READING_COUNTS : FG_READING_VALUE;
    if (!fg_sim_put(&p->sim, input->number, kind, value, p->clock) && p->pace) p->report->overlooked += told;
}

void fg_player_number(fg_player *p, const fg_input *input, int32_t number)
{
    const fg_reading_kind kind = input->counts ? FG_READING_COUNTS : FG_READING_VALUE;
    if (!fg_sim_put(&p->sim, input->number, kind, number, p->clock) && p->pace)
        p->report->overlooked += is_told(p, p->t_ms);
}

void fg_player_left_out(fg_player *p, uint64_t rows, int64_t t_ms)
{
    if (is_told(p, t_ms)) {
        const uint64_t before = p->report->faulty_steps;
        count_faulty(p);
        p->report->faulty_steps = before + rows * (p->report->faulty_steps - before);
        p->report->steps += rows;
        p->report->left_out += rows;
        p->report->rows += rows;
    }
    p->clock = clock_after(p, t_ms - p->t_ms);
    p->t_ms = t_ms;
    p->next_ms += (int64_t)rows * p->pace;
    p->waits = false;
}

bool fg_player_row_ends(fg_player *p)
{
    const bool between = p->pace && p->next_ms != p->t_ms; /* no step is for this row */
    p->report->rows += is_told(p, p->t_ms);
    p->stopped = p->sayings && between && !tell_said(p, true);
    return !p->stopped;
}

void fg_player_last_step(fg_player *p)
{
    if (!p->pace) {
        if (p->waits) (void)step_at(p, p->t_ms, p->clock);
        return;
    }
    if (p->next_ms <= p->t_ms) (void)step_at(p, p->next_ms, p->clock);
    for (uint16_t i = 0; i < p->sim.input_count; i++) p->report->overlooked += p->sim.inputs[i].kind != FG_READING_NONE;
}

/* ---- names ---- */

bool fg_player_input(const fg_player *p, fg_text name, fg_input *input)
{
    static const char raw[] = ".raw";
    const size_t tail = sizeof raw - 1;
    const fg_declared *d = fg_program_find(p->program, name);
    bool counts = false;
    *input = (fg_input){0};
    if (!d && name.size > tail && !memcmp(name.at + name.size - tail, raw, tail)) {
        d = fg_program_find(p->program, (fg_text){name.at, name.size - tail});
        counts = true;
    }
    if (!d || !fg_program_reads(p->program, d) || (counts && d->kind != FG_KIND_SENSOR)) return false;
    const uint16_t behind = d->kind == FG_KIND_FLAG ? p->program->gate.size.sensors : 0;
    *input = (fg_input){.declared = d, .number = (uint16_t)(d->index + behind), .counts = counts};
    return true;
}

const fg_declared *fg_player_said_of(const fg_player *p, fg_text name)
{
    const fg_declared *d = fg_program_find(p->program, name);
    if (!d || fg_kind_is(d->kind, FG_KIND_READ)) return NULL;
    const bool has_answer = d->kind == FG_KIND_COUNT || d->slot != FG_INDEX_NONE;
    return fg_kind_is(d->kind, FG_KIND_IS_OUTPUT) || has_answer ? d : NULL;
}

fg_text fg_player_only(const fg_player *p)
{
    const fg_declared *only = NULL;
    for (uint32_t i = 0; i < p->program->declared_count; i++) {
        const fg_declared *d = &p->program->declared[i];
        if (!fg_program_reads(p->program, d)) continue;
        if (only) return (fg_text){0};
        only = d;
    }
    return only ? only->name : (fg_text){0};
}

bool fg_player_unit(const fg_player *p, fg_text name, fg_text unit, uint64_t line)
{
    fg_replay_report *report = p->report;
    fg_input input;
    if (!fg_player_input(p, name, &input)) return false;
    const fg_declared *d = input.declared;
    if (input.counts || !d->unit.size || fg_text_same(unit, d->unit) || *report->other_unit) return true;
    fg_text_keep(report->other_unit, sizeof report->other_unit, unit);
    fg_text_keep(report->other_unit_name, sizeof report->other_unit_name, d->name);
    fg_text_keep(report->own_unit, sizeof report->own_unit, d->unit);
    report->other_unit_line = line;
    return true;
}

/* ---- the way in ---- */

bool fg_player_start(fg_player *p)
{
    const fg_gate *gate = &p->program->gate;
    const size_t size = fg_run_size(gate);
    p->sim.input_count = (uint16_t)(gate->size.sensors + gate->size.flags);
    p->sim.output_count = gate->size.outputs;
    p->sim.inputs = calloc((size_t)p->sim.input_count + 1, sizeof *p->sim.inputs);
    p->sim.outputs = calloc((size_t)p->sim.output_count + 1, sizeof *p->sim.outputs);
    p->memory = malloc(size);
    if (p->observer->said) p->sayings = calloc((size_t)p->program->declared_count + 1, sizeof *p->sayings);
    const bool watches = p->program->promises_watched && p->program->promise_count;
    if (watches) p->promises = fg_promises_start(p->program);
    if (watches && !p->promises) return false;
    if (!p->sim.inputs || !p->sim.outputs || !p->memory || (p->observer->said && !p->sayings)) return false;
    if (fg_run_start(gate, p->memory, size, &p->run) != FG_OK) return false;
    p->changes = (fg_changes){.program = p->program, .run = p->run};
    if (!fg_changes_start(&p->changes)) return false;
    fg_sim_start(&p->sim, 0);
    p->port = fg_sim_port(&p->sim);
    return fg_explainer_start(&p->explainer, p->program, p->run);
}

void fg_player_end(fg_player *p)
{
    fg_explainer_end(&p->explainer);
    fg_buffer_free(&p->because);
    if (p->run) fg_changes_end(&p->changes);
    for (uint32_t i = 0; p->sayings && i < p->program->declared_count; i++) fg_buffer_free(&p->sayings[i].text);
    free(p->sayings);
    fg_promises_end(p->promises);
    free(p->memory);
    free(p->sim.inputs);
    free(p->sim.outputs);
}

bool fg_player_is_cut_short(const fg_player *p)
{
    return p->because.full || (p->run && fg_changes_are_cut_short(&p->changes));
}
