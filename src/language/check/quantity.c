/* SPDX-License-Identifier: MIT */
/* Numbers: exact fractions with a unit.
 *
 * A number is num / den in lowest terms, both of 64 bits. Nothing is rounded before it becomes steps of the place it
 * stands in, so `bilge_high / 3 * 3` is bilge_high again. Where a product leaves 64 bits the number is refused: a value
 * that is nearly right would be worse than a message.
 */
#include "language/check/quantity.h"

#include "language/text/findings.h"
#include "language/tree/names.h"

#include "core/wide.h"

/* ---- exact arithmetic; false where 64 bits do not hold the result ---- */

/* False: it leaves 64 bits. The lowest number is left out as well, because its opposite does not fit. */
static bool product(int64_t a, int64_t b, int64_t *out)
{
    fg_wide p = fg_wide_product(a, b);
    *out = (int64_t)p.low;
    return p.high == (*out < 0 ? UINT64_MAX : 0) && *out != INT64_MIN;
}

/* False: it leaves 64 bits. */
static bool sum(int64_t a, int64_t b, int64_t *out)
{
    if (b > 0 ? a > INT64_MAX - b : a < -INT64_MAX - b) return false;
    *out = a + b;
    return true;
}

/* Euclid's algorithm (Elements, book VII). Not below 0; 0 for two zeros. */
int64_t fg_common_divisor(int64_t a, int64_t b)
{
    while (b) {
        int64_t rest = a % b;
        a = b;
        b = rest;
    }
    return a < 0 ? -a : a;
}

/* A fraction in lowest terms, its denominator above 0, so that equal quantities are equal numbers. */
static bool reduce(fg_quantity *q)
{
    if (!q->den) return false;
    int64_t by = fg_common_divisor(q->num, q->den);
    if (q->den < 0) by = -by;
    q->num /= by;
    q->den /= by;
    return true;
}

/* Over a common denominator. False: too long to be exact. */
static bool add(const fg_quantity *a, const fg_quantity *b, int sign, fg_quantity *out)
{
    int64_t left, right;
    return product(a->num, b->den, &left) && product(sign * b->num, a->den, &right) && sum(left, right, &out->num) &&
           product(a->den, b->den, &out->den) && reduce(out);
}

/* Divided across before they are multiplied, so that as much as can be stays exact. */
static bool times(int64_t a_num, int64_t a_den, int64_t b_num, int64_t b_den, fg_quantity *out)
{
    int64_t across = fg_common_divisor(a_num, b_den), back = fg_common_divisor(b_num, a_den);
    if (!across) across = 1;
    if (!back) back = 1;
    return product(a_num / across, b_num / back, &out->num) && product(a_den / back, b_den / across, &out->den) &&
           reduce(out);
}

/* At most 18 digits, which fit. */
static int64_t power_of_ten(uint32_t digits)
{
    int64_t power = 1;
    while (digits--) power *= 10;
    return power;
}

/* ---- evaluation ---- */

/* A quantity that was reported. Its denominator is no zero, so nobody divides by it. */
static fg_quantity bad(void) { return (fg_quantity){.den = 1}; }

/* The numerator or the denominator left 64 bits. */
static fg_quantity too_long(fg_compiler *c, const fg_node *number)
{
    fg_report(c, FG_FIND_RANGE, number->span, "'{}' has too many digits to be worked out exactly",
              "use fewer digits, or smaller numbers", fg_span_text(c, number->span));
    return bad();
}

/* Digits to a fraction: 12.5 is 125 / 10. Nothing is rounded here. */
static fg_quantity literal(fg_compiler *c, const fg_node *number)
{
    fg_quantity q = {.den = 1, .unit = number->literal.unit, .written = true, .ok = true};
    uint32_t behind = 0;
    bool point = false;
    for (size_t i = 0; i < number->word.size; i++) {
        char digit = number->word.at[i];
        if (digit == '.') {
            point = true;
            continue;
        }
        behind += point;
        /* One more digit must still fit, with room for the products that follow. */
        if (behind > 18 || q.num > (INT64_MAX / 100 - 9) / 10) return too_long(c, number);
        q.num = q.num * 10 + (digit - '0');
    }
    if (number->literal.negative) q.num = -q.num;
    q.den = power_of_ten(behind);
    return reduce(&q) ? q : bad();
}

