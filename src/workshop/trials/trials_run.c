/* SPDX-License-Identifier: MIT */
/* All trials of a gate file, several at once: each is run by itself and its results are kept, until all can be told in
 * the order of the file. */
#include "workshop/trials/trial.h"

#include <ficklegate/jobs.h>

#include <stdio.h>
#include <stdlib.h>

typedef struct kept_result {
    uint32_t line;
    fg_outcome outcome;
    char *expectation, *because;
} kept_result;

/* A row of a promise that a trial broke. */
typedef struct kept_broken {
    uint32_t promise, row; /* by their numbers, as a trial is compiled anew */
    int64_t t_ms;
    fg_verdict answer;
    char *because;
} kept_broken;

/* One trial that was run. */
typedef struct kept_trial {
    fg_status status;
    fg_mistake mistake;
    fg_replay_report report;
    kept_result *results;
    size_t count, room;
    kept_broken *broken; /* room for each row of each promise */
    size_t broken_count;
    fg_coverage *coverage;
    bool full;
} kept_trial;

typedef struct trials_run {
    const fg_gate_file *file;
    const fg_recording_options *options;
    const fg_trial_observer *observer;
    kept_trial *trials;
} trials_run;

/* ---- one trial ---- */

static void keep_trial(void *context, const fg_trial *trial, const fg_replay_report *report)
{
    (void)trial;
    ((kept_trial *)context)->report = *report;
}

static void keep_result(void *context, const fg_trial_result *result)
{
    kept_trial *t = context;
    if (t->count == t->room) {
        const size_t room = t->room ? 2 * t->room : 16;
        kept_result *results = realloc(t->results, room * sizeof *results);
        t->full = t->full || !results;
        if (!results) return;
        t->results = results;
        t->room = room;
    }
    kept_result *r = &t->results[t->count++];
    *r = (kept_result){result->line, result->outcome, fg_c_string_of(result->expectation),
                       fg_c_string_of(result->because)};
    t->full = t->full || !r->expectation || !r->because;
}

/* Each row of a promise is told once at most. */
static void keep_broken(void *context, const fg_trial *trial, const fg_broken *broken)
{
    kept_trial *t = context;
    kept_broken *kept = &t->broken[t->broken_count++];
    (void)trial;
    *kept = (kept_broken){broken->number, (uint32_t)(broken->row - broken->promise->rows), broken->t_ms, broken->answer,
                          fg_c_string_of(broken->because)};
    t->full = t->full || !kept->because;
}

static void work(void *context, unsigned number, fg_progress progress)
{
    trials_run *r = context;
    kept_trial *t = &r->trials[number];
    const fg_trial_observer observer = {.context = t,
                                        .trial = keep_trial,
                                        .result = keep_result,
                                        .broken = t->broken ? keep_broken : NULL,
                                        .coverage = t->coverage,
                                        .progress = progress};
    t->status = fg_trial_run(r->file, r->options, number, &observer, &t->mistake);
}

/* ---- all of them ---- */

/* Readings that are not there, or cannot be read, break no other trial. */
static void tell_unplayed(const trials_run *r, const fg_trial *trial, const fg_mistake *mistake)
{
    const fg_trial_observer *observer = r->observer;
    fg_buffer written = {0};
    if (observer->unplayed) observer->unplayed(observer->context, trial, mistake);
    for (uint32_t i = 0; i < trial->expect_count && observer->result; i++) {
        written.size = 0;
        fg_expect_text(&r->file->program, &trial->expects[i], &written);
        const fg_trial_result result = {.trial = trial,
                                        .expect = &trial->expects[i],
                                        .line = fg_program_line(&r->file->program, trial->expects[i].span),
                                        .expectation = fg_buffer_text(&written),
                                        .outcome = FG_OUTCOME_FAILED,
                                        .because = fg_text_of(mistake->text)};
        observer->result(observer->context, &result);
    }
    fg_buffer_free(&written);
}

