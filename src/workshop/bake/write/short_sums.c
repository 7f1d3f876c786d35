/* SPDX-License-Identifier: MIT */
/* Sums that work in 32 bits.
 *
 * A value on the way is a whole number over a divisor: so many of the result's steps. How large it can be follows from
 * what its parts can be (interval arithmetic). Where no value on the way leaves 32 bits and none needs rounding to a
 * millionth, the one rounding at the end gives what the language gives: each operation is exact.
 *
 * Two operations are not exact, and still may stand here, once, if after them come only whole steps that are added or
 * taken away, signs and comparisons with whole steps:
 *
 * A quotient m / q is rounded to a millionth by the language, then to a step. Rounding it once gives the same, unless
 * the first rounding brings it to a half: it lies at least 1 / (2q) away from one, or on it, and the first rounding
 * moves it by at most half a millionth. So q has to be less than the millionths in a step.
 *
 * A length of whole steps is rounded to a whole step at once: see fg_code_short_most. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

typedef struct part {
    const char *text;
    code_test there;
    int64_t low, high; /* of the whole number */
    int64_t divisor;
    bool rounded;   /* once: only whole steps may follow */
    bool is_number; /* a constant */
} part;

typedef struct short_sum {
    coder *c;
    uint16_t number;
    part stack[FG_STACK_MOST + 1];
    int top;
    bool writes; /* else it is only looked whether there is such a way */
} short_sum;

static int32_t step_of(const short_sum *s) { return fg_code_millionths(s->c->gate->sensors[s->number].decimals); }

static bool fits_32(int64_t v) { return v >= -INT32_MAX && v <= INT32_MAX; }
static bool fits(int64_t a, int64_t b) { return fits_32(a) && fits_32(b); }

/* A product that stays away from the end of 64 bits, so that it can be judged. */
static bool product(int64_t a, int64_t b, int64_t *out)
{
    const double exact = (double)a * (double)b;
    if (exact > 4e18 || exact < -4e18) return false;
    *out = a * b;
    return true;
}

/* Up to here the int of every machine is enough. */
static bool fits_16(int64_t low, int64_t high) { return low >= -32767 && high <= 32767; }
static const char *cast_of(int64_t low, int64_t high) { return fits_16(low, high) ? "" : "(int32_t)"; }

/* A call of the variant of a part for numbers of these bounds. */
static const char *call_of(coder *c, const char *name, const part *a, const part *b)
{
    const bool small = fits_16(a->low, a->high) && (!b || fits_16(b->low, b->high));
    const char *cast = small ? "(int16_t)" : "", *second = b ? fg_code_say(c, ", %s%s", cast, b->text) : "";
    return fg_code_say(c, "\3%s_%s(%s%s%s)", name, small ? "16" : "32", cast, a->text, second);
}

/* What both can be divided by; at least 1. */
static int64_t shared_by(int64_t a, int64_t b)
{
    const int64_t shared = fg_code_common(a, b);
    return shared > 0 ? shared : 1;
}

static void reduce(part *p)
{
    if (!p->is_number) return;
    const int64_t shared = shared_by(p->low < 0 ? -p->low : p->low, p->divisor);
    p->low /= shared;
    p->high = p->low;
    p->divisor /= shared;
}

static void name_number(short_sum *s, part *p)
{
    if (p->is_number) p->text = fg_code_number(s->c, p->low);
}

/* The same value over `factor` times the divisor. */
static bool widen(short_sum *s, part *p, int64_t factor)
{
    if (factor == 1) return true;
    if (!product(p->low, factor, &p->low) || !product(p->high, factor, &p->high) || !fits(p->low, p->high))
        return false;
    p->divisor *= factor;
    if (p->is_number)
        name_number(s, p);
    else
        p->text = fg_code_say(s->c, "(%s%s * %" PRId64 ")", cast_of(p->low, p->high), p->text, factor);
    return true;
}

/* Both over one divisor. */
static bool align(short_sum *s, part *a, part *b)
{
    const int64_t shared = shared_by(a->divisor, b->divisor), of_a = b->divisor / shared, of_b = a->divisor / shared;
    return widen(s, a, of_a) && widen(s, b, of_b) && a->divisor <= INT32_MAX;
}

