/* SPDX-License-Identifier: MIT */
#include "small_gate.h"

#ifndef SMALL_GATE_NO_TEXT
const char small_gate_text[] =
    "sensor depth { unit cm; step 0.1; raw 0..1023 reads 0..250; trust 4..246 }\n"
    "sensor bilge { unit cm; step 0.1 }\n"
    "sensor wind  { unit m/s; step 0.1 }\n"
    "sensor vane  { unit deg; circle 360 }\n"
    "flag key\n"
    "bands tide from depth { aground | 20 | shallow | 60 | fair | 140 | high; margin 3; settle 2s }\n"
    "bands wind_from from vane { onshore | 50 | along | 140 | offshore | 320; margin 5 }\n"
    "threshold gale from wind { over 14; margin 1; settle 3s }\n"
    "hysteresis pumping from bilge { on over 12; off under 5 }\n"
    "condition may_land = key and tide is fair or high and not gale\n"
    "lamp green { on when may_land; on amber 40% if unsure }\n"
    "relay boom { on when gale or tide is aground }\n"
    "buzzer horn { 880Hz when gale and wind_from is onshore; 440Hz 30% when depth faulty }\n"
    "motor pump { forward 80% when pumping; stop if unsure; back 10% when bilge under 2 }\n";
#endif

static const fg_scale_piece depth_scale[] = {{2500, 0, 1023, INT32_MAX}};

static const fg_sensor sensors[] = {
    {.scale = depth_scale, .scale_count = 1, .decimals = 1, .trust = FG_TRUST_RANGE, .trusted = {40, 2460}},
    {.decimals = 1},
    {.decimals = 1},
    {.circle = 360},
};
static const fg_flag flags[] = {{.inverted = false}};

static const fg_band tides[] = {FG_BAND_UNDER(200, 30, 0), FG_BAND(200, 599, 30, 1), FG_BAND(600, 1399, 30, 2),
                                FG_BAND_FROM(1400, 30, 3)};
static const fg_band winds[] = {
    {{50, 139}, {45, 144}, FG_LABEL(1)}, {{140, 319}, {135, 324}, FG_LABEL(2)}, {{320, 49}, {315, 54}, FG_LABEL(0)}};
static const fg_bands bands[] = {{tides, 4, FG_NONE, true, FG_SETTLE(2000)}, {winds, 3, FG_NONE, true, FG_SETTLE_NONE}};
static const fg_threshold thresholds[] = {{FG_RANGE_OVER(140), FG_RANGE_OVER(130), FG_SETTLE(3000), false}};
static const fg_hysteresis hysteresis[] = {FG_HYSTERESIS_ON_OVER(120, 50)};
static const fg_verdict labels[] = {FG_LABEL(2), FG_LABEL(3), FG_LABEL(0), FG_LABEL(0)};
static const fg_compare compares[] = {{FG_RANGE_UNDER(20), false}};

static const fg_op ops[] = {
    {FG_OP_SENSOR, 0, SMALL_DEPTH, 0, 0},        /* 0 */
    {FG_OP_SENSOR, 0, SMALL_BILGE, 0, 0},        /* 1 */
    {FG_OP_SENSOR, 0, SMALL_WIND, 0, 0},         /* 2 */
    {FG_OP_SENSOR, 0, SMALL_VANE, 0, 0},         /* 3 */
    {FG_OP_FLAG, 0, 0, 0, 0},                    /* 4: key */
    {FG_OP_BANDS, 0, 0, SMALL_DEPTH, 0},         /* 5: tide */
    {FG_OP_BANDS, 0, 1, SMALL_VANE, 0},          /* 6: wind_from */
    {FG_OP_THRESHOLD, 0, 0, SMALL_WIND, 0},      /* 7: gale */
    {FG_OP_HYSTERESIS, 0, 0, SMALL_BILGE, 0},    /* 8: pumping */
    {FG_OP_IS, 0, 0, 5, 2},                      /* 9: tide is fair or high */
    {FG_OP_AND, 0, 0, 4, 9},                     /* 10: key and 9 */
    {FG_OP_NOT, 0, 0, 7, 0},                     /* 11: not gale */
    {FG_OP_AND, 0, 0, 10, 11},                   /* 12: may_land */
    {FG_OP_IS, 0, 2, 5, 1},                      /* 13: tide is aground */
    {FG_OP_OR, 0, 0, 7, 13},                     /* 14: gale or 13 */
    {FG_OP_IS, 0, 3, 6, 1},                      /* 15: wind_from is onshore */
    {FG_OP_AND, 0, 0, 7, 15},                    /* 16: gale and 15 */
    {FG_OP_SENSOR_FAULTY, 0, SMALL_DEPTH, 0, 0}, /* 17 */
    {FG_OP_COMPARE, 0, 0, SMALL_BILGE, 0},       /* 18: bilge under 2 */
    {FG_OP_OUTPUT, 0, SMALL_GREEN, 0, 0},        /* 19 */
    {FG_OP_OUTPUT, 0, SMALL_BOOM, 0, 0},         /* 20 */
    {FG_OP_OUTPUT, 0, SMALL_HORN, 0, 0},         /* 21 */
    {FG_OP_OUTPUT, 0, SMALL_PUMP, 0, 0},         /* 22 */
};

