/* SPDX-License-Identifier: MIT */
/* Pebble Quay on an ATmega328P: the baked gate, the chip's own pins, and a loop that looks at the clock.
 *
 *     fickle bake examples/harbour/harbour.gate --report -o harbour
 *     avr-gcc -mmcu=atmega328p -DF_CPU=16000000UL -Os ... main.c fg_avr.c harbour.c
 *
 * README.md beside it says what hangs where. */
#include <avr/io.h>
#include <avr/sleep.h>
#include <avr/wdt.h>
#include <stddef.h>

#include "fg_avr.h"
#include "harbour.h"

/* ---- what hangs where ---- */

/* A wire that comes off its converter reads full scale. */
enum { WIRE_OFF = 1020 };

static const fg_avr_input inputs[] = {
    {FG_AVR_CONVERTER, 0},                 /* depth: the echo sounder */
    {FG_AVR_CONVERTER, 1},                 /* wind */
    {FG_AVR_CONVERTER, 2},                 /* bilge: a float, a count is a millimetre */
    {FG_AVR_CONVERTER, 3},                 /* vane: a count is a degree */
    {FG_AVR_CONVERTER, 4},                 /* rock_x: a count is a milli-g, 512 is none */
    {FG_AVR_CONVERTER, 5},                 /* rock_y */
    {FG_AVR_CONVERTER, 6},                 /* rock_z: 512 is 1 g */
    {FG_AVR_LOW, FG_AVR_PIN(FG_AVR_D, 4)}, /* key, ack, level, boat: switches to ground */
    {FG_AVR_LOW, FG_AVR_PIN(FG_AVR_D, 5)},
    {FG_AVR_LOW, FG_AVR_PIN(FG_AVR_D, 6)},
    {FG_AVR_LOW, FG_AVR_PIN(FG_AVR_D, 7)},
};

/* Which sensor of the gate an input is, and how many steps of its unit 0 counts are. */
static const struct {
    uint8_t sensor;
    int16_t at_zero;
} sensors[] = {
    {HARBOUR_SENSOR_DEPTH, 0},    {HARBOUR_SENSOR_WIND, 0},      {HARBOUR_SENSOR_BILGE, 0},
    {HARBOUR_SENSOR_VANE, 0},     {HARBOUR_SENSOR_ROCK_X, -512}, {HARBOUR_SENSOR_ROCK_Y, -512},
    {HARBOUR_SENSOR_ROCK_Z, 488},
};
static const uint8_t flags[] = {HARBOUR_FLAG_KEY, HARBOUR_FLAG_ACK, HARBOUR_FLAG_LEVEL, HARBOUR_FLAG_BOAT};
enum { SENSORS = sizeof sensors / sizeof *sensors, FLAGS = sizeof flags / sizeof *flags };

static const fg_avr_output outputs[] = {
    [HARBOUR_OUTPUT_GREEN] = {FG_AVR_SWITCH, FG_AVR_PIN(FG_AVR_D, 2)},
    [HARBOUR_OUTPUT_RED] = {FG_AVR_SWITCH, FG_AVR_PIN(FG_AVR_D, 3)},
    [HARBOUR_OUTPUT_BEACON] = {FG_AVR_SWITCH, FG_AVR_PIN(FG_AVR_B, 0)},
    [HARBOUR_OUTPUT_BOOM] = {FG_AVR_SWITCH, FG_AVR_PIN(FG_AVR_B, 4)},
    [HARBOUR_OUTPUT_HORN] = {FG_AVR_TONE, FG_AVR_NO_PIN},              /* PB3 */
    [HARBOUR_OUTPUT_PUMP] = {FG_AVR_PULSE_B, FG_AVR_PIN(FG_AVR_B, 5)}, /* PB2, and PB5 while it goes back */
    [HARBOUR_OUTPUT_WINCH] = {FG_AVR_SWITCH, FG_AVR_PIN(FG_AVR_D, 0)},
    [HARBOUR_OUTPUT_FLAGSTAFF] = {FG_AVR_SERVO_A, FG_AVR_NO_PIN}, /* PB1 */
    [HARBOUR_OUTPUT_GAUGE] = {FG_AVR_NOT_DRIVEN, FG_AVR_NO_PIN},  /* both go out by the serial line */
    [HARBOUR_OUTPUT_BOARD] = {FG_AVR_NOT_DRIVEN, FG_AVR_NO_PIN},
};
enum { OUTPUTS = sizeof outputs / sizeof *outputs };

static const fg_avr chip = {inputs, outputs, SENSORS + FLAGS, OUTPUTS};

/* ---- the serial line: a line for each step, with what was read and what every output is at ---- */

static void serial_start(void)
{
    UBRR0 = F_CPU / 8 / 1000000 - 1; /* exact, and a line takes 3 ms */
    UCSR0A = 1 << U2X0;
    UCSR0B = 1 << TXEN0;
}

static void serial_put(char c)
{
    while (!(UCSR0A & 1 << UDRE0)) continue;
    UDR0 = (uint8_t)c;
}

/* For harbour_report, character by character. */
static void report_put(void *context, char c)
{
    (void)context;
    serial_put(c);
}

/* ---- the loop ---- */

static void step(harbour_state *gate)
{
    const uint32_t now = fg_avr_now();
    for (uint8_t i = 0; i < SENSORS; i++) {
        const uint16_t counts = fg_avr_read(&chip, i);
        if (counts >= WIRE_OFF)
            harbour_fault(gate, sensors[i].sensor, now);
        else
            harbour_feed(gate, sensors[i].sensor, (int32_t)counts + sensors[i].at_zero, now);
    }
    for (uint8_t i = 0; i < FLAGS; i++)
        harbour_feed_flag(gate, flags[i], fg_avr_read(&chip, (uint16_t)(SENSORS + i)), now);
    harbour_step(gate, now);
    for (uint8_t i = 0; i < OUTPUTS; i++) fg_avr_write(&chip, i, harbour_level(gate, i));
    harbour_report(gate, now, report_put, NULL);
}

int main(void)
{
    static harbour_state gate;
    harbour_start(&gate);
    fg_avr_start(&chip);
    serial_start();
    wdt_enable(WDTO_500MS); /* a loop that hangs for five steps starts the chip anew, with every output at rest */
    for (;;) {
        if (!fg_avr_due(HARBOUR_EVERY_MS)) {
            sleep_mode(); /* until the clock ticks */
            continue;
        }
        step(&gate);
        wdt_reset(); /* here and nowhere else: only steps that are made keep the chip running, no interrupt does */
    }
}
