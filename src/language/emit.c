/* The program of the gate: every name after the names it looks at, conditions as lines that look at slots before them.
 */
#include "front.h"

/* ---- lines ---- */

enum { OPS_MOST = 65000 };

static uint16_t add_op(fg_front *f, fg_op op, fg_span span)
{
    fg_tables *t = f->tables;
    if (t->op_count >= OPS_MOST) {
        if (t->op_count == OPS_MOST)
            fg_say(f, FG_FIND_TOO_MANY, span, "a gate has at most 65000 rules and parts of conditions",
                   "split it into two gates");
        t->op_count = OPS_MOST + 1;
        return FG_SLOT_NONE;
    }
    t->ops[t->op_count] = op;
    t->told[t->op_count].span = span;
    return (uint16_t)t->op_count++;
}

static uint16_t emit_not(fg_front *f, uint16_t slot, fg_span span)
{
    if (slot == FG_SLOT_NONE) return slot;
    return add_op(f, (fg_op){.kind = FG_OP_NOT, .a = slot}, span);
}

static uint16_t emit_compare(fg_front *f, const fg_node *node)
{
    fg_tables *t = f->tables;
    fg_threshold range;
    if (!fg_check_comparison(f, node->first, node->symbol, 0, &range)) return FG_SLOT_NONE;
    t->compares[t->compare_count] = (fg_compare){range.range, range.outside};
    fg_op op = {.kind = FG_OP_COMPARE, .rule = (uint16_t)t->compare_count++, .a = node->symbol->index};
    uint16_t slot = add_op(f, op, node->span);
    if (slot != FG_SLOT_NONE) (void)fg_check_told(f, node->first, node->symbol, &t->told[slot].comparison);
    return slot;
}

static uint16_t emit_is(fg_front *f, const fg_node *node)
{
    fg_tables *t = f->tables;
    const fg_symbol *bands = node->symbol;
    fg_op op = {.kind = FG_OP_IS, .rule = (uint16_t)t->label_count, .a = bands->slot};
    for (const fg_node *label = node->first; label; label = label->next) {
        uint16_t i = 0;
        while (i < bands->label_count && !fg_text_same(bands->labels[i], label->word)) i++;
        t->labels[t->label_count++] = label->negated ? (fg_verdict)FG_NONE : FG_LABEL(i);
        op.b++;
    }
    if (t->label_count > UINT16_MAX) {
        fg_say(f, FG_FIND_TOO_MANY, node->span, "a gate has at most 65535 labels in its conditions",
               "split it into two gates");
        return FG_SLOT_NONE;
    }
    uint16_t slot = add_op(f, op, node->span);
    return node->negated ? emit_not(f, slot, node->span) : slot;
}

static uint16_t emit_output_is(fg_front *f, const fg_node *node)
{
    fg_tables *t = f->tables;
    fg_level level;
    fg_pattern *pattern = &t->patterns[t->pattern_count];
    if (!fg_check_level(f, node->first, node->symbol, &level, pattern)) return FG_SLOT_NONE;
    fg_op op = {.kind = FG_OP_OUTPUT_IS, .rule = (uint16_t)t->pattern_count++, .a = node->symbol->index};
    uint16_t slot = add_op(f, op, node->span);
    return node->negated ? emit_not(f, slot, node->span) : slot;
}

static uint16_t emit_chain(fg_front *f, const fg_node *node)
{
    uint16_t left = FG_SLOT_NONE;
    bool good = true;
    for (const fg_node *part = node->first; part; part = part->next) {
        uint16_t slot = fg_emit_condition(f, part);
        good = good && slot != FG_SLOT_NONE;
        if (part == node->first) {
            left = slot;
            continue;
        }
        fg_span span = node->span;
        span.size = part->span.at + part->span.size - span.at;
        const uint8_t kind = node->kind == NODE_AND ? FG_OP_AND : FG_OP_OR;
        if (good) left = add_op(f, (fg_op){.kind = kind, .a = left, .b = slot}, span);
    }
    return good ? left : FG_SLOT_NONE;
}

static uint16_t emit_faulty(fg_front *f, const fg_node *node)
{
    const fg_symbol *symbol = node->symbol;
    const uint8_t kind = symbol->kind == FG_KIND_FLAG ? FG_OP_FLAG_FAULTY : FG_OP_SENSOR_FAULTY;
    return add_op(f, (fg_op){.kind = kind, .rule = symbol->index}, node->span);
}

