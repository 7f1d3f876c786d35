/* SPDX-License-Identifier: MIT */
/* A run: its memory, what it is fed with, what it answers. The step is in step.c. */
#include "mem.h"
#include "parts.h"
#include "run.h"

#include <ficklegate/version.h>

const char *fg_version(void) { return FG_VERSION; }

/* Where each table of a run begins. Called with no memory it only measures. */
typedef struct layout {
    unsigned char *memory;
    size_t size;
} layout;

typedef union alignment {
    void *pointer;
    uint32_t number;
} alignment;

/* Hands out the next piece of the block, aligned for its type: as a compiler lays out a struct of the same members, so
 * that `NAME_memory` of baked tables is just large enough. With no memory it only counts. */
static void *place(layout *l, size_t count, size_t size, size_t aligned)
{
    if (!count) return l->memory;
    const size_t at = (l->size + aligned - 1) / aligned * aligned;
    l->size = at + count * size;
    return l->memory ? l->memory + at : NULL;
}

/* The head comes first, then the tables in the order of FG_RUN_STATES. The same function measures and places, so the
 * size that is told is the size that is used. */
static size_t lay_out(const fg_gate *gate, void *memory, fg_run *run)
{
    const fg_gate_sizes *n = &gate->size;
    layout l = {(unsigned char *)memory, 0};
    (void)place(&l, 1, sizeof *run, FG_ALIGNOF(fg_run));
    run->gate = gate;
#define FG_PLACE_STATE(member, type, count) run->member = (type *)place(&l, count, sizeof(type), FG_ALIGNOF(type));
    FG_RUN_STATES(FG_PLACE_STATE)
#undef FG_PLACE_STATE
    return (l.size + FG_ALIGNOF(alignment) - 1) / FG_ALIGNOF(alignment) * FG_ALIGNOF(alignment);
}

/* `nowhere` takes the addresses that nobody uses. */
size_t fg_run_size(const fg_gate *gate)
{
    fg_run nowhere;
    return lay_out(gate, NULL, &nowhere);
}

/* A sensor without any stage: what most are. */
static bool is_plain(const fg_sensor *s) { return !s->stages && !s->trust && !s->window && !s->circle; }

/* Tables that were compiled for another version or layout cannot be read. A build may leave sums or texts out
 * (parts.h). A gate that needs them is refused at the start instead of answering wrongly later. A sum that would
 * overrun the stack is refused here too, so the step need not look. */
static bool cannot_run(const fg_gate *gate)
{
    if (gate->form != FG_GATE_FORM || gate->bytes != FG_GATE_BYTES) return true;
    for (uint16_t i = 0; i < gate->size.sensors; i++) {
        if (FG_WITHOUT_SUMS && gate->sensors[i].term_count) return true;
        if (!FG_WITHOUT_SUMS && !fg_expression_fits(gate, &gate->sensors[i])) return true;
    }
    return FG_WITHOUT_TEXTS && gate->size.text_bytes;
}

/* Zeroed memory is unsure everywhere (value.h), so only what does not begin at zero is set: outputs at rest, counts at
 * their first value, and which sensors have no stage at all. */
fg_status fg_run_start(const fg_gate *gate, void *memory, size_t size, fg_run **run)
{
    if (!gate || !memory || !run || (uintptr_t)memory % FG_ALIGNOF(alignment)) return FG_ERROR_ARGUMENT;
    if (cannot_run(gate)) return FG_ERROR_GATE;
    const size_t needed = fg_run_size(gate);
    if (size < needed) return FG_ERROR_MEMORY;
    memset(memory, 0, needed);
    *run = (fg_run *)memory;
    (void)lay_out(gate, memory, *run);
    for (uint16_t i = 0; i < gate->size.outputs; i++) {
        fg_output_state *state = &(*run)->outputs[i];
        state->before = state->level = gate->outputs[i].rest;
        state->row = FG_INDEX_NONE;
    }
    for (uint16_t i = 0; i < gate->size.sensors; i++) (*run)->sensors[i].plain = is_plain(&gate->sensors[i]);
    for (uint16_t i = 0; i < gate->size.counters; i++) (*run)->counters[i].value = gate->counters[i].rule.first;
    return FG_OK;
}

/* Counts what a step looks at in the worst case: ops, values in windows, terms of sums, rows, bands, and lengths of
 * pulses. */
uint32_t fg_gate_work(const fg_gate *gate)
{
    const fg_gate_sizes *n = &gate->size;
    uint32_t work = (uint32_t)n->ops + n->window_values + n->previously;
    for (uint16_t i = 0; i < n->sensors; i++) work += gate->sensors[i].term_count;
    for (uint16_t i = 0; i < n->outputs; i++) work += gate->outputs[i].row_count;
    for (uint16_t i = 0; i < n->bands; i++) work += gate->bands[i].count;
    for (uint16_t i = 0; i < n->pulses; i++) work += gate->pulses[i].length_count;
    return work;
}

