/* SPDX-License-Identifier: MIT */
/* One step of a gate through a port. */
#include <ficklegate/port.h>

#include "run.h"

/* Flags are numbered behind the last sensor, as fg_port says. */
static void feed(fg_run *run, uint16_t input, const fg_reading *reading)
{
    const uint16_t sensors = run->gate->size.sensors;
    if (input < sensors) {
        if (reading->kind == FG_READING_VALUE) fg_feed(run, input, reading->value, reading->at);
        if (reading->kind == FG_READING_COUNTS) fg_feed_counts(run, input, reading->value, reading->at);
        if (reading->kind == FG_READING_FAULT) fg_feed_fault(run, input, reading->at);
        return;
    }
    const uint16_t flag = (uint16_t)(input - sensors);
    if (reading->kind == FG_READING_FAULT)
        fg_feed_flag_fault(run, flag, reading->at);
    else if (reading->kind != FG_READING_NONE)
        fg_feed_flag(run, flag, reading->value != 0, reading->at);
}

/* The size tells a port that was compiled against another version: its members may stand elsewhere, so nothing of it
 * is called. All inputs are read before the step, which sees one moment of the world. */
fg_time fg_port_step(const fg_port *port, fg_run *run)
{
    if (port->size != sizeof *port) return 0;
    const fg_gate *gate = run->gate;
    const fg_time now = port->now_ms(port->context);
    const uint32_t inputs = (uint32_t)gate->size.sensors + gate->size.flags;
    for (uint16_t i = 0; i < inputs; i++) {
        fg_reading reading = {0, now, FG_READING_NONE};
        port->read_input(port->context, i, &reading);
        feed(run, i, &reading);
    }
    fg_step(run, now);
    for (uint16_t i = 0; i < gate->size.outputs; i++) {
        const fg_output_state *state = &run->outputs[i];
        if (state->changed) port->write_output(port->context, i, &state->level);
    }
    if (port->note) port->note(port->context, now);
    return now;
}
