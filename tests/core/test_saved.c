/* SPDX-License-Identifier: MIT */
/* What outlives a loss of power, and what a run refuses to begin with. */
#include "../support/suite.h"

#include <ficklegate/files.h>
#include <ficklegate/version.h>

#include <stdlib.h>
#include <string.h>

static const char scales[] = "sensor load { unit g; zero when tare }\n"
                             "flag tare\nflag bump\nflag reset\n"
                             "latch seen { set when bump; clear when reset }\n"
                             "count bumps { add when bump; limit -3..900; first 0 }\n"
                             "count all { add when bump }\n"
                             "threshold heavy from load { over 500 }\n"
                             "relay lift { on when heavy and seen }\n";

enum { LOAD, TARE = 0, BUMP, RESET, SAVED = 4 + 1 + 2 + 4 + 4 + 4 };

typedef struct scene {
    fg_gate_file file;
    void *memory;
    fg_run *run;
    fg_time now;
} scene;

static void begin(scene *s, const char *gate)
{
    fg_mistake mistake;
    *s = (scene){0};
    ck_assert_msg(fg_gate_file_of_text(&s->file, "a.gate", fg_text_of(gate), (fg_settings){0}, &mistake) == FG_OK, "%s",
                  gate);
    s->memory = malloc(fg_run_size(&s->file.program.gate));
    ck_assert_int_eq(fg_run_start(&s->file.program.gate, s->memory, fg_run_size(&s->file.program.gate), &s->run),
                     FG_OK);
}

static void end(scene *s)
{
    free(s->memory);
    fg_gate_file_close(&s->file);
}

static void step(scene *s, fg_value load, bool tare, bool bump)
{
    fg_feed(s->run, LOAD, load, s->now);
    fg_feed_flag(s->run, TARE, tare, s->now);
    fg_feed_flag(s->run, BUMP, bump, s->now);
    fg_feed_flag(s->run, RESET, false, s->now);
    fg_step(s->run, s->now);
    s->now += 100;
}

/* 250 g on the scales are the new zero, and it was bumped twice. */
static void live_a_little(scene *s, unsigned char *saved)
{
    step(s, 250, false, false);
    step(s, 250, true, true);
    step(s, 700, false, false);
    step(s, 700, false, true);
    ck_assert_uint_eq(fg_run_saved_size(&s->file.program.gate), SAVED);
    ck_assert_int_eq(fg_run_save(s->run, saved, SAVED), FG_OK);
}

static fg_value load_of(const scene *s)
{
    fg_value value = 0;
    ck_assert(fg_sensor_value(s->run, LOAD, &value));
    return value;
}

START_TEST(what_is_saved_comes_back)
{
    scene before, after;
    unsigned char saved[SAVED], again[SAVED];
    begin(&before, scales);
    live_a_little(&before, saved);
    begin(&after, scales);
    ck_assert_int_eq(fg_run_restore(after.run, saved, SAVED), FG_OK);
    ck_assert_int_eq(fg_count_value(after.run, 0), 2);
    ck_assert_int_eq(fg_run_save(after.run, again, SAVED), FG_OK);
    ck_assert_mem_eq(saved, again, SAVED);
    step(&after, 800, false, true); /* what is yes from the beginning is not counted again */
    ck_assert_int_eq(load_of(&after), 550);
    ck_assert_int_eq(fg_count_value(after.run, 0), 2);
    ck_assert_uint_eq(fg_output_at(after.run, 0)->level.percent, 100);
    ck_assert_int_eq(fg_run_restore(after.run, saved, SAVED), FG_ERROR_ARGUMENT);
    end(&before);
    end(&after);
}
END_TEST

START_TEST(a_missing_reading_still_counts)
{
    scene before, after;
    unsigned char saved[SAVED];
    begin(&before, scales);
    live_a_little(&before, saved);
    begin(&after, scales);
    ck_assert_int_eq(fg_run_restore(after.run, saved, SAVED), FG_OK);
    fg_feed(after.run, LOAD, 900, 0);
    fg_step(after.run, 0); /* no flag is read yet, so the latch is unsure and the lift rests */
    ck_assert_uint_eq(fg_output_at(after.run, 0)->level.percent, 0);
    end(&before);
    end(&after);
}
END_TEST

START_TEST(a_turned_bit_is_noticed)
{
    scene before, after;
    unsigned char saved[SAVED], fresh[SAVED], kept[SAVED];
    begin(&before, scales);
    live_a_little(&before, saved);
    begin(&after, scales);
    ck_assert_int_eq(fg_run_save(after.run, fresh, SAVED), FG_OK);
    for (size_t bit = 0; bit < 8 * SAVED; bit++) {
        saved[bit / 8] = (unsigned char)(saved[bit / 8] ^ 1u << bit % 8);
        ck_assert_int_eq(fg_run_restore(after.run, saved, SAVED), FG_ERROR_GATE);
        ck_assert_int_eq(fg_run_save(after.run, kept, SAVED), FG_OK);
        ck_assert_mem_eq(kept, fresh, SAVED);
        saved[bit / 8] = (unsigned char)(saved[bit / 8] ^ 1u << bit % 8);
    }
    for (size_t size = 0; size < SAVED; size++) ck_assert_int_eq(fg_run_restore(after.run, saved, size), FG_ERROR_GATE);
    ck_assert_int_eq(fg_run_save(after.run, saved, SAVED - 1), FG_ERROR_MEMORY);
    end(&before);
    end(&after);
}
END_TEST

/* Another gate has another hash, also where it keeps as many bytes. */
START_TEST(another_gate_does_not_take_it)
{
    scene before, after;
    unsigned char saved[SAVED];
    char changed[sizeof scales];
    memcpy(changed, scales, sizeof scales);
    *strstr(changed, "500") = '6';
    begin(&before, scales);
    live_a_little(&before, saved);
    begin(&after, changed);
    ck_assert_uint_eq(fg_run_saved_size(&after.file.program.gate), SAVED);
    ck_assert_int_eq(fg_run_restore(after.run, saved, SAVED), FG_ERROR_GATE);
    end(&before);
    end(&after);
}
END_TEST

START_TEST(tables_of_another_version_do_not_run)
{
    scene s;
    begin(&s, scales);
    fg_gate other = s.file.program.gate;
    other.form++;
    ck_assert_int_eq(fg_run_start(&other, s.memory, fg_run_size(&other), &s.run), FG_ERROR_GATE);
    other.form--;
    other.bytes--;
    ck_assert_int_eq(fg_run_start(&other, s.memory, fg_run_size(&other), &s.run), FG_ERROR_GATE);
    end(&s);
}
END_TEST

START_TEST(the_version_is_that_of_the_headers)
{
    char text[20];
    snprintf(text, sizeof text, "%d.%d.%d", FG_VERSION_NUMBER / 10000, FG_VERSION_NUMBER / 100 % 100,
             FG_VERSION_NUMBER % 100);
    ck_assert_str_eq(text, FG_VERSION);
    ck_assert_str_eq(fg_version(), FG_VERSION);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_test(tests, what_is_saved_comes_back);
    tcase_add_test(tests, a_missing_reading_still_counts);
    tcase_add_test(tests, a_turned_bit_is_noticed);
    tcase_add_test(tests, another_gate_does_not_take_it);
    tcase_add_test(tests, tables_of_another_version_do_not_run);
    tcase_add_test(tests, the_version_is_that_of_the_headers);
}

int main(void) { return run_suite("saved", fill); }
