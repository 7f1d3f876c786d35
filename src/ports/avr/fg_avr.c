/* SPDX-License-Identifier: MIT */
/* A port for the ATmega328P and its kin (Microchip, ATmega328P data sheet DS40002061: timers in sections 15 to 18, the
 * converter in section 24). */
#include "fg_avr.h"

#include <avr/interrupt.h>
#include <avr/io.h>
#include <util/atomic.h>

#ifndef F_CPU
#define F_CPU 16000000UL
#endif

/* Timer 1 with a servo: periods of 20 ms. */
enum { SERVO_TICKS_A_MS = F_CPU / 8 / 1000, SERVO_PERIOD = F_CPU / 8 / 50 };

static bool has_servo;

/* What pulse width comes out of: compare units of timers 1 and 2. */
typedef enum channel { RED_PB1, GREEN_PB2, BLUE_PB3, LAST_PD3 } channel;
static const uint8_t channel_pins[] = {FG_AVR_PIN(FG_AVR_B, 1), FG_AVR_PIN(FG_AVR_B, 2), FG_AVR_PIN(FG_AVR_B, 3),
                                       FG_AVR_PIN(FG_AVR_D, 3)};

static volatile uint32_t milliseconds;

ISR(TIMER0_COMPA_vect) { milliseconds++; }

uint32_t fg_avr_now(void)
{
    uint32_t now;
    ATOMIC_BLOCK(ATOMIC_RESTORESTATE) { now = milliseconds; }
    return now;
}

bool fg_avr_due(uint32_t every)
{
    static uint32_t last;
    static bool begun;
    const uint32_t now = fg_avr_now();
    const uint32_t gone = now - last;
    if (begun && gone < every) return false;
    last = begun && gone - every < every ? last + every : now; /* a beat that is a little late moves none */
    begun = true;
    return true;
}

/* ---- pins ---- */

static volatile uint8_t *const ports[] = {&PORTB, &PORTC, &PORTD}, *const directions[] = {&DDRB, &DDRC, &DDRD},
                               *const pins[] = {&PINB, &PINC, &PIND};

static void set_pin(uint8_t pin, bool high)
{
    const uint8_t bit = (uint8_t)(1u << pin % 8);
    if (pin == FG_AVR_NO_PIN) return;
    *ports[pin / 8] = (uint8_t)(high ? *ports[pin / 8] | bit : *ports[pin / 8] & ~bit);
}

static void make_output(uint8_t pin)
{
    if (pin == FG_AVR_NO_PIN) return;
    set_pin(pin, false);
    *directions[pin / 8] = (uint8_t)(*directions[pin / 8] | 1u << pin % 8);
}

/* ---- the start ---- */

static void start_output(const fg_avr_output *output)
{
    if (output->kind != FG_AVR_NOT_DRIVEN) make_output(output->pin);
    if (output->kind == FG_AVR_SERVO_A) has_servo = true;
    if (output->kind >= FG_AVR_PULSE_A && output->kind <= FG_AVR_PULSE_D)
        make_output(channel_pins[output->kind - FG_AVR_PULSE_A]);
    for (uint8_t i = RED_PB1; i <= BLUE_PB3 && output->kind == FG_AVR_COLOUR; i++) make_output(channel_pins[i]);
    if (output->kind == FG_AVR_SERVO_A) make_output(channel_pins[RED_PB1]);
    if (output->kind == FG_AVR_TONE) make_output(channel_pins[BLUE_PB3]);
}

void fg_avr_start(const fg_avr *board)
{
    for (uint16_t i = 0; i < board->output_count; i++) start_output(&board->outputs[i]);
    for (uint16_t i = 0; i < board->input_count; i++)
        if (board->inputs[i].kind == FG_AVR_LOW) set_pin(board->inputs[i].number, true); /* the pull-up */
    TCCR0A = 1 << WGM01; /* timer 0 counts to OCR0A: a millisecond */
    TCCR0B = 1 << CS01 | 1 << CS00;
    OCR0A = F_CPU / 64 / 1000 - 1;
    TIMSK0 = 1 << OCIE0A;
    if (has_servo) { /* timer 1: fast, up to ICR1, an eighth of the clock */
        ICR1 = SERVO_PERIOD - 1;
        TCCR1A = 1 << WGM11;
        TCCR1B = 1 << WGM13 | 1 << WGM12 | 1 << CS11;
    } else { /* fast, 8 bits, a 64th */
        TCCR1A = 1 << WGM10;
        TCCR1B = 1 << WGM12 | 1 << CS11 | 1 << CS10;
    }
    ADMUX = 1 << REFS0;
    ADCSRA = 1 << ADEN | 7; /* a 128th of the clock: 125 kHz */
    sei();
}

/* ---- reading ---- */

