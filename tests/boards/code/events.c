/* SPDX-License-Identifier: MIT */
/* events GATE units|counts [ROUNDS [aim]]: readings that sit on, one step below and one step above every limit of a
 * gate, with and without its margin, with faults, late steps and numbers far out in between; one event a line:
 *
 *     F sensor value     C sensor counts     X sensor (a fault)     B flag 0|1     Y flag (a fault)     T ms: a step,
 *     and so much later the next     O ms: up to then readings are stamped so much later than it (both modulo 2^32)
 *     P 0|1: the power is lost, and comes back with what was saved (1: that is damaged)
 *     W 0: what comes up to the next T, and that step, is only tried and then undone
 *
 * What is tried is a reading of a sensor or flag that is faulty at that step: what would the gate have done with it?
 * `counts`: sensors that have a converter are fed with counts only. `aim`: readings are looked for that bring the value
 * that a rule sees, behind smoothing, zero and sums, on the limit and one step to either side; with AIMED set in the
 * environment it says how many of all there are were met. */
#include "events.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* ---- what happens ---- */

static uint32_t dice(maker *m, uint32_t sides)
{
    m->random ^= m->random << 13; /* xorshift (Marsaglia 2003) */
    m->random ^= m->random >> 17;
    m->random ^= m->random << 5;
    return sides ? m->random % sides : 0;
}

static void print_reading(const maker *m, uint16_t sensor, fg_value value)
{
    const bool counts = events_takes_counts(m, sensor);
    printf("%c %u %" PRId32 "\n", counts ? 'C' : 'F', sensor, counts ? events_counts_near(m, sensor, value) : value);
}

static void feed(maker *m, uint16_t sensor, fg_value value)
{
    if (!events_is_fed(m, sensor) || m->dead_for[sensor]) return;
    const bool counts = events_takes_counts(m, sensor);
    events_feed(m, sensor, counts ? events_counts_near(m, sensor, value) + (int32_t)dice(m, 3) - 1 : value);
}

static void feed_fault(maker *m, uint16_t sensor)
{
    if (!events_is_fed(m, sensor)) return;
    events_fault(m, sensor);
    if (dice(m, 3) == 0) m->dead_for[sensor] = (uint8_t)(10 + dice(m, 60));
}

/* Far out: what 16 bits do not hold, and the ends of 32. */
static void feed_far(maker *m, uint16_t sensor)
{
    static const int32_t far_out[] = {INT32_MIN, INT32_MIN + 1, -40000, -32769, -32768,        -32767,
                                      32766,     32767,         32768,  50000,  INT32_MAX - 1, INT32_MAX};
    if (!events_is_fed(m, sensor) || m->dead_for[sensor]) return;
    events_feed(m, sensor, far_out[dice(m, sizeof far_out / sizeof *far_out)]);
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
        if (!events_is_fed(m, i) || !m->sensor_lost[i]) continue;
        for (uint32_t n = dice(m, 3); n; n--) try_sensor(m, i);
    }
    for (uint16_t i = 0; i < m->gate->size.flags; i++)
        if (m->flag_lost[i] && dice(m, 2)) printf("W 0\nB %u %u\nT 0\n", i, dice(m, 2));
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
    events_step(m, ms);
    for (uint16_t i = 0; i < m->gate->size.sensors; i++) m->dead_for[i] -= m->dead_for[i] > 0;
    if (dice(m, 150) == 0) events_power(m, dice(m, 4) == 0);
    if (dice(m, 8) == 0) events_offset(m, dice(m, 6000) - 3000); /* read before the step, or behind it */
}

