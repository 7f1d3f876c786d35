/* SPDX-License-Identifier: MIT */
/* The header of a gate as tables: the numbers of what it declares, each kind a type of its own, and the calls that take
 * them. */
#include "workshop/bake/tables/tables.h"

#include <inttypes.h>

/* A list of numbers is a type of its own, so that a flag's does not pass for a sensor's. */
static void write_enum(namer *n, const char *kind, const char *type, bool (*fits)(const fg_declared *d),
                       uint32_t (*number)(const fg_declared *d), const char *what)
{
    const baker *b = n->baker;
    bool any = false;
    for (uint32_t i = 0; i < b->program->declared_count; i++) {
        const fg_declared *d = &b->program->declared[i];
        if (!fits(d)) continue;
        if (!any) fprintf(b->out, "\n/* %s */\ntypedef enum %s_%s {\n", what, b->name, type);
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
    if (any) fprintf(b->out, "} %s_%s;\n", b->name, type);
}

static bool is_sensor(const fg_declared *d) { return d->kind == FG_KIND_SENSOR; }
static bool is_flag(const fg_declared *d) { return d->kind == FG_KIND_FLAG; }
static bool is_count(const fg_declared *d) { return d->kind == FG_KIND_COUNT; }
static bool is_output(const fg_declared *d) { return fg_kind_is(d->kind, FG_KIND_IS_OUTPUT); }
static bool has_answer(const fg_declared *d) { return fg_kind_is(d->kind, FG_KIND_YES_NO | FG_KIND_LABELS); }
static bool has_any(const baker *b, bool (*fits)(const fg_declared *d))
{
    for (uint32_t i = 0; i < b->program->declared_count; i++)
        if (fits(&b->program->declared[i])) return true;
    return false;
}

static uint32_t index_of(const fg_declared *d) { return d->index; }
static uint32_t slot_of(const fg_declared *d) { return d->slot; }

static void write_labels(namer *n)
{
    const baker *b = n->baker;
    for (uint32_t i = 0; i < b->program->declared_count; i++) {
        const fg_declared *d = &b->program->declared[i];
        const int size = (int)d->name.size;
        if (!fg_kind_is(d->kind, FG_KIND_LABELS) || !d->label_count) continue;
        fprintf(b->out, "\n/* What %.*s answers. */\ntypedef enum %s_%.*s_label {\n", size, d->name.at, b->name, size,
                d->name.at);
        fprintf(b->out, "    %s = FG_UNSURE, /* a reading is missing */\n",
                fg_bake_enumerator(n, "", fg_text_of("unsure"), d->name));
        const char *none = fg_bake_enumerator(n, "", fg_text_of("none"), d->name);
        for (uint16_t k = 0; k < d->label_count; k++)
            fprintf(b->out, "    %s = FG_LABEL(%u),\n", fg_bake_enumerator(n, "", d->labels[k], d->name), k);
        fprintf(b->out, "    %s = FG_NONE, /* in no band */\n", none);
        fprintf(b->out, "} %s_%.*s_label;\n", b->name, size, d->name.at);
        fprintf(b->out,
                "\nstatic inline %s_%.*s_label %s_label_of_%.*s(const fg_run *run)\n{\n    return "
                "(%s_%.*s_label)fg_answer(run, %u);\n}\n",
                b->name, size, d->name.at, b->name, size, d->name.at, b->name, size, d->name.at, d->slot);
    }
}

/* Writes a text with the gate's name in place of each @, and its name in capitals in place of each ^. */
static void put_named(const namer *n, const char *text)
{
    for (; *text; text++) {
        if (*text == '@' || *text == '^')
            fputs(*text == '@' ? n->baker->name : n->capitals, n->baker->out);
        else
            fputc(*text, n->baker->out);
    }
}

/* The calls of the library that take only the names of this gate. */
static void write_calls(const namer *n)
{
    const baker *b = n->baker;
    const fg_gate_sizes *size = &b->gate->size;
    const bool sensors = size->sensors, flags = size->flags, outputs = size->outputs;
    const struct {
        bool there;
        const char *head, *body;
    } calls[] = {
        {sensors, "void @_feed(fg_run *run, @_sensor_id sensor, fg_value steps, fg_time at)",
         "fg_feed(run, (uint16_t)sensor, steps, at)"},
        {sensors, "void @_feed_counts(fg_run *run, @_sensor_id sensor, int32_t counts, fg_time at)",
         "fg_feed_counts(run, (uint16_t)sensor, counts, at)"},
        {sensors, "void @_fault(fg_run *run, @_sensor_id sensor, fg_time at)",
         "fg_feed_fault(run, (uint16_t)sensor, at)"},
        {sensors, "bool @_value(const fg_run *run, @_sensor_id sensor, fg_value *value)",
         "return fg_sensor_value(run, (uint16_t)sensor, value)"},
        {flags, "void @_feed_flag(fg_run *run, @_flag_id flag, bool yes, fg_time at)",
         "fg_feed_flag(run, (uint16_t)flag, yes, at)"},
        {flags, "void @_fault_flag(fg_run *run, @_flag_id flag, fg_time at)",
         "fg_feed_flag_fault(run, (uint16_t)flag, at)"},
        {true, "void @_step(fg_run *run, fg_time now)", "fg_step(run, now)"},
        {has_any(b, has_answer), "fg_verdict @_answer(const fg_run *run, @_answer_id answer)",
         "return fg_answer(run, (uint16_t)answer)"},
        {size->counters, "fg_value @_count(const fg_run *run, @_count_id count)",
         "return fg_count_value(run, (uint16_t)count)"},
        {outputs, "const fg_output_state *@_output(const fg_run *run, @_output_id output)",
         "return fg_output_at(run, (uint16_t)output)"},
        {size->text_bytes, "fg_text @_text(const fg_run *run, @_output_id output, uint8_t line)",
         "return fg_display_line(run, (uint16_t)output, line)"},
        {fg_bake_keeps(b), "void @_save(const fg_run *run, unsigned char *bytes)",
         "(void)!fg_run_save(run, bytes, ^_SAVED)"},
        {fg_bake_keeps(b), "bool @_restore(fg_run *run, const unsigned char *bytes)",
         "return fg_run_restore(run, bytes, ^_SAVED) == FG_OK"},
    };
    fputs("\n/* The calls of the library, for the names of this gate alone: see ficklegate/gate.h. */\n", b->out);
    for (size_t i = 0; i < sizeof calls / sizeof *calls; i++) {
        if (!calls[i].there) continue;
        fputs("static inline ", b->out);
        put_named(n, calls[i].head);
        fputs(" { ", b->out);
        put_named(n, calls[i].body);
        fputs("; }\n", b->out);
    }
}

/* The memory of a run as a struct, so that each compiler works out its size itself. */
static void write_memory(const baker *b)
{
    const fg_gate_sizes *const n = &b->gate->size;
    fprintf(
        b->out,
        "\n/* What a run of the gate needs: `static %s_memory memory;`. %zu bytes where a pointer has %zu. */\ntypedef "
        "struct %s_memory {\n    fg_run run;\n",
        b->name, fg_run_size(b->gate), sizeof(void *), b->name);
#define WRITE_STATE(member, type, count)                                                                               \
    if (count) fprintf(b->out, "    " #type " " #member "[%zu];\n", (size_t)(count));
    FG_RUN_STATES(WRITE_STATE)
#undef WRITE_STATE
    fprintf(b->out, "} %s_memory;\n", b->name);
}

/* What a small chip can leave out of the library: see core/parts.h. */
static void write_parts(const baker *b)
{
    bool sums = false;
    for (uint16_t i = 0; i < b->gate->size.sensors; i++) sums = sums || b->gate->sensors[i].term_count;
    const bool texts = b->gate->size.text_bytes;
    if (sums && texts) return;
    fprintf(b->out, "\n/* This gate has no %s%s%s: on a chip with little flash compile the library with%s%s. */\n",
            sums ? "" : "sums", sums || texts ? "" : " and no ", texts ? "" : "texts",
            sums ? "" : " -DFG_WITHOUT_SUMS=1", texts ? "" : " -DFG_WITHOUT_TEXTS=1");
}

static void write_begin(const baker *b)
{
    fprintf(
        b->out,
        "\n/* The gate. It steps %s. */\nextern const fg_gate %s_gate;\n\n/* Begins a run: every sensor unread, every "
        "output at rest. NULL if the library is of another version than these tables: bake them again. */\nstatic "
        "inline "
        "fg_run *%s_start(%s_memory *memory)\n{\n    fg_run *run;\n    return fg_run_start(&%s_gate, memory, sizeof "
        "*memory, &run) == FG_OK ? run : NULL;\n}\n",
        b->gate->every ? "as often as its EVERY_MS says" : "whenever there are readings", b->name, b->name, b->name,
        b->name);
}

static void write_header(namer *n)
{
    const baker *b = n->baker;
    fprintf(b->out,
            "#ifndef BAKED_%s_H\n#define BAKED_%s_H\n\n#include <ficklegate.h>\n\n#ifdef __cplusplus\nextern \"C\" "
            "{\n#endif\n",
            b->name, b->name);
    fg_buffer numbers = {0};
    fg_bake_numbers(n, &numbers);
    (void)fwrite(numbers.text, 1, numbers.size, b->out);
    n->full = n->full || numbers.full;
    fg_buffer_free(&numbers);
    write_enum(n, "SENSOR", "sensor_id", is_sensor, index_of, "Sensors.");
    write_enum(n, "FLAG", "flag_id", is_flag, index_of, "Flags.");
    write_enum(n, "OUTPUT", "output_id", is_output, index_of, "Outputs.");
    write_enum(n, "COUNT", "count_id", is_count, index_of, "Counts.");
    write_enum(n, "ANSWER", "answer_id", has_answer, slot_of, "Answers: FG_YES, FG_NO, FG_UNSURE, or a label.");
    write_parts(b);
    write_memory(b);
    write_begin(b);
    write_calls(n);
    write_labels(n);
    fputs("\n#ifdef __cplusplus\n}\n#endif\n#endif\n", b->out);
}

bool fg_bake_tables(const fg_gate_file *file, const fg_bake_options *options, FILE *header, FILE *source,
                    fg_baked *baked)
{
    if (file->program.gate.size.watched) return false;
    baker b = {.file = file,
               .program = &file->program,
               .gate = &file->program.gate,
               .options = options,
               .name = options->name,
               .out = header};
    namer n = {.baker = &b};
    if (!fg_bake_namer(&n)) return false;
    fg_bake_reserve_numbers(&n);
    fg_bake_heading(&b);
    fg_bake_terms(&b, false);
    write_header(&n);
    b.out = source;
    fg_bake_heading(&b);
    fg_bake_terms(&b, false);
    fprintf(source, "/* This file is C, C99 or later; the header is C++ as well. */\n#include \"%s\"\n\n",
            options->header);
    fg_bake_source(&b);
    if (baked) *baked = (fg_baked){.packed = fg_run_size(b.gate), .aligned = fg_run_size(b.gate)};
    fg_bake_namer_free(&n);
    return !n.full;
}
