/* SPDX-License-Identifier: MIT */
/* A loop that hangs for 350 ms after its first step: beats of 50 ms that it missed are not made up for. Puts out how
 * often it was due within the next 20 ms, and within the 100 ms behind them. */
#include <avr/io.h>

#include "fg_avr.h"

static const fg_avr board = {0, 0, 0, 0};

static char count_until(uint32_t end)
{
    char count = '0';
    while (fg_avr_now() < end)
        if (fg_avr_due(50)) count++;
    return count;
}

int main(void)
{
    fg_avr_start(&board);
    while (!fg_avr_due(50)) continue;
    const uint32_t begun = fg_avr_now();
    while (fg_avr_now() < begun + 350) continue;
    GPIOR0 = (uint8_t)count_until(begun + 370);
    GPIOR0 = (uint8_t)count_until(begun + 470);
    GPIOR1 = 1;
    for (;;) continue;
}
