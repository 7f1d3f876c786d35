/* SPDX-License-Identifier: MIT */
/* What a promise hangs on, and which readings its rules can tell apart. */
#include "workshop/base/sort.h"
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

/* ---- what it hangs on ---- */

static void mark_slot(fg_ask *a, uint16_t slot)
{
    if (slot != FG_INDEX_NONE) a->cone.ops[slot] = true;
}

static void mark_sensor(fg_ask *a, uint16_t sensor) { a->cone.sensors[sensor] = true; }

static void mark_follow(fg_ask *a, uint16_t number)
{
    const fg_follow *f = &a->gate->follows[number];
    if (f->count) {
        a->cone.counters[f->source] = true;
    } else {
        mark_sensor(a, f->source);
        a->cone.follows[f->source] = true;
        a->cone.open = "an output follows a sensor";
    }
}

static void mark_sequence(fg_ask *a, uint16_t number)
{
    const fg_sequence *s = &a->gate->sequences[number];
    for (uint16_t i = 0; i < s->segment_count; i++) {
        const fg_segment *segment = &a->gate->segments[s->first_segment + i];
        if (segment->tempo != FG_INDEX_NONE) mark_follow(a, segment->tempo);
    }
}

static void mark_output(fg_ask *a, uint16_t number)
{
    const fg_output *output = &a->gate->outputs[number];
    for (uint16_t i = 0; i < output->row_count; i++) {
        const fg_row *row = &a->gate->rows[output->first_row + i];
        if (row->when == FG_ROW_WHEN) mark_slot(a, row->slot);
        if (row->level.form == FG_FORM_FOLLOW) mark_follow(a, (uint16_t)row->level.number);
        if (row->level.form == FG_FORM_PLAY) mark_sequence(a, (uint16_t)row->level.number);
        if (row->level.form == FG_FORM_SHOW) a->cone.closed = "it asks for what a display shows";
    }
}

/* The parts of a sensor; what it is worked out from may be told apart in more ways than by limits. */
static void mark_parts(fg_ask *a, uint16_t number)
{
    const fg_sensor *sensor = &a->gate->sensors[number];
    for (uint16_t i = 0; i < sensor->term_count; i++) {
        const fg_term *term = &a->gate->terms[sensor->first_term + i];
        if (!fg_term_reads(term->kind)) continue;
        mark_sensor(a, term->sensor);
        a->cone.open = "a sensor is worked out from others";
        if (term->kind == FG_TERM_RATE) a->cone.closed = "it hangs on a rate";
    }
    if (sensor->stages & FG_STAGE_ZERO) {
        a->cone.flags[sensor->zero_flag] = true;
        a->cone.open = "a sensor has a zero";
    }
    if (sensor->stages & FG_STAGE_MEAN) a->cone.open = "a sensor is a mean";
    if (sensor->circle && sensor->window) a->cone.open = "a sensor on a circle is joined";
}

static void mark_op(fg_ask *a, uint16_t slot)
{
    const fg_gate *g = a->gate;
    const fg_op *op = &g->ops[slot];
    if (fg_op_is(op->kind, FG_OP_A_IS_SLOT)) mark_slot(a, op->a);
    if (fg_op_is(op->kind, FG_OP_B_IS_SLOT)) mark_slot(a, op->b);
    if (fg_op_is(op->kind, FG_OP_ON_SENSOR)) {
        const fg_settle *settle = fg_op_settle(g, op);
        mark_sensor(a, op->a);
        if (settle && settle->within != FG_ANY_DISTANCE) a->cone.open = "a rule settles within a distance";
    }
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR:
    case FG_OP_SENSOR_FAULTY: mark_sensor(a, op->rule); break;
    case FG_OP_FLAG:
    case FG_OP_FLAG_FAULTY: a->cone.flags[op->rule] = true; break;
    case FG_OP_AT_LEAST:
        for (uint16_t i = 0; i < op->b; i++) mark_slot(a, g->slots[op->rule + i]);
        break;
    case FG_OP_COMPARE_COUNT: a->cone.counters[op->a] = true; break;
    case FG_OP_PREVIOUSLY: mark_slot(a, g->previously[op->rule]); break;
    case FG_OP_COUNT: {
        const fg_counter *c = &g->counters[op->rule];
        mark_slot(a, c->add);
        mark_slot(a, c->take);
        mark_slot(a, c->zero);
        break;
    }
    case FG_OP_PULSE: {
        const fg_pulser *p = &g->pulses[op->rule];
        mark_slot(a, p->start);
        mark_slot(a, p->again);
        mark_slot(a, p->stop);
        for (uint16_t i = 0; i < p->length_count; i++) mark_slot(a, g->pulse_lengths[p->first_length + i].slot);
        break;
    }
    case FG_OP_OUTPUT: mark_output(a, op->rule); break;
    case FG_OP_OUTPUT_IS:
    case FG_OP_OUTPUT_PLAYS: a->cone.outputs[op->a] = true; break;
    default: break;
    }
}

