/* SPDX-License-Identifier: MIT */
/* Sensors and flags: units, steps, scales, and the stages a reading goes through. */
#include "language/check/check.h"

/* step 0.1 : a power of ten from 1 down to 0.000001. */
static void check_step(fg_compiler *c, fg_symbol *symbol)
{
    const fg_node *step = fg_node_attribute(symbol, ATTR_STEP);
    if (!step) return;
    fg_quantity q;
    const fg_number_spec slot = {.what = symbol->name, .unit = symbol->unit};
    symbol->decimals = 0;
    if (!fg_quantity_exact(c, step->first, &slot, &q)) return;
    int64_t den = q.den;
    while (den % 10 == 0 && symbol->decimals < FG_DECIMALS_MOST) {
        den /= 10;
        symbol->decimals++;
    }
    if (q.num == 1 && den == 1) return;
    fg_report(c, FG_FIND_RANGE, step->first->span, "a step of {} is no power of ten",
              "write 1, 0.1, 0.01, ... or 0.000001", fg_span_text(c, step->first->span));
    symbol->decimals = 0;
}

/* At least two steps: a circle of one has no way round. */
static void check_circle(fg_compiler *c, fg_symbol *symbol)
{
    const fg_node *circle = fg_node_attribute(symbol, ATTR_CIRCLE);
    if (!circle) return;
    fg_number_spec slot = fg_check_limit_of(symbol, true);
    int64_t steps = 0;
    slot.what = T("the circle");
    /* A circle of one step has no way round. */
    slot.low = 2;
    if (fg_quantity_steps(c, circle->first, &slot, &steps)) symbol->circle = (fg_value)steps;
}

/* Counts have no unit and no point. */
static bool whole_counts(fg_compiler *c, const fg_node *number, int64_t *counts)
{
    const fg_number_spec slot = {.what = T("a count of the converter"), .low = INT32_MIN, .high = INT32_MAX};
    return fg_quantity_steps(c, number, &slot, counts);
}

/* The line through (x0, y0) and (x1, y1), y in exact units: (counts * slope + offset) / divisor in steps. */
static bool line_through(fg_compiler *c, const fg_node *raw, int64_t x0, int64_t x1, const fg_quantity *y0,
                         const fg_quantity *y1, uint8_t decimals, fg_scale_piece *piece)
{
    int64_t per_unit = 1;
    while (decimals--) per_unit *= 10;
    /* The least common denominator of both ends; points are short decimals, so this stays small. */
    int64_t den = y0->den / fg_common_divisor(y0->den, y1->den) * y1->den;
    const int64_t a = y0->num * (den / y0->den), b = y1->num * (den / y1->den);
    const int64_t both = fg_common_divisor(den, per_unit); /* six digits on steps of six digits are whole steps */
    den /= both;
    per_unit /= both;
    const int64_t most = INT64_MAX / 8;
    const int64_t across = x1 - x0, rise = b - a;
    const int64_t start = a > 0 ? a : -a, climb = rise > 0 ? rise : -rise, width = across > 0 ? across : -across;
    const int64_t far = x0 > 0 ? x0 : -x0;
    if (start > most / per_unit / (width + 1) || climb > most / per_unit / (far + 1) || den > most / (width + 1)) {
        fg_report(c, FG_FIND_RANGE, raw->span, "this scale has too many digits to be worked out exactly",
                  "use fewer digits");
        return false;
    }
    const int sign = across < 0 ? -1 : 1;
    piece->slope = sign * rise * per_unit;
    piece->offset = sign * (a * per_unit * across - x0 * rise * per_unit);
    piece->divisor = sign * across * den;
    piece->up_to = (int32_t)x1;
    return true;
}

/* How many points a list has. */
static uint32_t length_of(const fg_node *points)
{
    uint32_t count = 0;
    for (const fg_node *point = points->first; point; point = point->next) count++;
    return count;
}

