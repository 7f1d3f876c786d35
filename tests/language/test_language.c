/* SPDX-License-Identifier: MIT */
/* The compiler as its callers see it: memory lent, settings, places, names. What the language means is in cases/. */
#include "../boards/small_gate.h"
#include "../support/suite.h"

#include <ficklegate/language.h>

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { ROOM = 4 << 20 };

static fg_text text_of(const char *text) { return (fg_text){text, strlen(text)}; }

static fg_status compile(const char *text, const fg_setting *settings, size_t count, uint32_t trial, void **memory,
                         fg_program *program)
{
    const fg_language_input input = {
        .text = text_of(text), .settings = settings, .setting_count = count, .trial = trial};
    *memory = malloc(ROOM);
    return fg_language_compile(&input, *memory, ROOM, program);
}

/* However little memory is lent, the answer is FG_ERROR_MEMORY and nothing outside it is touched. */
START_TEST(test_every_size_of_memory)
{
    const fg_language_input input = {.text = text_of(small_gate_text), .trial = FG_TRIAL_NONE};
    fg_program program;
    size_t enough = 0;
    for (size_t size = 0; !enough; size += size < 4096 ? 16 : 400) {
        void *memory = malloc(size + 1);
        fg_status status = fg_language_compile(&input, memory, size, &program);
        ck_assert(status == FG_OK || status == FG_ERROR_MEMORY);
        if (status == FG_OK) enough = size;
        free(memory);
    }
    ck_assert_uint_le(program.memory_used, enough);
}
END_TEST

/* A size or a count without what it counts. */
static const fg_setting no_name = {{NULL, 1}, {"1", 1}}, no_value = {{"a", 1}, {NULL, 1}};
static const fg_language_input incomplete[] = {
    {.text = {NULL, 1}, .trial = FG_TRIAL_NONE},
    {.text = {"", 0}, .name = {NULL, 1}, .trial = FG_TRIAL_NONE},
    {.text = {"", 0}, .identity = {NULL, 1}, .trial = FG_TRIAL_NONE},
    {.text = {"", 0}, .setting_count = 1, .trial = FG_TRIAL_NONE},
    {.text = {"", 0}, .settings = &no_name, .setting_count = 1, .trial = FG_TRIAL_NONE},
    {.text = {"", 0}, .settings = &no_value, .setting_count = 1, .trial = FG_TRIAL_NONE},
};

START_TEST(test_arguments)
{
    _Alignas(16) unsigned char memory[64];
    fg_program program;
    const fg_language_input input = {.text = text_of("flag key"), .trial = FG_TRIAL_NONE},
                            large = {.text = {"", FG_SOURCE_MOST_BYTES + 1}, .trial = FG_TRIAL_NONE};
    ck_assert_int_eq(fg_language_compile(NULL, memory, sizeof memory, &program), FG_ERROR_ARGUMENT);
    ck_assert_int_eq(fg_language_compile(&input, NULL, 0, &program), FG_ERROR_ARGUMENT);
    ck_assert_int_eq(fg_language_compile(&input, memory, sizeof memory, NULL), FG_ERROR_ARGUMENT);
    ck_assert_int_eq(fg_language_compile(&input, memory + 1, sizeof memory - 1, &program), FG_ERROR_ARGUMENT);
    for (int i = 0; i < COUNT_OF(incomplete); i++)
        ck_assert_int_eq(fg_language_compile(&incomplete[i], memory, sizeof memory, &program), FG_ERROR_ARGUMENT);
    ck_assert_int_eq(fg_language_compile(&large, memory, sizeof memory, &program), FG_ERROR_ARGUMENT);
}
END_TEST

