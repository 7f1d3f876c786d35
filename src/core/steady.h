/* SPDX-License-Identifier: MIT */
/* Which sensors need no look at their rules. */
#ifndef FICKLEGATE_CORE_STEADY_H
#define FICKLEGATE_CORE_STEADY_H

#include <ficklegate/gate.h>

/* Finds the readings between which a sensor is steady. Called after the rules behind its op were worked out; a rule
 * that waits makes it unsteady. */
void fg_sensor_find_steady(fg_run *run, const fg_op *sensor);

#endif
