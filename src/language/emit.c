/* The program of the gate: every name after the names it looks at. */
#include "front.h"

#include "core/mem.h"

/* ---- reasons ---- */

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

/* ---- rules that listen to conditions ---- */

static const fg_node *listened(const fg_symbol *s, fg_attribute attribute)
{
    for (const fg_node *node = s->body; node; node = node->next)
        if (node->kind == NODE_LISTEN && node->attribute == attribute) return node;
    return NULL;
}

/* The slot of a row's condition; FG_NONE_OF_THEM if there is no such row. */
static uint16_t slot_of(fg_front *f, const fg_symbol *s, fg_attribute attribute)
{
    const fg_node *node = listened(s, attribute);
    return node && node->last ? fg_emit_condition(f, node->last) : (uint16_t)FG_NONE_OF_THEM;
}

static bool needs(fg_front *f, const fg_symbol *s, fg_attribute attribute, const char *word)
{
    for (const fg_node *node = s->body; node; node = node->next)
        if (node->kind == NODE_BROKEN) return false;
    if (listened(s, attribute)) return true;
    fg_say(f, FG_FIND_MISSING, s->span, "the {} {} has no '{}'", "add {} when and a condition",
           fg_text_c(fg_kind_word(s->kind)), s->name, fg_text_c(word), fg_text_c(word));
    return false;
}

static void emit_latch(fg_front *f, fg_symbol *s)
{
    if (!needs(f, s, ATTR_SET, "set")) return;
    f->tables->latches[s->index].clear_wins = listened(s, ATTR_CLEAR_WINS) != NULL;
    const uint16_t set = slot_of(f, s, ATTR_SET), clear = slot_of(f, s, ATTR_CLEAR);
    s->slot = fg_emit_op(f, (fg_op){.kind = FG_OP_LATCH, .rule = s->index, .a = set, .b = clear}, s->span);
}

static void emit_count(fg_front *f, fg_symbol *s)
{
    fg_counting *out = &f->tables->counts[s->index];
    const fg_node *first = listened(s, ATTR_FIRST);
    const fg_slot_for slot = {.what = T("the first value"), .low = s->low, .high = s->high};
    int64_t value = s->low;
    if (first && first->first && !fg_quantity_steps(f, first->first, &slot, &value)) value = s->low;
    out->rule = (fg_count){(fg_value)s->low, (fg_value)s->high, (fg_value)value};
    out->add = slot_of(f, s, ATTR_ADD);
    out->take = slot_of(f, s, ATTR_TAKE);
    out->zero = slot_of(f, s, ATTR_ZERO_WHEN);
    s->slot = fg_emit_op(f, (fg_op){.kind = FG_OP_COUNT, .rule = s->index}, s->span);
}

static void emit_pulse(fg_front *f, fg_symbol *s)
{
    fg_tables *t = f->tables;
    fg_pulsing *out = &t->pulses[s->index];
    if (!needs(f, s, ATTR_START, "start")) return;
    if (!listened(s, ATTR_LAST)) {
        fg_say(f, FG_FIND_MISSING, s->span, "the pulse {} does not say how long it lasts", "add last 5s", s->name);
        return;
    }
    *out = (fg_pulsing){.rule = {listened(s, ATTR_AGAIN) != NULL, listened(s, ATTR_RESTARTS) != NULL},
                        .first_last = (uint16_t)t->lasts_used};
    for (const fg_node *node = s->body; node; node = node->next) {
        if (node->kind != NODE_LISTEN || node->attribute != ATTR_LAST) continue;
        fg_pulse_last *last = &t->lasts[t->lasts_used++];
        *last = (fg_pulse_last){.slot = FG_NONE_OF_THEM};
        out->last_count++;
        if (fg_quantity_duration(f, node->first, T("a pulse"), &last->time) && !last->time)
            fg_say(f, FG_FIND_RANGE, node->first->span, "a pulse lasts longer than no time", "write a time above 0");
        if (node->role == FG_WHEN) last->slot = fg_emit_condition(f, node->last);
    }
    out->start = slot_of(f, s, ATTR_START);
    out->again = slot_of(f, s, ATTR_AGAIN);
    out->stop = slot_of(f, s, ATTR_STOP);
    s->slot = fg_emit_op(f, (fg_op){.kind = FG_OP_PULSE, .rule = s->index}, s->span);
}

