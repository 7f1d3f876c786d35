/* SPDX-License-Identifier: MIT */
/* Sensors that are worked out from others.
 *
 * The language works in 64-bit millionths. Where a sum only adds, subtracts and compares values of one step, whole
 * steps give the same result without a division, so those are used. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>
#include <math.h>
#include <string.h>

/* Something on the stack while a sum is read: C for it, for whether it is there, and how large it can be. */
typedef struct value {
    const char *text;
    code_test there;
    double most; /* no larger, with either sign: in steps or millionths, as the sum is worked out */
    bool is_number;
    int64_t number; /* millionths */
} value;

/* Up to here 64 bits are enough, with room for what doubles round. */
static const double fits_64 = 4e18;

typedef struct summing {
    coder *c;
    uint16_t number;
    fg_text name;
    value stack[FG_STACK_MOST + 1];
    int top, indent;
} summing;

static const fg_term *terms_of(const coder *c, uint16_t number)
{
    return &c->gate->terms[c->gate->sensors[number].first_term];
}

static uint8_t decimals_of(const coder *c, uint16_t sensor) { return c->gate->sensors[sensor].decimals; }

/* The largest value of a sensor, with either sign. */
static double most_of(const code_sensor *s)
{
    const double low = (double)s->low, high = (double)s->high;
    return -low > high ? -low : high;
}

static value best_in_window(summing *s, const fg_term *t)
{
    const code_sensor *of = &s->c->sensors[t->sensor];
    const char *name = fg_code_best_in_window(s->c, s->number, t);
    return (value){.text = name, .there = fg_code_atom(of->ok), .most = most_of(of)};
}

static value rate(summing *s, const fg_term *t)
{
    coder *c = s->c;
    const code_sensor *of = &c->sensors[t->sensor];
    const code_window w = fg_code_window(c, s->number, t);
    const char *name = fg_code_local(c, s->name, "_rate"), *there = fg_code_local(c, s->name, "_rated");
    const int64_t factor = t->number * 1000;
    const double span = (double)of->high - (double)of->low, most = span * (double)factor;
    fg_code_line(c, 1, "int64_t %s = 0;", name);
    fg_code_line(c, 1, "bool %s = false;", there);
    fg_code_line(c, 1, "if (%s) {", of->ok);
    fg_code_line(c, 2, "const uint8_t newest = %s.head;", w.ring);
    fg_code_line(c, 2, "\3turn_back(%s, %u, \3back);", w.times, t->count);
    fg_code_line(c, 2, "%s[newest] = \3now;", w.times);
    fg_code_line(c, 2, "\3ring_put(%s, &%s, %u, %s);", w.values, w.ring, t->count, of->value);
    fg_code_line(c, 2, "const uint8_t oldest = %s.count < %u ? 0 : %s.head;", w.ring, t->count, w.ring);
    fg_code_line(c, 2, "const uint32_t took = \3ring_took(%s, &%s, %u, &%s);", w.times, w.ring, t->count, w.far);
    const bool small = span < (1 << 29);
    const char *way = fg_code_say(c, "\3way%s(%s[oldest], %s[newest], %" PRId32 ")", small ? "_32" : "", w.values,
                                  w.values, of->rule->circle);
    if (small && !of->rule->circle) way = fg_code_say(c, "(%s[newest] - %s[oldest])", w.values, w.values);
    if (most < fits_64) {
        fg_code_line(c, 2, "%s = %s.count > 1 && took > 0 && took < 0x80000000u;", there, w.ring);
        fg_code_line(c, 2, "if (%s) %s = \3fg_rounded(%s * INT64_C(%" PRId64 "), took);", there, name, way, factor);
    } else {
        fg_code_line(c, 2, "%s = %s.count > 1 && took < 0x80000000u && \3rate_of(%s, %" PRId64 ", took, &%s);", there,
                     w.ring, way, t->number, name);
    }
    fg_code_line(c, 1, "} else {");
    fg_code_line(c, 2, "%s.count = %s.head = 0;", w.ring, w.ring);
    fg_code_line(c, 1, "}");
    return (value){.text = name, .there = fg_code_atom(there), .most = most};
}

/* ---- whole steps ---- */

