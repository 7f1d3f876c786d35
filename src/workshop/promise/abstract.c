/* SPDX-License-Identifier: MIT */
/* A gate that can do more than the one that is asked about, and is simpler: sensors that are worked out or smoothed are
 * any value, conditions that share no input with what the promise names are any answer. What holds of it holds of the
 * gate; what breaks it need not break the gate. */
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

struct fg_abstract {
    fg_gate gate;
    fg_op *ops;
    fg_sensor *sensors;
    fg_flag *flags;
    fg_declared *free; /* a flag for each answer that is any */
    size_t free_count;
};

/* ---- which inputs a slot hangs on ---- */

typedef struct reach {
    const fg_ask *a;
    bool *sensors, *flags; /* what the promise names hangs on */
    fg_abstract *out;
    bool *seen;
    bool full;
} reach;

/* Inputs of a cone into the marks. False: it shares none with them. */
static bool shares(const reach *r, const fg_cone *cone)
{
    const fg_gate_sizes *n = &r->a->gate->size;
    for (uint16_t i = 0; i < n->sensors; i++)
        if (cone->sensors[i] && r->sensors[i]) return true;
    for (uint16_t i = 0; i < n->flags; i++)
        if (cone->flags[i] && r->flags[i]) return true;
    return false;
}

static bool may_be_any(reach *r, uint16_t slot)
{
    fg_ask one = *r->a;
    bool own = false;
    one.cone = (fg_cone){0};
    if (fg_cone_of_slot(&one, slot))
        own = !shares(r, &one.cone);
    else
        r->full = true;
    fg_cone_end(&one.cone);
    return own;
}

static void make_free(reach *r, uint16_t slot)
{
    fg_abstract *out = r->out;
    fg_op *op = &out->ops[slot];
    const uint16_t flag = (uint16_t)(r->a->gate->size.flags + out->free_count);
    if (op->kind == FG_OP_FLAG && op->rule >= r->a->gate->size.flags) return; /* it is already */
    *op = (fg_op){.kind = FG_OP_FLAG, .rule = flag};
    out->free[out->free_count++] = (fg_declared){.kind = FG_KIND_FLAG, .name = fg_text_of("any answer"), .index = flag};
}

static void look(reach *r, uint16_t slot);

static void look_at_count(reach *r, uint16_t number)
{
    const fg_counter *c = &r->a->gate->counters[number];
    look(r, c->add);
    look(r, c->take);
    look(r, c->zero);
}

static void look_at_output(reach *r, uint16_t number)
{
    const fg_gate *g = r->a->gate;
    const fg_output *output = &g->outputs[number];
    for (uint16_t i = 0; i < output->row_count; i++) {
        const fg_row *row = &g->rows[output->first_row + i];
        if (row->when == FG_ROW_WHEN) look(r, row->slot);
        if (row->level.form == FG_FORM_FOLLOW && g->follows[row->level.number].count)
            look_at_count(r, g->follows[row->level.number].source);
    }
}

static void look_at_pulse(reach *r, uint16_t number)
{
    const fg_pulser *p = &r->a->gate->pulses[number];
    look(r, p->start);
    look(r, p->again);
    look(r, p->stop);
    for (uint16_t i = 0; i < p->length_count; i++) look(r, r->a->gate->pulse_lengths[p->first_length + i].slot);
}

/* From what the row asks down: an answer that may be any is, and nothing below it is looked at. */
static void look(reach *r, uint16_t slot)
{
    const fg_gate *g = r->a->gate;
    if (slot == FG_INDEX_NONE || r->seen[slot]) return;
    r->seen[slot] = true;
    const fg_op *op = &g->ops[slot];
    const bool yes_no =
        op->kind != FG_OP_BANDS && op->kind != FG_OP_COUNT && op->kind != FG_OP_OUTPUT && op->kind != FG_OP_SENSOR;
    if (yes_no && may_be_any(r, slot)) {
        make_free(r, slot);
        return;
    }
    if (fg_op_is(op->kind, FG_OP_A_IS_SLOT)) look(r, op->a);
    if (fg_op_is(op->kind, FG_OP_B_IS_SLOT)) look(r, op->b);
    switch ((fg_op_kind)op->kind) {
    case FG_OP_AT_LEAST:
        for (uint16_t i = 0; i < op->b; i++) look(r, g->slots[op->rule + i]);
        break;
    case FG_OP_PREVIOUSLY: look(r, g->previously[op->rule]); break;
    case FG_OP_COMPARE_COUNT: look_at_count(r, op->a); break;
    case FG_OP_PULSE: look_at_pulse(r, op->rule); break;
    case FG_OP_OUTPUT: look_at_output(r, op->rule); break;
    case FG_OP_OUTPUT_IS:
    case FG_OP_OUTPUT_PLAYS: look_at_output(r, op->a); break;
    default: break;
    }
}

