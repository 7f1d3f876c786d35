/* SPDX-License-Identifier: MIT */
/** @file
 * Compare: what a board said it did, held against what the gate does with the same readings. A column of a recording
 * that is named like a rule, count or output has what the board said: yes or no in the words of a flag, a label,
 * digits, or a level in its one form.
 *
 *     fg_status print_shares(const fg_program *program, const char *recording, fg_mistake *mistake)
 *     {
 *         fg_compared it;
 *         fg_replay_report report;
 *         const fg_readings readings = {.recording = recording};
 *         const fg_status status = fg_compare_recording(program, &readings, (fg_progress){0}, &it, &report, mistake);
 *         for (size_t i = 0; i < it.count; i++)
 *             printf("%d of %d\n", (int)it.names[i].agree, (int)it.names[i].compared);
 *         fg_compared_end(&it);
 *         return status;
 *     }
 */
#ifndef FICKLEGATE_COMPARE_H
#define FICKLEGATE_COMPARE_H

#include <ficklegate/replay.h>

FG_PUBLIC_BEGIN

/** One name of which the board said something. */
typedef struct fg_compared_name {
    const fg_declared *declared;
    uint64_t compared, agree;
    uint64_t between; /**< of those compared, in rows that lie between two steps */
    int64_t t_ms;     /**< of the first difference, from the first row */
    uint64_t line;    /**< of the recording */
    char *said;       /**< by the board, there; NULL: they agree throughout */
    char *own;        /**< what the gate has there */
    char *because;    /**< and the reason */
} fg_compared_name;

typedef struct fg_compared {
    fg_compared_name *names; /**< in the order of the gate file */
    size_t count;
} fg_compared;

/** Plays a recording and compares. Each value is compared with the step that its row is for; a row between two steps is
 * compared with the step before it (`row_steps` of the options makes a step for each row). Errors as fg_replay has
 * them, and FG_ERROR_RECORDING where no column is named like a rule, count or output. fg_compared_end() is due in any
 * case. */
FG_MUST_CHECK fg_status fg_compare_recording(const fg_program *program, const fg_readings *readings,
                                             fg_progress progress, fg_compared *compared, fg_replay_report *report,
                                             fg_mistake *mistake);
/** Adds what a board said of one name, as an observer of a replay or a live run hears it; `compared` begins as {0}.
 * False: no memory. */
FG_MUST_CHECK bool fg_compared_add(fg_compared *compared, const fg_said *said);
/** Gives back what it holds; also after an error. */
void fg_compared_end(fg_compared *compared);

FG_PUBLIC_END
#endif
