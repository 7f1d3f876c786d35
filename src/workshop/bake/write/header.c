/* SPDX-License-Identifier: MIT */
/* The header of a gate's straight code: names, the state, and the calls to feed and to ask, which are short enough to
 * stand there. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>

/* ---- the header ---- */

/* A list of numbers is a type of its own, so that a flag's does not pass for a sensor's. */
static void begin_enum(coder *c, const char *what) { fg_code_line(c, 0, "typedef enum %s_%s {", c->name, what); }

static void end_enum(coder *c, const char *what) { fg_code_line(c, 0, "} %s_%s;", c->name, what); }

static void write_sensor_enum(coder *c)
{
    if (!c->gate->size.sensors) return;
    fg_code_line(c, 0, "\n/* Sensors, for %s_feed and %s_fault. */", c->name, c->name);
    begin_enum(c, "sensor_id");
    for (uint16_t i = 0; i < c->gate->size.sensors; i++) {
        const code_sensor *s = &c->sensors[i];
        if (s->rule->term_count)
            fg_code_line(c, 1, "%s = %u, /* worked out from others: it is not fed */", c->sensor_names[i], i);
        else if (!s->used)
            fg_code_line(c, 1, "%s = %u, /* nothing looks at it: what is fed is left out */", c->sensor_names[i], i);
        else if (s->rule->scale_count && !c->baker->options->units)
            fg_code_line(c, 1, "%s = %u, /* counts of its converter */", c->sensor_names[i], i);
        else
            fg_code_line(c, 1, "%s = %u, /* %s */", c->sensor_names[i], i, fg_code_steps(c, s->declared));
    }
    end_enum(c, "sensor_id");
}

static void write_flag_enum(coder *c)
{
    if (!c->gate->size.flags) return;
    fg_code_line(c, 0, "\n/* Flags, for %s_feed_flag and %s_fault_flag. */", c->name, c->name);
    begin_enum(c, "flag_id");
    for (uint16_t i = 0; i < c->gate->size.flags; i++) fg_code_line(c, 1, "%s = %u,", c->flag_names[i], i);
    end_enum(c, "flag_id");
}

/* The outputs, and what the number means that each is at. */
static void write_output_enum(coder *c)
{
    if (!c->gate->size.outputs) return;
    fg_code_line(c, 0, "\n/* Outputs, for %s_level. */", c->name);
    begin_enum(c, "output_id");
    for (uint16_t i = 0; i < c->gate->size.outputs; i++) {
        const fg_output *o = &c->gate->outputs[i];
        const char *what = fg_code_output_texts((fg_output_kind)o->kind)->meaning;
        if (o->kind == FG_OUTPUT_DISPLAY)
            what = fg_code_say(c, "a display of %u lines: the number of its text, 0 is blank", o->lines);
        fg_code_line(c, 1, "%s = %u, /* %s */", c->output_names[i], i, what);
    }
    end_enum(c, "output_id");
}

static void write_answer_enum(coder *c)
{
    bool any = false;
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        const fg_declared *d = &c->program->declared[i];
        if (!fg_kind_is(d->kind, FG_KIND_YES_NO | FG_KIND_LABELS)) continue;
        if (!any) fg_code_line(c, 0, "\n/* Answers, for %s_answer. */", c->name);
        if (!any) begin_enum(c, "answer_id");
        any = true;
        fg_code_line(c, 1, "%s,%s", c->answer_names[i],
                     fg_kind_is(d->kind, FG_KIND_LABELS) ? " /* one of its labels */" : "");
    }
    if (any) end_enum(c, "answer_id");
    any = false;
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        const fg_declared *d = &c->program->declared[i];
        if (d->kind != FG_KIND_COUNT) continue;
        if (!any) fg_code_line(c, 0, "\n/* Counts, for %s_count. */", c->name);
        if (!any) begin_enum(c, "count_id");
        any = true;
        fg_code_line(c, 1, "%s = %u,", c->answer_names[i], d->index);
    }
    if (any) end_enum(c, "count_id");
}

static void write_labels(coder *c)
{
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        const fg_declared *d = &c->program->declared[i];
        if (!d->label_count) continue;
        const char *type = fg_code_say(c, "%.*s_label", (int)d->name.size, d->name.at);
        fg_code_line(c, 0, "\n/* What %.*s answers. */", (int)d->name.size, d->name.at);
        begin_enum(c, type);
        fg_code_line(c, 1, "%s = 0, /* a reading is missing */", c->unsure_names[i]);
        for (uint16_t k = 0; k < d->label_count; k++)
            fg_code_line(c, 1, "%s = %u,", c->labels[c->first_label[i] + k], k + 1u);
        fg_code_line(c, 1, "%s = 255, /* in no band */", c->none_names[i]);
        end_enum(c, type);
    }
}

