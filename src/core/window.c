/* SPDX-License-Identifier: MIT */
/* The window of a sensor: its newest good values, joined to one. On a circle each value counts as its shortest way from
 * the newest. */
#include "window.h"

#include "wide.h"

/* The lower of the two in the middle. */
static fg_value middle(const fg_value *sorted, uint8_t count) { return sorted[(count - 1) / 2]; }

/* Puts a value where it belongs among `count` that are in order. */
static void insert(fg_value *sorted, uint8_t count, fg_value value)
{
    uint8_t at = count;
    for (; at && sorted[at - 1] > value; at--) sorted[at] = sorted[at - 1];
    sorted[at] = value;
}

/* Puts a value where it belongs in place of one that was among the `count` in order. */
static void replace(fg_value *sorted, uint8_t count, fg_value old, fg_value value)
{
    uint8_t at = 0;
    while (at + 1 < count && sorted[at] < old) at++;
    for (; at + 1 < count && sorted[at + 1] < value; at++) sorted[at] = sorted[at + 1];
    for (; at && sorted[at - 1] > value; at--) sorted[at] = sorted[at - 1];
    sorted[at] = value;
}

/* The way from the newest is another for each value at each step, so all are put in order anew. */
static fg_value circle_median(const fg_sensor *sensor, const fg_value *window, fg_value *sorted, uint8_t count,
                              fg_value newest)
{
    for (uint8_t i = 0; i < count; i++) insert(sorted, i, (fg_value)fg_way(newest, window[i], sensor->circle));
    return middle(sorted, count);
}

/* A sum of at most 64 values of 32 bits fits into 64. */
static fg_value mean(const fg_sensor *sensor, const fg_value *window, uint8_t count, fg_value newest)
{
    int64_t sum = 0;
    for (uint8_t i = 0; i < count; i++) sum += sensor->circle ? fg_way(newest, window[i], sensor->circle) : window[i];
    return (fg_value)fg_rounded(sum, count);
}

/* The ring holds the values as they came; a median keeps them a second time in order behind it, so that one step moves
 * a few of them instead of sorting all. */
fg_value fg_window_step(const fg_sensor *sensor, fg_sensor_state *state, fg_value *window, fg_value value)
{
    fg_value *const sorted = window + sensor->window;
    const bool means = sensor->stages & FG_STAGE_MEAN, full = state->count == sensor->window;
    const fg_value oldest = window[state->head];
    window[state->head] = value;
    state->head = (uint8_t)(state->head + 1 < sensor->window ? state->head + 1 : 0);
    if (!means && !sensor->circle) {
        if (full)
            replace(sorted, state->count, oldest, value);
        else
            insert(sorted, state->count++, value);
        return middle(sorted, state->count);
    }
    if (!full) state->count++;
    const fg_value joined =
        means ? mean(sensor, window, state->count, value) : circle_median(sensor, window, sorted, state->count, value);
    return sensor->circle ? fg_wrap((int64_t)value + joined, sensor->circle) : joined;
}
