/* Yes and no. A line of the program that others look at once, and that remembers nothing, becomes a test in C where it
 * is asked; every other line gets a variable. A test says whether an answer is yes, or whether it is no; what is
 * neither is unsure. */
#include "coder.h"

#include <inttypes.h>
#include <limits.h>
#include <stdlib.h>
#include <string.h>

/* ---- tests ---- */

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

/* ---- lines ---- */

static const fg_op *op_at(const coder *c, uint16_t slot) { return &c->gate->ops[slot]; }

static code_test is_answer(coder *c, const char *variable, const char *answer)
{
    return fg_code_atom(fg_code_say(c, "%s == %s", variable, answer));
}

static code_test is_not(coder *c, const char *variable, const char *answer)
{
    return fg_code_atom(fg_code_say(c, "%s != %s", variable, answer));
}

static bool is_sure(const coder *c, uint16_t slot) { return slot == FG_INDEX_NONE || c->sure[slot]; }

static code_test compare(coder *c, const fg_op *op, bool yes)
{
    const fg_compare *rule = &c->gate->compares[op->rule];
    if (op->kind == FG_OP_COMPARE_COUNT)
        return yes != rule->outside ? fg_code_in(c, NULL, c->counts[op->a], rule->range)
                                    : fg_code_out_of(c, NULL, c->counts[op->a], rule->range);
    const code_sensor *s = &c->sensors[op->a];
    return fg_code_both(c, fg_code_atom(s->ok),
                        yes != rule->outside ? fg_code_in(c, s, s->value, rule->range)
                                             : fg_code_out_of(c, s, s->value, rule->range));
}

static code_test is_one_of(coder *c, const fg_op *op, bool yes)
{
    const char *variable = c->slots[op->a];
    const fg_declared *bands = fg_code_declared(c, FG_KIND_BANDS, op_at(c, op->a)->rule);
    code_test test = yes ? code_never : is_not(c, variable, "UNSURE");
    for (uint16_t i = 0; i < op->b; i++) {
        const char *name = fg_code_label(c, bands, c->gate->labels[op->rule + i]);
        test = yes ? fg_code_either(c, test, is_answer(c, variable, name))
                   : fg_code_both(c, test, is_not(c, variable, name));
    }
    return test;
}

static code_test test_of(coder *c, uint16_t slot, bool yes)
{
    const fg_op *op = op_at(c, slot);
    if (slot == FG_INDEX_NONE) return yes ? code_never : code_always;
    if (c->slots[slot]) return is_answer(c, c->slots[slot], yes ? "YES" : "NO");
    switch ((fg_op_kind)op->kind) {
    case FG_OP_NOT: return test_of(c, op->a, !yes);
    case FG_OP_AND:
    case FG_OP_OR:
        return (op->kind == FG_OP_AND) == yes ? fg_code_both(c, test_of(c, op->a, yes), test_of(c, op->b, yes))
                                              : fg_code_either(c, test_of(c, op->a, yes), test_of(c, op->b, yes));
    case FG_OP_IS: return is_one_of(c, op, yes);
    case FG_OP_COMPARE:
    case FG_OP_COMPARE_COUNT: return compare(c, op, yes);
    case FG_OP_SENSOR_FAULTY:
        return yes ? fg_code_not(c, fg_code_atom(c->sensors[op->rule].ok)) : fg_code_atom(c->sensors[op->rule].ok);
    case FG_OP_FLAG_FAULTY:
        return yes ? is_answer(c, c->flags[op->rule].bridged, "UNSURE")
                   : is_not(c, c->flags[op->rule].bridged, "UNSURE");
    case FG_OP_UNSURE: return yes ? is_answer(c, c->slots[op->a], "UNSURE") : is_not(c, c->slots[op->a], "UNSURE");
    default: return code_never;
    }
}

code_test fg_code_yes(coder *c, uint16_t slot) { return test_of(c, slot, true); }

code_test fg_code_no(coder *c, uint16_t slot) { return test_of(c, slot, false); }

