/* SPDX-License-Identifier: MIT */
/* Text to tokens, one ahead.
 *
 * A gate file is rows, and a row ends where its line does, unless something asks for more: an open bracket, a sign or
 * word at its end that cannot end it (`,` `|` `=` `and` `when`), or a next line that begins with what joins (`|` `and`
 * `or` `{`). So long conditions may go over lines without a mark, and a row that was forgotten to be closed ends at the
 * latest where a declaration begins. Tokens are kinds and places; the text stays where it is and belongs to the caller.
 */
#include "language/text/lexer.h"

#include "language/text/encoding.h"

/* Names are ASCII, so that they are names in C too. */
static bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }
/* Not isdigit, which depends on the locale. */
static bool is_digit(char c) { return c >= '0' && c <= '9'; }
static bool is_word(char c) { return is_letter(c) || is_digit(c) || c == '_'; }
/* A carriage return counts as a blank, so line ends of every kind read alike. */
static bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r'; }

/* 0 behind the end, so that looking one character ahead needs no check. */
static char at(const fg_lexer *l, uint32_t i)
{
    if (i >= l->text.size) return 0;
    return l->text.at[i];
}

/* Where the present token stands. */
fg_span fg_lex_span(const fg_compiler *c)
{
    const fg_token *t = &c->lexer.token;
    return (fg_span){t->at, t->end - t->at, c->lexer.source};
}

/* The present token as it is written. */
fg_text fg_lex_text(const fg_compiler *c)
{
    const fg_token *t = &c->lexer.token;
    return (fg_text){c->lexer.text.at + t->at, t->end - t->at};
}

/* The character right behind the present token: a unit stands there without a blank. */
char fg_lex_behind(const fg_compiler *c) { return at(&c->lexer, c->lexer.token.end); }

/* `#` begins a comment at the start of a line or after white space, ; { or }. */
static bool comment_begins(const fg_lexer *l, uint32_t i)
{
    if (at(l, i) != '#') return false;
    if (i == 0) return true;
    char before = at(l, i - 1);
    if (i == 3 && fg_bytes_same(l->text.at, "\xEF\xBB\xBF", 3)) return true;
    return is_blank(before) || before == '\n' || before == ';' || before == '{' || before == '}';
}

/* Where the line ends, or the text. */
static uint32_t line_end(const fg_lexer *l, uint32_t i) { return (uint32_t)fg_text_byte(l->text, i, '\n'); }

/* Past blanks and a comment, but not past a line end. */
static uint32_t skip_blanks(const fg_lexer *l, uint32_t i)
{
    while (is_blank(at(l, i))) i++;
    return comment_begins(l, i) ? line_end(l, i) : i;
}

/* To the first thing on the next line that has one. */
static uint32_t skip_lines(const fg_lexer *l, uint32_t i)
{
    for (;;) {
        i = skip_blanks(l, i);
        if (i >= l->text.size || l->text.at[i] != '\n') return i;
        i++;
    }
}

/* Does just this word stand here, not one that only begins with it? */
static bool word_at(const fg_lexer *l, uint32_t i, const char *word)
{
    size_t size = fg_text_of(word).size;
    return i + size <= l->text.size && fg_bytes_same(l->text.at + i, word, size) && !is_word(at(l, i + (uint32_t)size));
}

/* Is the present token this word? */
static bool token_is(const fg_lexer *l, const char *word)
{
    return l->token.kind == TOK_NAME && l->token.end - l->token.at == fg_text_of(word).size &&
           word_at(l, l->token.at, word);
}

/* A line goes on after these. */
static bool goes_on(const fg_lexer *l)
{
    switch (l->token.kind) {
    case TOK_COMMA:
    case TOK_BAR:
    case TOK_EQUALS:
    case TOK_OPEN:
    case TOK_PLUS:
    case TOK_MINUS:
    case TOK_TIMES:
    case TOK_SLASH: return true;
    case TOK_FOREIGN: return at(l, l->token.at) == '&' || at(l, l->token.at) == '|';
    case TOK_NAME: return token_is(l, "and") || token_is(l, "or") || token_is(l, "not") || token_is(l, "when");
    default: return false;
    }
}

/* Does a declaration begin here, `lamp green`? No line goes on with one, whatever was left open before it. A name in a
 * condition may be `lamp` too: then a word follows that goes on with the condition or with what is expected of it. */
static bool declares(const fg_lexer *l, uint32_t i)
{
    for (int kind = 0; kind < FG_KINDS_IN_ALL; kind++) {
        const char *word = fg_kind_word((fg_kind)kind);
        if (!word_at(l, i, word)) continue;
        uint32_t name = i + (uint32_t)fg_text_of(word).size, end;
        while (is_blank(at(l, name))) name++;
        for (end = name; is_word(at(l, end));) end++;
        const fg_text second = {l->text.at + name, end - name};
        return is_letter(at(l, name)) && !fg_word_reserved(second) && !fg_word_goes_on(second);
    }
    return false;
}

