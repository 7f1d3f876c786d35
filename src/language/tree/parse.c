/* SPDX-License-Identifier: MIT */
/* What every rule of the grammar uses: tokens, rows, blocks, names, texts. The parser is a recursive descent with one
 * token of look-ahead. A mistake is reported once and its row skipped, so that one run shows every mistake. */
#include "language/tree/meant_words.h"
#include "language/tree/parse.h"

#include "core/mem.h"

/* ---- tokens ---- */

/* From the beginning of `from` to the end of the token that was read last. */
fg_span fg_span_to_here(const fg_compiler *c, fg_span from)
{
    uint32_t end = c->lexer.before_end;
    if (end > from.at) from.size = end - from.at;
    return from;
}

bool fg_parse_at(const fg_compiler *c, fg_token_kind kind) { return c->lexer.token.kind == kind; }

/* Words are names to the lexer; the grammar gives them their meaning where they stand. */
bool fg_parse_at_word(const fg_compiler *c, const char *word)
{
    return fg_parse_at(c, TOK_NAME) && fg_text_is(fg_lex_text(c), word);
}

/* Takes the token if it is this one. */
bool fg_parse_accept(fg_compiler *c, fg_token_kind kind)
{
    if (!fg_parse_at(c, kind)) return false;
    fg_lex_next(c);
    return true;
}

/* Takes the word if it is this one. */
bool fg_parse_accept_word(fg_compiler *c, const char *word)
{
    if (!fg_parse_at_word(c, word)) return false;
    fg_lex_next(c);
    return true;
}

/* The token behind the present one. The lexer goes one on and is put back, quietly: a mistake there is reported when
 * it is reached. */
fg_token fg_parse_peek(fg_compiler *c)
{
    /* A copy: the lexer has no state outside of this struct. */
    const fg_lexer here = c->lexer;
    const bool quiet = c->quiet;
    c->quiet = true;
    fg_lex_next(c);
    fg_token next = c->lexer.token;
    c->quiet = quiet;
    c->lexer = here;
    return next;
}

/* Is the token behind the present one this word? */
bool fg_parse_peek_word(fg_compiler *c, const char *word)
{
    fg_token next = fg_parse_peek(c);
    return next.kind == TOK_NAME && fg_text_is((fg_text){c->lexer.text.at + next.at, next.end - next.at}, word);
}

/* What stands here, for a message. */
static fg_text here_text(fg_compiler *c)
{
    switch (c->lexer.token.kind) {
    case TOK_END: return T("the end of the file");
    case TOK_NEWLINE: return T("the end of the line");
    case TOK_STRING: return fg_span_text(c, fg_lex_span(c));
    default: return fg_text_join(c, fg_text_join(c, T("'"), "", fg_span_text(c, fg_lex_span(c))), "", T("'"));
    }
}

/* Reports what was expected. `lost` keeps the rest of the row from being reported as well: it is read without its
 * meaning. */
void fg_parse_wrong(fg_compiler *c, const char *wanted, const char *instead)
{
    fg_span span = fg_lex_span(c);
    if (c->lost) return;
    if (fg_parse_at(c, TOK_FOREIGN) && *wanted != '\'') {
        fg_meant_sign(c);
        return;
    }
    c->lost = true;
    if (!span.size && span.at) { /* the end of the file: mark what stands last */
        span.at = c->lexer.before_end ? c->lexer.before_end - 1 : 0;
        span.size = 1;
    }
    fg_report(c, FG_FIND_SYNTAX, span, "expected {}, not {}", instead, fg_text_of(wanted), here_text(c));
}

/* Takes the word, or reports that it is missing. */
bool fg_parse_expect_word(fg_compiler *c, const char *word, const char *instead)
{
    if (fg_parse_accept_word(c, word)) return true;
    /* The longest word of the grammar is shorter. */
    char wanted[32] = "'";
    size_t size = fg_text_of(word).size;
    memcpy(wanted + 1, word, size);
    memcpy(wanted + 1 + size, "'", 2);
    fg_parse_wrong(c, wanted, instead);
    return false;
}

/* Takes the token, or reports that it is missing. */
bool fg_parse_expect(fg_compiler *c, fg_token_kind kind, const char *wanted, const char *instead)
{
    if (fg_parse_accept(c, kind)) return true;
    fg_parse_wrong(c, wanted, instead);
    return false;
}

/* ---- rows and blocks ---- */

/* A row ends at a line end, a `;`, the brace that closes its block, or the end of the file. */
bool fg_parse_at_row_end(const fg_compiler *c)
{
    switch (c->lexer.token.kind) {
    case TOK_NEWLINE:
    case TOK_SEMICOLON:
    case TOK_CLOSE_BRACE:
    case TOK_END: return true;
    default: return false;
    }
}