uint16_t fg_emit_condition(fg_front *f, const fg_node *node)
{
    switch ((fg_node_kind)node->kind) {
    case NODE_ANSWER: return node->symbol->slot;
    case NODE_COMPARE: return emit_compare(f, node);
    case NODE_IS: return emit_is(f, node);
    case NODE_OUTPUT_IS: return emit_output_is(f, node);
    case NODE_FAULTY: return emit_faulty(f, node);
    case NODE_UNSURE: return add_op(f, (fg_op){.kind = FG_OP_UNSURE, .a = node->symbol->slot}, node->span);
    case NODE_NOT: return emit_not(f, fg_emit_condition(f, node->first), node->span);
    case NODE_AND:
    case NODE_OR: return emit_chain(f, node);
    default: return FG_SLOT_NONE;
    }
}

/* ---- the order ---- */

/* What a rule compares with, for reasons. */
static void tell(fg_front *f, const fg_symbol *s)
{
    if (s->slot == FG_SLOT_NONE || !s->sensor) return;
    fg_told *told = &f->tables->told[s->slot];
    const bool quiet = f->quiet;
    f->quiet = true; /* the check has said what there is to say */
    told->margin = (fg_value)fg_check_margin(f, s);
    f->quiet = quiet;
    for (const fg_node *node = s->body; node; node = node->next) {
        if (node->kind >= NODE_OVER && node->kind <= NODE_NEAR)
            (void)fg_check_told(f, node, s->sensor, &told->comparison);
        if (node->kind == NODE_ON) (void)fg_check_told(f, node->first, s->sensor, &told->comparison);
        if (node->kind == NODE_OFF) (void)fg_check_told(f, node->first, s->sensor, &told->off);
    }
}

static void emit_symbol(fg_front *f, fg_symbol *s)
{
    static const uint8_t kinds[] = {[FG_KIND_SENSOR] = FG_OP_SENSOR,
                                    [FG_KIND_FLAG] = FG_OP_FLAG,
                                    [FG_KIND_THRESHOLD] = FG_OP_THRESHOLD,
                                    [FG_KIND_HYSTERESIS] = FG_OP_HYSTERESIS,
                                    [FG_KIND_BANDS] = FG_OP_BANDS};
    if (s->kind == FG_KIND_CONDITION) {
        if (s->body) s->slot = fg_emit_condition(f, s->body);
        return;
    }
    if (s->kind > FG_KIND_BANDS || s->kind == FG_KIND_NUMBER) return;
    s->slot =
        add_op(f, (fg_op){.kind = kinds[s->kind], .rule = s->index, .a = s->sensor ? s->sensor->index : 0}, s->span);
    tell(f, s);
}

/* "a, b, a": the way from a name on the stack back to itself. */
static fg_text cycle_path(fg_front *f, fg_symbol **stack, uint32_t depth, const fg_symbol *again)
{
    fg_text path = {0};
    uint32_t from = depth;
    while (from && stack[from - 1] != again) from--;
    for (uint32_t i = from ? from - 1 : 0; i < depth; i++)
        path = path.size ? fg_text_join(f, path, " -> ", stack[i]->name) : stack[i]->name;
    return fg_text_join(f, path, " -> ", again->name);
}

/* One step down from the top of the stack: the next name it looks at that has no place yet. */
static fg_symbol *next_use(fg_front *f, fg_symbol **stack, uint32_t depth)
{
    fg_symbol *top = stack[depth - 1];
    while (top->uses) {
        const fg_use *use = top->uses;
        top->uses = use->next;
        if (use->symbol->placed) continue;
        if (!use->symbol->visited) return use->symbol;
        fg_say(f, FG_FIND_CYCLE, use->span, "'{}' depends on itself: {}", "work one of them out from something else",
               use->symbol->name, cycle_path(f, stack, depth, use->symbol));
    }
    return NULL;
}

/* Depth first with a stack of our own: a chain of ten thousand names is no deeper for the machine than one. */
static void emit_in_order(fg_front *f)
{
    fg_symbol **stack = fg_arena_take(&f->arena, f->symbol_count + 1, sizeof(fg_symbol *));
    for (fg_symbol *s = f->symbols; s && stack; s = s->next) {
        uint32_t depth = 0;
        if (fg_kind_is_output(s->kind) || s->kind == FG_KIND_NUMBER || s->placed) continue;
        stack[depth++] = s;
        s->visited = true;
        while (depth) {
            fg_symbol *deeper = next_use(f, stack, depth);
            if (deeper) {
                deeper->visited = true;
                stack[depth++] = deeper;
                continue;
            }
            fg_symbol *done = stack[--depth];
            done->placed = true;
            emit_symbol(f, done);
        }
    }
}

