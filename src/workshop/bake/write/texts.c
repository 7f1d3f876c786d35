/* SPDX-License-Identifier: MIT */
/* What displays show. A line is written when it is asked for, from the state, so it takes no memory in between. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>

/* ---- pieces ---- */

/* A text as C writes it: what is no plain character in octal. */
static const char *quoted(coder *c, const char *at, size_t size)
{
    fg_buffer b = {0};
    for (size_t i = 0; i < size; i++) {
        const unsigned char byte = (unsigned char)at[i];
        char octal[8];
        if (byte >= ' ' && byte < 127 && byte != '"' && byte != '\\' && byte != '?')
            fg_buffer_add(&b, (fg_text){&at[i], 1});
        else {
            (void)snprintf(octal, sizeof octal, "\\%03o", byte);
            fg_buffer_add_c(&b, octal);
        }
    }
    const char *text = fg_code_say(c, "\"%.*s\"", (int)b.size, b.text ? b.text : "");
    c->full = c->full || b.full;
    fg_buffer_free(&b);
    return text;
}

static void put_text(coder *c, int indent, const char *at, size_t size)
{
    if (size) fg_code_line(c, indent, "\3put_text(w, FLASH_TEXT(%s));", quoted(c, at, size));
}

static void put_sensor(coder *c, int indent, const fg_piece *piece)
{
    const code_sensor *s = &c->sensors[piece->index];
    fg_code_line(c, indent, "if (%s) {", s->ok);
    fg_code_line(c, indent + 1, "\3put_value(w, %s, %u);", s->value, s->rule->decimals);
    put_text(c, indent + 1, piece->text.at, piece->text.size);
    fg_code_line(c, indent, "} else {");
    fg_code_line(c, indent + 1, "\3put(w, '?');");
    fg_code_line(c, indent, "}");
}

static void put_bands(coder *c, int indent, const fg_piece *piece)
{
    const fg_declared *d = fg_code_declared(c, FG_KIND_BANDS, c->gate->ops[piece->index].rule);
    fg_code_line(c, indent, "switch (%s) {", c->slots[piece->index]);
    for (uint16_t k = 0; k < d->label_count; k++) {
        const fg_text text = c->gate->label_texts[piece->first_label + k];
        fg_code_line(c, indent, "case %s:", fg_code_label(c, d, fg_label(k)));
        put_text(c, indent + 1, text.at, text.size);
        fg_code_line(c, indent + 1, "break;");
    }
    fg_code_line(c, indent, "case \3NONE:");
    put_text(c, indent + 1, "none", 4);
    fg_code_line(c, indent + 1, "break;");
    fg_code_line(c, indent, "default: \3put(w, '?'); break;");
    fg_code_line(c, indent, "}");
}

/* ---- levels in their one form ---- */

const char *fg_code_put_level(coder *c, uint16_t output)
{
    return fg_code_say(c, "%s_put_level_of_%s", c->name, fg_code_bare(c->outputs[output].level));
}

static void put_lamp(coder *c, const code_output *o)
{
    fg_code_line(c, 1, "\3put_text(w, %s ? FLASH_TEXT(\"on\") : FLASH_TEXT(\"off\"));", o->level);
    fg_code_line(c, 1, "if (!%s) return;", o->level);
    if (o->colour) {
        fg_code_line(c, 1, "switch (%s) {", o->colour);
        fg_code_line(c, 1, "case 0: break;");
        uint32_t rgb;
        const char *name;
        for (size_t i = 0; (name = fg_colour_name(i, &rgb)); i++)
            fg_code_line(c, 1, "case 0x%08" PRIx32 ": \3put_text(w, FLASH_TEXT(\" %s\")); break;",
                         FG_COLOUR(FG_COLOUR_NAMED, rgb), name);
        fg_code_line(c, 1, "default:");
        fg_code_line(c, 2, "\3put(w, ' ');");
        fg_code_line(c, 2, "\3put_colour(w, %s);", o->colour);
        fg_code_line(c, 2, "break;");
        fg_code_line(c, 1, "}");
    }
    fg_code_line(c, 1, "\3put_percent(w, %s);", o->level);
}

