/* SPDX-License-Identifier: MIT */
/* Would other smoothing tell the labels apart? The steps go through the windows of a sensor, and the best cuts are
 * found again. */
#include "workshop/base/sort.h"
#include "workshop/tune/tuning.h"

#include <stdlib.h>
#include <string.h>

typedef struct smoothing {
    uint8_t window;
    bool mean;
} smoothing;

/* Two of them by size. */
static void order(fg_value *a, fg_value *b)
{
    const fg_value low = *a < *b ? *a : *b, high = *a < *b ? *b : *a;
    *a = low;
    *b = high;
}

/* Of three and of five by comparisons in a fixed order (Knuth, The Art of Computer Programming, volume 3, 5.3.4). */
static fg_value median_of_3(const fg_labelled *s)
{
    fg_value a = s[0].value, b = s[1].value, c = s[2].value;
    order(&a, &b);
    order(&b, &c);
    order(&a, &b);
    return b;
}

static fg_value median_of_5(const fg_labelled *s)
{
    fg_value a = s[0].value, b = s[1].value, c = s[2].value, d = s[3].value, e = s[4].value;
    order(&a, &b);
    order(&c, &d);
    order(&a, &c); /* a is below three of them */
    order(&b, &d); /* d is above three */
    order(&b, &c);
    order(&c, &e);
    order(&b, &c);
    return c;
}

/* Puts a value in the place of another among `count` in order. */
static void replace(fg_value *sorted, int count, fg_value old, fg_value value)
{
    int at = 0;
    while (sorted[at] != old) at++;
    for (; at + 1 < count && sorted[at + 1] < value; at++) sorted[at] = sorted[at + 1];
    for (; at && sorted[at - 1] > value; at--) sorted[at] = sorted[at - 1];
    sorted[at] = value;
}

/* The same of any size, by what was in the window before. */
static void medians(const fg_labelled *steps, size_t from, size_t to, int window, fg_labelled *out)
{
    fg_value sorted[FG_WINDOW_MOST];
    for (int i = 0; i < window; i++) sorted[i] = steps[from - (size_t)window + (size_t)i].value;
    fg_sort_values(sorted, (size_t)window);
    for (size_t i = from; i < to; i++) {
        replace(sorted, window, steps[i - (size_t)window].value, steps[i].value);
        out[i].value = sorted[(window - 1) / 2];
    }
}

/* Rounded as fg_sensor_step does: halves away from zero. */
static void means(const fg_labelled *steps, size_t from, size_t to, int window, fg_labelled *out)
{
    int64_t sum = 0;
    for (int i = 0; i < window; i++) sum += steps[from - (size_t)window + (size_t)i].value;
    for (size_t i = from; i < to; i++) {
        sum += (int64_t)steps[i].value - steps[i - (size_t)window].value;
        const int64_t twice = 2 * sum + (sum < 0 ? -window : window), by = 2 * (int64_t)window;
        out[i].value = (fg_value)(twice / by);
    }
}

/* Steps whose whole window is good readings, on a straight line. */
static void smooth_full(const fg_labelled *steps, size_t from, size_t to, smoothing with, fg_labelled *out)
{
    if (with.mean)
        means(steps, from, to, with.window, out);
    else if (with.window == 3)
        for (size_t i = from; i < to; i++) out[i].value = median_of_3(&steps[i - 2]);
    else if (with.window == 5)
        for (size_t i = from; i < to; i++) out[i].value = median_of_5(&steps[i - 4]);
    else
        medians(steps, from, to, with.window, out);
}

/* Good readings that follow each other go through a window, as the sensor would send them; once it is full on a
 * straight line, in bulk. */
static void smooth_run(const fg_tuning *t, size_t from, size_t to, smoothing with, fg_labelled *out)
{
    const fg_sensor sensor = {
        .circle = t->circle, .window = with.window, .stages = with.mean ? FG_STAGE_MEAN : 0, .trust = FG_TRUST_ALL};
    fg_sensor_state state = {.heard = FG_HEARD_VALUE};
    fg_value window[2 * FG_WINDOW_MOST] = {0};
    const size_t full = !t->circle && to - from > with.window ? from + with.window : to;
    for (size_t i = from; i < full; i++) {
        state.newest = t->steps[i].value;
        (void)fg_sensor_step(&sensor, &state, window, FG_NO, (fg_time)i);
        out[i] = (fg_labelled){state.value, t->steps[i].label};
    }
    for (size_t i = full; i < to; i++) out[i].label = t->steps[i].label;
    if (full < to) smooth_full(t->steps, full, to, with, out);
}

/* A fault empties the window. */
static void smooth(const fg_tuning *t, smoothing with, fg_labelled *out)
{
    for (size_t from = 0, to; from < t->step_count; from = to) {
        for (to = from; to < t->step_count && t->steps[to].label != FG_LABEL_BREAK; to++) continue;
        smooth_run(t, from, to, with, out);
        for (; to < t->step_count && t->steps[to].label == FG_LABEL_BREAK; to++) out[to] = t->steps[to];
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
        fg_counted *counted = fg_tuning_count(steps, t->step_count, t->labels, &count);
        memcpy(boundaries, t->boundaries, t->boundary_count * sizeof *boundaries);
        uint64_t now = UINT64_MAX;
        good = counted && fg_best_cuts(t, counted, count, boundaries, t->boundary_count, &now);
        free(counted);
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
