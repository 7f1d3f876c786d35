/* SPDX-License-Identifier: MIT */
/* The blocks of sensors, flags and the rules on sensors: attributes and rows.
 *
 * Attributes stand in one table with their words, what stands behind them, and whose they are; messages list them from
 * the same table. */
#include "language/tree/meant.h"

/* ---- attributes ---- */

typedef enum attribute_shape {
    SHAPE_NONE,
    SHAPE_NUMBER,
    SHAPE_RANGE,
    SHAPE_UNIT,
    SHAPE_RAW,
    SHAPE_SETTLE,
    SHAPE_ON,
    SHAPE_AFTER,
    SHAPE_ZERO
} attribute_shape;

enum { RULES = FG_KINDS_WITH(FG_KIND_ON_SENSOR) };

/* Every attribute: its word, what stands behind it, whose it is, and what it does. */
static const struct {
    const char *word;
    fg_attribute attribute;
    attribute_shape shape;
    uint32_t kinds;
    const char *does;
} attributes[] = {
    {"unit", ATTR_UNIT, SHAPE_UNIT, FG_KIND_BIT(FG_KIND_SENSOR), "the unit that messages and pictures show"},
    {"step", ATTR_STEP, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_SENSOR),
     "the resolution: a value counts in whole steps of this size"},
    {"raw", ATTR_RAW, SHAPE_RAW, FG_KIND_BIT(FG_KIND_SENSOR),
     "counts of a converter and the readings they stand for, on straight lines between the points"},
    {"trust", ATTR_TRUST, SHAPE_RANGE, FG_KIND_BIT(FG_KIND_SENSOR), "a reading outside is faulty"},
    {"circle", ATTR_CIRCLE, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_SENSOR),
     "readings begin again at 0 when they reach this number, as on a compass"},
    {"stale", ATTR_STALE, SHAPE_AFTER, FG_KIND_BIT(FG_KIND_SENSOR) | FG_KIND_BIT(FG_KIND_FLAG),
     "with no new reading for longer than this it is faulty"},
    {"stuck", ATTR_STUCK, SHAPE_AFTER, FG_KIND_BIT(FG_KIND_SENSOR),
     "a reading that stays the same for this long is faulty"},
    {"bridge", ATTR_BRIDGE, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_SENSOR) | FG_KIND_BIT(FG_KIND_FLAG),
     "for this long after the last good reading, that one stands in"},
    {"median", ATTR_MEDIAN, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_SENSOR),
     "the median of this many good readings, the newest among them"},
    {"mean", ATTR_MEAN, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_SENSOR),
     "the mean of this many good readings, the newest among them"},
    {"zero", ATTR_ZERO, SHAPE_ZERO, FG_KIND_BIT(FG_KIND_SENSOR),
     "where the flag starts, the value then becomes the zero"},
    {"inverted", ATTR_INVERTED, SHAPE_NONE, FG_KIND_BIT(FG_KIND_FLAG), "yes where the input is no"},
    {"margin", ATTR_MARGIN, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_THRESHOLD) | FG_KIND_BIT(FG_KIND_BANDS),
     "the present answer holds this much beyond its limits"},
    {"settle", ATTR_SETTLE, SHAPE_SETTLE, RULES,
     "another answer is believed once it has come out at every step for this long"},
    {"settle", ATTR_SETTLE, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_FLAG),
     "a change is believed once it has lasted this long"},
    {"first", ATTR_FIRST_ON, SHAPE_ON, FG_KIND_BIT(FG_KIND_HYSTERESIS), "yes, not no, while there is no answer yet"},
};

enum { ATTRIBUTES = sizeof attributes / sizeof *attributes };

const char *fg_attribute_word(size_t i, uint32_t *kinds)
{
    if (i >= ATTRIBUTES) return NULL;
    *kinds = attributes[i].kinds;
    return attributes[i].word;
}

const char *fg_attribute_does(size_t i) { return i < ATTRIBUTES ? attributes[i].does : NULL; }

