/* SPDX-License-Identifier: MIT */
#include "workshop/replay/changes.h"

#include <stdlib.h>
#include <string.h>

fg_text fg_changes_output(fg_changes *c, uint16_t output)
{
    const size_t size = fg_output_text(c->run, output, NULL, 0);
    fg_buffer *b = &c->text;
    b->size = 0;
    fg_buffer_room(b, size);
    if (!b->full) b->size = fg_output_text(c->run, output, b->text, size);
    return fg_buffer_text(b);
}

/* Does an output play the sequence or sweep of the same row as before? */
static bool plays_on(const fg_changes *c, uint16_t output)
{
    const fg_gate *gate = &c->program->gate;
    const uint16_t row = fg_output_at(c->run, output)->row;
    if (!c->began || row == FG_INDEX_NONE || row != c->rows[output]) return false;
    const uint8_t form = gate->rows[gate->outputs[output].first_row + row].level.form;
    return form == FG_FORM_PLAY || form == FG_FORM_SWEEP;
}

static bool output_changed(fg_changes *c, const fg_declared *d, fg_change *change)
{
    if (!fg_output_at(c->run, d->index)->changed) return false;
    change->was = fg_buffer_text(&c->texts[d->index]);
    change->is = fg_changes_output(c, d->index);
    change->plays_on = plays_on(c, d->index);
    return !c->began || !fg_text_same(change->was, change->is);
}

static bool count_changed(fg_changes *c, const fg_declared *d, fg_change *change)
{
    const fg_value before = c->counts[d->index], now = fg_count_value(c->run, d->index);
    if (c->began && before == now) return false;
    change->was = (fg_text){c->was, fg_value_write(before, 0, c->was)};
    change->is = (fg_text){c->is, fg_value_write(now, 0, c->is)};
    return true;
}

static bool answer_changed(const fg_changes *c, const fg_declared *d, fg_change *change)
{
    const fg_verdict before = c->answers[d->slot], now = fg_answer(c->run, d->slot);
    if (c->began && before == now) return false;
    change->was = fg_answer_text(d, before);
    change->is = fg_answer_text(d, now);
    return true;
}

static bool changed(fg_changes *c, const fg_declared *d, fg_change *change)
{
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) return output_changed(c, d, change);
    if (d->kind == FG_KIND_COUNT) return count_changed(c, d, change);
    return d->slot != FG_INDEX_NONE && answer_changed(c, d, change);
}

bool fg_changes_of(fg_changes *c, const fg_declared *declared, fg_change *change)
{
    if (!changed(c, declared, change)) return false;
    change->declared = declared;
    if (!c->began) change->was = (fg_text){0};
    return true;
}

void fg_changes_told(fg_changes *c, const fg_declared *declared)
{
    if (!fg_kind_is(declared->kind, FG_KIND_IS_OUTPUT)) return;
    const fg_buffer old = c->texts[declared->index];
    c->texts[declared->index] = c->text;
    c->text = old;
}

void fg_changes_all_told(fg_changes *c)
{
    for (uint16_t i = 0; i < c->program->gate.size.outputs; i++) c->rows[i] = fg_output_at(c->run, i)->row;
}

bool fg_changes_refused(fg_changes *c, uint16_t pulse, bool *spent)
{
    const fg_pulser *pulser = &c->program->gate.pulses[pulse];
    const fg_pulse_state *state = fg_pulse_at(c->run, pulse);
    const fg_verdict before = c->starts[pulse], now = state->start.previous;
    const bool stopped = pulser->stop != FG_INDEX_NONE && fg_answer(c->run, pulser->stop) != FG_NO;
    c->starts[pulse] = now;
    *spent = state->spent;
    return before == FG_NO && now == FG_YES && !state->running && (state->spent || stopped);
}

/* ---- steps ---- */

void fg_changes_keep(fg_changes *c)
{
    const fg_gate_sizes *n = &c->program->gate.size;
    if (!c->began) return;
    memcpy(c->answers, fg_answers(c->run), (size_t)n->ops + n->watched);
    for (uint16_t i = 0; i < n->counters; i++) c->counts[i] = fg_count_value(c->run, i);
}

static bool counts_changed(const fg_changes *c)
{
    for (uint16_t i = 0; i < c->program->gate.size.counters; i++)
        if (c->counts[i] != fg_count_value(c->run, i)) return true;
    return false;
}

bool fg_changes_any(const fg_changes *c)
{
    return !c->began || c->run->stirred || memcmp(c->answers, fg_answers(c->run), c->program->gate.size.ops) != 0 ||
           counts_changed(c);
}

/* ---- begin and end ---- */

bool fg_changes_start(fg_changes *c)
{
    const fg_gate_sizes *n = &c->program->gate.size;
    c->answers = calloc((size_t)n->ops + n->watched + 1, 1);
    c->counts = calloc((size_t)n->counters + 1, sizeof *c->counts);
    c->texts = calloc((size_t)n->outputs + 1, sizeof *c->texts);
    c->rows = calloc((size_t)n->outputs + 1, sizeof *c->rows);
    c->starts = calloc((size_t)n->pulses + 1, sizeof *c->starts);
    return c->answers && c->counts && c->texts && c->rows && c->starts;
}

void fg_changes_end(fg_changes *c)
{
    for (uint16_t i = 0; c->texts && i < c->program->gate.size.outputs; i++) fg_buffer_free(&c->texts[i]);
    fg_buffer_free(&c->text);
    free(c->answers);
    free(c->counts);
    free(c->texts);
    free(c->rows);
    free(c->starts);
}

bool fg_changes_are_cut_short(const fg_changes *c)
{
    bool cut = c->text.full;
    for (uint16_t i = 0; c->texts && i < c->program->gate.size.outputs; i++) cut = cut || c->texts[i].full;
    return cut;
}
