/* SPDX-License-Identifier: MIT */
/** @file
 * Coverage: which answers, rows and limits a gate was ever tried with.
 *
 *     void on_step(fg_coverage *coverage, const fg_run *run) { fg_coverage_step(coverage, run); }
 */
#ifndef FICKLEGATE_COVERAGE_H
#define FICKLEGATE_COVERAGE_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

/** Everything that may happen in a gate, and whether it did: each label of bands; yes and no of each threshold,
 * hysteresis, condition, latch and pulse; each row of each output, as the winner; each limit, with a reading on it, one
 * step beside it on either side and, where the rule has a margin of more than a step, further within it; each sensor,
 * faulty. */
typedef struct fg_coverage fg_coverage;

typedef enum fg_situation_kind {
    FG_SITUATION_ANSWER, /**< a name has this answer */
    FG_SITUATION_ROW,    /**< this row of an output wins */
    FG_SITUATION_FAULT,  /**< a sensor is faulty */
    FG_SITUATION_LIMIT,  /**< a reading is on a limit, or one step beside it */
    FG_SITUATION_MARGIN  /**< a reading is deeper in the margin of a limit */
} fg_situation_kind;

/** One thing that may happen in a gate. */
typedef struct fg_situation {
    fg_situation_kind kind;
    uint32_t declared;      /**< whose it is, in fg_program.declared */
    fg_verdict answer;      /**< of an answer */
    int8_t beside;          /**< of a limit: -1, 0, 1 step from it */
    uint16_t number;        /**< its slot, output or sensor */
    uint16_t row;           /**< of a row, from 0 on */
    fg_value limit, margin; /**< in steps of the sensor */
} fg_situation;

/** Is it so after this step of the program? */
bool fg_situation_happens(const fg_program *program, const fg_situation *situation, const fg_run *run);

/** Begins with nothing tried; NULL if there is not enough memory. The program lives as long. */
fg_coverage *fg_coverage_start(const fg_program *program);

/** Gives it back; NULL is fine. */
void fg_coverage_end(fg_coverage *coverage);

/** From here on steps are those of `program`: the same gate file, compiled with other numbers or for a trial. */
void fg_coverage_use(fg_coverage *coverage, const fg_program *program);

/** Looks at what happened in a step. */
void fg_coverage_step(fg_coverage *coverage, const fg_run *run);

/** Takes over what was tried in another coverage of the same gate file. */
void fg_coverage_add(fg_coverage *coverage, const fg_coverage *other);

/** How much of everything was tried. */
void fg_coverage_count(const fg_coverage *coverage, uint64_t *tried, uint64_t *all);

/** Tells what was not, in the order of declaration. False: there was not enough memory to tell all. */
bool fg_coverage_untried(const fg_coverage *coverage, void *context,
                         void (*tell)(void *context, const fg_declared *declared, fg_text what));

/** How many situations there are, and each of them in the order of fg_coverage_untried within a name. `tried`: whether
 * it was; may be NULL. */
size_t fg_coverage_size(const fg_coverage *coverage);
/** See fg_coverage_size. `i`: below it. */
const fg_situation *fg_coverage_at(const fg_coverage *coverage, size_t i, bool *tried);

/** Situation number `i` in words ("never flood") and as the files of fg_coverage_save name it ("flood"). Give the text
 * back with fg_text_free. False: no memory. */
FG_MUST_CHECK bool fg_coverage_words(const fg_coverage *coverage, size_t i, fg_text *words);
/** See fg_coverage_words. */
FG_MUST_CHECK bool fg_coverage_key(const fg_coverage *coverage, size_t i, fg_text *key);

/** Writes what was tried into a CSV file `name,situation,tried`, a line for each: "tide,fair,yes". Limits are numbered
 * as they stand in the text, so that numbers set for a run change nothing. FG_ERROR_FILE, FG_ERROR_MEMORY: `mistake`
 * says why. */
FG_MUST_CHECK fg_status fg_coverage_save(const fg_coverage *coverage, const char *path, fg_mistake *mistake);

/** Takes over what such a file says was tried, in any order; files of several runs may stand behind one another in it.
 * FG_ERROR_FILE, FG_ERROR_MEMORY, or FG_ERROR_RECORDING where a line is none of this gate: nothing is taken over then,
 * and `mistake` says why. */
FG_MUST_CHECK fg_status fg_coverage_load(fg_coverage *coverage, const char *path, fg_mistake *mistake);

FG_PUBLIC_END
#endif