static bool tell_broken(const trials_run *r, const fg_trial *trial, const kept_broken *kept)
{
    const fg_program *program = &r->file->program;
    const fg_promise *promise = &program->promises[kept->promise];
    const fg_expect *row = &promise->rows[kept->row];
    fg_buffer written = {0};
    fg_buffer_add_written(&written, program, row->span);
    const bool good = !written.full;
    const fg_broken broken = {.t_ms = kept->t_ms,
                              .promise = promise,
                              .number = kept->promise,
                              .row = row,
                              .line = fg_program_line(program, row->span),
                              .written = fg_buffer_text(&written),
                              .answer = kept->answer,
                              .because = fg_text_of(kept->because)};
    if (good) r->observer->broken(r->observer->context, trial, &broken);
    fg_buffer_free(&written);
    return good;
}

static fg_status tell(const trials_run *r, uint32_t number, fg_mistake *mistake)
{
    const kept_trial *t = &r->trials[number];
    const fg_trial *trial = &r->file->program.trials[number];
    const fg_trial_observer *observer = r->observer;
    if (t->status == FG_ERROR_FILE || t->status == FG_ERROR_RECORDING) {
        tell_unplayed(r, trial, &t->mistake);
        return FG_OK;
    }
    if (t->status != FG_OK) {
        *mistake = t->mistake;
        return t->status;
    }
    if (t->full) return fg_mistake_set(mistake, FG_ERROR_MEMORY, "fickle", 0, "there is not enough memory");
    if (observer->trial) observer->trial(observer->context, trial, &t->report);
    for (size_t i = 0; i < t->broken_count; i++)
        if (!tell_broken(r, trial, &t->broken[i]))
            return fg_mistake_set(mistake, FG_ERROR_MEMORY, "fickle", 0, "there is not enough memory");
    for (size_t i = 0; i < t->count && observer->result; i++) {
        const kept_result *kept = &t->results[i];
        const fg_trial_result result = {.trial = trial,
                                        .expect = &trial->expects[i],
                                        .line = kept->line,
                                        .expectation = fg_text_of(kept->expectation),
                                        .outcome = kept->outcome,
                                        .because = fg_text_of(kept->because)};
        observer->result(observer->context, &result);
    }
    if (observer->coverage) fg_coverage_add(observer->coverage, t->coverage);
    return FG_OK;
}

static bool begin(trials_run *r)
{
    const uint32_t count = r->file->program.trial_count;
    size_t rows = 0;
    for (uint32_t i = 0; i < r->file->program.promise_count; i++) rows += r->file->program.promises[i].row_count;
    r->trials = calloc((size_t)count + 1, sizeof *r->trials);
    bool good = r->trials != NULL;
    for (uint32_t i = 0; good && i < count; i++) {
        if (rows && r->observer->broken) {
            r->trials[i].broken = calloc(rows, sizeof *r->trials[i].broken);
            good = r->trials[i].broken != NULL;
        }
        r->trials[i].coverage = r->observer->coverage ? fg_coverage_start(&r->file->program) : NULL;
        good = good && (!r->observer->coverage || r->trials[i].coverage);
    }
    return good;
}

static void end(trials_run *r)
{
    for (uint32_t i = 0; r->trials && i < r->file->program.trial_count; i++) {
        for (size_t k = 0; k < r->trials[i].count; k++) {
            free(r->trials[i].results[k].expectation);
            free(r->trials[i].results[k].because);
        }
        free(r->trials[i].results);
        for (size_t k = 0; k < r->trials[i].broken_count; k++) free(r->trials[i].broken[k].because);
        free(r->trials[i].broken);
        fg_coverage_end(r->trials[i].coverage);
    }
    free(r->trials);
}

fg_status fg_trials_run(const fg_gate_file *file, const fg_recording_options *options, unsigned jobs,
                        const fg_trial_observer *observer, fg_mistake *mistake)
{
    trials_run r = {.file = file, .options = options, .observer = observer};
    fg_status status = FG_OK;
    *mistake = (fg_mistake){0};
    const fg_jobs all = {
        .count = file->program.trial_count, .jobs = jobs, .context = &r, .work = work, .progress = observer->progress};
    if (!begin(&r) || !fg_jobs_run(&all))
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, "fickle", 0, "there is not enough memory");
    for (uint32_t i = 0; i < file->program.trial_count && status == FG_OK; i++) status = tell(&r, i, mistake);
    end(&r);
    return status;
}
