/* The engine: feeds, and the step that works through the program of a gate from its first line to its last. */
#include "mem.h"
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
    size_t at = l->size;
    l->size = at + (count * size + unit - 1) / unit * unit;
    return l->memory ? l->memory + at : NULL;
}

static size_t lay_out(const fg_gate *gate, void *memory, fg_run *run)
{
    layout l = {memory, 0};
    (void)place(&l, 1, sizeof *run);
    run->gate = gate;
    run->sensors = place(&l, gate->sensor_count, sizeof *run->sensors);
    run->flags = place(&l, gate->flag_count, sizeof *run->flags);
    run->thresholds = place(&l, gate->threshold_count, sizeof *run->thresholds);
    run->hysteresis = place(&l, gate->hysteresis_count, sizeof *run->hysteresis);
    run->bands = place(&l, gate->bands_count, sizeof *run->bands);
    run->outputs = place(&l, gate->output_count, sizeof *run->outputs);
    run->answers = place(&l, (size_t)gate->op_count + gate->watched_count, sizeof *run->answers);
    return l.size;
}

size_t fg_run_size(const fg_gate *gate)
{
    fg_run nowhere;
    return lay_out(gate, NULL, &nowhere);
}

fg_status fg_run_start(const fg_gate *gate, void *memory, size_t size, fg_run **run)
{
    if (!gate || !memory || !run || (uintptr_t)memory % _Alignof(alignment)) return FG_ERROR_ARGUMENT;
    size_t needed = fg_run_size(gate);
    if (size < needed) return FG_ERROR_MEMORY;
    memset(memory, 0, needed);
    *run = memory;
    (void)lay_out(gate, memory, *run);
    for (uint16_t i = 0; i < gate->output_count; i++)
        (*run)->outputs[i] = (fg_output_state){.level = gate->outputs[i].rest, .row = FG_ROW_NONE};
    return FG_OK;
}

void fg_feed(fg_run *run, uint16_t sensor, fg_value value, fg_time at)
{
    if (sensor >= run->gate->sensor_count) return;
    fg_sensor_state *state = &run->sensors[sensor];
    state->newest = value;
    state->heard = FG_HEARD_VALUE;
    state->at = at;
}

void fg_feed_fault(fg_run *run, uint16_t sensor, fg_time at)
{
    if (sensor >= run->gate->sensor_count) return;
    run->sensors[sensor].heard = FG_HEARD_FAULT;
    run->sensors[sensor].at = at;
}

void fg_feed_counts(fg_run *run, uint16_t sensor, int32_t counts, fg_time at)
{
    if (sensor >= run->gate->sensor_count) return;
    const fg_sensor *rule = &run->gate->sensors[sensor];
    fg_value value;
    if (rule->line_count && fg_line_value(rule->lines, rule->line_count, counts, &value))
        fg_feed(run, sensor, value, at);
    else
        fg_feed_fault(run, sensor, at);
}

void fg_feed_flag(fg_run *run, uint16_t flag, bool yes, fg_time at)
{
    if (flag >= run->gate->flag_count) return;
    fg_flag_state *state = &run->flags[flag];
    state->newest = yes;
    state->heard = FG_HEARD_VALUE;
    state->at = at;
}

void fg_feed_flag_fault(fg_run *run, uint16_t flag, fg_time at)
{
    if (flag >= run->gate->flag_count) return;
    run->flags[flag].heard = FG_HEARD_FAULT;
    run->flags[flag].at = at;
}

static fg_verdict flag_step(const fg_flag *flag, fg_flag_state *state)
{
    state->answer = FG_UNSURE;
    if (state->heard == FG_HEARD_VALUE) state->answer = fg_sure(state->newest != flag->inverted);
    return state->answer;
}

static fg_verdict compare(const fg_gate *gate, const fg_op *op, const fg_sensor_state *sensor)
{
    if (!sensor->ok) return FG_UNSURE;
    const fg_compare *c = &gate->compares[op->rule];
    return fg_sure(fg_range_holds(&c->range, sensor->value) != c->outside);
}

static fg_verdict is_one_of(const fg_gate *gate, const fg_op *op, fg_verdict answer)
{
    if (answer == FG_UNSURE) return FG_UNSURE;
    const fg_verdict *labels = &gate->labels[op->rule];
    for (uint16_t i = 0; i < op->b; i++)
        if (labels[i] == answer) return FG_YES;
    return FG_NO;
}

