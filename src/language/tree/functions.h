/* SPDX-License-Identifier: MIT */
/* The functions of sums: one row each. */
#ifndef FICKLEGATE_LANGUAGE_TREE_FUNCTIONS_H
#define FICKLEGATE_LANGUAGE_TREE_FUNCTIONS_H

#include "language/compiler.h"

typedef struct fg_function {
    const char *word;
    fg_term_kind term;
    uint8_t least, most; /* operands */
    bool two_at_a_time;  /* one term joins two operands, so more of them need more terms */
    bool window;         /* of a sensor and a number of steps */
} fg_function;

/* The function of this name; NULL if there is none. */
const fg_function *fg_function_find(fg_text word);
/* The function whose name is nearest to a word, or an empty text. */
fg_text fg_function_nearest(fg_text word);
/* "abs, length, ...": all there are. */
fg_text fg_function_words(fg_compiler *c);

#endif
