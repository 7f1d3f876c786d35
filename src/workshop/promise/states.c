/* SPDX-License-Identifier: MIT */
/* States that answer the same for ever have the same bytes: what nothing in the cone looks at is left out, what has no
 * meaning at the moment is zero, and a time is how long ago it was, no longer than anybody waits. The clock of a state
 * always stands at FG_PACKED_NOW. */
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

typedef struct region {
    size_t at, size; /* of the run's memory */
} region;

struct fg_packing {
    const fg_ask *a;
    region *regions;
    size_t count, room, size;
    bool full;
};

/* ---- which bytes ---- */

static void add_region(fg_packing *p, const void *at, size_t size)
{
    if (p->count == p->room) {
        const size_t room = p->room ? 2 * p->room : 32;
        region *regions = realloc(p->regions, room * sizeof *regions);
        p->full = p->full || !regions;
        if (!regions) return;
        p->regions = regions;
        p->room = room;
    }
    p->regions[p->count++] = (region){(size_t)((const unsigned char *)at - (const unsigned char *)p->a->memory), size};
    p->size += size;
}

static void add_sensor(fg_packing *p, uint16_t i)
{
    const fg_gate *g = p->a->gate;
    const fg_run *run = p->a->run;
    const fg_sensor *s = &g->sensors[i];
    add_region(p, &run->sensors[i], sizeof run->sensors[i]);
    if (s->window) add_region(p, run->window_values + s->window_at, fg_window_room(s) * sizeof(fg_value));
    for (uint16_t k = 0; k < s->term_count; k++) {
        const fg_term *term = &g->terms[s->first_term + k];
        if (term->kind < FG_TERM_RATE) continue;
        add_region(p, &run->windows[term->window], sizeof run->windows[term->window]);
        add_region(p, run->window_values + term->window_at, term->count * sizeof(fg_value));
    }
}

static void add_output(fg_packing *p, uint16_t i)
{
    const fg_output *output = &p->a->gate->outputs[i];
    const fg_run *run = p->a->run;
    add_region(p, &run->outputs[i], sizeof run->outputs[i]);
    for (uint16_t k = 0; k < output->row_count; k++) {
        const fg_row *row = &p->a->gate->rows[output->first_row + k];
        if (row->level.form == FG_FORM_PLAY || row->level.form == FG_FORM_SWEEP)
            add_region(p, &run->plays[row->play], sizeof run->plays[row->play]);
    }
}

static void add_op(fg_packing *p, const fg_op *op)
{
    const fg_run *run = p->a->run;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: add_sensor(p, op->rule); break;
    case FG_OP_FLAG: add_region(p, &run->flags[op->rule], sizeof run->flags[op->rule]); break;
#define ADD_RULE(NAME, name, table)                                                                                    \
    case FG_OP_##NAME: add_region(p, &run->table[op->rule], sizeof run->table[op->rule]); break;
        FG_SENSOR_RULES(ADD_RULE)
#undef ADD_RULE
    case FG_OP_FOR: add_region(p, &run->lastings[op->rule], sizeof run->lastings[op->rule]); break;
    case FG_OP_STARTS:
    case FG_OP_ENDS: add_region(p, &run->edges[op->rule], sizeof run->edges[op->rule]); break;
    case FG_OP_PREVIOUSLY: add_region(p, &run->previously[op->rule], sizeof run->previously[op->rule]); break;
    case FG_OP_LATCH: add_region(p, &run->latches[op->rule], sizeof run->latches[op->rule]); break;
    case FG_OP_COUNT: add_region(p, &run->counters[op->rule], sizeof run->counters[op->rule]); break;
    case FG_OP_PULSE: add_region(p, &run->pulses[op->rule], sizeof run->pulses[op->rule]); break;
    case FG_OP_OUTPUT: add_output(p, op->rule); break;
    default: break;
    }
}

fg_packing *fg_packing_start(const fg_ask *a)
{
    const uint32_t slots = (uint32_t)a->gate->size.ops + a->gate->size.watched;
    fg_packing *p = calloc(1, sizeof *p);
    if (!p) return NULL;
    p->a = a;
    p->size = sizeof(fg_judge);
    for (uint32_t i = 0; i < slots; i++)
        if (a->cone.ops[i]) add_op(p, &a->gate->ops[i]);
    if (!p->full) return p;
    fg_packing_end(p);
    return NULL;
}

void fg_packing_end(fg_packing *p)
{
    if (p) free(p->regions);
    free(p);
}

