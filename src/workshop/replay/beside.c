/* SPDX-License-Identifier: MIT */
#include "workshop/replay/beside.h"

#include "workshop/base/ops.h"
#include "workshop/replay/report.h"

#include <stdlib.h>
#include <string.h>

/* ---- which programs fit ---- */

static bool is_same_text(fg_buffer *a, fg_buffer *b)
{
    const bool same = !a->full && !b->full && fg_text_same(fg_buffer_text(a), fg_buffer_text(b));
    fg_buffer_free(a);
    fg_buffer_free(b);
    return same;
}

/* Is an op of two gates made of the same? Without memory it is not. */
static bool is_same_op(const fg_gate *a, const fg_gate *b, uint16_t slot)
{
    fg_buffer of_a = {0}, of_b = {0};
    fg_op_made_of(a, &a->ops[slot], &of_a);
    fg_op_made_of(b, &b->ops[slot], &of_b);
    return is_same_text(&of_a, &of_b);
}

static void note_look(void *context, uint16_t slot)
{
    fg_buffer_add(context, (fg_text){(const char *)&slot, sizeof slot});
}

static bool looks_at_same(const fg_op_places *a, const fg_op_places *b, uint16_t slot)
{
    fg_buffer of_a = {0}, of_b = {0};
    fg_op_looks_at(a, slot, note_look, &of_a);
    fg_op_looks_at(b, slot, note_look, &of_b);
    return is_same_text(&of_a, &of_b);
}

/* Ops of the same kind with the same places in memory; sensors and flags that are the same in all. */
static bool ops_fit(const fg_gate *a, const fg_gate *b)
{
    for (uint16_t slot = 0; slot < a->size.ops; slot++) {
        const fg_op *one = &a->ops[slot], *other = &b->ops[slot];
        if (one->kind != other->kind || one->rule != other->rule || one->a != other->a || one->b != other->b)
            return false;
        if ((one->kind == FG_OP_SENSOR || one->kind == FG_OP_FLAG) && !is_same_op(a, b, slot)) return false;
    }
    return true;
}

/* Under the same names: columns of a recording belong to them. */
static bool names_fit(const fg_program *a, const fg_program *b)
{
    if (a->declared_count != b->declared_count) return false;
    for (uint32_t i = 0; i < a->declared_count; i++) {
        const fg_declared *one = &a->declared[i], *other = &b->declared[i];
        if (one->kind != other->kind || one->index != other->index || one->slot != other->slot ||
            one->label_count != other->label_count || !fg_text_same(one->name, other->name) ||
            !fg_text_same(one->unit, other->unit))
            return false;
        for (uint16_t k = 0; k < one->label_count; k++)
            if (!fg_text_same(one->labels[k], other->labels[k])) return false;
    }
    return true;
}

bool fg_beside_fits(const fg_program *first, const fg_program *program)
{
    const fg_gate *a = &first->gate, *b = &program->gate;
    fg_op_places of_a, of_b;
    if (a->every != b->every || memcmp(&a->size, &b->size, sizeof a->size) != 0) return false;
    if (!names_fit(first, program) || !ops_fit(a, b)) return false;
    bool same = fg_op_places_start(&of_a, a);
    same = fg_op_places_start(&of_b, b) && same;
    for (uint16_t slot = 0; same && slot < a->size.ops; slot++) same = looks_at_same(&of_a, &of_b, slot);
    fg_op_places_end(&of_a);
    fg_op_places_end(&of_b);
    return same;
}

/* ---- what stands apart ---- */

typedef struct finding {
    fg_beside *beside;
    const fg_op_places *places;
    bool found;
} finding;

static void ask_whether_apart(void *context, uint16_t slot)
{
    finding *f = context;
    f->found = f->found || f->beside->apart[slot];
}

/* What a count stands at and where an output is are no answers that could be taken over. */
static void take_states(void *context, uint16_t slot)
{
    finding *f = context;
    const uint8_t kind = f->places->gate->ops[slot].kind;
    if (f->beside->apart[slot] || (kind != FG_OP_COUNT && kind != FG_OP_OUTPUT)) return;
    f->beside->apart[slot] = f->found = true;
}

/* An op looks at those in front of it, but what `previously` looks at may stand behind: so until nothing is new. */
static void spread(fg_beside *b, const fg_op_places *places)
{
    for (bool more = true; more;) {
        more = false;
        for (uint16_t slot = 0; slot < places->gate->size.ops; slot++) {
            finding f = {.beside = b, .places = places};
            if (b->apart[slot])
                fg_op_looks_at(places, slot, take_states, &f);
            else
                fg_op_looks_at(places, slot, ask_whether_apart, &f);
            if (f.found) b->apart[slot] = more = true;
        }
    }
}

