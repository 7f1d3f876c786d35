/* SPDX-License-Identifier: MIT */
/* Would anybody notice? Each number, time and label of the rules is moved by one step, and the trials are run on what
 * comes out (mutation analysis: DeMillo, Lipton and Sayward, Hints on Test Data Selection, 1978). A trial that noticed
 * is asked first about the next move, since what stands together in the text is mostly tried together. */
#include "workshop/base/buffer.h"

#include <ficklegate/jobs.h>
#include <ficklegate/trials.h>

#include <stdlib.h>
#include <string.h>

typedef enum outcome { OUTCOME_MISFIT, OUTCOME_NOT_NOTICED, OUTCOME_NOTICED } outcome;

/* One move. */
typedef struct move {
    fg_span span;
    char is[FG_VALUE_TEXT_SIZE + 8];
    fg_text label; /* instead of `is` */
    outcome outcome;
    uint32_t trial, line; /* of what noticed it */
} move;

/* What held of a trial before anything was moved. */
typedef struct held {
    bool *expects; /* by their number */
    bool *rows;    /* of all promises, one behind the other: not broken */
} held;

typedef struct nudging {
    const fg_gate_file *file;
    const fg_recording_options *options;
    const fg_nudge_observer *observer;
    move *moves;
    size_t count, room;
    held *held;
    size_t rows; /* of promises */
    bool full;
} nudging;

enum { TOGETHER = 8 }; /* moves that share an order of trials: no more than others can be done at the same time */

/* ---- what is moved ---- */

static void add_move(nudging *n, move m)
{
    if (n->count == n->room) {
        const size_t room = n->room ? 2 * n->room : 64;
        move *moves = realloc(n->moves, room * sizeof *moves);
        n->full = n->full || !moves;
        if (!moves) return;
        n->moves = moves;
        n->room = room;
    }
    n->moves[n->count++] = m;
}

/* Up and down by a step. */
static void add_value(nudging *n, const fg_movable *m, fg_text digits)
{
    fg_value value;
    if (fg_value_read(digits.at, digits.size, m->decimals, &value) != FG_OK) return;
    for (int by = -1; by <= 1; by += 2) {
        const int64_t to = (int64_t)value + by;
        move one = {.span = m->span};
        if (to < INT32_MIN || to > INT32_MAX || (to < 0) != (value < 0)) continue; /* a sign would need brackets */
        fg_value_write((fg_value)to, m->decimals, one.is);
        add_move(n, one);
    }
}

static void add_time(nudging *n, const fg_movable *m)
{
    const int64_t every = n->file->program.gate.every ? n->file->program.gate.every : 1;
    for (int by = -1; by <= 1; by += 2) {
        const int64_t to = (int64_t)m->time + by * every;
        move one = {.span = m->span};
        if (to < 0 || to > FG_TIME_MOST) continue;
        snprintf(one.is, sizeof one.is, "%lldms", (long long)to);
        add_move(n, one);
    }
}

static int by_place(const void *a, const void *b)
{
    const fg_movable *x = a, *y = b;
    if (x->span.at != y->span.at) return x->span.at < y->span.at ? -1 : 1;
    return (x->decimals < y->decimals) - (x->decimals > y->decimals); /* the finest step first */
}

static void find_moves(nudging *n, fg_nudged *nudged)
{
    const fg_program *p = &n->file->program;
    fg_movable *all = malloc((p->movable_count + 1) * sizeof *all);
    size_t count = 0;
    n->full = n->full || !all;
    for (uint32_t i = 0; all && i < p->movable_count; i++) {
        if (p->movables[i].span.source)
            nudged->outside++;
        else
            all[count++] = p->movables[i];
    }
    if (count) qsort(all, count, sizeof *all, by_place);
    for (size_t i = 0; i < count; i++) {
        if (i && all[i].span.at == all[i - 1].span.at) continue; /* a number with a name, used again */
        const fg_text was = {p->sources[0].text.at + all[i].span.at, all[i].span.size};
        if (all[i].kind == FG_MOVE_VALUE) add_value(n, &all[i], was);
        if (all[i].kind == FG_MOVE_TIME) add_time(n, &all[i]);
        if (all[i].kind == FG_MOVE_LABEL) add_move(n, (move){.span = all[i].span, .label = all[i].instead});
    }
    free(all);
}

/* ---- what held before ---- */

