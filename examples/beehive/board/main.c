/* SPDX-License-Identifier: MIT */
/* The hive's scale on an ATmega328P. Its zero, the count of lifts and the warning outlive a flat battery.
 *
 *     fickle bake examples/beehive/scale.gate -o scale
 *     avr-gcc -mmcu=atmega328p -DF_CPU=16000000UL -Os ... main.c fg_avr.c fg_avr_kept.c scale.c
 *
 * PC0: the scale, a count is 0.1 kg. PD2, PD3: switches to ground, tare and seen. PD4: the warning. PD1: a line
 * whenever something was saved, 1000000 baud. */
#include <avr/io.h>
#include <avr/sleep.h>
#include <avr/wdt.h>
#include <stddef.h>

#include "fg_avr.h"
#include "fg_avr_kept.h"
#include "scale.h"

static const fg_avr_input inputs[] = {
    {FG_AVR_CONVERTER, 0},
    {FG_AVR_LOW, FG_AVR_PIN(FG_AVR_D, 2)},
    {FG_AVR_LOW, FG_AVR_PIN(FG_AVR_D, 3)},
};
static const fg_avr_output outputs[] = {[SCALE_OUTPUT_WARNING] = {FG_AVR_SWITCH, FG_AVR_PIN(FG_AVR_D, 4)}};
static const fg_avr chip = {inputs, outputs, 3, 1};

static scale_state gate;
static uint8_t bytes[SCALE_SAVED];
static fg_avr_kept kept = FG_AVR_KEPT(0, E2END + 1, bytes);

/* ---- the serial line ---- */

static void serial_start(void)
{
    UBRR0 = F_CPU / 8 / 1000000 - 1;
    UCSR0A = 1 << U2X0;
    UCSR0B = 1 << TXEN0;
}

static void serial_put(char c)
{
    while (!(UCSR0A & 1 << UDRE0)) continue;
    UDR0 = (uint8_t)c;
}

static void say(const char *what, int32_t number)
{
    char digits[6];
    uint8_t count = 0;
    while (*what) serial_put(*what++);
    do digits[count++] = (char)('0' + number % 10);
    while ((number /= 10) != 0);
    while (count) serial_put(digits[--count]);
    serial_put('\n');
}

/* ---- the loop ---- */

static void step(void)
{
    const uint32_t now = fg_avr_now();
    scale_feed(&gate, SCALE_SENSOR_WEIGHT, fg_avr_read(&chip, 0), now);
    scale_feed_flag(&gate, SCALE_FLAG_TARE, fg_avr_read(&chip, 1), now);
    scale_feed_flag(&gate, SCALE_FLAG_SEEN, fg_avr_read(&chip, 2), now);
    scale_step(&gate, now);
    fg_avr_write(&chip, SCALE_OUTPUT_WARNING, scale_level(&gate, SCALE_OUTPUT_WARNING));
}

/* Saves when the last save is through, and says so with the count of lifts. What is the same is not written again. */
static void save(void)
{
    static int32_t said = -1;
    const int32_t lifts = scale_count(&gate, SCALE_COUNT_LIFTS);
    if (!fg_avr_kept_may_save(&kept)) return;
    scale_save(&gate, bytes);
    fg_avr_kept_save(&kept);
    if (lifts != said) say("saving lifts=", lifts);
    said = lifts;
}

int main(void)
{
    bool restored = false;
    scale_start(&gate);
    serial_start();
    while (!restored && fg_avr_kept_read(&kept)) restored = scale_restore(&gate, bytes);
    say(restored ? "kept lifts=" : "begins afresh, lifts=", scale_count(&gate, SCALE_COUNT_LIFTS));
    fg_avr_start(&chip);
    wdt_enable(WDTO_500MS);
    for (;;) {
        (void)fg_avr_kept_work(&kept);
        if (!fg_avr_due(SCALE_EVERY_MS)) {
            sleep_mode(); /* until the clock ticks */
            continue;
        }
        step();
        save();
        wdt_reset();
    }
}
