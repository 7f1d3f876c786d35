/* SPDX-License-Identifier: MIT */
/* The small gate on a Cortex-M3: as tables, and compiled on the board itself from its text. Text and exit status go out
 * by semihosting. */
#include "board_gate.h"

#include <ficklegate/language.h>

enum { SYS_WRITEC = 0x03 };

static uint32_t semihost(uint32_t call, const void *block)
{
    register uint32_t r0 __asm__("r0") = call;
    register const void *r1 __asm__("r1") = block;
    __asm__ volatile("bkpt 0xab" : "+r"(r0) : "r"(r1) : "memory");
    return r0;
}

static void put(char c) { semihost(SYS_WRITEC, &c); }

static int put_hash(const fg_gate *gate)
{
    static board_memory memory;
    fg_run *run;
    if (fg_run_start(gate, &memory, sizeof memory, &run) != FG_OK) return 1;
    uint32_t hash = small_gate_hash(gate, run, 0);
    for (const char *heading = "hash "; *heading;) put(*heading++);
    for (int shift = 28; shift >= 0; shift -= 4) put("0123456789abcdef"[(hash >> shift) & 15]);
    put('\n');
    return 0;
}

int main(void)
{
    static _Alignas(16) unsigned char memory[200000];
    fg_program program;
    fg_language_input input = {.text = {small_gate_text, 0}, .trial = FG_TRIAL_NONE};
    while (small_gate_text[input.text.size]) input.text.size++;
    if (put_hash(&BOARD_GATE)) return 1;
    if (fg_language_compile(&input, memory, sizeof memory, &program) != FG_OK) return 2;
    fg_run *run;
    static _Alignas(16) unsigned char state[1024];
    return fg_run_start(&program.gate, state, sizeof state, &run) == FG_OK && program.gate.size.ops ? 0 : 3;
}
