/* SPDX-License-Identifier: MIT */
/* A gate as tables in C, for the library's engine on a board. FG_GATE_TABLES says which there are; here stands how an
 * entry of each type is written. */
#include "workshop/bake/tables/tables.h"

#include <inttypes.h>

/* ---- members by their names; what is zero is left out ---- */

/* An entry on its way: whether it has members yet, and which is the first that could have stood there. */
typedef struct entry {
    FILE *out;
    bool any;
    const char *first, *zero;
} entry;

static entry begin_entry(const baker *b)
{
    fputc('{', b->out);
    return (entry){.out = b->out};
}

/* An entry cannot be empty in C: where every member is zero, the first says so. */
static void end_entry(entry *e)
{
    if (!e->any) fprintf(e->out, ".%s = %s", e->first, e->zero);
    fputc('}', e->out);
}

static void put_name(entry *e, const char *name)
{
    fprintf(e->out, "%s.%s = ", e->any ? ", " : "", name);
    e->any = true;
}

/* Is a member left out? `zero`: how it would be written. */
static bool skips(entry *e, const char *name, bool nothing, const char *zero)
{
    if (!e->first) {
        e->first = name;
        e->zero = zero;
    }
    return nothing;
}

static void put_value(FILE *out, int64_t v)
{
    if (v == INT32_MIN)
        fputs("INT32_MIN", out);
    else if (v == INT32_MAX)
        fputs("INT32_MAX", out);
    else
        fprintf(out, v > INT32_MAX ? "%" PRId64 "u" : "%" PRId64, v);
}

static void put_number(entry *e, const char *name, int64_t v)
{
    if (skips(e, name, !v, "0")) return;
    put_name(e, name);
    put_value(e->out, v);
}

static void put_wide(entry *e, const char *name, int64_t v)
{
    if (skips(e, name, !v, "0")) return;
    put_name(e, name);
    fprintf(e->out, "INT64_C(%" PRId64 ")", v);
}

static void put_index(entry *e, const char *name, uint16_t v)
{
    if (v != FG_INDEX_NONE) {
        put_number(e, name, v);
        return;
    }
    put_name(e, name);
    fputs("FG_INDEX_NONE", e->out);
}

static void put_flag(entry *e, const char *name, bool v)
{
    if (skips(e, name, !v, "0")) return;
    put_name(e, name);
    fputs("true", e->out);
}

static void put_range(entry *e, const char *name, const fg_range *r)
{
    if (skips(e, name, !r->low && !r->high, "{0}")) return;
    put_name(e, name);
    fputc('{', e->out);
    put_value(e->out, r->low);
    fputs(", ", e->out);
    put_value(e->out, r->high);
    fputc('}', e->out);
}

static void put_settle(entry *e, const char *name, const fg_settle *s)
{
    if (skips(e, name, !s->time && !s->within && !s->circle, "{0}")) return;
    put_name(e, name);
    fprintf(e->out, "{%" PRIu32 ", %" PRId32 ", %" PRId32 "}", s->time, s->within, s->circle);
}

static void put_level(entry *e, const char *name, const fg_level *l)
{
    if (skips(e, name, !l->form && !l->percent && !l->number && !l->colour, "{0}")) return;
    put_name(e, name);
    fprintf(e->out, "{%u, %u, %" PRId32 ", 0x%08" PRIx32 "}", l->form, l->percent, l->number, l->colour);
}

static void put_characters(FILE *out, fg_text s)
{
    fputs("{\"", out);
    for (size_t i = 0; i < s.size; i++) fprintf(out, "\\%03o", (unsigned char)s.at[i]);
    fprintf(out, "\", %zu}", s.size);
}

static void put_list(entry *e, const char *name, const char *list, ptrdiff_t number)
{
    put_name(e, name);
    fprintf(e->out, "%s_%td", list, number);
}

/* ---- one entry of each type, without its line end ---- */

static void write_uint16_t(const baker *b, const uint16_t *v) { fprintf(b->out, "%u", *v); }

static void write_fg_verdict(const baker *b, const fg_verdict *v) { fprintf(b->out, "%u", *v); }

static void write_fg_time(const baker *b, const fg_time *v) { fprintf(b->out, "%" PRIu32, *v); }

static void write_fg_text(const baker *b, const fg_text *text) { put_characters(b->out, *text); }

static void write_fg_op(const baker *b, const fg_op *v)
{
    entry e = begin_entry(b);
    put_name(&e, "kind");
    fprintf(b->out, "%u", v->kind);
    put_number(&e, "spared", v->spared);
    put_index(&e, "rule", v->rule);
    put_index(&e, "a", v->a);
    put_index(&e, "b", v->b);
    end_entry(&e);
}

static void write_fg_compare(const baker *b, const fg_compare *v)
{
    entry e = begin_entry(b);
    put_range(&e, "range", &v->range);
    put_flag(&e, "outside", v->outside);
    end_entry(&e);
}

