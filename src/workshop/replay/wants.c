/* SPDX-License-Identifier: MIT */
#include "workshop/replay/wants.h"

#include <stdlib.h>

/* It may change, and this is why: as it is told. */
static bool busy(fg_wants *w, const char *why)
{
    w->why = why;
    return false;
}

/* ---- what waits ---- */

/* Nothing may last longer than what is left of this wait. */
static bool wait_for(fg_wants *w, fg_time since, fg_time time)
{
    const fg_time passed = w->run->now - since;
    if (passed >= time) return false;
    if (time - passed < w->until) w->until = time - passed;
    return true;
}

static const fg_settle_state *settling_of(const fg_run *run, const fg_op *op)
{
    switch (op->kind) {
#define FG_SETTLING_OF(NAME, name, table)                                                                              \
    case FG_OP_##NAME: return &run->table[op->rule].settle;
        FG_SENSOR_RULES(FG_SETTLING_OF)
#undef FG_SETTLING_OF
    default: return NULL;
    }
}

static bool take_settling(fg_wants *w, const fg_op *op)
{
    const fg_settle *rule = fg_op_settle(w->run->gate, op);
    const fg_settle_state *state = settling_of(w->run, op);
    if (!rule || !state || state->candidate == state->present) return true;
    return rule->within < 0 && wait_for(w, state->since, rule->time);
}

/* ---- what is asked of values ---- */

/* On this side of both limits of a range, where `value` is. */
static void stay_beside(fg_range *wanted, const fg_range *r, fg_value value)
{
    if (r->low <= value)
        (void)fg_range_narrow(wanted, r->low, INT32_MAX);
    else
        (void)fg_range_narrow(wanted, INT32_MIN, (int64_t)r->low - 1);
    if (r->high >= value)
        (void)fg_range_narrow(wanted, INT32_MIN, r->high);
    else
        (void)fg_range_narrow(wanted, (int64_t)r->high + 1, INT32_MAX);
}

/* A rule that does not wait keeps its answer as long as another one does not come out: bands as long as the reading is
 * in their band, margin included, a hysteresis up to the range of the other answer, a threshold up to the limit that
 * counts for the present one. */
static bool take_settled(fg_wants *w, const fg_op *op, fg_verdict present, fg_value value)
{
    fg_range *wanted = &w->of[op->a];
    fg_rule_range range;
    for (uint16_t i = 0; fg_op_range(w->run->gate, op, i, &range); i++) {
        if (op->kind == FG_OP_BANDS && w->run->gate->bands[op->rule].keeps && range.answer == present &&
            fg_range_holds(range.kept, value)) {
            if (range.kept->low <= value) (void)fg_range_narrow(wanted, range.kept->low, INT32_MAX);
            if (range.kept->high >= value) (void)fg_range_narrow(wanted, INT32_MIN, range.kept->high);
            return true; /* of one that runs through the zero of a circle: on the side of it where the value is */
        }
        if (op->kind == FG_OP_HYSTERESIS && range.answer != present) stay_beside(wanted, range.range, value);
        if (op->kind == FG_OP_THRESHOLD) stay_beside(wanted, present == FG_YES ? range.kept : range.range, value);
    }
    return op->kind != FG_OP_BANDS;
}

static bool take_rule(fg_wants *w, const fg_op *op)
{
    const fg_sensor_state *sensor = &w->run->sensors[op->a];
    const fg_settle_state *state = settling_of(w->run, op);
    fg_rule_range range;
    if (!sensor->ok) return true; /* and so it stays, or the op of the sensor changes */
    const bool settled = state && state->candidate == state->present && state->present != FG_UNSURE;
    if (settled && take_settled(w, op, state->present, sensor->value)) return true;
    if (!take_settling(w, op)) return false;
    for (uint16_t i = 0; fg_op_range(w->run->gate, op, i, &range); i++) {
        stay_beside(&w->of[op->a], range.range, sensor->value);
        stay_beside(&w->of[op->a], range.kept, sensor->value);
    }
    return true;
}

