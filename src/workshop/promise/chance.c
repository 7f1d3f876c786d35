/* SPDX-License-Identifier: MIT */
/* Readings by chance, at and beside the limits, each staying for a while: they go deep where all states are too many.
 */
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

typedef struct dice {
    uint64_t state;
} dice;

/* SplitMix64 (Steele, Lea and Flood, Fast Splittable Pseudorandom Number Generators, 2014). Below `most`. */
static uint32_t throw(dice * d, uint32_t most)
{
    uint64_t z = d->state += UINT64_C(0x9e3779b97f4a7c15);
    z = (z ^ z >> 30) * UINT64_C(0xbf58476d1ce4e5b9);
    z = (z ^ z >> 27) * UINT64_C(0x94d049bb133111eb);
    return (uint32_t)((z ^ z >> 31) % most);
}

/* A reading stays as long as a wait of the gate may last, or for a step. */
static bool walk(fg_ask *a, dice *d, fg_path *way, size_t most)
{
    const size_t inputs = a->cone.input_count;
    const uint32_t calm = 1u << throw(d, 8);
    fg_judge judge = {0};
    memcpy(a->memory, a->fresh, a->size);
    for (way->steps = 1; way->steps <= most && a->steps < a->most; way->steps++) {
        uint32_t *now = way->choices + (way->steps - 1) * inputs;
        const uint32_t *before = way->steps > 1 ? now - inputs : now;
        const fg_time at = FG_PACKED_NOW + (fg_time)(way->steps - 1) * a->gate->every;
        for (size_t i = 0; i < inputs; i++) {
            const bool keeps = way->steps > 1 && throw(d, calm);
            now[i] = keeps ? before[i] : throw(d, a->cone.inputs[i].count);
            fg_cone_feed(a, i, now[i], at);
        }
        fg_step(a->run, at);
        a->steps++;
        const fg_judged judged = fg_judge_step(a, &judge);
        if (judged == FG_JUDGED_BROKEN) return true;
        if (judged == FG_JUDGED_OUTSIDE) return false;
    }
    return false;
}

fg_promise_verdict fg_search_by_chance(fg_ask *a, fg_path *way)
{
    enum { STEPS = 4000, WALKS_OFTEN = 16 };
    dice d = {UINT64_C(0x5eed)};
    way->choices = malloc((STEPS * a->cone.input_count + 1) * sizeof *way->choices);
    a->full = a->full || !way->choices;
    for (unsigned walks = 1; way->choices && a->steps < a->most; walks++) {
        if (walk(a, &d, way, STEPS)) return FG_PROMISE_BREAKS;
        if (walks % WALKS_OFTEN == 0 && a->progress.tell)
            a->progress.tell(a->progress.context, a->steps, a->steps, a->most);
    }
    free(way->choices);
    *way = (fg_path){0};
    return FG_PROMISE_UNDECIDED;
}