/* Only adds, subtracts and compares values whose step is the result's, none of them too many for 64 bits? */
static bool in_steps(const coder *c, uint16_t number)
{
    const fg_sensor *rule = &c->gate->sensors[number];
    const int32_t step = fg_code_millionths(rule->decimals);
    for (uint16_t i = 0; i < rule->term_count; i++) {
        const fg_term *t = &terms_of(c, number)[i];
        switch ((fg_term_kind)t->kind) {
        case FG_TERM_NUMBER:
            if (t->number % step || t->number / step > INT32_MAX || t->number / step < INT32_MIN) return false;
            break;
        case FG_TERM_SENSOR:
        case FG_TERM_DIP:
        case FG_TERM_PEAK:
            if (decimals_of(c, t->sensor) > rule->decimals) return false;
            break;
        case FG_TERM_ADD:
        case FG_TERM_SUBTRACT:
        case FG_TERM_NEGATE:
        case FG_TERM_ABS:
        case FG_TERM_LOWEST:
        case FG_TERM_HIGHEST: break;
        default: return false;
        }
    }
    return rule->term_count <= 40; /* far from the end of 64 bits, in steps as in millionths */
}

static value scaled_up(summing *s, value v, uint8_t from, uint8_t to)
{
    int64_t factor = 1;
    for (; from < to; from++) factor *= 10;
    if (factor == 1) return v;
    v.most *= (double)factor;
    v.text = fg_code_say(s->c, "(%s)%s * %" PRId64, v.most > INT32_MAX ? "int64_t" : "int32_t", v.text, factor);
    return v;
}

static value joined(summing *s, const fg_term *t, value a, value b)
{
    coder *c = s->c;
    const bool picks = t->kind == FG_TERM_LOWEST || t->kind == FG_TERM_HIGHEST;
    value v = {.there = fg_code_both(c, a.there, b.there),
               .most = picks ? (a.most > b.most ? a.most : b.most) : a.most + b.most};
    if (picks)
        v.text = fg_code_say(c, "%s(%s, %s)", t->kind == FG_TERM_LOWEST ? "\3lower" : "\3higher", a.text, b.text);
    else
        v.text = fg_code_say(c, "(%s%s %c %s)", v.most > INT32_MAX ? "(int64_t)" : "(int32_t)", a.text,
                             t->kind == FG_TERM_ADD ? '+' : '-', b.text);
    return v;
}

/* What the result can be, for those who look at it. */
static void set_bounds(coder *c, uint16_t number, double most)
{
    code_sensor *of = &c->sensors[number];
    const bool small = most < INT32_MAX;
    of->low = small ? -(int64_t)most - 1 : INT32_MIN;
    of->high = small ? (int64_t)most + 1 : INT32_MAX;
}

static void sum_in_steps(summing *s, const char *result, const char *ok)
{
    coder *c = s->c;
    const fg_sensor *rule = &c->gate->sensors[s->number];
    for (uint16_t i = 0; i < rule->term_count; i++) {
        const fg_term *t = &terms_of(c, s->number)[i];
        value *top = &s->stack[s->top];
        const code_sensor *of = &c->sensors[t->sensor];
        switch ((fg_term_kind)t->kind) {
        case FG_TERM_NUMBER: {
            const int64_t steps = t->number / fg_code_millionths(rule->decimals);
            s->stack[s->top++] = (value){
                .text = fg_code_number(c, steps), .there = code_always, .most = (double)(steps < 0 ? -steps : steps)};
            break;
        }
        case FG_TERM_SENSOR:
            s->stack[s->top++] =
                scaled_up(s, (value){.text = of->value, .there = fg_code_atom(of->ok), .most = most_of(of)},
                          decimals_of(c, t->sensor), rule->decimals);
            break;
        case FG_TERM_DIP:
        case FG_TERM_PEAK:
            s->stack[s->top++] = scaled_up(s, best_in_window(s, t), decimals_of(c, t->sensor), rule->decimals);
            break;
        case FG_TERM_NEGATE: top[-1].text = fg_code_say(c, "(-(int64_t)%s)", top[-1].text); break;
        case FG_TERM_ABS: top[-1].text = fg_code_say(c, "\3magnitude(%s)", top[-1].text); break;
        default: top[-2] = joined(s, t, top[-2], top[-1]); s->top--;
        }
    }
    const value *v = &s->stack[0];
    set_bounds(c, s->number, v->most);
    if (v->most <= INT32_MAX) {
        fg_code_line(c, 1, "bool %s = %s;", ok, v->there.text);
        fg_code_line(c, 1, "if (%s) %s = (int32_t)%s;", ok, result, v->text);
        return;
    }
    const char *all = fg_code_local(c, s->name, "_steps");
    fg_code_line(c, 1, "int64_t %s = 0;", all);
    fg_code_line(c, 1, "if (%s) %s = %s; /* else a part may be anything */", v->there.text, all, v->text);
    fg_code_line(
        c, 1, "bool %s = %s;", ok,
        fg_code_both(c, v->there, fg_code_call(fg_code_say(c, "%s >= INT32_MIN && %s <= INT32_MAX", all, all))).text);
    fg_code_line(c, 1, "if (%s) %s = (int32_t)%s;", ok, result, all);
}