static void write_type(coder *c, const char *suffix, const char *comment, const char *members)
{
    fg_code_line(c, 0, "\n/* %s */", comment);
    fg_code_line(c, 0, "typedef struct %s_%s {", c->name, suffix);
    fg_code_line(c, 1, "%s", members);
    fg_code_line(c, 0, "} %s_%s;", c->name, suffix);
}

static void write_types(coder *c)
{
    const char *settles = "What settling remembers: the present answer, the one that waits, and for how much longer.";
    if (c->settling) write_type(c, "settling", settles, "uint16_t left; /* ms */\n    uint8_t is, next;");
    if (c->settling_long) write_type(c, "settling_long", settles, "uint32_t left; /* ms */\n    uint8_t is, next;");
    if (c->settling_within)
        write_type(
            c, "settling_within", settles,
            "uint32_t waited; /* ms */\n    int32_t began; /* the reading at its first step */\n    uint8_t is, next;");
    if (c->ring) write_type(c, "ring", "Where the last values of a window stand.", "uint8_t count, head;");
    if (c->playing)
        write_type(c, "playing", "Where a sequence stands.",
                   "uint32_t elapsed, length, run;\n    uint16_t segment;\n    bool begun, over;");
}

static void write_state(coder *c)
{
    size_t packed = 0, aligned = 0;
    uint8_t widest = 1;
    write_types(c);
    code_block *const out = c->out;
    code_block members = {0};
    c->out = &members; /* cppcheck-suppress autoVariables; it is set back below */
    for (uint8_t alignment = 4; alignment; alignment = (uint8_t)(alignment / 2))
        for (size_t i = 0; i < c->member_count; i++) {
            const code_member *m = &c->members[i];
            if (m->alignment != alignment) continue;
            const size_t count = m->count ? m->count : 1;
            packed += count * m->size;
            aligned = (aligned + m->alignment - 1u) / m->alignment * m->alignment + count * m->aligned;
            if (m->alignment > widest) widest = m->alignment;
            const char *array = m->count ? fg_code_say(c, "[%u]", m->count) : "";
            fg_code_line(c, 1, "%s %s%s;%s", m->type, m->name, array,
                         m->comment ? fg_code_say(c, " /* %s */", m->comment) : "");
        }
    if (!c->member_count) {
        fg_code_line(c, 1, "uint8_t nothing;");
        packed = aligned = 1;
    }
    aligned = (aligned + widest - 1u) / widest * widest;
    c->large = aligned > 60000;
    c->packed = packed;
    c->aligned = aligned;
    c->out = out;
    fg_code_line(c, 0,
                 "\n/* All that a run of the gate remembers: %zu bytes on an 8-bit chip, %zu where numbers are "
                 "aligned. Its members are the "
                 "source's own. */",
                 packed, aligned);
    fg_code_line(c, 0, "typedef struct %s_state {", c->name);
    fg_code_block_append(out, &members);
    fg_code_block_free(&members);
    fg_code_line(c, 0, "} %s_state;", c->name);
}

/* ---- feeding ---- */

static bool is_fed(const code_sensor *s) { return s->used && !s->rule->term_count; }

static void write_case_of_feed(coder *c, uint16_t i)
{
    const code_sensor *s = &c->sensors[i];
    fg_code_line(c, 1, "case %s:", c->sensor_names[i]);
    const char *value = "value", *heard = "true";
    if (s->counts) {
        code_test in = code_always;
        if (s->first != INT32_MIN) in = fg_code_both(c, in, fg_code_compare(c, "value", CODE_AT_LEAST, s->first));
        if (s->last != INT32_MAX) in = fg_code_both(c, in, fg_code_compare(c, "value", CODE_AT_MOST, s->last));
        heard = in.text;
    }
    if (fg_code_converts(c, s))
        heard = fg_code_say(c, "%s_%s_from_counts(value, &value)", c->name, fg_code_bare(s->newest));
    fg_code_line(c, 2, "%s = %s;", s->heard, heard);
    const char *stored = s->narrow
                             ? fg_code_say(c, "(int16_t)(%s < INT16_MIN ? INT16_MIN : %s > INT16_MAX ? INT16_MAX : %s)",
                                           value, value, value)
                             : value;
    if (fg_code_converts(c, s))
        fg_code_line(c, 2, "if (%s) %s = %s;", s->heard, s->newest, stored);
    else
        fg_code_line(c, 2, "%s = %s;", s->newest, stored);
    if (s->at) fg_code_line(c, 2, "%s = at;", s->at);
    if (s->at) fg_code_line(c, 2, "%s = true;", s->fresh);
    if (s->old && fg_code_converts(c, s))
        fg_code_line(c, 2, "if (%s) %s = false;", s->heard, s->old);
    else if (s->old)
        fg_code_line(c, 2, "%s = false;", s->old);
    fg_code_line(c, 2, "break;");
}