code_test fg_code_open(coder *c, uint16_t slot)
{
    if (slot == FG_INDEX_NONE || is_sure(c, slot)) return code_never;
    if (c->slots[slot]) return is_answer(c, c->slots[slot], "UNSURE");
    const fg_op *op = op_at(c, slot);
    if (op->kind == FG_OP_IS) return is_answer(c, c->slots[op->a], "UNSURE");
    if (op->kind == FG_OP_COMPARE) return fg_code_not(c, fg_code_atom(c->sensors[op->a].ok));
    return fg_code_not(c, fg_code_no(c, slot));
}

/* A test in front of `?`. */
static const char *grouped(coder *c, code_test t)
{
    return t.join == CODE_AND || t.join == CODE_OR ? fg_code_say(c, "(%s)", t.text) : t.text;
}

static const char *answer_in_c(coder *c, uint16_t slot)
{
    const code_test yes = test_of(c, slot, true), no = test_of(c, slot, false);
    if (is_sure(c, slot)) return fg_code_say(c, "%s ? YES : NO", grouped(c, yes));
    const code_test open = fg_code_open(c, slot);
    if (op_at(c, slot)->kind == FG_OP_IS || op_at(c, slot)->kind == FG_OP_COMPARE) {
        const bool is = op_at(c, slot)->kind == FG_OP_IS;
        const fg_op *op = op_at(c, slot);
        const fg_compare *rule = is ? NULL : &c->gate->compares[op->rule];
        const code_sensor *s = is ? NULL : &c->sensors[op->a];
        const code_test only = is              ? yes
                               : rule->outside ? fg_code_out_of(c, s, s->value, rule->range)
                                               : fg_code_in(c, s, s->value, rule->range);
        return fg_code_say(c, "%s ? UNSURE : %s ? YES : NO", grouped(c, open), grouped(c, only));
    }
    return fg_code_say(c, "%s ? NO\v : %s ? YES\v : UNSURE", grouped(c, no), grouped(c, yes));
}

/* What a line answers, worked out from those it looks at. */
static const char *worked_out(coder *c, uint16_t slot)
{
    const char *const variable = c->slots[slot];
    c->slots[slot] = NULL;
    const char *value = answer_in_c(c, slot);
    c->slots[slot] = variable;
    return value;
}
const char *fg_code_value(coder *c, uint16_t slot)
{
    if (slot == FG_INDEX_NONE) return "NO";
    return c->slots[slot] ? c->slots[slot] : worked_out(c, slot);
}

/* ---- which lines get a variable ---- */

static void ask(coder *c, uint16_t slot, bool by_value)
{
    if (slot == FG_INDEX_NONE) return;
    if ((c->asked[slot] & ~CODE_BY_VALUE) < 100) c->asked[slot]++;
    if (by_value) c->asked[slot] |= CODE_BY_VALUE;
}

static void ask_all(coder *c, const fg_op *op)
{
    const fg_gate *g = c->gate;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_FOR:
    case FG_OP_STARTS:
    case FG_OP_ENDS: ask(c, op->a, false); break;
    case FG_OP_UNSURE:
    case FG_OP_IS: ask(c, op->a, true); break;
    case FG_OP_NOT: ask(c, op->a, false); break;
    case FG_OP_LATCH:
        ask(c, op->a, !is_sure(c, op->a));
        ask(c, op->b, !is_sure(c, op->b));
        break;
    case FG_OP_AND:
    case FG_OP_OR:
        ask(c, op->a, false);
        ask(c, op->b, false);
        break;
    case FG_OP_AT_LEAST:
        for (uint16_t i = 0; i < op->b; i++) ask(c, g->slots[op->rule + i], true);
        break;
    case FG_OP_COUNT:
        ask(c, g->counters[op->rule].add, false);
        ask(c, g->counters[op->rule].take, false);
        ask(c, g->counters[op->rule].zero, false);
        break;
    case FG_OP_PULSE:
        ask(c, g->pulses[op->rule].start, false);
        ask(c, g->pulses[op->rule].again, false);
        ask(c, g->pulses[op->rule].stop, true);
        for (uint16_t i = 0; i < g->pulses[op->rule].length_count; i++)
            ask(c, g->pulse_lengths[g->pulses[op->rule].first_length + i].slot, false);
        break;
    case FG_OP_OUTPUT:
        for (uint16_t i = 0; i < g->outputs[op->rule].row_count; i++) {
            const fg_row *row = &g->rows[g->outputs[op->rule].first_row + i];
            if (row->when == FG_ROW_WHEN) ask(c, row->slot, false);
            if (row->when == FG_ROW_WHEN && g->outputs[op->rule].guarded) ask(c, row->slot, false);
        }
        break;
    default: break;
    }
}

