/* SPDX-License-Identifier: MIT */
/** @file
 * Promises asked for all readings: does one hold whatever is read, and if not, which recording breaks it?
 *
 * The engine itself is searched: from the first step on, every state that some readings lead to, each once. Readings
 * that no rule can tell apart count as one, and times that no rule waits for as well, so for many gates that is all
 * there is, and what holds then is proven. Elsewhere readings are made by chance at and beside the limits.
 *
 *     bool is_kept(const fg_gate_file *file, uint32_t promise, uint32_t row, fg_mistake *mistake)
 *     {
 *         const fg_promise_options options = {0};
 *         fg_promise_result result;
 *         const fg_status status = fg_promise_ask(file, promise, row, &options, &result, mistake);
 *         const bool kept = status == FG_OK && result.verdict == FG_PROMISE_HOLDS;
 *         fg_promise_result_free(&result);
 *         return kept;
 *     }
 */
#ifndef FICKLEGATE_PROMISE_H
#define FICKLEGATE_PROMISE_H

#include <ficklegate/coverage.h>
#include <ficklegate/replay.h>

FG_PUBLIC_BEGIN

/** X(code, word). */
#define FG_PROMISE_VERDICTS(X)                                                                                         \
    X(FG_PROMISE_UNDECIDED, "not decided")                                                                             \
    X(FG_PROMISE_HOLDS, "holds")                                                                                       \
    X(FG_PROMISE_BREAKS, "breaks")

typedef enum fg_promise_verdict {
#define FG_PROMISE_CODE(code, word) code,
    FG_PROMISE_VERDICTS(FG_PROMISE_CODE)
#undef FG_PROMISE_CODE
} fg_promise_verdict;

/** The word for a verdict. */
const char *fg_promise_word(fg_promise_verdict verdict);

typedef struct fg_promise_options {
    uint64_t steps; /**< how many steps may be tried for one row; 0: 8,000,000. The same number gives the same verdict
                       on every machine. */
    fg_progress progress; /**< `rows`: steps so far */
} fg_promise_options;

/** What came of one row. Everything belongs to the result. */
typedef struct fg_promise_result {
    fg_promise_verdict verdict;
    uint64_t steps;    /**< that were tried */
    uint64_t states;   /**< that were found, each once */
    int64_t after_ms;  /**< of one that breaks: the step at which it does, from the first */
    bool shortest;     /**< nothing breaks it sooner */
    fg_text recording; /**< of one that breaks: the readings as CSV, as few changes and faults as were found; the engine
                          has played it */
    fg_text because;   /**< why it breaks, or why it is not decided; of one that holds what was looked at */
} fg_promise_result;

/** Asks for row number `row` of promise number `promise`. `file`: compiled with its promises.
 * FG_ERROR_MEMORY: `mistake` says so. FG_ERROR_ARGUMENT: there is no such row, it is an assumption, or the promises
 * were not compiled. Give the result back with fg_promise_result_free whatever came out. */
FG_MUST_CHECK fg_status fg_promise_ask(const fg_gate_file *file, uint32_t promise, uint32_t row,
                                       const fg_promise_options *options, fg_promise_result *result,
                                       fg_mistake *mistake);

/** Asks whether a situation can ever happen: one of a coverage, or that a condition of `program.asked` is yes
 * (FG_SITUATION_ANSWER with its slot as number and FG_YES). FG_PROMISE_BREAKS: it can, and the recording gets there;
 * FG_PROMISE_HOLDS: it can never happen, proven; FG_PROMISE_UNDECIDED: it was not found. The gate steps by itself
 * (`every`). Errors: see fg_promise_ask. */
FG_MUST_CHECK fg_status fg_promise_reach(const fg_gate_file *file, const fg_situation *situation,
                                         const fg_promise_options *options, fg_promise_result *result,
                                         fg_mistake *mistake);

/** Goes through readings by chance, at and beside the limits, for so many steps, and notes what happens: a quick look
 * before fg_promise_reach is asked for what is left. Errors: see fg_promise_ask. */
FG_MUST_CHECK fg_status fg_promise_wander(const fg_gate_file *file, uint64_t steps, fg_coverage *coverage,
                                          fg_mistake *mistake);

/** One set to {0} is fine. */
void fg_promise_result_free(fg_promise_result *result);

FG_PUBLIC_END
#endif
