/* SPDX-License-Identifier: MIT */
/* The test frame on the board: feeds the readings, marks each step for the runner, hands over the answers.
 * What it writes to GPIOR0 are marks (1 a step begins, 2 it has ended, 3 all done), to GPIOR1 answers. */
#include <avr/io.h>
#include "board.h"

static board_readings now;

int main(void)
{
    uint8_t answers[BOARD_ANSWERS];

    GPIOR0 = 1; /* an empty step: what the marks themselves cost */
    GPIOR0 = 2;

    board_start();
    for (uint16_t i = 0; i < BOARD_STEPS; i++) {
        board_read(i, &now);

        GPIOR0 = 1;
        board_step(&now);
        GPIOR0 = 2;

        board_answers(answers);
        for (uint8_t k = 0; k < BOARD_ANSWERS; k++) GPIOR1 = answers[k];
    }
    GPIOR0 = 3;
    for (;;) {
    }
}
