/* SPDX-License-Identifier: MIT */
/* The words and signs of baked code. What stands in a line that begins with # is left out. */
#include "workshop/bake/write/tokens.h"

#include <ctype.h>
#include <stdlib.h>
#include <string.h>

static void add_token(code_tokens *t, size_t at, size_t size, code_token_kind kind)
{
    if (t->count == t->room) {
        const size_t room = t->room ? 2 * t->room : 1000;
        code_token *grown = realloc(t->list, room * sizeof *grown);
        t->full = t->full || !grown;
        if (!grown) return;
        t->list = grown;
        t->room = room;
    }
    t->list[t->count++] = (code_token){at, size, kind};
}

static size_t sign_size(const char *at)
{
    static const char *const longer[] = {"<<=", ">>=", "...", "->", "++", "--", "<<", ">>", "<=", ">=", "==",
                                         "!=",  "&&",  "||",  "+=", "-=", "*=", "/=", "%=", "&=", "|=", "^="};
    for (size_t i = 0; i < sizeof longer / sizeof *longer; i++)
        if (!strncmp(at, longer[i], strlen(longer[i]))) return strlen(longer[i]);
    return 1;
}

static size_t quoted_size(const char *at)
{
    size_t size = 1;
    while (at[size] && at[size] != *at) size += at[size] == '\\' && at[size + 1] ? 2 : 1;
    return at[size] ? size + 1 : size;
}

/* What is no code: a blank, a comment, a line for the preprocessor. */
static size_t aside_size(const char *text, size_t i)
{
    const char *at = text + i;
    if (isspace((unsigned char)*at)) return 1;
    if (at[0] == '/' && at[1] == '*') {
        const char *end = strstr(at + 2, "*/");
        return end ? (size_t)(end - at) + 2 : strlen(at);
    }
    return *at == '#' && (!i || at[-1] == '\n') ? strcspn(at, "\n") : 0;
}

void fg_code_tokens_read(code_tokens *t)
{
    for (size_t i = 0; t->text[i] && !t->full;) {
        const char *at = t->text + i;
        size_t size = aside_size(t->text, i);
        if (size) {
            i += size;
            continue;
        }
        const bool word = isalpha((unsigned char)*at) || *at == '_', number = isdigit((unsigned char)*at) != 0;
        if (word || number)
            while (isalnum((unsigned char)at[size]) || at[size] == '_') size++;
        else
            size = *at == '"' || *at == '\'' ? quoted_size(at) : sign_size(at);
        add_token(t, i, size,
                  word                                  ? CODE_TOKEN_WORD
                  : number || *at == '"' || *at == '\'' ? CODE_TOKEN_CONSTANT
                                                        : CODE_TOKEN_SIGN);
        i += size;
    }
}

bool fg_code_token_is(const code_tokens *t, size_t i, const char *what)
{
    return i < t->count && t->list[i].size == strlen(what) && !memcmp(t->text + t->list[i].at, what, t->list[i].size);
}

bool fg_code_token_is_any(const code_tokens *t, size_t i, const char *const *list)
{
    while (*list && !fg_code_token_is(t, i, *list)) list++;
    return *list != NULL;
}

size_t fg_code_token_end(const code_tokens *t, size_t i) { return t->list[i].at + t->list[i].size; }

/* Behind the bracket that closes the one here. */
size_t fg_code_behind_group(const code_tokens *t, size_t i)
{
    static const char *const opens[] = {"(", "[", "{", NULL}, *const closes[] = {")", "]", "}", NULL};
    size_t depth = 0;
    do {
        depth += fg_code_token_is_any(t, i, opens);
        depth -= fg_code_token_is_any(t, i, closes);
        i++;
    } while (depth && i < t->count);
    return i;
}

bool fg_code_is_body(const code_tokens *t, size_t i)
{
    return i && fg_code_token_is(t, i, "{") && fg_code_token_is(t, i - 1, ")");
}

void fg_code_tokens_free(code_tokens *t)
{
    free(t->list);
    t->list = NULL;
    t->count = t->room = 0;
}
