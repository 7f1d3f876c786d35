/* Conditions: or, and, not, brackets, and the atoms. Every name and label is known by now. */
#include "front.h"

enum {
    YES_NO = KIND(FG_KIND_FLAG) | KIND(FG_KIND_THRESHOLD) | KIND(FG_KIND_HYSTERESIS) | KIND(FG_KIND_CONDITION) |
             KIND(FG_KIND_LATCH) | KIND(FG_KIND_PULSE),
    ANSWERS = YES_NO | KIND(FG_KIND_BANDS),
    INPUTS = KIND(FG_KIND_SENSOR) | KIND(FG_KIND_FLAG),
    MEASURED = KIND(FG_KIND_SENSOR) | KIND(FG_KIND_COUNT),
    ANYTHING = ANSWERS | INPUTS | MEASURED
};

static fg_node *parse_or(fg_front *f);
static fg_node *parse_not(fg_front *f);
static fg_node *parse_atom(fg_front *f);

static fg_node *broken(fg_front *f, fg_span span) { return fg_node_new(f, NODE_BROKEN, span); }

void fg_parse_depend(fg_front *f, fg_symbol *symbol, fg_span span)
{
    symbol->used = true;
    if (f->in_trial || f->looking_back || !f->owner) return;
    fg_use *use = FG_TAKE(fg_use, &f->arena, 1);
    if (!use) return;
    *use = (fg_use){symbol, span, NULL};
    if (f->owner->uses_last)
        f->owner->uses_last->next = use;
    else
        f->owner->uses = use;
    f->owner->uses_last = use;
}

/* ---- BANDS is [not] LABEL or LABEL ---- */

static int label_of(const fg_symbol *bands, fg_text word)
{
    for (int i = 0; i < bands->label_count; i++)
        if (fg_text_same(bands->labels[i], word)) return i;
    return -1;
}

static void unknown_label(fg_front *f, const fg_symbol *bands, fg_text word, fg_span span)
{
    fg_text best = {0}, all = {0};
    size_t distance = fg_name_reach(word) + 1;
    for (int i = 0; i < bands->label_count; i++) {
        fg_name_nearest_add(word, bands->labels[i], &best, &distance);
        if (i < 12) all = i ? fg_text_join(f, all, ", ", bands->labels[i]) : bands->labels[i];
    }
    if (best.size)
        fg_say(f, FG_FIND_UNKNOWN, span, "{} has no label '{}'", "did you mean '{}'?", bands->name, word, best);
    else
        fg_say(f, FG_FIND_UNKNOWN, span, "{} has no label '{}'", "its labels are {}", bands->name, word, all);
}

static void add_label(fg_front *f, fg_node *is, const fg_symbol *bands)
{
    fg_text word = fg_lex_text(f);
    fg_node *label = fg_node_new(f, NODE_WORD, fg_lex_span(f));
    label->word = word;
    label->negated = fg_text_is(word, "none");
    if (!label->negated && label_of(bands, word) < 0) {
        unknown_label(f, bands, word, label->span);
        is->kind = NODE_BROKEN;
    }
    fg_node_add(is, label);
    fg_lex_next(f);
}

/* `or X` belongs to the list if X is one of the labels. */
static bool list_goes_on(fg_front *f, const fg_symbol *bands)
{
    if (!fg_parse_at_word(f, "or")) return false;
    fg_token next = fg_parse_peek(f);
    fg_text word = {f->lexer.text.at + next.at, next.end - next.at};
    return next.kind == TOK_NAME && (label_of(bands, word) >= 0 || fg_text_is(word, "none"));
}

