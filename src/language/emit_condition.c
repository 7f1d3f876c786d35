/* Conditions as lines of the program: each looks only at slots before its own. */
#include "front.h"

enum { OPS_MOST = 65000 };

bool fg_emit_fits(fg_front *f, uint32_t used, fg_span span)
{
    if (used <= OPS_MOST) return true;
    if (!f->overflowed)
        fg_say(f, FG_FIND_TOO_MANY, span, "a gate has at most 65000 rules, rows and parts of each kind",
               "split it into two gates");
    f->overflowed = true;
    return false;
}

uint16_t fg_emit_op(fg_front *f, fg_op op, fg_span span)
{
    fg_tables *t = f->tables;
    if (!fg_emit_fits(f, t->ops_used + 1, span)) return FG_SLOT_NONE;
    t->ops[t->ops_used] = op;
    t->told[t->ops_used].span = span;
    return (uint16_t)t->ops_used++;
}

/* A line that looks at another's slot; nothing if that one went wrong. */
static uint16_t emit_on(fg_front *f, fg_op_kind kind, uint32_t rule, uint16_t slot, fg_span span)
{
    if (slot == FG_SLOT_NONE) return slot;
    return fg_emit_op(f, (fg_op){.kind = (uint8_t)kind, .rule = (uint16_t)rule, .a = slot}, span);
}

static uint16_t emit_compare(fg_front *f, const fg_node *node)
{
    fg_tables *t = f->tables;
    fg_threshold range;
    /* A count is compared as a sensor without unit that counts in whole steps. */
    const fg_symbol as_sensor = {.name = node->symbol->name};
    const bool counts = node->kind == NODE_COMPARE_COUNT;
    const fg_symbol *symbol = counts ? &as_sensor : node->symbol;
    if (!fg_check_comparison(f, node->first, symbol, 0, &range)) return FG_SLOT_NONE;
    t->compares[t->compares_used] = (fg_compare){range.range, range.outside != node->negated};
    fg_op op = {.kind = (uint8_t)(counts ? FG_OP_COMPARE_COUNT : FG_OP_COMPARE),
                .rule = (uint16_t)t->compares_used++,
                .a = node->symbol->index};
    const uint16_t slot = fg_emit_op(f, op, node->span);
    if (slot != FG_SLOT_NONE) (void)fg_check_told(f, node->first, symbol, &t->told[slot].comparison);
    return slot;
}

static uint16_t emit_is(fg_front *f, const fg_node *node)
{
    fg_tables *t = f->tables;
    const fg_symbol *bands = node->symbol;
    fg_op op = {.kind = FG_OP_IS, .rule = (uint16_t)t->labels_used, .a = bands->slot};
    for (const fg_node *label = node->first; label; label = label->next) {
        uint16_t i = 0;
        while (i < bands->label_count && !fg_text_same(bands->labels[i], label->word)) i++;
        t->labels[t->labels_used++] = label->negated ? (fg_verdict)FG_NONE : FG_LABEL(i);
        op.b++;
    }
    if (bands->slot == FG_SLOT_NONE || !fg_emit_fits(f, t->labels_used, node->span)) return FG_SLOT_NONE;
    const uint16_t slot = fg_emit_op(f, op, node->span);
    return node->negated ? emit_on(f, FG_OP_NOT, 0, slot, node->span) : slot;
}

static uint16_t emit_output_is(fg_front *f, const fg_node *node)
{
    fg_tables *t = f->tables;
    fg_level level;
    fg_pattern *pattern = &t->patterns[t->patterns_used];
    if (!fg_check_level(f, node->first, node->symbol, &level, pattern)) return FG_SLOT_NONE;
    const fg_op op = {.kind = FG_OP_OUTPUT_IS, .rule = (uint16_t)t->patterns_used++, .a = node->symbol->index};
    const uint16_t slot = fg_emit_op(f, op, node->span);
    return node->negated ? emit_on(f, FG_OP_NOT, 0, slot, node->span) : slot;
}

static uint16_t emit_chain(fg_front *f, const fg_node *node)
{
    uint16_t left = FG_SLOT_NONE;
    bool good = true;
    for (const fg_node *part = node->first; part; part = part->next) {
        const uint16_t slot = fg_emit_condition(f, part);
        good = good && slot != FG_SLOT_NONE;
        if (part == node->first) {
            left = slot;
            continue;
        }
        fg_span span = node->span;
        span.size = part->span.at + part->span.size - span.at;
        const uint8_t kind = node->kind == NODE_AND ? FG_OP_AND : FG_OP_OR;
        if (good) left = fg_emit_op(f, (fg_op){.kind = kind, .a = left, .b = slot}, span);
    }
    return good ? left : FG_SLOT_NONE;
}

