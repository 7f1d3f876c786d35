/* SPDX-License-Identifier: MIT */
/* Conditions.
 *
 *     CONDITION = AND { or AND }
 *     AND       = NOT { and NOT }
 *     NOT       = [not] BEHIND
 *     BEHIND    = PRIMARY { for T | starts | ends }
 *     PRIMARY   = ( CONDITION ) | previously ... | at least N of ... | NAME ...
 *
 * Where a reader could be in doubt, brackets are asked for instead of a rule that nobody remembers: `and` beside `or`,
 * `not` before `for`, a label that is a name as well.
 */
#include "language/tree/meant.h"

enum {
    YES_NO = FG_KINDS_WITH(FG_KIND_YES_NO),
    ANSWERS = YES_NO | FG_KINDS_WITH(FG_KIND_LABELS),
    INPUTS = FG_KINDS_WITH(FG_KIND_READ),
    MEASURED = FG_KINDS_WITH(FG_KIND_MEASURED),
    ANYTHING = ANSWERS | INPUTS | MEASURED
};

static fg_node *parse_or(fg_compiler *c);
static fg_node *parse_not(fg_compiler *c);
static fg_node *parse_atom(fg_compiler *c);

/* A node for what was wrong: those above it become broken as well, and nothing more is said about them. */
static fg_node *broken(fg_compiler *c, fg_span span) { return fg_node_new(c, NODE_BROKEN, span); }

/* ---- BANDS is [not] LABEL or LABEL ---- */

/* Offers the nearest label, or lists the first twelve. */
static void unknown_label(fg_compiler *c, const fg_symbol *bands, fg_text word, fg_span span)
{
    fg_text best = {0}, all = {0};
    size_t distance = fg_name_reach(word) + 1;
    for (int i = 0; i < bands->label_count; i++) {
        if (fg_text_alike(word, bands->labels[i])) {
            best = bands->labels[i];
            distance = 0;
        }
        fg_name_nearest_add(word, bands->labels[i], &best, &distance);
        if (i < 12) all = i ? fg_text_join(c, all, ", ", bands->labels[i]) : bands->labels[i];
    }
    if (best.size) {
        fg_report(c, FG_FIND_UNKNOWN, span, "{} has no label '{}'", "did you mean '{}'?", bands->name, word, best);
        if (fg_text_alike(word, best)) fg_report_fix(c, span, best);
    } else
        fg_report(c, FG_FIND_UNKNOWN, span, "{} has no label '{}'", "its labels are {}", bands->name, word, all);
}

/* `none` is no label, but may be asked for like one. */
static void add_label(fg_compiler *c, fg_node *is, const fg_symbol *bands)
{
    fg_text word = fg_lex_text(c);
    const int number = fg_symbol_label(bands, word);
    fg_node *label = fg_node_new(c, NODE_WANTED_LABEL, fg_lex_span(c));
    label->word = word;
    label->wanted.none = fg_text_is(word, "none");
    if (number >= 0) label->wanted.number = (uint8_t)number;
    if (!label->wanted.none && number < 0) {
        unknown_label(c, bands, word, label->span);
        is->kind = NODE_BROKEN;
    }
    fg_node_add(is, label);
    fg_lex_next(c);
}

/* `or X` belongs to the list if X is one of the labels. */
static bool list_goes_on(fg_compiler *c, const fg_symbol *bands)
{
    if (!fg_parse_at_word(c, "or")) return false;
    fg_token next = fg_parse_peek(c);
    fg_text word = {c->lexer.text.at + next.at, next.end - next.at};
    return next.kind == TOK_NAME && (fg_symbol_label(bands, word) >= 0 || fg_text_is(word, "none"));
}

/* In `tide is low or high` the word behind `or` is a label. Where a name of that word is declared as well, nobody can
 * tell which is meant, so brackets have to say it. */
static void check_list_word(fg_compiler *c, const fg_node *is, const fg_symbol *bands)
{
    fg_text word = fg_lex_text(c);
    fg_span span = fg_lex_span(c);
    if (fg_text_is(word, "none") || fg_text_is(is->first->word, "none")) {
        fg_report(c, FG_FIND_SYNTAX, span, "'none' cannot stand in a list of labels",
                  "write ({} is none) or {} is LABEL", bands->name, bands->name);
        return;
    }
    const fg_symbol *other = fg_name_find(c, word);
    if (other)
        fg_report(c, FG_FIND_BRACKETS, span, "'{}' is a label of {} and also declared as {}",
                  "write ({} is ... or {}) for the label, or ({} is ...) or {} for the {}", word, bands->name,
                  fg_text_of(fg_kind_word(other->kind)), bands->name, word, bands->name, word,
                  fg_text_of(fg_kind_word(other->kind)));
}