static void check_list_word(fg_front *f, const fg_node *is, const fg_symbol *bands)
{
    fg_text word = fg_lex_text(f);
    fg_span span = fg_lex_span(f);
    if (fg_text_is(word, "none") || fg_text_is(is->first->word, "none")) {
        fg_say(f, FG_FIND_SYNTAX, span, "'none' cannot stand in a list of labels", "write ({} is none) or {} is LABEL",
               bands->name, bands->name);
        return;
    }
    const fg_symbol *other = fg_name_find(f, word);
    if (other)
        fg_say(f, FG_FIND_BRACKETS, span, "'{}' is a label of {} and also declared as {}",
               "write ({} is ... or {}) for the label, or ({} is ...) or {} for the {}", word, bands->name,
               fg_text_c(fg_kind_word(other->kind)), bands->name, word, bands->name, word,
               fg_text_c(fg_kind_word(other->kind)));
}

static fg_node *parse_labels(fg_front *f, fg_symbol *bands, fg_span from, bool negated)
{
    fg_node *is = fg_node_new(f, NODE_IS, from);
    is->symbol = bands;
    is->negated = negated;
    if (!fg_parse_at(f, TOK_NAME)) {
        fg_parse_wrong(f, "a label", "write NAME is LABEL");
        is->kind = NODE_BROKEN;
        return is;
    }
    add_label(f, is, bands);
    while (list_goes_on(f, bands)) {
        fg_lex_next(f);
        check_list_word(f, is, bands);
        add_label(f, is, bands);
    }
    is->span = fg_span_to_here(f, from);
    return is;
}

/* COUNT is N: the same as within N..N. */
static fg_node *parse_count_is(fg_front *f, fg_symbol *count, fg_span from, bool negated)
{
    fg_node *number = fg_parse_number(f);
    if (number->kind == NODE_BROKEN) return number;
    fg_node *within = fg_node_new(f, NODE_WITHIN, number->span);
    fg_node *again = fg_node_new(f, NODE_BROKEN, number->span);
    if (again != number) *again = *number;
    fg_node_add(within, number);
    fg_node_add(within, again);
    fg_node *node = fg_node_new(f, NODE_COMPARE_COUNT, fg_span_to_here(f, from));
    node->symbol = count;
    node->negated = negated;
    fg_node_add(node, within);
    return node;
}

static fg_node *parse_is(fg_front *f, fg_symbol *symbol, fg_span from)
{
    fg_lex_next(f);
    bool negated = fg_parse_accept_word(f, "not");
    if (symbol->kind == FG_KIND_COUNT) return parse_count_is(f, symbol, from, negated);
    if (symbol->kind == FG_KIND_BANDS) return parse_labels(f, symbol, from, negated);
    if (f->in_trial && fg_kind_is_output(symbol->kind)) {
        fg_node *is = fg_node_new(f, NODE_OUTPUT_IS, from);
        is->symbol = symbol;
        is->negated = negated;
        fg_node *level = fg_parse_level(f, symbol);
        if (level->kind == NODE_BROKEN) return level;
        fg_node_add(is, level);
        is->span = fg_span_to_here(f, from);
        return is;
    }
    if (symbol->kind == FG_KIND_SENSOR)
        fg_say(f, FG_FIND_KIND, from, "a reading is never exactly a number, so '{} is' cannot be asked",
               "write {} near N by T, or within A..B", symbol->name, symbol->name);
    else if (fg_kind_is_output(symbol->kind))
        fg_say(f, FG_FIND_KIND, from, "what an output does can only be asked in a trial",
               "ask the condition that switches {}", symbol->name);
    else
        fg_say(f, FG_FIND_KIND, from, "only bands have labels; {} is declared as {}", "write {} or not {}",
               symbol->name, fg_text_c(fg_kind_word(symbol->kind)), symbol->name, symbol->name);
    f->lost = true;
    return broken(f, from);
}

/* ---- atoms ---- */

