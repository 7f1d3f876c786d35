/* SPDX-License-Identifier: MIT */
/* The ops of a gate: which others each of them looks at, and what it is made of. */
#ifndef FICKLEGATE_WORKSHOP_OPS_H
#define FICKLEGATE_WORKSHOP_OPS_H

#include "workshop/base/buffer.h"

/* The op that works out each sensor, flag, count and output. */
typedef struct fg_op_places {
    const fg_gate *gate;
    uint16_t *sensors, *flags, *counters, *outputs; /* in one piece of memory */
} fg_op_places;

/* False: no memory; fg_op_places_end() is due all the same. */
bool fg_op_places_start(fg_op_places *places, const fg_gate *gate);
void fg_op_places_end(fg_op_places *places);

/* Visits the op of each answer, sensor, flag, count and output that this op looks at, some more than once. */
void fg_op_looks_at(const fg_op_places *places, uint16_t slot, void (*visit)(void *context, uint16_t slot),
                    void *context);

/* Everything besides the op itself that says what it answers, as bytes: two gates with the same ops, of which this one
 * is made of the same, answer the same here as long as all that it looks at does. */
void fg_op_made_of(const fg_gate *gate, const fg_op *op, fg_buffer *bytes);

#endif
