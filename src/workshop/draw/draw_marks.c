/* SPDX-License-Identifier: MIT */
/* Marks of a picture: where in time a trial expects something, and whether it held. */
#include "workshop/base/buffer.h"

#include <ficklegate/draw.h>

#include <stdlib.h>

typedef struct marker {
    fg_draw_mark *marks;
    size_t count, room;
    int64_t length_ms;
} marker;

static void on_trial(void *context, const fg_trial *trial, const fg_replay_report *report)
{
    (void)trial;
    ((marker *)context)->length_ms = report->length_ms;
}

static void on_result(void *context, const fg_trial_result *result)
{
    marker *m = context;
    const fg_expect *e = result->expect;
    if (m->count == m->room) return;
    fg_draw_mark mark = {
        .from_ms = e->from, .to_ms = e->from, .held = result->outcome == FG_OUTCOME_HELD, .line = result->line};
    if (e->kind == FG_EXPECT_AT_END)
        mark.from_ms = mark.to_ms = m->length_ms;
    else if (e->kind == FG_EXPECT_FROM || e->kind == FG_EXPECT_BEGINS)
        mark.to_ms = e->to == FG_EXPECT_TO_END ? m->length_ms : e->to;
    else if (e->kind != FG_EXPECT_AT)
        return; /* of the whole recording: no place on its time */
    m->marks[m->count++] = mark;
}

/* Does the trial play these readings? Files are the same if they are one on the disk; a trial may stand in an included
 * file, beside which its readings are. */
static fg_status plays(const fg_gate_file *file, const fg_trial *trial, const fg_readings *readings, bool *same,
                       fg_mistake *mistake)
{
    *same = readings->scene && fg_text_same(trial->readings, readings->scene->name);
    if (readings->scene) return FG_OK;
    char *gate = fg_c_string_of(file->program.sources[trial->span.source].name);
    char *path = gate ? fg_file_beside(gate, trial->readings) : NULL;
    const fg_status status =
        path ? FG_OK : fg_mistake_set(mistake, FG_ERROR_MEMORY, "fickle", 0, "there is not enough memory");
    *same = path && fg_file_same(path, readings->recording);
    free(path);
    free(gate);
    return status;
}

static int by_time(const void *a, const void *b)
{
    const fg_draw_mark *x = a, *y = b;
    if (x->from_ms != y->from_ms) return x->from_ms < y->from_ms ? -1 : 1;
    return (x->line > y->line) - (x->line < y->line);
}

fg_status fg_draw_trial_marks(const fg_gate_file *file, const fg_readings *readings, fg_draw_mark *marks, size_t room,
                              size_t *count, fg_mistake *mistake)
{
    marker m = {.marks = marks, .room = room};
    const fg_trial_observer observer = {.context = &m, .trial = on_trial, .result = on_result};
    fg_status status = FG_OK;
    *mistake = (fg_mistake){0};
    for (uint32_t i = 0; i < file->program.trial_count && status == FG_OK; i++) {
        const fg_trial *trial = &file->program.trials[i];
        bool same;
        if (trial->sets) continue;
        status = plays(file, trial, readings, &same, mistake);
        if (status == FG_OK && same) status = fg_trial_run(file, &readings->options, i, &observer, mistake);
    }
    qsort(marks, m.count, sizeof *marks, by_time);
    *count = m.count;
    return status;
}
