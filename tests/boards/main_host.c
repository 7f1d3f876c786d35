/* The small gate on this computer. */
#include "small_gate.h"

#include <inttypes.h>
#include <stdio.h>

int main(void)
{
    static _Alignas(16) unsigned char memory[1024];
    fg_run *run;
    if (fg_run_start(&small_gate, memory, sizeof memory, &run) != FG_OK) return 1;
    printf("hash %08" PRIx32 "\n", small_gate_hash(&small_gate, run, 0));
    return 0;
}
