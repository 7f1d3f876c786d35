/* SPDX-License-Identifier: MIT */
/* The words of the language that a name or a unit cannot be. */
#ifndef FICKLEGATE_LANGUAGE_TEXT_WORDS_H
#define FICKLEGATE_LANGUAGE_TEXT_WORDS_H

#include "language/text/text.h"

/* Is it one of these words? The list ends with NULL. */
bool fg_word_listed(fg_text word, const char *const *words);
/* A word of conditions, which cannot be a name. */
bool fg_word_reserved(fg_text word);
/* A word that may follow a condition, although it could be a name. */
bool fg_word_goes_on(fg_text word);
/* A word that may follow a number one space on, and so is not its unit there. */
bool fg_word_unit_follows_not(fg_text word);

#endif
