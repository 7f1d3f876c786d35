/* SPDX-License-Identifier: MIT */
/* A gate that can do more than the one that is asked about, and is simpler: sensors that are worked out or smoothed are
 * any value; rules that remember are any answer, all of them or those that stand further from what the promise names;
 * or so are conditions that share no input with what it names. What holds of it holds of the gate; what breaks it need
 * not break the gate. */
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
    uint8_t *depth; /* of a slot: how many rules that remember stand between it and the promise, at least; UNSEEN */
    uint8_t most;   /* from which depth on a rule that remembers is any answer */
    void (*visit)(struct reach *r, uint16_t slot, uint8_t depth);
    bool full;
} reach;

enum { UNSEEN = 255 };

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

/* ---- what a slot looks at ---- */

static void visit_count(reach *r, uint16_t number, uint8_t depth)
{
    const fg_counter *c = &r->a->gate->counters[number];
    r->visit(r, c->add, depth);
    r->visit(r, c->take, depth);
    r->visit(r, c->zero, depth);
}

static void visit_output(reach *r, uint16_t number, uint8_t depth)
{
    const fg_gate *g = r->a->gate;
    const fg_output *output = &g->outputs[number];
    for (uint16_t i = 0; i < output->row_count; i++) {
        const fg_row *row = &g->rows[output->first_row + i];
        if (row->when == FG_ROW_WHEN) r->visit(r, row->slot, depth);
        if (row->level.form == FG_FORM_FOLLOW && g->follows[row->level.number].count)
            visit_count(r, g->follows[row->level.number].source, depth);
    }
}

static void visit_pulse(reach *r, uint16_t number, uint8_t depth)
{
    const fg_gate *g = r->a->gate;
    const fg_pulser *p = &g->pulses[number];
    r->visit(r, p->start, depth);
    r->visit(r, p->again, depth);
    r->visit(r, p->stop, depth);
    for (uint16_t i = 0; i < p->length_count; i++) r->visit(r, g->pulse_lengths[p->first_length + i].slot, depth);
}

static void visit_parts(reach *r, uint16_t slot, uint8_t depth)
{
    const fg_gate *g = r->a->gate;
    const fg_op *op = &g->ops[slot];
    if (fg_op_is(op->kind, FG_OP_A_IS_SLOT)) r->visit(r, op->a, depth);
    if (fg_op_is(op->kind, FG_OP_B_IS_SLOT)) r->visit(r, op->b, depth);
    switch ((fg_op_kind)op->kind) {
    case FG_OP_AT_LEAST:
        for (uint16_t i = 0; i < op->b; i++) r->visit(r, g->slots[op->rule + i], depth);
        break;
    case FG_OP_PREVIOUSLY: r->visit(r, g->previously[op->rule], depth); break;
    case FG_OP_COMPARE_COUNT: visit_count(r, op->a, depth); break;
    case FG_OP_PULSE: visit_pulse(r, op->rule, depth); break;
    case FG_OP_OUTPUT: visit_output(r, op->rule, depth); break;
    case FG_OP_OUTPUT_IS:
    case FG_OP_OUTPUT_PLAYS: visit_output(r, op->a, depth); break;
    default: break;
    }
}

/* From what the row asks down: an answer that may be any is, and nothing below it is looked at. */
static void look(reach *r, uint16_t slot, uint8_t depth)
{
    if (slot == FG_INDEX_NONE || r->depth[slot] != UNSEEN) return;
    r->depth[slot] = depth;
    const uint8_t kind = r->a->gate->ops[slot].kind;
    const bool yes_no = kind != FG_OP_BANDS && kind != FG_OP_COUNT && kind != FG_OP_OUTPUT && kind != FG_OP_SENSOR;
    if (yes_no && may_be_any(r, slot))
        make_free(r, slot);
    else
        visit_parts(r, slot, depth);
}

/* ---- rules that remember ---- */

static bool remembers(const fg_gate *g, const fg_op *op)
{
    const fg_settle *settle = fg_op_settle(g, op);
    if (settle && settle->time) return true;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_THRESHOLD: {
        const fg_threshold *t = &g->thresholds[op->rule];
        return t->kept.low != t->range.low || t->kept.high != t->range.high;
    }
    case FG_OP_BANDS: return g->bands[op->rule].keeps;
    case FG_OP_HYSTERESIS:
    case FG_OP_COMPARE_COUNT:
    case FG_OP_FOR:
    case FG_OP_PULSE:
    case FG_OP_PREVIOUSLY:
    case FG_OP_STARTS:
    case FG_OP_ENDS:
    case FG_OP_LATCH: return true;
    default: return false;
    }
}

static void find_depth(reach *r, uint16_t slot, uint8_t depth)
{
    if (slot == FG_INDEX_NONE || r->depth[slot] <= depth) return;
    const bool own = remembers(r->a->gate, &r->a->gate->ops[slot]);
    r->depth[slot] = depth;
    if (!own || depth < r->most) visit_parts(r, slot, (uint8_t)(depth + own));
}

