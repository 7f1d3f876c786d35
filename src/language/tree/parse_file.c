/* SPDX-License-Identifier: MIT */
/* Statements, and what declares without conditions: numbers, sensors, flags, and the rules on sensors.
 *
 * Attributes stand in one table with their words, what stands behind them, and whose they are; messages list them from
 * the same table. Bodies that hold conditions are put off until every name is known.
 */
#include "language/text/encoding.h"
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

/* Every attribute: its word, what stands behind it, and whose it is. */
static const struct {
    const char *word;
    fg_attribute attribute;
    attribute_shape shape;
    uint32_t kinds;
} attributes[] = {
    {"unit", ATTR_UNIT, SHAPE_UNIT, FG_KIND_BIT(FG_KIND_SENSOR)},
    {"step", ATTR_STEP, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_SENSOR)},
    {"raw", ATTR_RAW, SHAPE_RAW, FG_KIND_BIT(FG_KIND_SENSOR)},
    {"trust", ATTR_TRUST, SHAPE_RANGE, FG_KIND_BIT(FG_KIND_SENSOR)},
    {"circle", ATTR_CIRCLE, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_SENSOR)},
    {"stale", ATTR_STALE, SHAPE_AFTER, FG_KIND_BIT(FG_KIND_SENSOR) | FG_KIND_BIT(FG_KIND_FLAG)},
    {"stuck", ATTR_STUCK, SHAPE_AFTER, FG_KIND_BIT(FG_KIND_SENSOR)},
    {"bridge", ATTR_BRIDGE, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_SENSOR) | FG_KIND_BIT(FG_KIND_FLAG)},
    {"median", ATTR_MEDIAN, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_SENSOR)},
    {"mean", ATTR_MEAN, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_SENSOR)},
    {"zero", ATTR_ZERO, SHAPE_ZERO, FG_KIND_BIT(FG_KIND_SENSOR)},
    {"inverted", ATTR_INVERTED, SHAPE_NONE, FG_KIND_BIT(FG_KIND_FLAG)},
    {"margin", ATTR_MARGIN, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_THRESHOLD) | FG_KIND_BIT(FG_KIND_BANDS)},
    {"settle", ATTR_SETTLE, SHAPE_SETTLE, RULES},
    {"settle", ATTR_SETTLE, SHAPE_NUMBER, FG_KIND_BIT(FG_KIND_FLAG)},
    {"first", ATTR_FIRST_ON, SHAPE_ON, FG_KIND_BIT(FG_KIND_HYSTERESIS)},
};

enum { ATTRIBUTES = sizeof attributes / sizeof *attributes };

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

/* { ROW ... } of a sensor, a flag or a rule on a sensor. False if there is no brace. */
static bool parse_rows(fg_compiler *c, fg_symbol *symbol)
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

/* ---- statements ---- */

/* `number n 5`, `number n: 5`: told, and read all the same. False: something else stands here. */
static bool equals_missing(fg_compiler *c, const fg_symbol *symbol)
{
    const fg_span here = fg_lex_span(c);
    const bool sign = fg_parse_at(c, TOK_FOREIGN);
    if (!sign && !fg_parse_at(c, TOK_NUMBER)) {
        fg_parse_wrong(c, "'='", "write number NAME = VALUE");
        return false;
    }
    fg_report(c, FG_FIND_SYNTAX, here, "expected '=', not '{}'", "write number {} = {}", fg_lex_text(c), symbol->name,
              sign ? T("5") : fg_lex_text(c));
    fg_report_fix(c, sign ? here : (fg_span){here.at, 0, here.source}, sign ? T(" =") : T("= "));
    if (sign) fg_lex_next(c);
    return true;
}

/* number NAME = EXPRESSION */
static void parse_number_statement(fg_compiler *c, fg_symbol *symbol)
{
    if (!fg_parse_accept(c, TOK_EQUALS) && !equals_missing(c, symbol)) {
        fg_parse_skip_row(c);
        return;
    }
    symbol->body = fg_parse_number_expression(c);
    if (symbol->body->kind == NODE_BROKEN)
        fg_parse_skip_row(c);
    else
        fg_parse_row_end(c);
}

