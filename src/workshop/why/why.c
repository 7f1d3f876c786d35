/* SPDX-License-Identifier: MIT */
/* Why a name was what it was: plays a recording up to the moment and keeps time on the way. */
#include "workshop/why/why.h"

#include <stdlib.h>
#include <string.h>

typedef struct player {
    fg_asker asker;
    int64_t moment; /* the step the question is about; INT64_MAX: each change in the window */
    int64_t last;   /* the last step not after the question */
    bool started, full, asked, changed;
    fg_why_moment found; /* of a question without a time */
    int64_t lack;        /* at that moment */
    bool was_wanted;
    uint16_t row;    /* of an output: the one that won */
    bool *no_column; /* of each sensor, then of each flag */
} player;

/* ---- what the run keeps to itself ---- */

static bool shadow_start(fg_shadow *s, const fg_gate *gate)
{
    const size_t slots = (size_t)gate->size.ops + gate->size.watched + 1;
    bool good = true;
#define SHADOW_RULE(NAME, name, table)                                                                                 \
    s->table = calloc((size_t)gate->size.table + 1, sizeof *s->table);                                                 \
    good = good && s->table;                                                                                           \
    for (uint16_t i = 0; s->table && i < gate->size.table; i++) (void)fg_##name##_fault(&s->table[i]);
    FG_SENSOR_RULES(SHADOW_RULE)
#undef SHADOW_RULE
    s->lastings = calloc((size_t)gate->size.lastings + 1, sizeof *s->lastings);
    s->since = malloc(slots * sizeof *s->since);
    if (!good || !s->lastings || !s->since) return false;
    for (size_t i = 0; i < slots; i++) s->since[i] = -1;
    return true;
}

static void shadow_end(fg_shadow *s)
{
#define SHADOW_RULE(NAME, name, table) free(s->table);
    FG_SENSOR_RULES(SHADOW_RULE)
#undef SHADOW_RULE
    free(s->lastings);
    free(s->since);
}

static void shadow_op(fg_asker *a, const fg_run *run, const fg_op *op)
{
    const fg_gate *gate = &a->program->gate;
    fg_shadow *s = &a->shadow;
    fg_value value = 0;
    const bool good = fg_op_is(op->kind, FG_OP_RULE) && fg_sensor_value(run, op->a, &value);
    switch (op->kind) {
#define SHADOW_RULE(NAME, name, table)                                                                                 \
    case FG_OP_##NAME:                                                                                                 \
        (void)(good ? fg_##name##_step(&gate->table[op->rule], &s->table[op->rule], value, a->now)                     \
                    : fg_##name##_fault(&s->table[op->rule]));                                                         \
        return;
        FG_SENSOR_RULES(SHADOW_RULE)
#undef SHADOW_RULE
    case FG_OP_FOR:
        (void)fg_lasting_step(gate->lastings[op->rule], &s->lastings[op->rule], fg_answer(run, op->a), a->now);
        return;
    default: return;
    }
}

static void shadow_step(fg_asker *a, const fg_run *run, const fg_verdict *before)
{
    const fg_gate_sizes *n = &a->program->gate.size;
    for (uint16_t slot = 0; slot < n->ops; slot++) {
        shadow_op(a, run, &a->program->gate.ops[slot]);
        if (before && before[slot] != fg_answer(run, slot)) a->shadow.since[slot] = a->t_ms;
    }
}

/* ---- the steps ---- */

static bool has_column(const fg_text *columns, size_t count, fg_text name)
{
    for (size_t i = 0; i < count; i++) {
        const bool raw = columns[i].size == name.size + 4 && !memcmp(columns[i].at + name.size, ".raw", 4);
        if (fg_text_same((fg_text){columns[i].at, columns[i].size - (raw ? 4u : 0u)}, name)) return true;
    }
    return false;
}

static bool on_columns(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    player *p = context;
    const fg_program *program = p->asker.program;
    const fg_gate_sizes *n = &program->gate.size;
    p->no_column = calloc((size_t)n->sensors + n->flags + 1, sizeof *p->no_column);
    if (!p->no_column) {
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory");
        return false;
    }
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        if (!fg_kind_is(d->kind, FG_KIND_READ)) continue;
        p->no_column[d->index + (d->kind == FG_KIND_FLAG ? n->sensors : 0u)] = !has_column(columns, count, d->name);
    }
    return true;
}

