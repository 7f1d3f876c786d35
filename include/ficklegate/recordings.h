/* SPDX-License-Identifier: MIT */
/** @file
 * Recordings: rows of readings from a file, in any of the forms there are.
 *
 *     static bool heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake) { return true; }
 *
 *     static bool row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line,
 *                     fg_mistake *mistake)
 *     {
 *         ++*(size_t *)context;
 *         return true;
 *     }
 *
 *     size_t count_rows(const char *path, fg_mistake *mistake)
 *     {
 *         size_t rows = 0;
 *         const fg_recording_options options = {0};
 *         const fg_recording_sink sink = {.context = &rows, .heading = heading, .row = row};
 *         return fg_recording_read(path, &options, &sink, mistake) == FG_OK ? rows : 0;
 *     }
 */
#ifndef FICKLEGATE_RECORDINGS_H
#define FICKLEGATE_RECORDINGS_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

/** How far long work is. Zero tells nobody. */
typedef struct fg_progress {
    void *context;
    /** `rows` so far, `done` of `all`; `all` is 0 where that is not known. */
    void (*tell)(void *context, uint64_t rows, uint64_t done, uint64_t all);
} fg_progress;

/** What a column of plain numbers is read as: whole steps of so many decimals, or 0 and 1 of a flag. */
typedef struct fg_number_column {
    bool wanted, is_flag;
    uint8_t decimals;
} fg_number_column;

#define FG_NUMBER_NONE INT32_MIN /**< in place of a number: nothing was read */

/** Rows of plain numbers that stand behind one another, each in a line of its own. */
typedef struct fg_number_rows {
    size_t count, width;
    const int64_t *t_ms;           /**< as those of `row` */
    const int32_t *const *columns; /**< `width` of them, the wanted ones in their order: `count` numbers each */
    bool holes;                    /**< somewhere nothing was read */
    uint64_t line;                 /**< of the first row */
} fg_number_rows;

/** What a recording is played into. Each may end the reading by returning false. */
typedef struct fg_recording_sink {
    void *context;
    bool (*heading)(void *context, const fg_text *columns, size_t count, fg_mistake *mistake);
    /** `t_ms`: the time of the row, not yet counted from the first; never less than that of the row before. */
    bool (*row)(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake);
    void (*note)(void *context, const char *text); /**< something a person may want to know; may be NULL */
    fg_progress progress;
    /** The first reading of this name that has a unit behind it, in lines as boards print them; may be NULL. False: the
     * unit belongs to what was read, as in 15 deg, and stays in the cells. */
    bool (*unit)(void *context, fg_text name, fg_text unit, uint64_t line);
    /** Behind the heading: what each column is wanted as, one for each; NULL: all rows come as cells. With a list rows
     * of plain numbers come by `numbers`, several at once and in their order among the others. A row is plain if each
     * wanted cell is empty or a decimal that is a whole number of its steps within 32 bits. Both may be NULL. */
    const fg_number_column *(*wanted)(void *context);
    bool (*numbers)(void *context, const fg_number_rows *rows, fg_mistake *mistake);
    /** With `by`: the rows that follow are of this device, the `number`th that was named, from 0. False ends the
     * reading. */
    bool (*device)(void *context, fg_text name, size_t number, fg_mistake *mistake);
} fg_recording_sink;

/** How a recording is to be read; zero: as it is. */
typedef struct fg_recording_options {
    fg_time every;     /**< ms between rows, for one without a time column; 0: it has one */
    size_t block_rows; /**< rows of plain numbers that are read at once; 0: as many as are quick */
    bool by_cells;     /**< every row as cells */
    bool row_by_row;   /**< Replays: no row is left out, although nothing changes in it */
    bool row_steps;    /**< Replays: a gate with `every` steps once for each row, as a board that is late does */
    const fg_setting *columns; /**< name: what the column `value` of the recording is called here */
    size_t column_count;
    /** The names of numbers that stand in lines without a heading, in their order, with commas between: "t_ms,depth".
     * The lines before the first numbers are passed over. NULL: there are none. */
    const char *names;
    const char *by; /**< the column that says which of several devices a row is of; NULL: all are of one. Times rise
                       within the rows of each device. */
    fg_text only;   /**< the name of numbers that stand alone in lines, if `names` is NULL; empty: there is none */
    /** Replays: more than FG_GAP_STEPS steps lie between the row before `line` and this one; they are played next. May
     * be NULL. */
    void (*gap)(void *context, uint64_t line, int64_t gap_ms, uint64_t steps);
    void *gap_context;
    fg_text text; /**< the recording itself, but not SQLite; its path is only its name. `at` NULL: it is in the file */
} fg_recording_options;

#define FG_GAP_STEPS INT32_C(1000000)

/** Reads a recording from a file, "-" being standard input, row by row; memory does not grow with it. It is CSV (RFC
 * 4180; cells separated by commas, semicolons or tabs, # begins a comment line) with a heading, JSON Lines, or lines
 * as boards print them (lines.h), each of them gzipped or not, or an SQLite file with one table. Where semicolons
 * separate cells a comma in a number is its decimal point; empty rows at the end do not count. A column t_ms, t_s or
 * time (seconds, a clock time such as 12:00:01, or a date as in RFC 3339) has the times. `options`: may be NULL.
 * FG_ERROR_FILE, FG_ERROR_RECORDING: `mistake` has the file, the line and the reason. */
FG_MUST_CHECK fg_status fg_recording_read(const char *path, const fg_recording_options *options,
                                          const fg_recording_sink *sink, fg_mistake *mistake);

/** A recording that is read once and played often. */
typedef struct fg_kept_rows fg_kept_rows;

/** Nothing is kept yet. NULL: no memory. */
fg_kept_rows *fg_kept_rows_start(void);
/** NULL is fine. */
void fg_kept_rows_end(fg_kept_rows *kept);
/** The file has changed: it is read anew the next time. */
void fg_kept_rows_forget(fg_kept_rows *kept);
/** Of the recording that is kept; NULL: none is. */
const char *fg_kept_rows_path(const fg_kept_rows *kept);

/** The same as fg_recording_read, with the same `options` each time. The rows stay in memory, up to 512 MB, and the
 * next reading of the same path has them from there. */
FG_MUST_CHECK fg_status fg_kept_rows_read(fg_kept_rows *kept, const char *path, const fg_recording_options *options,
                                          const fg_recording_sink *sink, fg_mistake *mistake);

/** Where readings come from: a recording, or a scene of the program that plays them. */
typedef struct fg_readings {
    const char *recording; /**< a path, "-" is standard input; not looked at if there is a scene */
    const fg_scene *scene; /**< NULL: a recording */
    fg_recording_options options;
    fg_kept_rows *kept;     /**< of a recording that is played again and again; may be NULL */
    int64_t from_ms, to_ms; /**< the part to report, from the first row; to_ms 0: up to the end. What comes before it is
                               played without a word. */
} fg_readings;

FG_PUBLIC_END
#endif
