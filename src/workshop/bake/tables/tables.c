/* A gate as tables in C, for the library's engine on a board. FG_GATE_TABLES says which there are; here stands how an
 * entry of each type is written. */
#include "workshop/bake/tables/tables.h"

#include <inttypes.h>

static void put_level(const baker *b, const fg_level *l)
{
    fprintf(b->out, "{%u, %u, %" PRId32 ", 0x%08" PRIx32 "}", l->form, l->percent, l->number, l->colour);
}

static void put_value(const baker *b, fg_value v)
{
    if (v == INT32_MIN)
        fputs("INT32_MIN", b->out);
    else
        fprintf(b->out, "%" PRId32, v);
}

static void put_range(const baker *b, const fg_range *r)
{
    fprintf(b->out, "{");
    put_value(b, r->low);
    fprintf(b->out, ", ");
    put_value(b, r->high);
    fprintf(b->out, "}");
}

static void put_settle(const baker *b, const fg_settle *s)
{
    fprintf(b->out, "{%" PRIu32 "u, %" PRId32 ", %" PRId32 "}", s->time, s->within, s->circle);
}

static void put_text(const baker *b, fg_text s)
{
    fprintf(b->out, "{\"");
    for (size_t i = 0; i < s.size; i++) fprintf(b->out, "\\%03o", (unsigned char)s.at[i]);
    fprintf(b->out, "\", %zu}", s.size);
}

/* ---- one entry of each type, without its line end ---- */

static void write_uint16_t(const baker *b, const uint16_t *v, uint32_t i)
{
    (void)i;
    fprintf(b->out, "%u", *v);
}

static void write_fg_verdict(const baker *b, const fg_verdict *v, uint32_t i)
{
    (void)i;
    fprintf(b->out, "%u", *v);
}

static void write_fg_time(const baker *b, const fg_time *v, uint32_t i)
{
    (void)i;
    fprintf(b->out, "%" PRIu32 "u", *v);
}

static void write_fg_text(const baker *b, const fg_text *text, uint32_t i)
{
    (void)i;
    put_text(b, *text);
}

static void write_fg_op(const baker *b, const fg_op *op, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{%u, %u, %u, %u, %u}", op->kind, op->spared, op->rule, op->a, op->b);
}

static void write_fg_compare(const baker *b, const fg_compare *c, uint32_t i)
{
    (void)i;
    fputc('{', b->out);
    put_range(b, &c->range);
    fprintf(b->out, ", %d}", c->outside);
}

static void write_fg_sensor(const baker *b, const fg_sensor *s, uint32_t i)
{
    if (s->scale_count)
        fprintf(b->out, "{scale_%" PRIu32, i);
    else
        fputs("{NULL", b->out);
    fprintf(b->out, ", %u, %u, %u, %u, %u, ", s->scale_count, s->decimals, s->trust, s->stages, s->window);
    put_range(b, &s->trusted);
    fprintf(b->out, ", %" PRId32 ", %" PRIu32 "u, %" PRIu32 "u, %" PRIu32 "u, %u, %u, %u, %u}", s->circle, s->stale,
            s->stuck, s->bridge, s->zero_flag, s->window_at, s->first_term, s->term_count);
}

static void write_fg_term(const baker *b, const fg_term *t, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{INT64_C(%" PRId64 "), %u, %u, %u, %u, %u}", t->number, t->sensor, t->window, t->window_at,
            t->kind, t->count);
}

static void write_fg_flag(const baker *b, const fg_flag *f, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{%d, %u, %" PRIu32 "u, %" PRIu32 "u, %" PRIu32 "u}", f->inverted, f->stages, f->stale, f->bridge,
            f->settle);
}

static void write_fg_threshold(const baker *b, const fg_threshold *t, uint32_t i)
{
    (void)i;
    fputc('{', b->out);
    put_range(b, &t->range);
    fputs(", ", b->out);
    put_range(b, &t->kept);
    fputs(", ", b->out);
    put_settle(b, &t->settle);
    fprintf(b->out, ", %d}", t->outside);
}

static void write_fg_hysteresis(const baker *b, const fg_hysteresis *h, uint32_t i)
{
    (void)i;
    fputc('{', b->out);
    put_range(b, &h->on);
    fputs(", ", b->out);
    put_range(b, &h->off);
    fputs(", ", b->out);
    put_settle(b, &h->settle);
    fprintf(b->out, ", %d, %d, %d}", h->first_on, h->never_on, h->never_off);
}

