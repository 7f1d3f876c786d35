/* SPDX-License-Identifier: MIT */
/* One row of a promise, or one situation: asked, and what came of it in words and as a recording that the replay has
 * played. */
#include "workshop/promise/ask.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { STEPS = 8000000, COMBINATIONS_MOST = 20000 };

const char *fg_promise_word(fg_promise_verdict verdict)
{
    static const char *const words[] = {
#define FG_PROMISE_WORD(code, word) word,
        FG_PROMISE_VERDICTS(FG_PROMISE_WORD)
#undef FG_PROMISE_WORD
    };
    return words[verdict];
}

void fg_promise_result_free(fg_promise_result *result)
{
    fg_text_free(result->recording);
    fg_text_free(result->because);
    *result = (fg_promise_result){0};
}

/* ---- the recording ---- */

static void add_choice(fg_buffer *out, const fg_asked_input *input, uint32_t choice)
{
    const fg_choice *c = &input->choices[choice];
    char text[FG_VALUE_TEXT_SIZE];
    if (c->kind == FG_CHOICE_FAULT) fg_buffer_add_c(out, "faulty");
    if (c->kind != FG_CHOICE_VALUE) return;
    if (input->declared->kind == FG_KIND_FLAG) {
        fg_buffer_add_c(out, c->value ? "1" : "0");
        return;
    }
    fg_value_short(c->value, input->declared->decimals, text);
    fg_buffer_add_c(out, text);
}

/* Rows where something changes, and the last one. A sensor that goes stale has its readings in all of them. */
static void write_recording(const fg_ask *a, const fg_path *way, fg_buffer *out)
{
    const size_t inputs = a->cone.input_count;
    bool stale = false;
    for (size_t i = 0; i < inputs; i++)
        for (uint32_t k = 0; k < a->cone.inputs[i].count; k++)
            stale = stale || a->cone.inputs[i].choices[k].kind == FG_CHOICE_NOTHING;
    fg_buffer_add_c(out, "t_ms");
    for (size_t i = 0; i < inputs; i++) {
        fg_buffer_add_c(out, ",");
        fg_buffer_add(out, a->cone.inputs[i].declared->name);
    }
    fg_buffer_add_c(out, "\n");
    for (size_t step = 0; step < way->steps; step++) {
        const uint32_t *now = way->choices + step * inputs;
        const bool same = step && !memcmp(now, now - inputs, inputs * sizeof *now);
        if (same && !stale && step + 1 < way->steps) continue;
        fg_buffer_add_number(out, (int64_t)step * a->gate->every);
        for (size_t i = 0; i < inputs; i++) {
            fg_buffer_add_c(out, ",");
            add_choice(out, &a->cone.inputs[i], now[i]);
        }
        fg_buffer_add_c(out, "\n");
    }
}

/* ---- words ---- */

static void say_inputs(const fg_ask *a, fg_buffer *out)
{
    for (size_t i = 0; i < a->cone.input_count; i++) {
        if (i) fg_buffer_add_c(out, i + 1 == a->cone.input_count ? " and " : ", ");
        fg_buffer_add(out, a->cone.inputs[i].declared->name);
    }
    if (!a->cone.input_count) fg_buffer_add_c(out, "no reading");
}

/* `simpler`: of a gate that can do all that this one can. */
static void say_holds(const fg_ask *a, bool simpler, uint64_t states, fg_buffer *out)
{
    if (simpler) fg_buffer_add_c(out, "even of a simpler gate that can do all this one can, ");
    fg_buffer_add_number(out, (int64_t)states);
    fg_buffer_add_c(out, states == 1 ? " situation is all there is with " : " situations are all there are with ");
    say_inputs(a, out);
    fg_buffer_add_c(out, ", faults included, every ");
    fg_buffer_add_time(out, a->gate->every);
}

