/* Yes-or-no expressions in C, joined and turned round; what can never hold is known. */
#include "workshop/bake/expression/expression.h"

#include <limits.h>
#include <stdlib.h>
#include <inttypes.h>
#include <string.h>

code_test fg_code_atom(const char *text) { return (code_test){CODE_ATOM, text}; }

static const char *bracketed(coder *c, code_test t, code_join within)
{
    return t.join == CODE_ATOM || t.join == within || t.join >= CODE_TRUE ? t.text : fg_code_say(c, "(%s)", t.text);
}

/* "variable operator constant" taken apart. */
typedef struct comparison {
    fg_text variable, constant;
    char operator[3];
    bool is_number;
    long long low, high; /* of a number: what holds */
} comparison;

static bool take_apart(const char *at, size_t size, comparison *k)
{
    static const char *const operators[] = {" == ", " != ", " >= ", " <= ", " > ", " < "};
    if (memchr(at, '(', size) || memchr(at, '?', size)) return false;
    for (size_t i = 0; i < sizeof operators / sizeof *operators; i++) {
        const size_t length = strlen(operators[i]);
        for (size_t k_at = 1; k_at + length < size; k_at++) {
            if (memcmp(at + k_at, operators[i], length) != 0) continue;
            *k = (comparison){.variable = {at, k_at}, .constant = {at + k_at + length, size - k_at - length}};
            memcpy(k->operator, operators[i] + 1, length - 2);
            char *end;
            const long long n = strtoll(k->constant.at, &end, 10);
            k->is_number = end == k->constant.at + k->constant.size;
            k->low = strcmp(k->operator, "==") == 0 || strcmp(k->operator, ">=") == 0 ? n
                     : k->operator[0] == '>'                                          ? n + 1
                                                                                      : LLONG_MIN;
            k->high = strcmp(k->operator, "==") == 0 || strcmp(k->operator, "<=") == 0 ? n
                      : k->operator[0] == '<'                                          ? n - 1
                                                                                       : LLONG_MAX;
            return true;
        }
    }
    return false;
}

/* Can two comparisons not both hold? `negated`: can they not both fail? */
static bool exclude(const comparison *a, const comparison *b, bool negated)
{
    if (!fg_text_same(a->variable, b->variable)) return false;
    const bool same = fg_text_same(a->constant, b->constant);
    const bool a_is = (a->operator[0] == '=') != negated, b_is = (b->operator[0] == '=') != negated;
    const bool equal =
        (a->operator[0] == '=' || a->operator[0] == '!') && (b->operator[0] == '=' || b->operator[0] == '!');
    if (equal) return same ? a_is != b_is : a_is && b_is;
    if (!a->is_number || !b->is_number || a->operator[0] == '!' || b->operator[0] == '!') return false;
    if (!negated) return a->low > b->high || b->low > a->high;
    if (a->operator[0] == b->operator[0] || a->operator[0] == '=' || b->operator[0] == '=') return false;
    return a->operator[0] == '<' ? a->high >= b->low - 1 : b->high >= a->low - 1;
}

/* Goes through what is joined in a text, brackets aside. */
static const char *next_joined(const char *at, const char *join, size_t *size)
{
    int depth = 0;
    for (*size = 0; at[*size]; ++*size) {
        depth += (at[*size] == '(') - (at[*size] == ')');
        if (!depth && !strncmp(at + *size, join, 4)) return at + *size + 4;
    }
    return NULL;
}

/* Do two tests that are to be joined leave nothing open? For `and`: they cannot both hold; for `or`: one always does.
 */
static bool decided(code_test a, code_test b, bool is_or)
{
    const char *join = is_or ? " || " : " && ", *next_a, *next_b;
    size_t size_a, size_b;
    for (const char *at = a.text; at; at = next_a) {
        comparison ka, kb;
        next_a = next_joined(at, join, &size_a);
        if (!take_apart(at, size_a, &ka)) continue;
        for (const char *other = b.text; other; other = next_b) {
            next_b = next_joined(other, join, &size_b);
            if (take_apart(other, size_b, &kb) && exclude(&ka, &kb, is_or)) return true;
        }
    }
    return false;
}

