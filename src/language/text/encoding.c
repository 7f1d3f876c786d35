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
                  "save it as UTF-8");
    return false;
}
