/* SPDX-License-Identifier: MIT */
/* CSV through libcsv, a row at a time. Lines that begin with # are left out before it sees them. */
#include "workshop/recordings/recording.h"

#include <csv.h>
#include <stdlib.h>
#include <string.h>

typedef struct reader {
    fg_rows *rows;
    fg_buffer cells; /* the characters of the present row */
    size_t *ends;    /* where each cell of it ends */
    fg_text *texts;  /* the cells, made of both when the row is over */
    size_t cell_count, cell_room;

    uint64_t line;       /* the line that is being read */
    uint64_t row_line;   /* where the present row began */
    uint64_t line_bytes; /* of the present row so far */
    bool after_return;   /* the last row ended in CR: an LF right behind it belongs to it */
    bool within_row;     /* what was fed so far ends within a row */

    char delimiter;
    bool tried;                      /* whether plain rows are wanted is known */
    fg_plain *plain;                 /* NULL: they are not */
    unsigned odd_lines;              /* the quick way has come to so many in a row that are not plain */
    bool semicolons;                 /* separate the cells, so a comma in a number is its decimal point */
    bool told;                       /* that */
    uint64_t empty_rows, empty_line; /* rows of empty cells that wait for one that is not, and where they began */
    size_t empty_cells;
} reader;

static bool make_room(reader *r)
{
    if (r->cell_count < r->cell_room) return true;
    size_t room = r->cell_room ? r->cell_room * 2 : 64;
    size_t *ends = realloc(r->ends, room * sizeof *ends);
    if (ends) r->ends = ends;
    fg_text *texts = realloc(r->texts, room * sizeof *texts);
    if (texts) r->texts = texts;
    if (ends && texts) r->cell_room = room;
    return ends && texts;
}

static void on_cell(void *cell, size_t size, void *context)
{
    reader *r = context;
    if (r->rows->status != FG_OK) return;
    if (!r->cell_count) r->row_line = r->line;
    fg_buffer_add(&r->cells, (fg_text){cell, size});
    if (!make_room(r) || r->cells.full) {
        r->rows->status = fg_mistake_set(r->rows->mistake, FG_ERROR_MEMORY, r->rows->path, r->line,
                                         "there is not enough memory for this row");
        return;
    }
    r->ends[r->cell_count++] = r->cells.size;
    const char *newline = cell;
    while (size && (newline = memchr(newline, '\n', (size_t)((char *)cell + size - newline)))) { /* inside quotes */
        r->line++;
        newline++;
    }
}

static void make_texts(reader *r)
{
    size_t from = 0;
    for (size_t i = 0; i < r->cell_count; i++) {
        r->texts[i] = (fg_text){r->cells.text ? r->cells.text + from : "", r->ends[i] - from};
        from = r->ends[i];
    }
}

/* "12,5" becomes "12.5". */
static void take_comma(reader *r, size_t i)
{
    const fg_text cell = fg_text_trimmed(r->texts[i]);
    const char *comma = cell.size ? memchr(cell.at, ',', cell.size) : NULL;
    size_t k = cell.size && (*cell.at == '-' || *cell.at == '+');
    const bool starts = k < cell.size && cell.at[k] != ',';
    for (; comma && k < cell.size; k++)
        if (cell.at + k != comma && (cell.at[k] < '0' || cell.at[k] > '9')) return;
    if (!comma || !starts || comma + 1 == cell.at + cell.size) return;
    const int whole = (int)(comma - cell.at), rest = (int)cell.size - whole - 1;
    char note[100];
    r->cells.text[comma - r->cells.text] = '.';
    if (r->told || !r->rows->sink->note) return;
    r->told = true;
    snprintf(note, sizeof note, "its cells are separated by semicolons, so %.*s,%.*s is %.*s.%.*s", whole, cell.at,
             rest, comma + 1, whole, cell.at, rest, comma + 1);
    r->rows->sink->note(r->rows->sink->context, note);
}

static bool is_empty(const reader *r)
{
    size_t i = 0;
    while (i < r->cell_count && !fg_text_trimmed(r->texts[i]).size) i++;
    return i == r->cell_count;
}

