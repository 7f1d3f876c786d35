/* SPDX-License-Identifier: MIT */
/* Where the limits of rules stand, as they were written. */
#ifndef FICKLEGATE_WORKSHOP_LIMITS_H
#define FICKLEGATE_WORKSHOP_LIMITS_H

#include "workshop/base/buffer.h"

enum { FG_LIMITS_MOST = 2 * FG_LABELS_MOST };

/* The limits of a threshold, hysteresis, bands or comparison, in steps of its sensor; `slot`: that of its op,
 * `limits`: room for FG_LIMITS_MOST. Of a cut the first reading of the band behind it. Returns how many. */
size_t fg_limits_of(const fg_program *program, uint16_t slot, fg_value *limits);

/* Those of all rules on a sensor, in rising order; the caller's, for free(). False: no memory. */
bool fg_limits_of_sensor(const fg_program *program, uint16_t sensor, fg_value **limits, size_t *count);

/* How far the two limits of a hysteresis are apart, as they were written. */
fg_value fg_dead_band_of(const fg_op_source *source);

/* A value so many steps beside a limit, on a circle through zero where it must. */
fg_value fg_limit_beside(const fg_program *program, uint16_t sensor, fg_value limit, int steps);

#endif
