/* SPDX-License-Identifier: MIT */
/* A tuning and its steps: what the sensor of the rule read at each, and how it is labelled. */
#include "workshop/base/sort.h"
#include "workshop/tune/tuning.h"

#include <stdlib.h>

fg_tuning *fg_tuning_start(const fg_program *program, const fg_declared *rule, fg_text column)
{
    fg_tuning *t = calloc(1, sizeof *t);
    if (!t) return NULL;
    t->program = program;
    t->rule = rule;
    t->column = column;
    t->circle = program->gate.sensors[rule->sensor].circle;
    t->labels = fg_kind_is(rule->kind, FG_KIND_LABELS) ? (uint16_t)(rule->label_count + 1) : 2;
    return t;
}

void fg_tuning_end(fg_tuning *t)
{
    if (!t) return;
    for (size_t i = 0; i < FG_BOUNDARIES_MOST; i++) fg_buffer_free(&t->because[i]);
    free(t->steps);
    free(t->of_labels);
    free(t->cuts);
    free(t->changes);
    free(t);
}

const fg_declared *fg_tuning_rule(const fg_tuning *t) { return t->rule; }

void fg_tuning_add(fg_tuning *t, fg_value value, uint16_t label)
{
    if (t->step_count == t->step_room) {
        const size_t room = t->step_room ? 2 * t->step_room : 4096;
        fg_labelled *steps = realloc(t->steps, room * sizeof *steps);
        t->full = t->full || !steps;
        if (!steps) return;
        t->steps = steps;
        t->step_room = room;
    }
    t->steps[t->step_count++] = (fg_labelled){value, label};
}

/* ---- sorted ---- */

fg_labelled *fg_tuning_sorted(const fg_labelled *steps, size_t count, size_t *sorted_count)
{
    fg_labelled *sorted = malloc((count + 1) * sizeof *sorted);
    uint64_t *keys = malloc((count + 1) * sizeof *keys); /* by value, then by label */
    size_t n = 0;
    *sorted_count = 0;
    if (!sorted || !keys) {
        free(sorted);
        free(keys);
        return NULL;
    }
    for (size_t i = 0; i < count; i++)
        if (steps[i].label < FG_LABEL_OTHER) keys[n++] = (uint64_t)fg_key_of(steps[i].value) << 16 | steps[i].label;
    fg_sort_keys(keys, n);
    for (size_t i = 0; i < n; i++)
        sorted[i] = (fg_labelled){fg_value_of_key((uint32_t)(keys[i] >> 16)), (uint16_t)keys[i]};
    free(keys);
    *sorted_count = n;
    return sorted;
}
