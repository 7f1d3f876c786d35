/* SPDX-License-Identifier: MIT */
/* main_gate GATE: what main_host prints for its tables, for a gate file that is compiled here and now. */
#include "small_gate.h"

#include <ficklegate/workshop.h>

#include <inttypes.h>
#include <stdlib.h>

int main(int argc, char **argv)
{
    fg_gate_file file;
    fg_mistake mistake = {0};
    fg_run *run;
    if (argc != 2 || fg_gate_file_open(&file, argv[1], (fg_settings){0}, &mistake) != FG_OK) return 2;
    const size_t size = fg_run_size(&file.program.gate);
    void *memory = malloc(size);
    const bool good = memory && fg_run_start(&file.program.gate, memory, size, &run) == FG_OK;
    if (good) printf("hash %08" PRIx32 "\n", small_gate_hash(&file.program.gate, run, 0));
    free(memory);
    fg_gate_file_close(&file);
    return good ? 0 : 1;
}
