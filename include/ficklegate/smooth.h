/* Sensor conditioning: what happens to a reading before the rules see it.
 *
 * The stages work in this order whatever order they were written in: counts become units (`raw ... reads`), readings
 * that cannot be are faulty (`trust`), a circle wraps. Usable alone: fg_line_value for a converter's counts,
 * fg_sensor_step for the whole way.
 */
#ifndef FICKLEGATE_SMOOTH_H
#define FICKLEGATE_SMOOTH_H

#include <ficklegate/rules.h>
#include <ficklegate/value.h>

#ifdef __cplusplus
extern "C" {
#endif

/* One straight piece of a converter's scale: value = (counts * slope + offset) / divisor, worked out exactly in 128
 * bits and rounded once, halves away from zero. It holds for counts up to and including `up_to`; the last piece of a
 * list holds for all that are left. `divisor` is above 0. */
typedef struct fg_line {
    int64_t slope, offset, divisor;
    int32_t up_to;
} fg_line;

/* Counts of a converter as a value. `lines`, `count`: at least one piece. False if the value leaves 32 bits. */
bool fg_line_value(const fg_line *lines, uint8_t count, int32_t counts, fg_value *value);

typedef enum fg_trust {
    FG_TRUST_ALL,   /* no reading is refused */
    FG_TRUST_RANGE, /* judged before a circle wraps */
    FG_TRUST_WRAP   /* a trust that runs through zero of a circle: judged after it wraps */
} fg_trust;

/* What is known about a sensor. */
typedef struct fg_sensor {
    const fg_line *lines; /* NULL if it is never fed with counts */
    uint8_t line_count;
    uint8_t decimals; /* of its step, 0 to 6 */
    uint8_t trust;    /* fg_trust */
    fg_range trusted;
    fg_value circle; /* its length in steps, 0 if it is none */
} fg_sensor;

/* What was read: nothing yet, a value in steps, or something that is no reading. */
typedef enum fg_heard { FG_HEARD_NOTHING, FG_HEARD_VALUE, FG_HEARD_FAULT } fg_heard;

/* What a sensor remembers. `ok` and `value` are what the rules see after the last step. */
typedef struct fg_sensor_state {
    fg_value newest; /* as it was fed */
    fg_time at;      /* when it was read */
    fg_value value;
    uint8_t heard; /* fg_heard */
    bool ok;
} fg_sensor_state;

/* Takes the newest reading through the stages. Sets and returns `ok`; `value` keeps its last good one while not ok. */
bool fg_sensor_step(const fg_sensor *sensor, fg_sensor_state *state, fg_time now);

/* A value wrapped into 0 to circle - 1. `circle`: above 0. */
fg_value fg_wrap(int64_t value, fg_value circle);

#ifdef __cplusplus
}
#endif
#endif
