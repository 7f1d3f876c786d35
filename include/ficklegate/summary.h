/* SPDX-License-Identifier: MIT */
/** @file
 * Summary: what happened in a replay, as a table.
 *
 *     void on_step(fg_summary *summary, const fg_run *run, int64_t t_ms) { fg_summary_step(summary, run, t_ms); }
 */
#ifndef FICKLEGATE_SUMMARY_H
#define FICKLEGATE_SUMMARY_H

#include <ficklegate/language.h>

FG_PUBLIC_BEGIN

typedef struct fg_summary fg_summary;

/** One answer of a name. */
typedef struct fg_summary_name {
    const fg_declared *declared;
    fg_text answer;         /**< beyond 64 different ones the rest is "others" */
    int64_t ms;             /**< how long it had this answer in all */
    uint64_t changes;       /**< of the name */
    int64_t shortest_ms;    /**< the shortest time between two changes of the name, from its beginning on; -1 without a
                               change */
    bool is_first, is_last; /**< a recording began, or ended, with it */
} fg_summary_name;

/** What a sensor read, in its steps. */
typedef struct fg_summary_sensor {
    const fg_declared *declared;
    bool seen; /**< it was good at least once; else the four values mean nothing */
    fg_value lowest, median, highest;
    fg_value noise;        /**< half of its moves from step to step are at most this large */
    uint32_t faulty_share; /**< of 10000 steps */
} fg_summary_sensor;

/** Begins with nothing; NULL if there is not enough memory. Memory does not grow with the recording. */
fg_summary *fg_summary_start(const fg_program *program);

/** Gives it back; NULL is fine. */
void fg_summary_end(fg_summary *summary);

/** Takes in a step at `t_ms`. */
void fg_summary_step(fg_summary *summary, const fg_run *run, int64_t t_ms);

/** Takes in the summary of another recording, which ended at `end_ms`. Nothing is carried over from one to the other: a
 * summary to add to takes in no steps of its own. */
void fg_summary_add(fg_summary *summary, const fg_summary *other, int64_t end_ms);

/** Tells each answer of each name in the order of declaration, then each sensor. `end_ms`: the end of the recording, up
 * to which the last answers count. False: there was not enough memory. */
bool fg_summary_tell(fg_summary *summary, int64_t end_ms, void *context,
                     void (*name)(void *context, const fg_summary_name *name),
                     void (*sensor)(void *context, const fg_summary_sensor *sensor));

FG_PUBLIC_END
#endif
