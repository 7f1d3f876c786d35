/* Recursive descent over statements, rows and numbers. A mistake is reported once and its row skipped, so that one run
 * shows every mistake. */
#include "front.h"

#include "core/mem.h"

/* ---- nodes ---- */

fg_node *fg_node_new(fg_front *f, fg_node_kind kind, fg_span span)
{
    fg_node *node = FG_TAKE(fg_node, &f->arena, 1);
    if (!node) node = &f->spare;
    *node = (fg_node){.kind = (uint8_t)kind, .span = span};
    f->node_counts[kind]++;
    f->nodes++;
    return node;
}

void fg_node_add(fg_node *parent, fg_node *child)
{
    if (parent == child) return; /* both the spare one */
    if (parent->last)
        parent->last->next = child;
    else
        parent->first = child;
    parent->last = child;
}

void fg_symbol_add(fg_symbol *symbol, fg_node *node)
{
    if (symbol->body_last == node) return;
    if (symbol->body_last)
        symbol->body_last->next = node;
    else
        symbol->body = node;
    symbol->body_last = node;
}

/* ---- tokens ---- */

fg_span fg_span_to_here(const fg_front *f, fg_span from)
{
    uint32_t end = f->lexer.before_end;
    if (end > from.at) from.size = end - from.at;
    return from;
}

bool fg_parse_at(const fg_front *f, fg_token_kind kind) { return f->lexer.token.kind == kind; }

bool fg_parse_at_word(const fg_front *f, const char *word)
{
    return fg_parse_at(f, TOK_NAME) && fg_text_is(fg_lex_text(f), word);
}

bool fg_parse_accept(fg_front *f, fg_token_kind kind)
{
    if (!fg_parse_at(f, kind)) return false;
    fg_lex_next(f);
    return true;
}

bool fg_parse_accept_word(fg_front *f, const char *word)
{
    if (!fg_parse_at_word(f, word)) return false;
    fg_lex_next(f);
    return true;
}

fg_token fg_parse_peek(fg_front *f)
{
    const fg_lexer here = f->lexer;
    const bool quiet = f->quiet;
    f->quiet = true;
    fg_lex_next(f);
    fg_token next = f->lexer.token;
    f->quiet = quiet;
    f->lexer = here;
    return next;
}

bool fg_parse_peek_word(fg_front *f, const char *word)
{
    fg_token next = fg_parse_peek(f);
    return next.kind == TOK_NAME && fg_text_is((fg_text){f->lexer.text.at + next.at, next.end - next.at}, word);
}

/* What stands here, for a message. */
static fg_text here_text(fg_front *f)
{
    switch (f->lexer.token.kind) {
    case TOK_END: return T("the end of the file");
    case TOK_NEWLINE: return T("the end of the line");
    case TOK_STRING: return fg_span_text(f, fg_lex_span(f));
    default: return fg_text_join(f, fg_text_join(f, T("'"), "", fg_span_text(f, fg_lex_span(f))), "", T("'"));
    }
}

void fg_parse_wrong(fg_front *f, const char *wanted, const char *instead)
{
    fg_span span = fg_lex_span(f);
    if (f->lost) return;
    f->lost = true;
    if (!span.size && span.at) { /* the end of the file: mark what stands last */
        span.at = f->lexer.before_end ? f->lexer.before_end - 1 : 0;
        span.size = 1;
    }
    fg_say(f, FG_FIND_SYNTAX, span, "expected {}, not {}", instead, fg_text_c(wanted), here_text(f));
}

bool fg_parse_expect_word(fg_front *f, const char *word, const char *instead)
{
    if (fg_parse_accept_word(f, word)) return true;
    char wanted[32] = "'";
    size_t size = fg_length(word);
    memcpy(wanted + 1, word, size);
    memcpy(wanted + 1 + size, "'", 2);
    fg_parse_wrong(f, wanted, instead);
    return false;
}

static bool expect(fg_front *f, fg_token_kind kind, const char *wanted, const char *instead)
{
    if (fg_parse_accept(f, kind)) return true;
    fg_parse_wrong(f, wanted, instead);
    return false;
}