/* The text and the hand-written tables are the same gate. */
START_TEST(test_same_as_by_hand)
{
    void *memory, *a = malloc(2048), *b = malloc(2048);
    fg_program program;
    fg_run *by_hand, *compiled;
    ck_assert_int_eq(compile(small_gate_text, NULL, 0, FG_TRIAL_NONE, &memory, &program), FG_OK);
    ck_assert_int_eq(program.gate.size.outputs, small_gate.size.outputs);
    ck_assert_int_eq(fg_run_start(&small_gate, a, 2048, &by_hand), FG_OK);
    ck_assert_int_eq(fg_run_start(&program.gate, b, 2048, &compiled), FG_OK);
    for (int step = 0; step < 4000; step++) {
        const fg_time now = (fg_time)step * 300;
        const fg_value readings[] = {step * 7 % 2600, step * 3 % 140, 120 + step * 11 % 50, step % 360};
        for (uint16_t i = 0; i < SMALL_SENSORS; i++) {
            fg_feed(by_hand, i, readings[i], now);
            fg_feed(compiled, i, readings[i], now);
        }
        fg_feed_flag(by_hand, 0, step & 8, now);
        fg_feed_flag(compiled, 0, step & 8, now);
        fg_step(by_hand, now);
        fg_step(compiled, now);
        for (uint16_t i = 0; i < SMALL_OUTPUTS; i++)
            ck_assert(fg_level_same(&fg_output_at(by_hand, i)->level, &fg_output_at(compiled, i)->level));
    }
    free(memory);
    free(a);
    free(b);
}
END_TEST

static const struct {
    const char *text;
    uint32_t at, line, column;
    const char *shown;
} places[] = {
    {"flag key\nflag ack", 0, 1, 1, "flag key"},
    {"flag key\nflag ack", 8, 1, 9, "flag key"},
    {"flag key\r\nflag ack\r\n", 10, 2, 1, "flag ack"},
    {"\xEF\xBB\xBF"
     "flag",
     3, 1, 1, "flag"},
    {"# \xC2\xB5m x", 5, 1, 5, "# \xC2\xB5m x"},
    {"a\n\nb", 2, 2, 1, ""},
    {"ab", 99, 1, 3, "ab"},
    {"", 0, 1, 1, ""},
};

START_TEST(test_place)
{
    fg_place place = fg_text_place(text_of(places[_i].text), places[_i].at);
    ck_assert_uint_eq(place.line, places[_i].line);
    ck_assert_uint_eq(place.column, places[_i].column);
    ck_assert_msg(place.text.size == strlen(places[_i].shown) &&
                      !memcmp(place.text.at, places[_i].shown, place.text.size),
                  "place %d: '%.*s'", _i, (int)place.text.size, place.text.at);
}
END_TEST

/* --set over a number, and a trial's own `set` over that: the limit of `deep` says which value counted. */
static const char settable[] = "number limit = 12 cm\nnumber twice = limit * 2\nsensor depth { unit cm; step 0.1 }\n"
                               "threshold deep from depth { over twice }\n"
                               "trial \"a\" { readings \"a.csv\"; set limit = 3 cm; expect deep never }\n"
                               "trial \"b\" { readings \"a.csv\"; expect deep never }\n";

static const struct {
    const char *values[2]; /* of limit, in order */
    uint32_t trial;
    fg_status status;
    fg_value low;
} settings[] = {
    {{NULL}, 0, FG_OK, 241}, /* a {0} input compiles the gate as it is */
    {{"10"}, FG_TRIAL_NONE, FG_OK, 201},
    {{"10.05 cm"}, FG_TRIAL_NONE, FG_OK, 202},
    {{"10 kg"}, FG_TRIAL_NONE, FG_ERROR_GATE, 0},
    {{"ten"}, FG_TRIAL_NONE, FG_ERROR_GATE, 0},
    {{"10 10"}, FG_TRIAL_NONE, FG_ERROR_GATE, 0},
    {{""}, FG_TRIAL_NONE, FG_ERROR_GATE, 0},
    {{"5", "6"}, FG_TRIAL_NONE, FG_OK, 121},
    {{"5"}, 1, FG_OK, 61},
    {{"5"}, 2, FG_OK, 101},
    {{"5"}, 3, FG_OK, 101},
    {{"-5"}, FG_TRIAL_NONE, FG_OK, -99},
    {{"twice"}, FG_TRIAL_NONE, FG_ERROR_GATE, 0},
};

