/* SPDX-License-Identifier: MIT */
/* Thresholds and hysteresis; bands are in check_bands.c. */
#include "language/check/check.h"

/* Exactly one comparison; margin and settling are optional. */
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

/* `on` or `off` of a hysteresis, once each. `broken`: nothing is said about what may stand in a row that could not be
 * read. */
static fg_node *the_switch(fg_compiler *c, const fg_symbol *rule, fg_node_kind kind, bool *broken)
{
    fg_node *found = NULL;
    for (fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_BROKEN) *broken = true;
        if (node->kind != kind) continue;
        if (found)
            fg_report(c, FG_FIND_TWICE, node->span, "'{}' appears twice in {}", "keep only one",
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
    const uint8_t traits = fg_check_comparison_traits(node->first);
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

/* The two ranges must not touch each other: a reading in both would switch on and off at once. What lies between them
 * is the dead band. */
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
    /* They have no reading in common. */
    if (low > high) return;
    /* Two half-lines that look the same way share a whole side. */
    if (low == INT32_MIN || high == INT32_MAX)
        fg_report(c, FG_FIND_BOTH, off->span, "'on' and 'off' look the same way, so one reading would be both",
                  "turn one of them round: on over A; off under B");
    else
        fg_report(c, FG_FIND_BOTH, off->span, "a reading of {} would switch on and off at once",
                  "put the limit of 'off' on the far side of the limit of 'on'",
                  fg_check_readings(c, sensor, low, high));
}

/* The rule as it will stand in the table of its kind. */
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
