/* SPDX-License-Identifier: MIT */
/* The step: works through the ops of a gate from the first to the last. */
#include "mem.h"
#include "parts.h"
#include "run.h"
#include "since.h"
#include "steady.h"

/* A row that is not written never holds. */
static fg_verdict slot_answer(const fg_run *run, uint16_t slot)
{
    return slot == FG_INDEX_NONE ? (fg_verdict)FG_NO : run->answers[slot];
}

/* When a reading was taken, by the clock of the states. One that was stamped after the step is new. */
static void take_stamp(const fg_run *run, fg_time *at, bool *fresh)
{
    const fg_time age = run->told - *at;
    *at = age < FG_TIME_BACK ? run->now - age : run->now;
    *fresh = false;
}

static fg_verdict flag_step(fg_run *run, uint16_t number)
{
    fg_flag_state *state = &run->flags[number];
    if (state->fresh) take_stamp(run, &state->at, &state->fresh);
    return fg_flag_step(&run->gate->flags[number], state, run->now);
}

/* A sensor that is worked out is fed with its sum. */
static bool sensor_step(fg_run *run, uint16_t number)
{
    const fg_sensor *sensor = &run->gate->sensors[number];
    fg_sensor_state *state = &run->sensors[number];
    if (!FG_WITHOUT_SUMS && sensor->term_count)
        state->heard = fg_expression_value(run, sensor, &state->newest) ? FG_HEARD_VALUE : FG_HEARD_FAULT;
    if (state->plain) {
        state->ok = state->heard == FG_HEARD_VALUE;
        if (state->ok) state->value = state->newest;
    } else {
        const bool zeroes = sensor->stages & FG_STAGE_ZERO;
        if (state->fresh) take_stamp(run, &state->at, &state->fresh);
        (void)fg_sensor_step(sensor, state, run->window_values + sensor->window_at,
                             zeroes ? run->flags[sensor->zero_flag].answer : (fg_verdict)FG_NO, run->now);
    }
    return state->ok;
}

/* A comparison has no margin and remembers nothing. */
static fg_verdict compare(const fg_compare *c, fg_value value)
{
    return fg_sure(fg_range_holds(&c->range, value) != c->outside);
}

/* Without a reading the answer is unsure, whatever the limits are. */
static fg_verdict compare_step(const fg_run *run, const fg_op *op)
{
    const fg_sensor_state *sensor = &run->sensors[op->a];
    return sensor->ok ? compare(&run->gate->compares[op->rule], sensor->value) : (fg_verdict)FG_UNSURE;
}

/* Bands in no band answer FG_NONE, which is no label, so `is` says no. */
static fg_verdict is_one_of(const fg_gate *gate, const fg_op *op, fg_verdict answer)
{
    if (answer == FG_UNSURE) return FG_UNSURE;
    const fg_verdict *labels = &gate->labels[op->rule];
    for (uint16_t i = 0; i < op->b; i++)
        if (labels[i] == answer) return FG_YES;
    return FG_NO;
}

/* Yes as soon as enough are yes, no as soon as the unsure ones could not make up for it any more. */
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

/* The cases of a switch for the rules on a sensor. */
#define FG_RULE_CASE(NAME, name, table) case FG_OP_##NAME:

/* Good reading or fault: each rule has a call for both, and forgets at a fault. */
static fg_verdict rule_step(fg_run *run, const fg_op *op)
{
    const fg_gate *gate = run->gate;
    const fg_sensor_state *sensor = &run->sensors[op->a];
    switch (op->kind) {
#define FG_RULE_STEP(NAME, name, table)                                                                                \
    case FG_OP_##NAME:                                                                                                 \
        return sensor->ok ? fg_##name##_step(&gate->table[op->rule], &run->table[op->rule], sensor->value, run->now)   \
                          : fg_##name##_fault(&run->table[op->rule]);
        FG_SENSOR_RULES(FG_RULE_STEP)
#undef FG_RULE_STEP
    default: return FG_UNSURE;
    }
}

/* A count is no answer. It stands under run.counters, and its slot is never asked. */
static void count_step(fg_run *run, uint16_t number)
{
    const fg_counter *c = &run->gate->counters[number];
    (void)fg_count_step(&c->rule, &run->counters[number], slot_answer(run, c->add), slot_answer(run, c->take),
                        slot_answer(run, c->zero));
}

/* The lengths are asked at every step, although only a start needs one: which row holds may change while nothing
 * starts. */
static fg_verdict pulse_step(fg_run *run, uint16_t number)
{
    const fg_pulser *p = &run->gate->pulses[number];
    const fg_pulse_length *lengths = &run->gate->pulse_lengths[p->first_length];
    fg_time length = 0;
    for (uint16_t i = 0; i < p->length_count && !length; i++)
        if (lengths[i].slot == FG_INDEX_NONE || run->answers[lengths[i].slot] == FG_YES) length = lengths[i].time;
    return fg_pulse_step(&p->rule, &run->pulses[number], run->answers[p->start], length, slot_answer(run, p->again),
                         slot_answer(run, p->stop), run->now);
}

