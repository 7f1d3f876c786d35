/* SPDX-License-Identifier: MIT-0 OR MIT */
/* Products and quotients of 128 bits in portable C, for where 64 are not enough. */
#ifndef FICKLEGATE_CORE_WIDE_H
#define FICKLEGATE_CORE_WIDE_H

#include <stdbool.h>
#include <stdint.h>

/* A whole number of 128 bits, two's complement. */
typedef struct fg_wide {
    uint64_t high, low;
} fg_wide;

/* The number with these halves. */
static inline fg_wide fg_wide_from(uint64_t high, uint64_t low)
{
    const fg_wide wide = {high, low};
    return wide;
}

fg_wide fg_wide_of(int64_t value);
fg_wide fg_wide_product(int64_t a, int64_t b);
fg_wide fg_wide_sum(fg_wide a, fg_wide b);

/* a / divisor, rounded to nearest, halves away from zero. `divisor` above 0. False if it does not fit into 64 bits. */
bool fg_wide_quotient(fg_wide a, int64_t divisor, int64_t *quotient);

/* a / by, rounded to nearest, halves away from zero. `by` above 0. */
int64_t fg_rounded(int64_t a, int64_t by);

/* Does the product of two such numbers fit into 63 bits? */
static inline bool fg_is_small(int64_t a) { return a <= INT32_MAX && a >= -INT32_MAX; }

/* What may be added to such a product. */
#define FG_SUM_MOST ((int64_t)1 << 62)

/* Each false where the result does not fit into 64 bits. */
bool fg_sum(int64_t a, int64_t b, int64_t *result);
bool fg_difference(int64_t a, int64_t b, int64_t *result);
bool fg_negated(int64_t a, int64_t *result);

/* a * times / by, exact and rounded once, halves away from zero. False for `by` 0, or if it does not fit into 64 bits.
 */
bool fg_scaled(int64_t a, int64_t times, int64_t by, int64_t *result);

/* The square root of an unsigned 128-bit number, rounded to nearest; false beyond 63 bits. */
bool fg_wide_root(fg_wide square, int64_t *root);

/* How many of the upper bits are 0: 0 to 64. */
uint8_t fg_leading_zeros(uint64_t value);

#endif
