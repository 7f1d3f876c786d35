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

/* ---- counted ---- */

static int64_t span_of(const fg_labelled *steps, size_t count, fg_value *lowest)
{
    int64_t low = INT32_MAX, high = INT32_MIN;
    for (size_t i = 0; i < count; i++) {
        if (steps[i].label >= FG_LABEL_OTHER) continue;
        if (steps[i].value < low) low = steps[i].value;
        if (steps[i].value > high) high = steps[i].value;
    }
    *lowest = (fg_value)low;
    return high - low + 1;
}

/* A place in memory for each value and label, where there are not many more of them than readings. */
static fg_counted *count_in_table(const fg_labelled *steps, size_t count, uint16_t labels, fg_value lowest,
                                  size_t cells, size_t *entries)
{
    uint32_t *table = calloc(cells, sizeof *table);
    size_t n = 0;
    for (size_t i = 0; table && i < count; i++)
        if (steps[i].label < FG_LABEL_OTHER)
            table[(size_t)((int64_t)steps[i].value - lowest) * labels + steps[i].label]++;
    for (size_t i = 0; table && i < cells; i++) n += table[i] != 0;
    fg_counted *counted = table ? malloc((n + 1) * sizeof *counted) : NULL;
    *entries = 0;
    for (size_t i = 0; counted && i < cells; i++)
        if (table[i])
            counted[(*entries)++] =
                (fg_counted){(fg_value)(lowest + (int64_t)(i / labels)), (uint16_t)(i % labels), table[i]};
    free(table);
    return counted;
}

static fg_counted *count_in_order(const fg_labelled *steps, size_t count, size_t *entries)
{
    fg_counted *counted = malloc((count + 1) * sizeof *counted);
    uint64_t *keys = malloc((count + 1) * sizeof *keys); /* by value, then by label */
    size_t keyed = 0, n = 0;
    if (counted && keys) {
        for (size_t i = 0; i < count; i++)
            if (steps[i].label < FG_LABEL_OTHER)
                keys[keyed++] = (uint64_t)fg_key_of(steps[i].value) << 16 | steps[i].label;
        fg_sort_keys(keys, keyed);
        for (size_t i = 0; i < keyed; i++) {
            if (!i || keys[i] != keys[i - 1])
                counted[n++] = (fg_counted){fg_value_of_key((uint32_t)(keys[i] >> 16)), (uint16_t)keys[i], 0};
            counted[n - 1].count++;
        }
    } else {
        free(counted);
        counted = NULL;
    }
    free(keys);
    *entries = n;
    return counted;
}

fg_counted *fg_tuning_count(const fg_labelled *steps, size_t count, uint16_t labels, size_t *entries)
{
    enum { SPARE = 4096 };
    fg_value lowest;
    const int64_t span = span_of(steps, count, &lowest);
    if (span > 0 && (uint64_t)span * labels <= 2 * (uint64_t)count + SPARE)
        return count_in_table(steps, count, labels, lowest, (size_t)span * labels, entries);
    return count_in_order(steps, count, entries);
}
