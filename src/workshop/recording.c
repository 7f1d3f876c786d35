/* Recordings: CSV through libcsv, a row at a time. Lines that begin with # are left out before it sees them. */
#include "buffer.h"

#include <csv.h>
#include <errno.h>
#include <stdlib.h>
#include <string.h>

enum { BLOCK = 1 << 18, LINE_MOST = 8 << 20 };

typedef enum time_kind { TIME_MS, TIME_S, TIME_KINDS } time_kind;

typedef struct reader {
    const char *path;
    const fg_recording_sink *sink;
    fg_mistake *mistake;
    fg_status status;

    fg_buffer cells; /* the characters of the present row */
    size_t *ends;    /* where each cell of it ends */
    fg_text *texts;  /* the cells, made of both when the row is over */
    size_t cell_count, cell_room;

    size_t column_count, time_column;
    time_kind time_kind;
    bool headed;

    uint64_t line;       /* the line that is being read */
    uint64_t row_line;   /* where the present row began */
    uint64_t line_bytes; /* of the present row so far */
    bool after_return;   /* the last row ended in CR: an LF right behind it belongs to it */
    bool within_row;     /* what was fed so far ends within a row */
} reader;

static void fail(reader *r, uint64_t line, const char *text)
{
    if (r->status == FG_OK) r->status = fg_mistake_set(r->mistake, FG_ERROR_RECORDING, r->path, line, "%s", text);
}

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
    if (r->status != FG_OK) return;
    if (!r->cell_count) r->row_line = r->line;
    fg_buffer_add(&r->cells, (fg_text){cell, size});
    if (!make_room(r) || r->cells.full) {
        r->status =
            fg_mistake_set(r->mistake, FG_ERROR_MEMORY, r->path, r->line, "there is not enough memory for this row");
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
        r->texts[i] = (fg_text){r->cells.text + from, r->ends[i] - from};
        from = r->ends[i];
    }
}

static bool text_is(fg_text text, const char *word)
{
    return text.size == strlen(word) && !memcmp(text.at, word, text.size);
}

/* The heading names the columns; one of them is the time. */
static void take_heading(reader *r)
{
    static const char *const words[] = {[TIME_MS] = "t_ms", [TIME_S] = "t_s"};
    bool timed = false;
    r->headed = true;
    r->column_count = r->cell_count;
    for (size_t i = 0; i < r->cell_count; i++) {
        r->texts[i] = fg_text_trimmed(r->texts[i]);
        for (int kind = 0; kind < TIME_KINDS && !timed; kind++) {
            if (!text_is(r->texts[i], words[kind])) continue;
            timed = true;
            r->time_column = i;
            r->time_kind = (time_kind)kind;
        }
        if (!timed && text_is(r->texts[i], "time")) {
            timed = true;
            r->time_column = i;
            r->time_kind = TIME_S;
        }
    }
    if (!timed) {
        fail(r, r->row_line,
             "there is no heading with a time column; the first line names the columns, one of them t_ms, t_s or time");
        return;
    }
    if (!r->sink->heading(r->sink->context, r->texts, r->cell_count, r->mistake)) {
        r->status = FG_ERROR_RECORDING;
        if (!*r->mistake->file) snprintf(r->mistake->file, sizeof r->mistake->file, "%s", r->path);
        if (!r->mistake->line) r->mistake->line = r->row_line;
    }
}

/* The exponent behind an e; false if there is none there. */
static bool read_exponent(fg_text text, int *exponent)
{
    size_t i = 0;
    bool negative = false;
    if (text.size && (text.at[0] == '-' || text.at[0] == '+')) negative = text.at[i++] == '-';
    if (i == text.size || text.size > 6) return false;
    *exponent = 0;
    for (; i < text.size; i++) {
        if (text.at[i] < '0' || text.at[i] > '9') return false;
        *exponent = *exponent * 10 + (text.at[i] - '0');
    }
    if (negative) *exponent = -*exponent;
    return true;
}

/* A time as whole milliseconds, rounded to nearest. 64 bits hold any epoch. */
static bool read_time(fg_text cell, time_kind kind, int64_t *t_ms)
{
    cell = fg_text_trimmed(cell);
    const bool negative = cell.size && cell.at[0] == '-';
    if (cell.size && (cell.at[0] == '-' || cell.at[0] == '+')) cell = (fg_text){cell.at + 1, cell.size - 1};
    int exponent = 0, points = 0;
    size_t end = 0, point = 0;
    for (; end < cell.size && ((cell.at[end] >= '0' && cell.at[end] <= '9') || cell.at[end] == '.'); end++)
        if (cell.at[end] == '.') {
            points++;
            point = end;
        }
    if (!points) point = end;
    if (points > 1 || end == (size_t)points) return false;
    if (end < cell.size && ((cell.at[end] != 'e' && cell.at[end] != 'E') ||
                            !read_exponent((fg_text){cell.at + end + 1, cell.size - end - 1}, &exponent)))
        return false;

    /* `places` digits are whole milliseconds; the one behind them decides the rounding. */
    int64_t places = (int64_t)point + exponent + (kind == TIME_S ? 3 : 0), value = 0;
    size_t i = 0;
    for (; places > 0 && (value || i < end); places--) {
        if (i == point) i++;
        if (value > INT64_MAX / 100) return false;
        value = value * 10 + (i < end ? cell.at[i++] - '0' : 0);
    }
    if (i == point) i++;
    if (places == 0 && i < end && cell.at[i] >= '5') value++;
    *t_ms = negative ? -value : value;
    return true;
}

