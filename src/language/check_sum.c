/* Sensors that are worked out from others: units that go together, and the terms of the sum. */
#include "front.h"

enum { DECIMALS = FG_DECIMALS_MOST, PARTS_MOST = 500 };

/* What is known about a part of a sum. */
typedef struct part {
    fg_text unit;
    bool open; /* its unit cannot be told: it has to be declared */
    bool ok;
    uint8_t decimals; /* of the finest sensor in it */
} part;

typedef struct sum {
    fg_front *f;
    uint32_t depth, deepest, parts;
    uint16_t first;
} sum;

static part nothing(void) { return (part){.ok = false}; }

static fg_term *add_term(sum *s, fg_term_kind kind)
{
    fg_tables *t = s->f->tables;
    fg_term *term = &t->terms[t->terms_used++];
    *term = (fg_term){.kind = (uint8_t)kind};
    return term;
}

static void grow(sum *s, int by)
{
    s->depth = (uint32_t)((int)s->depth + by);
    if (s->depth > s->deepest) s->deepest = s->depth;
}

/* ---- units ---- */

static part join(sum *s, const fg_node *node, part a, part b)
{
    if (!a.ok || !b.ok) return nothing();
    part both = {.unit = a.unit.size ? a.unit : b.unit, .open = a.open || b.open, .ok = true};
    both.decimals = a.decimals > b.decimals ? a.decimals : b.decimals;
    if (!a.open && !b.open && a.unit.size && b.unit.size && !fg_text_same(a.unit, b.unit)) {
        fg_say(s->f, FG_FIND_UNIT, node->span, "{} and {} do not go together", "bring both to one unit first", a.unit,
               b.unit);
        return nothing();
    }
    return both;
}

static part scale(part a, part b)
{
    if (!a.ok || !b.ok) return nothing();
    part both = {.open = a.open || b.open || a.unit.size || b.unit.size, .ok = true};
    both.decimals = a.decimals > b.decimals ? a.decimals : b.decimals;
    return both;
}

/* ---- operands ---- */

static part number_part(sum *s, const fg_node *node)
{
    int64_t value = 0;
    const fg_quantity q = fg_quantity_of(s->f, node);
    const fg_slot_for slot = {
        .what = T("a number in a sum"), .unit = q.unit, .decimals = DECIMALS, .low = INT64_MIN, .high = INT64_MAX};
    if (!q.ok || !fg_quantity_steps(s->f, node, &slot, &value)) return nothing();
    add_term(s, FG_TERM_NUMBER)->number = value;
    grow(s, 1);
    return (part){.unit = q.unit, .ok = true};
}

static void look_at(fg_term *term, const fg_symbol *sensor)
{
    term->sensor = sensor->index;
    term->number = 1;
    for (int digits = sensor->decimals; digits < DECIMALS; digits++) term->number *= 10;
}

static part name_part(sum *s, const fg_node *node)
{
    fg_symbol *symbol = fg_name_use(s->f, node->word, node->span, KIND(FG_KIND_SENSOR) | KIND(FG_KIND_NUMBER));
    if (!symbol) return nothing();
    if (symbol->kind == FG_KIND_NUMBER) return number_part(s, node);
    look_at(add_term(s, FG_TERM_SENSOR), symbol);
    grow(s, 1);
    return (part){.unit = symbol->unit, .ok = true, .decimals = symbol->decimals};
}

/* ---- functions ---- */

static part sum_part(sum *s, const fg_node *node);

static const struct {
    const char *word;
    fg_term_kind kind;
    uint8_t least, most;
} functions[] = {
    {"abs", FG_TERM_ABS, 1, 1},           {"length", FG_TERM_LENGTH, 2, 3}, {"lowest", FG_TERM_LOWEST, 2, 100},
    {"highest", FG_TERM_HIGHEST, 2, 100}, {"angle", FG_TERM_ANGLE, 2, 2},   {"rate", FG_TERM_RATE, 2, 2},
    {"dip", FG_TERM_DIP, 2, 2},           {"peak", FG_TERM_PEAK, 2, 2},
};

/* rate(a, K), dip(a, K), peak(a, K) */
static part window_part(sum *s, const fg_node *call, fg_term_kind kind)
{
    fg_front *f = s->f;
    const fg_node *operand = call->first;
    if (!operand) return nothing();
    const fg_slot_for slot = {.what = T("a number of steps"), .low = 2, .high = FG_WINDOW_MOST};
    int64_t steps = 0;
    fg_symbol *symbol =
        operand->kind == NODE_NUMBER_NAME ? fg_name_use(f, operand->word, operand->span, KIND(FG_KIND_SENSOR)) : NULL;
    if (operand->kind != NODE_NUMBER_NAME)
        fg_say(f, FG_FIND_SUM, operand->span, "{} looks at a sensor",
               "give this part a name of its own: sensor NAME = ...", call->word);
    if (!symbol || !fg_quantity_steps(f, operand->next, &slot, &steps)) return nothing();
    if (symbol->circle && kind != FG_TERM_RATE) {
        fg_say(f, FG_FIND_CIRCLE, operand->span, "{} is a circle, which has no lowest and highest",
               "use rate, or a sensor that is no circle", symbol->name);
        return nothing();
    }
    fg_tables *t = f->tables;
    fg_term *term = add_term(s, kind);
    look_at(term, symbol);
    term->count = (uint8_t)steps;
    term->window = (uint16_t)t->windows_used++;
    term->window_at = (uint16_t)t->window_values_used;
    t->window_values_used += (uint32_t)(kind == FG_TERM_RATE ? 2 * steps : steps);
    grow(s, 1);
    return (part){.unit = symbol->unit, .open = kind == FG_TERM_RATE, .ok = true, .decimals = symbol->decimals};
}

