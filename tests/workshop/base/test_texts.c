/* SPDX-License-Identifier: MIT */
/* Levels and findings as texts. */
#include "../../support/suite.h"

#include <ficklegate/workshop.h>

#include <stdlib.h>
#include <string.h>

/* ---- levels as texts ---- */

static const struct {
    fg_level level;
    const char *text;
} levels[] = {
    {{.form = FG_FORM_OFF}, "off"},
    {{.form = FG_FORM_ON, .percent = 100}, "on"},
    {{.form = FG_FORM_ON, .percent = 40}, "on 40%"},
    {{FG_FORM_ON, 100, 0, FG_COLOUR(FG_COLOUR_NAMED, 0xffbf00)}, "on amber"},
    {{FG_FORM_ON, 40, 0, FG_COLOUR(FG_COLOUR_WRITTEN, 0xff8000)}, "on \"ff8000\" 40%"},
    {{FG_FORM_ON, 1, 0, FG_COLOUR(FG_COLOUR_WRITTEN, 0xff)}, "on \"0000ff\" 1%"},
    {{FG_FORM_TONE, 100, 880, 0}, "880Hz"},
    {{FG_FORM_TONE, 50, 880, 0}, "880Hz 50%"},
    {{.form = FG_FORM_QUIET}, "quiet"},
    {{.form = FG_FORM_FORWARD, .percent = 80}, "forward 80%"},
    {{.form = FG_FORM_BACK, .percent = 100}, "back"},
    {{.form = FG_FORM_STOP}, "stop"},
};

START_TEST(test_level_text)
{
    char text[FG_LEVEL_TEXT_SIZE];
    ck_assert_uint_eq(fg_level_text(&levels[_i].level, text), strlen(levels[_i].text));
    ck_assert_str_eq(text, levels[_i].text);
}
END_TEST

/* ---- findings explained ---- */

static bool finds(const char *text, fg_finding_code code)
{
    bool found = false;
    fg_program program;
    void *memory = malloc(1 << 20);
    const fg_language_input input = {.text = {text, strlen(text)}, .trial = FG_TRIAL_NONE};
    const fg_status status = fg_language_compile(&input, memory, 1 << 20, &program);
    ck_assert(status == FG_OK || status == FG_ERROR_GATE);
    for (uint32_t i = 0; i < program.finding_count; i++) found = found || program.findings[i].code == code;
    free(memory);
    return found;
}

/* Each wrong example has the mistake, each right one has not. */
START_TEST(test_examples_of_findings)
{
    const fg_finding_code code = (fg_finding_code)_i;
    const fg_code_text *text = fg_finding_text(code);
    ck_assert_msg(text->why && text->wrong && text->right, "%s has no text", fg_finding_word(code));
    ck_assert_msg(finds(text->wrong, code), "%s: the wrong example has it not", fg_finding_word(code));
    ck_assert_msg(!finds(text->right, code), "%s: the right example has it", fg_finding_word(code));
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_loop_test(tests, test_level_text, 0, COUNT_OF(levels));
    tcase_add_loop_test(tests, test_examples_of_findings, 0, FG_FINDING_CODES);
}

int main(void) { return run_suite("texts", fill); }