/* Two units that meet in a sum: the same, or both times, or one of them none. */
static bool meet(fg_compiler *c, const fg_node *number, fg_quantity *a, fg_quantity *b)
{
    if (fg_text_same(a->unit, b->unit) || !b->unit.size) return true;
    if (!a->unit.size) {
        a->unit = b->unit;
        return true;
    }
    int64_t left = (int64_t)fg_unit_ms(a->unit), right = (int64_t)fg_unit_ms(b->unit);
    if (left && right) {
        a->unit = b->unit = T("ms");
        return times(a->num, a->den, left, 1, a) && times(b->num, b->den, right, 1, b);
    }
    fg_report(c, FG_FIND_UNIT, number->span, "{} and {} do not go together", "give both one unit", a->unit, b->unit);
    return false;
}

/* Units under * and /: one side may have one, or both the same under /, which takes it away. */
static bool scale(fg_compiler *c, const fg_node *number, fg_quantity *a, const fg_quantity *b)
{
    const bool divides = number->kind == NODE_QUOTIENT;
    if (divides && !b->num) {
        fg_report(c, FG_FIND_RANGE, number->span, "this divides by zero", "");
        return false;
    }
    /* cm by cm is a plain number. */
    if (divides && b->unit.size && fg_text_same(a->unit, b->unit)) {
        a->unit = (fg_text){0};
    } else if (b->unit.size && (divides || a->unit.size)) {
        fg_report(c, FG_FIND_UNIT, number->span,
                  divides ? "a number with the unit {} cannot divide this one"
                          : "only one side of * can have a unit, not {} too",
                  divides ? "divide by a bare number, or by one of the same unit" : "write one side without its unit",
                  b->unit);
        return false;
    } else if (b->unit.size) {
        a->unit = b->unit;
    }
    if (divides ? times(a->num, a->den, b->den, b->num, a) : times(a->num, a->den, b->num, b->den, a)) return true;
    *a = too_long(c, number);
    return false;
}

/* Worked out exactly; only where it becomes steps is it rounded, or refused if it was written finer. */
static fg_quantity combine(fg_compiler *c, const fg_node *number)
{
    fg_quantity a = fg_quantity_of(c, number->first);
    fg_quantity b = fg_quantity_of(c, number->first->next);
    if (!a.ok || !b.ok) return bad();
    if (number->kind == NODE_PRODUCT || number->kind == NODE_QUOTIENT) {
        if (!scale(c, number, &a, &b)) return bad();
    } else {
        if (!meet(c, number, &a, &b)) return bad();
        fg_quantity out = a;
        if (!add(&a, &b, number->kind == NODE_DIFFERENCE ? -1 : 1, &out)) return too_long(c, number);
        a = out;
        /* halfway is half of the sum. */
        if (number->kind == NODE_HALFWAY && !times(a.num, a.den, 1, 2, &a)) return too_long(c, number);
    }
    a.written = false;
    return a;
}

/* A number is worked out when it is first asked. `visited` without `worked_out` means that it is asked while it is
 * being worked out: it depends on itself. */
static fg_quantity of_name(fg_compiler *c, const fg_node *number)
{
    fg_symbol *symbol = fg_name_use(c, number->word, number->span, FG_KIND_BIT(FG_KIND_NUMBER));
    if (!symbol) return bad();
    symbol->used = true;
    if (symbol->worked_out) return symbol->quantity;
    if (symbol->visited) {
        fg_report(c, FG_FIND_CYCLE, number->span, "the number '{}' depends on itself",
                  "work one of these numbers out from something else", symbol->name);
        return bad();
    }
    symbol->visited = true;
    symbol->quantity = symbol->body ? fg_quantity_of(c, symbol->body) : bad();
    symbol->worked_out = true;
    return symbol->quantity;
}

/* A number by its form. */
static fg_quantity work_out(fg_compiler *c, const fg_node *number)
{
    switch ((fg_node_kind)number->kind) {
    case NODE_LITERAL: return literal(c, number);
    case NODE_NUMBER_NAME: return of_name(c, number);
    case NODE_NEGATIVE: {
        fg_quantity q = fg_quantity_of(c, number->first);
        q.num = -q.num;
        return q;
    }
    case NODE_SUM:
    case NODE_DIFFERENCE:
    case NODE_PRODUCT:
    case NODE_QUOTIENT:
    case NODE_HALFWAY: return combine(c, number);
    default: return bad();
    }
}

