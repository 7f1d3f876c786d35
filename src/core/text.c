/* SPDX-License-Identifier: MIT */
/* Texts: characters with a length. */
#include <ficklegate/text.h>

/* Core has no strlen: it needs nothing from a C library. */
fg_text fg_text_of(const char *string)
{
    fg_text text = {string, 0};
    while (string[text.size]) text.size++;
    return text;
}

/* Byte by byte, without memcmp, for the same reason. */
bool fg_text_same(fg_text a, fg_text b)
{
    if (a.size != b.size) return false;
    for (size_t i = 0; i < a.size; i++)
        if (a.at[i] != b.at[i]) return false;
    return true;
}

/* ASCII letters in lower case. */
static char small(char letter)
{
    static const char letters[] = "abcdefghijklmnopqrstuvwxyz";
    if (letter < 'A' || letter > 'Z') return letter;
    return letters[letter - 'A'];
}

bool fg_text_alike(fg_text a, fg_text b)
{
    size_t i = 0;
    while (i < a.size && i < b.size && small(a.at[i]) == small(b.at[i])) i++;
    return i == a.size && i == b.size;
}

/* Stops at the first difference, so a NUL inside the text cannot run past the end of the string. */
bool fg_text_is(fg_text text, const char *string)
{
    size_t i = 0;
    while (i < text.size && string[i] == text.at[i] && string[i]) i++;
    return i == text.size && !string[i];
}