/* Does the next line go on with the present one? It does if it begins with what joins. */
static bool continues(const fg_lexer *l, uint32_t next)
{
    char sign = at(l, next);
    return sign == '|' || sign == '{' || word_at(l, next, "and") || word_at(l, next, "or");
}

/* A span of the file that is read. */
static fg_span span_of(const fg_lexer *l, uint32_t from, uint32_t end)
{
    return (fg_span){from, end - from, l->source};
}

/* A text ends on its line. One that does not would swallow the rest of the file, so it is closed there by force.
 * Returns the place behind it. */
static uint32_t lex_string(fg_compiler *c, uint32_t i)
{
    fg_lexer *l = &c->lexer;
    uint32_t begin = i++;
    for (;; i++) {
        if (i >= l->text.size || at(l, i) == '\n') {
            while (i > begin + 1 && at(l, i - 1) == '\r') i--;
            fg_report(c, FG_FIND_NOT_CLOSED, span_of(l, begin, i), "this text is not closed on its line",
                      "end it with \"; a quote inside a text is written \"\"");
            return i;
        }
        if (at(l, i) != '"') continue;
        if (at(l, i + 1) != '"') return i + 1;
        i++;
    }
}

/* Digits, with at most one point among them. Two points are a range: in `1..5` the number ends before them. */
static uint32_t lex_number(fg_compiler *c, uint32_t i)
{
    fg_lexer *l = &c->lexer;
    uint32_t begin = i;
    while (is_digit(at(l, i))) i++;
    /* A point behind it may belong to a range. */
    if (at(l, i) != '.' || at(l, i + 1) == '.') return i;
    if (!is_digit(at(l, i + 1))) {
        fg_report(c, FG_FIND_SYNTAX, span_of(l, begin, i + 1), "a number needs a digit on both sides of its point",
                  "write {}.0 or {}", fg_span_text(c, span_of(l, begin, i)), fg_span_text(c, span_of(l, begin, i)));
        return i + 1;
    }
    for (i++; is_digit(at(l, i));) i++;
    return i;
}

/* .5, which needs its 0. */
static uint32_t lex_half_number(fg_compiler *c, uint32_t i)
{
    fg_lexer *l = &c->lexer;
    const uint32_t begin = i;
    for (i++; is_digit(at(l, i));) i++;
    fg_report(c, FG_FIND_SYNTAX, span_of(l, begin, i), "a number needs a digit on both sides of its point", "write 0{}",
              fg_span_text(c, span_of(l, begin, i)));
    fg_report_fix(c, span_of(l, begin, begin), T("0"));
    return i;
}

/* How many bytes of a letter beyond ASCII stand at `i`; 0 if it is a sign, as × or “. */
static uint32_t foreign_letter(const fg_lexer *l, uint32_t i)
{
    const unsigned char first = (unsigned char)at(l, i), second = (unsigned char)at(l, i + 1);
    if (first < 0xC3 || first == 0xE2) return 0;
    if (first == 0xC3 && (second == 0x97 || second == 0xB7)) return 0;
    return first < 0xE0 ? 2 : first < 0xF0 ? 3 : 4;
}

/* The end of a sign that is none here; those of two characters belong together. */
static uint32_t foreign_end(const fg_lexer *l, uint32_t i)
{
    static const char *const pairs[] = {"&&", "||", "==", "!=", "<>", "<=", ">=", "=>", "=<"};
    for (size_t k = 0; k < sizeof pairs / sizeof *pairs; k++)
        if (at(l, i) == pairs[k][0] && at(l, i + 1) == pairs[k][1]) return i + 2;
    for (i++; ((unsigned char)at(l, i) & 0xC0) == 0x80;) i++;
    return i;
}

/* Two characters that are one sign elsewhere, though each of them has a meaning here. */
static bool foreign_pair(const fg_lexer *l, uint32_t i)
{
    const char a = at(l, i), b = at(l, i + 1);
    return (a == '|' && b == '|') || (a == '=' && (b == '=' || b == '>' || b == '<'));
}