/* Is it shorter to write it where it is asked than to give it a variable? */
static bool is_short(const coder *c, uint16_t slot)
{
    const fg_op *op = op_at(c, slot);
    if (op->kind == FG_OP_NOT) return is_short(c, op->a) || op_at(c, op->a)->kind <= FG_OP_BANDS;
    return op->kind == FG_OP_COMPARE || op->kind == FG_OP_COMPARE_COUNT || op->kind == FG_OP_FLAG_FAULTY ||
           op->kind == FG_OP_SENSOR_FAULTY || op->kind == FG_OP_UNSURE || (op->kind == FG_OP_IS && op->b == 1);
}

/* A test of more parts than this gets a variable, so that no text grows with the length of a chain. */
enum { PARTS_MOST = 24 };

/* How many parts stand in the test of a line where it is written; `parts`: those of the lines before it. */
static uint16_t parts_of(const coder *c, uint16_t slot, const uint16_t *parts)
{
    const fg_op *op = op_at(c, slot);
    if (op->kind == FG_OP_NOT) return parts[op->a];
    return op->kind == FG_OP_AND || op->kind == FG_OP_OR ? (uint16_t)(parts[op->a] + parts[op->b]) : 1;
}

static void cut_long_chains(coder *c)
{
    uint16_t *parts = calloc(c->gate->size.ops + 1u, sizeof *parts);
    c->full = c->full || !parts;
    for (uint16_t i = 0; parts && i < c->gate->size.ops; i++) {
        const uint8_t times = c->asked[i] & (uint8_t)~CODE_BY_VALUE;
        parts[i] = parts_of(c, i, parts);
        if (parts[i] > PARTS_MOST && times) c->asked[i] |= CODE_BY_VALUE;
        if (c->slots[i] || c->asked[i] & CODE_BY_VALUE || (times > 1 && !is_short(c, i))) parts[i] = 1;
    }
    free(parts);
}

void fg_code_plan_conditions(coder *c)
{
    for (uint16_t i = 0; i < c->gate->size.ops; i++) ask_all(c, op_at(c, i));
    for (uint16_t i = 0; i < c->gate->size.previously; i++) {
        ask(c, c->gate->previously[i], true);
        c->previously[i] =
            fg_code_member(c, "uint8_t", fg_code_word(c, fg_text_of("before"), ""), 0, "an answer one step ago");
    }
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        const fg_declared *d = &c->program->declared[i];
        if (d->kind != FG_KIND_CONDITION || c->slots[d->slot]) continue;
        const fg_op *op = op_at(c, d->slot);
        if (op->kind <= FG_OP_BANDS || op->kind == FG_OP_PULSE || op->kind == FG_OP_LATCH) continue; /* a second name */
        c->slots[d->slot] = fg_code_member(c, "uint8_t", fg_code_word(c, d->name, ""), 0, NULL);
    }
    cut_long_chains(c);
}

/* ---- code for a line ---- */

/* The name of what a line belongs to. */
static fg_text owner(const coder *c, uint16_t slot)
{
    const fg_declared *d = fg_code_owner(c, slot);
    return d ? d->name : fg_text_of("line");
}

