/* SPDX-License-Identifier: MIT */
/* The tables of a gate: first those that stand in the order of declaration, then the ops in the order of dependence.
 *
 * An op looks only at slots before its own; everything the step leaves out relies on that (core/step.c). The order of
 * dependence comes from the check (check_order.c), and inside of a condition parts are lowered before the whole, so
 * nothing has to be sorted here. Indexes into tables of a kind were given by the check; entries are pushed in the same
 * order.
 */
#include "language/check/quantity.h"
#include "language/lower/lower.h"

/* The texts that displays show for labels: their own, or the label itself. */
static void lower_label_texts(fg_compiler *c, fg_symbol *bands)
{
    fg_tables *t = c->tables;
    bands->first_text = (uint16_t)t->label_texts.used;
    for (uint16_t i = 0; i < bands->label_count; i++) (void)fg_push_label_texts(c, bands->labels[i], bands->span);
    for (const fg_node *node = bands->body; node; node = node->next) {
        const bool label = node->kind == NODE_LABEL || node->kind == NODE_LABEL_ROW;
        const uint32_t at = bands->first_text + (uint32_t)node->label.number;
        if (label && node->label.has_text && at < t->label_texts.used) *fg_at_label_texts(t, at) = node->label.text;
    }
}

/* An entry for each name, at its index; what hangs on slots is filled in later. */
static void lower_entry(fg_compiler *c, fg_symbol *s)
{
    switch (s->kind) {
    case FG_KIND_FLAG: (void)fg_push_flags(c, *s->checked.flag, s->span); return;
#define LOWER_RULE(NAME, name, table)                                                                                  \
    case FG_KIND_##NAME:                                                                                               \
        (void)fg_push_##table(c, *s->checked.name, s->span);                                                           \
        if (s->label_count) lower_label_texts(c, s);                                                                   \
        return;
        FG_SENSOR_RULES(LOWER_RULE)
#undef LOWER_RULE
#define LOWER_LISTENER(NAME, table, type)                                                                              \
    case FG_KIND_##NAME: (void)fg_push_##table(c, (type){0}, s->span); return;
        FG_LISTENERS(LOWER_LISTENER)
#undef LOWER_LISTENER
    case FG_KIND_SEQUENCE: (void)fg_push_sequences(c, (fg_sequence){0}, s->span); return;
    default:
        if (fg_kind_is(s->kind, FG_KIND_IS_OUTPUT)) (void)fg_push_outputs(c, (fg_output){0}, s->span);
        return;
    }
}

/* What a rule compares with, for reasons. */
static void lower_rule_source(fg_compiler *c, const fg_symbol *s)
{
    if (s->slot == FG_INDEX_NONE) return;
    fg_op_source *source = &((fg_op_source *)c->tables->op_sources.at)[s->slot];
    source->margin = s->margin;
    for (const fg_node *node = s->body; node; node = node->next) {
        if (node->kind == NODE_COMPARISON) source->comparison = fg_lower_comparison(node);
        if (node->kind == NODE_ON) source->comparison = fg_lower_comparison(node->first);
        if (node->kind == NODE_OFF) source->off = fg_lower_comparison(node->first);
    }
}

/* Sensors, flags and rules were checked into their entries, so they only need an op. */
static void lower_symbol(fg_compiler *c, fg_symbol *s)
{
    if (s->kind == FG_KIND_CONDITION) {
        s->slot = fg_lower_condition(c, s->body);
    } else if (s->kind == FG_KIND_SEQUENCE) {
        fg_lower_sequence(c, s);
    } else if (fg_kind_is(s->kind, FG_KIND_IS_OUTPUT)) {
        fg_lower_output(c, s);
    } else if (fg_kind_is(s->kind, FG_KIND_LISTENS)) {
        fg_lower_listener(c, s);
    } else {
        const fg_op op = {
            .kind = (uint8_t)fg_kind_op(s->kind), .rule = s->index, .a = s->sensor ? s->sensor->index : (uint16_t)0};
        s->slot = fg_lower_op(c, op, s->span);
        if (s->sensor) lower_rule_source(c, s);
    }
}

