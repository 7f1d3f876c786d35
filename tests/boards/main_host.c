/* The small gate on this computer. */
#include "small_gate.h"

/* -DBOARD_GATE=name runs other tables than the small gate. */
#ifndef BOARD_GATE
#define BOARD_GATE small_gate
#endif
extern const fg_gate BOARD_GATE;

#include <inttypes.h>
#include <stdio.h>

int main(void)
{
    static _Alignas(16) unsigned char memory[1 << 16];
    fg_run *run;
    if (fg_run_start(&BOARD_GATE, memory, sizeof memory, &run) != FG_OK) return 1;
    printf("hash %08" PRIx32 "\n", small_gate_hash(&BOARD_GATE, run, 0));
    return 0;
}
