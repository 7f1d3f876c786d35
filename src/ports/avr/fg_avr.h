/* A port for the ATmega328P and its kin: converter channels and pins in; pins, pulse width and a tone out.
 *
 * It takes timer 0 for the clock (an interrupt each millisecond), timer 1 for pulse width on PB1 and PB2, timer 2 for a
 * tone on PB3. Copy it along with ficklegate.h and ficklegate.c, say what hangs where, and poll:
 *
 *     static const fg_avr_input inputs[] = {{FG_AVR_CONVERTER, 0}, {FG_AVR_LOW, FG_AVR_PIN(FG_AVR_D, 2)}};
 *     static const fg_avr_output outputs[] = {{FG_AVR_PULSE_A, FG_AVR_NO_PIN}, {FG_AVR_SWITCH, FG_AVR_PIN(FG_AVR_D,
 * 4)}}; static const fg_avr board = {inputs, outputs, 2, 2};
 *     ...
 *     fg_avr_start(&board);
 *     const fg_port port = fg_avr_port(&board);
 *     for (;;) if (fg_avr_due(50)) fg_port_step(&port, run);
 */
#ifndef FG_AVR_H
#define FG_AVR_H

#include <ficklegate.h>

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
    FG_AVR_NOT_DRIVEN, /* a display, a servo, a bar: bring those to their level in a port of your own */
    FG_AVR_SWITCH,     /* lamp, relay: `pin` is high while it has any strength */
    FG_AVR_PULSE_A,    /* lamp, motor: pulse width of its strength on PB1, 976 Hz; `pin` is high while it goes back */
    FG_AVR_PULSE_B,    /* the same on PB2 */
    FG_AVR_TONE        /* buzzer: a square wave on PB3, 31 Hz to 65 kHz; its strength is always all of it */
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

/* The port of a board; `board` lives as long. Its calls do not interrupt each other. */
fg_port fg_avr_port(const fg_avr *board);

/* Milliseconds since the start; wraps after 49 days. */
fg_time fg_avr_now(void);

/* True once every so many ms, from the first call on; a beat that was missed is made up for. From one place only. */
bool fg_avr_due(fg_time every);

#endif
