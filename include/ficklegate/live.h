/* SPDX-License-Identifier: MIT */
/** @file
 * Live: readings go through a gate as they come, on the simulated board. What was kept of a live run replays to the
 * same answers.
 *
 *     void listen(const fg_program *program, const fg_replay_observer *observer, const char *bytes, size_t size,
 *                 int64_t now_ms)
 *     {
 *         fg_replay_report report;
 *         const fg_live_options options = {0};
 *         fg_live *live = fg_live_start(program, &options, observer, &report);
 *         if (!live) return;
 *         bool more = fg_live_bytes(live, bytes, size, now_ms); // whenever some come
 *         if (more) more = fg_live_until(live, now_ms + 20);    // and every few milliseconds
 *         fg_live_end(live);
 *     }
 *
 * `now_ms` is any clock in milliseconds that never goes back: the moment of arrival. Time zero of the run is its first
 * reading, as in a recording. Every function that returns a bool returns false once the observer has seen enough.
 */
#ifndef FICKLEGATE_LIVE_H
#define FICKLEGATE_LIVE_H

#include <ficklegate/replay.h>

FG_PUBLIC_BEGIN

typedef struct fg_live fg_live;

typedef struct fg_live_options {
    /** How lines are to be read; `gap` is not used. Copied, but for what it points at. */
    fg_recording_options reading;
    /** Without a reading for so long a gate without `every` makes a step of its own, and one that reads times from the
     * board goes on by the clock. 0: only readings move it. */
    fg_time idle_ms;
    /** A time from the board that is so far ahead of the moment of arrival counts only if the next one agrees, as half
     * a line may look like one. 0: a day. */
    fg_time leap_ms;
    /** Something that a person may want to know, in one sentence: the form of the lines, names that nothing uses, a
     * board that started again. May be NULL. */
    void (*tell)(void *context, const char *text);
    void *context;
} fg_live_options;

/** Starts a run. Of `observer` are called: `columns` now, with t_ms and one name for each sensor and flag that is read,
 * and, if it listens to what a board said, for each rule, count and output; `row` for each row of readings before its
 * step; `change`, `step`, `said`. `report`: filled in as it goes; like `program` it outlives the run. NULL: no memory,
 * or `columns` said no. */
fg_live *fg_live_start(const fg_program *program, const fg_live_options *options, const fg_replay_observer *observer,
                       fg_replay_report *report);

/** Bytes as they come, of lines that end in LF, CR or both: NAME=VALUE, NAME: VALUE UNIT, numbers alone, CSV with a
 * heading that may come again, JSON objects. `t_ms`, `t_s`, `time` or a clock time in front is the time, else the
 * moment of arrival. A line of more than 4096 bytes is no reading. */
FG_MUST_CHECK bool fg_live_bytes(fg_live *live, const char *bytes, size_t size, int64_t now_ms);
/** There is nothing behind the last bytes. `whole`: what stands in front of no line end is a line, else it is torn. */
FG_MUST_CHECK bool fg_live_bytes_end(fg_live *live, bool whole, int64_t now_ms);
/** One value of one name, or a JSON object: what a broker's message holds. */
FG_MUST_CHECK bool fg_live_message(fg_live *live, fg_text name, fg_text value, int64_t now_ms);
/** A row of a recording or scene, by its own time in ms. `columns` are those of the cells. */
FG_MUST_CHECK bool fg_live_row(fg_live *live, const fg_text *columns, const fg_text *cells, size_t count, int64_t t_ms);

/** A sensor or flag is held by hand at `value`, as it would stand in a recording (`faulty` is a fault); what comes for
 * it counts no more. It is read anew with every row, and at least every `idle_ms`. Empty: let go. FG_ERROR_ARGUMENT if
 * it is not read, FG_ERROR_MEMORY. */
FG_MUST_CHECK fg_status fg_live_hold(fg_live *live, const fg_declared *input, fg_text value);
/** What it is held at; empty if it is not. */
fg_text fg_live_held(const fg_live *live, const fg_declared *input);

/** Makes the steps that are due by now. */
FG_MUST_CHECK bool fg_live_until(fg_live *live, int64_t now_ms);
/** The same by the time of the run, from its first row. */
FG_MUST_CHECK bool fg_live_until_run(fg_live *live, int64_t t_ms);
/** When fg_live_until has something to do, by the same clock; INT64_MAX: not before something comes. */
int64_t fg_live_next(const fg_live *live);

/** The time of the run, in ms from its first row; -1: there was none yet. */
int64_t fg_live_time(const fg_live *live);
/** For what is at the moment: answers, sensors, outputs. */
const fg_run *fg_live_run(const fg_live *live);
/** Has a reading of this sensor or flag come yet? */
bool fg_live_was_read(const fg_live *live, const fg_declared *input);
/** Why it is what it is, in one line; valid until the next call for this run. */
fg_text fg_live_because(fg_live *live, const fg_declared *declared);

/** Lines so far, and those of them that held no readings. */
typedef struct fg_live_lines {
    uint64_t all, others, torn;
} fg_live_lines;

/** How many lines came. */
fg_live_lines fg_live_line_counts(const fg_live *live);

/** Makes the last step and gives everything back; NULL is fine. */
void fg_live_end(fg_live *live);

FG_PUBLIC_END
#endif
