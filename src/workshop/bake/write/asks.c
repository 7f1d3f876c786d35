/* SPDX-License-Identifier: MIT */
/* The calls of the header that ask what the last step brought. */
#include "workshop/bake/write/write.h"

/* `more`: further arguments, each behind a comma; `unused`: statements that name what is not used. */
static void begin_ask_with(coder *c, const char *type, const char *what, const char *which, const char *more,
                           const char *unused)
{
    fg_code_line(c, 0, "static inline %s %s_%s(const %s_state *s, %s_%s_id %s%s)", type, c->name, what, c->name,
                 c->name, which, which, more);
    fg_code_line(c, 0, "{%s", unused);
    fg_code_line(c, 1, "switch (%s) {", which);
}

static void begin_ask(coder *c, const char *type, const char *what, const char *which)
{
    begin_ask_with(c, type, what, which, "", "");
}

static void end_ask(coder *c, const char *otherwise)
{
    fg_code_line(c, 1, "default: return %s;", otherwise);
    fg_code_line(c, 1, "}");
    fg_code_line(c, 0, "}");
}

/* Bands by a function of their own, whose type knows their labels. */
static void write_label_answers(coder *c)
{
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        const fg_declared *d = &c->program->declared[i];
        if (!d->label_count) continue;
        const int size = (int)d->name.size;
        fg_code_line(c, 0, "\n/* What %.*s answers after the last step. */", size, d->name.at);
        fg_code_line(c, 0, "static inline %s_%.*s_label %s_label_of_%.*s(const %s_state *s)", c->name, size, d->name.at,
                     c->name, size, d->name.at, c->name);
        fg_code_line(c, 0, "{");
        fg_code_line(c, 1, "return (%s_%.*s_label)%s;", c->name, size, d->name.at, c->slots[d->slot]);
        fg_code_line(c, 0, "}");
    }
}

static void write_answers(coder *c)
{
    bool any = false, counts = false;
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        const fg_declared *d = &c->program->declared[i];
        counts = counts || d->kind == FG_KIND_COUNT;
        if (!fg_kind_is(d->kind, FG_KIND_YES_NO | FG_KIND_LABELS)) continue;
        if (!any) fg_code_line(c, 0, "\n/* An answer after the last step. */");
        if (!any) begin_ask(c, "uint8_t", "answer", "answer");
        any = true;
        fg_code_line(c, 1, "case %s: return %s;", c->answer_names[i], c->slots[d->slot]);
    }
    if (any) end_ask(c, fg_code_say(c, "%s_UNSURE", c->capitals));
    write_label_answers(c);
    if (!counts) return;
    fg_code_line(c, 0, "\n/* What a count stands at. */");
    begin_ask(c, "int32_t", "count", "count");
    for (uint32_t i = 0; i < c->program->declared_count; i++)
        if (c->program->declared[i].kind == FG_KIND_COUNT)
            fg_code_line(c, 1, "case %s: return %s;", c->answer_names[i], c->counts[c->program->declared[i].index]);
    end_ask(c, "0");
}

static void write_levels(coder *c)
{
    static const struct {
        const char *type, *name, *comment, *otherwise;
    } asks[] = {{"int32_t", "level", "What an output is at; the list of outputs says in what.", "0"},
                {"uint32_t", "colour",
                 "The colour of a lamp, red green blue in the lower 24 bits; 0 if its level says none.", "0"},
                {"uint8_t", "volume", "The strength of a buzzer's tone in %.", "100"},
                {"bool", "single", "Does a bar light a single one, and not all up to it?", "false"}};
    int32_t low = 0, high = 0;
    for (uint16_t i = 0; i < c->gate->size.outputs; i++) {
        if (c->outputs[i].low < low) low = c->outputs[i].low;
        if (c->outputs[i].high > high) high = c->outputs[i].high;
    }
    for (size_t k = 0; k < sizeof asks / sizeof *asks; k++) {
        bool any = false;
        const char *type = k == 0 && low >= INT16_MIN && high <= INT16_MAX ? "int16_t" : asks[k].type;
        for (uint16_t i = 0; i < c->gate->size.outputs; i++) {
            const code_output *o = &c->outputs[i];
            const char *of[] = {o->level, o->colour, o->volume, o->single};
            if (!of[k]) continue;
            if (!any) fg_code_line(c, 0, "\n/* %s */", asks[k].comment);
            if (!any) begin_ask(c, type, asks[k].name, "output");
            any = true;
            const bool casts = k == 0 && o->low >= 0 && o->high > UINT8_MAX;
            fg_code_line(c, 1, "case %s: return %s%s;", c->output_names[i], casts ? fg_code_say(c, "(%s)", type) : "",
                         of[k]);
        }
        if (any) end_ask(c, asks[k].otherwise);
    }
}

/* ---- values and changes ---- */

/* Is what the rules see of a sensor there after the step: a member of the state, and not a local of the step? */
static bool keeps_value(const code_sensor *s) { return s->shown || (s->value && s->value == s->newest); }

static void write_values(coder *c)
{
    const bool details = c->baker->options->details;
    fg_code_line(c, 0, "\n/* A sensor's value%s; false while it is faulty%s: `value` is left as it was then. */",
                 details ? " as the rules saw it in the last step, in whole steps of its unit"
                         : ": its newest reading, as it is kept",
                 details ? "" : ", and where the gate keeps no value (`fickle bake --details` keeps them all)");
    bool any = false;
    for (uint16_t i = 0; i < c->gate->size.sensors; i++) any = any || keeps_value(&c->sensors[i]);
    begin_ask_with(c, "bool", "value", "sensor", ", int32_t *value", any ? "" : "\n    (void)s;\n    (void)value;");
    for (uint16_t i = 0; i < c->gate->size.sensors; i++) {
        const code_sensor *s = &c->sensors[i];
        if (!keeps_value(s)) continue;
        const char *how = s->narrow && s->counts ? " /* counts; beyond 16 bits the nearest number */"
                          : s->counts            ? " /* counts */"
                          : s->narrow            ? " /* beyond 16 bits the nearest number */"
                                                 : "";
        fg_code_line(c, 1, "case %s:%s", c->sensor_names[i], how);
        fg_code_line(c, 2, "if (%s) *value = %s;", s->ok, s->value);
        fg_code_line(c, 2, "return %s;", s->ok);
    }
    end_ask(c, "false");
}

static void write_changes(coder *c)
{
    fg_code_line(c, 0,
                 "\n/* Did the last step bring an output to another level? True after the first step, and always of "
                 "a display, whose text can change with its values. */");
    begin_ask_with(c, "bool", "changed", "output", "", c->stepped ? "" : "\n    (void)s;"); /* only displays */
    for (uint16_t i = 0; i < c->gate->size.outputs; i++)
        fg_code_line(c, 1, "case %s: return %s;", c->output_names[i], c->outputs[i].changed);
    end_ask(c, "false");
}

void fg_code_asks(coder *c)
{
    write_answers(c);
    write_levels(c);
    if (c->gate->size.sensors) write_values(c);
    if (c->gate->size.outputs && c->baker->options->details) write_changes(c);
}