static void say_undecided(const fg_ask *a, bool searched, uint64_t states, fg_buffer *out)
{
    if (a->row->kind == FG_EXPECT_CAN_END) {
        fg_buffer_add_c(out, "whether it can always end is known only where every situation was looked at, and ");
        if (a->cone.closed || a->cone.open)
            fg_buffer_add_c(out, a->cone.closed ? a->cone.closed : a->cone.open);
        else if (!searched)
            fg_buffer_add_c(out, "too many readings may come at one step");
        else
            fg_buffer_add_c(out, "there are more than could be");
        return;
    }
    if (a->cone.closed) {
        fg_buffer_add_c(out, a->cone.closed);
        fg_buffer_add_c(out, ", so only readings made by chance were tried; ");
    } else if (!searched) {
        fg_buffer_add_c(out, "too many readings may come at one step, so only some made by chance were tried; ");
    } else if (a->cone.open) {
        fg_buffer_add_c(out, a->cone.open);
        fg_buffer_add_c(out, ", so there may be more than readings at and beside the limits; ");
    }
    fg_buffer_add_c(out, a->situation ? "it was not found in " : "nothing broke it in ");
    fg_buffer_add_number(out, (int64_t)a->steps);
    fg_buffer_add_c(out, " steps");
    if (!searched || a->cone.closed) return;
    fg_buffer_add_c(out, " and ");
    fg_buffer_add_number(out, (int64_t)states);
    fg_buffer_add_c(out, " situations");
}

/* ---- one row ---- */

/* What lies outside of the cone is not worked out: it asks, for next to nothing, what no one looks at. */
static bool slice(fg_ask *a)
{
    const size_t slots = (size_t)a->gate->size.ops + a->gate->size.watched;
    a->ops = malloc((slots + 1) * sizeof *a->ops);
    if (!a->ops) return false;
    for (size_t i = 0; i < slots; i++) {
        a->ops[i] = a->cone.ops[i] ? a->gate->ops[i] : (fg_op){.kind = FG_OP_UNSURE};
        a->ops[i].spared = 0;
    }
    a->slice = *a->gate;
    a->slice.ops = a->ops;
    return true;
}

bool fg_ask_begin(fg_ask *a, bool all)
{
    a->size = fg_run_size(a->gate);
    a->memory = malloc(a->size);
    a->fresh = malloc(a->size);
    if (!a->memory || !a->fresh || !fg_cone_find(a, all) || !slice(a)) return false;
    if (fg_run_start(&a->slice, a->memory, a->size, &a->run) != FG_OK) return false;
    memcpy(a->fresh, a->memory, a->size);
    return true;
}

void fg_ask_end(fg_ask *a)
{
    fg_cone_end(&a->cone);
    free(a->memory);
    free(a->fresh);
    free(a->ops);
}

/* A promise that the replay knows as broken by these readings, at the same step. */
typedef struct confirming {
    const fg_ask *a;
    int64_t t_ms;
    fg_buffer because;
} confirming;

static bool on_broken(void *context, const fg_broken *broken)
{
    confirming *c = context;
    if (broken->row != c->a->row) return true;
    c->t_ms = broken->t_ms;
    fg_buffer_add(&c->because, broken->because);
    return true;
}

/* The situation that was looked for; once is enough. */
static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    confirming *c = context;
    (void)before;
    if (!fg_situation_happens(c->a->program, c->a->situation, run)) return true;
    c->t_ms = t_ms;
    return false;
}

/* It is so at the end of the recording, from where it cannot end. */
static bool on_last(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    confirming *c = context;
    (void)before;
    c->t_ms = fg_answer(run, c->a->row->slot) != FG_NO ? t_ms : -1;
    return true;
}

static void say_never_ends(const fg_ask *a, fg_buffer *out)
{
    fg_buffer_add_c(out, a->never_ends ? "from there on no readings ever end it"
                                       : "from there on no readings end it within ");
    if (!a->never_ends) fg_buffer_add_time(out, a->row->from);
}

