/* SPDX-License-Identifier: MIT */
/* What a Cortex-M does before main, and what compilers call for copies of structs. The exit status goes out by
 * semihosting. */
#include <stddef.h>
#include <stdint.h>

extern uint32_t stack_top, data_load, data_begin, data_end, bss_begin, bss_end;
int main(void);
void reset(void);
void *memcpy(void *restrict to, const void *restrict from, size_t size);
void *memset(void *to, int byte, size_t size);

static void leave(uint32_t status)
{
    const uint32_t block[] = {0x20026, status};
    register uint32_t r0 __asm__("r0") = 0x20; /* SYS_EXIT_EXTENDED */
    register const void *r1 __asm__("r1") = block;
    __asm__ volatile("bkpt 0xab" : "+r"(r0) : "r"(r1) : "memory");
    for (;;) continue;
}

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
