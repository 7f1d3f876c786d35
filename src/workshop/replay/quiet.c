/* SPDX-License-Identifier: MIT */
/* Why a stretch of rows may be left out.
 *
 * It is the argument of the short cut of a step (core/step.c, core/steady.c), made for many steps at once. After a step
 * that changed nothing, the next one changes nothing either if
 *   - every sensor whose value something asks for stays on the same side of each limit. Between two neighbouring limits
 *     every rule gives the same, one that waits as well: it has the same candidate, and waits on. `until` ends
 *     before the first of these waits does;
 *   - every flag is read as it was;
 *   - no output moves by itself; a sequence stays where it is until its segment ends. What an output or a text shows
 *     of a sensor has to stay the same number.
 * wants.c says what that is for each op.
 * Then the state after the step is fit for the same argument, so it holds for any number of rows.
 *
 * What is asked of a sensor's value is carried back to what is read. The median, mean, dip or peak of values in a range
 * is in that range. A sum is worked out with intervals for its parts (Moore, Interval Analysis, 1966), widened at each
 * operation by more than a rounding can be.
 *
 * A step leaves more behind than answers: the newest values of each window, when each sensor was read. Of what is in a
 * window all of it follows from the last `memory` rows, of any other sensor and flag from the last one, so whoever
 * leaves rows out puts those through fg_step_sensor and that one through fg_step_inputs. What would need more (a sensor
 * that may be stuck) is never left out, nor what is not known to stay (an angle, a rate). */
#include "workshop/replay/quiet.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

/* There is no stretch, and this is why: as it is told. */
static bool busy(fg_quiet *q, const char *why)
{
    q->wants.why = why;
    return false;
}

/* ---- sums ---- */

/* Millionths: a number is surely between them. */
typedef struct interval {
    double low, high;
} interval;

/* More than the rounding to a millionth, and that of the numbers here. */
static interval widened(double low, double high)
{
    const double size = fmax(fabs(low), fabs(high)) * 1e-14 + 1;
    return (interval){low - size, high + size};
}

static interval product(interval a, interval b, double by)
{
    const double ends[] = {a.low * b.low * by, a.low * b.high * by, a.high * b.low * by, a.high * b.high * by};
    double low = ends[0], high = ends[0];
    for (int i = 1; i < 4; i++) {
        low = fmin(low, ends[i]);
        high = fmax(high, ends[i]);
    }
    return widened(low, high);
}

static interval magnitude(interval a)
{
    if (a.low >= 0) return a;
    if (a.high <= 0) return (interval){-a.high, -a.low};
    return (interval){0, fmax(-a.low, a.high)};
}

static interval length(const interval *parts, uint8_t count)
{
    double low = 0, high = 0;
    for (uint8_t i = 0; i < count; i++) {
        const interval m = magnitude(parts[i]);
        low += m.low * m.low;
        high += m.high * m.high;
    }
    return widened(sqrt(low), sqrt(high));
}

/* The values of a dip or peak that its window has now. */
static bool window_within(const fg_quiet *q, const fg_term *t, const fg_range *range)
{
    const fg_window_state *state = &q->wants.run->windows[t->window];
    const fg_value *values = &q->wants.run->window_values[t->window_at];
    for (uint8_t i = 0; i < state->count; i++)
        if (values[i] < range->low || values[i] > range->high) return false;
    return true;
}

/* One term; `top` values stand on the stack, and come to stand. False: there is no telling. */
static bool take_term(const fg_quiet *q, const fg_term *t, const fg_range *parts, interval *stack, int *top)
{
    interval *const v = &stack[*top];
    if (fg_term_reads(t->kind)) {
        const fg_range *r = &parts[t->sensor];
        if (t->kind == FG_TERM_RATE || (t->kind != FG_TERM_SENSOR && !window_within(q, t, r))) return false;
        *v = widened((double)r->low * (double)t->number, (double)r->high * (double)t->number);
        ++*top;
        return true;
    }
    switch ((fg_term_kind)t->kind) {
    case FG_TERM_NUMBER:
        *v = widened((double)t->number, (double)t->number);
        ++*top;
        return true;
    case FG_TERM_NEGATE: v[-1] = (interval){-v[-1].high, -v[-1].low}; return true;
    case FG_TERM_ABS: v[-1] = magnitude(v[-1]); return true;
    case FG_TERM_LENGTH:
        v[-t->count] = length(v - t->count, t->count);
        *top -= t->count - 1;
        return true;
    default: break;
    }
    const interval a = v[-2], b = v[-1];
    --*top;
    switch ((fg_term_kind)t->kind) {
    case FG_TERM_ADD: v[-2] = widened(a.low + b.low, a.high + b.high); return true;
    case FG_TERM_SUBTRACT: v[-2] = widened(a.low - b.high, a.high - b.low); return true;
    case FG_TERM_MULTIPLY: v[-2] = product(a, b, 1e-6); return true;
    case FG_TERM_DIVIDE:
        if (b.low <= 1 && b.high >= -1) return false; /* it may be zero */
        v[-2] = product(a, (interval){1 / b.high, 1 / b.low}, 1e6);
        return true;
    case FG_TERM_LOWEST: v[-2] = (interval){fmin(a.low, b.low), fmin(a.high, b.high)}; return true;
    case FG_TERM_HIGHEST: v[-2] = (interval){fmax(a.low, b.low), fmax(a.high, b.high)}; return true;
    default: return false;
    }
}

