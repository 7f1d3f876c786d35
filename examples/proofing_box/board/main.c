/* SPDX-License-Identifier: MIT */
/* A shelf for dough on an ATmega328P: two converters, a switch, a lamp of three colours, a fan that turns both ways, a
 * heater, a serial line.
 *
 *     fickle bake examples/proofing_box/shelf.gate --report -o shelf
 *     avr-gcc -mmcu=atmega328p -DF_CPU=16000000UL -Os ... main.c fg_avr.c shelf.c
 *
 * README.md beside it says what hangs where. */
#include <avr/io.h>
#include <avr/sleep.h>
#include <avr/wdt.h>
#include <stddef.h>

#include "fg_avr.h"
#include "shelf.h"

/* ---- what hangs where: inputs as the gate numbers them, sensors first, then flags; outputs too ---- */

static const fg_avr_input inputs[] = {
    [SHELF_SENSOR_WARMTH] = {FG_AVR_CONVERTER, 0},
    [SHELF_SENSOR_DAMP] = {FG_AVR_CONVERTER, 1},
    [SHELF_SENSORS + SHELF_FLAG_DOOR] = {FG_AVR_LOW, FG_AVR_PIN(FG_AVR_D, 4)}, /* a switch to ground */
};

static const fg_avr_output outputs[] = {
    [SHELF_OUTPUT_GLOW] = {FG_AVR_COLOUR, FG_AVR_NO_PIN},           /* PB1, PB2, PB3 */
    [SHELF_OUTPUT_FAN] = {FG_AVR_PULSE_D, FG_AVR_PIN(FG_AVR_D, 7)}, /* PD3, and PD7 while it goes back */
    [SHELF_OUTPUT_HEATER] = {FG_AVR_SWITCH, FG_AVR_PIN(FG_AVR_D, 2)},
};

static const fg_avr chip = {inputs, outputs, SHELF_SENSORS + SHELF_FLAGS, SHELF_OUTPUTS};

/* ---- the serial line: 115200 baud, a line for each step ---- */

static void serial_start(void)
{
    UBRR0 = 16; /* 117647 baud, 2 % off, which is near enough */
    UCSR0A = 1 << U2X0;
    UCSR0B = 1 << TXEN0;
}

static void serial_put(void *context, char c)
{
    (void)context;
    while (!(UCSR0A & 1 << UDRE0)) continue;
    UDR0 = (uint8_t)c;
}

/* ---- the loop ---- */

static void step(shelf_state *gate)
{
    const uint32_t now = fg_avr_now();
    shelf_feed(gate, SHELF_SENSOR_WARMTH, fg_avr_read(&chip, SHELF_SENSOR_WARMTH), now);
    shelf_feed(gate, SHELF_SENSOR_DAMP, fg_avr_read(&chip, SHELF_SENSOR_DAMP), now);
    shelf_feed_flag(gate, SHELF_FLAG_DOOR, fg_avr_read(&chip, SHELF_SENSORS + SHELF_FLAG_DOOR), now);
    shelf_step(gate, now);
    fg_avr_write_colour(&chip, SHELF_OUTPUT_GLOW, shelf_level(gate, SHELF_OUTPUT_GLOW),
                        shelf_colour(gate, SHELF_OUTPUT_GLOW));
    fg_avr_write(&chip, SHELF_OUTPUT_FAN, shelf_level(gate, SHELF_OUTPUT_FAN));
    fg_avr_write(&chip, SHELF_OUTPUT_HEATER, shelf_level(gate, SHELF_OUTPUT_HEATER));
    shelf_report(gate, now, serial_put, NULL);
}

int main(void)
{
    static shelf_state gate;
    shelf_start(&gate);
    fg_avr_start(&chip);
    serial_start();
    wdt_enable(WDTO_500MS); /* a loop that hangs starts the chip anew, with every output at rest */
    for (;;) {
        if (!fg_avr_due(SHELF_EVERY_MS)) {
            sleep_mode(); /* until the clock ticks */
            continue;
        }
        step(&gate);
        wdt_reset();
    }
}
