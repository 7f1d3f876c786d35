/* SPDX-License-Identifier: MIT */
/* Texts that live as long as the coder, and lines of code. */
#include "workshop/bake/plan/coder.h"

#include <ctype.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

/* Keeps a piece of memory up to the end; NULL, and it is free, without memory for that. */
static void *keep(coder *c, void *piece)
{
    if (c->taken_count == c->taken_room) {
        const size_t room = c->taken_room ? 2 * c->taken_room : 256;
        void **more = realloc(c->taken, room * sizeof *more);
        if (more) {
            c->taken = more;
            c->taken_room = room;
        } else {
            free(piece);
            piece = NULL;
        }
    }
    c->full = c->full || !piece;
    if (piece) c->taken[c->taken_count++] = piece;
    return piece;
}

void *fg_code_take(coder *c, size_t size) { return keep(c, malloc(size)); }

const char *fg_code_say(coder *c, const char *format, ...)
{
    va_list list, again;
    va_start(list, format);
    va_copy(again, list);
    const int size = vsnprintf(NULL, 0, format, list);
    char *text = size < 0 ? NULL : malloc((size_t)size + 1);
    if (text) (void)vsnprintf(text, (size_t)size + 1, format, again);
    va_end(again);
    va_end(list);
    text = keep(c, text);
    return text ? text : "";
}

enum { WIDTH = 108, INDENT = 4 }; /* brackets are still to come */

static bool is_break(const char *at) { return !strncmp(at, " && ", 4) || !strncmp(at, " || ", 4); }

/* Where a line that is too long is broken: in front of the last && or || of what fits, else behind the
 * last comma. 0: nowhere. */
static size_t place_to_break(const char *text, size_t room)
{
    size_t best = 0;
    for (size_t i = INDENT; i < room && text[i]; i++)
        if (is_break(text + i)) best = i;
    if (best) return best;
    for (size_t i = INDENT; i + 1 < room && text[i]; i++)
        if (text[i] == ',' && text[i + 1] == ' ') best = i + 1;
    return best;
}

/* A line on its way into a block: its text without marks, and the names in it. */
typedef struct layout {
    code_block *out;
    const char *text;
    code_use *uses;
    size_t use_count;
} layout;

static void add_blanks(code_block *b, int count)
{
    while (count-- > 0) fg_buffer_add_c(&b->text, " ");
}

/* A piece of the text, with the uses in it; they stand in order. */
static void put(layout *l, size_t from, size_t size)
{
    size_t first = 0, behind;
    while (first < l->use_count && l->uses[first].at < from) first++;
    for (behind = first; behind < l->use_count && l->uses[behind].at < from + size;) l->uses[behind++].at -= from;
    fg_code_block_add(l->out, (fg_text){l->text + from, size}, l->uses + first, behind - first);
    for (size_t i = first; i < behind; i++) l->uses[i].at += from;
}

/* A piece of a line, in as many lines as it takes. */
static void add_piece(layout *l, size_t at, size_t size, int begin, bool whole)
{
    int blanks = begin;
    while (size + (size_t)blanks > WIDTH && !whole) {
        const size_t end = place_to_break(l->text + at, WIDTH - (size_t)blanks);
        if (!end || end >= size) break;
        add_blanks(l->out, blanks);
        put(l, at, end);
        fg_buffer_add_c(&l->out->text, "\n");
        at += end + 1;
        size -= end + 1;
        blanks = begin + INDENT;
    }
    if (size) add_blanks(l->out, blanks);
    put(l, at, size);
    fg_buffer_add_c(&l->out->text, "\n");
}

/* A line that is too long is broken where it says (\v), then wherever it goes. */
static void add_line(layout *l, int blanks)
{
    const bool whole = strstr(l->text, "/*") || !strncmp(l->text, " *", 2) || strchr(l->text, '"');
    size_t marks = 0;
    for (const char *at = l->text; *at; at++) marks += *at == '\v';
    const size_t size = strlen(l->text);
    const bool fits = size - marks + (size_t)blanks <= WIDTH;
    if (fits && size > marks) add_blanks(l->out, blanks);
    for (size_t at = 0;;) {
        const char *mark = strchr(l->text + at, '\v');
        const size_t length = mark ? (size_t)(mark - l->text) - at : size - at;
        if (fits)
            put(l, at, length);
        else
            add_piece(l, at, length, at ? blanks + INDENT : blanks, whole);
        if (!mark) break;
        at += length + 1;
        at += !fits && l->text[at] == ' ';
    }
    if (fits) fg_buffer_add_c(&l->out->text, "\n");
}

