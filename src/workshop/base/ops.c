/* SPDX-License-Identifier: MIT */
#include "workshop/base/ops.h"

#include <stdlib.h>

/* ---- places ---- */

bool fg_op_places_start(fg_op_places *places, const fg_gate *gate)
{
    const fg_gate_sizes *n = &gate->size;
    const size_t count = (size_t)n->sensors + n->flags + n->counters + n->outputs;
    *places = (fg_op_places){.gate = gate, .sensors = malloc((count + 1) * sizeof *places->sensors)};
    if (!places->sensors) return false;
    places->flags = places->sensors + n->sensors;
    places->counters = places->flags + n->flags;
    places->outputs = places->counters + n->counters;
    for (size_t i = 0; i < count; i++) places->sensors[i] = FG_INDEX_NONE;
    for (uint16_t slot = 0; slot < n->ops; slot++) {
        const uint16_t number = gate->ops[slot].rule;
        switch ((fg_op_kind)gate->ops[slot].kind) {
        case FG_OP_SENSOR: places->sensors[number] = slot; break;
        case FG_OP_FLAG: places->flags[number] = slot; break;
        case FG_OP_COUNT: places->counters[number] = slot; break;
        case FG_OP_OUTPUT: places->outputs[number] = slot; break;
        default: break;
        }
    }
    return true;
}

void fg_op_places_end(fg_op_places *places) { free(places->sensors); }

/* ---- what an op looks at ---- */

typedef struct looking {
    const fg_op_places *places;
    void (*visit)(void *context, uint16_t slot);
    void *context;
} looking;

static void look(const looking *l, uint16_t slot)
{
    if (slot != FG_INDEX_NONE) l->visit(l->context, slot);
}

static void look_at_follow(const looking *l, uint16_t number)
{
    const fg_follow *f = &l->places->gate->follows[number];
    look(l, f->count ? l->places->counters[f->source] : l->places->sensors[f->source]);
}

static void look_at_sequence(const looking *l, uint16_t number)
{
    const fg_gate *g = l->places->gate;
    const fg_sequence *s = &g->sequences[number];
    for (uint16_t i = 0; i < s->segment_count; i++) {
        const uint16_t tempo = g->segments[s->first_segment + i].tempo;
        if (tempo != FG_INDEX_NONE) look_at_follow(l, tempo);
    }
}

static void look_at_piece(const looking *l, const fg_piece *piece)
{
    switch ((fg_piece_kind)piece->kind) {
    case FG_PIECE_SENSOR: look(l, l->places->sensors[piece->index]); break;
    case FG_PIECE_ANSWER:
    case FG_PIECE_BANDS: look(l, piece->index); break;
    case FG_PIECE_COUNT: look(l, l->places->counters[piece->index]); break;
    case FG_PIECE_OUTPUT: look(l, l->places->outputs[piece->index]); break;
    default: break;
    }
}

static void look_at_show(const looking *l, uint16_t number)
{
    const fg_gate *g = l->places->gate;
    const fg_show *show = &g->shows[number];
    for (uint16_t i = 0; i < show->line_count; i++) {
        const fg_show_line *line = &g->show_lines[show->first_line + i];
        for (uint16_t k = 0; k < line->piece_count; k++) look_at_piece(l, &g->pieces[line->first_piece + k]);
    }
}

static void look_at_level(const looking *l, const fg_level *level)
{
    if (level->form == FG_FORM_FOLLOW) look_at_follow(l, (uint16_t)level->number);
    if (level->form == FG_FORM_PLAY) look_at_sequence(l, (uint16_t)level->number);
    if (level->form == FG_FORM_SHOW) look_at_show(l, (uint16_t)level->number);
}

static void look_at_rows(const looking *l, const fg_output *output)
{
    const fg_row *rows = fg_output_rows(l->places->gate, output);
    for (uint16_t i = 0; i < output->row_count; i++) {
        if (rows[i].when == FG_ROW_WHEN) look(l, rows[i].slot);
        look_at_level(l, &rows[i].level);
    }
}

static void look_at_parts(const looking *l, const fg_sensor *sensor)
{
    for (uint16_t i = 0; i < sensor->term_count; i++) {
        const fg_term *t = &l->places->gate->terms[sensor->first_term + i];
        if (fg_term_reads(t->kind)) look(l, l->places->sensors[t->sensor]);
    }
    if (sensor->stages & FG_STAGE_ZERO) look(l, l->places->flags[sensor->zero_flag]);
}

static void look_at_pulse(const looking *l, const fg_pulser *pulse)
{
    look(l, pulse->start);
    look(l, pulse->again);
    look(l, pulse->stop);
    for (uint16_t i = 0; i < pulse->length_count; i++)
        look(l, l->places->gate->pulse_lengths[pulse->first_length + i].slot);
}