/* The op behind each sensor, flag, output and count that is marked. */
static void mark_owner(fg_ask *a, uint16_t slot)
{
    const fg_op *op = &a->gate->ops[slot];
    const bool wanted = (op->kind == FG_OP_SENSOR && a->cone.sensors[op->rule]) ||
                        (op->kind == FG_OP_FLAG && a->cone.flags[op->rule]) ||
                        (op->kind == FG_OP_OUTPUT && a->cone.outputs[op->rule]) ||
                        (op->kind == FG_OP_COUNT && a->cone.counters[op->rule]);
    if (wanted) a->cone.ops[slot] = true;
}

/* An op looks at slots in front of it only, but what `previously` looks at may stand behind: so until nothing is new.
 */
static void mark_all(fg_ask *a, uint32_t slots)
{
    for (bool more = true; more;) {
        more = false;
        for (uint32_t slot = slots; slot-- > 0;) {
            const bool before = a->cone.ops[slot];
            if (!before) mark_owner(a, (uint16_t)slot);
            if (!a->cone.ops[slot]) continue;
            more = more || !before;
            mark_op(a, (uint16_t)slot);
        }
        for (uint16_t i = 0; i < a->gate->size.sensors; i++)
            if (a->cone.sensors[i]) mark_parts(a, i);
        for (uint32_t slot = 0; slot < slots && !more; slot++) {
            const bool before = a->cone.ops[slot];
            mark_owner(a, (uint16_t)slot);
            more = a->cone.ops[slot] != before;
        }
    }
}

/* ---- what may come ---- */

typedef struct corners {
    fg_value *at; /* the first reading of each stretch but the lowest */
    size_t count, room;
    bool full;
} corners;

static void add_corner(corners *c, int64_t first)
{
    if (first <= INT32_MIN || first > INT32_MAX) return;
    if (c->count == c->room) {
        const size_t room = c->room ? 2 * c->room : 32;
        fg_value *at = realloc(c->at, room * sizeof *at);
        c->full = c->full || !at;
        if (!at) return;
        c->at = at;
        c->room = room;
    }
    c->at[c->count++] = (fg_value)first;
}

/* Where a situation begins and ends to be so. */
static void find_situation(const fg_ask *a, uint16_t sensor, corners *c)
{
    const fg_situation *s = a->situation;
    const bool limit = s->kind == FG_SITUATION_LIMIT, margin = s->kind == FG_SITUATION_MARGIN;
    if ((!limit && !margin) || s->number != sensor) return;
    const int64_t at = s->limit, by = margin ? s->margin : 0;
    const int64_t ends[] = {at - by, at + by + 1, at - 1, at + 2}; /* the last two are a margin's */
    const fg_value circle = a->gate->sensors[sensor].circle;
    for (int i = 0; i < (margin ? 4 : 2); i++) add_corner(c, circle ? fg_wrap(ends[i], circle) : ends[i]);
}

/* Where an answer of any rule in the cone may change, margins included. Of a sensor that others are worked out from it
 * is also tried how far it goes. */
static void find_corners(const fg_ask *a, uint16_t sensor, corners *c)
{
    const fg_gate *g = a->gate;
    const uint32_t slots = (uint32_t)g->size.ops + g->size.watched;
    if (a->situation) find_situation(a, sensor, c);
    for (uint32_t slot = 0; slot < slots; slot++) {
        fg_rule_range r;
        if (!a->cone.ops[slot] || !fg_op_is(g->ops[slot].kind, FG_OP_ON_SENSOR) || g->ops[slot].a != sensor) continue;
        for (uint16_t i = 0; fg_op_range(g, &g->ops[slot], i, &r); i++) {
            const fg_range *const both[] = {r.range, r.kept};
            for (int k = 0; k < 2; k++) {
                if (!both[k]) continue;
                add_corner(c, both[k]->low);
                add_corner(c, (int64_t)both[k]->high + 1);
            }
        }
    }
}

