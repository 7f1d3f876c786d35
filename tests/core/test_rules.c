/* SPDX-License-Identifier: MIT */
/* Rules by themselves. Each story of readings is told three times: from 0, just before the 32-bit clock wraps, and with
 * steps that come late by a little each. */
#include "../support/suite.h"

#include <ficklegate.h>

enum { FAULT = INT32_MIN, LENGTH = 12, U = FG_UNSURE, N = FG_NO, Y = FG_YES };

static const fg_threshold over_14 = FG_THRESHOLD_OVER(140, 10);
static const fg_threshold under_14 = FG_THRESHOLD_UNDER(140, 10);
static const fg_threshold within_range = FG_THRESHOLD_WITHIN(100, 140, 10);
static const fg_threshold outside_range = {
    .range = {100, 140}, .kept = {110, 130}, .settle = FG_SETTLE_NONE, .outside = true};
static const fg_threshold through_zero = {.range = {350, 10}, .kept = {345, 15}, .settle = FG_SETTLE_NONE};
static const fg_threshold over_slow = {
    .range = FG_RANGE_OVER(140), .kept = FG_RANGE_OVER(130), .settle = FG_SETTLE(3000)};
static const fg_hysteresis pump = FG_HYSTERESIS_ON_OVER(120, 50);
static const fg_hysteresis heater = {
    .on = FG_RANGE_UNDER(240), .off = FG_RANGE_OVER(270), .settle = FG_SETTLE_NONE, .first_on = true};
static const fg_hysteresis pump_slow = {.on = FG_RANGE_OVER(120), .off = FG_RANGE_UNDER(50), .settle = FG_SETTLE(2000)};

static fg_verdict threshold(const void *rule, void *state, fg_value reading, fg_time now)
{
    return reading == FAULT ? fg_threshold_fault(state) : fg_threshold_step(rule, state, reading, now);
}

static fg_verdict hysteresis(const void *rule, void *state, fg_value reading, fg_time now)
{
    return reading == FAULT ? fg_hysteresis_fault(state) : fg_hysteresis_step(rule, state, reading, now);
}

/* cuts 200, 600, 1400 with a margin of 30 and 2 s to settle */
static const fg_band tides[] = {FG_BAND_UNDER(200, 30, 0), FG_BAND(200, 599, 30, 1), FG_BAND(600, 1399, 30, 2),
                                FG_BAND_FROM(1400, 30, 3)};
static const fg_bands tide = {tides, 4, FG_NONE, true, FG_SETTLE_NONE};
static const fg_bands tide_slow = {tides, 4, FG_NONE, true, FG_SETTLE(2000)};
static const fg_bands tide_calm = {tides, 4, FG_NONE, true, {2000, 20, 0}};
/* a label with two ranges, a hole, and one range inside another */
static const fg_band marks[] = {
    {{10, 20}, {8, 22}, FG_LABEL(0)}, {{15, 40}, {13, 42}, FG_LABEL(1)}, {{50, 60}, {48, 62}, FG_LABEL(0)}};
static const fg_bands marked = {marks, 3, FG_NONE, true, FG_SETTLE_NONE};
static const fg_bands marked_plain = {marks, 3, FG_LABEL(2), false, FG_SETTLE_NONE};

static fg_verdict bands(const void *rule, void *state, fg_value reading, fg_time now)
{
    return reading == FAULT ? fg_bands_fault(state) : fg_bands_step(rule, state, reading, now);
}

typedef union any_state {
    fg_threshold_state threshold;
    fg_hysteresis_state hysteresis;
    fg_bands_state bands;
} any_state;

