/* SPDX-License-Identifier: MIT */
/* Lines below each other: names, and what follows them, and comments in columns. */
#include "workshop/tidy/tidy.h"

#include <stdlib.h>
#include <string.h>

void fg_tidy_add_line(fg_tidy_lines *lines, fg_tidy_line line)
{
    if (lines->count == lines->room) {
        const size_t room = lines->room ? 2 * lines->room : 128;
        fg_tidy_line *at = realloc(lines->at, room * sizeof *at);
        if (!at) {
            lines->full = true;
            for (int k = 0; k < FG_TIDY_COLUMNS; k++) free(line.columns[k]);
            free(line.comment);
            return;
        }
        lines->at = at;
        lines->room = room;
    }
    lines->at[lines->count++] = line;
}

uint32_t fg_tidy_width(fg_text text)
{
    uint32_t width = 0;
    for (size_t i = 0; i < text.size; i++) width += ((unsigned char)text.at[i] & 0xC0) != 0x80;
    return width;
}

static uint32_t width_of(const char *text) { return text ? fg_tidy_width(fg_text_of(text)) : 0; }

static void pad(fg_buffer *out, uint32_t from, uint32_t to)
{
    for (; from < to; from++) fg_buffer_add_c(out, " ");
}

/* A line without its comment; `widths`: those of the columns of its run. */
static void add_columns(const fg_tidy_line *line, const uint32_t *widths, fg_buffer *out)
{
    uint32_t missing = 0; /* blanks that the next column needs in front */
    pad(out, 0, line->indent);
    for (int k = 0; k < FG_TIDY_COLUMNS; k++) {
        if (!line->columns[k]) continue;
        pad(out, 0, missing);
        fg_buffer_add_c(out, line->columns[k]);
        missing = line->aligned ? widths[k] - width_of(line->columns[k]) + 1 : 1;
    }
}

/* Lines that stand in columns with the one at `from`, and the widths of their columns. */
static size_t run_end(const fg_tidy_lines *lines, size_t from, uint32_t *widths)
{
    size_t end = from;
    memset(widths, 0, FG_TIDY_COLUMNS * sizeof *widths);
    while (end < lines->count && lines->at[end].aligned && (end == from || !lines->at[end].blanks)) {
        const fg_tidy_line *line = &lines->at[end++];
        for (int k = 0; k < FG_TIDY_COLUMNS; k++) {
            const uint32_t width = width_of(line->columns[k]);
            if (width > widths[k]) widths[k] = width;
        }
    }
    return end;
}

/* Comments behind lines that follow each other stand below each other. */
static uint32_t comments_at(const fg_tidy_lines *lines, const uint32_t *widths, size_t from, size_t *to)
{
    uint32_t at = 0;
    size_t end = from;
    for (; end < lines->count && lines->at[end].comment && lines->at[end].columns[0]; end++) {
        if (end > from && lines->at[end].blanks) break;
        if (widths[end] > at) at = widths[end];
    }
    *to = end;
    return at + 2;
}

/* Each line without its comment, as it comes out. */
static bool make_lines(const fg_tidy_lines *lines, char **texts, uint32_t *widths)
{
    uint32_t columns[FG_TIDY_COLUMNS];
    size_t end = 0;
    for (size_t i = 0; i < lines->count; i++) {
        fg_buffer out = {0};
        if (i >= end && lines->at[i].aligned) end = run_end(lines, i, columns);
        add_columns(&lines->at[i], columns, &out);
        texts[i] = out.full ? NULL : fg_c_string_of(fg_buffer_text(&out));
        fg_buffer_free(&out);
        if (!texts[i]) return false;
        widths[i] = width_of(texts[i]);
    }
    return true;
}

void fg_tidy_lay_out(const fg_tidy_lines *lines, fg_buffer *out)
{
    char **texts = calloc(lines->count + 1, sizeof *texts);
    uint32_t *widths = calloc(lines->count + 1, sizeof *widths);
    uint32_t column = 0;
    size_t end = 0;
    if (!texts || !widths || !make_lines(lines, texts, widths)) {
        out->full = true;
    } else {
        for (size_t i = 0; i < lines->count; i++) {
            const fg_tidy_line *line = &lines->at[i];
            for (uint32_t k = 0; i && k < line->blanks; k++) fg_buffer_add_c(out, "\n");
            fg_buffer_add_c(out, texts[i]);
            if (line->comment && line->columns[0]) {
                if (i >= end) column = comments_at(lines, widths, i, &end);
                pad(out, widths[i], column);
            }
            if (line->comment) fg_buffer_add_c(out, line->comment);
            fg_buffer_add_c(out, "\n");
        }
    }
    for (size_t i = 0; texts && i < lines->count; i++) free(texts[i]);
    free(texts);
    free(widths);
}