static uint16_t emit_yes_in(fg_front *f, const fg_node *node)
{
    fg_tables *t = f->tables;
    uint16_t slots[UINT8_MAX];
    uint32_t count = 0;
    int64_t least = 0;
    bool good = true;
    for (const fg_node *part = node->first->next; part && count < UINT8_MAX; part = part->next) {
        slots[count] = fg_emit_condition(f, part);
        good = good && slots[count++] != FG_SLOT_NONE;
    }
    if (count == UINT8_MAX) {
        fg_say(f, FG_FIND_TOO_MANY, node->span, "such a list has at most 254 parts", "give groups of them names");
        return FG_SLOT_NONE;
    }
    const fg_slot_for slot = {.what = T("how many of them"), .low = 1, .high = count};
    if (!fg_quantity_steps(f, node->first, &slot, &least) || !good) return FG_SLOT_NONE;
    const fg_op op = {
        .kind = FG_OP_AT_LEAST, .rule = (uint16_t)t->slots_used, .a = (uint16_t)least, .b = (uint16_t)count};
    for (uint32_t i = 0; i < count; i++) t->slots[t->slots_used++] = slots[i];
    return fg_emit_fits(f, t->slots_used, node->span) ? fg_emit_op(f, op, node->span) : (uint16_t)FG_SLOT_NONE;
}

static uint16_t emit_faulty(fg_front *f, const fg_node *node)
{
    const fg_symbol *symbol = node->symbol;
    const uint8_t kind = symbol->kind == FG_KIND_FLAG ? FG_OP_FLAG_FAULTY : FG_OP_SENSOR_FAULTY;
    return fg_emit_op(f, (fg_op){.kind = kind, .rule = symbol->index}, node->span);
}

static uint16_t emit_for(fg_front *f, const fg_node *node)
{
    fg_tables *t = f->tables;
    const uint16_t slot = fg_emit_condition(f, node->first);
    if (!fg_quantity_duration(f, node->last, T("'for'"), &t->lastings[t->lastings_used])) return FG_SLOT_NONE;
    return emit_on(f, FG_OP_FOR, t->lastings_used++, slot, node->span);
}

/* What it looks back at is worked out behind everything else, so it may be worked out from this very line. */
static uint16_t emit_previously(fg_front *f, const fg_node *node)
{
    fg_tables *t = f->tables;
    t->looked_back[t->previously_used] = node->first;
    return fg_emit_op(f, (fg_op){.kind = FG_OP_PREVIOUSLY, .rule = (uint16_t)t->previously_used++}, node->span);
}

void fg_emit_looked_back(fg_front *f)
{
    fg_tables *t = f->tables;
    for (; t->looked_back_done < t->previously_used; t->looked_back_done++) /* grows while one looks back at another */
        t->previously[t->looked_back_done] = fg_emit_condition(f, t->looked_back[t->looked_back_done]);
}

static uint16_t emit_plays(fg_front *f, const fg_node *node)
{
    return fg_emit_op(f,
                      (fg_op){.kind = FG_OP_OUTPUT_PLAYS, .rule = node->first->symbol->index, .a = node->symbol->index},
                      node->span);
}

uint16_t fg_emit_condition(fg_front *f, const fg_node *node)
{
    fg_tables *t = f->tables;
    switch ((fg_node_kind)node->kind) {
    case NODE_ANSWER: return node->symbol->slot;
    case NODE_COMPARE:
    case NODE_COMPARE_COUNT: return emit_compare(f, node);
    case NODE_IS: return emit_is(f, node);
    case NODE_OUTPUT_IS: return emit_output_is(f, node);
    case NODE_OUTPUT_PLAYS: return emit_plays(f, node);
    case NODE_FAULTY: return emit_faulty(f, node);
    case NODE_UNSURE: return emit_on(f, FG_OP_UNSURE, 0, node->symbol->slot, node->span);
    case NODE_NOT: return emit_on(f, FG_OP_NOT, 0, fg_emit_condition(f, node->first), node->span);
    case NODE_AND:
    case NODE_OR: return emit_chain(f, node);
    case NODE_YES_IN: return emit_yes_in(f, node);
    case NODE_PREVIOUSLY: return emit_previously(f, node);
    case NODE_FOR: return emit_for(f, node);
    case NODE_STARTS: return emit_on(f, FG_OP_STARTS, t->edges_used++, fg_emit_condition(f, node->first), node->span);
    case NODE_ENDS: return emit_on(f, FG_OP_ENDS, t->edges_used++, fg_emit_condition(f, node->first), node->span);
    default: return FG_SLOT_NONE;
    }
}