/* A comment of another language: the rest of its line, or all up to its end. Reported, and skipped. */
static uint32_t lex_foreign_comment(fg_compiler *c, uint32_t i)
{
    fg_lexer *l = &c->lexer;
    const uint32_t begin = i;
    const bool line = at(l, i + 1) == '/';
    i += 2;
    if (line) {
        i = line_end(l, i);
    } else {
        while (i < l->text.size && !(at(l, i) == '*' && at(l, i + 1) == '/')) i++;
        i = i < l->text.size ? i + 2 : line_end(l, begin);
    }
    fg_report(c, FG_FIND_SYNTAX, span_of(l, begin, begin + 2), "a comment begins with #, not with '{}'",
              line ? "write # instead" : "write # at the beginning of each of its lines",
              fg_span_text(c, span_of(l, begin, begin + 2)));
    if (line) fg_report_fix(c, span_of(l, begin, begin + 2), T("#"));
    return i;
}

/* Names are of ASCII letters, so that they are names in C too. Said once for each name, however often it stands. */
static void foreign_name(fg_compiler *c, fg_text name, fg_span span)
{
    for (const fg_foreign_name *known = c->foreign_names; known; known = known->next)
        if (fg_text_same(known->name, name)) return;
    const bool kept = !c->quiet && c->reported_count < FG_FINDINGS_MOST; /* so the list stays short */
    fg_foreign_name *said = !kept ? NULL : FG_TAKE(fg_foreign_name, &c->arena, 1);
    if (said) {
        *said = (fg_foreign_name){name, c->foreign_names};
        c->foreign_names = said;
    }
    const fg_text plain = fg_text_in_ascii(c, name);
    fg_report(c, FG_FIND_TEXT, span, "'{}' is no name here: names have the letters a-z and A-Z, digits and _",
              plain.size ? "write {} wherever it stands" : "choose a name of these letters", name, plain);
}

/* TOK_END if the character is none. */
static fg_token_kind punctuation(char c)
{
    switch (c) {
    case ';': return TOK_SEMICOLON;
    case '{': return TOK_OPEN_BRACE;
    case '}': return TOK_CLOSE_BRACE;
    case '(': return TOK_OPEN;
    case ')': return TOK_CLOSE;
    case ',': return TOK_COMMA;
    case '|': return TOK_BAR;
    case '=': return TOK_EQUALS;
    case '+': return TOK_PLUS;
    case '-': return TOK_MINUS;
    case '*': return TOK_TIMES;
    case '/': return TOK_SLASH;
    default: return TOK_END;
    }
}

/* A word, or a note with a sharp (C#5). Returns its end. */
static uint32_t lex_word(fg_compiler *c, uint32_t i, fg_token_kind *kind)
{
    fg_lexer *l = &c->lexer;
    uint32_t begin = i, letter = 0;
    bool foreign = false;
    while (is_word(at(l, i)) || (letter = foreign_letter(l, i)) != 0) {
        foreign = foreign || letter;
        i += letter ? letter : 1;
        letter = 0;
    }
    *kind = TOK_NAME;
    if (i > l->text.size) i = (uint32_t)l->text.size;
    if (foreign) foreign_name(c, (fg_text){l->text.at + begin, i - begin}, span_of(l, begin, i));
    if (i - begin == 1 && at(l, begin) >= 'A' && at(l, begin) <= 'G' && at(l, i) == '#' && is_digit(at(l, i + 1)) &&
        !is_word(at(l, i + 2))) {
        *kind = TOK_NOTE;
        return i + 2;
    }
    return i;
}

/* The token at `i`, where neither blank nor line end stands. False: a comment of another language, reported and
 * skipped. */
static bool lex_token(fg_compiler *c, uint32_t i)
{
    fg_lexer *l = &c->lexer;
    const char sign = at(l, i);
    fg_token_kind kind = foreign_pair(l, i) ? TOK_END : punctuation(sign);
    uint32_t end = i + 1;
    if (sign == '/' && (at(l, i + 1) == '/' || at(l, i + 1) == '*')) {
        l->at = lex_foreign_comment(c, i);
        return false;
    }
    if (kind == TOK_OPEN) l->depth++;
    if (kind == TOK_CLOSE && l->depth) l->depth--;
    if (kind == TOK_END) {
        if (is_letter(sign) || foreign_letter(l, i)) {
            end = lex_word(c, i, &kind);
        } else if (is_digit(sign)) {
            kind = TOK_NUMBER;
            end = lex_number(c, i);
        } else if (sign == '"') {
            kind = TOK_STRING;
            end = lex_string(c, i);
        } else if (sign == '.' && at(l, i + 1) == '.') {
            kind = TOK_DOTS;
            end = i + 2;
        } else if (sign == '.' && is_digit(at(l, i + 1))) {
            kind = TOK_NUMBER;
            end = lex_half_number(c, i);
        } else {
            kind = TOK_FOREIGN;
            end = foreign_end(l, i);
        }
    }
    l->at = end;
    l->token = (fg_token){kind, i, end};
    return true;
}