static void write_feed(coder *c)
{
    bool at = false, fed = false;
    for (uint16_t i = 0; i < c->gate->size.sensors; i++) {
        at = at || c->sensors[i].at;
        fed = fed || is_fed(&c->sensors[i]);
    }
    fg_code_line(
        c, 0,
        "\n/* A reading, taken at `at`: counts of a converter, or whole steps of the unit, as the list of sensors "
        "says.\n * It takes effect at the next step; a later one before that replaces it. */");
    fg_code_line(c, 0, "static inline void %s_feed(%s_state *s, %s_sensor_id sensor, int32_t value, uint32_t at)",
                 c->name, c->name, c->name);
    fg_code_line(c, 0, "{");
    if (!at) fg_code_line(c, 1, "(void)at;");
    if (!fed) fg_code_line(c, 1, "(void)value;");
    if (!fed) fg_code_line(c, 1, "(void)s;");
    fg_code_line(c, 1, "switch (sensor) {");
    for (uint16_t i = 0; i < c->gate->size.sensors; i++)
        if (is_fed(&c->sensors[i])) write_case_of_feed(c, i);
    fg_code_line(c, 1, "default: break;");
    fg_code_line(c, 1, "}");
    fg_code_line(c, 0, "}");
    fg_code_line(c, 0, "\n/* Something came that is no reading: the sensor is faulty until the next one. */");
    fg_code_line(c, 0, "static inline void %s_fault(%s_state *s, %s_sensor_id sensor, uint32_t at)", c->name, c->name,
                 c->name);
    fg_code_line(c, 0, "{");
    if (!at) fg_code_line(c, 1, "(void)at;");
    if (!fed) fg_code_line(c, 1, "(void)s;");
    fg_code_line(c, 1, "switch (sensor) {");
    for (uint16_t i = 0; i < c->gate->size.sensors; i++) {
        const code_sensor *s = &c->sensors[i];
        if (!is_fed(s)) continue;
        fg_code_line(c, 1, "case %s:", c->sensor_names[i]);
        fg_code_line(c, 2, "%s = false;", s->heard);
        if (s->at) fg_code_line(c, 2, "%s = at;", s->at);
        if (s->at) fg_code_line(c, 2, "%s = true;", s->fresh);
        fg_code_line(c, 2, "break;");
    }
    fg_code_line(c, 1, "default: break;");
    fg_code_line(c, 1, "}");
    fg_code_line(c, 0, "}");
}

static void write_flag_feed(coder *c, bool fault)
{
    bool at = false;
    for (uint16_t i = 0; i < c->gate->size.flags; i++) at = at || c->flags[i].at;
    if (fault)
        fg_code_line(c, 0, "\n/* Something came that is neither yes nor no. */");
    else
        fg_code_line(c, 0, "\n/* A flag as it was read at `at`. */");
    fg_code_line(c, 0, "static inline void %s_%s(%s_state *s, %s_flag_id flag, %suint32_t at)", c->name,
                 fault ? "fault_flag" : "feed_flag", c->name, c->name, fault ? "" : "bool yes, ");
    fg_code_line(c, 0, "{");
    if (!at) fg_code_line(c, 1, "(void)at;");
    fg_code_line(c, 1, "switch (flag) {");
    for (uint16_t i = 0; i < c->gate->size.flags; i++) {
        const code_flag *f = &c->flags[i];
        const bool inverted = c->gate->flags[i].inverted;
        fg_code_line(c, 1, "case %s:", c->flag_names[i]);
        if (fault)
            fg_code_line(c, 2, "%s = %s_UNSURE;", f->newest, c->capitals);
        else
            fg_code_line(c, 2, "%s = yes ? %s_%s : %s_%s;", f->newest, c->capitals, inverted ? "NO" : "YES",
                         c->capitals, inverted ? "YES" : "NO");
        if (f->at) fg_code_line(c, 2, "%s = at;", f->at);
        if (f->at) fg_code_line(c, 2, "%s = true;", f->fresh);
        fg_code_line(c, 2, "break;");
    }
    fg_code_line(c, 1, "default: break;");
    fg_code_line(c, 1, "}");
    fg_code_line(c, 0, "}");
}