/* LABEL { or LABEL } */
static fg_node *parse_labels(fg_compiler *c, fg_symbol *bands, fg_span from, bool negated)
{
    fg_node *is = fg_node_new(c, NODE_IS, from);
    is->symbol = bands;
    is->negated = negated;
    if (!fg_parse_at(c, TOK_NAME)) {
        fg_parse_wrong(c, "a label", "write NAME is LABEL");
        is->kind = NODE_BROKEN;
        return is;
    }
    add_label(c, is, bands);
    while (list_goes_on(c, bands)) {
        fg_lex_next(c);
        check_list_word(c, is, bands);
        add_label(c, is, bands);
    }
    is->span = fg_span_to_here(c, from);
    return is;
}

/* COUNT is N: the same as within N..N. */
static fg_node *parse_count_is(fg_compiler *c, fg_symbol *count, fg_span from, bool negated)
{
    fg_node *number = fg_parse_number(c);
    if (number->kind == NODE_BROKEN) return number;
    fg_node *within = fg_node_new(c, NODE_COMPARISON, number->span);
    within->comparison = FG_COMPARE_WITHIN;
    fg_node *again = fg_node_new(c, NODE_BROKEN, number->span);
    if (again != number) *again = *number;
    fg_node_add(within, number);
    fg_node_add(within, again);
    fg_node *node = fg_node_new(c, NODE_COMPARE_COUNT, fg_span_to_here(c, from));
    node->symbol = count;
    node->negated = negated;
    fg_node_add(node, within);
    return node;
}

/* is [not] (LABEL { or LABEL } | N | LEVEL). What a sensor or an output cannot be asked has a message of its own, with
 * what to write instead. */
static fg_node *parse_is(fg_compiler *c, fg_symbol *symbol, fg_span from)
{
    fg_lex_next(c);
    bool negated = fg_parse_accept_word(c, "not");
    if (symbol->kind == FG_KIND_COUNT) return parse_count_is(c, symbol, from, negated);
    if (fg_kind_is(symbol->kind, FG_KIND_LABELS)) return parse_labels(c, symbol, from, negated);
    if (c->in_trial && fg_kind_is(symbol->kind, FG_KIND_IS_OUTPUT)) {
        fg_node *is = fg_node_new(c, NODE_OUTPUT_IS, from);
        is->symbol = symbol;
        is->negated = negated;
        fg_node *level = fg_parse_level(c, symbol);
        if (level->kind == NODE_BROKEN) return level;
        fg_node_add(is, level);
        is->span = fg_span_to_here(c, from);
        return is;
    }
    if (symbol->kind == FG_KIND_SENSOR && fg_parse_at_comparison(c)) {
        const fg_span is = {from.at + from.size, fg_lex_span(c).at - from.at - from.size, from.source};
        fg_report(c, FG_FIND_SYNTAX, is, "no 'is' belongs before a comparison", "write {} {} N", symbol->name,
                  fg_lex_text(c));
        if (!negated) fg_report_fix(c, is, T(" "));
        (void)fg_parse_comparison_of(c, symbol->name);
        return broken(c, from);
    }
    if (symbol->kind == FG_KIND_SENSOR)
        fg_report(c, FG_FIND_KIND, from, "a reading is never exactly a number, so '{} is' cannot be asked",
                  "write {} near N by T, or within A..B", symbol->name, symbol->name);
    else if (fg_kind_is(symbol->kind, FG_KIND_IS_OUTPUT))
        fg_report(c, FG_FIND_KIND, from, "what an output does can only be asked in a trial or a promise",
                  "ask the condition that switches {}", symbol->name);
    else {
        fg_meant_yes(c, symbol, from, negated);
        return broken(c, from);
    }
    c->lost = true;
    return broken(c, from);
}

/* ---- atoms ---- */

/* A comparison takes the unit of its sensor, so that `over 5 in` is read as inches where the sensor measures in
 * inches. */
