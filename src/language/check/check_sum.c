/* SPDX-License-Identifier: MIT */
/* Sensors that are worked out from others: units, steps, and whether a small board can do it.
 *
 * A sum is a tree here and becomes the terms of a stack machine in lowering. While the tree is gone through, the depth
 * of that stack is counted along, so that the step need not look.
 */
#include "language/check/check.h"
#include "language/tree/functions.h"

enum { DECIMALS = FG_DECIMALS_MOST, PARTS_MOST = 500 };

/* What is known about a part of a sum. */
typedef struct part {
    fg_text unit;
    bool open; /* its unit cannot be told: it has to be declared */
    bool ok;
    uint8_t decimals; /* of the finest sensor in it */
} part;

typedef struct sum {
    fg_compiler *c;
    uint32_t depth, deepest, parts; /* values on the stack, at most; nodes looked at */
} sum;

/* For a part that was reported: what is joined with it says nothing more. */
static part nothing(void) { return (part){.ok = false}; }

/* Counts how deep the stack of the step gets, as each part is put on it or taken off. */
static void grow(sum *s, int by)
{
    s->depth = (uint32_t)((int)s->depth + by);
    if (s->depth > s->deepest) s->deepest = s->depth;
}

/* ---- units ---- */

/* Both sides of + and -, and the operands of a function, have one unit; a number without one goes with any. The finer
 * step of the two is that of the result. */
static part join(sum *s, const fg_node *node, part a, part b)
{
    if (!a.ok || !b.ok) return nothing();
    part both = {.unit = a.unit.size ? a.unit : b.unit, .open = a.open || b.open, .ok = true};
    both.decimals = a.decimals > b.decimals ? a.decimals : b.decimals;
    if (!a.open && !b.open && a.unit.size && b.unit.size && !fg_text_same(a.unit, b.unit)) {
        fg_report(s->c, FG_FIND_UNIT, node->span, "{} and {} do not go together", "bring both to one unit first",
                  a.unit, b.unit);
        return nothing();
    }
    return both;
}

/* Where units are multiplied or divided the result has one that nobody can tell from its parts: `open`, it has to be
 * declared. */
static part scale(part a, part b)
{
    if (!a.ok || !b.ok) return nothing();
    part both = {.open = a.open || b.open || a.unit.size || b.unit.size, .ok = true};
    both.decimals = a.decimals > b.decimals ? a.decimals : b.decimals;
    return both;
}

/* ---- operands ---- */

/* As millionths, in which sums are worked out. */
static part number_part(sum *s, fg_node *node)
{
    const fg_quantity q = fg_quantity_of(s->c, node);
    const fg_number_spec slot = {
        .what = T("a number in a sum"), .unit = q.unit, .decimals = DECIMALS, .low = INT64_MIN, .high = INT64_MAX};
    if (!q.ok || !fg_quantity_steps(s->c, node, &slot, &node->found.steps)) return nothing();
    grow(s, 1);
    return (part){.unit = q.unit, .ok = true};
}

/* A sensor with its unit and step, or a number. */
static part name_part(sum *s, fg_node *node)
{
    fg_symbol *symbol =
        fg_name_use(s->c, node->word, node->span, FG_KIND_BIT(FG_KIND_SENSOR) | FG_KIND_BIT(FG_KIND_NUMBER));
    if (!symbol) return nothing();
    if (symbol->kind == FG_KIND_NUMBER) return number_part(s, node);
    node->symbol = symbol;
    grow(s, 1);
    return (part){.unit = symbol->unit, .ok = true, .decimals = symbol->decimals};
}

/* ---- functions ---- */

static part sum_part(sum *s, fg_node *node);

/* rate(a, K), dip(a, K), peak(a, K) */
static part window_part(sum *s, fg_node *call, fg_term_kind kind)
{
    fg_compiler *c = s->c;
    fg_node *operand = call->first;
    if (!operand) return nothing();
    const fg_number_spec slot = {.what = T("a number of steps"), .low = 2, .high = FG_WINDOW_MOST};
    fg_symbol *symbol = operand->kind == NODE_NUMBER_NAME
                            ? fg_name_use(c, operand->word, operand->span, FG_KIND_BIT(FG_KIND_SENSOR))
                            : NULL;
    if (operand->kind != NODE_NUMBER_NAME)
        fg_report(c, FG_FIND_SUM, operand->span, "{} looks at a sensor",
                  "give this part a name of its own: sensor NAME = ...", call->word);
    if (!symbol || !fg_quantity_steps(c, operand->next, &slot, &operand->next->found.steps)) return nothing();
    operand->symbol = symbol;
    if (symbol->circle && kind != FG_TERM_RATE) {
        fg_report(c, FG_FIND_CIRCLE, operand->span, "{} is a circle, which has no lowest and highest",
                  "use rate, or a sensor that is no circle", symbol->name);
        return nothing();
    }
    grow(s, 1);
    return (part){.unit = symbol->unit, .open = kind == FG_TERM_RATE, .ok = true, .decimals = symbol->decimals};
}

