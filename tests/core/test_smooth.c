#include "../support/suite.h"

#include <ficklegate.h>

#include "core/wide.h"

/* 0..1023 reads 0..250 with a step of 0.1 is counts * 2500 / 1023. */
static const fg_line depth_line[] = {{2500, 0, 1023, INT32_MAX}};
/* 100, 300, 400 reads 50, 0, 20 at a step of 1 */
static const fg_line bent[] = {{-50, 15000, 200, 300}, {20, -6000, 100, INT32_MAX}};
static const fg_line steep[] = {{INT64_C(4294967296000), 0, 1000, INT32_MAX}};

static const struct {
    const fg_line *lines;
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
    bool good = fg_line_value(scales[_i].lines, scales[_i].count, scales[_i].counts, &value);
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

static void fill(TCase *tests)
{
    tcase_add_loop_test(tests, test_line, 0, COUNT_OF(scales));
    tcase_add_loop_test(tests, test_wide, 0, COUNT_OF(products));
    tcase_add_loop_test(tests, test_sensor, 0, COUNT_OF(conditioned));
}

int main(void) { return run_suite("smooth", fill); }
