/* SPDX-License-Identifier: MIT */
/** @file
 * The rules: a reading goes in, an answer comes out. Each can be used alone, without a gate.
 *
 * A rule is const (what a person decided; it may live in flash), its state is the caller's (what time changes). A state
 * set to {0} is unsure and has heard nothing. A step takes a good reading in whole steps and the present time; a
 * reading that is missing or faulty goes to the rule's fault call instead, which answers FG_UNSURE and forgets. None of
 * these calls allocates, blocks or keeps a pointer; a rule with a state of its own is safe in an interrupt.
 *
 *     void on_reading(fg_value depth, fg_time now)
 *     {
 *         static const fg_hysteresis pumping = FG_HYSTERESIS_ON_OVER(120, 50); // steps of 0.1 cm
 *         static fg_hysteresis_state state;
 *         printf("pump %s\n", fg_hysteresis_step(&pumping, &state, depth, now) == FG_YES ? "on" : "off");
 *     }
 */
#ifndef FICKLEGATE_RULES_H
#define FICKLEGATE_RULES_H

#include <ficklegate/value.h>

FG_PUBLIC_BEGIN

/** The readings from `low` to `high`, both ends in it. With `low` over `high` it runs through the end of the numbers:
 * on a circle {330, 30} holds 350, 0 and 10. It always holds at least one reading. */
typedef struct fg_range {
    fg_value low, high;
} fg_range;

/** Constant ranges: `n` 1 less than the largest value or 1 more than the smallest at most. */
#define FG_RANGE_OVER(n)                                                                                               \
    {                                                                                                                  \
        (n) + 1, INT32_MAX                                                                                             \
    }
#define FG_RANGE_UNDER(n)                                                                                              \
    {                                                                                                                  \
        INT32_MIN, (n)-1                                                                                               \
    }
#define FG_RANGE_WITHIN(a, b)                                                                                          \
    {                                                                                                                  \
        (a), (b)                                                                                                       \
    }

#define FG_RANGE_AT_LEAST(n)                                                                                           \
    {                                                                                                                  \
        (n), INT32_MAX                                                                                                 \
    }
#define FG_RANGE_AT_MOST(n)                                                                                            \
    {                                                                                                                  \
        INT32_MIN, (n)                                                                                                 \
    }

/** Is the reading in the range? One subtraction and one comparison, also for a range that runs through zero. */
static inline bool fg_range_holds(const fg_range *range, fg_value reading)
{
    return (uint32_t)reading - (uint32_t)range->low <= (uint32_t)range->high - (uint32_t)range->low;
}

/** A range of a rule: its readings, the readings that keep the answer once it is believed (widened by the margin), and
 * the answer of a reading in it. Of a threshold with `outside` the answer is FG_NO, and `kept` keeps a yes outside. */
typedef struct fg_rule_range {
    const fg_range *range, *kept;
    fg_verdict answer;
} fg_rule_range;

/** How long another answer has to come out, at every step, before it is believed.
 * `time`: 0 to 2073600000 ms (24 days). `within`: how far the reading may move during the wait (0 or more), or
 * FG_ANY_DISTANCE. `circle`: the circle's length in steps if the sensor is one, else 0; only used with `within`. */
typedef struct fg_settle {
    fg_time time;
    fg_value within;
    fg_value circle;
} fg_settle;

enum { FG_ANY_DISTANCE = -1 };
#define FG_SETTLE_NONE                                                                                                 \
    {                                                                                                                  \
        0, FG_ANY_DISTANCE, 0                                                                                          \
    }
#define FG_SETTLE(ms)                                                                                                  \
    {                                                                                                                  \
        (ms), FG_ANY_DISTANCE, 0                                                                                       \
    }

/** What settling remembers: the present answer, and the one that waits if it is another. */
typedef struct fg_settle_state {
    fg_time since;  /**< first step of the wait */
    fg_value began; /**< the reading at that step */
    fg_verdict present;
    fg_verdict candidate; /**< equal to `present` while nothing waits */
} fg_settle_state;

/** Takes in the answer that came out at this step and returns the one believed. */
fg_verdict fg_settle_step(const fg_settle *settle, fg_settle_state *state, fg_verdict came_out, fg_value reading,
                          fg_time now);

/** A limit or a range: yes or no. `kept` is `range` widened by the margin (equal to it without one): a reading in it
 * keeps a yes. With `outside` the answer is yes outside of the ranges instead, and `kept` is the narrower one. */
typedef struct fg_threshold {
    fg_range range, kept;
    fg_settle settle;
    bool outside;
} fg_threshold;

typedef struct fg_threshold_state {
    fg_settle_state settle;
} fg_threshold_state;

/** Constant thresholds: yes over / under `n`, once yes until `margin` (0 or more) back; within a..b, both ends in it.
 */
#define FG_THRESHOLD_OVER(n, margin)                                                                                   \
    {                                                                                                                  \
        FG_RANGE_OVER(n), FG_RANGE_OVER((n) - (margin)), FG_SETTLE_NONE, false                                         \
    }
