/* SPDX-License-Identifier: MIT */
/* A saved log of the lines that a board printed: each line is a row of the names in it, or of numbers that were named
 * by whoever asked. */
#include "workshop/recordings/recording.h"

#include <ficklegate/lines.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { COLUMNS_MOST = 512 };

typedef struct reader {
    fg_rows *rows;
    fg_line line; /* the present one, taken apart */
    char *names[COLUMNS_MOST];
    char *units[COLUMNS_MOST]; /* of the first reading that had one; NULL: none had */
    bool keeps[COLUMNS_MOST];  /* the unit belongs to the value */
    size_t count;
    fg_line_kind kind; /* what a reading looks like here: named, or numbers */
    bool clock;        /* the first column has times of the day that stand in front of the lines */
    fg_text *cells;    /* one for each column */
    uint64_t others;   /* lines that are no readings */
    uint64_t first_number;
    char first_other[40];
    uint64_t unnamed_number; /* the first line of numbers, where nobody named them */
    size_t unnamed;          /* how many it has */
} reader;

static bool are_named(const fg_rows *rows)
{
    return rows->options && (rows->options->names || rows->options->only.size);
}

/* ---- does it look like that? ---- */

/* The first line of readings decides. Numbers behind words belong to a heading, unless whoever asked named them. */
bool fg_lines_begin(const fg_rows *rows, const char *block, size_t size)
{
    enum { LOOKED_AT = 50, LONGEST = 4096 };
    bool words = false;
    for (int lines = 0; size && lines < LOOKED_AT; lines++) {
        const char *newline = memchr(block, '\n', size);
        const size_t part = newline ? (size_t)(newline - block) : size;
        fg_line line;
        fg_line_read((fg_text){block, part < LONGEST ? part : LONGEST}, &line);
        if (line.kind == FG_LINE_NAMED) return true;
        if (line.kind == FG_LINE_NUMBERS) return !words || (rows->options && rows->options->names);
        words = words || line.kind == FG_LINE_OTHER;
        block += part + (newline != NULL);
        size -= part + (newline != NULL);
    }
    return false;
}

/* ---- names ---- */

static void no_memory(reader *r, uint64_t number)
{
    r->rows->status = fg_mistake_set(r->rows->mistake, FG_ERROR_MEMORY, r->rows->path, number,
                                     "there is not enough memory to read it");
}

static size_t column_of(const reader *r, fg_text name)
{
    size_t i = 0;
    while (i < r->count && !fg_text_same(fg_text_of(r->names[i]), name)) i++;
    return i;
}

static void add_name(reader *r, fg_text name, uint64_t number)
{
    if (r->count == COLUMNS_MOST) {
        fg_rows_fail(r->rows, number, "these lines have more than 512 names; is it the right file?");
        return;
    }
    r->names[r->count] = fg_c_string_of(name);
    if (r->names[r->count])
        r->count++;
    else
        no_memory(r, number);
}

/* Those that numbers were given. */
static void add_given(reader *r)
{
    const fg_recording_options *options = r->rows->options;
    const char *at = options->names;
    if (!at) add_name(r, options->only, 0);
    while (at && r->rows->status == FG_OK) {
        const size_t size = strcspn(at, ",");
        const fg_text name = fg_text_trimmed((fg_text){at, size});
        if (name.size)
            add_name(r, name, 0);
        else
            fg_rows_fail(r->rows, 0, "--columns needs a name for each number, with commas between, as in t_ms,depth");
        at = at[size] ? at + size + 1 : NULL;
    }
}

/* ---- units ---- */

/* The first one of a column is told to the sink; a reading in another is none, and is shown with it. */
static fg_text value_in_unit(reader *r, size_t column, const fg_line_reading *reading, uint64_t number)
{
    const fg_recording_sink *sink = r->rows->sink;
    if (!reading->unit.size) return reading->value;
    const fg_text whole = {reading->value.at, (size_t)(reading->unit.at + reading->unit.size - reading->value.at)};
    if (!r->units[column]) {
        r->units[column] = fg_c_string_of(reading->unit);
        if (!r->units[column]) no_memory(r, number);
        r->keeps[column] = sink->unit && !sink->unit(sink->context, reading->name, reading->unit, number);
    }
    const bool same = r->units[column] && fg_text_same(fg_text_of(r->units[column]), reading->unit);
    return same && !r->keeps[column] ? reading->value : whole;
}

/* ---- the heading ---- */

static void gather(void *context, fg_text text, uint64_t number)
{
    reader *r = context;
    fg_line_read(text, &r->line);
    if (r->line.kind != FG_LINE_NAMED && r->line.kind != FG_LINE_NUMBERS) return;
    if (r->kind == FG_LINE_EMPTY) r->kind = r->line.kind;
    if (r->kind != r->line.kind) return;
    r->clock = r->clock || r->line.clock.size;
    if (r->kind == FG_LINE_NUMBERS) {
        if (!r->unnamed_number) r->unnamed = r->line.count;
        if (!r->unnamed_number) r->unnamed_number = number;
        return;
    }
    for (size_t i = 0; i < r->line.count && r->rows->status == FG_OK; i++)
        if (column_of(r, r->line.readings[i].name) == r->count) add_name(r, r->line.readings[i].name, number);
}