static fg_node *parse_compare(fg_front *f, fg_symbol *symbol, fg_span from)
{
    fg_parse_own_unit(f, symbol);
    fg_node *comparison = fg_parse_comparison(f);
    fg_parse_own_unit_end(f);
    if (comparison->kind == NODE_BROKEN) return comparison;
    if (!(KIND(symbol->kind) & MEASURED)) {
        fg_say(f, FG_FIND_KIND, from, "only a sensor or a count can be compared with a number; {} is declared as {}",
               "", symbol->name, fg_text_c(fg_kind_word(symbol->kind)));
        return broken(f, from);
    }
    const bool counts = symbol->kind == FG_KIND_COUNT;
    fg_node *node = fg_node_new(f, counts ? NODE_COMPARE_COUNT : NODE_COMPARE, fg_span_to_here(f, from));
    node->symbol = symbol;
    fg_node_add(node, comparison);
    return node;
}

static fg_node *parse_state_word(fg_front *f, fg_symbol *symbol, fg_span from, fg_node_kind kind)
{
    fg_lex_next(f);
    fg_node *node = fg_node_new(f, kind, fg_span_to_here(f, from));
    node->symbol = symbol;
    if (KIND(symbol->kind) & (kind == NODE_FAULTY ? (uint32_t)INPUTS : (uint32_t)ANSWERS)) return node;
    if (kind == NODE_FAULTY)
        fg_say(f, FG_FIND_KIND, from, "only sensors and flags are faulty; {} is declared as {}", "write {} unsure",
               symbol->name, fg_text_c(fg_kind_word(symbol->kind)), symbol->name);
    else
        fg_say(f, FG_FIND_KIND, from, "a {} has no answer that could be unsure", "write {} faulty",
               fg_text_c(fg_kind_word(symbol->kind)), symbol->name);
    node->kind = NODE_BROKEN;
    return node;
}

static fg_node *parse_bare(fg_front *f, fg_symbol *symbol, fg_span from)
{
    fg_node *node = fg_node_new(f, NODE_ANSWER, from);
    node->symbol = symbol;
    if (KIND(symbol->kind) & YES_NO) return node;
    node->kind = NODE_BROKEN;
    if (symbol->kind == FG_KIND_COUNT)
        fg_say(f, FG_FIND_KIND, from, "the count '{}' needs a comparison here", "write {} over 5, or {} is 3",
               symbol->name, symbol->name, symbol->name);
    else if (symbol->kind == FG_KIND_SENSOR)
        fg_say(f, FG_FIND_KIND, from, "the sensor '{}' needs a comparison here",
               "write {} over 5, {} within 2..5 or {} faulty", symbol->name, symbol->name, symbol->name, symbol->name);
    else if (symbol->kind == FG_KIND_BANDS)
        fg_say(f, FG_FIND_KIND, from, "the bands '{}' need a label here", "write {} is {}", symbol->name, symbol->name,
               symbol->label_count ? symbol->labels[0] : T("LABEL"));
    else
        fg_say(f, FG_FIND_KIND, from, "'{}' is declared as {} and has no yes or no", "", symbol->name,
               fg_text_c(fg_kind_word(symbol->kind)));
    return node;
}

/* Behind a name that nobody knows: whatever would belong to it. */
static void skip_rest_of_atom(fg_front *f)
{
    if (fg_parse_accept_word(f, "faulty") || fg_parse_accept_word(f, "unsure")) return;
    if (fg_parse_at_comparison(f)) {
        (void)fg_parse_comparison(f);
        return;
    }
    if (!fg_parse_accept_word(f, "is")) return;
    (void)fg_parse_accept_word(f, "not");
    for (;;) {
        if (fg_parse_at(f, TOK_NAME)) fg_lex_next(f);
        fg_token next = fg_parse_peek(f);
        fg_text word = {f->lexer.text.at + next.at, next.end - next.at};
        if (!fg_parse_at_word(f, "or") || next.kind != TOK_NAME || fg_name_find(f, word)) return;
        fg_lex_next(f);
    }
}

