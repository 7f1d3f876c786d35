/* SPDX-License-Identifier: MIT */
/* What another step has changed in a run: answers, counts, outputs, starts of pulses that came to nothing. */
#ifndef FICKLEGATE_WORKSHOP_CHANGES_H
#define FICKLEGATE_WORKSHOP_CHANGES_H

#include "workshop/base/buffer.h"

#include <ficklegate/replay.h>

typedef struct fg_changes {
    const fg_program *program;
    fg_run *run;
    bool began;          /* there was a step to compare with */
    fg_verdict *answers; /* as they were before the newest step, like all below */
    fg_value *counts;
    fg_buffer *texts;                                     /* what each output was at, in its one form */
    uint16_t *rows;                                       /* and which row of it won */
    fg_verdict *starts;                                   /* of each pulse: its newest sure start */
    fg_buffer text;                                       /* what an output is at now */
    char was[FG_VALUE_TEXT_SIZE], is[FG_VALUE_TEXT_SIZE]; /* of a count */
} fg_changes;

/* `program` and `run` are filled in, the rest is zero. False: no memory; fg_changes_end() is due all the same. */
bool fg_changes_start(fg_changes *c);
void fg_changes_end(fg_changes *c);
/* A text lacks something there was no memory for. */
bool fg_changes_are_cut_short(const fg_changes *c);

/* Before a step: what it will be compared with. */
void fg_changes_keep(fg_changes *c);
/* Behind it: did anything change? */
bool fg_changes_any(const fg_changes *c);
/* Did this name, and if so from what to what? The texts live until fg_changes_told() and the next call. */
bool fg_changes_of(fg_changes *c, const fg_declared *declared, fg_change *change);
/* That one was told: the next one is from here. */
void fg_changes_told(fg_changes *c, const fg_declared *declared);
/* All were. */
void fg_changes_all_told(fg_changes *c);

/* Did a pulse start to no effect? A pulse that runs already is no such case. `spent`: it waits for `again`, else it is
 * stopped. Once for each step. */
bool fg_changes_refused(fg_changes *c, uint16_t pulse, bool *spent);

/* The level of an output in its one form. */
fg_text fg_changes_output(fg_changes *c, uint16_t output);

#endif