static void keep_asked(void *context, uint16_t slot)
{
    finding *f = context;
    fg_beside *b = f->beside;
    if (b->apart[slot]) return;
    for (uint16_t i = 0; i < b->asked_count; i++)
        if (b->asked[i] == slot) return;
    b->asked[b->asked_count++] = slot;
    if (f->places->gate->ops[slot].kind == FG_OP_SENSOR)
        b->wanting.sensors[b->wanting.sensor_count++] = f->places->gate->ops[slot].rule;
}

static bool find_apart(fg_beside *b, const fg_program *first)
{
    const fg_gate *gate = &first->gate;
    fg_op_places places;
    finding f = {.beside = b, .places = &places};
    for (size_t i = 0; i < b->count; i++)
        for (uint16_t slot = 0; slot < gate->size.ops; slot++)
            b->apart[slot] = b->apart[slot] || !is_same_op(gate, &b->gates[i].program->gate, slot);
    const bool good = fg_op_places_start(&places, gate);
    if (good) spread(b, &places);
    for (uint16_t slot = 0; good && slot < gate->size.ops; slot++) {
        if (!b->apart[slot]) continue;
        b->ops[b->op_count++] = slot;
        fg_wanting_add(&b->wanting, gate, slot);
        fg_op_looks_at(&places, slot, keep_asked, &f);
    }
    for (uint32_t i = 0; good && i < first->declared_count; i++) {
        const fg_declared *d = &first->declared[i];
        uint16_t slot = d->slot;
        if (d->kind == FG_KIND_COUNT) slot = places.counters[d->index];
        if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) slot = places.outputs[d->index];
        b->names_apart[i] = slot != FG_INDEX_NONE && b->apart[slot];
        if (d->kind == FG_KIND_PULSE) b->pulses_apart[d->index] = b->names_apart[i];
    }
    fg_op_places_end(&places);
    return good;
}

/* ---- steps ---- */

static bool has_heard_anew(fg_beside *b, const fg_run *first)
{
    bool anew = false;
    for (uint16_t i = 0; i < b->asked_count; i++) {
        const fg_verdict answer = fg_answer(first, b->asked[i]);
        anew = anew || b->heard[i] != answer;
        b->heard[i] = answer;
    }
    return anew;
}

/* May a step change nothing in it? */
static bool is_met(const fg_beside *b, const fg_beside_gate *g, const fg_run *first)
{
    if (!g->rests || first->now - g->run->now >= g->wants.until) return false;
    for (uint16_t i = 0; i < b->wanting.sensor_count; i++) {
        const fg_range *wanted = &g->wants.of[b->wanting.sensors[i]];
        const fg_value value = first->sensors[b->wanting.sensors[i]].value;
        if (value < wanted->low || value > wanted->high) return false;
    }
    return true;
}

void fg_beside_step(fg_beside *b, const fg_run *first)
{
    const bool anew = has_heard_anew(b, first);
    for (size_t i = 0; i < b->count; i++) {
        fg_beside_gate *g = &b->gates[i];
        g->stepped = anew || !is_met(b, g, first);
        if (!g->stepped) continue;
        fg_changes_keep(&g->changes);
        fg_step_beside(g->run, first, b->ops, b->op_count);
        g->rests = g->run->outputs_steady && fg_wants_find(&g->wants);
    }
}

bool fg_beside_wants(const fg_beside *b, fg_wants *wants)
{
    for (size_t i = 0; i < b->count; i++) {
        const fg_beside_gate *g = &b->gates[i];
        const fg_time passed = wants->run->now - g->run->now;
        if (!g->rests || passed >= g->wants.until) return false;
        if (g->wants.until - passed < wants->until) wants->until = g->wants.until - passed;
        for (uint16_t k = 0; k < b->wanting.sensor_count; k++) {
            const fg_range *range = &g->wants.of[b->wanting.sensors[k]];
            (void)fg_range_narrow(&wants->of[b->wanting.sensors[k]], range->low, range->high);
        }
    }
    return true;
}

/* ---- what is told ---- */

bool fg_beside_any(const fg_beside *b)
{
    for (size_t i = 0; i < b->count; i++)
        if (b->gates[i].stepped && fg_changes_any(&b->gates[i].changes)) return true;
    return false;
}

static bool tell(fg_beside_gate *g, const fg_change *change, bool told)
{
    g->report->changes += told;
    return !told || !g->observer->change || g->observer->change(g->observer->context, change);
}

