/* SPDX-License-Identifier: MIT */
/** @file
 * Conditioning: what happens to a reading before the rules see it.
 *
 * The stages of a sensor work in this order whatever order they were written in: counts become units (`raw ... reads`),
 * a reading that is too old, has not moved for too long or cannot be is faulty (`stale`, `stuck`, `trust`), a circle
 * wraps, the last good value stands in for a while (`bridge`), the last good values are joined (`median`, `mean`), and
 * a zero is taken off. Usable alone: fg_scale_value for a converter's counts; fg_sensor_feed and fg_sensor_step, or
 * fg_flag_feed and fg_flag_step, for the whole way.
 *
 *     bool depth_of(int32_t counts, fg_value *depth)
 *     {
 *         static const fg_scale_piece scale = {.up_to = INT32_MAX, .slope = 2500, .offset = 0, .divisor = 1023};
 *         return fg_scale_value(&scale, 1, counts, depth); // 0..1023 counts read 0..250.0 cm
 *     }
 */
#ifndef FICKLEGATE_SMOOTH_H
#define FICKLEGATE_SMOOTH_H

#include <ficklegate/rules.h>
#include <ficklegate/value.h>

FG_PUBLIC_BEGIN

/** One straight piece of a converter's scale: value = (counts * slope + offset) / divisor, worked out exactly in 128
 * bits and rounded once, halves away from zero. It holds for counts up to and including `up_to`; the last piece of a
 * list holds for all that are left. `divisor` is above 0. */
typedef struct fg_scale_piece {
    int64_t slope, offset, divisor;
    int32_t up_to;
} fg_scale_piece;

/** Counts of a converter as a value. `scale`, `count`: at least one piece. False if the value leaves 32 bits. */
bool fg_scale_value(const fg_scale_piece *scale, uint8_t count, int32_t counts, fg_value *value);

typedef enum fg_trust {
    FG_TRUST_ALL,   /**< no reading is refused */
    FG_TRUST_RANGE, /**< judged before a circle wraps */
    FG_TRUST_WRAP   /**< a trust that runs through zero of a circle: judged after it wraps */
} fg_trust;

/** Stages that only work where their bit is set. */
enum { FG_STAGE_STALE = 1, FG_STAGE_STUCK = 2, FG_STAGE_BRIDGE = 4, FG_STAGE_MEAN = 8, FG_STAGE_ZERO = 16 };

enum { FG_WINDOW_MOST = 64, FG_MEDIAN_MOST = 31 };

/** What is known about a sensor. */
typedef struct fg_sensor {
    const fg_scale_piece *scale; /**< NULL if it is never fed with counts */
    uint8_t scale_count;
    uint8_t decimals; /**< of its step, 0 to 6 */
    uint8_t trust;    /**< fg_trust */
    uint8_t stages;   /**< FG_STAGE_... */
    uint8_t window;   /**< how many good values are joined: 0, or 2 to 64 (a median: odd, 3 to 31) */
    fg_range trusted;
    fg_value circle;                 /**< its length in steps, 0 if it is none */
    fg_time stale, stuck, bridge;    /**< ms, up to 24 days */
    uint16_t zero_flag;              /**< in a gate: the flag whose start sets the zero */
    uint16_t window_at;              /**< in a gate: where its window begins among all */
    uint16_t first_term, term_count; /**< in a gate: what it is worked out from; no terms if it is read */
} fg_sensor;

/** What was read: nothing yet, a value in steps, or something that is no reading. */
typedef enum fg_heard { FG_HEARD_NOTHING, FG_HEARD_VALUE, FG_HEARD_FAULT } fg_heard;

/** How many values the window of a sensor needs room for, as constants: as many as are joined, and for a median as many
 * again, kept in order of size. */
#define FG_MEAN_ROOM(window)   (window)
#define FG_MEDIAN_ROOM(window) (2 * (window))

/** The same of a sensor. */
static inline uint8_t fg_window_room(const fg_sensor *sensor)
{
    return (uint8_t)(sensor->stages & FG_STAGE_MEAN ? FG_MEAN_ROOM(sensor->window) : FG_MEDIAN_ROOM(sensor->window));
}

/** What a sensor remembers. `ok` and `value` are what the rules see after the last step. */
typedef struct fg_sensor_state {
    fg_value newest; /**< as it was fed */
    fg_time at;      /**< when it was read */
    fg_value value;
    fg_value stuck_value; /**< `stuck`: has not moved from here ... */
    fg_time stuck_since;
    fg_value good; /**< `bridge`: stands in until it is too long ago */
    fg_time good_at;
    fg_value zero;
    uint8_t heard; /**< fg_heard */
    uint8_t count; /**< values in the window */
    uint8_t head;  /**< where the next one goes */
    fg_verdict zero_previous;
    bool ok, old, stuck_known, is_stuck, good_known, refused, zero_missed;
    bool fresh;  /**< in a gate: it was fed since the last step, and `at` is as it was fed */
    bool plain;  /**< in a gate: it has no stages */
    bool steady; /**< in a gate: no rule on it changes as long as its value stays in `steady_range` */
    fg_range steady_range;
} fg_sensor_state;

/** A reading, taken at `at`. It takes effect at the next step; a later one before that replaces it. */
void fg_sensor_feed(fg_sensor_state *state, fg_value value, fg_time at);
/** Something came that is no reading. */
void fg_sensor_fault(fg_sensor_state *state, fg_time at);

/** Takes the newest reading through the stages. Sets and returns `ok`; `value` keeps its last good one while not ok.
 * `window`: room for fg_window_room() values, kept from step to step; NULL if that is 0. `zero`: the answer of the flag
 * that sets the zero; FG_NO if there is none. `now`: ms of any clock; it may wrap. Where it goes
 * back, no wait ends early: one that began later begins anew. */
bool fg_sensor_step(const fg_sensor *sensor, fg_sensor_state *state, fg_value *window, fg_verdict zero, fg_time now);

/** A yes/no input. Its stages work in this order: stale, inverted, bridge, settle. */
typedef struct fg_flag {
    bool inverted;
    uint8_t stages; /**< FG_STAGE_STALE, FG_STAGE_BRIDGE */
    fg_time stale, bridge, settle;
} fg_flag;

/** What a flag remembers. `bridged` is its answer before settling (unsure is faulty), `answer` the one the rules see.
 */
typedef struct fg_flag_state {
    fg_time at, good_at;
    fg_settle_state settle;
    uint8_t heard; /**< fg_heard */
    fg_verdict good, bridged, answer;
    bool newest, old;
    bool fresh;  /**< in a gate: see fg_sensor_state */
    bool steady; /**< time alone will not change its answer */
} fg_flag_state;

/** A reading of a flag, taken at `at`. */
void fg_flag_feed(fg_flag_state *state, bool yes, fg_time at);
/** Something came that is neither yes nor no. */
void fg_flag_fault(fg_flag_state *state, fg_time at);

/** Takes the newest reading of a flag through its stages. Sets and returns `answer`. */
fg_verdict fg_flag_step(const fg_flag *flag, fg_flag_state *state, fg_time now);

/** A value wrapped into 0 to circle - 1. `circle`: above 0. */
fg_value fg_wrap(int64_t value, fg_value circle);

FG_PUBLIC_END
#endif
