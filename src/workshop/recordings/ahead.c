/* SPDX-License-Identifier: MIT */
/* Forms that tell their columns line by line: the first lines are read twice, for their names and then as rows. */
#include "workshop/recordings/recording.h"

#include <string.h>

/* The heading, and the lines that waited for it. */
static void begin(fg_ahead *a)
{
    fg_rows *rows = a->rows;
    if (a->ahead.full) {
        rows->status = fg_mistake_set(rows->mistake, FG_ERROR_MEMORY, rows->path, 0, "there is not enough memory");
        return;
    }
    rows->told_by_line = true;
    a->heading(a->context);
    const char *at = a->ahead.text, *end = at + a->ahead.size;
    for (uint64_t line = a->number - a->ahead_lines + 1; at < end && rows->status == FG_OK; line++) {
        const char *newline = memchr(at, '\n', (size_t)(end - at));
        if (newline > at) a->row(a->context, (fg_text){at, (size_t)(newline - at)}, line);
        at = newline + 1;
    }
    fg_buffer_free(&a->ahead);
    a->ahead_lines = 0;
}

static void take_line(fg_ahead *a)
{
    const fg_text line = fg_text_trimmed(fg_buffer_text(&a->line));
    const bool said = line.size && line.at[0] != '#';
    a->number++;
    if (a->rows->headed) {
        if (said) a->row(a->context, line, a->number);
    } else {
        if (said) a->gather(a->context, line, a->number);
        if (said) fg_buffer_add(&a->ahead, line);
        fg_buffer_add_c(&a->ahead, "\n");
        a->ahead_lines++;
        if (a->rows->status == FG_OK && (a->ahead_lines >= FG_AHEAD_LINES || a->ahead.size >= FG_AHEAD_BYTES)) begin(a);
    }
    a->line.size = 0;
}

static void take_block(fg_ahead *a, const char *block, size_t size)
{
    fg_rows *rows = a->rows;
    while (size && rows->status == FG_OK) {
        const char *newline = memchr(block, '\n', size);
        const size_t part = newline ? (size_t)(newline - block) : size;
        fg_buffer_add(&a->line, (fg_text){block, part});
        if (a->line.full)
            rows->status = fg_mistake_set(rows->mistake, FG_ERROR_MEMORY, rows->path, a->number + 1,
                                          "there is not enough memory for this line");
        else if (a->line.size > FG_ROW_MOST)
            fg_rows_fail(rows, a->number + 1, "this line is longer than 8 MB; a recording has one short row a line");
        else if (newline)
            take_line(a);
        block += part + (newline != NULL);
        size -= part + (newline != NULL);
    }
}

void fg_ahead_read(fg_ahead *a, fg_stream *stream, char *block, size_t size)
{
    fg_rows *rows = a->rows;
    take_block(a, block, size);
    while (rows->status == FG_OK && (size = fg_stream_read(stream, block, FG_BLOCK, rows->mistake)) > 0)
        take_block(a, block, size);
    if (rows->status == FG_OK && *rows->mistake->text) rows->status = fg_rows_status(rows);
    if (rows->status == FG_OK && a->line.size) take_line(a);
    if (rows->status == FG_OK && !rows->headed) begin(a);
    fg_buffer_free(&a->line);
    fg_buffer_free(&a->ahead);
}
