/* SPDX-License-Identifier: MIT */
/* Scenes: their numbers become steps of their sensors and milliseconds. */
#include "language/check/check.h"

/* A moment, and a later one. */
static bool times(fg_compiler *c, fg_node *from, fg_scene_row *out)
{
    if (!fg_quantity_duration(c, from, T("a moment"), &out->from)) return false;
    if (!fg_quantity_duration(c, from->next, T("a moment"), &out->to)) return false;
    if (out->to > out->from) return true;
    fg_report(c, FG_FIND_ORDER, from->next->span, "{} does not come after {}", "write the earlier time first",
              fg_span_text(c, from->next->span), fg_span_text(c, from->span));
    return false;
}

/* A bad reading may be anything, also on a circle; what ramps or swings may run through north. */
static bool value(fg_compiler *c, fg_node *number, const fg_symbol *sensor, bool any, fg_value *out)
{
    int64_t steps;
    const fg_number_spec slot = fg_check_limit_of(sensor, false);
    const bool good = any ? fg_quantity_steps(c, number, &slot, &steps) : fg_check_limit(c, number, sensor, &steps);
    if (good) *out = (fg_value)steps;
    return good;
}

/* Noise may be finer than the step of its sensor: what it adds is rounded to the step. */
static bool spread(fg_compiler *c, fg_node *number, const fg_symbol *sensor, int64_t *out)
{
    const fg_number_spec slot = {.what = T("the noise"),
                                 .unit = sensor->unit,
                                 .decimals = FG_DECIMALS_MOST,
                                 .low = 0,
                                 .high = INT64_C(1000000000000)};
    return fg_quantity_steps(c, number, &slot, out);
}

/* To and fro takes time, or it would be everywhere at once. */
static bool period(fg_compiler *c, fg_node *number, fg_time *out)
{
    if (!fg_quantity_duration(c, number, T("the time to and fro"), out)) return false;
    if (*out) return true;
    fg_report(c, FG_FIND_RANGE, number->span, "a swing needs some time", "write a time above 0");
    return false;
}

/* At a moment, for a while. */
static bool presses(fg_compiler *c, fg_node *at, fg_scene_row *out)
{
    fg_time length = 0;
    if (!fg_quantity_duration(c, at, T("a moment"), &out->from)) return false;
    if (!fg_quantity_duration(c, at->next, T("how long it is pressed"), &length)) return false;
    out->to = out->from + length;
    return true;
}

/* Each form of row has its numbers in its own order; the words before them are the parser's. */
static bool check_row(fg_compiler *c, fg_node *row, fg_scene_row *out)
{
    const fg_symbol *s = row->symbol;
    fg_node *first = row->first;
    *out = (fg_scene_row){.kind = (fg_scene_row_kind)row->scene_row, .declared = s->order};
    if (s->sum) {
        fg_report(c, FG_FIND_KIND, row->span, "{} is worked out from other sensors", "say what those do", s->name);
        return false;
    }
    switch (out->kind) {
    case FG_SCENE_STAYS: return value(c, first, s, false, &out->a);
    case FG_SCENE_RAMPS:
        return value(c, first, s, true, &out->a) && value(c, first->next, s, true, &out->b) &&
               times(c, first->next->next, out);
    case FG_SCENE_JUMPS:
        return value(c, first, s, false, &out->a) && fg_quantity_duration(c, first->next, T("a moment"), &out->from);
    case FG_SCENE_SWINGS:
        return value(c, first, s, true, &out->a) && value(c, first->next, s, true, &out->b) &&
               period(c, first->next->next, &out->to);
    case FG_SCENE_NOISE: return spread(c, first, s, &out->spread);
    case FG_SCENE_DROPS:
    case FG_SCENE_FALLS: return times(c, first, out);
    case FG_SCENE_READS: return value(c, first, s, true, &out->a) && times(c, first->next, out);
    case FG_SCENE_PRESSES: return presses(c, first, out);
    }
    return false;
}

/* A tenth of a second between readings where neither the scene nor the gate says anything else. The seed is 1 then, so
 * that a scene gives the same readings at every run. */
static void check_scene(fg_compiler *c, const fg_scene_node *node, fg_scene *out)
{
    enum { EVERY = 100 };
    const fg_number_spec slot = {.what = T("the seed"), .low = 0, .high = INT32_MAX};
    fg_scene_row *rows = FG_TAKE(fg_scene_row, &c->arena, node->row_count);
    int64_t seed = 1;
    *out = (fg_scene){.name = node->name, .span = node->span, .rows = rows};
    out->every = c->every ? c->every : EVERY;
    if (node->lasts) (void)fg_quantity_duration(c, node->lasts, T("how long it lasts"), &out->lasts);
    if (node->every && fg_quantity_duration(c, node->every, T("'every'"), &out->every) && !out->every)
        fg_report(c, FG_FIND_RANGE, node->every->span, "readings cannot come every 0 ms", "write a time above 0");
    if (node->seed && fg_quantity_steps(c, node->seed, &slot, &seed)) out->seed = (uint32_t)seed;
    if (!node->seed) out->seed = (uint32_t)seed;
    for (fg_node *row = node->rows; row && rows; row = row->next)
        if (check_row(c, row, &rows[out->row_count])) out->row_count++;
}

/* All of them, also those that nobody plays: a mistake in a scene should not wait until it is needed. */
void fg_check_scenes(fg_compiler *c)
{
    fg_scene *scenes = FG_TAKE(fg_scene, &c->arena, c->scene_count);
    uint32_t count = 0;
    for (const fg_scene_node *node = c->scenes; node && scenes; node = node->next)
        check_scene(c, node, &scenes[count++]);
    c->program->scenes = scenes;
    c->program->scene_count = count;
}
