/* SPDX-License-Identifier: MIT */
/* The whole harbour on a Cortex-M: its recording comes in by semihosting, what its outputs do goes out. */
#include <fg_semihosting.h>

#include "harbour.h"

static const uint8_t inputs[] = {
    [HARBOUR_SENSOR_DEPTH] = FG_SEMIHOSTING_COUNTS,
    [HARBOUR_SENSOR_BILGE] = FG_SEMIHOSTING_VALUE,
    [HARBOUR_SENSOR_WIND] = FG_SEMIHOSTING_COUNTS,
    [HARBOUR_SENSOR_VANE] = FG_SEMIHOSTING_VALUE,
    [HARBOUR_SENSOR_ROCK_X] = FG_SEMIHOSTING_VALUE,
    [HARBOUR_SENSOR_ROCK_Y] = FG_SEMIHOSTING_VALUE,
    [HARBOUR_SENSOR_ROCK_Z] = FG_SEMIHOSTING_VALUE,
    [HARBOUR_SENSOR_CREST] = FG_SEMIHOSTING_NOT_READ,
    [HARBOUR_SENSOR_CREST + 1 + HARBOUR_FLAG_KEY] = FG_SEMIHOSTING_FLAG,
    [HARBOUR_SENSOR_CREST + 1 + HARBOUR_FLAG_ACK] = FG_SEMIHOSTING_FLAG,
    [HARBOUR_SENSOR_CREST + 1 + HARBOUR_FLAG_LEVEL] = FG_SEMIHOSTING_FLAG,
    [HARBOUR_SENSOR_CREST + 1 + HARBOUR_FLAG_BOAT] = FG_SEMIHOSTING_FLAG,
};

int main(void)
{
    static _Alignas(8) unsigned char memory[4096];
    static fg_semihosting board = {.inputs = inputs, .gate = &harbour_gate};
    fg_run *run;
    if (fg_run_start(&harbour_gate, memory, sizeof memory, &run) != FG_OK) return 1;
    board.run = run;
    if (!fg_semihosting_start(&board, "readings.csv")) return 2;
    const fg_port port = fg_semihosting_port(&board);
    while (fg_semihosting_next(&board)) fg_port_step(&port, run);
    return 0;
}
