/* SPDX-License-Identifier: MIT */
/* What a program has to provide to be measured here: board.gate, three functions, no main(). See harbour/board.h. */
#ifndef BOARD_H
#define BOARD_H

#include <stdint.h>

typedef struct {
    uint32_t now_ms;
    int16_t left, right; /* 0.1 kg */
    uint8_t lid;         /* 0 or 1 */
} board_readings;

/* state: 0 to 3 in the order of board.gate. Yes is 1, no is 0. Unsure is 255. */
enum { BOARD_UNSURE = 255 };
enum board_answer {
    ANSWER_STATE,
    ANSWER_LEANING,
    ANSWER_HEAVY,
    ANSWER_SMOKE,
    ANSWER_OPENED, /* the count */
    ANSWER_BELL,   /* 0 quiet, 88 and 66 for 880 and 660 Hz */
    ANSWER_BEACON, /* per cent */
    ANSWER_VENT,   /* per cent */
    ANSWER_GAUGE,  /* degrees */
    BOARD_ANSWERS
};

enum { BOARD_STEPS = 1200 };

/* The readings of a step, from 0 on: not timed. */
void board_read(uint16_t step, board_readings *now);

void board_start(void);
void board_step(const board_readings *now);
void board_answers(uint8_t answers[BOARD_ANSWERS]);

#endif
