/* SPDX-License-Identifier: MIT */
#include "../support/suite.h"

#include <ficklegate.h>

#include <string.h>

static const struct {
    const char *text;
    uint8_t decimals;
    fg_status status;
    fg_value value;
} reads[] = {
    {"12", 0, FG_OK, 12},
    {"12", 1, FG_OK, 120},
    {"-0.5", 1, FG_OK, -5},
    {" +5\t", 0, FG_OK, 5},
    {".5", 1, FG_OK, 5},
    {"5.", 1, FG_OK, 50},
    {"1e3", 0, FG_OK, 1000},
    {"1.25E-1", 3, FG_OK, 125},
    {"0e9999", 6, FG_OK, 0},
    {"0e-9999", 6, FG_OK, 0},
    {"12345e-3", 1, FG_OK, 123},
    {"0.05", 1, FG_OK, 1},
    {"-0.05", 1, FG_OK, -1},
    {"0.049999", 1, FG_OK, 0},
    {"2.5", 0, FG_OK, 3},
    {"-2.5", 0, FG_OK, -3},
    {"99e-3", 0, FG_OK, 0},
    {"99e-2", 0, FG_OK, 1},
    {"000000000000000000012", 0, FG_OK, 12},
    {"2147483647", 0, FG_OK, INT32_MAX},
    {"-2147483648", 0, FG_OK, INT32_MIN},
    {"2147483648", 0, FG_ERROR_RANGE, 0},
    {"-2147483649", 0, FG_ERROR_RANGE, 0},
    {"2147483647.5", 0, FG_ERROR_RANGE, 0},
    {"2147.483647", 6, FG_OK, INT32_MAX},
    {"3000", 6, FG_ERROR_RANGE, 0},
    {"1e99", 0, FG_ERROR_RANGE, 0},
    {"1", 7, FG_ERROR_ARGUMENT, 0},
    {"", 0, FG_ERROR_TEXT, 0},
    {" ", 0, FG_ERROR_TEXT, 0},
    {".", 0, FG_ERROR_TEXT, 0},
    {"-", 0, FG_ERROR_TEXT, 0},
    {"1,5", 0, FG_ERROR_TEXT, 0},
    {"0x10", 0, FG_ERROR_TEXT, 0},
    {"inf", 0, FG_ERROR_TEXT, 0},
    {"nan", 0, FG_ERROR_TEXT, 0},
    {"1e", 0, FG_ERROR_TEXT, 0},
    {"1e+", 0, FG_ERROR_TEXT, 0},
    {"1.2.3", 0, FG_ERROR_TEXT, 0},
    {"1 2", 0, FG_ERROR_TEXT, 0},
    {"--1", 0, FG_ERROR_TEXT, 0},
};

START_TEST(test_read)
{
    fg_value value = 77;
    fg_status status = fg_value_read(reads[_i].text, strlen(reads[_i].text), reads[_i].decimals, &value);
    ck_assert_msg(status == reads[_i].status, "'%s': %s", reads[_i].text, fg_status_text(status));
    ck_assert_int_eq(value, status == FG_OK ? reads[_i].value : 77);
}
END_TEST

static const struct {
    fg_value value;
    uint8_t decimals;
    const char *text;
} writes[] = {
    {0, 0, "0"},
    {0, 2, "0.00"},
    {5, 1, "0.5"},
    {-5, 1, "-0.5"},
    {125, 1, "12.5"},
    {-1, 6, "-0.000001"},
    {INT32_MAX, 0, "2147483647"},
    {INT32_MIN, 0, "-2147483648"},
    {INT32_MIN, 6, "-2147.483648"},
    {1000, 3, "1.000"},
};

/* What is written can be read again, and is the same. */
START_TEST(test_write)
{
    char text[FG_VALUE_TEXT_SIZE];
    fg_value back;
    size_t size = fg_value_write(writes[_i].value, writes[_i].decimals, text);
    ck_assert_str_eq(text, writes[_i].text);
    ck_assert_uint_eq(size, strlen(text));
    ck_assert_int_eq(fg_value_read(text, size, writes[_i].decimals, &back), FG_OK);
    ck_assert_int_eq(back, writes[_i].value);
}
END_TEST

static const struct {
    fg_verdict a, b, both, either;
} three[] = {
    {FG_NO, FG_NO, FG_NO, FG_NO},
    {FG_NO, FG_YES, FG_NO, FG_YES},
    {FG_NO, FG_UNSURE, FG_NO, FG_UNSURE},
    {FG_YES, FG_NO, FG_NO, FG_YES},
    {FG_YES, FG_YES, FG_YES, FG_YES},
    {FG_YES, FG_UNSURE, FG_UNSURE, FG_YES},
    {FG_UNSURE, FG_NO, FG_NO, FG_UNSURE},
    {FG_UNSURE, FG_YES, FG_UNSURE, FG_YES},
    {FG_UNSURE, FG_UNSURE, FG_UNSURE, FG_UNSURE},
};

START_TEST(test_three_answers)
{
    ck_assert_int_eq(fg_and(three[_i].a, three[_i].b), three[_i].both);
    ck_assert_int_eq(fg_or(three[_i].a, three[_i].b), three[_i].either);
    ck_assert_int_eq(fg_not(fg_not(three[_i].a)), three[_i].a);
    ck_assert_int_eq(fg_not(FG_YES), FG_NO);
    ck_assert_int_eq(fg_not(FG_UNSURE), FG_UNSURE);
}
END_TEST

START_TEST(test_status_texts)
{
    ck_assert_str_eq(fg_status_text(FG_OK), "all is well");
    ck_assert_str_eq(fg_status_text((fg_status)99), "an unknown status");
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_loop_test(tests, test_read, 0, COUNT_OF(reads));
    tcase_add_loop_test(tests, test_write, 0, COUNT_OF(writes));
    tcase_add_loop_test(tests, test_three_answers, 0, COUNT_OF(three));
    tcase_add_test(tests, test_status_texts);
}

int main(void) { return run_suite("value", fill); }
