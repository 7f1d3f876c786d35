/* SPDX-License-Identifier: MIT */
/* Readings by chance, at and beside the limits: they go deep where all states are too many. Each stays for a while, or
 * all of them stay as long as something in the gate waits, or a step more or less, so that a wait of hours is met as
 * often as one of a second. */
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

enum { WAITS_MOST = 64, STEPS = 4000, STEPS_MOST = 100000 };

typedef struct chance {
    fg_ask *a;
    fg_dice dice;
    uint32_t waits[WAITS_MOST]; /* in steps, each once */
    uint32_t wait_count;
    size_t room; /* steps of a way */
} chance;

/* ---- what waits ---- */

static void add_wait(chance *c, fg_time time)
{
    const fg_time every = c->a->gate->every;
    const uint32_t steps = time / every + (time % every != 0);
    if (steps < 2 || steps > STEPS_MOST || c->wait_count == WAITS_MOST) return;
    for (uint32_t i = 0; i < c->wait_count; i++)
        if (c->waits[i] == steps) return;
    c->waits[c->wait_count++] = steps;
}

static void add_op(chance *c, const fg_op *op)
{
    const fg_gate *g = c->a->gate;
    const fg_settle *settle = fg_op_settle(g, op);
    if (settle) add_wait(c, settle->time);
    if (op->kind == FG_OP_FOR) add_wait(c, g->lastings[op->rule]);
    if (op->kind != FG_OP_PULSE) return;
    const fg_pulser *p = &g->pulses[op->rule];
    for (uint16_t i = 0; i < p->length_count; i++) add_wait(c, g->pulse_lengths[p->first_length + i].time);
}

static void find_waits(chance *c)
{
    const fg_ask *a = c->a;
    const fg_gate *g = a->gate;
    const uint32_t slots = (uint32_t)g->size.ops + g->size.watched;
    if (a->row->kind == FG_EXPECT_WITHIN) add_wait(c, a->row->from);
    for (uint32_t slot = 0; slot < slots; slot++)
        if (a->cone.ops[slot]) add_op(c, &g->ops[slot]);
    for (uint16_t i = 0; i < g->size.sensors; i++) {
        if (!a->cone.sensors[i]) continue;
        add_wait(c, g->sensors[i].stale);
        add_wait(c, g->sensors[i].stuck);
        add_wait(c, g->sensors[i].bridge);
    }
    for (uint16_t i = 0; i < g->size.flags; i++) {
        if (!a->cone.flags[i]) continue;
        add_wait(c, g->flags[i].stale);
        add_wait(c, g->flags[i].bridge);
        add_wait(c, g->flags[i].settle);
    }
}

/* A way has room for the longest wait a few times. */
static size_t room_of(const chance *c)
{
    uint32_t longest = 0;
    for (uint32_t i = 0; i < c->wait_count; i++)
        if (c->waits[i] > longest) longest = c->waits[i];
    return STEPS + 3 * (size_t)longest;
}

/* ---- walking ---- */

/* For how many steps more all readings stay as they are. */
static uint32_t stay(chance *c)
{
    if (!c->wait_count || fg_dice_throw(&c->dice, 2)) return fg_dice_throw(&c->dice, 3);
    return c->waits[fg_dice_throw(&c->dice, c->wait_count)] - 2 + fg_dice_throw(&c->dice, 3);
}

/* `calm`: at a change each reading stays with one chance in so many less one. `together`: changes come together, with
 * waits between them; else at any step. */
static bool walk(chance *c, fg_path *way, uint32_t calm, bool together)
{
    fg_ask *a = c->a;
    const size_t inputs = a->cone.input_count;
    fg_judge judge = {0};
    uint32_t stays = 0;
    memcpy(a->memory, a->fresh, a->size);
    for (way->steps = 1; way->steps <= c->room && a->steps < a->most; way->steps++) {
        uint32_t *now = way->choices + (way->steps - 1) * inputs;
        const uint32_t *before = way->steps > 1 ? now - inputs : now;
        const fg_time at = FG_PACKED_NOW + (fg_time)(way->steps - 1) * a->gate->every;
        const bool changes = !together || !stays;
        if (together) stays = changes ? stay(c) : stays - 1;
        for (size_t i = 0; i < inputs; i++) {
            const bool keeps = way->steps > 1 && (!changes || fg_dice_throw(&c->dice, calm));
            now[i] = keeps ? before[i] : fg_dice_throw(&c->dice, a->cone.inputs[i].count);
            fg_cone_feed(a, i, now[i], at);
        }
        fg_step(a->run, at);
        a->steps++;
        const fg_judged judged = fg_judge_step(a, &judge);
        if (judged == FG_JUDGED_BROKEN) return true;
        if (judged == FG_JUDGED_OUTSIDE) return false;
    }
    return false;
}

fg_promise_verdict fg_search_by_chance(fg_ask *a, fg_path *way)
{
    enum { WALKS_OFTEN = 16 };
    chance c = {.a = a, .dice = {UINT64_C(0x5eed)}};
    find_waits(&c);
    c.room = room_of(&c);
    way->choices = malloc((c.room * a->cone.input_count + 1) * sizeof *way->choices);
    a->full = a->full || !way->choices;
    for (unsigned walks = 1; way->choices && a->steps < a->most; walks++) {
        const bool together = walks % 2;
        const uint32_t calm = together ? 1 + fg_dice_throw(&c.dice, 4) : 1u << fg_dice_throw(&c.dice, 8);
        if (walk(&c, way, calm, together)) return FG_PROMISE_BREAKS;
        if (walks % WALKS_OFTEN == 0 && a->progress.tell)
            a->progress.tell(a->progress.context, a->steps, a->steps, a->most);
    }
    free(way->choices);
    *way = (fg_path){0};
    return FG_PROMISE_UNDECIDED;
}
