/* SPDX-License-Identifier: MIT */
/* What the readers of each form of recording share: the stream of bytes, and rows on their way to a sink. */
#ifndef FICKLEGATE_WORKSHOP_RECORDING_H
#define FICKLEGATE_WORKSHOP_RECORDING_H

#include "workshop/base/buffer.h"

#include <ficklegate/recordings.h>

/* ---- stream.c: a file or standard input, unpacked if it is gzipped ---- */

typedef struct fg_stream fg_stream;

/* NULL with a mistake if it cannot be opened. */
fg_stream *fg_stream_open(const char *path, fg_mistake *mistake);
/* The same of a text, which lives as long; `path`: its name. */
fg_stream *fg_stream_of_text(fg_text text, const char *path, fg_mistake *mistake);
/* Up to `size` bytes; 0 at the end or with a mistake. */
size_t fg_stream_read(fg_stream *stream, char *to, size_t size, fg_mistake *mistake);
/* How much of the file was taken, of how much, both as it lies on the disk; 0 of 0 where that is not known. */
void fg_stream_progress(const fg_stream *stream, uint64_t *done, uint64_t *all);
void fg_stream_close(fg_stream *stream);

/* ---- rows ---- */

typedef enum fg_time_kind { FG_TIME_MS, FG_TIME_S, FG_TIME_ANY, FG_TIME_NONE } fg_time_kind;

/* The name in a heading such as "depth [cm]" or "depth (cm)", and its unit. */
fg_text fg_column_name(fg_text heading, fg_text *unit);
/* The column of this name, in any letter case and with any unit; FG_NO_COLUMN if there is none. */
#define FG_NO_COLUMN SIZE_MAX
size_t fg_column_find(const fg_text *columns, size_t count, fg_text name);
/* Adds a name to a list with commas between, if there is room for it. */
void fg_list_name(char *list, size_t room, fg_text name);
/* What kind of time a column of this name has; FG_TIME_NONE if it is another. */
fg_time_kind fg_time_kind_of(fg_text column);

/* A time as it is written in a column of this kind, in ms; false if it is none. `clock` is set for one of the day. */
bool fg_time_read(fg_time_kind kind, fg_text cell, bool *clock, int64_t *t_ms);
/* What such times wrap at, in ms; 0: they do not. */
int64_t fg_time_turn(fg_time_kind kind, bool clock, int64_t before, int64_t written);

/* The times of one device. */
typedef struct fg_row_clock {
    uint64_t count;     /* rows so far */
    int64_t written_ms; /* the time of the newest row, as written */
    int64_t wrapped_ms; /* what a clock that wrapped or began anew has lost so far */
    int64_t gap_ms;     /* between the last two rows that differ in time */
    uint64_t headings;  /* that came before the newest row */
} fg_row_clock;

/* Where rows go, and what the heading said. */
typedef struct fg_rows {
    const char *path;
    const fg_recording_options *options;
    const fg_recording_sink *sink;
    fg_mistake *mistake;
    fg_status status;
    size_t column_count, time_column;
    fg_time_kind time_kind;
    bool headed;
    bool told_by_line;   /* the names stand in the lines, so there is no heading */
    bool of_day;         /* its times are those of a day */
    uint64_t count;      /* rows so far */
    fg_row_clock only;   /* the clock of all rows, where they are not of several devices */
    fg_row_clock *clock; /* of the device whose rows come */
    uint64_t headings;   /* that came again */
    const char *by;      /* of the options; NULL: all rows are of one device */
    size_t by_column;
    void *devices; /* a tree of those that were named (tsearch), and how many */
    size_t device_count;
    const fg_stream *stream;
    uint64_t all; /* rows there are, where that is known */
    char first_column[32];
} fg_rows;

/* Gives back what devices took. */
void fg_rows_end(fg_rows *rows);
/* A mistake in a line; only the first one counts. */
void fg_rows_fail(fg_rows *rows, uint64_t line, const char *text);
/* Of a reading that ended with a mistake: FG_ERROR_RECORDING, unless memory ran out. */
fg_status fg_rows_status(const fg_rows *rows);
/* The names of the columns; they are trimmed and renamed in place. */
void fg_rows_heading(fg_rows *rows, fg_text *columns, size_t count, uint64_t line);
void fg_rows_row(fg_rows *rows, const fg_text *cells, size_t count, uint64_t line);
/* Takes the time of a plain row: false if only fg_rows_row can tell what it means. */
bool fg_rows_plain_time(fg_rows *rows, int64_t *t_ms);
/* Hands on rows of plain numbers, each of which went through fg_rows_plain_time. */
void fg_rows_numbers(fg_rows *rows, const fg_number_rows *numbers);

/* Behind a block there are bytes that may be read, whatever they are. */
enum { FG_BLOCK_BEHIND = 16, FG_BLOCK = 1 << 18, FG_ROW_MOST = 8 << 20, FG_PROGRESS_ROWS = 16384 };

/* ---- plain.c: rows of plain numbers, read without taking them apart into cells ---- */

typedef struct fg_plain fg_plain;

/* NULL if the sink wants none; `full` says that there was no memory. Behind the heading. */
fg_plain *fg_plain_start(fg_rows *rows, char delimiter, bool *full);
/* Reads whole lines from `at`, the first of which is `line`, up to one that is not plain or the end, and hands their
 * rows on. `end`: behind a newline. Returns how many bytes and, by `lines`, how many lines those were. */
size_t fg_plain_read(fg_plain *plain, const char *at, const char *end, uint64_t line, uint64_t *lines);
void fg_plain_end(fg_plain *plain);

/* ---- ahead.c: forms that tell their columns line by line ---- */

enum { FG_AHEAD_LINES = 1000, FG_AHEAD_BYTES = 1 << 20 };

/* The names are gathered from the first lines, which wait for the heading and are rows then. Empty lines and comments
 * are passed over. */
typedef struct fg_ahead {
    fg_rows *rows;
    void *context;
    void (*gather)(void *context, fg_text line, uint64_t number); /* the names in a line */
    void (*heading)(void *context);                               /* all that were gathered */
    void (*row)(void *context, fg_text line, uint64_t number);
    fg_buffer line, ahead; /* the line that is being read; those that wait, each with its newline */
    uint64_t number, ahead_lines;
} fg_ahead;

/* Reads all of it. */
void fg_ahead_read(fg_ahead *ahead, fg_stream *stream, char *block, size_t size);

/* ---- the forms ---- */

/* `block`: FG_BLOCK bytes, of which `size` are the beginning of the stream. */
void fg_csv_read(fg_rows *rows, fg_stream *stream, char *block, size_t size);
void fg_json_read(fg_rows *rows, fg_stream *stream, char *block, size_t size);
/* Does it begin like lines that a board prints? */
bool fg_lines_begin(const fg_rows *rows, const char *block, size_t size);
void fg_lines_read(fg_rows *rows, fg_stream *stream, char *block, size_t size);
/* Opens the file anew, by its path. */
void fg_sqlite_read(fg_rows *rows, fg_stream *stream, char *block, size_t size);

/* 2026-11-23T09:30:00.5Z as milliseconds since 1970; false if it is none. */
bool fg_read_date(fg_text text, int64_t *t_ms);

#endif