/* ---- millionths ---- */

/* A call that may fail: its result in a variable, and in another whether there is one. */
static value called(summing *s, code_test there, const char *name, const char *arguments, double most)
{
    coder *c = s->c;
    const char *what = strncmp(name, "\3fg_", 4) != 0 ? name + 1 : name + 4, *of = strstr(what, "_of");
    const int size = (int)(of ? (size_t)(of - what) : strlen(what)); /* "angle_of" makes an angle */
    const char *word = fg_code_local(c, s->name, fg_code_say(c, "_%.*s", size, what)),
               *good = fg_code_local(c, s->name, fg_code_say(c, "_%.*s_good", size, what));
    const char *call = fg_code_say(c, "%s(%s, &%s)", name, arguments, word);
    fg_code_line(c, s->indent, "int64_t %s = 0;", word);
    fg_code_define(c, s->indent,
                   (code_definition){"bool", good, "", fg_code_both(c, there, fg_code_call(call)).text, false});
    return (value){.text = word, .there = fg_code_atom(good), .most = most};
}

static value added(summing *s, const fg_term *t, const value *a, const value *b)
{
    const double most = a->most + b->most;
    const code_test there = fg_code_both(s->c, a->there, b->there);
    const bool adds = t->kind == FG_TERM_ADD;
    if (most < fits_64)
        return (value){
            .text = fg_code_say(s->c, "(%s %c %s)", a->text, adds ? '+' : '-', b->text), .there = there, .most = most};
    return called(s, there, adds ? "\3fg_sum" : "\3fg_difference", fg_code_say(s->c, "%s, %s", a->text, b->text), most);
}

/* A whole number of times: nothing to round. */
static value times(summing *s, const value *a, int64_t factor)
{
    return (value){.text = fg_code_say(s->c, "(%s * %" PRId64 ")", a->text, factor),
                   .there = a->there,
                   .most = a->most * (double)(factor < 0 ? -factor : factor)};
}

static value multiplied(summing *s, const value *a, const value *b)
{
    const code_test there = fg_code_both(s->c, a->there, b->there);
    const double most = a->most * b->most;
    if (b->is_number && b->number % 1000000 == 0 && most / 1e6 < fits_64) return times(s, a, b->number / 1000000);
    if (a->is_number && a->number % 1000000 == 0 && most / 1e6 < fits_64) return times(s, b, a->number / 1000000);
    if (most < fits_64)
        return (value){.text = fg_code_say(s->c, "\3fg_rounded(%s * %s, 1000000)", a->text, b->text),
                       .there = there,
                       .most = most / 1e6 + 1};
    return called(s, there, "\3product", fg_code_say(s->c, "%s, %s", a->text, b->text), most / 1e6);
}

static value divided(summing *s, const value *a, const value *b)
{
    const code_test there = fg_code_both(s->c, a->there, b->there);
    const char *arguments = fg_code_say(s->c, "%s, %s", a->text, b->text);
    const double most = a->most * 1e6;
    if (most >= fits_64) return called(s, there, "\3quotient", arguments, most);
    if (!b->is_number || !b->number) return called(s, there, "\3ratio", arguments, most);
    const int64_t shared = fg_code_common(b->number, 1000000),
                  factor = b->number < 0 ? -1000000 / shared : 1000000 / shared;
    return (value){.text = fg_code_say(s->c, "\3fg_rounded(%s * %" PRId64 ", %" PRId64 ")", a->text, factor,
                                       (b->number < 0 ? -b->number : b->number) / shared),
                   .there = there,
                   .most = most / (double)(b->number < 0 ? -b->number : b->number) + 1};
}