static void take_row(reader *r)
{
    int64_t t_ms = 0;
    if (r->cell_count != r->column_count) {
        r->status = fg_mistake_set(
            r->mistake, FG_ERROR_RECORDING, r->path, r->row_line,
            "this row has %zu cell%s, the heading has %zu; write one cell for each column, empty if nothing was read",
            r->cell_count, r->cell_count == 1 ? "" : "s", r->column_count);
        return;
    }
    const fg_text time = r->texts[r->time_column];
    if (!read_time(time, r->time_kind, &t_ms)) {
        r->status =
            fg_mistake_set(r->mistake, FG_ERROR_RECORDING, r->path, r->row_line,
                           "the time '%.*s' cannot be read; write %s", (int)(time.size > 40 ? 40 : time.size), time.at,
                           r->time_kind == TIME_MS ? "milliseconds, as in 1500" : "seconds, as in 1.5");
        return;
    }
    if (!r->sink->row(r->sink->context, t_ms, r->texts, r->cell_count, r->row_line, r->mistake)) {
        r->status = FG_ERROR_RECORDING;
        if (!*r->mistake->file) snprintf(r->mistake->file, sizeof r->mistake->file, "%s", r->path);
    }
}

static void on_row(int end, void *context)
{
    reader *r = context;
    const bool newline_of_return = end == '\n' && r->after_return && !r->cell_count;
    r->after_return = end == '\r';
    if (r->status == FG_OK && r->cell_count && !r->cells.full) {
        make_texts(r);
        if (r->headed)
            take_row(r);
        else
            take_heading(r);
    }
    r->cells.size = 0;
    r->cell_count = 0;
    r->line_bytes = 0;
    if (!newline_of_return) r->line++;
}

static void feed(reader *r, struct csv_parser *parser, const char *at, size_t size)
{
    if (!size || r->status != FG_OK) return;
    r->line_bytes += size;
    if (csv_parse(parser, at, size, on_cell, on_row, r) != size && r->status == FG_OK)
        fail(r, r->line,
             "this row cannot be taken apart; a quote inside a cell is written \"\", and the cell stands in quotes");
    r->within_row = parser->pstate != 0;
    if (r->within_row && r->line_bytes > LINE_MOST)
        fail(r, r->line, "this line is longer than 8 MB; a recording has one short row a line");
}

/* Line by line, leaving comments out: for blocks that have a # somewhere. `began` is where the first line began. */
static void feed_lines(reader *r, struct csv_parser *parser, const char *block, size_t size, bool *comment)
{
    size_t i = 0;
    while (i < size && r->status == FG_OK) {
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

static void read_all(reader *r, struct csv_parser *parser, FILE *file, char *block)
{
    size_t size;
    bool comment = false;
    while (r->status == FG_OK && (size = fread(block, 1, BLOCK, file)) > 0) {
        if (memchr(block, '\0', size)) {
            fail(r, r->line, "there is a NUL byte near this line; a recording is a text file");
            return;
        }
        if (r->line == 1 && !r->headed && !r->within_row && size >= 3 && memcmp(block, "\xEF\xBB\xBF", 3) == 0) {
            memmove(block, block + 3, size - 3);
            size -= 3;
        }
        if (comment || memchr(block, '#', size))
            feed_lines(r, parser, block, size, &comment);
        else
            feed(r, parser, block, size);
    }
    if (r->status == FG_OK && ferror(file))
        r->status = fg_mistake_set(r->mistake, FG_ERROR_FILE, r->path, 0, "cannot be read: %s", strerror(errno));
    if (r->status == FG_OK && csv_fini(parser, on_cell, on_row, r) != 0 && r->status == FG_OK)
        fail(r, r->row_line, "a quote that begins in this row is not closed");
    if (r->status == FG_OK && !r->headed)
        fail(r, 0, "is empty; the first line names the columns, one of them t_ms, t_s or time");
}

fg_status fg_recording_read(const char *path, const fg_recording_sink *sink, fg_mistake *mistake)
{
    struct csv_parser parser;
    reader r = {.path = path, .sink = sink, .mistake = mistake, .line = 1, .row_line = 1};
    *mistake = (fg_mistake){0};
    FILE *file = strcmp(path, "-") == 0 ? stdin : fopen(path, "rb");
    if (!file) return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be opened: %s", strerror(errno));
    char *block = malloc(BLOCK);
    if (block && csv_init(&parser, CSV_REPALL_NL | CSV_STRICT | CSV_STRICT_FINI) == 0) {
        csv_set_blk_size(&parser, 1 << 16);
        read_all(&r, &parser, file, block);
        csv_free(&parser);
    } else {
        r.status = fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to read it");
    }
    if (file != stdin) fclose(file);
    free(block);
    free(r.ends);
    free(r.texts);
    fg_buffer_free(&r.cells);
    return r.status;
}