static fg_node *parse_compare(fg_compiler *c, fg_symbol *symbol, fg_span from)
{
    fg_parse_own_unit(c, symbol);
    fg_node *comparison = fg_parse_comparison_of(c, symbol->name);
    fg_parse_own_unit_end(c);
    if (comparison->kind == NODE_BROKEN) return comparison;
    if (!(FG_KIND_BIT(symbol->kind) & MEASURED)) {
        fg_report(c, FG_FIND_KIND, from, "only a sensor or a count can be compared with a number; {} is declared as {}",
                  "", symbol->name, fg_text_of(fg_kind_word(symbol->kind)));
        return broken(c, from);
    }
    /* A count has its own op: it is compared with whole numbers and is never faulty. */
    const bool counts = symbol->kind == FG_KIND_COUNT;
    fg_node *node = fg_node_new(c, counts ? NODE_COMPARE_COUNT : NODE_COMPARE, fg_span_to_here(c, from));
    node->symbol = symbol;
    fg_node_add(node, comparison);
    return node;
}

/* NAME faulty | NAME unsure. A sensor is faulty, an answer is unsure; each message names the other. */
static fg_node *parse_state_word(fg_compiler *c, fg_symbol *symbol, fg_span from, fg_node_kind kind)
{
    fg_lex_next(c);
    fg_node *node = fg_node_new(c, kind, fg_span_to_here(c, from));
    node->symbol = symbol;
    if (FG_KIND_BIT(symbol->kind) & (kind == NODE_FAULTY ? (uint32_t)INPUTS : (uint32_t)ANSWERS)) return node;
    if (kind == NODE_FAULTY)
        fg_report(c, FG_FIND_KIND, from, "only sensors and flags are faulty; {} is declared as {}", "write {} unsure",
                  symbol->name, fg_text_of(fg_kind_word(symbol->kind)), symbol->name);
    else
        fg_report(c, FG_FIND_KIND, from, "a {} has no answer that could be unsure", "write {} faulty",
                  fg_text_of(fg_kind_word(symbol->kind)), symbol->name);
    node->kind = NODE_BROKEN;
    return node;
}

/* `tide low`: the word between is missing. */
static void bare_bands(fg_compiler *c, const fg_symbol *bands, fg_span from)
{
    const bool label = fg_parse_at(c, TOK_NAME) && fg_symbol_label(bands, fg_lex_text(c)) >= 0;
    const fg_text wanted = label ? fg_lex_text(c) : bands->label_count ? bands->labels[0] : T("LABEL");
    fg_report(c, FG_FIND_KIND, from, "the bands '{}' need a label here", "write {} is {}", bands->name, bands->name,
              wanted);
    if (!label) return;
    fg_report_fix(c, (fg_span){from.at + from.size, 0, from.source}, T(" is"));
    fg_lex_next(c);
}

/* `expect red on at 2s` */
static void bare_output(fg_compiler *c, fg_symbol *output, fg_span from)
{
    const fg_text word = fg_parse_at(c, TOK_NAME) ? fg_lex_text(c) : T("LEVEL");
    fg_report(c, FG_FIND_KIND, from, "'{}' is declared as {} and has no yes or no", "write {} is {}", output->name,
              fg_text_of(fg_kind_word(output->kind)), output->name, word);
    c->lost = true;
}

/* A name alone has to answer yes or no. */
static fg_node *parse_bare(fg_compiler *c, fg_symbol *symbol, fg_span from)
{
    fg_node *node = fg_node_new(c, NODE_ANSWER, from);
    node->symbol = symbol;
    if (FG_KIND_BIT(symbol->kind) & YES_NO) return node;
    node->kind = NODE_BROKEN;
    if (symbol->kind == FG_KIND_COUNT)
        fg_report(c, FG_FIND_KIND, from, "the count '{}' needs a comparison here", "write {} over 5, or {} is 3",
                  symbol->name, symbol->name, symbol->name);
    else if (symbol->kind == FG_KIND_SENSOR)
        fg_report(c, FG_FIND_KIND, from, "the sensor '{}' needs a comparison here",
                  "write {} over 5, {} within 2..5 or {} faulty", symbol->name, symbol->name, symbol->name,
                  symbol->name);
    else if (fg_kind_is(symbol->kind, FG_KIND_LABELS))
        bare_bands(c, symbol, from);
    else if (c->in_trial && fg_kind_is(symbol->kind, FG_KIND_IS_OUTPUT))
        bare_output(c, symbol, from);
    else if (fg_kind_is(symbol->kind, FG_KIND_IS_OUTPUT))
        fg_report(c, FG_FIND_KIND, from, "what an output does can only be asked in a trial or a promise",
                  "ask the condition that switches {}", symbol->name);
    else
        fg_report(c, FG_FIND_KIND, from, "'{}' is declared as {} and has no yes or no", "", symbol->name,
                  fg_text_of(fg_kind_word(symbol->kind)));
    return node;
}