/* ---- rows and blocks ---- */

bool fg_parse_at_row_end(const fg_front *f)
{
    switch (f->lexer.token.kind) {
    case TOK_NEWLINE:
    case TOK_SEMICOLON:
    case TOK_CLOSE_BRACE:
    case TOK_END: return true;
    default: return false;
    }
}

static bool is_kind_word(fg_text word, fg_kind *kind)
{
    for (int k = 0; k < FG_KINDS_IN_ALL; k++) {
        *kind = (fg_kind)k;
        if (fg_text_is(word, fg_kind_word(*kind))) return true;
    }
    return false;
}

/* Does a declaration begin here (`lamp green {`)? Then an open brace before it was forgotten. */
static bool at_declaration(fg_front *f)
{
    fg_kind kind;
    if (!fg_parse_at(f, TOK_NAME) || !is_kind_word(fg_lex_text(f), &kind)) return false;
    if (fg_parse_peek(f).kind != TOK_NAME) return false;
    const fg_lexer here = f->lexer;
    const bool quiet = f->quiet;
    f->quiet = true;
    fg_lex_next(f);
    fg_lex_next(f);
    bool is = fg_parse_at(f, TOK_OPEN_BRACE) || fg_parse_at(f, TOK_EQUALS) || fg_parse_at_word(f, "from");
    f->quiet = quiet;
    f->lexer = here;
    return is;
}

static void skip(fg_front *f)
{
    uint32_t braces = 0;
    for (; !fg_parse_at(f, TOK_END); fg_lex_next(f)) {
        if (!braces && fg_parse_at_row_end(f)) return;
        if (fg_parse_at(f, TOK_OPEN_BRACE)) braces++;
        if (fg_parse_at(f, TOK_CLOSE_BRACE) && !--braces) {
            fg_lex_next(f);
            return;
        }
        if (braces && fg_parse_at(f, TOK_NEWLINE)) {
            fg_lex_next(f);
            if (at_declaration(f)) return;
            if (fg_parse_at(f, TOK_CLOSE_BRACE) && !--braces) {
                fg_lex_next(f);
                return;
            }
            if (fg_parse_at(f, TOK_OPEN_BRACE)) braces++;
            if (fg_parse_at(f, TOK_END)) return;
        }
    }
}

void fg_parse_skip_row(fg_front *f)
{
    const bool quiet = f->quiet;
    f->lexer.depth = 0;
    f->lost = false;
    f->quiet = true; /* what stands here means nothing any more */
    skip(f);
    f->quiet = quiet;
}

void fg_parse_row_end(fg_front *f)
{
    if (!f->lost && fg_parse_at_row_end(f)) return;
    fg_parse_wrong(f, "the end of the row", "put a ; or a new line between two rows");
    fg_parse_skip_row(f);
}

bool fg_parse_block_open(fg_front *f, fg_block *block)
{
    block->open = fg_lex_span(f);
    if (fg_parse_accept(f, TOK_OPEN_BRACE)) return true;
    fg_parse_wrong(f, "'{'", "its rows stand in { }");
    fg_parse_skip_row(f);
    return false;
}

void fg_parse_not_closed(fg_front *f, fg_span open)
{
    if (f->lost) return;
    f->lost = true;
    fg_place end = fg_text_place(f->lexer.text, fg_lex_span(f).at);
    fg_say(f, FG_FIND_NOT_CLOSED, open, "this {} is not closed before line {}", "add the closing one where it ends",
           fg_span_text(f, open), fg_text_of_value(f, end.line, 0));
}

bool fg_parse_block_row(fg_front *f, const fg_block *block)
{
    bool line_began = false;
    while (fg_parse_at(f, TOK_NEWLINE) || fg_parse_at(f, TOK_SEMICOLON)) {
        line_began = fg_parse_at(f, TOK_NEWLINE);
        fg_lex_next(f);
    }
    if (fg_parse_accept(f, TOK_CLOSE_BRACE)) return false;
    if (fg_parse_at(f, TOK_END) || (line_began && at_declaration(f))) {
        fg_parse_not_closed(f, block->open);
        f->lost = false;
        return false;
    }
    return true;
}

