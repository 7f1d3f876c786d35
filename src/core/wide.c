/* SPDX-License-Identifier: MIT-0 OR MIT */
/* Long multiplication, division and square root by halves of the digits.
 *
 * Division: Knuth, The Art of Computer Programming, volume 2, section 4.3.1. Root: Zimmermann, Karatsuba Square Root,
 * 1999. */
#include "wide.h"

fg_wide fg_wide_of(int64_t value) { return fg_wide_from(value < 0 ? UINT64_MAX : 0, (uint64_t)value); }

fg_wide fg_wide_sum(fg_wide a, fg_wide b)
{
    fg_wide sum = {a.high + b.high, a.low + b.low};
    sum.high += sum.low < b.low;
    return sum;
}

static fg_wide wide_negated(fg_wide a) { return fg_wide_sum(fg_wide_from(~a.high, ~a.low), fg_wide_from(0, 1)); }

/* By halves of 32 bits, as one multiplies on paper. */
static fg_wide unsigned_product(uint64_t a, uint64_t b)
{
    const uint64_t half = 0xffffffffu;
    if (a <= half && b <= half) return fg_wide_from(0, a * b);
    uint64_t low = (a & half) * (b & half);
    uint64_t left = (a >> 32) * (b & half) + (low >> 32);
    uint64_t right = (a & half) * (b >> 32) + (left & half);
    return fg_wide_from((a >> 32) * (b >> 32) + (left >> 32) + (right >> 32), (right << 32) | (low & half));
}

fg_wide fg_wide_product(int64_t a, int64_t b)
{
    fg_wide product = unsigned_product(a < 0 ? 0 - (uint64_t)a : (uint64_t)a, b < 0 ? 0 - (uint64_t)b : (uint64_t)b);
    return (a < 0) != (b < 0) ? wide_negated(product) : product;
}

uint8_t fg_leading_zeros(uint64_t value)
{
    uint8_t zeros = 0;
    if (!value) return 64;
    for (uint8_t half = 32; half; half = (uint8_t)(half / 2)) {
        if (value >> (64 - half)) continue;
        zeros = (uint8_t)(zeros + half);
        value <<= half;
    }
    return zeros;
}

/* The next 32 bits of a quotient: `rest` (below `by`) and the next digit of the dividend, over `by`, whose uppermost
 * bit is set. `rest` becomes what is left. */
static uint64_t next_digit(uint64_t *rest, uint64_t digit, uint64_t by)
{
    const uint64_t top = by >> 32, bottom = by & 0xffffffffu;
    uint64_t guess = *rest / top, over = *rest % top;
    while (guess >> 32 || guess * bottom > (over << 32 | digit)) { /* at most twice too large */
        guess--;
        over += top;
        if (over >> 32) break;
    }
    *rest = (*rest << 32 | digit) - guess * by;
    return guess;
}

/* Long division in two digits of 32 bits (Knuth, The Art of Computer Programming, volume 2, algorithm D). The quotient
 * fits: a.high is below `by`. */
static uint64_t divided(fg_wide a, uint64_t by, uint64_t *rest)
{
    if (!a.high) {
        *rest = a.low % by;
        return a.low / by;
    }
    const uint8_t shift = fg_leading_zeros(by);
    if (shift) a = fg_wide_from(a.high << shift | a.low >> (64 - shift), a.low << shift);
    *rest = a.high;
    const uint64_t upper = next_digit(rest, a.low >> 32, by << shift);
    const uint64_t lower = next_digit(rest, a.low & 0xffffffffu, by << shift);
    *rest >>= shift;
    return upper << 32 | lower;
}

bool fg_wide_quotient(fg_wide a, int64_t divisor, int64_t *quotient)
{
    const uint64_t by = (uint64_t)divisor;
    const bool negative = a.high >> 63;
    if (negative) a = wide_negated(a);
    if (a.high >= by) return false;
    uint64_t rest;
    uint64_t whole = divided(a, by, &rest);
    if (rest >= by - rest && whole++ == UINT64_MAX) return false;
    if (whole > (uint64_t)INT64_MAX + negative) return false;
    *quotient = negative ? (int64_t)(0 - whole) : (int64_t)whole;
    return true;
}