/* Sizes that are those of tables. The ops are counted before trials add theirs. */
static void set_sizes(const fg_tables *t, fg_gate_sizes *n)
{
    n->sensors = (uint16_t)t->sensors.used;
    n->flags = (uint16_t)t->flags.used;
#define RULE_SIZE(NAME, name, table) n->table = (uint16_t)t->table.used;
    FG_SENSOR_RULES(RULE_SIZE)
#undef RULE_SIZE
    n->outputs = (uint16_t)t->outputs.used;
    n->lastings = (uint16_t)t->lastings.used;
    n->previously = (uint16_t)t->previously.used;
#define LISTENER_SIZE(NAME, table, type) n->table = (uint16_t)t->table.used;
    FG_LISTENERS(LISTENER_SIZE)
#undef LISTENER_SIZE
}

/* Bands hang on their table by a pointer, each list by itself. */
static size_t band_bytes(const fg_tables *t)
{
    size_t bytes = 0;
    for (uint32_t i = 0; i < t->bands.used; i++) bytes += fg_at_bands(t, i)->count * sizeof(fg_band);
    return bytes;
}

/* Entries first, in the order of declaration, because a name's index is its place in its table. Then ops, in the order
 * of dependence, so that an op looks only at slots before its own. The sizes of a gate for a board are taken before
 * trials add their conditions behind it. */
void fg_lower(fg_compiler *c)
{
    fg_tables *t = c->tables = FG_TAKE(fg_tables, &c->arena, 1);
    fg_gate *gate = &c->program->gate;
    if (!t) return;
    gate->form = FG_GATE_FORM;
    gate->bytes = FG_GATE_BYTES;
    gate->every = c->every;
    fg_lower_sensors(c);
    for (fg_symbol *s = c->symbols; s; s = s->next) lower_entry(c, s);
    /* Nothing is handed over half: a gate that is too large has no tables at all. */
    if (c->arena.full || t->overflowed) return;
    for (fg_symbol *s = c->order; s && !c->arena.full; s = s->next_in_order) lower_symbol(c, s);
    fg_lower_looked_back(c);
    gate->size.ops = (uint16_t)t->ops.used;
    /* What a board needs; what trials add below stays on this machine. */
    c->program->table_sizes = fg_tables_mark_here(t).tables;
    c->program->table_bytes = fg_tables_bytes(&c->program->table_sizes) + band_bytes(t) + sizeof *gate;
    fg_lower_promises(c);
    fg_lower_asked(c);
    fg_lower_trials(c);
    if (c->arena.full || t->overflowed) return;
    fg_lower_steady(c);
    set_sizes(t, &gate->size);
    fg_tables_hand_over(t, gate);
    c->program->op_sources = (const fg_op_source *)t->op_sources.at;
    fg_lower_written(c);
}

/* Also of a gate with mistakes, whose names a tool still wants to list. A rule has the unit and the step of its
 * sensor. */
void fg_lower_declared(fg_compiler *c)
{
    fg_declared *declared = FG_TAKE(fg_declared, &c->arena, c->symbol_count);
    uint32_t count = 0;
    for (const fg_symbol *s = c->symbols; s && declared; s = s->next) {
        const fg_symbol *sensor = s->sensor ? s->sensor : s;
        const bool worked_out = s->kind == FG_KIND_NUMBER && s->quantity.ok && !s->quantity.written;
        declared[count++] = (fg_declared){.kind = s->kind,
                                          .name = s->name,
                                          .unit = sensor->unit,
                                          .span = s->span,
                                          .whole = s->whole,
                                          .index = s->index,
                                          .slot = s->slot,
                                          .sensor = (uint16_t)(s->sensor ? s->sensor->index : 0),
                                          .decimals = sensor->decimals,
                                          .labels = s->labels,
                                          .label_count = s->label_count};
        if (worked_out) declared[count - 1].worked_out = fg_quantity_text(c, &s->quantity, true);
    }
    c->program->declared = declared;
    c->program->declared_count = count;
    fg_named *uses = FG_TAKE(fg_named, &c->arena, c->named_count);
    uint32_t at = c->named_count;
    if (!uses) return;
    for (const fg_use *use = c->named; use; use = use->next) uses[--at] = (fg_named){use->span, use->symbol->order};
    c->program->uses = uses;
    c->program->use_count = c->named_count;
}
