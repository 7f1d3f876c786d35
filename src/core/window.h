/* SPDX-License-Identifier: MIT */
/* The last good values of a sensor as one: median or mean. */
#ifndef FICKLEGATE_CORE_WINDOW_H
#define FICKLEGATE_CORE_WINDOW_H

#include <ficklegate/smooth.h>

/* Puts `value` into the window and returns what its values, up to `sensor->window` (2 or more) of them, come to. */
fg_value fg_window_step(const fg_sensor *sensor, fg_sensor_state *state, fg_value *window, fg_value value);

#endif
