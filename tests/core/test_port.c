/* SPDX-License-Identifier: MIT */
#include "../boards/small_gate.h"
#include "../support/suite.h"

#include <ficklegate/sim.h>

#include <stdlib.h>

static fg_reading inputs[SMALL_SENSORS + 1];
static fg_level levels[SMALL_OUTPUTS];
static fg_sim_event events[32];
static _Alignas(16) unsigned char memory[1024];
static fg_time noted;

static void note(void *context, fg_time now)
{
    (void)context;
    noted = now;
}

static fg_sim board(void)
{
    fg_sim sim = {.inputs = inputs,
                  .input_count = SMALL_SENSORS + 1,
                  .outputs = levels,
                  .output_count = SMALL_OUTPUTS,
                  .events = events,
                  .event_room = 32};
    fg_sim_start(&sim, 0);
    return sim;
}

START_TEST(test_through_the_port)
{
    fg_run *run;
    fg_sim sim = board();
    fg_port port = fg_sim_port(&sim);
    port.note = note;
    ck_assert_int_eq(fg_run_start(&small_gate, memory, sizeof memory, &run), FG_OK);

    ck_assert(fg_sim_put(&sim, SMALL_BILGE, FG_READING_VALUE, 130, 0));
    ck_assert(fg_sim_put(&sim, SMALL_DEPTH, FG_READING_COUNTS, 512, 0));
    ck_assert(fg_sim_put(&sim, SMALL_SENSORS, FG_READING_VALUE, 1, 0));
    ck_assert_uint_eq(fg_port_step(&port, run), 0);
    ck_assert_int_eq(fg_answer(run, 4), FG_YES);
    ck_assert_uint_eq(sim.event_count, SMALL_OUTPUTS); /* the first step writes every output */
    ck_assert_int_eq(levels[SMALL_PUMP].form, FG_FORM_FORWARD);

    sim.now = 100; /* nothing new: the last readings stand, nothing is written */
    ck_assert_uint_eq(fg_port_step(&port, run), 100);
    ck_assert_uint_eq(noted, 100);
    ck_assert_uint_eq(sim.event_count, SMALL_OUTPUTS);

    sim.now = 200;
    ck_assert(fg_sim_put(&sim, SMALL_BILGE, FG_READING_FAULT, 0, 200));
    ck_assert(fg_sim_put(&sim, SMALL_SENSORS, FG_READING_FAULT, 0, 200));
    fg_port_step(&port, run);
    ck_assert_uint_eq(sim.event_count, SMALL_OUTPUTS + 1);
    ck_assert_uint_eq(events[SMALL_OUTPUTS].at, 200);
    ck_assert_uint_eq(events[SMALL_OUTPUTS].output, SMALL_PUMP);
    ck_assert_int_eq(events[SMALL_OUTPUTS].level.form, FG_FORM_STOP);
    ck_assert_int_eq(fg_answer(run, 4), FG_UNSURE);
}
END_TEST

START_TEST(test_other_size_of_port)
{
    fg_run *run;
    fg_sim sim = board();
    fg_port port = fg_sim_port(&sim);
    port.size--;
    sim.now = 50;
    ck_assert_int_eq(fg_run_start(&small_gate, memory, sizeof memory, &run), FG_OK);
    ck_assert_uint_eq(fg_port_step(&port, run), 0);
    ck_assert_uint_eq(sim.event_count, 0);
}
END_TEST

START_TEST(test_room_for_events)
{
    fg_sim sim = board();
    const fg_level level = {.form = FG_FORM_ON, .percent = 100};
    sim.event_room = 2;
    const fg_port port = fg_sim_port(&sim);
    for (int i = 0; i < 3; i++) port.write_output(port.context, 0, &level);
    port.write_output(port.context, 99, &level); /* no such output */
    ck_assert_uint_eq(sim.event_count, 3);
    ck_assert(!fg_sim_put(&sim, 0, FG_READING_VALUE, 1, 0) || !fg_sim_put(&sim, 0, FG_READING_VALUE, 2, 0));
    ck_assert(fg_sim_put(&sim, 99, FG_READING_VALUE, 1, 0));
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_test(tests, test_through_the_port);
    tcase_add_test(tests, test_other_size_of_port);
    tcase_add_test(tests, test_room_for_events);
}

int main(void) { return run_suite("port", fill); }
