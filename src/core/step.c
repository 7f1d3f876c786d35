/* The step: works through the program of a gate from its first line to its last. */
#include "calm.h"
#include "mem.h"
#include "parts.h"
#include "run.h"

static fg_verdict slot_answer(const fg_run *run, uint16_t slot)
{
    return slot == FG_NONE_OF_THEM ? (fg_verdict)FG_NO : run->answers[slot];
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
        (void)fg_sensor_step(sensor, state, run->window_values + sensor->window_at,
                             zeroes ? run->flags[sensor->zero_flag].answer : (fg_verdict)FG_NO, run->now);
    }
    return state->ok;
}

static fg_verdict compare(const fg_compare *c, fg_value value)
{
    return fg_sure(fg_range_holds(&c->range, value) != c->outside);
}

static fg_verdict compare_step(const fg_run *run, const fg_op *op)
{
    const fg_sensor_state *sensor = &run->sensors[op->a];
    return sensor->ok ? compare(&run->gate->compares[op->rule], sensor->value) : (fg_verdict)FG_UNSURE;
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

/* What hangs on answers alone. */
static fg_verdict still_step(fg_run *run, const fg_op *op)
{
    const fg_gate *gate = run->gate;
    const fg_verdict *answers = run->answers;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_IS: return is_one_of(gate, op, answers[op->a]);
    case FG_OP_NOT: return fg_not(answers[op->a]);
    case FG_OP_AND: return fg_and(answers[op->a], answers[op->b]);
    case FG_OP_OR: return fg_or(answers[op->a], answers[op->b]);
    case FG_OP_AT_LEAST: return at_least(run, op);
    case FG_OP_COMPARE_COUNT: return compare(&gate->compares[op->rule], run->counts[op->a].value);
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

/* One line of the program, whatever happened before it. */
static fg_verdict line_step(fg_run *run, const fg_op *op)
{
    const fg_gate *gate = run->gate;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: return fg_sure(sensor_step(run, op->rule));
    case FG_OP_FLAG:
        if (run->flags[op->rule].still) return run->flags[op->rule].answer;
        return fg_flag_step(&gate->flags[op->rule], &run->flags[op->rule], run->now);
    case FG_OP_THRESHOLD:
    case FG_OP_HYSTERESIS:
    case FG_OP_BANDS: return rule_step(run, op);
    case FG_OP_COMPARE: return compare_step(run, op);
    case FG_OP_FLAG_FAULTY: return fg_sure(run->flags[op->rule].bridged == FG_UNSURE);
    case FG_OP_FOR:
        return fg_lasting_step(gate->lastings[op->rule], &run->lastings[op->rule], run->answers[op->a], run->now);
    case FG_OP_PULSE: return pulse_step(run, op->rule);
    case FG_OP_OUTPUT: fg_output_step(run, op->rule); return FG_NO;
    case FG_OP_OUTPUT_IS: return fg_sure(fg_pattern_fits(run, op->a, &gate->patterns[op->rule]));
    case FG_OP_OUTPUT_PLAYS: return fg_sure(fg_output_plays(run, op->a) == op->rule);
    default: return still_step(run, op);
    }
}

/* Keeps the answer of a line; true if it is another than before. */
static bool moves(fg_run *run, const fg_op *op, fg_verdict answer)
{
    fg_verdict *before = &run->answers[op - run->gate->ops];
    if (*before == answer) return false;
    *before = answer;
    run->moved = true;
    return true;
}

/* Is its value still where no rule on it can tell? */
static bool is_calm(fg_sensor_state *state)
{
    state->calm = state->calm && state->ok && fg_range_holds(&state->same, state->value);
    return state->calm;
}

/* The rules behind the line of a sensor that is not calm; true if one moves, `line` is the one behind it then. */
static bool still_rules(fg_run *run, const fg_op **line)
{
    const fg_op *const sensor = *line, *const last = sensor + sensor->spared;
    for (const fg_op *op = sensor + 1; op <= last; op++) {
        const fg_verdict answer = rule_step(run, op);
        *line = op;
        if (moves(run, op, answer)) return true;
    }
    fg_sensor_calms(run, sensor);
    *line = last;
    return false;
}

/* Most steps change no answer. Then what hangs on answers alone need not be worked out again: a line looks only at
 * lines before it, so as long as none of them moves it stays; only what looks one step back (a start lasts one step)
 * has its `echo` in the step behind one that moved. So do the rules on a sensor that is calm stay, and what would only
 * wait for time to pass but does not. An output has to be looked at once more, so that it no longer says it changed;
 * after that only if it moves by itself.
 *
 * Goes on as long as nothing moves; says which line comes behind the one that did. */
static const fg_op *still_lines(fg_run *run, const fg_op *op, const fg_op *end, bool echo)
{
    const fg_op *const first = op;
    fg_verdict *const answers = run->answers;
    const bool settled = run->settled;
    for (; op < end; op++) {
        fg_verdict answer;
        bool calm;
        switch ((fg_op_kind)op->kind) {
        case FG_OP_SENSOR:
            answer = fg_sure(sensor_step(run, op->rule));
            if (!op->spared) break;
            calm = is_calm(&run->sensors[op->rule]);
            if (moves(run, op, answer) || (!calm && still_rules(run, &op))) return op + 1;
            if (calm) op += op->spared;
            continue;
        case FG_OP_FLAG:
            if (run->flags[op->rule].still) continue;
            answer = fg_flag_step(&run->gate->flags[op->rule], &run->flags[op->rule], run->now);
            break;
        case FG_OP_FOR:
            if (!run->lastings[op->rule].running) continue;
            answer = line_step(run, op);
            break;
        case FG_OP_PULSE:
            if (!run->pulses[op->rule].running) continue;
            answer = pulse_step(run, op->rule);
            break;
        case FG_OP_OUTPUT:
            if (!settled || run->outputs[op->rule].lives) fg_output_rest(run, op->rule);
            continue;
        case FG_OP_THRESHOLD:
        case FG_OP_HYSTERESIS:
        case FG_OP_BANDS: answer = rule_step(run, op); break;
        case FG_OP_COMPARE: answer = compare_step(run, op); break;
        case FG_OP_FLAG_FAULTY:
        case FG_OP_OUTPUT_IS:
        case FG_OP_OUTPUT_PLAYS: answer = line_step(run, op); break;
        case FG_OP_STARTS:
        case FG_OP_ENDS:
        case FG_OP_PREVIOUSLY:
            if (echo) {
                answer = still_step(run, op);
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

void fg_step(fg_run *run, fg_time now)
{
    const fg_gate *gate = run->gate;
    const fg_op *op = gate->ops, *const end = op + gate->count.ops + gate->count.watched;
    const bool echo = run->moved;
    run->now = now;
    run->moved = run->stirred = false;
    if (!FG_WITHOUT_SHORT_CUTS && run->begun) op = still_lines(run, op, end, echo);
    for (; op < end; op++) {
        const fg_verdict answer = line_step(run, op);
        (void)moves(run, op, answer);
        if (op->kind == FG_OP_SENSOR) (void)is_calm(&run->sensors[op->rule]);
    }
    run->settled = run->begun && !run->moved && !run->stirred;
    run->begun = true;
    for (uint16_t i = 0; run->moved && i < gate->count.previously; i++)
        run->previously[i] = run->answers[gate->previously[i]];
}