typedef struct watching {
    const fg_program *program;
    held *held;
    bool notes; /* it is what held before */
    bool noticed;
    uint32_t line;
} watching;

static size_t row_number(const fg_program *p, const fg_broken *broken)
{
    size_t number = 0;
    for (uint32_t i = 0; i < broken->number; i++) number += p->promises[i].row_count;
    return number + (size_t)(broken->row - broken->promise->rows);
}

static void on_broken(void *context, const fg_trial *trial, const fg_broken *broken)
{
    watching *w = context;
    bool *row = &w->held->rows[row_number(w->program, broken)];
    (void)trial;
    if (w->notes) {
        *row = false;
    } else if (*row && !w->noticed) {
        w->noticed = true;
        w->line = broken->line;
    }
}

static void on_result(void *context, const fg_trial_result *result)
{
    watching *w = context;
    bool *expect = &w->held->expects[result->expect - result->trial->expects];
    const bool holds = result->outcome == FG_OUTCOME_HELD;
    if (w->notes) {
        *expect = holds;
    } else if (*expect && !holds && !w->noticed) {
        w->noticed = true;
        w->line = result->line;
    }
}

static fg_status run_trial(const nudging *n, const fg_gate_file *file, uint32_t number, watching *w,
                           fg_mistake *mistake)
{
    const fg_trial_observer observer = {.context = w, .result = on_result, .broken = n->rows ? on_broken : NULL};
    w->held = &n->held[number];
    w->program = &file->program;
    return fg_trial_run(file, n->options, number, &observer, mistake);
}

static fg_status note_held(nudging *n, fg_nudged *nudged, fg_mistake *mistake)
{
    const fg_program *p = &n->file->program;
    fg_status status = FG_OK;
    for (uint32_t i = 0; i < p->promise_count; i++) n->rows += p->promises[i].row_count;
    n->held = calloc((size_t)p->trial_count + 1, sizeof *n->held);
    n->full = n->full || !n->held;
    for (uint32_t i = 0; i < p->trial_count && !n->full && status == FG_OK; i++) {
        watching w = {.notes = true};
        n->held[i].expects = calloc((size_t)p->trials[i].expect_count + 1, sizeof(bool));
        n->held[i].rows = malloc(n->rows + 1);
        n->full = !n->held[i].expects || !n->held[i].rows;
        if (n->full) break;
        memset(n->held[i].rows, true, n->rows + 1);
        status = run_trial(n, n->file, i, &w, mistake);
        for (uint32_t k = 0; k < p->trials[i].expect_count; k++) nudged->not_held += !n->held[i].expects[k];
    }
    return status;
}

/* ---- one move ---- */

/* The gate with this move. False: it is no gate, or there is no memory for it. */
static bool open_moved(const nudging *n, const move *m, fg_gate_file *moved, fg_status *status, fg_mistake *mistake)
{
    const fg_text text = n->file->program.sources[0].text, is = m->label.size ? m->label : fg_text_of(m->is);
    const size_t end = m->span.at + m->span.size;
    fg_buffer out = {0};
    fg_buffer_add(&out, (fg_text){text.at, m->span.at});
    fg_buffer_add(&out, is);
    fg_buffer_add(&out, (fg_text){text.at + end, text.size - end});
    *status = FG_ERROR_MEMORY;
    if (!out.full)
        *status = fg_gate_file_of_text(moved, n->file->path, fg_buffer_text(&out), n->file->settings, mistake);
    fg_buffer_free(&out);
    return *status == FG_OK;
}

/* Runs the trials in this order until one notices; that one is first from then on. */
static fg_status try_move(const nudging *n, move *m, uint32_t *order, fg_mistake *mistake)
{
    fg_gate_file moved = {0};
    fg_status status;
    const uint32_t trials = n->file->program.trial_count;
    if (open_moved(n, m, &moved, &status, mistake)) m->outcome = OUTCOME_NOT_NOTICED;
    if (status == FG_ERROR_GATE) status = FG_OK;
    for (uint32_t i = 0; i < trials && m->outcome == OUTCOME_NOT_NOTICED; i++) {
        watching w = {.noticed = false};
        const uint32_t number = order[i];
        status = run_trial(n, &moved, number, &w, mistake);
        if (status == FG_ERROR_GATE) m->outcome = OUTCOME_MISFIT; /* with the numbers that this trial sets */
        if (status == FG_ERROR_GATE) status = FG_OK;
        if (status != FG_OK) break;
        if (!w.noticed) continue;
        m->outcome = OUTCOME_NOTICED;
        m->trial = number;
        m->line = w.line;
        memmove(order + 1, order, i * sizeof *order);
        order[0] = number;
    }
    fg_gate_file_close(&moved);
    return status;
}

