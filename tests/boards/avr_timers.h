/* SPDX-License-Identifier: MIT */
/* What the timers of an ATmega328P in simavr do, read from its registers. */
#ifndef AVR_TIMERS_H
#define AVR_TIMERS_H

#include <simavr/sim_avr.h>

enum { TCCR1A = 0x80, ICR1L = 0x86, OCR1AL = 0x88, OCR1BL = 0x8a, TCCR2A = 0xb0, TCCR2B = 0xb1, OCR2A = 0xb3 };

/* The frequency of timer 2 on its pin; 0 while it is quiet. */
static inline unsigned tone_of(const avr_t *avr)
{
    static const unsigned divisions[] = {0, 1, 8, 32, 64, 128, 256, 1024};
    const unsigned division = divisions[avr->data[TCCR2B] & 7];
    if (!(avr->data[TCCR2A] & 0x40) || !division) return 0;
    const unsigned half = division * (avr->data[OCR2A] + 1u);
    return (16000000u / 2 + half / 2) / half;
}

#endif
