/* SPDX-License-Identifier: MIT */
/* What a program has to provide to be measured here: board.gate, three functions, no main().
 *
 * board_start    forgets everything. Called once, before the first step.
 * board_step     takes one set of readings and works out every answer and output. This call, with its arguments, is
 * what is timed. All readings are there and good; depth, bilge and wind are in tenths.
 * board_answers  writes the present answers as bytes, in the order of enum board_answer. Not timed.
 */
#ifndef BOARD_H
#define BOARD_H

#include <stdint.h>

typedef struct {
    uint32_t now_ms;
    int16_t depth, bilge, wind; /* 0.1 cm, 0.1 cm, 0.1 m/s */
    int16_t rocking;            /* mg */
    uint8_t key;                /* 0 or 1 */
} board_readings;

enum { BOARD_UNSURE = 255 };

/* tide, breeze: 0 to 4 in the order of board.gate. Yes is 1, no is 0. Unsure is 255. */
enum board_answer {
    ANSWER_TIDE,
    ANSWER_BREEZE,
    ANSWER_PUMPING,
    ANSWER_ROUGH,
    ANSWER_GALE,
    ANSWER_MAY_LAND,
    ANSWER_ALARM,
    ANSWER_LANDINGS,  /* the count */
    ANSWER_GREEN,     /* per cent */
    ANSWER_PUMP,      /* per cent, forward */
    ANSWER_HORN,      /* 0 quiet, 88 for 880 Hz */
    ANSWER_FLAGSTAFF, /* degrees */
    BOARD_ANSWERS
};

enum { BOARD_STEPS = 600 };

/* The readings of a step, from 0 on: not timed. */
void board_read(uint16_t step, board_readings *now);

void board_start(void);
void board_step(const board_readings *now);
void board_answers(uint8_t answers[BOARD_ANSWERS]);

#endif