/* Numbers may be declared in any order, so one may hang on a long chain of others, each a call deeper here. The depth
 * is bounded, and the message says how to keep it low. */
fg_quantity fg_quantity_of(fg_compiler *c, const fg_node *number)
{
    enum { DEPTH_MOST = 2000 };
    if (c->number_depth >= DEPTH_MOST) {
        fg_report(c, FG_FIND_TOO_MANY, number->span, "this number hangs on a chain of more than 2000 others",
                  "declare the numbers it is made of before it");
        return bad();
    }
    c->number_depth++;
    fg_quantity q = work_out(c, number);
    c->number_depth--;
    return q;
}

/* ---- places ---- */

/* For a display that shows a number: its value as far as millionths go. */
fg_text fg_quantity_text(fg_compiler *c, const fg_quantity *q, bool unit)
{
    fg_quantity millionths = *q;
    int64_t value = 0;
    if (!q->ok || !times(q->num, q->den, power_of_ten(FG_DECIMALS_MOST), 1, &millionths) ||
        !fg_wide_quotient(fg_wide_of(millionths.num), millionths.den, &value))
        return T("?");
    fg_text text = fg_text_of_value(c, value, FG_DECIMALS_MOST);
    return unit && q->unit.size ? fg_text_join(c, text, " ", q->unit) : text;
}

/* Where a number has its unit, or where it should have it. */
static fg_span unit_place(const fg_node *number)
{
    const bool has = number->kind == NODE_LITERAL && number->literal.unit.size;
    return has ? number->literal.unit_span : number->span;
}

/* Words for the units of time elsewhere. */
static const struct {
    const char *word, *unit;
} other_times[] = {
    {"sec", "s"},    {"secs", "s"},     {"second", "s"},    {"seconds", "s"},       {"S", "s"},
    {"mins", "min"}, {"minute", "min"}, {"minutes", "min"}, {"m", "min"},           {"hour", "h"},
    {"hours", "h"},  {"hr", "h"},       {"msec", "ms"},     {"milliseconds", "ms"}, {"millis", "ms"},
};

/* A number without a unit could be either, so both are offered. */
static void needs_time(fg_compiler *c, const fg_node *number, const fg_number_spec *spec, fg_text unit)
{
    const char *known = NULL;
    for (size_t i = 0; i < sizeof other_times / sizeof *other_times; i++)
        if (fg_text_is(unit, other_times[i].word)) known = other_times[i].unit;
    const fg_text digits = number->kind == NODE_LITERAL ? number->word : T("5");
    const char *instead = known ? "write {}{}" : "write it in ms, s, min or h: {}ms, {}s";
    if (unit.size && known)
        fg_report(c, FG_FIND_UNIT, unit_place(number), "{} needs a time, not {}", instead, spec->what, unit, digits,
                  fg_text_of(known));
    else if (unit.size)
        fg_report(c, FG_FIND_UNIT, unit_place(number), "{} needs a time, not {}", instead, spec->what, unit, digits,
                  digits);
    else
        fg_report(c, FG_FIND_UNIT, unit_place(number), "{} needs a time", instead, spec->what, digits, digits);
    if (known) fg_report_fix(c, unit_place(number), fg_text_of(known));
}

/* A duration may be written in any unit of time and becomes ms. Everything else keeps the unit of its place: the
 * language converts nothing, because 5 in and 5 cm are two readings and no rounding should hide that. */
static bool unit_fits(fg_compiler *c, const fg_node *number, const fg_number_spec *spec, fg_quantity *q)
{
    if (spec->duration) {
        int64_t ms = (int64_t)fg_unit_ms(q->unit);
        if (ms) return times(q->num, q->den, ms, 1, q) ? true : (too_long(c, number), false);
        needs_time(c, number, spec, q->unit);
        return false;
    }
    if (q->unit.size ? fg_text_same(q->unit, spec->unit) : !spec->unit_needed) return true;
    fg_span span = unit_place(number);
    if (!q->unit.size)
        fg_report(c, FG_FIND_UNIT, span, "{} needs its unit, {}", "write {}{}{}", spec->what, spec->unit,
                  fg_span_text(c, number->span), fg_text_is(spec->unit, "%") ? T("") : T(" "), spec->unit);
    else if (spec->unit.size)
        fg_report(c, FG_FIND_UNIT, span, "{} is in {}, not in {}", "write the number in {}", spec->what, spec->unit,
                  q->unit, spec->unit);
    else
        fg_report(c, FG_FIND_UNIT, span, "{} has no unit, so '{}' does not belong here", "leave it out", spec->what,
                  q->unit);
    return false;
}

