/* The engine: feeds, and the step that works through the program of a gate from its first line to its last. */
#include "mem.h"
#include "parts.h"
#include "run.h"

/* Where each table of a run begins. Called with no memory it only measures. */
typedef struct layout {
    unsigned char *memory;
    size_t size;
} layout;

typedef union alignment {
    void *pointer;
    uint32_t number;
} alignment;

static void *place(layout *l, size_t count, size_t size)
{
    const size_t unit = sizeof(alignment);
    const size_t at = l->size;
    l->size = at + (count * size + unit - 1) / unit * unit;
    return l->memory ? l->memory + at : NULL;
}

static size_t lay_out(const fg_gate *gate, void *memory, fg_run *run)
{
    const fg_gate_counts *n = &gate->count;
    layout l = {memory, 0};
    (void)place(&l, 1, sizeof *run);
    run->gate = gate;
    run->sensors = place(&l, n->sensors, sizeof *run->sensors);
    run->flags = place(&l, n->flags, sizeof *run->flags);
    run->thresholds = place(&l, n->thresholds, sizeof *run->thresholds);
    run->hysteresis = place(&l, n->hysteresis, sizeof *run->hysteresis);
    run->bands = place(&l, n->bands, sizeof *run->bands);
    run->outputs = place(&l, n->outputs, sizeof *run->outputs);
    run->lastings = place(&l, n->lastings, sizeof *run->lastings);
    run->edges = place(&l, n->edges, sizeof *run->edges);
    run->latches = place(&l, n->latches, sizeof *run->latches);
    run->counts = place(&l, n->counts, sizeof *run->counts);
    run->pulses = place(&l, n->pulses, sizeof *run->pulses);
    run->plays = place(&l, n->plays, sizeof *run->plays);
    run->windows = place(&l, n->windows, sizeof *run->windows);
    run->window_values = place(&l, n->window_values, sizeof *run->window_values);
    run->previously = place(&l, n->previously, sizeof *run->previously);
    run->answers = place(&l, (size_t)n->ops + n->watched, sizeof *run->answers);
    run->texts = place(&l, n->text_bytes, 1);
    return l.size;
}

size_t fg_run_size(const fg_gate *gate)
{
    fg_run nowhere;
    return lay_out(gate, NULL, &nowhere);
}

static bool lacks_a_part(const fg_gate *gate)
{
    for (uint16_t i = 0; FG_WITHOUT_SUMS && i < gate->count.sensors; i++)
        if (gate->sensors[i].term_count) return true;
    return FG_WITHOUT_TEXTS && gate->count.text_bytes;
}

fg_status fg_run_start(const fg_gate *gate, void *memory, size_t size, fg_run **run)
{
    if (!gate || !memory || !run || (uintptr_t)memory % _Alignof(alignment)) return FG_ERROR_ARGUMENT;
    if (lacks_a_part(gate)) return FG_ERROR_GATE;
    const size_t needed = fg_run_size(gate);
    if (size < needed) return FG_ERROR_MEMORY;
    memset(memory, 0, needed);
    *run = memory;
    (void)lay_out(gate, memory, *run);
    for (uint16_t i = 0; i < gate->count.outputs; i++) {
        const fg_level rest = gate->outputs[i].rest;
        (*run)->outputs[i] = (fg_output_state){.level = rest, .before = rest, .row = FG_ROW_NONE};
    }
    (*run)->moved = true;
    for (uint16_t i = 0; i < gate->count.counts; i++) (*run)->counts[i].value = gate->counts[i].rule.first;
    return FG_OK;
}

uint32_t fg_gate_work(const fg_gate *gate)
{
    const fg_gate_counts *n = &gate->count;
    uint32_t work = (uint32_t)n->ops + n->window_values + n->previously;
    for (uint16_t i = 0; i < n->sensors; i++) work += gate->sensors[i].term_count;
    for (uint16_t i = 0; i < n->outputs; i++) work += gate->outputs[i].row_count;
    for (uint16_t i = 0; i < n->bands; i++) work += gate->bands[i].count;
    for (uint16_t i = 0; i < n->pulses; i++) work += gate->pulses[i].last_count;
    return work;
}