#define FG_THRESHOLD_UNDER(n, margin)                                                                                  \
    {                                                                                                                  \
        FG_RANGE_UNDER(n), FG_RANGE_UNDER((n) + (margin)), FG_SETTLE_NONE, false                                       \
    }
#define FG_THRESHOLD_WITHIN(a, b, margin)                                                                              \
    {                                                                                                                  \
        FG_RANGE_WITHIN(a, b), FG_RANGE_WITHIN((a) - (margin), (b) + (margin)), FG_SETTLE_NONE, false                  \
    }

/** The same with the limit in it; outside of a..b, once yes until `margin` inside; and any of these, that settles for
 * so many ms: FG_THRESHOLD_OF(FG_RANGE_OVER(120), FG_RANGE_OVER(110), 2000). */
#define FG_THRESHOLD_AT_LEAST(n, margin)                                                                               \
    {                                                                                                                  \
        FG_RANGE_AT_LEAST(n), FG_RANGE_AT_LEAST((n) - (margin)), FG_SETTLE_NONE, false                                 \
    }
#define FG_THRESHOLD_AT_MOST(n, margin)                                                                                \
    {                                                                                                                  \
        FG_RANGE_AT_MOST(n), FG_RANGE_AT_MOST((n) + (margin)), FG_SETTLE_NONE, false                                   \
    }
#define FG_THRESHOLD_OUTSIDE(a, b, margin)                                                                             \
    {                                                                                                                  \
        FG_RANGE_WITHIN(a, b), FG_RANGE_WITHIN((a) + (margin), (b) - (margin)), FG_SETTLE_NONE, true                   \
    }
#define FG_THRESHOLD_OF(range, kept, settle_ms)                                                                        \
    {                                                                                                                  \
        range, kept, FG_SETTLE(settle_ms), false                                                                       \
    }

/** One reading into a threshold. Returns FG_UNSURE (still settling for the first time), FG_NO or FG_YES. */
fg_verdict fg_threshold_step(const fg_threshold *rule, fg_threshold_state *state, fg_value reading, fg_time now);

/** Range number `i` of the rule, from 0; false behind the last. A threshold has one. */
bool fg_threshold_range(const fg_threshold *rule, uint16_t i, fg_rule_range *range);

/** A missing or faulty reading: forgets what was settling, returns FG_UNSURE. */
fg_verdict fg_threshold_fault(fg_threshold_state *state);

/** Two limits, so that noise on one of them does not chatter: yes in `on`, no in `off`, between them the present
 * answer; with none yet no, or yes with `first_on`. `on` and `off` share no reading. */
typedef struct fg_hysteresis {
    fg_range on, off;
    fg_settle settle;
    bool first_on;
    bool never_on, never_off; /**< no reading is in this range: its limit is the last number there is */
} fg_hysteresis;

typedef struct fg_hysteresis_state {
    fg_settle_state settle;
} fg_hysteresis_state;

/** Constant hysteresis: on over `a`, off under `b` (b at most a + 1), or on under `a`, off over `b` (b at least a - 1);
 * limits the other way round do not compile. And any two ranges, that settle for so many ms and begin as on or off:
 * FG_HYSTERESIS_OF(FG_RANGE_OVER(120), FG_RANGE_UNDER(50), 2000, true). */
#define FG_HYSTERESIS_ON_OVER(a, b)                                                                                    \
    {                                                                                                                  \
        FG_RANGE_OVER((a) + FG_MUST((b) <= (a) + 1)), FG_RANGE_UNDER(b), FG_SETTLE_NONE, false, false, false           \
    }
#define FG_HYSTERESIS_ON_UNDER(a, b)                                                                                   \
    {                                                                                                                  \
        FG_RANGE_UNDER((a) + FG_MUST((b) >= (a)-1)), FG_RANGE_OVER(b), FG_SETTLE_NONE, false, false, false             \
    }
#define FG_HYSTERESIS_OF(on, off, settle_ms, first_on)                                                                 \
    {                                                                                                                  \
        on, off, FG_SETTLE(settle_ms), first_on, false, false                                                          \
    }

/** One reading into a hysteresis. Returns FG_UNSURE (still settling for the first time), FG_NO or FG_YES. */
fg_verdict fg_hysteresis_step(const fg_hysteresis *rule, fg_hysteresis_state *state, fg_value reading, fg_time now);

/** Range number `i` of the rule, from 0; false behind the last. A hysteresis has two: on, off. */
bool fg_hysteresis_range(const fg_hysteresis *rule, uint16_t i, fg_rule_range *range);

/** A missing or faulty reading: forgets the answer kept and what was settling, returns FG_UNSURE. */
fg_verdict fg_hysteresis_fault(fg_hysteresis_state *state);

/** One band: its readings, the readings that keep its label once it is believed (widened by the margin), its label. */
typedef struct fg_band {
    fg_range range, kept;
    fg_verdict label; /**< FG_LABEL(i) */
} fg_band;

/** A constant band from `low` up to `high`, both in it, widened by `margin` on both sides, for label number `i`; one
 * beyond the last label there can be does not compile. */