static void want_same(fg_wants *w, uint16_t sensor)
{
    (void)fg_range_narrow(&w->of[sensor], w->run->sensors[sensor].value, w->run->sensors[sensor].value);
}

/* A sequence stays on a level until its segment ends, whose length was fixed as it began. */
static bool take_sequence(fg_wants *w, const fg_row *row)
{
    const fg_play_state *play = &w->run->plays[row->play];
    if (play->over) return true;
    if (play->elapsed >= play->length) return false;
    if (play->length - play->elapsed < w->until) w->until = play->length - play->elapsed;
    return true;
}

/* An output that shows numbers, or moves by itself. */
static bool take_output(fg_wants *w, uint16_t number)
{
    const fg_gate *gate = w->run->gate;
    const fg_output_state *state = &w->run->outputs[number];
    if (!state->lives) return true;
    const fg_level *level = state->row == FG_INDEX_NONE
                                ? &gate->outputs[number].rest
                                : &gate->rows[gate->outputs[number].first_row + state->row].level;
    if (level->form == FG_FORM_FOLLOW) {
        want_same(w, gate->follows[level->number].source);
        return true;
    }
    if (level->form == FG_FORM_PLAY) return take_sequence(w, &gate->rows[gate->outputs[number].first_row + state->row]);
    if (level->form != FG_FORM_SHOW) return busy(w, "an output sweeps");
    const fg_show *show = &gate->shows[level->number];
    for (uint16_t l = 0; l < show->line_count; l++) {
        const fg_show_line *line = &gate->show_lines[show->first_line + l];
        for (uint16_t i = 0; i < line->piece_count; i++) {
            const fg_piece *piece = &gate->pieces[line->first_piece + i];
            if (piece->kind == FG_PIECE_OUTPUT) return busy(w, "a display shows another output");
            if (piece->kind == FG_PIECE_SENSOR) want_same(w, piece->index);
        }
    }
    return true;
}

static bool take_op(fg_wants *w, const fg_op *op)
{
    const fg_run *run = w->run;
    if (fg_op_is(op->kind, FG_OP_ON_SENSOR)) return take_rule(w, op);
    switch ((fg_op_kind)op->kind) {
    case FG_OP_FOR: {
        const fg_lasting_state *lasting = &run->lastings[op->rule];
        return !lasting->running || lasting->lasted || wait_for(w, lasting->since, run->gate->lastings[op->rule]);
    }
    case FG_OP_PULSE: {
        const fg_pulse_state *pulse = &run->pulses[op->rule];
        return !pulse->running || wait_for(w, pulse->since, pulse->length);
    }
    case FG_OP_OUTPUT: return take_output(w, op->rule);
    default: return true;
    }
}

bool fg_wants_find(fg_wants *w)
{
    const fg_wanting *from = w->from;
    w->until = FG_TIME_MOST;
    w->why = NULL;
    for (uint16_t i = 0; i < from->sensor_count; i++) w->of[from->sensors[i]] = fg_range_whole;
    for (uint16_t i = 0; i < from->op_count; i++)
        if (!take_op(w, &w->run->gate->ops[from->ops[i]])) return false;
    return true;
}

/* ---- which ops want something ---- */

bool fg_wanting_start(fg_wanting *from, const fg_gate *gate)
{
    const size_t ops = (size_t)gate->size.ops + gate->size.watched;
    *from = (fg_wanting){.ops = malloc((ops + gate->size.sensors + 1) * sizeof *from->ops)};
    from->sensors = from->ops ? from->ops + ops : NULL;
    return from->ops != NULL;
}

void fg_wanting_add(fg_wanting *from, const fg_gate *gate, uint16_t slot)
{
    const uint8_t kind = gate->ops[slot].kind;
    if (fg_op_is(kind, FG_OP_ON_SENSOR) || kind == FG_OP_FOR || kind == FG_OP_PULSE || kind == FG_OP_OUTPUT)
        from->ops[from->op_count++] = slot;
}

void fg_wanting_end(fg_wanting *from) { free(from->ops); }
