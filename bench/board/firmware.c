/* SPDX-License-Identifier: MIT */
/* The test frame on the board: feeds the readings, marks each step for the runner, hands over the answers.
 * What it writes to GPIOR0 are marks (1 a step begins, 2 it has ended, 3 all done), to GPIOR1 answers. */
#include <avr/io.h>
#include <avr/pgmspace.h>
#include "board.h"

typedef struct {
    int16_t depth, bilge, wind, rocking;
    int8_t key;
} reading;
#define READINGS_ARE static const reading readings[READINGS] PROGMEM
#include "readings.h"

static board_readings now;

int main(void)
{
    uint8_t answers[BOARD_ANSWERS];

    GPIOR0 = 1; /* an empty step: what the marks themselves cost */
    GPIOR0 = 2;

    board_start();
    for (uint16_t i = 0; i < READINGS; i++) {
        reading r;
        memcpy_P(&r, &readings[i], sizeof r);
        now.depth = r.depth;
        now.bilge = r.bilge;
        now.wind = r.wind;
        now.rocking = r.rocking;
        now.key = (uint8_t)r.key;

        GPIOR0 = 1;
        board_step(&now);
        GPIOR0 = 2;

        board_answers(answers);
        for (uint8_t k = 0; k < BOARD_ANSWERS; k++) GPIOR1 = answers[k];
        now.now_ms += READINGS_EVERY_MS;
    }
    GPIOR0 = 3;
    for (;;) {
    }
}
