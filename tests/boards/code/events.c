/* SPDX-License-Identifier: MIT */
/* events GATE units|counts: readings that sit on, one step below and one step above every limit of a gate, with and
 * without its margin, with faults, late steps and numbers far out in between; one event a line:
 *
 *     F sensor value     C sensor counts     X sensor (a fault)     B flag 0|1     Y flag (a fault)     T ms: a step,
 *     and so much later the next     O ms: up to then readings are stamped so much later than it (both modulo 2^32)
 *     P 0|1: the power is lost, and comes back with what was saved (1: that is damaged)
 *     W 0: what comes up to the next T, and that step, is only tried and then undone
 *
 * What is tried is a reading of a sensor or flag that is faulty at that step: what would the gate have done with it?
 * `counts`: sensors that have a converter are fed with counts only. */
#include <ficklegate/workshop.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { SENSORS_MOST = 64, LIMITS_MOST = 1000 };

typedef struct limit {
    uint16_t sensor;
    fg_value value;
} limit;

typedef struct maker {
    const fg_gate *gate;
    bool counts;
    uint32_t random;
    limit limits[LIMITS_MOST];
    size_t limit_count;
    uint8_t dead_for[SENSORS_MOST]; /* steps to come at which the sensor sends nothing but faults */
    bool sensor_lost[SENSORS_MOST], flag_lost[SENSORS_MOST];
} maker;

static uint32_t dice(maker *m, uint32_t sides)
{
    m->random ^= m->random << 13; /* xorshift (Marsaglia 2003) */
    m->random ^= m->random >> 17;
    m->random ^= m->random << 5;
    return sides ? m->random % sides : 0;
}

static bool is_fed(const maker *m, uint16_t sensor) { return !m->gate->sensors[sensor].term_count; }

/* Counts that come closest to a value: where the scale reaches it. */
static int32_t counts_near(const fg_sensor *s, fg_value wanted)
{
    fg_value best = 0;
    int32_t found = 0;
    for (int32_t counts = -400; counts < 1500; counts++) {
        fg_value value;
        if (!fg_scale_value(s->scale, s->scale_count, counts, &value)) continue;
        if (counts == -400 || llabs((long long)value - wanted) < llabs((long long)best - wanted)) {
            best = value;
            found = counts;
        }
    }
    return found;
}

static void print_reading(maker *m, uint16_t sensor, fg_value value)
{
    const fg_sensor *s = &m->gate->sensors[sensor];
    if (m->counts && s->scale_count)
        printf("C %u %" PRId32 "\n", sensor, counts_near(s, value) + (int32_t)dice(m, 3) - 1);
    else
        printf("F %u %" PRId32 "\n", sensor, value);
}

static void feed(maker *m, uint16_t sensor, fg_value value)
{
    if (!is_fed(m, sensor) || m->dead_for[sensor]) return;
    print_reading(m, sensor, value);
    m->sensor_lost[sensor] = false;
}

static void feed_fault(maker *m, uint16_t sensor)
{
    if (!is_fed(m, sensor)) return;
    printf("X %u\n", sensor);
    m->sensor_lost[sensor] = true;
    if (dice(m, 3) == 0) m->dead_for[sensor] = (uint8_t)(10 + dice(m, 60));
}

/* Far out: what 16 bits do not hold, and the ends of 32. */
static void feed_far(maker *m, uint16_t sensor)
{
    static const int32_t far_out[] = {INT32_MIN, INT32_MIN + 1, -40000, -32769, -32768,        -32767,
                                      32766,     32767,         32768,  50000,  INT32_MAX - 1, INT32_MAX};
    if (!is_fed(m, sensor) || m->dead_for[sensor]) return;
    const bool counts = m->counts && m->gate->sensors[sensor].scale_count;
    printf("%c %u %" PRId32 "\n", counts ? 'C' : 'F', sensor, far_out[dice(m, sizeof far_out / sizeof *far_out)]);
}

/* A sensor that says nothing says something at this one step: a number beside a limit, its own or that of a rule on a
 * sensor worked out from it. */
static void try_sensor(maker *m, uint16_t sensor)
{
    const limit *l = m->limit_count ? &m->limits[dice(m, (uint32_t)m->limit_count)] : NULL;
    const bool own = l && (l->sensor == sensor || dice(m, 4) == 0);
    printf("W 0\n");
    print_reading(m, sensor, own ? l->value - 1 + (fg_value)dice(m, 3) : (fg_value)dice(m, 3000) - 300);
    printf("T 0\n");
}

static void try_lost(maker *m)
{
    for (uint16_t i = 0; i < m->gate->size.sensors; i++) {
        if (!is_fed(m, i) || !m->sensor_lost[i]) continue;
        for (uint32_t n = dice(m, 3); n; n--) try_sensor(m, i);
    }
    for (uint16_t i = 0; i < m->gate->size.flags; i++)
        if (m->flag_lost[i] && dice(m, 2)) printf("W 0\nB %u %u\nT 0\n", i, dice(m, 2));
}

static void lose_power(maker *m)
{
    printf("P %d\n", dice(m, 4) == 0);
    memset(m->sensor_lost, true, sizeof m->sensor_lost);
    memset(m->flag_lost, true, sizeof m->flag_lost);
}

