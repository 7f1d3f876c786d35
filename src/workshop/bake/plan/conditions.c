/* SPDX-License-Identifier: MIT */
/* Which answers get a variable. */
#include "workshop/bake/plan/coder.h"

#include <stdlib.h>

bool fg_code_is_sure(const coder *c, uint16_t slot) { return slot == FG_INDEX_NONE || c->sure[slot]; }

static void ask(coder *c, uint16_t slot, bool by_value)
{
    if (slot == FG_INDEX_NONE) return;
    if ((c->asked[slot] & ~CODE_BY_VALUE) < 100) c->asked[slot]++;
    if (by_value) c->asked[slot] |= CODE_BY_VALUE;
}

/* Where a latch can be unsure, the one of set and clear that yields to the other is looked at more than once. */
static void ask_for_latch(coder *c, const fg_op *op)
{
    const bool sure = fg_code_is_sure(c, op->a) && fg_code_is_sure(c, op->b);
    ask(c, op->a, false);
    ask(c, op->b, false);
    if (!sure) ask(c, c->gate->latches[op->rule].clear_wins ? op->a : op->b, false);
}

static void ask_all(coder *c, const fg_op *op)
{
    const fg_gate *g = c->gate;
    const fg_kind declared = fg_op_declared_kind((fg_op_kind)op->kind);
    const bool listens = (int)declared != FG_KINDS_IN_ALL && fg_kind_is(declared, FG_KIND_LISTENS);
    switch ((fg_op_kind)op->kind) {
    case FG_OP_UNSURE:
    case FG_OP_IS: ask(c, op->a, true); break;
    case FG_OP_AT_LEAST:
        for (uint16_t i = 0; i < op->b; i++) ask(c, g->slots[op->rule + i], true);
        break;
    case FG_OP_COUNT:
        ask(c, g->counters[op->rule].add, false);
        ask(c, g->counters[op->rule].take, false);
        ask(c, g->counters[op->rule].zero, false);
        break;
    case FG_OP_PULSE:
        ask(c, g->pulses[op->rule].start, false);
        ask(c, g->pulses[op->rule].again, false);
        ask(c, g->pulses[op->rule].stop, true);
        for (uint16_t i = 0; i < g->pulses[op->rule].length_count; i++)
            ask(c, g->pulse_lengths[g->pulses[op->rule].first_length + i].slot, false);
        break;
    case FG_OP_OUTPUT:
        for (uint16_t i = 0; i < g->outputs[op->rule].row_count; i++) {
            const fg_row *row = &g->rows[g->outputs[op->rule].first_row + i];
            if (row->when == FG_ROW_WHEN) ask(c, row->slot, false);
            if (row->when == FG_ROW_WHEN && g->outputs[op->rule].guarded) ask(c, row->slot, false);
        }
        break;
    case FG_OP_LATCH: ask_for_latch(c, op); break;
    default:
        if (fg_op_is(op->kind, FG_OP_A_IS_SLOT)) ask(c, op->a, listens && !fg_code_is_sure(c, op->a));
        if (fg_op_is(op->kind, FG_OP_B_IS_SLOT)) ask(c, op->b, listens && !fg_code_is_sure(c, op->b));
        break;
    }
}

/* A flag or a rule on a sensor has a variable in any case. */
static bool is_variable(const fg_op *op) { return op->kind == FG_OP_FLAG || fg_op_is(op->kind, FG_OP_RULE); }

bool fg_code_is_short(const coder *c, uint16_t slot)
{
    const fg_op *op = fg_code_op(c, slot);
    if (op->kind == FG_OP_NOT) return fg_code_is_short(c, op->a) || is_variable(fg_code_op(c, op->a));
    return op->kind == FG_OP_COMPARE || op->kind == FG_OP_COMPARE_COUNT || op->kind == FG_OP_FLAG_FAULTY ||
           op->kind == FG_OP_SENSOR_FAULTY || op->kind == FG_OP_UNSURE || (op->kind == FG_OP_IS && op->b == 1);
}

/* A test of more parts than this gets a variable, so that no text grows with the length of a chain. */
enum { PARTS_MOST = 24 };

/* How many parts stand in the test of an answer where it is written; `parts`: those of the answers before it. */
static uint16_t parts_of(const coder *c, uint16_t slot, const uint16_t *parts)
{
    const fg_op *op = fg_code_op(c, slot);
    if (op->kind == FG_OP_NOT) return parts[op->a];
    return op->kind == FG_OP_AND || op->kind == FG_OP_OR ? (uint16_t)(parts[op->a] + parts[op->b]) : 1;
}

static void cut_long_chains(coder *c)
{
    uint16_t *parts = calloc(c->gate->size.ops + 1u, sizeof *parts);
    c->full = c->full || !parts;
    for (uint16_t i = 0; parts && i < c->gate->size.ops; i++) {
        const uint8_t times = c->asked[i] & (uint8_t)~CODE_BY_VALUE;
        parts[i] = parts_of(c, i, parts);
        if (parts[i] > PARTS_MOST && times) c->asked[i] |= CODE_BY_VALUE;
        if (c->slots[i] || c->asked[i] & CODE_BY_VALUE || (times > 1 && !fg_code_is_short(c, i))) parts[i] = 1;
    }
    free(parts);
}

void fg_code_plan_conditions(coder *c)
{
    for (uint16_t i = 0; i < c->gate->size.ops; i++) ask_all(c, fg_code_op(c, i));
    for (uint16_t i = 0; i < c->gate->size.previously; i++) {
        ask(c, c->gate->previously[i], true);
        c->previously[i] =
            fg_code_member(c, "uint8_t", fg_code_word(c, fg_text_of("before"), ""), 0, "an answer one step ago");
    }
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        const fg_declared *d = &c->program->declared[i];
        if (d->kind != FG_KIND_CONDITION || c->slots[d->slot]) continue;
        const fg_op *op = fg_code_op(c, d->slot);
        if ((int)fg_op_declared_kind((fg_op_kind)op->kind) != FG_KINDS_IN_ALL) continue; /* a second name */
        c->slots[d->slot] = fg_code_member(c, "uint8_t", fg_code_word(c, d->name, ""), 0, NULL);
    }
    cut_long_chains(c);
}