/* ---- sequences and outputs ---- */

uint16_t fg_emit_follow(fg_front *f, const fg_node *node, const fg_symbol *output, const fg_slot_for *target)
{
    fg_tables *t = f->tables;
    const fg_symbol *source = node->symbol;
    const fg_symbol count = {.name = source->name};
    fg_slot_for limit = fg_check_limit_of(source->kind == FG_KIND_COUNT ? &count : source, false);
    int64_t from = 0, to = 0, low = target->low, high = target->high;
    if (!fg_quantity_steps(f, node->first->first, &limit, &from) ||
        !fg_quantity_steps(f, node->first->last, &limit, &to))
        return FG_NONE_OF_THEM;
    if (from == to) {
        fg_say(f, FG_FIND_ORDER, node->first->span, "both ends are the same, so there is nothing to follow",
               "give two different numbers");
        return FG_NONE_OF_THEM;
    }
    if (node->first != node->last && (!fg_quantity_steps(f, node->last->first, target, &low) ||
                                      !fg_quantity_steps(f, node->last->last, target, &high)))
        return FG_NONE_OF_THEM;
    if (node->first == node->last && output && output->kind == FG_KIND_MOTOR) low = -100;
    t->follows[t->follows_used] = (fg_follow){(fg_value)from, (fg_value)to,  (int32_t)low,
                                              (int32_t)high,  source->index, source->kind == FG_KIND_COUNT};
    return (uint16_t)t->follows_used++;
}

/* False: its time was reported. */
static bool emit_segment(fg_front *f, const fg_symbol *sequence, const fg_node *node)
{
    enum { DAYS_24 = 2073600000 };
    fg_tables *t = f->tables;
    fg_segment *segment = &t->segments[t->segments_used++];
    const fg_slot_for tempo = {.what = T("a tempo"), .duration = true, .unit_needed = true, .low = 0, .high = DAYS_24};
    *segment = (fg_segment){.tempo = FG_NONE_OF_THEM};
    (void)fg_check_level(f, node->first, sequence, &segment->level, NULL);
    if (node->last->kind == NODE_FOLLOW) {
        segment->tempo = fg_emit_follow(f, node->last, NULL, &tempo);
        return segment->tempo != FG_NONE_OF_THEM;
    }
    return fg_quantity_duration(f, node->last, T("'for'"), &segment->time);
}

static void emit_sequence(fg_front *f, const fg_symbol *s)
{
    fg_tables *t = f->tables;
    fg_sequence *out = &t->sequences[s->index];
    const fg_node *repeat = listened(s, ATTR_REPEAT);
    const fg_slot_for slot = {.what = T("a number of runs"), .low = 1, .high = INT32_MAX};
    int64_t runs = repeat ? 0 : 1;
    bool takes_time = false;
    *out = (fg_sequence){.first_segment = (uint16_t)t->segments_used, .resumes = listened(s, ATTR_RESUMES) != NULL};
    for (const fg_node *node = s->body; node; node = node->next) {
        if (node->kind == NODE_BROKEN) takes_time = true; /* enough has been said */
        if (node->kind != NODE_SEGMENT) continue;
        if (!emit_segment(f, s, node)) takes_time = true; /* here too */
        const fg_segment *segment = &t->segments[t->segments_used - 1];
        out->follows = out->follows || segment->tempo != FG_NONE_OF_THEM;
        takes_time = takes_time || segment->time || segment->tempo != FG_NONE_OF_THEM;
        out->segment_count++;
    }
    if (repeat && repeat->first && !fg_quantity_steps(f, repeat->first, &slot, &runs)) runs = 1;
    out->runs = (uint32_t)runs;
    if (!takes_time)
        fg_say(f, FG_FIND_MISSING, s->span, "the sequence {} takes no time", "add a row: LEVEL for TIME", s->name);
}

