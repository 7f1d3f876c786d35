/* SPDX-License-Identifier: MIT */
/* How far readings are from limits, and what a level may be called. */
#include "workshop/why/why.h"

#include <string.h>

int64_t fg_way_into(const fg_range *range, fg_value value, fg_value circle)
{
    if (fg_range_holds(range, value)) return 0;
    const int64_t up = circle ? fg_wrap((int64_t)range->low - value, circle) : (int64_t)range->low - value;
    const int64_t down = circle ? fg_wrap((int64_t)value - range->high, circle) : (int64_t)value - range->high;
    if (circle) return up <= down ? up : -down;
    return up > 0 ? up : -down;
}

int64_t fg_way_out_of(const fg_range *range, fg_value value, fg_value circle)
{
    if (!fg_range_holds(range, value)) return 0;
    int64_t up = (int64_t)range->high - value + 1, down = (int64_t)value - range->low + 1;
    if (circle) {
        up = fg_wrap(up, circle);
        down = fg_wrap(down, circle);
        return up <= down ? up : -down;
    }
    if (range->high == INT32_MAX) up = INT64_MAX;
    if (range->low == INT32_MIN) down = INT64_MAX;
    if (up == INT64_MAX && down == INT64_MAX) return INT64_MAX;
    return up <= down ? up : -down;
}

bool fg_why_is_level(const fg_level *level, fg_text wanted)
{
    char text[FG_LEVEL_TEXT_SIZE];
    const fg_text word = fg_text_of(fg_form_word((fg_form)level->form));
    if (!wanted.size) return false;
    if (fg_text_same(word, wanted)) return true;
    if (!fg_form_is_plain(level->form)) return false;
    const size_t size = fg_level_text(level, text);
    return size >= wanted.size && !memcmp(text, wanted.at, wanted.size);
}
