/* SPDX-License-Identifier: MIT */
/* The events of events.c as they are printed, and the engine that lives through them as well: what a rule sees is known
 * at every step. */
#ifndef EVENTS_H
#define EVENTS_H

#include <ficklegate/workshop.h>

enum { SENSORS_MOST = 64, LIMITS_MOST = 1000, CONE_MOST = 8, COUNTS_LOW = -400, COUNTS_HIGH = 4500 };

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
    bool met[LIMITS_MOST][3]; /* one step below, on, one step above; or by the readings next to it, on both sides */
    uint8_t dead_for[SENSORS_MOST]; /* steps to come at which the sensor sends nothing but faults */
    bool sensor_lost[SENSORS_MOST], flag_lost[SENSORS_MOST];
    fg_value lowest[SENSORS_MOST], highest[SENSORS_MOST]; /* that a sensor ever came to, also where it was only tried */
    fg_value *scales[SENSORS_MOST]; /* of each count from COUNTS_LOW on, where a sensor takes counts */
    fg_run *run;
    void *memory, *kept;
    size_t size;
    uint32_t now, later;
} maker;

/* Readings that are looked for: of these sensors, for so many steps, so many ms apart. */
typedef struct aim {
    uint16_t sensor;
    fg_value target;
    uint16_t sensors[CONE_MOST];
    int32_t readings[CONE_MOST];
    uint8_t count, hold, moved;
    uint32_t pace;
} aim;

bool events_begin(maker *m, const fg_gate *gate, bool counts);
bool events_is_fed(const maker *m, uint16_t sensor);
/* Is it fed with counts of its converter? */
bool events_takes_counts(const maker *m, uint16_t sensor);
/* Counts that come closest to a value: where the scale reaches it. */
int32_t events_counts_near(const maker *m, uint16_t sensor, fg_value wanted);

/* Each prints an event and lives through it. `reading`: counts where the sensor takes those. */
void events_feed(maker *m, uint16_t sensor, int32_t reading);
void events_fault(maker *m, uint16_t sensor);
void events_flag(maker *m, uint16_t flag, bool yes);
void events_flag_fault(maker *m, uint16_t flag);
void events_offset(maker *m, uint32_t later);
void events_step(maker *m, uint32_t ms);
void events_power(maker *m, bool damaged);

/* The value of a sensor if these readings came; nothing is printed, and all is as before. False: it would be faulty. */
bool events_try(maker *m, const aim *a, fg_value *value);

/* Can the value that the rule sees be there at all, as far as is known beforehand? */
bool events_can_be(const maker *m, const limit *l, int beside);
/* Says how many of the first limits were met, below, on and above. What lies beyond all that a sum ever came to, with
 * each of its parts at both ends of its range, does not count. */
void events_tell(const maker *m, size_t limits);

#endif
