/* SPDX-License-Identifier: MIT */
/* board.gate as a careful maker writes it for an 8-bit board: no library, no floats, 16-bit numbers where they do.
 *
 * Times are the lower 16 bits of the clock: fine as long as steps are less than a minute apart. It relies on every
 * reading being there.
 */
#include "board.h"

enum { NO, YES, UNSURE = BOARD_UNSURE };
enum { AGROUND, SHALLOW, FAIR, HIGH, FLOOD };
enum { CALM, LIGHT, FRESH, STRONG, STORM };

typedef struct {
    uint8_t is;
    uint8_t next; /* what is settling, or UNSURE */
    uint16_t since;
    int16_t keep_from, keep_to; /* readings that keep the present band, both ends in */
} band_rule;

static const int16_t tide_cuts[4] = {200, 600, 1400, 1900};
static const int16_t breeze_cuts[4] = {20, 60, 110, 170};

static band_rule tide, breeze;
static uint8_t pumping, rough, alarm, raised, key, landings, horn;
static uint8_t gale, gale_next, may_land, last_sure;
static uint16_t gale_since, horn_since;
static uint8_t green, pump, flagstaff;

static void forget_band(band_rule *r)
{
    r->is = r->next = UNSURE;
    r->keep_from = INT16_MAX;
    r->keep_to = INT16_MIN;
}

static void step_band(band_rule *r, int16_t reading, uint16_t now, const int16_t *cuts, int16_t margin)
{
    uint8_t band = 0;
    if (reading >= r->keep_from && reading <= r->keep_to) {
        r->next = UNSURE;
        return;
    }
    while (band < 4 && reading >= cuts[band]) band++;
    if (band != r->next) {
        r->next = band;
        r->since = now;
    }
    if ((uint16_t)(now - r->since) < 2000) return;
    r->is = band;
    r->next = UNSURE;
    r->keep_from = band > 0 ? (int16_t)(cuts[band - 1] - margin) : INT16_MIN;
    r->keep_to = band < 4 ? (int16_t)(cuts[band] + margin - 1) : INT16_MAX;
}

void board_start(void)
{
    forget_band(&tide);
    forget_band(&breeze);
    gale = gale_next = may_land = last_sure = UNSURE;
    pumping = rough = alarm = raised = landings = horn = NO;
    key = UNSURE;
}

void board_step(const board_readings *r)
{
    uint16_t now = (uint16_t)r->now_ms;
    uint8_t key_starts = r->key && key == NO;
    uint8_t answer;
    key = r->key;

    step_band(&tide, r->depth, now, tide_cuts, 30);
    step_band(&breeze, r->wind, now, breeze_cuts, 5);

    if (r->bilge > 120)
        pumping = YES;
    else if (r->bilge < 50)
        pumping = NO;

    if (r->rocking > 1200)
        rough = YES;
    else if (r->rocking < 1100)
        rough = NO;

    answer = r->wind > 140;
    if (answer == gale) {
        gale_next = UNSURE;
    } else {
        if (answer != gale_next) {
            gale_next = answer;
            gale_since = now;
        }
        if ((uint16_t)(now - gale_since) >= 3000) {
            gale = answer;
            gale_next = UNSURE;
        }
    }

    if (!key || gale == YES || (tide.is != FAIR && tide.is != UNSURE))
        may_land = NO;
    else if (gale == UNSURE || tide.is == UNSURE)
        may_land = UNSURE;
    else
        may_land = YES;

    if (may_land != UNSURE) {
        if (may_land && last_sure == NO && landings < 8) landings++;
        last_sure = may_land;
    }

    answer = alarm;
    if (tide.is == AGROUND || breeze.is == STORM) {
        alarm = raised = YES;
    } else if (tide.is == UNSURE || breeze.is == UNSURE) { /* it may have to be raised */
        alarm = raised && !key_starts ? YES : UNSURE;
    } else {
        if (key_starts) raised = NO;
        alarm = raised;
    }

    green = may_land == YES ? 100 : rough ? 30 : 0;
    pump = pumping ? 80 : 0;
    if (alarm != YES) {
        horn = NO;
    } else if (answer != YES) {
        horn = YES;
        horn_since = now;
    } else {
        while ((uint16_t)(now - horn_since) >= 250) {
            horn = !horn;
            horn_since += 250;
        }
    }
    flagstaff = (uint8_t)(15 + (landings * 75 + 2) / 4);
}

void board_answers(uint8_t a[BOARD_ANSWERS])
{
    a[ANSWER_TIDE] = tide.is;
    a[ANSWER_BREEZE] = breeze.is;
    a[ANSWER_PUMPING] = pumping;
    a[ANSWER_ROUGH] = rough;
    a[ANSWER_GALE] = gale;
    a[ANSWER_MAY_LAND] = may_land;
    a[ANSWER_ALARM] = alarm;
    a[ANSWER_LANDINGS] = landings;
    a[ANSWER_GREEN] = green;
    a[ANSWER_PUMP] = pump;
    a[ANSWER_HORN] = horn ? 88 : 0;
    a[ANSWER_FLAGSTAFF] = flagstaff;
}
