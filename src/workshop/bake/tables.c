/* A gate as tables in C, for the library's engine on a board. */
#include "baker.h"

#include <inttypes.h>

/* How long a table is, told by the highest number that points into it. */
static uint32_t most_of(uint32_t most, uint32_t next) { return next > most ? next : most; }

/* Begins a table; an empty one is not written, and the gate does not point at it. */
static void open_table(baker *b, const char *type, const char *name, uint32_t count)
{
    b->open = count > 0;
    if (!b->open) return;
    fprintf(b->out, "static const %s %s[%" PRIu32 "] = {\n", type, name, count);
    b->tables[b->table_count++] = name;
}

static void close_table(const baker *b)
{
    if (b->open) fputs("};\n", b->out);
}

static void level(const baker *b, const fg_level *l)
{
    fprintf(b->out, "{%u, %u, %" PRId32 ", 0x%08" PRIx32 "}", l->form, l->percent, l->number, l->colour);
}

static void value(const baker *b, fg_value v)
{
    if (v == INT32_MIN)
        fputs("INT32_MIN", b->out);
    else
        fprintf(b->out, "%" PRId32, v);
}

static void range(const baker *b, const fg_range *r)
{
    fprintf(b->out, "{");
    value(b, r->low);
    fprintf(b->out, ", ");
    value(b, r->high);
    fprintf(b->out, "}");
}

static void settle(const baker *b, const fg_settle *s)
{
    fprintf(b->out, "{%" PRIu32 "u, %" PRId32 ", %" PRId32 "}", s->time, s->within, s->circle);
}

static void text(const baker *b, fg_string s)
{
    fprintf(b->out, "{\"");
    for (uint16_t i = 0; i < s.size; i++) fprintf(b->out, "\\%03o", (unsigned char)s.at[i]);
    fprintf(b->out, "\", %u}", s.size);
}

static void write_ops(baker *b)
{
    uint32_t labels = 0, compares = 0, slots = 0;
    open_table(b, "fg_op", "ops", b->gate->count.ops);
    for (uint16_t i = 0; i < b->gate->count.ops; i++) {
        const fg_op *op = &b->gate->ops[i];
        fprintf(b->out, "    {%u, %u, %u, %u, %u},\n", op->kind, op->spared, op->rule, op->a, op->b);
        if (op->kind == FG_OP_IS) labels = most_of(labels, op->rule + (uint32_t)op->b);
        if (op->kind == FG_OP_AT_LEAST) slots = most_of(slots, op->rule + (uint32_t)op->b);
        if (op->kind == FG_OP_COMPARE || op->kind == FG_OP_COMPARE_COUNT) compares = most_of(compares, op->rule + 1u);
    }
    close_table(b);
    open_table(b, "fg_verdict", "labels", labels);
    for (uint32_t i = 0; i < labels; i++) fprintf(b->out, "    %u,\n", b->gate->labels[i]);
    close_table(b);
    open_table(b, "uint16_t", "slots", slots);
    for (uint32_t i = 0; i < slots; i++) fprintf(b->out, "    %u,\n", b->gate->slots[i]);
    close_table(b);
    open_table(b, "fg_compare", "compares", compares);
    for (uint32_t i = 0; i < compares; i++) {
        fprintf(b->out, "    {");
        range(b, &b->gate->compares[i].range);
        fprintf(b->out, ", %d},\n", b->gate->compares[i].outside);
    }
    close_table(b);
}