typedef struct nudge_jobs {
    nudging *n;
    fg_status *statuses;
    fg_mistake *mistakes;
} nudge_jobs;

static void work(void *context, unsigned number, fg_progress progress)
{
    nudge_jobs *j = context;
    nudging *n = j->n;
    const uint32_t trials = n->file->program.trial_count;
    uint32_t *order = malloc((trials + 1) * sizeof *order);
    j->statuses[number] = order ? FG_OK : FG_ERROR_MEMORY;
    for (uint32_t i = 0; order && i < trials; i++) order[i] = i;
    const size_t first = (size_t)number * TOGETHER;
    for (size_t i = first; i < first + TOGETHER && i < n->count && j->statuses[number] == FG_OK; i++) {
        j->statuses[number] = try_move(n, &n->moves[i], order, &j->mistakes[number]);
        if (progress.tell) progress.tell(progress.context, 0, i + 1 - first, TOGETHER);
    }
    free(order);
}

/* ---- all of them ---- */

static void tell(const nudging *n, const move *m, fg_nudged *nudged)
{
    const fg_program *p = &n->file->program;
    const fg_place place = fg_text_place(p->sources[0].text, m->span.at);
    const bool noticed = m->outcome == OUTCOME_NOTICED;
    const fg_nudge nudge = {.line = place.line,
                            .column = place.column,
                            .was = {p->sources[0].text.at + m->span.at, m->span.size},
                            .is = m->label.size ? m->label : fg_text_of(m->is),
                            .noticed = noticed,
                            .trial = noticed ? p->trials[m->trial].name : (fg_text){0},
                            .trial_line = m->line};
    nudged->misfits += m->outcome == OUTCOME_MISFIT;
    if (m->outcome == OUTCOME_MISFIT) return;
    nudged->moves++;
    nudged->noticed += noticed;
    if (n->observer->nudge) n->observer->nudge(n->observer->context, &nudge);
}

static bool on_done(void *context, unsigned number) { return ((const nudge_jobs *)context)->statuses[number] == FG_OK; }

static fg_status try_all(nudging *n, unsigned jobs, fg_mistake *mistake)
{
    const size_t pieces = (n->count + TOGETHER - 1) / TOGETHER;
    nudge_jobs j = {.n = n};
    fg_status status = FG_ERROR_MEMORY;
    j.statuses = calloc(pieces + 1, sizeof *j.statuses);
    j.mistakes = calloc(pieces + 1, sizeof *j.mistakes);
    const fg_jobs all = {.count = (unsigned)pieces,
                         .jobs = jobs,
                         .context = &j,
                         .work = work,
                         .tell = on_done,
                         .progress = n->observer->progress};
    if (j.statuses && j.mistakes && fg_jobs_run(&all)) status = FG_OK;
    for (size_t i = 0; i < pieces && status == FG_OK; i++) {
        status = j.statuses[i];
        if (status != FG_OK) *mistake = j.mistakes[i];
    }
    free(j.statuses);
    free(j.mistakes);
    return status;
}

static void end(nudging *n)
{
    for (uint32_t i = 0; n->held && i < n->file->program.trial_count; i++) {
        free(n->held[i].expects);
        free(n->held[i].rows);
    }
    free(n->held);
    free(n->moves);
}

fg_status fg_trials_nudge(const fg_gate_file *file, const fg_recording_options *options, unsigned jobs,
                          const fg_nudge_observer *observer, fg_nudged *nudged, fg_mistake *mistake)
{
    nudging n = {.file = file, .options = options, .observer = observer};
    *nudged = (fg_nudged){0};
    *mistake = (fg_mistake){0};
    find_moves(&n, nudged);
    fg_status status = n.full ? FG_ERROR_MEMORY : note_held(&n, nudged, mistake);
    if (status == FG_OK && !n.full) status = try_all(&n, jobs, mistake);
    for (size_t i = 0; i < n.count && status == FG_OK && !n.full; i++) tell(&n, &n.moves[i], nudged);
    end(&n);
    if ((n.full || status == FG_ERROR_MEMORY) && !*mistake->text)
        return fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory");
    return status;
}
