/* SPDX-License-Identifier: MIT */
/* The angle of a vector in whole numbers, for sensors that are worked out. */
#ifndef FICKLEGATE_CORE_ANGLE_H
#define FICKLEGATE_CORE_ANGLE_H

#include "wide.h"

/* The angle of (x, y) from the x axis towards y in millionths of a degree, 0 to 360000000, rounded to nearest (a result
 * that rounds up to a whole turn comes as 360000000). Not both 0. */
int64_t fg_angle(int64_t y, int64_t x);

#endif