static void write_sensors(baker *b)
{
    uint32_t terms = 0;
    for (uint16_t i = 0; i < b->gate->count.sensors; i++) {
        const fg_sensor *s = &b->gate->sensors[i];
        terms = most_of(terms, s->first_term + (uint32_t)s->term_count);
        if (!s->line_count) continue;
        fprintf(b->out, "static const fg_line lines_%u[] = {", i);
        for (uint8_t k = 0; k < s->line_count; k++)
            fprintf(b->out, "{INT64_C(%" PRId64 "), INT64_C(%" PRId64 "), INT64_C(%" PRId64 "), %" PRId32 "}, ",
                    s->lines[k].slope, s->lines[k].offset, s->lines[k].divisor, s->lines[k].up_to);
        fputs("};\n", b->out);
    }
    open_table(b, "fg_sensor", "sensors", b->gate->count.sensors);
    for (uint16_t i = 0; i < b->gate->count.sensors; i++) {
        const fg_sensor *s = &b->gate->sensors[i];
        fprintf(b->out, "    {");
        if (s->line_count)
            fprintf(b->out, "lines_%u", i);
        else
            fputs("NULL", b->out);
        fprintf(b->out, ", %u, %u, %u, %u, %u, ", s->line_count, s->decimals, s->trust, s->stages, s->window);
        range(b, &s->trusted);
        fprintf(b->out, ", %" PRId32 ", %" PRIu32 "u, %" PRIu32 "u, %" PRIu32 "u, %u, %u, %u, %u},\n", s->circle,
                s->stale, s->stuck, s->bridge, s->zero_flag, s->window_at, s->first_term, s->term_count);
    }
    close_table(b);
    open_table(b, "fg_term", "terms", terms);
    for (uint32_t i = 0; i < terms; i++) {
        const fg_term *t = &b->gate->terms[i];
        fprintf(b->out, "    {INT64_C(%" PRId64 "), %u, %u, %u, %u, %u},\n", t->number, t->sensor, t->window,
                t->window_at, t->kind, t->count);
    }
    close_table(b);
    open_table(b, "fg_flag", "flags", b->gate->count.flags);
    for (uint16_t i = 0; i < b->gate->count.flags; i++) {
        const fg_flag *f = &b->gate->flags[i];
        fprintf(b->out, "    {%d, %u, %" PRIu32 "u, %" PRIu32 "u, %" PRIu32 "u},\n", f->inverted, f->stages, f->stale,
                f->bridge, f->settle);
    }
    close_table(b);
}

static void write_rules(baker *b)
{
    open_table(b, "fg_threshold", "thresholds", b->gate->count.thresholds);
    for (uint16_t i = 0; i < b->gate->count.thresholds; i++) {
        const fg_threshold *t = &b->gate->thresholds[i];
        fprintf(b->out, "    {");
        range(b, &t->range);
        fprintf(b->out, ", ");
        range(b, &t->kept);
        fprintf(b->out, ", ");
        settle(b, &t->settle);
        fprintf(b->out, ", %d},\n", t->outside);
    }
    close_table(b);
    open_table(b, "fg_hysteresis", "hysteresis", b->gate->count.hysteresis);
    for (uint16_t i = 0; i < b->gate->count.hysteresis; i++) {
        const fg_hysteresis *h = &b->gate->hysteresis[i];
        fprintf(b->out, "    {");
        range(b, &h->on);
        fprintf(b->out, ", ");
        range(b, &h->off);
        fprintf(b->out, ", ");
        settle(b, &h->settle);
        fprintf(b->out, ", %d, %d, %d},\n", h->first_on, h->never_on, h->never_off);
    }
    close_table(b);
    for (uint16_t i = 0; i < b->gate->count.bands; i++) {
        if (!b->gate->bands[i].count) continue;
        fprintf(b->out, "static const fg_band bands_%u[] = {\n", i);
        for (uint16_t k = 0; k < b->gate->bands[i].count; k++) {
            const fg_band *band = &b->gate->bands[i].bands[k];
            fprintf(b->out, "    {");
            range(b, &band->range);
            fprintf(b->out, ", ");
            range(b, &band->kept);
            fprintf(b->out, ", %u},\n", band->label);
        }
        fputs("};\n", b->out);
    }
    open_table(b, "fg_bands", "bands", b->gate->count.bands);
    for (uint16_t i = 0; i < b->gate->count.bands; i++) {
        const fg_bands *bands = &b->gate->bands[i];
        if (bands->count)
            fprintf(b->out, "    {bands_%u, ", i);
        else
            fputs("    {NULL, ", b->out);
        fprintf(b->out, "%u, %u, %d, ", bands->count, bands->otherwise, bands->keeps);
        settle(b, &bands->settle);
        fprintf(b->out, "},\n");
    }
    close_table(b);
}

