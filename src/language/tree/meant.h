/* SPDX-License-Identifier: MIT */
/* What people write who know other languages where a condition or a number stands, and what it is here. */
#ifndef FICKLEGATE_LANGUAGE_TREE_MEANT_H
#define FICKLEGATE_LANGUAGE_TREE_MEANT_H

#include "language/tree/meant_words.h"
#include "language/tree/parse.h"

/* Does a sign or word stand here that compares in another language, as > or above? */
bool fg_meant_compares(fg_compiler *c);
/* A sign or word that was taken, and the words that are meant by it. */
typedef struct fg_meant_comparison {
    fg_text sign, words;
    fg_span span;
} fg_meant_comparison;

/* Takes the sign or word that stands here. */
fg_meant_comparison fg_meant_take_comparison(fg_compiler *c);
/* Reports it. `subject`: what is compared, empty in a rule; `numbers`: what stands behind it. */
void fg_meant_say_comparison(fg_compiler *c, const fg_meant_comparison *taken, fg_text subject, fg_text numbers);
/* Does a sign stand here that says same or not the same? */
bool fg_meant_same(fg_compiler *c, bool *negated);
/* NAME == VALUE: reports what to write, and reads the value. `from`: the name. */
void fg_meant_equality(fg_compiler *c, const fg_symbol *symbol, fg_span from);
/* Does a sign stand here that means this word (and, or, not)? */
bool fg_meant_at(fg_compiler *c, const char *word);
/* Does a word stand here that means yes or no elsewhere? */
bool fg_meant_yes_word(fg_compiler *c);
/* NAME is yes, NAME true: reports that the name alone asks that, and reads the word. */
void fg_meant_yes(fg_compiler *c, const fg_symbol *symbol, fg_span from, bool negated);
/* Takes a sign that means this word (and, or, not), and says so. False: none stands here. */
bool fg_meant_accept(fg_compiler *c, const char *word);
/* Takes a comma that is meant as the decimal point of a literal, and says so; the literal gets its decimals and unit.
 * False: none stands here. */
bool fg_meant_decimal_comma(fg_compiler *c, fg_node *number);

#endif
