/* write_tables GATE NAME: the tables of a gate file as C, for boards without the language. */
#include <ficklegate/workshop.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

static const fg_program *program;
static const fg_gate *gate;

/* How long a table is, told by the highest number that points into it. */
static uint32_t most_of(uint32_t most, uint32_t next) { return next > most ? next : most; }

static void open_table(const char *type, const char *name, uint32_t count)
{
    printf("static const %s %s[%" PRIu32 "] = {\n", type, name, count ? count : 1);
}

static void level(const fg_level *l)
{
    printf("{%u, %u, %" PRId32 ", 0x%08" PRIx32 "}", l->form, l->percent, l->number, l->colour);
}

static void value(fg_value v) { v == INT32_MIN ? printf("INT32_MIN") : printf("%" PRId32, v); }

static void range(const fg_range *r)
{
    printf("{");
    value(r->low);
    printf(", ");
    value(r->high);
    printf("}");
}

static void settle(const fg_settle *s)
{
    printf("{%" PRIu32 "u, %" PRId32 ", %" PRId32 "}", s->time, s->within, s->circle);
}

static void text(fg_string s)
{
    printf("{\"");
    for (uint16_t i = 0; i < s.size; i++) printf("\\%03o", (unsigned char)s.at[i]);
    printf("\", %u}", s.size);
}

static uint32_t write_ops(void)
{
    uint32_t labels = 0, compares = 0, slots = 0;
    open_table("fg_op", "ops", gate->count.ops);
    for (uint16_t i = 0; i < gate->count.ops; i++) {
        const fg_op *op = &gate->ops[i];
        printf("    {%u, %u, %u, %u, %u},\n", op->kind, op->spared, op->rule, op->a, op->b);
        if (op->kind == FG_OP_IS) labels = most_of(labels, op->rule + (uint32_t)op->b);
        if (op->kind == FG_OP_AT_LEAST) slots = most_of(slots, op->rule + (uint32_t)op->b);
        if (op->kind == FG_OP_COMPARE || op->kind == FG_OP_COMPARE_COUNT) compares = most_of(compares, op->rule + 1u);
    }
    printf("};\n");
    open_table("fg_verdict", "labels", labels);
    for (uint32_t i = 0; i < labels; i++) printf("    %u,\n", gate->labels[i]);
    printf("%s};\n", labels ? "" : "0");
    open_table("uint16_t", "slots", slots);
    for (uint32_t i = 0; i < slots; i++) printf("    %u,\n", gate->slots[i]);
    printf("%s};\n", slots ? "" : "0");
    open_table("fg_compare", "compares", compares);
    for (uint32_t i = 0; i < compares; i++) {
        printf("    {");
        range(&gate->compares[i].range);
        printf(", %d},\n", gate->compares[i].outside);
    }
    printf("%s};\n", compares ? "" : "{{0, 0}, 0}");
    return 0;
}

static void write_sensors(void)
{
    uint32_t terms = 0;
    for (uint16_t i = 0; i < gate->count.sensors; i++) {
        const fg_sensor *s = &gate->sensors[i];
        terms = most_of(terms, s->first_term + (uint32_t)s->term_count);
        if (!s->line_count) continue;
        printf("static const fg_line lines_%u[] = {", i);
        for (uint8_t k = 0; k < s->line_count; k++)
            printf("{INT64_C(%" PRId64 "), INT64_C(%" PRId64 "), INT64_C(%" PRId64 "), %" PRId32 "}, ",
                   s->lines[k].slope, s->lines[k].offset, s->lines[k].divisor, s->lines[k].up_to);
        printf("};\n");
    }
    open_table("fg_sensor", "sensors", gate->count.sensors);
    for (uint16_t i = 0; i < gate->count.sensors; i++) {
        const fg_sensor *s = &gate->sensors[i];
        printf("    {");
        s->line_count ? printf("lines_%u", i) : printf("NULL");
        printf(", %u, %u, %u, %u, %u, ", s->line_count, s->decimals, s->trust, s->stages, s->window);
        range(&s->trusted);
        printf(", %" PRId32 ", %" PRIu32 "u, %" PRIu32 "u, %" PRIu32 "u, %u, %u, %u, %u},\n", s->circle, s->stale,
               s->stuck, s->bridge, s->zero_flag, s->window_at, s->first_term, s->term_count);
    }
    printf("};\n");
    open_table("fg_term", "terms", terms);
    for (uint32_t i = 0; i < terms; i++) {
        const fg_term *t = &gate->terms[i];
        printf("    {INT64_C(%" PRId64 "), %u, %u, %u, %u, %u},\n", t->number, t->sensor, t->window, t->window_at,
               t->kind, t->count);
    }
    printf("%s};\n", terms ? "" : "{0, 0, 0, 0, 0, 0}");
    open_table("fg_flag", "flags", gate->count.flags);
    for (uint16_t i = 0; i < gate->count.flags; i++) {
        const fg_flag *f = &gate->flags[i];
        printf("    {%d, %u, %" PRIu32 "u, %" PRIu32 "u, %" PRIu32 "u},\n", f->inverted, f->stages, f->stale, f->bridge,
               f->settle);
    }
    printf("};\n");
}

