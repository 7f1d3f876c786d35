/* SPDX-License-Identifier: MIT */
/* What an output remembers: its level, and where its levels differ in it a colour, a volume, a single light. */
#include "workshop/bake/plan/coder.h"

#include <inttypes.h>

const code_output_texts *fg_code_output_texts(fg_output_kind kind)
{
    static const code_output_texts texts[FG_OUTPUT_KINDS] = {
        [FG_OUTPUT_LAMP] = {"%", "a lamp: 0 to 100 %"},
        [FG_OUTPUT_RELAY] = {"%", "a relay: 0 or 100 %"},
        [FG_OUTPUT_BUZZER] = {"Hz", "a buzzer: Hz, 0 is quiet"},
        [FG_OUTPUT_MOTOR] = {"%, back is negative", "a motor: -100 to 100 %, back is negative"},
        [FG_OUTPUT_SERVO] = {"degrees", "a servo: degrees"},
        [FG_OUTPUT_BAR] = {"lights", "a bar: how many lights"},
        [FG_OUTPUT_DISPLAY] = {"number of its text", "a display: the number of its text, 0 is blank"}};
    return &texts[kind];
}

typedef struct survey {
    const coder *c;
    code_output *o;
    uint16_t number;
    bool colour, volume, fill, light;
} survey;

static void widen(code_output *o, int32_t number)
{
    if (number < o->low) o->low = number;
    if (number > o->high) o->high = number;
}

static void look(void *context, const fg_level *l)
{
    survey *s = context;
    widen(s->o, fg_code_level_number(s->c, s->number, l));
    s->colour = s->colour || l->colour;
    s->volume = s->volume || (l->form == FG_FORM_TONE && l->percent != 100);
    s->fill = s->fill || l->form == FG_FORM_FILL;
    s->light = s->light || l->form == FG_FORM_LIGHT;
}

static void survey_output(coder *c, uint16_t number)
{
    const fg_output *rule = &c->gate->outputs[number];
    code_output *o = &c->outputs[number];
    survey s = {.c = c, .o = o, .number = number};
    o->low = o->high = fg_code_level_number(c, number, &rule->rest);
    for (uint16_t i = 0; i < rule->row_count; i++) {
        const fg_level *l = &c->gate->rows[rule->first_row + i].level;
        if (l->form == FG_FORM_FOLLOW) {
            widen(o, c->gate->follows[l->number].low);
            widen(o, c->gate->follows[l->number].high);
            s.fill = s.fill || !rule->single;
            s.light = s.light || rule->single;
        } else if (l->form == FG_FORM_SWEEP) {
            widen(o, c->gate->sweeps[l->number].a);
            widen(o, c->gate->sweeps[l->number].b);
        } else if (l->form == FG_FORM_PLAY) {
            fg_code_levels_of_sequence(c, l, look, &s);
        } else if (l->form != FG_FORM_HOLD) {
            look(&s, l);
        }
    }
    const fg_text name = o->declared->name;
    o->level = fg_code_member(c, fg_code_type(o->low, o->high), fg_code_word(c, name, ""), 0,
                              fg_code_output_texts((fg_output_kind)rule->kind)->unit);
    if (s.colour) o->colour = fg_code_member(c, "uint32_t", fg_code_word(c, name, "_colour"), 0, NULL);
    if (s.volume) o->volume = fg_code_member(c, "uint8_t", fg_code_word(c, name, "_volume"), 0, "%");
    o->light = s.light;
    if (rule->kind == FG_OUTPUT_BAR && s.fill && s.light)
        o->single = fg_code_member(c, "bool", fg_code_word(c, name, "_single"), 0, "one light instead of all up to it");
}

/* Short loops share one number of ms that all of them run through a whole number of times, as far as it stays short. */
static void plan_loops(coder *c)
{
    c->loop = 1;
    for (uint16_t i = 0; i < c->gate->size.outputs; i++)
        for (uint16_t k = 0; k < c->gate->outputs[i].row_count; k++) {
            const uint32_t total = fg_code_loop(c, &c->gate->rows[c->gate->outputs[i].first_row + k].level);
            const uint32_t loop = total ? c->loop / (uint32_t)fg_code_common(c->loop, total) * total : 0;
            if (loop && loop <= CODE_LOOP_MOST) c->loop = (uint16_t)loop;
        }
}

void fg_code_plan_outputs(coder *c)
{
    plan_loops(c);
    for (uint32_t i = 0; i < c->program->declared_count; i++)
        if (fg_kind_is(c->program->declared[i].kind, FG_KIND_IS_OUTPUT))
            c->outputs[c->program->declared[i].index].declared = &c->program->declared[i];
    for (uint16_t i = 0; i < c->gate->size.outputs; i++) {
        survey_output(c, i);
        const int32_t rest = fg_code_level_number(c, i, &c->gate->outputs[i].rest);
        code_block *const out = c->out;
        c->out = &c->start;
        if (rest) fg_code_line(c, 1, "%s = %s;", c->outputs[i].level, fg_code_number(c, rest));
        c->out = out;
    }
}