size_t fg_packing_size(const fg_packing *p) { return p->size; }

/* ---- what has no meaning is zero ---- */

/* A time as FG_PACKED_NOW less how long ago it was, but no longer than `most`; without meaning FG_PACKED_NOW. */
static fg_time ago(const fg_ask *a, fg_time at, bool means, fg_time most)
{
    fg_time age = means ? a->run->now - at : 0;
    if (age > most) age = most;
    return FG_PACKED_NOW - age;
}

static void normal_settle(const fg_ask *a, const fg_settle *rule, fg_settle_state *s)
{
    const bool waits = s->candidate != s->present;
    s->since = ago(a, s->since, waits, rule->time);
    if (!waits || rule->within == FG_ANY_DISTANCE) s->began = 0;
}

static void normal_window(fg_sensor_state *s, const fg_sensor *rule, fg_value *values)
{
    fg_value turned[UINT8_MAX];
    if (s->count < rule->window) {
        memset(values + s->count, 0, (size_t)(rule->window - s->count) * sizeof *values);
        return;
    }
    for (uint8_t i = 0; i < rule->window; i++) turned[i] = values[(s->head + i) % rule->window];
    memcpy(values, turned, rule->window * sizeof *values);
    s->head = 0;
}

static void normal_sensor(const fg_ask *a, uint16_t i)
{
    const fg_sensor *rule = &a->gate->sensors[i];
    fg_sensor_state *s = &a->run->sensors[i];
    const bool stale = rule->stages & FG_STAGE_STALE, stuck = rule->stages & FG_STAGE_STUCK;
    const bool bridge = rule->stages & FG_STAGE_BRIDGE;
    fg_sensor_state kept;
    memset(&kept, 0, sizeof kept); /* padding as well */
    kept.plain = s->plain;
    kept.at = ago(a, s->at, stale && !s->old, rule->stale + 1);
    if (stale || stuck) {
        kept.heard = s->heard;
        kept.newest = s->heard == FG_HEARD_VALUE || stuck ? s->newest : 0;
        kept.old = stale && s->old;
    }
    if (stuck) {
        kept.stuck_known = s->stuck_known;
        kept.stuck_value = s->stuck_value;
        kept.is_stuck = s->is_stuck;
        kept.stuck_since = ago(a, s->stuck_since, s->stuck_known && !s->is_stuck, rule->stuck);
    } else {
        kept.stuck_since = FG_PACKED_NOW;
    }
    kept.good_known = bridge && s->good_known;
    if (kept.good_known) kept.good = s->good;
    kept.good_at = ago(a, s->good_at, kept.good_known, rule->bridge + 1);
    if (a->cone.follows[i]) kept.value = s->value;
    if (rule->stages & FG_STAGE_ZERO) {
        kept.zero = s->zero;
        kept.zero_previous = s->zero_previous;
    }
    if (rule->window) {
        kept.count = s->count;
        kept.head = s->head;
        if (!(rule->stages & FG_STAGE_MEAN) && !rule->circle)
            normal_window(&kept, rule, a->run->window_values + rule->window_at);
    }
    *s = kept;
}

static void normal_flag(const fg_ask *a, uint16_t i)
{
    const fg_flag *rule = &a->gate->flags[i];
    fg_flag_state *s = &a->run->flags[i];
    const bool stale = rule->stages & FG_STAGE_STALE, bridge = rule->stages & FG_STAGE_BRIDGE;
    const fg_settle settle = FG_SETTLE(rule->settle);
    fg_flag_state kept;
    memset(&kept, 0, sizeof kept);
    if (s->steady && s->good != FG_UNSURE) s->good_at = a->run->now; /* it was not looked at, being as it was */
    kept.at = ago(a, s->at, stale && !s->old, rule->stale + 1);
    if (stale) {
        kept.heard = s->heard;
        kept.newest = s->newest;
        kept.old = s->old;
    }
    if (bridge) kept.good = s->good;
    kept.good_at = ago(a, s->good_at, bridge && s->good != FG_UNSURE, rule->bridge + 1);
    if (rule->settle || stale) { /* else the next step has a reading, and asks for nothing else */
        kept.settle = s->settle;
        normal_settle(a, &settle, &kept.settle);
    } else {
        kept.settle.since = FG_PACKED_NOW;
    }
    *s = kept;
}