/* Behind a name that nobody knows: whatever would belong to it. */
static void skip_rest_of_atom(fg_compiler *c)
{
    if (fg_parse_accept_word(c, "faulty") || fg_parse_accept_word(c, "unsure")) return;
    if (fg_parse_at_comparison(c)) {
        (void)fg_parse_comparison(c);
        return;
    }
    if (!fg_parse_accept_word(c, "is")) return;
    (void)fg_parse_accept_word(c, "not");
    for (;;) {
        if (fg_parse_at(c, TOK_NAME)) fg_lex_next(c);
        fg_token next = fg_parse_peek(c);
        fg_text word = {c->lexer.text.at + next.at, next.end - next.at};
        if (!fg_parse_at_word(c, "or") || next.kind != TOK_NAME || fg_name_find(c, word)) return;
        fg_lex_next(c);
    }
}

/* OUTPUT plays SEQUENCE, in a trial. */
static fg_node *parse_plays(fg_compiler *c, fg_symbol *output, fg_span from)
{
    fg_span span;
    fg_lex_next(c);
    fg_text name = fg_parse_name(c, &span, "the name of a sequence");
    fg_symbol *sequence = name.size ? fg_name_use(c, name, span, FG_KIND_BIT(FG_KIND_SEQUENCE)) : NULL;
    fg_node *node = fg_node_new(c, sequence ? NODE_OUTPUT_PLAYS : NODE_BROKEN, fg_span_to_here(c, from));
    fg_node *word = fg_node_new(c, NODE_WORD, span);
    if (!fg_kind_is(output->kind, FG_KIND_IS_OUTPUT)) {
        fg_report(c, FG_FIND_KIND, from, "only an output plays something; {} is declared as {}", "", output->name,
                  fg_text_of(fg_kind_word(output->kind)));
        node->kind = NODE_BROKEN;
    }
    node->symbol = output;
    word->symbol = sequence;
    fg_node_add(node, word);
    return node;
}

/* NAME [is ... | faulty | unsure | plays ... | COMPARISON]. Which of these may follow hangs on what the name is
 * declared as, so names are known before any condition is read. */
static fg_node *parse_atom(fg_compiler *c)
{
    fg_span span = fg_lex_span(c);
    fg_text name = fg_lex_text(c);
    if (!fg_parse_at(c, TOK_NAME) || fg_word_reserved(name)) {
        if (fg_parse_at(c, TOK_NUMBER) && !c->lost) {
            fg_report(c, FG_FIND_SYNTAX, span, "a comparison begins with what is compared, not with {}",
                      "write SENSOR over {}, also behind 'and' and 'or'", name, name);
            c->lost = true;
        }
        if (fg_parse_at(c, TOK_OPEN_BRACE)) {
            fg_parse_wrong(c, "a condition", "write a condition without braces: condition NAME = CONDITION");
            return broken(c, span);
        }
        fg_parse_wrong(c, "a condition", "write a name, SENSOR over 5, BANDS is LABEL, or a bracket");
        return broken(c, span);
    }
    fg_lex_next(c);
    fg_symbol *symbol = fg_name_find(c, name);
    if (!symbol || symbol->kind == FG_KIND_NUMBER) {
        (void)fg_name_use(c, name, span, ANYTHING);
        skip_rest_of_atom(c);
        return broken(c, span);
    }
    /* Whatever follows, the condition looks at this name, so its op comes first. */
    fg_name_depend(c, symbol, span);
    if (fg_parse_at_word(c, "is")) return parse_is(c, symbol, span);
    if (fg_parse_at_word(c, "faulty")) return parse_state_word(c, symbol, span, NODE_FAULTY);
    if (fg_parse_at_word(c, "unsure")) return parse_state_word(c, symbol, span, NODE_UNSURE);
    if (c->in_trial && fg_parse_at_word(c, "plays")) return parse_plays(c, symbol, span);
    if ((FG_KIND_BIT(symbol->kind) & MEASURED || fg_meant_compares(c)) && fg_parse_at_comparison(c))
        return parse_compare(c, symbol, span);
    bool negated;
    if (fg_meant_same(c, &negated)) {
        fg_meant_equality(c, symbol, span);
        return broken(c, span);
    }
    if (FG_KIND_BIT(symbol->kind) & YES_NO && fg_meant_yes_word(c)) {
        fg_meant_yes(c, symbol, span, false);
        return broken(c, span);
    }
    return parse_bare(c, symbol, span);
}

