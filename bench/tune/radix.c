/* SPDX-License-Identifier: MIT */
/* radix FILE: sorts the numbers of a recording's second column once, by a radix sort of four bytes: what tuning is
 * measured beside. */
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { MOST = 1 << 20 };

/* Counted by itself. */
__attribute__((noinline)) void sort_once(uint32_t *from, uint32_t *to, size_t count)
{
    for (unsigned shift = 0; shift < 32; shift += 8) {
        size_t places[256] = {0}, next = 0;
        for (size_t i = 0; i < count; i++) places[from[i] >> shift & 0xff]++;
        for (size_t i = 0; i < 256; i++) {
            const size_t here = places[i];
            places[i] = next;
            next += here;
        }
        for (size_t i = 0; i < count; i++) to[places[from[i] >> shift & 0xff]++] = from[i];
        uint32_t *const other = from;
        from = to;
        to = other;
    }
}

int main(int argc, char **argv)
{
    static uint32_t numbers[MOST], other[MOST];
    char line[200];
    size_t count = 0;
    FILE *in = argc > 1 ? fopen(argv[1], "r") : NULL;
    if (!in) return 2;
    while (count < MOST && fgets(line, sizeof line, in)) {
        const char *cell = strchr(line, ',');
        if (cell) numbers[count++] = (uint32_t)(int32_t)(strtod(cell + 1, NULL) * 10) ^ 0x80000000u;
    }
    fclose(in);
    sort_once(numbers, other, count);
    printf("%zu %u\n", count, (unsigned)numbers[count / 2]);
    return 0;
}