static value picked(summing *s, const char *function, const value *a, const value *b)
{
    return (value){.text = fg_code_say(s->c, "%s(%s, %s)", function, a->text, b->text),
                   .there = fg_code_both(s->c, a->there, b->there),
                   .most = a->most > b->most ? a->most : b->most};
}

/* A function of several, which may fail. */
static value of_several(summing *s, const fg_term *t, const value *v, int taken)
{
    const char *arguments = v[0].text;
    code_test there = v[0].there;
    for (int i = 1; i < taken; i++) {
        there = fg_code_both(s->c, there, v[i].there);
        arguments = fg_code_say(s->c, "%s, %s", arguments, v[i].text);
    }
    if (t->kind == FG_TERM_ANGLE) return called(s, there, "\3angle_of", arguments, 360e6);
    if (taken == 2) arguments = fg_code_say(s->c, "%s, 0", arguments);
    return called(s, there, "\3length_of", arguments, 9.3e18);
}

static value one_of_one(summing *s, const fg_term *t, const value *a)
{
    const bool negates = t->kind == FG_TERM_NEGATE;
    if (a->most >= fits_64) return called(s, a->there, negates ? "\3fg_negated" : "\3absolute", a->text, a->most);
    value v = *a;
    v.text = fg_code_say(s->c, negates ? "(-%s)" : "\3magnitude(%s)", a->text);
    v.number = negates || a->number < 0 ? -a->number : a->number;
    return v;
}

static value one_read(summing *s, const fg_term *t)
{
    coder *c = s->c;
    const code_sensor *of = &c->sensors[t->sensor];
    if (t->kind == FG_TERM_RATE) return rate(s, t);
    const value steps = t->kind == FG_TERM_SENSOR
                            ? (value){.text = of->value, .there = fg_code_atom(of->ok), .most = most_of(of)}
                            : best_in_window(s, t);
    return (value){.text = fg_code_say(c, "(int64_t)%s * %" PRId64, steps.text, t->number),
                   .there = steps.there,
                   .most = steps.most * (double)t->number};
}

static void work_out(summing *s, const fg_term *t)
{
    value *const v = &s->stack[s->top];
    switch ((fg_term_kind)t->kind) {
    case FG_TERM_NUMBER:
        *v = (value){.text = fg_code_say(s->c, "INT64_C(%" PRId64 ")", t->number),
                     .there = code_always,
                     .most = (double)(t->number < 0 ? -t->number : t->number),
                     .is_number = true,
                     .number = t->number};
        s->top++;
        return;
    case FG_TERM_SENSOR:
    case FG_TERM_RATE:
    case FG_TERM_DIP:
    case FG_TERM_PEAK:
        *v = one_read(s, t);
        s->top++;
        return;
    case FG_TERM_NEGATE:
    case FG_TERM_ABS: v[-1] = one_of_one(s, t, &v[-1]); return;
    case FG_TERM_LENGTH:
        v[-t->count] = of_several(s, t, v - t->count, t->count);
        s->top -= t->count - 1;
        return;
    default: break;
    }
    s->top--;
    switch ((fg_term_kind)t->kind) {
    case FG_TERM_ADD:
    case FG_TERM_SUBTRACT: v[-2] = added(s, t, &v[-2], &v[-1]); return;
    case FG_TERM_MULTIPLY: v[-2] = multiplied(s, &v[-2], &v[-1]); return;
    case FG_TERM_DIVIDE: v[-2] = divided(s, &v[-2], &v[-1]); return;
    case FG_TERM_LOWEST: v[-2] = picked(s, "\3lower", &v[-2], &v[-1]); return;
    case FG_TERM_HIGHEST: v[-2] = picked(s, "\3higher", &v[-2], &v[-1]); return;
    default: v[-2] = of_several(s, t, v - 2, 2); return;
    }
}