static void write_fg_sensor(const baker *b, const fg_sensor *v)
{
    entry e = begin_entry(b);
    if (v->scale_count) put_list(&e, "scale", "scale", v - b->gate->sensors);
    put_number(&e, "scale_count", v->scale_count);
    put_number(&e, "decimals", v->decimals);
    put_number(&e, "trust", v->trust);
    put_number(&e, "stages", v->stages);
    put_number(&e, "window", v->window);
    put_range(&e, "trusted", &v->trusted);
    put_number(&e, "circle", v->circle);
    put_number(&e, "stale", v->stale);
    put_number(&e, "stuck", v->stuck);
    put_number(&e, "bridge", v->bridge);
    put_index(&e, "zero_flag", v->zero_flag);
    put_number(&e, "window_at", v->window_at);
    put_number(&e, "first_term", v->first_term);
    put_number(&e, "term_count", v->term_count);
    end_entry(&e);
}

static void write_fg_term(const baker *b, const fg_term *v)
{
    entry e = begin_entry(b);
    put_wide(&e, "number", v->number);
    put_number(&e, "sensor", v->sensor);
    put_number(&e, "window", v->window);
    put_number(&e, "window_at", v->window_at);
    put_number(&e, "kind", v->kind);
    put_number(&e, "count", v->count);
    end_entry(&e);
}

static void write_fg_flag(const baker *b, const fg_flag *v)
{
    entry e = begin_entry(b);
    put_flag(&e, "inverted", v->inverted);
    put_number(&e, "stages", v->stages);
    put_number(&e, "stale", v->stale);
    put_number(&e, "bridge", v->bridge);
    put_number(&e, "settle", v->settle);
    end_entry(&e);
}

static void write_fg_threshold(const baker *b, const fg_threshold *v)
{
    entry e = begin_entry(b);
    put_range(&e, "range", &v->range);
    put_range(&e, "kept", &v->kept);
    put_settle(&e, "settle", &v->settle);
    put_flag(&e, "outside", v->outside);
    end_entry(&e);
}

static void write_fg_hysteresis(const baker *b, const fg_hysteresis *v)
{
    entry e = begin_entry(b);
    put_range(&e, "on", &v->on);
    put_range(&e, "off", &v->off);
    put_settle(&e, "settle", &v->settle);
    put_flag(&e, "first_on", v->first_on);
    put_flag(&e, "never_on", v->never_on);
    put_flag(&e, "never_off", v->never_off);
    end_entry(&e);
}

static void write_fg_bands(const baker *b, const fg_bands *v)
{
    entry e = begin_entry(b);
    if (v->count) put_list(&e, "bands", "bands", v - b->gate->bands);
    put_number(&e, "count", v->count);
    put_number(&e, "otherwise", v->otherwise);
    put_flag(&e, "keeps", v->keeps);
    put_settle(&e, "settle", &v->settle);
    end_entry(&e);
}

static void write_fg_latch(const baker *b, const fg_latch *v)
{
    entry e = begin_entry(b);
    put_flag(&e, "clear_wins", v->clear_wins);
    end_entry(&e);
}

static void write_fg_counter(const baker *b, const fg_counter *v)
{
    entry e = begin_entry(b);
    put_name(&e, "rule");
    fprintf(b->out, "{%" PRId32 ", %" PRId32 ", %" PRId32 "}", v->rule.low, v->rule.high, v->rule.first);
    put_index(&e, "add", v->add);
    put_index(&e, "take", v->take);
    put_index(&e, "zero", v->zero);
    end_entry(&e);
}

static void write_fg_pulser(const baker *b, const fg_pulser *v)
{
    entry e = begin_entry(b);
    put_name(&e, "rule");
    fprintf(b->out, "{%d, %d}", v->rule.again, v->rule.restarts);
    put_index(&e, "start", v->start);
    put_index(&e, "again", v->again);
    put_index(&e, "stop", v->stop);
    put_number(&e, "first_length", v->first_length);
    put_number(&e, "length_count", v->length_count);
    end_entry(&e);
}

static void write_fg_pulse_length(const baker *b, const fg_pulse_length *v)
{
    entry e = begin_entry(b);
    put_number(&e, "time", v->time);
    put_index(&e, "slot", v->slot);
    end_entry(&e);
}

static void write_fg_pattern(const baker *b, const fg_pattern *v)
{
    entry e = begin_entry(b);
    put_level(&e, "level", &v->level);
    put_flag(&e, "percent", v->percent);
    put_flag(&e, "colour", v->colour);
    end_entry(&e);
}

static void write_fg_row(const baker *b, const fg_row *v)
{
    entry e = begin_entry(b);
    put_level(&e, "level", &v->level);
    put_index(&e, "slot", v->slot);
    put_index(&e, "play", v->play);
    put_number(&e, "when", v->when);
    put_flag(&e, "through", v->through);
    end_entry(&e);
}

