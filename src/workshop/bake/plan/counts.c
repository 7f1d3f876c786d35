/* SPDX-License-Identifier: MIT */
/* Limits carried back from a unit to the counts of a converter. */
#include "workshop/bake/plan/coder.h"

/* A value for counts that may be beyond 32 bits: then it is the end on that side. */
static fg_value value_of(const code_sensor *s, int32_t counts)
{
    fg_value value;
    if (fg_scale_value(s->rule->scale, s->rule->scale_count, counts, &value)) return value;
    return (counts > 0) == s->falls ? INT32_MIN : INT32_MAX;
}

/* The first of the counts from which on the value has reached `wanted` (falling: has come down to it); `none` if it
 * never has. Halves what is left again and again; values never turn back. */
static bool first_to_reach(const code_sensor *s, fg_value wanted, int32_t *counts)
{
    int64_t low = s->first, high = (int64_t)s->last + 1;
    while (low < high) {
        const int64_t middle = low + (high - low) / 2;
        const fg_value value = value_of(s, (int32_t)middle);
        if (s->falls ? value <= wanted : value >= wanted)
            high = middle;
        else
            low = middle + 1;
    }
    *counts = (int32_t)low;
    return low <= s->last;
}

bool fg_code_carry_back(const code_sensor *s, fg_range range, fg_range *counts)
{
    const fg_value begin = s->falls ? range.high : range.low, end = s->falls ? range.low : range.high;
    const bool open_begin = begin == (s->falls ? INT32_MAX : INT32_MIN);
    const bool open_end = end == (s->falls ? INT32_MIN : INT32_MAX);
    fg_range result = {INT32_MIN, INT32_MAX};
    int32_t past;
    if (!open_begin && !first_to_reach(s, begin, &result.low)) return false;
    if (result.low == s->first) result.low = INT32_MIN;
    if (!open_end && first_to_reach(s, s->falls ? end - 1 : end + 1, &past)) {
        if (past <= s->first) return false;
        result.high = past - 1;
    }
    *counts = result;
    return result.low <= result.high;
}

bool fg_code_find_ends(code_sensor *s)
{
    fg_value value;
    int64_t low = INT32_MIN, high = 0;
    if (!fg_scale_value(s->rule->scale, s->rule->scale_count, 0, &value)) return false;
    while (low < high) {
        const int64_t middle = low + (high - low) / 2;
        if (fg_scale_value(s->rule->scale, s->rule->scale_count, (int32_t)middle, &value))
            high = middle;
        else
            low = middle + 1;
    }
    s->first = (int32_t)low;
    low = 0;
    high = INT32_MAX;
    while (low < high) {
        const int64_t middle = high - (high - low) / 2;
        if (fg_scale_value(s->rule->scale, s->rule->scale_count, (int32_t)middle, &value))
            low = middle;
        else
            high = middle - 1;
    }
    s->last = (int32_t)low;
    return true;
}

bool fg_code_one_way(code_sensor *s)
{
    bool rises = false;
    for (uint8_t i = 0; i < s->rule->scale_count; i++) {
        rises = rises || s->rule->scale[i].slope > 0;
        s->falls = s->falls || s->rule->scale[i].slope < 0;
    }
    return rises != s->falls;
}
