/* SPDX-License-Identifier: MIT */
/* A break with fewer changes and faults: what can be left out is left out, from long stretches down to single steps, as
 * long as the row breaks all the same (after Zeller and Hildebrandt, Simplifying and Isolating Failure-Inducing Input,
 * 2002). */
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

enum { TRIES_MOST = 1000, STEPS_MOST = 1000000 }; /* of each way of leaving out */

size_t fg_path_breaks(fg_ask *a, const fg_path *way)
{
    const size_t inputs = a->cone.input_count;
    fg_judge judge = {0};
    memcpy(a->memory, a->fresh, a->size);
    for (size_t step = 0; step < way->steps; step++) {
        const fg_time at = FG_PACKED_NOW + (fg_time)step * a->gate->every;
        for (size_t i = 0; i < inputs; i++) fg_cone_feed(a, i, way->choices[step * inputs + i], at);
        fg_step(a->run, at);
        const fg_judged judged = fg_judge_step(a, &judge);
        if (judged == FG_JUDGED_BROKEN) return step;
        if (judged == FG_JUDGED_OUTSIDE) break;
    }
    return SIZE_MAX;
}

typedef struct tidying {
    fg_ask *a;
    fg_path *way, other;
    size_t tries, steps;
} tidying;

/* Takes `other` over if it breaks too. */
static bool take(tidying *t)
{
    if (t->tries >= TRIES_MOST || t->steps >= STEPS_MOST) return false;
    t->tries++;
    t->steps += t->other.steps;
    const size_t breaks = fg_path_breaks(t->a, &t->other);
    if (breaks == SIZE_MAX) return false;
    const size_t inputs = t->a->cone.input_count;
    t->way->steps = breaks + 1;
    memcpy(t->way->choices, t->other.choices, t->way->steps * inputs * sizeof *t->way->choices);
    return true;
}

static void copy(tidying *t)
{
    const size_t inputs = t->a->cone.input_count;
    memcpy(t->other.choices, t->way->choices, t->way->steps * inputs * sizeof *t->way->choices);
    t->other.steps = t->way->steps;
}

/* Without these steps. */
static bool without_steps(tidying *t, size_t from, size_t count)
{
    const size_t inputs = t->a->cone.input_count;
    copy(t);
    memmove(t->other.choices + from * inputs, t->other.choices + (from + count) * inputs,
            (t->other.steps - from - count) * inputs * sizeof *t->other.choices);
    t->other.steps -= count;
    return take(t);
}

/* One input stays as it was before, for so many steps. */
static bool without_change(tidying *t, size_t input, size_t from, size_t count)
{
    const size_t inputs = t->a->cone.input_count;
    copy(t);
    const uint32_t before = t->other.choices[(from - 1) * inputs + input];
    bool other = false;
    for (size_t step = from; step < from + count && step < t->other.steps; step++) {
        uint32_t *choice = &t->other.choices[step * inputs + input];
        other = other || *choice != before;
        *choice = before;
    }
    return other && take(t);
}

static void leave_out_steps(tidying *t)
{
    for (size_t count = t->way->steps / 2; count; count /= 2)
        for (size_t from = 0; from + count < t->way->steps;)
            if (!without_steps(t, from, count)) from += count;
}

static void leave_out_changes(tidying *t)
{
    for (size_t count = t->way->steps; count; count /= 2)
        for (size_t input = 0; input < t->a->cone.input_count; input++)
            for (size_t from = 1; from < t->way->steps; from++) {
                const size_t inputs = t->a->cone.input_count;
                const uint32_t *at = &t->way->choices[from * inputs + input];
                if (*at == at[-(ptrdiff_t)inputs]) continue;
                if (!without_change(t, input, from, count)) from += count - 1;
            }
}

/* A value instead of a fault, from here up to where it changes. */
static void leave_out_faults(tidying *t)
{
    const size_t inputs = t->a->cone.input_count;
    for (size_t input = 0; input < inputs; input++) {
        const fg_asked_input *about = &t->a->cone.inputs[input];
        for (size_t from = 0; from < t->way->steps; from++) {
            const uint32_t is = t->way->choices[from * inputs + input];
            if (about->choices[is].kind == FG_CHOICE_VALUE) continue;
            size_t to = from;
            while (to < t->way->steps && t->way->choices[to * inputs + input] == is) to++;
            for (uint32_t value = 0; value < about->count; value++) {
                if (about->choices[value].kind != FG_CHOICE_VALUE) continue;
                copy(t);
                for (size_t step = from; step < to; step++) t->other.choices[step * inputs + input] = value;
                if (take(t)) break;
            }
            from = to;
        }
    }
}

/* One input has one value throughout. */
static void leave_out_inputs(tidying *t)
{
    const size_t inputs = t->a->cone.input_count;
    for (size_t input = 0; input < inputs; input++) {
        const fg_asked_input *about = &t->a->cone.inputs[input];
        for (uint32_t value = 0; value < about->count; value++) {
            if (about->choices[value].kind != FG_CHOICE_VALUE) continue;
            copy(t);
            for (size_t step = 0; step < t->other.steps; step++) t->other.choices[step * inputs + input] = value;
            if (take(t)) break;
        }
    }
}

void fg_path_tidy(fg_ask *a, fg_path *way)
{
    static void (*const ways[])(tidying * t) = {leave_out_inputs,  leave_out_changes, leave_out_steps,
                                                leave_out_changes, leave_out_faults,  leave_out_inputs,
                                                leave_out_changes};
    tidying t = {.a = a, .way = way};
    t.other.choices = malloc((way->steps * a->cone.input_count + 1) * sizeof *t.other.choices);
    a->full = a->full || !t.other.choices;
    if (!t.other.choices) return;
    for (size_t i = 0; i < sizeof ways / sizeof *ways; i++) {
        t.tries = t.steps = 0;
        ways[i](&t);
    }
    free(t.other.choices);
}
