/* SPDX-License-Identifier: MIT */
/* What the ops of a run want of the values of sensors, so that none of them gives another answer at the next step. */
#ifndef FICKLEGATE_WORKSHOP_WANTS_H
#define FICKLEGATE_WORKSHOP_WANTS_H

#include <ficklegate/replay.h>

/* The ops that are asked, and the sensors whose values they look at. */
typedef struct fg_wanting {
    uint16_t *ops, *sensors; /* `sensors`: for the caller to fill in */
    uint16_t op_count, sensor_count;
} fg_wanting;

/* None yet. False: no memory; fg_wanting_end() is due all the same. */
bool fg_wanting_start(fg_wanting *from, const fg_gate *gate);
/* This one too, unless it changes only where the answer of another one does. */
void fg_wanting_add(fg_wanting *from, const fg_gate *gate, uint16_t slot);
void fg_wanting_end(fg_wanting *from);

typedef struct fg_wants {
    const fg_wanting *from;
    const fg_run *run; /* its last step changed nothing */
    fg_range *of;      /* room for each sensor: between these its value has to stay, both ends in */
    fg_time until;     /* so many ms after the last step the first wait ends */
    const char *why;   /* an op may change whatever is read, as it is told; NULL: not worth a word */
} fg_wants;

static const fg_range fg_range_whole = {INT32_MIN, INT32_MAX};

/* False: nothing is left of it. */
static inline bool fg_range_narrow(fg_range *range, int64_t low, int64_t high)
{
    if (low > range->low) range->low = (int32_t)(low > INT32_MAX ? INT32_MAX : low);
    if (high < range->high) range->high = (int32_t)(high < INT32_MIN ? INT32_MIN : high);
    return range->low <= range->high;
}

/* Finds it. False: one of these ops may change whatever is read. */
bool fg_wants_find(fg_wants *wants);

#endif