static void write_listeners(baker *b)
{
    uint32_t lasts = 0;
    open_table(b, "fg_time", "lastings", b->gate->count.lastings);
    for (uint16_t i = 0; i < b->gate->count.lastings; i++) fprintf(b->out, "    %" PRIu32 "u,\n", b->gate->lastings[i]);
    close_table(b);
    open_table(b, "uint16_t", "previously", b->gate->count.previously);
    for (uint16_t i = 0; i < b->gate->count.previously; i++) fprintf(b->out, "    %u,\n", b->gate->previously[i]);
    close_table(b);
    open_table(b, "fg_latch", "latches", b->gate->count.latches);
    for (uint16_t i = 0; i < b->gate->count.latches; i++)
        fprintf(b->out, "    {%d},\n", b->gate->latches[i].clear_wins);
    close_table(b);
    open_table(b, "fg_counting", "counts", b->gate->count.counts);
    for (uint16_t i = 0; i < b->gate->count.counts; i++) {
        const fg_counting *c = &b->gate->counts[i];
        fprintf(b->out, "    {{");
        value(b, c->rule.low);
        fprintf(b->out, ", %" PRId32 ", ", c->rule.high);
        value(b, c->rule.first);
        fprintf(b->out, "}, %u, %u, %u},\n", c->add, c->take, c->zero);
    }
    close_table(b);
    open_table(b, "fg_pulsing", "pulses", b->gate->count.pulses);
    for (uint16_t i = 0; i < b->gate->count.pulses; i++) {
        const fg_pulsing *p = &b->gate->pulses[i];
        lasts = most_of(lasts, p->first_last + (uint32_t)p->last_count);
        fprintf(b->out, "    {{%d, %d}, %u, %u, %u, %u, %u},\n", p->rule.again, p->rule.restarts, p->start, p->again,
                p->stop, p->first_last, p->last_count);
    }
    close_table(b);
    open_table(b, "fg_pulse_last", "lasts", lasts);
    for (uint32_t i = 0; i < lasts; i++)
        fprintf(b->out, "    {%" PRIu32 "u, %u},\n", b->gate->lasts[i].time, b->gate->lasts[i].slot);
    close_table(b);
}

/* What the levels of rows and segments point at. */
typedef struct pointed {
    uint32_t sequences, follows, sweeps, shows, segments;
} pointed;

static void look_at(const fg_level *l, pointed *p)
{
    const uint32_t next = (uint32_t)l->number + 1;
    if (l->form == FG_FORM_PLAY) p->sequences = most_of(p->sequences, next);
    if (l->form == FG_FORM_FOLLOW) p->follows = most_of(p->follows, next);
    if (l->form == FG_FORM_SWEEP) p->sweeps = most_of(p->sweeps, next);
    if (l->form == FG_FORM_SHOW) p->shows = most_of(p->shows, next);
}

static void write_texts(baker *b, uint32_t shows)
{
    uint32_t lines = 0, pieces = 0, strings = 0;
    open_table(b, "fg_show", "shows", shows);
    for (uint32_t i = 0; i < shows; i++) {
        fprintf(b->out, "    {%u, %u, %d},\n", b->gate->shows[i].first_line, b->gate->shows[i].line_count,
                b->gate->shows[i].still);
        lines = most_of(lines, b->gate->shows[i].first_line + (uint32_t)b->gate->shows[i].line_count);
    }
    close_table(b);
    open_table(b, "fg_line_of_text", "lines", lines);
    for (uint32_t i = 0; i < lines; i++) {
        fprintf(b->out, "    {%u, %u},\n", b->gate->lines[i].first_piece, b->gate->lines[i].piece_count);
        pieces = most_of(pieces, b->gate->lines[i].first_piece + (uint32_t)b->gate->lines[i].piece_count);
    }
    close_table(b);
    open_table(b, "fg_piece", "pieces", pieces);
    for (uint32_t i = 0; i < pieces; i++) {
        fprintf(b->out, "    {");
        text(b, b->gate->pieces[i].text);
        fprintf(b->out, ", %u, %u, %u},\n", b->gate->pieces[i].index, b->gate->pieces[i].first_label,
                b->gate->pieces[i].kind);
    }
    close_table(b);
    for (uint32_t i = 0; i < b->program->declared_count; i++) strings += b->program->declared[i].label_count;
    open_table(b, "fg_string", "strings", strings);
    for (uint32_t i = 0; i < strings; i++) {
        fprintf(b->out, "    ");
        text(b, b->gate->strings[i]);
        fprintf(b->out, ",\n");
    }
    close_table(b);
}