/* Sets the variable of a line, or makes it one of this step. */
static void answer(coder *c, uint16_t slot, const char *value)
{
    if (c->slots[slot]) {
        fg_code_line(c, 1, "%s = %s;", c->slots[slot], value);
        return;
    }
    if (!(c->asked[slot] & ~CODE_BY_VALUE)) { /* nobody asks, but time and edges go on */
        fg_code_line(c, 1, "(void)%s;", value);
        return;
    }
    static const char *const suffixes[FG_OP_COUNT + 1] = {
        [FG_OP_FOR] = "_for", [FG_OP_STARTS] = "_starts", [FG_OP_ENDS] = "_ends", [FG_OP_AT_LEAST] = "_enough"};
    const char *suffix = suffixes[op_at(c, slot)->kind],
               *name = fg_code_word(c, owner(c, slot), suffix ? suffix : "_part");
    fg_code_line(c, 1, "const uint8_t %s = %s;", name, value);
    c->slots[slot] = name;
}

static void lasting(coder *c, uint16_t slot, const fg_op *op)
{
    const fg_time time = c->gate->lastings[op->rule];
    const bool is_short_time = time <= CODE_SHORT_TIME;
    const char *waited =
        fg_code_member(c, is_short_time ? "uint16_t" : "uint32_t", fg_code_word(c, owner(c, slot), "_waited"), 0,
                       "1 more than the ms since it was yes");
    if (is_short_time) c->passed = true;
    answer(c, slot,
           fg_code_say(c, "%s(&%s, %s, %s, %" PRIu32 "u)", is_short_time ? "lasts" : "lasts_long", waited,
                       fg_code_value(c, op->a), is_short_time ? "passed" : "gone", time));
}

static void edge(coder *c, uint16_t slot, const fg_op *op)
{
    const bool starts = op->kind == FG_OP_STARTS;
    const char *last = fg_code_member(c, "uint8_t", fg_code_word(c, owner(c, slot), starts ? "_was" : "_was_on"), 0,
                                      "the last sure answer");
    answer(c, slot, fg_code_say(c, "%s(&%s, %s)", starts ? "starts" : "ends", last, fg_code_value(c, op->a)));
}

static void at_least(coder *c, uint16_t slot, const fg_op *op)
{
    const char *yes = "", *open = "";
    bool sure = true;
    for (uint16_t i = 0; i < op->b; i++) {
        const uint16_t one = c->gate->slots[op->rule + i];
        const code_test y = fg_code_yes(c, one), n = fg_code_no(c, one);
        yes = fg_code_say(c, "%s%s(%s)", yes, i ? " + " : "", y.text);
        open = fg_code_say(c, "%s%s(%s)", open, i ? " + " : "", fg_code_not(c, n).text);
        sure = sure && is_sure(c, one);
    }
    if (sure)
        answer(c, slot, fg_code_say(c, "%s >= %u ? YES : NO", yes, op->a));
    else
        answer(c, slot, fg_code_say(c, "%s >= %u ? YES\v : %s < %u ? NO\v : UNSURE", yes, op->a, open, op->a));
}

/* A latch that a missing reading can make unsure remembers apart from its answer whether it is on. */
static void open_latch(coder *c, uint16_t slot, const fg_op *op)
{
    const char *part = c->gate->latches[op->rule].clear_wins ? "latches_clear_wins" : "latches";
    const char *on = fg_code_member(c, "bool", fg_code_word(c, owner(c, slot), "_on"), 0, "what it keeps while unsure");
    answer(c, slot, fg_code_say(c, "%s(&%s, %s, %s)", part, on, fg_code_value(c, op->a), fg_code_value(c, op->b)));
}

