/* SPDX-License-Identifier: MIT */
/* A worked-out or smoothed sensor on a limit: readings of its parts are changed a little at a time, at random, and a
 * change stays if the value comes no further from the limit (random-restart hill climbing, as in Russell and Norvig,
 * Artificial Intelligence, 4.1). Two sets of readings follow each other, since a window may need both. */
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

enum { PHASES = 2 };

typedef struct climb {
    fg_ask *a;
    fg_dice dice;
    fg_value *values, *best; /* of each input in each phase */
    uint32_t stay, first;    /* steps of a phase, at most, and of the first one */
    size_t reached;          /* the step at which it is so */
} climb;

static int64_t distance_now(const fg_ask *a)
{
    const fg_situation *s = a->situation;
    const fg_value circle = a->gate->sensors[s->number].circle;
    fg_value value;
    if (!fg_sensor_value(a->run, s->number, &value)) return INT64_MAX;
    int64_t away = (int64_t)value - s->limit;
    if (away < 0) away = -away;
    return circle && away > circle / 2 ? circle - away : away;
}

static void feed(const climb *c, size_t input, fg_value value, fg_time at)
{
    const fg_declared *d = c->a->cone.inputs[input].declared;
    if (d->kind == FG_KIND_FLAG)
        fg_feed_flag(c->a->run, d->index, value != 0, at);
    else
        fg_feed(c->a->run, d->index, value, at);
}

/* How near they come; below 0: it is so. */
static int64_t try_values(climb *c)
{
    fg_ask *a = c->a;
    int64_t nearest = INT64_MAX;
    memcpy(a->memory, a->fresh, a->size);
    for (uint32_t step = 0; step < c->first + c->stay; step++, a->steps++) {
        const fg_time at = FG_PACKED_NOW + step * a->gate->every;
        const fg_value *now = c->values + (step < c->first ? 0 : a->cone.input_count);
        for (size_t i = 0; i < a->cone.input_count; i++) feed(c, i, now[i], at);
        fg_step(a->run, at);
        c->reached = step;
        if (fg_situation_happens(a->program, a->situation, a->run)) return -1;
        const int64_t away = distance_now(a);
        if (away < nearest) nearest = away;
    }
    return nearest;
}

static void bounds(const fg_ask *a, const fg_declared *d, int64_t *low, int64_t *high)
{
    *low = d->kind == FG_KIND_FLAG ? 0 : INT32_MIN;
    *high = d->kind == FG_KIND_FLAG ? 1 : INT32_MAX;
    if (d->kind == FG_KIND_FLAG) return;
    const fg_sensor *s = &a->gate->sensors[d->index];
    if (s->trust == FG_TRUST_RANGE) {
        *low = s->trusted.low;
        *high = s->trusted.high;
    }
    if (s->circle) {
        *low = 0;
        *high = s->circle - 1;
    }
}

static void begin_anywhere(climb *c)
{
    const size_t inputs = c->a->cone.input_count;
    for (size_t i = 0; i < PHASES * inputs; i++) {
        const fg_asked_input *input = &c->a->cone.inputs[i % inputs];
        const fg_choice *choice = &input->choices[fg_dice_throw(&c->dice, input->count)];
        c->values[i] = choice->kind == FG_CHOICE_VALUE ? choice->value : input->choices[0].value;
    }
}

/* One reading a little or a lot higher or lower. */
static void change_one(climb *c)
{
    enum { BITS = 20 };
    const size_t inputs = c->a->cone.input_count;
    const size_t i = fg_dice_throw(&c->dice, (uint32_t)(PHASES * inputs));
    const int64_t by = INT64_C(1) << fg_dice_throw(&c->dice, BITS);
    int64_t low, high, value = c->values[i] + (fg_dice_throw(&c->dice, 2) ? by : -by);
    bounds(c->a, c->a->cone.inputs[i % inputs].declared, &low, &high);
    if (value < low) value = low;
    if (value > high) value = high;
    c->values[i] = (fg_value)value;
}

static bool climb_once(climb *c, uint64_t most)
{
    enum { TRIES = 3000 };
    const size_t bytes = PHASES * c->a->cone.input_count * sizeof *c->values;
    begin_anywhere(c);
    c->first = 1 + fg_dice_throw(&c->dice, c->stay);
    int64_t nearest = try_values(c);
    for (int tries = 0; nearest >= 0 && tries < TRIES && c->a->steps < most; tries++) {
        memcpy(c->best, c->values, bytes);
        for (uint32_t changes = 1 + fg_dice_throw(&c->dice, 2); changes; changes--) change_one(c);
        const int64_t away = try_values(c);
        if (away > nearest)
            memcpy(c->values, c->best, bytes);
        else
            nearest = away;
    }
    return nearest < 0;
}

/* The readings become choices of their inputs. False: no memory. */
static bool tell_path(climb *c, fg_path *path)
{
    const size_t inputs = c->a->cone.input_count;
    path->steps = c->reached + 1;
    path->choices = malloc((path->steps * inputs + 1) * sizeof *path->choices);
    if (!path->choices) return false;
    for (size_t i = 0; i < inputs; i++) {
        fg_asked_input *input = &c->a->cone.inputs[i];
        for (size_t phase = 0; phase < PHASES; phase++)
            if (!fg_cone_add_choice(input, FG_CHOICE_VALUE, c->values[phase * inputs + i])) return false;
        for (size_t step = 0; step < path->steps; step++)
            path->choices[step * inputs + i] = input->count - PHASES + (step >= c->first);
    }
    return true;
}

/* As long as the longest window, and a step. */
static uint32_t stay_of(const fg_ask *a)
{
    enum { MOST = 60 };
    uint32_t stay = 1;
    for (uint16_t i = 0; i < a->gate->size.sensors; i++) {
        const fg_sensor *s = &a->gate->sensors[i];
        if (!a->cone.sensors[i]) continue;
        if (s->window > stay) stay = s->window;
        for (uint16_t k = 0; k < s->term_count; k++)
            if (a->gate->terms[s->first_term + k].count > stay) stay = a->gate->terms[s->first_term + k].count;
    }
    return stay < MOST ? stay + 1 : MOST;
}

fg_promise_verdict fg_climb(fg_ask *a, fg_path *path)
{
    climb c = {.a = a, .dice = {UINT64_C(0xc11b)}, .stay = stay_of(a)};
    const size_t count = PHASES * a->cone.input_count + 1;
    fg_promise_verdict verdict = FG_PROMISE_UNDECIDED;
    c.values = calloc(count, sizeof *c.values);
    c.best = calloc(count, sizeof *c.best);
    a->full = a->full || !c.values || !c.best;
    while (!a->full && a->cone.input_count && a->steps < a->most && verdict == FG_PROMISE_UNDECIDED) {
        if (a->progress.tell) a->progress.tell(a->progress.context, a->steps, a->steps, a->most);
        if (!climb_once(&c, a->most)) continue;
        verdict = FG_PROMISE_BREAKS;
        a->full = !tell_path(&c, path);
    }
    free(c.values);
    free(c.best);
    return verdict;
}
