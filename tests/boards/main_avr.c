/* The small gate on an ATmega328P. Text goes out byte by byte through a register that the runner watches. */
#include "small_gate.h"

/* -DBOARD_GATE=name runs other tables than the small gate. */
#ifndef BOARD_GATE
#define BOARD_GATE small_gate
#endif
extern const fg_gate BOARD_GATE;
#ifndef BOARD_MEMORY
#define BOARD_MEMORY 640
#endif

#include <avr/io.h>
#include <avr/sleep.h>

static void put(char c) { GPIOR0 = (uint8_t)c; }

int main(void)
{
    static unsigned char memory[BOARD_MEMORY];
    fg_run *run;
    if (fg_run_start(&BOARD_GATE, memory, sizeof memory, &run) == FG_OK) {
        const char *heading = "hash ";
        uint32_t hash = small_gate_hash(&BOARD_GATE, run, 0);
        while (*heading) put(*heading++);
        for (int shift = 28; shift >= 0; shift -= 4) put("0123456789abcdef"[(hash >> shift) & 15]);
        put('\n');
    }
    GPIOR1 = 1; /* the end */
    for (;;) sleep_cpu();
}