static void write_prototypes(coder *c, bool texts)
{
    fg_code_line(c, 0,
                 "\n/* Forgets everything: every sensor unread, every output at rest. Once, before the first step. */");
    fg_code_line(c, 0, "void %s_start(%s_state *s);", c->name, c->name);
    fg_code_line(c, 0,
                 "\n/* One step on the newest readings. `now`: ms of any clock; it may wrap. A step before the last "
                 "one counts as if no "
                 "time had passed. */");
    fg_code_line(c, 0, "void %s_step(%s_state *s, uint32_t now);", c->name, c->name);
    for (uint16_t i = 0; i < c->gate->size.sensors; i++) {
        const code_sensor *s = &c->sensors[i];
        if (!fg_code_converts(c, s)) continue;
        fg_code_line(c, 0, "\n/* Counts of a converter as steps of the unit; false beyond 32 bits. */");
        fg_code_line(c, 0, "bool %s_%s_from_counts(int32_t counts, int32_t *value);", c->name, fg_code_bare(s->newest));
    }
    if (c->baker->options->report) {
        fg_code_line(c, 0,
                     "\n/* Reports the newest readings and what every output is at, as one line: `out` is called for "
                     "each character. `now`: the time of the step. `fickle live` and `fickle replay --compare` read "
                     "it. */");
        fg_code_line(c, 0,
                     "void %s_report(const %s_state *s, uint32_t now, void (*out)(void *context, char c), void "
                     "*context);",
                     c->name, c->name);
    }
    if (!texts) return;
    fg_code_line(c, 0,
                 "\n/* A line of what a display shows, from 0 on, written into `text`: room for %s_TEXT_SIZE, ends in "
                 "NUL. Returns its length. */",
                 c->capitals);
    fg_code_line(c, 0, "enum { %s_TEXT_SIZE = %u };", c->capitals, fg_code_text_size(c));
    fg_code_line(c, 0, "uint16_t %s_text(const %s_state *s, %s_output_id output, uint8_t line, char *text);", c->name,
                 c->name, c->name);
}

static void write_use(coder *c)
{
    const char *n = c->name;
    fg_code_line(c, 0, "\n/* %s", c->program->title.size ? fg_code_safe(c, c->program->title) : "Use:");
    fg_code_line(c, 0, " *");
    fg_code_line(c, 0, " *     static %s_state gate;", n);
    fg_code_line(c, 0, " *     %s_start(&gate);", n);
    if (c->gate->every)
        fg_code_line(c, 0, " *     every %" PRIu32 " ms:", c->gate->every);
    else
        fg_code_line(c, 0, " *     whenever there are readings:");
    if (c->gate->size.sensors)
        fg_code_line(c, 0, " *         %s_feed(&gate, %s, reading, now);", n, c->sensor_names[0]);
    if (c->gate->size.flags)
        fg_code_line(c, 0, " *         %s_feed_flag(&gate, %s, pressed, now);", n, c->flag_names[0]);
    fg_code_line(c, 0, " *         %s_step(&gate, now);", n);
    if (c->gate->size.outputs) fg_code_line(c, 0, " *         switch on %s_level(&gate, %s)", n, c->output_names[0]);
    fg_code_line(c, 0, " *");
    fg_code_line(c, 0,
                 " * No heap, no globals, no floats: several runs may be alive at once. Calls on one state must not "
                 "interrupt each other. */");
}

void fg_code_header(coder *c, bool texts)
{
    c->out = &c->header;
    fg_code_line(c, 0, "#ifndef BAKED_%s_H", c->name);
    fg_code_line(c, 0, "#define BAKED_%s_H\n", c->name);
    fg_code_line(c, 0, "#include <stdbool.h>");
    fg_code_line(c, 0, "#include <stdint.h>\n");
    fg_code_line(c, 0, "#ifdef __cplusplus");
    fg_code_line(c, 0, "extern \"C\" {");
    fg_code_line(c, 0, "#endif");
    write_use(c);
    fg_code_line(c, 0, "enum { %s_UNSURE = 0, %s_NO = 1, %s_YES = 2, %s_NONE = 255 };", c->capitals, c->capitals,
                 c->capitals, c->capitals);
    fg_bake_numbers(c->namer, &c->out->text);
    fg_code_line(
        c, 0, "\n/* How many bytes of stack a step takes at the most on an 8-bit chip, as avr-gcc -Os compiles it. */");
    fg_code_line(c, 0, "#define %s_STACK %s", c->capitals, CODE_STACK_PLACE);
    write_sensor_enum(c);
    write_flag_enum(c);
    write_output_enum(c);
    write_answer_enum(c);
    write_labels(c);
    write_state(c);
    write_prototypes(c, texts);
    if (c->gate->size.sensors) write_feed(c);
    if (c->gate->size.flags) write_flag_feed(c, false);
    if (c->gate->size.flags) write_flag_feed(c, true);
    fg_code_asks(c);
    fg_code_saved(c);
    fg_code_line(c, 0, "\n#ifdef __cplusplus");
    fg_code_line(c, 0, "}");
    fg_code_line(c, 0, "#endif");
    fg_code_line(c, 0, "#endif");
}