code_test fg_code_both(coder *c, code_test a, code_test b)
{
    if (a.join == CODE_FALSE || b.join == CODE_TRUE) return a;
    if (b.join == CODE_FALSE || a.join == CODE_TRUE) return b;
    if (!strcmp(a.text, b.text)) return a;
    if (a.join != CODE_OR && b.join != CODE_OR && decided(a, b, false)) return code_never;
    return (code_test){CODE_AND, fg_code_say(c, "%s && %s", bracketed(c, a, CODE_AND), bracketed(c, b, CODE_AND))};
}

code_test fg_code_either(coder *c, code_test a, code_test b)
{
    if (a.join == CODE_TRUE || b.join == CODE_FALSE) return a;
    if (b.join == CODE_TRUE || a.join == CODE_FALSE) return b;
    if (!strcmp(a.text, b.text)) return a;
    if (a.join != CODE_AND && b.join != CODE_AND && decided(a, b, true)) return code_always;
    return (code_test){CODE_OR, fg_code_say(c, "%s || %s", bracketed(c, a, CODE_OR), bracketed(c, b, CODE_OR))};
}

code_test fg_code_not(coder *c, code_test a)
{
    static const char *const opposites[][2] = {{"==", "!="}, {"!=", "=="}, {">=", "<"},
                                               {"<=", ">"},  {">", "<="},  {"<", ">="}};
    if (a.join == CODE_TRUE) return code_never;
    if (a.join == CODE_FALSE) return code_always;
    if (a.join == CODE_ATOM && *a.text == '!') return fg_code_atom(a.text + 1);
    comparison k;
    if (a.join == CODE_ATOM && take_apart(a.text, strlen(a.text), &k))
        for (size_t i = 0; i < sizeof opposites / sizeof *opposites; i++)
            if (strcmp(k.operator, opposites[i][0]) == 0)
                return fg_code_atom(fg_code_say(c, "%.*s %s %.*s", (int)k.variable.size, k.variable.at, opposites[i][1],
                                                (int)k.constant.size, k.constant.at));
    const bool word = !strpbrk(a.text, " (");
    return fg_code_atom(fg_code_say(c, word ? "!%s" : "!(%s)", a.text));
}

code_test fg_code_is(coder *c, const char *variable, const char *constant)
{
    return fg_code_atom(fg_code_say(c, "%s == %s", variable, constant));
}

code_test fg_code_is_not(coder *c, const char *variable, const char *constant)
{
    return fg_code_atom(fg_code_say(c, "%s != %s", variable, constant));
}

/* ---- ranges ---- */

static code_test in_range(coder *c, const char *v, fg_range r)
{
    const bool open_low = r.low == INT32_MIN, open_high = r.high == INT32_MAX;
    if (open_low && open_high) return code_always;
    if (r.low == r.high) return fg_code_atom(fg_code_say(c, "%s == %s", v, fg_code_number(c, r.low)));
    const code_test from =
        open_low ? code_always : fg_code_atom(fg_code_say(c, "%s >= %s", v, fg_code_number(c, r.low)));
    const code_test up_to =
        open_high ? code_always : fg_code_atom(fg_code_say(c, "%s <= %s", v, fg_code_number(c, r.high)));
    return r.low < r.high ? fg_code_both(c, from, up_to) : fg_code_either(c, from, up_to);
}

static code_test out_of_range(coder *c, const char *v, fg_range r)
{
    const bool open_low = r.low == INT32_MIN, open_high = r.high == INT32_MAX;
    if (r.low == r.high) return fg_code_atom(fg_code_say(c, "%s != %s", v, fg_code_number(c, r.low)));
    const code_test below =
        open_low ? code_never : fg_code_atom(fg_code_say(c, "%s < %s", v, fg_code_number(c, r.low)));
    const code_test above =
        open_high ? code_never : fg_code_atom(fg_code_say(c, "%s > %s", v, fg_code_number(c, r.high)));
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