/* What stands in brackets is whole: words behind inside of it are nobody else's. */
static fg_node *parse_bracket(fg_compiler *c)
{
    const uint32_t fors = c->fors, behinds = c->behinds;
    fg_span open = fg_lex_span(c);
    fg_lex_next(c);
    fg_node *inside = parse_or(c);
    c->fors = fors;
    c->behinds = behinds;
    if (c->lost) return inside;
    if (!fg_parse_accept(c, TOK_CLOSE)) {
        fg_parse_not_closed(c, open);
        return broken(c, open);
    }
    if (inside->kind != NODE_BROKEN) inside->span = fg_span_to_here(c, open);
    return inside;
}

/* at least N yes in (a, b, c), at most N ..., exactly N ... */
static fg_node *parse_yes_in(fg_compiler *c, fg_comparison_kind comparison)
{
    const char *how = comparison == FG_COMPARE_AT_LEAST  ? "write at least N yes in (a, b, c)"
                      : comparison == FG_COMPARE_AT_MOST ? "write at most N yes in (a, b, c)"
                                                         : "write exactly N yes in (a, b, c)";
    fg_node *node = fg_node_new(c, NODE_YES_IN, fg_lex_span(c));
    node->comparison = (uint8_t)comparison;
    fg_lex_next(c);
    if (comparison != FG_COMPARE_WITHIN) fg_lex_next(c);
    fg_node *number = fg_parse_number(c);
    fg_span open;
    if (number->kind == NODE_BROKEN || !fg_parse_expect_word(c, "yes", how) || !fg_parse_expect_word(c, "in", how))
        return broken(c, node->span);
    fg_node_add(node, number);
    open = fg_lex_span(c);
    if (!fg_parse_accept(c, TOK_OPEN)) {
        fg_parse_wrong(c, "'('", how);
        return broken(c, node->span);
    }
    bool good = true;
    const uint32_t fors = c->fors, behinds = c->behinds;
    do {
        fg_node *part = parse_or(c);
        good = good && part->kind != NODE_BROKEN;
        fg_node_add(node, part);
    } while (!c->lost && fg_parse_accept(c, TOK_COMMA));
    c->fors = fors;
    c->behinds = behinds;
    if (!c->lost && !fg_parse_accept(c, TOK_CLOSE)) fg_parse_not_closed(c, open);
    node->span = fg_span_to_here(c, node->span);
    if (!good || c->lost) node->kind = NODE_BROKEN;
    return node;
}

/* previously ATOM: looks one step back, so it is no dependence. */
static fg_node *parse_previously(fg_compiler *c)
{
    fg_node *node = fg_node_new(c, NODE_PREVIOUSLY, fg_lex_span(c));
    fg_symbol *const dependent = c->dependent;
    fg_lex_next(c);
    c->dependent = NULL;
    fg_node *atom = fg_parse_at(c, TOK_OPEN) ? parse_bracket(c) : parse_atom(c);
    c->dependent = dependent;
    if (atom->kind == NODE_BROKEN) return atom;
    fg_node_add(node, atom);
    node->span = fg_span_to_here(c, node->span);
    return node;
}

/* It is no reserved word: the number behind it shows what it is. */
static bool at_exactly(fg_compiler *c)
{
    if (!fg_parse_at_word(c, "exactly")) return false;
    const fg_token next = fg_parse_peek(c);
    const fg_symbol *named =
        next.kind == TOK_NAME ? fg_name_find(c, (fg_text){c->lexer.text.at + next.at, next.end - next.at}) : NULL;
    return next.kind == TOK_NUMBER || (named && named->kind == FG_KIND_NUMBER);
}

