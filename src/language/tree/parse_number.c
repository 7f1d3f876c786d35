/* SPDX-License-Identifier: MIT */
/* Numbers, sums, ranges and comparisons. `in_sum`: it is the sum of a sensor, which has functions and no units. */
#include "language/tree/functions.h"
#include "language/tree/meant.h"

/* ---- numbers ---- */

static fg_text unit_in(const fg_compiler *c, const fg_node *sum, uint32_t deep);

/* The unit a sensor was given, or that of the first sensor in its sum which has one. */
static fg_text unit_of(const fg_compiler *c, const fg_symbol *sensor, uint32_t deep)
{
    const fg_node *unit = fg_node_attribute(sensor, ATTR_UNIT);
    if (unit || !sensor->sum || !deep) return unit ? unit->word : (fg_text){0};
    return unit_in(c, sensor->sum, deep - 1);
}

/* The unit of the first sensor in a sum that has one. Declarations may name each other in a circle, which is reported
 * later, so the depth is bounded. */
static fg_text unit_in(const fg_compiler *c, const fg_node *sum, uint32_t deep)
{
    const fg_symbol *named = sum->kind == NODE_NUMBER_NAME ? fg_name_find(c, sum->word) : NULL;
    if (named && named->kind == FG_KIND_SENSOR) return unit_of(c, named, deep);
    for (const fg_node *part = sum->first; part && deep; part = part->next) {
        const fg_text unit = unit_in(c, part, deep - 1);
        if (unit.size) return unit;
    }
    return (fg_text){0};
}

/* The unit that may stand one blank behind a number, although it is a reserved word. */
void fg_parse_own_unit(fg_compiler *c, const fg_symbol *sensor)
{
    enum { DEEP = 12 }; /* looked for in what a person would still read; beyond it is no unit */
    c->own_unit = sensor && sensor->kind == FG_KIND_SENSOR ? unit_of(c, sensor, DEEP) : (fg_text){0};
}

void fg_parse_own_unit_end(fg_compiler *c) { c->own_unit = (fg_text){0}; }

/* At the present token. */
static fg_node *broken(fg_compiler *c) { return fg_node_new(c, NODE_BROKEN, fg_lex_span(c)); }

/* [-] DIGITS [UNIT]. In a sum numbers carry no unit: the unit of the result follows from its sensors. */
static fg_node *parse_literal(fg_compiler *c, bool in_sum, bool negative, fg_span from)
{
    fg_node *number = fg_node_new(c, NODE_LITERAL, from);
    number->word = fg_lex_text(c);
    number->literal.negative = negative;
    /* The unit belongs to the number, so it is taken before the next token is read. */
    const bool unit = fg_lex_unit(c, &number->literal.unit, &number->literal.unit_span);
    if (unit && in_sum) {
        fg_report(c, FG_FIND_UNIT, number->literal.unit_span,
                  "numbers in a sum carry no unit, so '{}' does not belong here",
                  "leave it out, or give the number a name: number NAME = {}", number->literal.unit,
                  fg_text_join(c, number->word, " ", number->literal.unit));
        number->literal.unit = (fg_text){0};
    }
    fg_lex_next(c);
    number->span = fg_span_to_here(c, from);
    return number;
}

/* A number, or the name of one: of a declared number, in a sum also of a sensor. */
static fg_node *parse_operand(fg_compiler *c, bool in_sum)
{
    fg_span from = fg_lex_span(c);
    bool negative = fg_parse_accept(c, TOK_MINUS);
    if (fg_parse_at(c, TOK_NUMBER)) return parse_literal(c, in_sum, negative, from);
    if (!fg_parse_at(c, TOK_NAME) || fg_word_reserved(fg_lex_text(c))) {
        fg_parse_wrong(c, "a number", "write a number, or the name of a declared one");
        return broken(c);
    }
    fg_node *number = fg_node_new(c, NODE_NUMBER_NAME, fg_lex_span(c));
    number->word = fg_lex_text(c);
    fg_lex_next(c);
    if (!negative) return number;
    fg_node *minus = fg_node_new(c, NODE_NEGATIVE, fg_span_to_here(c, from));
    fg_node_add(minus, number);
    return minus;
}

fg_node *fg_parse_number(fg_compiler *c)
{
    fg_node *number = parse_operand(c, false);
    if (number->kind != NODE_LITERAL || !fg_meant_decimal_comma(c, number)) return number;
    number->span = fg_span_to_here(c, number->span);
    return number;
}

