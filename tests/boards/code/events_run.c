/* SPDX-License-Identifier: MIT */
#include "events.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

bool events_is_fed(const maker *m, uint16_t sensor) { return !m->gate->sensors[sensor].term_count; }

bool events_takes_counts(const maker *m, uint16_t sensor) { return m->counts && m->gate->sensors[sensor].scale_count; }

/* A count that has no value is never the nearest. */
static bool make_scale(maker *m, uint16_t sensor)
{
    const fg_sensor *s = &m->gate->sensors[sensor];
    fg_value *values = malloc((COUNTS_HIGH - COUNTS_LOW + 1) * sizeof *values);
    for (int32_t i = 0; values && i <= COUNTS_HIGH - COUNTS_LOW; i++)
        if (!fg_scale_value(s->scale, s->scale_count, i + COUNTS_LOW, &values[i])) values[i] = INT32_MAX;
    m->scales[sensor] = values;
    return values;
}

bool events_begin(maker *m, const fg_gate *gate, bool counts)
{
    m->gate = gate;
    m->counts = counts;
    m->now = 4294900000u; /* as in play.c */
    if (gate->size.sensors > SENSORS_MOST || gate->size.flags > SENSORS_MOST) return false;
    memset(m->sensor_lost, true, sizeof m->sensor_lost);
    memset(m->flag_lost, true, sizeof m->flag_lost);
    for (uint16_t i = 0; i < gate->size.sensors; i++) {
        m->lowest[i] = INT32_MAX;
        m->highest[i] = INT32_MIN;
    }
    for (uint16_t i = 0; i < gate->size.sensors; i++)
        if (events_takes_counts(m, i) && !make_scale(m, i)) return false;
    m->size = fg_run_size(gate);
    m->memory = malloc(m->size);
    m->kept = malloc(m->size);
    return m->memory && m->kept && fg_run_start(gate, m->memory, m->size, &m->run) == FG_OK;
}

int32_t events_counts_near(const maker *m, uint16_t sensor, fg_value wanted)
{
    const fg_value *values = m->scales[sensor];
    int32_t found = 0;
    for (int32_t i = 1; i <= COUNTS_HIGH - COUNTS_LOW; i++)
        if (llabs((long long)values[i] - wanted) < llabs((long long)values[found] - wanted)) found = i;
    return found + COUNTS_LOW;
}

static void put_in(maker *m, uint16_t sensor, int32_t reading)
{
    if (events_takes_counts(m, sensor))
        fg_feed_counts(m->run, sensor, reading, m->now + m->later);
    else
        fg_feed(m->run, sensor, reading, m->now + m->later);
}

void events_feed(maker *m, uint16_t sensor, int32_t reading)
{
    printf("%c %u %" PRId32 "\n", events_takes_counts(m, sensor) ? 'C' : 'F', sensor, reading);
    put_in(m, sensor, reading);
    m->sensor_lost[sensor] = false;
}

void events_fault(maker *m, uint16_t sensor)
{
    printf("X %u\n", sensor);
    fg_feed_fault(m->run, sensor, m->now + m->later);
    m->sensor_lost[sensor] = true;
}

void events_flag(maker *m, uint16_t flag, bool yes)
{
    printf("B %u %d\n", flag, yes);
    fg_feed_flag(m->run, flag, yes, m->now + m->later);
    m->flag_lost[flag] = false;
}

void events_flag_fault(maker *m, uint16_t flag)
{
    printf("Y %u\n", flag);
    fg_feed_flag_fault(m->run, flag, m->now + m->later);
    m->flag_lost[flag] = true;
}

void events_offset(maker *m, uint32_t later)
{
    printf("O %" PRIu32 "\n", later);
    m->later = later;
}

static void note_range(maker *m, uint16_t sensor, fg_value value)
{
    if (value < m->lowest[sensor]) m->lowest[sensor] = value;
    if (value > m->highest[sensor]) m->highest[sensor] = value;
}

static void note_what_was_met(maker *m)
{
    for (uint16_t i = 0; i < m->gate->size.sensors; i++) {
        fg_value value;
        if (fg_sensor_value(m->run, i, &value)) note_range(m, i, value);
    }
    for (size_t i = 0; i < m->limit_count; i++) {
        fg_value value;
        const limit *l = &m->limits[i];
        if (!fg_sensor_value(m->run, l->sensor, &value)) continue;
        const int64_t beside = (int64_t)value - l->value;
        if (beside >= -1 && beside <= 1) m->met[i][beside + 1] = true;
    }
}

void events_step(maker *m, uint32_t ms)
{
    printf("T %" PRIu32 "\n", ms);
    fg_step(m->run, m->now);
    note_what_was_met(m);
    m->now += ms;
    m->later = 0;
}

void events_power(maker *m, bool damaged)
{
    unsigned char bytes[400];
    const size_t size = fg_run_saved_size(m->gate);
    printf("P %d\n", damaged);
    if (size > sizeof bytes || fg_run_save(m->run, bytes, sizeof bytes) != FG_OK) exit(2);
    if (fg_run_start(m->gate, m->memory, m->size, &m->run) != FG_OK) exit(2);
    if (!damaged && fg_run_restore(m->run, bytes, size) != FG_OK) exit(2);
    memset(m->sensor_lost, true, sizeof m->sensor_lost);
    memset(m->flag_lost, true, sizeof m->flag_lost);
}

/* A run points into its own memory, so it is put back where it was. */
bool events_try(maker *m, const aim *a, fg_value *value)
{
    const uint32_t now = m->now, later = m->later;
    memcpy(m->kept, m->memory, m->size);
    for (uint8_t i = 0; i < a->hold; i++) {
        for (uint8_t k = 0; k < a->count; k++) put_in(m, a->sensors[k], a->readings[k]);
        fg_step(m->run, m->now);
        m->now += a->pace;
        m->later = 0;
    }
    const bool good = fg_sensor_value(m->run, a->sensor, value);
    if (good) note_range(m, a->sensor, *value);
    memcpy(m->memory, m->kept, m->size);
    m->now = now;
    m->later = later;
    return good;
}

bool events_can_be(const maker *m, const limit *l, int beside)
{
    const fg_sensor *s = &m->gate->sensors[l->sensor];
    const int64_t value = (int64_t)l->value + beside;
    if (s->circle && (value < 0 || value >= s->circle)) return false;
    const bool moved = s->stages & FG_STAGE_ZERO;
    if (s->trust == FG_TRUST_RANGE && !moved && (value < s->trusted.low || value > s->trusted.high)) return false;
    if (!events_takes_counts(m, l->sensor) || moved || s->stages & FG_STAGE_MEAN) return true;
    return m->scales[l->sensor][events_counts_near(m, l->sensor, (fg_value)value) - COUNTS_LOW] == value;
}

void events_tell(const maker *m, size_t limits)
{
    unsigned long all = 0, met = 0;
    for (size_t i = 0; i < limits; i++)
        for (int beside = -1; beside <= 1; beside++) {
            const limit *l = &m->limits[i];
            const int64_t value = (int64_t)l->value + beside;
            const bool beyond =
                !events_is_fed(m, l->sensor) && (value < m->lowest[l->sensor] || value > m->highest[l->sensor]);
            if (!m->met[i][beside + 1] && (beyond || !events_can_be(m, l, beside))) continue;
            all++;
            met += m->met[i][beside + 1];
        }
    fprintf(stderr, "aimed %lu met %lu\n", all, met);
}
