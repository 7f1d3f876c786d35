/* SPDX-License-Identifier: MIT */
/* The small gate on an ATmega328P. Text goes out byte by byte through a register that the runner watches. */
#include "board_gate.h"

#include <avr/io.h>
#include <avr/sleep.h>

static void put(char c) { GPIOR0 = (uint8_t)c; }

int main(void)
{
    static board_memory memory;
    fg_run *run;
    if (fg_run_start(&BOARD_GATE, &memory, sizeof memory, &run) == FG_OK) {
        const char *heading = "hash ";
        uint32_t hash = small_gate_hash(&BOARD_GATE, run, 0);
        while (*heading) put(*heading++);
        for (int shift = 28; shift >= 0; shift -= 4) put("0123456789abcdef"[(hash >> shift) & 15]);
        put('\n');
    }
    GPIOR1 = 1; /* the end */
    for (;;) sleep_cpu();
}
