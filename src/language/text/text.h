/* SPDX-License-Identifier: MIT */
/* What the language does with texts besides fg_text_same and fg_text_is. */
#ifndef FICKLEGATE_LANGUAGE_TEXT_TEXT_H
#define FICKLEGATE_LANGUAGE_TEXT_TEXT_H

#include <ficklegate/language.h>

/* A constant text. */
#define T(literal) ((fg_text){"" literal, sizeof(literal) - 1})

bool fg_bytes_same(const char *a, const char *b, size_t size);
/* Where a byte stands from `from` on; the size of the text if nowhere. */
size_t fg_text_byte(fg_text text, size_t from, char byte);
/* 0 to 15; below 0 if it is no such digit. */
int fg_hex_digit(char c);

#endif