uint16_t fg_avr_read(const fg_avr *board, uint16_t input)
{
    if (input >= board->input_count || board->inputs[input].kind == FG_AVR_NOT_READ) return 0;
    const fg_avr_input *in = &board->inputs[input];
    if (in->kind == FG_AVR_CONVERTER) {
        ADMUX = (uint8_t)(1 << REFS0 | (in->number & 7));
        ADCSRA |= 1 << ADSC;
        while (ADCSRA & 1 << ADSC) continue;
        return ADC;
    }
    const bool high = *pins[in->number / 8] >> in->number % 8 & 1;
    return high == (in->kind == FG_AVR_HIGH);
}

/* ---- writing ---- */

/* Off is off: a compare value of 0 would still be a needle of one beat. `beats`: 0 to 255 of 255. */
static void write_beats(channel which, uint8_t beats)
{
    static const uint8_t connects[] = {1 << COM1A1, 1 << COM1B1, 1 << COM2A1, 1 << COM2B1};
    volatile uint8_t *const control = which < BLUE_PB3 ? &TCCR1A : &TCCR2A;
    if (which >= BLUE_PB3 && !(TCCR2A & 1 << WGM20)) { /* timer 2: fast, 8 bits, a 64th */
        TCCR2A = 1 << WGM21 | 1 << WGM20;
        TCCR2B = 1 << CS22;
    }
    const uint16_t compare = has_servo ? (uint16_t)(beats * (uint32_t)SERVO_PERIOD / 255u - (beats > 0)) : beats;
    if (which == RED_PB1) OCR1A = compare;
    if (which == GREEN_PB2) OCR1B = compare;
    if (which == BLUE_PB3) OCR2A = beats;
    if (which == LAST_PD3) OCR2B = beats;
    *control = (uint8_t)(beats ? *control | connects[which] : *control & ~connects[which]);
}

/* The smallest division of the clock with which the half wave fits into 8 bits. */
static void write_tone(int32_t hz)
{
    static const uint8_t shifts[] = {0, 3, 5, 6, 7, 8, 10};
    TCCR2A = TCCR2B = 0;
    if (hz < 31) return;
    for (uint8_t i = 0; i < sizeof shifts; i++) {
        const uint32_t beats = (F_CPU / 2 / (uint32_t)hz + (1UL << shifts[i] >> 1)) >> shifts[i];
        if (beats > 256) continue;
        OCR2A = (uint8_t)(beats ? beats - 1 : 0);
        TCCR2A = 1 << COM2A0 | 1 << WGM21;
        TCCR2B = (uint8_t)(i + 1);
        return;
    }
}

/* A pulse of 1 ms for 0 degrees up to 2 ms for 180. */
static void write_servo(int16_t degrees)
{
    const int32_t held = degrees < 0 ? 0 : degrees > 180 ? 180 : degrees;
    OCR1A = (uint16_t)(SERVO_TICKS_A_MS + (held * SERVO_TICKS_A_MS + 90) / 180);
    TCCR1A |= 1 << COM1A1;
}

static uint8_t percent_of(int16_t level)
{
    return (uint8_t)(level < -100 || level > 100 ? 100 : level < 0 ? -level : level);
}

/* Red, green and blue in the lower 24 bits; no colour is white. */
static void write_rgb(uint16_t percent, uint32_t colour)
{
    const uint32_t rgb = colour & 0xffffffu ? colour : 0xffffffu;
    write_beats(RED_PB1, (uint8_t)((uint8_t)(rgb >> 16) * percent / 100u));
    write_beats(GREEN_PB2, (uint8_t)((uint8_t)(rgb >> 8) * percent / 100u));
    write_beats(BLUE_PB3, (uint8_t)((uint8_t)rgb * percent / 100u));
}

void fg_avr_write(const fg_avr *board, uint16_t output, int16_t level)
{
    if (output >= board->output_count) return;
    const fg_avr_output *out = &board->outputs[output];
    switch ((fg_avr_output_kind)out->kind) {
    case FG_AVR_NOT_DRIVEN: return;
    case FG_AVR_SWITCH: set_pin(out->pin, level != 0); return;
    case FG_AVR_PULSE_A:
    case FG_AVR_PULSE_B:
    case FG_AVR_PULSE_C:
    case FG_AVR_PULSE_D:
        set_pin(out->pin, level < 0);
        write_beats((channel)(out->kind - FG_AVR_PULSE_A), (uint8_t)(percent_of(level) * 255u / 100u));
        return;
    case FG_AVR_COLOUR: write_rgb(percent_of(level), 0); return;
    case FG_AVR_TONE: write_tone(level); return;
    case FG_AVR_SERVO_A: write_servo(level); return;
    }
}

void fg_avr_write_colour(const fg_avr *board, uint16_t output, int16_t level, uint32_t colour)
{
    if (output < board->output_count && board->outputs[output].kind == FG_AVR_COLOUR)
        write_rgb(percent_of(level), colour);
    else
        fg_avr_write(board, output, level);
}