static void latch(coder *c, uint16_t slot, const fg_op *op)
{
    if (!is_sure(c, slot)) {
        open_latch(c, slot, op);
        return;
    }
    const char *is = c->slots[slot];
    const code_test set = fg_code_yes(c, op->a), clear = fg_code_yes(c, op->b);
    const code_test off = fg_code_either(c, clear, is_answer(c, is, "UNSURE"));
    if (c->gate->latches[op->rule].clear_wins) {
        if (clear.join != CODE_FALSE) fg_code_line(c, 1, "if (%s)", clear.text);
        if (clear.join != CODE_FALSE) fg_code_line(c, 2, "%s = NO;", is);
        fg_code_line(c, 1, "%sif (%s)", clear.join != CODE_FALSE ? "else " : "", set.text);
        fg_code_line(c, 2, "%s = YES;", is);
        fg_code_line(c, 1, "else if (%s == UNSURE)", is);
        fg_code_line(c, 2, "%s = NO;", is);
        return;
    }
    fg_code_line(c, 1, "if (%s)", set.text);
    fg_code_line(c, 2, "%s = YES;", is);
    fg_code_line(c, 1, "else if (%s)", off.text);
    fg_code_line(c, 2, "%s = NO;", is);
}

/* A start of a condition, as a local; NULL if there is none. */
static const char *start_of(coder *c, uint16_t slot, fg_text name, const char *suffix, const char *local)
{
    if (slot == FG_INDEX_NONE) return NULL;
    const char *last = fg_code_member(c, "uint8_t", fg_code_word(c, name, suffix), 0, "the last sure answer");
    const char *word = fg_code_word(c, name, local);
    fg_code_line(c, 1, "const bool %s = starts(&%s, %s) == YES;", word, last, fg_code_value(c, slot));
    return word;
}

static void count(coder *c, uint16_t slot, const fg_op *op)
{
    const fg_counter *counting = &c->gate->counters[op->rule];
    const char *value = c->counts[op->rule];
    const fg_text name = owner(c, slot);
    const char *more = start_of(c, counting->add, name, "_add", "_more");
    const char *fewer = start_of(c, counting->take, name, "_take", "_fewer");
    const char *lead = "";
    if (counting->zero != FG_INDEX_NONE) {
        fg_code_line(c, 1, "if (%s)", fg_code_yes(c, counting->zero).text);
        fg_code_line(c, 2, "%s = %s;", value, fg_code_number(c, counting->rule.first));
        lead = "else ";
    }
    if (more) {
        fg_code_line(c, 1, "%sif (%s%s%s && %s < %s)", lead, more, fewer ? " && !" : "", fewer ? fewer : "", value,
                     fg_code_number(c, counting->rule.high));
        fg_code_line(c, 2, "%s++;", value);
        lead = "else ";
    }
    if (fewer) {
        fg_code_line(c, 1, "%sif (%s%s%s && %s > %s)", lead, fewer, more ? " && !" : "", more ? more : "", value,
                     fg_code_number(c, counting->rule.low));
        fg_code_line(c, 2, "%s--;", value);
    }
}

/* How long a pulse that starts now lasts: the first row that holds. */
static const char *length_of(coder *c, const fg_pulser *p)
{
    const char *before = "";
    for (uint16_t i = 0; i < p->length_count; i++) {
        const fg_pulse_length *last = &c->gate->pulse_lengths[p->first_length + i];
        const code_test yes = last->slot == FG_INDEX_NONE ? code_always : fg_code_yes(c, last->slot);
        if (yes.join == CODE_TRUE) return fg_code_say(c, "%s%" PRIu32 "u", before, last->time);
        if (yes.join != CODE_FALSE) before = fg_code_say(c, "%s%s ? %" PRIu32 "u : ", before, yes.text, last->time);
    }
    return fg_code_say(c, "%s0", before);
}

