/* SPDX-License-Identifier: MIT */
/* Stretches of rows in which nothing can change, so that the engine need not step them. */
#ifndef FICKLEGATE_WORKSHOP_QUIET_H
#define FICKLEGATE_WORKSHOP_QUIET_H

#include "workshop/replay/player.h"
#include "workshop/replay/wants.h"

#define FG_NO_COLUMN SIZE_MAX
enum { FG_SERIES_ROWS = 128 };

/* A term for a chunk of rows: numbers in millionths, none of them further from the true one than `error`, nor larger
 * than `most`. */
typedef struct fg_series {
    double at[FG_SERIES_ROWS];
    double error, most;
} fg_series;

typedef struct fg_quiet {
    fg_wants wants;     /* nothing changes as long as they are met, and less than `until` ms pass after the last step */
    fg_wanting wanting; /* all there are */
    const fg_beside *beside; /* those of these gates as well; NULL: there are none */
    const fg_input *inputs;  /* of each column of numbers */
    size_t width;
    int32_t *low, *high;  /* the stretch: the numbers of each column stay between these, both ends in */
    size_t start;         /* its first row */
    int32_t memory;       /* so many of the newest rows are in some window */
    uint16_t *remembered; /* the sensors they are of, and what those are worked out from, parts first */
    uint16_t remembered_count;
    int32_t *reach;             /* of each sum: how far from the present values its parts were allowed last */
    size_t *column_of;          /* of each sensor, then of each flag; FG_NO_COLUMN: it has none */
    bool *simple, *by_value;    /* of each sum: its values can be worked out from columns; that is done now */
    fg_series *stack;           /* to do so */
    unsigned pause, next_pause; /* rows to go before it is tried again */
} fg_quiet;

/* `wants.run`, `beside`, `inputs`, `width` are filled in, the rest is zero; it does not move from then on. False: no
 * memory; fg_quiet_end() is due all the same. */
bool fg_quiet_start(fg_quiet *quiet);
void fg_quiet_end(fg_quiet *quiet);

/* Behind a step: finds the stretch that begins there. `row`: that of the step. False if there is none. */
bool fg_quiet_find(fg_quiet *quiet, const fg_number_rows *rows, size_t row);
/* How many rows from one on, before another, belong to the stretch; those before it do. */
size_t fg_quiet_rows(fg_quiet *quiet, const fg_number_rows *rows, size_t from, size_t to);

static inline const fg_gate *fg_quiet_gate(const fg_quiet *quiet) { return quiet->wants.run->gate; }
/* What the last of so many decimals is worth. */
double fg_quiet_millionths(uint8_t decimals);

#endif