/* ---- outputs ---- */

static void emit_output(fg_front *f, const fg_symbol *s)
{
    static const uint8_t rests[] = {
        [FG_LAMP] = FG_FORM_OFF, [FG_RELAY] = FG_FORM_OFF, [FG_BUZZER] = FG_FORM_QUIET, [FG_MOTOR] = FG_FORM_STOP};
    fg_tables *t = f->tables;
    const uint8_t kind = (uint8_t)(s->kind - FG_KIND_LAMP);
    fg_output *out = &t->outputs[s->index];
    *out = (fg_output){.first_row = (uint16_t)t->row_count,
                       .kind = kind,
                       .guarded = kind == FG_MOTOR || kind == FG_RELAY,
                       .rest = {.form = rests[kind]}};
    for (const fg_node *row = s->body; row; row = row->next) {
        if (row->kind != NODE_ROW) continue;
        fg_row *to = &t->rows[t->row_count];
        *to = (fg_row){.when = row->role, .slot = FG_SLOT_NONE};
        (void)fg_check_level(f, row->first, s, &to->level, NULL);
        if (row->role == FG_WHEN) to->slot = fg_emit_condition(f, row->first->next);
        t->row_count++;
        out->row_count++;
    }
    if (t->row_count > UINT16_MAX)
        fg_say(f, FG_FIND_TOO_MANY, s->span, "a gate has at most 65535 rows", "split it into two gates");
}

/* ---- everything ---- */

static void emit_declared(fg_front *f)
{
    fg_declared *declared = fg_arena_take(&f->arena, f->symbol_count, sizeof *declared);
    uint32_t count = 0;
    for (const fg_symbol *s = f->symbols; s && declared; s = s->next) {
        const fg_symbol *sensor = s->sensor ? s->sensor : s;
        declared[count++] = (fg_declared){.kind = s->kind,
                                          .name = s->name,
                                          .unit = sensor->unit,
                                          .span = s->span,
                                          .index = s->index,
                                          .slot = s->slot,
                                          .sensor = s->sensor ? s->sensor->index : 0,
                                          .decimals = sensor->decimals,
                                          .labels = s->labels,
                                          .label_count = s->label_count};
    }
    f->program->declared = declared;
    f->program->declared_count = count;
}

static void hand_over(fg_front *f, const uint32_t *counts)
{
    const fg_tables *t = f->tables;
    fg_gate *gate = &f->program->gate;
    uint32_t outputs = 0;
    for (int k = FG_KIND_LAMP; k < FG_KIND_COUNT; k++) outputs += counts[k];
    gate->sensor_count = (uint16_t)counts[FG_KIND_SENSOR];
    gate->flag_count = (uint16_t)counts[FG_KIND_FLAG];
    gate->threshold_count = (uint16_t)counts[FG_KIND_THRESHOLD];
    gate->hysteresis_count = (uint16_t)counts[FG_KIND_HYSTERESIS];
    gate->bands_count = (uint16_t)counts[FG_KIND_BANDS];
    gate->output_count = (uint16_t)outputs;
    gate->ops = t->ops;
    gate->sensors = t->sensors;
    gate->flags = t->flags;
    gate->thresholds = t->thresholds;
    gate->hysteresis = t->hysteresis;
    gate->bands = t->bands;
    gate->compares = t->compares;
    gate->labels = t->labels;
    gate->patterns = t->patterns;
    gate->outputs = t->outputs;
    gate->rows = t->rows;
    f->program->told = t->told;
}

