/* SPDX-License-Identifier: MIT-0 OR MIT */
/* Parts of baked gates: what a sensor is worked out from, in 64-bit millionths. Each says false where its result does
 * not fit. */

static bool absolute(int64_t a, int64_t *out)
{
    *out = a;
    return a >= 0 || fg_negated(a, out);
}

static bool product(int64_t a, int64_t b, int64_t *out) { return fg_scaled(a, b, 1000000, out); }

static bool quotient(int64_t a, int64_t b, int64_t *out) { return fg_scaled(a, 1000000, b, out); }

/* a / b where a million times `a` fits. */
static bool ratio(int64_t a, int64_t b, int64_t *out)
{
    if (b) *out = b > 0 ? fg_rounded(a * 1000000, b) : fg_rounded(a * -1000000, -b);
    return b != 0;
}

static int64_t magnitude(int64_t a) { return a < 0 ? -a : a; }

static int64_t lower(int64_t a, int64_t b) { return a < b ? a : b; }

static int64_t higher(int64_t a, int64_t b) { return a > b ? a : b; }

/* The square root of a sum of squares, to a millionth. */
static bool length_of(int64_t a, int64_t b, int64_t c, int64_t *out)
{
    const fg_wide two = fg_wide_sum(fg_wide_product(a, a), fg_wide_product(b, b));
    return fg_wide_root(fg_wide_sum(two, fg_wide_product(c, c)), out);
}

/* The square root of x * x + y * y + z * z for x, y, z from -32767 to 32767, rounded; bit by bit. */
static int32_t short_length(int32_t x, int32_t y, int32_t z)
{
    uint32_t left = (uint32_t)(x * x) + (uint32_t)(y * y) + (uint32_t)(z * z), root = 0;
    for (uint32_t bit = (uint32_t)1 << 30; bit; bit >>= 2) {
        if (left >= root + bit) {
            left -= root + bit;
            root = (root >> 1) + bit;
        } else {
            root >>= 1;
        }
    }
    return (int32_t)(root + (left > root));
}

/* Degrees of a vector in millionths, from the x axis towards y; not of none. */
static bool angle_of(int64_t y, int64_t x, int64_t *out)
{
    if (!y && !x) return false;
    *out = fg_angle(y, x);
    return true;
}

/* A change in `took` ms as millionths a second; `step`: how many millionths a step is. */
static bool rate_of(int64_t change, int64_t step, uint32_t took, int64_t *out)
{
    return fg_scaled(change, step * 1000, took, out);
}

/* Millionths as whole steps; `step`: how many millionths a step is. */
static bool in_steps(int64_t millionths, int32_t step, int32_t *out)
{
    const int64_t steps = fg_rounded(millionths, step);
    *out = (int32_t)steps;
    return steps >= INT32_MIN && steps <= INT32_MAX;
}