static fg_level rest_of(fg_front *f, const fg_symbol *s)
{
    const fg_node *rest = listened(s, ATTR_REST);
    const fg_slot_for slot = {.what = T("the rest position"), .unit = T("deg"), .low = s->low, .high = s->high};
    int64_t angle = s->low;
    switch (s->kind) {
    case FG_KIND_BUZZER: return (fg_level){.form = FG_FORM_QUIET};
    case FG_KIND_MOTOR: return (fg_level){.form = FG_FORM_STOP};
    case FG_KIND_DISPLAY: return (fg_level){.form = FG_FORM_BLANK};
    case FG_KIND_SERVO:
        if (rest && rest->first && !fg_quantity_steps(f, rest->first, &slot, &angle)) angle = s->low;
        return (fg_level){.form = FG_FORM_TURN, .number = (int32_t)angle};
    default: return (fg_level){.form = FG_FORM_OFF};
    }
}

static void emit_row(fg_front *f, const fg_symbol *output, const fg_node *row)
{
    fg_tables *t = f->tables;
    fg_row *to = &t->rows[t->rows_used++];
    *to = (fg_row){.slot = FG_SLOT_NONE, .when = row->role, .through = row->first->negated};
    (void)fg_check_level(f, row->first, output, &to->level, NULL);
    if (to->level.form == FG_FORM_PLAY || to->level.form == FG_FORM_SWEEP) to->play = (uint16_t)t->plays_used++;
    if (row->role == FG_WHEN) to->slot = fg_emit_condition(f, row->last);
}

static void emit_output(fg_front *f, fg_symbol *s)
{
    enum { LINE_HEAD = 3, BYTES_OF_A_CHARACTER = 4 };
    fg_tables *t = f->tables;
    fg_output *out = &t->outputs[s->index];
    const uint8_t kind = (uint8_t)(s->kind - FG_KIND_LAMP);
    *out = (fg_output){.first_row = (uint16_t)t->rows_used,
                       .kind = kind,
                       .guarded = kind == FG_MOTOR || kind == FG_RELAY || kind == FG_SERVO,
                       .single = listened(s, ATTR_SINGLE) != NULL,
                       .rest = rest_of(f, s)};
    if (kind == FG_DISPLAY) {
        out->columns = s->columns;
        out->lines = s->lines;
        out->text_at = (uint16_t)t->text_bytes_used;
        t->text_bytes_used += (uint32_t)s->lines * (LINE_HEAD + (uint32_t)s->columns * BYTES_OF_A_CHARACTER);
        (void)fg_emit_fits(f, t->text_bytes_used, s->span);
    }
    for (const fg_node *row = s->body; row; row = row->next) {
        if (row->kind != NODE_ROW) continue;
        emit_row(f, s, row);
        out->row_count++;
    }
    (void)fg_emit_fits(f, t->rows_used, s->span);
    s->slot = fg_emit_op(f, (fg_op){.kind = FG_OP_OUTPUT, .rule = s->index}, s->span);
}

/* ---- the order ---- */

static void emit_symbol(fg_front *f, fg_symbol *s)
{
    switch (s->kind) {
    case FG_KIND_NUMBER: return;
    case FG_KIND_SENSOR: s->slot = fg_emit_op(f, (fg_op){.kind = FG_OP_SENSOR, .rule = s->index}, s->span); return;
    case FG_KIND_FLAG: s->slot = fg_emit_op(f, (fg_op){.kind = FG_OP_FLAG, .rule = s->index}, s->span); return;
    case FG_KIND_THRESHOLD:
    case FG_KIND_HYSTERESIS:
    case FG_KIND_BANDS: {
        const uint8_t kind = s->kind == FG_KIND_THRESHOLD    ? FG_OP_THRESHOLD
                             : s->kind == FG_KIND_HYSTERESIS ? FG_OP_HYSTERESIS
                                                             : FG_OP_BANDS;
        if (!s->sensor) return;
        s->slot = fg_emit_op(f, (fg_op){.kind = kind, .rule = s->index, .a = s->sensor->index}, s->span);
        tell(f, s);
        return;
    }
    case FG_KIND_CONDITION:
        if (s->body) s->slot = fg_emit_condition(f, s->body);
        return;
    case FG_KIND_LATCH: emit_latch(f, s); return;
    case FG_KIND_COUNT: emit_count(f, s); return;
    case FG_KIND_PULSE: emit_pulse(f, s); return;
    case FG_KIND_SEQUENCE: emit_sequence(f, s); return;
    default: emit_output(f, s); return;
    }
}

