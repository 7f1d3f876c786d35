/* Sensors and flags: units, steps, scales, and the stages a reading goes through. */
#include "front.h"

/* step 0.1 : a power of ten from 1 down to 0.000001. */
static void check_step(fg_front *f, fg_symbol *symbol)
{
    const fg_node *step = fg_check_attribute(symbol, ATTR_STEP);
    if (!step) return;
    fg_quantity q;
    const fg_slot_for slot = {.what = symbol->name, .unit = symbol->unit};
    symbol->decimals = 0;
    if (!fg_quantity_exact(f, step->first, &slot, &q)) return;
    int64_t den = q.den;
    while (den % 10 == 0 && symbol->decimals < FG_DECIMALS_MOST) {
        den /= 10;
        symbol->decimals++;
    }
    if (q.num == 1 && den == 1) return;
    fg_say(f, FG_FIND_RANGE, step->first->span, "a step of {} is no power of ten",
           "write 1, 0.1, 0.01, ... or 0.000001", fg_span_text(f, step->first->span));
    symbol->decimals = 0;
}

static void check_circle(fg_front *f, fg_symbol *symbol)
{
    const fg_node *circle = fg_check_attribute(symbol, ATTR_CIRCLE);
    if (!circle) return;
    fg_slot_for slot = fg_check_limit_of(symbol, true);
    int64_t steps = 0;
    slot.what = T("the circle");
    slot.low = 2;
    if (fg_quantity_steps(f, circle->first, &slot, &steps)) symbol->circle = (fg_value)steps;
}

static bool whole_counts(fg_front *f, const fg_node *number, int64_t *counts)
{
    const fg_slot_for slot = {.what = T("a count of the converter"), .low = INT32_MIN, .high = INT32_MAX};
    return fg_quantity_steps(f, number, &slot, counts);
}

/* The line through (x0, y0) and (x1, y1), y in exact units: (counts * slope + offset) / divisor in steps. */
static bool line_through(fg_front *f, const fg_node *raw, int64_t x0, int64_t x1, const fg_quantity *y0,
                         const fg_quantity *y1, uint8_t decimals, fg_line *line)
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
        fg_say(f, FG_FIND_RANGE, raw->span, "this scale has too many digits to be worked out exactly",
               "use fewer digits");
        return false;
    }
    const int sign = across < 0 ? -1 : 1;
    line->slope = sign * rise * per_unit;
    line->offset = sign * (a * per_unit * across - x0 * rise * per_unit);
    line->divisor = sign * across * den;
    line->up_to = (int32_t)x1;
    return true;
}

static uint32_t length_of(const fg_node *points)
{
    uint32_t count = 0;
    for (const fg_node *point = points->first; point; point = point->next) count++;
    return count;
}

static bool check_points(fg_front *f, const fg_node *raw, uint32_t count)
{
    const fg_node *counts = raw->first, *units = counts->next;
    if (length_of(units) != count || counts->negated != units->negated) {
        fg_say(f, FG_FIND_MISSING, units->span, "there are not as many readings as counts",
               "give what each count reads, in the same form");
        return false;
    }
    if (count > 200) {
        fg_say(f, FG_FIND_TOO_MANY, counts->span, "a bent scale has at most 200 points", "leave some out");
        return false;
    }
    return true;
}

/* Straight between the points; the outer pieces go on. */
static void check_raw(fg_front *f, const fg_symbol *symbol, fg_sensor *out)
{
    const fg_node *raw = fg_check_attribute(symbol, ATTR_RAW);
    if (!raw) return;
    const fg_node *x = raw->first->first, *y = raw->first->next->first;
    const uint32_t count = length_of(raw->first);
    const fg_slot_for slot = {.what = symbol->name, .unit = symbol->unit};
    if (!check_points(f, raw, count)) return;
    fg_line *lines = FG_TAKE(fg_line, &f->arena, count);
    int64_t x0 = 0, x1 = 0;
    fg_quantity y0 = {.den = 1}, y1;
    uint8_t pieces = 0;
    for (uint32_t i = 0; i < count && lines; i++, x = x->next, y = y->next) {
        if (!whole_counts(f, x, &x1) || !fg_quantity_exact(f, y, &slot, &y1)) return;
        if (i && (raw->first->negated ? x0 == x1 : x0 >= x1)) {
            fg_say(f, FG_FIND_ORDER, x->span,
                   raw->first->negated ? "both ends of 'raw' are the same count"
                                       : "the counts of 'raw' do not rise here",
                   "give different counts, in rising order, and what each reads");
            return;
        }
        if (i && !line_through(f, raw, x0, x1, &y0, &y1, symbol->decimals, &lines[pieces++])) return;
        x0 = x1;
        y0 = y1;
    }
    out->lines = lines;
    out->line_count = pieces;
}