static void flags(maker *m)
{
    const uint16_t count = m->gate->size.flags;
    if (!count) return;
    const uint16_t flag = (uint16_t)dice(m, count);
    if (dice(m, 4) == 0) events_flag(m, flag, dice(m, 2));
    if (dice(m, 40) == 0) events_flag_fault(m, flag);
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

/* ---- readings that bring a value to where it is wanted ---- */

enum { HOLD_MOST = 40, SAMPLES = 9, RESTARTS = 12 };

/* The read sensors that a sensor hangs on, and for how many steps it remembers them. */
static void add_cone(const maker *m, uint16_t sensor, aim *a)
{
    const fg_sensor *s = &m->gate->sensors[sensor];
    a->hold = (uint8_t)(a->hold + s->window > HOLD_MOST ? HOLD_MOST : a->hold + s->window);
    bool known = s->term_count > 0;
    for (uint8_t i = 0; i < a->count; i++) known = known || a->sensors[i] == sensor;
    if (!known && a->count < CONE_MOST) a->sensors[a->count++] = sensor;
    for (uint16_t i = 0; i < s->term_count; i++) {
        const fg_term *t = &m->gate->terms[s->first_term + i];
        if (!fg_term_reads(t->kind)) continue;
        if (t->kind == FG_TERM_DIP || t->kind == FG_TERM_PEAK)
            a->hold = (uint8_t)(a->hold + t->count > HOLD_MOST ? HOLD_MOST : a->hold + t->count);
        add_cone(m, t->sensor, a);
    }
}

/* Where readings of a sensor lie: in counts, in its trust, or around its limits. */
static void bounds_of(const maker *m, uint16_t sensor, int64_t *low, int64_t *high)
{
    const fg_sensor *s = &m->gate->sensors[sensor];
    *low = -40000;
    *high = 40000;
    if (s->trust == FG_TRUST_RANGE && s->trusted.low > INT32_MIN) *low = s->trusted.low;
    if (s->trust == FG_TRUST_RANGE && s->trusted.high < INT32_MAX) *high = s->trusted.high;
    if (s->circle) *low = 0;
    if (s->circle) *high = s->circle - 1;
    if (!events_takes_counts(m, sensor)) return;
    *low = COUNTS_LOW;
    *high = COUNTS_HIGH;
}

static int32_t any_reading(maker *m, uint16_t sensor)
{
    int64_t low, high;
    bounds_of(m, sensor, &low, &high);
    if (dice(m, 3)) { /* near zero, where sums are small */
        if (low < -300 && high > -300) low = -300;
        if (high > 3000 && low < 3000) high = 3000;
    }
    return (int32_t)(low + (int64_t)dice(m, (uint32_t)(high - low + 1)));
}

/* What the value would be with this reading in place of one; false if there is none. */
static bool value_with(maker *m, aim *a, int32_t reading, fg_value *value)
{
    a->readings[a->moved] = reading;
    return events_try(m, a, value);
}

typedef enum found { NOTHING, BETWEEN, EXACTLY } found;

/* Between two readings whose values lie on both sides of the target. BETWEEN: no reading comes to it, and the aim's and
 * the one above that lie on both sides. */
static found close_in(maker *m, aim *a, int64_t low, int64_t high, bool rises)
{
    while (low <= high) {
        fg_value value;
        const int64_t middle = low + (high - low) / 2;
        if (!value_with(m, a, (int32_t)middle, &value)) return NOTHING;
        if (value == a->target) return EXACTLY;
        if ((value < a->target) == rises)
            low = middle + 1;
        else
            high = middle - 1;
    }
    a->readings[a->moved] = (int32_t)high;
    return BETWEEN;
}

static found search(maker *m, aim *a)
{
    int64_t low, high, before_at = 0;
    fg_value before = 0;
    bool known = false;
    bounds_of(m, a->sensors[a->moved], &low, &high);
    for (int64_t i = 0; i < SAMPLES; i++) {
        const int64_t at = low + (high - low) * i / (SAMPLES - 1);
        fg_value value;
        if (!value_with(m, a, (int32_t)at, &value)) {
            known = false;
            continue;
        }
        if (value == a->target) return EXACTLY;
        if (known && (before < a->target) != (value < a->target)) {
            const found is = close_in(m, a, before_at, at, value > before);
            if (is != NOTHING) return is;
        }
        known = true;
        before = value;
        before_at = at;
    }
    return NOTHING;
}

static void play_aim(maker *m, const aim *a)
{
    for (uint8_t i = 0; i < a->hold; i++) {
        for (uint8_t k = 0; k < a->count; k++) events_feed(m, a->sensors[k], a->readings[k]);
        events_step(m, a->pace);
    }
}

/* Which side of the target the value is on now: -1 below, 1 above; 0: there is none. */
static int side_of(const maker *m, const aim *a)
{
    fg_value value;
    if (!fg_sensor_value(m->run, a->sensor, &value)) return 0;
    return value < a->target ? -1 : 1;
}

/* What is read directly is fed as it is wanted; else all parts are guessed, and one of them is moved. True: both sides
 * of a value that no reading comes to were played. */
static bool aim_at(maker *m, const limit *l, fg_value target)
{
    aim a = {.sensor = l->sensor, .target = target}, near = {0};
    fg_value value;
    found is = NOTHING;
    add_cone(m, l->sensor, &a);
    const uint8_t settled = (uint8_t)(a.hold ? a.hold : 1);
    for (uint8_t i = 0; i < a.count; i++) m->dead_for[a.sensors[i]] = 0;
    for (int restart = 0; restart < RESTARTS && a.count && is != EXACTLY; restart++) {
        a.hold = restart % 2 ? 1 : settled;
        a.pace = restart % 3 == 2 ? 1000 : 100;
        for (uint8_t i = 0; i < a.count; i++) a.readings[i] = any_reading(m, a.sensors[i]);
        a.moved = (uint8_t)dice(m, a.count);
        if (a.count == 1 && restart == 0) {
            const bool counts = events_takes_counts(m, a.sensors[0]);
            a.readings[0] = counts ? events_counts_near(m, a.sensors[0], target) : target;
            if (events_try(m, &a, &value) && value == target) is = EXACTLY;
        }
        if (is != EXACTLY) is = search(m, &a);
        if (is == BETWEEN && !near.count) near = a;
    }
    if (is != EXACTLY && near.count) a = near;
    play_aim(m, &a);
    if (is == EXACTLY || !near.count) return false;
    const int side = side_of(m, &a);
    a.readings[a.moved]++;
    play_aim(m, &a);
    return side * side_of(m, &a) == -1;
}

static void aim_around(maker *m, size_t number)
{
    for (int beside = -1; beside <= 1; beside++)
        if (!m->met[number][beside + 1] && events_can_be(m, &m->limits[number], beside) &&
            aim_at(m, &m->limits[number], m->limits[number].value + beside))
            m->met[number][beside + 1] = true;
}

/* ---- the limits of a gate ---- */

static void add_limit(maker *m, uint16_t sensor, fg_value value)
{
    if (value <= INT32_MIN + 1 || value >= INT32_MAX - 1 || m->limit_count == LIMITS_MOST) return;
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
    }
}

