/* SPDX-License-Identifier: MIT */
/* Radix sort from the lowest byte up (Knuth, The Art of Computer Programming, volume 3, 5.2.5). Bytes that are the same
 * in all keys are passed over, so readings of one sensor take two rounds. */
#include "workshop/base/sort.h"

#include <stdlib.h>

enum { FEW = 48, BYTE = 256 };

static int by_key(const void *a, const void *b)
{
    const uint64_t x = *(const uint64_t *)a, y = *(const uint64_t *)b;
    return (x > y) - (x < y);
}

static int by_value(const void *a, const void *b)
{
    const fg_value x = *(const fg_value *)a, y = *(const fg_value *)b;
    return (x > y) - (x < y);
}

/* By one byte of each key; keys with the same byte keep their order. */
static void take_round(const uint64_t *from, uint64_t *to, size_t count, unsigned shift)
{
    size_t places[BYTE] = {0}, next = 0;
    for (size_t i = 0; i < count; i++) places[from[i] >> shift & 0xff]++;
    for (size_t i = 0; i < BYTE; i++) {
        const size_t keys = places[i];
        places[i] = next;
        next += keys;
    }
    for (size_t i = 0; i < count; i++) to[places[from[i] >> shift & 0xff]++] = from[i];
}

void fg_sort_keys(uint64_t *keys, size_t count)
{
    uint64_t *room = count < FEW ? NULL : malloc(count * sizeof *room), *from = keys, *to = room, differ = 0;
    if (!room) {
        if (count) qsort(keys, count, sizeof *keys, by_key);
        return;
    }
    for (size_t i = 1; i < count; i++) differ |= keys[i] ^ keys[0];
    for (unsigned shift = 0; shift < 64; shift += 8) {
        if (!(differ >> shift & 0xff)) continue;
        take_round(from, to, count, shift);
        uint64_t *const sorted = to;
        to = from;
        from = sorted;
    }
    for (size_t i = 0; from == room && i < count; i++) keys[i] = room[i];
    free(room);
}

/* By counting, where there are not many more values than there may be readings (Knuth, 5.2). False: not done. */
static bool sort_by_counting(fg_value *values, size_t count)
{
    int64_t low = values[0], high = values[0];
    for (size_t i = 1; i < count; i++) {
        low = values[i] < low ? values[i] : low;
        high = values[i] > high ? values[i] : high;
    }
    const size_t span = (size_t)(high - low) + 1;
    uint32_t *counts = span <= 2 * count && count <= UINT32_MAX ? calloc(span, sizeof *counts) : NULL;
    if (!counts) return false;
    for (size_t i = 0; i < count; i++) counts[(int64_t)values[i] - low]++;
    for (size_t k = 0, i = 0; k < span; k++)
        for (uint32_t n = counts[k]; n; n--) values[i++] = (fg_value)(low + (int64_t)k);
    free(counts);
    return true;
}

void fg_sort_values(fg_value *values, size_t count)
{
    if (count >= FEW && sort_by_counting(values, count)) return;
    uint64_t *keys = count < FEW ? NULL : malloc(count * sizeof *keys);
    if (!keys) {
        if (count) qsort(values, count, sizeof *values, by_value);
        return;
    }
    for (size_t i = 0; i < count; i++) keys[i] = fg_key_of(values[i]);
    fg_sort_keys(keys, count);
    for (size_t i = 0; i < count; i++) values[i] = fg_value_of_key((uint32_t)keys[i]);
    free(keys);
}