/* Does this word begin a declaration, and of what kind? */
static bool is_kind_word(fg_text word, fg_kind *kind)
{
    for (int k = 0; k < FG_KINDS_IN_ALL; k++) {
        *kind = (fg_kind)k;
        if (fg_text_is(word, fg_kind_word(*kind))) return true;
    }
    return false;
}

bool fg_parse_at_kind_word(const fg_compiler *c)
{
    fg_kind kind;
    return fg_parse_at(c, TOK_NAME) && is_kind_word(fg_lex_text(c), &kind);
}

/* Does a declaration begin here (`lamp green {`)? Then an open brace before it was forgotten. */
static bool at_declaration(fg_compiler *c)
{
    fg_kind kind;
    if (!fg_parse_at(c, TOK_NAME) || !is_kind_word(fg_lex_text(c), &kind)) return false;
    if (fg_parse_peek(c).kind != TOK_NAME) return false;
    const fg_lexer here = c->lexer;
    const bool quiet = c->quiet;
    c->quiet = true;
    fg_lex_next(c);
    fg_lex_next(c);
    bool is = fg_parse_at(c, TOK_OPEN_BRACE) || fg_parse_at(c, TOK_EQUALS) || fg_parse_at_word(c, "from");
    c->quiet = quiet;
    c->lexer = here;
    return is;
}

/* Goes to the end of the row, over blocks that stand in it. A declaration at the beginning of a line ends it inside a
 * block too: a brace was forgotten, and what follows is worth reading. */
static void skip(fg_compiler *c)
{
    uint32_t braces = 0;
    for (; !fg_parse_at(c, TOK_END); fg_lex_next(c)) {
        if (!braces && fg_parse_at_row_end(c)) return;
        if (fg_parse_at(c, TOK_OPEN_BRACE)) braces++;
        if (fg_parse_at(c, TOK_CLOSE_BRACE) && !--braces) {
            fg_lex_next(c);
            return;
        }
        /* Inside a block a new line may begin a declaration, which no block can hold. */
        if (braces && fg_parse_at(c, TOK_NEWLINE)) {
            fg_lex_next(c);
            if (at_declaration(c)) return;
            if (fg_parse_at(c, TOK_CLOSE_BRACE) && !--braces) {
                fg_lex_next(c);
                return;
            }
            if (fg_parse_at(c, TOK_OPEN_BRACE)) braces++;
            if (fg_parse_at(c, TOK_END)) return;
        }
    }
}

/* Behind a mistake: nothing in the rest of the row is reported. */
void fg_parse_skip_row(fg_compiler *c)
{
    const bool quiet = c->quiet;
    c->lexer.depth = 0;
    c->lost = false;
    c->quiet = true; /* what stands here means nothing any more */
    skip(c);
    c->quiet = quiet;
}

/* Every row ends here, also one that was lost on the way. */
void fg_parse_row_end(fg_compiler *c)
{
    if (!c->lost && fg_parse_at_row_end(c)) return;
    const fg_text here = fg_span_text(c, fg_lex_span(c));
    const bool other = fg_parse_at_word(c, "else") || fg_parse_at_word(c, "otherwise");
    if (!c->lost && other) {
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c),
                  "a row without a condition holds when no row above does, without '{}'",
                  "write ; and the level alone: on when CONDITION; off", here);
        c->lost = true;
    }
    if (!c->lost && fg_parse_at(c, TOK_NAME)) {
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "expected the end of the row, not '{}'",
                  "if the next row begins here, write ; before {}", here, here);
        c->lost = true;
    }
    fg_parse_wrong(c, "the end of the row", "put a ; or a new line between two rows");
    fg_parse_skip_row(c);
}

/* False, and the row is skipped, if there is no brace. */
bool fg_parse_block_open(fg_compiler *c, fg_block *block)
{
    block->open = fg_lex_span(c);
    if (fg_parse_accept(c, TOK_OPEN_BRACE)) return true;
    fg_parse_wrong(c, "'{'", "put its rows in { }");
    fg_parse_skip_row(c);
    return false;
}