/* A..B, or a list A, B, C: a node with two or more numbers. */
static fg_node *parse_points(fg_compiler *c)
{
    fg_node *first = fg_parse_number_of_list(c);
    fg_node *points = fg_node_new(c, NODE_POINTS, first->span);
    if (first->kind == NODE_BROKEN) return first;
    fg_node_add(points, first);
    if (!fg_parse_at(c, TOK_DOTS) && !fg_parse_at(c, TOK_COMMA)) {
        fg_parse_wrong(c, "'..' or ','", "write raw A..B reads C..D, or raw A, B, C reads P, Q, R");
        return fg_node_new(c, NODE_BROKEN, points->span);
    }
    points->is_range = fg_parse_at(c, TOK_DOTS); /* a range: may fall */
    do {
        fg_lex_next(c);
        fg_node *point = fg_parse_number_of_list(c);
        if (point->kind == NODE_BROKEN) return point;
        fg_node_add(points, point);
    } while (!points->is_range && fg_parse_at(c, TOK_COMMA));
    points->span = fg_span_to_here(c, points->span);
    /* A unit behind the last holds for all. */
    for (fg_node *point = points->first; point; point = point->next) fg_parse_share_unit(point, points->last);
    return points;
}

/* raw POINTS reads POINTS */
static void parse_raw(fg_compiler *c, fg_node *attribute)
{
    fg_node *counts = parse_points(c);
    if (counts->kind == NODE_BROKEN) return;
    if (!fg_parse_expect_word(c, "reads", "write raw A..B reads C..D: counts A reads C, counts B reads D")) return;
    fg_node *units = parse_points(c);
    if (units->kind == NODE_BROKEN) return;
    fg_node_add(attribute, counts);
    fg_node_add(attribute, units);
}

/* zero when FLAG */
static void parse_zero(fg_compiler *c, fg_node *attribute)
{
    if (!fg_parse_expect_word(c, "when", "write zero when FLAG")) return;
    attribute->word = fg_parse_name(c, &attribute->row.name_span, "the name of a flag");
}

/* settle T [within D] */
static void parse_settle(fg_compiler *c, fg_node *attribute)
{
    fg_node *time = fg_parse_number(c);
    if (time->kind == NODE_BROKEN) return;
    fg_node_add(attribute, time);
    if (!fg_parse_accept_word(c, "within")) return;
    fg_node *within = fg_parse_number(c);
    if (within->kind != NODE_BROKEN) fg_node_add(attribute, within);
}

/* unit WORD | unit "TEXT". A unit has signs that no name has, so the lexer is asked for it. */
static void parse_unit(fg_compiler *c, fg_node *attribute)
{
    if (fg_lex_unit_word(c, &attribute->word)) return;
    fg_lex_next(c);
    if (fg_parse_at(c, TOK_STRING))
        (void)fg_parse_string(c, &attribute->word, "");
    else
        fg_parse_wrong(c, "a unit", "letters, ° µ % ² ³, with / between them; anything else in \"quotes\"");
}

/* What stands behind the word of an attribute, as its row in the table says. */
static void parse_shape(fg_compiler *c, fg_node *attribute, attribute_shape shape)
{
    fg_node *number = NULL;
    switch (shape) {
    case SHAPE_NONE: return;
    case SHAPE_UNIT: parse_unit(c, attribute); return;
    case SHAPE_RAW: parse_raw(c, attribute); return;
    case SHAPE_SETTLE: parse_settle(c, attribute); return;
    case SHAPE_ON: (void)fg_parse_expect_word(c, "on", "write first on"); return;
    case SHAPE_ZERO: parse_zero(c, attribute); return;
    case SHAPE_AFTER:
        if (!fg_parse_expect_word(c, "after", "write stale after T, stuck after T")) return;
        number = fg_parse_number(c);
        break;
    case SHAPE_NUMBER: number = fg_parse_number(c); break;
    case SHAPE_RANGE: number = fg_parse_range(c); break;
    }
    if (number->kind != NODE_BROKEN) fg_node_add(attribute, number);
}