static bool take_tables(fg_front *f, fg_tables *t, const uint32_t *counts)
{
    const uint32_t *nodes = f->node_counts;
    const uint32_t parts = nodes[NODE_COMPARE] + 2 * nodes[NODE_IS] + 2 * nodes[NODE_OUTPUT_IS] + nodes[NODE_FAULTY] +
                           nodes[NODE_UNSURE] + nodes[NODE_NOT] + nodes[NODE_AND] + nodes[NODE_OR];
    uint32_t most = f->symbol_count + parts + 1;
    if (most > OPS_MOST) most = OPS_MOST;
    fg_arena *a = &f->arena;
    t->ops = fg_arena_take(a, most, sizeof *t->ops);
    t->told = fg_arena_take(a, most, sizeof *t->told);
    t->sensors = fg_arena_take(a, counts[FG_KIND_SENSOR], sizeof *t->sensors);
    t->flags = fg_arena_take(a, counts[FG_KIND_FLAG], sizeof *t->flags);
    t->thresholds = fg_arena_take(a, counts[FG_KIND_THRESHOLD], sizeof *t->thresholds);
    t->hysteresis = fg_arena_take(a, counts[FG_KIND_HYSTERESIS], sizeof *t->hysteresis);
    t->bands = fg_arena_take(a, counts[FG_KIND_BANDS], sizeof *t->bands);
    t->compares = fg_arena_take(a, nodes[NODE_COMPARE], sizeof *t->compares);
    t->labels = fg_arena_take(a, nodes[NODE_WORD], sizeof *t->labels);
    t->patterns = fg_arena_take(a, nodes[NODE_OUTPUT_IS], sizeof *t->patterns);
    t->outputs = fg_arena_take(a, f->symbol_count, sizeof *t->outputs);
    t->rows = fg_arena_take(a, nodes[NODE_ROW], sizeof *t->rows);
    return !a->full;
}

/* Which sensor each rule reads, and everybody's number in the table of its kind. */
static void number_symbols(fg_front *f, uint32_t *counts)
{
    uint32_t outputs = 0;
    for (fg_symbol *s = f->symbols; s; s = s->next) {
        s->index = (uint16_t)(fg_kind_is_output(s->kind) ? outputs++ : counts[s->kind]);
        counts[s->kind]++;
        s->visited = s->visited && s->kind == FG_KIND_NUMBER;
        if (!s->from.size) continue;
        s->sensor = fg_name_use(f, s->from, s->from_span, KIND(FG_KIND_SENSOR));
        fg_use *use = s->sensor ? fg_arena_take(&f->arena, 1, sizeof *use) : NULL;
        if (!use) continue;
        *use = (fg_use){s->sensor, s->from_span, s->uses};
        s->uses = use;
    }
}

static void check_rules(fg_front *f)
{
    fg_tables *t = f->tables;
    for (fg_symbol *s = f->symbols; s; s = s->next)
        if (s->kind == FG_KIND_SENSOR) fg_check_sensor(f, s, &t->sensors[s->index]);
    for (fg_symbol *s = f->symbols; s; s = s->next) {
        if (s->kind == FG_KIND_NUMBER && !s->worked_out) {
            bool used = s->used;
            const fg_node name = {.kind = NODE_NUMBER_NAME, .word = s->name, .span = s->span};
            (void)fg_quantity_of(f, &name);
            s->used = used;
        }
        if (s->kind == FG_KIND_FLAG) t->flags[s->index].inverted = fg_check_attribute(s, ATTR_INVERTED) != NULL;
        if (s->kind == FG_KIND_THRESHOLD) fg_check_threshold(f, s, &t->thresholds[s->index]);
        if (s->kind == FG_KIND_HYSTERESIS) fg_check_hysteresis(f, s, &t->hysteresis[s->index]);
        if (s->kind == FG_KIND_BANDS) fg_check_bands(f, s, &t->bands[s->index]);
    }
    if (f->pace && fg_quantity_duration(f, f->pace, T("'every'"), &f->program->gate.every) && !f->program->gate.every)
        fg_say(f, FG_FIND_RANGE, f->pace->span, "a gate cannot step every 0 ms",
               "write a time above 0, or leave 'every' out");
}

void fg_emit(fg_front *f)
{
    uint32_t counts[FG_KIND_COUNT] = {0};
    fg_tables *t = fg_arena_take(&f->arena, 1, sizeof *t);
    number_symbols(f, counts);
    if (!t || !take_tables(f, t, counts)) return;
    f->tables = t;
    if (f->symbol_count > UINT16_MAX) {
        fg_say(f, FG_FIND_TOO_MANY, (fg_span){0}, "a gate has at most 65535 names", "split it into two gates");
        return;
    }
    check_rules(f);
    emit_in_order(f);
    for (const fg_symbol *s = f->symbols; s; s = s->next)
        if (fg_kind_is_output(s->kind)) emit_output(f, s);
    f->program->gate.op_count = (uint16_t)(t->op_count > OPS_MOST ? OPS_MOST : t->op_count);
    fg_check_trials(f);
    hand_over(f, counts);
    emit_declared(f);
}
