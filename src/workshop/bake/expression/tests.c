/* SPDX-License-Identifier: MIT */
/* Yes-or-no expressions in C, joined and turned round; what can never hold is known. */
#include "workshop/bake/expression/expression.h"

#include <string.h>

static const char *const signs[] = {[CODE_EQUAL] = "==",   [CODE_UNEQUAL] = "!=", [CODE_AT_LEAST] = ">=",
                                    [CODE_AT_MOST] = "<=", [CODE_OVER] = ">",     [CODE_UNDER] = "<"};
static const code_operator opposites[] = {
    [CODE_EQUAL] = CODE_UNEQUAL, [CODE_UNEQUAL] = CODE_EQUAL, [CODE_AT_LEAST] = CODE_UNDER,
    [CODE_AT_MOST] = CODE_OVER,  [CODE_OVER] = CODE_AT_MOST,  [CODE_UNDER] = CODE_AT_LEAST};

/* ---- tests that stand alone ---- */

code_test fg_code_atom(const char *variable) { return (code_test){.join = CODE_WORD, .text = variable}; }

code_test fg_code_call(const char *text) { return (code_test){.join = CODE_CALL, .text = text}; }

static code_test comparison(coder *c, code_comparison k)
{
    code_comparison *own = fg_code_take(c, sizeof *own);
    if (own) *own = k;
    return (code_test){.join = CODE_COMPARISON,
                       .text = fg_code_say(c, "%s %s %s", k.variable, signs[k.operator],
                                           k.constant ? k.constant : fg_code_number(c, k.number)),
                       .comparisons = own,
                       .count = own ? 1 : 0};
}

code_test fg_code_compare(coder *c, const char *variable, code_operator operator, int64_t number)
{
    return comparison(c, (code_comparison){.variable = variable, .operator= operator, .number = number});
}

code_test fg_code_is(coder *c, const char *variable, const char *constant)
{
    return comparison(c, (code_comparison){.variable = variable, .operator= CODE_EQUAL, .constant = constant});
}

code_test fg_code_is_not(coder *c, const char *variable, const char *constant)
{
    return comparison(c, (code_comparison){.variable = variable, .operator= CODE_UNEQUAL, .constant = constant});
}

/* ---- joined ---- */

static bool same_constant(const code_comparison *a, const code_comparison *b)
{
    if (!a->constant != !b->constant) return false;
    return a->constant ? !strcmp(a->constant, b->constant) : a->number == b->number;
}

/* The least and the greatest number that a comparison holds for. */
static int64_t lowest(const code_comparison *k)
{
    if (k->operator== CODE_OVER) return k->number + 1;
    return k->operator== CODE_EQUAL || k->operator== CODE_AT_LEAST ? k->number : INT64_MIN;
}

static int64_t highest(const code_comparison *k)
{
    if (k->operator== CODE_UNDER) return k->number - 1;
    return k->operator== CODE_EQUAL || k->operator== CODE_AT_MOST ? k->number : INT64_MAX;
}

static bool is_equality(const code_comparison *k) { return k->operator== CODE_EQUAL || k->operator== CODE_UNEQUAL; }

static bool is_upper(const code_comparison *k) { return k->operator== CODE_AT_MOST || k->operator== CODE_UNDER; }

/* Can two comparisons not both hold? */
static bool exclude(const code_comparison *a, const code_comparison *b)
{
    if (strcmp(a->variable, b->variable) != 0) return false;
    const bool a_is = a->operator== CODE_EQUAL, b_is = b->operator== CODE_EQUAL;
    if (is_equality(a) && is_equality(b)) return same_constant(a, b) ? a_is != b_is : a_is && b_is;
    if (a->constant || b->constant || a->operator== CODE_UNEQUAL || b->operator== CODE_UNEQUAL) return false;
    return lowest(a) > highest(b) || lowest(b) > highest(a);
}

/* Does one of two comparisons always hold? */
static bool cover(const code_comparison *a, const code_comparison *b)
{
    if (strcmp(a->variable, b->variable) != 0) return false;
    const bool a_is = a->operator!= CODE_EQUAL, b_is = b->operator!= CODE_EQUAL;
    if (is_equality(a) && is_equality(b)) return same_constant(a, b) ? a_is != b_is : a_is && b_is;
    if (a->constant || b->constant || is_equality(a) || is_equality(b) || is_upper(a) == is_upper(b)) return false;
    return is_upper(a) ? highest(a) >= lowest(b) - 1 : highest(b) >= lowest(a) - 1;
}

/* Do two tests that are to be joined leave nothing open? For `and`: they cannot both hold; for `or`: one always does.
 */
static bool decided(code_test a, code_test b, bool (*leave_nothing)(const code_comparison *a, const code_comparison *b))
{
    for (size_t i = 0; i < a.count; i++)
        for (size_t k = 0; k < b.count; k++)
            if (leave_nothing(&a.comparisons[i], &b.comparisons[k])) return true;
    return false;
}