/* The end of a sum: millionths as whole steps of its sensor. */
static void write_steps(summing *s, const char *result, const char *ok)
{
    coder *c = s->c;
    const value *v = &s->stack[0];
    const int32_t step = fg_code_millionths(c->gate->sensors[s->number].decimals);
    const double most = v->most / step + 1;
    const char *type = s->indent == 1 ? "bool " : ""; /* in a branch it is declared in front of it */
    set_bounds(c, s->number, most);
    if (most >= INT32_MAX) {
        const char *call = fg_code_say(c, "\3in_steps(%s, %" PRId32 ", &%s)", v->text, step, result);
        fg_code_line(c, s->indent, "%s%s = %s;", type, ok, fg_code_both(c, v->there, fg_code_call(call)).text);
        return;
    }
    fg_code_line(c, s->indent, "%s%s = %s;", type, ok, v->there.text);
    if (step == 1)
        fg_code_line(c, s->indent, "if (%s) %s = (int32_t)%s;", ok, result, v->text);
    else if (v->most < INT32_MAX)
        fg_code_line(c, s->indent, "if (%s) %s = \3rounded_32((int32_t)%s, %" PRId32 ");", ok, result, v->text, step);
    else
        fg_code_line(c, s->indent, "if (%s) %s = (int32_t)\3fg_rounded(%s, %" PRId32 ");", ok, result, v->text, step);
}

/* A length of sensors that have the step of the result? */
static bool is_length(const coder *c, uint16_t number)
{
    const fg_sensor *rule = &c->gate->sensors[number];
    const fg_term *t = terms_of(c, number);
    if (!fg_code_short_most(rule->decimals)) return false;
    if (rule->term_count < 3 || t[rule->term_count - 1].kind != FG_TERM_LENGTH) return false;
    if (t[rule->term_count - 1].count != rule->term_count - 1) return false;
    for (uint16_t i = 0; i + 1 < rule->term_count; i++)
        if (t[i].kind != FG_TERM_SENSOR || decimals_of(c, t[i].sensor) != rule->decimals) return false;
    return true;
}

/* The short way, where the values allow it. True: they always do. */
static bool short_way(summing *s, const char *result, const char *ok)
{
    coder *c = s->c;
    const fg_sensor *rule = &c->gate->sensors[s->number];
    const char *arguments = "";
    code_test there = code_always, small = there;
    const int32_t most = fg_code_short_most(rule->decimals);
    double square = 0;
    for (uint16_t i = 0; i + 1 < rule->term_count; i++) {
        const code_sensor *of = &c->sensors[terms_of(c, s->number)[i].sensor];
        arguments = fg_code_say(c, "%s%s%s", arguments, i ? ", " : "", of->value);
        there = fg_code_both(c, there, fg_code_atom(of->ok));
        square += most_of(of) * most_of(of);
        if (most_of(of) <= most) continue;
        const code_test fits = fg_code_in(c, NULL, of->value, (fg_range){-most, most});
        small = fg_code_both(c, small, fits);
    }
    const char *call =
        fg_code_say(c, "%s = \3short_length(%s%s);", result, arguments, rule->term_count == 3 ? ", 0" : "");
    if (small.join == CODE_TRUE) {
        fg_code_line(c, 1, "bool %s = %s;", ok, there.text);
        fg_code_line(c, 1, "if (%s) %s", ok, call);
        set_bounds(c, s->number, sqrt(square) + 1);
        return true;
    }
    fg_code_line(c, 1, "bool %s;", ok);
    fg_code_line(c, 1, "if (%s) {", fg_code_both(c, there, small).text);
    fg_code_line(c, 2, "%s", call);
    fg_code_line(c, 2, "%s = true;", ok);
    fg_code_line(c, 1, "} else {");
    return false;
}

void fg_code_sum(coder *c, uint16_t number, const char *result, const char *ok)
{
    summing s = {.c = c, .number = number, .name = c->sensors[number].declared->name, .indent = 1};
    fg_code_tell_wide(c, number);
    if (in_steps(c, number)) {
        sum_in_steps(&s, result, ok);
        return;
    }
    const fg_sensor *rule = &c->gate->sensors[number];
    const bool length = is_length(c, number);
    if (length && short_way(&s, result, ok)) return;
    s.indent = length ? 2 : 1;
    for (uint16_t i = 0; i < rule->term_count; i++) work_out(&s, &terms_of(c, number)[i]);
    write_steps(&s, result, ok);
    if (length) fg_code_line(c, 1, "}");
}
