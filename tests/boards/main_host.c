/* SPDX-License-Identifier: MIT */
/* The small gate on this computer. */
#include "board_gate.h"

#include <inttypes.h>
#include <stdio.h>

int main(void)
{
    static board_memory memory;
    fg_run *run;
    if (fg_run_start(&BOARD_GATE, &memory, sizeof memory, &run) != FG_OK) return 1;
    printf("hash %08" PRIx32 "\n", small_gate_hash(&BOARD_GATE, run, 0));
    return 0;
}