static void step(maker *m)
{
    static const uint32_t late[] = {32767, 32768, 33000, 40123, 65535, 65536, 100000, 5000001, 90000003, 2073600001};
    uint32_t ms = 50 + 50 * dice(m, 6);
    if (dice(m, 4) == 0) ms = 250 * (1 + dice(m, 8));
    if (dice(m, 60) == 0) ms = late[dice(m, sizeof late / sizeof *late)];
    if (dice(m, 50) == 0) ms = dice(m, 20000);
    if (dice(m, 5) == 0) ms += dice(m, 3) - 1; /* a wait ends a moment before its time, or behind it */
    if (dice(m, 40) == 0) ms = 0u - 1 - (dice(m, 3) ? 0 : dice(m, 6000)); /* the clock jumps back */
    try_lost(m);
    printf("T %" PRIu32 "\n", ms);
    for (uint16_t i = 0; i < m->gate->size.sensors; i++) m->dead_for[i] -= m->dead_for[i] > 0;
    if (dice(m, 150) == 0) lose_power(m);
    if (dice(m, 8) == 0) printf("O %" PRIu32 "\n", dice(m, 6000) - 3000); /* read before the step, or behind it */
}

static void flags(maker *m)
{
    const uint16_t count = m->gate->size.flags;
    if (!count) return;
    const uint16_t flag = (uint16_t)dice(m, count);
    if (dice(m, 4) == 0) {
        printf("B %u %u\n", flag, dice(m, 2));
        m->flag_lost[flag] = false;
    }
    if (dice(m, 40) == 0) {
        printf("Y %u\n", flag);
        m->flag_lost[flag] = true;
    }
}

static void around(maker *m, limit l)
{
    for (int i = 0; i < 6; i++) {
        feed(m, l.sensor, l.value - 1 + (fg_value)dice(m, 3));
        if (dice(m, 16) == 0) feed_fault(m, l.sensor);
        if (dice(m, 30) == 0) feed_far(m, l.sensor);
        flags(m);
        if (dice(m, 3) == 0) {
            const uint16_t other = (uint16_t)dice(m, m->gate->size.sensors);
            feed(m, other, (fg_value)dice(m, 3000) - 300);
        }
        step(m);
    }
}

/* ---- the limits of a gate ---- */

static void add_limit(maker *m, uint16_t sensor, fg_value value)
{
    if (value == INT32_MIN || value == INT32_MAX || m->limit_count == LIMITS_MOST) return;
    m->limits[m->limit_count++] = (limit){sensor, value};
}

static void add_range(maker *m, uint16_t sensor, const fg_range *range)
{
    add_limit(m, sensor, range->low);
    add_limit(m, sensor, range->high);
}

static void add_rule(maker *m, const fg_op *op)
{
    const fg_gate *g = m->gate;
    if (op->kind == FG_OP_THRESHOLD) {
        add_range(m, op->a, &g->thresholds[op->rule].range);
        add_range(m, op->a, &g->thresholds[op->rule].kept);
    } else if (op->kind == FG_OP_HYSTERESIS) {
        add_range(m, op->a, &g->hysteresis[op->rule].on);
        add_range(m, op->a, &g->hysteresis[op->rule].off);
    } else if (op->kind == FG_OP_COMPARE) {
        add_range(m, op->a, &g->compares[op->rule].range);
    } else if (op->kind == FG_OP_BANDS) {
        for (uint16_t i = 0; i < g->bands[op->rule].count; i++) {
            add_range(m, op->a, &g->bands[op->rule].bands[i].range);
            add_range(m, op->a, &g->bands[op->rule].bands[i].kept);
        }
    } else if (op->kind == FG_OP_SENSOR && g->sensors[op->rule].trust != FG_TRUST_ALL) {
        add_range(m, op->rule, &g->sensors[op->rule].trusted);
    }
}

int main(int argc, char **argv)
{
    static fg_gate_file file;
    fg_mistake mistake = {0};
    if (argc < 3 || fg_gate_file_open(&file, argv[1], (fg_settings){0}, &mistake) != FG_OK || file.program.error_count)
        return 2;
    static maker m = {.random = 2463534242u};
    m.gate = &file.program.gate;
    m.counts = !strcmp(argv[2], "counts");
    if (m.gate->size.sensors > SENSORS_MOST || m.gate->size.flags > SENSORS_MOST) return 2;
    for (uint16_t i = 0; i < m.gate->size.sensors; i++) m.sensor_lost[i] = true;
    for (uint16_t i = 0; i < m.gate->size.flags; i++) m.flag_lost[i] = true;
    for (uint16_t i = 0; i < m.gate->size.ops; i++) add_rule(&m, &m.gate->ops[i]);
    const int rounds = argc > 3 ? atoi(argv[3]) : 3;
    for (int round = 0; round < rounds; round++) {
        for (size_t i = 0; i < m.limit_count; i++) around(&m, m.limits[i]);
        for (int i = 0; i < 40; i++) { /* flags and the clock alone */
            flags(&m);
            step(&m);
        }
    }
    fg_gate_file_close(&file);
    return 0;
}