/* One token further. Line ends count only where a row can end: not inside brackets, not behind what asks for more, not
 * before what joins. A declaration on the next line ends even those, so that one missing bracket spoils one
 * declaration and not the rest of the file. */
void fg_lex_next(fg_compiler *c)
{
    fg_lexer *l = &c->lexer;
    l->before_end = l->token.end;
    if (l->token.kind != TOK_NEWLINE && l->token.kind != TOK_SEMICOLON) l->row_end = l->token.end;
    for (;;) {
        uint32_t i = skip_blanks(l, l->at);
        if (i >= l->text.size || c->arena.full) {
            uint32_t end = (uint32_t)l->text.size;
            l->at = end;
            l->token = (fg_token){TOK_END, end, end};
            return;
        }
        if (at(l, i) == '\n') {
            uint32_t next = skip_lines(l, i);
            l->at = next;
            /* The next line begins with what joins, so this one is not over. */
            if (continues(l, next)) continue;
            if ((l->depth || goes_on(l)) && next < l->text.size && !declares(l, next)) continue;
            /* A row that ends here leaves no bracket open for the next one. */
            l->depth = 0;
            l->token = (fg_token){TOK_NEWLINE, i, i + 1};
            return;
        }
        if (lex_token(c, i)) return;
    }
}

/* Begins at a byte of a text, behind a byte order mark if there is one. */
void fg_lex_start(fg_compiler *c, fg_text text, uint16_t source, uint32_t from)
{
    if (!from && text.size >= 3 && fg_bytes_same(text.at, "\xEF\xBB\xBF", 3)) from = 3;
    c->lexer = (fg_lexer){.text = text, .source = source, .at = from, .token = {TOK_NEWLINE, from, from}};
    fg_lex_next(c);
}

/* How many bytes of a unit's letter or sign stand at `i`: letters of the Latin and Greek alphabets, and ° µ % ² ³. */
static uint32_t unit_sign(const fg_lexer *l, uint32_t i)
{
    const unsigned char first = (unsigned char)at(l, i), second = (unsigned char)at(l, i + 1);
    if (is_letter((char)first) || first == '%') return 1;
    if (first == 0xC2) return second == 0xB0 || second == 0xB5 || second == 0xB2 || second == 0xB3 ? 2 : 0;
    if (first >= 0xC3 && first <= 0xCF) return (second & 0xC0) == 0x80 ? 2 : 0;
    if (first == 0xE2 && second == 0x84 && (at(l, i + 2) == '\xA6' || at(l, i + 2) == '\xAB')) return 3;
    return 0;
}

/* Units may have a slash inside, as in m/s. */
static uint32_t unit_end(const fg_lexer *l, uint32_t i)
{
    for (;;) {
        uint32_t size = unit_sign(l, i);
        if (!size && at(l, i) == '/' && unit_sign(l, i + 1)) size = 1;
        if (!size) return i;
        i += size;
    }
}

/* Takes the unit that stands behind a number, right behind it or one blank on. One blank on, a reserved word is only a
 * unit if it is the sensor's own: in `over 5 in ...` the unit `in` and the word `in` look alike. */
bool fg_lex_unit(fg_compiler *c, fg_text *unit, fg_span *span)
{
    fg_lexer *l = &c->lexer;
    uint32_t begin = l->token.end;
    bool apart = at(l, begin) == ' ' || at(l, begin) == '\t';
    if (apart) begin++;
    if (at(l, begin) == '/') return false;
    uint32_t end = unit_end(l, begin);
    if (end == begin || at(l, end) == '_' || is_digit(at(l, end))) {
        if (end == begin || apart) return false;
        while (is_word(at(l, end))) end++; /* 12e3, 5x: let the message name it as the unit it seems to be */
    }
    fg_text word = {l->text.at + begin, end - begin};
    const bool own = c->declaring || fg_text_same(word, c->own_unit);
    if (apart && c->in_promise && fg_text_is(word, "can")) return false; /* over 5 can end within 2s */
    if (apart && (fg_word_unit_follows_not(word) || (fg_word_reserved(word) && !own))) return false;
    *unit = word;
    *span = span_of(l, begin, end);
    l->at = end;
    l->token.end = end;
    return true;
}

/* Takes the unit of a declaration, `unit m/s`, where nothing else can stand. */
bool fg_lex_unit_word(fg_compiler *c, fg_text *unit)
{
    fg_lexer *l = &c->lexer;
    uint32_t begin = skip_blanks(l, l->token.end), end = unit_end(l, begin);
    if (end == begin || is_word(at(l, end))) return false;
    *unit = (fg_text){l->text.at + begin, end - begin};
    l->at = end;
    l->token.end = end;
    fg_lex_next(c);
    return true;
}