/* A number beyond the last sensor is ignored: a board may have more inputs than the gate. Only the newest reading is
 * kept, since a step looks at one. */
void fg_feed(fg_run *run, uint16_t sensor, fg_value value, fg_time at)
{
    if (sensor < run->gate->size.sensors) fg_sensor_feed(&run->sensors[sensor], value, at);
}

void fg_feed_fault(fg_run *run, uint16_t sensor, fg_time at)
{
    if (sensor < run->gate->size.sensors) fg_sensor_fault(&run->sensors[sensor], at);
}

/* Counts that leave 32 bits are a fault, and `newest` keeps what it had. `old` stays as well then, because nothing
 * believable came. */
void fg_feed_counts(fg_run *run, uint16_t sensor, int32_t counts, fg_time at)
{
    if (sensor >= run->gate->size.sensors) return;
    const fg_sensor *rule = &run->gate->sensors[sensor];
    fg_sensor_state *state = &run->sensors[sensor];
    const bool good = rule->scale_count && fg_scale_value(rule->scale, rule->scale_count, counts, &state->newest);
    state->heard = good ? FG_HEARD_VALUE : FG_HEARD_FAULT;
    state->at = at;
    state->fresh = true;
    state->old = state->old && !good;
}

/* A flag that was steady has been good up to the last step, although that step did not look at it. */
static void stir_flag(const fg_run *run, fg_flag_state *state)
{
    if (state->steady && state->good != FG_UNSURE) state->good_at = run->now;
    state->steady = false;
}

/* A flag that only says the same again stays steady, so buttons that are read every step cost nothing. */
void fg_feed_flag(fg_run *run, uint16_t flag, bool yes, fg_time at)
{
    if (flag >= run->gate->size.flags) return;
    fg_flag_state *state = &run->flags[flag];
    if (state->newest != yes || state->heard != FG_HEARD_VALUE) stir_flag(run, state);
    fg_flag_feed(state, yes, at);
}

/* A fault always stirs: the flag may have to be bridged from here on. */
void fg_feed_flag_fault(fg_run *run, uint16_t flag, fg_time at)
{
    if (flag >= run->gate->size.flags) return;
    fg_flag_state *state = &run->flags[flag];
    stir_flag(run, state);
    fg_flag_fault(state, at);
}

/* What is asked beyond the tables is answered with the value that has no effect: 0, unsure, NULL. So a caller with a
 * wrong number sees nothing instead of something else. */
fg_value fg_count_value(const fg_run *run, uint16_t count)
{
    return count < run->gate->size.counters ? run->counters[count].value : 0;
}

/* A sequence that is over is not played any more, even where its row still holds. */
uint16_t fg_output_plays(const fg_run *run, uint16_t output)
{
    if (output >= run->gate->size.outputs) return FG_INDEX_NONE;
    const fg_output_state *state = &run->outputs[output];
    if (state->row == FG_INDEX_NONE) return FG_INDEX_NONE;
    const fg_row *row = &run->gate->rows[run->gate->outputs[output].first_row + state->row];
    if (row->level.form != FG_FORM_PLAY || run->plays[row->play].over) return FG_INDEX_NONE;
    return (uint16_t)row->level.number;
}

fg_time fg_run_now(const fg_run *run) { return run->now; }

/* Trials watch conditions of their own, whose slots stand behind those of the program. */
fg_verdict fg_answer(const fg_run *run, uint16_t slot)
{
    if (slot >= (uint32_t)run->gate->size.ops + run->gate->size.watched) return FG_UNSURE;
    return run->answers[slot];
}

const fg_verdict *fg_answers(const fg_run *run) { return run->answers; }

/* `value` keeps its last good one while a sensor is faulty, so it is handed out only where `ok` says so. */
bool fg_sensor_value(const fg_run *run, uint16_t sensor, fg_value *value)
{
    if (sensor >= run->gate->size.sensors || !run->sensors[sensor].ok) return false;
    *value = run->sensors[sensor].value;
    return true;
}

const fg_sensor_state *fg_sensor_at(const fg_run *run, uint16_t sensor)
{
    return sensor < run->gate->size.sensors ? &run->sensors[sensor] : NULL;
}

const fg_flag_state *fg_flag_at(const fg_run *run, uint16_t flag)
{
    return flag < run->gate->size.flags ? &run->flags[flag] : NULL;
}

const fg_output_state *fg_output_at(const fg_run *run, uint16_t output)
{
    return output < run->gate->size.outputs ? &run->outputs[output] : NULL;
}

const fg_pulse_state *fg_pulse_at(const fg_run *run, uint16_t pulse)
{
    return pulse < run->gate->size.pulses ? &run->pulses[pulse] : NULL;
}
