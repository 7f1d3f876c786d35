/* SPDX-License-Identifier: MIT */
/* Where the limits of rules stand, as they were written. */
#include "workshop/base/limits.h"
#include "workshop/base/sort.h"

#include <stdlib.h>
#include <string.h>

static fg_value clamped(int64_t value)
{
    return (fg_value)(value < INT32_MIN ? INT32_MIN : value > INT32_MAX ? INT32_MAX : value);
}

static size_t corners_of_comparison(const fg_comparison *c, fg_value *limits)
{
    const uint8_t traits = fg_comparison_form_of(c->kind)->traits;
    if (c->kind == FG_COMPARE_NONE) return 0;
    limits[0] = traits & FG_COMPARE_ROUND ? clamped((int64_t)c->a - c->b) : c->a;
    limits[1] = traits & FG_COMPARE_ROUND ? clamped((int64_t)c->a + c->b) : c->b;
    return traits & (FG_COMPARE_ROUND | FG_COMPARE_TWO_ENDS) ? 2 : 1;
}

/* A cut is the first reading of the band behind it; the end of a range counts where no other begins right behind it. */
static size_t corners_of_bands(const fg_bands *bands, fg_value *limits)
{
    size_t count = 0;
    for (uint16_t i = 0; i < bands->count && count + 2 <= FG_LIMITS_MOST; i++) {
        const fg_range range = bands->bands[i].range;
        bool goes_on = range.high == INT32_MAX;
        for (uint16_t k = 0; k < bands->count && !goes_on; k++) goes_on = bands->bands[k].range.low == range.high + 1;
        if (range.low != INT32_MIN) limits[count++] = range.low;
        if (!goes_on) limits[count++] = range.high;
    }
    return count;
}

size_t fg_limits_of(const fg_program *program, uint16_t slot, fg_value *limits)
{
    const fg_op *op = &program->gate.ops[slot];
    const fg_op_source *source = &program->op_sources[slot];
    if (op->kind == FG_OP_BANDS) return corners_of_bands(&program->gate.bands[op->rule], limits);
    size_t count = corners_of_comparison(&source->comparison, limits);
    if (op->kind == FG_OP_HYSTERESIS) count += corners_of_comparison(&source->off, limits + count);
    return count;
}

bool fg_limits_of_sensor(const fg_program *program, uint16_t sensor, fg_value **limits, size_t *count)
{
    const fg_gate *gate = &program->gate;
    fg_value of_rule[FG_LIMITS_MOST];
    for (uint16_t slot = 0; slot < gate->size.ops; slot++) {
        if (!fg_op_is(gate->ops[slot].kind, FG_OP_ON_SENSOR) || gate->ops[slot].a != sensor) continue;
        const size_t found = fg_limits_of(program, slot, of_rule);
        fg_value *more = realloc(*limits, (*count + found + 1) * sizeof *more);
        if (!more) return false;
        *limits = more;
        memcpy(more + *count, of_rule, found * sizeof *more);
        *count += found;
    }
    fg_sort_values(*limits, *count);
    return true;
}

fg_value fg_dead_band_of(const fg_op_source *source)
{
    const int64_t apart = (int64_t)source->off.a - source->comparison.a;
    return clamped(apart < 0 ? -apart : apart);
}

fg_value fg_limit_beside(const fg_program *program, uint16_t sensor, fg_value limit, int steps)
{
    const fg_value circle = program->gate.sensors[sensor].circle;
    const int64_t value = (int64_t)limit + steps;
    return circle ? fg_wrap(value, circle) : clamped(value);
}
