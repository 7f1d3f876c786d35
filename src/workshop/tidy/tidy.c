/* SPDX-License-Identifier: MIT */
/* Rows and blocks of a gate file as lines. Blanks and line ends change and semicolons go, and nothing else does: where
 * a line end would mean something, it is the same before and after. */
#include "workshop/tidy/tidy.h"

#include <stdlib.h>
#include <string.h>

enum { INDENT = 4 };

typedef struct tidying {
    fg_tidy_tokens tokens;
    fg_tidy_lines lines;
    size_t at;
    uint32_t newlines; /* in front of semicolons that were skipped */
    bool full;
} tidying;

static const fg_tidy_token *token(const tidying *t, size_t i) { return &t->tokens.at[i]; }

/* ---- words ---- */

static bool is_sign(const fg_tidy_token *a, char sign) { return a->kind == FG_TIDY_SIGN && a->text.at[0] == sign; }

static bool blank_between(const fg_tidy_token *a, const fg_tidy_token *b)
{
    if (is_sign(b, ',') || is_sign(b, ')') || is_sign(a, '(')) return false;
    if (is_sign(a, ',') || is_sign(a, '|') || is_sign(b, '|') || is_sign(a, '=') || is_sign(b, '=')) return true;
    return b->apart;
}

/* These tokens, comments left out, behind what is there already. */
static void add_tokens(const tidying *t, size_t from, size_t to, fg_buffer *out)
{
    const fg_tidy_token *before = NULL;
    for (size_t i = from; i < to; i++) {
        const fg_tidy_token *now = token(t, i);
        if (now->kind == FG_TIDY_COMMENT) continue;
        if (before && blank_between(before, now)) fg_buffer_add_c(out, " ");
        fg_buffer_add(out, now->text);
        before = now;
    }
}

static char *copy(tidying *t, fg_text text)
{
    char *c = fg_c_string_of(text);
    t->full = t->full || !c;
    return c;
}

static char *taken(tidying *t, fg_buffer *b)
{
    char *c = b->full ? NULL : copy(t, fg_buffer_text(b));
    t->full = t->full || !c;
    fg_buffer_free(b);
    return c;
}

/* ---- lines ---- */

/* The empty lines in front of a token that begins a line. */
static uint32_t blanks_before(tidying *t, size_t i)
{
    const uint32_t newlines = token(t, i)->newlines + t->newlines;
    t->newlines = 0;
    return newlines > 1 ? newlines - 1 : 0;
}

static void add_line(tidying *t, uint32_t indent, uint32_t blanks, char *text)
{
    fg_tidy_add_line(&t->lines, (fg_tidy_line){.indent = indent, .blanks = blanks, .columns = {text}});
}

/* A comment belongs to the line it stands on, or is one. */
static void take_comments(tidying *t, uint32_t indent)
{
    for (; token(t, t->at)->kind == FG_TIDY_COMMENT; t->at++) {
        const fg_tidy_token *comment = token(t, t->at);
        if (!comment->newlines && !t->newlines && t->lines.count && !t->lines.at[t->lines.count - 1].comment) {
            t->lines.at[t->lines.count - 1].comment = copy(t, comment->text);
            continue;
        }
        add_line(t, indent, blanks_before(t, t->at), NULL);
        if (t->lines.count) t->lines.at[t->lines.count - 1].comment = copy(t, comment->text);
    }
}

/* Where the row ends that begins here: at a semicolon, a brace, or a line end behind which it does not go on. */
static size_t row_end(const tidying *t, size_t from)
{
    uint32_t depth = 0;
    size_t last = from; /* that is no comment */
    for (size_t i = from;; i++) {
        const fg_tidy_token *now = token(t, i);
        if (now->kind == FG_TIDY_COMMENT) continue;
        const bool ends = now->kind == FG_TIDY_SEMICOLON || now->kind == FG_TIDY_OPEN || now->kind == FG_TIDY_CLOSE ||
                          now->kind == FG_TIDY_END;
        bool newline = false;
        for (size_t k = last + 1; k <= i && i > from; k++) newline = newline || token(t, k)->newlines;
        const bool stops = newline && !depth && !fg_tidy_goes_on(token(t, last), now);
        if (ends && now->kind == FG_TIDY_OPEN && !stops) return i;
        if (ends || stops) return last + 1;
        if (is_sign(now, '(')) depth++;
        if (is_sign(now, ')') && depth) depth--;
        last = i;
    }
}