double fg_quiet_millionths(uint8_t decimals)
{
    double step = 1e6;
    while (decimals--) step /= 10;
    return step;
}

/* Is the sum within a range, whatever its parts are within theirs? */
static bool stays_within(const fg_quiet *q, const fg_sensor *sum, const fg_range *parts, const fg_range *range)
{
    interval stack[FG_STACK_MOST + 1];
    int top = 0;
    stack[0] = (interval){-HUGE_VAL, HUGE_VAL};
    for (uint16_t i = 0; i < sum->term_count; i++) {
        if (!take_term(q, &fg_quiet_gate(q)->terms[sum->first_term + i], parts, stack, &top)) return false;
        if (!(fabs(stack[top - 1].low) < 4e18 && fabs(stack[top - 1].high) < 4e18)) return false;
    }
    const double step = fg_quiet_millionths(sum->decimals);
    return stack[0].low > ((double)range->low - 0.5) * step + 1 &&
           stack[0].high < ((double)range->high + 0.5) * step - 1;
}

/* The parts of a sum, so far around their present values. */
static bool part_ranges(const fg_quiet *q, const fg_sensor *sum, int32_t reach, fg_range *parts)
{
    for (uint16_t i = 0; i < sum->term_count; i++) {
        const fg_term *t = &fg_quiet_gate(q)->terms[sum->first_term + i];
        if (!fg_term_reads(t->kind)) continue;
        const fg_sensor_state *state = &q->wants.run->sensors[t->sensor];
        parts[t->sensor] = q->wants.of[t->sensor];
        if (!state->ok) return false;
        if (!fg_range_narrow(&parts[t->sensor], (int64_t)state->value - reach, (int64_t)state->value + reach))
            return false;
    }
    return true;
}

static bool has_faulty_part(const fg_quiet *q, const fg_sensor *sum)
{
    for (uint16_t i = 0; i < sum->term_count; i++) {
        const fg_term *t = &fg_quiet_gate(q)->terms[sum->first_term + i];
        if (fg_term_reads(t->kind) && !q->wants.run->sensors[t->sensor].ok) return true;
    }
    return false;
}

/* Narrows what is wanted of its parts, so that the sum stays where it is wanted. */
static bool narrow_parts(fg_quiet *q, uint16_t number, fg_range *parts)
{
    const fg_sensor *sum = &fg_quiet_gate(q)->sensors[number];
    int32_t reach = q->reach[number] < (1 << 28) ? q->reach[number] * 2 + 1 : 1 << 28;
    for (;; reach /= 2) {
        if (!part_ranges(q, sum, reach, parts)) return false;
        if (stays_within(q, sum, parts, &q->wants.of[number])) break;
        if (!reach) return false;
    }
    q->reach[number] = reach;
    for (uint16_t i = 0; i < sum->term_count; i++) {
        const fg_term *t = &fg_quiet_gate(q)->terms[sum->first_term + i];
        if (fg_term_reads(t->kind)) q->wants.of[t->sensor] = parts[t->sensor];
    }
    return true;
}

/* Is a sensor's value, but for a zero, what stands in a column? */
static bool is_read_as_it_is(const fg_quiet *q, uint16_t sensor)
{
    const size_t column = q->column_of[sensor];
    return column != FG_NO_COLUMN && !q->inputs[column].counts && !fg_quiet_gate(q)->sensors[sensor].window;
}

