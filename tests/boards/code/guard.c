/* SPDX-License-Identifier: MIT */
#include "guard.h"

#include <stdlib.h>
#include <string.h>

/* How something hangs on one reading: not at all, by what is read alone, or through something asked for by name. */
typedef enum hang { FREE, BARE, BY_NAME } hang;

enum { TRIED_MOST = 400, OUTPUTS_MOST = 40 };

typedef struct tried {
    uint16_t number;
    bool flag;
    fg_level levels[OUTPUTS_MOST];
} tried;

static const fg_gate *gate;
static uint8_t *slots, *sensors; /* hang */
static tried tries[TRIED_MOST];
static size_t try_count;
static unsigned long compared;

bool guard_start(const fg_gate *guarded)
{
    gate = guarded;
    slots = calloc((size_t)gate->size.ops + gate->size.watched + 1, 1);
    sensors = calloc((size_t)gate->size.sensors + 1, 1);
    return slots && sensors && gate->size.outputs <= OUTPUTS_MOST;
}

static hang most(hang a, hang b) { return a > b ? a : b; }
static hang named(hang a) { return a == FREE ? FREE : BY_NAME; }
static hang slot(uint16_t i) { return i == FG_INDEX_NONE ? FREE : (hang)slots[i]; }

/* One that bridges keeps its value, and one whose zero is set by a flag keeps that. */
static hang of_sensor(uint16_t number, uint16_t lost)
{
    const fg_sensor *s = &gate->sensors[number];
    hang all = number == lost ? BARE : FREE;
    for (uint16_t i = 0; i < s->term_count; i++) {
        const fg_term *term = &gate->terms[s->first_term + i];
        if (fg_term_reads(term->kind)) all = most(all, (hang)sensors[term->sensor]);
    }
    if (s->bridge) all = named(all);
    if (!(s->stages & FG_STAGE_ZERO)) return all;
    for (uint16_t i = 0; i < gate->size.ops; i++)
        if (gate->ops[i].kind == FG_OP_FLAG && gate->ops[i].rule == s->zero_flag) all = most(all, named(slot(i)));
    return all;
}

static hang of_count(uint16_t count)
{
    const fg_counter *c = &gate->counters[count];
    return named(most(most(slot(c->add), slot(c->take)), slot(c->zero)));
}

static hang of_pulse(uint16_t pulse)
{
    const fg_pulser *p = &gate->pulses[pulse];
    hang all = most(most(slot(p->start), slot(p->again)), slot(p->stop));
    for (uint16_t i = 0; i < p->length_count; i++) all = most(all, slot(gate->pulse_lengths[p->first_length + i].slot));
    return named(all);
}

static hang of_follow(uint16_t number)
{
    const fg_follow *f = &gate->follows[number];
    return f->count ? of_count(f->source) : (hang)sensors[f->source];
}

static hang of_level(const fg_level *level)
{
    hang all = FREE;
    if (level->form == FG_FORM_FOLLOW) return of_follow((uint16_t)level->number);
    if (level->form != FG_FORM_PLAY) return FREE;
    const fg_sequence *q = &gate->sequences[level->number];
    for (uint16_t i = 0; i < q->segment_count; i++) {
        const uint16_t tempo = gate->segments[q->first_segment + i].tempo;
        if (tempo != FG_INDEX_NONE) all = most(all, of_follow(tempo));
    }
    return all;
}

static hang of_output(const fg_output *output)
{
    hang all = FREE;
    for (uint16_t i = 0; i < output->row_count; i++) {
        const fg_row *row = &gate->rows[output->first_row + i];
        if (row->when == FG_ROW_WHEN) all = most(all, slot(row->slot));
        all = most(all, row->through ? named(of_level(&row->level)) : of_level(&row->level));
    }
    return all;
}

/* `previously` looks at the step before, which is the same in both. */
static hang of_op(const fg_op *op, uint16_t number, bool flag)
{
    hang all = FREE;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: return (hang)(sensors[op->rule] = (uint8_t)of_sensor(op->rule, flag ? FG_INDEX_NONE : number));
    case FG_OP_FLAG:
        if (!flag || op->rule != number) return FREE;
        return gate->flags[number].bridge ? BY_NAME : BARE;
    case FG_OP_THRESHOLD:
    case FG_OP_HYSTERESIS:
    case FG_OP_BANDS:
    case FG_OP_COMPARE: return (hang)sensors[op->a];
    case FG_OP_SENSOR_FAULTY: return named((hang)sensors[op->rule]);
    case FG_OP_FLAG_FAULTY: return flag && op->rule == number ? BY_NAME : FREE;
    case FG_OP_UNSURE: return named(slot(op->a));
    case FG_OP_COUNT: return of_count(op->rule);
    case FG_OP_COMPARE_COUNT: return of_count(op->a);
    case FG_OP_PULSE: return of_pulse(op->rule);
    case FG_OP_AT_LEAST:
        for (uint16_t i = 0; i < op->b; i++) all = most(all, slot(gate->slots[op->rule + i]));
        return all;
    default:
        if (fg_op_is(op->kind, FG_OP_A_IS_SLOT)) all = slot(op->a);
        if (fg_op_is(op->kind, FG_OP_B_IS_SLOT)) all = most(all, slot(op->b));
        return all;
    }
}

void guard_tried(const fg_run *run, uint16_t number, bool flag)
{
    if (try_count == TRIED_MOST) return;
    tried *t = &tries[try_count++];
    t->number = number;
    t->flag = flag;
    for (uint16_t i = 0; i < gate->size.outputs; i++) t->levels[i] = fg_output_at(run, i)->level;
}

/* Was it asked for: by a row `if unsure`, or because there is nothing to be unsure of? */
static bool rests_or_is_asked(const fg_run *run, uint16_t i)
{
    const fg_output *output = &gate->outputs[i];
    const fg_output_state *state = fg_output_at(run, i);
    if (!output->guarded || fg_level_same(&state->level, &output->rest)) return true;
    return state->row != FG_INDEX_NONE && gate->rows[output->first_row + state->row].when == FG_ROW_IF_UNSURE;
}

static void compare(const fg_run *run, const tried *t)
{
    const bool ok = t->flag ? fg_flag_at(run, t->number)->bridged != FG_UNSURE : fg_sensor_at(run, t->number)->ok;
    if (ok) return;
    for (uint16_t i = 0; i < gate->size.ops; i++) slots[i] = (uint8_t)of_op(&gate->ops[i], t->number, t->flag);
    for (uint16_t i = 0; i < gate->size.outputs; i++) {
        const hang hangs = of_output(&gate->outputs[i]);
        if (rests_or_is_asked(run, i) || hangs == BY_NAME) continue;
        compared += hangs == BARE;
        if (fg_level_same(&fg_output_at(run, i)->level, &t->levels[i])) continue;
        char is[FG_LEVEL_TEXT_SIZE], would_be[FG_LEVEL_TEXT_SIZE];
        fg_level_text(&fg_output_at(run, i)->level, is);
        fg_level_text(&t->levels[i], would_be);
        fprintf(stderr, "output %u is at %s while %s %u is faulty, which could have made it %s\n", i, is,
                t->flag ? "flag" : "sensor", t->number, would_be);
        exit(3);
    }
}

void guard_stepped(const fg_run *run)
{
    for (size_t i = 0; i < try_count; i++) compare(run, &tries[i]);
    try_count = 0;
}

unsigned long guard_compared(void) { return compared; }