static bool on_one_line(const tidying *t, size_t from, size_t to)
{
    for (size_t i = from; i < to; i++)
        if (token(t, i)->kind == FG_TIDY_COMMENT || (i > from && token(t, i)->newlines)) return false;
    return true;
}

/* A row that may go over several lines, of which all but the first stand further in. `behind` follows its last word. */
static void add_row(tidying *t, size_t from, size_t to, uint32_t indent, const char *behind)
{
    uint32_t blanks = blanks_before(t, from);
    size_t last = to;
    while (last > from && token(t, last - 1)->kind == FG_TIDY_COMMENT) last--;
    for (size_t i = from; i < to;) {
        size_t end = i;
        fg_buffer out = {0};
        const fg_tidy_token *comment = NULL;
        do {
            if (token(t, end)->kind == FG_TIDY_COMMENT) comment = token(t, end);
            end++;
        } while (end < to && !token(t, end)->newlines);
        add_tokens(t, i, end, &out);
        if (end >= last && i < last) fg_buffer_add_c(&out, behind);
        if (out.size || out.full)
            add_line(t, indent, blanks, taken(t, &out));
        else
            add_line(t, indent, blanks, NULL);
        if (comment && t->lines.count) t->lines.at[t->lines.count - 1].comment = copy(t, comment->text);
        if (i == from) indent += INDENT;
        blanks = 0;
        i = end;
    }
}

/* Where a row ends that asks for more, only its semicolon ends it. That is a mistake, and stays the same one. */
static bool keeps_semicolon(const tidying *t, size_t from, size_t end)
{
    size_t last = end, next = end;
    if (token(t, end)->kind != FG_TIDY_SEMICOLON) return false;
    while (last > from && token(t, last - 1)->kind == FG_TIDY_COMMENT) last--;
    while (token(t, next)->kind == FG_TIDY_SEMICOLON || token(t, next)->kind == FG_TIDY_COMMENT) next++;
    return last > from && fg_tidy_goes_on(token(t, last - 1), token(t, next));
}

/* ---- blocks ---- */

static size_t block_end(const tidying *t, size_t open)
{
    size_t i = open;
    while (token(t, i)->kind != FG_TIDY_CLOSE) i++;
    return i;
}

/* " { unit cm; step 0.1 }" */
static void add_block(const tidying *t, size_t open, size_t close, fg_buffer *out)
{
    fg_buffer_add_c(out, " {");
    bool first = true;
    for (size_t i = open + 1; i < close;) {
        size_t end = i;
        while (end < close && token(t, end)->kind != FG_TIDY_SEMICOLON) end++;
        if (end > i) {
            fg_buffer_add_c(out, first ? " " : "; ");
            add_tokens(t, i, end, out);
            first = false;
        }
        i = end + 1;
    }
    fg_buffer_add_c(out, " }");
}

/* ---- statements ---- */

/* Is it a word that declares a name, in columns with its neighbours? */
static bool declares(const fg_tidy_token *word)
{
    for (int k = 0; k < FG_KINDS_IN_ALL; k++)
        if (word->kind == FG_TIDY_WORD && fg_text_is(word->text, fg_kind_word((fg_kind)k))) return true;
    return false;
}

/* A statement on one line, with its block if `close` is beyond `open`. */
static void add_statement(tidying *t, size_t from, size_t open, size_t close, const fg_buffer *block)
{
    fg_tidy_line line = {.blanks = blanks_before(t, from)};
    fg_buffer rest = {0};
    size_t next = from;
    const bool columns = open >= from + 2 && declares(token(t, from)) && token(t, from + 1)->kind == FG_TIDY_WORD &&
                         token(t, from + 1)->apart;
    if (columns) {
        line.aligned = true;
        line.columns[0] = copy(t, token(t, from)->text);
        line.columns[1] = copy(t, token(t, from + 1)->text);
        next = from + 2;
        if (open >= from + 4 && fg_text_is(token(t, next)->text, "from")) {
            fg_buffer source = {0};
            add_tokens(t, next, next + 2, &source);
            line.columns[2] = taken(t, &source);
            next += 2;
        }
    }
    add_tokens(t, next, open, &rest);
    if (close > open) {
        const fg_text whole = fg_buffer_text(block);
        const bool blank = !rest.size && columns && whole.size;
        fg_buffer_add(&rest, blank ? (fg_text){whole.at + 1, whole.size - 1} : whole);
    }
    const bool any = rest.size;
    char *text = taken(t, &rest);
    if (any)
        line.columns[columns ? 3 : 0] = text;
    else
        free(text);
    fg_tidy_add_line(&t->lines, line);
}

