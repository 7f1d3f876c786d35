/* SPDX-License-Identifier: MIT */
/* Clamped lines: functions that turn a value into a level or a time. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>

code_test fg_code_follow_source(coder *c, uint16_t number)
{
    const fg_follow *f = &c->gate->follows[number];
    return f->count ? code_always : fg_code_atom(c->sensors[f->source].ok);
}

/* What comes out is (slope * at + offset) / by, by its largest possible size in 16, 32 or 64 bits, or exactly in 128.
 */
static void write_line(coder *c, const char *type, int64_t slope, int64_t offset, int64_t by, const fg_follow *f)
{
    const fg_value low = f->from < f->to ? f->from : f->to, high = f->from < f->to ? f->to : f->from;
    const double size = (double)(slope < 0 ? -slope : slope) * (double)(low < -high ? -(double)low : (double)high) +
                        (double)(offset < 0 ? -offset : offset) + (double)by;
    const bool positive = slope >= 0 && offset >= 0 && low >= 0;
    const char *hold = size < INT16_MAX ? "16" : "32";
    if (by == 1 && size < INT32_MAX)
        fg_code_line(c, 1, "return (%s)(%" PRId64 " * (int%s_t)at + %" PRId64 ");", type, slope, hold, offset);
    else if (positive && size < INT32_MAX)
        fg_code_line(c, 1, "return (%s)((%" PRId64 "u * (uint%s_t)at + %" PRId64 "u) / %" PRId64 "u);", type, slope,
                     hold, offset + by / 2, by);
    else if (size < INT32_MAX)
        fg_code_line(c, 1, "return (%s)\3rounded_32((int32_t)%" PRId64 " * at + %" PRId64 ", %" PRId64 ");", type,
                     slope, offset, by);
    else
        fg_code_line(c, 1,
                     "return (%s)\3fg_rounded(INT64_C(%" PRId64 ") * at + INT64_C(%" PRId64 "), INT64_C(%" PRId64 "));",
                     type, slope, offset, by);
}

static void write_wide_line(coder *c, const char *type, const fg_follow *f)
{
    const bool rises = f->from < f->to;
    const int64_t across = rises ? (int64_t)f->to - f->from : (int64_t)f->from - f->to;
    fg_code_line(c, 1, "const int64_t way_there = %s;",
                 rises ? fg_code_say(c, "(int64_t)at - (%s)", fg_code_number(c, f->from))
                       : fg_code_say(c, "(int64_t)%s - at", fg_code_number(c, f->from)));
    fg_code_line(c, 1, "int64_t result = 0;");
    fg_code_line(c, 1,
                 "(void)\3fg_wide_quotient(\3fg_wide_sum(\3fg_wide_product(INT64_C(%" PRId32 "), INT64_C(%" PRId64
                 ")), \3fg_wide_product(INT64_C(%" PRId64 "), way_there)), INT64_C(%" PRId64 "), &result);",
                 f->low, across, (int64_t)f->high - f->low, across);
    fg_code_line(c, 1, "return (%s)result;", type);
}

const char *fg_code_follow(coder *c, uint16_t number, const char *name)
{
    const fg_follow *f = &c->gate->follows[number];
    const fg_value low = f->from < f->to ? f->from : f->to, high = f->from < f->to ? f->to : f->from;
    const bool rises = f->from < f->to;
    const int64_t across = (int64_t)high - low, span = (int64_t)f->high - f->low;
    const fg_count *count = f->count ? &c->gate->counters[f->source].rule : NULL;
    const char *type = fg_code_type(f->low < f->high ? f->low : f->high, f->low < f->high ? f->high : f->low);
    const char *from = count                                       ? fg_code_type(count->low, count->high)
                       : fg_code_is_narrow(&c->sensors[f->source]) ? "int16_t"
                                                                   : "int32_t";
    code_block *const out = fg_code_function_begin(c, name);
    fg_code_line(c, 0,
                 "/* A straight line: %" PRId32 " gives %" PRId32 ", %" PRId32 " gives %" PRId32
                 "; beyond both ends it stays. */",
                 f->from, f->low, f->to, f->high);
    fg_code_line(c, 0, "static %s %s(%s at)", type, name, from);
    fg_code_line(c, 0, "{");
    if (!count || count->low < low)
        fg_code_line(c, 1, "if (at < %s) at = %s;", fg_code_number(c, low), fg_code_number(c, low));
    if (!count || count->high > high)
        fg_code_line(c, 1, "if (at > %s) at = %s;", fg_code_number(c, high), fg_code_number(c, high));
    const int64_t shared = fg_code_common(span, across), by = across / shared, slope = (rises ? span : -span) / shared;
    const int64_t most = (int64_t)1 << 30; /* products and sums fit into 63 bits */
    const bool fits = by < most && slope < most && slope > -most;
    if (fits)
        write_line(c, type, slope, f->low * by - slope * f->from, by, f);
    else
        write_wide_line(c, type, f);
    fg_code_line(c, 0, "}\n");
    fg_code_function_end(c, out);
    return fg_code_say(c, "%s(%s)", name, f->count ? c->counts[f->source] : c->sensors[f->source].value);
}