/* OUTPUT plays SEQUENCE, in a trial. */
static fg_node *parse_plays(fg_front *f, fg_symbol *output, fg_span from)
{
    fg_span span;
    fg_lex_next(f);
    fg_text name = fg_parse_name(f, &span, "the name of a sequence");
    fg_symbol *sequence = name.size ? fg_name_use(f, name, span, KIND(FG_KIND_SEQUENCE)) : NULL;
    fg_node *node = fg_node_new(f, sequence ? NODE_OUTPUT_PLAYS : NODE_BROKEN, fg_span_to_here(f, from));
    fg_node *word = fg_node_new(f, NODE_WORD, span);
    if (!fg_kind_is_output(output->kind)) {
        fg_say(f, FG_FIND_KIND, from, "only an output plays something; {} is declared as {}", "", output->name,
               fg_text_c(fg_kind_word(output->kind)));
        node->kind = NODE_BROKEN;
    }
    node->symbol = output;
    word->symbol = sequence;
    fg_node_add(node, word);
    return node;
}

static fg_node *parse_atom(fg_front *f)
{
    fg_span span = fg_lex_span(f);
    fg_text name = fg_lex_text(f);
    if (!fg_parse_at(f, TOK_NAME) || fg_word_reserved(name)) {
        fg_parse_wrong(f, "a condition", "write a name, SENSOR over 5, BANDS is LABEL, or a bracket");
        return broken(f, span);
    }
    fg_lex_next(f);
    fg_symbol *symbol = fg_name_find(f, name);
    if (!symbol || symbol->kind == FG_KIND_NUMBER) {
        (void)fg_name_use(f, name, span, ANYTHING);
        skip_rest_of_atom(f);
        return broken(f, span);
    }
    fg_parse_depend(f, symbol, span);
    if (fg_parse_at_word(f, "is")) return parse_is(f, symbol, span);
    if (fg_parse_at_word(f, "faulty")) return parse_state_word(f, symbol, span, NODE_FAULTY);
    if (fg_parse_at_word(f, "unsure")) return parse_state_word(f, symbol, span, NODE_UNSURE);
    if (f->in_trial && fg_parse_at_word(f, "plays")) return parse_plays(f, symbol, span);
    if (KIND(symbol->kind) & MEASURED && fg_parse_at_comparison(f)) return parse_compare(f, symbol, span);
    return parse_bare(f, symbol, span);
}

/* What stands in brackets is whole: words behind inside of it are nobody else's. */
static fg_node *parse_bracket(fg_front *f)
{
    const uint32_t fors = f->fors, behinds = f->behinds;
    fg_span open = fg_lex_span(f);
    fg_lex_next(f);
    fg_node *inside = parse_or(f);
    f->fors = fors;
    f->behinds = behinds;
    if (f->lost) return inside;
    if (!fg_parse_accept(f, TOK_CLOSE)) {
        fg_parse_not_closed(f, open);
        return broken(f, open);
    }
    if (inside->kind != NODE_BROKEN) inside->span = fg_span_to_here(f, open);
    return inside;
}

/* at least N yes in (a, b, c) */
static fg_node *parse_yes_in(fg_front *f)
{
    fg_node *node = fg_node_new(f, NODE_YES_IN, fg_lex_span(f));
    fg_lex_next(f);
    fg_lex_next(f);
    fg_node *number = fg_parse_number(f);
    fg_span open;
    if (number->kind == NODE_BROKEN || !fg_parse_expect_word(f, "yes", "write at least N yes in (a, b, c)") ||
        !fg_parse_expect_word(f, "in", "write at least N yes in (a, b, c)"))
        return broken(f, node->span);
    fg_node_add(node, number);
    open = fg_lex_span(f);
    if (!fg_parse_accept(f, TOK_OPEN)) {
        fg_parse_wrong(f, "'('", "write at least N yes in (a, b, c)");
        return broken(f, node->span);
    }
    bool good = true;
    const uint32_t fors = f->fors, behinds = f->behinds;
    do {
        fg_node *part = parse_or(f);
        good = good && part->kind != NODE_BROKEN;
        fg_node_add(node, part);
        f->node_counts[NODE_YES_IN]++;
    } while (!f->lost && fg_parse_accept(f, TOK_COMMA));
    f->fors = fors;
    f->behinds = behinds;
    if (!f->lost && !fg_parse_accept(f, TOK_CLOSE)) fg_parse_not_closed(f, open);
    node->span = fg_span_to_here(f, node->span);
    if (!good || f->lost) node->kind = NODE_BROKEN;
    return node;
}

