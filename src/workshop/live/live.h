/* SPDX-License-Identifier: MIT */
/* A gate that runs on readings as they come: what the files of this folder share. */
#ifndef FICKLEGATE_WORKSHOP_LIVE_H
#define FICKLEGATE_WORKSHOP_LIVE_H

#include "workshop/recordings/recording.h"
#include "workshop/replay/player.h"

#include <ficklegate/lines.h>
#include <ficklegate/live.h>

enum { FG_LIVE_NAMES_MOST = 512, FG_LIVE_LINE_MOST = 4096 };

/* A name that came, and what it is for. */
typedef struct fg_live_name {
    char *name;
    fg_input input;             /* `declared` NULL: no sensor or flag */
    const fg_declared *said_of; /* a rule, count or output, if somebody listens */
    fg_time_kind time;
    char *unit; /* of its first reading that had one */
} fg_live_name;

/* Where the times of rows come from. */
typedef struct fg_live_clock {
    bool own;                      /* the lines have times */
    bool of_day;                   /* times of the day */
    bool leapt;                    /* the last time was too far ahead to be believed: `leapt_ms` */
    int64_t newest_ms, leapt_ms;   /* as written, unwrapped */
    int64_t turned_ms;             /* what a clock that wrapped has lost so far */
    int64_t shift_ms;              /* run time = as written + this */
    int64_t anchor_now, anchor_ms; /* the newest row by the clock of arrival, and its run time */
    int64_t reached_ms;            /* all steps before this run time are made */
    uint64_t rows;
} fg_live_clock;

/* One reading of the row that is being put together. */
typedef struct fg_live_part {
    fg_text name, value, unit;
} fg_live_part;

struct fg_live {
    fg_player player;
    fg_live_options options;
    fg_text only; /* the name of numbers that stand alone */

    fg_text *columns, *cells; /* t_ms, then what is read, then what a board may say of */
    size_t column_count;
    char time[24];
    fg_buffer told;                        /* what is told, with visible escapes */
    char (*converted)[FG_VALUE_TEXT_SIZE]; /* of each input: counts as a value */
    size_t *column_of;                     /* of each declared name; 0: none */
    char **held;                           /* of each input, or NULL */
    size_t held_count;
    bool *was_read; /* each input */

    fg_live_name names[FG_LIVE_NAMES_MOST];
    size_t name_count, name_next; /* the name that is likely to come next */
    fg_live_clock clock;

    fg_buffer line;
    bool drops_line;
    fg_live_lines lines;
    uint64_t line_number;
    fg_line parsed;
    fg_text *heading; /* of CSV: its names, in memory of their own behind them; NULL: none came */
    size_t heading_count;
    char divides; /* between its cells */
    bool told_form, told_other, told_garbage, told_numbers, told_nothing;
    uint32_t garbage; /* lines that are no text since the last one with readings */
    uint32_t strange; /* rows without a reading that the gate has a use for */
};

/* tell.c: tells a person something. */
__attribute__((format(printf, 2, 3))) void fg_live_tell(fg_live *l, const char *format, ...);

/* names.c: what a name is for; NULL if there are too many. */
fg_live_name *fg_live_name_of(fg_live *l, fg_text name);
void fg_live_names_end(fg_live *l);

/* live.c: the row of these readings. `clock`: a time of the day in front of it, or empty. True as well if it is none,
 * which is counted then. */
bool fg_live_take(fg_live *l, const fg_live_part *parts, size_t count, fg_text clock, int64_t now_ms);

/* clock.c: the run time of a row that came now, with what is written as its time, or without; false: it cannot be
 * believed. */
bool fg_live_row_time(fg_live *l, fg_time_kind kind, fg_text written, int64_t now_ms, int64_t *t_ms);

#endif