#define FG_BAND(low, high, margin, i)                                                                                  \
    {                                                                                                                  \
        {(low), (high)}, {(low) - (margin), (high) + (margin)}, FG_LABEL(i)                                            \
    }
#define FG_BAND_UNDER(n, margin, i)                                                                                    \
    {                                                                                                                  \
        FG_RANGE_UNDER(n), FG_RANGE_UNDER((n) + (margin)), FG_LABEL(i)                                                 \
    }
#define FG_BAND_FROM(n, margin, i)                                                                                     \
    {                                                                                                                  \
        {(n), INT32_MAX}, {(n) - (margin), INT32_MAX}, FG_LABEL(i)                                                     \
    }

/** Named ranges. The first band that holds the reading gives its label, what is in none gives `otherwise` (FG_NONE or a
 * label). A label may have several bands. `keeps`: a margin was given, so the present label's `kept` ranges come first.
 */
typedef struct fg_bands {
    const fg_band *bands;
    uint16_t count;
    fg_verdict otherwise;
    bool keeps;
    fg_settle settle;
} fg_bands;

typedef struct fg_bands_state {
    fg_settle_state settle;
    uint16_t held; /**< the band that held the previous reading; only a short cut */
} fg_bands_state;

/** One reading into bands. Returns FG_UNSURE (still settling for the first time), FG_NONE or FG_LABEL(i). */
fg_verdict fg_bands_step(const fg_bands *rule, fg_bands_state *state, fg_value reading, fg_time now);

/** Range number `i` of the rule, from 0; false behind the last. Bands have one for each band, in their order. */
bool fg_bands_range(const fg_bands *rule, uint16_t i, fg_rule_range *range);

/** A missing or faulty reading: forgets what was settling, returns FG_UNSURE. */
fg_verdict fg_bands_fault(fg_bands_state *state);

/** `for T`: yes once it has been yes without a break for at least T since the first yes step. */
typedef struct fg_lasting_state {
    fg_time since;
    bool running, lasted;
} fg_lasting_state;

/** One answer into `for T` (`time`: 0 to 24 days in ms). Returns FG_YES, FG_NO (also while it waits) or FG_UNSURE. */
fg_verdict fg_lasting_step(fg_time time, fg_lasting_state *state, fg_verdict answer, fg_time now);

/** `starts` and `ends`: the newest sure answer before was the other one. */
typedef struct fg_edge_state {
    fg_verdict previous; /**< the newest sure answer */
} fg_edge_state;

/** One answer into `starts` (`to` FG_YES) or `ends` (`to` FG_NO). Returns FG_YES at that step, else FG_NO, or FG_UNSURE
 * where the answer is. What is yes from its very first sure answer has not started. */
fg_verdict fg_edge_step(fg_edge_state *state, fg_verdict answer, fg_verdict to);

/** Keeps yes from `set` to `clear`; if both are yes `set` wins, or `clear` with `clear_wins`. */
typedef struct fg_latch {
    bool clear_wins;
} fg_latch;

typedef struct fg_latch_state {
    bool on;
} fg_latch_state;

/** One step of a latch. FG_UNSURE where `set` or `clear` is unsure and its answer would matter: then the latch keeps
 * what it was for the next step. An unsure `set` of a latch that is on, for one, hides nothing. */
fg_verdict fg_latch_step(const fg_latch *rule, fg_latch_state *state, fg_verdict set, fg_verdict clear);

/** Counts starts, from `first`, never leaving low..high (first lies in it). */
typedef struct fg_count {
    fg_value low, high, first;
} fg_count;

typedef struct fg_count_state {
    fg_value value;
    fg_edge_state add, take;
    bool begun;
} fg_count_state;

/** One step of a count: one more for a start of `add`, one fewer for a start of `take`, back to `first` while `zero` is
 * yes. Returns the count. */
fg_value fg_count_step(const fg_count *rule, fg_count_state *state, fg_verdict add, fg_verdict take, fg_verdict zero);

/** Yes from a start on, for a time. `again`: after one, the next needs a start of `again` at or after the step that
 * ended it. `restarts`: a start during a pulse begins it anew. */
typedef struct fg_pulse {
    bool again, restarts;
} fg_pulse;

typedef struct fg_pulse_state {
    fg_time since, length;
    fg_edge_state start, again;
    bool running, spent; /**< spent: waits for `again` */
} fg_pulse_state;

/** One step of a pulse. `length`: how long one that starts now lasts, in ms; 0 if none may start. `again`: FG_NO if the
 * rule has none. `stop`: yes or unsure ends it and keeps it from starting. Never unsure. */
fg_verdict fg_pulse_step(const fg_pulse *rule, fg_pulse_state *state, fg_verdict start, fg_time length,
                         fg_verdict again, fg_verdict stop, fg_time now);

/** The shortest signed way from `from` to `to` on a circle of `circle` steps (half a turn as negative), or just the
 * difference if `circle` is 0. Both values 0 to circle - 1 then. */
int64_t fg_way(fg_value from, fg_value to, fg_value circle);

FG_PUBLIC_END
#endif
