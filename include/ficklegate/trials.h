/* SPDX-License-Identifier: MIT */
/** @file
 * Trials: each expectation of a gate file, held or not, and why.
 *
 *     static void on_result(void *context, const fg_trial_result *result)
 *     {
 *         printf("line %u: %s\n", (unsigned)result->line, fg_outcome_word(result->outcome));
 *     }
 *
 *     fg_status run_first(const fg_gate_file *file, fg_mistake *mistake)
 *     {
 *         const fg_recording_options options = {0};
 *         const fg_trial_observer observer = {.result = on_result};
 *         return fg_trial_run(file, &options, 0, &observer, mistake);
 *     }
 */
#ifndef FICKLEGATE_TRIALS_H
#define FICKLEGATE_TRIALS_H

#include <ficklegate/coverage.h>
#include <ficklegate/replay.h>

FG_PUBLIC_BEGIN

#define FG_OUTCOMES(X)                                                                                                 \
    X(FG_OUTCOME_UNDECIDED, "undecided")                                                                               \
    X(FG_OUTCOME_HELD, "held")                                                                                         \
    X(FG_OUTCOME_FAILED, "failed")                                                                                     \
    X(FG_OUTCOME_NEVER_TRIED, "never tried")

typedef enum fg_outcome {
#define FG_OUTCOME_CODE(code, word) code,
    FG_OUTCOMES(FG_OUTCOME_CODE)
#undef FG_OUTCOME_CODE
} fg_outcome;

enum { FG_OUTCOMES_IN_ALL = 0 FG_OUTCOMES(FG_ONE_MORE) };

/** The word for an outcome. */
const char *fg_outcome_word(fg_outcome outcome);

/** How one expectation came out. */
typedef struct fg_trial_result {
    const fg_trial *trial;
    const fg_expect *expect;
    uint32_t line;
    fg_text expectation; /**< as written, without the word expect, in one line */
    fg_outcome outcome;
    fg_text because;
} fg_trial_result;

typedef struct fg_trial_observer {
    void *context;
    void (*trial)(void *context, const fg_trial *trial, const fg_replay_report *report); /**< may be NULL */
    void (*result)(void *context, const fg_trial_result *result);                        /**< may be NULL */
    /** Of a trial whose readings cannot be played: why, in place of `trial`. Its expectations failed. May be NULL. */
    void (*unplayed)(void *context, const fg_trial *trial, const fg_mistake *mistake);
    /** A promise was broken while a trial was played: told at once where one is run, behind `trial` where all are. May
     * be NULL. */
    void (*broken)(void *context, const fg_trial *trial, const fg_broken *broken);
    fg_coverage *coverage; /**< notes what was tried; may be NULL */
    fg_progress progress;
} fg_trial_observer;

/** Runs one trial of a gate file, with its settings. Readings are looked for beside the gate file; `options`: how they
 * are read, may be NULL.
 * FG_ERROR_...: it could not be run, `mistake` says why. */
FG_MUST_CHECK fg_status fg_trial_run(const fg_gate_file *file, const fg_recording_options *options, uint32_t trial,
                                     const fg_trial_observer *observer, fg_mistake *mistake);

/** Runs all trials of a gate file, `jobs` at once (0: one for each processor, at most 64), and tells them in the order
 * of the file. `observer->coverage` takes in what was tried; `observer->progress` is told how many ended, and how far
 * all are, from one thread at a time. A trial whose readings cannot be played fails, and the others go on.
 * FG_ERROR_...: the first trial that could not be run for another reason, those before it were told; `mistake` says
 * why. */
FG_MUST_CHECK fg_status fg_trials_run(const fg_gate_file *file, const fg_recording_options *options, unsigned jobs,
                                      const fg_trial_observer *observer, fg_mistake *mistake);

/** A number, time or label of the rules that was moved by one step, and what came of it. */
typedef struct fg_nudge {
    uint32_t line, column; /**< where it stands, from 1 on */
    fg_text was, is;
    bool noticed;        /**< something that held before does not any more */
    fg_text trial;       /**< of one that was noticed: the trial that did */
    uint32_t trial_line; /**< and the line of its expectation, or of the promise that broke */
} fg_nudge;

typedef struct fg_nudge_observer {
    void *context;
    void (*nudge)(void *context, const fg_nudge *nudge); /**< in the order of the text; may be NULL */
    fg_progress progress;                                /**< `rows`: moves that were tried */
} fg_nudge_observer;

typedef struct fg_nudged {
    size_t moves, noticed;
    size_t misfits;  /**< moves after which it is no gate any more; they are not counted */
    size_t not_held; /**< expectations that did not hold before */
    size_t outside;  /**< numbers and labels in included files, which are not moved */
} fg_nudged;

/** How good the trials of a gate file are: moves each limit, margin, time and label of its rules by one step, one after
 * the other, and runs the trials on what comes out, until one of them notices. A limit or margin moves by a step of its
 * sensor and a time by one of the gate, both ways; a label becomes another one. What did not hold before is not asked.
 * Several moves are tried at once, see fg_trials_run. FG_ERROR_...: `mistake` says why. */
FG_MUST_CHECK fg_status fg_trials_nudge(const fg_gate_file *file, const fg_recording_options *options, unsigned jobs,
                                        const fg_nudge_observer *observer, fg_nudged *nudged, fg_mistake *mistake);

/** How the trials of a gate file come out before and after a change of it. */
typedef struct fg_trials_compared {
    size_t held_before, expected_before, held_after, expected_after;
    size_t broken; /**< held before, and do not after */
} fg_trials_compared;

/** Runs the trials of both files and tells each expectation that held and does not any more. Errors: see fg_trials_run.
 */
FG_MUST_CHECK fg_status fg_trials_compare(const fg_gate_file *before, const fg_gate_file *after,
                                          const fg_recording_options *options, unsigned jobs,
                                          const fg_trial_observer *observer, fg_trials_compared *compared,
                                          fg_mistake *mistake);

FG_PUBLIC_END
#endif