static part call_part(sum *s, const fg_node *call)
{
    uint32_t count = 0, i = 0;
    while (!fg_text_is(call->word, functions[i].word)) i++;
    const fg_term_kind kind = functions[i].kind;
    for (const fg_node *each = call->first; each; each = each->next) count++;
    if (count < functions[i].least || count > functions[i].most) {
        const fg_text least = fg_text_of_value(s->f, functions[i].least, 0),
                      most = fg_text_of_value(s->f, functions[i].most, 0);
        fg_say(s->f, FG_FIND_SUM, call->span, "{} takes {}, not {}", "give it as many", call->word,
               functions[i].least == functions[i].most ? least : fg_text_join(s->f, least, " to ", most),
               fg_text_of_value(s->f, count, 0));
        return nothing();
    }
    if (kind == FG_TERM_RATE || kind == FG_TERM_DIP || kind == FG_TERM_PEAK) return window_part(s, call, kind);

    const fg_node *operand = call->first;
    if (!operand) return nothing();
    part all = sum_part(s, operand);
    for (operand = operand->next; operand; operand = operand->next) {
        all = join(s, call, all, sum_part(s, operand));
        if (kind != FG_TERM_LOWEST && kind != FG_TERM_HIGHEST) continue;
        (void)add_term(s, kind); /* two at a time */
        grow(s, -1);
    }
    if (kind == FG_TERM_LOWEST || kind == FG_TERM_HIGHEST) return all;
    fg_term *term = add_term(s, kind);
    term->count = (uint8_t)count;
    grow(s, 1 - (int)count);
    if (kind == FG_TERM_ANGLE) {
        all.open = true;
        all.unit = (fg_text){0};
    }
    return all;
}

/* ---- the sum ---- */

static fg_term_kind term_of(uint8_t node)
{
    if (node == NODE_SUM) return FG_TERM_ADD;
    if (node == NODE_DIFFERENCE) return FG_TERM_SUBTRACT;
    return node == NODE_PRODUCT ? FG_TERM_MULTIPLY : FG_TERM_DIVIDE;
}

static part sum_part(sum *s, const fg_node *node)
{
    if (++s->parts > PARTS_MOST) return nothing();
    switch ((fg_node_kind)node->kind) {
    case NODE_LITERAL: return number_part(s, node);
    case NODE_NUMBER_NAME: return name_part(s, node);
    case NODE_CALL: return call_part(s, node);
    case NODE_NEGATIVE: {
        part inside = sum_part(s, node->first);
        (void)add_term(s, FG_TERM_NEGATE);
        return inside;
    }
    case NODE_SUM:
    case NODE_DIFFERENCE:
    case NODE_PRODUCT:
    case NODE_QUOTIENT: {
        const bool scales = node->kind == NODE_PRODUCT || node->kind == NODE_QUOTIENT;
        part a = sum_part(s, node->first), b = sum_part(s, node->last);
        (void)add_term(s, term_of(node->kind));
        grow(s, -1);
        return scales ? scale(a, b) : join(s, node, a, b);
    }
    default: return nothing();
    }
}

static void check_unit(fg_front *f, fg_symbol *symbol, const part *whole)
{
    const fg_node *declared = fg_check_attribute(symbol, ATTR_UNIT);
    if (whole->open && !declared)
        fg_say(f, FG_FIND_UNIT, symbol->span, "the unit of {} cannot be told from its parts",
               "declare it: {} unit WORD {}", symbol->name, T("{"), T("}"));
    else if (!whole->open && declared && whole->unit.size && !fg_text_same(whole->unit, symbol->unit))
        fg_say(f, FG_FIND_UNIT, declared->span, "{} is in {}, as its parts are, not in {}", "leave the unit out",
               symbol->name, whole->unit, symbol->unit);
    else if (!declared)
        symbol->unit = whole->unit;
}

void fg_check_sum(fg_front *f, fg_symbol *symbol, fg_sensor *out)
{
    sum s = {.f = f, .first = (uint16_t)f->tables->terms_used};
    if (symbol->sum->kind == NODE_BROKEN) return;
    const part whole = sum_part(&s, symbol->sum);
    if (s.parts > PARTS_MOST || s.deepest > FG_STACK_MOST) {
        fg_say(f, FG_FIND_TOO_MANY, symbol->sum->span, "this sum is too long to be worked out on a small board",
               "give parts of it a name of their own");
        return;
    }
    if (!whole.ok) return;
    check_unit(f, symbol, &whole);
    symbol->decimals = whole.decimals;
    out->first_term = s.first;
    out->term_count = (uint16_t)(f->tables->terms_used - s.first);
}

/* ---- what it looks at ---- */

static void uses_of(fg_front *f, const fg_node *node, uint32_t depth)
{
    for (; node && depth < PARTS_MOST; node = node->next) {
        fg_symbol *symbol = node->kind == NODE_NUMBER_NAME ? fg_name_find(f, node->word) : NULL;
        if (symbol && symbol->kind == FG_KIND_SENSOR) fg_parse_depend(f, symbol, node->span);
        if (node->first) uses_of(f, node->first, depth + 1);
    }
}

void fg_check_sum_uses(fg_front *f, fg_symbol *symbol)
{
    const bool in_trial = f->in_trial;
    f->owner = symbol;
    f->in_trial = false;
    if (symbol->sum) uses_of(f, symbol->sum, 0);
    f->in_trial = in_trial;
}