/* "a -> b -> a": the way from a name on the stack back to itself; of a long one its two ends. */
static fg_text cycle_path(fg_front *f, fg_symbol **stack, uint32_t depth, const fg_symbol *again)
{
    enum { SHOWN = 16 };
    uint32_t from = depth;
    while (from && stack[from - 1] != again) from--;
    const uint32_t first = from ? from - 1 : 0, count = depth - first;
    fg_text path = stack[first]->name;
    for (uint32_t i = first + 1; i < depth; i++) {
        if (count > SHOWN && i - first == SHOWN / 2) {
            const uint32_t left_out = count - SHOWN;
            path = fg_text_join(f, path, " -> ", T("("));
            path = fg_text_join(f, path, "", fg_text_of_value(f, left_out, 0));
            path = fg_text_join(f, path, "", T(" more)"));
            i += left_out;
        }
        path = fg_text_join(f, path, " -> ", stack[i]->name);
    }
    return fg_text_join(f, path, " -> ", again->name);
}

/* One step down from the top of the stack: the next name it looks at that has no place yet. */
static fg_symbol *next_use(fg_front *f, fg_symbol **stack, uint32_t depth)
{
    fg_symbol *top = stack[depth - 1];
    while (top->uses) {
        const fg_use *use = top->uses;
        top->uses = use->next;
        if (use->symbol->placed || use->symbol->kind == FG_KIND_NUMBER) continue;
        if (!use->symbol->visited) return use->symbol;
        fg_say(f, FG_FIND_CYCLE, use->span, "'{}' depends on itself: {}",
               "work one of them out from something else, or from 'previously'", use->symbol->name,
               cycle_path(f, stack, depth, use->symbol));
    }
    return NULL;
}

static void place(fg_front *f, fg_symbol *s)
{
    if (s->placed) return;
    s->placed = s->visited = true;
    emit_symbol(f, s);
}

/* Depth first with a stack of our own: a chain of ten thousand names is no deeper for the machine than one. */
static void emit_in_order(fg_front *f)
{
    fg_symbol **stack = FG_TAKE(fg_symbol *, &f->arena, f->symbol_count + 1);
    for (fg_symbol *s = f->symbols; s && stack; s = s->next) {
        uint32_t depth = 0;
        if (s->kind == FG_KIND_NUMBER || s->placed) continue;
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
            place(f, done);
            for (fg_symbol *rule = done->rules; rule; rule = rule->next_rule) place(f, rule);
        }
    }
}

/* ---- everything ---- */

static void emit_declared(fg_front *f)
{
    fg_declared *declared = FG_TAKE(fg_declared, &f->arena, f->symbol_count);
    uint32_t count = 0;
    for (const fg_symbol *s = f->symbols; s && declared; s = s->next) {
        const fg_symbol *sensor = s->sensor ? s->sensor : s;
        declared[count++] = (fg_declared){.kind = s->kind,
                                          .name = s->name,
                                          .unit = sensor->unit,
                                          .span = s->span,
                                          .index = s->index,
                                          .slot = s->slot,
                                          .sensor = (uint16_t)(s->sensor ? s->sensor->index : 0),
                                          .decimals = sensor->decimals,
                                          .labels = s->labels,
                                          .label_count = s->label_count};
    }
    f->program->declared = declared;
    f->program->declared_count = count;
}

/* The texts that displays show for labels: their own, or the label itself. */
static void emit_label_texts(fg_front *f, fg_symbol *bands)
{
    fg_tables *t = f->tables;
    bands->strings = (uint16_t)t->strings_used;
    for (uint16_t i = 0; i < bands->label_count; i++)
        t->strings[t->strings_used++] = (fg_string){bands->labels[i].at, (uint16_t)bands->labels[i].size};
    for (const fg_node *node = bands->body; node; node = node->next)
        if ((node->kind == NODE_LABEL || node->kind == NODE_ROW_RANGE) && node->unit_span.size)
            t->strings[bands->strings + node->role] = (fg_string){node->unit.at, (uint16_t)node->unit.size};
}

