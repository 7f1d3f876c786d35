/* Products and quotients of 128 bits in portable C, for where 64 are not enough. */
#ifndef FICKLEGATE_CORE_WIDE_H
#define FICKLEGATE_CORE_WIDE_H

#include <stdbool.h>
#include <stdint.h>

/* A whole number of 128 bits, two's complement. */
typedef struct fg_wide {
    uint64_t high, low;
} fg_wide;

fg_wide fg_wide_of(int64_t value);
fg_wide fg_wide_product(int64_t a, int64_t b);
fg_wide fg_wide_sum(fg_wide a, fg_wide b);

/* a / divisor, rounded to nearest, halves away from zero. `divisor` above 0. False if it does not fit into 64 bits. */
bool fg_wide_quotient(fg_wide a, int64_t divisor, int64_t *quotient);

#endif