bool fg_beside_tell(fg_beside *b, uint32_t name, const fg_change *change, int64_t t_ms, bool told)
{
    bool go_on = true;
    for (size_t i = 0; i < b->count; i++) {
        fg_beside_gate *g = &b->gates[i];
        const fg_declared *d = &g->program->declared[name];
        if (!b->names_apart[name]) {
            fg_change shared = change ? *change : (fg_change){0};
            shared.declared = d;
            go_on = (!change || tell(g, &shared, told)) && go_on;
            continue;
        }
        fg_change own = {.t_ms = t_ms};
        if (!g->stepped || !fg_changes_of(&g->changes, d, &own)) continue;
        go_on = !g->changes.text.full && tell(g, &own, told) && go_on;
        fg_changes_told(&g->changes, d);
    }
    return go_on;
}

void fg_beside_all_told(fg_beside *b)
{
    for (size_t i = 0; i < b->count; i++) {
        if (b->gates[i].stepped) fg_changes_all_told(&b->gates[i].changes);
        b->gates[i].changes.began = true;
    }
}

void fg_beside_refused(fg_beside *b, uint16_t pulse, bool refused, bool spent, bool told, int64_t t_ms)
{
    for (size_t i = 0; i < b->count; i++) {
        fg_beside_gate *g = &b->gates[i];
        bool own = refused, own_spent = spent;
        if (b->pulses_apart[pulse]) own = g->stepped && fg_changes_refused(&g->changes, pulse, &own_spent) && told;
        if (own) fg_report_refused(g->report, g->program, pulse, own_spent, t_ms);
    }
}

/* ---- begin and end ---- */

static bool start_gate(fg_beside_gate *g, const fg_wanting *wanting)
{
    const fg_gate *gate = &g->program->gate;
    const size_t size = fg_run_size(gate);
    g->memory = malloc(size);
    g->wants.of = calloc((size_t)gate->size.sensors + 1, sizeof *g->wants.of);
    if (!g->memory || !g->wants.of || fg_run_start(gate, g->memory, size, &g->run) != FG_OK) return false;
    g->wants.run = g->run;
    g->wants.from = wanting;
    g->changes = (fg_changes){.program = g->program, .run = g->run};
    return fg_changes_start(&g->changes);
}

bool fg_beside_start(fg_beside *b, const fg_program *first)
{
    const fg_gate_sizes *n = &first->gate.size;
    b->apart = calloc((size_t)n->ops + n->pulses + 1, sizeof *b->apart);
    b->names_apart = calloc((size_t)first->declared_count + 1, sizeof *b->names_apart);
    b->ops = calloc((size_t)n->ops + 1, sizeof *b->ops);
    b->asked = calloc((size_t)n->ops + 1, sizeof *b->asked);
    b->heard = calloc((size_t)n->ops + 1, sizeof *b->heard);
    bool good = fg_wanting_start(&b->wanting, &first->gate);
    good = good && b->apart && b->names_apart && b->ops && b->asked && b->heard;
    b->pulses_apart = good ? b->apart + n->ops : NULL;
    for (size_t i = 0; i < b->count; i++) good = start_gate(&b->gates[i], &b->wanting) && good;
    return good && find_apart(b, first);
}

bool fg_beside_is_cut_short(const fg_beside *b)
{
    for (size_t i = 0; i < b->count; i++)
        if (fg_changes_are_cut_short(&b->gates[i].changes)) return true;
    return false;
}

/* What was read, and how many steps there were, is the same for all. */
static void finish_report(fg_replay_report *report, const fg_replay_report *first)
{
    const fg_replay_report own = *report;
    *report = *first;
    report->changes = own.changes;
    report->refused = own.refused;
    report->refused_ms = own.refused_ms;
    memcpy(report->refused_name, own.refused_name, sizeof own.refused_name);
    memcpy(report->refused_why, own.refused_why, sizeof own.refused_why);
}

void fg_beside_end(fg_beside *b, const fg_replay_report *first)
{
    for (size_t i = 0; i < b->count; i++) {
        fg_beside_gate *g = &b->gates[i];
        finish_report(g->report, first);
        if (g->run) fg_changes_end(&g->changes);
        free(g->wants.of);
        free(g->memory);
    }
    free(b->gates);
    free(b->apart);
    free(b->names_apart);
    free(b->ops);
    free(b->asked);
    free(b->heard);
    fg_wanting_end(&b->wanting);
    *b = (fg_beside){0};
}
