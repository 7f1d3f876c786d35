/* SPDX-License-Identifier: MIT */
/* What the parts of a tuning share: tune_steps.c keeps the steps, tune_read.c gathers them, tune_notes.c reads what
 * people wrote down, tune.c works out, tune_labels.c knows the labels, tune_cuts.c finds the best cuts, tune_smooth.c
 * tries smoothing, tune_reasons.c says why, tune_write.c writes. */
#ifndef FICKLEGATE_WORKSHOP_TUNING_H
#define FICKLEGATE_WORKSHOP_TUNING_H

#include "workshop/base/buffer.h"

#include <ficklegate/tune.h>

/* Labels count from 0: no, yes; or those of the bands, and none behind them. */
enum { FG_LABEL_OTHER = 65533, FG_LABEL_EMPTY, FG_LABEL_BREAK };

/* A step: what the sensor read and how it is labelled. FG_LABEL_BREAK: faulty, or another recording begins. */
typedef struct fg_labelled {
    fg_value value;
    uint16_t label;
} fg_labelled;

/* So many readings of one value have one label. */
typedef struct fg_counted {
    fg_value value;
    uint16_t label;
    uint32_t count;
} fg_counted;

/* Where the answer of the rule changes, as it is written now. */
typedef struct fg_boundary {
    fg_value at;           /* the first reading above */
    uint16_t below, above; /* labels */
    bool tuned;
    bool gap; /* the middle of a gap that nobody labels */
} fg_boundary;

enum { FG_BOUNDARIES_MOST = 512 };

struct fg_tuning {
    const fg_program *program;
    const fg_declared *rule;
    fg_text column;
    fg_value circle;
    uint16_t labels; /* how many there may be */

    fg_labelled *steps; /* in the order in which they came */
    size_t step_count, step_room;
    bool full;
    fg_tuned tuned;
    fg_tuned_label *of_labels;
    fg_tuned_cut *cuts;
    fg_tuned_change *changes;
    fg_boundary boundaries[FG_BOUNDARIES_MOST];
    size_t boundary_count;
    fg_buffer because[FG_BOUNDARIES_MOST];

    /* while a recording is read */
    size_t at; /* its column */
    bool has_column;
    uint16_t present; /* the label of the newest row */
};

/* The answer behind a label's number, and back. */
fg_verdict fg_label_verdict(const fg_tuning *tuning, uint16_t label);

/* The label of this name, in any letter case; FG_LABEL_OTHER if there is none. */
uint16_t fg_tuning_label_named(const fg_tuning *tuning, fg_text name);
/* The same for a cell of a recording: FG_LABEL_EMPTY if it is empty. The first that is none is kept. */
uint16_t fg_tuning_label(fg_tuning *tuning, fg_text word);

/* Readings that somebody wrote down without times. False, with nothing done, if it is a recording with times. */
bool fg_notes_read(fg_tuning *const *tunings, size_t count, const fg_tuning_source *source, fg_replay_report *report,
                   fg_mistake *mistake, fg_status *status);

/* One step more. */
void fg_tuning_add(fg_tuning *tuning, fg_value value, uint16_t label);

/* The readings with one of so many labels, by value and then by label; NULL if there is no memory. The caller's to
 * free(). */
fg_counted *fg_tuning_count(const fg_labelled *steps, size_t count, uint16_t labels, size_t *entries);

/* Puts each boundary that is tuned where all together get the fewest readings wrong, and of those where the spaces
 * are widest. `counted`: by value. `wrong`: how many are wrong then; UINT64_MAX if there is no way. False: no memory.
 */
bool fg_best_cuts(const fg_tuning *tuning, const fg_counted *counted, size_t count, fg_boundary *boundaries,
                  size_t boundary_count, uint64_t *wrong);

/* The answer of the rule to a reading, by its limits as written, as a label's number; between the two limits of a
 * hysteresis FG_LABEL_EMPTY. */
uint16_t fg_tuning_judge(const fg_tuning *tuning, fg_value value);

/* How far two values are apart, on a circle the short way. */
fg_value fg_tuning_distance(const fg_tuning *tuning, fg_value from, fg_value to);

/* The lower of the two in the middle; the values are sorted. 0 if there are none. */
fg_value fg_tuning_median(fg_value *values, size_t count);

/* Fills in what is known of each label, and the noise. `readings`: how many each has. False: no memory. */
bool fg_tuning_describe(fg_tuning *tuning, const uint64_t *readings);

/* Looks for smoothing that gets at most half of `wrong` wrong. False: no memory. */
bool fg_tuning_smooth(fg_tuning *tuning, uint64_t wrong);

/* Writes the reason for one of the cuts. */
void fg_tuning_because(fg_tuning *tuning, size_t number);

#endif
