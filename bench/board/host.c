/* SPDX-License-Identifier: MIT */
/* host [answers]: the same readings on this computer. Prints the hash of all answers, to compare with the board's; with
 * `answers` the answers of every step in front of it. */
#include <stdio.h>
#include "board.h"

int main(int argc, char **argv)
{
    uint8_t answers[BOARD_ANSWERS];
    uint32_t hash = 2166136261u; /* FNV-1a, 32 bits */
    (void)argv;
    board_start();
    for (uint16_t i = 0; i < BOARD_STEPS; i++) {
        board_readings now;
        board_read(i, &now);
        board_step(&now);
        board_answers(answers);
        if (argc > 1) printf("%u", (unsigned)now.now_ms);
        for (int k = 0; k < BOARD_ANSWERS; k++) {
            hash = (hash ^ answers[k]) * 16777619u;
            if (argc > 1) printf(" %u", answers[k]);
        }
        if (argc > 1) putchar('\n');
    }
    printf("%08x\n", (unsigned)hash);
    return 0;
}