/* ( CONDITION ) | previously ... | at least N yes in ... | ATOM */
static fg_node *parse_primary(fg_compiler *c)
{
    if (fg_parse_at(c, TOK_OPEN)) return parse_bracket(c);
    if (fg_parse_at_word(c, "previously")) return parse_previously(c);
    if (fg_parse_at_word(c, "at") && fg_parse_peek_word(c, "least")) return parse_yes_in(c, FG_COMPARE_AT_LEAST);
    if (fg_parse_at_word(c, "at") && fg_parse_peek_word(c, "most")) return parse_yes_in(c, FG_COMPARE_AT_MOST);
    if (at_exactly(c)) return parse_yes_in(c, FG_COMPARE_WITHIN);
    return parse_atom(c);
}

/* X for T, X starts, X ends: may be chained. */
static fg_node *parse_behind(fg_compiler *c)
{
    fg_node *node = parse_primary(c);
    for (uint32_t count = 1; !c->lost; count++) {
        const bool lasts = fg_parse_at_word(c, "for");
        if (!lasts && !fg_parse_at_word(c, "starts") && !fg_parse_at_word(c, "ends")) return node;
        const fg_node_kind kind = lasts ? NODE_FOR : fg_parse_at_word(c, "starts") ? NODE_STARTS : NODE_ENDS;
        fg_node *behind = fg_node_new(c, kind, node->span);
        if (count > FG_DEPTH_MOST) {
            fg_report(c, FG_FIND_TOO_MANY, fg_lex_span(c), "more than 100 of 'for', 'starts' and 'ends' stand in a row",
                      "give a part of it its own name");
            c->lost = true;
            return broken(c, node->span);
        }
        fg_lex_next(c);
        c->behinds++;
        c->fors += lasts;
        fg_node *time = lasts ? fg_parse_number(c) : NULL;
        const bool good = node->kind != NODE_BROKEN && !(time && time->kind == NODE_BROKEN);
        fg_node_add(behind, node);
        if (time) fg_node_add(behind, time);
        behind->span = fg_span_to_here(c, node->span);
        if (!good) behind->kind = NODE_BROKEN;
        node = behind;
    }
    return node;
}

/* The words behind a condition, without the blanks before them. */
static fg_text words_of(const fg_compiler *c, fg_span behind)
{
    fg_text text = fg_span_text(c, behind);
    while (text.size && (text.at[0] == ' ' || text.at[0] == '\t' || text.at[0] == '\n'))
        text = (fg_text){text.at + 1, text.size - 1};
    return text;
}

/* `not X for 2s` may mean two things, and guessing would be wrong half of the time. */
static void wants_brackets(fg_compiler *c, const fg_node *inside, fg_span from)
{
    const fg_node *bare = inside;
    while (bare->kind == NODE_FOR || bare->kind == NODE_STARTS || bare->kind == NODE_ENDS) bare = bare->first;
    fg_span behind = inside->span;
    behind.at = bare->span.at + bare->span.size;
    behind.size = inside->span.at + inside->span.size - behind.at;
    fg_report(c, FG_FIND_BRACKETS, fg_span_to_here(c, from), "is this 'not' asked before or after '{}'?",
              "write (not {}) {}, or not ({} {})", words_of(c, behind), fg_span_text(c, bare->span),
              words_of(c, behind), fg_span_text(c, bare->span), words_of(c, behind));
}

/* `behinds` counts words such as `for` that stand behind a part without brackets of their own. If the part behind
 * `not` has one, it is not clear what is negated. */
static fg_node *parse_negation(fg_compiler *c, fg_span from)
{
    const uint32_t behinds = c->behinds, fors = c->fors;
    fg_node *inside = parse_not(c);
    fg_node *node = fg_node_new(c, inside->kind == NODE_BROKEN ? NODE_BROKEN : NODE_NOT, fg_span_to_here(c, from));
    if (node->kind == NODE_NOT) fg_node_add(node, inside);
    /* Nothing stood behind a part without brackets, so it is clear what is negated. */
    if (c->behinds == behinds || c->lost) return node;
    if (node->kind == NODE_NOT) wants_brackets(c, inside, from);
    c->behinds = behinds; /* said once */
    c->fors = fors;
    node->kind = NODE_BROKEN;
    return node;
}

