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

/* ASCII letters in lower case. */
static char small(char letter)
{
    static const char letters[] = "abcdefghijklmnopqrstuvwxyz";
    if (letter < 'A' || letter > 'Z') return letter;
    return letters[letter - 'A'];
}

bool fg_text_in_other_case(fg_text a, fg_text b)
{
    size_t i = 0;
    while (i < a.size && i < b.size && small(a.at[i]) == small(b.at[i])) i++;
    return i == a.size && i == b.size;
}

int fg_hex_digit(char c)
{
    if (c >= '0' && c <= '9') return c - '0';
    if (c >= 'a' && c <= 'f') return c - 'a' + 10;
    return c >= 'A' && c <= 'F' ? c - 'A' + 10 : -1;
}
