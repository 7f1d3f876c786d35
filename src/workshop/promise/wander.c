/* SPDX-License-Identifier: MIT */
/* A quick look at what may happen in a gate, by readings made by chance. */
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

/* Everything at once: what is seen here need not be asked for. */
fg_status fg_promise_wander(const fg_gate_file *file, uint64_t steps, fg_coverage *coverage, fg_mistake *mistake)
{
    enum { WALK = 2000 };
    fg_ask a = {.program = &file->program, .gate = &file->program.gate};
    fg_dice d = {UINT64_C(0x5eed)};
    uint32_t *choices = NULL;
    *mistake = (fg_mistake){0};
    if (!a.gate->every) return FG_ERROR_ARGUMENT;
    bool good = fg_ask_begin(&a, true);
    if (good) choices = calloc(a.cone.input_count + 1, sizeof *choices);
    good = good && choices;
    while (good && a.steps < steps) {
        const uint32_t calm = 1u << fg_dice_throw(&d, 8);
        memcpy(a.memory, a.fresh, a.size);
        for (uint32_t step = 0; step < WALK && a.steps < steps; step++, a.steps++) {
            const fg_time at = FG_PACKED_NOW + step * a.gate->every;
            for (size_t i = 0; i < a.cone.input_count; i++) {
                if (!step || !fg_dice_throw(&d, calm)) choices[i] = fg_dice_throw(&d, a.cone.inputs[i].count);
                fg_cone_feed(&a, i, choices[i], at);
            }
            fg_step(a.run, at);
            fg_coverage_step(coverage, a.run);
        }
    }
    free(choices);
    fg_ask_end(&a);
    return good ? FG_OK : fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory");
}