/* The ends of a trust are met by readings, not by values: what is beyond is faulty. */
static void add_trust(maker *m)
{
    for (uint16_t i = 0; i < m->gate->size.sensors; i++)
        if (m->gate->sensors[i].trust != FG_TRUST_ALL) add_range(m, i, &m->gate->sensors[i].trusted);
}

int main(int argc, char **argv)
{
    static fg_gate_file file;
    fg_mistake mistake = {0};
    if (argc < 3 || fg_gate_file_open(&file, argv[1], (fg_settings){0}, &mistake) != FG_OK || file.program.error_count)
        return 2;
    static maker m = {.random = 2463534242u};
    if (!events_begin(&m, &file.program.gate, !strcmp(argv[2], "counts"))) return 2;
    for (uint16_t i = 0; i < m.gate->size.ops; i++) add_rule(&m, &m.gate->ops[i]);
    const size_t rules = m.limit_count;
    add_trust(&m);
    const int rounds = argc > 3 ? atoi(argv[3]) : 3;
    const bool aims = argc > 4;
    for (int round = 0; round < rounds; round++) {
        for (size_t i = 0; i < m.limit_count; i++) around(&m, m.limits[i]);
        for (int i = 0; i < 40; i++) { /* flags and the clock alone */
            flags(&m);
            step(&m);
        }
        for (size_t i = 0; aims && i < rules; i++) aim_around(&m, i);
    }
    if (getenv("AIMED")) events_tell(&m, rules);
    fg_gate_file_close(&file);
    return 0;
}
