/* SPDX-License-Identifier: MIT */
#include <ficklegate/sim.h>

#include <string.h>

static fg_time sim_now(void *context) { return ((fg_sim *)context)->now; }

static void sim_read(void *context, uint16_t input, fg_reading *reading)
{
    fg_sim *sim = context;
    if (input >= sim->input_count || sim->inputs[input].kind == FG_READING_NONE) return;
    *reading = sim->inputs[input];
    sim->inputs[input].kind = FG_READING_NONE;
}

static void sim_write(void *context, uint16_t output, const fg_level *level)
{
    fg_sim *sim = context;
    if (output >= sim->output_count) return;
    sim->outputs[output] = *level;
    if (sim->event_count < sim->event_room) sim->events[sim->event_count] = (fg_sim_event){sim->now, output, *level};
    sim->event_count++;
}

void fg_sim_start(fg_sim *sim, fg_time now)
{
    sim->now = now;
    sim->event_count = 0;
    if (!sim->events) sim->event_room = 0;
    for (uint16_t i = 0; i < sim->input_count; i++) sim->inputs[i] = (fg_reading){0, now, FG_READING_NONE};
    for (uint16_t i = 0; i < sim->output_count; i++) sim->outputs[i] = (fg_level){0};
}

bool fg_sim_put(fg_sim *sim, uint16_t input, fg_reading_kind kind, int32_t value, fg_time at)
{
    if (input >= sim->input_count) return true;
    bool found = sim->inputs[input].kind == FG_READING_NONE;
    sim->inputs[input] = (fg_reading){value, at, (uint8_t)kind};
    return found;
}

fg_port fg_sim_port(fg_sim *sim) { return (fg_port){sizeof(fg_port), sim, sim_now, sim_read, sim_write, NULL}; }