/* `unit: cm`, `unit = cm`: nothing stands between a word and its value. In front of a unit the sign itself stays, since
 * a unit is read from behind it. */
static void accept_between(fg_compiler *c, fg_text word)
{
    const bool colon = fg_parse_at(c, TOK_FOREIGN) && fg_text_is(fg_lex_text(c), ":");
    const fg_span sign = fg_lex_span(c);
    if (!colon && !fg_parse_at(c, TOK_EQUALS)) return;
    fg_report(c, FG_FIND_SYNTAX, sign, "no '{}' belongs after '{}'", "leave it out", fg_span_text(c, sign), word);
    const fg_text text = c->lexer.text;
    const uint32_t end = sign.at + sign.size;
    const bool blanks = sign.at && text.at[sign.at - 1] == ' ' && end < text.size && text.at[end] == ' ';
    fg_report_fix(c, (fg_span){sign.at, sign.size + blanks, sign.source}, T(""));
    if (!fg_text_is(word, "unit")) fg_lex_next(c);
}

/* One attribute, if the word here is one of this kind of declaration. */
static bool parse_attribute(fg_compiler *c, fg_symbol *symbol)
{
    fg_text word = fg_lex_text(c);
    if (!fg_parse_at(c, TOK_NAME)) return false;
    int i = 0;
    while (i < ATTRIBUTES && !(fg_text_is(word, attributes[i].word) && attributes[i].kinds & FG_KIND_BIT(symbol->kind)))
        i++;
    if (i == ATTRIBUTES) return false;

    fg_span from = fg_lex_span(c);
    fg_node *node = fg_node_new(c, NODE_ATTRIBUTE, from);
    node->row.attribute = (uint8_t)attributes[i].attribute;
    if (symbol->attributes >> node->row.attribute & 1)
        fg_report(c, FG_FIND_TWICE, from, "'{}' appears twice in {}", "keep only one", word, symbol->name);
    symbol->attributes |= (uint64_t)1 << node->row.attribute;
    const bool unit = attributes[i].shape == SHAPE_UNIT;
    const fg_token next = fg_parse_peek(c);
    const bool colon = next.kind == TOK_FOREIGN && c->lexer.text.at[next.at] == ':';
    if (!unit || colon || next.kind == TOK_EQUALS) fg_lex_next(c);
    accept_between(c, word);
    parse_shape(c, node, attributes[i].shape);
    node->span = fg_span_to_here(c, from);
    if (c->lost) node->kind = NODE_BROKEN;
    fg_symbol_add(symbol, node);
    return true;
}

/* Lists those that this declaration can have. */
static void unknown_attribute(fg_compiler *c, fg_symbol *symbol)
{
    const char *words[ATTRIBUTES + 1] = {NULL};
    size_t count = 0;
    for (int i = 0; i < ATTRIBUTES; i++)
        if (attributes[i].kinds & FG_KIND_BIT(symbol->kind)) words[count++] = attributes[i].word;
    fg_parse_unknown_row(c, symbol, words);
}

/* ---- rows of the rules ---- */

/* on COMPARISON | off COMPARISON */
static void parse_switch(fg_compiler *c, fg_symbol *symbol, fg_node_kind kind)
{
    fg_span from = fg_lex_span(c);
    const fg_text word = fg_lex_text(c);
    fg_lex_next(c);
    if (fg_parse_at(c, TOK_NUMBER)) {
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "'{}' does not say on which side of {}",
                  "write {} over {}, or {} under {}", word, fg_lex_text(c), word, fg_lex_text(c), word, fg_lex_text(c));
        c->lost = true;
        fg_symbol_add(symbol, fg_node_new(c, NODE_BROKEN, from));
        return;
    }
    fg_node *comparison = fg_parse_comparison(c);
    fg_node *node = fg_node_new(c, comparison->kind == NODE_BROKEN ? NODE_BROKEN : kind, fg_span_to_here(c, from));
    if (comparison->kind != NODE_BROKEN) fg_node_add(node, comparison);
    fg_symbol_add(symbol, node);
}

