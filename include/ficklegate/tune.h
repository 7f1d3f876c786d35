/* Choosing the numbers of a rule from labelled readings. For hosted machines: it uses the heap and files.
 *
 * A tuning gathers the readings that one rule sees, with the true label of each, and works out where its limits had
 * best stand. Positions are given as the first reading of what lies above a boundary, in steps of the rule's sensor.
 */
#ifndef FICKLEGATE_TUNE_H
#define FICKLEGATE_TUNE_H

#include <ficklegate/workshop.h>

#ifdef __cplusplus
extern "C" {
#endif

typedef struct fg_tuning fg_tuning;

/* Begins with no readings. `rule`: a threshold, hysteresis or bands of `program`, which lives as long; `column`: of the
 * recordings, with the true label (a label of the bands or none; of the others a flag's words); its text lives as long.
 * NULL if there is not enough memory. */
fg_tuning *fg_tuning_start(const fg_program *program, const fg_declared *rule, fg_text column);

/* Gives it back; NULL is fine. */
void fg_tuning_end(fg_tuning *tuning);

/* The rule it is about. */
const fg_declared *fg_tuning_rule(const fg_tuning *tuning);

/* Plays a recording through the gate and gathers what the rules' sensors read at each step, smoothing and all, for
 * several tunings at once. Each step's label stands in the newest row not after it, an empty cell is none; with `label`
 * (not empty) the whole recording is of that label. `progress`: may be NULL.
 * FG_ERROR_FILE, FG_ERROR_RECORDING (also: it has none of the columns), FG_ERROR_MEMORY: `mistake` says why. */
FG_MUST_CHECK fg_status fg_tuning_read(fg_tuning *const *tunings, size_t count, const char *recording,
                                       const fg_recording_options *options, fg_text label,
                                       void (*progress)(void *context, uint64_t rows, uint64_t done, uint64_t all),
                                       fg_replay_report *report, fg_mistake *mistake);

/* What was gathered under one label. */
typedef struct fg_tuned_label {
    fg_verdict label;
    uint64_t readings, samples;       /* a sample: readings of one label right behind each other */
    fg_value lowest, median, highest; /* on a circle along the label's own arc, which may run through zero */
    fg_value spread;                  /* median absolute deviation from the median */
    fg_value drift; /* the largest change within a sample: median of its last quarter less that of its first */
    bool drifts;    /* a sample was long enough (8 readings) to tell */
} fg_tuned_label;

/* A boundary between two labels that lie next to each other. */
typedef struct fg_tuned_cut {
    fg_verdict below, above;
    bool tuned;        /* false: no readings on one side, so it is left alone and only `now` holds */
    fg_value now;      /* as the gate has it; of a hysteresis the middle between its limits */
    fg_value halfway;  /* between the medians of the two labels */
    fg_value best;     /* with the fewest readings on the wrong side, in the middle of the widest such space */
    uint64_t readings; /* of the two labels, next to this boundary */
    uint64_t wrong_now, wrong_halfway, wrong_best;
    uint64_t below_readings, below_wrong, above_readings, above_wrong; /* wrong: at `best` */
    fg_value last_below, first_above; /* the readings on either side of `best`: nobody reads what lies between */
    fg_value margin;                  /* the widest margin around `best` that holds no reading; 0: there is none */
    fg_value chosen;                  /* the one recommended: `now` where it is as good and safe, else `best` */
    bool gap;                         /* `now` is the middle of a gap in which no label was seen; it is closed */
    bool last; /* the rule writes the last reading below (`over`, `at most`, the end of a range): a position less 1 */
    const char *because;
} fg_tuned_cut;

/* A number of the rule that should change. */
typedef struct fg_tuned_change {
    const fg_written *written;
    fg_value value; /* in steps, as it is to be written there, a minus before a named number already taken off */
} fg_tuned_change;

/* What came of it. Everything belongs to the tuning. */
typedef struct fg_tuned {
    const fg_tuned_label *labels; /* those that were seen, in the order of the rule */
    size_t label_count;
    const fg_tuned_cut *cuts; /* from low to high */
    size_t cut_count;
    const fg_tuned_change *changes;
    size_t change_count;
    uint64_t readings;                     /* with a label */
    uint64_t unlabelled, faulty;           /* steps that were left out */
    uint64_t unknown;                      /* steps with a label that the rule does not have */
    char unknown_label[FG_SHOWN_MOST + 1]; /* the first of them */
    uint64_t moves;                        /* from one reading of a sample to the next */
    fg_value move;       /* nine of ten moves from one reading of a sample to the next are at most this large */
    fg_value noise;      /* the margin that this proposes: three standard deviations of normal noise, 9/7 of `move` */
    fg_value margin;     /* the one recommended */
    fg_value widest;     /* the widest margin that holds no reading at any boundary; 0: there is none */
    fg_value margin_now; /* of a hysteresis half of its dead band */
    uint64_t wrong_now, wrong_best; /* of all readings, with the limits as they are and as recommended */
    bool smoothing_tried;           /* other smoothing was tried, as labels overlap */
    bool smoothing_mean;
    uint8_t smoothing; /* the window that got clearly fewer wrong, 0: none did */
    uint64_t smoothing_wrong;
} fg_tuned;

/* Works it out. False if there is not enough memory. Cuts: every position between two readings is looked at, for all
 * boundaries together (dynamic programming over the sorted readings), so no other list of cuts gets fewer wrong. */
FG_MUST_CHECK bool fg_tuning_work(fg_tuning *tuning, fg_tuned *tuned);

/* ---- writing them ---- */

/* A text of the gate file that gives way to another. */
typedef struct fg_edit {
    fg_span span;
    char text[24];
    const fg_declared *rule;   /* whose number it is */
    const fg_declared *number; /* where it stands, if it is a named one, else NULL */
    char was[24];
} fg_edit;

/* The edits for the changes of a tuning: at most `room`, more are needed if more come back. Changes that cannot be
 * made (the number is worked out from others, or stands in another file) are told with `left`, which may be NULL. */
size_t fg_tuning_edits(const fg_tuning *tuning, const fg_tuned *tuned, fg_edit *edits, size_t room, void *context,
                       void (*left)(void *context, const fg_tuned_change *change, const char *why));

/* The text with its edits made, which must not overlap and are sorted here. The caller's to free() as (void *)at; an
 * empty text if there is not enough memory. */
fg_text fg_edit_text(fg_text text, fg_edit *edits, size_t count);

/* How the two texts differ, as a unified diff; they have the same number of lines. Errors stay with `out`. False: no
 * memory, nothing is written. */
FG_MUST_CHECK bool fg_write_diff(FILE *out, const char *path, fg_text before, fg_text after);

#ifdef __cplusplus
}
#endif
#endif