static void take_semicolons(tidying *t)
{
    for (; token(t, t->at)->kind == FG_TIDY_SEMICOLON; t->at++) t->newlines += token(t, t->at)->newlines;
}

/* What stands between the braces, each row on its own line, and the closing brace. */
static void take_rows(tidying *t)
{
    for (;;) {
        take_semicolons(t);
        take_comments(t, INDENT);
        const fg_tidy_token *now = token(t, t->at);
        if (now->kind == FG_TIDY_COMMENT || now->kind == FG_TIDY_SEMICOLON) continue;
        if (now->kind == FG_TIDY_CLOSE || now->kind == FG_TIDY_END) break;
        const size_t end = row_end(t, t->at);
        add_row(t, t->at, end, INDENT, keeps_semicolon(t, t->at, end) ? ";" : "");
        t->at = end;
    }
    add_line(t, 0, blanks_before(t, t->at), copy(t, fg_text_of("}")));
    t->at++;
}

static void take_statement(tidying *t)
{
    const size_t from = t->at, end = row_end(t, from);
    const bool opens = token(t, end)->kind == FG_TIDY_OPEN;
    const size_t close = opens ? block_end(t, end) : end;
    const bool head = on_one_line(t, from, end);
    fg_buffer block = {0}, whole = {0};
    add_tokens(t, from, end, &whole);
    if (opens) add_block(t, end, close, &block);
    fg_buffer_add(&whole, fg_buffer_text(&block));
    const bool fits =
        !opens || (on_one_line(t, end, close + 1) && fg_tidy_width(fg_buffer_text(&whole)) <= FG_TIDY_WIDTH);
    t->full = t->full || block.full || whole.full;
    fg_buffer_free(&whole);
    const bool asks = keeps_semicolon(t, from, end);
    if (head && fits && !asks) {
        add_statement(t, from, end, close, &block);
        t->at = opens ? close + 1 : end;
    } else {
        add_row(t, from, end, 0, opens ? " {" : asks ? ";" : "");
        t->at = opens ? end + 1 : end;
        if (opens) take_rows(t);
    }
    fg_buffer_free(&block);
}

fg_status fg_tidy(const char *path, fg_text text, fg_text *tidied, fg_mistake *mistake)
{
    tidying t = {0};
    fg_buffer out = {0};
    *tidied = (fg_text){0};
    *mistake = (fg_mistake){0};
    const bool cut = fg_tidy_cut(path, text, &t.tokens, mistake);
    while (cut && !t.full && !t.lines.full && token(&t, t.at)->kind != FG_TIDY_END) {
        take_semicolons(&t);
        take_comments(&t, 0);
        const fg_tidy_kind kind = token(&t, t.at)->kind;
        if (kind != FG_TIDY_END && kind != FG_TIDY_SEMICOLON && kind != FG_TIDY_COMMENT) take_statement(&t);
    }
    if (cut) fg_tidy_lay_out(&t.lines, &out);
    const bool full = t.full || t.tokens.full || t.lines.full || out.full;
    for (size_t i = 0; i < t.lines.count; i++) {
        for (int k = 0; k < FG_TIDY_COLUMNS; k++) free(t.lines.at[i].columns[k]);
        free(t.lines.at[i].comment);
    }
    free(t.lines.at);
    free(t.tokens.at);
    if (cut && !full) {
        *tidied = fg_buffer_text(&out);
        return FG_OK;
    }
    fg_buffer_free(&out);
    if (*mistake->text) return FG_ERROR_GATE;
    return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory");
}
