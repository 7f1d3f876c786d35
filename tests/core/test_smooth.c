/* SPDX-License-Identifier: MIT */
#include "../support/suite.h"

#include <ficklegate.h>

#include <math.h>

#include "core/angle.h"
#include "core/wide.h"

/* 0..1023 reads 0..250 with a step of 0.1 is counts * 2500 / 1023. */
static const fg_scale_piece depth_line[] = {{2500, 0, 1023, INT32_MAX}};
/* 100, 300, 400 reads 50, 0, 20 at a step of 1 */
static const fg_scale_piece bent[] = {{-50, 15000, 200, 300}, {20, -6000, 100, INT32_MAX}};
static const fg_scale_piece steep[] = {{INT64_C(4294967296000), 0, 1000, INT32_MAX}};

static const struct {
    const fg_scale_piece *lines;
    uint8_t count;
    int32_t counts;
    bool good;
    fg_value value;
} scales[] = {
    {depth_line, 1, 0, true, 0},
    {depth_line, 1, 1023, true, 2500},
    {depth_line, 1, 1, true, 2},
    {depth_line, 1, -1, true, -2},
    {depth_line, 1, 2046, true, 5000},
    {depth_line, 1, INT32_MAX, false, 0},
    {bent, 2, 100, true, 50},
    {bent, 2, 300, true, 0},
    {bent, 2, 301, true, 0},
    {bent, 2, 303, true, 1},
    {bent, 2, 0, true, 75},
    {bent, 2, 298, true, 1},
    {steep, 1, 0, true, 0},
    {steep, 1, INT32_MIN, false, 0},
};

START_TEST(test_line)
{
    fg_value value = 77;
    bool good = fg_scale_value(scales[_i].lines, scales[_i].count, scales[_i].counts, &value);
    ck_assert_int_eq(good, scales[_i].good);
    ck_assert_int_eq(value, good ? scales[_i].value : 77);
}
END_TEST

static const struct {
    int64_t a, b, add, divisor;
    bool good;
    int64_t quotient;
} products[] = {
    {7, 1, 0, 2, true, 4},
    {-7, 1, 0, 2, true, -4},
    {-7, 1, 0, 3, true, -2},
    {INT64_MAX, INT64_MAX, 0, INT64_MAX, true, INT64_MAX},
    {INT64_MIN, INT64_MAX, 0, INT64_MAX, true, INT64_MIN},
    {INT64_MAX, 2, 0, 1, false, 0},
    {INT64_MAX, 3, 0, 6, true, INT64_C(4611686018427387904)},
    {INT64_C(4000000000), INT64_C(4000000000), 1, INT64_C(16000000000), true, INT64_C(1000000000)},
    {INT64_MIN, 1, 0, 1, true, INT64_MIN},
    {INT64_MAX, 1, 1, 1, false, 0},
    {INT64_MIN, INT64_MIN, 0, INT64_MAX, false, 0},
};

START_TEST(test_wide)
{
    int64_t quotient = 77;
    fg_wide sum = fg_wide_sum(fg_wide_product(products[_i].a, products[_i].b), fg_wide_of(products[_i].add));
    ck_assert_int_eq(fg_wide_quotient(sum, products[_i].divisor, &quotient), products[_i].good);
    ck_assert_int_eq(quotient, products[_i].good ? products[_i].quotient : 77);
}
END_TEST

__extension__ typedef unsigned __int128 wide128;

/* Numbers of every length, many of them at the ends of what fits. */
static uint64_t any_number(uint64_t *seed)
{
    *seed = *seed * UINT64_C(6364136223846793005) + UINT64_C(1442695040888963407);
    const uint64_t mixed = *seed ^ *seed >> 29;
    const uint64_t cut = mixed >> (*seed >> 58);
    return *seed & 64 ? cut : UINT64_MAX >> (*seed >> 58);
}

/* Quotients and roots against the compiler's own 128 bits. */
START_TEST(test_wide_at_random)
{
    uint64_t seed = 7;
    int wrong = 0;
    for (int i = 0; i < 100000; i++) {
        const uint64_t by = any_number(&seed) >> 1 | 1, high = any_number(&seed), low = any_number(&seed);
        const wide128 all = (wide128)(high >> 3) << 64 | low;
        int64_t quotient = -1, root = -1;
        const wide128 expected = (all + by / 2) / by;
        const bool fits = expected <= INT64_MAX;
        wrong += fg_wide_quotient((fg_wide){high >> 3, low}, (int64_t)by, &quotient) != fits;
        wrong += fits && quotient != (int64_t)expected;
        wrong += !fg_wide_root((fg_wide){high >> 3, low}, &root);
        const wide128 twice = (wide128)root * 2; /* (r - 1/2)^2 <= n < (r + 1/2)^2, four times */
        wrong += (root && (twice - 1) * (twice - 1) > all * 4) || all * 4 >= (twice + 1) * (twice + 1);
    }
    ck_assert_int_eq(wrong, 0);
}
END_TEST

