/* The small gate on a Cortex-M3: as tables, and compiled on the board itself from its text. Text and exit status go out
 * by semihosting. */
#include "small_gate.h"

/* -DBOARD_GATE=name runs other tables than the small gate. */
#ifndef BOARD_GATE
#define BOARD_GATE small_gate
#endif
extern const fg_gate BOARD_GATE;

#include <ficklegate/language.h>

extern uint32_t stack_top, data_load, data_begin, data_end, bss_begin, bss_end;
int main(void);

enum { SYS_WRITEC = 0x03, SYS_EXIT_EXTENDED = 0x20 };

static uint32_t semihost(uint32_t call, const void *block)
{
    register uint32_t r0 __asm__("r0") = call;
    register const void *r1 __asm__("r1") = block;
    __asm__ volatile("bkpt 0xab" : "+r"(r0) : "r"(r1) : "memory");
    return r0;
}

static void put(char c) { semihost(SYS_WRITEC, &c); }

static void leave(uint32_t status)
{
    const uint32_t block[] = {0x20026, status};
    semihost(SYS_EXIT_EXTENDED, block);
    for (;;) continue;
}

/* What compilers call for copies of structs. */
void *memcpy(void *restrict to, const void *restrict from, size_t size)
{
    unsigned char *t = to;
    const unsigned char *s = from;
    while (size--) *t++ = *s++;
    return to;
}

void *memset(void *to, int byte, size_t size)
{
    unsigned char *t = to;
    while (size--) *t++ = (unsigned char)byte;
    return to;
}

void reset(void)
{
    const uint32_t *from = &data_load;
    for (uint32_t *to = &data_begin; to < &data_end;) *to++ = *from++;
    for (uint32_t *to = &bss_begin; to < &bss_end;) *to++ = 0;
    leave((uint32_t)main());
}

static void fault(void) { leave(99); }

__attribute__((section(".vectors"), used)) static const struct {
    void *stack;
    void (*calls[15])(void);
} vectors = {&stack_top, {reset, fault, fault, fault, fault, fault}};

static int put_hash(const fg_gate *gate)
{
    static _Alignas(16) unsigned char memory[4096];
    fg_run *run;
    if (fg_run_start(gate, memory, sizeof memory, &run) != FG_OK) return 1;
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
    fg_language_input input = {.text = {small_gate_text, 0}, .trial = FG_NO_TRIAL};
    while (small_gate_text[input.text.size]) input.text.size++;
    if (put_hash(&BOARD_GATE)) return 1;
    if (fg_language_compile(&input, memory, sizeof memory, &program) != FG_OK) return 2;
    fg_run *run;
    static _Alignas(16) unsigned char state[1024];
    return fg_run_start(&program.gate, state, sizeof state, &run) == FG_OK && program.gate.count.ops ? 0 : 3;
}