static void write_rules(void)
{
    open_table("fg_threshold", "thresholds", gate->count.thresholds);
    for (uint16_t i = 0; i < gate->count.thresholds; i++) {
        const fg_threshold *t = &gate->thresholds[i];
        printf("    {");
        range(&t->range);
        printf(", ");
        range(&t->kept);
        printf(", ");
        settle(&t->settle);
        printf(", %d},\n", t->outside);
    }
    printf("};\n");
    open_table("fg_hysteresis", "hysteresis", gate->count.hysteresis);
    for (uint16_t i = 0; i < gate->count.hysteresis; i++) {
        const fg_hysteresis *h = &gate->hysteresis[i];
        printf("    {");
        range(&h->on);
        printf(", ");
        range(&h->off);
        printf(", ");
        settle(&h->settle);
        printf(", %d},\n", h->first_on);
    }
    printf("};\n");
    for (uint16_t i = 0; i < gate->count.bands; i++) {
        printf("static const fg_band bands_%u[] = {\n", i);
        for (uint16_t k = 0; k < gate->bands[i].count; k++) {
            const fg_band *b = &gate->bands[i].bands[k];
            printf("    {");
            range(&b->range);
            printf(", ");
            range(&b->kept);
            printf(", %u},\n", b->label);
        }
        printf("};\n");
    }
    open_table("fg_bands", "bands", gate->count.bands);
    for (uint16_t i = 0; i < gate->count.bands; i++) {
        const fg_bands *b = &gate->bands[i];
        printf("    {bands_%u, %u, %u, %d, ", i, b->count, b->otherwise, b->keeps);
        settle(&b->settle);
        printf("},\n");
    }
    printf("};\n");
}