static bool on_change(void *context, const fg_change *change)
{
    player *p = context;
    p->changed = p->changed || change->declared == p->asker.question->name;
    return true;
}

/* Keeps time. False: no memory. */
static bool take_step(player *p, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    fg_asker *a = &p->asker;
    if (!p->started) {
        p->started = true;
        a->shown = calloc((size_t)a->program->gate.size.ops + 1, sizeof *a->shown);
        p->full = !fg_explainer_start(&a->explainer, a->program, run) || !shadow_start(&a->shadow, &a->program->gate) ||
                  !a->shown;
        if (p->full) return false;
        a->explainer.no_column = p->no_column;
    }
    a->t_ms = t_ms;
    a->now = fg_run_now(run);
    a->explainer.run = run;
    a->explainer.before = before;
    shadow_step(a, run, before);
    return true;
}

static void stop_keeping_time(player *p)
{
    if (p->started) {
        fg_explainer_end(&p->asker.explainer);
        shadow_end(&p->asker.shadow);
    }
    free(p->no_column);
    free(p->asker.shown);
    p->asker.shown = NULL;
    p->no_column = NULL;
    p->started = false;
}

/* Without a time: where it turned, or else was nearest to it. */
static bool on_near(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    player *p = context;
    const bool wanted = p->asker.question->wanted.size != 0, first = !p->started;
    if (!take_step(p, run, before, t_ms)) return false;
    const int64_t lack = fg_why_lack(&p->asker);
    const fg_declared *d = p->asker.question->name;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) { /* what a row makes of it by itself is no turn */
        const uint16_t row = fg_output_at(run, d->index)->row;
        p->changed = row != p->row;
        p->row = row;
    }
    const bool begins = before && d->slot != FG_INDEX_NONE && before[d->slot] == FG_UNSURE &&
                        !fg_kind_is(d->kind, FG_KIND_IS_OUTPUT); /* its first answer is no turn */
    const bool turned = wanted ? !lack && !p->was_wanted : p->changed && !first && !begins;
    p->found.steps++;
    p->changed = false;
    p->was_wanted = !lack;
    if (turned && (!wanted || !p->found.times++)) p->found.t_ms = t_ms;
    if (turned && !wanted) p->found.times++;
    if (turned) p->found.kind = FG_WHY_TURNED;
    if (p->found.times || (p->lack >= 0 && lack >= p->lack)) return true;
    p->lack = lack;
    p->found.t_ms = t_ms;
    return true;
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    player *p = context;
    fg_asker *a = &p->asker;
    if (!take_step(p, run, before, t_ms)) return false;
    const fg_question *q = a->question;
    const bool now = p->moment != INT64_MAX ? t_ms == p->moment : p->changed && t_ms >= q->from_ms && t_ms <= q->to_ms;
    p->changed = false;
    if (now) {
        p->asked = true;
        fg_why_tell(a);
    }
    return p->moment != INT64_MAX ? t_ms < p->moment : t_ms <= q->to_ms;
}

/* The first reading looks only for the step. */
static bool on_look(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    player *p = context;
    (void)run;
    (void)before;
    if (t_ms > p->asker.question->to_ms) return false;
    p->last = t_ms;
    return true;
}

/* ---- what is asked ---- */

static bool can_be(const fg_program *program, const fg_declared *d, fg_text wanted)
{
    bool yes;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) {
        const fg_output *output = &program->gate.outputs[d->index];
        for (uint16_t i = 0; i < output->row_count; i++)
            if (fg_why_is_level(&program->gate.rows[output->first_row + i].level, wanted)) return true;
        return false;
    }
    if (!fg_kind_is(d->kind, FG_KIND_LABELS))
        return d->kind != FG_KIND_SENSOR && d->kind != FG_KIND_COUNT && fg_flag_word(wanted, &yes);
    for (uint16_t i = 0; i < d->label_count; i++)
        if (fg_text_same(d->labels[i], wanted)) return true;
    return fg_text_same(wanted, fg_text_of("none"));
}