START_TEST(test_settings)
{
    void *memory;
    fg_program program;
    fg_setting list[2] = {{text_of("limit"), {0}}, {text_of("limit"), {0}}};
    size_t count = 0;
    for (; count < 2 && settings[_i].values[count]; count++) list[count].value = text_of(settings[_i].values[count]);
    fg_status status = compile(settable, list, count, settings[_i].trial, &memory, &program);
    ck_assert_int_eq(status, settings[_i].status);
    if (status == FG_OK) ck_assert_int_eq(program.gate.thresholds[0].range.low, settings[_i].low);
    if (status != FG_OK) ck_assert_uint_gt(program.error_count, 0);
    free(memory);
}
END_TEST

START_TEST(test_unknown_setting)
{
    void *memory;
    fg_program program;
    const fg_setting list[] = {{text_of("limmit"), text_of("5")}};
    ck_assert_int_eq(compile(settable, list, 1, FG_TRIAL_NONE, &memory, &program), FG_ERROR_GATE);
    ck_assert_uint_eq(program.findings[0].span.source, FG_SOURCE_SETTING);
    free(memory);
}
END_TEST

static char *repeated(char *to, const char *word, int times)
{
    const size_t size = strlen(word);
    for (int i = 0; i < times; i++, to += size) memcpy(to, word, size + 1);
    return to;
}

static const struct {
    const char *before, *open, *inside, *close, *behind;
} nestings[] = {
    {"flag k\ncondition a = ", "(", "k", ")", "\n"},
    {"flag k\ncondition a = ", "not (", "k", ")", "\n"},
    {"flag k\ncondition a = ", "previously (", "k", ")", "\n"},
    {"flag k\ncondition a = ", "at least 1 yes in (", "k", ")", "\n"},
    {"flag k\ncondition a = ", "(", "k", " for 1s)", "\n"},
    {"number a = ", "(", "1", ")", "\n"},
    {"number a = ", "halfway(0, ", "1", ")", "\n"},
    {"sensor s\nsensor a = ", "(", "s", ")", " { }\n"},
    {"sensor s\nsensor a = ", "abs(", "s", ")", " { }\n"},
    {"sensor s\nsensor a = ", "highest(s, ", "s", ")", " { }\n"},
};

/* Twenty levels are fine, twenty thousand are refused and not followed. */
START_TEST(test_deep_nesting)
{
    enum { DEEP = 20000 };
    for (int deep = 20; deep <= DEEP; deep *= 1000) {
        void *memory;
        fg_program program;
        char *text = calloc(1, 40 * DEEP), *at = repeated(text, nestings[_i].before, 1);
        at = repeated(at, nestings[_i].open, deep);
        at = repeated(at, nestings[_i].inside, 1);
        at = repeated(at, nestings[_i].close, deep);
        (void)repeated(at, nestings[_i].behind, 1);
        const fg_status status = compile(text, NULL, 0, FG_TRIAL_NONE, &memory, &program);
        ck_assert_int_eq(status, deep < DEEP ? FG_OK : FG_ERROR_GATE);
        const fg_text what = deep < DEEP ? text_of("") : program.findings[0].what;
        if (deep == DEEP) ck_assert_msg(memmem(what.at, what.size, "100 deep", 8), "%.*s", (int)what.size, what.at);
        free(text);
        free(memory);
    }
}
END_TEST

/* Many declarations, each looking at the one before: checked in one go, and again in the opposite order. */
START_TEST(test_long_chains)
{
    enum { COUNT = 10000, LINE = 64 };
    static const char *const forms[] = {"condition c%d = c%d or key\n", "number c%d = c%d + 1\n"};
    static const char *const ends[] = {"condition c0 = key\nflag key\n", "number c0 = 0\n"};
    for (int form = 0; form < 2; form++)
        for (int backwards = 0; backwards < 2; backwards++) {
            void *memory = malloc((size_t)64 << 20);
            fg_program program;
            char *text = malloc((size_t)COUNT * LINE + 100);
            size_t size = 0;
            for (int i = 1; i < COUNT; i++) {
                int k = backwards ? COUNT - i : i;
                size += (size_t)sprintf(text + size, forms[form], k, k - 1);
            }
            strcpy(text + size, ends[form]);
            const fg_language_input input = {.text = text_of(text), .trial = FG_TRIAL_NONE};
            fg_status status = fg_language_compile(&input, memory, (size_t)64 << 20, &program);
            if (form == 1 && backwards) /* hanging by a thread of ten thousand: refused, not followed for ever */
                ck_assert_int_eq(status, FG_ERROR_GATE);
            else
                ck_assert_int_eq(status, FG_OK);
            free(text);
            free(memory);
        }
}
END_TEST