static const char *bracketed(coder *c, code_test t, code_join within)
{
    const bool other = (t.join == CODE_AND || t.join == CODE_OR) && t.join != within;
    return other ? fg_code_say(c, "(%s)", t.text) : t.text;
}

/* What stands in brackets is not looked into: its comparisons are left behind. */
static size_t joined_count(code_test t, code_join join)
{
    return t.join == join || t.join == CODE_COMPARISON ? t.count : 0;
}

static code_test joined(coder *c, code_test a, code_test b, code_join join)
{
    const size_t from_a = joined_count(a, join), from_b = joined_count(b, join);
    code_test t = {.join = join,
                   .text = fg_code_say(c, "%s %s %s", bracketed(c, a, join), join == CODE_AND ? "&&" : "||",
                                       bracketed(c, b, join))};
    code_comparison *all = from_a + from_b ? fg_code_take(c, (from_a + from_b) * sizeof *all) : NULL;
    if (!all) return t;
    for (size_t i = 0; i < from_a; i++) all[i] = a.comparisons[i];
    for (size_t i = 0; i < from_b; i++) all[from_a + i] = b.comparisons[i];
    t.comparisons = all;
    t.count = from_a + from_b;
    return t;
}

bool fg_code_same(code_test a, code_test b) { return !strcmp(a.text, b.text); }

code_test fg_code_both(coder *c, code_test a, code_test b)
{
    if (a.join == CODE_FALSE || b.join == CODE_TRUE) return a;
    if (b.join == CODE_FALSE || a.join == CODE_TRUE) return b;
    if (fg_code_same(a, b)) return a;
    if (a.join != CODE_OR && b.join != CODE_OR && decided(a, b, exclude)) return code_never;
    return joined(c, a, b, CODE_AND);
}

code_test fg_code_either(coder *c, code_test a, code_test b)
{
    if (a.join == CODE_TRUE || b.join == CODE_FALSE) return a;
    if (b.join == CODE_TRUE || a.join == CODE_FALSE) return b;
    if (fg_code_same(a, b)) return a;
    if (a.join != CODE_AND && b.join != CODE_AND && decided(a, b, cover)) return code_always;
    return joined(c, a, b, CODE_OR);
}

code_test fg_code_not(coder *c, code_test a)
{
    code_comparison k;
    switch (a.join) {
    case CODE_TRUE: return code_never;
    case CODE_FALSE: return code_always;
    case CODE_NOT: return *a.inner == '(' ? fg_code_call(a.inner) : fg_code_atom(a.inner);
    case CODE_COMPARISON:
        if (!a.count) return a; /* there was no memory for it */
        k = a.comparisons[0];
        k.operator= opposites[k.operator];
        return comparison(c, k);
    default: break;
    }
    const char *inner = a.join == CODE_WORD ? a.text : fg_code_say(c, "(%s)", a.text);
    return (code_test){.join = CODE_NOT, .text = fg_code_say(c, "!%s", inner), .inner = inner};
}

/* ---- ranges ---- */

static code_test in_range(coder *c, const char *v, fg_range r)
{
    const bool open_low = r.low == INT32_MIN, open_high = r.high == INT32_MAX;
    if (open_low && open_high) return code_always;
    if (r.low == r.high) return fg_code_compare(c, v, CODE_EQUAL, r.low);
    const code_test from = open_low ? code_always : fg_code_compare(c, v, CODE_AT_LEAST, r.low);
    const code_test up_to = open_high ? code_always : fg_code_compare(c, v, CODE_AT_MOST, r.high);
    return r.low < r.high ? fg_code_both(c, from, up_to) : fg_code_either(c, from, up_to);
}

static code_test out_of_range(coder *c, const char *v, fg_range r)
{
    const bool open_low = r.low == INT32_MIN, open_high = r.high == INT32_MAX;
    if (r.low == r.high) return fg_code_compare(c, v, CODE_UNEQUAL, r.low);
    const code_test below = open_low ? code_never : fg_code_compare(c, v, CODE_UNDER, r.low);
    const code_test above = open_high ? code_never : fg_code_compare(c, v, CODE_OVER, r.high);
    return r.low < r.high ? fg_code_either(c, below, above) : fg_code_both(c, below, above);
}

code_test fg_code_in(coder *c, const code_sensor *sensor, const char *value, fg_range range)
{
    if (sensor && sensor->counts && !fg_code_carry_back(sensor, range, &range)) return code_never;
    return in_range(c, value, range);
}

code_test fg_code_out_of(coder *c, const code_sensor *sensor, const char *value, fg_range range)
{
    if (sensor && sensor->counts && !fg_code_carry_back(sensor, range, &range)) return code_always;
    return out_of_range(c, value, range);
}
