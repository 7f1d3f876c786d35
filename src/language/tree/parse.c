/* What every rule of the grammar uses: tokens, rows, blocks, names, texts. The parser is a recursive descent with one
 * token of look-ahead. A mistake is reported once and its row skipped, so that one run shows every mistake. */
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
    fg_parse_wrong(c, "the end of the row", "put a ; or a new line between two rows");
    fg_parse_skip_row(c);
}

/* False, and the row is skipped, if there is no brace. */
bool fg_parse_block_open(fg_compiler *c, fg_block *block)
{
    block->open = fg_lex_span(c);
    if (fg_parse_accept(c, TOK_OPEN_BRACE)) return true;
    fg_parse_wrong(c, "'{'", "its rows stand in { }");
    fg_parse_skip_row(c);
    return false;
}

/* Marks the sign that was opened: where the other one belongs only its author knows. */
void fg_parse_not_closed(fg_compiler *c, fg_span open)
{
    if (c->lost) return;
    c->lost = true;
    fg_place end = fg_text_place(c->lexer.text, fg_lex_span(c).at);
    fg_report(c, FG_FIND_NOT_CLOSED, open, "this {} is not closed before line {}", "add the closing one where it ends",
              fg_span_text(c, open), fg_text_of_value(c, end.line, 0));
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
void fg_parse_unknown_row(fg_compiler *c, const fg_symbol *symbol, const char *const *words)
{
    const fg_text kind = fg_text_of(fg_kind_word(symbol->kind)), here = fg_span_text(c, fg_lex_span(c));
    const fg_text best = fg_parse_at(c, TOK_NAME) ? fg_name_nearest_word(fg_lex_text(c), words) : (fg_text){0};
    fg_text all = {0};
    for (; *words; words++) all = all.size ? fg_text_join(c, all, ", ", fg_text_of(*words)) : fg_text_of(*words);
    if (best.size)
        fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "a {} has no '{}'", "did you mean '{}'?", kind, here, best);
    else
        fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "a {} has no '{}'", "it can have: {}", kind, here, all);
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

/* A text in quotes, without them. */
bool fg_parse_string(fg_compiler *c, fg_text *text, const char *instead)
{
    if (!fg_parse_at(c, TOK_STRING)) {
        fg_parse_wrong(c, "a text in \"quotes\"", instead);
        return false;
    }
    *text = unquoted(c, fg_lex_text(c));
    fg_lex_next(c);
    return true;
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
    fg_report(c, FG_FIND_RESERVED, *span, "'{}' is a word of conditions and cannot be a name", "choose another name",
              name);
    return (fg_text){0};
}
