#include "wide.h"

fg_wide fg_wide_of(int64_t value) { return (fg_wide){value < 0 ? UINT64_MAX : 0, (uint64_t)value}; }

fg_wide fg_wide_sum(fg_wide a, fg_wide b)
{
    fg_wide sum = {a.high + b.high, a.low + b.low};
    sum.high += sum.low < b.low;
    return sum;
}

static fg_wide negated(fg_wide a) { return fg_wide_sum((fg_wide){~a.high, ~a.low}, (fg_wide){0, 1}); }

/* By halves of 32 bits, as one multiplies on paper. */
static fg_wide unsigned_product(uint64_t a, uint64_t b)
{
    const uint64_t half = 0xffffffffu;
    uint64_t low = (a & half) * (b & half);
    uint64_t left = (a >> 32) * (b & half) + (low >> 32);
    uint64_t right = (a & half) * (b >> 32) + (left & half);
    return (fg_wide){(a >> 32) * (b >> 32) + (left >> 32) + (right >> 32), (right << 32) | (low & half)};
}

fg_wide fg_wide_product(int64_t a, int64_t b)
{
    fg_wide product = unsigned_product(a < 0 ? 0 - (uint64_t)a : (uint64_t)a, b < 0 ? 0 - (uint64_t)b : (uint64_t)b);
    return (a < 0) != (b < 0) ? negated(product) : product;
}

bool fg_wide_quotient(fg_wide a, int64_t divisor, int64_t *quotient)
{
    const uint64_t by = (uint64_t)divisor;
    const bool negative = a.high >> 63;
    if (negative) a = negated(a);
    if (a.high >= by) return false;

    uint64_t rest = a.high, whole;
    if (!rest) {
        whole = a.low / by;
        rest = a.low % by;
    } else { /* shift and subtract, a bit at a time; `rest` stays below `by`, which is below 2^63 */
        whole = 0;
        for (int bit = 63; bit >= 0; bit--) {
            rest = (rest << 1) | ((a.low >> bit) & 1);
            whole <<= 1;
            if (rest >= by) {
                rest -= by;
                whole |= 1;
            }
        }
    }
    if (rest >= by - rest && whole++ == UINT64_MAX) return false;
    if (whole > (uint64_t)INT64_MAX + negative) return false;
    *quotient = negative ? (int64_t)(0 - whole) : (int64_t)whole;
    return true;
}
