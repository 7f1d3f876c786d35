/* SPDX-License-Identifier: MIT */
/** @file
 * Watch: what somebody who looks at sensors wants to see of each: its scale with the limits of its rules, the readings
 * since a mark and under each label, the last minute, and where the next limit is.
 *
 *     fg_value one_step_on(const fg_watch *watch, const fg_declared *sensor, fg_value value)
 *     {
 *         fg_value next = value;
 *         (void)fg_watch_next_stop(watch, sensor, value, 1, &next);
 *         return next;
 *     }
 */
#ifndef FICKLEGATE_WATCH_H
#define FICKLEGATE_WATCH_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

typedef struct fg_watch fg_watch;

/** Begins to watch; NULL: no memory. `program` outlives it. */
fg_watch *fg_watch_start(const fg_program *program);
/** NULL is fine. */
void fg_watch_end(fg_watch *watch);

/** Of a row: which sensors it has a reading of. `cells`: t_ms, then one for each sensor and flag that is read. */
void fg_watch_row(fg_watch *watch, const fg_text *cells, size_t count);
/** After a step: takes the readings that came since the last one, as the rules see them. */
void fg_watch_step(fg_watch *watch, const fg_run *run, int64_t t_ms);

/** A new mark: the figures begin anew. */
void fg_watch_mark(fg_watch *watch);
/** The label that the readings have from now on, 0 to 9; -1: none. */
void fg_watch_label(fg_watch *watch, int label);

enum { FG_WATCH_LABELS = 10, FG_WATCH_SECONDS = 60, FG_WATCH_KEPT = 4096 };

/** Readings of one sensor since the mark, or under a label. */
typedef struct fg_figures {
    uint64_t count; /**< readings that were good; the rest holds if there is one */
    fg_value lowest, highest;
    fg_value median; /**< of the newest FG_WATCH_KEPT, as the next two */
    fg_value noise;  /**< half of all changes from one to the next are at most this large */
    bool still;      /**< the mean of the newest third is that of the third before, within a step or its deviation */
    uint64_t faults; /**< readings that were none */
} fg_figures;

/** `label`: 0 to 9; -1: since the mark. */
void fg_watch_figures(const fg_watch *watch, const fg_declared *sensor, int label, fg_figures *figures);

/** The scale that a sensor is drawn on: what it trusts, or else around its limits and what was read so far. */
void fg_watch_scale(const fg_watch *watch, const fg_declared *sensor, fg_value *low, fg_value *high);
/** The limits of all rules on a sensor, in rising order, each once. */
const fg_value *fg_watch_limits(const fg_watch *watch, const fg_declared *sensor, size_t *count);
/** The next reading worth trying, up (1) or down (-1): one step below a limit, on it, one step above it, or an end of
 * the scale. False: there is none further on. */
bool fg_watch_next_stop(const fg_watch *watch, const fg_declared *sensor, fg_value value, int way, fg_value *next);

/** The last FG_WATCH_SECONDS of a sensor, a value for each second; `good`: whether it had one. */
typedef struct fg_trace {
    fg_value values[FG_WATCH_SECONDS];
    bool good[FG_WATCH_SECONDS];
} fg_trace;

/** The last minute of a sensor, up to the time `t_ms` of the run. */
void fg_watch_trace(const fg_watch *watch, const fg_declared *sensor, int64_t t_ms, fg_trace *trace);

FG_PUBLIC_END
#endif
