/* SPDX-License-Identifier: MIT */
/** @file
 * Jobs: pieces of work that are done several at once and told in their order.
 *
 *     static void work(void *context, unsigned number, fg_progress progress)
 *     {
 *         ((unsigned *)context)[number] = number;
 *     }
 *
 *     bool number_them(unsigned *numbers, unsigned count)
 *     {
 *         const fg_jobs jobs = {.count = count, .context = numbers, .work = work};
 *         return fg_jobs_run(&jobs);
 *     }
 */
#ifndef FICKLEGATE_JOBS_H
#define FICKLEGATE_JOBS_H

#include <ficklegate/recordings.h>

FG_PUBLIC_BEGIN

typedef struct fg_jobs {
    unsigned count; /**< pieces */
    unsigned jobs;  /**< pieces at once, at most 64; 0: one for each processor */
    void *context;
    /** Does a piece, in any thread. `progress`: to be told how far this piece is; `rows` are not looked at. */
    void (*work)(void *context, unsigned number, fg_progress progress);
    /** Tells a piece that is done: one at a time and in the order of their numbers. A piece is not begun before all but
     * the `2 * jobs` in front of it were told, so that what waits to be told stays little; nor is progress told
     * meanwhile. False: no further piece is begun or told. May be NULL. */
    bool (*tell)(void *context, unsigned number);
    fg_progress progress; /**< of all; its `rows` are the pieces that are done */
} fg_jobs;

/** Does all pieces and returns when they are done and told. False: there was not enough memory, and nothing was begun.
 */
FG_MUST_CHECK bool fg_jobs_run(const fg_jobs *jobs);

FG_PUBLIC_END
#endif
