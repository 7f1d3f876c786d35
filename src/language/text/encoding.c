/* SPDX-License-Identifier: MIT */
/* Is it text at all: UTF-8 without NUL? */
#include "language/text/encoding.h"

#include "language/text/findings.h"

/* Does a text begin with these bytes? */
static bool begins_with(fg_text text, const char *bytes, size_t size)
{
    return text.size >= size && fg_bytes_same(text.at, bytes, size);
}

/* UTF-16 is named first, since it looks like NUL bytes and wrong UTF-8 alike. The first wrong byte is marked. */
bool fg_check_encoding(fg_compiler *c, fg_text text, uint16_t source)
{
    const size_t nul = fg_text_byte(text, 0, '\0'), wrong = fg_utf8_wrong(text);
    const size_t first = nul < wrong ? nul : wrong;
    if (first == text.size) return true;
    const fg_span span = {(uint32_t)first, 1, source};
    if (begins_with(text, "\xff\xfe", 2) || begins_with(text, "\xfe\xff", 2))
        fg_report(c, FG_FIND_TEXT, span, "this file is UTF-16, not UTF-8", "save it as UTF-8");
    else if (nul < wrong)
        fg_report(c, FG_FIND_TEXT, span, "there is a NUL byte here: this is not a text file",
                  "give the gate file itself, in UTF-8");
    else
        fg_report(c, FG_FIND_TEXT, span, "this is not UTF-8: the file is in another encoding, or damaged here",
                  "save it as UTF-8; in a name only the letters a-z and A-Z can stand");
    return false;
}

/* The letters of Latin-1 from U+00C0 on, as they are written where there are no others. */
static const char *const latin_1[] = {"A", "A", "A",  "A", "Ae", "A",  "Ae", "C", "E",  "E",  "E",  "E", "I",
                                      "I", "I", "I",  "D", "N",  "O",  "O",  "O", "O",  "Oe", "",   "O", "U",
                                      "U", "U", "Ue", "Y", "Th", "ss", "a",  "a", "a",  "a",  "ae", "a", "ae",
                                      "c", "e", "e",  "e", "e",  "i",  "i",  "i", "i",  "d",  "n",  "o", "o",
                                      "o", "o", "oe", "",  "o",  "u",  "u",  "u", "ue", "y",  "th", "y"};

fg_text fg_text_in_ascii(fg_compiler *c, fg_text name)
{
    enum { LONGEST = 60 };
    fg_text plain = {0};
    if (name.size > LONGEST) return plain;
    for (size_t i = 0; i < name.size; i++) {
        const unsigned char first = (unsigned char)name.at[i];
        const unsigned char second = i + 1 < name.size ? (unsigned char)name.at[i + 1] : 0;
        fg_text letter = {&name.at[i], 1};
        if (first == 0xC3 && second >= 0x80 && second < 0xC0) {
            letter = fg_text_of(latin_1[second - 0x80]);
            i++;
        } else if (first >= 0x80) {
            return (fg_text){0};
        }
        plain = plain.size ? fg_text_join(c, plain, "", letter) : letter;
    }
    return plain;
}
