/* SPDX-License-Identifier: MIT */
/* The ATmega328P and its kin: converter channels and pins in; pins, pulse width, a servo and a tone out.
 *
 * It takes timer 0 for the clock (an interrupt each millisecond), timer 1 for pulse width on PB1 and PB2, timer 2 for a
 * tone on PB3 or pulse width on PB3 and PD3. It needs nothing of the library: copy these two files along with a gate's
 * baked code, say what hangs where, and poll:
 *
 *     static const fg_avr_input inputs[] = {{FG_AVR_CONVERTER, 0}, {FG_AVR_LOW, FG_AVR_PIN(FG_AVR_D, 2)}};
 *     static const fg_avr_output outputs[] = {{FG_AVR_PULSE_A, FG_AVR_NO_PIN},
 *                                             {FG_AVR_SWITCH, FG_AVR_PIN(FG_AVR_D, 4)}};
 *     static const fg_avr board = {inputs, outputs, 2, 2};
 *     ...
 *     fg_avr_start(&board);
 *     for (;;) {
 *         if (!fg_avr_due(100)) continue;
 *         box_feed(&gate, BOX_SENSOR_WARMTH, fg_avr_read(&board, 0), fg_avr_now());
 *         box_step(&gate, fg_avr_now());
 *         fg_avr_write(&board, BOX_OUTPUT_HEATER, box_level(&gate, BOX_OUTPUT_HEATER));
 *     }
 *
 * With the library's engine and baked tables, fg_avr_port.h makes a port of it. */
#ifndef FG_AVR_H
#define FG_AVR_H

#include <stdbool.h>
#include <stdint.h>

/* The ports B, C, D, and a pin of one. */
enum { FG_AVR_B, FG_AVR_C, FG_AVR_D };
#define FG_AVR_PIN(port, bit) ((uint8_t)((port)*8 + (bit)))
enum { FG_AVR_NO_PIN = 255 };

typedef enum fg_avr_input_kind {
    FG_AVR_NOT_READ,  /* a sensor that is worked out from others */
    FG_AVR_CONVERTER, /* number: channel 0 to 7; counts 0 to 1023 of the supply, 0.1 ms a reading */
    FG_AVR_HIGH,      /* number: a pin; a flag that is yes while it is high */
    FG_AVR_LOW        /* number: a pin with its pull-up on; a flag that is yes while it is low */
} fg_avr_input_kind;

typedef struct fg_avr_input {
    uint8_t kind, number;
} fg_avr_input;

typedef enum fg_avr_output_kind {
    FG_AVR_NOT_DRIVEN, /* a display, a bar: bring those to their level yourself */
    FG_AVR_SWITCH,     /* lamp, relay: `pin` is high while it has any strength */
    FG_AVR_PULSE_A,    /* lamp, motor: pulse width of its strength on PB1, 976 Hz; `pin` is high while it goes back */
    FG_AVR_PULSE_B,    /* the same on PB2 */
    FG_AVR_PULSE_C,    /* the same on PB3, where no buzzer is */
    FG_AVR_PULSE_D,    /* the same on PD3, where no buzzer is */
    FG_AVR_COLOUR,     /* lamp of three colours: red PB1, green PB2, blue PB3; neither servo nor buzzer then */
    FG_AVR_TONE,       /* buzzer: a square wave on PB3, 31 Hz to 65 kHz; its strength is always all of it */
    FG_AVR_SERVO_A /* servo: a pulse of 1 to 2 ms for 0 to 180 degrees on PB1, every 20 ms; PB2 has 50 Hz then too */
} fg_avr_output_kind;

typedef struct fg_avr_output {
    uint8_t kind, pin;
} fg_avr_output;

/* What hangs where: inputs as the gate numbers them (sensors, then flags), outputs too. */
typedef struct fg_avr {
    const fg_avr_input *inputs;
    const fg_avr_output *outputs;
    uint16_t input_count, output_count;
} fg_avr;

/* Timers, converter, directions of pins; allows interrupts. Once, before the first step. `board` lives on. */
void fg_avr_start(const fg_avr *board);

/* Counts 0 to 1023 of a converter, of a pin 1 for yes. Waits for the conversion, 0.1 ms. Inputs beyond the last: 0. */
uint16_t fg_avr_read(const fg_avr *board, uint16_t input);

/* Brings an output to a level, in the numbers that baked code answers: lamp, relay, motor in % (back is negative),
 * buzzer in Hz (0 is quiet), servo in degrees. Outputs beyond the last are left alone. */
void fg_avr_write(const fg_avr *board, uint16_t output, int16_t level);

/* The same for a lamp of three colours: `colour` as baked code answers it, red green blue in the lower 24 bits; 0, no
 * colour, is white. Its strength dims all three. Other outputs take the level alone. */
void fg_avr_write_colour(const fg_avr *board, uint16_t output, int16_t level, uint32_t colour);

/* Milliseconds since the start; wraps after 49 days. */
uint32_t fg_avr_now(void);

/* True once every so many ms, from the first call on. A call that comes a little late moves no beat behind it; beats
 * that were missed are not made up for: after a stall there is one step. From one place only. */
bool fg_avr_due(uint32_t every);

#endif
