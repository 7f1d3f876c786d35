/* SPDX-License-Identifier: MIT */
/* What a level is in C: a number; of a display, the number of its text. */
#include "workshop/bake/plan/coder.h"

void fg_code_levels_of_sequence(const coder *c, const fg_level *play, void (*see)(void *context, const fg_level *level),
                                void *context)
{
    if (play->form != FG_FORM_PLAY) return;
    const fg_sequence *s = &c->gate->sequences[play->number];
    for (uint16_t i = 0; i < s->segment_count; i++) see(context, &c->gate->segments[s->first_segment + i].level);
}

static void add_show(void *context, const fg_level *l)
{
    code_shows *f = context;
    if (l->form != FG_FORM_SHOW) return;
    for (int32_t i = 0; i < f->count; i++)
        if (f->shows[i] == (uint32_t)l->number) return;
    if (f->count < CODE_TEXTS_MOST) f->shows[f->count++] = (uint32_t)l->number;
}

void fg_code_find_shows(const coder *c, uint16_t output, code_shows *f)
{
    const fg_output *rule = &c->gate->outputs[output];
    f->count = 0;
    for (uint16_t i = 0; i < rule->row_count; i++) {
        const fg_level *l = &c->gate->rows[rule->first_row + i].level;
        add_show(f, l);
        fg_code_levels_of_sequence(c, l, add_show, f);
    }
}

uint32_t fg_code_text_count(const fg_gate *gate, uint16_t output)
{
    const fg_output *rule = &gate->outputs[output];
    uint32_t count = 0;
    for (uint16_t i = 0; i < rule->row_count && rule->kind == FG_OUTPUT_DISPLAY; i++) {
        const fg_level *l = &gate->rows[rule->first_row + i].level;
        count += l->form == FG_FORM_PLAY ? gate->sequences[l->number].segment_count : 1u;
    }
    return count;
}

/* The number of a text on a display, from 1. */
static int32_t text_number(const coder *c, uint16_t output, uint32_t show)
{
    code_shows f;
    fg_code_find_shows(c, output, &f);
    for (int32_t i = 0; i < f.count; i++)
        if (f.shows[i] == show) return i + 1;
    return 0;
}

/* Has any text of the gate a character of more than one byte? */
static bool has_wide_characters(const coder *c)
{
    for (uint32_t i = 0; i < c->program->source_count; i++)
        for (size_t k = 0; k < c->program->sources[i].text.size; k++)
            if ((unsigned char)c->program->sources[i].text.at[k] > 127) return true;
    return false;
}

unsigned fg_code_line_bytes(const coder *c, const fg_output *o)
{
    return o->columns * (has_wide_characters(c) ? 4u : 1u);
}

unsigned fg_code_text_size(const coder *c)
{
    unsigned most = 0;
    for (uint16_t i = 0; i < c->gate->size.outputs; i++)
        if (c->gate->outputs[i].kind == FG_OUTPUT_DISPLAY && fg_code_line_bytes(c, &c->gate->outputs[i]) >= most)
            most = fg_code_line_bytes(c, &c->gate->outputs[i]) + 1;
    return most;
}

int32_t fg_code_level_number(const coder *c, uint16_t output, const fg_level *l)
{
    switch ((fg_form)l->form) {
    case FG_FORM_ON:
    case FG_FORM_FORWARD: return l->percent;
    case FG_FORM_BACK: return -(int32_t)l->percent;
    case FG_FORM_TONE:
    case FG_FORM_TURN:
    case FG_FORM_FILL:
    case FG_FORM_LIGHT: return l->number;
    case FG_FORM_SHOW: return text_number(c, output, (uint32_t)l->number);
    default: return 0;
    }
}

int64_t fg_code_common(int64_t a, int64_t b)
{
    while (b) {
        const int64_t rest = a % b;
        a = b;
        b = rest;
    }
    return a < 0 ? -a : a;
}

uint32_t fg_code_loop(const coder *c, const fg_level *level)
{
    if (level->form == FG_FORM_SWEEP) return 2 * c->gate->sweeps[level->number].time;
    if (level->form != FG_FORM_PLAY || c->gate->sequences[level->number].runs) return 0;
    const fg_sequence *s = &c->gate->sequences[level->number];
    uint64_t total = 0;
    for (uint16_t i = 0; i < s->segment_count; i++) {
        if (c->gate->segments[s->first_segment + i].tempo != FG_INDEX_NONE) return 0;
        total += c->gate->segments[s->first_segment + i].time;
    }
    return total <= CODE_LOOP_MOST ? (uint32_t)total : 0;
}
