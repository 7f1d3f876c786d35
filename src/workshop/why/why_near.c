/* SPDX-License-Identifier: MIT */
/* How far a name is from turning, or from being what was asked for: the steps of the sensors that stand in the way, all
 * together; where only time is missing, the share of it that is, which is less than a step. The moment with the
 * smallest is where a person looks. */
#include "workshop/why/why.h"

#include <stdlib.h>

/* A flag is one push of a button away, which is further than readings that nearly fit; a missing reading is further. */
enum { STEP = 1 << 16 };
static const int64_t FLAG_AWAY = INT64_C(1) << 50, LOST = INT64_C(1) << 54, NEVER = INT64_C(1) << 60;

static int64_t lack(fg_asker *a, uint16_t slot, bool yes);

static int64_t sum(int64_t a, int64_t b) { return a + b < NEVER ? a + b : NEVER; }
static int64_t least(int64_t a, int64_t b) { return a < b ? a : b; }

/* The share of a time that is missing. */
static int64_t missing(int64_t passed, int64_t time)
{
    return passed < time ? (time - passed) * (STEP - 1) / time + 1 : 1;
}

static int64_t far(int64_t way) { return way == INT64_MAX ? NEVER : (way < 0 ? -way : way) * STEP; }

/* What the wait still takes, if just this answer is settling; else NEVER. */
static int64_t waits(const fg_asker *a, const fg_settle *settle, const fg_settle_state *state, fg_verdict wanted)
{
    if (!settle->time || state->candidate == state->present || state->candidate != wanted) return NEVER;
    const int64_t passed = (fg_time)(a->now - state->since);
    return missing(passed, (int64_t)settle->time);
}

static int64_t threshold_lack(const fg_asker *a, const fg_op *op, fg_value value, bool yes)
{
    const fg_threshold *rule = &a->program->gate.thresholds[op->rule];
    const fg_settle_state *state = &a->shadow.thresholds[op->rule].settle;
    const fg_range *range = state->present == FG_YES ? &rule->kept : &rule->range;
    const fg_value circle = a->program->gate.sensors[op->a].circle;
    const int64_t wait = waits(a, &rule->settle, state, fg_sure(yes));
    if (wait < NEVER) return wait;
    return far(yes != rule->outside ? fg_way_into(range, value, circle) : fg_way_out_of(range, value, circle));
}

static int64_t hysteresis_lack(const fg_asker *a, const fg_op *op, fg_value value, bool yes)
{
    const fg_hysteresis *rule = &a->program->gate.hysteresis[op->rule];
    const int64_t wait = waits(a, &rule->settle, &a->shadow.hysteresis[op->rule].settle, fg_sure(yes));
    return wait < NEVER ? wait : far(fg_way_into(yes ? &rule->on : &rule->off, value, 0));
}

/* To one of the labels, or with `other` to one that is none of them. */
static int64_t label_lack(const fg_asker *a, const fg_op *op, const fg_verdict *labels, uint16_t count, bool other)
{
    const fg_bands *rule = &a->program->gate.bands[op->rule];
    const fg_value circle = a->program->gate.sensors[op->a].circle;
    const fg_settle_state *state = &a->shadow.bands[op->rule].settle;
    fg_value value;
    int64_t best = NEVER;
    if (!fg_sensor_value(a->explainer.run, op->a, &value)) return LOST;
    for (uint16_t i = 0; i < rule->count; i++) {
        bool listed = false;
        for (uint16_t k = 0; k < count; k++) listed = listed || labels[k] == rule->bands[i].label;
        if (listed == other) continue;
        const int64_t wait = waits(a, &rule->settle, state, rule->bands[i].label);
        best = least(best, wait < NEVER ? wait : far(fg_way_into(&rule->bands[i].range, value, circle)));
    }
    return best ? best : 1; /* within a margin */
}

/* A condition with a sensor that cannot be read is as far as that. */
static int64_t sensor_lack(fg_asker *a, const fg_op *op, bool yes)
{
    fg_value value;
    if (!fg_sensor_value(a->explainer.run, op->a, &value)) return LOST;
    if (op->kind == FG_OP_THRESHOLD) return threshold_lack(a, op, value, yes);
    if (op->kind == FG_OP_HYSTERESIS) return hysteresis_lack(a, op, value, yes);
    const fg_compare *c = &a->program->gate.compares[op->rule];
    const fg_value circle = a->program->gate.sensors[op->a].circle;
    return far(yes != c->outside ? fg_way_into(&c->range, value, circle) : fg_way_out_of(&c->range, value, circle));
}

static int64_t lasting_lack(fg_asker *a, const fg_op *op, bool yes)
{
    const int64_t time = (int64_t)a->program->gate.lastings[op->rule];
    if (!yes) return lack(a, op->a, false);
    if (fg_answer(a->explainer.run, op->a) != FG_YES) return sum(lack(a, op->a, true), STEP);
    const int64_t passed = (fg_time)(a->now - a->shadow.lastings[op->rule].since);
    return missing(passed, time);
}

