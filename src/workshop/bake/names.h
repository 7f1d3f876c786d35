/* SPDX-License-Identifier: MIT */
/* What both kinds of baked files share: the names in them, and the comment on top. */
#ifndef FICKLEGATE_WORKSHOP_BAKE_NAMES_H
#define FICKLEGATE_WORKSHOP_BAKE_NAMES_H

#include "workshop/base/word_set.h"
#include <ficklegate/bake.h>

typedef struct baker {
    const fg_gate_file *file;
    const fg_program *program;
    const fg_gate *gate;
    const fg_bake_options *options;
    const char *name;
    FILE *out;
} baker;

/* The names in a header, so that no two are one. */
typedef struct namer {
    const baker *baker;
    char *capitals; /* the gate's name in capitals */
    char **used;
    size_t count;
    fg_words taken; /* the same, to look them up */
    bool full;
} namer;

bool fg_bake_namer(namer *n); /* makes room; false without memory */
void fg_bake_namer_free(namer *n);

/* Keeps NAME and a word behind it for the header's own use, before all others. */
void fg_bake_reserve(namer *n, const char *word);
enum { FG_BAKE_RESERVED_MOST = 8 };

/* Has a gate something that outlives a loss of power? */
bool fg_bake_keeps(const baker *b);

/* NAME_HASH, NAME_VERSION, how many of each there are, NAME_EVERY_MS: their words, and their lines. */
void fg_bake_reserve_numbers(namer *n);
void fg_bake_numbers(const namer *n, fg_buffer *out);

/* NAME_KIND_OF_THING in capitals; of two that are one the second gets a number, which is told. */
const char *fg_bake_enumerator(namer *n, const char *kind, fg_text thing, fg_text of);
void fg_bake_capitals(fg_buffer *out, const char *text, size_t size);

/* A word of C or C++, or one that the code itself uses? */
bool fg_bake_is_taken(const char *name);

/* A text in a comment, which it cannot end. */
void fg_bake_put_safe(FILE *out, const char *text, size_t size);

/* The comment on top of both files. */
void fg_bake_heading(const baker *b);
/* Whose the code is. `copies_parts`: functions of ours may stand in it. */
void fg_bake_terms(const baker *b, bool copies_parts);

#endif