/* A row that this declaration cannot have; `words` are those that begin one, ended by NULL. */
void fg_parse_unknown_row(fg_front *f, const fg_symbol *symbol, const char *const *words)
{
    const fg_text kind = fg_text_c(fg_kind_word(symbol->kind)), here = fg_span_text(f, fg_lex_span(f));
    const fg_text best = fg_parse_at(f, TOK_NAME) ? fg_name_nearest_word(fg_lex_text(f), words) : (fg_text){0};
    fg_text all = {0};
    for (; *words; words++) all = all.size ? fg_text_join(f, all, ", ", fg_text_c(*words)) : fg_text_c(*words);
    if (best.size)
        fg_say(f, FG_FIND_UNKNOWN_WORD, fg_lex_span(f), "a {} has no '{}'", "did you mean '{}'?", kind, here, best);
    else
        fg_say(f, FG_FIND_UNKNOWN_WORD, fg_lex_span(f), "a {} has no '{}'", "it can have: {}", kind, here, all);
    fg_parse_skip_row(f);
}

/* ---- names and texts ---- */

static const char *const reserved[] = {"and",       "or",         "not",    "is",      "in",   "for",   "starts",
                                       "ends",      "previously", "faulty", "unsure",  "over", "under", "at",
                                       "least",     "most",       "within", "outside", "near", "when",  "if",
                                       "otherwise", "none",       "yes",    "no",      NULL};

/* Words that may follow a number one space on and are no units. */
static const char *const followers[] = {"by",      "to",      "reads",   "times",   "time",   "from",   "every",
                                        "always",  "never",   "begins",  "while",   "end",    "goes",   "of",
                                        "changes", "matches", "between", "through", "settle", "margin", "unit",
                                        "step",    "raw",     "trust",   "circle",  "on",     "off",    NULL};

static bool listed(fg_text word, const char *const *words)
{
    for (; *words; words++)
        if (fg_text_is(word, *words)) return true;
    return false;
}

/* Words that may follow a condition and are not reserved. */
static const char *const goers_on[] = {"always", "never",   "begins",  "from",  "goes",
                                       "plays",  "changes", "matches", "while", NULL};

bool fg_word_goes_on(fg_text word) { return listed(word, goers_on); }
bool fg_word_reserved(fg_text word) { return listed(word, reserved); }
bool fg_word_unit_follows_not(fg_text word) { return listed(word, followers); }

/* The text inside the quotes, "" made one. */
static fg_text unquoted(fg_front *f, fg_text quoted)
{
    fg_text inside = {quoted.at + 1, quoted.size - 1};
    if (inside.size && inside.at[inside.size - 1] == '"') inside.size--;
    if (fg_text_byte(inside, 0, '"') == inside.size) return inside;
    char *copy = FG_TAKE(char, &f->arena, inside.size);
    size_t size = 0;
    for (size_t i = 0; copy && i < inside.size; i++) {
        copy[size++] = inside.at[i];
        if (inside.at[i] == '"') i++;
    }
    return (fg_text){copy, size};
}

bool fg_parse_string(fg_front *f, fg_text *text, const char *instead)
{
    if (!fg_parse_at(f, TOK_STRING)) {
        fg_parse_wrong(f, "a text in \"quotes\"", instead);
        return false;
    }
    *text = unquoted(f, fg_lex_text(f));
    fg_lex_next(f);
    return true;
}

fg_text fg_parse_name(fg_front *f, fg_span *span, const char *what)
{
    fg_text name = fg_lex_text(f);
    *span = fg_lex_span(f);
    if (!fg_parse_at(f, TOK_NAME)) {
        fg_parse_wrong(f, what, "a name begins with a letter and goes on with letters, digits and _");
        return (fg_text){0};
    }
    fg_lex_next(f);
    if (!fg_word_reserved(name)) return name;
    fg_say(f, FG_FIND_RESERVED, *span, "'{}' is a word of conditions and cannot be a name", "choose another name",
           name);
    return (fg_text){0};
}

