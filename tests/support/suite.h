/* SPDX-License-Identifier: MIT */
/* The end of every suite: one test case list, run and counted. */
#ifndef TESTS_SUITE_H
#define TESTS_SUITE_H

#include <check.h>
#include <stddef.h>

#define COUNT_OF(table) ((int)(sizeof(table) / sizeof *(table)))

static inline int run_suite(const char *name, void (*fill)(TCase *))
{
    Suite *suite = suite_create(name);
    TCase *tests = tcase_create(name);
    fill(tests);
    tcase_set_timeout(tests, 120);
    suite_add_tcase(suite, tests);
    SRunner *runner = srunner_create(suite);
    srunner_run_all(runner, CK_NORMAL);
    int failed = srunner_ntests_failed(runner);
    srunner_free(runner);
    return failed ? 1 : 0;
}

#endif