/* How many operands it has, and what it does with units: an angle has degrees whatever its operands have, a rate is
 * per second. */
static part call_part(sum *s, fg_node *call)
{
    const fg_function *function = fg_function_find(call->word); /* the parser knows it */
    uint32_t count = 0;
    for (const fg_node *each = call->first; each; each = each->next) count++;
    /* The table of functions says how many operands each takes. */
    if (count < function->least || count > function->most) {
        const fg_text least = fg_text_of_value(s->c, function->least, 0),
                      most = fg_text_of_value(s->c, function->most, 0);
        fg_report(s->c, FG_FIND_SUM, call->span, "{} takes {}, not {}", "give it as many", call->word,
                  function->least == function->most ? least : fg_text_join(s->c, least, " to ", most),
                  fg_text_of_value(s->c, count, 0));
        return nothing();
    }
    if (function->window) return window_part(s, call, function->term);

    fg_node *operand = call->first;
    if (!operand) return nothing();
    part all = sum_part(s, operand);
    for (operand = operand->next; operand; operand = operand->next) {
        all = join(s, call, all, sum_part(s, operand));
        if (function->two_at_a_time) grow(s, -1);
    }
    /* All operands stand on the stack at once, and one result takes their place. */
    if (!function->two_at_a_time) grow(s, 1 - (int)count);
    if (function->term == FG_TERM_ANGLE) {
        all.open = true;
        all.unit = (fg_text){0};
    }
    return all;
}

/* ---- the sum ---- */

/* The tree of a sum may be deep but not endless: PARTS_MOST bounds the work and the recursion. */
static part sum_part(sum *s, fg_node *node)
{
    if (++s->parts > PARTS_MOST) return nothing();
    switch ((fg_node_kind)node->kind) {
    case NODE_LITERAL: return number_part(s, node);
    case NODE_NUMBER_NAME: return name_part(s, node);
    case NODE_CALL: return call_part(s, node);
    case NODE_NEGATIVE: return sum_part(s, node->first);
    case NODE_SUM:
    case NODE_DIFFERENCE:
    case NODE_PRODUCT:
    case NODE_QUOTIENT: {
        const bool scales = node->kind == NODE_PRODUCT || node->kind == NODE_QUOTIENT;
        part a = sum_part(s, node->first), b = sum_part(s, node->last);
        grow(s, -1);
        return scales ? scale(a, b) : join(s, node, a, b);
    }
    default: return nothing();
    }
}

/* A unit that can be told from the parts need not be declared; one that is declared must not contradict them. */
static void check_unit(fg_compiler *c, fg_symbol *symbol, const part *whole)
{
    const fg_node *declared = fg_node_attribute(symbol, ATTR_UNIT);
    if (whole->open && !declared)
        fg_report(c, FG_FIND_UNIT, symbol->span, "the unit of {} cannot be told from its parts",
                  "declare it: {} unit WORD {}", symbol->name, T("{"), T("}"));
    else if (!whole->open && declared && whole->unit.size && !fg_text_same(whole->unit, symbol->unit))
        fg_report(c, FG_FIND_UNIT, declared->span, "{} is in {}, as its parts are, not in {}", "leave the unit out",
                  symbol->name, whole->unit, symbol->unit);
    else if (!declared)
        symbol->unit = whole->unit;
}

/* Unit and step of a sensor that is worked out follow from its sum. A sum that needs more stack than a step has is
 * refused here. */
void fg_check_sum(fg_compiler *c, fg_symbol *sensor)
{
    sum s = {.c = c};
    if (sensor->sum->kind == NODE_BROKEN) return;
    const part whole = sum_part(&s, sensor->sum);
    if (s.parts > PARTS_MOST || s.deepest > FG_STACK_MOST) {
        fg_report(c, FG_FIND_TOO_MANY, sensor->sum->span, "this sum is too long to be worked out on a small board",
                  "give parts of it a name of their own");
        return;
    }
    if (!whole.ok) return;
    check_unit(c, sensor, &whole);
    sensor->decimals = whole.decimals;
}

/* ---- what it looks at ---- */

/* Every sensor in a sum is worked out before it. */
static void uses_of(fg_compiler *c, fg_symbol *sensor, const fg_node *node, uint32_t depth)
{
    for (; node && depth < PARTS_MOST; node = node->next) {
        fg_symbol *symbol = node->kind == NODE_NUMBER_NAME ? fg_name_find(c, node->word) : NULL;
        if (symbol && symbol->kind == FG_KIND_SENSOR) {
            symbol->used = true;
            fg_name_used_by(c, sensor, symbol, node->span);
        }
        if (node->first) uses_of(c, sensor, node->first, depth + 1);
    }
}

void fg_check_sum_uses(fg_compiler *c, fg_symbol *sensor)
{
    if (sensor->sum) uses_of(c, sensor, sensor->sum, 0);
}