static void write_fg_bands(const baker *b, const fg_bands *bands, uint32_t i)
{
    if (bands->count)
        fprintf(b->out, "{bands_%" PRIu32 ", ", i);
    else
        fputs("{NULL, ", b->out);
    fprintf(b->out, "%u, %u, %d, ", bands->count, bands->otherwise, bands->keeps);
    put_settle(b, &bands->settle);
    fputc('}', b->out);
}

static void write_fg_latch(const baker *b, const fg_latch *l, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{%d}", l->clear_wins);
}

static void write_fg_counter(const baker *b, const fg_counter *c, uint32_t i)
{
    (void)i;
    fputs("{{", b->out);
    put_value(b, c->rule.low);
    fputs(", ", b->out);
    put_value(b, c->rule.high);
    fputs(", ", b->out);
    put_value(b, c->rule.first);
    fprintf(b->out, "}, %u, %u, %u}", c->add, c->take, c->zero);
}

static void write_fg_pulser(const baker *b, const fg_pulser *p, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{{%d, %d}, %u, %u, %u, %u, %u}", p->rule.again, p->rule.restarts, p->start, p->again, p->stop,
            p->first_length, p->length_count);
}

static void write_fg_pulse_length(const baker *b, const fg_pulse_length *l, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{%" PRIu32 "u, %u}", l->time, l->slot);
}

static void write_fg_pattern(const baker *b, const fg_pattern *p, uint32_t i)
{
    (void)i;
    fputc('{', b->out);
    put_level(b, &p->level);
    fprintf(b->out, ", %d, %d}", p->percent, p->colour);
}

static void write_fg_row(const baker *b, const fg_row *r, uint32_t i)
{
    (void)i;
    fputc('{', b->out);
    put_level(b, &r->level);
    fprintf(b->out, ", %u, %u, %u, %d}", r->slot, r->play, r->when, r->through);
}

static void write_fg_output(const baker *b, const fg_output *o, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{%u, %u, %u, %d, %d, %u, %u, %u, ", o->first_row, o->row_count, o->kind, o->guarded, o->single,
            o->columns, o->lines, o->text_at);
    put_level(b, &o->rest);
    fputc('}', b->out);
}

static void write_fg_sequence(const baker *b, const fg_sequence *s, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{%u, %u, %" PRIu32 "u, %d, %d}", s->first_segment, s->segment_count, s->runs, s->resumes,
            s->follows);
}

static void write_fg_segment(const baker *b, const fg_segment *s, uint32_t i)
{
    (void)i;
    fputc('{', b->out);
    put_level(b, &s->level);
    fprintf(b->out, ", %" PRIu32 "u, %u}", s->time, s->tempo);
}

static void write_fg_follow(const baker *b, const fg_follow *f, uint32_t i)
{
    (void)i;
    fputc('{', b->out);
    put_value(b, f->from);
    fputs(", ", b->out);
    put_value(b, f->to);
    fprintf(b->out, ", %" PRId32 ", %" PRId32 ", %u, %d}", f->low, f->high, f->source, f->count);
}

static void write_fg_sweep(const baker *b, const fg_sweep *s, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{%" PRId32 ", %" PRId32 ", %" PRIu32 "u}", s->a, s->b, s->time);
}

static void write_fg_show(const baker *b, const fg_show *s, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{%u, %u, %d}", s->first_line, s->line_count, s->answers_only);
}

static void write_fg_show_line(const baker *b, const fg_show_line *l, uint32_t i)
{
    (void)i;
    fprintf(b->out, "{%u, %u}", l->first_piece, l->piece_count);
}

static void write_fg_piece(const baker *b, const fg_piece *p, uint32_t i)
{
    (void)i;
    fputc('{', b->out);
    put_text(b, p->text);
    fprintf(b->out, ", %u, %u, %u}", p->index, p->first_label, p->kind);
}

/* ---- lists that an entry points at ---- */

static void write_scales(const baker *b)
{
    for (uint16_t i = 0; i < b->gate->size.sensors; i++) {
        const fg_sensor *s = &b->gate->sensors[i];
        if (!s->scale_count) continue;
        fprintf(b->out, "static const fg_scale_piece scale_%u[] = {", i);
        for (uint8_t k = 0; k < s->scale_count; k++)
            fprintf(b->out, "{INT64_C(%" PRId64 "), INT64_C(%" PRId64 "), INT64_C(%" PRId64 "), %" PRId32 "}, ",
                    s->scale[k].slope, s->scale[k].offset, s->scale[k].divisor, s->scale[k].up_to);
        fputs("};\n", b->out);
    }
}

