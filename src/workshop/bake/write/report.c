/* SPDX-License-Identifier: MIT */
/* A line with the newest readings and what every output is at, as `fickle live` and `fickle replay --compare` read it:
 * byte by byte to a function of the caller, without printf. */
#include "workshop/bake/write/write.h"

static void send_name(coder *c, fg_text name, const char *tail)
{
    fg_code_line(c, 1, "\3send_flash(FLASH_TEXT(\" %.*s%s=\"), out, context);", (int)name.size, name.at, tail);
}

static void send_sensor(coder *c, const code_sensor *s)
{
    if (!s->newest) return;
    send_name(c, s->declared->name, s->counts ? ".raw" : "");
    fg_code_line(c, 1, "\3send_value(%s, %u, %s, out, context);", s->newest, s->counts ? 0u : s->rule->decimals,
                 s->old ? fg_code_say(c, "%s && !%s", s->heard, s->old) : s->heard);
}

/* A display's lines are longer than what else there is: they go out one by one. */
static void send_display(coder *c, uint16_t number)
{
    const fg_output *rule = &c->gate->outputs[number];
    const char *level = c->outputs[number].level;
    fg_code_line(c, 1, "\3send_flash(%s ? FLASH_TEXT(\"show\") : FLASH_TEXT(\"blank\"), out, context);", level);
    fg_code_line(c, 1, "for (uint8_t line = 0; %s && line < %u; line++) {", level, rule->lines);
    fg_code_line(c, 2, "char text[%u];", fg_code_line_bytes(c, rule) + 1);
    fg_code_line(c, 2, "\3fg_writer w = {text, %u, %u, false};", fg_code_line_bytes(c, rule), rule->columns);
    fg_code_line(c, 2, "if (!%s(s, line, &w)) break;", fg_code_put_line(c, number));
    fg_code_line(c, 2, "\3send_quoted(text, &w, line, out, context);");
    fg_code_line(c, 1, "}");
}

static void send_output(coder *c, uint16_t number)
{
    send_name(c, c->outputs[number].declared->name, "");
    if (c->gate->outputs[number].kind == FG_OUTPUT_DISPLAY) {
        send_display(c, number);
        return;
    }
    fg_code_line(c, 1, "{");
    fg_code_line(c, 2, "char text[%d];", FG_LEVEL_TEXT_SIZE);
    fg_code_line(c, 2, "\3fg_writer w = {text, sizeof text, sizeof text, false};");
    fg_code_line(c, 2, "%s(s, &w);", fg_code_put_level(c, number));
    fg_code_line(c, 2, "\3send_written(text, &w, out, context);");
    fg_code_line(c, 1, "}");
}

void fg_code_report(coder *c)
{
    fg_code_line(c, 0,
                 "void %s_report(const %s_state *s, uint32_t now, void (*out)(void *context, char c), void *context)",
                 c->name, c->name);
    fg_code_line(c, 0, "{");
    fg_code_line(c, 1, "\3send_time(now, out, context);");
    for (uint16_t i = 0; i < c->gate->size.sensors; i++) send_sensor(c, &c->sensors[i]);
    for (uint16_t i = 0; i < c->gate->size.flags; i++) {
        send_name(c, c->flags[i].declared->name, "");
        fg_code_line(c, 1, "\3send_flag(%s, %s, out, context);", c->flags[i].newest,
                     c->gate->flags[i].inverted ? "true" : "false");
    }
    for (uint16_t i = 0; i < c->gate->size.outputs; i++) send_output(c, i);
    fg_code_line(c, 1, "out(context, '\\n');");
    fg_code_line(c, 0, "}\n");
}