/* ---- numbers ---- */

static fg_text unit_in(const fg_front *f, const fg_node *sum, uint32_t deep);

/* The unit a sensor was given, or that of the first sensor in its sum which has one. */
static fg_text unit_of(const fg_front *f, const fg_symbol *sensor, uint32_t deep)
{
    const fg_node *unit = fg_check_attribute(sensor, ATTR_UNIT);
    if (unit || !sensor->sum || !deep) return unit ? unit->word : (fg_text){0};
    return unit_in(f, sensor->sum, deep - 1);
}

static fg_text unit_in(const fg_front *f, const fg_node *sum, uint32_t deep)
{
    const fg_symbol *named = sum->kind == NODE_NUMBER_NAME ? fg_name_find(f, sum->word) : NULL;
    if (named && named->kind == FG_KIND_SENSOR) return unit_of(f, named, deep);
    for (const fg_node *part = sum->first; part && deep; part = part->next) {
        const fg_text unit = unit_in(f, part, deep - 1);
        if (unit.size) return unit;
    }
    return (fg_text){0};
}

void fg_parse_own_unit(fg_front *f, const fg_symbol *sensor)
{
    enum { DEEP = 12 }; /* looked for in what a person would still read; beyond it is no unit */
    f->own_unit = sensor && sensor->kind == FG_KIND_SENSOR ? unit_of(f, sensor, DEEP) : (fg_text){0};
}

void fg_parse_own_unit_end(fg_front *f) { f->own_unit = (fg_text){0}; }

static fg_node *broken(fg_front *f) { return fg_node_new(f, NODE_BROKEN, fg_lex_span(f)); }

static fg_node *parse_literal(fg_front *f, bool negative, fg_span from)
{
    fg_node *number = fg_node_new(f, NODE_LITERAL, from);
    number->word = fg_lex_text(f);
    number->negated = negative;
    const bool unit = fg_lex_unit(f, &number->unit, &number->unit_span);
    if (unit && f->in_sum) {
        fg_say(f, FG_FIND_UNIT, number->unit_span, "numbers in a sum carry no unit, so '{}' does not belong here",
               "leave it out, or give the number a name: number NAME = {}", number->unit,
               fg_text_join(f, number->word, " ", number->unit));
        number->unit = (fg_text){0};
    }
    fg_lex_next(f);
    number->span = fg_span_to_here(f, from);
    return number;
}

fg_node *fg_parse_number(fg_front *f)
{
    fg_span from = fg_lex_span(f);
    bool negative = fg_parse_accept(f, TOK_MINUS);
    if (fg_parse_at(f, TOK_NUMBER)) return parse_literal(f, negative, from);
    if (!fg_parse_at(f, TOK_NAME) || fg_word_reserved(fg_lex_text(f))) {
        fg_parse_wrong(f, "a number", "write a number, or the name of a declared one");
        return broken(f);
    }
    fg_node *number = fg_node_new(f, NODE_NUMBER_NAME, fg_lex_span(f));
    number->word = fg_lex_text(f);
    fg_lex_next(f);
    if (!negative) return number;
    fg_node *minus = fg_node_new(f, NODE_NEGATIVE, fg_span_to_here(f, from));
    fg_node_add(minus, number);
    return minus;
}

static fg_node *parse_sum(fg_front *f);

/* One bracket deeper, of whatever kind: `(`, a function's, one of `halfway`. False: reported. */
static bool go_deeper(fg_front *f, fg_span open)
{
    if (++f->brackets <= FG_DEPTH_MOST) return true;
    if (!f->lost)
        fg_say(f, FG_FIND_TOO_MANY, open, "brackets stand more than 100 deep", "give a part of it a name of its own");
    f->lost = true;
    f->brackets--;
    return false;
}

static fg_node *parse_bracket(fg_front *f, fg_span open)
{
    if (!go_deeper(f, open)) return broken(f);
    fg_node *inside = parse_sum(f);
    f->brackets--;
    if (inside->kind != NODE_BROKEN && !fg_parse_accept(f, TOK_CLOSE)) {
        fg_parse_not_closed(f, open);
        return broken(f);
    }
    return inside;
}