void fg_feed(fg_run *run, uint16_t sensor, fg_value value, fg_time at)
{
    if (sensor >= run->gate->count.sensors) return;
    fg_sensor_state *state = &run->sensors[sensor];
    state->newest = value;
    state->heard = FG_HEARD_VALUE;
    state->at = at;
    state->old = false;
}

void fg_feed_fault(fg_run *run, uint16_t sensor, fg_time at)
{
    if (sensor >= run->gate->count.sensors) return;
    run->sensors[sensor].heard = FG_HEARD_FAULT;
    run->sensors[sensor].at = at;
}

void fg_feed_counts(fg_run *run, uint16_t sensor, int32_t counts, fg_time at)
{
    if (sensor >= run->gate->count.sensors) return;
    const fg_sensor *rule = &run->gate->sensors[sensor];
    fg_value value;
    if (rule->line_count && fg_line_value(rule->lines, rule->line_count, counts, &value))
        fg_feed(run, sensor, value, at);
    else
        fg_feed_fault(run, sensor, at);
}

void fg_feed_flag(fg_run *run, uint16_t flag, bool yes, fg_time at)
{
    if (flag >= run->gate->count.flags) return;
    fg_flag_state *state = &run->flags[flag];
    state->newest = yes;
    state->heard = FG_HEARD_VALUE;
    state->at = at;
    state->old = false;
}

void fg_feed_flag_fault(fg_run *run, uint16_t flag, fg_time at)
{
    if (flag >= run->gate->count.flags) return;
    run->flags[flag].heard = FG_HEARD_FAULT;
    run->flags[flag].at = at;
}

static fg_verdict slot_answer(const fg_run *run, uint16_t slot)
{
    return slot == FG_NONE_OF_THEM ? (fg_verdict)FG_NO : run->answers[slot];
}

/* A sensor without any stage: what most are. */
static bool plain_step(fg_sensor_state *state)
{
    state->ok = state->heard == FG_HEARD_VALUE;
    if (state->ok) state->value = state->newest;
    return state->ok;
}

/* A sensor that is worked out is fed with its sum. */
static bool sensor_step(fg_run *run, uint16_t number)
{
    const fg_sensor *sensor = &run->gate->sensors[number];
    fg_sensor_state *state = &run->sensors[number];
    const bool zeroes = sensor->stages & FG_STAGE_ZERO;
    if (!(sensor->stages | sensor->trust | sensor->window | sensor->term_count | (sensor->circle != 0)))
        return plain_step(state);
    if (!FG_WITHOUT_SUMS && sensor->term_count)
        state->heard = fg_expression_value(run, sensor, &state->newest) ? FG_HEARD_VALUE : FG_HEARD_FAULT;
    return fg_sensor_step(sensor, state, sensor->window ? &run->window_values[sensor->window_at] : NULL,
                          zeroes ? run->flags[sensor->zero_flag].answer : (fg_verdict)FG_NO, run->now);
}

static fg_verdict compare(const fg_compare *c, fg_value value)
{
    return fg_sure(fg_range_holds(&c->range, value) != c->outside);
}

static fg_verdict is_one_of(const fg_gate *gate, const fg_op *op, fg_verdict answer)
{
    if (answer == FG_UNSURE) return FG_UNSURE;
    const fg_verdict *labels = &gate->labels[op->rule];
    for (uint16_t i = 0; i < op->b; i++)
        if (labels[i] == answer) return FG_YES;
    return FG_NO;
}