/* An op that depends on answers alone. */
static fg_verdict answers_step(fg_run *run, const fg_op *op)
{
    const fg_gate *gate = run->gate;
    const fg_verdict *answers = run->answers;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_IS: return is_one_of(gate, op, answers[op->a]);
    case FG_OP_NOT: return fg_not(answers[op->a]);
    case FG_OP_AND: return fg_and(answers[op->a], answers[op->b]);
    case FG_OP_OR: return fg_or(answers[op->a], answers[op->b]);
    case FG_OP_AT_LEAST: return at_least(run, op);
    case FG_OP_COMPARE_COUNT: return compare(&gate->compares[op->rule], run->counters[op->a].value);
    case FG_OP_SENSOR_FAULTY: return fg_sure(!run->sensors[op->rule].ok);
    case FG_OP_UNSURE: return fg_sure(answers[op->a] == FG_UNSURE);
    case FG_OP_PREVIOUSLY: return run->previously[op->rule];
    case FG_OP_STARTS: return fg_edge_step(&run->edges[op->rule], answers[op->a], FG_YES);
    case FG_OP_ENDS: return fg_edge_step(&run->edges[op->rule], answers[op->a], FG_NO);
    case FG_OP_LATCH:
        return fg_latch_step(&gate->latches[op->rule], &run->latches[op->rule], answers[op->a],
                             slot_answer(run, op->b));
    default: count_step(run, op->rule); return FG_NO;
    }
}

/* One op, whatever happened before it. */
static fg_verdict op_step(fg_run *run, const fg_op *op)
{
    const fg_gate *gate = run->gate;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: return fg_sure(sensor_step(run, op->rule));
    case FG_OP_FLAG:
        if (run->flags[op->rule].steady) return run->flags[op->rule].answer;
        return flag_step(run, op->rule);
        FG_SENSOR_RULES(FG_RULE_CASE) return rule_step(run, op);
    case FG_OP_COMPARE: return compare_step(run, op);
    case FG_OP_FLAG_FAULTY: return fg_sure(run->flags[op->rule].bridged == FG_UNSURE);
    case FG_OP_FOR:
        return fg_lasting_step(gate->lastings[op->rule], &run->lastings[op->rule], run->answers[op->a], run->now);
    case FG_OP_PULSE: return pulse_step(run, op->rule);
    case FG_OP_OUTPUT: fg_output_step(run, op->rule); return FG_NO;
    case FG_OP_OUTPUT_IS: return fg_sure(fg_pattern_fits(run, op->a, &gate->patterns[op->rule]));
    case FG_OP_OUTPUT_PLAYS: return fg_sure(fg_output_plays(run, op->a) == op->rule);
    default: return answers_step(run, op);
    }
}

/* Keeps the answer of an op; true if it is another than before. */
static bool moves(fg_run *run, const fg_op *op, fg_verdict answer)
{
    fg_verdict *before = &run->answers[op - run->gate->ops];
    if (*before == answer) return false;
    *before = answer;
    run->moved = true;
    return true;
}

/* Does its value stay where no rule on it can tell? */
static bool is_steady(fg_sensor_state *state)
{
    state->steady = state->steady && state->ok && fg_range_holds(&state->steady_range, state->value);
    return state->steady;
}

/* The rules behind a sensor that is not steady; true if one moves, `at` is that rule then. */
static bool unsteady_rules(fg_run *run, const fg_op **at)
{
    const fg_op *const sensor = *at, *const last = sensor + sensor->spared;
    for (const fg_op *op = sensor + 1; op <= last; op++) {
        const fg_verdict answer = rule_step(run, op);
        *at = op;
        if (moves(run, op, answer)) return true;
    }
    fg_sensor_find_steady(run, sensor);
    *at = last;
    return false;
}

/* The short cut of a step. Most steps change no answer, so most ops would work out what they have.
 *
 * It relies on the order of the ops: each looks only at ops before it. As long as none of those moved,
 *   - an op that depends on answers alone keeps its answer. Only what looks one step back (starts, ends, previously)
 * has an `echo` in the step after one that moved;
 *   - the rules on a steady sensor keep theirs (steady.c);
 *   - `for` and pulses keep theirs unless they run;
 *   - an output needs one more look, so that it no longer says it changed, and after that only if it moves by itself.
 *
 * Goes on as long as nothing moves, and returns the op behind the one that did. */
