/* SPDX-License-Identifier: MIT */
/* A line that is put together before it goes out: one write for all its parts. */
#include "tool.h"

#include <string.h>

void tool_line_begin(tool_line *l, FILE *to)
{
    l->to = to;
    l->size = 0;
}

void tool_line_out(tool_line *l)
{
    if (l->size) fwrite(l->room, 1, l->size, l->to);
    l->size = 0;
}

void tool_line_text(tool_line *l, fg_text text)
{
    if (text.size > sizeof l->room - l->size) tool_line_out(l);
    if (text.size > sizeof l->room) {
        tool_text(l->to, text);
    } else if (text.size) {
        memcpy(l->room + l->size, text.at, text.size);
        l->size += text.size;
    }
}

void tool_line_blanks(tool_line *l, int count)
{
    static const char blanks[] = "                ";
    for (; count > 0; count -= (int)sizeof blanks - 1)
        tool_line_text(l, (fg_text){blanks, count < (int)sizeof blanks ? (size_t)count : sizeof blanks - 1});
}

void tool_line_padded(tool_line *l, fg_text text, int width)
{
    tool_line_text(l, text);
    if ((size_t)width > text.size) tool_line_blanks(l, width - (int)text.size);
}

void tool_line_number(tool_line *l, int64_t number, int digits)
{
    char text[24];
    size_t at = sizeof text;
    uint64_t rest = number < 0 ? 0 - (uint64_t)number : (uint64_t)number;
    for (; rest || digits > 0; rest /= 10, digits--) text[--at] = (char)('0' + rest % 10);
    if (number < 0) text[--at] = '-';
    tool_line_text(l, (fg_text){text + at, sizeof text - at});
}

/* What needs quotes is rare. */
void tool_line_csv(tool_line *l, fg_text cell)
{
    if (!fg_csv_needs_quotes(cell)) {
        tool_line_text(l, cell);
        return;
    }
    tool_line_out(l);
    fg_csv_cell(l->to, cell);
}
