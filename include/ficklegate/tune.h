/* SPDX-License-Identifier: MIT */
/** @file
 * Choosing the numbers of a rule from labelled readings. For hosted machines: it uses the heap and files.
 *
 * A tuning gathers the readings that one rule sees, with the true label of each, and works out where its limits had
 * best stand. Positions are given as the first reading of what lies above a boundary, in steps of the rule's sensor.
 *
 *     fg_value best_cut(fg_tuning *tuning)
 *     {
 *         fg_tuned tuned;
 *         return fg_tuning_work(tuning, &tuned) && tuned.cut_count ? tuned.cuts[0].best : 0;
 *     }
 */
#ifndef FICKLEGATE_TUNE_H
#define FICKLEGATE_TUNE_H

#include <ficklegate/replay.h>
#include <ficklegate/trials.h>

FG_PUBLIC_BEGIN

typedef struct fg_tuning fg_tuning;

/** Begins with no readings. `rule`: a threshold, hysteresis or bands of `program`, which lives as long; `column`: of
 * the recordings, with the true label (a label of the bands or none; of the others a flag's words), or empty for the
 * one that is called as the rule; its text lives as long. NULL if there is not enough memory. */
fg_tuning *fg_tuning_start(const fg_program *program, const fg_declared *rule, fg_text column);

/** Gives it back; NULL is fine. */
void fg_tuning_end(fg_tuning *tuning);

/** The rule it is about. */
const fg_declared *fg_tuning_rule(const fg_tuning *tuning);

/** Labelled readings to gather. */
typedef struct fg_tuning_source {
    const char *recording;
    fg_recording_options options;
    fg_text label; /**< not empty: the whole recording is of this label; else its column has the label of each row */
    fg_progress progress;
} fg_tuning_source;

/** Plays a recording through the gate and gathers what the rules' sensors read at each step, smoothing and all, for
 * several tunings at once. Each step's label stands in the newest row not after it, an empty cell is none. Without a
 * time column and `every` they are notes: each row is a reading of the sensor's column with its label, or each column
 * holds the readings of the label that heads it; nothing is played, and headings may have the unit as in "depth [cm]".
 * FG_ERROR_FILE, FG_ERROR_RECORDING (also: it has none of the columns), FG_ERROR_MEMORY: `mistake` says why. */
FG_MUST_CHECK fg_status fg_tuning_read(fg_tuning *const *tunings, size_t count, const fg_tuning_source *source,
                                       fg_replay_report *report, fg_mistake *mistake);

/** What was gathered under one label. */
typedef struct fg_tuned_label {
    fg_verdict label;
    uint64_t readings, samples;       /**< a sample: readings of one label right behind each other */
    fg_value lowest, median, highest; /**< on a circle along the label's own arc, which may run through zero */
    fg_value spread;                  /**< median absolute deviation from the median */
    fg_value drift; /**< the largest change within a sample: median of its last quarter less that of its first */
    bool drifts;    /**< a sample was long enough (8 readings) to tell */
} fg_tuned_label;

/** A boundary between two labels that lie next to each other. */
typedef struct fg_tuned_cut {
    fg_verdict below, above;
    bool tuned;        /**< false: no readings on one side, so it is left alone and only `now` holds */
    fg_value now;      /**< as the gate has it; of a hysteresis the middle between its limits */
    fg_value halfway;  /**< between the medians of the two labels */
    fg_value best;     /**< with the fewest readings on the wrong side, in the middle of the widest such space */
    uint64_t readings; /**< of the two labels, next to this boundary */
    uint64_t wrong_now, wrong_halfway, wrong_best;
    uint64_t below_readings, below_wrong, above_readings, above_wrong; /**< wrong: at `best` */
    fg_value last_below, first_above; /**< the readings on either side of `best`: nobody reads what lies between */
    fg_value margin;                  /**< the widest margin around `best` that holds no reading; 0: there is none */
    fg_value chosen;                  /**< the one recommended: `now` where it is as good and safe, else `best` */
    bool gap;                         /**< `now` is the middle of a gap in which no label was seen; it is closed */
    bool writes_below; /**< the rule writes the last reading below (`over`, `at most`, the end of a range): a position
                          less 1 */
    const char *because;
} fg_tuned_cut;

