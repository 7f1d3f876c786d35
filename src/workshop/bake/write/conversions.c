/* SPDX-License-Identifier: MIT */
/* Counts of a converter as whole steps of the unit: for sensors whose values themselves are needed. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>

/* The largest counts, with either sign, that a scale turns into units in 32 bits. */
enum { SHORT_COUNTS = 65535 };

/* A piece of a scale in its lowest terms. */
typedef struct piece {
    int64_t slope, offset, by;
    bool is_short; /* 32 bits are enough for SHORT_COUNTS */
    bool small;    /* 64 bits are enough for all */
} piece;

static piece piece_of(const fg_scale_piece *l)
{
    const int64_t shared = fg_code_common(fg_code_common(l->slope, l->offset), l->divisor), limit = INT32_MAX;
    piece p = {.slope = l->slope / shared, .offset = l->offset / shared, .by = l->divisor / shared};
    const int64_t most = (int64_t)1 << 62, steep = p.slope < 0 ? -p.slope : p.slope;
    p.small = steep < limit && p.offset > -most && p.offset < most;
    p.is_short = p.small && p.offset > -limit && p.offset < limit && p.by < limit &&
                 steep * SHORT_COUNTS + (p.offset < 0 ? -p.offset : p.offset) + p.by < limit;
    return p;
}

/* Counts times a slope, and what is added. */
static const char *scaled(coder *c, const piece *p, bool is_long)
{
    const char *counts = fg_code_say(c, is_long ? "counts * INT64_C(%" PRId64 ")" : "counts * %" PRId64, p->slope);
    if (!p->offset) return counts;
    const int64_t size = p->offset < 0 ? -p->offset : p->offset;
    return fg_code_say(c, is_long ? "%s %c INT64_C(%" PRId64 ")" : "%s %c %" PRId64, counts, p->offset < 0 ? '-' : '+',
                       size);
}

static void write_long(coder *c, int indent, const piece *p)
{
    if (p->small)
        fg_code_line(c, indent, "units = \3fg_rounded(%s, INT64_C(%" PRId64 "));", scaled(c, p, true), p->by);
    else
        fg_code_line(c, indent,
                     "good = \3fg_wide_quotient(\3fg_wide_sum(\3fg_wide_product(counts, INT64_C(%" PRId64
                     ")), \3fg_wide_of(INT64_C(%" PRId64 "))), INT64_C(%" PRId64 "), &units);",
                     p->slope, p->offset, p->by);
    fg_code_line(c, indent, "*value = (int32_t)units;");
    fg_code_line(c, indent, "return %sunits >= INT32_MIN && units <= INT32_MAX;", p->small ? "" : "good && ");
}

/* Are counts so far out not to be trusted anyway? Then they need not be told from those still further out. */
static bool ends_are_refused(const code_sensor *s)
{
    fg_value low, high;
    if (s->rule->trust != FG_TRUST_RANGE || s->rule->circle) return false;
    if (!fg_scale_value(s->rule->scale, s->rule->scale_count, -SHORT_COUNTS, &low)) return false;
    if (!fg_scale_value(s->rule->scale, s->rule->scale_count, SHORT_COUNTS, &high)) return false;
    const fg_scale_piece *first = &s->rule->scale[0], *last = &s->rule->scale[s->rule->scale_count - 1];
    const bool below = first->slope > 0 ? low < s->rule->trusted.low : first->slope < 0 && low > s->rule->trusted.high;
    const bool above = last->slope > 0 ? high > s->rule->trusted.high : last->slope < 0 && high < s->rule->trusted.low;
    for (uint8_t k = 0; k < s->rule->scale_count; k++)
        if (!piece_of(&s->rule->scale[k]).is_short) return false;
    return below && above;
}

static void write_piece(coder *c, const fg_scale_piece *l, bool last, bool only_short)
{
    const piece p = piece_of(l);
    int indent = last ? 1 : 2;
    if (!last) fg_code_line(c, 1, "if (counts <= %" PRId32 ") {", l->up_to);
    if (p.is_short && !only_short)
        fg_code_line(c, indent++, "if (counts >= -%d && counts <= %d) {", SHORT_COUNTS, SHORT_COUNTS);
    if (p.is_short) fg_code_line(c, indent, "*value = \3rounded_32(%s, %" PRId64 ");", scaled(c, &p, false), p.by);
    if (p.is_short) fg_code_line(c, indent, "return true;");
    if (p.is_short && !only_short) fg_code_line(c, --indent, "}");
    if (!only_short) write_long(c, indent, &p);
    if (!last) fg_code_line(c, 1, "}");
}

bool fg_code_converts(const coder *c, const code_sensor *s)
{
    return s->used && s->rule->scale_count && !s->counts && !c->baker->options->units;
}

void fg_code_conversions(coder *c)
{
    for (uint16_t i = 0; i < c->gate->size.sensors; i++) {
        const code_sensor *s = &c->sensors[i];
        if (!fg_code_converts(c, s)) continue;
        const bool only_short = ends_are_refused(s);
        bool wide = false;
        for (uint8_t k = 0; k < s->rule->scale_count; k++) wide = wide || !piece_of(&s->rule->scale[k]).small;
        code_block *const before = fg_code_function_begin(c, NULL);
        fg_code_comment(c, 0, s->declared);
        fg_code_line(c, 0, "bool %s_%s_from_counts(int32_t counts, int32_t *value)", c->name, fg_code_bare(s->newest));
        fg_code_line(c, 0, "{");
        if (only_short) {
            fg_code_line(c, 1, "if (counts < -%d) counts = -%d; /* not to be trusted either way */", SHORT_COUNTS,
                         SHORT_COUNTS);
            fg_code_line(c, 1, "if (counts > %d) counts = %d;", SHORT_COUNTS, SHORT_COUNTS);
        } else {
            fg_code_line(c, 1, "int64_t units = 0;");
        }
        if (wide && !only_short) fg_code_line(c, 1, "bool good = false;");
        for (uint8_t k = 0; k < s->rule->scale_count; k++)
            write_piece(c, &s->rule->scale[k], k + 1 == s->rule->scale_count, only_short);
        fg_code_line(c, 0, "}\n");
        fg_code_function_end(c, before);
    }
}