START_TEST(test_forty_mistakes)
{
    void *memory;
    fg_program program;
    char text[4000] = "sensor depth { unit cm }\n";
    for (int i = 0; i < 20; i++)
        sprintf(text + strlen(text), "condition c%d = deptth over 5\nlamp l%d { on 40Hz when c%d }\n", i, i, i);
    ck_assert_int_eq(compile(text, NULL, 0, FG_TRIAL_NONE, &memory, &program), FG_ERROR_GATE);
    ck_assert_uint_eq(program.error_count, 40);
    for (uint32_t i = 0; i < 40; i++)
        ck_assert_uint_eq(fg_text_place(text_of(text), program.findings[i].span.at).line, i + 2);
    free(memory);
}
END_TEST

START_TEST(test_countless_mistakes)
{
    void *memory = malloc((size_t)64 << 20);
    fg_program program;
    char *text = malloc(1000000);
    size_t size = 0;
    while (size < 900000) size += (size_t)sprintf(text + size, "flag 5\nflag same\n");
    const fg_language_input input = {.text = {text, size}, .trial = FG_TRIAL_NONE};
    ck_assert_int_eq(fg_language_compile(&input, memory, (size_t)64 << 20, &program), FG_ERROR_GATE);
    ck_assert_uint_eq(program.finding_count, FG_FINDINGS_MOST);
    ck_assert_uint_eq(program.finding_count + program.unlisted_count, program.error_count);
    free(text);
    free(memory);
}
END_TEST

/* Readings and limits scaled together: the same answers. */
static uint32_t scaled_answers(int scale)
{
    char text[1200];
    void *memory, *state;
    fg_program program;
    fg_run *run;
    uint32_t hash = 2166136261u, dice = 12345;
    snprintf(
        text, sizeof text,
        "sensor a { median 3; trust %d..%d }\nsensor b { mean 5; bridge 300ms }\nsensor c = a * 2 - b { median 3 }\n"
        "bands x from a { l | %d | m | %d | h; margin %d; settle 200ms within %d }\nbands y from b { p %d..%d; q under "
        "%d; r otherwise }\n"
        "threshold t from c { outside %d..%d; margin %d }\nhysteresis u from b { on over %d; off under %d }\n"
        "condition v = a near %d by %d and not b over %d\ncount n { add when u; take when t }\nlamp l { on when v; on "
        "10%% when x is m }\n",
        -400 * scale, 400 * scale, -50 * scale, 90 * scale, 10 * scale, 60 * scale, -20 * scale, 70 * scale,
        -90 * scale, -100 * scale, 150 * scale, 20 * scale, 100 * scale, -100 * scale, 40 * scale, 25 * scale,
        180 * scale);
    ck_assert_int_eq(compile(text, NULL, 0, FG_TRIAL_NONE, &memory, &program), FG_OK);
    state = malloc(fg_run_size(&program.gate));
    ck_assert_int_eq(fg_run_start(&program.gate, state, fg_run_size(&program.gate), &run), FG_OK);
    for (int step = 0; step < 3000; step++) {
        for (uint16_t sensor = 0; sensor < 2; sensor++) {
            dice = dice * 1664525u + 1013904223u;
            fg_value reading = (fg_value)(dice >> 16) % 901 - 450;
            if (dice % 50 == 0)
                fg_feed_fault(run, sensor, (fg_time)step * 50);
            else
                fg_feed(run, sensor, reading * scale, (fg_time)step * 50);
        }
        fg_step(run, (fg_time)step * 50);
        for (uint16_t i = 0; i < program.gate.size.ops; i++) hash = (hash ^ fg_answer(run, i)) * 16777619u;
        hash = (hash ^ fg_output_at(run, 0)->level.percent ^ (uint32_t)fg_count_value(run, 0)) * 16777619u;
    }
    free(state);
    free(memory);
    return hash;
}

