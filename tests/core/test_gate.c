/* SPDX-License-Identifier: MIT */
#include "../boards/small_gate.h"
#include "../support/suite.h"

#include <stdlib.h>
#include <string.h>

/* A block of exactly the size asked for, so that the sanitizers see a step that leaves it. */
static fg_run *started(const fg_gate *gate, void **memory)
{
    fg_run *run = NULL;
    size_t size = fg_run_size(gate);
    *memory = malloc(size);
    memset(*memory, 0xa5, size);
    ck_assert_int_eq(fg_run_start(gate, *memory, size, &run), FG_OK);
    return run;
}

START_TEST(test_memory)
{
    fg_run *run = NULL;
    _Alignas(16) unsigned char memory[1024];
    size_t size = fg_run_size(&small_gate);
    ck_assert_uint_le(size, sizeof memory - 8);
    ck_assert_int_eq(fg_run_start(&small_gate, memory, size - 1, &run), FG_ERROR_MEMORY);
    ck_assert_int_eq(fg_run_start(&small_gate, memory + 1, size, &run), FG_ERROR_ARGUMENT);
    ck_assert_int_eq(fg_run_start(NULL, memory, size, &run), FG_ERROR_ARGUMENT);
    ck_assert_int_eq(fg_run_start(&small_gate, NULL, size, &run), FG_ERROR_ARGUMENT);
    ck_assert_ptr_null(run);
    ck_assert_int_eq(fg_run_start(&small_gate, memory, size, &run), FG_OK);
}
END_TEST

START_TEST(test_before_the_first_step)
{
    void *memory;
    fg_run *run = started(&small_gate, &memory);
    fg_value value = 77;
    for (uint16_t i = 0; i < small_gate.size.ops; i++) ck_assert_int_eq(fg_answer(run, i), FG_UNSURE);
    ck_assert(!fg_sensor_value(run, SMALL_DEPTH, &value));
    ck_assert_int_eq(value, 77);
    ck_assert_int_eq(fg_output_at(run, SMALL_PUMP)->level.form, FG_FORM_STOP);
    ck_assert_int_eq(fg_output_at(run, SMALL_PUMP)->row, FG_INDEX_NONE);
    free(memory);
}
END_TEST

/* Numbers beyond the gate are ignored, or answered with nothing. */
START_TEST(test_beyond_the_tables)
{
    void *memory;
    fg_run *run = started(&small_gate, &memory);
    fg_value value;
    fg_feed(run, SMALL_SENSORS, 1, 0);
    fg_feed_counts(run, 65535, 1, 0);
    fg_feed_fault(run, SMALL_SENSORS, 0);
    fg_feed_flag(run, 1, true, 0);
    fg_feed_flag_fault(run, 1, 0);
    fg_step_sensor(run, SMALL_SENSORS, 0);
    fg_step(run, 0);
    ck_assert_int_eq(fg_answer(run, small_gate.size.ops), FG_UNSURE);
    ck_assert(!fg_sensor_value(run, SMALL_SENSORS, &value));
    ck_assert_ptr_null(fg_output_at(run, SMALL_OUTPUTS));
    ck_assert_ptr_null(fg_sensor_at(run, SMALL_SENSORS));
    ck_assert_ptr_null(fg_flag_at(run, 1));
    free(memory);
}
END_TEST