static void put_plain(coder *c, const code_output *o, fg_output_kind kind)
{
    const char *level = o->level;
    switch (kind) {
    case FG_OUTPUT_RELAY:
        fg_code_line(c, 1, "\3put_text(w, %s ? FLASH_TEXT(\"on\") : FLASH_TEXT(\"off\"));", level);
        return;
    case FG_OUTPUT_BUZZER:
        fg_code_line(c, 1, "if (!%s) {", level);
        fg_code_line(c, 2, "\3put_text(w, FLASH_TEXT(\"quiet\"));");
        fg_code_line(c, 2, "return;");
        fg_code_line(c, 1, "}");
        fg_code_line(c, 1, "\3put_value(w, %s, 0);", level);
        fg_code_line(c, 1, "\3put_text(w, FLASH_TEXT(\"Hz\"));");
        if (o->volume) fg_code_line(c, 1, "\3put_percent(w, %s);", o->volume);
        return;
    case FG_OUTPUT_MOTOR:
        if (o->low < 0)
            fg_code_line(c, 1,
                         "\3put_text(w, %s > 0 ? FLASH_TEXT(\"forward\") : %s < 0 ? FLASH_TEXT(\"back\") : "
                         "FLASH_TEXT(\"stop\"));",
                         level, level);
        else
            fg_code_line(c, 1, "\3put_text(w, %s ? FLASH_TEXT(\"forward\") : FLASH_TEXT(\"stop\"));", level);
        fg_code_line(c, 1, "if (%s) \3put_percent(w, %s);", level,
                     o->low < 0 ? fg_code_say(c, "%s < 0 ? -%s : %s", level, level, level) : level);
        return;
    case FG_OUTPUT_SERVO:
        fg_code_line(c, 1, "\3put_value(w, %s, 0);", level);
        fg_code_line(c, 1, "\3put_text(w, FLASH_TEXT(\" deg\"));");
        return;
    default: break;
    }
}

static void put_bar(coder *c, uint16_t number)
{
    const code_output *o = &c->outputs[number];
    fg_code_line(c, 1, "if (!%s) {", o->level);
    fg_code_line(c, 2, "\3put_text(w, FLASH_TEXT(\"off\"));");
    fg_code_line(c, 2, "return;");
    fg_code_line(c, 1, "}");
    if (o->single)
        fg_code_line(c, 1, "\3put_text(w, %s ? FLASH_TEXT(\"light \") : FLASH_TEXT(\"fill \"));", o->single);
    else
        fg_code_line(c, 1, "\3put_text(w, FLASH_TEXT(\"%s \"));", o->light ? "light" : "fill");
    fg_code_line(c, 1, "\3put_value(w, %s, 0);", o->level);
}

const char *fg_code_put_line(coder *c, uint16_t output)
{
    return fg_code_say(c, "%s_put_line_of_%s", c->name, fg_code_bare(c->outputs[output].level));
}

/* A display's own texts in those of another. */
static void put_display(coder *c, uint16_t number)
{
    const code_output *o = &c->outputs[number];
    const fg_output *rule = &c->gate->outputs[number];
    fg_code_line(c, 1, "if (!%s) {", o->level);
    fg_code_line(c, 2, "\3put_text(w, FLASH_TEXT(\"blank\"));");
    fg_code_line(c, 2, "return;");
    fg_code_line(c, 1, "}");
    fg_code_line(c, 1, "\3put_text(w, FLASH_TEXT(\"show\"));");
    fg_code_line(c, 1, "for (uint8_t line = 0; line < %u; line++) {", rule->lines);
    fg_code_line(c, 2, "char text[%u];", fg_code_line_bytes(c, rule) + 1);
    fg_code_line(c, 2, "\3fg_writer inner = {text, %u, %u, false};", fg_code_line_bytes(c, rule), rule->columns);
    fg_code_line(c, 2, "if (!%s(s, line, &inner)) break;", fg_code_put_line(c, number));
    fg_code_line(c, 2, "\3put_text(w, line ? FLASH_TEXT(\", \\\"\") : FLASH_TEXT(\" \\\"\"));");
    fg_code_line(c, 2, "for (const char *at = text; at < inner.at; at++) {");
    fg_code_line(c, 3, "if (*at == '\"') \3put(w, '\"');");
    fg_code_line(c, 3, "\3put(w, *at);");
    fg_code_line(c, 2, "}");
    fg_code_line(c, 2, "\3put(w, '\"');");
    fg_code_line(c, 1, "}");
}

static void put_level(coder *c, uint16_t number)
{
    const fg_output *rule = &c->gate->outputs[number];
    const code_output *o = &c->outputs[number];
    fg_code_line(c, 0, "static void %s(const %s_state *s, \3fg_writer *w)", fg_code_put_level(c, number), c->name);
    fg_code_line(c, 0, "{");
    if (rule->kind == FG_OUTPUT_LAMP)
        put_lamp(c, o);
    else if (rule->kind == FG_OUTPUT_BAR)
        put_bar(c, number);
    else if (rule->kind == FG_OUTPUT_DISPLAY)
        put_display(c, number);
    else
        put_plain(c, o, (fg_output_kind)rule->kind);
    fg_code_line(c, 0, "}\n");
}

/* ---- lines ---- */

