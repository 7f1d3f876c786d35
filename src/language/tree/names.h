/* SPDX-License-Identifier: MIT */
/* Who is declared, and the nearest name for one that is not. */
#ifndef FICKLEGATE_LANGUAGE_TREE_NAMES_H
#define FICKLEGATE_LANGUAGE_TREE_NAMES_H

#include "language/compiler.h"

/* A new declaration; never NULL. One whose name is taken is reported, and known to nobody. */
fg_symbol *fg_name_declare(fg_compiler *c, fg_kind kind, fg_text name, fg_span span);
/* NULL if the name is not declared. */
fg_symbol *fg_name_find(const fg_compiler *c, fg_text name);
/* Finds a name, or reports it with the nearest known one of these kinds (a bit each) and returns NULL. */
fg_symbol *fg_name_use(fg_compiler *c, fg_text name, fg_span span, uint32_t kinds);
/* The nearest word of a list (ends with NULL), or an empty text. */
fg_text fg_name_nearest_word(fg_text word, const char *const *words);
/* Keeps `other` in `best` if it is nearer to `word` than `distance`, which begins at fg_name_reach(word) + 1. */
void fg_name_nearest_add(fg_text word, fg_text other, fg_text *best, size_t *distance);
/* How many letters two words may differ in to be taken for each other: 1 to 3, more in a longer word. */
size_t fg_name_reach(fg_text word);

/* The declaration being read looks at this name, so the program works it out before. */
void fg_name_depend(fg_compiler *c, fg_symbol *symbol, fg_span span);
/* The same for a declaration that is read already. */
void fg_name_used_by(fg_compiler *c, fg_symbol *user, fg_symbol *symbol, fg_span span);

#endif
