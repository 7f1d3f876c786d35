/* SPDX-License-Identifier: MIT */
/* How deep the stack of a step gets on an 8-bit chip: a bound from the code itself. Each function may keep all its
 * arguments and locals in memory and saves all registers that the convention of avr-gcc asks it to save (18 bytes, and
 * up to three of the return address); the deepest chain of calls counts. What is smaller in truth, as most locals live
 * in registers, is not known before a compiler has seen it. */
#include "workshop/bake/write/tokens.h"
#include "workshop/bake/write/write.h"

#include <stdlib.h>
#include <string.h>

enum { FUNCTIONS_MOST = 2000, SAVED = 21, WIDE_HELPER = 32 };

typedef struct function {
    size_t name, body, end; /* tokens */
    size_t own, deepest;    /* bytes: its own, and with all that it calls; 0: not known yet */
} function;

typedef struct stack {
    code_tokens t;
    function *list;
    size_t count;
    bool wide; /* numbers of 64 bits, whose multiplication and division are functions of libgcc */
} stack;

static bool same_word(const code_tokens *t, size_t a, size_t b)
{
    return t->list[a].size == t->list[b].size &&
           !memcmp(t->text + t->list[a].at, t->text + t->list[b].at, t->list[a].size);
}

static size_t locals(stack *s, size_t from, size_t to);

/* The members of the struct that a word names; 0 if it names none. */
static size_t size_of_struct(stack *s, size_t word)
{
    static const char ending[] = "_shared";
    const code_token *name = &s->t.list[word];
    const size_t size = sizeof ending - 1;
    if (name->size < size || memcmp(s->t.text + name->at + name->size - size, ending, size) != 0) return 0;
    for (size_t i = 0; i + 3 < word; i++)
        if (fg_code_token_is(&s->t, i, "struct") && same_word(&s->t, i + 1, word))
            return locals(s, i + 2, fg_code_behind_group(&s->t, i + 2));
    return 0;
}

/* The size of a type on an AVR by its last letters; 0: it is none. */
static size_t size_of_type(stack *s, size_t i)
{
    static const struct {
        const char *ending;
        size_t size;
    } types[] = {{"int64_t", 8}, {"int32_t", 4}, {"int16_t", 2}, {"int8_t", 1}, {"bool", 1},     {"char", 1},
                 {"int", 2},     {"_wide", 16},  {"_writer", 8}, {"_ring", 2},  {"_playing", 16}};
    const code_token *word = &s->t.list[i];
    for (size_t k = 0; k < sizeof types / sizeof *types; k++) {
        const size_t size = strlen(types[k].ending);
        if (word->kind == CODE_TOKEN_WORD && word->size >= size &&
            !memcmp(s->t.text + word->at + word->size - size, types[k].ending, size))
            return types[k].size;
    }
    return size_of_struct(s, i);
}

/* What a name that is declared here takes; `size`: of its type. */
static size_t size_of_name(const stack *s, size_t i, size_t size)
{
    if (!fg_code_token_is(&s->t, i + 1, "[")) return size;
    const size_t count = strtoul(s->t.text + s->t.list[i + 2].at, NULL, 10);
    return size * (count ? count : 16); /* a list that counts its own members, or by a name: none is longer */
}

/* All that is declared from one token up to another. */
static size_t locals(stack *s, size_t from, size_t to)
{
    static const char *const ends[] = {"=", ";", ",", ")", "[", NULL};
    size_t all = 0, size = 0;
    for (size_t i = from; i + 1 < to; i++) {
        if (fg_code_token_is(&s->t, i, ";") || fg_code_token_is(&s->t, i, "{")) size = 0;
        const size_t type = size_of_type(s, i);
        s->wide = s->wide || type == 8;
        const bool points = type && fg_code_token_is(&s->t, i + 1, "*");
        const size_t name = points ? i + 2 : i + 1;
        const bool first = type && s->t.list[name].kind == CODE_TOKEN_WORD;
        if (first) size = points ? 2 : type;
        const bool next = size && fg_code_token_is(&s->t, i, ",") && s->t.list[i + 1].kind == CODE_TOKEN_WORD;
        if ((first || next) && fg_code_token_is_any(&s->t, name + 1, ends)) all += size_of_name(s, name, size);
    }
    return all;
}

static size_t opening(const code_tokens *t, size_t i)
{
    size_t depth = 0;
    do {
        depth += fg_code_token_is(t, i, ")");
        depth -= fg_code_token_is(t, i, "(");
        i--;
    } while (depth && i);
    return i + 1;
}

static void find_functions(stack *s)
{
    for (size_t i = 0; i < s->t.count && s->count < FUNCTIONS_MOST; i++) {
        if (!fg_code_is_body(&s->t, i)) continue;
        const size_t arguments = opening(&s->t, i - 1), end = fg_code_behind_group(&s->t, i);
        s->list[s->count++] = (function){
            .name = arguments - 1, .body = i, .end = end, .own = SAVED + locals(s, arguments, i) + locals(s, i, end)};
        i = end - 1;
    }
}

/* Functions call only those in front of them. */
static void add_calls(stack *s, size_t number)
{
    function *f = &s->list[number];
    size_t deepest = 0;
    for (size_t i = f->body; i < f->end; i++) {
        if (!fg_code_token_is(&s->t, i + 1, "(")) continue;
        for (size_t k = 0; k < number; k++)
            if (same_word(&s->t, i, s->list[k].name) && s->list[k].deepest > deepest) deepest = s->list[k].deepest;
    }
    f->deepest = f->own + deepest;
}

size_t fg_code_stack(coder *c, fg_buffer *source)
{
    const char *step = fg_code_say(c, "%s_step", c->name);
    stack s = {.list = calloc(FUNCTIONS_MOST, sizeof *s.list)};
    size_t most = 0;
    fg_buffer_end(source);
    s.t.text = source->text;
    if (s.list && !source->full) {
        fg_code_tokens_read(&s.t);
        find_functions(&s);
        for (size_t i = 0; i < s.count; i++) add_calls(&s, i);
        for (size_t i = 0; i < s.count; i++)
            if (fg_code_token_is(&s.t, s.list[i].name, step)) most = s.list[i].deepest;
    }
    c->full = c->full || !s.list || source->full || s.t.full;
    fg_code_tokens_free(&s.t);
    free(s.list);
    return most + (s.wide ? WIDE_HELPER : 0);
}