/* Spreadsheets leave rows of empty cells at the end. They count only where another row follows. */
static void take_row(reader *r)
{
    if (is_empty(r)) {
        if (!r->empty_rows++) r->empty_line = r->row_line;
        r->empty_cells = r->cell_count;
        return;
    }
    fg_text *empty = r->empty_rows ? calloc(r->empty_cells, sizeof *empty) : NULL;
    if (r->empty_rows && !empty)
        r->rows->status = fg_mistake_set(r->rows->mistake, FG_ERROR_MEMORY, r->rows->path, r->empty_line,
                                         "there is not enough memory for this row");
    for (; r->empty_rows && r->rows->status == FG_OK; r->empty_rows--)
        fg_rows_row(r->rows, empty, r->empty_cells, r->empty_line++);
    free(empty);
    if (r->rows->status != FG_OK) return;
    for (size_t i = 0; r->semicolons && i < r->cell_count; i++) take_comma(r, i);
    fg_rows_row(r->rows, r->texts, r->cell_count, r->row_line);
}

static void on_row(int end, void *context)
{
    reader *r = context;
    const bool newline_of_return = end == '\n' && r->after_return && !r->cell_count;
    r->after_return = end == '\r';
    if (r->rows->status == FG_OK && r->cell_count && !r->cells.full) {
        make_texts(r);
        if (r->rows->headed)
            take_row(r);
        else
            fg_rows_heading(r->rows, r->texts, r->cell_count, r->row_line);
    }
    r->cells.size = 0;
    r->cell_count = 0;
    r->line_bytes = 0;
    if (!newline_of_return) r->line++;
    r->row_line = r->line; /* a quote that is not closed may begin the next row */
}

static void feed(reader *r, struct csv_parser *parser, const char *at, size_t size)
{
    if (!size || r->rows->status != FG_OK) return;
    r->line_bytes += size;
    if (csv_parse(parser, at, size, on_cell, on_row, r) != size && r->rows->status == FG_OK)
        fg_rows_fail(
            r->rows, r->line,
            "this row cannot be taken apart; a quote inside a cell is written \"\", and the cell stands in quotes");
    r->within_row = parser->pstate != 0;
    if (r->within_row && r->line_bytes > FG_ROW_MOST)
        fg_rows_fail(r->rows, r->line, "this line is longer than 8 MB; a recording has one short row a line");
}

/* Line by line, leaving comments out: for blocks that have a # somewhere. `began` is where the first line began. */
static void feed_lines(reader *r, struct csv_parser *parser, const char *block, size_t size, bool *comment)
{
    size_t i = 0;
    while (i < size && r->rows->status == FG_OK) {
        const char *newline = memchr(block + i, '\n', size - i);
        size_t end = newline ? (size_t)(newline - block) + 1 : size;
        if (*comment || (!r->within_row && block[i] == '#')) {
            *comment = !newline;
            r->line += newline != NULL;
        } else {
            feed(r, parser, block + i, end - i);
        }
        i = end;
    }
}

/* What stands between the cells of the first line that is no comment: a comma, unless it has more semicolons or tabs.
 */
static unsigned char delimiter_of(const char *block, size_t size)
{
    size_t counts[3] = {0}, i = 0;
    while (i < size && block[i] == '#') {
        const char *newline = memchr(block + i, '\n', size - i);
        i = newline ? (size_t)(newline - block) + 1 : size;
    }
    for (bool quoted = false; i < size && block[i] != '\n' && block[i] != '\r'; i++) {
        if (block[i] == '"') quoted = !quoted;
        if (quoted) continue;
        counts[0] += block[i] == ',';
        counts[1] += block[i] == ';';
        counts[2] += block[i] == '\t';
    }
    if (counts[1] > counts[0] && counts[1] >= counts[2]) return ';';
    return counts[2] > counts[0] ? '\t' : ',';
}

/* Behind the heading it is known whether plain rows are wanted. */
static void try_plain(reader *r)
{
    bool full;
    r->tried = true;
    r->plain = fg_plain_start(r->rows, r->delimiter, &full);
    if (full)
        r->rows->status = fg_mistake_set(r->rows->mistake, FG_ERROR_MEMORY, r->rows->path, 0,
                                         "there is not enough memory to read it");
}

static void feed_cells(reader *r, struct csv_parser *parser, const char *at, size_t size, bool *comment)
{
    if (*comment || memchr(at, '#', size))
        feed_lines(r, parser, at, size, comment);
    else
        feed(r, parser, at, size);
}

