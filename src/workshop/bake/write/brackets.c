/* SPDX-License-Identifier: MIT */
/* Brackets around operands and braces around branches, as MISRA C:2012 asks in its rules 12.1 and 15.6: so that nobody
 * who reads the code has to know which operator binds tighter, or to which `if` a line belongs. The code that is read
 * here is our own: no macros with statements, no function types. What stands in a line that begins with # stays. */
#include "workshop/bake/write/tokens.h"
#include "workshop/bake/write/write.h"

#include <stdlib.h>
#include <string.h>

/* `remove` bytes at a place make room for a text, on a new line so many blanks in where `indent` is not NO_LINE. What
 * closes comes before what opens at the same place. */
typedef struct edit {
    size_t at, remove, indent, order;
    const char *text;
    bool opens;
} edit;

enum { NO_LINE = 1000000 };

typedef struct bracketer {
    code_tokens t;
    edit *edits;
    size_t edit_count, edit_room;
    bool full;
} bracketer;

/* ---- edits ---- */

static void add_edit(bracketer *b, edit one)
{
    if (b->edit_count == b->edit_room) {
        const size_t room = b->edit_room ? 2 * b->edit_room : 200;
        edit *grown = realloc(b->edits, room * sizeof *grown);
        b->full = b->full || !grown;
        if (!grown) return;
        b->edits = grown;
        b->edit_room = room;
    }
    one.order = b->edit_count;
    b->edits[b->edit_count++] = one;
}

static int by_place(const void *one, const void *other)
{
    const edit *a = one, *b = other;
    if (a->at != b->at) return a->at < b->at ? -1 : 1;
    if (a->opens != b->opens) return a->opens ? 1 : -1;
    return a->order < b->order ? -1 : 1;
}

/* ---- expressions ---- */

/* What stands from one token up to another. `strength`: how tight its outermost operator binds; PRIMARY: there is
 * none. */
typedef struct operand {
    size_t from, to;
    int strength;
} operand;

enum { CHOICE, OR, AND, BIT_OR, BIT_XOR, BIT_AND, EQUALITY, ORDER, SHIFT, SUM, PRODUCT, PRIMARY, NONE = -1 };

static int strength_of(const bracketer *b, size_t i)
{
    static const char *const operators[][6] = {[OR] = {"||"},
                                               [AND] = {"&&"},
                                               [BIT_OR] = {"|"},
                                               [BIT_XOR] = {"^"},
                                               [BIT_AND] = {"&"},
                                               [EQUALITY] = {"==", "!="},
                                               [ORDER] = {"<=", ">=", "<", ">"},
                                               [SHIFT] = {"<<", ">>"},
                                               [SUM] = {"+", "-"},
                                               [PRODUCT] = {"*", "/", "%"}};
    for (int k = OR; k < PRIMARY; k++)
        if (fg_code_token_is_any(&b->t, i, operators[k])) return k;
    return NONE;
}

static void bracket(bracketer *b, operand o)
{
    if (o.strength == PRIMARY || o.from >= o.to) return;
    add_edit(b, (edit){.at = b->t.list[o.from].at, .text = "(", .indent = NO_LINE, .opens = true});
    add_edit(b, (edit){.at = fg_code_token_end(&b->t, o.to - 1), .text = ")", .indent = NO_LINE});
}

static void write_expressions(bracketer *b, size_t from, size_t to);

/* Is what stands in brackets here a type, in front of what is cast to it? */
static bool is_cast(const bracketer *b, size_t i, size_t behind)
{
    static const char *const words[] = {"bool", "char", "int", "unsigned", "long", "const", NULL};
    if (!fg_code_token_is(&b->t, i, "(") || behind >= b->t.count) return false;
    if (b->t.list[behind].kind != CODE_TOKEN_SIGN) return true;
    const code_token *first = &b->t.list[i + 1];
    const bool typed = first->size > 2 && !memcmp(b->t.text + first->at + first->size - 2, "_t", 2);
    return typed || fg_code_token_is_any(&b->t, i + 1, words);
}