fg_node *fg_parse_number_of_list(fg_compiler *c) { return parse_operand(c, false); }

static fg_node *parse_sum(fg_compiler *c, bool in_sum);

/* One bracket deeper, of whatever kind: `(`, a function's, one of `halfway`. False: reported. */
static bool go_deeper(fg_compiler *c, fg_span open)
{
    if (++c->brackets <= FG_DEPTH_MOST) return true;
    if (!c->lost)
        fg_report(c, FG_FIND_TOO_MANY, open, "brackets are nested more than 100 deep",
                  "give a part of it its own name");
    c->lost = true;
    c->brackets--;
    return false;
}

/* ( SUM ) */
static fg_node *parse_bracket(fg_compiler *c, bool in_sum, fg_span open)
{
    if (!go_deeper(c, open)) return broken(c);
    fg_node *inside = parse_sum(c, in_sum);
    c->brackets--;
    if (inside->kind != NODE_BROKEN && !fg_parse_accept(c, TOK_CLOSE)) {
        fg_parse_not_closed(c, open);
        return broken(c);
    }
    return inside;
}

/* A node over both; broken if one of them is. */
static fg_node *two_of(fg_compiler *c, fg_node_kind kind, fg_node *a, fg_node *b)
{
    fg_node *node = fg_node_new(c, kind, a->span);
    if (a->kind == NODE_BROKEN || b->kind == NODE_BROKEN) {
        node->kind = NODE_BROKEN;
        return node;
    }
    node->span.size = b->span.at + b->span.size - a->span.at;
    fg_node_add(node, a);
    fg_node_add(node, b);
    return node;
}

/* a, b) of halfway(a, b) */
static fg_node *parse_two(fg_compiler *c, bool in_sum, fg_span open)
{
    fg_node *a = parse_sum(c, in_sum);
    if (a->kind == NODE_BROKEN || !fg_parse_expect(c, TOK_COMMA, "','", "halfway takes two numbers: halfway(a, b)"))
        return broken(c);
    fg_node *b = parse_sum(c, in_sum);
    if (b->kind == NODE_BROKEN) return b;
    if (!fg_parse_accept(c, TOK_CLOSE)) {
        fg_parse_not_closed(c, open);
        return broken(c);
    }
    return two_of(c, NODE_HALFWAY, a, b);
}

/* halfway(A, B) */
static fg_node *parse_halfway(fg_compiler *c, bool in_sum)
{
    fg_span from = fg_lex_span(c);
    fg_lex_next(c);
    fg_span open = fg_lex_span(c);
    if (!go_deeper(c, open)) return broken(c);
    fg_lex_next(c);
    fg_node *node = parse_two(c, in_sum, open);
    c->brackets--;
    if (node->kind != NODE_BROKEN) node->span = fg_span_to_here(c, from);
    return node;
}

/* abs(a), length(a, b, c), rate(a, 5), ... */
static fg_node *parse_call(fg_compiler *c)
{
    fg_node *call = fg_node_new(c, NODE_CALL, fg_lex_span(c));
    call->word = fg_lex_text(c);
    if (!fg_function_find(call->word)) {
        const fg_text guess = fg_function_nearest(call->word);
        fg_report(c, FG_FIND_UNKNOWN_WORD, call->span, "there is no function '{}'",
                  guess.size ? "did you mean '{}'?" : "there are {}", call->word,
                  guess.size ? guess : fg_function_words(c));
        c->lost = true;
        return broken(c);
    }
    fg_lex_next(c);
    const fg_span open = fg_lex_span(c);
    if (!go_deeper(c, open)) return broken(c);
    fg_lex_next(c);
    fg_node *operand;
    do {
        operand = parse_sum(c, true);
        if (operand->kind != NODE_BROKEN) fg_node_add(call, operand);
    } while (operand->kind != NODE_BROKEN && fg_parse_accept(c, TOK_COMMA));
    c->brackets--;
    if (operand->kind == NODE_BROKEN) return operand;
    if (!fg_parse_accept(c, TOK_CLOSE)) {
        fg_parse_not_closed(c, open);
        return broken(c);
    }
    call->span = fg_span_to_here(c, call->span);
    return call;
}

/* CALL | halfway(A, B) | [-] ( SUM ) | OPERAND. A minus in front of a bracket is a node; in front of a number it is
 * part of it. */