/* Bands are any of their labels for whoever asks. */
static void make_bands_free(reach *r, uint32_t slot)
{
    const fg_gate *g = r->a->gate;
    const uint32_t slots = (uint32_t)g->size.ops + g->size.watched;
    for (uint32_t other = 0; other < slots; other++)
        if ((g->ops[other].kind == FG_OP_IS || g->ops[other].kind == FG_OP_UNSURE) && g->ops[other].a == slot)
            make_free(r, (uint16_t)other);
}

static void free_memories(reach *r)
{
    const fg_gate *g = r->a->gate;
    const uint32_t slots = (uint32_t)g->size.ops + g->size.watched;
    for (uint32_t slot = 0; slot < slots; slot++) {
        if (r->depth[slot] == UNSEEN || r->depth[slot] < r->most || !remembers(g, &g->ops[slot])) continue;
        if (g->ops[slot].kind == FG_OP_BANDS)
            make_bands_free(r, slot);
        else
            make_free(r, (uint16_t)slot);
    }
    for (uint16_t i = 0; i < g->size.flags; i++) r->out->flags[i] = (fg_flag){0};
    for (uint16_t i = 0; i < g->size.sensors; i++)
        r->out->sensors[i].stages &= (uint8_t) ~(FG_STAGE_STALE | FG_STAGE_BRIDGE);
}

/* What the promise names, but for what stands behind outputs. */
static void find_named(reach *r, uint16_t slot, uint8_t depth)
{
    enum { DEEP = 200 };
    const fg_gate *g = r->a->gate;
    if (slot == FG_INDEX_NONE || depth > DEEP) return;
    const fg_op *op = &g->ops[slot];
    if (op->kind == FG_OP_OUTPUT || op->kind == FG_OP_OUTPUT_IS || op->kind == FG_OP_OUTPUT_PLAYS) return;
    const bool joins =
        fg_op_is(op->kind, FG_OP_JOINS) || op->kind == FG_OP_FOR || op->kind == FG_OP_STARTS || op->kind == FG_OP_ENDS;
    if (joins) {
        find_named(r, op->a, (uint8_t)(depth + 1));
        if (fg_op_is(op->kind, FG_OP_B_IS_SLOT)) find_named(r, op->b, (uint8_t)(depth + 1));
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
    if (!sum && !zero && !s->window && !(s->stages & FG_STAGE_STUCK)) return;
    /* What is trusted is judged before the zero is taken off; on a circle what is joined may be what is not trusted. */
    if (sum || zero || (s->circle && s->window)) s->trust = FG_TRUST_ALL;
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
        if (g->ops[slot].kind == FG_OP_BANDS)
            make_bands_free(r, slot);
        else
            make_free(r, (uint16_t)slot);
    }
}

static void visit_row(reach *r, void (*visit)(reach *r, uint16_t slot, uint8_t depth))
{
    const fg_ask *a = r->a;
    r->visit = visit;
    visit(r, a->row->slot, 0);
    visit(r, a->row->while_slot, 0);
    for (uint32_t i = 0; i < a->promise->row_count; i++)
        if (a->promise->rows[i].kind == FG_EXPECT_ASSUME) visit(r, a->promise->rows[i].slot, 0);
}

static void make_answers_free(reach *r, fg_freedom freedom)
{
    if (freedom <= FG_FREE_MEMORIES_FAR) {
        r->most = (uint8_t)freedom;
        visit_row(r, find_depth);
        free_memories(r);
    } else if (freedom != FG_FREE_NOTHING) {
        if (freedom == FG_FREE_OF_WHILE) find_named(r, r->a->row->while_slot, 0);
        if (freedom == FG_FREE_OF_ROW) visit_row(r, find_named);
        visit_row(r, look);
    }
}

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
    r.depth = malloc(slots + 1);
    r.full = !out->ops || !out->sensors || !out->flags || !out->free || !r.sensors || !r.flags || !r.depth;
    if (!r.full) {
        memset(r.depth, UNSEEN, slots + 1);
        if (slots) memcpy(out->ops, g->ops, slots * sizeof *out->ops);
        if (g->size.sensors) memcpy(out->sensors, g->sensors, g->size.sensors * sizeof *out->sensors);
        if (g->size.flags) memcpy(out->flags, g->flags, g->size.flags * sizeof *out->flags);
        for (uint16_t i = 0; i < g->size.sensors; i++) simplify_sensor(&out->sensors[i]);
        free_distances(&r);
        make_answers_free(&r, freedom);
        out->gate = *g;
        out->gate.ops = out->ops;
        out->gate.sensors = out->sensors;
        out->gate.flags = out->flags;
        out->gate.size.flags = (uint16_t)(g->size.flags + out->free_count);
    }
    free(r.sensors);
    free(r.flags);
    free(r.depth);
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