/* Can it be worked out row by row, from numbers that are read? */
static bool is_simple(const fg_quiet *q, const fg_sensor *sum)
{
    for (uint16_t i = 0; i < sum->term_count; i++) {
        const fg_term *t = &fg_quiet_gate(q)->terms[sum->first_term + i];
        if (t->kind == FG_TERM_DIVIDE || t->kind == FG_TERM_ANGLE ||
            (fg_term_reads(t->kind) && t->kind != FG_TERM_SENSOR))
            return false;
        if (t->kind == FG_TERM_SENSOR && !is_read_as_it_is(q, t->sensor)) return false;
    }
    return true;
}

static bool take_sum(fg_quiet *q, uint16_t number, fg_range *parts)
{
    const fg_sensor *sum = &fg_quiet_gate(q)->sensors[number];
    const fg_sensor_state *state = &q->wants.run->sensors[number];
    q->by_value[number] = false;
    if (!state->ok && has_faulty_part(q, sum)) return true; /* and so it stays: see take_column */
    if (!state->ok || !state->plain) return busy(q, "a sum is faulty, or has stages of its own");
    if (!q->simple[number])
        return narrow_parts(q, number, parts) || busy(q, "a rate, an angle, or a sum of what is worked out moves");
    q->by_value[number] = true;
    return true;
}

/* The parts of a sum stand before it. */
static bool take_sums(fg_quiet *q)
{
    const fg_gate *gate = fg_quiet_gate(q);
    fg_range *parts = q->wants.of + gate->size.sensors;
    for (uint16_t i = gate->size.ops; i-- > 0;) {
        const fg_op *op = &gate->ops[i];
        if (op->kind == FG_OP_SENSOR && gate->sensors[op->rule].term_count && !take_sum(q, op->rule, parts))
            return false;
    }
    return true;
}

/* ---- what is read ---- */

/* What may be read of a sensor, so that its value stays where it is wanted. */
static bool before_stages(fg_quiet *q, uint16_t number, fg_range *range)
{
    const fg_sensor *sensor = &fg_quiet_gate(q)->sensors[number];
    const fg_sensor_state *state = &q->wants.run->sensors[number];
    if (state->plain) return true;
    if (sensor->stages & FG_STAGE_STUCK) return busy(q, "a sensor may be stuck");
    if (sensor->trust == FG_TRUST_WRAP) return busy(q, "what is trusted of a circle runs through its zero");
    if (sensor->circle) {
        if (sensor->window || sensor->stages & FG_STAGE_ZERO)
            return busy(q, "values on a circle are joined, or have a zero");
        const int64_t turn = (int64_t)state->newest - fg_wrap(state->newest, sensor->circle); /* the one it is in */
        const fg_range wanted = *range;
        *range = fg_range_whole;
        if (!fg_range_narrow(range, wanted.low > 0 ? turn + wanted.low : turn,
                             wanted.high < sensor->circle ? turn + wanted.high : turn + sensor->circle - 1))
            return false;
    }
    if (sensor->stages & FG_STAGE_ZERO) {
        const fg_range wanted = *range;
        *range = fg_range_whole;
        if (!fg_range_narrow(range, (int64_t)wanted.low + state->zero, (int64_t)wanted.high + state->zero))
            return false;
    }
    if (sensor->window) { /* it is looked at row by row: see window_rows */
        if (state->count < sensor->window) return false;
        *range = fg_range_whole;
    }
    return sensor->trust != FG_TRUST_RANGE || fg_range_narrow(range, sensor->trusted.low, sensor->trusted.high);
}

/* What is not trusted stays so on its side, and nothing of it is remembered. */
static bool stays_refused(const fg_sensor *sensor, const fg_sensor_state *state, fg_range *range)
{
    if (sensor->trust != FG_TRUST_RANGE || !state->refused || sensor->stages & (FG_STAGE_STUCK | FG_STAGE_STALE))
        return false;
    if (sensor->trusted.low > sensor->trusted.high) return false;
    *range = fg_range_whole;
    return state->newest < sensor->trusted.low ? fg_range_narrow(range, INT32_MIN, (int64_t)sensor->trusted.low - 1)
                                               : fg_range_narrow(range, (int64_t)sensor->trusted.high + 1, INT32_MAX);
}

/* Do a converter's values only rise, or only fall, with its counts? */
static bool is_one_way(const fg_sensor *sensor)
{
    bool rises = false, falls = false;
    for (uint8_t i = 0; i < sensor->scale_count; i++) {
        rises = rises || sensor->scale[i].slope > 0;
        falls = falls || sensor->scale[i].slope < 0;
    }
    return !(rises && falls);
}

