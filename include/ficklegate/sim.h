/* SPDX-License-Identifier: MIT */
/** @file
 * The simulated board: readings are played into virtual sensors, a virtual clock says what time it is, and what the
 * virtual outputs did is kept. No time passes but the one that is set, so a day can be played in a second.
 *
 *     uint8_t strength_at(fg_run *run, int32_t counts)
 *     {
 *         fg_reading inputs[1];
 *         fg_level outputs[1];
 *         fg_sim sim = {.inputs = inputs, .input_count = 1, .outputs = outputs, .output_count = 1};
 *         fg_sim_start(&sim, 0);
 *         (void)fg_sim_put(&sim, 0, FG_READING_COUNTS, counts, 0);
 *         const fg_port port = fg_sim_port(&sim);
 *         (void)fg_port_step(&port, run);
 *         return outputs[0].percent;
 *     }
 */
#ifndef FICKLEGATE_SIM_H
#define FICKLEGATE_SIM_H

#include <ficklegate/port.h>

FG_PUBLIC_BEGIN

/** One switching of an output. */
typedef struct fg_sim_event {
    fg_time at;
    uint16_t output;
    fg_level level;
} fg_sim_event;

/** The board. All tables are the caller's and live as long as it does. */
typedef struct fg_sim {
    fg_time now;
    fg_reading *inputs; /**< what the next read of each finds; then there is nothing new */
    uint16_t input_count;
    fg_level *outputs; /**< what each is at */
    uint16_t output_count;
    fg_sim_event *events;           /**< the first `event_room` switchings; may be NULL */
    size_t event_room, event_count; /**< the count goes on when the room is used up */
} fg_sim;

/** Starts a board: clock at `now`, no readings, outputs cleared. Tables and counts are filled in before. */
void fg_sim_start(fg_sim *sim, fg_time now);

/** Puts a reading into a virtual input, to be found by the next read. `kind`: fg_reading_kind. Returns false if it
 * replaced one that no read had found. An input beyond the count is ignored. */
bool fg_sim_put(fg_sim *sim, uint16_t input, fg_reading_kind kind, int32_t value, fg_time at);

/** The port of this board: hand it to fg_port_step, or call its callbacks. It points at `sim`. */
fg_port fg_sim_port(fg_sim *sim);

FG_PUBLIC_END
#endif