int64_t fg_rounded(int64_t a, int64_t by)
{
    const int64_t whole = a / by, rest = a % by;
    if (rest < 0) return whole - (-rest >= by + rest);
    return whole + (rest >= by - rest);
}

bool fg_sum(int64_t a, int64_t b, int64_t *result)
{
    if (b > 0 ? a > INT64_MAX - b : a < INT64_MIN - b) return false;
    *result = a + b;
    return true;
}

bool fg_difference(int64_t a, int64_t b, int64_t *result)
{
    if (b < 0 ? a > INT64_MAX + b : a < INT64_MIN + b) return false;
    *result = a - b;
    return true;
}

bool fg_negated(int64_t a, int64_t *result)
{
    if (a == INT64_MIN) return false;
    *result = -a;
    return true;
}

bool fg_scaled(int64_t a, int64_t times, int64_t by, int64_t *result)
{
    if (!by || by == INT64_MIN) return false;
    if (by < 0) {
        by = -by;
        times = -times;
    }
    if (!fg_is_small(a) || !fg_is_small(times)) return fg_wide_quotient(fg_wide_product(a, times), by, result);
    *result = fg_rounded(a * times, by);
    return true;
}

/* ---- the root: each half of the digits comes from dividing what the first half leaves by twice that half ---- */

/* Newton's method, from a tangent that is 11 % too large at most: never too small, at most 1 too large after two
 * rounds. The upper two bits of `square` are not both 0. */
static uint32_t root_of_32(uint32_t square)
{
    uint32_t root = (square >> 17) + (square >> 19) + 26216;
    root = (root + square / root) / 2;
    root = (root + square / root) / 2;
    if (root > UINT16_MAX) root = UINT16_MAX;
    while (root * root > square) root--;
    return root;
}

static uint64_t root_of_64(uint64_t square)
{
    const uint64_t upper = root_of_32((uint32_t)(square >> 32));
    const uint64_t left = (square >> 32) - upper * upper;
    uint64_t root = (upper << 16) + (left << 16 | (square >> 16 & 0xffff)) / (2 * upper);
    if (root > UINT32_MAX) root = UINT32_MAX;
    while (root * root > square) root--;
    return root;
}

static bool wide_less(fg_wide a, fg_wide b) { return a.high < b.high || (a.high == b.high && a.low < b.low); }

/* The upper two bits of `square` are not both 0. */
static uint64_t root_of_128(fg_wide square)
{
    const uint64_t upper = root_of_64(square.high);
    const uint64_t left = square.high - upper * upper; /* at most 2 * upper: 33 bits */
    const uint64_t lower = (left << 31 | square.low >> 33) / upper;
    uint64_t root = (upper << 32) + lower;
    if (root < lower) root = UINT64_MAX;
    while (wide_less(square, unsigned_product(root, root))) root--;
    return root;
}

/* The same for a square of 64 bits. */
static int64_t short_root(uint64_t square)
{
    const uint8_t shift = fg_leading_zeros(square) & 0xfe;
    if (!square) return 0;
    const uint64_t root = root_of_64(square << shift) >> (shift / 2);
    return (int64_t)(root + (square - root * root > root));
}

bool fg_wide_root(fg_wide square, int64_t *root)
{
    *root = square.high ? 0 : short_root(square.low);
    if (!square.high) return true;
    const uint8_t shift = fg_leading_zeros(square.high) & 0xfe;
    fg_wide wide = square;
    if (shift) wide = fg_wide_from(square.high << shift | square.low >> (64 - shift), square.low << shift);
    uint64_t result = root_of_128(wide) >> (shift / 2);
    const fg_wide rest = fg_wide_sum(square, wide_negated(unsigned_product(result, result)));
    if (rest.high || rest.low > result) result++;
    if (result > (uint64_t)INT64_MAX) return false;
    *root = (int64_t)result;
    return true;
}