/* Rows that are no attributes. False: it is none of them. */
static bool parse_rule_row(fg_compiler *c, fg_symbol *symbol)
{
    if (symbol->kind == FG_KIND_THRESHOLD && fg_parse_at_comparison(c)) {
        fg_symbol_add(symbol, fg_parse_comparison(c));
        return true;
    }
    if (symbol->kind != FG_KIND_HYSTERESIS) return false;
    if (!fg_parse_at_word(c, "on") && !fg_parse_at_word(c, "off")) return false;
    parse_switch(c, symbol, fg_parse_at_word(c, "on") ? NODE_ON : NODE_OFF);
    return true;
}

/* A label with the text it may have: `onshore "->"`. NULL: reported. */
static fg_node *parse_label(fg_compiler *c, fg_node_kind kind)
{
    if (!fg_parse_at(c, TOK_NAME) || !fg_label_fits(fg_lex_text(c))) {
        const fg_text here = fg_lex_text(c);
        if (fg_parse_at(c, TOK_NAME) && !c->lost) {
            fg_report(c, FG_FIND_RESERVED, fg_lex_span(c), "'{}' is a word of the language and cannot be a label",
                      "choose another, such as {}_1", here, here);
            c->lost = true;
        }
        fg_parse_wrong(c, "a label", "write bands as low | 20 | middle | 60 | high, or a range a row: low 0..20");
        return NULL;
    }
    fg_node *label = fg_node_new(c, kind, fg_lex_span(c));
    label->word = fg_lex_text(c);
    fg_lex_next(c);
    if (fg_parse_at(c, TOK_STRING)) {
        label->label.has_text = true;
        label->label.text_span = fg_lex_span(c);
        (void)fg_parse_string(c, &label->label.text, "");
    }
    return label;
}

/* LABEL { | N | LABEL }: a line with cuts in it. */
static void parse_cuts(fg_compiler *c, fg_symbol *symbol, fg_node *label)
{
    fg_symbol_add(symbol, label);
    while (fg_parse_accept(c, TOK_BAR)) {
        fg_span from = fg_lex_span(c);
        fg_node *number = fg_parse_number(c);
        if (number->kind == NODE_BROKEN) {
            fg_symbol_add(symbol, number);
            return;
        }
        fg_node *cut = fg_node_new(c, NODE_CUT, fg_span_to_here(c, from));
        fg_node_add(cut, number);
        fg_symbol_add(symbol, cut);
        if (!fg_parse_accept(c, TOK_BAR)) return;
        label = parse_label(c, NODE_LABEL);
        if (!label) {
            fg_symbol_add(symbol, fg_node_new(c, NODE_BROKEN, from));
            return;
        }
        fg_symbol_add(symbol, label);
    }
}

/* `equal a, b, c`: it is no reserved word, so the comma behind the first label shows what it is. */
static bool at_equal(fg_compiler *c)
{
    const fg_lexer here = c->lexer; /* it has no state outside of this struct */
    const bool quiet = c->quiet;
    if (!fg_parse_at_word(c, "equal")) return false;
    c->quiet = true;
    fg_lex_next(c);
    bool equal = fg_parse_at(c, TOK_NAME);
    fg_lex_next(c);
    if (equal && fg_parse_at(c, TOK_STRING)) fg_lex_next(c);
    equal = equal && (fg_parse_at(c, TOK_COMMA) || fg_parse_at_word(c, "across") || fg_parse_at_word(c, "centred"));
    c->quiet = quiet;
    c->lexer = here;
    return equal;
}

