/* What people write who know other languages, and what it is here: words that begin a declaration, a row or a level, and
 * signs. Asked only where the text is wrong already, so none of these words is taken from anybody's names. */
#ifndef FICKLEGATE_LANGUAGE_TREE_MEANT_H
#define FICKLEGATE_LANGUAGE_TREE_MEANT_H

#include "language/tree/parse.h"

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
/* Does a sign or word stand here that compares in another language, as > or above? */
bool fg_meant_compares(fg_compiler *c);
/* Reports it with the words that are meant, and reads its numbers. `subject`: what is compared, empty in a rule. */
void fg_meant_comparison(fg_compiler *c, fg_text subject);
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
/* A block that is not closed, perhaps because of a colour that was read as a comment. */
void fg_meant_not_closed(fg_compiler *c, fg_span open, fg_place end);

#endif