static const fg_row rows[] = {
    {.level = {FG_FORM_ON, 100, 0, 0}, .slot = 12, .when = FG_ROW_WHEN},
    {.level = {FG_FORM_ON, 40, 0, FG_COLOUR(FG_COLOUR_NAMED, 0xffbf00)}, .when = FG_ROW_IF_UNSURE},
    {.level = {FG_FORM_ON, 100, 0, 0}, .slot = 14, .when = FG_ROW_WHEN},
    {.level = {FG_FORM_TONE, 100, 880, 0}, .slot = 16, .when = FG_ROW_WHEN},
    {.level = {FG_FORM_TONE, 30, 440, 0}, .slot = 17, .when = FG_ROW_WHEN},
    {.level = {FG_FORM_FORWARD, 80, 0, 0}, .slot = 8, .when = FG_ROW_WHEN},
    {.level = {FG_FORM_STOP, 0, 0, 0}, .when = FG_ROW_IF_UNSURE},
    {.level = {FG_FORM_BACK, 10, 0, 0}, .slot = 18, .when = FG_ROW_WHEN},
};
static const fg_output outputs[] = {
    {.first_row = 0, .row_count = 2, .kind = FG_OUTPUT_LAMP, .rest = {.form = FG_FORM_OFF}},
    {.first_row = 2, .row_count = 1, .kind = FG_OUTPUT_RELAY, .guarded = true, .rest = {.form = FG_FORM_OFF}},
    {.first_row = 3, .row_count = 2, .kind = FG_OUTPUT_BUZZER, .rest = {.form = FG_FORM_QUIET}},
    {.first_row = 5, .row_count = 3, .kind = FG_OUTPUT_MOTOR, .guarded = true, .rest = {.form = FG_FORM_STOP}},
};

const fg_gate small_gate = {
    .form = FG_GATE_FORM,
    .bytes = FG_GATE_BYTES,
    .size = {.ops = sizeof ops / sizeof *ops,
             .sensors = SMALL_SENSORS,
             .flags = 1,
             .thresholds = 1,
             .hysteresis = 1,
             .bands = 2,
             .outputs = SMALL_OUTPUTS},
    .ops = ops,
    .labels = labels,
    .compares = compares,
    .sensors = sensors,
    .flags = flags,
    .thresholds = thresholds,
    .hysteresis = hysteresis,
    .bands = bands,
    .rows = rows,
    .outputs = outputs,
};

/* ---- readings around every limit ---- */

typedef struct player {
    const fg_gate *gate;
    fg_run *run;
    fg_time now;
    uint32_t hash, random, steps;
} player;

static void mix(player *p, uint32_t byte) { p->hash = (p->hash ^ (byte & 0xffu)) * 16777619u; }

static uint32_t dice(player *p, uint32_t sides)
{
    p->random ^= p->random << 13;
    p->random ^= p->random >> 17;
    p->random ^= p->random << 5;
    return sides ? p->random % sides : 0; /* a gate without flags */
}