static void write_band_lists(const baker *b)
{
    for (uint16_t i = 0; i < b->gate->size.bands; i++) {
        if (!b->gate->bands[i].count) continue;
        fprintf(b->out, "static const fg_band bands_%u[] = {\n", i);
        for (uint16_t k = 0; k < b->gate->bands[i].count; k++) {
            const fg_band *band = &b->gate->bands[i].bands[k];
            fputs("    {", b->out);
            put_range(b, &band->range);
            fputs(", ", b->out);
            put_range(b, &band->kept);
            fprintf(b->out, ", %u},\n", band->label);
        }
        fputs("};\n", b->out);
    }
}

/* ---- what is pointed at ---- */

static void reach(uint32_t *size, uint32_t next)
{
    if (next > *size) *size = next;
}

static void reach_from_level(fg_table_sizes *n, const fg_level *level)
{
    const uint32_t next = (uint32_t)level->number + 1;
    if (level->form == FG_FORM_PLAY) reach(&n->sequences, next);
    if (level->form == FG_FORM_FOLLOW) reach(&n->follows, next);
    if (level->form == FG_FORM_SHOW) reach(&n->shows, next);
}

/* A sequence that nothing plays need not take up flash, nor what only it needs: such tables end where the last pointer
 * into them points. */
static fg_table_sizes sizes_in_use(const baker *b)
{
    const fg_gate *g = b->gate;
    fg_table_sizes n = b->program->table_sizes;
    n.sequences = n.segments = n.follows = n.shows = n.show_lines = n.pieces = 0;
    for (uint32_t i = 0; i < n.rows; i++) reach_from_level(&n, &g->rows[i].level);
    for (uint32_t i = 0; i < n.sequences; i++)
        reach(&n.segments, g->sequences[i].first_segment + (uint32_t)g->sequences[i].segment_count);
    for (uint32_t i = 0; i < n.segments; i++) {
        reach_from_level(&n, &g->segments[i].level);
        if (g->segments[i].tempo != FG_INDEX_NONE) reach(&n.follows, g->segments[i].tempo + 1u);
    }
    for (uint32_t i = 0; i < n.shows; i++)
        reach(&n.show_lines, g->shows[i].first_line + (uint32_t)g->shows[i].line_count);
    for (uint32_t i = 0; i < n.show_lines; i++)
        reach(&n.pieces, g->show_lines[i].first_piece + (uint32_t)g->show_lines[i].piece_count);
    return n;
}

/* ---- all of it ---- */

/* An empty table is not written, and the gate does not point at it. */
#define WRITE_TABLE(member, type)                                                                                      \
    if (sizes->member) {                                                                                               \
        const uint32_t count = sizes->member;                                                                          \
        fprintf(b->out, "static const " #type " " #member "[%" PRIu32 "] = {\n", count);                               \
        for (uint32_t i = 0; i < count; i++) {                                                                         \
            fputs("    ", b->out);                                                                                     \
            write_##type(b, &b->gate->member[i], i);                                                                   \
            fputs(",\n", b->out);                                                                                      \
        }                                                                                                              \
        fputs("};\n", b->out);                                                                                         \
    }

#define WRITE_POINTER(member, type)                                                                                    \
    if (sizes->member) fprintf(b->out, "%s." #member " = " #member, count++ % 6 ? ", " : ",\n    ");

static void write_gate(const baker *b, const fg_table_sizes *sizes)
{
    int count = 0;
    fprintf(b->out, "const fg_gate %s_gate = {.every = %" PRIu32 "u,\n    .size = {", b->name, b->gate->every);
#define WRITE_SIZE(member) fprintf(b->out, "%s%u", count++ ? ", " : "", b->gate->size.member);
    FG_GATE_SIZES(WRITE_SIZE)
#undef WRITE_SIZE
    fputc('}', b->out);
    count = 0;
    FG_GATE_TABLES(WRITE_POINTER)
    fputs("};\n", b->out);
}

void fg_bake_source(baker *b)
{
    const fg_table_sizes used = sizes_in_use(b), *const sizes = &used;
    write_scales(b);
    write_band_lists(b);
    FG_GATE_TABLES(WRITE_TABLE)
    write_gate(b, sizes);
}
