/* SPDX-License-Identifier: MIT */
/** @file
 * Pictures of a recording: sensors with their limits, answers and outputs below, on one time axis. For hosted machines;
 * gnuplot draws them, over a pipe.
 *
 *     fg_status draw_night(const fg_program *program, fg_mistake *mistake)
 *     {
 *         fg_replay_report report;
 *         const fg_readings readings = {.recording = "night.csv"};
 *         const fg_draw_options options = {.width = 1280};
 *         return fg_draw(program, &readings, &options, "night.svg", &report, mistake);
 *     }
 */
#ifndef FICKLEGATE_DRAW_H
#define FICKLEGATE_DRAW_H

#include <ficklegate/trials.h>
#include <ficklegate/tune.h>

FG_PUBLIC_BEGIN

/** A moment or a time in which something was expected, for the lowest lane. */
typedef struct fg_draw_mark {
    int64_t from_ms, to_ms; /**< the same for a moment */
    bool held;
    uint32_t line; /**< of the gate file, which stands beside it; 0: none */
} fg_draw_mark;

typedef struct fg_draw_options {
    uint32_t width, height; /**< in pixels; 0: 1280, and as high as the lanes need */
    bool dark;
    const fg_declared *const *names; /**< what to draw, in this order within sensors, answers, outputs */
    size_t name_count;               /**< 0: all that can be drawn */
    const fg_draw_mark *marks;
    size_t mark_count;
    const char *title;
    fg_progress progress;
} fg_draw_options;

/** Draws readings, or the part of them that is to be reported, to a file that ends in .png or .svg, which appears whole
 * or not at all. Each column of pixels shows the lowest and the highest reading that fell into it, so no spike is lost.
 * FG_ERROR_FILE: gnuplot is not there, or the file cannot be written. Other errors: see fg_replay. */
FG_MUST_CHECK fg_status fg_draw(const fg_program *program, const fg_readings *readings, const fg_draw_options *draw,
                                const char *path, fg_replay_report *report, fg_mistake *mistake);

/** Runs the trials of a gate file that play these readings, and marks their expectations where they name a time. A
 * trial that sets numbers plays another gate, so it has no marks. `marks`: `room` of them; `count`: how many there are.
 * FG_ERROR_...: a trial could not be run, `mistake` says why. */
FG_MUST_CHECK fg_status fg_draw_trial_marks(const fg_gate_file *file, const fg_readings *readings, fg_draw_mark *marks,
                                            size_t room, size_t *count, fg_mistake *mistake);

/** Draws the labelled readings of tunings that were worked out: of each label how often each reading came, one label
 * above the other; the limits there are as dashed lines, those recommended as solid ones. Of the options the size, dark
 * and the title count. Errors: see fg_draw. */
FG_MUST_CHECK fg_status fg_draw_spread(const fg_tunings *tunings, const fg_draw_options *options, const char *path,
                                       fg_mistake *mistake);

/** Values over one number: `y` has as many as there are points. */
typedef struct fg_curve {
    fg_text name;
    const char *what; /**< what is counted; curves of one kind that stand together share a panel */
    const double *y;
} fg_curve;

/** Draws curves over `x`, which rises. Of the options the size, dark and the title count. Errors: see fg_draw;
 * FG_ERROR_ARGUMENT: there are no curves. */
FG_MUST_CHECK fg_status fg_draw_curves(const double *x, size_t point_count, const char *x_name, const fg_curve *curves,
                                       size_t count, const fg_draw_options *options, const char *path,
                                       fg_mistake *mistake);

/** What a buzzer would be heard to do, as a WAV file (16 bits, one channel, 22050 Hz), which appears whole or not at
 * all. At most an hour. FG_ERROR_ARGUMENT: it would be longer. FG_ERROR_FILE: it cannot be written, or the library was
 * built without libsndfile. */
FG_MUST_CHECK fg_status fg_sound(const fg_program *program, const fg_readings *readings, const fg_declared *buzzer,
                                 const char *path, fg_replay_report *report, fg_mistake *mistake);

FG_PUBLIC_END
#endif
