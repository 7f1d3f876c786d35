/* Thresholds, hysteresis and what all rules share: numbers become whole steps, margins are worked out once. */
#include "front.h"

const fg_node *fg_check_attribute(const fg_symbol *symbol, fg_attribute attribute)
{
    for (const fg_node *node = symbol->body; node; node = node->next)
        if ((node->kind == NODE_ATTRIBUTE || node->kind == NODE_LISTEN) && node->attribute == attribute) return node;
    return NULL;
}

/* ---- limits and ranges ---- */

fg_slot_for fg_check_limit_of(const fg_symbol *sensor, bool distance)
{
    return (fg_slot_for){.what = sensor->name,
                         .unit = sensor->unit,
                         .decimals = sensor->decimals,
                         .low = distance ? 0 : INT32_MIN,
                         .high = INT32_MAX};
}

bool fg_check_limit(fg_front *f, const fg_node *number, const fg_symbol *sensor, int64_t *value)
{
    const fg_slot_for slot = fg_check_limit_of(sensor, false);
    if (!fg_quantity_steps(f, number, &slot, value)) return false;
    if (!sensor->circle || (*value >= 0 && *value < sensor->circle)) return true;
    fg_text top = fg_text_of_value_unit(f, sensor->circle - 1, sensor->decimals, sensor->unit);
    fg_say(f, FG_FIND_CIRCLE, number->span, "{} is a circle from 0 to {}, so {} is not on it",
           *value == sensor->circle ? "write 0" : "write a number from 0 to {}", sensor->name, top,
           fg_span_text(f, number->span), top);
    return false;
}

fg_text fg_check_readings(fg_front *f, const fg_symbol *sensor, int64_t low, int64_t high)
{
    fg_text end = fg_text_of_value_unit(f, high, sensor->decimals, sensor->unit);
    if (low == high) return end;
    return fg_text_join(f, fg_text_of_value(f, low, sensor->decimals), " to ", end);
}

static fg_value clamp(int64_t value)
{
    return (fg_value)(value < INT32_MIN ? INT32_MIN : value > INT32_MAX ? INT32_MAX : value);
}

bool fg_check_widen(const fg_symbol *sensor, fg_range range, int64_t margin, fg_range *kept)
{
    if (!sensor->circle) {
        *kept = (fg_range){clamp(range.low - margin), clamp(range.high + margin)};
        return true;
    }
    *kept = range;
    if (!margin) return true;
    const int64_t readings = fg_wrap((int64_t)range.high - range.low, sensor->circle) + 1;
    if (readings + 2 * margin >= sensor->circle) return false;
    *kept = (fg_range){fg_wrap(range.low - margin, sensor->circle), fg_wrap(range.high + margin, sensor->circle)};
    return true;
}

static bool fills_circle(fg_front *f, const fg_node *comparison, const fg_symbol *sensor)
{
    fg_say(f, FG_FIND_MARGIN, comparison->span, "with its margin this holds every reading of the circle",
           "make the margin smaller: {} is one turn",
           fg_text_of_value_unit(f, sensor->circle, sensor->decimals, sensor->unit));
    return false;
}

static bool limit_range(fg_front *f, const fg_node *comparison, const fg_symbol *sensor, int64_t margin,
                        fg_threshold *out)
{
    int64_t n = 0;
    if (sensor->circle) {
        fg_say(f, FG_FIND_CIRCLE, comparison->span, "{} is a circle: nothing is over or under on it",
               "write within A..B, outside A..B or near N by T", sensor->name);
        return false;
    }
    if (!fg_check_limit(f, comparison->first, sensor, &n)) return false;
    const bool up = comparison->kind == NODE_OVER || comparison->kind == NODE_AT_LEAST;
    n += comparison->kind == NODE_OVER ? 1 : comparison->kind == NODE_UNDER ? -1 : 0;
    if (n > INT32_MAX || n < INT32_MIN) { /* no reading can be there: never yes */
        out->outside = true;
        out->range = out->kept = (fg_range){INT32_MIN, INT32_MAX};
        return true;
    }
    out->range = up ? (fg_range){(fg_value)n, INT32_MAX} : (fg_range){INT32_MIN, (fg_value)n};
    return fg_check_widen(sensor, out->range, margin, &out->kept);
}

