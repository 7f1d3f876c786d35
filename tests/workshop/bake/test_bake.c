/* SPDX-License-Identifier: MIT */
/* Baking a gate: what the two files say, and that they say it again. Whether the code answers as the engine does is for
 * scripts/check-code.sh, which compiles it. */
#include <ficklegate/bake.h>

#include <check.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

typedef bool writer(const fg_gate_file *file, const fg_bake_options *options, FILE *header, FILE *source,
                    fg_baked *result);

/* The header and the source, one behind the other. The caller frees it. */
static char *bake(const char *gate, writer *baked, const fg_bake_options *options)
{
    char path[] = "/tmp/fickle-bake-XXXXXX", *header = NULL, *source = NULL, *both;
    size_t header_size, source_size;
    const int handle = mkstemp(path);
    ck_assert_int_ge(handle, 0);
    ck_assert_int_eq(write(handle, gate, strlen(gate)), (ssize_t)strlen(gate));
    close(handle);
    fg_gate_file file;
    fg_mistake mistake = {0};
    ck_assert_int_eq(fg_gate_file_open(&file, path, options->settings, &mistake), FG_OK);
    FILE *to_header = open_memstream(&header, &header_size), *to_source = open_memstream(&source, &source_size);
    ck_assert(baked(&file, options, to_header, to_source, NULL));
    fclose(to_header);
    fclose(to_source);
    fg_gate_file_close(&file);
    unlink(path);
    ck_assert_int_ge(asprintf(&both, "%s%s", header, source), 0);
    free(header);
    free(source);
    /* the file's own name is another each time */
    for (char *at = strstr(both, path + 5); at; at = strstr(at, path + 5)) memset(at, '-', strlen(path + 5));
    return both;
}