/* What the promise names, but for what stands behind outputs. */
static void find_named(reach *r, uint16_t slot, uint32_t depth)
{
    enum { DEEP = 200 };
    const fg_gate *g = r->a->gate;
    if (slot == FG_INDEX_NONE || depth > DEEP) return;
    const fg_op *op = &g->ops[slot];
    if (op->kind == FG_OP_OUTPUT || op->kind == FG_OP_OUTPUT_IS || op->kind == FG_OP_OUTPUT_PLAYS) return;
    const bool joins =
        fg_op_is(op->kind, FG_OP_JOINS) || op->kind == FG_OP_FOR || op->kind == FG_OP_STARTS || op->kind == FG_OP_ENDS;
    if (joins) {
        find_named(r, op->a, depth + 1);
        if (fg_op_is(op->kind, FG_OP_B_IS_SLOT)) find_named(r, op->b, depth + 1);
        return;
    }
    fg_ask one = *r->a;
    one.cone = (fg_cone){0};
    if (fg_cone_of_slot(&one, slot)) {
        for (uint16_t i = 0; i < g->size.sensors; i++) r->sensors[i] = r->sensors[i] || one.cone.sensors[i];
        for (uint16_t i = 0; i < g->size.flags; i++) r->flags[i] = r->flags[i] || one.cone.flags[i];
    } else {
        r->full = true;
    }
    fg_cone_end(&one.cone);
}

/* ---- sensors that are any value ---- */

/* Its value is what others or earlier readings make of it: so it may be any that it can be, or none. */
static void simplify_sensor(fg_sensor *s)
{
    const bool zero = s->stages & FG_STAGE_ZERO, sum = s->term_count != 0;
    const bool open =
        sum || zero || s->window || s->stages & FG_STAGE_STUCK || (s->circle && s->trust == FG_TRUST_RANGE);
    if (!open) return;
    /* What is trusted is judged before the zero is taken off, and on a circle before it wraps. */
    if (sum || zero || s->circle) s->trust = FG_TRUST_ALL;
    s->stages = 0;
    s->window = 0;
    s->term_count = 0;
}

/* A rule that settles within a distance remembers a reading: it may answer anything, and so may whoever asks it. */
static void free_distances(reach *r)
{
    const fg_gate *g = r->a->gate;
    const uint32_t slots = (uint32_t)g->size.ops + g->size.watched;
    for (uint32_t slot = 0; slot < slots; slot++) {
        const fg_settle *settle = fg_op_settle(g, &g->ops[slot]);
        if (!settle || settle->within == FG_ANY_DISTANCE) continue;
        if (g->ops[slot].kind != FG_OP_BANDS) {
            make_free(r, (uint16_t)slot);
            continue;
        }
        for (uint32_t other = 0; other < slots; other++)
            if ((g->ops[other].kind == FG_OP_IS || g->ops[other].kind == FG_OP_UNSURE) && g->ops[other].a == slot)
                make_free(r, (uint16_t)other);
    }
}

static void look_at_row(reach *r, void (*at)(reach *r, uint16_t slot))
{
    const fg_ask *a = r->a;
    at(r, a->row->slot);
    at(r, a->row->while_slot);
    for (uint32_t i = 0; i < a->promise->row_count; i++)
        if (a->promise->rows[i].kind == FG_EXPECT_ASSUME) at(r, a->promise->rows[i].slot);
}

static void name_slot(reach *r, uint16_t slot) { find_named(r, slot, 0); }

fg_abstract *fg_abstract_start(const fg_ask *a, fg_freedom freedom)
{
    const fg_gate *g = a->gate;
    const size_t slots = (size_t)g->size.ops + g->size.watched;
    fg_abstract *out = calloc(1, sizeof *out);
    reach r = {.a = a, .out = out};
    if (!out) return NULL;
    out->ops = calloc(slots + 1, sizeof *out->ops);
    out->sensors = calloc((size_t)g->size.sensors + 1, sizeof *out->sensors);
    out->flags = calloc((size_t)g->size.flags + slots + 1, sizeof *out->flags);
    out->free = calloc(slots + 1, sizeof *out->free);
    r.sensors = calloc((size_t)g->size.sensors + 1, sizeof(bool));
    r.flags = calloc((size_t)g->size.flags + 1, sizeof(bool));
    r.seen = calloc(slots + 1, sizeof(bool));
    r.full = !out->ops || !out->sensors || !out->flags || !out->free || !r.sensors || !r.flags || !r.seen;
    if (!r.full) {
        if (slots) memcpy(out->ops, g->ops, slots * sizeof *out->ops);
        if (g->size.sensors) memcpy(out->sensors, g->sensors, g->size.sensors * sizeof *out->sensors);
        if (g->size.flags) memcpy(out->flags, g->flags, g->size.flags * sizeof *out->flags);
        for (uint16_t i = 0; i < g->size.sensors; i++) simplify_sensor(&out->sensors[i]);
        free_distances(&r);
        if (freedom == FG_FREE_OF_WHILE) name_slot(&r, a->row->while_slot);
        if (freedom == FG_FREE_OF_ROW) look_at_row(&r, name_slot);
        if (freedom != FG_FREE_NOTHING) look_at_row(&r, look);
        out->gate = *g;
        out->gate.ops = out->ops;
        out->gate.sensors = out->sensors;
        out->gate.flags = out->flags;
        out->gate.size.flags = (uint16_t)(g->size.flags + out->free_count);
    }
    free(r.sensors);
    free(r.flags);
    free(r.seen);
    if (!r.full) return out;
    fg_abstract_end(out);
    return NULL;
}

const fg_gate *fg_abstract_gate(const fg_abstract *abstract) { return &abstract->gate; }

const fg_declared *fg_abstract_free(const fg_abstract *abstract, size_t *count)
{
    *count = abstract->free_count;
    return abstract->free;
}

void fg_abstract_end(fg_abstract *abstract)
{
    if (!abstract) return;
    free(abstract->ops);
    free(abstract->sensors);
    free(abstract->flags);
    free(abstract->free);
    free(abstract);
}