START_TEST(test_scaling)
{
    /* Even factors: a mean rounds in steps, so its halves must not fall between them. */
    const uint32_t expected = scaled_answers(60);
    static const int scales[] = {120, 600, 6000, 240000};
    for (int i = 0; i < COUNT_OF(scales); i++) ck_assert_uint_eq(scaled_answers(scales[i]), expected);
}
END_TEST

/* A board has nothing of a promise; a run that is held against it has its conditions behind the gate. */
START_TEST(test_promises)
{
    static const char gate[] = "every 1s\nsensor a { unit cm }\nthreshold b from a { over 5 }\nlamp c { on when b }\n";
    static const char promises[] = "promise \"p\" { assume a under 9; c is on never while a over 5 for 3s }\n"
                                   "promise { b within 2s of a over 5 starts; b can end within 1min }\n";
    char text[sizeof gate + sizeof promises];
    void *alone, *with, *watched;
    fg_program p, q, r;
    snprintf(text, sizeof text, "%s%s", gate, promises);
    ck_assert_int_eq(compile(gate, NULL, 0, FG_TRIAL_NONE, &alone, &p), FG_OK);
    ck_assert_int_eq(compile(text, NULL, 0, FG_TRIAL_NONE, &with, &q), FG_OK);
    ck_assert(!memcmp(&p.gate.size, &q.gate.size, sizeof p.gate.size));
    ck_assert(!memcmp(&p.table_sizes, &q.table_sizes, sizeof p.table_sizes));
    ck_assert_uint_eq(fg_run_size(&p.gate), fg_run_size(&q.gate));
    ck_assert_uint_eq(q.promise_count, 2);
    ck_assert(!q.promises_watched && q.promises[1].rows[0].slot == FG_INDEX_NONE);

    const fg_language_input input = {.text = text_of(text), .promises = true};
    watched = malloc(ROOM);
    ck_assert_int_eq(fg_language_compile(&input, watched, ROOM, &r), FG_OK);
    ck_assert_uint_eq(r.gate.size.ops, p.gate.size.ops);
    ck_assert(r.promises_watched && r.gate.size.watched > 0);
    const fg_promise *first = &r.promises[0], *second = &r.promises[1];
    ck_assert(first->text.size == 1 && !second->text.size);
    ck_assert_int_eq(first->rows[0].kind, FG_EXPECT_ASSUME);
    ck_assert_int_eq(first->rows[1].kind, FG_EXPECT_NEVER);
    ck_assert(first->rows[1].slot >= r.gate.size.ops && first->rows[1].while_slot > first->rows[1].slot);
    ck_assert(second->rows[0].kind == FG_EXPECT_WITHIN && second->rows[0].from == 2000);
    ck_assert(second->rows[1].kind == FG_EXPECT_CAN_END && second->rows[1].from == 60000);
    free(alone);
    free(with);
    free(watched);
}
END_TEST

START_TEST(test_find)
{
    void *memory;
    fg_program program;
    ck_assert_int_eq(compile(small_gate_text, NULL, 0, FG_TRIAL_NONE, &memory, &program), FG_OK);
    ck_assert_int_eq(fg_program_find(&program, text_of("gale"))->kind, FG_KIND_THRESHOLD);
    ck_assert_ptr_null(fg_program_find(&program, text_of("galee")));
    free(memory);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_test(tests, test_every_size_of_memory);
    tcase_add_test(tests, test_arguments);
    tcase_add_test(tests, test_same_as_by_hand);
    tcase_add_loop_test(tests, test_place, 0, COUNT_OF(places));
    tcase_add_loop_test(tests, test_settings, 0, COUNT_OF(settings));
    tcase_add_test(tests, test_unknown_setting);
    tcase_add_loop_test(tests, test_deep_nesting, 0, COUNT_OF(nestings));
    tcase_add_test(tests, test_long_chains);
    tcase_add_test(tests, test_forty_mistakes);
    tcase_add_test(tests, test_countless_mistakes);
    tcase_add_test(tests, test_scaling);
    tcase_add_test(tests, test_promises);
    tcase_add_test(tests, test_find);
}

int main(void) { return run_suite("language", fill); }