static void put_piece(coder *c, int indent, const fg_piece *piece)
{
    switch ((fg_piece_kind)piece->kind) {
    case FG_PIECE_TEXT: put_text(c, indent, piece->text.at, piece->text.size); return;
    case FG_PIECE_SENSOR: put_sensor(c, indent, piece); return;
    case FG_PIECE_ANSWER: fg_code_line(c, indent, "\3put_answer(w, %s);", c->slots[piece->index]); return;
    case FG_PIECE_BANDS: put_bands(c, indent, piece); return;
    case FG_PIECE_COUNT: fg_code_line(c, indent, "\3put_value(w, %s, 0);", c->counts[piece->index]); return;
    case FG_PIECE_OUTPUT: fg_code_line(c, indent, "%s(s, w);", fg_code_put_level(c, piece->index)); return;
    }
}

typedef struct order {
    bool written[CODE_OUTPUTS_MOST], named[CODE_OUTPUTS_MOST];
} order;

static void write_display(coder *c, uint16_t number, order *done);

/* What a display's texts name has to be written before it. The language allows no cycle here. */
static void write_named(coder *c, uint32_t show, order *done)
{
    const fg_gate *g = c->gate;
    for (uint16_t l = 0; l < g->shows[show].line_count; l++) {
        const fg_show_line *line = &g->show_lines[g->shows[show].first_line + l];
        for (uint16_t i = 0; i < line->piece_count; i++) {
            const fg_piece *piece = &g->pieces[line->first_piece + i];
            if (piece->kind != FG_PIECE_OUTPUT || done->named[piece->index]) continue;
            done->named[piece->index] = true;
            if (g->outputs[piece->index].kind == FG_OUTPUT_DISPLAY) write_display(c, piece->index, done);
            put_level(c, piece->index);
        }
    }
}

static void write_display(coder *c, uint16_t number, order *done)
{
    const fg_gate *g = c->gate;
    code_shows f;
    if (done->written[number]) return;
    done->written[number] = true;
    fg_code_find_shows(c, number, &f);
    for (int32_t i = 0; i < f.count; i++) write_named(c, f.shows[i], done);
    fg_code_line(c, 0, "/* A line of %.*s; false if it has none. */", (int)c->outputs[number].declared->name.size,
                 c->outputs[number].declared->name.at);
    fg_code_line(c, 0, "static bool %s(const %s_state *s, uint8_t line, \3fg_writer *w)", fg_code_put_line(c, number),
                 c->name);
    fg_code_line(c, 0, "{");
    fg_code_line(c, 1, "(void)w;");
    for (int32_t i = 0; i < f.count; i++) {
        const fg_show *show = &g->shows[f.shows[i]];
        for (uint16_t l = 0; l < show->line_count; l++) {
            const fg_show_line *line = &g->show_lines[show->first_line + l];
            fg_code_line(c, 1, "if (%s == %" PRId32 " && line == %u) {", c->outputs[number].level, i + 1, l);
            for (uint16_t k = 0; k < line->piece_count; k++) put_piece(c, 2, &g->pieces[line->first_piece + k]);
            fg_code_line(c, 2, "return true;");
            fg_code_line(c, 1, "}");
        }
    }
    fg_code_line(c, 1, "(void)s, (void)line;");
    fg_code_line(c, 1, "return false;");
    fg_code_line(c, 0, "}\n");
}

bool fg_code_texts(coder *c)
{
    order done = {{false}, {false}};
    bool any = false;
    for (uint16_t i = 0; i < c->gate->size.outputs; i++) {
        if (c->gate->outputs[i].kind != FG_OUTPUT_DISPLAY) continue;
        any = true;
        write_display(c, i, &done);
    }
    for (uint16_t i = 0; c->baker->options->report && i < c->gate->size.outputs; i++)
        if (c->gate->outputs[i].kind != FG_OUTPUT_DISPLAY && !done.named[i]) put_level(c, i);
    if (!any) return false;
    fg_code_line(c, 0, "uint16_t %s_text(const %s_state *s, %s_output_id output, uint8_t line, char *text)", c->name,
                 c->name, c->name);
    fg_code_line(c, 0, "{");
    fg_code_line(c, 1, "\3fg_writer w = {text, 0, 0, false};");
    fg_code_line(c, 1, "switch (output) {");
    for (uint16_t i = 0; i < c->gate->size.outputs; i++) {
        const fg_output *rule = &c->gate->outputs[i];
        if (rule->kind != FG_OUTPUT_DISPLAY) continue;
        fg_code_line(c, 1, "case %s:", c->output_names[i]);
        fg_code_line(c, 2, "w.room = %u;", fg_code_line_bytes(c, rule));
        fg_code_line(c, 2, "w.left = %u;", rule->columns);
        fg_code_line(c, 2, "(void)%s(s, line, &w);", fg_code_put_line(c, i));
        fg_code_line(c, 2, "break;");
    }
    fg_code_line(c, 1, "default: break;");
    fg_code_line(c, 1, "}");
    fg_code_line(c, 1, "*w.at = '\\0';");
    fg_code_line(c, 1, "return (uint16_t)(w.at - text);");
    fg_code_line(c, 0, "}\n");
    return true;
}