/* With what it can be, where that is a short list. */
static void say_never(const fg_question *q, fg_mistake *mistake)
{
    const fg_declared *d = q->name;
    char list[200] = "";
    size_t size = 0;
    for (uint16_t i = 0;
         fg_kind_is(d->kind, FG_KIND_LABELS) && i < d->label_count && size + d->labels[i].size + 3 < sizeof list; i++)
        size += (size_t)snprintf(list + size, sizeof list - size, "%s%.*s", i ? ", " : "", (int)d->labels[i].size,
                                 d->labels[i].at);
    const char *what = fg_kind_is(d->kind, FG_KIND_LABELS)                     ? list
                       : fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)                ? "what its rows say"
                       : d->kind == FG_KIND_SENSOR || d->kind == FG_KIND_COUNT ? "asked without --not"
                                                                               : "yes or no";
    (void)fg_mistake_set(mistake, FG_ERROR_ARGUMENT, "", 0, "'%.*s' can never be '%.*s'; it can be %s",
                         (int)d->name.size, d->name.at, (int)q->wanted.size, q->wanted.at, what);
}

static bool can_be_asked(const fg_program *program, const fg_readings *readings, const fg_question *q,
                         fg_mistake *mistake)
{
    const fg_declared *d = q->name;
    const fg_text name = d->name;
    if (d->kind == FG_KIND_NUMBER || d->kind == FG_KIND_SEQUENCE)
        (void)fg_mistake_set(mistake, FG_ERROR_ARGUMENT, "", 0,
                             "'%.*s' is a %s, which has no answer; ask why of a rule", (int)name.size, name.at,
                             fg_kind_word(d->kind));
    else if (q->wanted.size && !can_be(program, d, q->wanted))
        say_never(q, mistake);
    else if (q->nearest && (fg_kind_is(d->kind, FG_KIND_READ) || d->kind == FG_KIND_COUNT))
        (void)fg_mistake_set(mistake, FG_ERROR_ARGUMENT, "", 0, "say when: --at 12.5s, or --between 10s..20s");
    else if (!readings->scene && strcmp(readings->recording, "-") == 0 && (q->nearest || q->from_ms == q->to_ms))
        (void)fg_mistake_set(mistake, FG_ERROR_ARGUMENT, "", 0,
                             "standard input can be read only once, and a moment needs it twice; name a file");
    else
        return true;
    return false;
}

/* The first reading: it finds the step that the second one tells of. */
static fg_status look(player *p, const fg_readings *readings, fg_replay_report *report, fg_mistake *mistake)
{
    const fg_question *q = p->asker.question;
    const fg_replay_observer observer = {
        .context = p, .step = q->nearest ? on_near : on_look, .change = q->nearest ? on_change : NULL};
    const fg_status status = fg_replay(p->asker.program, readings, &observer, report, mistake);
    const bool full = p->full;
    stop_keeping_time(p);
    if (full) return fg_mistake_set(mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory");
    if (status != FG_OK) return status;
    if (!q->nearest && report->length_ms < q->to_ms && report->length_ms)
        return fg_mistake_set(mistake, FG_ERROR_ARGUMENT, "", 0, "the recording ends at %lld.%03d s, before that",
                              (long long)(report->length_ms / 1000), (int)(report->length_ms % 1000));
    p->moment = q->nearest ? p->found.t_ms : p->last;
    return FG_OK;
}

fg_status fg_why(const fg_program *program, const fg_readings *readings, const fg_question *question,
                 const fg_why_observer *observer, fg_replay_report *report, fg_mistake *mistake)
{
    fg_question asked = *question;
    player p = {.asker = {.program = program, .question = &asked, .observer = observer},
                .moment = INT64_MAX,
                .last = -1,
                .lack = -1,
                .found.kind = FG_WHY_NEAREST};
    *mistake = (fg_mistake){0};
    if (!can_be_asked(program, readings, question, mistake)) return FG_ERROR_ARGUMENT;
    if (question->nearest || question->from_ms == question->to_ms) {
        const fg_status status = look(&p, readings, report, mistake);
        if (status != FG_OK) return status;
    }
    if (question->nearest) {
        if (p.found.kind == FG_WHY_TURNED) asked.wanted = (fg_text){0};
        if (observer->moment) observer->moment(observer->context, &p.found);
    }
    const fg_replay_observer replay = {.context = &p,
                                       .columns = readings->scene ? NULL : on_columns,
                                       .step = on_step,
                                       .change = p.moment == INT64_MAX ? on_change : NULL};
    fg_status status = fg_replay(program, readings, &replay, report, mistake);
    if (p.full || p.asker.line.full || p.asker.next.full)
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory");
    stop_keeping_time(&p);
    fg_buffer_free(&p.asker.line);
    fg_buffer_free(&p.asker.next);
    return status;
}