static void write_outputs(baker *b)
{
    uint32_t rows = 0;
    pointed p = {0};
    for (uint16_t i = 0; i < b->gate->count.outputs; i++)
        rows = most_of(rows, b->gate->outputs[i].first_row + (uint32_t)b->gate->outputs[i].row_count);
    open_table(b, "fg_row", "rows", rows);
    for (uint32_t i = 0; i < rows; i++) {
        const fg_row *r = &b->gate->rows[i];
        look_at(&r->level, &p);
        fprintf(b->out, "    {");
        level(b, &r->level);
        fprintf(b->out, ", %u, %u, %u, %d},\n", r->slot, r->play, r->when, r->through);
    }
    close_table(b);
    open_table(b, "fg_output", "outputs", b->gate->count.outputs);
    for (uint16_t i = 0; i < b->gate->count.outputs; i++) {
        const fg_output *o = &b->gate->outputs[i];
        fprintf(b->out, "    {%u, %u, %u, %d, %d, %u, %u, %u, ", o->first_row, o->row_count, o->kind, o->guarded,
                o->single, o->columns, o->lines, o->text_at);
        level(b, &o->rest);
        fprintf(b->out, "},\n");
    }
    close_table(b);
    open_table(b, "fg_sequence", "sequences", p.sequences);
    for (uint32_t i = 0; i < p.sequences; i++) {
        const fg_sequence *s = &b->gate->sequences[i];
        p.segments = most_of(p.segments, s->first_segment + (uint32_t)s->segment_count);
        fprintf(b->out, "    {%u, %u, %" PRIu32 "u, %d, %d},\n", s->first_segment, s->segment_count, s->runs,
                s->resumes, s->follows);
    }
    close_table(b);
    open_table(b, "fg_segment", "segments", p.segments);
    for (uint32_t i = 0; i < p.segments; i++) {
        const fg_segment *s = &b->gate->segments[i];
        look_at(&s->level, &p);
        if (s->tempo != FG_NONE_OF_THEM) p.follows = most_of(p.follows, s->tempo + 1u);
        fprintf(b->out, "    {");
        level(b, &s->level);
        fprintf(b->out, ", %" PRIu32 "u, %u},\n", s->time, s->tempo);
    }
    close_table(b);
    open_table(b, "fg_follow", "follows", p.follows);
    for (uint32_t i = 0; i < p.follows; i++) {
        const fg_follow *f = &b->gate->follows[i];
        fprintf(b->out, "    {%" PRId32 ", %" PRId32 ", %" PRId32 ", %" PRId32 ", %u, %d},\n", f->from, f->to, f->low,
                f->high, f->source, f->count);
    }
    close_table(b);
    open_table(b, "fg_sweep", "sweeps", p.sweeps);
    for (uint32_t i = 0; i < p.sweeps; i++)
        fprintf(b->out, "    {%" PRId32 ", %" PRId32 ", %" PRIu32 "u},\n", b->gate->sweeps[i].a, b->gate->sweeps[i].b,
                b->gate->sweeps[i].time);
    close_table(b);
    write_texts(b, p.shows);
}

static void write_gate(const baker *b)
{
    const fg_gate_counts *n = &b->gate->count;
    fprintf(b->out,
            "const fg_gate %s_gate = {.every = %" PRIu32
            "u,\n    .count = {%u, 0, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u}",
            b->name, b->gate->every, n->ops, n->sensors, n->flags, n->thresholds, n->hysteresis, n->bands, n->outputs,
            n->lastings, n->edges, n->previously, n->latches, n->counts, n->pulses, n->plays, n->windows,
            n->window_values, n->text_bytes);
    for (size_t i = 0; i < b->table_count; i++)
        fprintf(b->out, "%s.%s = %s", i % 6 ? ", " : ",\n    ", b->tables[i], b->tables[i]);
    fputs("};\n", b->out);
}

void fg_bake_source(baker *b)
{
    write_ops(b);
    write_sensors(b);
    write_rules(b);
    write_listeners(b);
    write_outputs(b);
    write_gate(b);
}
