/* SPDX-License-Identifier: MIT */
/* Sensors worked out from others: a small stack machine in 64-bit millionths. */
#include "angle.h"
#include "run.h"

#define MILLION INT32_C(1000000)

/* How many millionths a step of this sensor is. */
static int32_t millionths_per_step(const fg_sensor *sensor)
{
    static const int32_t millionths[] = {1000000, 100000, 10000, 1000, 100, 10, 1};
    return millionths[sensor->decimals];
}

/* The root of the sum of squares. Squares of small numbers are added in 64 bits as long as they stay there; others in
 * 128. */
static bool length(const int64_t *values, uint8_t count, int64_t *out)
{
    fg_wide squares = {0, 0};
    for (uint8_t i = 0; i < count; i++) {
        if (fg_is_small(values[i]) && !squares.high && squares.low >> 63 == 0) /* it stays below 2^64 */
            squares.low += (uint64_t)(values[i] * values[i]);
        else
            squares = fg_wide_sum(squares, fg_wide_product(values[i], values[i]));
    }
    return fg_wide_root(squares, out);
}

/* A vector of no length has no angle: the sensor is faulty then. */
static bool angle(int64_t y, int64_t x, int64_t *out)
{
    if (!y && !x) return false;
    *out = fg_angle(y, x);
    return true;
}

/* ---- windows ---- */

/* Puts a value in, and says where. As long as the window is not full its values stand from 0 on. */
static uint8_t remember(fg_window_state *state, uint8_t room, fg_value *values, fg_value value)
{
    const uint8_t at = state->head;
    values[at] = value;
    state->head = (uint8_t)(at + 1 < room ? at + 1 : 0);
    if (state->count < room) state->count++;
    return at;
}

/* Times that are less than this apart, as many as fit into a window, lie within 2^31 ms. */
#define FAR_APART (((fg_time)1 << 31) / 64)

/* The place behind another in a ring. */
static uint8_t next_in(const fg_term *term, uint8_t at) { return (uint8_t)(at + 1 < term->count ? at + 1 : 0); }

/* From the oldest step in the window to the newest, in ms; 2^31 where it is that long or longer. The difference of the
 * two times says so as long as no step was far from the next; else 32 bits may have come round between them, and the
 * ways from step to step are added up. */
static fg_time span_of(const fg_term *term, fg_window_state *state, const fg_value *times, uint8_t newest)
{
    const fg_time most = (fg_time)1 << 31;
    const uint8_t oldest = state->count < term->count ? 0 : state->head;
    const uint8_t before = (uint8_t)(newest ? newest - 1 : term->count - 1);
    if (state->count > 1 && (fg_time)times[newest] - (fg_time)times[before] >= FAR_APART)
        state->far = term->count;
    else if (state->far)
        state->far--;
    if (!state->far) return (fg_time)times[newest] - (fg_time)times[oldest];
    fg_time took = 0;
    for (uint8_t i = oldest; i != newest && took < most; i = next_in(term, i)) {
        const fg_time step = (fg_time)times[next_in(term, i)] - (fg_time)times[i];
        took = step < most ? took + step : most;
    }
    return took;
}

/* Behind the values of a rate stand the times at which they were read, as the bits of a value. */
static bool rate(const fg_term *term, fg_window_state *state, const fg_value *values, uint8_t newest,
                 const fg_sensor *sensor, int64_t *out)
{
    const uint8_t oldest = state->count < term->count ? 0 : state->head;
    const fg_time took = span_of(term, state, values + term->count, newest);
    if (state->count < 2 || took > INT32_MAX) return false;
    return fg_scaled(fg_way(values[oldest], values[newest], sensor->circle), term->number * 1000, took, out);
}

/* Where the lowest of some values stands, the first of equal ones. */
static uint8_t lowest_of(const fg_value *v, uint8_t count)
{
    const fg_value *best = v;
    for (const fg_value *at = v + 1; at < v + count; at++)
        if (*at < *best) best = at;
    return (uint8_t)(best - v);
}

/* Where the highest stands. */
static uint8_t highest_of(const fg_value *v, uint8_t count)
{
    const fg_value *best = v;
    for (const fg_value *at = v + 1; at < v + count; at++)
        if (*at > *best) best = at;
    return (uint8_t)(best - v);
}

/* Where the lowest or highest value stands, the newest of equal ones, is kept: only when that one gives way are all
 * looked at. */
static fg_value extreme(bool highest, fg_window_state *state, const fg_value *v, uint8_t newest)
{
    if (state->best == newest || state->count == 1)
        state->best = highest ? highest_of(v, state->count) : lowest_of(v, state->count);
    else if (highest ? v[newest] >= v[state->best] : v[newest] <= v[state->best])
        state->best = newest;
    return v[state->best];
}

