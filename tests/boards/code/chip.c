/* SPDX-License-Identifier: MIT */
/* Events from flash, played to a gate's straight code on a chip; puts out the hash of all that it reports, as play.c
 * does with -DHASH. Text goes out as on the other boards: byte by byte through a register that the runner watches, or
 * by semihosting. */
#include "subject.h"

typedef struct event {
    int32_t value;
    uint8_t which;
    char kind;
} event;

#ifdef __AVR__
#include <avr/io.h>
#include <avr/pgmspace.h>
#include <avr/sleep.h>

static void put_char(char c) { GPIOR0 = (uint8_t)c; }
static void end(void) { GPIOR1 = 1; }
static void mark(uint8_t which) { GPIOR2 = which; }
#define FETCH(to, from) memcpy_P(to, from, sizeof *(to))
#define IN_FLASH        PROGMEM
#else
static void put_char(char c)
{
    register uint32_t r0 __asm__("r0") = 0x03; /* SYS_WRITEC */
    register const void *r1 __asm__("r1") = &c;
    __asm__ volatile("bkpt 0xab" : "+r"(r0) : "r"(r1) : "memory");
}
static void end(void) {}
static void mark(uint8_t which) { (void)which; }
#define FETCH(to, from) (*(to) = *(from))
#define IN_FLASH
#endif

static const event events[] IN_FLASH = {
#include "events.inc"
};

static uint32_t hash = 2166136261u; /* FNV-1a, 32 bits */

static void put(int32_t number)
{
    for (uint8_t shift = 0; shift < 32; shift = (uint8_t)(shift + 8))
        hash = (hash ^ ((uint32_t)number >> shift & 0xff)) * 16777619u;
}

static void play(void)
{
    uint32_t now = 4294900000u, later = 0;
    bool tried = false;
    for (uint16_t i = 0; i < sizeof events / sizeof *events; i++) {
        event e;
        FETCH(&e, &events[i]);
        if (e.kind == 'F' || e.kind == 'C') subject_feed(e.which, e.value, e.kind == 'C', now + later);
        if (e.kind == 'X') subject_fault(e.which, now + later);
        if (e.kind == 'B') subject_flag(e.which, e.value != 0, now + later);
        if (e.kind == 'Y') subject_flag_fault(e.which, now + later);
        if (e.kind == 'O') later = (uint32_t)e.value;
        if (e.kind == 'P') subject_power(e.value == 1, put);
        if (e.kind == 'W') subject_keep();
        if (e.kind == 'W') tried = true;
        if (e.kind != 'T') continue;
        mark(1);
        subject_step(now);
        mark(2);
        subject_report(put);
        if (tried) {
            subject_back();
            tried = false;
            continue;
        }
        later = 0;
        now += (uint32_t)e.value;
    }
}

int main(void)
{
    const char *heading = "hash ";
    if (!subject_start(0, 0)) return 1;
    play();
    while (*heading) put_char(*heading++);
    for (int8_t shift = 28; shift >= 0; shift = (int8_t)(shift - 4)) {
        const uint8_t digit = (uint8_t)(hash >> shift & 15);
        put_char((char)(digit < 10 ? '0' + digit : 'a' + digit - 10));
    }
    put_char('\n');
    end();
#ifdef __AVR__
    for (;;) sleep_cpu();
#endif
    return 0;
}
