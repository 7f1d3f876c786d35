/* SPDX-License-Identifier: MIT */
/* Text to tokens, one ahead. */
#ifndef FICKLEGATE_LANGUAGE_TEXT_LEXER_H
#define FICKLEGATE_LANGUAGE_TEXT_LEXER_H

#include "language/text/findings.h"
#include "language/text/words.h"

/* Begins with byte `from` of a text, and reads its first token. */
void fg_lex_start(fg_compiler *c, fg_text text, uint16_t source, uint32_t from);
/* Reads the next token. */
void fg_lex_next(fg_compiler *c);
/* Right after a number token: takes the unit behind it, if there is one. */
bool fg_lex_unit(fg_compiler *c, fg_text *unit, fg_span *span);
/* What stands behind the present token as a unit (`unit m/s`), and on to the token behind it. False: nothing is taken.
 */
bool fg_lex_unit_word(fg_compiler *c, fg_text *unit);
/* Where the present token stands. */
fg_span fg_lex_span(const fg_compiler *c);
/* The present token as it is written. */
fg_text fg_lex_text(const fg_compiler *c);
/* The character right behind the present token. */
char fg_lex_behind(const fg_compiler *c);

#endif
