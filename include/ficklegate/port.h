/* SPDX-License-Identifier: MIT */
/** @file
 * The port: how a gate meets a board. One const struct of callbacks; a new board is one file of about fifty lines.
 *
 *     void play(fg_run *run, fg_time (*now_ms)(void *context),
 *               void (*read_input)(void *context, uint16_t input, fg_reading *reading),
 *               void (*write_output)(void *context, uint16_t output, const fg_level *level))
 *     {
 *         const fg_port port = {sizeof(fg_port), NULL, now_ms, read_input, write_output, NULL};
 *         for (;;) (void)fg_port_step(&port, run); // add a pause of your own, or wait for `every`
 *     }
 */
#ifndef FICKLEGATE_PORT_H
#define FICKLEGATE_PORT_H

#include <ficklegate/gate.h>

FG_PUBLIC_BEGIN

/** What a read found. */
typedef enum fg_reading_kind {
    FG_READING_NONE,   /**< nothing new: the last one stands */
    FG_READING_VALUE,  /**< `value` in whole steps; of a flag 0 is no, all else yes */
    FG_READING_COUNTS, /**< `value` in counts of the converter */
    FG_READING_FAULT   /**< something came that is no reading */
} fg_reading_kind;

typedef struct fg_reading {
    int32_t value;
    fg_time at;   /**< when it was read; the time of the step unless the port says otherwise */
    uint8_t kind; /**< fg_reading_kind */
} fg_reading;

typedef struct fg_port {
    size_t size;   /**< sizeof(fg_port) of the port's own build */
    void *context; /**< handed to every call; may be NULL */

    /** Milliseconds since any fixed moment; may wrap. Does not block. */
    fg_time (*now_ms)(void *context);

    /** Looks at an input: sensors are numbered as in the gate, flags follow behind the last sensor. Sets `kind` and
     * `value`. Blocks no longer than one conversion takes. Called once for each input and step. */
    void (*read_input)(void *context, uint16_t input, fg_reading *reading);

    /** Brings an output to a level: called when it changed, and for every output after the first step. Does not block.
     */
    void (*write_output)(void *context, uint16_t output, const fg_level *level);

    /** May be NULL. Called after each step with its time: a place for a watchdog, a log, a light. */
    void (*note)(void *context, fg_time now);
} fg_port;

/** One step: reads every input, steps, writes what changed. Returns the step's time.
 * `port`, `run`: not NULL; a port whose `size` is another than this library's is left alone and 0 comes back. */
fg_time fg_port_step(const fg_port *port, fg_run *run);

FG_PUBLIC_END
#endif