/* A window looks at its sensor at every step, whatever becomes of the rest of the sum. */
static bool window_value(fg_run *run, const fg_term *term, int64_t *out)
{
    const fg_sensor_state *sensor = &run->sensors[term->sensor];
    fg_window_state *state = &run->windows[term->window];
    fg_value *values = &run->window_values[term->window_at];
    *out = 0;
    if (!sensor->ok) {
        state->count = state->head = 0;
        return false;
    }
    const uint8_t newest = remember(state, term->count, values, sensor->value);
    if (term->kind == FG_TERM_RATE) {
        values[term->count + newest] = (fg_value)run->now;
        return rate(term, state, values, newest, &run->gate->sensors[term->sensor], out);
    }
    *out = extreme(term->kind == FG_TERM_PEAK, state, values, newest) * term->number;
    return true;
}

/* ---- terms ---- */

/* How many values a term takes from the stack. */
static uint8_t operands(const fg_term *term)
{
    switch ((fg_term_kind)term->kind) {
    case FG_TERM_NEGATE:
    case FG_TERM_ABS: return 1;
    case FG_TERM_LENGTH: return term->count;
    case FG_TERM_NUMBER:
    case FG_TERM_SENSOR:
    case FG_TERM_RATE:
    case FG_TERM_DIP:
    case FG_TERM_PEAK: return 0;
    default: return 2;
    }
}

/* Runs through the terms without values. A gate may come from a careful hand, so the stack is proved here, once, and
 * the step relies on it. */
bool fg_expression_fits(const fg_gate *gate, const fg_sensor *sensor)
{
    uint16_t depth = 0;
    for (uint16_t i = 0; i < sensor->term_count; i++) {
        const uint8_t taken = operands(&gate->terms[sensor->first_term + i]);
        if (taken > depth || depth - taken >= FG_STACK_MOST) return false;
        depth = (uint16_t)(depth - taken + 1);
    }
    return depth <= 1;
}

/* A product of 32 and 20 bits fits into 64. */
static bool sensor_value(const fg_run *run, const fg_term *term, int64_t *out)
{
    const fg_sensor_state *state = &run->sensors[term->sensor];
    *out = state->value * term->number;
    return state->ok;
}

/* NOLINTBEGIN(clang-analyzer-core.*): fg_expression_fits() has seen that every term finds its operands */

/* Works a term out and puts it on the stack in place of its operands; `top`: behind the last value. */
static bool work_out(fg_run *run, const fg_term *term, int64_t **top)
{
    int64_t *const v = *top;
    switch ((fg_term_kind)term->kind) {
    case FG_TERM_NUMBER:
        *v = term->number;
        ++*top;
        return true;
    case FG_TERM_SENSOR: ++*top; return sensor_value(run, term, v);
    case FG_TERM_RATE:
    case FG_TERM_DIP:
    case FG_TERM_PEAK: ++*top; return window_value(run, term, v);
    case FG_TERM_NEGATE: return fg_negated(v[-1], &v[-1]);
    case FG_TERM_ABS: return v[-1] >= 0 || fg_negated(v[-1], &v[-1]);
    case FG_TERM_LENGTH: *top -= term->count - 1; return length(v - term->count, term->count, v - term->count);
    case FG_TERM_ADD: --*top; return fg_sum(v[-2], v[-1], &v[-2]);
    case FG_TERM_SUBTRACT: --*top; return fg_difference(v[-2], v[-1], &v[-2]);
    case FG_TERM_MULTIPLY: --*top; return fg_scaled(v[-2], v[-1], MILLION, &v[-2]);
    case FG_TERM_DIVIDE: --*top; return fg_scaled(v[-2], MILLION, v[-1], &v[-2]);
    case FG_TERM_LOWEST:
        --*top;
        if (v[-1] < v[-2]) v[-2] = v[-1];
        return true;
    case FG_TERM_HIGHEST:
        --*top;
        if (v[-1] > v[-2]) v[-2] = v[-1];
        return true;
    case FG_TERM_ANGLE: --*top; return angle(v[-2], v[-1], &v[-2]);
    }
    return false;
}

/* The sum is lost, but what is left of its windows sees this step too. */
static bool lost(fg_run *run, const fg_term *term, const fg_term *end)
{
    int64_t nowhere;
    for (; term < end; term++)
        if (term->kind >= FG_TERM_RATE) (void)window_value(run, term, &nowhere);
    return false;
}

/* The stack holds exactly one value at the end; its last rounding makes millionths whole steps. What leaves 32 bits
 * there is faulty, not clamped: a clamped value would look like a reading. */
bool fg_expression_value(fg_run *run, const fg_sensor *sensor, fg_value *value)
{
    int64_t stack[FG_STACK_MOST], *top = stack;
    const fg_term *term = &run->gate->terms[sensor->first_term], *const end = term + sensor->term_count;
    for (; term < end; term++)
        if (!work_out(run, term, &top)) return lost(run, term + 1, end);
    const int64_t steps = fg_rounded(stack[0], millionths_per_step(sensor));
    if (steps < INT32_MIN || steps > INT32_MAX) return false;
    *value = (fg_value)steps;
    return true;
}

/* NOLINTEND(clang-analyzer-core.*) */