static bool two_ends(fg_front *f, const fg_node *comparison, const fg_symbol *sensor, int64_t margin, fg_threshold *out)
{
    int64_t a = 0, b = 0;
    if (!fg_check_limit(f, comparison->first, sensor, &a) || !fg_check_limit(f, comparison->last, sensor, &b))
        return false;
    if (a > b && !sensor->circle) {
        fg_say(f, FG_FIND_ORDER, comparison->span, "the range begins at {}, over its end {}", "write {}..{}",
               fg_span_text(f, comparison->first->span), fg_span_text(f, comparison->last->span),
               fg_text_of_value(f, b, sensor->decimals), fg_text_of_value(f, a, sensor->decimals));
        return false;
    }
    out->range = (fg_range){(fg_value)a, (fg_value)b};
    out->outside = comparison->kind == NODE_OUTSIDE;
    if (!out->outside) {
        return fg_check_widen(sensor, out->range, margin, &out->kept) || fills_circle(f, comparison, sensor);
    }
    const int64_t width = sensor->circle ? fg_wrap(b - a, sensor->circle) : b - a;
    if (2 * margin > width) {
        fg_say(f, FG_FIND_MARGIN, comparison->span, "with a margin of {} a yes would hold every reading",
               "the margin of this range can be {} at most",
               fg_text_of_value_unit(f, margin, sensor->decimals, sensor->unit),
               fg_text_of_value_unit(f, width / 2, sensor->decimals, sensor->unit));
        return false;
    }
    out->kept = (fg_range){(fg_value)(a + margin), (fg_value)(b - margin)};
    if (sensor->circle)
        out->kept = (fg_range){fg_wrap(a + margin, sensor->circle), fg_wrap(b - margin, sensor->circle)};
    return true;
}

static bool near_range(fg_front *f, const fg_node *comparison, const fg_symbol *sensor, int64_t margin,
                       fg_threshold *out)
{
    int64_t middle = 0, by = 0;
    fg_slot_for distance = fg_check_limit_of(sensor, true);
    distance.what = T("'by'");
    if (!fg_check_limit(f, comparison->first, sensor, &middle) ||
        !fg_quantity_steps(f, comparison->last, &distance, &by))
        return false;
    if (sensor->circle && 2 * by + 1 >= sensor->circle) {
        fg_say(f, FG_FIND_CIRCLE, comparison->span, "near {} by {} covers the whole circle",
               "make the distance smaller", fg_span_text(f, comparison->first->span),
               fg_span_text(f, comparison->last->span));
        return false;
    }
    if (sensor->circle)
        out->range = (fg_range){fg_wrap(middle - by, sensor->circle), fg_wrap(middle + by, sensor->circle)};
    else
        out->range = (fg_range){clamp(middle - by), clamp(middle + by)};
    return fg_check_widen(sensor, out->range, margin, &out->kept) || fills_circle(f, comparison, sensor);
}

bool fg_check_comparison(fg_front *f, const fg_node *comparison, const fg_symbol *sensor, int64_t margin,
                         fg_threshold *out)
{
    *out = (fg_threshold){.settle = FG_SETTLE_NONE};
    switch ((fg_node_kind)comparison->kind) {
    case NODE_OVER:
    case NODE_UNDER:
    case NODE_AT_LEAST:
    case NODE_AT_MOST: return limit_range(f, comparison, sensor, margin, out);
    case NODE_WITHIN:
    case NODE_OUTSIDE: return two_ends(f, comparison, sensor, margin, out);
    case NODE_NEAR: return near_range(f, comparison, sensor, margin, out);
    default: return false;
    }
}

bool fg_check_told(fg_front *f, const fg_node *comparison, const fg_symbol *sensor, fg_comparison *out)
{
    int64_t a = 0, b = 0;
    const fg_slot_for slot = fg_check_limit_of(sensor, false);
    const bool quiet = f->quiet;
    f->quiet = true; /* the check has said what there is to say */
    bool good = fg_quantity_steps(f, comparison->first, &slot, &a) &&
                (!comparison->first->next || fg_quantity_steps(f, comparison->first->next, &slot, &b));
    f->quiet = quiet;
    if (good)
        *out = (fg_comparison){(fg_comparison_kind)(comparison->kind - NODE_OVER + FG_COMPARE_OVER), (fg_value)a,
                               (fg_value)b};
    return good;
}

/* ---- what rules share ---- */

int64_t fg_check_margin(fg_front *f, const fg_symbol *rule)
{
    const fg_node *margin = fg_check_attribute(rule, ATTR_MARGIN);
    int64_t steps = 0;
    if (!margin || !rule->sensor) return 0;
    fg_slot_for slot = fg_check_limit_of(rule->sensor, true);
    slot.what = T("a margin");
    return fg_quantity_steps(f, margin->first, &slot, &steps) ? steps : 0;
}