/* Parts are looked at again and again where many conditions share them, so there is a bound. */
static int64_t lack(fg_asker *a, uint16_t slot, bool yes)
{
    const fg_gate *gate = &a->program->gate;
    const fg_op *op = &gate->ops[slot];
    if (slot == FG_INDEX_NONE || !a->looks) return NEVER;
    a->looks--;
    if (fg_answer(a->explainer.run, slot) == fg_sure(yes)) return 0;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_THRESHOLD:
    case FG_OP_HYSTERESIS:
    case FG_OP_COMPARE: return sensor_lack(a, op, yes);
    case FG_OP_IS: return label_lack(a, &gate->ops[op->a], gate->labels + op->rule, op->b, !yes);
    case FG_OP_COMPARE_COUNT: {
        const fg_compare *c = &gate->compares[op->rule];
        const fg_value count = fg_count_value(a->explainer.run, op->a);
        return far(yes != c->outside ? fg_way_into(&c->range, count, 0) : fg_way_out_of(&c->range, count, 0));
    }
    case FG_OP_NOT: return lack(a, op->a, !yes);
    case FG_OP_AND:
    case FG_OP_OR: {
        const int64_t one = lack(a, op->a, yes), other = lack(a, op->b, yes);
        return (op->kind == FG_OP_AND) == yes ? sum(one, other) : least(one, other);
    }
    case FG_OP_FOR: return lasting_lack(a, op, yes);
    case FG_OP_LATCH: return lack(a, yes ? op->a : op->b, true);
    case FG_OP_PULSE: {
        const fg_pulser *p = &gate->pulses[op->rule];
        if (!yes) return lack(a, p->stop, true);
        if (fg_answer(a->explainer.run, p->start) == FG_YES) return FLAG_AWAY; /* it has to end first, and begin anew */
        const int64_t again = fg_pulse_at(a->explainer.run, op->rule)->spent ? lack(a, p->again, true) : 0;
        return sum(sum(lack(a, p->start, true), again), 1);
    }
    case FG_OP_STARTS:
    case FG_OP_ENDS: return sum(lack(a, op->a, op->kind == FG_OP_STARTS), 1);
    case FG_OP_FLAG: return fg_answer(a->explainer.run, slot) == FG_UNSURE ? LOST : FLAG_AWAY;
    default: return LOST;
    }
}

/* To a row of this level: its condition, and those above it that hold. */
static int64_t row_lack(fg_asker *a, const fg_row *rows, uint16_t i)
{
    int64_t all = rows[i].when == FG_ROW_WHEN ? lack(a, rows[i].slot, true) : rows[i].when == FG_ROW_ALWAYS ? 0 : LOST;
    for (uint16_t k = 0; k < i && all < NEVER; k++)
        all = rows[k].when == FG_ROW_WHEN ? sum(all, lack(a, rows[k].slot, false)) : NEVER;
    return all;
}

static int64_t output_lack(fg_asker *a, const fg_declared *d)
{
    const fg_output *output = &a->program->gate.outputs[d->index];
    const fg_row *rows = fg_output_rows(&a->program->gate, output);
    const uint16_t present = fg_output_at(a->explainer.run, d->index)->row;
    const fg_text wanted = a->question->wanted;
    int64_t best = NEVER;
    if (wanted.size && present != FG_INDEX_NONE && fg_why_is_level(&rows[present].level, wanted)) return 0;
    for (uint16_t i = 0; i < output->row_count; i++)
        if (wanted.size ? fg_why_is_level(&rows[i].level, wanted) : i != present)
            best = least(best, row_lack(a, rows, i));
    if (!wanted.size && present != FG_INDEX_NONE && rows[present].when == FG_ROW_WHEN)
        best = least(best, lack(a, rows[present].slot, false));
    return best;
}

enum { LOOKS_MOST = 2000 };

uint16_t fg_why_nearest_row(fg_asker *a, const fg_output *output)
{
    const fg_row *rows = fg_output_rows(&a->program->gate, output);
    int64_t best = NEVER;
    uint16_t nearest = FG_INDEX_NONE;
    for (uint16_t i = 0; i < output->row_count; i++) {
        a->looks = LOOKS_MOST;
        const int64_t away = row_lack(a, rows, i);
        if (away >= best) continue;
        best = away;
        nearest = i;
    }
    return nearest;
}

int64_t fg_why_lack(fg_asker *a)
{
    const fg_declared *d = a->question->name;
    const fg_text wanted = a->question->wanted;
    const fg_verdict present = d->slot == FG_INDEX_NONE ? (fg_verdict)FG_UNSURE : fg_answer(a->explainer.run, d->slot);
    bool yes;
    a->looks = LOOKS_MOST;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) return output_lack(a, d);
    if (!fg_kind_is(d->kind, FG_KIND_LABELS))
        return lack(a, d->slot, wanted.size && fg_flag_word(wanted, &yes) ? yes : present != FG_YES);
    fg_verdict label = wanted.size ? (fg_verdict)FG_NONE : present;
    for (uint16_t i = 0; wanted.size && i < d->label_count; i++)
        if (fg_text_same(d->labels[i], wanted)) label = fg_label(i);
    if (wanted.size && label == present) return 0;
    return label_lack(a, &a->program->gate.ops[d->slot], &label, 1, !wanted.size);
}