static void write_listeners(void)
{
    uint32_t lasts = 0;
    open_table("fg_time", "lastings", gate->count.lastings);
    for (uint16_t i = 0; i < gate->count.lastings; i++) printf("    %" PRIu32 "u,\n", gate->lastings[i]);
    printf("};\n");
    open_table("uint16_t", "previously", gate->count.previously);
    for (uint16_t i = 0; i < gate->count.previously; i++) printf("    %u,\n", gate->previously[i]);
    printf("};\n");
    open_table("fg_latch", "latches", gate->count.latches);
    for (uint16_t i = 0; i < gate->count.latches; i++) printf("    {%d},\n", gate->latches[i].clear_wins);
    printf("};\n");
    open_table("fg_counting", "counts", gate->count.counts);
    for (uint16_t i = 0; i < gate->count.counts; i++) {
        const fg_counting *c = &gate->counts[i];
        printf("    {{");
        value(c->rule.low);
        printf(", %" PRId32 ", ", c->rule.high);
        value(c->rule.first);
        printf("}, %u, %u, %u},\n", c->add, c->take, c->zero);
    }
    printf("};\n");
    open_table("fg_pulsing", "pulses", gate->count.pulses);
    for (uint16_t i = 0; i < gate->count.pulses; i++) {
        const fg_pulsing *p = &gate->pulses[i];
        lasts = most_of(lasts, p->first_last + (uint32_t)p->last_count);
        printf("    {{%d, %d}, %u, %u, %u, %u, %u},\n", p->rule.again, p->rule.restarts, p->start, p->again, p->stop,
               p->first_last, p->last_count);
    }
    printf("};\n");
    open_table("fg_pulse_last", "lasts", lasts);
    for (uint32_t i = 0; i < lasts; i++) printf("    {%" PRIu32 "u, %u},\n", gate->lasts[i].time, gate->lasts[i].slot);
    printf("};\n");
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

static void write_texts(uint32_t shows)
{
    uint32_t lines = 0, pieces = 0, strings = 0;
    open_table("fg_show", "shows", shows);
    for (uint32_t i = 0; i < shows; i++) {
        printf("    {%u, %u, %d},\n", gate->shows[i].first_line, gate->shows[i].line_count, gate->shows[i].still);
        lines = most_of(lines, gate->shows[i].first_line + (uint32_t)gate->shows[i].line_count);
    }
    printf("};\n");
    open_table("fg_line_of_text", "lines", lines);
    for (uint32_t i = 0; i < lines; i++) {
        printf("    {%u, %u},\n", gate->lines[i].first_piece, gate->lines[i].piece_count);
        pieces = most_of(pieces, gate->lines[i].first_piece + (uint32_t)gate->lines[i].piece_count);
    }
    printf("};\n");
    open_table("fg_piece", "pieces", pieces);
    for (uint32_t i = 0; i < pieces; i++) {
        printf("    {");
        text(gate->pieces[i].text);
        printf(", %u, %u, %u},\n", gate->pieces[i].index, gate->pieces[i].first_label, gate->pieces[i].kind);
    }
    printf("};\n");
    for (uint32_t i = 0; i < program->declared_count; i++) strings += program->declared[i].label_count;
    open_table("fg_string", "strings", strings);
    for (uint32_t i = 0; i < strings; i++) {
        printf("    ");
        text(gate->strings[i]);
        printf(",\n");
    }
    printf("};\n");
}

static void write_outputs(void)
{
    uint32_t rows = 0;
    pointed p = {0};
    for (uint16_t i = 0; i < gate->count.outputs; i++)
        rows = most_of(rows, gate->outputs[i].first_row + (uint32_t)gate->outputs[i].row_count);
    open_table("fg_row", "rows", rows);
    for (uint32_t i = 0; i < rows; i++) {
        const fg_row *r = &gate->rows[i];
        look_at(&r->level, &p);
        printf("    {");
        level(&r->level);
        printf(", %u, %u, %u, %d},\n", r->slot, r->play, r->when, r->through);
    }
    printf("};\n");
    open_table("fg_output", "outputs", gate->count.outputs);
    for (uint16_t i = 0; i < gate->count.outputs; i++) {
        const fg_output *o = &gate->outputs[i];
        printf("    {%u, %u, %u, %d, %d, %u, %u, %u, ", o->first_row, o->row_count, o->kind, o->guarded, o->single,
               o->columns, o->lines, o->text_at);
        level(&o->rest);
        printf("},\n");
    }
    printf("};\n");
    open_table("fg_sequence", "sequences", p.sequences);
    for (uint32_t i = 0; i < p.sequences; i++) {
        const fg_sequence *s = &gate->sequences[i];
        p.segments = most_of(p.segments, s->first_segment + (uint32_t)s->segment_count);
        printf("    {%u, %u, %" PRIu32 "u, %d, %d},\n", s->first_segment, s->segment_count, s->runs, s->resumes,
               s->follows);
    }
    printf("};\n");
    open_table("fg_segment", "segments", p.segments);
    for (uint32_t i = 0; i < p.segments; i++) {
        const fg_segment *s = &gate->segments[i];
        look_at(&s->level, &p);
        if (s->tempo != FG_NONE_OF_THEM) p.follows = most_of(p.follows, s->tempo + 1u);
        printf("    {");
        level(&s->level);
        printf(", %" PRIu32 "u, %u},\n", s->time, s->tempo);
    }
    printf("};\n");
    open_table("fg_follow", "follows", p.follows);
    for (uint32_t i = 0; i < p.follows; i++) {
        const fg_follow *f = &gate->follows[i];
        printf("    {%" PRId32 ", %" PRId32 ", %" PRId32 ", %" PRId32 ", %u, %d},\n", f->from, f->to, f->low, f->high,
               f->source, f->count);
    }
    printf("};\n");
    open_table("fg_sweep", "sweeps", p.sweeps);
    for (uint32_t i = 0; i < p.sweeps; i++)
        printf("    {%" PRId32 ", %" PRId32 ", %" PRIu32 "u},\n", gate->sweeps[i].a, gate->sweeps[i].b,
               gate->sweeps[i].time);
    printf("};\n");
    write_texts(p.shows);
}

int main(int argc, char **argv)
{
    fg_gate_file file;
    fg_mistake mistake = {0};
    if (argc != 3 || fg_gate_file_open(&file, argv[1], NULL, 0, &mistake) != FG_OK) {
        fprintf(stderr, "usage: write_tables GATE NAME, with a gate that has no mistakes\n");
        return 2;
    }
    program = &file.program;
    gate = &program->gate;
    const fg_gate_counts *n = &gate->count;
    printf("#include <ficklegate/gate.h>\n\n");
    write_ops();
    write_sensors();
    write_rules();
    write_listeners();
    write_outputs();
    printf("\nextern const fg_gate %s;\nconst fg_gate %s = {.every = %" PRIu32
           "u,\n    .count = {%u, 0, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u, %u},\n",
           argv[2], argv[2], gate->every, n->ops, n->sensors, n->flags, n->thresholds, n->hysteresis, n->bands,
           n->outputs, n->lastings, n->edges, n->previously, n->latches, n->counts, n->pulses, n->plays, n->windows,
           n->window_values, n->text_bytes);
    printf("    .ops = ops, .sensors = sensors, .flags = flags, .thresholds = thresholds, .hysteresis = hysteresis, "
           ".bands = bands,\n"
           "    .compares = compares, .labels = labels, .outputs = outputs, .rows = rows, .terms = terms, .slots = "
           "slots,\n"
           "    .previously = previously, .lastings = lastings, .latches = latches, .counts = counts, .pulses = "
           "pulses, .lasts = lasts,\n"
           "    .follows = follows, .sweeps = sweeps, .sequences = sequences, .segments = segments, .shows = shows, "
           ".lines = lines,\n"
           "    .pieces = pieces, .strings = strings};\n");
    fg_gate_file_close(&file);
    return ferror(stdout) ? 1 : 0;
}