/** A number of the rule that should change. */
typedef struct fg_tuned_change {
    const fg_written *written;
    fg_value value; /**< in steps, as it is to be written there, a minus before a named number already taken off */
} fg_tuned_change;

/** What came of it. Everything belongs to the tuning. */
typedef struct fg_tuned {
    const fg_tuned_label *labels; /**< those that were seen, in the order of the rule */
    size_t label_count;
    const fg_tuned_cut *cuts; /**< from low to high */
    size_t cut_count;
    const fg_tuned_change *changes;
    size_t change_count;
    uint64_t readings;                     /**< with a label */
    uint64_t unlabelled, faulty;           /**< steps that were left out */
    uint64_t unknown;                      /**< steps with a label that the rule does not have */
    char unknown_label[FG_SHOWN_MOST + 1]; /**< the first of them */
    uint64_t moves;                        /**< from one reading of a sample to the next */
    fg_value move;       /**< nine of ten moves from one reading of a sample to the next are at most this large */
    fg_value noise;      /**< the margin that this proposes: three standard deviations of normal noise, 9/7 of `move` */
    fg_value margin;     /**< the one recommended */
    fg_value widest;     /**< the widest margin that holds no reading at any boundary; 0: there is none */
    fg_value margin_now; /**< of a hysteresis half of its dead band */
    fg_value dead_band;  /**< of a hysteresis: how far its limits are apart now; else 0 */
    bool backwards; /**< at each boundary the label below reads more than the one above: the rule seems to have them in
                       the wrong order, and no numbers help */
    uint64_t wrong_now, wrong_best; /**< of all readings, with the limits as they are and as recommended */
    bool smoothing_tried;           /**< other smoothing was tried, as labels overlap */
    bool smoothing_mean;
    uint8_t smoothing; /**< the window that got clearly fewer wrong, 0: none did */
    uint64_t smoothing_wrong;
} fg_tuned;

/** Works it out. False if there is not enough memory. Cuts: every position between two readings is looked at, for all
 * boundaries together (dynamic programming over the sorted readings), so no other list of cuts gets fewer wrong. */
FG_MUST_CHECK bool fg_tuning_work(fg_tuning *tuning, fg_tuned *tuned);

/* ---- bands that are not in the gate yet ---- */

typedef struct fg_new_bands {
    fg_text name;
    fg_text sensor; /**< empty: the gate's only one, or the one that a column is named after */
    fg_text column; /**< with the labels; empty: the one called like the bands, else the only other one, else each
                       column is headed by a label and holds its readings */
} fg_new_bands;

/** What came of them. */
typedef struct fg_new_bands_made {
    fg_text text;      /**< the declaration, which ends with a line end; give it back with fg_text_free */
    char column[4096]; /**< the column of the labels, to tune them with; empty: there is none */
} fg_new_bands_made;

/** Writes bands with a label for each that the sources have, in the order of the medians of their readings and cut
 * halfway between these. FG_ERROR_ARGUMENT: the name is taken or no name, the sensor is none or has to be named.
 * FG_ERROR_RECORDING: there are not two labels, two of them have one median, or a label is no word. FG_ERROR_FILE,
 * FG_ERROR_MEMORY: `mistake` says why. */
FG_MUST_CHECK fg_status fg_new_bands_make(const fg_program *program, const fg_new_bands *what,
                                          const fg_tuning_source *sources, size_t count, fg_new_bands_made *made,
                                          fg_mistake *mistake);

/** The text of a gate that ends with such bands, with a margin in them: what the noise asks for if it is known, as far
 * as no reading is held by it, else half of the widest that holds none. Give it back with fg_text_free; empty if there
 * is not enough memory. */
fg_text fg_new_bands_margin(fg_text gate, const fg_tuning *tuning, const fg_tuned *tuned);

/* ---- writing them ---- */

/** A text of the gate file that gives way to another. */
typedef struct fg_edit {
    fg_span span;
    char text[24];
    const fg_declared *rule;   /**< whose number it is */
    const fg_declared *number; /**< where it stands, if it is a named one, else NULL */
    char was[24];
} fg_edit;

/** The edits for the changes of a tuning: at most `room`, more are needed if more come back. Changes that cannot be
 * made (the number is worked out from others, or stands in another file) are told with `left`, which may be NULL. */
