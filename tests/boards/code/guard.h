/* SPDX-License-Identifier: MIT */
/* What docs/safety.md promises of motors, relays and servos, held against the engine at every step at which a sensor or
 * flag is faulty: one that does not rest would do the same whatever the reading had been, unless somebody asked by name
 * for something else. What the reading could have been is tried on a copy of the run. */
#ifndef GUARD_H
#define GUARD_H

#include <ficklegate/workshop.h>

bool guard_start(const fg_gate *gate);

/* The step that is tried has this reading of a sensor, or with `flag` of a flag. Call it when that step is made. */
void guard_tried(const fg_run *run, uint16_t number, bool flag);

/* The step itself. Ends the program if an output moves that should rest. */
void guard_stepped(const fg_run *run);

/* How many outputs out of rest were compared with what was tried. */
unsigned long guard_compared(void);

#endif