static fg_node *parse_factor(fg_compiler *c, bool in_sum)
{
    fg_span from = fg_lex_span(c);
    /* A name in front of a bracket calls a function; without one it is a sensor or a number. */
    if (in_sum && fg_parse_at(c, TOK_NAME) && fg_parse_peek(c).kind == TOK_OPEN) return parse_call(c);
    if (fg_parse_at_word(c, "halfway") && fg_parse_peek(c).kind == TOK_OPEN) return parse_halfway(c, in_sum);
    if (fg_parse_accept(c, TOK_OPEN)) return parse_bracket(c, in_sum, from);
    if (!fg_parse_at(c, TOK_MINUS) || fg_parse_peek(c).kind != TOK_OPEN) return parse_operand(c, in_sum);
    fg_lex_next(c);
    fg_span open = fg_lex_span(c);
    fg_lex_next(c);
    fg_node *minus = fg_node_new(c, NODE_NEGATIVE, from);
    fg_node *inside = parse_bracket(c, in_sum, open);
    if (inside->kind == NODE_BROKEN) return inside;
    fg_node_add(minus, inside);
    minus->span = fg_span_to_here(c, from);
    return minus;
}

/* FACTOR { (* | /) FACTOR }, from the left: a / b / c is (a / b) / c. */
static fg_node *parse_product(fg_compiler *c, bool in_sum)
{
    fg_node *left = parse_factor(c, in_sum);
    while (left->kind != NODE_BROKEN && (fg_parse_at(c, TOK_TIMES) || fg_parse_at(c, TOK_SLASH))) {
        fg_node_kind kind = fg_parse_at(c, TOK_TIMES) ? NODE_PRODUCT : NODE_QUOTIENT;
        fg_lex_next(c);
        left = two_of(c, kind, left, parse_factor(c, in_sum));
    }
    return left;
}

/* PRODUCT { (+ | -) PRODUCT }, from the left. */
static fg_node *parse_sum(fg_compiler *c, bool in_sum)
{
    fg_node *left = parse_product(c, in_sum);
    while (left->kind != NODE_BROKEN && (fg_parse_at(c, TOK_PLUS) || fg_parse_at(c, TOK_MINUS))) {
        fg_node_kind kind = fg_parse_at(c, TOK_PLUS) ? NODE_SUM : NODE_DIFFERENCE;
        fg_lex_next(c);
        left = two_of(c, kind, left, parse_product(c, in_sum));
    }
    return left;
}

fg_node *fg_parse_number_expression(fg_compiler *c)
{
    fg_node *number = parse_sum(c, false);
    if (number->kind == NODE_LITERAL && fg_meant_decimal_comma(c, number))
        number->span = fg_span_to_here(c, number->span);
    return number;
}

/* What a sensor is worked out from. */
fg_node *fg_parse_sensor_sum(fg_compiler *c)
{
    c->brackets = 0;
    return parse_sum(c, true);
}

/* In `2..5 cm` the unit belongs to both. */
void fg_parse_share_unit(fg_node *a, fg_node *b)
{
    if (a->kind != NODE_LITERAL || a->literal.unit.size || b->kind != NODE_LITERAL) return;
    a->literal.unit = b->literal.unit;
    a->literal.unit_span = b->literal.unit_span;
}

/* A comparison with one number or two. */
static fg_node *comparison_of(fg_compiler *c, fg_comparison_kind kind, fg_node *a, fg_node *b)
{
    fg_node *node = b ? two_of(c, NODE_COMPARISON, a, b) : fg_node_new(c, NODE_COMPARISON, a->span);
    if (!b) fg_node_add(node, a);
    node->comparison = (uint8_t)kind;
    return node;
}

/* `0-20`, `0 to 20`: what stands for the dots is told and taken. False: it is none of these, reported. */
static bool no_dots(fg_compiler *c, const fg_node *a)
{
    const fg_span sign = fg_lex_span(c), from = a->span;
    const fg_text low = fg_span_text(c, from);
    const bool dash = fg_parse_at(c, TOK_MINUS) || fg_parse_at_word(c, "to") || fg_parse_at_word(c, "and");
    const fg_token next = dash ? fg_parse_peek(c) : c->lexer.token;
    if (!dash || next.kind != TOK_NUMBER) {
        fg_parse_wrong(c, "'..'", "a range is written A..B");
        return false;
    }
    fg_report(c, FG_FIND_SYNTAX, sign, "a range has two dots, not '{}'", "write {}..{}", fg_span_text(c, sign), low,
              (fg_text){c->lexer.text.at + next.at, next.end - next.at});
    const uint32_t begin = from.at + from.size;
    fg_report_fix(c, (fg_span){begin, next.at - begin, sign.source}, T(".."));
    fg_lex_next(c);
    return true;
}