static void check_trust(fg_front *f, const fg_symbol *symbol, fg_sensor *out)
{
    const fg_node *trust = fg_check_attribute(symbol, ATTR_TRUST);
    if (!trust) return;
    fg_slot_for slot = fg_check_limit_of(symbol, false);
    slot.low = INT32_MIN; /* judged before a circle wraps */
    slot.high = INT32_MAX;
    int64_t low = 0, high = 0;
    if (!fg_quantity_steps(f, trust->first->first, &slot, &low) ||
        !fg_quantity_steps(f, trust->first->last, &slot, &high))
        return;
    if (low > high && !symbol->circle) {
        fg_say(f, FG_FIND_ORDER, trust->span, "'trust' begins at {}, over its end {}", "write trust LOWEST..HIGHEST",
               fg_span_text(f, trust->first->first->span), fg_span_text(f, trust->first->last->span));
        return;
    }
    if (low > high && (low >= symbol->circle || high < 0)) {
        fg_say(f, FG_FIND_CIRCLE, trust->span, "a trust that runs through zero has both ends on the circle",
               "write numbers from 0 to one step under {}",
               fg_text_of_value_unit(f, symbol->circle, symbol->decimals, symbol->unit));
        return;
    }
    out->trust = low > high ? FG_TRUST_WRAP : FG_TRUST_RANGE;
    out->trusted = (fg_range){(fg_value)low, (fg_value)high};
}

/* An attribute that is a time, if it is there. */
static bool duration_of(fg_front *f, const fg_symbol *symbol, fg_attribute attribute, fg_text what, fg_time *time)
{
    const fg_node *node = fg_check_attribute(symbol, attribute);
    return node && fg_quantity_duration(f, node->first, what, time);
}

static void check_times(fg_front *f, const fg_symbol *symbol, fg_sensor *out)
{
    if (duration_of(f, symbol, ATTR_STALE, T("'stale after'"), &out->stale)) out->stages |= FG_STAGE_STALE;
    if (duration_of(f, symbol, ATTR_STUCK, T("'stuck after'"), &out->stuck)) out->stages |= FG_STAGE_STUCK;
    if (duration_of(f, symbol, ATTR_BRIDGE, T("'bridge'"), &out->bridge)) out->stages |= FG_STAGE_BRIDGE;
}

static void check_window(fg_front *f, const fg_symbol *symbol, fg_sensor *out)
{
    const fg_node *median = fg_check_attribute(symbol, ATTR_MEDIAN), *mean = fg_check_attribute(symbol, ATTR_MEAN);
    const fg_slot_for slot = {.what = median ? T("a median") : T("a mean"),
                              .low = median ? 3 : 2,
                              .high = median ? FG_MEDIAN_MOST : FG_WINDOW_MOST};
    int64_t window = 0;
    if (median && mean) {
        fg_say(f, FG_FIND_TWICE, mean->span, "'median' and 'mean' exclude each other", "keep one of them");
        return;
    }
    if (!median && !mean) return;
    if (!fg_quantity_steps(f, (median ? median : mean)->first, &slot, &window)) return;
    if (median && window % 2 == 0) {
        fg_say(f, FG_FIND_RANGE, median->span, "a median is of an odd number of readings",
               "write median {} or median {}", fg_text_of_value(f, window - 1, 0), fg_text_of_value(f, window + 1, 0));
        return;
    }
    out->window = (uint8_t)window;
    if (mean) out->stages |= FG_STAGE_MEAN;
    out->window_at = (uint16_t)f->tables->window_values_used;
    f->tables->window_values_used += fg_window_room(out);
}

static void check_zero(const fg_symbol *symbol, fg_sensor *out)
{
    const fg_node *zero = fg_check_attribute(symbol, ATTR_ZERO);
    if (!zero || !zero->word.size) return;
    if (!symbol->zero_flag) return;
    out->stages |= FG_STAGE_ZERO;
    out->zero_flag = symbol->zero_flag->index;
}

static void refuse_for_sums(fg_front *f, const fg_symbol *symbol)
{
    static const struct {
        fg_attribute attribute;
        const char *word;
    } refused[] = {{ATTR_RAW, "raw"}, {ATTR_STALE, "stale"}, {ATTR_STUCK, "stuck"}};
    for (size_t i = 0; i < sizeof refused / sizeof *refused; i++) {
        const fg_node *node = fg_check_attribute(symbol, refused[i].attribute);
        if (node)
            fg_say(f, FG_FIND_SUM, node->span, "'{}' is not for a sensor that is worked out",
                   "give it to the sensors in the sum", fg_text_c(refused[i].word));
    }
}

void fg_check_sensor(fg_front *f, fg_symbol *symbol, fg_sensor *out)
{
    const fg_node *unit = fg_check_attribute(symbol, ATTR_UNIT);
    if (unit) symbol->unit = unit->word;
    *out = (fg_sensor){0};
    if (symbol->sum) {
        refuse_for_sums(f, symbol);
        fg_check_sum(f, symbol, out);
    }
    check_step(f, symbol);
    check_circle(f, symbol);
    out->decimals = symbol->decimals;
    out->circle = symbol->circle;
    if (!symbol->sum) check_raw(f, symbol, out);
    check_trust(f, symbol, out);
    check_times(f, symbol, out);
    check_window(f, symbol, out);
    check_zero(symbol, out);
}

void fg_check_flag(fg_front *f, const fg_symbol *symbol, fg_flag *out)
{
    out->inverted = fg_check_attribute(symbol, ATTR_INVERTED) != NULL;
    if (duration_of(f, symbol, ATTR_STALE, T("'stale after'"), &out->stale)) out->stages |= FG_STAGE_STALE;
    if (duration_of(f, symbol, ATTR_BRIDGE, T("'bridge'"), &out->bridge)) out->stages |= FG_STAGE_BRIDGE;
    (void)duration_of(f, symbol, ATTR_SETTLE, T("'settle'"), &out->settle);
}
