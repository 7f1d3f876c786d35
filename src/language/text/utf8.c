/* SPDX-License-Identifier: MIT */
/* Characters of UTF-8 (RFC 3629). */
#include <ficklegate/language.h>

/* The first byte says how many follow. What could have been written with fewer bytes, halves of surrogate pairs and
 * what lies behind the last character are refused (RFC 3629): two spellings of one name must not exist. */
size_t fg_utf8_size(fg_text text, uint32_t *character)
{
    static const uint32_t lowest[] = {0, 0, 0x80, 0x800, 0x10000};
    const unsigned char first = text.size ? (unsigned char)*text.at : 0xff;
    const size_t size = first < 0x80   ? 1
                        : first < 0xc0 ? 0
                        : first < 0xe0 ? 2
                        : first < 0xf0 ? 3
                        : first < 0xf8 ? 4
                                       : 0;
    if (!size || size > text.size) return 0;
    /* The first byte has 7, 5, 4 or 3 bits of the character, each further one has 6. */
    uint32_t c = size == 1 ? first : first & (0x7fu >> size);
    for (size_t i = 1; i < size; i++) {
        if (((unsigned char)text.at[i] & 0xc0) != 0x80) return 0;
        c = c << 6 | ((unsigned char)text.at[i] & 0x3f);
    }
    if (c < lowest[size] || c > 0x10ffff || (c >= 0xd800 && c < 0xe000)) return 0;
    *character = c;
    return size;
}

/* Where the first wrong byte is; the size of the text if there is none. */
size_t fg_utf8_wrong(fg_text text)
{
    size_t at = 0;
    uint32_t character;
    while (at < text.size) {
        const size_t size = fg_utf8_size((fg_text){text.at + at, text.size - at}, &character);
        if (!size) break;
        at += size;
    }
    return at;
}