static const fg_op *steady_ops(fg_run *run, const fg_op *op, const fg_op *end, bool echo)
{
    const fg_op *const first = op;
    fg_verdict *const answers = run->answers;
    const bool outputs_steady = run->outputs_steady;
    for (; op < end; op++) {
        fg_verdict answer;
        bool steady;
        switch ((fg_op_kind)op->kind) {
        case FG_OP_SENSOR:
            answer = fg_sure(sensor_step(run, op->rule));
            if (!op->spared) break;
            steady = is_steady(&run->sensors[op->rule]);
            if (moves(run, op, answer) || (!steady && unsteady_rules(run, &op))) return op + 1;
            if (steady) op += op->spared;
            continue;
        case FG_OP_FLAG:
            if (run->flags[op->rule].steady) continue;
            answer = flag_step(run, op->rule);
            break;
        case FG_OP_FOR:
            if (!run->lastings[op->rule].running) continue;
            answer = op_step(run, op);
            break;
        case FG_OP_PULSE:
            if (!run->pulses[op->rule].running) continue;
            answer = pulse_step(run, op->rule);
            break;
        case FG_OP_OUTPUT:
            if (!outputs_steady || run->outputs[op->rule].lives) fg_output_rest(run, op->rule);
            continue;
            FG_SENSOR_RULES(FG_RULE_CASE) answer = rule_step(run, op);
            break;
        case FG_OP_COMPARE: answer = compare_step(run, op); break;
        case FG_OP_FLAG_FAULTY:
        case FG_OP_OUTPUT_IS:
        case FG_OP_OUTPUT_PLAYS: answer = op_step(run, op); break;
        case FG_OP_STARTS:
        case FG_OP_ENDS:
        case FG_OP_PREVIOUSLY:
            if (echo) {
                answer = answers_step(run, op);
                break;
            }
            op += op->spared;
            continue;
        default:
            if (!echo) op += op->spared;
            continue;
        }
        if (answer != answers[op - first]) {
            (void)moves(run, op, answer);
            return op + 1;
        }
    }
    return end;
}

/* A step before the last one counts as if no time had passed. */
static void move_clock(fg_run *run, fg_time told)
{
    const fg_time passed = told - run->told;
    if (!run->begun)
        run->now = told;
    else if (passed < FG_TIME_BACK)
        run->now += passed;
    run->told = told;
}

/* The short cut goes as far as nothing moves. From the op that moved on every op is worked out, because each may look
 * at those before it. `previously` is copied at the end: it has to see the whole step. */
void fg_step(fg_run *run, fg_time now)
{
    const fg_gate *gate = run->gate;
    const uint32_t count = (uint32_t)gate->size.ops + gate->size.watched;
    const fg_op *op = gate->ops, *const end = count ? op + count : op; /* an empty gate may have no list at all */
    const bool echo = run->moved;
    move_clock(run, now);
    run->moved = run->stirred = run->still = false;
    if (!FG_WITHOUT_SHORT_CUTS && run->begun) op = steady_ops(run, op, end, echo);
    for (; op < end; op++) {
        const fg_verdict answer = op_step(run, op);
        (void)moves(run, op, answer);
        if (op->kind == FG_OP_SENSOR) (void)is_steady(&run->sensors[op->rule]);
    }
    run->outputs_steady = run->begun && !run->moved && !run->stirred;
    run->begun = true;
    for (uint16_t i = 0; run->moved && i < gate->size.previously; i++)
        run->previously[i] = run->answers[gate->previously[i]];
}

/* Sums stand behind their parts, so the order of the ops is theirs as well. */
void fg_step_inputs(fg_run *run, fg_time now)
{
    const fg_gate *gate = run->gate;
    move_clock(run, now);
    run->still = true;
    for (uint16_t i = 0; i < gate->size.ops; i++) {
        const fg_op *op = &gate->ops[i];
        if (op->kind == FG_OP_SENSOR) (void)sensor_step(run, op->rule);
        if (op->kind == FG_OP_FLAG && !run->flags[op->rule].steady) (void)flag_step(run, op->rule);
    }
}

void fg_step_sensor(fg_run *run, uint16_t sensor, fg_time now)
{
    move_clock(run, now);
    if (sensor < run->gate->size.sensors) (void)sensor_step(run, sensor);
}

/* An op that is not among them may look at one that is only if it is one of them too: the caller sees to that. They are
 * worked out without the short cut, which relies on a run that was stepped each time: since the last step of this run
 * its `first` may have made others, in which none of these ops would have changed. `previously` is copied in any case,
 * because what moved may have been an answer of `first`. */
void fg_step_beside(fg_run *run, const fg_run *first, const uint16_t *ops, uint16_t count)
{
    const fg_gate *gate = run->gate;
    uint16_t next = 0;
    run->sensors = first->sensors;
    run->flags = first->flags;
    run->windows = first->windows;
    run->window_values = first->window_values;
    run->now = first->now;
    run->told = first->told;
    run->moved = run->stirred = run->still = false;
    for (uint16_t slot = 0; slot < gate->size.ops; slot++) {
        if (next == count || slot != ops[next]) {
            run->answers[slot] = first->answers[slot];
            continue;
        }
        (void)moves(run, &gate->ops[slot], op_step(run, &gate->ops[slot]));
        next++;
    }
    run->outputs_steady = run->begun && !run->moved && !run->stirred;
    run->begun = true;
    for (uint16_t i = 0; i < gate->size.previously; i++) run->previously[i] = run->answers[gate->previously[i]];
}