/* threshold NAME from SENSOR { ... }. Without a sensor, or without rows, the body is marked as broken, so that
 * checking does not complain that it has none. */
static void parse_rule(fg_compiler *c, fg_symbol *symbol)
{
    if (fg_parse_at_word(c, "of") || fg_parse_at_word(c, "on") || fg_parse_at_word(c, "for")) {
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "a rule is written 'from' its sensor, not '{}'", "write from",
                  fg_lex_text(c));
        fg_report_fix(c, fg_lex_span(c), T("from"));
        fg_lex_next(c);
        symbol->from = fg_parse_name(c, &symbol->from_span, "the name of a sensor");
    } else if (fg_parse_at(c, TOK_NAME) && !fg_parse_at_word(c, "from") && fg_parse_peek(c).kind == TOK_OPEN_BRACE) {
        const fg_span here = fg_lex_span(c);
        fg_report(c, FG_FIND_SYNTAX, here, "'from' is missing before '{}'", "write from {}", fg_lex_text(c),
                  fg_lex_text(c));
        fg_report_fix(c, (fg_span){here.at, 0, here.source}, T("from "));
        symbol->from = fg_parse_name(c, &symbol->from_span, "the name of a sensor");
    } else if (fg_parse_expect_word(c, "from", "a rule names its sensor: from SENSOR"))
        symbol->from = fg_parse_name(c, &symbol->from_span, "the name of a sensor");
    /* Both are needed to say anything more about the rule. */
    if (symbol->from.size && parse_rows(c, symbol)) return;
    fg_symbol_add(symbol, fg_node_new(c, NODE_BROKEN, symbol->span)); /* nothing more is said about it */
    fg_parse_skip_row(c);
}

/* Keeps the place of a body that holds conditions, and skips it quietly. It is read when every name is known, wherever
 * it is declared. */
static void defer(fg_compiler *c, fg_symbol *symbol, fg_trial_node *trial, fg_scene_node *scene)
{
    fg_deferred *d = FG_TAKE(fg_deferred, &c->arena, 1);
    if (d) {
        *d = (fg_deferred){.symbol = symbol, .trial = trial, .scene = scene, .lexer = c->lexer};
        if (c->deferred_last)
            c->deferred_last->next = d;
        else
            c->deferred = d;
        c->deferred_last = d;
    }
    c->quiet = true;
    fg_parse_skip_row(c);
    c->quiet = false;
}

/* A sensor or flag. */
static void parse_input(fg_compiler *c, fg_symbol *symbol)
{
    if (symbol->kind == FG_KIND_SENSOR && fg_parse_accept(c, TOK_EQUALS)) symbol->sum = fg_parse_sensor_sum(c);
    if (c->lost) fg_parse_skip_row(c);
    if (fg_parse_at_row_end(c) || fg_parse_at_kind_word(c))
        fg_parse_row_end(c);
    else
        (void)parse_rows(c, symbol);
}

/* A declaration ends behind the last token that was read and is no end of a row. */
static void end_declaration(const fg_compiler *c, fg_symbol *symbol)
{
    if (c->lexer.row_end > symbol->whole.at) symbol->whole.size = c->lexer.row_end - symbol->whole.at;
}

/* KIND NAME ... The name is declared first, so that a mistake in the body does not make every use of it a mistake as
 * well. */