static fg_node *two_of(fg_front *f, fg_node_kind kind, fg_node *a, fg_node *b)
{
    fg_node *node = fg_node_new(f, kind, a->span);
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
static fg_node *parse_two(fg_front *f, fg_span open)
{
    fg_node *a = parse_sum(f);
    if (a->kind == NODE_BROKEN || !expect(f, TOK_COMMA, "','", "halfway takes two numbers: halfway(a, b)"))
        return broken(f);
    fg_node *b = parse_sum(f);
    if (b->kind == NODE_BROKEN) return b;
    if (!fg_parse_accept(f, TOK_CLOSE)) {
        fg_parse_not_closed(f, open);
        return broken(f);
    }
    return two_of(f, NODE_HALFWAY, a, b);
}

static fg_node *parse_halfway(fg_front *f)
{
    fg_span from = fg_lex_span(f);
    fg_lex_next(f);
    fg_span open = fg_lex_span(f);
    if (!go_deeper(f, open)) return broken(f);
    fg_lex_next(f);
    fg_node *node = parse_two(f, open);
    f->brackets--;
    if (node->kind != NODE_BROKEN) node->span = fg_span_to_here(f, from);
    return node;
}

/* abs(a), length(a, b, c), rate(a, 5), ... */
static fg_node *parse_call(fg_front *f)
{
    static const char *const functions[] = {"abs", "length", "lowest", "highest", "angle", "rate", "dip", "peak", NULL};
    fg_node *call = fg_node_new(f, NODE_CALL, fg_lex_span(f));
    call->word = fg_lex_text(f);
    if (!listed(call->word, functions)) {
        const fg_text guess = fg_name_nearest_word(call->word, functions);
        fg_say(f, FG_FIND_UNKNOWN_WORD, call->span, "there is no function '{}'",
               guess.size ? "did you mean '{}'?" : "{}", call->word,
               guess.size ? guess : T("there are abs, length, lowest, highest, angle, rate, dip, peak"));
        f->lost = true;
        return broken(f);
    }
    fg_lex_next(f);
    const fg_span open = fg_lex_span(f);
    if (!go_deeper(f, open)) return broken(f);
    fg_lex_next(f);
    fg_node *operand;
    do {
        operand = parse_sum(f);
        if (operand->kind != NODE_BROKEN) fg_node_add(call, operand);
    } while (operand->kind != NODE_BROKEN && fg_parse_accept(f, TOK_COMMA));
    f->brackets--;
    if (operand->kind == NODE_BROKEN) return operand;
    if (!fg_parse_accept(f, TOK_CLOSE)) {
        fg_parse_not_closed(f, open);
        return broken(f);
    }
    call->span = fg_span_to_here(f, call->span);
    return call;
}

static fg_node *parse_factor(fg_front *f)
{
    fg_span from = fg_lex_span(f);
    if (f->in_sum && fg_parse_at(f, TOK_NAME) && fg_parse_peek(f).kind == TOK_OPEN) return parse_call(f);
    if (fg_parse_at_word(f, "halfway") && fg_parse_peek(f).kind == TOK_OPEN) return parse_halfway(f);
    if (fg_parse_accept(f, TOK_OPEN)) return parse_bracket(f, from);
    if (!fg_parse_at(f, TOK_MINUS) || fg_parse_peek(f).kind != TOK_OPEN) return fg_parse_number(f);
    fg_lex_next(f);
    fg_span open = fg_lex_span(f);
    fg_lex_next(f);
    fg_node *minus = fg_node_new(f, NODE_NEGATIVE, from);
    fg_node *inside = parse_bracket(f, open);
    if (inside->kind == NODE_BROKEN) return inside;
    fg_node_add(minus, inside);
    minus->span = fg_span_to_here(f, from);
    return minus;
}

static fg_node *parse_product(fg_front *f)
{
    fg_node *left = parse_factor(f);
    while (left->kind != NODE_BROKEN && (fg_parse_at(f, TOK_TIMES) || fg_parse_at(f, TOK_SLASH))) {
        fg_node_kind kind = fg_parse_at(f, TOK_TIMES) ? NODE_PRODUCT : NODE_QUOTIENT;
        fg_lex_next(f);
        left = two_of(f, kind, left, parse_factor(f));
    }
    return left;
}

static fg_node *parse_sum(fg_front *f)
{
    fg_node *left = parse_product(f);
    while (left->kind != NODE_BROKEN && (fg_parse_at(f, TOK_PLUS) || fg_parse_at(f, TOK_MINUS))) {
        fg_node_kind kind = fg_parse_at(f, TOK_PLUS) ? NODE_SUM : NODE_DIFFERENCE;
        fg_lex_next(f);
        left = two_of(f, kind, left, parse_product(f));
    }
    return left;
}

fg_node *fg_parse_number_expression(fg_front *f) { return parse_sum(f); }

/* The unit behind a range holds for both ends, so give each the other's. */
static void share_unit(fg_node *a, fg_node *b)
{
    if (a->kind != NODE_LITERAL || a->unit.size || b->kind != NODE_LITERAL) return;
    a->unit = b->unit;
    a->unit_span = b->unit_span;
}

fg_node *fg_parse_range(fg_front *f)
{
    fg_node *a = fg_parse_number(f);
    if (a->kind == NODE_BROKEN) return a;
    if (!expect(f, TOK_DOTS, "'..'", "a range is written A..B")) return broken(f);
    fg_node *b = fg_parse_number(f);
    share_unit(a, b);
    return two_of(f, NODE_WITHIN, a, b);
}

/* ---- comparisons ---- */

static const struct {
    const char *word, *second;
    fg_node_kind kind;
} comparisons[] = {
    {"over", NULL, NODE_OVER},    {"under", NULL, NODE_UNDER},   {"at", "least", NODE_AT_LEAST},
    {"at", "most", NODE_AT_MOST}, {"within", NULL, NODE_WITHIN}, {"outside", NULL, NODE_OUTSIDE},
    {"near", NULL, NODE_NEAR},
};

enum { COMPARISONS = sizeof comparisons / sizeof *comparisons };

bool fg_parse_at_comparison(fg_front *f)
{
    for (int i = 0; i < COMPARISONS; i++)
        if (fg_parse_at_word(f, comparisons[i].word) &&
            (!comparisons[i].second || fg_parse_peek_word(f, comparisons[i].second)))
            return true;
    return false;
}

static fg_node *parse_near(fg_front *f, fg_span from)
{
    fg_node *middle = fg_parse_number(f);
    if (middle->kind == NODE_BROKEN || !fg_parse_expect_word(f, "by", "write near N by T: at most T away from N"))
        return broken(f);
    fg_node *by = fg_parse_number(f);
    fg_node *node = two_of(f, NODE_NEAR, middle, by);
    node->span = fg_span_to_here(f, from);
    return node;
}

fg_node *fg_parse_comparison(fg_front *f)
{
    fg_span from = fg_lex_span(f);
    if (!fg_parse_at_comparison(f)) {
        fg_parse_wrong(f, "a comparison",
                       "write over N, under N, at least N, at most N, within A..B, outside A..B or near N by T");
        return broken(f);
    }
    int i = 0;
    while (!fg_parse_at_word(f, comparisons[i].word) ||
           (comparisons[i].second && !fg_parse_peek_word(f, comparisons[i].second)))
        i++;
    fg_lex_next(f);
    if (comparisons[i].second) fg_lex_next(f);
    const fg_node_kind kind = comparisons[i].kind;
    if (kind == NODE_NEAR) return parse_near(f, from);
    if (kind == NODE_WITHIN || kind == NODE_OUTSIDE) {
        fg_node *range = fg_parse_range(f);
        if (range->kind != NODE_BROKEN) range->kind = (uint8_t)kind;
        return range;
    }
    fg_node *limit = fg_parse_number(f);
    if (limit->kind == NODE_BROKEN) return limit;
    fg_node *node = fg_node_new(f, kind, fg_span_to_here(f, from));
    fg_node_add(node, limit);
    return node;
}