fg_settle fg_check_settle(fg_front *f, const fg_symbol *rule)
{
    fg_settle settle = FG_SETTLE_NONE;
    const fg_node *attribute = fg_check_attribute(rule, ATTR_SETTLE);
    if (!attribute || !attribute->first) return settle;
    (void)fg_quantity_duration(f, attribute->first, T("'settle'"), &settle.time);
    if (!attribute->first->next || !rule->sensor) return settle;
    int64_t within = 0;
    fg_slot_for slot = fg_check_limit_of(rule->sensor, true);
    slot.what = T("'within'");
    if (fg_quantity_steps(f, attribute->first->next, &slot, &within)) settle.within = (fg_value)within;
    settle.circle = rule->sensor->circle;
    return settle;
}

/* ---- threshold and hysteresis ---- */

static bool is_comparison(const fg_node *node) { return node->kind >= NODE_OVER && node->kind <= NODE_NEAR; }

void fg_check_threshold(fg_front *f, fg_symbol *rule, fg_threshold *out)
{
    const fg_node *comparison = NULL;
    for (const fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_BROKEN) return;
        if (!is_comparison(node)) continue;
        if (comparison)
            fg_say(f, FG_FIND_TWICE, node->span, "a threshold has one comparison; {} has a second",
                   "make it a threshold of its own", rule->name);
        comparison = node;
    }
    if (!comparison) {
        fg_say(f, FG_FIND_MISSING, rule->span, "the threshold {} has no comparison",
               "add one: over 14, under 5, within 20..60", rule->name);
        return;
    }
    if (!rule->sensor) return;
    const int64_t margin = fg_check_margin(f, rule);
    fg_settle settle = fg_check_settle(f, rule);
    (void)fg_check_comparison(f, comparison, rule->sensor, margin, out);
    out->settle = settle;
}

static const fg_node *the_switch(fg_front *f, const fg_symbol *rule, fg_node_kind kind, bool *broken)
{
    const fg_node *found = NULL;
    for (const fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_BROKEN) *broken = true;
        if (node->kind != kind) continue;
        if (found)
            fg_say(f, FG_FIND_TWICE, node->span, "'{}' stands twice in {}", "keep one of them",
                   kind == NODE_ON ? T("on") : T("off"), rule->name);
        found = node;
    }
    if (!found && !*broken)
        fg_say(f, FG_FIND_MISSING, rule->span, "the hysteresis {} has no '{}'",
               "it needs both: on over 12; off under 5", rule->name, kind == NODE_ON ? T("on") : T("off"));
    return found;
}

/* `never`: no reading is beyond the limit; the range then holds the last number there is, so that it stays one. */
static bool one_limit(fg_front *f, const fg_node *node, const fg_symbol *sensor, fg_range *range, bool *never)
{
    fg_threshold limit;
    if (node->first->kind > NODE_AT_MOST) {
        fg_say(f, FG_FIND_KIND, node->first->span, "a hysteresis switches at one limit each way",
               "write over N, under N, at least N or at most N");
        return false;
    }
    if (!fg_check_comparison(f, node->first, sensor, 0, &limit)) return false;
    *never = limit.outside;
    *range = limit.range;
    if (*never && node->first->kind == NODE_OVER) range->low = INT32_MAX;
    if (*never && node->first->kind == NODE_UNDER) range->high = INT32_MIN;
    return true;
}

void fg_check_hysteresis(fg_front *f, fg_symbol *rule, fg_hysteresis *out)
{
    bool broken = false;
    const fg_node *on = the_switch(f, rule, NODE_ON, &broken), *off = the_switch(f, rule, NODE_OFF, &broken);
    *out = (fg_hysteresis){.settle = fg_check_settle(f, rule),
                           .first_on = fg_check_attribute(rule, ATTR_FIRST_ON) != NULL};
    if (!on || !off || !rule->sensor) return;
    const fg_symbol *sensor = rule->sensor;
    if (sensor->circle) {
        fg_say(f, FG_FIND_CIRCLE, rule->from_span, "{} is a circle, and a hysteresis has no over and under on it",
               "use a threshold within A..B with a margin", sensor->name);
        return;
    }
    if (!one_limit(f, on, sensor, &out->on, &out->never_on) || !one_limit(f, off, sensor, &out->off, &out->never_off) ||
        out->never_on || out->never_off)
        return;
    const fg_value low = out->on.low > out->off.low ? out->on.low : out->off.low;
    const fg_value high = out->on.high < out->off.high ? out->on.high : out->off.high;
    if (low > high) return;
    if (low == INT32_MIN || high == INT32_MAX)
        fg_say(f, FG_FIND_BOTH, off->span, "'on' and 'off' look the same way, so one reading would be both",
               "turn one of them round: on over A; off under B");
    else
        fg_say(f, FG_FIND_BOTH, off->span, "a reading of {} would switch on and off at once",
               "put the limit of 'off' on the far side of the limit of 'on'", fg_check_readings(f, sensor, low, high));
}