/* Behind a rounding come whole steps only. */
static bool may_meet(const part *a, const part *b)
{
    if (a->rounded && b->rounded) return false;
    return !(a->rounded && b->divisor != 1) && !(b->rounded && a->divisor != 1);
}

static bool add(short_sum *s, part *a, part *b, bool adds)
{
    if (!may_meet(a, b) || !align(s, a, b)) return false;
    const int64_t low = adds ? a->low + b->low : a->low - b->high, high = adds ? a->high + b->high : a->high - b->low;
    if (!fits(low, high)) return false;
    a->text = fg_code_say(s->c, "(%s%s %c %s)", cast_of(low, high), a->text, adds ? '+' : '-', b->text);
    a->low = low;
    a->high = high;
    return true;
}

static bool pick(short_sum *s, part *a, part *b, bool lowest)
{
    if (!may_meet(a, b) || !align(s, a, b)) return false;
    a->text = call_of(s->c, lowest ? "lower" : "higher", a, b);
    const bool low_is_a = lowest ? a->low < b->low : a->low > b->low;
    const bool high_is_a = lowest ? a->high < b->high : a->high > b->high;
    a->low = low_is_a ? a->low : b->low;
    a->high = high_is_a ? a->high : b->high;
    return true;
}

/* Whole millionths still, or the one rounding that is allowed? */
static bool settle_divisor(const short_sum *s, part *p)
{
    if (p->divisor > INT32_MAX) return false;
    if (step_of(s) % p->divisor == 0) return true;
    if (p->rounded || p->divisor >= step_of(s)) return false;
    p->rounded = true;
    return true;
}

static void bounds_of_product(const part *a, const part *b, double bounds[2])
{
    const double ends[] = {(double)a->low * (double)b->low, (double)a->low * (double)b->high,
                           (double)a->high * (double)b->low, (double)a->high * (double)b->high};
    bounds[0] = bounds[1] = ends[0];
    for (int i = 1; i < 4; i++) {
        if (ends[i] < bounds[0]) bounds[0] = ends[i];
        if (ends[i] > bounds[1]) bounds[1] = ends[i];
    }
}

/* a * b * up / down, where a and b are whole numbers over their divisors. */
static bool multiply(short_sum *s, part *a, part *b, int64_t up, int64_t down)
{
    if (a->rounded || b->rounded) return false;
    int64_t divisor;
    if (!product(a->divisor, b->divisor, &divisor) || !product(divisor, down, &divisor)) return false;
    const part *other = a->is_number ? b : a;
    const bool scales = a->is_number || b->is_number;
    if (scales) { /* a constant and what the units bring are one factor */
        const part *number = a->is_number ? a : b;
        int64_t factor;
        if (!product(number->low, up, &factor)) return false;
        const int64_t shared = shared_by(factor < 0 ? -factor : factor, divisor);
        part p = *other;
        p.divisor = 1;
        p.there = fg_code_both(s->c, a->there, b->there);
        if (!widen(s, &p, factor / shared)) return false;
        if (factor / shared < 0) {
            const int64_t low = p.low;
            p.low = p.high;
            p.high = low;
        }
        p.divisor = divisor / shared;
        *a = p;
        return settle_divisor(s, a);
    }
    double bounds[2];
    bounds_of_product(a, b, bounds);
    if (bounds[0] < -INT32_MAX || bounds[1] > INT32_MAX) return false;
    a->text = fg_code_say(s->c, "((int32_t)%s * %s)", a->text, b->text);
    a->there = fg_code_both(s->c, a->there, b->there);
    a->low = (int64_t)bounds[0];
    a->high = (int64_t)bounds[1];
    const int64_t shared = shared_by(up, divisor);
    a->divisor = 1;
    if (!widen(s, a, up / shared)) return false;
    a->divisor = divisor / shared;
    return settle_divisor(s, a);
}

/* By a constant, which is a multiplication by its reciprocal. */
static bool divide(short_sum *s, part *a, part *b)
{
    if (!b->is_number || !b->low) return false;
    const int64_t sign = b->low < 0 ? -1 : 1;
    part reciprocal = *b;
    reciprocal.low = reciprocal.high = sign * b->divisor;
    reciprocal.divisor = sign * b->low;
    name_number(s, &reciprocal);
    return multiply(s, a, &reciprocal, 1000000, step_of(s));
}

