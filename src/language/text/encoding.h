/* SPDX-License-Identifier: MIT */
/* Is it text at all? */
#ifndef FICKLEGATE_LANGUAGE_TEXT_ENCODING_H
#define FICKLEGATE_LANGUAGE_TEXT_ENCODING_H

#include "language/compiler.h"

/* Is this text UTF-8 without NUL? If not it is reported, and nothing of it is read. */
bool fg_check_encoding(fg_compiler *c, fg_text text, uint16_t source);

/* A name with the letters of Latin-1 in ASCII, as in groesse; empty if it has others. */
fg_text fg_text_in_ascii(fg_compiler *c, fg_text name);

#endif