/* As many readings as counts, both as a range or both as a list. */
static bool check_points(fg_compiler *c, const fg_node *raw, uint32_t count)
{
    const fg_node *counts = raw->first, *units = counts->next;
    if (length_of(units) != count || counts->is_range != units->is_range) {
        fg_report(c, FG_FIND_MISSING, units->span, "there are not as many readings as counts",
                  "give what each count reads, in the same form");
        return false;
    }
    if (count > 200) {
        fg_report(c, FG_FIND_TOO_MANY, counts->span, "a bent scale has at most 200 points", "leave some out");
        return false;
    }
    return true;
}

/* Straight between the points; the outer pieces go on. */
static void check_raw(fg_compiler *c, const fg_symbol *symbol, fg_sensor *out)
{
    const fg_node *raw = fg_node_attribute(symbol, ATTR_RAW);
    if (!raw) return;
    const fg_node *x = raw->first->first, *y = raw->first->next->first;
    const uint32_t count = length_of(raw->first);
    const fg_number_spec slot = {.what = symbol->name, .unit = symbol->unit};
    if (!check_points(c, raw, count)) return;
    fg_scale_piece *scale = FG_TAKE(fg_scale_piece, &c->arena, count);
    int64_t x0 = 0, x1 = 0;
    fg_quantity y0 = {.den = 1}, y1;
    uint8_t pieces = 0;
    for (uint32_t i = 0; i < count && scale; i++, x = x->next, y = y->next) {
        if (!whole_counts(c, x, &x1) || !fg_quantity_exact(c, y, &slot, &y1)) return;
        if (i && (raw->first->is_range ? x0 == x1 : x0 >= x1)) {
            fg_report(c, FG_FIND_ORDER, x->span,
                      raw->first->is_range ? "both ends of 'raw' are the same count"
                                           : "the counts of 'raw' do not rise here",
                      "give different counts, in rising order, and what each reads");
            return;
        }
        if (i && !line_through(c, raw, x0, x1, &y0, &y1, symbol->decimals, &scale[pieces++])) return;
        x0 = x1;
        y0 = y1;
    }
    out->scale = scale;
    out->scale_count = pieces;
}

/* What is trusted is judged before a circle wraps, unless the range runs through zero: then only a value on the circle
 * can be in it. */
static void check_trust(fg_compiler *c, const fg_symbol *symbol, fg_sensor *out)
{
    const fg_node *trust = fg_node_attribute(symbol, ATTR_TRUST);
    if (!trust) return;
    fg_number_spec slot = fg_check_limit_of(symbol, false);
    slot.low = INT32_MIN; /* judged before a circle wraps */
    slot.high = INT32_MAX;
    int64_t low = 0, high = 0;
    if (!fg_quantity_steps(c, trust->first->first, &slot, &low) ||
        !fg_quantity_steps(c, trust->first->last, &slot, &high))
        return;
    if (low > high && !symbol->circle) {
        fg_report(c, FG_FIND_ORDER, trust->span, "'trust' begins at {}, over its end {}", "write trust LOWEST..HIGHEST",
                  fg_span_text(c, trust->first->first->span), fg_span_text(c, trust->first->last->span));
        return;
    }
    if (low > high && (low >= symbol->circle || high < 0)) {
        fg_report(c, FG_FIND_CIRCLE, trust->span, "a trust that runs through zero has both ends on the circle",
                  "write numbers from 0 to one step under {}",
                  fg_text_of_value_unit(c, symbol->circle, symbol->decimals, symbol->unit));
        return;
    }
    out->trust = low > high ? FG_TRUST_WRAP : FG_TRUST_RANGE;
    out->trusted = (fg_range){(fg_value)low, (fg_value)high};
}

/* An attribute that is a time, if it is there. */
static bool duration_of(fg_compiler *c, const fg_symbol *symbol, fg_attribute attribute, fg_text what, fg_time *time)
{
    fg_node *node = fg_node_attribute(symbol, attribute);
    if (!node || !fg_quantity_duration(c, node->first, what, time)) return false;
    fg_check_note_time(c, node->first, *time);
    return true;
}

/* Each time switches its stage on. */
static void check_times(fg_compiler *c, const fg_symbol *symbol, fg_sensor *out)
{
    if (duration_of(c, symbol, ATTR_STALE, T("'stale after'"), &out->stale)) out->stages |= FG_STAGE_STALE;
    if (duration_of(c, symbol, ATTR_STUCK, T("'stuck after'"), &out->stuck)) out->stages |= FG_STAGE_STUCK;
    if (duration_of(c, symbol, ATTR_BRIDGE, T("'bridge'"), &out->bridge)) out->stages |= FG_STAGE_BRIDGE;
}