static operand read_unary(bracketer *b, size_t i, size_t to)
{
    static const char *const prefixes[] = {"!", "~", "-", "+", "*", "&", "++", "--", "sizeof", NULL};
    static const char *const groups[] = {"(", "[", NULL}, *const members[] = {".", "->", NULL},
                             *const steps[] = {"++", "--", NULL};
    operand o = {i, i, PRIMARY};
    while (i < to && fg_code_token_is_any(&b->t, i, prefixes)) i++;
    if (i >= to) return (operand){o.from, i, PRIMARY};
    if (b->t.list[i].kind == CODE_TOKEN_SIGN && !fg_code_token_is(&b->t, i, "(") && !fg_code_token_is(&b->t, i, "{"))
        return o; /* no operand: = , ; : */
    const size_t behind = fg_code_behind_group(&b->t, i);
    if (fg_code_token_is(&b->t, i, "(") || fg_code_token_is(&b->t, i, "{")) write_expressions(b, i + 1, behind - 1);
    if (behind < to && is_cast(b, i, behind)) return (operand){o.from, read_unary(b, behind, to).to, PRIMARY};
    for (i = behind; i < to;) {
        if (fg_code_token_is_any(&b->t, i, groups)) {
            const size_t end = fg_code_behind_group(&b->t, i);
            write_expressions(b, i + 1, end - 1);
            i = end;
        } else if (fg_code_token_is_any(&b->t, i, members)) {
            i += 2;
        } else if (fg_code_token_is_any(&b->t, i, steps)) {
            i++;
        } else {
            break;
        }
    }
    o.to = i;
    return o;
}

/* Operands of an operator that binds tighter than their own need brackets, but not those of a chain of its like. */
static operand read_binary(bracketer *b, size_t i, size_t to, int least)
{
    operand left = read_unary(b, i, to);
    for (int strength; (strength = strength_of(b, left.to)) >= least && left.to < to;) {
        const operand right = read_binary(b, left.to + 1, to, strength + 1);
        if (left.strength != strength) bracket(b, left);
        bracket(b, right);
        left = (operand){left.from, right.to, strength};
    }
    return left;
}

static operand read_choice(bracketer *b, size_t i, size_t to)
{
    const operand asked = read_binary(b, i, to, OR);
    if (asked.to >= to || !fg_code_token_is(&b->t, asked.to, "?")) return asked;
    const operand yes = read_choice(b, asked.to + 1, to), no = read_choice(b, yes.to + 1, to);
    bracket(b, asked);
    bracket(b, yes);
    bracket(b, no);
    return (operand){i, no.to, CHOICE};
}

/* Expressions with what stands between them: commas, assignments, the words of a declaration. */
static void write_expressions(bracketer *b, size_t from, size_t to)
{
    for (size_t i = from; i < to;) {
        const operand o = read_choice(b, i, to);
        i = o.to > i ? o.to : i + 1;
    }
}

/* ---- statements ---- */

/* How far in the line of a token begins. */
static size_t indent_of(const bracketer *b, size_t i)
{
    const char *line = b->t.text + b->t.list[i].at;
    while (line > b->t.text && line[-1] != '\n') line--;
    return strspn(line, " ");
}

static bool on_one_line(const bracketer *b, size_t i, size_t k)
{
    const size_t from = b->t.list[i].at;
    return !memchr(b->t.text + from, '\n', b->t.list[k].at - from);
}

static size_t write_statement(bracketer *b, size_t i);

