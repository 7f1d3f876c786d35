/* The header of a gate as tables: the numbers of what it declares, by name. */
#include "workshop/bake/tables/tables.h"

#include <inttypes.h>

static void write_enum(namer *n, const char *kind, bool (*fits)(const fg_declared *d),
                       uint32_t (*number)(const fg_declared *d), const char *what)
{
    const baker *b = n->baker;
    bool any = false;
    for (uint32_t i = 0; i < b->program->declared_count; i++) {
        const fg_declared *d = &b->program->declared[i];
        if (!fits(d)) continue;
        if (!any) fprintf(b->out, "\n/* %s */\nenum {\n", what);
        any = true;
        fprintf(b->out, "    %s = %" PRIu32 ",", fg_bake_enumerator(n, kind, d->name, (fg_text){0}), number(d));
        if (d->kind == FG_KIND_SENSOR) {
            fprintf(b->out, " /* in steps of %s%.*s1 ", d->decimals ? "0." : "", d->decimals ? d->decimals - 1 : 0,
                    "00000");
            fg_bake_put_safe(b->out, d->unit.at, d->unit.size);
            fputs(d->unit.size ? " */" : "*/", b->out);
        }
        fputc('\n', b->out);
    }
    if (any) fputs("};\n", b->out);
}

static bool is_sensor(const fg_declared *d) { return d->kind == FG_KIND_SENSOR; }
static bool is_flag(const fg_declared *d) { return d->kind == FG_KIND_FLAG; }
static bool is_count(const fg_declared *d) { return d->kind == FG_KIND_COUNT; }
static bool is_output(const fg_declared *d) { return fg_kind_is(d->kind, FG_KIND_IS_OUTPUT); }
static bool has_answer(const fg_declared *d) { return fg_kind_is(d->kind, FG_KIND_YES_NO | FG_KIND_LABELS); }
static uint32_t index_of(const fg_declared *d) { return d->index; }
static uint32_t slot_of(const fg_declared *d) { return d->slot; }

static void write_labels(namer *n)
{
    const baker *b = n->baker;
    for (uint32_t i = 0; i < b->program->declared_count; i++) {
        const fg_declared *d = &b->program->declared[i];
        if (!fg_kind_is(d->kind, FG_KIND_LABELS) || !d->label_count) continue;
        fputs("\n/* Labels of ", b->out);
        fg_bake_put_safe(b->out, d->name.at, d->name.size);
        fputs("; FG_NONE in no band, FG_UNSURE without a reading. */\nenum {\n", b->out);
        for (uint16_t k = 0; k < d->label_count; k++)
            fprintf(b->out, "    %s = FG_LABEL(%u),\n", fg_bake_enumerator(n, "", d->labels[k], d->name), k);
        fputs("};\n", b->out);
    }
}

static void write_header(namer *n)
{
    const baker *b = n->baker;
    fprintf(b->out,
            "#ifndef BAKED_%s_H\n#define BAKED_%s_H\n\n#include <ficklegate.h>\n\n#ifdef __cplusplus\nextern \"C\" "
            "{\n#endif\n",
            b->name, b->name);
    write_enum(n, "SENSOR", is_sensor, index_of, "For fg_feed, fg_feed_counts, fg_sensor_value.");
    write_enum(n, "FLAG", is_flag, index_of, "For fg_feed_flag.");
    write_enum(n, "OUTPUT", is_output, index_of, "For fg_output_at, fg_display_line.");
    write_enum(n, "COUNT", is_count, index_of, "For fg_count_value.");
    write_enum(n, "ANSWER", has_answer, slot_of, "For fg_answer: FG_YES, FG_NO, FG_UNSURE, or a label.");
    write_labels(n);
    fprintf(b->out,
            "\n/* The gate; a run of it takes fg_run_size(&%s_gate) bytes, %zu where a pointer has %zu. It steps every "
            "%" PRIu32 " ms (0: when readings came). */\n"
            "extern const fg_gate %s_gate;\n\n#ifdef __cplusplus\n}\n#endif\n#endif\n",
            b->name, fg_run_size(b->gate), sizeof(void *), b->gate->every, b->name);
}

bool fg_bake_tables(const fg_gate_file *file, const fg_bake_options *options, FILE *header, FILE *source,
                    fg_baked *baked)
{
    baker b = {.file = file,
               .program = &file->program,
               .gate = &file->program.gate,
               .options = options,
               .name = options->name,
               .out = header};
    namer n = {.baker = &b};
    if (!fg_bake_namer(&n)) return false;
    fg_bake_heading(&b);
    write_header(&n);
    b.out = source;
    fg_bake_heading(&b);
    fprintf(source, "#include \"%s\"\n\n", options->header);
    fg_bake_source(&b);
    if (baked) *baked = (fg_baked){.packed = fg_run_size(b.gate), .aligned = fg_run_size(b.gate)};
    fg_bake_namer_free(&n);
    return !n.full;
}