static void parse_declaration(fg_compiler *c, fg_kind kind)
{
    fg_span span;
    const fg_span first = fg_lex_span(c);
    fg_lex_next(c);
    fg_text name = fg_parse_new_name(c, &span, kind);
    if (!name.size) {
        fg_parse_skip_row(c);
        return;
    }
    c->lost = false; /* a name of two words was told; what follows is as good as ever */
    uint32_t colour;
    if (kind == FG_KIND_NUMBER && fg_colour_named(name, &colour)) /* `on amber` would mean two things */
        fg_report(c, FG_FIND_RESERVED, span, "'{}' is a colour and cannot be the name of a number",
                  "choose another name, such as {}_limit", name, name);
    fg_symbol *symbol = fg_name_declare(c, kind, name, span);
    symbol->whole = first;
    if (kind == FG_KIND_NUMBER)
        parse_number_statement(c, symbol);
    else if (fg_kind_is(kind, FG_KIND_READ))
        parse_input(c, symbol);
    else if (fg_kind_is(kind, FG_KIND_ON_SENSOR))
        parse_rule(c, symbol);
    else
        defer(c, symbol, NULL, NULL);
    end_declaration(c, symbol);
}

/* trial "NAME" { ... }. Trials stand in their own list, in the order of the file. */
static void parse_trial_head(fg_compiler *c)
{
    fg_trial_node *trial = FG_TAKE(fg_trial_node, &c->arena, 1);
    const fg_span first = fg_lex_span(c);
    fg_lex_next(c);
    if (!trial) return;
    trial->span = fg_lex_span(c);
    if (!fg_parse_string(c, &trial->name, "a trial has a name in quotes")) {
        fg_parse_skip_row(c);
        return;
    }
    for (const fg_trial_node *other = c->trials; other; other = other->next)
        if (fg_text_same(other->name, trial->name)) {
            fg_report(c, FG_FIND_TWICE, trial->span, "there is a trial of this name already", "give each its own name");
            break;
        }
    if (c->trials_last)
        c->trials_last->next = trial;
    else
        c->trials = trial;
    c->trials_last = trial;
    c->trial_count++;
    defer(c, NULL, trial, NULL);
    trial->whole = fg_span_to_here(c, first);
}

/* scene "NAME" { ... } */
static void parse_scene_head(fg_compiler *c)
{
    fg_scene_node *scene = FG_TAKE(fg_scene_node, &c->arena, 1);
    fg_lex_next(c);
    if (!scene) return;
    scene->span = fg_lex_span(c);
    if (!fg_parse_string(c, &scene->name, "a scene has a name in quotes")) {
        fg_parse_skip_row(c);
        return;
    }
    for (const fg_scene_node *other = c->scenes; other; other = other->next)
        if (fg_text_same(other->name, scene->name)) {
            fg_report(c, FG_FIND_TWICE, scene->span, "there is a scene of this name already", "give each its own name");
            break;
        }
    if (c->scenes_last)
        c->scenes_last->next = scene;
    else
        c->scenes = scene;
    c->scenes_last = scene;
    c->scene_count++;
    defer(c, NULL, NULL, scene);
}

/* For what stands once in a gate: `gate` and `every`. */
static void once(fg_compiler *c, bool *seen, const char *word)
{
    if (*seen)
        fg_report(c, FG_FIND_TWICE, fg_lex_span(c), "'{}' appears a second time in this file", "keep only one",
                  fg_text_of(word));
    *seen = true;
    fg_lex_next(c);
}

/* gate "TITLE" */
static void parse_gate(fg_compiler *c)
{
    once(c, &c->titled, "gate");
    if (!fg_parse_string(c, &c->title, "put the title in quotes: gate \"Pebble Quay\""))
        fg_parse_skip_row(c);
    else
        fg_parse_row_end(c);
}

/* every T */
static void parse_every(fg_compiler *c)
{
    once(c, &c->paced, "every");
    fg_node *time = fg_parse_number(c);
    if (time->kind == NODE_BROKEN) {
        fg_parse_skip_row(c);
        return;
    }
    fg_parse_row_end(c);
    c->pace = time;
}