static void normal_play(const fg_ask *a, const fg_row *row, bool plays, fg_play_state *s)
{
    fg_play_state kept;
    memset(&kept, 0, sizeof kept);
    if (row->level.form == FG_FORM_SWEEP) {
        kept.elapsed = s->elapsed;
        kept.begun = s->begun;
    } else {
        const fg_sequence *sequence = &a->gate->sequences[row->level.number];
        if (plays || sequence->resumes) {
            kept.elapsed = s->over ? 0 : s->elapsed;
            kept.length = s->length;
            kept.run = sequence->runs ? s->run : 0;
            kept.segment = s->segment;
            kept.begun = s->begun;
            kept.over = s->over;
        }
    }
    *s = kept;
}

static void normal_output(const fg_ask *a, uint16_t i)
{
    const fg_output *output = &a->gate->outputs[i];
    fg_output_state *s = &a->run->outputs[i];
    for (uint16_t k = 0; k < output->row_count; k++) {
        const fg_row *row = &a->gate->rows[output->first_row + k];
        if (row->level.form == FG_FORM_PLAY || row->level.form == FG_FORM_SWEEP)
            normal_play(a, row, s->row == k, &a->run->plays[row->play]);
    }
    fg_output_state kept;
    memset(&kept, 0, sizeof kept);
    kept.level.form = kept.before.form = s->level.form;
    kept.level.percent = kept.before.percent = s->level.percent;
    kept.level.number = kept.before.number = s->level.number;
    kept.level.colour = kept.before.colour = s->level.colour;
    kept.at = FG_PACKED_NOW;
    kept.row = s->row;
    kept.through = s->through;
    kept.stepped = s->stepped;
    *s = kept;
}

static void normal_op(const fg_ask *a, const fg_op *op)
{
    fg_run *run = a->run;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: normal_sensor(a, op->rule); break;
    case FG_OP_FLAG: normal_flag(a, op->rule); break;
#define NORMAL_RULE(NAME, name, table)                                                                                 \
    case FG_OP_##NAME: normal_settle(a, fg_op_settle(a->gate, op), &run->table[op->rule].settle); break;
        FG_SENSOR_RULES(NORMAL_RULE)
#undef NORMAL_RULE
    case FG_OP_FOR: {
        fg_lasting_state *s = &run->lastings[op->rule];
        s->since = ago(a, s->since, s->running && !s->lasted, a->gate->lastings[op->rule]);
        break;
    }
    case FG_OP_PULSE: {
        fg_pulse_state *s = &run->pulses[op->rule];
        s->since = ago(a, s->since, s->running, s->length);
        if (!s->running) s->length = 0;
        break;
    }
    case FG_OP_OUTPUT: normal_output(a, op->rule); break;
    default: break;
    }
    if (op->kind == FG_OP_BANDS) run->bands[op->rule].held = 0; /* a short cut only */
}

void fg_packing_pack(const fg_packing *p, const fg_judge *judge, unsigned char *bytes)
{
    const fg_ask *a = p->a;
    const uint32_t slots = (uint32_t)a->gate->size.ops + a->gate->size.watched;
    fg_judge kept;
    for (uint32_t i = 0; i < slots; i++)
        if (a->cone.ops[i]) normal_op(a, &a->gate->ops[i]);
    memset(&kept, 0, sizeof kept);
    kept.stepped = judge->stepped;
    kept.event = judge->event;
    kept.awaits = judge->awaits;
    memcpy(bytes, &kept, sizeof kept);
    bytes += sizeof kept;
    for (size_t i = 0; i < p->count; i++) {
        memcpy(bytes, (const unsigned char *)a->memory + p->regions[i].at, p->regions[i].size);
        bytes += p->regions[i].size;
    }
}

void fg_packing_unpack(const fg_packing *p, const unsigned char *bytes, fg_judge *judge)
{
    const fg_ask *a = p->a;
    memcpy(judge, bytes, sizeof *judge);
    bytes += sizeof *judge;
    for (size_t i = 0; i < p->count; i++) {
        memcpy((unsigned char *)a->memory + p->regions[i].at, bytes, p->regions[i].size);
        bytes += p->regions[i].size;
    }
    a->run->now = a->run->told = FG_PACKED_NOW;
}

/* Every op is worked out, since the short cuts look at what was left out. */
void fg_ask_step(const fg_ask *a, fg_time now)
{
    fg_run *run = a->run;
    run->begun = false;
    fg_step(run, now);
    for (uint16_t i = 0; i < a->gate->size.previously; i++) run->previously[i] = run->answers[a->gate->previously[i]];
}