static void hand_over(fg_front *f, const uint32_t *counts)
{
    const fg_tables *t = f->tables;
    fg_gate *gate = &f->program->gate;
    fg_gate_counts *n = &gate->count;
    for (int k = FG_KIND_LAMP; k < FG_KINDS_IN_ALL; k++) n->outputs = (uint16_t)(n->outputs + counts[k]);
    n->sensors = (uint16_t)counts[FG_KIND_SENSOR];
    n->flags = (uint16_t)counts[FG_KIND_FLAG];
    n->thresholds = (uint16_t)counts[FG_KIND_THRESHOLD];
    n->hysteresis = (uint16_t)counts[FG_KIND_HYSTERESIS];
    n->bands = (uint16_t)counts[FG_KIND_BANDS];
    n->latches = (uint16_t)counts[FG_KIND_LATCH];
    n->counts = (uint16_t)counts[FG_KIND_COUNT];
    n->pulses = (uint16_t)counts[FG_KIND_PULSE];
    n->windows = (uint16_t)t->windows_used;
    n->window_values = (uint16_t)t->window_values_used;
    n->text_bytes = (uint16_t)t->text_bytes_used;
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
    gate->terms = t->terms;
    gate->slots = t->slots;
    gate->previously = t->previously;
    gate->lastings = t->lastings;
    gate->latches = t->latches;
    gate->counts = t->counts;
    gate->pulses = t->pulses;
    gate->lasts = t->lasts;
    gate->follows = t->follows;
    gate->sweeps = t->sweeps;
    gate->sequences = t->sequences;
    gate->segments = t->segments;
    gate->shows = t->shows;
    gate->lines = t->lines;
    gate->pieces = t->pieces;
    gate->strings = t->strings;
    f->program->told = t->told;
    f->program->table_bytes =
        gate->count.ops * sizeof *t->ops + n->sensors * sizeof *t->sensors + n->flags * sizeof *t->flags +
        n->thresholds * sizeof *t->thresholds + n->hysteresis * sizeof *t->hysteresis + n->bands * sizeof *t->bands +
        t->bands_used * sizeof(fg_band) + t->compares_used * sizeof *t->compares + t->labels_used * sizeof *t->labels +
        n->outputs * sizeof *t->outputs + t->rows_used * sizeof *t->rows + t->terms_used * sizeof *t->terms +
        t->slots_used * sizeof *t->slots + n->previously * sizeof *t->previously + n->lastings * sizeof *t->lastings +
        n->latches * sizeof *t->latches + n->counts * sizeof *t->counts + n->pulses * sizeof *t->pulses +
        t->lasts_used * sizeof *t->lasts + t->follows_used * sizeof *t->follows + t->sweeps_used * sizeof *t->sweeps +
        counts[FG_KIND_SEQUENCE] * sizeof *t->sequences + t->segments_used * sizeof *t->segments +
        t->shows_used * sizeof *t->shows + t->lines_used * sizeof *t->lines + t->pieces_used * sizeof *t->pieces +
        t->strings_used * sizeof *t->strings + sizeof *gate;
}

