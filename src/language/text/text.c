/* SPDX-License-Identifier: MIT */
/* What the language does with texts besides fg_text_same and fg_text_is. */
#include "language/text/text.h"

/* Core has no memcmp. */
bool fg_bytes_same(const char *a, const char *b, size_t size)
{
    return fg_text_same((fg_text){a, size}, (fg_text){b, size});
}

/* Nor has it memchr. */
size_t fg_text_byte(fg_text text, size_t from, char byte)
{
    while (from < text.size && text.at[from] != byte) from++;
    return from < text.size ? from : text.size;
}

int fg_hex_digit(char c)
{
    if (c >= '0' && c <= '9') return c - '0';
    if (c >= 'a' && c <= 'f') return c - 'a' + 10;
    return c >= 'A' && c <= 'F' ? c - 'A' + 10 : -1;
}