/* What an `if`, `else` or loop at `head` leads to; returns what is behind it. */
static size_t write_body(bracketer *b, size_t head, size_t i)
{
    if (i >= b->t.count || fg_code_token_is(&b->t, i, "{") ||
        (fg_code_token_is(&b->t, head, "else") && fg_code_token_is(&b->t, i, "if")))
        return write_statement(b, i);
    const bool short_form = on_one_line(b, i - 1, i), goes_on = !short_form || fg_code_token_is(&b->t, head, "else");
    add_edit(b, (edit){.at = fg_code_token_end(&b->t, i - 1), .text = " {", .indent = NO_LINE, .opens = true});
    const size_t behind = write_statement(b, i);
    const size_t end = fg_code_token_end(&b->t, behind - 1);
    const size_t line = goes_on ? end + strcspn(b->t.text + end, "\n") : end;
    const bool other = fg_code_token_is(&b->t, head, "if") && fg_code_token_is(&b->t, behind, "else");
    if (other)
        add_edit(b,
                 (edit){.at = line, .remove = b->t.list[behind].at - line, .text = "} ", .indent = indent_of(b, head)});
    else
        add_edit(b, (edit){.at = line, .text = goes_on ? "}" : " }", .indent = goes_on ? indent_of(b, head) : NO_LINE});
    return behind;
}

static size_t write_block(bracketer *b, size_t i)
{
    i++;
    while (i < b->t.count && !fg_code_token_is(&b->t, i, "}")) i = write_statement(b, i);
    return i + 1;
}

static size_t behind_semicolon(const bracketer *b, size_t i)
{
    while (i < b->t.count && !fg_code_token_is(&b->t, i, ";")) i = fg_code_behind_group(&b->t, i);
    return i + 1;
}

static size_t write_statement(bracketer *b, size_t i)
{
    static const char *const with_condition[] = {"if", "for", "while", "switch", NULL};
    if (fg_code_token_is(&b->t, i, "{")) return write_block(b, i);
    if (fg_code_token_is_any(&b->t, i, with_condition)) {
        const size_t behind = fg_code_behind_group(&b->t, i + 1);
        write_expressions(b, i + 2, behind - 1);
        const size_t next = write_body(b, i, behind);
        return fg_code_token_is(&b->t, i, "if") && fg_code_token_is(&b->t, next, "else") ? write_body(b, next, next + 1)
                                                                                         : next;
    }
    if (fg_code_token_is(&b->t, i, "do")) {
        const size_t condition = write_body(b, i, i + 1) + 1, behind = fg_code_behind_group(&b->t, condition);
        write_expressions(b, condition + 1, behind - 1);
        return behind + 1;
    }
    if (fg_code_token_is(&b->t, i, "case") || fg_code_token_is(&b->t, i, "default")) {
        while (i < b->t.count && !fg_code_token_is(&b->t, i, ":")) i++;
        return i + 1;
    }
    const size_t behind = behind_semicolon(b, i);
    write_expressions(b, fg_code_token_is(&b->t, i, "return") ? i + 1 : i, behind - 1);
    return behind;
}

/* ---- the whole ---- */

static void put_edited(const bracketer *b, fg_buffer *out)
{
    size_t at = 0;
    for (size_t i = 0; i < b->edit_count; i++) {
        const edit *e = &b->edits[i];
        fg_buffer_add(out, (fg_text){b->t.text + at, e->at - at});
        if (e->indent != NO_LINE) fg_buffer_add_c(out, "\n");
        for (size_t k = 0; e->indent != NO_LINE && k < e->indent; k++) fg_buffer_add_c(out, " ");
        fg_buffer_add_c(out, e->text);
        at = e->at + e->remove;
    }
    fg_buffer_add_c(out, b->t.text + at);
}

bool fg_code_brackets(fg_buffer *code, fg_buffer *out)
{
    fg_buffer_end(code);
    bracketer b = {.t.text = code->text};
    if (code->full) return false;
    fg_code_tokens_read(&b.t);
    b.full = b.t.full;
    for (size_t i = 0; i < b.t.count && !b.full;) /* functions are what has a body behind its arguments */
        i = fg_code_is_body(&b.t, i) ? write_block(&b, i) : i + 1;
    if (b.edit_count) qsort(b.edits, b.edit_count, sizeof *b.edits, by_place);
    if (!b.full) put_edited(&b, out);
    fg_code_tokens_free(&b.t);
    free(b.edits);
    return !b.full && !out->full;
}