void fg_op_looks_at(const fg_op_places *places, uint16_t slot, void (*visit)(void *context, uint16_t slot),
                    void *context)
{
    const looking l = {places, visit, context};
    const fg_gate *g = places->gate;
    const fg_op *op = &g->ops[slot];
    if (fg_op_is(op->kind, FG_OP_A_IS_SLOT)) look(&l, op->a);
    if (fg_op_is(op->kind, FG_OP_B_IS_SLOT)) look(&l, op->b);
    if (fg_op_is(op->kind, FG_OP_ON_SENSOR)) look(&l, places->sensors[op->a]);
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: look_at_parts(&l, &g->sensors[op->rule]); break;
    case FG_OP_SENSOR_FAULTY: look(&l, places->sensors[op->rule]); break;
    case FG_OP_FLAG_FAULTY: look(&l, places->flags[op->rule]); break;
    case FG_OP_COMPARE_COUNT: look(&l, places->counters[op->a]); break;
    case FG_OP_PREVIOUSLY: look(&l, g->previously[op->rule]); break;
    case FG_OP_AT_LEAST:
        for (uint16_t i = 0; i < op->b; i++) look(&l, g->slots[op->rule + i]);
        break;
    case FG_OP_COUNT:
        look(&l, g->counters[op->rule].add);
        look(&l, g->counters[op->rule].take);
        look(&l, g->counters[op->rule].zero);
        break;
    case FG_OP_PULSE: look_at_pulse(&l, &g->pulses[op->rule]); break;
    case FG_OP_OUTPUT: look_at_rows(&l, &g->outputs[op->rule]); break;
    case FG_OP_OUTPUT_IS:
    case FG_OP_OUTPUT_PLAYS: look(&l, places->outputs[op->a]); break;
    default: break;
    }
}

/* ---- what an op is made of ---- */

/* Member by member: a struct may have bytes between its members that nobody set. */
static void put(fg_buffer *b, int64_t number) { fg_buffer_add(b, (fg_text){(const char *)&number, sizeof number}); }

static void put_text(fg_buffer *b, fg_text text)
{
    put(b, (int64_t)text.size);
    fg_buffer_add(b, text);
}

static void put_range(fg_buffer *b, const fg_range *range)
{
    put(b, range->low);
    put(b, range->high);
}

static void put_rule(fg_buffer *b, const fg_gate *g, const fg_op *op)
{
    const fg_settle *settle = fg_op_settle(g, op);
    fg_rule_range range;
    for (uint16_t i = 0; fg_op_range(g, op, i, &range); i++) {
        put_range(b, range.range);
        put_range(b, range.kept);
        put(b, range.answer);
    }
    if (settle) {
        put(b, settle->time);
        put(b, settle->within);
        put(b, settle->circle);
    }
    if (op->kind == FG_OP_THRESHOLD) put(b, g->thresholds[op->rule].outside);
    if (op->kind == FG_OP_COMPARE || op->kind == FG_OP_COMPARE_COUNT) {
        put_range(b, &g->compares[op->rule].range);
        put(b, g->compares[op->rule].outside);
    }
    if (op->kind == FG_OP_HYSTERESIS) {
        put(b, g->hysteresis[op->rule].first_on);
        put(b, g->hysteresis[op->rule].never_on);
        put(b, g->hysteresis[op->rule].never_off);
    }
    if (op->kind == FG_OP_BANDS) {
        put(b, g->bands[op->rule].count);
        put(b, g->bands[op->rule].otherwise);
        put(b, g->bands[op->rule].keeps);
    }
}

static void put_sensor(fg_buffer *b, const fg_gate *g, const fg_sensor *s)
{
    for (uint8_t i = 0; i < s->scale_count; i++) {
        const fg_scale_piece *piece = &s->scale[i];
        put(b, piece->slope);
        put(b, piece->offset);
        put(b, piece->divisor);
        put(b, piece->up_to);
    }
    const int64_t numbers[] = {s->scale_count, s->decimals, s->trust,  s->stages,    s->window,    s->circle,
                               s->stale,       s->stuck,    s->bridge, s->zero_flag, s->window_at, s->term_count};
    fg_buffer_add(b, (fg_text){(const char *)numbers, sizeof numbers});
    put_range(b, &s->trusted);
    for (uint16_t i = 0; i < s->term_count; i++) {
        const fg_term *t = &g->terms[s->first_term + i];
        const int64_t term[] = {t->number, t->sensor, t->window, t->window_at, t->kind, t->count};
        fg_buffer_add(b, (fg_text){(const char *)term, sizeof term});
    }
}

static void put_follow(fg_buffer *b, const fg_follow *f)
{
    const int64_t numbers[] = {f->from, f->to, f->low, f->high, f->source, f->count};
    fg_buffer_add(b, (fg_text){(const char *)numbers, sizeof numbers});
}

static void put_level(fg_buffer *b, const fg_level *level)
{
    put(b, level->form);
    put(b, level->percent);
    put(b, level->number);
    put(b, level->colour);
}