static bool counts_within(const fg_sensor *sensor, int64_t counts, const fg_range *range)
{
    fg_value value;
    return counts > INT32_MIN && counts <= INT32_MAX &&
           fg_scale_value(sensor->scale, sensor->scale_count, (int32_t)counts, &value) && value >= range->low &&
           value <= range->high;
}

/* The counts around the newest that give values in a range. */
static bool carry_back(const fg_sensor *sensor, int32_t newest, fg_range *range)
{
    fg_range counts = {newest, newest};
    if (!is_one_way(sensor) || !counts_within(sensor, newest, range)) return false;
    for (int64_t step = 1 << 20; step; step /= 2) {
        while (counts_within(sensor, counts.low - step, range) && counts.low - step > -(1 << 24))
            counts.low -= (int32_t)step;
        while (counts_within(sensor, counts.high + step, range) && counts.high + step < 1 << 24)
            counts.high += (int32_t)step;
    }
    *range = counts;
    return true;
}

static bool take_flag(fg_quiet *q, size_t column, uint16_t flag, int32_t newest)
{
    const fg_flag_state *state = &q->wants.run->flags[flag];
    if (state->heard != FG_HEARD_VALUE || state->settle.candidate != state->settle.present) return false;
    q->low[column] = q->high[column] = state->newest;
    return newest == state->newest;
}

static bool take_column(fg_quiet *q, size_t column, int32_t newest)
{
    const fg_input *input = &q->inputs[column];
    const uint16_t sensors = fg_quiet_gate(q)->size.sensors;
    if (newest == FG_NUMBER_NONE) return busy(q, "cells are empty");
    if (input->number >= sensors) return take_flag(q, column, (uint16_t)(input->number - sensors), newest);
    const fg_sensor *sensor = &fg_quiet_gate(q)->sensors[input->number];
    const fg_sensor_state *state = &q->wants.run->sensors[input->number];
    fg_range range = q->wants.of[input->number];
    if (state->heard != FG_HEARD_VALUE) return busy(q, "a sensor is faulty");
    if (!state->ok && !stays_refused(sensor, state, &range)) return busy(q, "a sensor is faulty");
    if (state->ok && !before_stages(q, input->number, &range)) return false;
    if (input->counts && !carry_back(sensor, newest, &range)) return false;
    if (newest < range.low || newest > range.high) return false;
    q->low[column] = range.low == INT32_MIN ? INT32_MIN + 1 : range.low; /* FG_NUMBER_NONE is no number */
    q->high[column] = range.high;
    return true;
}

/* What has no column is never read: it stays as it is, unless time changes it. */
static bool take_unread(const fg_quiet *q)
{
    const fg_gate_sizes *n = &fg_quiet_gate(q)->size;
    for (uint16_t i = 0; i < n->flags; i++) {
        const fg_flag_state *state = &q->wants.run->flags[i];
        if (q->column_of[n->sensors + i] == FG_NO_COLUMN &&
            (state->heard != FG_HEARD_NOTHING || state->answer != FG_UNSURE))
            return false;
    }
    for (uint16_t i = 0; i < n->sensors; i++) {
        const fg_sensor_state *state = &q->wants.run->sensors[i];
        if (fg_quiet_gate(q)->sensors[i].term_count || q->column_of[i] != FG_NO_COLUMN) continue;
        if (state->ok || state->heard != FG_HEARD_NOTHING) return false;
    }
    return true;
}

bool fg_quiet_find(fg_quiet *q, const fg_number_rows *rows, size_t row)
{
    const fg_run *run = q->wants.run;
    q->wants.why = NULL;
    if (!run->begun || run->moved || !run->outputs_steady) return false;
    q->start = row + 1;
    bool found = fg_wants_find(&q->wants) && (!q->beside || fg_beside_wants(q->beside, &q->wants)) && take_sums(q) &&
                 take_unread(q);
    for (size_t i = 0; found && i < q->width; i++) found = take_column(q, i, rows->columns[i][row]);
    return found;
}

static bool has_window(const fg_gate *gate, const fg_sensor *sensor)
{
    bool has = sensor->window;
    for (uint16_t i = 0; i < sensor->term_count; i++) {
        const fg_term *t = &gate->terms[sensor->first_term + i];
        has = has || (fg_term_reads(t->kind) && t->kind != FG_TERM_SENSOR);
    }
    return has;
}

