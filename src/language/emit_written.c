/* Where the limits and margins of rules are written, so that a tool can change them and nothing else. */
#include "front.h"

static uint32_t most_written(const fg_front *f)
{
    const uint32_t *nodes = f->node_counts;
    uint32_t most = nodes[NODE_CUT] + nodes[NODE_ATTRIBUTE];
    for (int kind = NODE_OVER; kind <= NODE_NEAR; kind++) most += 2 * nodes[kind];
    return most;
}

/* A literal in one of the sources: its sign and digits. False for one that was set for this run. */
static bool find_digits(const fg_front *f, const fg_node *literal, fg_span *span)
{
    if (literal->span.source >= f->source_count) return false;
    const fg_text text = f->sources[literal->span.source].text;
    const uintptr_t begin = (uintptr_t)text.at, digits = (uintptr_t)literal->word.at;
    if (digits < begin || digits >= begin + text.size) return false;
    *span = literal->span;
    span->size = (uint32_t)(digits - begin + literal->word.size) - span->at;
    return true;
}

static void add(fg_front *f, const fg_symbol *rule, const fg_node *number, fg_written_role role, bool off)
{
    fg_program *p = f->program;
    fg_written *w = &f->tables->written[p->written_count];
    const bool distance = role == FG_WRITTEN_BY || role == FG_WRITTEN_MARGIN;
    const fg_slot_for slot = fg_check_limit_of(rule->sensor, distance);
    int64_t value = 0;
    if (!fg_quantity_steps(f, number, &slot, &value)) return;
    *w = (fg_written){
        .line = rule->slot, .role = (uint8_t)role, .off = off, .value = (fg_value)value, .number = FG_NOT_NAMED};
    p->written_count++;
    w->negative = number->kind == NODE_NEGATIVE;
    if (w->negative) number = number->first;
    if (number->kind == NODE_NUMBER_NAME) {
        const fg_symbol *named = fg_name_find(f, number->word);
        if (!named) return;
        w->number = named->order;
        number = named->body;
    }
    if (number && number->kind == NODE_LITERAL) (void)find_digits(f, number, &w->span);
}

static void add_comparison(fg_front *f, const fg_symbol *rule, const fg_node *comparison, bool off)
{
    switch ((fg_node_kind)comparison->kind) {
    case NODE_OVER:
    case NODE_AT_MOST: add(f, rule, comparison->first, FG_WRITTEN_UP_TO, off); return;
    case NODE_UNDER:
    case NODE_AT_LEAST: add(f, rule, comparison->first, FG_WRITTEN_FROM, off); return;
    case NODE_WITHIN:
    case NODE_OUTSIDE:
        add(f, rule, comparison->first, FG_WRITTEN_FROM, off);
        add(f, rule, comparison->last, FG_WRITTEN_UP_TO, off);
        return;
    case NODE_NEAR:
        add(f, rule, comparison->first, FG_WRITTEN_MIDDLE, off);
        add(f, rule, comparison->last, FG_WRITTEN_BY, off);
        return;
    default: return;
    }
}

static void add_rule(fg_front *f, const fg_symbol *rule)
{
    for (const fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_CUT) add(f, rule, node->first, FG_WRITTEN_FROM, false);
        if (node->kind == NODE_ROW_RANGE && node->first) add_comparison(f, rule, node->first, false);
        if (node->kind == NODE_ON || node->kind == NODE_OFF)
            add_comparison(f, rule, node->first, node->kind == NODE_OFF);
        if (node->kind >= NODE_OVER && node->kind <= NODE_NEAR) add_comparison(f, rule, node, false);
        if (node->kind == NODE_ATTRIBUTE && node->attribute == ATTR_MARGIN)
            add(f, rule, node->first, FG_WRITTEN_MARGIN, false);
    }
}

void fg_emit_written(fg_front *f)
{
    f->tables->written = FG_TAKE(fg_written, &f->arena, most_written(f));
    if (!f->tables->written) return;
    for (const fg_symbol *s = f->symbols; s; s = s->next)
        if (s->kind == FG_KIND_THRESHOLD || s->kind == FG_KIND_HYSTERESIS || s->kind == FG_KIND_BANDS) add_rule(f, s);
    f->program->written = f->tables->written;
}
