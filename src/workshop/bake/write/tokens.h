/* SPDX-License-Identifier: MIT */
/* The words and signs of code that was written, for what has to look at all of it once more: brackets, the stack. */
#ifndef FICKLEGATE_WORKSHOP_BAKE_WRITE_TOKENS_H
#define FICKLEGATE_WORKSHOP_BAKE_WRITE_TOKENS_H

#include <stdbool.h>
#include <stddef.h>

typedef enum code_token_kind { CODE_TOKEN_WORD, CODE_TOKEN_CONSTANT, CODE_TOKEN_SIGN } code_token_kind;

typedef struct code_token {
    size_t at, size;
    code_token_kind kind;
} code_token;

/* `text` ends in NUL and lives as long. `full`: there was no memory for all. */
typedef struct code_tokens {
    const char *text;
    code_token *list;
    size_t count, room;
    bool full;
} code_tokens;

/* Fills the list from `text`. */
void fg_code_tokens_read(code_tokens *t);
void fg_code_tokens_free(code_tokens *t);
/* Is it this word or sign, or one of a list that ends in NULL? Behind the last there is none. */
bool fg_code_token_is(const code_tokens *t, size_t i, const char *what);
bool fg_code_token_is_any(const code_tokens *t, size_t i, const char *const *list);
/* Does the body of a function begin here? */
bool fg_code_is_body(const code_tokens *t, size_t i);
/* Where it ends in the text. */
size_t fg_code_token_end(const code_tokens *t, size_t i);
/* The token behind the bracket that closes the one here; the next one if there is no bracket. */
size_t fg_code_behind_group(const code_tokens *t, size_t i);

#endif