/* A product that is scaled down: the short way of small numbers and the long way are one. */
START_TEST(test_scaled_at_random)
{
    uint64_t seed = 11;
    int wrong = 0;
    for (int i = 0; i < 100000; i++) {
        const int64_t a = (int64_t)any_number(&seed), times = (int64_t)any_number(&seed) >> 1;
        const int64_t by = (int64_t)(any_number(&seed) >> 1 | 1);
        int64_t exact = -1, result = -1;
        wrong += fg_scaled(a, times, by, &result) != fg_wide_quotient(fg_wide_product(a, times), by, &exact);
        wrong += result != exact;
    }
    ck_assert_int_eq(wrong, 0);
}
END_TEST

/* The angle against the mathematics library, everywhere but where that one stands between two millionths itself. */
START_TEST(test_angle_at_random)
{
    uint64_t seed = 13;
    int wrong = 0, judged = 0;
    for (int i = 0; i < 100000; i++) {
        const int64_t y = (int64_t)any_number(&seed), x = (int64_t)any_number(&seed);
        if (!x && !y) continue;
        long double degrees = atan2l((long double)y, (long double)x) * (180 / 3.14159265358979323846264L);
        if (degrees < 0) degrees += 360;
        const long double millionths = degrees * 1000000, part = millionths - floorl(millionths);
        if (part > 0.4999999L && part < 0.5000001L) continue;
        judged++;
        wrong += fg_angle(y, x) != llroundl(millionths);
    }
    ck_assert_int_gt(judged, 90000);
    ck_assert_int_eq(wrong, 0);
}
END_TEST

static const fg_sensor plain = {0}, trusted = {.trust = FG_TRUST_RANGE, .trusted = {40, 2460}};
static const fg_sensor vane = {.circle = 360, .trust = FG_TRUST_RANGE, .trusted = {0, 359}};
static const fg_sensor rudder = {.circle = 360, .trust = FG_TRUST_RANGE, .trusted = {-180, 180}};
static const fg_sensor bow = {.circle = 360, .trust = FG_TRUST_WRAP, .trusted = {330, 30}};

static const struct {
    const fg_sensor *sensor;
    fg_value newest;
    bool ok;
    fg_value value;
} conditioned[] = {
    {&plain, -5, true, -5},     {&trusted, 40, true, 40}, {&trusted, 39, false, 0}, {&trusted, 2460, true, 2460},
    {&trusted, 2461, false, 0}, {&vane, 359, true, 359},  {&vane, 999, false, 0},   {&vane, 360, false, 0},
    {&rudder, -90, true, 270},  {&rudder, 181, false, 0}, {&bow, 345, true, 345},   {&bow, 0, true, 0},
    {&bow, 390, true, 30},      {&bow, 31, false, 0},     {&bow, -31, false, 0},
};

START_TEST(test_sensor)
{
    fg_sensor_state state = {.newest = conditioned[_i].newest, .heard = FG_HEARD_VALUE};
    ck_assert_int_eq(fg_sensor_step(conditioned[_i].sensor, &state, NULL, FG_NO, 0), conditioned[_i].ok);
    ck_assert_int_eq(state.value, conditioned[_i].value);
    state.heard = FG_HEARD_FAULT;
    ck_assert(!fg_sensor_step(conditioned[_i].sensor, &state, NULL, FG_NO, 0));
}
END_TEST

/* Alone, without a gate: a reading grows old, and the next one is new. */
START_TEST(test_fed_alone)
{
    static const fg_sensor sensor = {.stages = FG_STAGE_STALE, .stale = 500};
    static const fg_flag flag = {.stages = FG_STAGE_STALE, .stale = 500};
    fg_sensor_state state = {0};
    fg_flag_state key = {0};
    ck_assert(!fg_sensor_step(&sensor, &state, NULL, FG_NO, 1000));
    ck_assert_int_eq(fg_flag_step(&flag, &key, 1000), FG_UNSURE);
    for (fg_time begun = 2000; begun < 6000; begun += 2000) {
        fg_sensor_feed(&state, 7, begun);
        fg_flag_feed(&key, true, begun + 3); /* stamped after the step */
        ck_assert(fg_sensor_step(&sensor, &state, NULL, FG_NO, begun));
        ck_assert_int_eq(fg_flag_step(&flag, &key, begun), FG_YES);
        ck_assert(fg_sensor_step(&sensor, &state, NULL, FG_NO, begun + 500));
        ck_assert(!fg_sensor_step(&sensor, &state, NULL, FG_NO, begun + 501));
        ck_assert_int_eq(fg_flag_step(&flag, &key, begun + 501), FG_UNSURE);
    }
    fg_sensor_feed(&state, 8, 9000);
    fg_sensor_fault(&state, 9001);
    fg_flag_fault(&key, 9001);
    ck_assert(!fg_sensor_step(&sensor, &state, NULL, FG_NO, 9001));
    ck_assert_int_eq(fg_flag_step(&flag, &key, 9001), FG_UNSURE);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_test(tests, test_fed_alone);
    tcase_add_loop_test(tests, test_line, 0, COUNT_OF(scales));
    tcase_add_loop_test(tests, test_wide, 0, COUNT_OF(products));
    tcase_add_test(tests, test_wide_at_random);
    tcase_add_test(tests, test_scaled_at_random);
    tcase_add_test(tests, test_angle_at_random);
    tcase_add_loop_test(tests, test_sensor, 0, COUNT_OF(conditioned));
}

int main(void) { return run_suite("smooth", fill); }
