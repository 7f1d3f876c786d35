/* SPDX-License-Identifier: MIT */
/* Would other smoothing tell the labels apart? The steps go through the windows of a sensor, and the best cuts are
 * found again. */
#include "workshop/tune/tuning.h"

#include <stdlib.h>
#include <string.h>

typedef struct smoothing {
    uint8_t window;
    bool mean;
} smoothing;

/* Sends all steps through a window, as the sensor would. */
static void smooth(const fg_tuning *t, smoothing with, fg_labelled *out)
{
    const fg_sensor sensor = {
        .circle = t->circle, .window = with.window, .stages = with.mean ? FG_STAGE_MEAN : 0, .trust = FG_TRUST_ALL};
    fg_sensor_state state = {0};
    fg_value window[2 * FG_WINDOW_MOST] = {0};
    for (size_t i = 0; i < t->step_count; i++) {
        const bool fault = t->steps[i].label == FG_LABEL_BREAK;
        state.heard = fault ? FG_HEARD_FAULT : FG_HEARD_VALUE;
        state.newest = t->steps[i].value;
        out[i] = t->steps[i];
        if (fg_sensor_step(&sensor, &state, window, FG_NO, (fg_time)i))
            out[i].value = state.value;
        else
            out[i].label = FG_LABEL_BREAK;
    }
}

/* The shortest smoothing that gets the fewest wrong, if that is at most half of what is wrong without. */
bool fg_tuning_smooth(fg_tuning *t, uint64_t wrong)
{
    static const smoothing tries[] = {{2, true},  {3, false}, {4, true},   {5, false}, {8, true},
                                      {9, false}, {16, true}, {15, false}, {32, true}};
    const fg_sensor *sensor = &t->program->gate.sensors[t->rule->sensor];
    if (sensor->window || sensor->stages & FG_STAGE_ZERO || !wrong || !t->tuned.moves) return true;
    fg_labelled *steps = malloc((t->step_count + 1) * sizeof *steps);
    fg_boundary *boundaries = malloc((t->boundary_count + 1) * sizeof *boundaries);
    uint64_t best = wrong;
    bool good = steps && boundaries;
    t->tuned.smoothing_tried = true;
    for (size_t i = 0; good && i < sizeof tries / sizeof *tries; i++) {
        size_t count;
        smooth(t, tries[i], steps);
        fg_labelled *sorted = fg_tuning_sorted(steps, t->step_count, &count);
        memcpy(boundaries, t->boundaries, t->boundary_count * sizeof *boundaries);
        uint64_t now = UINT64_MAX;
        good = sorted && fg_best_cuts(t, sorted, count, boundaries, t->boundary_count, &now);
        free(sorted);
        if (now >= best || now > wrong / 2) continue;
        best = now;
        t->tuned.smoothing = tries[i].window;
        t->tuned.smoothing_mean = tries[i].mean;
        t->tuned.smoothing_wrong = now;
    }
    free(steps);
    free(boundaries);
    return good;
}