/* What a gate becomes: a text that the files have to hold. */
static const struct {
    const char *gate;
    writer *write;
    bool units;
    const char *holds;
} becomes[] = {
    /* names and numbers for whoever feeds and asks */
    {"sensor d { unit cm; step 0.1 }\nthreshold t from d { over 5 }\n", fg_bake_code, false,
     "A_SENSOR_D = 0, /* in steps of 0.1 cm */"},
    {"every 50ms\nflag f\n", fg_bake_code, false, "#define A_EVERY_MS 50\n"},
    {"flag f\ncount n { add when f }\n", fg_bake_code, false, "A_COUNT_N = 0,"},
    {"flag f\nmotor m { forward when f; stop if unsure }\n", fg_bake_code, false,
     "/* a motor: -100 to 100 %, back is negative */"},
    /* the rule it comes from, without its comments, in one line */
    {"sensor d\nbands b from d {\n  low | 20 | high # a comment\n\n  margin 3\n}\n", fg_bake_code, false,
     "/* bands b from d { low | 20 | high; margin 3 } */"},
    {"flag f\ncondition c = f and\n  not f\n", fg_bake_code, false, "/* condition c = f and not f */"},
    {"flag f\ndisplay x { show \"*/ no end\" when f }\n", fg_bake_code, false, "show \" / no end\" when f"},
    {"gate \"*/ no end\"\nsensor d { unit \"*/\" }\nthreshold t from d { over 1 }\n", fg_bake_code, false,
     "/*  / no end\n *\n"},
    {"sensor d { unit \"*/ x\" }\nthreshold t from d { over 1 }\n", fg_bake_code, false,
     "A_SENSOR_D = 0, /* in steps of 1  / x */"},
    /* margins are added already; counts stay counts where only limits look at them, and say so */
    {"sensor d\nthreshold t from d { over 5; margin 2 }\n", fg_bake_code, false,
     "(s->t == YES) ? (s->d >= 4) : (s->d >= 6)"},
    {"sensor d { step 0.1; raw 0..1023 reads 0..250 }\nthreshold t from d { over 20 }\n", fg_bake_code, false,
     "s->d >= 83"},
    {"sensor d { step 0.1; raw 0..1023 reads 0..250 }\nthreshold t from d { over 20 }\n", fg_bake_code, false,
     "/* counts of its converter */"},
    {"sensor d { step 0.1; raw 0..1023 reads 0..250 }\nthreshold t from d { over 20 }\n", fg_bake_code, true,
     "s->d >= 201"},
    {"sensor d { step 0.1; raw 0..1023 reads 0..250; mean 4 }\nthreshold t from d { over 20 }\n", fg_bake_code, false,
     "rounded_32(counts * 2500, 1023)"},
    {"sensor d { raw 0..1000 reads 100..0 }\nthreshold t from d { at least 50 }\n", fg_bake_code, false, "s->d <= 505"},
    /* 16 bits where the range allows it */
    {"sensor d\nthreshold t from d { over 32000 }\n", fg_bake_code, false, "int16_t d;"},
    {"sensor d\nthreshold t from d { over 33000 }\n", fg_bake_code, false, "int32_t d;"},
    {"sensor d { trust 0..900 }\nsensor e = d - d\nthreshold t from e { over 3 }\n", fg_bake_code, false, "int16_t d;"},
    {"sensor d\nsensor e = d - d\nthreshold t from e { over 3 }\n", fg_bake_code, false, "int32_t d;"},
    /* sums in 32 bits where the ranges of their parts allow it */
    {"sensor d { step 0.1; trust 0..500 }\nsensor e = (d - 20) * 0.25 / 3 { step 0.1 }\nthreshold t from e { over 3 "
     "}\n",
     fg_bake_code, false, "rounded_32((d_now - 200), 12)"},
    {"sensor d { trust 0..500 }\nsensor e = length(d, d) - 100\nthreshold t from e { over 3 }\n", fg_bake_code, false,
     "e_now = (int16_t)(a_short_length(d_now, d_now, 0) - 100)"},
    {"sensor d { trust 0..60000 }\nsensor e = d * d / 50000\nthreshold t from e { over 3 }\n", fg_bake_code, false,
     "int64_t"},
    {"sensor d { trust 0..500 }\nsensor e = d / 7 + d / 3\nthreshold t from e { over 3 }\n", fg_bake_code, false,
     "int64_t"},
    /* every operator is told from the next by brackets, every branch has braces */
    {"sensor d\nflag f\ncondition c = f or d over 3 and d under 9\nlamp l { on when c }\n", fg_bake_code, false,
     "((s->f == YES) || (s->d_heard && (s->d >= 4) && s->d_heard && (s->d <= 8))) ? YES"},
    {"sensor d\nhysteresis h from d { on over 5; off under 3 }\n", fg_bake_code, false,
     "    if (!s->d_heard) {\n        s->h = UNSURE;\n    } else if (s->d >= 6) {\n        s->h = YES;\n    } else if "
     "((s->d <= 2) || (s->h == UNSURE)) {\n"
     "        s->h = NO;\n    }\n"},
    {"sensor d { stale after 2s }\nthreshold t from d { over 5 }\n", fg_bake_code, false,
     "if ((uint32_t)(now - s->d_at) > 2000u) { s->d_heard = false; } /* stale */"},
    /* an unsure latch as tests; a loop where it began in its own local */
    {"sensor d\nflag f\nthreshold t from d { over 5 }\nlatch a { set when t; clear when f }\n", fg_bake_code, false,
     "        if (s->f == YES) { s->a_on = false; }\n        s->a = !s->a_on ? NO : ((s->f == UNSURE) ? UNSURE : "
     "YES);\n"},
    {"sensor d\nflag f\nthreshold t from d { over 5 }\nlatch a { set when t; clear when f; clear wins }\n",
     fg_bake_code, false,
     "        if (s->t == YES) { s->a_on = true; }\n        s->a = s->a_on ? YES : ((s->t == UNSURE) ? UNSURE : "
     "NO);\n"},
    /* what has no name of its own is called after what it is */
    {"sensor d\nbands b from d { low | 5 | mid | 9 | high }\ncondition c = at least 1 yes in (b is low or high)\nlamp "
     "l { on when c }\n",
     fg_bake_code, false, "const uint8_t b_is_low_or_high = "},
    /* values that are kept can be asked */
    {"sensor d\nthreshold t from d { over 5 }\n", fg_bake_code, false,
     "    case A_SENSOR_D: /* beyond 16 bits the nearest number */\n        if (s->d_heard) { *value = s->d; }\n       "
     " return s->d_heard;\n"},
    {"sensor d { step 0.1; raw 0..1023 reads 0..250 }\nthreshold t from d { over 20 }\n", fg_bake_code, false,
     "    case A_SENSOR_D: /* counts; beyond 16 bits the nearest number */\n"},
    /* what nothing looks at is left out */
    {"sensor d\nflag f\nlamp l { on when f }\n", fg_bake_code, false, "nothing looks at it"},
    /* what a run takes */
    {"flag f\nlamp l { on when f }\n", fg_bake_code, false,
     "remembers: 2 bytes on an 8-bit chip, 2 where numbers are aligned"},
    /* tables know the engine */
    {"flag f\nlamp l { on when f }\n", fg_bake_tables, false, "const fg_gate a_gate = "},
    {"flag f\nlamp l { on when f }\n", fg_bake_tables, false,
     "no sums and no texts: on a chip with little flash compile the library with -DFG_WITHOUT_SUMS=1 "
     "-DFG_WITHOUT_TEXTS=1."},
    {"sensor d\nsensor e = d * 2\nlamp l { on when e over 3 }\n", fg_bake_tables, false,
     "no texts: on a chip with little flash compile the library with -DFG_WITHOUT_TEXTS=1."},
};

