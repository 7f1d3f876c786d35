/* Texts: characters with a length. */
#include <ficklegate/text.h>

fg_text fg_text_of(const char *string)
{
    fg_text text = {string, 0};
    while (string[text.size]) text.size++;
    return text;
}

bool fg_text_same(fg_text a, fg_text b)
{
    if (a.size != b.size) return false;
    for (size_t i = 0; i < a.size; i++)
        if (a.at[i] != b.at[i]) return false;
    return true;
}

bool fg_text_is(fg_text text, const char *string)
{
    size_t i = 0;
    while (i < text.size && string[i] == text.at[i] && string[i]) i++;
    return i == text.size && !string[i];
}