/* What a declaration looks like as a whole, for one that has no braces. */
static const char *shape_of(fg_kind kind)
{
    switch (kind) {
    case FG_KIND_SENSOR: return "write sensor {} { unit cm }";
    case FG_KIND_THRESHOLD: return "write threshold {} from SENSOR { over 20 }";
    case FG_KIND_HYSTERESIS: return "write hysteresis {} from SENSOR { on over 20; off under 10 }";
    case FG_KIND_BANDS: return "write bands {} from SENSOR { low | 20 | high }";
    case FG_KIND_LATCH: return "write latch {} { set when CONDITION; clear when CONDITION }";
    case FG_KIND_COUNT: return "write count {} { add when CONDITION }";
    case FG_KIND_PULSE: return "write pulse {} { start when CONDITION; last 5s }";
    case FG_KIND_SEQUENCE: return "write sequence {} { on for 500ms; off for 500ms; repeat }";
    case FG_KIND_LAMP: return "write lamp {} { on when CONDITION }";
    case FG_KIND_RELAY: return "write relay {} { on when CONDITION }";
    case FG_KIND_BUZZER: return "write buzzer {} { 880Hz when CONDITION }";
    case FG_KIND_MOTOR: return "write motor {} { forward when CONDITION }";
    case FG_KIND_SERVO: return "write servo {} { range 0..180; 90 deg when CONDITION }";
    case FG_KIND_BAR: return "write bar {} { lights 8; follow SENSOR A..B }";
    case FG_KIND_DISPLAY: return "write display {} { size 16x2; show \"text\" when CONDITION }";
    case FG_KIND_FLAG: return "write flag {}, or flag {} { settle 50ms }";
    default: return "put its rows in { }";
    }
}

bool fg_parse_block_of(fg_compiler *c, fg_symbol *symbol, fg_block *block)
{
    block->open = fg_lex_span(c);
    if (fg_parse_accept(c, TOK_OPEN_BRACE)) return true;
    if (!c->lost)
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "expected '{', not {}", shape_of(symbol->kind), here_text(c),
                  symbol->name, symbol->name);
    fg_symbol_add(symbol, fg_node_new(c, NODE_BROKEN, block->open)); /* nothing more is said about it */
    fg_parse_skip_row(c);
    return false;
}

/* Marks the sign that was opened: where the other one belongs only its author knows. */
void fg_parse_not_closed(fg_compiler *c, fg_span open)
{
    if (c->lost) return;
    c->lost = true;
    fg_place end = fg_text_place(c->lexer.text, fg_lex_span(c).at);
    fg_meant_not_closed(c, open, end);
}

/* Goes to the next row of a block. False: it is closed, or ends without its brace, which is reported. */
bool fg_parse_block_row(fg_compiler *c, const fg_block *block)
{
    bool line_began = false;
    while (fg_parse_at(c, TOK_NEWLINE) || fg_parse_at(c, TOK_SEMICOLON)) {
        line_began = fg_parse_at(c, TOK_NEWLINE);
        fg_lex_next(c);
    }
    if (fg_parse_accept(c, TOK_CLOSE_BRACE)) return false;
    if (fg_parse_at(c, TOK_END) || (line_began && at_declaration(c))) {
        fg_parse_not_closed(c, block->open);
        c->lost = false;
        return false;
    }
    return true;
}

/* A row that this declaration cannot have; `words` are those that begin one, ended by NULL. */
void fg_parse_unknown_row(fg_compiler *c, fg_symbol *symbol, const char *const *words)
{
    const fg_text kind = fg_text_of(fg_kind_word(symbol->kind)), here = fg_span_text(c, fg_lex_span(c));
    const fg_text best = fg_parse_at(c, TOK_NAME) ? fg_name_nearest_word(fg_lex_text(c), words) : (fg_text){0};
    fg_text all = {0};
    const fg_meant *meant = fg_parse_at(c, TOK_NAME) ? fg_meant_row(symbol->kind, fg_lex_text(c)) : NULL;
    if (!fg_parse_at(c, TOK_NAME)) {
        if (fg_parse_at(c, TOK_FOREIGN)) fg_meant_sign(c);
        fg_symbol_add(symbol, fg_node_new(c, NODE_BROKEN, fg_lex_span(c)));
    }
    if (c->lost) {
        fg_parse_skip_row(c);
        return;
    }
    for (; *words; words++) all = all.size ? fg_text_join(c, all, ", ", fg_text_of(*words)) : fg_text_of(*words);
    if (meant) {
        fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "a {} has no '{}'", meant->instead, kind, here);
        if (meant->fix) fg_report_fix(c, fg_lex_span(c), fg_text_of(meant->fix));
        fg_symbol_add(symbol, fg_node_new(c, NODE_BROKEN, fg_lex_span(c))); /* it may be what is missed otherwise */
    } else if (best.size) {
        fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "a {} has no '{}'", "did you mean '{}'?", kind, here, best);
        fg_report_fix(c, fg_lex_span(c), best);
    } else {
        fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "a {} has no '{}'", "it can have: {}", kind, here, all);
    }
    fg_parse_skip_row(c);
}

/* ---- names and texts ---- */

/* The text inside the quotes, "" made one. */
static fg_text unquoted(fg_compiler *c, fg_text quoted)
{
    fg_text inside = {quoted.at + 1, quoted.size - 1};
    if (inside.size && inside.at[inside.size - 1] == '"') inside.size--;
    if (fg_text_byte(inside, 0, '"') == inside.size) return inside;
    char *copy = FG_TAKE(char, &c->arena, inside.size);
    size_t size = 0;
    for (size_t i = 0; copy && i < inside.size; i++) {
        copy[size++] = inside.at[i];
        if (inside.at[i] == '"') i++;
    }
    return (fg_text){copy, size};
}

