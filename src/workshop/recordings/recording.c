/* SPDX-License-Identifier: MIT */
/* Recordings: which form a file has. */
#include "workshop/recordings/recording.h"

#include <stdlib.h>
#include <string.h>

/* As much as there is of the first block. */
static size_t first_block(fg_rows *r, fg_stream *stream, char *block)
{
    size_t size = 0, more;
    while (size < FG_BLOCK && (more = fg_stream_read(stream, block + size, FG_BLOCK - size, r->mistake)) > 0)
        size += more;
    if (*r->mistake->text) r->status = fg_rows_status(r);
    return size;
}

/* ---- the forms ---- */

static bool begins_with(const char *block, size_t size, const char *mark, size_t mark_size)
{
    return size >= mark_size && !memcmp(block, mark, mark_size);
}

static bool begins_sqlite(const fg_rows *rows, const char *block, size_t size)
{
    (void)rows;
    static const char mark[] = "SQLite format 3";
    return begins_with(block, size, mark, sizeof mark);
}

static bool begins_json(const fg_rows *rows, const char *block, size_t size)
{
    (void)rows;
    size_t i = 0;
    while (i < size && strchr(" \t\r\n", block[i])) i++;
    return i < size && block[i] == '{';
}

static bool begins_spreadsheet(const fg_rows *rows, const char *block, size_t size)
{
    (void)rows;
    return begins_with(block, size, "PK\3\4", 4) || begins_with(block, size, "\xD0\xCF\x11\xE0", 4);
}

static bool begins_utf16(const fg_rows *rows, const char *block, size_t size)
{
    (void)rows;
    return begins_with(block, size, "\xFF\xFE", 2) || begins_with(block, size, "\xFE\xFF", 2);
}

static void refuse_spreadsheet(fg_rows *rows, fg_stream *stream, char *block, size_t size)
{
    (void)stream;
    (void)block;
    (void)size;
    fg_rows_fail(rows, 0, "is a spreadsheet or another packed file; export it as CSV and name that file");
}

static void refuse_utf16(fg_rows *rows, fg_stream *stream, char *block, size_t size)
{
    (void)stream;
    (void)block;
    (void)size;
    fg_rows_fail(rows, 0, "is text in UTF-16; export it as CSV in UTF-8");
}

static bool begins_anyhow(const fg_rows *rows, const char *block, size_t size)
{
    (void)rows;
    (void)block;
    (void)size;
    return true;
}

/* The first form that a file begins like is the one it has. */
static const struct {
    bool (*begins)(const fg_rows *rows, const char *block, size_t size);
    void (*read)(fg_rows *rows, fg_stream *stream, char *block, size_t size);
} forms[] = {{begins_sqlite, fg_sqlite_read}, {begins_spreadsheet, refuse_spreadsheet}, {begins_utf16, refuse_utf16},
             {begins_json, fg_json_read},     {fg_lines_begin, fg_lines_read},          {begins_anyhow, fg_csv_read}};

static void read_form(fg_rows *r, fg_stream *stream, char *block)
{
    static const char byte_order_mark[] = "\xEF\xBB\xBF";
    size_t size = first_block(r, stream, block), form = 0;
    if (r->status != FG_OK) return;
    if (begins_with(block, size, byte_order_mark, 3)) {
        size -= 3;
        memmove(block, block + 3, size);
    }
    while (!forms[form].begins(r, block, size)) form++;
    forms[form].read(r, stream, block, size);
    if (r->status == FG_OK && !r->headed)
        fg_rows_fail(r, 0, "is empty; the first line names the columns, one of them t_ms, t_s or time");
}

fg_status fg_recording_read(const char *path, const fg_recording_options *options, const fg_recording_sink *sink,
                            fg_mistake *mistake)
{
    fg_rows r = {.path = path, .options = options, .sink = sink, .mistake = mistake};
    *mistake = (fg_mistake){0};
    const bool in_memory = options && options->text.at;
    fg_stream *stream = in_memory ? fg_stream_of_text(options->text, path, mistake) : fg_stream_open(path, mistake);
    if (!stream) return mistake->status;
    r.stream = stream;
    r.clock = &r.only;
    char *block = malloc(FG_BLOCK + FG_BLOCK_BEHIND);
    if (block)
        read_form(&r, stream, block);
    else
        r.status = fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to read it");
    fg_stream_close(stream);
    fg_rows_end(&r);
    free(block);
    return r.status;
}
