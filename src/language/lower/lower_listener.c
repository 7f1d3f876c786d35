/* SPDX-License-Identifier: MIT */
/* Latch, count and pulse: the conditions they listen to, then their own op. */
#include "language/lower/lower.h"

#include "language/tree/parse.h"

/* The slot of a row's condition; FG_INDEX_NONE if there is no such row. */
static uint16_t slot_of(fg_compiler *c, const fg_symbol *s, fg_attribute attribute)
{
    const fg_node *node = fg_node_attribute(s, attribute);
    return node && node->row.has_when ? fg_lower_condition(c, node->last) : (uint16_t)FG_INDEX_NONE;
}

/* Was the row written? */
static bool has(const fg_symbol *s, fg_attribute attribute) { return fg_node_attribute(s, attribute) != NULL; }

/* Its parts stand in the op itself, since there are two. */
static fg_op lower_latch(fg_compiler *c, const fg_symbol *s)
{
    fg_at_latches(c->tables, s->index)->clear_wins = has(s, ATTR_CLEAR_WINS);
    const uint16_t set = slot_of(c, s, ATTR_SET), clear = slot_of(c, s, ATTR_CLEAR);
    return (fg_op){.kind = FG_OP_LATCH, .rule = s->index, .a = set, .b = clear};
}

/* The conditions are lowered one after the other, then the entry is written as a whole: lowering may move the table. */
static fg_op lower_count(fg_compiler *c, const fg_symbol *s)
{
    fg_counter counter = {.rule = {(fg_value)s->low, (fg_value)s->high, (fg_value)s->checked.number}};
    counter.add = slot_of(c, s, ATTR_ADD);
    counter.take = slot_of(c, s, ATTR_TAKE);
    counter.zero = slot_of(c, s, ATTR_ZERO_WHEN);
    *fg_at_counters(c->tables, s->index) = counter;
    return (fg_op){.kind = FG_OP_COUNT, .rule = s->index};
}

/* The lengths stand in a row. The condition of a length is lowered after its entry was pushed, so that the entries
 * stay next to each other. */
static fg_op lower_pulse(fg_compiler *c, const fg_symbol *s)
{
    fg_tables *t = c->tables;
    fg_pulser pulser = {.rule = {has(s, ATTR_AGAIN), has(s, ATTR_RESTARTS)},
                        .first_length = (uint16_t)t->pulse_lengths.used};
    for (const fg_node *node = s->body; node; node = node->next) {
        if (node->kind != NODE_ATTRIBUTE || node->row.attribute != ATTR_LAST) continue;
        const fg_pulse_length length = {(fg_time)node->first->found.steps, FG_INDEX_NONE};
        const uint16_t at = fg_push_pulse_lengths(c, length, node->span);
        pulser.length_count++;
        if (node->row.has_when && at != FG_INDEX_NONE) {
            const uint16_t slot = fg_lower_condition(c, node->last);
            fg_at_pulse_lengths(t, at)->slot = slot;
        }
    }
    pulser.start = slot_of(c, s, ATTR_START);
    pulser.again = slot_of(c, s, ATTR_AGAIN);
    pulser.stop = slot_of(c, s, ATTR_STOP);
    *fg_at_pulses(t, s->index) = pulser;
    return (fg_op){.kind = FG_OP_PULSE, .rule = s->index};
}

/* The op comes last, behind all that it listens to. */
void fg_lower_listener(fg_compiler *c, fg_symbol *symbol)
{
    const fg_op op = symbol->kind == FG_KIND_COUNT   ? lower_count(c, symbol)
                     : symbol->kind == FG_KIND_PULSE ? lower_pulse(c, symbol)
                                                     : lower_latch(c, symbol);
    symbol->slot = fg_lower_op(c, op, symbol->span);
}