/* Plays the recording as anybody would. */
static bool confirmed(const fg_ask *a, fg_text recording, confirming *c)
{
    fg_replay_report report;
    fg_mistake mistake;
    const fg_readings readings = {.recording = "readings.csv", .options.text = recording};
    const bool ends = a->row->kind == FG_EXPECT_CAN_END;
    const fg_replay_observer observer = {.context = c,
                                         .broken = a->situation || ends ? NULL : on_broken,
                                         .step = a->situation ? on_step
                                                 : ends       ? on_last
                                                              : NULL};
    c->t_ms = -1;
    return fg_replay(a->program, &readings, &observer, &report, &mistake) == FG_OK && c->t_ms >= 0;
}

/* A break that the replay does not have is none. */
static void tell_break(fg_ask *a, fg_path *way, bool shortest, fg_promise_result *result, fg_buffer *because)
{
    fg_buffer recording = {0};
    confirming c = {.a = a};
    if (a->row->kind == FG_EXPECT_CAN_END)
        say_never_ends(a, &c.because);
    else
        fg_path_tidy(a, way);
    write_recording(a, way, &recording);
    result->recording = fg_buffer_text(&recording);
    a->full = a->full || recording.full;
    if (!a->full && confirmed(a, result->recording, &c)) {
        result->verdict = FG_PROMISE_BREAKS;
        result->after_ms = c.t_ms;
        result->shortest = shortest;
        fg_buffer_add(because, fg_buffer_text(&c.because));
    } else {
        result->verdict = FG_PROMISE_UNDECIDED;
        fg_buffer_add_c(because, "a break was found that the replay does not confirm");
    }
    a->full = a->full || c.because.full;
    fg_buffer_free(&c.because);
}

/* The same row of a gate that can do more; what holds of it holds of this one. */
static bool holds_of_more(fg_ask *a, fg_freedom freedom, uint64_t *states)
{
    fg_ask more = *a;
    fg_path path = {0};
    bool holds = false;
    more.cone = (fg_cone){0};
    more.memory = more.fresh = NULL;
    more.ops = NULL;
    fg_abstract *abstract = fg_abstract_start(a, freedom);
    if (abstract) more.gate = fg_abstract_gate(abstract);
    if (abstract) more.free = fg_abstract_free(abstract, &more.free_count);
    if (abstract && fg_ask_begin(&more, false)) {
        const bool can = !more.cone.closed && !more.cone.open && more.cone.combinations <= COMBINATIONS_MOST &&
                         !(a->still && more.free_count);
        more.most = a->steps + a->most / (freedom <= FG_FREE_MEMORIES_FAR ? 8 : 4);
        holds = can && fg_search(&more, &path, states) == FG_PROMISE_HOLDS;
    } else {
        more.full = true;
    }
    a->steps = more.steps;
    a->full = a->full || more.full;
    free(path.choices);
    fg_ask_end(&more);
    fg_abstract_end(abstract);
    return holds && !a->full;
}

/* How a verdict came about. */
typedef struct outcome {
    fg_path path;  /* of one that breaks */
    bool shortest; /* no shorter one breaks it */
    bool simpler;  /* it holds of a gate that can do more */
    bool searched; /* all states were looked at, or as many as could be */
} outcome;

/* Gives the path back. */
static void tell(fg_ask *a, outcome o, fg_promise_result *result, fg_buffer *because)
{
    if (result->verdict == FG_PROMISE_BREAKS && !a->full)
        tell_break(a, &o.path, o.shortest, result, because);
    else if (result->verdict == FG_PROMISE_HOLDS)
        say_holds(a, o.simpler, result->states, because);
    else
        say_undecided(a, o.searched, result->states, because);
    free(o.path.choices);
}

/* A share of the steps is left for what comes now. */
static void allow(fg_ask *a, uint64_t whole, unsigned part) { a->most = a->steps + whole / part + 1; }