static bool is_word(char at) { return isalnum((unsigned char)at) || at == '_'; }

/* Takes the marks of names (\3) out of a text and notes the uses. False without memory. */
static bool note_uses(const coder *c, char *text, layout *l)
{
    size_t marks = 0;
    for (const char *at = text; *at; at++) marks += *at == '\3';
    l->uses = malloc((marks + 1) * sizeof *l->uses);
    if (!l->uses) return false;
    char *to = text;
    for (const char *at = text; *at; at++) {
        if (*at != '\3') {
            *to++ = *at;
            continue;
        }
        size_t size = 0;
        while (is_word(at[1 + size])) size++;
        const uint32_t symbol = fg_code_symbol_number(&c->symbols, (fg_text){at + 1, size});
        if (symbol) l->uses[l->use_count++] = (code_use){(size_t)(to - text), symbol};
    }
    *to = '\0';
    l->text = text;
    return true;
}

/* A statement; a line end at its very beginning stands in front of it. */
static void add_statement(coder *c, int indent, char *text, code_statement statement)
{
    layout l = {.out = c->out};
    char *at = text + (*text == '\n');
    if (*text == '\n') fg_buffer_add_c(&c->out->text, "\n");
    if (note_uses(c, at, &l)) {
        const size_t begin = c->out->text.size;
        add_line(&l, *at == '#' ? 0 : indent * INDENT);
        statement.indent = (size_t)indent * INDENT;
        statement.value += statement.indent;
        fg_code_block_statement(c->out, begin, statement);
    } else {
        c->full = true;
    }
    free(l.uses);
}

void fg_code_line(coder *c, int indent, const char *format, ...)
{
    char *text = NULL;
    va_list list, again;
    va_start(list, format);
    va_copy(again, list);
    const int size = vsnprintf(NULL, 0, format, list);
    if (size >= 0) text = malloc((size_t)size + 1);
    if (text) (void)vsnprintf(text, (size_t)size + 1, format, again);
    va_end(again);
    va_end(list);
    c->full = c->full || !text;
    if (text) add_statement(c, indent, text, (code_statement){0});
    free(text);
}

const char *fg_code_name(const char *local) { return *local == '\3' ? local + 1 : local; }

void fg_code_define(coder *c, int indent, code_definition d)
{
    char *text = NULL;
    const char *name = fg_code_name(d.name);
    const int value = asprintf(&text, "const %s %s%s = %s;", d.type, name, d.size ? d.size : "", d.value);
    if (value < 0) {
        c->full = true;
        return;
    }
    const size_t behind =
        strlen("const ") + strlen(d.type) + strlen(" ") + strlen(name) + (d.size ? strlen(d.size) : 0) + strlen(" = ");
    const uint32_t symbol = fg_code_symbol_number(&c->symbols, fg_text_of(name));
    add_statement(c, indent, text,
                  (code_statement){.defines = symbol, .symbol = symbol, .remembers = d.remembers, .value = behind});
    free(text);
}

/* ---- functions ---- */

code_block *fg_code_function_begin(coder *c, const char *name)
{
    code_block *const before = c->out;
    if (c->function_count == c->function_room) {
        const size_t room = c->function_room ? 2 * c->function_room : 32;
        code_function *more = realloc(c->functions, room * sizeof *more);
        c->full = c->full || !more;
        if (!more) return before;
        c->functions = more;
        c->function_room = room;
    }
    code_function *f = &c->functions[c->function_count++];
    *f = (code_function){.symbol = name ? fg_code_symbol_number(&c->symbols, fg_text_of(fg_code_name(name))) : 0};
    (void)fg_code_symbol_of_file(&c->symbols, f->symbol);
    c->out = &f->block;
    return before;
}

void fg_code_function_end(coder *c, code_block *before) { c->out = before; }
