/* SPDX-License-Identifier: MIT */
/* Conditions as ops: each looks only at slots before its own. */
#include "language/lower/lower.h"

/* Every op has a source of its own number, so that a reason can quote what was written. */
uint16_t fg_lower_op(fg_compiler *c, fg_op op, fg_span span)
{
    const uint16_t slot = fg_push_ops(c, op, span);
    fg_op_source *source =
        slot == FG_INDEX_NONE ? NULL : (fg_op_source *)fg_growing_push(c, &c->tables->op_sources, sizeof *source);
    if (source) *source = (fg_op_source){.span = span};
    return slot;
}

/* As it was written, for reasons; the range it became stands in the rule. */
fg_comparison fg_lower_comparison(const fg_node *comparison)
{
    const fg_node *second = comparison->first->next;
    return (fg_comparison){(fg_comparison_kind)comparison->comparison, (fg_value)comparison->first->found.steps,
                           second ? (fg_value)second->found.steps : 0};
}

/* An op that looks at the slot of another. */
static uint16_t op_on(fg_compiler *c, fg_op_kind kind, uint32_t rule, uint16_t slot, fg_span span)
{
    return fg_lower_op(c, (fg_op){.kind = (uint8_t)kind, .rule = (uint16_t)rule, .a = slot}, span);
}

/* The range was worked out by the check. */
static uint16_t lower_compare(fg_compiler *c, const fg_node *node)
{
    const uint8_t kind = node->kind == NODE_COMPARE_COUNT ? FG_OP_COMPARE_COUNT : FG_OP_COMPARE;
    const uint16_t rule = fg_push_compares(c, node->found.compare, node->span);
    const uint16_t slot = fg_lower_op(c, (fg_op){.kind = kind, .rule = rule, .a = node->symbol->index}, node->span);
    if (slot != FG_INDEX_NONE)
        ((fg_op_source *)c->tables->op_sources.at)[slot].comparison = fg_lower_comparison(node->first);
    return slot;
}

/* `is not` is `not` over the whole, also over what is unsure. */
static uint16_t negated(fg_compiler *c, const fg_node *node, uint16_t slot)
{
    return node->negated ? op_on(c, FG_OP_NOT, 0, slot, node->span) : slot;
}

/* The labels stand in a row in their table, so an op needs the first and how many. */
static uint16_t lower_is(fg_compiler *c, const fg_node *node)
{
    fg_op op = {.kind = FG_OP_IS, .rule = (uint16_t)c->tables->labels.used, .a = node->symbol->slot};
    for (const fg_node *label = node->first; label; label = label->next, op.b++)
        (void)fg_push_labels(c, label->wanted.none ? (fg_verdict)FG_NONE : fg_label(label->wanted.number), node->span);
    return negated(c, node, fg_lower_op(c, op, node->span));
}

/* A pattern notes what was not said, which then may be anything. */
static uint16_t lower_output_is(fg_compiler *c, const fg_node *node)
{
    const fg_node *level = node->first;
    const bool percent = level->last && level->last->part == PART_PERCENT;
    const fg_pattern pattern = {fg_lower_level(c, level), percent, level->level.colour != 0};
    const uint16_t rule = fg_push_patterns(c, pattern, node->span);
    const fg_op op = {.kind = FG_OP_OUTPUT_IS, .rule = rule, .a = node->symbol->index};
    return negated(c, node, fg_lower_op(c, op, node->span));
}

/* a and b and c: an op for each joint. */
static uint16_t lower_chain(fg_compiler *c, const fg_node *node)
{
    uint16_t left = fg_lower_condition(c, node->first);
    for (const fg_node *part = node->first->next; part; part = part->next) {
        const uint16_t right = fg_lower_condition(c, part);
        fg_span span = node->span;
        /* The text of an op is the chain up to here, so that a reason quotes just what it stands for. */
        span.size = part->span.at + part->span.size - span.at;
        const uint8_t kind = node->kind == NODE_AND ? FG_OP_AND : FG_OP_OR;
        left = fg_lower_op(c, (fg_op){.kind = kind, .a = left, .b = right}, span);
    }
    return left;
}

/* At least `least` of a list of slots. */
static uint16_t enough(fg_compiler *c, uint16_t list, uint16_t count, int64_t least, fg_span span)
{
    const fg_op op = {.kind = FG_OP_AT_LEAST, .rule = list, .a = (uint16_t)least, .b = count};
    return fg_lower_op(c, op, span);
}

static uint16_t not_enough(fg_compiler *c, uint16_t list, uint16_t count, int64_t least, fg_span span)
{
    return op_on(c, FG_OP_NOT, 0, enough(c, list, count, least, span), span);
}

/* The conditions first, so that their slots stand side by side in the list. At most N is not at least N + 1, exactly N
 * is at least N and at most N; that is right of what is unsure as well. */