static bool is_open(const fg_ask *a, const fg_promise_result *result)
{
    return result->verdict == FG_PROMISE_UNDECIDED && !a->full;
}

/* Those of a gate that can do more, to prove. */
static bool prove(fg_ask *a, uint64_t whole, fg_freedom from, fg_freedom to, fg_promise_result *result)
{
    for (int freedom = (int)from; freedom <= (int)to && is_open(a, result); freedom++) {
        a->most = whole;
        if (holds_of_more(a, (fg_freedom)freedom, &result->states)) result->verdict = FG_PROMISE_HOLDS;
    }
    return result->verdict == FG_PROMISE_HOLDS;
}

/* What breaks by chance breaks by fewer readings where all states can be looked at. True: they are the fewest. */
static bool search_shorter(fg_ask *a, uint64_t whole, fg_path *way, fg_promise_result *result)
{
    fg_path path = {0};
    allow(a, whole, 4);
    if (fg_search(a, &path, &result->states) != FG_PROMISE_BREAKS || a->full) {
        free(path.choices);
        return false;
    }
    free(way->choices);
    *way = path;
    return !a->cone.open;
}

/* First all states, where they are few; then those of a gate that can do more, to prove; a few readings by chance, to
 * break; then all of this with more patience. Each has its share of the steps. */
static void ask_row(fg_ask *a, bool searched, fg_promise_result *result, fg_buffer *because)
{
    const uint64_t whole = a->most;
    fg_path path = {0};
    bool shortest = false, simpler = false;
    allow(a, whole, 50);
    if (searched && !a->cone.open) result->verdict = fg_search(a, &path, &result->states);
    if (result->verdict == FG_PROMISE_BREAKS) shortest = true;
    if (is_open(a, result)) simpler = prove(a, whole, FG_FREE_MEMORIES, FG_FREE_MEMORIES_FAR, result);
    if (is_open(a, result)) {
        allow(a, whole, 10);
        result->verdict = fg_search_by_chance(a, &path);
        if (result->verdict == FG_PROMISE_BREAKS && searched) shortest = search_shorter(a, whole, &path, result);
    }
    if (is_open(a, result)) simpler = prove(a, whole, FG_FREE_OF_WHILE, FG_FREE_NOTHING, result);
    if (is_open(a, result) && searched) {
        allow(a, whole, 4);
        result->verdict = fg_search(a, &path, &result->states);
        shortest = result->verdict == FG_PROMISE_BREAKS && !a->cone.open;
    }
    const bool at_limit =
        a->situation && (a->situation->kind == FG_SITUATION_LIMIT || a->situation->kind == FG_SITUATION_MARGIN);
    if (is_open(a, result) && at_limit) {
        allow(a, whole, 4);
        result->verdict = fg_climb(a, &path);
    }
    if (is_open(a, result)) {
        allow(a, whole, 4);
        result->verdict = fg_search_by_chance(a, &path);
    }
    tell(a, (outcome){path, shortest, simpler, searched}, result, because);
}

/* A smoothed sensor whose readings stay the same has that value after so many steps as its window holds, whatever it
 * was before. False: there are sensors of which that is not so. */
static bool can_keep_still(fg_ask *a)
{
    const fg_gate *g = a->gate;
    a->slack = 0;
    for (uint32_t i = 0; i < a->promise->row_count; i++)
        if (a->promise->rows[i].kind == FG_EXPECT_ASSUME) return false; /* which might not hold meanwhile */
    for (uint16_t i = 0; i < g->size.sensors; i++) {
        const fg_sensor *s = &g->sensors[i];
        if (!a->cone.sensors[i]) continue;
        if (s->term_count || s->stages & (FG_STAGE_ZERO | FG_STAGE_STUCK) || (s->window && s->circle)) return false;
        if (s->window > a->slack) a->slack = s->window;
    }
    return true;
}

