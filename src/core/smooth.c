/* Conditioning, stage by stage. */
#include <ficklegate/smooth.h>

#include "wide.h"

bool fg_line_value(const fg_line *lines, uint8_t count, int32_t counts, fg_value *value)
{
    while (count > 1 && counts > lines->up_to) {
        lines++;
        count--;
    }
    int64_t units;
    fg_wide sum = fg_wide_sum(fg_wide_product(counts, lines->slope), fg_wide_of(lines->offset));
    if (!fg_wide_quotient(sum, lines->divisor, &units)) return false;
    if (units < INT32_MIN || units > INT32_MAX) return false;
    *value = (fg_value)units;
    return true;
}

fg_value fg_wrap(int64_t value, fg_value circle)
{
    int64_t rest = value % circle;
    return (fg_value)(rest < 0 ? rest + circle : rest);
}

/* ---- what makes a reading faulty ---- */

/* Once too old it stays so until the next reading: the clock may wrap meanwhile. */
static bool is_old(const fg_sensor *sensor, fg_sensor_state *state, fg_time now)
{
    if (sensor->stages & FG_STAGE_STALE && now - state->at > sensor->stale) state->old = true;
    return state->old;
}

static bool is_stuck(const fg_sensor *sensor, fg_sensor_state *state, fg_time now)
{
    if (!(sensor->stages & FG_STAGE_STUCK)) return false;
    if (!state->still_known || state->still != state->newest) {
        state->still_known = true;
        state->still = state->newest;
        state->still_since = now;
        state->is_stuck = false;
    }
    if (now - state->still_since >= sensor->stuck) state->is_stuck = true;
    return state->is_stuck;
}

static bool trusted(const fg_sensor *sensor, fg_trust when, fg_value value)
{
    return sensor->trust != when || fg_range_holds(&sensor->trusted, value);
}

/* ---- joining the last good values ---- */

static fg_value lower_middle(fg_value *values, uint8_t count)
{
    for (uint8_t i = 1; i < count; i++) {
        const fg_value value = values[i];
        uint8_t at = i;
        for (; at && values[at - 1] > value; at--) values[at] = values[at - 1];
        values[at] = value;
    }
    return values[(count - 1) / 2];
}

/* On a circle each value counts as its way from the newest. */
static fg_value joined(const fg_sensor *sensor, const fg_sensor_state *state, const fg_value *window, fg_value newest)
{
    fg_value sorted[FG_MEDIAN_MOST];
    int64_t sum = 0, result;
    const int64_t count = state->count;
    const bool mean = sensor->stages & FG_STAGE_MEAN;
    if (count < 1) return newest;
    for (uint8_t i = 0; i < count; i++) {
        int64_t value = sensor->circle ? fg_way(newest, window[i], sensor->circle) : window[i];
        sum += value;
        if (!mean && i < FG_MEDIAN_MOST) sorted[i] = (fg_value)value;
    }
    if (mean) {
        sum += sum < 0 ? -(count / 2) : count / 2;
        result = sum / count; // NOLINT(clang-analyzer-core.DivideZero): it is at least 1
    } else {
        result = lower_middle(sorted, state->count);
    }
    return sensor->circle ? fg_wrap(newest + result, sensor->circle) : (fg_value)result;
}

static fg_value join(const fg_sensor *sensor, fg_sensor_state *state, fg_value *window, fg_value value)
{
    window[state->head] = value;
    state->head = (uint8_t)(state->head + 1 < sensor->window ? state->head + 1 : 0);
    if (state->count < sensor->window) state->count++;
    return joined(sensor, state, window, value);
}

/* ---- zero ---- */

static bool take_zero(const fg_sensor *sensor, fg_sensor_state *state, fg_verdict zero, fg_value *value)
{
    fg_edge_state edge = {state->zero_last};
    const bool starts = fg_edge_step(&edge, zero, FG_YES) == FG_YES;
    state->zero_last = edge.last;
    state->zero_missed = starts && !state->ok;
    if (!state->ok) return false;
    if (starts) state->zero = *value;
    int64_t moved = (int64_t)*value - state->zero;
    if (sensor->circle) moved = fg_wrap(moved, sensor->circle);
    if (moved < INT32_MIN || moved > INT32_MAX) return false;
    *value = (fg_value)moved;
    return true;
}

bool fg_sensor_step(const fg_sensor *sensor, fg_sensor_state *state, fg_value *window, fg_verdict zero, fg_time now)
{
    fg_value value = state->newest;
    bool ok = state->heard == FG_HEARD_VALUE;
    state->refused = false;
    if (ok) {
        const bool stuck = is_stuck(sensor, state, now);
        ok = !is_old(sensor, state, now) && !stuck;
    }
    if (ok) {
        ok = trusted(sensor, FG_TRUST_RANGE, value);
        if (sensor->circle) value = fg_wrap(value, sensor->circle);
        ok = ok && trusted(sensor, FG_TRUST_WRAP, value);
        state->refused = !ok;
    }
    if (ok) {
        state->good = value;
        state->good_at = now;
        state->good_known = true;
    } else if (state->good_known) {
        state->good_known = sensor->stages & FG_STAGE_BRIDGE && now - state->good_at <= sensor->bridge;
        ok = state->good_known;
        value = state->good;
    }
    if (!ok) state->count = state->head = 0;
    if (ok && sensor->window) value = join(sensor, state, window, value);
    state->ok = ok;
    if (sensor->stages & FG_STAGE_ZERO) state->ok = take_zero(sensor, state, zero, &value);
    if (state->ok) state->value = value;
    return state->ok;
}

/* ---- flags ---- */

fg_verdict fg_flag_step(const fg_flag *flag, fg_flag_state *state, fg_time now)
{
    static const fg_settle none = FG_SETTLE_NONE;
    fg_verdict answer = FG_UNSURE;
    if (flag->stages & FG_STAGE_STALE && now - state->at > flag->stale) state->old = true;
    if (state->heard == FG_HEARD_VALUE && !state->old) answer = fg_sure(state->newest != flag->inverted);
    if (answer != FG_UNSURE) {
        state->good = answer;
        state->good_at = now;
    } else if (state->good != FG_UNSURE) {
        if (!(flag->stages & FG_STAGE_BRIDGE) || now - state->good_at > flag->bridge) state->good = FG_UNSURE;
        answer = state->good;
    }
    state->bridged = answer;
    if (answer == FG_UNSURE) {
        state->settle.present = state->settle.candidate = FG_UNSURE;
        state->answer = FG_UNSURE;
        return FG_UNSURE;
    }
    fg_settle settle = none;
    settle.time = flag->settle;
    state->answer = fg_settle_step(&settle, &state->settle, answer, 0, now);
    return state->answer;
}
