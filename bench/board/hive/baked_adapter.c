/* SPDX-License-Identifier: MIT */
/* The baked gate behind the three functions of board.h. */
#include "board.h"
#include "board_gate.h"

static board_gate_state gate;

void board_start(void) { board_gate_start(&gate); }

void board_step(const board_readings *now)
{
    board_gate_feed(&gate, BOARD_GATE_SENSOR_LEFT, now->left, now->now_ms);
    board_gate_feed(&gate, BOARD_GATE_SENSOR_RIGHT, now->right, now->now_ms);
    board_gate_feed_flag(&gate, BOARD_GATE_FLAG_LID, now->lid, now->now_ms);
    board_gate_step(&gate, now->now_ms);
}

/* Labels, yes and no count from 1, unsure is 0; here they count from 0, and unsure is 255. */
#define SURE(answer) ((uint8_t)(board_gate_answer(&gate, answer) - 1))

void board_answers(uint8_t answers[BOARD_ANSWERS])
{
    answers[ANSWER_STATE] = SURE(BOARD_GATE_ANSWER_STATE);
    answers[ANSWER_LEANING] = SURE(BOARD_GATE_ANSWER_LEANING);
    answers[ANSWER_HEAVY] = SURE(BOARD_GATE_ANSWER_HEAVY);
    answers[ANSWER_SMOKE] = SURE(BOARD_GATE_ANSWER_SMOKE);
    answers[ANSWER_OPENED] = (uint8_t)board_gate_count(&gate, BOARD_GATE_COUNT_OPENED);
    answers[ANSWER_BELL] = (uint8_t)(board_gate_level(&gate, BOARD_GATE_OUTPUT_BELL) / 10);
    answers[ANSWER_BEACON] = (uint8_t)board_gate_level(&gate, BOARD_GATE_OUTPUT_BEACON);
    answers[ANSWER_VENT] = (uint8_t)board_gate_level(&gate, BOARD_GATE_OUTPUT_VENT);
    answers[ANSWER_GAUGE] = (uint8_t)board_gate_level(&gate, BOARD_GATE_OUTPUT_GAUGE);
}
