/* SPDX-License-Identifier: MIT */
/* Promises while something is played: each row is asked at every step, and told at the first one that breaks it. */
#include "workshop/replay/promises.h"

#include <stdlib.h>

/* What watching one row has come to. */
typedef struct watcher {
    const fg_promise *promise;
    const fg_expect *row;
    bool over;        /* it was told as broken, or what it assumes does not hold any more */
    fg_verdict event; /* of `within`: at the step before */
    int64_t since;    /* of `within`: when what it follows began; below 0: nothing is awaited */
} watcher;

struct fg_promises {
    const fg_program *program;
    bool stepped; /* there was a step before */
    size_t count;
    watcher all[];
};

fg_promises *fg_promises_start(const fg_program *program)
{
    size_t count = 0;
    for (uint32_t i = 0; i < program->promise_count; i++) count += program->promises[i].row_count;
    fg_promises *p = calloc(1, sizeof *p + count * sizeof *p->all);
    if (!p) return NULL;
    p->program = program;
    for (uint32_t i = 0; i < program->promise_count; i++) {
        const fg_promise *promise = &program->promises[i];
        for (uint32_t k = 0; k < promise->row_count; k++)
            p->all[p->count++] = (watcher){.promise = promise, .row = &promise->rows[k], .since = -1};
    }
    return p;
}

void fg_promises_end(fg_promises *p) { free(p); }

/* Readings that are assumed not to come did come: what follows is no concern of this promise. */
static void leave_promise(fg_promises *p, const fg_promise *promise)
{
    for (size_t i = 0; i < p->count; i++)
        if (p->all[i].promise == promise) p->all[i].over = true;
}

static void look_at_assumptions(fg_promises *p, const fg_run *run)
{
    for (size_t i = 0; i < p->count; i++) {
        const watcher *w = &p->all[i];
        if (!w->over && w->row->kind == FG_EXPECT_ASSUME && fg_answer(run, w->row->slot) != FG_YES)
            leave_promise(p, w->promise);
    }
}

/* Of several beginnings that are not followed yet the first one counts. */
static bool breaks_within(watcher *w, bool stepped, const fg_run *run, fg_verdict answer, int64_t t_ms)
{
    const fg_verdict event = fg_answer(run, w->row->while_slot);
    const bool begins = stepped && w->event != FG_YES && event == FG_YES;
    w->event = event;
    if (begins && w->since < 0) w->since = t_ms;
    if (w->since < 0) return false;
    const int64_t passed = t_ms - w->since;
    if (answer == FG_YES && passed <= w->row->from) w->since = -1;
    return w->since >= 0 && passed >= w->row->from;
}

static bool breaks(watcher *w, bool stepped, const fg_run *run, int64_t t_ms)
{
    const fg_expect *row = w->row;
    const fg_verdict answer = fg_answer(run, row->slot);
    if (row->kind == FG_EXPECT_WITHIN) return breaks_within(w, stepped, run, answer, t_ms);
    if (row->kind != FG_EXPECT_ALWAYS && row->kind != FG_EXPECT_NEVER) return false;
    if (row->while_slot != FG_INDEX_NONE && fg_answer(run, row->while_slot) != FG_YES) return false;
    return row->kind == FG_EXPECT_ALWAYS ? answer != FG_YES : answer == FG_YES;
}

/* "bilge 4.2 cm is over 4 cm, while pump is off" */
static void say_why(const watcher *w, fg_explainer *explainer, fg_buffer *out)
{
    out->size = 0;
    fg_explain_slot(explainer, w->row->slot, out);
    if (w->row->kind == FG_EXPECT_WITHIN) {
        fg_buffer_add_c(out, "; the event it should follow was at ");
        fg_buffer_add_time(out, w->since);
    } else if (w->row->while_slot != FG_INDEX_NONE) {
        fg_buffer_add_c(out, ", while ");
        fg_explain_slot(explainer, w->row->while_slot, out);
    }
}

bool fg_promises_wait(const fg_promises *p)
{
    for (size_t i = 0; i < p->count; i++)
        if (!p->all[i].over && p->all[i].since >= 0) return true;
    return false;
}

bool fg_promises_step(fg_promises *p, const fg_promises_told *told, int64_t t_ms)
{
    bool go_on = true;
    look_at_assumptions(p, told->run);
    for (size_t i = 0; i < p->count && go_on; i++) {
        watcher *w = &p->all[i];
        if (w->over || !breaks(w, p->stepped, told->run, t_ms) || !told->broken) continue;
        say_why(w, told->explainer, told->because);
        told->written->size = 0;
        fg_buffer_add_written(told->written, p->program, w->row->span);
        if (told->because->full || told->written->full) return false;
        const fg_broken broken = {.t_ms = t_ms,
                                  .promise = w->promise,
                                  .number = (uint32_t)(w->promise - p->program->promises),
                                  .row = w->row,
                                  .line = fg_program_line(p->program, w->row->span),
                                  .written = fg_buffer_text(told->written),
                                  .answer = fg_answer(told->run, w->row->slot),
                                  .because = fg_buffer_text(told->because)};
        w->over = true;
        go_on = told->broken(told->context, &broken);
    }
    p->stepped = true;
    return go_on;
}