/* The sensors that have a window, those whose values are in it and what these are worked out from. Parts stand before
 * their sum. */
static void find_remembered(fg_quiet *q)
{
    const fg_gate *gate = fg_quiet_gate(q);
    int32_t *remembered = q->reach; /* it is not needed yet */
    for (uint16_t i = gate->size.ops; i-- > 0;) {
        const uint16_t number = gate->ops[i].rule;
        if (gate->ops[i].kind != FG_OP_SENSOR) continue;
        const fg_sensor *sensor = &gate->sensors[number];
        remembered[number] = remembered[number] || has_window(gate, sensor);
        for (uint16_t k = 0; k < sensor->term_count && remembered[number]; k++) {
            const fg_term *t = &gate->terms[sensor->first_term + k];
            if (fg_term_reads(t->kind)) remembered[t->sensor] = true;
        }
    }
    for (uint16_t i = 0; i < gate->size.ops; i++)
        if (gate->ops[i].kind == FG_OP_SENSOR && remembered[gate->ops[i].rule])
            q->remembered[q->remembered_count++] = gate->ops[i].rule;
    memset(remembered, 0, gate->size.sensors * sizeof *remembered);
}

/* How many rows stand in the windows of a sensor and, by way of them, in those of its parts. The parts of a sum stand
 * before it. */
static void find_memory(fg_quiet *q)
{
    const fg_gate *gate = fg_quiet_gate(q);
    int32_t *rows = q->reach; /* it is not needed yet */
    q->memory = 1;
    for (uint16_t i = 0; i < gate->size.ops; i++) {
        if (gate->ops[i].kind != FG_OP_SENSOR) continue;
        const fg_sensor *sensor = &gate->sensors[gate->ops[i].rule];
        int32_t most = 0;
        for (uint16_t k = 0; k < sensor->term_count; k++) {
            const fg_term *t = &gate->terms[sensor->first_term + k];
            if (!fg_term_reads(t->kind)) continue;
            const int32_t one = rows[t->sensor] + (t->kind == FG_TERM_SENSOR ? 0 : t->count);
            if (one > most) most = one;
        }
        rows[gate->ops[i].rule] = most + sensor->window;
        if (most + sensor->window > q->memory) q->memory = most + sensor->window;
    }
    memset(rows, 0, gate->size.sensors * sizeof *rows);
}

bool fg_quiet_start(fg_quiet *q)
{
    const fg_gate *gate = fg_quiet_gate(q);
    const size_t sensors = gate->size.sensors;
    q->low = calloc(q->width + 1, sizeof *q->low);
    q->high = calloc(q->width + 1, sizeof *q->high);
    q->wants.of = calloc(2 * sensors + 1, sizeof *q->wants.of);
    q->reach = calloc(sensors + 1, sizeof *q->reach);
    q->column_of = malloc((sensors + gate->size.flags + 1) * sizeof *q->column_of);
    q->simple = calloc(2 * sensors + 1, sizeof *q->simple);
    q->stack = malloc((FG_STACK_MOST + 1) * sizeof *q->stack);
    q->remembered = calloc(sensors + 1, sizeof *q->remembered);
    if (!fg_wanting_start(&q->wanting, gate)) return false;
    if (!q->low || !q->high || !q->wants.of || !q->reach || !q->column_of || !q->simple || !q->stack || !q->remembered)
        return false;
    q->by_value = q->simple + sensors;
    for (size_t i = 0; i < sensors + gate->size.flags; i++) q->column_of[i] = FG_NO_COLUMN;
    for (size_t i = 0; i < q->width; i++) q->column_of[q->inputs[i].number] = i;
    for (size_t i = 0; i < sensors; i++) q->simple[i] = gate->sensors[i].term_count && is_simple(q, &gate->sensors[i]);
    find_memory(q);
    find_remembered(q);
    q->wants.from = &q->wanting;
    for (uint32_t slot = 0; slot < (uint32_t)gate->size.ops + gate->size.watched; slot++) /* promises are watched */
        fg_wanting_add(&q->wanting, gate, (uint16_t)slot);
    for (uint16_t i = 0; i < sensors; i++) q->wanting.sensors[q->wanting.sensor_count++] = i;
    return true;
}

void fg_quiet_end(fg_quiet *q)
{
    fg_wanting_end(&q->wanting);
    free(q->low);
    free(q->high);
    free(q->wants.of);
    free(q->reach);
    free(q->column_of);
    free(q->simple);
    free(q->stack);
    free(q->remembered);
}
