/* Sensors worked out from others: a small stack machine in 64-bit millionths. */
#include "angle.h"
#include "run.h"

enum { MILLION = 1000000 };

typedef struct stack {
    int64_t values[FG_STACK_MOST];
    uint8_t depth;
} stack;

static int32_t power_of_ten(uint8_t digits)
{
    int32_t power = 1;
    while (digits--) power *= 10;
    return power;
}

/* How many millionths a step of this sensor is. */
static int32_t millionths_per_step(const fg_sensor *sensor)
{
    return power_of_ten((uint8_t)(FG_DECIMALS_MOST - sensor->decimals));
}

static bool sum(int64_t a, int64_t b, int64_t *out)
{
    const fg_wide total = fg_wide_sum(fg_wide_of(a), fg_wide_of(b));
    *out = (int64_t)total.low;
    return total.high == (*out < 0 ? UINT64_MAX : 0);
}

static bool negated(int64_t a, int64_t *out)
{
    if (a == INT64_MIN) return false;
    *out = -a;
    return true;
}

/* a * times / by, rounded once. */
static bool scaled(int64_t a, int64_t times, int64_t by, int64_t *out)
{
    if (by == INT64_MIN || !by) return false;
    fg_wide product = fg_wide_product(a, times);
    if (by < 0) {
        by = -by;
        product = fg_wide_sum((fg_wide){~product.high, ~product.low}, (fg_wide){0, 1});
    }
    return fg_wide_quotient(product, by, out);
}

static bool length(const int64_t *values, uint8_t count, int64_t *out)
{
    fg_wide squares = {0, 0};
    for (uint8_t i = 0; i < count; i++) squares = fg_wide_sum(squares, fg_wide_product(values[i], values[i]));
    return fg_wide_root(squares, out);
}

static bool angle(const int64_t *values, int64_t *out)
{
    if (!values[0] && !values[1]) return false;
    *out = fg_angle(values[0], values[1]);
    return true;
}

/* ---- windows ---- */

/* What a window keeps of the last steps, the newest last written. */
typedef struct window {
    const fg_term *term;
    fg_window_state *state;
    fg_value *values;
    fg_value *times; /* of a rate: when each was read, as the bits of a time */
} window;

static void remember(window *w, fg_value value, fg_time now)
{
    w->values[w->state->head] = value;
    if (w->term->kind == FG_TERM_RATE) w->times[w->state->head] = (fg_value)now;
    w->state->head = (uint8_t)(w->state->head + 1 < w->term->count ? w->state->head + 1 : 0);
    if (w->state->count < w->term->count) w->state->count++;
}

static uint8_t index_of(const window *w, uint8_t from_oldest)
{
    const uint16_t at = (uint16_t)(w->state->head + w->term->count - w->state->count + from_oldest);
    return (uint8_t)(at % w->term->count);
}

static bool rate(const window *w, const fg_sensor *sensor, int64_t *out)
{
    if (w->state->count < 2) return false;
    const uint8_t oldest = index_of(w, 0), newest = index_of(w, (uint8_t)(w->state->count - 1));
    const fg_time took = (fg_time)w->times[newest] - (fg_time)w->times[oldest];
    const int64_t way = fg_way(w->values[oldest], w->values[newest], sensor->circle);
    return scaled(way, (int64_t)millionths_per_step(sensor) * 1000, took, out);
}

static int64_t extreme(const window *w, bool highest)
{
    fg_value found = w->values[index_of(w, 0)];
    for (uint8_t i = 1; i < w->state->count; i++) {
        const fg_value value = w->values[index_of(w, i)];
        if (highest ? value > found : value < found) found = value;
    }
    return found;
}

/* A window looks at its sensor at every step, whatever becomes of the rest of the sum. */
static bool window_value(fg_run *run, const fg_term *term, int64_t *out)
{
    const fg_sensor *sensor = &run->gate->sensors[term->sensor];
    const fg_sensor_state *state = &run->sensors[term->sensor];
    fg_value *values = &run->window_values[term->window_at];
    window w = {term, &run->windows[term->window], values, values + term->count};
    if (!state->ok) {
        w.state->count = w.state->head = 0;
        return false;
    }
    remember(&w, state->value, run->now);
    if (term->kind == FG_TERM_RATE) return rate(&w, sensor, out);
    *out = extreme(&w, term->kind == FG_TERM_PEAK) * millionths_per_step(sensor);
    return true;
}

/* ---- terms ---- */

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

static bool sensor_value(const fg_run *run, const fg_term *term, int64_t *out)
{
    const fg_sensor_state *state = &run->sensors[term->sensor];
    *out = (int64_t)state->value * millionths_per_step(&run->gate->sensors[term->sensor]);
    return state->ok;
}

static bool work_out(fg_run *run, const fg_term *term, const int64_t *v, int64_t *out)
{
    switch ((fg_term_kind)term->kind) {
    case FG_TERM_NUMBER: *out = term->number; return true;
    case FG_TERM_SENSOR: return sensor_value(run, term, out);
    case FG_TERM_ADD: return sum(v[0], v[1], out);
    case FG_TERM_SUBTRACT: return v[1] == INT64_MIN ? v[0] < 0 && sum(v[0] - INT64_MIN, 0, out) : sum(v[0], -v[1], out);
    case FG_TERM_MULTIPLY: return scaled(v[0], v[1], MILLION, out);
    case FG_TERM_DIVIDE: return scaled(v[0], MILLION, v[1], out);
    case FG_TERM_NEGATE: return negated(v[0], out);
    case FG_TERM_ABS: *out = v[0]; return v[0] >= 0 || negated(v[0], out);
    case FG_TERM_LENGTH: return length(v, term->count, out);
    case FG_TERM_LOWEST: *out = v[0] < v[1] ? v[0] : v[1]; return true;
    case FG_TERM_HIGHEST: *out = v[0] > v[1] ? v[0] : v[1]; return true;
    case FG_TERM_ANGLE: return angle(v, out);
    case FG_TERM_RATE:
    case FG_TERM_DIP:
    case FG_TERM_PEAK: return window_value(run, term, out);
    }
    return false;
}

bool fg_expression_value(fg_run *run, const fg_sensor *sensor, fg_value *value)
{
    stack s = {.depth = 0};
    bool good = true;
    for (uint16_t i = 0; i < sensor->term_count; i++) {
        const fg_term *term = &run->gate->terms[sensor->first_term + i];
        const uint8_t taken = operands(term);
        int64_t result = 0;
        if (taken > s.depth || s.depth - taken >= FG_STACK_MOST) return false;
        s.depth = (uint8_t)(s.depth - taken);
        /* All terms are gone through, so that every window sees every step. */
        if (!work_out(run, term, &s.values[s.depth], &result)) good = false;
        s.values[s.depth++] = result;
    }
    int64_t steps = 0;
    if (!good || s.depth != 1) return false;
    if (!fg_wide_quotient(fg_wide_of(s.values[0]), millionths_per_step(sensor), &steps)) return false;
    if (!sensor->circle && (steps < INT32_MIN || steps > INT32_MAX)) return false;
    if (steps < INT32_MIN || steps > INT32_MAX) return false;
    *value = (fg_value)steps;
    return true;
}
