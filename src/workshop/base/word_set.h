/* SPDX-License-Identifier: MIT */
/* A set of texts, each with a number: has this one come before, and how often? */
#ifndef FICKLEGATE_WORKSHOP_WORD_SET_H
#define FICKLEGATE_WORKSHOP_WORD_SET_H

#include "workshop/base/buffer.h"

typedef struct fg_word {
    fg_text text;
    uint32_t number; /* 0 until somebody sets it */
} fg_word;

/* Set to {0} it is empty. The texts belong to whoever adds them, and live as long. */
typedef struct fg_words {
    fg_word *table; /* open addressing */
    size_t size;    /* a power of two, or 0 */
    size_t count;
} fg_words;

bool fg_words_has(const fg_words *words, fg_text word);
/* False: there is no memory for one more. A word that is in it already, or is empty, is fine. */
bool fg_words_add(fg_words *words, fg_text word);
/* The number of a word; NULL if it is not in the set. Valid until the next word is added. */
uint32_t *fg_words_number(const fg_words *words, fg_text word);
void fg_words_free(fg_words *words);

#endif
