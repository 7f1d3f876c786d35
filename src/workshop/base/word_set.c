/* SPDX-License-Identifier: MIT */
/* A set of texts: a hash table with open addressing. */
#include "workshop/base/word_set.h"

#include <stdlib.h>

/* Its place, or the free one where it would stand. */
static fg_word *place_of(const fg_words *w, fg_text word)
{
    uint32_t hash = 2166136261u; /* FNV-1a (Fowler, Noll, Vo) */
    for (size_t i = 0; i < word.size; i++) hash = (hash ^ (unsigned char)word.at[i]) * 16777619u;
    size_t at = hash & (w->size - 1);
    while (w->table[at].text.size && !fg_text_same(w->table[at].text, word)) at = (at + 1) & (w->size - 1);
    return &w->table[at];
}

static bool grow(fg_words *w)
{
    fg_words larger = {.size = w->size ? 2 * w->size : 64, .count = w->count};
    larger.table = calloc(larger.size, sizeof *larger.table);
    if (!larger.table) return false;
    for (size_t i = 0; i < w->size; i++)
        if (w->table[i].text.size) *place_of(&larger, w->table[i].text) = w->table[i];
    free(w->table);
    *w = larger;
    return true;
}

uint32_t *fg_words_number(const fg_words *w, fg_text word)
{
    fg_word *place = word.size && w->size ? place_of(w, word) : NULL;
    return place && place->text.size ? &place->number : NULL;
}

bool fg_words_has(const fg_words *w, fg_text word) { return fg_words_number(w, word) != NULL; }

bool fg_words_add(fg_words *w, fg_text word)
{
    if (!word.size) return true;
    if (2 * (w->count + 1) > w->size && !grow(w)) return false; /* at most half full, so that ways stay short */
    fg_word *place = place_of(w, word);
    w->count += !place->text.size;
    place->text = word;
    return true;
}

void fg_words_free(fg_words *w)
{
    free(w->table);
    *w = (fg_words){0};
}
