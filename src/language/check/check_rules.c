/* Thresholds, hysteresis and what all rules share: numbers become whole steps, margins are worked out once. */
#include "language/check/check.h"

/* ---- limits and ranges ---- */

fg_number_spec fg_check_limit_of(const fg_symbol *sensor, bool distance)
{
    return (fg_number_spec){.what = sensor->name,
                            .unit = sensor->unit,
                            .decimals = sensor->decimals,
                            .low = distance ? 0 : INT32_MIN,
                            .high = INT32_MAX};
}

bool fg_check_limit(fg_compiler *c, fg_node *number, const fg_symbol *sensor, int64_t *value)
{
    const fg_number_spec slot = fg_check_limit_of(sensor, false);
    if (!fg_quantity_steps(c, number, &slot, value)) return false;
    number->found.steps = *value;
    if (!sensor->circle || (*value >= 0 && *value < sensor->circle)) return true;
    fg_text top = fg_text_of_value_unit(c, sensor->circle - 1, sensor->decimals, sensor->unit);
    fg_report(c, FG_FIND_CIRCLE, number->span, "{} is a circle from 0 to {}, so {} is not on it",
              *value == sensor->circle ? "write 0" : "write a number from 0 to {}", sensor->name, top,
              fg_span_text(c, number->span), top);
    return false;
}

