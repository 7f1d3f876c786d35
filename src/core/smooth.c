/* SPDX-License-Identifier: MIT */
/* Conditioning, stage by stage. */
#include <ficklegate/smooth.h>

#include "since.h"
#include "wide.h"
#include "window.h"

/* For steep scales and large offsets: in 128 bits. */
static bool wide_scale_value(const fg_scale_piece *piece, int32_t counts, int64_t *value)
{
    const fg_wide sum = fg_wide_sum(fg_wide_product(counts, piece->slope), fg_wide_of(piece->offset));
    return fg_wide_quotient(sum, piece->divisor, value);
}

/* Pieces are ordered by `up_to`, and the last one has no end. The count is at least 1. */
bool fg_scale_value(const fg_scale_piece *scale, uint8_t count, int32_t counts, fg_value *value)
{
    for (; count > 1 && counts > scale->up_to; count--) scale++;
    int64_t units;
    if (fg_is_small(scale->slope) && scale->offset < FG_SUM_MOST && scale->offset > -FG_SUM_MOST)
        units = fg_rounded(counts * scale->slope + scale->offset, scale->divisor);
    else if (!wide_scale_value(scale, counts, &units))
        return false;
    if (units < INT32_MIN || units > INT32_MAX) return false;
    *value = (fg_value)units;
    return true;
}

/* ---- what is fed ---- */

void fg_sensor_feed(fg_sensor_state *state, fg_value value, fg_time at)
{
    state->newest = value;
    state->heard = FG_HEARD_VALUE;
    state->at = at;
    state->fresh = true;
    state->old = false;
}

/* The newest value stays: `stuck` compares the next reading with it. */
void fg_sensor_fault(fg_sensor_state *state, fg_time at)
{
    state->heard = FG_HEARD_FAULT;
    state->at = at;
    state->fresh = true;
}

void fg_flag_feed(fg_flag_state *state, bool yes, fg_time at)
{
    state->newest = yes;
    state->heard = FG_HEARD_VALUE;
    state->at = at;
    state->fresh = true;
    state->old = false;
}

void fg_flag_fault(fg_flag_state *state, fg_time at)
{
    state->heard = FG_HEARD_FAULT;
    state->at = at;
    state->fresh = true;
}

/* ---- what makes a reading faulty ---- */

/* Once too old it stays so until the next reading: the clock may wrap meanwhile. A reading that was stamped after the
 * step is new. */
static bool is_old(const fg_sensor *sensor, fg_sensor_state *state, fg_time now)
{
    if (sensor->stages & FG_STAGE_STALE && fg_passed(&state->at, now) > sensor->stale) state->old = true;
    return state->old;
}

/* A reading that does not move for so long is taken for a broken sensor. Once stuck it stays so until it moves, even
 * if the clock wraps meanwhile. */
static bool is_stuck(const fg_sensor *sensor, fg_sensor_state *state, fg_time now)
{
    if (!(sensor->stages & FG_STAGE_STUCK)) return false;
    if (!state->stuck_known || state->stuck_value != state->newest) {
        state->stuck_known = true;
        state->stuck_value = state->newest;
        state->stuck_since = now;
        state->is_stuck = false;
    }
    if (fg_passed(&state->stuck_since, now) >= sensor->stuck) state->is_stuck = true;
    return state->is_stuck;
}

/* ---- zero ---- */

/* The zero is taken from the reading in the very step in which the flag starts. If the sensor was faulty then,
 * `zero_missed` tells the explanations why nothing was taken. */
static bool take_zero(const fg_sensor *sensor, fg_sensor_state *state, fg_verdict zero, fg_value *value)
{
    fg_edge_state edge = {state->zero_previous};
    const bool starts = fg_edge_step(&edge, zero, FG_YES) == FG_YES;
    state->zero_previous = edge.previous;
    state->zero_missed = starts && !state->ok;
    if (!state->ok) return false;
    if (starts) state->zero = *value;
    int64_t moved = (int64_t)*value - state->zero;
    if (sensor->circle) moved = fg_wrap(moved, sensor->circle);
    if (moved < INT32_MIN || moved > INT32_MAX) return false;
    *value = (fg_value)moved;
    return true;
}

