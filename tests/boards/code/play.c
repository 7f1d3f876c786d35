/* SPDX-License-Identifier: MIT */
/* Reads events, plays them, and prints what a subject reports after each step; with -DHASH only the hash of it all,
 * with -DLINES the lines that a board would send. */
#include "subject.h"

#include <inttypes.h>
#include <stdio.h>

#ifdef LINES
static void put_character(void *context, char c)
{
    (void)context;
    putchar(c);
}
#else
static uint32_t hash = 2166136261u; /* FNV-1a, 32 bits */

static void put(int32_t number)
{
    for (int shift = 0; shift < 32; shift += 8) hash = (hash ^ ((uint32_t)number >> shift & 0xff)) * 16777619u;
#ifndef HASH
    printf(" %" PRId32, number);
#endif
}
#endif

static void report(uint32_t now, bool tried)
{
#if defined LINES
    if (!tried) subject_line(now, put_character);
#elif defined HASH
    (void)now;
    (void)tried;
    subject_report(put);
#else
    printf("%" PRIu32 "%s:", now, tried ? "?" : "");
    subject_report(put);
    putchar('\n');
#endif
}

/* A log cannot tell longer ones from a clock that wrapped. */
static uint32_t most_later(uint32_t ms)
{
#ifdef LINES
    return ms < 100000000 ? ms : 100000000;
#else
    return ms;
#endif
}

int main(int argc, char **argv)
{
    char kind;
    bool tried = false;
    uint32_t which, later = 0, now = 4294900000u; /* the clock wraps soon */
    int32_t value = 0;
    if (!subject_start(argc, argv)) return 2;
    while (scanf(" %c %" SCNu32, &kind, &which) == 2) {
        if ((kind == 'F' || kind == 'C' || kind == 'B') && scanf("%" SCNd32, &value) != 1) return 2;
        const uint16_t number = (uint16_t)which;
        const uint32_t at = now + later;
        switch (kind) {
        case 'F':
        case 'C': subject_feed(number, value, kind == 'C', at); break;
        case 'X': subject_fault(number, at); break;
        case 'B': subject_flag(number, value != 0, at); break;
        case 'Y': subject_flag_fault(number, at); break;
        case 'O':
#ifndef LINES /* a log has one time a line */
            later = which;
#endif
            break;
        case 'P':
#ifndef LINES /* a log does not tell that the power was gone */
            subject_power(which == 1, put);
#endif
            break;
        case 'W':
            subject_keep();
            tried = true;
            break;
        default:
            subject_step(now);
            report(now, tried);
            if (tried) subject_back();
            later = tried ? later : 0;
            now += tried ? 0 : most_later(which);
            tried = false;
        }
    }
#ifndef LINES
    printf("hash %08" PRIx32 "\n", hash);
#endif
    return 0;
}