/* previously ATOM: looks one step back, so it is no dependence. */
static fg_node *parse_previously(fg_front *f)
{
    fg_node *node = fg_node_new(f, NODE_PREVIOUSLY, fg_lex_span(f));
    const bool before = f->looking_back;
    fg_lex_next(f);
    f->looking_back = true;
    fg_node *atom = fg_parse_at(f, TOK_OPEN) ? parse_bracket(f) : parse_atom(f);
    f->looking_back = before;
    if (atom->kind == NODE_BROKEN) return atom;
    fg_node_add(node, atom);
    node->span = fg_span_to_here(f, node->span);
    return node;
}

static fg_node *parse_primary(fg_front *f)
{
    if (fg_parse_at(f, TOK_OPEN)) return parse_bracket(f);
    if (fg_parse_at_word(f, "previously")) return parse_previously(f);
    if (fg_parse_at_word(f, "at") && fg_parse_peek_word(f, "least")) return parse_yes_in(f);
    return parse_atom(f);
}

/* X for T, X starts, X ends: may be chained. */
static fg_node *parse_behind(fg_front *f)
{
    fg_node *node = parse_primary(f);
    for (uint32_t count = 1; !f->lost; count++) {
        const bool lasts = fg_parse_at_word(f, "for");
        if (!lasts && !fg_parse_at_word(f, "starts") && !fg_parse_at_word(f, "ends")) return node;
        const fg_node_kind kind = lasts ? NODE_FOR : fg_parse_at_word(f, "starts") ? NODE_STARTS : NODE_ENDS;
        fg_node *behind = fg_node_new(f, kind, node->span);
        if (count > FG_DEPTH_MOST) {
            fg_say(f, FG_FIND_TOO_MANY, fg_lex_span(f), "more than 100 of 'for', 'starts' and 'ends' stand in a row",
                   "give a part of it a name of its own");
            f->lost = true;
            return broken(f, node->span);
        }
        fg_lex_next(f);
        f->behinds++;
        f->fors += lasts;
        fg_node *time = lasts ? fg_parse_number(f) : NULL;
        const bool good = node->kind != NODE_BROKEN && !(time && time->kind == NODE_BROKEN);
        fg_node_add(behind, node);
        if (time) fg_node_add(behind, time);
        behind->span = fg_span_to_here(f, node->span);
        if (!good) behind->kind = NODE_BROKEN;
        node = behind;
    }
    return node;
}

/* The words behind a condition, without the blanks before them. */
static fg_text words_of(const fg_front *f, fg_span behind)
{
    fg_text text = fg_span_text(f, behind);
    while (text.size && (text.at[0] == ' ' || text.at[0] == '\t' || text.at[0] == '\n'))
        text = (fg_text){text.at + 1, text.size - 1};
    return text;
}

static void wants_brackets(fg_front *f, const fg_node *inside, fg_span from)
{
    const fg_node *bare = inside;
    while (bare->kind == NODE_FOR || bare->kind == NODE_STARTS || bare->kind == NODE_ENDS) bare = bare->first;
    fg_span behind = inside->span;
    behind.at = bare->span.at + bare->span.size;
    behind.size = inside->span.at + inside->span.size - behind.at;
    fg_say(f, FG_FIND_BRACKETS, fg_span_to_here(f, from), "is this 'not' asked before or after '{}'?",
           "write (not {}) {}, or not ({} {})", words_of(f, behind), fg_span_text(f, bare->span), words_of(f, behind),
           fg_span_text(f, bare->span), words_of(f, behind));
}

