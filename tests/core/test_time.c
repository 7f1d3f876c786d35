/* SPDX-License-Identifier: MIT */
/* Clocks as boards have them: readings that are stamped before or after the step, and a clock that jumps back. */
#include "../support/suite.h"

#include <ficklegate/files.h>

#include <stdlib.h>
#include <string.h>

/* A script: "r5@120" is a reading of 5 taken at 120, "k1@0" the flag, "s100" a step at 100. Behind each step stands
 * what the relay is at: "+" on, "-" off. */
static const struct {
    const char *name, *gate, *script, *levels;
} scripts[] = {
    {"a reading stamped after the step is new", "sensor d { stale after 500ms }\nrelay r { on when d over 5 }\n",
     "r7@103 s100 r7@203 s200 r7@10300 s300 s10300 s10800 s10801", "+++---"},
    {"and so is a flag", "flag k { stale after 500ms }\nrelay r { on when k }\n",
     "k1@103 s100 k1@903 s200 s900 s1403 s1404", "++---"},
    {"a clock that goes back by one ends no wait",
     "sensor d\nthreshold deep from d { over 5; settle 2s }\nrelay r { on when deep }\n",
     "r3@0 s0 s2000 r7@2100 s2100 s2099 s2100 s4098 s4099 s4100", "------++"},
    {"nor one that goes back far", "sensor d\nthreshold deep from d { over 5; settle 2s }\nrelay r { on when deep }\n",
     "r3@90000 s90000 s92000 r7@92000 s92000 s93000 s50 s1049 s1050", "------+"},
    {"for", "flag k\nrelay r { on when k for 1s }\n", "k1@5000 s5000 s5999 s100 s101 s102", "---++"},
    {"a pulse lasts no shorter", "flag k\npulse p { start when k; last 1s }\nrelay r { on when p }\n",
     "k0@5000 s5000 k1@5100 s5100 s5600 s70 s569 s570", "-++++-"},
    {"bridge and stale", "sensor d { stale after 1s; bridge 1s }\nrelay r { on when d over 5 }\n",
     "r7@5000 s5000 s6000 s100 s101 s1100 s1101", "+++++-"},
    {"a reading fed by the new clock", "sensor d { stale after 1s }\nrelay r { on when d over 5 }\n",
     "r7@90000 s90000 r7@50 s50 s1050 s1051", "+++-"},
};

START_TEST(the_clock_of_a_gate)
{
    fg_gate_file file;
    fg_mistake mistake;
    char levels[100] = "";
    size_t count = 0;
    ck_assert_msg(fg_gate_file_of_text(&file, "a.gate", fg_text_of(scripts[_i].gate), (fg_settings){0}, &mistake) ==
                      FG_OK,
                  "%s", scripts[_i].gate);
    const fg_gate *gate = &file.program.gate;
    void *memory = malloc(fg_run_size(gate));
    fg_run *run;
    ck_assert_int_eq(fg_run_start(gate, memory, fg_run_size(gate), &run), FG_OK);
    const uint16_t relay = (uint16_t)(gate->size.outputs - 1);
    for (const char *at = scripts[_i].script; *at;) {
        char *end;
        const char what = *at++;
        const long number = strtol(at, &end, 10);
        const fg_time stamp = *end == '@' ? (fg_time)strtol(end + 1, &end, 10) : 0;
        if (what == 'r') fg_feed(run, 0, (fg_value)number, stamp);
        if (what == 'k') fg_feed_flag(run, 0, number != 0, stamp);
        if (what == 's') {
            fg_step(run, (fg_time)number);
            levels[count++] = fg_output_at(run, relay)->level.percent ? '+' : '-';
        }
        at = end + (*end == ' ');
    }
    ck_assert_msg(!strcmp(levels, scripts[_i].levels), "%s: %s instead of %s", scripts[_i].name, levels,
                  scripts[_i].levels);
    free(memory);
    fg_gate_file_close(&file);
}
END_TEST

/* Rules alone keep no clock of their own: a wait that the clock goes back behind begins anew, and none ends early. */
START_TEST(the_clock_of_a_rule)
{
    static const fg_threshold deep = {.range = {6, INT32_MAX}, .kept = {6, INT32_MAX}, .settle = FG_SETTLE(2000)};
    fg_threshold_state state = {0};
    fg_lasting_state lasting = {0};
    (void)fg_threshold_step(&deep, &state, 3, 9000);
    ck_assert_int_eq(fg_threshold_step(&deep, &state, 3, 11000), FG_NO);
    ck_assert_int_eq(fg_threshold_step(&deep, &state, 7, 12000), FG_NO);
    ck_assert_int_eq(fg_threshold_step(&deep, &state, 7, 11999), FG_NO);
    ck_assert_int_eq(fg_threshold_step(&deep, &state, 7, 13998), FG_NO);
    ck_assert_int_eq(fg_threshold_step(&deep, &state, 7, 13999), FG_YES);
    ck_assert_int_eq(fg_lasting_step(1000, &lasting, FG_YES, 500), FG_NO);
    ck_assert_int_eq(fg_lasting_step(1000, &lasting, FG_YES, 499), FG_NO);
    ck_assert_int_eq(fg_lasting_step(1000, &lasting, FG_YES, 1499), FG_YES);
    ck_assert_int_eq(fg_lasting_step(1000, &lasting, FG_YES, 0), FG_YES);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_loop_test(tests, the_clock_of_a_gate, 0, COUNT_OF(scripts));
    tcase_add_test(tests, the_clock_of_a_rule);
}

int main(void) { return run_suite("time", fill); }
