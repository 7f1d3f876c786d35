/* SPDX-License-Identifier: MIT */
/* Threshold, hysteresis, bands, and the settling they share. */
#include <ficklegate/rules.h>

#include "since.h"

/* `settle T within D` begins its wait anew when the reading has left the neighbourhood in which the wait began.
 * Without `within` no distance is too far. */
static bool moved_too_far(const fg_settle *settle, const fg_settle_state *state, fg_value reading)
{
    if (settle->within < 0) return false;
    int64_t way = fg_way(state->began, reading, settle->circle);
    return way > settle->within || -way > settle->within;
}

/* The present answer stays until another has come out at every step for the whole time. An answer that comes out once
 * in between ends the wait. With a time of 0 the first condition holds at once, so rules that do not settle take the
 * same way. */
fg_verdict fg_settle_step(const fg_settle *settle, fg_settle_state *state, fg_verdict came_out, fg_value reading,
                          fg_time now)
{
    if (came_out == state->present) {
        if (state->candidate != came_out) state->candidate = came_out;
        return state->present;
    }
    if (came_out != state->candidate || moved_too_far(settle, state, reading)) {
        state->candidate = came_out;
        state->since = now;
        state->began = reading;
    }
    if (fg_passed(&state->since, now) >= settle->time) state->present = came_out;
    return state->present;
}

/* A fault ends the wait and the answer: after it the rule begins as on its first reading. */
static fg_verdict forget(fg_settle_state *state)
{
    state->present = state->candidate = FG_UNSURE;
    return FG_UNSURE;
}

/* Only a yes has a margin: `kept` is the range widened by it, so a yes is kept until the reading is past the margin. */
fg_verdict fg_threshold_step(const fg_threshold *rule, fg_threshold_state *state, fg_value reading, fg_time now)
{
    const fg_range *range = state->settle.present == FG_YES ? &rule->kept : &rule->range;
    fg_verdict came_out = fg_sure(fg_range_holds(range, reading) != rule->outside);
    return fg_settle_step(&rule->settle, &state->settle, came_out, reading, now);
}

/* One range. With `outside` a reading in it means no. */
bool fg_threshold_range(const fg_threshold *rule, uint16_t i, fg_rule_range *range)
{
    range->range = &rule->range;
    range->kept = &rule->kept;
    range->answer = fg_sure(!rule->outside);
    return i == 0;
}

fg_verdict fg_threshold_fault(fg_threshold_state *state) { return forget(&state->settle); }

/* Between `on` and `off` lies the dead band, in which the present answer stays. The first reading may fall into it:
 * then `first_on` decides. `never_on` and `never_off` say that a range cannot be reached within 32 bits. */
fg_verdict fg_hysteresis_step(const fg_hysteresis *rule, fg_hysteresis_state *state, fg_value reading, fg_time now)
{
    fg_verdict came_out = state->settle.present;
    if (fg_range_holds(&rule->on, reading) && !rule->never_on)
        came_out = FG_YES;
    else if (fg_range_holds(&rule->off, reading) && !rule->never_off)
        came_out = FG_NO;
    else if (came_out == FG_UNSURE)
        came_out = fg_sure(rule->first_on);
    return fg_settle_step(&rule->settle, &state->settle, came_out, reading, now);
}

/* First `on`, then `off`. The dead band is in neither, and there is no margin. */
bool fg_hysteresis_range(const fg_hysteresis *rule, uint16_t i, fg_rule_range *range)
{
    const fg_range *side = i ? &rule->off : &rule->on;
    range->range = range->kept = side;
    range->answer = fg_sure(!i);
    return i < 2;
}

fg_verdict fg_hysteresis_fault(fg_hysteresis_state *state) { return forget(&state->settle); }

/* Does the present label keep this reading? The band of the previous reading is asked first: it nearly always does. */
static bool label_keeps(const fg_bands *rule, const fg_bands_state *state, fg_value reading)
{
    const fg_verdict present = state->settle.present;
    if (present == FG_UNSURE) return false;
    if (state->held < rule->count) {
        const fg_band *held = &rule->bands[state->held];
        if (held->label == present && fg_range_holds(&held->kept, reading)) return true;
    }
    for (uint16_t i = 0; i < rule->count; i++) {
        const fg_band *band = &rule->bands[i];
        if (band->label == present && fg_range_holds(&band->kept, reading)) return true;
    }
    return false;
}

/* Nothing waits, and the band of the previous reading holds this one too: what nearly every step finds. A range that is
 * not the first of the list may be overruled by one above it, so only its margin, or a list without overlaps, makes
 * this sure. */
static bool stays(const fg_bands *rule, const fg_bands_state *state, fg_value reading)
{
    if (!rule->keeps || state->held >= rule->count || state->settle.candidate != state->settle.present) return false;
    const fg_band *held = &rule->bands[state->held];
    return held->label == state->settle.present && fg_range_holds(&held->kept, reading);
}

/* The first band that holds wins, unless the present label keeps the reading by its margin. `held` remembers the band,
 * so that the next step, which nearly always falls into the same one, asks it first. */
fg_verdict fg_bands_step(const fg_bands *rule, fg_bands_state *state, fg_value reading, fg_time now)
{
    if (stays(rule, state, reading)) return state->settle.present;
    fg_verdict came_out = rule->otherwise;
    if (rule->keeps && label_keeps(rule, state, reading)) {
        came_out = state->settle.present;
    } else {
        for (uint16_t i = 0; i < rule->count; i++) {
            if (!fg_range_holds(&rule->bands[i].range, reading)) continue;
            came_out = rule->bands[i].label;
            state->held = i;
            break;
        }
    }
    return fg_settle_step(&rule->settle, &state->settle, came_out, reading, now);
}

/* The bands as they are listed. */
bool fg_bands_range(const fg_bands *rule, uint16_t i, fg_rule_range *range)
{
    if (i >= rule->count) return false;
    range->range = &rule->bands[i].range;
    range->kept = &rule->bands[i].kept;
    range->answer = rule->bands[i].label;
    return true;
}

fg_verdict fg_bands_fault(fg_bands_state *state) { return forget(&state->settle); }