START_TEST(test_becomes)
{
    const fg_bake_options options = {.name = "a", .header = "a.h", .units = becomes[_i].units};
    char *once = bake(becomes[_i].gate, becomes[_i].write, &options),
         *again = bake(becomes[_i].gate, becomes[_i].write, &options);
    ck_assert_msg(strstr(once, becomes[_i].holds) != NULL, "'%s' is not in it", becomes[_i].holds);
    ck_assert_str_eq(once, again);
    free(once);
    free(again);
}
END_TEST

/* Only the functions that are called are copied in, and no part of a C library. */
START_TEST(test_only_what_is_called)
{
    const fg_bake_options options = {.name = "a", .header = "a.h"};
    char *simple = bake("sensor d\nthreshold t from d { over 5 }\nlamp l { on when t }\n", fg_bake_code, &options);
    char *angle = bake("sensor x\nsensor y\nsensor z = angle(y, x) { unit deg }\nthreshold t from z { over 5 }\n",
                       fg_bake_code, &options);
    ck_assert_ptr_null(strstr(strstr(simple + 1, FG_BAKED), "\nstatic "));
    ck_assert_ptr_null(strstr(simple, "string.h"));
    ck_assert_ptr_null(strstr(simple, "stepped_at"));
    ck_assert_ptr_nonnull(strstr(angle, "static int64_t a_angle("));
    ck_assert_ptr_null(strstr(angle, "fg_"));
    free(simple);
    free(angle);
}
END_TEST

/* A number that is set changes the code, the comment on top and the hash in it. */
START_TEST(test_setting)
{
    const fg_setting setting = {{"high", 4}, {"7", 1}};
    const char *gate = "number high = 5\nsensor d\nthreshold t from d { over high }\n";
    const fg_bake_options plain = {.name = "a", .header = "a.h"},
                          set = {.name = "a", .header = "a.h", .settings = {.at = &setting, .count = 1}};
    char *without = bake(gate, fg_bake_code, &plain), *with = bake(gate, fg_bake_code, &set);
    ck_assert_ptr_nonnull(strstr(without, "s->d >= 6"));
    ck_assert_ptr_nonnull(strstr(with, "s->d >= 8"));
    ck_assert_ptr_nonnull(strstr(with, "With high = 7"));
    ck_assert(strncmp(strstr(without, "hash "), strstr(with, "hash "), 20) != 0);
    free(without);
    free(with);
}
END_TEST

/* What a run remembers is told apart from the text that says it. */
START_TEST(test_sizes)
{
    const fg_bake_options options = {.name = "a", .header = "a.h"};
    fg_gate_file file;
    fg_mistake mistake = {0};
    FILE *nowhere = fopen("/dev/null", "w");
    fg_baked code, tables;
    ck_assert_int_eq(fg_gate_file_open(&file, ROOT "/examples/harbour/harbour.gate", options.settings, &mistake),
                     FG_OK);
    ck_assert(fg_bake_code(&file, &options, nowhere, nowhere, &code));
    ck_assert(fg_bake_tables(&file, &options, nowhere, nowhere, &tables));
    ck_assert_uint_eq(tables.packed, fg_run_size(&file.program.gate));
    ck_assert_uint_ge(code.aligned, code.packed);
    ck_assert_uint_gt(code.packed, 0);
    ck_assert_uint_lt(code.aligned, tables.aligned);
    fclose(nowhere);
    fg_gate_file_close(&file);
}
END_TEST

int main(void)
{
    Suite *suite = suite_create("bake");
    TCase *t = tcase_create("bake");
    tcase_add_loop_test(t, test_becomes, 0, sizeof becomes / sizeof *becomes);
    tcase_add_test(t, test_only_what_is_called);
    tcase_add_test(t, test_setting);
    tcase_add_test(t, test_sizes);
    suite_add_tcase(suite, t);
    SRunner *runner = srunner_create(suite);
    srunner_run_all(runner, CK_ENV);
    const int failed = srunner_ntests_failed(runner);
    srunner_free(runner);
    return failed ? EXIT_FAILURE : EXIT_SUCCESS;
}
