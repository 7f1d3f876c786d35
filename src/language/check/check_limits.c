/* SPDX-License-Identifier: MIT */
/* Limits: numbers become whole steps of a sensor, comparisons become ranges, margins are worked out once. */
#include "language/check/check.h"

/* What kind of comparison it is never matters here, only how its numbers make a range. */
uint8_t fg_check_comparison_traits(const fg_node *comparison)
{
    return fg_comparison_form_of((fg_comparison_kind)comparison->comparison)->traits;
}

/* ---- limits and ranges ---- */

/* A limit is a value of the sensor; a distance is none below zero. */
fg_number_spec fg_check_limit_of(const fg_symbol *sensor, bool distance)
{
    return (fg_number_spec){.what = sensor->name,
                            .unit = sensor->unit,
                            .sensor = sensor->kind == FG_KIND_SENSOR ? sensor->name : T(""),
                            .decimals = sensor->decimals,
                            .low = distance ? 0 : INT32_MIN,
                            .high = INT32_MAX};
}

/* A number on the number line of a sensor, in whole steps. On a circle it lies from 0 to one step before a whole turn.
 * The steps stay in the node, for the lists of numbers that tuning writes. */
bool fg_check_limit(fg_compiler *c, fg_node *number, const fg_symbol *sensor, int64_t *value)
{
    const fg_number_spec slot = fg_check_limit_of(sensor, false);
    if (!fg_quantity_steps(c, number, &slot, value)) return false;
    number->found.steps = *value;
    fg_check_note_limit(c, number, slot.decimals);
    if (!sensor->circle || (*value >= 0 && *value < sensor->circle)) return true;
    fg_text top = fg_text_of_value_unit(c, sensor->circle - 1, sensor->decimals, sensor->unit);
    fg_report(c, FG_FIND_CIRCLE, number->span, "{} is a circle from 0 to {}, so {} is not on it",
              *value == sensor->circle ? "write 0" : "write a number from 0 to {}", sensor->name, top,
              fg_span_text(c, number->span), top);
    return false;
}

/* Readings as a person writes them: "3 to 5 cm", or one of them. */
fg_text fg_check_readings(fg_compiler *c, const fg_symbol *sensor, int64_t low, int64_t high)
{
    fg_text end = fg_text_of_value_unit(c, high, sensor->decimals, sensor->unit);
    if (low == high) return end;
    return fg_text_join(c, fg_text_of_value(c, low, sensor->decimals), " to ", end);
}

/* Beyond 32 bits there is no reading, so the end is as good as what was written. */
static fg_value clamp(int64_t value)
{
    return (fg_value)(value < INT32_MIN ? INT32_MIN : value > INT32_MAX ? INT32_MAX : value);
}

/* A range with its margin on both sides. False: on a circle it would hold every reading, and a yes could never end. */
bool fg_check_widen(const fg_symbol *sensor, fg_range range, int64_t margin, fg_range *kept)
{
    if (!sensor->circle) {
        *kept = (fg_range){clamp(range.low - margin), clamp(range.high + margin)};
        return true;
    }
    *kept = range;
    if (!margin) return true;
    /* On a circle both margins together must leave a gap, or the widened range would meet itself. */
    const int64_t readings = fg_wrap((int64_t)range.high - range.low, sensor->circle) + 1;
    if (readings + 2 * margin >= sensor->circle) return false;
    *kept = (fg_range){fg_wrap(range.low - margin, sensor->circle), fg_wrap(range.high + margin, sensor->circle)};
    return true;
}

/* Reports it, for the callers of fg_check_widen. */
static bool fills_circle(fg_compiler *c, const fg_node *comparison, const fg_symbol *sensor)
{
    fg_report(c, FG_FIND_MARGIN, comparison->span, "with its margin this holds every reading of the circle",
              "make the margin smaller: {} is one turn",
              fg_text_of_value_unit(c, sensor->circle, sensor->decimals, sensor->unit));
    return false;
}

/* over, under, at least, at most: a half-line. `over` and `under` leave their number out, so the range begins a step
 * further. */