static void put_sequence(fg_buffer *b, const fg_gate *g, const fg_sequence *s)
{
    const int64_t numbers[] = {s->segment_count, s->runs, s->resumes, s->follows};
    fg_buffer_add(b, (fg_text){(const char *)numbers, sizeof numbers});
    for (uint16_t i = 0; i < s->segment_count; i++) {
        const fg_segment *segment = &g->segments[s->first_segment + i];
        put_level(b, &segment->level);
        put(b, segment->time);
        put(b, segment->tempo);
        if (segment->tempo != FG_INDEX_NONE) put_follow(b, &g->follows[segment->tempo]);
    }
}

static void put_show(fg_buffer *b, const fg_gate *g, const fg_show *show)
{
    put(b, show->answers_only);
    put(b, show->line_count);
    for (uint16_t i = 0; i < show->line_count; i++) {
        const fg_show_line *line = &g->show_lines[show->first_line + i];
        put(b, line->piece_count);
        for (uint16_t k = 0; k < line->piece_count; k++) {
            const fg_piece *piece = &g->pieces[line->first_piece + k];
            put(b, piece->kind);
            put(b, piece->index);
            put(b, piece->first_label);
            put_text(b, piece->text);
        }
    }
}

static void put_rows(fg_buffer *b, const fg_gate *g, const fg_output *output)
{
    const int64_t numbers[] = {output->row_count, output->kind,  output->guarded, output->single,
                               output->columns,   output->lines, output->text_at};
    const fg_row *rows = fg_output_rows(g, output);
    fg_buffer_add(b, (fg_text){(const char *)numbers, sizeof numbers});
    put_level(b, &output->rest);
    for (uint16_t i = 0; i < output->row_count; i++) {
        const fg_level *level = &rows[i].level;
        put_level(b, level);
        put(b, rows[i].slot);
        put(b, rows[i].play);
        put(b, rows[i].when);
        put(b, rows[i].through);
        if (level->form == FG_FORM_FOLLOW) put_follow(b, &g->follows[level->number]);
        if (level->form == FG_FORM_PLAY) put_sequence(b, g, &g->sequences[level->number]);
        if (level->form == FG_FORM_SHOW) put_show(b, g, &g->shows[level->number]);
        if (level->form == FG_FORM_SWEEP) {
            put(b, g->sweeps[level->number].a);
            put(b, g->sweeps[level->number].b);
            put(b, g->sweeps[level->number].time);
        }
    }
}

static void put_pulse(fg_buffer *b, const fg_gate *g, const fg_pulser *p)
{
    const int64_t numbers[] = {p->rule.again, p->rule.restarts, p->start, p->again, p->stop, p->length_count};
    fg_buffer_add(b, (fg_text){(const char *)numbers, sizeof numbers});
    for (uint16_t i = 0; i < p->length_count; i++) {
        put(b, g->pulse_lengths[p->first_length + i].time);
        put(b, g->pulse_lengths[p->first_length + i].slot);
    }
}

static void put_count(fg_buffer *b, const fg_counter *c)
{
    const int64_t numbers[] = {c->rule.low, c->rule.high, c->rule.first, c->add, c->take, c->zero};
    fg_buffer_add(b, (fg_text){(const char *)numbers, sizeof numbers});
}

static void put_flag(fg_buffer *b, const fg_flag *f)
{
    const int64_t numbers[] = {f->inverted, f->stages, f->stale, f->bridge, f->settle};
    fg_buffer_add(b, (fg_text){(const char *)numbers, sizeof numbers});
}

static void put_pattern(fg_buffer *b, const fg_pattern *p)
{
    put_level(b, &p->level);
    put(b, p->percent);
    put(b, p->colour);
}

void fg_op_made_of(const fg_gate *gate, const fg_op *op, fg_buffer *bytes)
{
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: put_sensor(bytes, gate, &gate->sensors[op->rule]); break;
    case FG_OP_FLAG: put_flag(bytes, &gate->flags[op->rule]); break;
    case FG_OP_FOR: put(bytes, gate->lastings[op->rule]); break;
    case FG_OP_PREVIOUSLY: put(bytes, gate->previously[op->rule]); break;
    case FG_OP_LATCH: put(bytes, gate->latches[op->rule].clear_wins); break;
    case FG_OP_COUNT: put_count(bytes, &gate->counters[op->rule]); break;
    case FG_OP_PULSE: put_pulse(bytes, gate, &gate->pulses[op->rule]); break;
    case FG_OP_OUTPUT: put_rows(bytes, gate, &gate->outputs[op->rule]); break;
    case FG_OP_OUTPUT_IS: put_pattern(bytes, &gate->patterns[op->rule]); break;
    case FG_OP_AT_LEAST:
        for (uint16_t i = 0; i < op->b; i++) put(bytes, gate->slots[op->rule + i]);
        break;
    case FG_OP_IS:
        for (uint16_t i = 0; i < op->b; i++) put(bytes, gate->labels[op->rule + i]);
        break;
    default: put_rule(bytes, gate, op); break;
    }
}