/* A median has a middle only if its readings are odd in number. */
static void check_window(fg_compiler *c, const fg_symbol *symbol, fg_sensor *out)
{
    const fg_node *median = fg_node_attribute(symbol, ATTR_MEDIAN), *mean = fg_node_attribute(symbol, ATTR_MEAN);
    const fg_number_spec slot = {.what = median ? T("a median") : T("a mean"),
                                 .low = median ? 3 : 2,
                                 .high = median ? FG_MEDIAN_MOST : FG_WINDOW_MOST};
    int64_t window = 0;
    if (median && mean) {
        fg_report(c, FG_FIND_TWICE, mean->span, "'median' and 'mean' exclude each other", "keep only one");
        return;
    }
    if (!median && !mean) return;
    if (!fg_quantity_steps(c, (median ? median : mean)->first, &slot, &window)) return;
    if (median && window % 2 == 0) {
        fg_report(c, FG_FIND_RANGE, median->span, "a median is of an odd number of readings",
                  "write median {} or median {}", fg_text_of_value(c, window - 1, 0),
                  fg_text_of_value(c, window + 1, 0));
        return;
    }
    out->window = (uint8_t)window;
    if (mean) out->stages |= FG_STAGE_MEAN;
}

/* The flag was found with the names. */
static void check_zero(const fg_symbol *symbol, fg_sensor *out)
{
    const fg_node *zero = fg_node_attribute(symbol, ATTR_ZERO);
    if (!zero || !zero->word.size) return;
    if (!symbol->zero_flag) return;
    out->stages |= FG_STAGE_ZERO;
    out->zero_flag = symbol->zero_flag->index;
}

static void refuse_for_sums(fg_compiler *c, const fg_symbol *symbol)
{
    static const struct {
        fg_attribute attribute;
        const char *word;
    } refused[] = {{ATTR_RAW, "raw"}, {ATTR_STALE, "stale"}, {ATTR_STUCK, "stuck"}};
    for (size_t i = 0; i < sizeof refused / sizeof *refused; i++) {
        const fg_node *node = fg_node_attribute(symbol, refused[i].attribute);
        if (node)
            fg_report(c, FG_FIND_SUM, node->span, "'{}' is not for a sensor that is worked out",
                      "give it to the sensors in the sum", fg_text_of(refused[i].word));
    }
}

void fg_check_sensor(fg_compiler *c, fg_symbol *sensor)
{
    const fg_node *unit = fg_node_attribute(sensor, ATTR_UNIT);
    fg_sensor *const out = sensor->checked.sensor = FG_TAKE(fg_sensor, &c->arena, 1);
    if (!out) return;
    if (unit) sensor->unit = unit->word;
    if (sensor->sum) {
        refuse_for_sums(c, sensor);
        fg_check_sum(c, sensor);
    }
    check_step(c, sensor);
    check_circle(c, sensor);
    out->decimals = sensor->decimals;
    out->circle = sensor->circle;
    if (!sensor->sum) check_raw(c, sensor, out);
    check_trust(c, sensor, out);
    check_times(c, sensor, out);
    check_window(c, sensor, out);
    check_zero(sensor, out);
}

void fg_check_flag(fg_compiler *c, fg_symbol *flag)
{
    fg_flag *const out = flag->checked.flag = FG_TAKE(fg_flag, &c->arena, 1);
    if (!out) return;
    out->inverted = fg_node_attribute(flag, ATTR_INVERTED) != NULL;
    if (duration_of(c, flag, ATTR_STALE, T("'stale after'"), &out->stale)) out->stages |= FG_STAGE_STALE;
    if (duration_of(c, flag, ATTR_BRIDGE, T("'bridge'"), &out->bridge)) out->stages |= FG_STAGE_BRIDGE;
    (void)duration_of(c, flag, ATTR_SETTLE, T("'settle'"), &out->settle);
}