/* The fraction itself, for scales, which are not rounded. */
bool fg_quantity_exact(fg_compiler *c, const fg_node *number, const fg_number_spec *spec, fg_quantity *q)
{
    *q = fg_quantity_of(c, number);
    return q->ok && unit_fits(c, number, spec, q);
}

/* Division of C rounds towards zero; this rounds down. */
static int64_t floor_quotient(int64_t num, int64_t den) { return num / den - (num % den < 0); }

/* num / den of the unit in steps; false if 64 bits do not hold it. `exact`: nothing was rounded. */
static bool to_steps(const fg_quantity *q, uint8_t decimals, int64_t *steps, bool *exact, int64_t *below)
{
    fg_quantity scaled = *q;
    if (!times(q->num, q->den, power_of_ten(decimals), 1, &scaled)) return false;
    *exact = scaled.den == 1;
    *below = floor_quotient(scaled.num, scaled.den);
    return fg_wide_quotient(fg_wide_of(scaled.num), scaled.den, steps);
}

/* The decimals that hold a number, more than it has room for; 0 if six are not enough. */
static uint8_t decimals_of(const fg_quantity *q, uint8_t decimals)
{
    int64_t steps, below;
    bool exact = false;
    while (!exact && decimals < FG_DECIMALS_MOST)
        if (!to_steps(q, ++decimals, &steps, &exact, &below)) return 0;
    return exact ? decimals : 0;
}

/* What a person wrote finer than a step is a mistake and names its two neighbours; what was worked out is rounded to
 * nearest, halves away from zero. */
bool fg_quantity_steps(fg_compiler *c, const fg_node *number, const fg_number_spec *spec, int64_t *steps)
{
    fg_quantity q;
    bool exact;
    int64_t below;
    const uint8_t decimals = spec->duration ? 0 : spec->decimals;
    fg_text unit = spec->duration ? T("ms") : spec->unit;
    if (!fg_quantity_exact(c, number, spec, &q)) return false;
    if (!to_steps(&q, decimals, steps, &exact, &below)) {
        (void)too_long(c, number);
        return false;
    }
    /* Told with its value if it is a name, since the digits stand elsewhere. */
    if (!exact && q.written) {
        const fg_symbol *named = number->kind == NODE_NUMBER_NAME ? fg_name_find(c, number->word) : NULL;
        fg_text shown = fg_span_text(c, number->span);
        if (named && named->body) shown = fg_text_join(c, shown, " = ", fg_span_text(c, named->body->span));
        const uint8_t needed = decimals_of(&q, decimals);
        fg_report(c, FG_FIND_FINER, number->span, "{} is finer than a step of {}",
                  needed && spec->sensor.size ? "write {} or {}, or give {} a step of {}" : "write {} or {}", shown,
                  fg_text_of_value_unit(c, 1, decimals, unit), fg_text_of_value_unit(c, below, decimals, unit),
                  fg_text_of_value_unit(c, below + 1, decimals, unit), spec->sensor, fg_text_of_value(c, 1, needed));
        return false;
    }
    if (*steps < spec->low || *steps > spec->high) {
        fg_report(c, FG_FIND_RANGE, number->span, "{} cannot be {}", "it goes from {} to {}", spec->what,
                  fg_span_text(c, number->span), fg_text_of_value_unit(c, spec->low, decimals, unit),
                  fg_text_of_value_unit(c, spec->high, decimals, unit));
        return false;
    }
    return true;
}

/* Up to 24 days, so that differences of a 32-bit clock in ms stay below 2^31. */
bool fg_quantity_duration(fg_compiler *c, fg_node *number, fg_text what, fg_time *ms)
{
    const fg_number_spec spec = {.what = what, .duration = true, .low = 0, .high = FG_TIME_MOST};
    if (!fg_quantity_steps(c, number, &spec, &number->found.steps)) return false;
    *ms = (fg_time)number->found.steps;
    return true;
}
