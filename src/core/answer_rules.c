/* SPDX-License-Identifier: MIT */
/* The rules that work on answers instead of readings: for, starts, ends, latch, count, pulse. */
#include <ficklegate/rules.h>

#include "since.h"

/* A yes that lasted goes on lasting: `lasted` keeps it, so a clock that wraps during a very long yes takes nothing
 * back. No and unsure end the wait alike, because a wait over a missing reading proves nothing. */
fg_verdict fg_lasting_step(fg_time time, fg_lasting_state *state, fg_verdict answer, fg_time now)
{
    if (answer != FG_YES) {
        state->running = state->lasted = false;
        return answer;
    }
    if (!state->running) {
        state->running = true;
        state->since = now;
    }
    state->lasted = state->lasted || fg_passed(&state->since, now) >= time;
    return fg_sure(state->lasted);
}

/* Only sure answers are remembered. What is unsure in between neither starts nor ends anything, and the first sure
 * answer has nothing to differ from, so it is no start. */
fg_verdict fg_edge_step(fg_edge_state *state, fg_verdict answer, fg_verdict to)
{
    if (answer == FG_UNSURE) return FG_UNSURE;
    const bool turned = answer == to && state->previous == fg_not(to);
    state->previous = answer;
    return fg_sure(turned);
}

/* An unsure condition could be yes or no, so there are up to four ways. As long as all of them end alike, a missing
 * reading hides nothing. */
fg_verdict fg_latch_step(const fg_latch *rule, fg_latch_state *state, fg_verdict set, fg_verdict clear)
{
    const bool may_set = set != FG_NO, may_not_set = set != FG_YES;
    const bool may_clear = clear != FG_NO, may_not_clear = clear != FG_YES;
    bool may_be_on, may_be_off;
    if (rule->clear_wins) {
        may_be_on = may_not_clear && (may_set || state->on);
        may_be_off = may_clear || (may_not_set && !state->on);
    } else {
        may_be_on = may_set || (may_not_clear && state->on);
        may_be_off = may_not_set && (may_clear || !state->on);
    }
    if (may_be_on && may_be_off) return FG_UNSURE;
    state->on = may_be_on;
    return fg_sure(state->on);
}

/* Both edges see every step, also one in which `zero` wins: a start during `zero` must not be counted a step later.
 * Two starts in one step cancel each other. The first step only begins, so what is yes from the very beginning is not
 * counted. */
fg_value fg_count_step(const fg_count *rule, fg_count_state *state, fg_verdict add, fg_verdict take, fg_verdict zero)
{
    /* A start is noticed even where nothing was counted. */
    const bool more = fg_edge_step(&state->add, add, FG_YES) == FG_YES;
    const bool fewer = fg_edge_step(&state->take, take, FG_YES) == FG_YES;
    if (!state->begun || zero == FG_YES) state->value = rule->first;
    const bool counts = state->begun && zero != FG_YES;
    state->begun = true;
    if (counts && more && !fewer && state->value < rule->high) state->value++;
    if (counts && fewer && !more && state->value > rule->low) state->value--;
    return state->value;
}

/* The order matters. First the pulse that runs may end, then `again` may free it, then a start is looked at: so a
 * start in the very step in which a pulse ends begins the next one. An unsure `stop` stops, because what the pulse
 * drives may be dangerous. */
fg_verdict fg_pulse_step(const fg_pulse *rule, fg_pulse_state *state, fg_verdict start, fg_time length,
                         fg_verdict again, fg_verdict stop, fg_time now)
{
    const bool starts = fg_edge_step(&state->start, start, FG_YES) == FG_YES;
    const bool asked = fg_edge_step(&state->again, again, FG_YES) == FG_YES;
    /* Where `again` is asked for, a pulse that is over is spent until it came. */
    if (state->running && (stop != FG_NO || fg_passed(&state->since, now) >= state->length)) {
        state->running = false;
        state->spent = rule->again;
    }
    if (asked) state->spent = false;
    if (starts && stop == FG_NO && length && (state->running ? rule->restarts : !state->spent)) {
        state->running = true;
        state->since = now;
        state->length = length;
    }
    return fg_sure(state->running);
}