/* A..B */
fg_node *fg_parse_range(fg_compiler *c)
{
    fg_node *a = fg_parse_number(c);
    if (a->kind == NODE_BROKEN) return a;
    if (!fg_parse_accept(c, TOK_DOTS) && !no_dots(c, a)) return broken(c);
    fg_node *b = fg_parse_number(c);
    fg_parse_share_unit(a, b);
    return comparison_of(c, FG_COMPARE_WITHIN, a, b);
}

/* ---- comparisons ---- */

/* The comparison that begins here; FG_COMPARE_NONE if none does. */
static fg_comparison_kind comparison_here(fg_compiler *c)
{
    for (int i = FG_COMPARE_NONE + 1; i < FG_COMPARISON_KINDS; i++) {
        const fg_comparison_form *form = fg_comparison_form_of((fg_comparison_kind)i);
        if (fg_parse_at_word(c, form->word) && (!form->second || fg_parse_peek_word(c, form->second)))
            return (fg_comparison_kind)i;
    }
    return FG_COMPARE_NONE;
}

bool fg_parse_at_comparison(fg_compiler *c) { return comparison_here(c) != FG_COMPARE_NONE || fg_meant_compares(c); }

/* The numbers behind the words of a comparison. */
static fg_node *parse_compared(fg_compiler *c, fg_comparison_kind kind)
{
    const uint8_t traits = fg_comparison_form_of(kind)->traits;
    if (traits & FG_COMPARE_TWO_ENDS) {
        fg_node *range = fg_parse_range(c);
        if (range->kind != NODE_BROKEN) range->comparison = (uint8_t)kind;
        return range;
    }
    fg_node *number = fg_parse_number(c), *by = NULL;
    if (number->kind == NODE_BROKEN) return number;
    if (traits & FG_COMPARE_ROUND) {
        if (!fg_parse_expect_word(c, "by", "write near N by T: at most T away from N")) return broken(c);
        by = fg_parse_number(c);
    }
    return comparison_of(c, kind, number, by);
}

/* `10 and` is read as a number with a unit where a unit may be any word, so the unit is left out. */
static fg_text digits_of(const fg_compiler *c, const fg_node *number, const char *otherwise)
{
    if (number->kind == NODE_BROKEN) return fg_text_of(otherwise);
    return number->kind == NODE_LITERAL && !number->literal.negative ? number->word : fg_span_text(c, number->span);
}

/* One in signs or words of another language: its numbers are read for the message only. */
static void other_comparison(fg_compiler *c, fg_text subject)
{
    const fg_meant_comparison taken = fg_meant_take_comparison(c);
    const bool quiet = c->quiet, lost = c->lost, range = fg_text_is(taken.words, "within");
    c->quiet = true;
    const fg_node *a = fg_parse_number(c), *b = NULL;
    if (range && a->kind != NODE_BROKEN) {
        if (!fg_parse_accept_word(c, "and") && !fg_parse_accept_word(c, "to")) (void)fg_parse_accept(c, TOK_DOTS);
        b = fg_parse_number(c);
    }
    c->quiet = quiet;
    c->lost = lost;
    const fg_text low = digits_of(c, a, range ? "A" : "N");
    fg_meant_say_comparison(c, &taken, subject,
                            range ? fg_text_join(c, low, "..", b ? digits_of(c, b, "B") : T("B")) : low);
}

/* The words are those of FG_COMPARISONS; a second word, as in `at least`, was seen by comparison_here. */
fg_node *fg_parse_comparison(fg_compiler *c) { return fg_parse_comparison_of(c, (fg_text){0}); }

fg_node *fg_parse_comparison_of(fg_compiler *c, fg_text subject)
{
    fg_span from = fg_lex_span(c);
    const fg_comparison_kind kind = comparison_here(c);
    if (kind == FG_COMPARE_NONE && fg_meant_compares(c)) {
        other_comparison(c, subject);
        return broken(c);
    }
    if (kind == FG_COMPARE_NONE) {
        fg_parse_wrong(c, "a comparison",
                       "write over N, under N, at least N, at most N, within A..B, outside A..B or near N by T");
        return broken(c);
    }
    fg_lex_next(c);
    if (fg_comparison_form_of(kind)->second) fg_lex_next(c);
    fg_node *node = parse_compared(c, kind);
    if (node->kind != NODE_BROKEN && !(fg_comparison_form_of(kind)->traits & FG_COMPARE_TWO_ENDS))
        node->span = fg_span_to_here(c, from);
    return node;
}