/* [not] BEHIND. The depth is bounded, because each level of brackets is a level of recursion here. */
static fg_node *parse_not(fg_compiler *c)
{
    fg_span from = fg_lex_span(c);
    if (++c->brackets > FG_DEPTH_MOST) {
        if (!c->lost)
            fg_report(c, FG_FIND_TOO_MANY, from, "brackets and 'not' are nested more than 100 deep",
                      "give a part of it its own name");
        c->lost = true;
        c->brackets--;
        return broken(c, from);
    }
    const bool negated = fg_parse_accept_word(c, "not") || fg_meant_accept(c, "not");
    fg_node *node = negated ? parse_negation(c, from) : parse_behind(c);
    c->brackets--;
    return node;
}

/* `A and B for T` could mean two things. */
static void check_fors(fg_compiler *c, uint32_t before, const fg_node *chain, const fg_node *part)
{
    if (c->fors == before || c->lost || part->kind == NODE_BROKEN) return;
    const fg_node *last = part;
    while (last->kind == NODE_AND || last->kind == NODE_NOT) last = last->last;
    if (last->kind != NODE_FOR) last = part;
    fg_span front = chain->span, behind = last->span;
    const fg_node *bare = last->kind == NODE_FOR ? last->first : last;
    front.size = bare->span.at + bare->span.size - front.at;
    behind.at = bare->span.at + bare->span.size;
    behind.size = last->span.at + last->span.size - behind.at;
    fg_report(c, FG_FIND_BRACKETS, fg_span_to_here(c, chain->span),
              "does '{}' belong to all of this, or to the last part?", "write ({}) {}, or put brackets round ({})",
              words_of(c, behind), fg_span_text(c, front), words_of(c, behind), fg_span_text(c, last->span));
    c->fors = before;
}

/* a and b and c, as one node with all parts as children. */
static fg_node *parse_chain(fg_compiler *c, const char *word, fg_node_kind kind, fg_node *(*part)(fg_compiler *))
{
    fg_span from = fg_lex_span(c);
    fg_node *first = part(c);
    if (c->lost || !(fg_parse_at_word(c, word) || fg_meant_at(c, word))) return first;
    fg_node *chain = fg_node_new(c, kind, from);
    bool good = first->kind != NODE_BROKEN;
    fg_node_add(chain, first);
    while (!c->lost && (fg_parse_accept_word(c, word) || fg_meant_accept(c, word))) {
        const uint32_t fors = c->fors;
        fg_node *next = part(c);
        check_fors(c, fors, chain, next);
        good = good && next->kind != NODE_BROKEN;
        fg_node_add(chain, next);
    }
    chain->span = fg_span_to_here(c, from);
    if (!good) chain->kind = NODE_BROKEN;
    return chain;
}

/* NOT { and NOT } */
static fg_node *parse_and(fg_compiler *c) { return parse_chain(c, "and", NODE_AND, parse_not); }

/* AND { or AND } */
static fg_node *parse_or(fg_compiler *c) { return parse_chain(c, "or", NODE_OR, parse_and); }

/* A condition that was lost on the way is broken as a whole: half of it would mean something else. */
fg_node *fg_parse_condition(fg_compiler *c)
{
    c->fors = c->behinds = 0;
    fg_node *condition = parse_or(c);
    if (!c->lost && !c->in_trial && fg_parse_at(c, TOK_COMMA))
        fg_parse_wrong(c, "the end of the condition", "write 'and' or 'or' between two conditions");
    if (c->lost) condition = broken(c, condition->span);
    return condition;
}

/* condition NAME = CONDITION */
void fg_parse_condition_statement(fg_compiler *c, fg_symbol *symbol)
{
    if (!fg_parse_accept(c, TOK_EQUALS)) {
        const bool sign = fg_parse_at(c, TOK_FOREIGN);
        const fg_span here = fg_lex_span(c);
        fg_parse_wrong(c, "'='", "write condition NAME = CONDITION");
        if (sign) fg_report_fix(c, here, here.at && c->lexer.text.at[here.at - 1] == ' ' ? T("=") : T(" ="));
    } else
        fg_symbol_add(symbol, fg_parse_condition(c));
    fg_parse_row_end(c);
}
