/* SPDX-License-Identifier: MIT */
/* An output: its rows, and what they play. */
#include "workshop/bake/write/rows.h"

/* A member as it is before the step, and C for whether it is another after it. */
static code_test differs(coder *c, fg_text name, const char *suffix, const char *type, const char *member)
{
    if (!member) return code_never;
    const char *before = fg_code_local(c, name, suffix);
    fg_code_define(c, 1, (code_definition){type, before, "", member, false});
    return fg_code_is_not(c, member, before);
}

/* The same for a level: without light or sound its kind and volume make no difference. */
static code_test level_differs(coder *c, uint16_t number)
{
    const code_output *o = &c->outputs[number];
    const fg_text name = o->declared->name;
    const code_test level = differs(c, name, "_before", fg_code_type(o->low, o->high), o->level);
    const code_test colour = differs(c, name, "_colour_before", "uint32_t", o->colour);
    const code_test volume = differs(c, name, "_volume_before", "uint8_t", o->volume);
    const code_test single = differs(c, name, "_single_before", "bool", o->single);
    const code_test kind = fg_code_both(c, fg_code_atom(o->level), fg_code_either(c, volume, single));
    return fg_code_either(c, level, fg_code_either(c, colour, kind));
}

static void write_rows(coder *c, uint16_t number)
{
    const fg_output *rule = &c->gate->outputs[number];
    const char *follows[CODE_ROWS_MOST] = {NULL};
    code_rows r = {.c = c, .rule = rule, .number = number, .follows = follows};
    bool plays = false;
    for (uint16_t i = 0; i < rule->row_count; i++) {
        const uint8_t form = c->gate->rows[rule->first_row + i].level.form;
        plays = plays || form == FG_FORM_PLAY || form == FG_FORM_SWEEP;
    }
    if (plays)
        fg_code_plays(&r);
    else
        fg_code_rows(&r, 1);
}

void fg_code_output(coder *c, uint16_t number)
{
    code_output *o = &c->outputs[number];
    o->changed = "true";
    if (!c->baker->options->details || c->gate->outputs[number].kind == FG_OUTPUT_DISPLAY) {
        write_rows(c, number);
        return;
    }
    const code_test other = level_differs(c, number);
    write_rows(c, number);
    o->changed = fg_code_member(c, "bool", fg_code_word(c, o->declared->name, "_changed"), 0, "by the last step");
    if (!c->stepped) c->stepped = fg_code_member(c, "bool", fg_code_word(c, fg_text_of("stepped"), ""), 0, NULL);
    const code_test first = fg_code_not(c, fg_code_atom(c->stepped));
    fg_code_line(c, 1, "%s = %s;", o->changed, fg_code_either(c, first, other).text);
}