/* A brace that is left over is taken as well: it belongs to the block whose head was wrong. */
static void unknown_statement(fg_compiler *c)
{
    static const char *const words[] = {
#define FG_KIND_WORD(name, word, traits, op) word,
        FG_KINDS(FG_KIND_WORD)
#undef FG_KIND_WORD
            "gate",
        "every",
        "trial",
        "scene",
        "include",
        NULL};
    fg_text word = fg_lex_text(c);
    fg_text guess = fg_parse_at(c, TOK_NAME) ? fg_name_nearest_word(word, words) : (fg_text){0};
    const fg_meant *meant = fg_parse_at(c, TOK_NAME) ? fg_meant_statement(word) : NULL;
    if (fg_parse_at(c, TOK_MINUS) && fg_parse_peek(c).kind == TOK_MINUS)
        fg_parse_wrong(c, "a declaration", "a comment begins with #");
    if (fg_parse_at(c, TOK_CLOSE_BRACE)) fg_parse_wrong(c, "a declaration", "remove it: no { is open here");
    const fg_symbol *known = fg_parse_at(c, TOK_NAME) ? fg_name_find(c, word) : NULL;
    for (size_t i = 0; !guess.size && words[i]; i++) /* SENSOR */
        if (fg_meant_word(word, words[i])) guess = fg_text_of(words[i]);
    if (meant) {
        const fg_token next = fg_parse_peek(c);
        const fg_text named = {c->lexer.text.at + next.at, next.end - next.at};
        const fg_text name = next.kind == TOK_NAME && fg_name_fits(named) ? named : T("NAME");
        fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "'{}' does not begin a declaration", meant->instead, word,
                  name, name, name);
        if (meant->fix) fg_report_fix(c, fg_lex_span(c), fg_text_of(meant->fix));
    } else if (guess.size) {
        fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "'{}' does not begin a declaration", "did you mean '{}'?",
                  word, guess);
        if (fg_meant_word(word, guess.at)) fg_report_fix(c, fg_lex_span(c), guess);
    } else if (known) {
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "rows of {} belong inside its braces", "write it inside {} {} { }",
                  word, fg_text_of(fg_kind_word(known->kind)), word);
    } else
        fg_parse_wrong(c, "a declaration", "it begins with a word like sensor, bands, condition or lamp");
    fg_parse_skip_row(c);
    (void)fg_parse_accept(c, TOK_CLOSE_BRACE);
}

static void parse_statements(fg_compiler *c);

/* Two names of one file have one identity, so a circle of includes is found by links too. */
static fg_text identity_of(const fg_source *source) { return source->identity.size ? source->identity : source->name; }

/* Reads another file in place. */
static void include(fg_compiler *c, fg_text path, fg_span span)
{
    fg_source source = {0};
    const fg_text from = c->sources[c->lexer.source].name;
    if (!c->input->read_file || !c->input->read_file(c->input->context, path, from, &source)) {
        fg_report(c, FG_FIND_INCLUDE, span, "the file '{}' {}", "its path counts from the folder of this file", path,
                  source.text.size ? source.text : T("cannot be read"));
        return;
    }
    if (source.text.size > FG_SOURCE_MOST_BYTES) {
        fg_report(c, FG_FIND_TOO_MANY, span, "the file '{}' is too long for a gate file", "is it the right file?",
                  path);
        return;
    }
    for (uint32_t i = 0; i < c->include_depth; i++)
        if (fg_text_same(identity_of(&c->sources[c->including[i]]), identity_of(&source))) {
            fg_report(c, FG_FIND_INCLUDE, span, "'{}' includes itself", "remove one of the two includes", source.name);
            return;
        }
    if (c->source_count == FG_SOURCES_MOST || c->include_depth == FG_INCLUDES_DEEP) {
        fg_report(c, FG_FIND_TOO_MANY, span, "this includes too many files", "a gate has at most 100, at most 20 deep");
        return;
    }
    const fg_lexer here = c->lexer;
    const uint16_t number = (uint16_t)c->source_count++;
    c->sources[number] = source;
    c->including[c->include_depth++] = number;
    if (fg_check_encoding(c, source.text, number)) {
        fg_lex_start(c, source.text, number, 0);
        parse_statements(c);
    }
    c->include_depth--;
    c->lexer = here;
}