static fg_verdict at_least(const fg_run *run, const fg_op *op)
{
    const uint16_t *slots = &run->gate->slots[op->rule];
    uint16_t yes = 0, open = 0;
    for (uint16_t i = 0; i < op->b; i++) {
        yes = (uint16_t)(yes + (run->answers[slots[i]] == FG_YES));
        open = (uint16_t)(open + (run->answers[slots[i]] == FG_UNSURE));
    }
    if (yes >= op->a) return FG_YES;
    return (uint32_t)yes + open < op->a ? FG_NO : FG_UNSURE;
}

static fg_verdict rule_step(fg_run *run, const fg_op *op)
{
    const fg_gate *gate = run->gate;
    const fg_sensor_state *sensor = &run->sensors[op->a];
    if (op->kind == FG_OP_THRESHOLD) {
        fg_threshold_state *state = &run->thresholds[op->rule];
        if (!sensor->ok) return fg_threshold_fault(state);
        return fg_threshold_step(&gate->thresholds[op->rule], state, sensor->value, run->now);
    }
    if (op->kind == FG_OP_HYSTERESIS) {
        fg_hysteresis_state *state = &run->hysteresis[op->rule];
        if (!sensor->ok) return fg_hysteresis_fault(state);
        return fg_hysteresis_step(&gate->hysteresis[op->rule], state, sensor->value, run->now);
    }
    fg_bands_state *state = &run->bands[op->rule];
    if (!sensor->ok) return fg_bands_fault(state);
    return fg_bands_step(&gate->bands[op->rule], state, sensor->value, run->now);
}

static void count_step(fg_run *run, uint16_t number)
{
    const fg_counting *c = &run->gate->counts[number];
    (void)fg_count_step(&c->rule, &run->counts[number], slot_answer(run, c->add), slot_answer(run, c->take),
                        slot_answer(run, c->zero));
}

static fg_verdict pulse_step(fg_run *run, uint16_t number)
{
    const fg_pulsing *p = &run->gate->pulses[number];
    const fg_pulse_last *last = &run->gate->lasts[p->first_last];
    fg_time length = 0;
    for (uint16_t i = 0; i < p->last_count && !length; i++)
        if (last[i].slot == FG_NONE_OF_THEM || run->answers[last[i].slot] == FG_YES) length = last[i].time;
    return fg_pulse_step(&p->rule, &run->pulses[number], run->answers[p->start], length, slot_answer(run, p->again),
                         slot_answer(run, p->stop), run->now);
}

static fg_verdict op_step(fg_run *run, const fg_op *op)
{
    const fg_gate *gate = run->gate;
    const fg_verdict *answers = run->answers;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: return fg_sure(sensor_step(run, op->rule));
    case FG_OP_FLAG: return fg_flag_step(&gate->flags[op->rule], &run->flags[op->rule], run->now);
    case FG_OP_THRESHOLD:
    case FG_OP_HYSTERESIS:
    case FG_OP_BANDS: return rule_step(run, op);
    case FG_OP_COMPARE:
        if (!run->sensors[op->a].ok) return FG_UNSURE;
        return compare(&gate->compares[op->rule], run->sensors[op->a].value);
    case FG_OP_COMPARE_COUNT: return compare(&gate->compares[op->rule], run->counts[op->a].value);
    case FG_OP_IS: return is_one_of(gate, op, answers[op->a]);
    case FG_OP_NOT: return fg_not(answers[op->a]);
    case FG_OP_AND: return fg_and(answers[op->a], answers[op->b]);
    case FG_OP_OR: return fg_or(answers[op->a], answers[op->b]);
    case FG_OP_AT_LEAST: return at_least(run, op);
    case FG_OP_SENSOR_FAULTY: return fg_sure(!run->sensors[op->rule].ok);
    case FG_OP_FLAG_FAULTY: return fg_sure(run->flags[op->rule].bridged == FG_UNSURE);
    case FG_OP_UNSURE: return fg_sure(answers[op->a] == FG_UNSURE);
    case FG_OP_PREVIOUSLY: return run->previously[op->rule];
    case FG_OP_FOR:
        return fg_lasting_step(gate->lastings[op->rule], &run->lastings[op->rule], answers[op->a], run->now);
    case FG_OP_STARTS: return fg_edge_step(&run->edges[op->rule], answers[op->a], FG_YES);
    case FG_OP_ENDS: return fg_edge_step(&run->edges[op->rule], answers[op->a], FG_NO);
    case FG_OP_LATCH:
        return fg_latch_step(&gate->latches[op->rule], &run->latches[op->rule], answers[op->a],
                             slot_answer(run, op->b));
    case FG_OP_COUNT: count_step(run, op->rule); return FG_NO;
    case FG_OP_PULSE: return pulse_step(run, op->rule);
    case FG_OP_OUTPUT: fg_output_step(run, op->rule); return FG_NO;
    case FG_OP_OUTPUT_IS: return fg_sure(fg_pattern_fits(run, op->a, &gate->patterns[op->rule]));
    case FG_OP_OUTPUT_PLAYS: return fg_sure(fg_output_plays(run, op->a) == op->rule);
    }
    return FG_UNSURE;
}