/* How much is taken apart into cells before the quick way is tried again: one line, but many where lines are hardly
 * ever plain. */
static size_t size_of_odd(const reader *r, const char *at, const char *end)
{
    enum { OFTEN = 8, MANY = 1 << 14 };
    const size_t all = (size_t)(end - at), many = r->odd_lines < OFTEN ? 1 : all < MANY ? all : MANY;
    const char *newline = r->tried && !r->plain ? NULL : memchr(at + many - 1, '\n', all - many + 1);
    return newline ? (size_t)(newline - at) + 1 : all;
}

/* Whole lines: those that are plain by the quick way, the others as cells. */
static void feed_whole_lines(reader *r, struct csv_parser *parser, const char *at, const char *end, bool *comment)
{
    while (at < end && r->rows->status == FG_OK) {
        const bool between = !r->within_row && !*comment && !r->empty_rows;
        if (!r->tried && r->rows->headed) try_plain(r);
        if (r->plain && between && r->rows->status == FG_OK) {
            uint64_t lines;
            at += fg_plain_read(r->plain, at, end, r->line, &lines);
            r->line += lines;
            r->row_line = r->line;
            r->odd_lines = lines ? 0 : r->odd_lines + 1;
            if (at == end || r->rows->status != FG_OK) return;
        }
        const size_t size = size_of_odd(r, at, end);
        feed_cells(r, parser, at, size, comment);
        at += size;
    }
}

/* Up to the last newline, or all if there is none; what is left waits at the beginning of the block. */
static size_t feed_block(reader *r, struct csv_parser *parser, char *block, size_t size, bool *comment)
{
    size_t whole = size;
    while (whole && block[whole - 1] != '\n') whole--;
    if (whole)
        feed_whole_lines(r, parser, block, block + whole, comment);
    else
        feed_cells(r, parser, block, whole = size, comment); /* a line that is longer than the block */
    memmove(block, block + whole, size - whole);
    return size - whole;
}

static void read_blocks(reader *r, struct csv_parser *parser, fg_stream *stream, char *block, size_t size)
{
    bool comment = false;
    size_t left = 0; /* of the last block, in front of what is new */
    while (r->rows->status == FG_OK && size > left) {
        if (memchr(block + left, '\0', size - left)) {
            fg_rows_fail(r->rows, r->line, "there is a NUL byte near this line; a recording is a text file");
            return;
        }
        left = feed_block(r, parser, block, size, &comment);
        if (r->rows->status != FG_OK) return;
        size = left + fg_stream_read(stream, block + left, FG_BLOCK - left, r->rows->mistake);
        if (*r->rows->mistake->text) r->rows->status = fg_rows_status(r->rows);
    }
    if (r->rows->status == FG_OK && left) feed_cells(r, parser, block, left, &comment);
    if (r->rows->status == FG_OK && csv_fini(parser, on_cell, on_row, r) != 0)
        fg_rows_fail(r->rows, r->row_line, "a quote that begins in this row is not closed");
}

void fg_csv_read(fg_rows *rows, fg_stream *stream, char *block, size_t size)
{
    struct csv_parser parser;
    reader r = {.rows = rows, .line = 1, .row_line = 1};
    if (csv_init(&parser, CSV_REPALL_NL | CSV_STRICT | CSV_STRICT_FINI) == 0) {
        const unsigned char delimiter = delimiter_of(block, size);
        csv_set_blk_size(&parser, 1 << 16);
        csv_set_delim(&parser, delimiter);
        r.delimiter = (char)delimiter;
        r.semicolons = delimiter == ';';
        if (delimiter != ',' && rows->sink->note)
            rows->sink->note(rows->sink->context, delimiter == ';' ? "its cells are separated by semicolons"
                                                                   : "its cells are separated by tabs");
        read_blocks(&r, &parser, stream, block, size);
        csv_free(&parser);
    } else {
        rows->status =
            fg_mistake_set(rows->mistake, FG_ERROR_MEMORY, rows->path, 0, "there is not enough memory to read it");
    }
    fg_plain_end(r.plain);
    free(r.ends);
    free(r.texts);
    fg_buffer_free(&r.cells);
}