bool fg_cone_add_choice(fg_asked_input *input, fg_choice_kind kind, fg_value value)
{
    fg_choice *choices = realloc(input->choices, (input->count + 1) * sizeof *choices);
    if (!choices) return false;
    input->choices = choices;
    choices[input->count++] = (fg_choice){.kind = kind, .value = value};
    return true;
}

/* Is another sensor worked out from it? */
static bool is_part(const fg_ask *a, uint16_t sensor)
{
    const fg_gate *g = a->gate;
    for (uint16_t i = 0; i < g->size.sensors; i++) {
        if (!a->cone.sensors[i]) continue;
        for (uint16_t k = 0; k < g->sensors[i].term_count; k++) {
            const fg_term *term = &g->terms[g->sensors[i].first_term + k];
            if (fg_term_reads(term->kind) && term->sensor == sensor) return true;
        }
    }
    return false;
}

/* A part's own limits say little about what it makes of the sum: so also far apart. */
static void add_spread(const fg_sensor *s, corners *c)
{
    static const int32_t spread[] = {-1000, -100, -10, 0, 10, 100, 1000};
    int64_t unit = 1;
    for (uint8_t i = 0; i < s->decimals; i++) unit *= 10;
    for (size_t i = 0; i < sizeof spread / sizeof *spread; i++) add_corner(c, spread[i] * unit);
}

/* Trust on a circle is judged before it wraps: is there a reading that is trusted and becomes this one? */
static bool comes_from(const fg_sensor *s, fg_value *value)
{
    if (!s->circle || s->trust != FG_TRUST_RANGE) return true;
    const int64_t raw = s->trusted.low + (int64_t)fg_wrap((int64_t)*value - s->trusted.low, s->circle);
    *value = (fg_value)raw;
    return raw <= s->trusted.high;
}

static bool add_value(const fg_sensor *s, fg_asked_input *input, int64_t at)
{
    fg_value value = (fg_value)at;
    return !comes_from(s, &value) || fg_cone_add_choice(input, FG_CHOICE_VALUE, value);
}

/* A reading of each stretch that its limits make: the one nearest to a limit. Of a sensor that may be stuck two, if
 * there are two. */
static bool sensor_choices(const fg_ask *a, fg_asked_input *input)
{
    const fg_sensor *s = &a->gate->sensors[input->declared->index];
    fg_value low = INT32_MIN, high = INT32_MAX;
    corners c = {0};
    if (s->trust == FG_TRUST_RANGE) {
        low = s->trusted.low;
        high = s->trusted.high;
    }
    if (s->circle) {
        low = 0;
        high = s->circle - 1;
    }
    find_corners(a, input->declared->index, &c);
    if (s->circle && s->trust != FG_TRUST_ALL) {
        add_corner(&c, fg_wrap(s->trusted.low, s->circle));
        add_corner(&c, fg_wrap((int64_t)s->trusted.high + 1, s->circle));
    }
    const bool part = is_part(a, input->declared->index);
    if (part) add_spread(s, &c);
    if (!c.full) fg_sort_values(c.at, c.count);
    int64_t from = low;
    bool good = !c.full;
    for (size_t i = 0; i <= c.count && good; i++) {
        const int64_t next = i < c.count ? c.at[i] : (int64_t)high + 1;
        if (next <= from || from > high) continue;
        const int64_t to = next - 1 < high ? next - 1 : high;
        const bool lowest = from == INT32_MIN;
        good = add_value(s, input, lowest ? (to == INT32_MAX ? 0 : to) : from);
        if (good && s->stages & FG_STAGE_STUCK && to > from)
            good = add_value(s, input, lowest ? (to == INT32_MAX ? 1 : to - 1) : from + 1);
        if (good && (s->stages & FG_STAGE_ZERO || part) && to > from && !lowest && to != INT32_MAX)
            good = add_value(s, input, to); /* a zero or a sum may need any of it */
        from = next;
    }
    free(c.at);
    good = good && fg_cone_add_choice(input, FG_CHOICE_FAULT, 0);
    return good && (!(s->stages & FG_STAGE_STALE) || fg_cone_add_choice(input, FG_CHOICE_NOTHING, 0));
}

static bool flag_choices(const fg_ask *a, fg_asked_input *input)
{
    const fg_flag *f = &a->gate->flags[input->declared->index];
    return fg_cone_add_choice(input, FG_CHOICE_VALUE, 0) && fg_cone_add_choice(input, FG_CHOICE_VALUE, 1) &&
           fg_cone_add_choice(input, FG_CHOICE_FAULT, 0) &&
           (!(f->stages & FG_STAGE_STALE) || fg_cone_add_choice(input, FG_CHOICE_NOTHING, 0));
}