static fg_verdict rule_step(fg_run *run, const fg_op *op, fg_time now)
{
    const fg_gate *gate = run->gate;
    const fg_sensor_state *sensor = &run->sensors[op->a];
    if (op->kind == FG_OP_THRESHOLD) {
        fg_threshold_state *state = &run->thresholds[op->rule];
        if (!sensor->ok) return fg_threshold_fault(state);
        return fg_threshold_step(&gate->thresholds[op->rule], state, sensor->value, now);
    }
    if (op->kind == FG_OP_HYSTERESIS) {
        fg_hysteresis_state *state = &run->hysteresis[op->rule];
        if (!sensor->ok) return fg_hysteresis_fault(state);
        return fg_hysteresis_step(&gate->hysteresis[op->rule], state, sensor->value, now);
    }
    fg_bands_state *state = &run->bands[op->rule];
    if (!sensor->ok) return fg_bands_fault(state);
    return fg_bands_step(&gate->bands[op->rule], state, sensor->value, now);
}

static fg_verdict op_step(fg_run *run, const fg_op *op, fg_time now)
{
    const fg_gate *gate = run->gate;
    const fg_verdict *answers = run->answers;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: return fg_sure(fg_sensor_step(&gate->sensors[op->rule], &run->sensors[op->rule], now));
    case FG_OP_FLAG: return flag_step(&gate->flags[op->rule], &run->flags[op->rule]);
    case FG_OP_THRESHOLD:
    case FG_OP_HYSTERESIS:
    case FG_OP_BANDS: return rule_step(run, op, now);
    case FG_OP_COMPARE: return compare(gate, op, &run->sensors[op->a]);
    case FG_OP_IS: return is_one_of(gate, op, answers[op->a]);
    case FG_OP_NOT: return fg_not(answers[op->a]);
    case FG_OP_AND: return fg_and(answers[op->a], answers[op->b]);
    case FG_OP_OR: return fg_or(answers[op->a], answers[op->b]);
    case FG_OP_SENSOR_FAULTY: return fg_sure(!run->sensors[op->rule].ok);
    case FG_OP_FLAG_FAULTY: return fg_sure(run->flags[op->rule].answer == FG_UNSURE);
    case FG_OP_UNSURE: return fg_sure(answers[op->a] == FG_UNSURE);
    case FG_OP_OUTPUT_IS: return fg_sure(fg_pattern_fits(&gate->patterns[op->rule], &run->outputs[op->a].level));
    }
    return FG_UNSURE;
}

void fg_step(fg_run *run, fg_time now)
{
    const fg_gate *gate = run->gate;
    for (uint16_t i = 0; i < gate->op_count; i++) run->answers[i] = op_step(run, &gate->ops[i], now);
    for (uint16_t i = 0; i < gate->output_count; i++)
        fg_output_step(&gate->outputs[i], gate->rows, run->answers, &run->outputs[i]);
    for (uint32_t i = gate->op_count; i < (uint32_t)gate->op_count + gate->watched_count; i++)
        run->answers[i] = op_step(run, &gate->ops[i], now);
}

fg_verdict fg_answer(const fg_run *run, uint16_t slot)
{
    if (slot >= (uint32_t)run->gate->op_count + run->gate->watched_count) return FG_UNSURE;
    return run->answers[slot];
}

const fg_verdict *fg_answers(const fg_run *run) { return run->answers; }

bool fg_sensor_value(const fg_run *run, uint16_t sensor, fg_value *value)
{
    if (sensor >= run->gate->sensor_count || !run->sensors[sensor].ok) return false;
    *value = run->sensors[sensor].value;
    return true;
}

const fg_sensor_state *fg_sensor_at(const fg_run *run, uint16_t sensor)
{
    return sensor < run->gate->sensor_count ? &run->sensors[sensor] : NULL;
}

const fg_flag_state *fg_flag_at(const fg_run *run, uint16_t flag)
{
    return flag < run->gate->flag_count ? &run->flags[flag] : NULL;
}

const fg_output_state *fg_output_at(const fg_run *run, uint16_t output)
{
    return output < run->gate->output_count ? &run->outputs[output] : NULL;
}