/* Whether something can always end is known from all states only. Of a gate that can do more, with smoothed sensors
 * that are any value, it is enough if it ends while each of them keeps one value. */
static void ask_ends(fg_ask *a, bool searched, fg_promise_result *result, fg_buffer *because)
{
    fg_path path = {0};
    bool simpler = false;
    const uint64_t whole = a->most;
    if (searched && !a->cone.open) result->verdict = fg_search(a, &path, &result->states);
    if (is_open(a, result) && a->cone.open && can_keep_still(a)) {
        a->still = true;
        simpler = prove(a, whole, FG_FREE_NOTHING, FG_FREE_NOTHING, result);
    }
    tell(a, (outcome){path, true, simpler, searched}, result, because);
}

static void ask(fg_ask *a, fg_promise_result *result, fg_buffer *because)
{
    const bool searched = !a->cone.closed && a->cone.combinations <= COMBINATIONS_MOST;
    result->verdict = FG_PROMISE_UNDECIDED;
    if (a->row->kind == FG_EXPECT_CAN_END)
        ask_ends(a, searched, result, because);
    else
        ask_row(a, searched, result, because);
    result->steps = a->steps;
}

static fg_status ask_whole(fg_ask *a, const fg_gate_file *file, fg_promise_result *result, fg_mistake *mistake)
{
    fg_buffer because = {0};
    if (fg_ask_begin(a, false))
        ask(a, result, &because);
    else
        a->full = true;
    result->because = fg_buffer_text(&because);
    a->full = a->full || because.full;
    fg_ask_end(a);
    return a->full ? fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory") : FG_OK;
}

fg_status fg_promise_ask(const fg_gate_file *file, uint32_t promise, uint32_t row, const fg_promise_options *options,
                         fg_promise_result *result, fg_mistake *mistake)
{
    const fg_program *p = &file->program;
    *result = (fg_promise_result){0};
    *mistake = (fg_mistake){0};
    if (promise >= p->promise_count || row >= p->promises[promise].row_count || !p->promises_watched)
        return FG_ERROR_ARGUMENT;
    fg_ask a = {.program = p,
                .gate = &p->gate,
                .promise = &p->promises[promise],
                .row = &p->promises[promise].rows[row],
                .most = options->steps ? options->steps : STEPS,
                .progress = options->progress};
    if (a.row->kind == FG_EXPECT_ASSUME) return FG_ERROR_ARGUMENT;
    return ask_whole(&a, file, result, mistake);
}

/* The slot it is seen by. */
static uint16_t slot_of(const fg_gate *g, const fg_situation *s)
{
    const fg_op_kind kind = s->kind == FG_SITUATION_ROW ? FG_OP_OUTPUT : FG_OP_SENSOR;
    if (s->kind == FG_SITUATION_ANSWER) return s->number;
    for (uint16_t slot = 0; slot < g->size.ops; slot++)
        if (g->ops[slot].kind == kind && g->ops[slot].rule == s->number) return slot;
    return FG_INDEX_NONE;
}

fg_status fg_promise_reach(const fg_gate_file *file, const fg_situation *situation, const fg_promise_options *options,
                           fg_promise_result *result, fg_mistake *mistake)
{
    const fg_program *p = &file->program;
    const fg_expect never = {
        .kind = FG_EXPECT_NEVER, .slot = slot_of(&p->gate, situation), .while_slot = FG_INDEX_NONE};
    const fg_promise promise = {.rows = &never, .row_count = 1};
    *result = (fg_promise_result){0};
    *mistake = (fg_mistake){0};
    if (never.slot >= p->gate.size.ops + p->gate.size.watched || !p->gate.every) return FG_ERROR_ARGUMENT;
    fg_ask a = {.program = p,
                .gate = &p->gate,
                .promise = &promise,
                .row = &never,
                .situation = situation,
                .most = options->steps ? options->steps : STEPS,
                .progress = options->progress};
    return ask_whole(&a, file, result, mistake);
}