/* Where only sensors are stepped, they are new and all else is as it was. */
START_TEST(test_sensors_alone)
{
    void *memory;
    fg_run *run = started(&small_gate, &memory);
    fg_verdict before[64];
    fg_value value;
    ck_assert_uint_le(small_gate.size.ops, sizeof before);
    for (int all = 0; all < 2; all++) {
        for (uint16_t i = 0; i < SMALL_SENSORS; i++) fg_feed(run, i, 0, 0);
        fg_step(run, 0);
        ck_assert(!run->still);
        memcpy(before, fg_answers(run), small_gate.size.ops);
        for (uint16_t i = 0; i < SMALL_SENSORS; i++) fg_feed(run, i, 100, 10);
        if (all)
            fg_step_inputs(run, 10);
        else
            fg_step_sensor(run, SMALL_DEPTH, 10);
        ck_assert_int_eq(run->still, all);
        ck_assert_uint_eq(fg_run_now(run), 10);
        ck_assert_mem_eq(before, fg_answers(run), small_gate.size.ops);
        for (uint16_t i = 0; i < SMALL_SENSORS; i++) {
            ck_assert(fg_sensor_value(run, i, &value));
            ck_assert_int_eq(value, all || i == SMALL_DEPTH ? 100 : 0);
        }
        ck_assert_int_eq(fg_run_start(&small_gate, memory, fg_run_size(&small_gate), &run), FG_OK);
        ck_assert(!run->still);
    }
    free(memory);
}
END_TEST

/* A gate with another limit beside the first, where only what hangs on it is worked out: as if it were alone. */
START_TEST(test_beside)
{
    static const fg_threshold stronger[] = {{FG_RANGE_OVER(170), FG_RANGE_OVER(165), FG_SETTLE(1000), false}};
    static const uint16_t gale[] = {7, 11, 12, 14, 16, 19, 20, 21};
    fg_gate other = small_gate;
    void *memory[3];
    other.thresholds = stronger;
    const fg_gate *const gates[] = {&small_gate, &other, &other};
    fg_run *runs[3];
    int differ = 0;
    for (int i = 0; i < 3; i++) runs[i] = started(gates[i], &memory[i]);
    for (fg_time t = 0; t < 20000; t += 500) {
        for (int i = 0; i < 2; i++) {
            const fg_value wind = (fg_value)(t / 100 % 70 + 120);
            fg_feed(runs[i], SMALL_WIND, wind, t);
            fg_feed(runs[i], SMALL_VANE, t / 5000 % 2 ? 0 : 60, t);
            fg_feed_counts(runs[i], SMALL_DEPTH, (int32_t)(t / 50 + 100), t);
            if (t % 7000) fg_feed_flag(runs[i], 0, t / 3000 % 2, t);
            fg_step(runs[i], t);
        }
        fg_step_beside(runs[2], runs[0], gale, sizeof gale / sizeof *gale);
        ck_assert_mem_eq(fg_answers(runs[1]), fg_answers(runs[2]), small_gate.size.ops);
        for (uint16_t i = 0; i < SMALL_PUMP; i++) {
            const fg_output_state *alone = fg_output_at(runs[1], i), *beside = fg_output_at(runs[2], i);
            ck_assert(fg_level_same(&alone->level, &beside->level));
            ck_assert_int_eq(alone->changed, beside->changed);
        }
        differ += fg_answer(runs[0], 7) != fg_answer(runs[2], 7);
    }
    ck_assert_int_gt(differ, 3);
    for (int i = 0; i < 3; i++) free(memory[i]);
}
END_TEST

/* Counts for a sensor without a scale are no reading. */
START_TEST(test_counts_without_a_scale)
{
    void *memory;
    fg_value value;
    fg_run *run = started(&small_gate, &memory);
    fg_feed_counts(run, SMALL_DEPTH, 1023, 0);
    fg_feed_counts(run, SMALL_BILGE, 1023, 0);
    fg_step(run, 0);
    ck_assert(!fg_sensor_value(run, SMALL_DEPTH, &value)); /* 250 cm is outside its trust */
    ck_assert(!fg_sensor_value(run, SMALL_BILGE, &value));
    fg_feed_counts(run, SMALL_DEPTH, 512, 100);
    fg_step(run, 100);
    ck_assert(fg_sensor_value(run, SMALL_DEPTH, &value));
    ck_assert_int_eq(value, 1251);
    free(memory);
}
END_TEST

