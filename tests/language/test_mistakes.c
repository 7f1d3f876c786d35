/* SPDX-License-Identifier: MIT */
/* What beginners write: each line of mistakes.txt gives just the one message that stands below it, and where it says
 * so, `fickle check --fix` makes of it what stands there, which has no error any more. */
#include "../support/case_file.h"
#include "../support/suite.h"

#include <ficklegate/workshop.h>

#include <check.h>
#include <stdlib.h>
#include <string.h>

static char *table;
static const char *preamble, *first;

/* One block: the line, the message, what to write, and what is made of it or NULL. */
typedef struct mistake_row {
    char line[400], what[400], instead[400], fixed[400];
} mistake_row;

static void take_line(const char **at, const char *prefix, char *to, size_t room)
{
    const size_t size = strcspn(*at, "\n"), skip = strlen(prefix);
    *to = '\0';
    if (size < skip || strncmp(*at, prefix, skip) != 0) return;
    if (size - skip >= room) abort();
    memcpy(to, *at + skip, size - skip);
    to[size - skip] = '\0';
    *at += size + ((*at)[size] == '\n');
}

static bool next_row(const char **at, mistake_row *row)
{
    while (**at == '\n') ++*at;
    if (!**at) return false;
    take_line(at, "", row->line, sizeof row->line);
    take_line(at, "    ", row->what, sizeof row->what);
    take_line(at, "    ", row->instead, sizeof row->instead);
    take_line(at, "    -> ", row->fixed, sizeof row->fixed);
    return true;
}

static size_t row_count(void)
{
    mistake_row row;
    const char *at = first;
    size_t count = 0;
    while (next_row(&at, &row)) count++;
    return count;
}

static fg_text gate_with(const char *line, char *room, size_t size)
{
    const int used = snprintf(room, size, "%s%s\n", preamble, line);
    ck_assert(used > 0 && (size_t)used < size);
    return (fg_text){room, (size_t)used};
}

static void same(const char *line, fg_text got, const char *expected)
{
    ck_assert_msg(got.size == strlen(expected) && memcmp(got.at, expected, got.size) == 0, "%s\ngives  %.*s\nnot    %s",
                  line, (int)got.size, got.at, expected);
}

static void fixed_as_expected(const mistake_row *row, fg_text text)
{
    char expected[4000];
    fg_text fixed;
    uint32_t count;
    fg_mistake mistake;
    fg_gate_file file;
    ck_assert_int_eq(fg_gate_fixed("x.gate", text, (fg_settings){0}, &fixed, &count, &mistake), FG_OK);
    const fg_text wanted = gate_with(*row->fixed ? row->fixed : row->line, expected, sizeof expected);
    same(row->line, fixed, wanted.at);
    ck_assert_uint_eq(count != 0, *row->fixed != '\0');
    if (count)
        ck_assert_msg(fg_gate_file_of_text(&file, "x.gate", fixed, (fg_settings){0}, &mistake) == FG_OK, "%s",
                      row->fixed);
    if (count) fg_gate_file_close(&file);
    fg_text_free(fixed);
}

START_TEST(test_mistake)
{
    mistake_row row = {0};
    const char *at = first;
    char room[4000];
    fg_gate_file file;
    fg_mistake mistake;
    for (int i = 0; i <= _i; i++) ck_assert(next_row(&at, &row));
    const fg_text text = gate_with(row.line, room, sizeof room);
    ck_assert_int_eq(fg_gate_file_of_text(&file, "x.gate", text, (fg_settings){0}, &mistake), FG_ERROR_GATE);
    ck_assert_msg(file.program.error_count == 1, "%s\ngives %u messages", row.line, (unsigned)file.program.error_count);
    for (uint32_t i = 0; i < file.program.finding_count; i++) {
        const fg_finding *finding = &file.program.findings[i];
        if (fg_finding_severity(finding->code) != FG_SEVERITY_ERROR) continue;
        same(row.line, finding->what, row.what);
        same(row.line, finding->instead, row.instead);
    }
    fg_gate_file_close(&file);
    fixed_as_expected(&row, text);
}
END_TEST

/* A file may end anywhere, also in the middle of a word: each beginning of each line, in memory that ends there too. */
START_TEST(test_ends_anywhere)
{
    static _Alignas(16) unsigned char memory[200000];
    mistake_row row = {0};
    const char *at = first;
    while (next_row(&at, &row))
        for (size_t size = 0; size <= strlen(row.line); size++) {
            char *text = malloc(size ? size : 1);
            ck_assert_ptr_nonnull(text);
            memcpy(text, row.line, size);
            const fg_language_input input = {.text = {text, size}, .trial = FG_TRIAL_NONE};
            fg_program program;
            const fg_status status = fg_language_compile(&input, memory, sizeof memory, &program);
            ck_assert_msg(status == FG_OK || status == FG_ERROR_GATE, "%.*s: %d", (int)size, text, status);
            free(text);
        }
}
END_TEST

/* A file as an editor of other days saves it: `größe` in Latin-1. */
START_TEST(test_latin_1)
{
    static const char text[] = "sensor gr\xf6\xdf"
                               "e { unit cm }\n";
    fg_gate_file file;
    fg_mistake mistake;
    ck_assert_int_eq(
        fg_gate_file_of_text(&file, "x.gate", (fg_text){text, sizeof text - 1}, (fg_settings){0}, &mistake),
        FG_ERROR_GATE);
    ck_assert_uint_eq(file.program.finding_count, 1);
    same("a Latin-1 file", file.program.findings[0].instead,
         "save it as UTF-8; in a name only the letters a-z and A-Z can stand");
    fg_gate_file_close(&file);
}
END_TEST

/* A name with other letters is told once, however often it stands. */
START_TEST(test_foreign_name_once)
{
    static const char text[] =
        "sensor größe { unit cm }\nlamp a { on when größe over 5 }\nlamp b { on when größe over 6 }\n";
    fg_gate_file file;
    fg_mistake mistake;
    ck_assert_int_eq(
        fg_gate_file_of_text(&file, "x.gate", (fg_text){text, sizeof text - 1}, (fg_settings){0}, &mistake),
        FG_ERROR_GATE);
    ck_assert_uint_eq(file.program.error_count, 1);
    fg_gate_file_close(&file);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_loop_test(tests, test_mistake, 0, (int)row_count());
    tcase_add_test(tests, test_ends_anywhere);
    tcase_add_test(tests, test_latin_1);
    tcase_add_test(tests, test_foreign_name_once);
}

int main(void)
{
    table = read_whole(MISTAKES, NULL);
    char *divider = table ? strstr(table, "\n==\n") : NULL;
    if (!divider) return EXIT_FAILURE;
    *divider = '\0';
    preamble = table;
    first = divider + 4;
    const int status = row_count() >= 60 ? run_suite("mistakes", fill) : EXIT_FAILURE;
    free(table);
    return status;
}
