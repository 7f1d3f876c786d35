/* SPDX-License-Identifier: MIT */
/* A port for Cortex-M boards under a debugger or an emulator: readings come in and levels go out as text, by Arm
 * semihosting, so a gate can be tried on the real core before anything is wired.
 *
 * A line of readings is the time in ms and then a cell for each input that is read, in the order of the gate (sensors,
 * then flags), with commas between; cells behind those are passed over. An empty cell is no new reading, one that is no
 * number is a faulty one. The first line is a heading. Each change goes out as a line: the time, the output's number,
 * the level as it is written everywhere.
 */
#ifndef FG_SEMIHOSTING_H
#define FG_SEMIHOSTING_H

#include <ficklegate.h>

typedef enum fg_semihosting_input_kind {
    FG_SEMIHOSTING_NOT_READ, /* a sensor that is worked out from others: has no cell */
    FG_SEMIHOSTING_VALUE,    /* in its unit */
    FG_SEMIHOSTING_COUNTS,   /* of a converter */
    FG_SEMIHOSTING_FLAG      /* 0 or 1 */
} fg_semihosting_input_kind;

enum { FG_SEMIHOSTING_LINE = 256, FG_SEMIHOSTING_INPUTS = 32 };

typedef struct fg_semihosting {
    const uint8_t *inputs; /* fg_semihosting_input_kind of each input of the gate, at most FG_SEMIHOSTING_INPUTS */
    const fg_gate *gate;
    const fg_run *run;
    int32_t file;
    fg_time now;
    char line[FG_SEMIHOSTING_LINE];
    fg_reading readings[FG_SEMIHOSTING_INPUTS]; /* of the present line */
} fg_semihosting;

/* Opens the file of readings on the host. `inputs`, `gate`, `run`: in `board` already. False: it is not there. Blocks
 * until the host answers, as all calls here. */
bool fg_semihosting_start(fg_semihosting *board, const char *path);

/* The next line of readings. False at the end. */
bool fg_semihosting_next(fg_semihosting *board);

/* The port; `board` lives as long. */
fg_port fg_semihosting_port(fg_semihosting *board);

/* Text to the host's console. */
void fg_semihosting_put(const char *text, size_t size);

/* Ends the emulator with this exit status. */
void fg_semihosting_leave(int32_t status);

#endif