static void write_fg_output(const baker *b, const fg_output *v)
{
    entry e = begin_entry(b);
    put_number(&e, "first_row", v->first_row);
    put_number(&e, "row_count", v->row_count);
    put_number(&e, "kind", v->kind);
    put_flag(&e, "guarded", v->guarded);
    put_flag(&e, "single", v->single);
    put_number(&e, "columns", v->columns);
    put_number(&e, "lines", v->lines);
    put_number(&e, "text_at", v->text_at);
    put_level(&e, "rest", &v->rest);
    end_entry(&e);
}

static void write_fg_sequence(const baker *b, const fg_sequence *v)
{
    entry e = begin_entry(b);
    put_number(&e, "first_segment", v->first_segment);
    put_number(&e, "segment_count", v->segment_count);
    put_number(&e, "runs", v->runs);
    put_flag(&e, "resumes", v->resumes);
    put_flag(&e, "follows", v->follows);
    end_entry(&e);
}

static void write_fg_segment(const baker *b, const fg_segment *v)
{
    entry e = begin_entry(b);
    put_level(&e, "level", &v->level);
    put_number(&e, "time", v->time);
    put_index(&e, "tempo", v->tempo);
    end_entry(&e);
}

static void write_fg_follow(const baker *b, const fg_follow *v)
{
    entry e = begin_entry(b);
    put_number(&e, "from", v->from);
    put_number(&e, "to", v->to);
    put_number(&e, "low", v->low);
    put_number(&e, "high", v->high);
    put_number(&e, "source", v->source);
    put_flag(&e, "count", v->count);
    end_entry(&e);
}

static void write_fg_sweep(const baker *b, const fg_sweep *v)
{
    entry e = begin_entry(b);
    put_number(&e, "a", v->a);
    put_number(&e, "b", v->b);
    put_number(&e, "time", v->time);
    end_entry(&e);
}

static void write_fg_show(const baker *b, const fg_show *v)
{
    entry e = begin_entry(b);
    put_number(&e, "first_line", v->first_line);
    put_number(&e, "line_count", v->line_count);
    put_flag(&e, "answers_only", v->answers_only);
    end_entry(&e);
}

static void write_fg_show_line(const baker *b, const fg_show_line *v)
{
    entry e = begin_entry(b);
    put_number(&e, "first_piece", v->first_piece);
    put_number(&e, "piece_count", v->piece_count);
    end_entry(&e);
}

static void write_fg_piece(const baker *b, const fg_piece *v)
{
    entry e = begin_entry(b);
    put_name(&e, "text");
    put_characters(b->out, v->text);
    put_index(&e, "index", v->index);
    put_number(&e, "first_label", v->first_label);
    put_number(&e, "kind", v->kind);
    end_entry(&e);
}

/* ---- lists that an entry points at ---- */

static void write_scales(const baker *b)
{
    for (uint16_t i = 0; i < b->gate->size.sensors; i++) {
        const fg_sensor *s = &b->gate->sensors[i];
        if (!s->scale_count) continue;
        fprintf(b->out, "static const fg_scale_piece scale_%u[] = {\n", i);
        for (uint8_t k = 0; k < s->scale_count; k++) {
            fputs("    ", b->out);
            entry e = begin_entry(b);
            put_wide(&e, "slope", s->scale[k].slope);
            put_wide(&e, "offset", s->scale[k].offset);
            put_wide(&e, "divisor", s->scale[k].divisor);
            put_number(&e, "up_to", s->scale[k].up_to);
            end_entry(&e);
            fputs(",\n", b->out);
        }
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
            fputs("    ", b->out);
            entry e = begin_entry(b);
            put_range(&e, "range", &band->range);
            put_range(&e, "kept", &band->kept);
            put_number(&e, "label", band->label);
            end_entry(&e);
            fputs(",\n", b->out);
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
            write_##type(b, &b->gate->member[i]);                                                                      \
            fputs(",\n", b->out);                                                                                      \
        }                                                                                                              \
        fputs("};\n", b->out);                                                                                         \
    }

#define WRITE_POINTER(member, type)                                                                                    \
    if (sizes->member) fputs("    ." #member " = " #member ",\n", b->out);

static void write_gate(const baker *b, const fg_table_sizes *sizes)
{
    fprintf(b->out, "const fg_gate %s_gate = {\n    .form = FG_GATE_FORM,\n    .bytes = FG_GATE_BYTES,\n", b->name);
    fprintf(b->out, "    .hash = UINT64_C(0x%016" PRIx64 "),\n", b->gate->hash);
    fprintf(b->out, "    .every = %" PRIu32 ",\n    .size = ", b->gate->every);
    entry e = begin_entry(b);
#define WRITE_SIZE(member) put_number(&e, #member, b->gate->size.member);
    FG_GATE_SIZES(WRITE_SIZE)
#undef WRITE_SIZE
    end_entry(&e);
    fputs(",\n", b->out);
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