/* One reading a second. */
static const struct {
    const char *name;
    fg_verdict (*step)(const void *rule, void *state, fg_value reading, fg_time now);
    const void *rule;
    int length;
    fg_value readings[LENGTH];
    fg_verdict answers[LENGTH];
} stories[] = {
    {"over", threshold, &over_14, 8, {140, 141, 140, 131, 130, 131, 141, FAULT}, {N, Y, Y, Y, N, N, Y, U}},
    {"under", threshold, &under_14, 6, {140, 139, 149, 150, 149, 139}, {N, Y, Y, N, N, Y}},
    {"within", threshold, &within_range, 8, {99, 100, 90, 89, 90, 140, 150, 151}, {N, Y, Y, N, N, Y, Y, N}},
    {"outside", threshold, &outside_range, 8, {100, 99, 109, 110, 109, 141, 131, 130}, {N, Y, Y, N, N, Y, Y, N}},
    {"through zero", threshold, &through_zero, 8, {349, 350, 345, 344, 0, 15, 16, 11}, {N, Y, Y, N, Y, Y, N, N}},
    {"over, settled",
     threshold,
     &over_slow,
     12,
     {150, 150, 150, 150, 120, 120, 120, 150, 120, 120, 120, 120},
     {U, U, U, Y, Y, Y, Y, Y, Y, Y, Y, N}},
    {"settling forgets",
     threshold,
     &over_slow,
     8,
     {150, 150, FAULT, 150, 150, 150, 150, 150},
     {U, U, U, U, U, U, Y, Y}},
    {"hysteresis", hysteresis, &pump, 8, {80, 121, 50, 49, 120, 121, FAULT, 80}, {N, Y, Y, N, N, Y, U, N}},
    {"first on", hysteresis, &heater, 8, {250, 271, 240, 239, FAULT, 250, 270, 271}, {Y, N, N, Y, U, Y, Y, N}},
    {"hysteresis, settled",
     hysteresis,
     &pump_slow,
     9,
     {80, 80, 80, 130, 130, 80, 130, 130, 130},
     {U, U, N, N, N, N, N, N, Y}},
    {"cuts with margin",
     bands,
     &tide,
     10,
     {199, 200, 229, 230, 170, 169, 600, 1429, 1430, FAULT},
     {1, 1, 1, 2, 2, 1, 3, 3, 4, U}},
    {"a third answer starts again",
     bands,
     &tide_slow,
     9,
     {100, 100, 100, 400, 800, 800, 800, 100, 800},
     {U, U, 1, 1, 1, 1, 3, 3, 3}},
    {"settling within", bands, &tide_calm, 8, {100, 100, 100, 400, 420, 441, 441, 441}, {U, U, 1, 1, 1, 1, 1, 2}},
    {"ranges with a hole",
     bands,
     &marked,
     10,
     {15, 22, 23, 14, 12, 45, 48, 50, 62, 63},
     {1, 1, 2, 2, 1, FG_NONE, FG_NONE, 1, 1, FG_NONE}},
    {"the first range wins", bands, &marked_plain, 6, {15, 21, 20, 45, 50, 61}, {1, 2, 1, 3, 1, 3}},
};

static void tell(int i, fg_time from, fg_time late)
{
    any_state state = {0};
    for (int k = 0; k < stories[i].length; k++) {
        fg_time now = from + (fg_time)k * 1000 + late * (fg_time)(k % 3);
        fg_verdict answer = stories[i].step(stories[i].rule, &state, stories[i].readings[k], now);
        ck_assert_msg(answer == stories[i].answers[k], "%s from %u, late %u, step %d: %d, expected %d", stories[i].name,
                      (unsigned)from, (unsigned)late, k, answer, stories[i].answers[k]);
    }
}

START_TEST(test_from_zero) { tell(_i, 0, 0); }
END_TEST

START_TEST(test_across_the_wrap) { tell(_i, UINT32_MAX - 3500, 0); }
END_TEST

/* 24 days is the longest wait; one ms less is not enough, also across the wrap. */
START_TEST(test_longest_settle)
{
    const fg_threshold rule = {.range = FG_RANGE_OVER(0), .kept = FG_RANGE_OVER(0), .settle = FG_SETTLE(2073600000)};
    fg_threshold_state state = {0};
    const fg_time from = UINT32_MAX - 1000;
    ck_assert_int_eq(fg_threshold_step(&rule, &state, 1, from), U);
    ck_assert_int_eq(fg_threshold_step(&rule, &state, 1, from + 2073599999u), U);
    ck_assert_int_eq(fg_threshold_step(&rule, &state, 1, from + 2073600000u), Y);
}
END_TEST

static const struct {
    fg_value from, to, circle;
    int64_t way;
} ways[] = {
    {10, 30, 0, 20},
    {30, 10, 0, -20},
    {350, 10, 360, 20},
    {10, 350, 360, -20},
    {0, 180, 360, -180},
    {180, 0, 360, -180},
    {0, 179, 360, 179},
    {0, 181, 360, -179},
    {0, 2, 5, 2},
    {0, 3, 5, -2},
    {INT32_MIN, INT32_MAX, 0, 4294967295},
};

START_TEST(test_way) { ck_assert_int_eq(fg_way(ways[_i].from, ways[_i].to, ways[_i].circle), ways[_i].way); }
END_TEST

static void fill(TCase *tests)
{
    tcase_add_loop_test(tests, test_from_zero, 0, COUNT_OF(stories));
    tcase_add_loop_test(tests, test_across_the_wrap, 0, COUNT_OF(stories));
    tcase_add_test(tests, test_longest_settle);
    tcase_add_loop_test(tests, test_way, 0, COUNT_OF(ways));
}

int main(void) { return run_suite("rules", fill); }