/* A reading that came: is it young enough, does it move, can it be? */
static bool believed(const fg_sensor *sensor, fg_sensor_state *state, fg_value *value, fg_time now)
{
    if (sensor->stages & (FG_STAGE_STALE | FG_STAGE_STUCK)) {
        const bool stuck = is_stuck(sensor, state, now);
        if (is_old(sensor, state, now) || stuck) return false;
    }
    if (sensor->trust == FG_TRUST_RANGE) state->refused = !fg_range_holds(&sensor->trusted, *value);
    if (sensor->circle) *value = fg_wrap(*value, sensor->circle);
    if (sensor->trust == FG_TRUST_WRAP) state->refused = !fg_range_holds(&sensor->trusted, *value);
    return !state->refused;
}

/* The last good value stands in, if there is one and it is young enough. */
static bool bridged(const fg_sensor *sensor, fg_sensor_state *state, fg_value *value, fg_time now)
{
    *value = state->good;
    state->good_known =
        state->good_known && sensor->stages & FG_STAGE_BRIDGE && fg_passed(&state->good_at, now) <= sensor->bridge;
    if (!state->good_known) state->count = state->head = 0;
    return state->good_known;
}

/* The stages in the order of the language, whatever order they were written in. `ok` and `value` are all that the
 * rules see; `good` is what a bridge falls back on, before the window and the zero. */
bool fg_sensor_step(const fg_sensor *sensor, fg_sensor_state *state, fg_value *window, fg_verdict zero, fg_time now)
{
    fg_value value = state->newest;
    state->refused = false;
    if (state->heard == FG_HEARD_VALUE && believed(sensor, state, &value, now)) {
        state->good = value;
        state->good_at = now;
        state->good_known = state->ok = true;
    } else {
        state->ok = bridged(sensor, state, &value, now);
    }
    /* Only good values go into the window; a fault that is not bridged has emptied it. */
    if (state->ok && sensor->window) value = fg_window_step(sensor, state, window, value);
    if (sensor->stages & FG_STAGE_ZERO) state->ok = take_zero(sensor, state, zero, &value);
    if (state->ok) state->value = value;
    return state->ok;
}

/* ---- flags ---- */

/* Stale, inverted, bridge, settle: the order of the language. The flag is steady, and its next steps can be left out,
 * as long as nothing new is fed, no clock runs, and nothing waits. */
fg_verdict fg_flag_step(const fg_flag *flag, fg_flag_state *state, fg_time now)
{
    fg_verdict answer = FG_UNSURE;
    if (flag->stages & FG_STAGE_STALE && fg_passed(&state->at, now) > flag->stale) state->old = true;
    if (state->heard == FG_HEARD_VALUE && !state->old) answer = fg_sure(state->newest != flag->inverted);
    if (answer != FG_UNSURE) {
        state->good = answer;
        state->good_at = now;
    } else if (state->good != FG_UNSURE) {
        if (!(flag->stages & FG_STAGE_BRIDGE) || fg_passed(&state->good_at, now) > flag->bridge)
            state->good = FG_UNSURE;
        answer = state->good;
    }
    state->bridged = state->answer = answer;
    if (answer == FG_UNSURE) {
        state->settle.present = state->settle.candidate = FG_UNSURE;
    } else {
        const fg_settle settle = FG_SETTLE(flag->settle);
        state->answer = fg_settle_step(&settle, &state->settle, answer, 0, now);
    }
    state->steady = !(flag->stages & FG_STAGE_STALE) && state->heard != FG_HEARD_FAULT &&
                    state->settle.candidate == state->settle.present;
    return state->answer;
}