fg_text fg_check_readings(fg_compiler *c, const fg_symbol *sensor, int64_t low, int64_t high)
{
    fg_text end = fg_text_of_value_unit(c, high, sensor->decimals, sensor->unit);
    if (low == high) return end;
    return fg_text_join(c, fg_text_of_value(c, low, sensor->decimals), " to ", end);
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

static bool fills_circle(fg_compiler *c, const fg_node *comparison, const fg_symbol *sensor)
{
    fg_report(c, FG_FIND_MARGIN, comparison->span, "with its margin this holds every reading of the circle",
              "make the margin smaller: {} is one turn",
              fg_text_of_value_unit(c, sensor->circle, sensor->decimals, sensor->unit));
    return false;
}

static uint8_t traits_of(const fg_node *comparison)
{
    return fg_comparison_form_of((fg_comparison_kind)comparison->comparison)->traits;
}

static bool limit_range(fg_compiler *c, fg_node *comparison, const fg_symbol *sensor, int64_t margin, fg_threshold *out)
{
    int64_t n = 0;
    if (sensor->circle) {
        fg_report(c, FG_FIND_CIRCLE, comparison->span, "{} is a circle: nothing is over or under on it",
                  "write within A..B, outside A..B or near N by T", sensor->name);
        return false;
    }
    if (!fg_check_limit(c, comparison->first, sensor, &n)) return false;
    const uint8_t traits = traits_of(comparison);
    const bool up = traits & FG_COMPARE_UPWARDS;
    if (traits & FG_COMPARE_EXCLUDES) n += up ? 1 : -1;
    if (n > INT32_MAX || n < INT32_MIN) { /* no reading can be there: never yes */
        out->outside = true;
        out->range = out->kept = (fg_range){INT32_MIN, INT32_MAX};
        return true;
    }
    out->range = up ? (fg_range){(fg_value)n, INT32_MAX} : (fg_range){INT32_MIN, (fg_value)n};
    return fg_check_widen(sensor, out->range, margin, &out->kept);
}

static bool two_ends(fg_compiler *c, fg_node *comparison, const fg_symbol *sensor, int64_t margin, fg_threshold *out)
{
    int64_t a = 0, b = 0;
    if (!fg_check_limit(c, comparison->first, sensor, &a) || !fg_check_limit(c, comparison->last, sensor, &b))
        return false;
    if (a > b && !sensor->circle) {
        fg_report(c, FG_FIND_ORDER, comparison->span, "the range begins at {}, over its end {}", "write {}..{}",
                  fg_span_text(c, comparison->first->span), fg_span_text(c, comparison->last->span),
                  fg_text_of_value(c, b, sensor->decimals), fg_text_of_value(c, a, sensor->decimals));
        return false;
    }
    out->range = (fg_range){(fg_value)a, (fg_value)b};
    out->outside = traits_of(comparison) & FG_COMPARE_INVERTED;
    if (!out->outside) {
        return fg_check_widen(sensor, out->range, margin, &out->kept) || fills_circle(c, comparison, sensor);
    }
    const int64_t width = sensor->circle ? fg_wrap(b - a, sensor->circle) : b - a;
    if (2 * margin > width) {
        fg_report(c, FG_FIND_MARGIN, comparison->span, "with a margin of {} a yes would hold every reading",
                  "the margin of this range can be {} at most",
                  fg_text_of_value_unit(c, margin, sensor->decimals, sensor->unit),
                  fg_text_of_value_unit(c, width / 2, sensor->decimals, sensor->unit));
        return false;
    }
    out->kept = (fg_range){(fg_value)(a + margin), (fg_value)(b - margin)};
    if (sensor->circle)
        out->kept = (fg_range){fg_wrap(a + margin, sensor->circle), fg_wrap(b - margin, sensor->circle)};
    return true;
}

static bool near_range(fg_compiler *c, fg_node *comparison, const fg_symbol *sensor, int64_t margin, fg_threshold *out)
{
    int64_t middle = 0, by = 0;
    fg_number_spec distance = fg_check_limit_of(sensor, true);
    distance.what = T("'by'");
    if (!fg_check_limit(c, comparison->first, sensor, &middle) ||
        !fg_quantity_steps(c, comparison->last, &distance, &by))
        return false;
    comparison->last->found.steps = by;
    if (sensor->circle && 2 * by + 1 >= sensor->circle) {
        fg_report(c, FG_FIND_CIRCLE, comparison->span, "near {} by {} covers the whole circle",
                  "make the distance smaller", fg_span_text(c, comparison->first->span),
                  fg_span_text(c, comparison->last->span));
        return false;
    }
    if (sensor->circle)
        out->range = (fg_range){fg_wrap(middle - by, sensor->circle), fg_wrap(middle + by, sensor->circle)};
    else
        out->range = (fg_range){clamp(middle - by), clamp(middle + by)};
    return fg_check_widen(sensor, out->range, margin, &out->kept) || fills_circle(c, comparison, sensor);
}

bool fg_check_comparison(fg_compiler *c, fg_node *comparison, const fg_symbol *sensor, int64_t margin,
                         fg_threshold *out)
{
    *out = (fg_threshold){.settle = FG_SETTLE_NONE};
    const uint8_t traits = traits_of(comparison);
    if (traits & FG_COMPARE_TWO_ENDS) return two_ends(c, comparison, sensor, margin, out);
    if (traits & FG_COMPARE_ROUND) return near_range(c, comparison, sensor, margin, out);
    return limit_range(c, comparison, sensor, margin, out);
}

/* ---- what rules share ---- */

int64_t fg_check_margin(fg_compiler *c, fg_symbol *rule)
{
    fg_node *margin = fg_node_attribute(rule, ATTR_MARGIN);
    int64_t steps = 0;
    if (!margin || !rule->sensor) return 0;
    fg_number_spec slot = fg_check_limit_of(rule->sensor, true);
    slot.what = T("a margin");
    if (!fg_quantity_steps(c, margin->first, &slot, &steps)) return 0;
    margin->first->found.steps = steps;
    rule->margin = (fg_value)steps;
    return steps;
}

fg_settle fg_check_settle(fg_compiler *c, const fg_symbol *rule)
{
    fg_settle settle = FG_SETTLE_NONE;
    const fg_node *attribute = fg_node_attribute(rule, ATTR_SETTLE);
    if (!attribute || !attribute->first) return settle;
    (void)fg_quantity_duration(c, attribute->first, T("'settle'"), &settle.time);
    if (!attribute->first->next || !rule->sensor) return settle;
    int64_t within = 0;
    fg_number_spec slot = fg_check_limit_of(rule->sensor, true);
    slot.what = T("'within'");
    if (fg_quantity_steps(c, attribute->first->next, &slot, &within)) settle.within = (fg_value)within;
    settle.circle = rule->sensor->circle;
    return settle;
}

/* ---- threshold and hysteresis ---- */

static void check_threshold(fg_compiler *c, fg_symbol *rule, fg_threshold *out)
{
    fg_node *comparison = NULL;
    for (fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_BROKEN) return;
        if (node->kind != NODE_COMPARISON) continue;
        if (comparison)
            fg_report(c, FG_FIND_TWICE, node->span, "a threshold has one comparison; {} has a second",
                      "make it a threshold of its own", rule->name);
        comparison = node;
    }
    if (!comparison) {
        fg_report(c, FG_FIND_MISSING, rule->span, "the threshold {} has no comparison",
                  "add one: over 14, under 5, within 20..60", rule->name);
        return;
    }
    if (!rule->sensor) return;
    const int64_t margin = fg_check_margin(c, rule);
    fg_settle settle = fg_check_settle(c, rule);
    (void)fg_check_comparison(c, comparison, rule->sensor, margin, out);
    out->settle = settle;
}