static fg_node *parse_negation(fg_front *f, fg_span from)
{
    const uint32_t behinds = f->behinds, fors = f->fors;
    fg_node *inside = parse_not(f);
    fg_node *node = fg_node_new(f, inside->kind == NODE_BROKEN ? NODE_BROKEN : NODE_NOT, fg_span_to_here(f, from));
    if (node->kind == NODE_NOT) fg_node_add(node, inside);
    if (f->behinds == behinds || f->lost) return node;
    if (node->kind == NODE_NOT) wants_brackets(f, inside, from);
    f->behinds = behinds; /* said once */
    f->fors = fors;
    node->kind = NODE_BROKEN;
    return node;
}

static fg_node *parse_not(fg_front *f)
{
    fg_span from = fg_lex_span(f);
    if (++f->brackets > FG_DEPTH_MOST) {
        if (!f->lost)
            fg_say(f, FG_FIND_TOO_MANY, from, "brackets and 'not' stand more than 100 deep",
                   "give a part of it a name of its own");
        f->lost = true;
        f->brackets--;
        return broken(f, from);
    }
    fg_node *node = fg_parse_accept_word(f, "not") ? parse_negation(f, from) : parse_behind(f);
    f->brackets--;
    return node;
}

/* `A and B for T` could mean two things. */
static void check_fors(fg_front *f, uint32_t before, const fg_node *chain, const fg_node *part)
{
    if (f->fors == before || f->lost || part->kind == NODE_BROKEN) return;
    const fg_node *last = part;
    while (last->kind == NODE_AND || last->kind == NODE_NOT) last = last->last;
    if (last->kind != NODE_FOR) last = part;
    fg_span front = chain->span, behind = last->span;
    const fg_node *bare = last->kind == NODE_FOR ? last->first : last;
    front.size = bare->span.at + bare->span.size - front.at;
    behind.at = bare->span.at + bare->span.size;
    behind.size = last->span.at + last->span.size - behind.at;
    fg_say(f, FG_FIND_BRACKETS, fg_span_to_here(f, chain->span),
           "does '{}' belong to all of this, or to the last part?", "write ({}) {}, or put brackets round ({})",
           words_of(f, behind), fg_span_text(f, front), words_of(f, behind), fg_span_text(f, last->span));
    f->fors = before;
}

/* a and b and c, as one node with all parts as children. */
static fg_node *parse_chain(fg_front *f, const char *word, fg_node_kind kind, fg_node *(*part)(fg_front *))
{
    fg_span from = fg_lex_span(f);
    fg_node *first = part(f);
    if (f->lost || !fg_parse_at_word(f, word)) return first;
    fg_node *chain = fg_node_new(f, kind, from);
    bool good = first->kind != NODE_BROKEN;
    fg_node_add(chain, first);
    while (!f->lost && fg_parse_accept_word(f, word)) {
        const uint32_t fors = f->fors;
        fg_node *next = part(f);
        check_fors(f, fors, chain, next);
        good = good && next->kind != NODE_BROKEN;
        fg_node_add(chain, next);
        f->node_counts[kind]++; /* one line of the program for each joint */
    }
    chain->span = fg_span_to_here(f, from);
    if (!good) chain->kind = NODE_BROKEN;
    return chain;
}

static fg_node *parse_and(fg_front *f) { return parse_chain(f, "and", NODE_AND, parse_not); }

static fg_node *parse_or(fg_front *f) { return parse_chain(f, "or", NODE_OR, parse_and); }

fg_node *fg_parse_condition(fg_front *f)
{
    f->fors = f->behinds = 0;
    fg_node *condition = parse_or(f);
    if (f->lost) condition = broken(f, condition->span);
    return condition;
}

void fg_parse_condition_statement(fg_front *f, fg_symbol *symbol)
{
    if (!fg_parse_accept(f, TOK_EQUALS))
        fg_parse_wrong(f, "'='", "write condition NAME = CONDITION");
    else
        fg_symbol_add(symbol, fg_parse_condition(f));
    fg_parse_row_end(f);
}