static void step(player *p)
{
    fg_step(p->run, p->now);
    for (uint16_t i = 0; i < p->gate->size.ops; i++) mix(p, fg_answer(p->run, i));
    for (uint16_t i = 0; i < p->gate->size.outputs; i++) {
        const fg_level *level = &fg_output_at(p->run, i)->level;
        mix(p, level->form);
        mix(p, level->percent);
        mix(p, (uint32_t)level->number);
        mix(p, level->colour >> 8);
        for (uint8_t line = 0; line < p->gate->outputs[i].lines; line++) {
            const fg_text text = fg_display_line(p->run, i, line);
            for (uint16_t k = 0; k < text.size; k++) mix(p, (unsigned char)text.at[k]);
        }
    }
    for (uint16_t i = 0; i < p->gate->size.counters; i++) mix(p, (uint32_t)fg_count_value(p->run, i));
    for (uint16_t i = 0; i < p->gate->size.sensors; i++) {
        fg_value value = 0;
        if (fg_sensor_value(p->run, i, &value)) mix(p, (uint32_t)value);
    }
    p->now += 250 + 250 * dice(p, 8);
    p->steps++;
}

/* A reading just below, on and just above a limit, now and then with a fault in between; the waits run out or do not.
 */
static void around(player *p, uint16_t sensor, fg_value limit)
{
    if (limit == INT32_MIN || limit == INT32_MAX) return;
    for (int i = 0; i < 6; i++) {
        fg_feed(p->run, sensor, limit - 1 + (fg_value)dice(p, 3), p->now);
        if (dice(p, 16) == 0) fg_feed_fault(p->run, sensor, p->now);
        const uint16_t flag = (uint16_t)dice(p, p->gate->size.flags);
        if (dice(p, 4) == 0) fg_feed_flag(p->run, flag, dice(p, 2) != 0, p->now);
        if (dice(p, 40) == 0) fg_feed_flag_fault(p->run, flag, p->now);
        if (p->gate->sensors[sensor].scale_count && dice(p, 8) == 0)
            fg_feed_counts(p->run, sensor, (int32_t)dice(p, 1100), p->now);
        if (dice(p, 3) == 0) { /* something else moves too */
            const uint16_t other = (uint16_t)dice(p, p->gate->size.sensors);
            fg_feed(p->run, other, (fg_value)dice(p, 3000) - 300, p->now);
        }
        step(p);
    }
}

static void around_range(player *p, uint16_t sensor, const fg_range *range)
{
    around(p, sensor, range->low);
    around(p, sensor, range->high);
}

static void around_rule(player *p, const fg_op *op)
{
    const fg_gate *gate = p->gate;
    if (op->kind == FG_OP_THRESHOLD) {
        around_range(p, op->a, &gate->thresholds[op->rule].range);
        around_range(p, op->a, &gate->thresholds[op->rule].kept);
    } else if (op->kind == FG_OP_HYSTERESIS) {
        around_range(p, op->a, &gate->hysteresis[op->rule].on);
        around_range(p, op->a, &gate->hysteresis[op->rule].off);
    } else if (op->kind == FG_OP_COMPARE) {
        around_range(p, op->a, &gate->compares[op->rule].range);
    } else if (op->kind == FG_OP_BANDS) {
        for (uint16_t i = 0; i < gate->bands[op->rule].count; i++) {
            around_range(p, op->a, &gate->bands[op->rule].bands[i].range);
            around_range(p, op->a, &gate->bands[op->rule].bands[i].kept);
        }
    } else if (op->kind == FG_OP_SENSOR && gate->sensors[op->rule].trust != FG_TRUST_ALL) {
        around_range(p, op->rule, &gate->sensors[op->rule].trusted);
    }
}

uint32_t small_gate_hash(const fg_gate *gate, fg_run *run, fg_time from)
{
    player p = {gate, run, from, 2166136261u, 2463534242u, 0};
    for (int round = 0; round < 3; round++)
        for (uint16_t i = 0; i < gate->size.ops; i++) around_rule(&p, &gate->ops[i]);
    return p.hash;
}