static uint16_t lower_yes_in(fg_compiler *c, const fg_node *node)
{
    /* The check allows 254 parts. */
    uint16_t slots[UINT8_MAX];
    uint16_t count = 0;
    const int64_t number = node->first->found.steps;
    for (const fg_node *part = node->first->next; part; part = part->next) slots[count++] = fg_lower_condition(c, part);
    const uint16_t list = (uint16_t)c->tables->slots.used;
    for (uint16_t i = 0; i < count; i++) (void)fg_push_slots(c, slots[i], node->span);
    uint16_t slot;
    if (node->comparison == FG_COMPARE_AT_LEAST || (node->comparison == FG_COMPARE_WITHIN && number == count)) {
        slot = enough(c, list, count, number, node->span);
    } else if (node->comparison == FG_COMPARE_AT_MOST || !number) {
        slot = not_enough(c, list, count, number + 1, node->span);
    } else {
        const uint16_t least = enough(c, list, count, number, node->span);
        const fg_op both = {.kind = FG_OP_AND, .a = least, .b = not_enough(c, list, count, number + 1, node->span)};
        slot = fg_lower_op(c, both, node->span);
    }
    if (slot != FG_INDEX_NONE)
        ((fg_op_source *)c->tables->op_sources.at)[slot].comparison =
            (fg_comparison){(fg_comparison_kind)node->comparison, (fg_value)number, (fg_value)number};
    return slot;
}

/* A sensor is asked after its bridge, a flag before it settles. */
static uint16_t lower_faulty(fg_compiler *c, const fg_node *node)
{
    const uint8_t kind = node->symbol->kind == FG_KIND_FLAG ? FG_OP_FLAG_FAULTY : FG_OP_SENSOR_FAULTY;
    return fg_lower_op(c, (fg_op){.kind = kind, .rule = node->symbol->index}, node->span);
}

/* What it waits for comes first, then its own op. */
static uint16_t lower_for(fg_compiler *c, const fg_node *node)
{
    const uint16_t slot = fg_lower_condition(c, node->first);
    const uint16_t rule = fg_push_lastings(c, (fg_time)node->last->found.steps, node->span);
    return op_on(c, FG_OP_FOR, rule, slot, node->span);
}

/* What it looks back at is worked out behind everything else, so it may be worked out from this very op. */
static uint16_t lower_previously(fg_compiler *c, const fg_node *node)
{
    const uint16_t rule = fg_push_previously(c, FG_INDEX_NONE, node->span);
    const fg_node **atom = (const fg_node **)fg_growing_push(c, &c->tables->looked_back, sizeof(const fg_node *));
    if (atom) *atom = node->first;
    return fg_lower_op(c, (fg_op){.kind = FG_OP_PREVIOUSLY, .rule = rule}, node->span);
}

/* What `previously` asks is worked out at the end of the program, where everything it names has its slot. It may ask
 * `previously` in turn, so the list may grow while it is gone through. */
void fg_lower_looked_back(fg_compiler *c)
{
    fg_tables *t = c->tables;
    for (; t->looked_back_done < t->looked_back.used && !c->arena.full; t->looked_back_done++) {
        const fg_node *atom = ((const fg_node **)t->looked_back.at)[t->looked_back_done];
        const uint16_t slot = fg_lower_condition(c, atom); /* may add to the list */
        if (t->looked_back_done < t->previously.used) *fg_at_previously(t, t->looked_back_done) = slot;
    }
}

/* An edge remembers the last sure answer, so each has a place in the run. */
static uint16_t lower_edge(fg_compiler *c, fg_op_kind kind, const fg_node *node)
{
    const uint16_t slot = fg_lower_condition(c, node->first);
    return op_on(c, kind, fg_add_edges(c, 1, node->span), slot, node->span);
}

/* Only trials ask this. */
static uint16_t lower_plays(fg_compiler *c, const fg_node *node)
{
    const fg_op op = {.kind = FG_OP_OUTPUT_PLAYS, .rule = node->first->symbol->index, .a = node->symbol->index};
    return fg_lower_op(c, op, node->span);
}

/* A node becomes the slot of its answer. Its parts come before it, so the order of the ops is right by itself. */
uint16_t fg_lower_condition(fg_compiler *c, const fg_node *node)
{
    switch ((fg_node_kind)node->kind) {
    case NODE_ANSWER: return node->symbol->slot;
    case NODE_COMPARE:
    case NODE_COMPARE_COUNT: return lower_compare(c, node);
    case NODE_IS: return lower_is(c, node);
    case NODE_OUTPUT_IS: return lower_output_is(c, node);
    case NODE_OUTPUT_PLAYS: return lower_plays(c, node);
    case NODE_FAULTY: return lower_faulty(c, node);
    case NODE_UNSURE: return op_on(c, FG_OP_UNSURE, 0, node->symbol->slot, node->span);
    case NODE_NOT: return op_on(c, FG_OP_NOT, 0, fg_lower_condition(c, node->first), node->span);
    case NODE_AND:
    case NODE_OR: return lower_chain(c, node);
    case NODE_YES_IN: return lower_yes_in(c, node);
    case NODE_PREVIOUSLY: return lower_previously(c, node);
    case NODE_FOR: return lower_for(c, node);
    case NODE_STARTS: return lower_edge(c, FG_OP_STARTS, node);
    case NODE_ENDS: return lower_edge(c, FG_OP_ENDS, node);
    default: return FG_INDEX_NONE;
    }
}
