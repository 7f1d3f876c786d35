/* SPDX-License-Identifier: MIT */
/* The readings of readings.h, which stay in flash on the board. */
#include "board.h"

#ifdef __AVR__
#include <avr/pgmspace.h>
#define READINGS_ARE static const reading readings[READINGS] PROGMEM
#else
#include <string.h>
#define READINGS_ARE static const reading readings[READINGS]
#define memcpy_P     memcpy
#endif

typedef struct {
    int16_t depth, bilge, wind, rocking;
    int8_t key;
} reading;
#include "readings.h"

void board_read(uint16_t i, board_readings *now)
{
    reading r;
    memcpy_P(&r, &readings[i], sizeof r);
    *now = (board_readings){.now_ms = (uint32_t)i * READINGS_EVERY_MS,
                            .depth = r.depth,
                            .bilge = r.bilge,
                            .wind = r.wind,
                            .rocking = r.rocking,
                            .key = (uint8_t)r.key};
}