/* Most steps change no answer. Then what hangs on answers alone need not be worked out again: a line looks only at
 * lines before it, so as long as none of them has moved, and nothing did in the step before (a start lasts one step),
 * it stays. */
void fg_step(fg_run *run, fg_time now)
{
    const fg_gate *gate = run->gate;
    const fg_op *op = gate->ops, *end = op + gate->count.ops + gate->count.watched;
    fg_verdict *answer = run->answers;
    bool moved = run->moved;
    run->now = now;
    run->moved = false;
    for (; op < end; op++, answer++) {
        if (!moved && op->kind >= FG_OP_FIRST_STILL) continue;
        if (!moved && op->kind == FG_OP_OUTPUT) {
            fg_output_rest(run, op->rule);
            continue;
        }
        const fg_verdict before = *answer;
        *answer = op_step(run, op);
        if (*answer != before) moved = run->moved = true;
    }
    for (uint16_t i = 0; run->moved && i < gate->count.previously; i++)
        run->previously[i] = run->answers[gate->previously[i]];
}

fg_value fg_count_value(const fg_run *run, uint16_t count)
{
    return count < run->gate->count.counts ? run->counts[count].value : 0;
}

uint16_t fg_output_plays(const fg_run *run, uint16_t output)
{
    if (output >= run->gate->count.outputs) return FG_NONE_OF_THEM;
    const fg_output_state *state = &run->outputs[output];
    if (state->row == FG_ROW_NONE) return FG_NONE_OF_THEM;
    const fg_row *row = &run->gate->rows[run->gate->outputs[output].first_row + state->row];
    if (row->level.form != FG_FORM_PLAY || run->plays[row->play].over) return FG_NONE_OF_THEM;
    return (uint16_t)row->level.number;
}

fg_verdict fg_answer(const fg_run *run, uint16_t slot)
{
    if (slot >= (uint32_t)run->gate->count.ops + run->gate->count.watched) return FG_UNSURE;
    return run->answers[slot];
}

const fg_verdict *fg_answers(const fg_run *run) { return run->answers; }

bool fg_sensor_value(const fg_run *run, uint16_t sensor, fg_value *value)
{
    if (sensor >= run->gate->count.sensors || !run->sensors[sensor].ok) return false;
    *value = run->sensors[sensor].value;
    return true;
}

const fg_sensor_state *fg_sensor_at(const fg_run *run, uint16_t sensor)
{
    return sensor < run->gate->count.sensors ? &run->sensors[sensor] : NULL;
}

const fg_flag_state *fg_flag_at(const fg_run *run, uint16_t flag)
{
    return flag < run->gate->count.flags ? &run->flags[flag] : NULL;
}

const fg_output_state *fg_output_at(const fg_run *run, uint16_t output)
{
    return output < run->gate->count.outputs ? &run->outputs[output] : NULL;
}
