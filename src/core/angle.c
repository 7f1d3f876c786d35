/* Integer methods.
 *
 * Root: digit by digit in base 2 (the classic method on paper; see Warren, Hacker's Delight, 11-1).
 * Angle: CORDIC in vectoring mode (Volder, The CORDIC Trigonometric Computing Technique, 1959) for the first 24 bits;
 * what is left is so small that the arc equals its tangent, and is one division. Everything in whole numbers of 2^-54
 * degrees, so what rounds is some 2^-48 of the last digit wanted. */
#include "angle.h"

bool fg_wide_root(fg_wide square, int64_t *root)
{
    uint64_t result = 0;
    fg_wide rest = {0, 0};
    for (int i = 0; i < 64; i++) { /* two bits of the square give one of the root */
        rest.high = (rest.high << 2) | (rest.low >> 62);
        rest.low = (rest.low << 2) | (square.high >> 62);
        square.high = (square.high << 2) | (square.low >> 62);
        square.low <<= 2;
        const fg_wide trial = {result >> 62, (result << 2) | 1};
        result <<= 1;
        if (rest.high < trial.high || (rest.high == trial.high && rest.low < trial.low)) continue;
        rest.high -= trial.high + (rest.low < trial.low);
        rest.low -= trial.low;
        result |= 1;
    }
    if (rest.high || rest.low > result) result++;
    if (!result || result > (uint64_t)INT64_MAX) return result == 0 && !square.high && (*root = 0, true);
    *root = (int64_t)result;
    return true;
}

enum { CORDIC_STEPS = 24, FRACTION = 54 };

/* atan(2^-i) in degrees, times 2^54. */
static const int64_t arcs[CORDIC_STEPS] = {
    INT64_C(810647932926689280), INT64_C(478553418328666356), INT64_C(252854483407340990), INT64_C(128352883895691310),
    INT64_C(64425512634361463),  INT64_C(32244162993293982),  INT64_C(16126015950953835),  INT64_C(8063500052373361),
    INT64_C(4031811544245409),   INT64_C(2015913462144050),   INT64_C(1007957692332943),   INT64_C(503978966324344),
    INT64_C(251989498181914),    INT64_C(125994750968425),    INT64_C(62997375718896),     INT64_C(31498687888783),
    INT64_C(15749343948059),     INT64_C(7874671974488),      INT64_C(3937335987301),      INT64_C(1968667993658),
    INT64_C(984333996830),       INT64_C(492166998415),       INT64_C(246083499208),       INT64_C(123041749604)};

/* 180 / pi times 2^54: a tangent this small as degrees. */
static const int64_t degrees_per_radian = INT64_C(1032149005060078556);

/* The angle of a vector in the first eighth turn and its mirror (x at least |y|, x above 0), times 2^54. */
static int64_t narrow_angle(int64_t y, int64_t x)
{
    int64_t angle = 0, rest;
    while (x < (int64_t)1 << 60) { /* use all the bits there are */
        x *= 2;
        y *= 2;
    }
    while (x >= (int64_t)1 << 61) { /* room for the growth by 1.65 */
        x /= 2;
        y /= 2;
    }
    for (int i = 0; i < CORDIC_STEPS; i++) {
        const int64_t half = (int64_t)1 << i, over_x = x / half, over_y = y / half;
        if (y >= 0) {
            x += over_y;
            y -= over_x;
            angle += arcs[i];
        } else {
            x -= over_y;
            y += over_x;
            angle -= arcs[i];
        }
    }
    if (!fg_wide_quotient(fg_wide_product(y, degrees_per_radian), x, &rest)) rest = 0;
    return angle + rest;
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
    int64_t millionths = 0;
    (void)fg_wide_quotient(fg_wide_product(angle, 1000000), (int64_t)1 << FRACTION, &millionths);
    millionths += quarter * 1000000;
    if (millionths < 0 || (!millionths && y < 0))
        millionths += 360000000; /* just under a whole turn may round up to it */
    return millionths;
}
