/* SPDX-License-Identifier: MIT */
/* Lines of C with the names that stand in them. */
#include "workshop/bake/plan/block.h"

#include <stdlib.h>
#include <string.h>

/* ---- symbols ---- */

uint32_t fg_code_symbol(code_symbols *s, const char *name)
{
    if (!*name) return 0; /* there was no memory for it */
    if (s->count == s->room) {
        const size_t room = s->room ? 2 * s->room : 256;
        code_symbol *more = realloc(s->list, room * sizeof *more);
        if (!more) return 0;
        s->list = more;
        s->room = room;
    }
    if (!fg_words_add(&s->numbers, fg_text_of(name))) return 0;
    s->list[s->count++] = (code_symbol){.name = name};
    *fg_words_number(&s->numbers, fg_text_of(name)) = (uint32_t)s->count;
    return (uint32_t)s->count;
}

uint32_t fg_code_symbol_number(const code_symbols *s, fg_text name)
{
    const uint32_t *number = fg_words_number(&s->numbers, name);
    return number ? *number : 0;
}

static code_symbol *symbol_at(const code_symbols *s, uint32_t number) { return &s->list[number - 1]; }

bool fg_code_symbol_of_file(code_symbols *s, uint32_t number)
{
    if (number) symbol_at(s, number)->of_file = true;
    return number != 0;
}

bool fg_code_symbol_used(const code_symbols *s, const char *name)
{
    const uint32_t number = fg_code_symbol_number(s, fg_text_of(name));
    return number && symbol_at(s, number)->used;
}

void fg_code_symbols_free(code_symbols *s)
{
    free(s->list);
    fg_words_free(&s->numbers);
}

/* ---- blocks ---- */

static bool room_for_uses(code_block *b, size_t count)
{
    if (b->use_count + count <= b->use_room) return true;
    const size_t room = 2 * (b->use_count + count) + 16;
    code_use *more = realloc(b->uses, room * sizeof *more);
    b->text.full = b->text.full || !more;
    if (!more) return false;
    b->uses = more;
    b->use_room = room;
    return true;
}

void fg_code_block_add(code_block *b, fg_text text, const code_use *uses, size_t count)
{
    const size_t at = b->text.size;
    fg_buffer_add(&b->text, text);
    if (!room_for_uses(b, count)) return;
    for (size_t i = 0; i < count; i++) {
        b->text.full = b->text.full || !uses[i].symbol; /* a name that there was no memory for */
        if (uses[i].symbol) b->uses[b->use_count++] = (code_use){at + uses[i].at, uses[i].symbol};
    }
}

void fg_code_block_statement(code_block *b, size_t at, code_statement statement)
{
    b->text.full = b->text.full || (statement.defines && !statement.symbol);
    if (b->text.full) return;
    if (b->statement_count == b->statement_room) {
        const size_t room = b->statement_room ? 2 * b->statement_room : 64;
        code_statement *more = realloc(b->statements, room * sizeof *more);
        b->text.full = b->text.full || !more;
        if (!more) return;
        b->statements = more;
        b->statement_room = room;
    }
    statement.at = at;
    statement.size = b->text.size - at;
    b->statements[b->statement_count++] = statement;
}

void fg_code_block_append(code_block *b, const code_block *more)
{
    const size_t at = b->text.size;
    fg_code_block_add(b, fg_buffer_text(&more->text), more->uses, more->use_count);
    for (size_t i = 0; i < more->statement_count; i++) {
        code_statement s = more->statements[i];
        fg_code_block_statement(b, at + s.at, s);
        if (!b->text.full) b->statements[b->statement_count - 1].size = s.size;
    }
    b->text.full = b->text.full || more->text.full;
}

void fg_code_block_free(code_block *b)
{
    fg_buffer_free(&b->text);
    free(b->uses);
    free(b->statements);
    *b = (code_block){0};
}

/* ---- what is used ---- */

void fg_code_block_mark(const code_block *b, code_symbols *symbols)
{
    for (size_t i = 0; i < b->use_count; i++) symbol_at(symbols, b->uses[i].symbol)->used = true;
}

/* The first use from a place on; the uses stand in order. */
static size_t use_from(const code_block *b, size_t at)
{
    size_t low = 0, high = b->use_count;
    while (low < high) {
        const size_t middle = low + (high - low) / 2;
        if (b->uses[middle].at < at)
            low = middle + 1;
        else
            high = middle;
    }
    return low;
}

static void mark_part(const code_block *b, size_t from, size_t to, code_symbols *symbols)
{
    for (size_t i = use_from(b, from); i < b->use_count && b->uses[i].at < to; i++)
        symbol_at(symbols, b->uses[i].symbol)->used = true;
}

void fg_code_block_copy(code_block *to, const code_block *b, size_t from, size_t end)
{
    if (end == from) return;
    const size_t first = use_from(b, from), behind = use_from(b, end), at = to->text.size;
    fg_buffer_add(&to->text, (fg_text){b->text.text + from, end - from});
    if (!room_for_uses(to, behind - first)) return;
    for (size_t i = first; i < behind; i++)
        to->uses[to->use_count++] = (code_use){at + b->uses[i].at - from, b->uses[i].symbol};
}

/* Of what stands between statements (blank lines) all is kept. A definition is used only behind itself, so one way from
 * the end is enough: at each definition all uses of it have been seen. */
void fg_code_block_prune(code_block *b, code_symbols *symbols)
{
    if (b->text.full) return; /* something is missing: there was no memory for it */
    bool *left_out = calloc(b->statement_count + 1, sizeof *left_out);
    code_block rest = {.text = {.full = !left_out}};
    for (size_t i = b->statement_count; left_out && i-- > 0;) {
        const code_statement *s = &b->statements[i];
        left_out[i] = s->defines && !symbol_at(symbols, s->symbol)->used;
        if (!left_out[i])
            mark_part(b, s->at, s->at + s->size, symbols);
        else if (s->remembers)
            mark_part(b, s->at + s->value, s->at + s->size, symbols);
    }
    size_t at = 0;
    for (size_t i = 0; left_out && i < b->statement_count; i++) {
        const code_statement *s = &b->statements[i];
        fg_code_block_copy(&rest, b, at, left_out[i] ? s->at : s->at + s->size);
        at = s->at + s->size;
        if (!left_out[i] || !s->remembers) continue;
        fg_code_block_copy(&rest, b, s->at, s->at + s->indent);
        fg_buffer_add_c(&rest.text, "(void)");
        fg_code_block_copy(&rest, b, s->at + s->value, at);
    }
    if (left_out) fg_code_block_copy(&rest, b, at, b->text.size);
    free(left_out);
    fg_code_block_free(b);
    *b = rest;
}