/* Does it come from outside: read, or worked out no more? */
static bool is_read(const fg_ask *a, const fg_declared *d)
{
    if (d->kind == FG_KIND_FLAG) return a->cone.flags[d->index];
    return d->kind == FG_KIND_SENSOR && a->cone.sensors[d->index] && !a->gate->sensors[d->index].term_count;
}

static bool add_input(fg_ask *a, const fg_declared *d)
{
    fg_cone *cone = &a->cone;
    if (!is_read(a, d)) return true;
    fg_asked_input *input = &cone->inputs[cone->input_count++];
    input->declared = d;
    if (!(d->kind == FG_KIND_FLAG ? flag_choices(a, input) : sensor_choices(a, input))) return false;
    if (cone->combinations < UINT64_C(1) << 32) cone->combinations *= input->count;
    return true;
}

static bool find_inputs(fg_ask *a)
{
    a->cone.inputs = calloc((size_t)a->program->declared_count + a->free_count + 1, sizeof *a->cone.inputs);
    a->cone.combinations = 1;
    bool good = a->cone.inputs != NULL;
    for (uint32_t i = 0; i < a->program->declared_count && good; i++) good = add_input(a, &a->program->declared[i]);
    for (size_t i = 0; i < a->free_count && good; i++) good = add_input(a, &a->free[i]);
    return good;
}

static bool begin(fg_ask *a)
{
    const fg_gate_sizes *n = &a->gate->size;
    fg_cone *cone = &a->cone;
    cone->ops = calloc((size_t)n->ops + n->watched + 1, sizeof(bool));
    cone->sensors = calloc((size_t)n->sensors + 1, sizeof(bool));
    cone->follows = calloc((size_t)n->sensors + 1, sizeof(bool));
    cone->flags = calloc((size_t)n->flags + 1, sizeof(bool));
    cone->outputs = calloc((size_t)n->outputs + 1, sizeof(bool));
    cone->counters = calloc((size_t)n->counters + 1, sizeof(bool));
    return cone->ops && cone->sensors && cone->follows && cone->flags && cone->outputs && cone->counters;
}

bool fg_cone_of_slot(fg_ask *a, uint16_t slot)
{
    if (!begin(a)) return false;
    mark_slot(a, slot);
    mark_all(a, (uint32_t)a->gate->size.ops + a->gate->size.watched);
    return true;
}

static void mark_row(fg_ask *a)
{
    mark_slot(a, a->row->slot);
    mark_slot(a, a->row->while_slot);
    for (uint32_t i = 0; i < a->promise->row_count; i++)
        if (a->promise->rows[i].kind == FG_EXPECT_ASSUME) mark_slot(a, a->promise->rows[i].slot);
}

bool fg_cone_find(fg_ask *a, bool all)
{
    const uint32_t slots = (uint32_t)a->gate->size.ops + a->gate->size.watched;
    if (!begin(a)) return false;
    for (uint32_t slot = 0; all && slot < slots; slot++) mark_slot(a, (uint16_t)slot);
    if (!all) mark_row(a);
    mark_all(a, slots);
    return find_inputs(a);
}

void fg_cone_end(fg_cone *cone)
{
    for (size_t i = 0; cone->inputs && i < cone->input_count; i++) free(cone->inputs[i].choices);
    free(cone->inputs);
    free(cone->ops);
    free(cone->sensors);
    free(cone->follows);
    free(cone->flags);
    free(cone->outputs);
    free(cone->counters);
    *cone = (fg_cone){0};
}

void fg_cone_feed(const fg_ask *a, size_t input, uint32_t choice, fg_time at)
{
    const fg_asked_input *i = &a->cone.inputs[input];
    const fg_choice *c = &i->choices[choice];
    const bool flag = i->declared->kind == FG_KIND_FLAG;
    if (c->kind == FG_CHOICE_VALUE && flag)
        fg_feed_flag(a->run, i->declared->index, c->value != 0, at);
    else if (c->kind == FG_CHOICE_VALUE)
        fg_feed(a->run, i->declared->index, c->value, at);
    else if (c->kind == FG_CHOICE_FAULT && flag)
        fg_feed_flag_fault(a->run, i->declared->index, at);
    else if (c->kind == FG_CHOICE_FAULT)
        fg_feed_fault(a->run, i->declared->index, at);
}
