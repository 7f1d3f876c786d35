/* SPDX-License-Identifier: MIT */
/* The baked gate behind the three functions of board.h. */
#include "board.h"
#include "board_gate.h"

static board_gate_state gate;

void board_start(void) { board_gate_start(&gate); }

void board_step(const board_readings *now)
{
    board_gate_feed(&gate, BOARD_GATE_SENSOR_DEPTH, now->depth, now->now_ms);
    board_gate_feed(&gate, BOARD_GATE_SENSOR_BILGE, now->bilge, now->now_ms);
    board_gate_feed(&gate, BOARD_GATE_SENSOR_WIND, now->wind, now->now_ms);
    board_gate_feed(&gate, BOARD_GATE_SENSOR_ROCKING, now->rocking, now->now_ms);
    board_gate_feed_flag(&gate, BOARD_GATE_FLAG_KEY, now->key, now->now_ms);
    board_gate_step(&gate, now->now_ms);
}

/* Labels, yes and no count from 1, unsure is 0; here they count from 0, and unsure is 255. */
#define SURE(answer) ((uint8_t)(board_gate_answer(&gate, answer) - 1))

void board_answers(uint8_t answers[BOARD_ANSWERS])
{
    answers[ANSWER_TIDE] = SURE(BOARD_GATE_ANSWER_TIDE);
    answers[ANSWER_BREEZE] = SURE(BOARD_GATE_ANSWER_BREEZE);
    answers[ANSWER_PUMPING] = SURE(BOARD_GATE_ANSWER_PUMPING);
    answers[ANSWER_ROUGH] = SURE(BOARD_GATE_ANSWER_ROUGH);
    answers[ANSWER_GALE] = SURE(BOARD_GATE_ANSWER_GALE);
    answers[ANSWER_MAY_LAND] = SURE(BOARD_GATE_ANSWER_MAY_LAND);
    answers[ANSWER_ALARM] = SURE(BOARD_GATE_ANSWER_ALARM);
    answers[ANSWER_LANDINGS] = (uint8_t)board_gate_count(&gate, BOARD_GATE_COUNT_LANDINGS);
    answers[ANSWER_GREEN] = (uint8_t)board_gate_level(&gate, BOARD_GATE_OUTPUT_GREEN);
    answers[ANSWER_PUMP] = (uint8_t)board_gate_level(&gate, BOARD_GATE_OUTPUT_PUMP);
    answers[ANSWER_HORN] = board_gate_level(&gate, BOARD_GATE_OUTPUT_HORN) ? 88 : 0;
    answers[ANSWER_FLAGSTAFF] = (uint8_t)board_gate_level(&gate, BOARD_GATE_OUTPUT_FLAGSTAFF);
}