/* bilge, and what the pump does about it: `forward 80% when pumping; stop if unsure; back 10% when bilge under 2` */
static const struct {
    fg_value bilge;
    bool fault;
    uint8_t form, percent;
    uint16_t row;
} pump[] = {
    {80, false, FG_FORM_STOP, 0, FG_INDEX_NONE},
    {121, false, FG_FORM_FORWARD, 80, 0},
    {50, false, FG_FORM_FORWARD, 80, 0},
    {0, true, FG_FORM_STOP, 0, 1},
    {19, false, FG_FORM_BACK, 10, 2},
    {20, false, FG_FORM_STOP, 0, FG_INDEX_NONE},
};

START_TEST(test_one_row_wins)
{
    void *memory;
    fg_run *run = started(&small_gate, &memory);
    for (int i = 0; i < COUNT_OF(pump); i++) {
        const fg_time now = (fg_time)i * 100;
        fg_feed(run, SMALL_BILGE, pump[i].bilge, now);
        if (pump[i].fault) fg_feed_fault(run, SMALL_BILGE, now);
        fg_step(run, now);
        const fg_output_state *state = fg_output_at(run, SMALL_PUMP);
        ck_assert_int_eq(state->level.form, pump[i].form);
        ck_assert_int_eq(state->level.percent, pump[i].percent);
        ck_assert_int_eq(state->row, pump[i].row);
        ck_assert_int_eq(state->changed, i == 0 || pump[i].form != pump[i - 1].form);
    }
    free(memory);
}
END_TEST

/* Two runs of one gate know nothing of each other, and a run begun again has forgotten everything. */
START_TEST(test_runs_are_apart)
{
    void *a_memory, *b_memory;
    fg_run *a = started(&small_gate, &a_memory), *b = started(&small_gate, &b_memory);
    uint32_t first = small_gate_hash(&small_gate, a, 0);
    ck_assert_uint_eq(small_gate_hash(&small_gate, b, 0), first);
    ck_assert_int_eq(fg_run_start(&small_gate, a_memory, fg_run_size(&small_gate), &a), FG_OK);
    ck_assert_uint_eq(small_gate_hash(&small_gate, a, 0), first);
    free(a_memory);
    free(b_memory);
}
END_TEST

/* The same answers whenever the clock began. */
START_TEST(test_clock_wraps)
{
    static const fg_time begins[] = {1, 0x7fffffff, 0x80000000, UINT32_MAX - 20000, UINT32_MAX};
    void *memory;
    fg_run *run = started(&small_gate, &memory);
    uint32_t expected = small_gate_hash(&small_gate, run, 0);
    free(memory);
    for (int i = 0; i < COUNT_OF(begins); i++) {
        run = started(&small_gate, &memory);
        ck_assert_uint_eq(small_gate_hash(&small_gate, run, begins[i]), expected);
        free(memory);
    }
}
END_TEST

START_TEST(test_levels)
{
    const fg_level level = {FG_FORM_ON, 40, 0, FG_COLOUR(FG_COLOUR_NAMED, 0xff0000)};
    fg_level other[5] = {level, level, level, level, level};
    other[1].form = FG_FORM_OFF;
    other[2].percent = 41;
    other[3].number = 1;
    other[4].colour = FG_COLOUR(FG_COLOUR_WRITTEN, 0xff0000);
    for (int i = 0; i < 5; i++) ck_assert_int_eq(fg_level_same(&level, &other[i]), i == 0);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_test(tests, test_memory);
    tcase_add_test(tests, test_before_the_first_step);
    tcase_add_test(tests, test_beyond_the_tables);
    tcase_add_test(tests, test_sensors_alone);
    tcase_add_test(tests, test_beside);
    tcase_add_test(tests, test_counts_without_a_scale);
    tcase_add_test(tests, test_one_row_wins);
    tcase_add_test(tests, test_runs_are_apart);
    tcase_add_test(tests, test_clock_wraps);
    tcase_add_test(tests, test_levels);
}

int main(void) { return run_suite("gate", fill); }