/* equal LABEL, LABEL, ... [across A..B | centred on N] */
static void parse_equal(fg_compiler *c, fg_symbol *symbol)
{
    const fg_span from = fg_lex_span(c);
    fg_node *equal = fg_node_new(c, NODE_EQUAL, from), *last = NULL;
    fg_lex_next(c);
    fg_symbol_add(symbol, equal);
    do {
        fg_node *label = parse_label(c, NODE_LABEL);
        if (!label) {
            equal->kind = NODE_BROKEN;
            return;
        }
        fg_symbol_add(symbol, label);
        last = label;
    } while (fg_parse_accept(c, TOK_COMMA));
    const fg_text word = last->word;
    const bool behind = fg_parse_at_row_end(c) || fg_parse_at_word(c, "across") || fg_parse_at_word(c, "centred");
    if (!behind && (fg_text_is(word, "across") || fg_text_is(word, "centred"))) {
        fg_report(c, FG_FIND_SYNTAX, last->span, "there is a comma before '{}'", "leave out the comma before it", word);
        equal->kind = NODE_BROKEN;
        fg_parse_skip_row(c);
        return;
    }
    fg_node *number = NULL;
    if (fg_parse_accept_word(c, "across"))
        number = fg_parse_range(c);
    else if (fg_parse_accept_word(c, "centred") && fg_parse_expect_word(c, "on", "write centred on N"))
        number = fg_parse_number(c);
    if (number && number->kind == NODE_BROKEN) equal->kind = NODE_BROKEN;
    if (number) fg_node_add(equal, number);
    equal->span = fg_span_to_here(c, from);
}

/* `low < 20 < high` and `low, 20, high`: reported. */
static bool cut_by_other_sign(fg_compiler *c, const fg_node *label)
{
    const fg_lexer here = c->lexer;
    const fg_span sign = fg_lex_span(c);
    const fg_text text = fg_lex_text(c);
    const bool comma = fg_parse_at(c, TOK_COMMA);
    if (!comma && !(fg_parse_at(c, TOK_FOREIGN) && fg_meant_compares(c))) return false;
    const bool quiet = c->quiet;
    c->quiet = true;
    fg_lex_next(c);
    const fg_text number = fg_parse_at(c, TOK_NUMBER) ? fg_lex_text(c) : T("N");
    fg_lex_next(c);
    const bool again = comma || fg_parse_at(c, TOK_FOREIGN);
    fg_lex_next(c);
    const fg_text next = fg_parse_at(c, TOK_NAME) ? fg_lex_text(c) : T("LABEL");
    c->quiet = quiet;
    c->lexer = here;
    if (!again) return false;
    fg_report(c, FG_FIND_SYNTAX, sign, "use | between a label and its limit, not '{}'", "write {} | {} | {}", text,
              label->word, number, next);
    c->lost = true;
    return true;
}

/* A line with cuts, or LABEL RANGE, or LABEL otherwise. A label alone is a line without a cut. */
static void parse_band_row(fg_compiler *c, fg_symbol *symbol)
{
    if (at_equal(c)) {
        parse_equal(c, symbol);
        return;
    }
    fg_node *label = parse_label(c, NODE_LABEL);
    if (!label || cut_by_other_sign(c, label)) {
        fg_symbol_add(symbol, fg_node_new(c, NODE_BROKEN, fg_lex_span(c))); /* nothing more is said about it */
        return;
    }
    if (fg_parse_at(c, TOK_BAR) || fg_parse_at_row_end(c)) {
        parse_cuts(c, symbol, label);
        return;
    }
    label->kind = NODE_LABEL_ROW;
    fg_symbol_add(symbol, label);
    accept_between(c, label->word);
    if (fg_parse_accept_word(c, "otherwise")) return;
    fg_node *range = fg_parse_at_comparison(c) ? fg_parse_comparison(c) : fg_parse_range(c);
    if (range->kind == NODE_BROKEN) {
        label->kind = NODE_BROKEN;
        return;
    }
    fg_node_add(label, range);
    label->span = fg_span_to_here(c, label->span);
}

bool fg_parse_rows(fg_compiler *c, fg_symbol *symbol)
{
    fg_block block;
    if (!fg_parse_block_of(c, symbol, &block)) return false;
    while (fg_parse_block_row(c, &block)) {
        if (!parse_attribute(c, symbol) && !parse_rule_row(c, symbol)) {
            if (fg_kind_is(symbol->kind, FG_KIND_LABELS))
                parse_band_row(c, symbol);
            else
                unknown_attribute(c, symbol);
        }
        fg_parse_row_end(c);
    }
    return true;
}