static bool negate(short_sum *s, part *a)
{
    const int64_t low = a->low;
    a->text = fg_code_say(s->c, "(-%s%s)", cast_of(-a->high, -low), a->text);
    a->low = -a->high;
    a->high = -low;
    name_number(s, a);
    return true;
}

static bool absolute(short_sum *s, part *a)
{
    a->text = call_of(s->c, "magnitude", a, NULL);
    const int64_t low = a->low < 0 ? -a->low : a->low, high = a->high < 0 ? -a->high : a->high;
    const bool through_zero = a->low <= 0 && a->high >= 0;
    a->low = through_zero ? 0 : low < high ? low : high;
    a->high = low > high ? low : high;
    return true;
}

static bool length(short_sum *s, part *v, int taken)
{
    const int32_t most = fg_code_short_most(s->c->gate->sensors[s->number].decimals);
    const char *arguments = "";
    double square = 0;
    for (int i = 0; i < taken; i++) {
        if (v[i].rounded || v[i].divisor != 1 || v[i].low < -most || v[i].high > most) return false;
        const double far = fmax(fabs((double)v[i].low), fabs((double)v[i].high));
        square += far * far;
        arguments = fg_code_say(s->c, "%s%s%s", arguments, i ? ", " : "", v[i].text);
        if (i) v->there = fg_code_both(s->c, v->there, v[i].there);
    }
    v->text = fg_code_say(s->c, "\3short_length(%s%s)", arguments, taken == 2 ? ", 0" : "");
    v->low = 0;
    v->high = (int64_t)sqrt(square) + 1;
    v->rounded = true;
    v->is_number = false;
    return true;
}

static bool read(short_sum *s, const fg_term *t, part *p)
{
    coder *c = s->c;
    const code_sensor *of = &c->sensors[t->sensor];
    const uint8_t from = c->gate->sensors[t->sensor].decimals, to = c->gate->sensors[s->number].decimals;
    *p = (part){.text = of->value, .there = fg_code_atom(of->ok), .low = of->low, .high = of->high, .divisor = 1};
    if (t->kind != FG_TERM_SENSOR && s->writes) p->text = fg_code_best_in_window(c, s->number, t);
    if (t->kind != FG_TERM_SENSOR && !s->writes) p->text = "";
    if (!fits(p->low, p->high)) return false;
    for (uint8_t i = to; i < from; i++) p->divisor *= 10;
    int64_t factor = 1;
    for (uint8_t i = from; i < to; i++) factor *= 10;
    const bool good = widen(s, p, factor);
    if (factor > 1) p->divisor = 1;
    return good;
}

static bool one(short_sum *s, const fg_term *t)
{
    part *const v = &s->stack[s->top];
    switch ((fg_term_kind)t->kind) {
    case FG_TERM_NUMBER:
        *v =
            (part){.there = code_always, .low = t->number, .high = t->number, .divisor = step_of(s), .is_number = true};
        reduce(v);
        name_number(s, v);
        s->top++;
        return fits(v->low, v->high);
    case FG_TERM_SENSOR:
    case FG_TERM_DIP:
    case FG_TERM_PEAK: s->top++; return read(s, t, v);
    case FG_TERM_NEGATE: return negate(s, &v[-1]);
    case FG_TERM_ABS: return absolute(s, &v[-1]);
    case FG_TERM_LENGTH: s->top -= t->count - 1; return length(s, v - t->count, t->count);
    case FG_TERM_ANGLE:
    case FG_TERM_RATE: return false;
    default: break;
    }
    part *a = v - 2, *b = v - 1;
    s->top--;
    bool good = false;
    switch ((fg_term_kind)t->kind) {
    case FG_TERM_MULTIPLY: return multiply(s, a, b, step_of(s), 1000000);
    case FG_TERM_DIVIDE: return divide(s, a, b);
    case FG_TERM_ADD: good = add(s, a, b, true); break;
    case FG_TERM_SUBTRACT: good = add(s, a, b, false); break;
    case FG_TERM_LOWEST: good = pick(s, a, b, true); break;
    case FG_TERM_HIGHEST: good = pick(s, a, b, false); break;
    default: return false;
    }
    a->there = fg_code_both(s->c, a->there, b->there);
    a->rounded = a->rounded || b->rounded;
    a->is_number = false;
    return good;
}