static bool limit_range(fg_compiler *c, fg_node *comparison, const fg_symbol *sensor, int64_t margin, fg_threshold *out)
{
    int64_t n = 0;
    if (sensor->circle) {
        fg_report(c, FG_FIND_CIRCLE, comparison->span, "{} is a circle: nothing is over or under on it",
                  "write within A..B, outside A..B or near N by T", sensor->name);
        return false;
    }
    if (!fg_check_limit(c, comparison->first, sensor, &n)) return false;
    const uint8_t traits = fg_check_comparison_traits(comparison);
    const bool up = traits & FG_COMPARE_UPWARDS;
    /* The first reading that holds is the one beside the limit. */
    if (traits & FG_COMPARE_EXCLUDES) n += up ? 1 : -1;
    if (n > INT32_MAX || n < INT32_MIN) { /* no reading can be there: never yes */
        out->outside = true;
        out->range = out->kept = (fg_range){INT32_MIN, INT32_MAX};
        return true;
    }
    out->range = up ? (fg_range){(fg_value)n, INT32_MAX} : (fg_range){INT32_MIN, (fg_value)n};
    return fg_check_widen(sensor, out->range, margin, &out->kept);
}

/* within, outside. On a circle A may be above B: the range runs through zero. `outside` keeps its answer by a narrower
 * range, so its margin cannot be wider than half of it. */
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
    out->outside = fg_check_comparison_traits(comparison) & FG_COMPARE_INVERTED;
    if (!out->outside) {
        return fg_check_widen(sensor, out->range, margin, &out->kept) || fills_circle(c, comparison, sensor);
    }
    const int64_t width = sensor->circle ? fg_wrap(b - a, sensor->circle) : b - a;
    /* Narrowing the range from both sides must leave something of it. */
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

/* near A by B: from B below to B above. */
static bool near_range(fg_compiler *c, fg_node *comparison, const fg_symbol *sensor, int64_t margin, fg_threshold *out)
{
    int64_t middle = 0, by = 0;
    fg_number_spec distance = fg_check_limit_of(sensor, true);
    distance.what = T("'by'");
    if (!fg_check_limit(c, comparison->first, sensor, &middle) ||
        !fg_quantity_steps(c, comparison->last, &distance, &by))
        return false;
    comparison->last->found.steps = by;
    fg_check_note_limit(c, comparison->last, distance.decimals);
    /* `by` readings on both sides and the middle itself. */
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

/* A comparison becomes a range, with and without its margin. `out` is a threshold whoever asks: bands and conditions
 * take its ranges. */
bool fg_check_comparison(fg_compiler *c, fg_node *comparison, const fg_symbol *sensor, int64_t margin,
                         fg_threshold *out)
{
    *out = (fg_threshold){.settle = FG_SETTLE_NONE};
    const uint8_t traits = fg_check_comparison_traits(comparison);
    if (traits & FG_COMPARE_TWO_ENDS) return two_ends(c, comparison, sensor, margin, out);
    if (traits & FG_COMPARE_ROUND) return near_range(c, comparison, sensor, margin, out);
    return limit_range(c, comparison, sensor, margin, out);
}

/* ---- what rules share ---- */

/* 0 if there is none, or if it was wrong. */
int64_t fg_check_margin(fg_compiler *c, fg_symbol *rule)
{
    fg_node *margin = fg_node_attribute(rule, ATTR_MARGIN);
    int64_t steps = 0;
    if (!margin || !rule->sensor) return 0;
    fg_number_spec slot = fg_check_limit_of(rule->sensor, true);
    slot.what = T("a margin");
    if (!fg_quantity_steps(c, margin->first, &slot, &steps)) return 0;
    margin->first->found.steps = steps;
    fg_check_note_limit(c, margin->first, slot.decimals);
    /* Kept for reasons and pictures, which say how wide it is. */
    rule->margin = (fg_value)steps;
    return steps;
}

/* FG_SETTLE_NONE if there is none. On a circle distances go the shorter way round. */
fg_settle fg_check_settle(fg_compiler *c, const fg_symbol *rule)
{
    fg_settle settle = FG_SETTLE_NONE;
    const fg_node *attribute = fg_node_attribute(rule, ATTR_SETTLE);
    if (!attribute || !attribute->first) return settle;
    if (fg_quantity_duration(c, attribute->first, T("'settle'"), &settle.time))
        fg_check_note_time(c, attribute->first, settle.time);
    if (!attribute->first->next || !rule->sensor) return settle;
    int64_t within = 0;
    fg_number_spec slot = fg_check_limit_of(rule->sensor, true);
    slot.what = T("'within'");
    if (fg_quantity_steps(c, attribute->first->next, &slot, &within)) {
        settle.within = (fg_value)within;
        fg_check_note_limit(c, attribute->first->next, slot.decimals);
    }
    settle.circle = rule->sensor->circle;
    return settle;
}