static fg_node *the_switch(fg_compiler *c, const fg_symbol *rule, fg_node_kind kind, bool *broken)
{
    fg_node *found = NULL;
    for (fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_BROKEN) *broken = true;
        if (node->kind != kind) continue;
        if (found)
            fg_report(c, FG_FIND_TWICE, node->span, "'{}' stands twice in {}", "keep one of them",
                      kind == NODE_ON ? T("on") : T("off"), rule->name);
        found = node;
    }
    if (!found && !*broken)
        fg_report(c, FG_FIND_MISSING, rule->span, "the hysteresis {} has no '{}'",
                  "it needs both: on over 12; off under 5", rule->name, kind == NODE_ON ? T("on") : T("off"));
    return found;
}

/* `never`: no reading is beyond the limit; the range then holds the last number there is, so that it stays one. */
static bool one_limit(fg_compiler *c, fg_node *node, const fg_symbol *sensor, fg_range *range, bool *never)
{
    fg_threshold limit;
    const uint8_t traits = traits_of(node->first);
    if (traits & (FG_COMPARE_TWO_ENDS | FG_COMPARE_ROUND)) {
        fg_report(c, FG_FIND_KIND, node->first->span, "a hysteresis switches at one limit each way",
                  "write over N, under N, at least N or at most N");
        return false;
    }
    if (!fg_check_comparison(c, node->first, sensor, 0, &limit)) return false;
    *never = limit.outside;
    *range = limit.range;
    if (*never && traits & FG_COMPARE_UPWARDS)
        range->low = INT32_MAX;
    else if (*never)
        range->high = INT32_MIN;
    return true;
}

static void check_hysteresis(fg_compiler *c, fg_symbol *rule, fg_hysteresis *out)
{
    bool broken = false;
    fg_node *on = the_switch(c, rule, NODE_ON, &broken), *off = the_switch(c, rule, NODE_OFF, &broken);
    *out =
        (fg_hysteresis){.settle = fg_check_settle(c, rule), .first_on = fg_node_attribute(rule, ATTR_FIRST_ON) != NULL};
    if (!on || !off || !rule->sensor) return;
    const fg_symbol *sensor = rule->sensor;
    if (sensor->circle) {
        fg_report(c, FG_FIND_CIRCLE, rule->from_span, "{} is a circle, and a hysteresis has no over and under on it",
                  "use a threshold within A..B with a margin", sensor->name);
        return;
    }
    if (!one_limit(c, on, sensor, &out->on, &out->never_on) || !one_limit(c, off, sensor, &out->off, &out->never_off) ||
        out->never_on || out->never_off)
        return;
    const fg_value low = out->on.low > out->off.low ? out->on.low : out->off.low;
    const fg_value high = out->on.high < out->off.high ? out->on.high : out->off.high;
    if (low > high) return;
    if (low == INT32_MIN || high == INT32_MAX)
        fg_report(c, FG_FIND_BOTH, off->span, "'on' and 'off' look the same way, so one reading would be both",
                  "turn one of them round: on over A; off under B");
    else
        fg_report(c, FG_FIND_BOTH, off->span, "a reading of {} would switch on and off at once",
                  "put the limit of 'off' on the far side of the limit of 'on'",
                  fg_check_readings(c, sensor, low, high));
}

void fg_check_rule(fg_compiler *c, fg_symbol *rule)
{
    switch (rule->kind) {
    case FG_KIND_THRESHOLD:
        rule->checked.threshold = FG_TAKE(fg_threshold, &c->arena, 1);
        if (rule->checked.threshold) check_threshold(c, rule, rule->checked.threshold);
        return;
    case FG_KIND_HYSTERESIS:
        rule->checked.hysteresis = FG_TAKE(fg_hysteresis, &c->arena, 1);
        if (rule->checked.hysteresis) check_hysteresis(c, rule, rule->checked.hysteresis);
        return;
    default: fg_check_bands(c, rule); return;
    }
}
