/* SPDX-License-Identifier: MIT-0 OR MIT */
/* CORDIC in vectoring mode (Volder, The CORDIC Trigonometric Computing Technique, 1959) for the first 14 bits;
 * what is left is so small that two members of the series t - t^3 / 3 + ... give its arc. Everything in whole numbers
 * of 2^-54 degrees, so what rounds is some 2^-30 of the last digit wanted. */
#include "angle.h"
#include "flash.h"

enum { CORDIC_STEPS = 14 };
enum { FRACTION = 54 };

/* atan(2^-i) in degrees, times 2^54. */
static const int64_t arcs[CORDIC_STEPS] FG_IN_FLASH = {
    INT64_C(810647932926689280), INT64_C(478553418328666356), INT64_C(252854483407340990), INT64_C(128352883895691310),
    INT64_C(64425512634361463),  INT64_C(32244162993293982),  INT64_C(16126015950953835),  INT64_C(8063500052373361),
    INT64_C(4031811544245409),   INT64_C(2015913462144050),   INT64_C(1007957692332943),   INT64_C(503978966324344),
    INT64_C(251989498181914),    INT64_C(125994750968425)};

/* 180 / pi times 2^54: a tangent this small as degrees. */
static const int64_t degrees_per_radian = INT64_C(1032149005060078556);

/* The arc of a tangent t = tall / wide below 2^-13, in degrees times 2^54: t - t^3 / 3, and what follows is too small
 * to matter. The quotient is made in two parts, the first from the upper half of `wide`, and so at most 1 off. */
static int64_t arc(uint64_t tall, uint64_t wide)
{
    const uint64_t upper = (tall << 14) / (wide >> 30); /* t times 2^44 */
    const int64_t rest = (int64_t)((tall << 44) - upper * wide);
    const int64_t t = (int64_t)(upper << 20) + rest / (int64_t)(wide >> 20); /* t times 2^64 */
    const uint64_t tangent = fg_wide_product(t, degrees_per_radian).high;    /* below 2^47 */
    const uint64_t square = upper * upper >> 30;                             /* t^2 times 2^58 */
    return (int64_t)(tangent - ((tangent >> 16) * square >> 42) / 3);
}

/* The angle of a vector in the first eighth turn and its mirror (x at least |y|, x above 0), times 2^54. */
static int64_t narrow_angle(int64_t y, int64_t x)
{
    enum { TOP = 3 }; /* leading zeros: all the bits there are, with room for the growth by 1.65 */
    int64_t side = y < 0 ? -1 : 1;
    uint64_t tall = y < 0 ? 0 - (uint64_t)y : (uint64_t)y, wide = (uint64_t)x;
    const uint8_t zeros = fg_leading_zeros(wide);
    if (zeros < TOP) {
        wide >>= TOP - zeros;
        tall >>= TOP - zeros;
    } else {
        wide <<= zeros - TOP;
        tall <<= zeros - TOP;
    }
    int64_t angle = 0;
    for (int i = 0; i < CORDIC_STEPS; i++) {
        const uint64_t down = wide >> i;
        wide += tall >> i;
        angle += side * FG_FLASH_64(&arcs[i]);
        side = tall < down ? -side : side;
        tall = tall < down ? down - tall : tall - down;
    }
    return angle + side * arc(tall, wide);
}

int64_t fg_angle(int64_t y, int64_t x)
{
    const uint64_t tall = y < 0 ? 0 - (uint64_t)y : (uint64_t)y, wide = x < 0 ? 0 - (uint64_t)x : (uint64_t)x;
    if (y == INT64_MIN || x == INT64_MIN) { /* their opposite does not fit */
        y /= 2;
        x /= 2;
    }
    int64_t quarter, angle;
    if (wide >= tall) {
        quarter = x > 0 ? 0 : 180;
        angle = x > 0 ? narrow_angle(y, x) : narrow_angle(-y, -x);
    } else {
        quarter = y > 0 ? 90 : 270;
        angle = y > 0 ? narrow_angle(-x, y) : narrow_angle(x, -y);
    }
    const fg_wide fine = fg_wide_sum(fg_wide_product(angle, 1000000), fg_wide_from(0, (uint64_t)1 << (FRACTION - 1)));
    int64_t millionths = (int64_t)(fine.high << (64 - FRACTION) | fine.low >> FRACTION) + quarter * 1000000;
    if (millionths < 0 || (!millionths && y < 0))
        millionths += 360000000; /* just under a whole turn may round up to it */
    return millionths;
}