static bool take_tables(fg_front *f, fg_tables *t, const uint32_t *counts)
{
    const uint32_t *nodes = f->node_counts;
    fg_arena *a = &f->arena;
    uint32_t most = f->symbol_count + 2, labels = 0;
    for (int kind = NODE_ANSWER; kind <= NODE_OUTPUT_PLAYS; kind++) most += 2 * nodes[kind];
    for (const fg_symbol *s = f->symbols; s; s = s->next) labels += s->label_count;
    t->ops = FG_TAKE(fg_op, a, most);
    t->told = FG_TAKE(fg_told, a, most);
    t->sensors = FG_TAKE(fg_sensor, a, counts[FG_KIND_SENSOR]);
    t->flags = FG_TAKE(fg_flag, a, counts[FG_KIND_FLAG]);
    t->thresholds = FG_TAKE(fg_threshold, a, counts[FG_KIND_THRESHOLD]);
    t->hysteresis = FG_TAKE(fg_hysteresis, a, counts[FG_KIND_HYSTERESIS]);
    t->bands = FG_TAKE(fg_bands, a, counts[FG_KIND_BANDS]);
    t->latches = FG_TAKE(fg_latch, a, counts[FG_KIND_LATCH]);
    t->counts = FG_TAKE(fg_counting, a, counts[FG_KIND_COUNT]);
    t->pulses = FG_TAKE(fg_pulsing, a, counts[FG_KIND_PULSE]);
    t->sequences = FG_TAKE(fg_sequence, a, counts[FG_KIND_SEQUENCE]);
    t->outputs = FG_TAKE(fg_output, a, f->symbol_count);
    t->compares = FG_TAKE(fg_compare, a, nodes[NODE_COMPARE] + nodes[NODE_COMPARE_COUNT]);
    t->labels = FG_TAKE(fg_verdict, a, nodes[NODE_WORD]);
    t->patterns = FG_TAKE(fg_pattern, a, nodes[NODE_OUTPUT_IS]);
    t->rows = FG_TAKE(fg_row, a, nodes[NODE_ROW]);
    t->terms = FG_TAKE(fg_term, a, f->in_sums);
    t->slots = FG_TAKE(uint16_t, a, nodes[NODE_YES_IN]);
    t->previously = FG_TAKE(uint16_t, a, nodes[NODE_PREVIOUSLY]);
    t->looked_back = FG_TAKE(const fg_node *, a, nodes[NODE_PREVIOUSLY]);
    t->lastings = FG_TAKE(fg_time, a, nodes[NODE_FOR]);
    t->lasts = FG_TAKE(fg_pulse_last, a, nodes[NODE_LISTEN]);
    t->follows = FG_TAKE(fg_follow, a, nodes[NODE_FOLLOW]);
    t->sweeps = FG_TAKE(fg_sweep, a, nodes[NODE_LEVEL]);
    t->segments = FG_TAKE(fg_segment, a, nodes[NODE_SEGMENT]);
    t->shows = FG_TAKE(fg_show, a, nodes[NODE_LEVEL] + 1);
    t->lines = FG_TAKE(fg_line_of_text, a, 2 * nodes[NODE_TEXT] + 1);
    t->pieces = FG_TAKE(fg_piece, a, 2 * nodes[NODE_WORD] + 1);
    t->strings = FG_TAKE(fg_string, a, labels);
    return !a->full;
}

static void use_first(fg_front *f, fg_symbol *s, fg_symbol *used, fg_span span)
{
    fg_use *use = used ? FG_TAKE(fg_use, &f->arena, 1) : NULL;
    if (!use) return;
    *use = (fg_use){used, span, s->uses};
    if (!s->uses) s->uses_last = use;
    s->uses = use;
}

/* To its sensor's list, in the order of declaration. */
static void add_rule(fg_symbol *rule)
{
    fg_symbol **end = rule->sensor ? &rule->sensor->rules_end : NULL;
    if (!end) return;
    if (*end)
        (*end)->next_rule = rule;
    else
        rule->sensor->rules = rule;
    *end = rule;
}

/* Everybody's number in the table of its kind, and the sensors and flags that rules and sensors name. */
static void number_symbols(fg_front *f, uint32_t *counts)
{
    uint32_t outputs = 0;
    for (fg_symbol *s = f->symbols; s; s = s->next) {
        s->index = (uint16_t)(fg_kind_is_output(s->kind) ? outputs++ : counts[s->kind]);
        counts[s->kind]++;
        s->visited = s->visited && s->kind == FG_KIND_NUMBER;
        if (s->from.size) {
            s->sensor = fg_name_use(f, s->from, s->from_span, KIND(FG_KIND_SENSOR));
            use_first(f, s, s->sensor, s->from_span);
            add_rule(s);
        }
        const fg_node *zero = s->kind == FG_KIND_SENSOR ? fg_check_attribute(s, ATTR_ZERO) : NULL;
        if (zero && zero->word.size) {
            s->zero_flag = fg_name_use(f, zero->word, zero->unit_span, KIND(FG_KIND_FLAG));
            use_first(f, s, s->zero_flag, zero->unit_span);
        }
        if (s->sum) fg_check_sum_uses(f, s);
    }
}

