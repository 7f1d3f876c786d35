/* SPDX-License-Identifier: MIT */
/* JSON Lines: an object a line, with the names of the columns. */
#include "workshop/recordings/recording.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>

#ifndef FG_WITHOUT_JSON
#include "workshop/recordings/json.h"

typedef struct reader {
    fg_rows *rows;
    json_t *columns; /* name -> number of its column */
    fg_text *cells;
    char (*texts)[FG_JSON_CELL];
    json_t *row; /* whose strings the cells point to */
} reader;

static json_t *object_of(reader *r, fg_text line, uint64_t number)
{
    json_error_t error;
    errno = 0;
    json_t *object = json_loadb(line.at, line.size, JSON_REJECT_DUPLICATES, &error);
    if (json_is_object(object)) return object;
    if (!object && errno == ENOMEM && r->rows->status == FG_OK) /* jansson takes it for a mistake in the text */
        r->rows->status = fg_mistake_set(r->rows->mistake, FG_ERROR_MEMORY, r->rows->path, number,
                                         "there is not enough memory for this line");
    if (r->rows->status == FG_OK)
        r->rows->status = object ? fg_mistake_set(r->rows->mistake, FG_ERROR_RECORDING, r->rows->path, number,
                                                  "this line is not an object; write {\"t_ms\": 0, \"depth\": 7.3}")
                                 : fg_mistake_set(r->rows->mistake, FG_ERROR_RECORDING, r->rows->path, number,
                                                  "this line is not JSON, at column %d: %s", error.column, error.text);
    json_decref(object);
    return NULL;
}

static void gather(void *context, fg_text line, uint64_t number)
{
    reader *r = context;
    const char *name;
    json_t *value, *object = object_of(r, line, number);
    /* cppcheck-suppress unknownMacro */
    json_object_foreach(object, name, value)
    {
        if (!json_object_get(r->columns, name))
            (void)json_object_set_new(r->columns, name, json_integer((json_int_t)json_object_size(r->columns)));
    }
    json_decref(object);
}

fg_text fg_json_cell(const json_t *value, char *room)
{
    if (json_is_string(value)) return (fg_text){json_string_value(value), json_string_length(value)};
    if (json_is_integer(value))
        return (fg_text){room,
                         (size_t)snprintf(room, FG_JSON_CELL, "%" JSON_INTEGER_FORMAT, json_integer_value(value))};
    if (json_is_real(value))
        return (fg_text){room, (size_t)snprintf(room, FG_JSON_CELL, "%.15g", json_real_value(value))};
    if (json_is_boolean(value)) return (fg_text){json_is_true(value) ? "1" : "0", 1};
    if (json_is_null(value)) return (fg_text){0};
    return (fg_text){"{}", 2}; /* a list or an object is no reading */
}

static void take_row(void *context, fg_text line, uint64_t number)
{
    reader *r = context;
    const char *name;
    json_t *value;
    const size_t count = json_object_size(r->columns);
    json_decref(r->row);
    r->row = object_of(r, line, number);
    for (size_t i = 0; i < count; i++) r->cells[i] = (fg_text){0};
    /* cppcheck-suppress unknownMacro */
    json_object_foreach(r->row, name, value)
    {
        const json_t *column = json_object_get(r->columns, name);
        if (!column) {
            r->rows->status =
                fg_mistake_set(r->rows->mistake, FG_ERROR_RECORDING, r->rows->path, number,
                               "the name '%.40s' is new here; the first %d lines have to hold every name once, "
                               "with null where nothing was read",
                               name, FG_AHEAD_LINES);
            return;
        }
        const size_t i = (size_t)json_integer_value(column);
        r->cells[i] = fg_json_cell(value, r->texts[i]);
    }
    if (r->row) fg_rows_row(r->rows, r->cells, count, number);
}

static void begin(void *context)
{
    reader *r = context;
    const char *name;
    json_t *number;
    const size_t count = json_object_size(r->columns);
    r->cells = calloc(count + 1, sizeof *r->cells);
    r->texts = calloc(count + 1, sizeof *r->texts);
    if (!r->cells || !r->texts) {
        r->rows->status =
            fg_mistake_set(r->rows->mistake, FG_ERROR_MEMORY, r->rows->path, 0, "there is not enough memory");
        return;
    }
    /* cppcheck-suppress unknownMacro */
    json_object_foreach(r->columns, name, number) r->cells[json_integer_value(number)] = (fg_text){name, strlen(name)};
    fg_rows_heading(r->rows, r->cells, count, 1);
}

void fg_json_read(fg_rows *rows, fg_stream *stream, char *block, size_t size)
{
    reader r = {.rows = rows, .columns = json_object()};
    fg_ahead_read(&(fg_ahead){.rows = rows, .context = &r, .gather = gather, .heading = begin, .row = take_row}, stream,
                  block, size);
    json_decref(r.columns);
    json_decref(r.row);
    free(r.cells);
    free(r.texts);
}

#else

void fg_json_read(fg_rows *rows, fg_stream *stream, char *block, size_t size)
{
    (void)stream;
    (void)block;
    (void)size;
    fg_rows_fail(rows, 1, "this program was built without JSON; install libjansson-dev and build it again");
}

#endif
