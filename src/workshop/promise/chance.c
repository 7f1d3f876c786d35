/* SPDX-License-Identifier: MIT */
/* Readings by chance, at and beside the limits, each staying for a while: they go deep where all states are too many.
 */
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

/* A reading stays as long as a wait of the gate may last, or for a step. */
static bool walk(fg_ask *a, fg_dice *d, fg_path *way, size_t most)
{
    const size_t inputs = a->cone.input_count;
    const uint32_t calm = 1u << fg_dice_throw(d, 8);
    fg_judge judge = {0};
    memcpy(a->memory, a->fresh, a->size);
    for (way->steps = 1; way->steps <= most && a->steps < a->most; way->steps++) {
        uint32_t *now = way->choices + (way->steps - 1) * inputs;
        const uint32_t *before = way->steps > 1 ? now - inputs : now;
        const fg_time at = FG_PACKED_NOW + (fg_time)(way->steps - 1) * a->gate->every;
        for (size_t i = 0; i < inputs; i++) {
            const bool keeps = way->steps > 1 && fg_dice_throw(d, calm);
            now[i] = keeps ? before[i] : fg_dice_throw(d, a->cone.inputs[i].count);
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
    fg_dice d = {UINT64_C(0x5eed)};
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