/* A sum needs the units and steps of its sensors, wherever they are declared: those first that wait for nobody. */
static void check_sensors(fg_front *f)
{
    fg_symbol **stack = FG_TAKE(fg_symbol *, &f->arena, f->symbol_count + 1);
    for (fg_symbol *s = f->symbols; s && stack; s = s->next) {
        uint32_t depth = 0;
        if (s->kind != FG_KIND_SENSOR || s->checked) continue;
        stack[depth++] = s;
        while (depth) {
            fg_symbol *top = stack[depth - 1], *wait = NULL;
            top->visited = true;
            for (const fg_use *use = top->uses; use && !wait; use = use->next)
                if (use->symbol->kind == FG_KIND_SENSOR && !use->symbol->checked && !use->symbol->visited)
                    wait = use->symbol;
            if (wait) {
                stack[depth++] = wait;
                continue;
            }
            fg_check_sensor(f, top, &f->tables->sensors[top->index]);
            top->checked = true;
            depth--;
        }
    }
    for (fg_symbol *s = f->symbols; s; s = s->next)
        if (s->kind == FG_KIND_SENSOR) s->visited = false;
}

static void check_numbers(fg_front *f)
{
    for (fg_symbol *s = f->symbols; s; s = s->next) {
        if (s->kind != FG_KIND_NUMBER || s->worked_out) continue;
        const bool used = s->used;
        const fg_node name = {.kind = NODE_NUMBER_NAME, .span = s->span, .word = s->name};
        (void)fg_quantity_of(f, &name);
        s->used = used;
    }
}

static void check_rules(fg_front *f)
{
    fg_tables *t = f->tables;
    check_numbers(f);
    check_sensors(f);
    for (fg_symbol *s = f->symbols; s; s = s->next) {
        if (s->kind == FG_KIND_FLAG) fg_check_flag(f, s, &t->flags[s->index]);
        if (s->kind == FG_KIND_THRESHOLD) fg_check_threshold(f, s, &t->thresholds[s->index]);
        if (s->kind == FG_KIND_HYSTERESIS) fg_check_hysteresis(f, s, &t->hysteresis[s->index]);
        if (s->kind == FG_KIND_BANDS) {
            fg_check_bands(f, s, &t->bands[s->index]);
            t->bands_used += t->bands[s->index].count;
            emit_label_texts(f, s);
        }
        if (s->kind == FG_KIND_COUNT) fg_check_count(f, s);
        if (fg_kind_is_output(s->kind)) fg_check_output(f, s);
    }
    if (f->pace && fg_quantity_duration(f, f->pace, T("'every'"), &f->program->gate.every) && !f->program->gate.every)
        fg_say(f, FG_FIND_RANGE, f->pace->span, "a gate cannot step every 0 ms",
               "write a time above 0, or leave 'every' out");
}

/* What is used by the gate, and with a trial by its lines too. */
void fg_emit_states(fg_front *f)
{
    const fg_tables *t = f->tables;
    fg_gate_counts *n = &f->program->gate.count;
    n->lastings = (uint16_t)t->lastings_used;
    n->edges = (uint16_t)t->edges_used;
    n->previously = (uint16_t)t->previously_used;
    n->plays = (uint16_t)t->plays_used;
}

void fg_emit(fg_front *f)
{
    uint32_t counts[FG_KINDS_IN_ALL] = {0};
    fg_tables *t = FG_TAKE(fg_tables, &f->arena, 1);
    number_symbols(f, counts);
    if (!t || !take_tables(f, t, counts)) return;
    f->tables = t;
    if (f->symbol_count > UINT16_MAX) {
        fg_say(f, FG_FIND_TOO_MANY, (fg_span){0}, "a gate has at most 65535 names", "split it into two gates");
        return;
    }
    check_rules(f);
    emit_in_order(f);
    fg_emit_looked_back(f);
    f->program->gate.count.ops = (uint16_t)t->ops_used;
    fg_emit_states(f);
    fg_check_trials(f);
    fg_check_scenes(f);
    if (!f->error_count) fg_emit_still(f);
    hand_over(f, counts);
    emit_declared(f);
    if (!f->error_count) fg_emit_written(f);
    if (!f->error_count) fg_check_warnings(f);
}
