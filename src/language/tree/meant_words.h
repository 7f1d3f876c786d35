/* SPDX-License-Identifier: MIT */
/* Words and signs of other languages, and what they are here: words that begin a declaration, a row or a level, and
 * signs. Asked only where the text is wrong already, so none of these words is taken from anybody's names. */
#ifndef FICKLEGATE_LANGUAGE_TREE_MEANT_WORDS_H
#define FICKLEGATE_LANGUAGE_TREE_MEANT_WORDS_H

#include "language/text/findings.h"

/* A word that is meant for something else. In `instead` {} is the name that stands behind it. */
typedef struct fg_meant {
    const char *word;
    const char *instead; /* what to write */
    const char *fix;     /* the word for just this one; NULL if more than the word has to change */
} fg_meant;

/* Is it this word, in any letter case? */
bool fg_meant_word(fg_text word, const char *known);
/* The row for the word here, in any letter case; NULL: it is none of them. */
const fg_meant *fg_meant_statement(fg_text word);
/* Of a row of a sensor, flag, rule or listener. */
const fg_meant *fg_meant_row(fg_kind kind, fg_text word);
/* Of a level of an output or sequence. */
const fg_meant *fg_meant_level(fg_kind kind, fg_text word);
/* Of a row of a trial. */
const fg_meant *fg_meant_trial(fg_text word);

/* Says what belongs here instead of a sign of another language. */
void fg_meant_sign(fg_compiler *c);
/* A block that is not closed, perhaps because of a colour that was read as a comment. */
void fg_meant_not_closed(fg_compiler *c, fg_span open, fg_place end);

#endif
