/* SPDX-License-Identifier: MIT */
/* Lines of C, and which names stand in each: so that what nothing uses can be left out, and only what is called is
 * copied in, without reading the code again. */
#ifndef FICKLEGATE_WORKSHOP_BAKE_PLAN_BLOCK_H
#define FICKLEGATE_WORKSHOP_BAKE_PLAN_BLOCK_H

#include "workshop/base/word_set.h"

/* A name that may turn out to be unused: a local, a function of the gate, a part that can be copied in, an answer such
 * as YES, one of the clocks of a step. A text that uses it has \3 in front of it. */
typedef struct code_symbol {
    const char *name;
    bool used;
    bool of_file; /* it stands outside of functions, so it gets the gate's name in front */
} code_symbol;

/* All of them. */
typedef struct code_symbols {
    code_symbol *list;
    size_t count, room;
    fg_words numbers; /* of each name, from 1 */
} code_symbols;

/* A name in a block, and where it stands. */
typedef struct code_use {
    size_t at;
    uint32_t symbol;
} code_use;

/* One call of fg_code_line or fg_code_define: a line, or several where it is too long for one. */
typedef struct code_statement {
    size_t at, size;
    bool defines;   /* "const TYPE NAME = VALUE;" of `symbol` */
    bool remembers; /* working the value out changes the state, so it has to be done even if nobody uses it */
    uint32_t symbol;
    size_t indent, value; /* blanks in front, and where the value begins, from `at` on */
} code_statement;

typedef struct code_block {
    fg_buffer text;
    code_use *uses; /* as they stand in the text */
    size_t use_count, use_room;
    code_statement *statements;
    size_t statement_count, statement_room;
} code_block;

/* A function of the gate, which is left out if nothing calls it. `symbol`: its number, or 0 for one that is always
 * there. */
typedef struct code_function {
    uint32_t symbol;
    code_block block;
} code_function;

/* The number of a symbol of this name, which lives as long; 0 without memory. */
uint32_t fg_code_symbol(code_symbols *symbols, const char *name);
/* Says that it stands outside of functions; false where the number is 0. */
bool fg_code_symbol_of_file(code_symbols *symbols, uint32_t number);
/* The number of a name that has one; 0 if it has none. */
uint32_t fg_code_symbol_number(const code_symbols *symbols, fg_text name);
/* Is the symbol of this name used, as far as marking has come? */
bool fg_code_symbol_used(const code_symbols *symbols, const char *name);
void fg_code_symbols_free(code_symbols *symbols);

/* Adds text with the uses in it, whose places count from its beginning. */
void fg_code_block_add(code_block *block, fg_text text, const code_use *uses, size_t use_count);
/* What was added since `at` is one statement. */
void fg_code_block_statement(code_block *block, size_t at, code_statement statement);
/* Adds all that is in another block. */
void fg_code_block_append(code_block *block, const code_block *more);
/* Adds a part of a block to another: text and uses, no statements. */
void fg_code_block_copy(code_block *to, const code_block *block, size_t from, size_t end);
void fg_code_block_free(code_block *block);

/* Marks every symbol that a block uses. */
void fg_code_block_mark(const code_block *block, code_symbols *symbols);
/* Leaves out the definitions that nothing behind them uses, and marks what the rest uses. What remembers is still
 * worked out. */
void fg_code_block_prune(code_block *block, code_symbols *symbols);

#endif