static void name_numbers(reader *r)
{
    if (are_named(r->rows)) add_given(r);
    if (r->rows->status != FG_OK || r->unnamed == r->count) return;
    const char *s = r->unnamed == 1 ? "" : "s";
    r->rows->status =
        r->rows->options && r->rows->options->names
            ? fg_mistake_set(r->rows->mistake, FG_ERROR_RECORDING, r->rows->path, r->unnamed_number,
                             "this line holds %zu number%s, and --columns has %zu name%s; write one for each number",
                             r->unnamed, s, r->count, r->count == 1 ? "" : "s")
            : fg_mistake_set(r->rows->mistake, FG_ERROR_RECORDING, r->rows->path, r->unnamed_number,
                             "this line holds %zu number%s without a name; say what each is, in their order: "
                             "--columns t_ms,depth",
                             r->unnamed, s);
}

static void begin(void *context)
{
    reader *r = context;
    if (r->kind == FG_LINE_NUMBERS) name_numbers(r);
    if (r->rows->status != FG_OK) return;
    r->cells = calloc(r->count + 2, sizeof *r->cells);
    if (!r->cells) {
        no_memory(r, 0);
        return;
    }
    if (r->clock) r->cells[0] = fg_text_of("time");
    for (size_t i = 0; i < r->count; i++) r->cells[i + r->clock] = fg_text_of(r->names[i]);
    fg_rows_heading(r->rows, r->cells, r->count + r->clock, 1);
}

/* ---- rows ---- */

static void count_other(reader *r, fg_text text, uint64_t number)
{
    if (r->others++) return;
    r->first_number = number;
    fg_text_keep(r->first_other, sizeof r->first_other, text);
}

static bool new_name(reader *r, fg_text name, uint64_t number)
{
    r->rows->status = fg_mistake_set(r->rows->mistake, FG_ERROR_RECORDING, r->rows->path, number,
                                     "the name '%.*s' is new here; the first %d lines have to hold every name once",
                                     (int)(name.size < 40 ? name.size : 40), name.at, FG_AHEAD_LINES);
    return false;
}

static bool is_time(const reader *r, size_t column)
{
    return r->rows->time_kind != FG_TIME_NONE && column + r->clock == r->rows->time_column;
}

/* A time behind which something else than its own unit begins: the line is torn, or it would be a wrong moment. */
static bool is_torn_time(const reader *r, const fg_line_reading *reading)
{
    return reading->unit.size && !fg_text_is(reading->unit, r->rows->time_kind == FG_TIME_MS ? "ms" : "s");
}

/* Its cells; false if it is no row, or with a mistake. */
static bool take_readings(reader *r, uint64_t number)
{
    const fg_line *line = &r->line;
    if (line->kind != r->kind || (r->clock && !line->clock.size)) return false;
    if (r->kind == FG_LINE_NUMBERS && line->count != r->count) return false;
    for (size_t i = 0; i < r->count + r->clock; i++) r->cells[i] = (fg_text){0};
    if (r->clock) r->cells[0] = line->clock;
    for (size_t i = 0; i < line->count && r->rows->status == FG_OK; i++) {
        const fg_line_reading *reading = &line->readings[i];
        const size_t column = r->kind == FG_LINE_NUMBERS ? i : column_of(r, reading->name);
        if (column == r->count) return new_name(r, reading->name, number);
        if (is_time(r, column) && is_torn_time(r, reading)) return false;
        r->cells[column + r->clock] = is_time(r, column) ? reading->value : value_in_unit(r, column, reading, number);
    }
    return r->rows->time_kind == FG_TIME_NONE || r->cells[r->rows->time_column].size;
}

static void take_row(void *context, fg_text text, uint64_t number)
{
    reader *r = context;
    fg_line_read(text, &r->line);
    const bool taken = take_readings(r, number);
    if (r->rows->status != FG_OK) return;
    if (taken)
        fg_rows_row(r->rows, r->cells, r->count + r->clock, number);
    else
        count_other(r, text, number);
}

static void tell_others(const reader *r)
{
    char text[160];
    if (!r->others || !r->rows->sink->note) return;
    snprintf(text, sizeof text, "%" PRIu64 " %s no readings; the first is line %" PRIu64 ": %s", r->others,
             r->others == 1 ? "line holds" : "lines hold", r->first_number, r->first_other);
    r->rows->sink->note(r->rows->sink->context, text);
}

void fg_lines_read(fg_rows *rows, fg_stream *stream, char *block, size_t size)
{
    reader *r = calloc(1, sizeof *r);
    if (!r) {
        rows->status =
            fg_mistake_set(rows->mistake, FG_ERROR_MEMORY, rows->path, 0, "there is not enough memory to read it");
        return;
    }
    r->rows = rows;
    fg_ahead_read(&(fg_ahead){.rows = rows, .context = r, .gather = gather, .heading = begin, .row = take_row}, stream,
                  block, size);
    if (rows->status == FG_OK) tell_others(r);
    for (size_t i = 0; i < r->count; i++) {
        free(r->names[i]);
        free(r->units[i]);
    }
    free(r->cells);
    free(r);
}