static bool work_out(short_sum *s)
{
    const fg_sensor *rule = &s->c->gate->sensors[s->number];
    s->top = 0;
    for (uint16_t i = 0; i < rule->term_count; i++)
        if (!one(s, &s->c->gate->terms[rule->first_term + i])) return false;
    return true;
}

bool fg_code_plan_short_sum(coder *c, uint16_t number)
{
    short_sum s = {.c = c, .number = number};
    if (!work_out(&s) || s.stack[0].divisor < 1) return false;
    const part *v = &s.stack[0];
    code_sensor *of = &c->sensors[number];
    of->low = v->low / v->divisor - (v->divisor > 1);
    of->high = v->high / v->divisor + (v->divisor > 1);
    of->narrow = of->small && fits_16(of->low, of->high);
    return true;
}

/* A sum that is there whenever another one is needs no variable of its own for that: the other's; NULL if there is no
 * such sum. */
static const char *shared_ok(coder *c, uint16_t number, const char *there)
{
    const fg_sensor *rule = &c->gate->sensors[number];
    if (!there || rule->trust || rule->stages || rule->circle) return NULL; /* it may become faulty by itself */
    for (uint16_t i = 0; i < c->gate->size.sensors; i++)
        if (c->sensors[i].there && !strcmp(c->sensors[i].there, there)) return c->sensors[i].ok;
    c->sensors[number].there = there;
    return NULL;
}

const char *fg_code_short_sum(coder *c, uint16_t number, const char *result, const char *ok)
{
    short_sum s = {.c = c, .number = number, .writes = true};
    (void)work_out(&s);
    const part *v = &s.stack[0];
    const char *cast = fg_code_is_narrow(&c->sensors[number]) ? "(int16_t)" : "";
    const char *other = c->sensors[number].shown ? NULL : shared_ok(c, number, v->there.text);
    if (!other) fg_code_line(c, 1, "bool %s = %s;", ok, v->there.text);
    if (other) ok = other;
    if (v->divisor == 1)
        fg_code_line(c, 1, "if (%s) %s = %s%s;", ok, result, cast, v->text);
    else
        fg_code_line(c, 1, "if (%s) %s = %s\3rounded_32(%s, %" PRId64 ");", ok, result, cast, v->text, v->divisor);
    return ok;
}

/* ---- what a wide sum would need ---- */

static bool is_open(const code_sensor *of) { return !fits(of->low, of->high); }

/* Tells of a sum that does not fit, with the sensors whose range is missing, if a small one would be enough. */
void fg_code_tell_wide(coder *c, uint16_t number)
{
    enum { SMALL = 1000 };
    const fg_bake_options *o = c->baker->options;
    const fg_sensor *rule = &c->gate->sensors[number];
    short_sum s = {.c = c, .number = number};
    fg_buffer cure = {0};
    if (!o->wide) return;
    code_sensor *const before = malloc((c->gate->size.sensors + 1u) * sizeof *before);
    c->full = c->full || !before;
    if (!before) return;
    memcpy(before, c->sensors, c->gate->size.sensors * sizeof *before);
    for (uint16_t i = 0; i < rule->term_count; i++) {
        const fg_term *t = &c->gate->terms[rule->first_term + i];
        code_sensor *of = &c->sensors[t->sensor];
        if (!fg_term_reads(t->kind) || !is_open(of)) continue;
        if (cure.size) fg_buffer_add_c(&cure, ", ");
        fg_buffer_add(&cure, of->declared->name);
        of->low = -SMALL;
        of->high = SMALL;
    }
    if (!work_out(&s)) cure.size = 0;
    memcpy(c->sensors, before, c->gate->size.sensors * sizeof *before);
    o->wide(o->context, c->sensors[number].declared, fg_buffer_text(&cure));
    c->full = c->full || cure.full;
    fg_buffer_free(&cure);
    free(before);
}
