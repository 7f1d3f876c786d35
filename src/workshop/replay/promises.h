/* SPDX-License-Identifier: MIT */
/* Promises while something is played. */
#ifndef FICKLEGATE_WORKSHOP_PROMISES_H
#define FICKLEGATE_WORKSHOP_PROMISES_H

#include "workshop/explain/explain.h"

#include <ficklegate/replay.h>

typedef struct fg_promises fg_promises;

/* NULL: no memory. `program` was compiled with its promises and outlives it. */
fg_promises *fg_promises_start(const fg_program *program);
void fg_promises_end(fg_promises *p);

/* Whom it is told, and what is needed for the reason. */
typedef struct fg_promises_told {
    const fg_run *run;
    fg_explainer *explainer;
    fg_buffer *because, *written;
    void *context;
    bool (*broken)(void *context, const fg_broken *broken); /* NULL: this step is played without a word */
} fg_promises_told;

/* Does one await something, so that it may break although nothing moves? */
bool fg_promises_wait(const fg_promises *p);

/* After each step. False: the observer has seen enough, or there is no memory for the reason. */
bool fg_promises_step(fg_promises *p, const fg_promises_told *told, int64_t t_ms);

#endif