size_t fg_tuning_edits(const fg_tuning *tuning, const fg_tuned *tuned, fg_edit *edits, size_t room, void *context,
                       void (*left)(void *context, const fg_tuned_change *change, const char *why));

/** Several tunings of one gate that belong together. */
typedef struct fg_tunings {
    fg_tuning *const *tunings;
    const fg_tuned *tuned; /**< what came of each */
    size_t count;
} fg_tunings;

/** Something about an edit that a person should know. */
typedef struct fg_edit_note {
    enum {
        FG_EDIT_DISPUTED, /**< `other` wants `other_text` for the same number, so it stays as it is */
        FG_EDIT_KEPT,     /**< `other` was tuned too and wants the number as it is, so it stays */
        FG_EDIT_SHARED    /**< `other` has the same number, so it changes too */
    } kind;
    const fg_edit *edit;
    const fg_declared *other; /**< a rule */
    const char *other_text;
} fg_edit_note;

/** Takes out the edits that the tuned rules do not agree on, and all but one of those of the same number. `tell`: hears
 * why. Returns how many are left; FG_EDITS_NO_MEMORY if there is not enough memory. */
size_t fg_edits_agreed(const fg_tunings *tunings, fg_edit *edits, size_t count, void *context,
                       void (*tell)(void *context, const fg_edit_note *note));

#define FG_EDITS_NO_MEMORY SIZE_MAX

/** The text with its edits made, which must not overlap and are sorted here. Give it back with fg_text_free; empty if
 * there is not enough memory. */
fg_text fg_edit_text(fg_text text, fg_edit *edits, size_t count);

/** How the two texts differ, as a unified diff; they have the same number of lines. Errors stay with `out`. False: no
 * memory, nothing is written. */
FG_MUST_CHECK bool fg_write_diff(FILE *out, const char *path, fg_text before, fg_text after);

/* ---- what each value of a number would do ---- */

enum { FG_TRY_VALUES_MOST = 200, FG_TRY_LINES = 4 };

/** What a name did with one value. */
typedef struct fg_tried_name {
    uint64_t changes;
    int64_t first_ms, shortest_ms; /**< the first change, the shortest time between two; -1 without a change */
    int64_t last_ms;
    int64_t sum_ms; /**< of the times of its changes */
} fg_tried_name;

typedef struct fg_tried_value {
    char text[32];
    uint32_t held, expected;
    uint32_t lines[FG_TRY_LINES]; /**< of the first expectations that do not hold */
    fg_tried_name *names;         /**< one for each that is declared; NULL without a recording */
} fg_tried_value;

typedef struct fg_tried {
    char number[64];
    fg_tried_value *values; /**< in rising order */
    size_t count;
    uint32_t name_count;
} fg_tried;

typedef struct fg_try_options {
    const fg_readings *readings; /**< played with each value; NULL: only the trials are run */
    const fg_recording_options *trial_options;
    unsigned jobs; /**< see fg_trials_run */
    fg_progress replay_progress, trial_progress;
    void *context;
    void (*refused)(void *context, const char *value, const fg_gate_file *gate); /**< no gate any more; may be NULL */
} fg_try_options;

/** Tries "NUMBER=A..B by S": runs the trials and plays the readings with each value. Give `tried` back with
 * fg_tried_free whatever came out. FG_ERROR_ARGUMENT: `what` is not of this form, or has more than FG_TRY_VALUES_MOST
 * values. FG_ERROR_GATE: told by `refused`. Other errors: `mistake` says why. */
FG_MUST_CHECK fg_status fg_try(const fg_gate_file *file, const char *what, const fg_try_options *options,
                               fg_tried *tried, fg_mistake *mistake);

void fg_tried_free(fg_tried *tried); /**< one set to {0} is fine */

/** The first few names that change with the number: a rule, an output, and more of both. Returns how many. */
size_t fg_tried_names(const fg_tried *tried, const fg_program *program, uint32_t *names, size_t room);

/** How many seconds later its changes come on average than with the value that has as many and the earliest. */
double fg_tried_later(const fg_tried *tried, size_t value, uint32_t name);

FG_PUBLIC_END
#endif
