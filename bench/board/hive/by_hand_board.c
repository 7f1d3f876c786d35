/* SPDX-License-Identifier: MIT */
/* board.gate as a careful maker writes it for an 8-bit board: no library, no floats, 16-bit numbers where they do.
 * Times are the lower 16 bits of the clock: fine as long as steps are less than a minute apart. It relies on every
 * reading being there. */
#include "board.h"

enum { NO, YES, UNSURE = BOARD_UNSURE };
enum { EMPTY, LIGHT, GOOD, FULL };

static const int16_t cuts[3] = {100, 250, 600};

static uint8_t state, leaning, heavy, heavy_next, smoke, spent_lid, opened, ring_on, blinks, bell, beacon, vent, gauge;
static uint16_t heavy_since, smoke_since, ring_at, blink_since, last;

void board_start(void)
{
    state = heavy = heavy_next = spent_lid = UNSURE;
    leaning = smoke = opened = ring_on = blinks = bell = beacon = vent = gauge = NO;
}

static void step_state(int16_t hive)
{
    uint8_t band = 0;
    if (state != UNSURE && (state == EMPTY || hive >= cuts[state - 1] - 5) && (state == FULL || hive < cuts[state] + 5))
        return;
    while (band < 3 && hive >= cuts[band]) band++;
    state = band;
}

static void step_heavy(int16_t hive, uint16_t now)
{
    const uint8_t answer = hive >= 750;
    if (answer == heavy) {
        heavy_next = UNSURE;
        return;
    }
    if (answer != heavy_next) {
        heavy_next = answer;
        heavy_since = now;
    }
    if ((uint16_t)(now - heavy_since) < 1000) return;
    heavy = answer;
    heavy_next = UNSURE;
}

void board_step(const board_readings *r)
{
    const uint16_t now = (uint16_t)r->now_ms, passed = (uint16_t)(now - last);
    const int16_t hive = r->left + r->right - 120;
    int16_t lean = r->left - r->right;
    const uint8_t starts = r->lid && spent_lid == NO;
    uint16_t at;
    last = now;
    spent_lid = r->lid;
    if (lean < 0) lean = -lean;

    step_state(hive);
    step_heavy(hive, now);

    if (lean > 80)
        leaning = YES;
    else if (lean < 50)
        leaning = NO;

    if (smoke && (heavy != NO || (uint16_t)(now - smoke_since) >= 2000)) smoke = NO;
    if (starts && heavy == NO && !smoke) {
        smoke = YES;
        smoke_since = now;
    }
    if (starts && opened < 99) opened++;

    if (!smoke) {
        bell = 0;
        ring_on = NO;
    } else {
        if (!ring_on) {
            ring_on = YES;
            ring_at = 0;
        } else if (ring_at < 2000) {
            ring_at += passed;
        }
        at = ring_at >= 1000 ? ring_at - 1000 : ring_at;
        bell = at < 250 ? 88 : at < 500 ? 0 : at < 1000 ? 66 : 0;
    }

    if (leaning) {
        if (!blinks) {
            blinks = YES;
            blink_since = now;
        }
        while ((uint16_t)(now - blink_since) >= 500) blink_since += 500;
        beacon = (uint16_t)(now - blink_since) < 200 ? 100 : 0;
    } else {
        blinks = NO;
        beacon = heavy == YES ? 100 : 0;
    }

    vent = state == FULL && !r->lid ? 100 : 0;
    at = hive < 0 ? 0 : hive > 800 ? 800 : (uint16_t)hive;
    gauge = (uint8_t)((at * 9 + 20) / 40);
}

void board_answers(uint8_t a[BOARD_ANSWERS])
{
    a[ANSWER_STATE] = state;
    a[ANSWER_LEANING] = leaning;
    a[ANSWER_HEAVY] = heavy;
    a[ANSWER_SMOKE] = smoke;
    a[ANSWER_OPENED] = opened;
    a[ANSWER_BELL] = bell;
    a[ANSWER_BEACON] = beacon;
    a[ANSWER_VENT] = vent;
    a[ANSWER_GAUGE] = gauge;
}