/* include "FILE". It is read in place, in its own lexer; the row ends first, so that the outer file goes on behind it.
 */
static void parse_include(fg_compiler *c)
{
    fg_text path;
    fg_lex_next(c);
    const fg_span span = fg_lex_span(c);
    if (!fg_parse_string(c, &path, "put the file name in quotes")) {
        fg_parse_skip_row(c);
        return;
    }
    fg_parse_row_end(c);
    include(c, path, span);
}

/* A word says what begins here. `gate` and `every` belong to the outermost file, since an included file is a part of
 * several gates. */
static void parse_statement(fg_compiler *c)
{
    fg_text word = fg_lex_text(c);
    /* It is reported, and read all the same, so that the rest of the file makes sense. */
    const bool outer = fg_text_is(word, "gate") || fg_text_is(word, "every");
    if (fg_parse_at(c, TOK_NAME) && outer && c->lexer.source)
        fg_report(c, FG_FIND_INCLUDE, fg_lex_span(c), "'{}' cannot stand in an included file",
                  "put it into the file that includes this one", word);
    if (!fg_parse_at(c, TOK_NAME))
        unknown_statement(c);
    else if (fg_text_is(word, "gate"))
        parse_gate(c);
    else if (fg_text_is(word, "every"))
        parse_every(c);
    else if (fg_text_is(word, "trial"))
        parse_trial_head(c);
    else if (fg_text_is(word, "scene"))
        parse_scene_head(c);
    else if (fg_text_is(word, "include"))
        parse_include(c);
    else {
        for (int k = 0; k < FG_KINDS_IN_ALL; k++) {
            if (!fg_text_is(word, fg_kind_word((fg_kind)k))) continue;
            parse_declaration(c, (fg_kind)k);
            return;
        }
        unknown_statement(c);
    }
}

/* Empty lines and a `;` that is left over are no mistakes. */
static void parse_statements(fg_compiler *c)
{
    while (!fg_parse_at(c, TOK_END)) {
        if (fg_parse_accept(c, TOK_NEWLINE) || fg_parse_accept(c, TOK_SEMICOLON)) continue;
        parse_statement(c);
    }
}

/* The bodies that hold conditions, now that every name and label is known. */
static void parse_body(fg_compiler *c, const fg_deferred *d)
{
    c->lexer = d->lexer;
    c->dependent = d->symbol;
    c->in_trial = d->trial != NULL;
    c->brackets = 0;
    if (d->trial)
        fg_parse_trial(c, d->trial);
    else if (d->scene)
        fg_parse_scene(c, d->scene);
    else if (d->symbol->kind == FG_KIND_CONDITION)
        fg_parse_condition_statement(c, d->symbol);
    else if (d->symbol->kind == FG_KIND_SEQUENCE)
        fg_parse_sequence(c, d->symbol);
    else if (fg_kind_is(d->symbol->kind, FG_KIND_LISTENS))
        fg_parse_listener(c, d->symbol);
    else
        fg_parse_output(c, d->symbol);
    if (d->symbol) end_declaration(c, d->symbol);
}

/* Twice over the text: declarations without conditions, then, with every name and label known, the bodies that were
 * put off. So the order of a gate file is its author's. */
void fg_parse(fg_compiler *c)
{
    /* The stack of files being read begins with the gate file itself, which is source 0. */
    c->including[c->include_depth++] = 0;
    fg_lex_start(c, c->input->text, 0, 0);
    c->declaring = true;
    parse_statements(c);
    c->declaring = false;
    /* Before any condition is read: `is LABEL` asks for them. */
    for (fg_symbol *s = c->symbols; s; s = s->next)
        if (fg_kind_is(s->kind, FG_KIND_LABELS)) fg_symbol_collect_labels(c, s);
    for (const fg_deferred *d = c->deferred; d && !c->arena.full; d = d->next) parse_body(c, d);
}