/* Where a text without quotes ends. */
static bool is_text_end(char c)
{
    return c == ' ' || c == '\t' || c == '\r' || c == '\n' || c == ';' || c == '{' || c == '}';
}

/* A text in quotes, without them. */
bool fg_parse_string(fg_compiler *c, fg_text *text, const char *instead)
{
    if (fg_parse_at(c, TOK_NAME) && !c->lost) {
        /* A name of a file or trial, up to a blank or what ends the row. */
        fg_span word = fg_lex_span(c);
        while (word.at + word.size < c->lexer.text.size && !is_text_end(c->lexer.text.at[word.at + word.size]))
            word.size++;
        const fg_text quoted = fg_text_join(c, fg_text_join(c, T("\""), "", fg_span_text(c, word)), "", T("\""));
        fg_report(c, FG_FIND_SYNTAX, word, "expected a text in \"quotes\", not {}", "write {}", here_text(c), quoted);
        fg_report_fix(c, word, quoted);
        c->lost = true;
    }
    if (!fg_parse_at(c, TOK_STRING)) {
        fg_parse_wrong(c, "a text in \"quotes\"", instead);
        return false;
    }
    *text = unquoted(c, fg_lex_text(c));
    fg_lex_next(c);
    return true;
}

/* `my-sensor` and `my sensor` are two words each, if what follows them is what follows a name. */
static void name_of_two_words(fg_compiler *c, fg_text first, fg_span *span, fg_kind kind)
{
    const bool minus = fg_parse_at(c, TOK_MINUS) && c->lexer.before_end == fg_lex_span(c).at;
    const fg_token next = minus ? fg_parse_peek(c) : c->lexer.token;
    if (next.kind != TOK_NAME || (minus && next.at != fg_lex_span(c).at + 1)) return;
    const fg_text second = {c->lexer.text.at + next.at, next.end - next.at};
    const fg_lexer here = c->lexer;
    if (!minus && fg_text_is(second, "from")) return;
    fg_lex_next(c);
    if (minus) fg_lex_next(c);
    const bool equals = kind == FG_KIND_NUMBER || kind == FG_KIND_CONDITION || kind == FG_KIND_SENSOR;
    const bool goes_on = fg_kind_is(kind, FG_KIND_ON_SENSOR)                        ? fg_parse_at_word(c, "from")
                         : fg_parse_at(c, TOK_EQUALS)                               ? equals
                         : kind == FG_KIND_NUMBER || kind == FG_KIND_CONDITION      ? false
                         : fg_kind_is(kind, FG_KIND_READ) && fg_parse_at_row_end(c) ? true
                                                                                    : fg_parse_at(c, TOK_OPEN_BRACE);
    if (!goes_on) {
        c->lexer = here; /* the second word belongs to what follows */
        return;
    }
    const fg_text one = fg_text_join(c, first, "_", second);
    *span = fg_span_to_here(c, *span);
    fg_report(c, FG_FIND_SYNTAX, *span, minus ? "a name has no '-'" : "a name is one word", "write {}", one);
    fg_report_fix(c, *span, one);
    c->lost = true;
}

/* A name that is declared here, with all that a beginner may put into it. */
fg_text fg_parse_new_name(fg_compiler *c, fg_span *span, fg_kind kind)
{
    const fg_text here = fg_lex_text(c);
    *span = fg_lex_span(c);
    if (fg_parse_at(c, TOK_STRING)) {
        const fg_text bare = unquoted(c, here);
        fg_report(c, FG_FIND_SYNTAX, *span, "names are written without quotes", "write {}", bare);
        if (fg_name_fits(bare)) fg_report_fix(c, *span, bare);
        fg_lex_next(c);
        return (fg_text){0};
    }
    const fg_text name = fg_parse_name(c, span, "a name");
    if (name.size && !c->lost) name_of_two_words(c, name, span, kind);
    return name;
}

/* A name that is declared or asked here. Empty if there is none, or a reserved word. */
fg_text fg_parse_name(fg_compiler *c, fg_span *span, const char *what)
{
    fg_text name = fg_lex_text(c);
    *span = fg_lex_span(c);
    if (!fg_parse_at(c, TOK_NAME)) {
        fg_parse_wrong(c, what, "a name begins with a letter and goes on with letters, digits and _");
        return (fg_text){0};
    }
    fg_lex_next(c);
    if (!fg_word_reserved(name)) return name;
    fg_report(c, FG_FIND_RESERVED, *span, "'{}' is a word of conditions and cannot be a name",
              "choose another, such as {}_1", name, name);
    return (fg_text){0};
}