static void pulse(coder *c, uint16_t slot, const fg_op *op)
{
    const fg_pulser *p = &c->gate->pulses[op->rule];
    const fg_text name = owner(c, slot);
    fg_time longest = 0;
    for (uint16_t i = 0; i < p->length_count; i++)
        if (c->gate->pulse_lengths[p->first_length + i].time > longest)
            longest = c->gate->pulse_lengths[p->first_length + i].time;
    const bool is_short_time = longest <= CODE_SHORT_TIME;
    const char *type = is_short_time ? "uint16_t" : "uint32_t", *clock = is_short_time ? "passed" : "gone";
    if (is_short_time) c->passed = true;
    const char *left = fg_code_member(c, type, fg_code_word(c, name, "_left"), 0, "ms");
    const char *spent = NULL, *asked = NULL;
    const char *start = start_of(c, p->start, name, "_start", "_starts");
    if (p->rule.again) {
        spent = fg_code_member(c, "bool", fg_code_word(c, name, "_spent"), 0, "it waits for `again`");
        asked = start_of(c, p->again, name, "_again", "_asked");
    }
    const char *length = fg_code_word(c, name, "_length");
    const char *length_text = length_of(c, p);
    fg_code_line(c, 1, "const %s %s = %s;", type, length, length_text);
    const code_test no_stop = p->stop == FG_INDEX_NONE ? code_always : fg_code_no(c, p->stop);
    const char *over = fg_code_say(c, "%s <= %s", left, clock);
    if (no_stop.join != CODE_TRUE) over = fg_code_say(c, "%s || %s", fg_code_not(c, no_stop).text, over);
    fg_code_line(c, 1, "if (%s && (%s)) {", left, over);
    fg_code_line(c, 2, "%s = 0;", left);
    if (spent) fg_code_line(c, 2, "%s = true;", spent);
    fg_code_line(c, 1, "} else if (%s) {", left);
    fg_code_line(c, 2, "%s = (%s)(%s - %s);", left, type, left, clock);
    fg_code_line(c, 1, "}");
    if (asked) fg_code_line(c, 1, "if (%s) %s = false;", asked, spent);
    const bool always_lasts = length_text[strlen(length_text) - 1] == 'u';
    code_test may = fg_code_both(c, fg_code_atom(start), no_stop);
    if (!always_lasts) may = fg_code_both(c, may, fg_code_atom(length));
    if (p->rule.again && p->rule.restarts)
        may = fg_code_both(c, may, fg_code_atom(fg_code_say(c, "(%s || !%s)", left, spent)));
    if (p->rule.again && !p->rule.restarts)
        may = fg_code_both(c, may, fg_code_atom(fg_code_say(c, "!%s && !%s", left, spent)));
    if (!p->rule.again && !p->rule.restarts) may = fg_code_both(c, may, fg_code_atom(fg_code_say(c, "!%s", left)));
    fg_code_line(c, 1, "if (%s) %s = %s;", may.text, left, length);
    fg_code_line(c, 1, "%s = %s ? YES : NO;", c->slots[slot], left);
}

/* What was one step ago is asked where it is kept, unless it has to outlive the step. */
static void previously(coder *c, uint16_t slot, const fg_op *op)
{
    const char *kept = c->previously[op->rule];
    if (c->slots[slot] || c->asked[slot] & CODE_BY_VALUE)
        answer(c, slot, kept);
    else
        c->slots[slot] = kept;
}

void fg_code_condition(coder *c, uint16_t slot)
{
    const fg_op *op = op_at(c, slot);
    switch ((fg_op_kind)op->kind) {
    case FG_OP_FOR: lasting(c, slot, op); return;
    case FG_OP_STARTS:
    case FG_OP_ENDS: edge(c, slot, op); return;
    case FG_OP_AT_LEAST: at_least(c, slot, op); return;
    case FG_OP_LATCH: latch(c, slot, op); return;
    case FG_OP_COUNT: count(c, slot, op); return;
    case FG_OP_PULSE: pulse(c, slot, op); return;
    case FG_OP_PREVIOUSLY: previously(c, slot, op); return;
    default: break;
    }
    const uint8_t times = c->asked[slot] & (uint8_t)~CODE_BY_VALUE;
    const bool by_value = c->asked[slot] & CODE_BY_VALUE;
    if (c->slots[slot])
        fg_code_line(c, 1, "%s = %s;", c->slots[slot], worked_out(c, slot));
    else if (by_value || (times > 1 && !is_short(c, slot)))
        answer(c, slot, worked_out(c, slot));
}
