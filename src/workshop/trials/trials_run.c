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

/* One trial that was run. */
typedef struct kept_trial {
    fg_status status;
    fg_mistake mistake;
    fg_replay_report report;
    kept_result *results;
    size_t count, room;
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

static void work(void *context, unsigned number, fg_progress progress)
{
    trials_run *r = context;
    kept_trial *t = &r->trials[number];
    const fg_trial_observer observer = {
        .context = t, .trial = keep_trial, .result = keep_result, .coverage = t->coverage, .progress = progress};
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
                                        .line = fg_expect_line(&r->file->program, &trial->expects[i]),
                                        .expectation = fg_buffer_text(&written),
                                        .outcome = FG_OUTCOME_FAILED,
                                        .because = fg_text_of(mistake->text)};
        observer->result(observer->context, &result);
    }
    fg_buffer_free(&written);
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
    r->trials = calloc((size_t)count + 1, sizeof *r->trials);
    bool good = r->trials != NULL;
    for (uint32_t i = 0; good && i < count; i++) {
        r->trials[i].coverage = r->observer->coverage ? fg_coverage_start(&r->file->program) : NULL;
        good = !r->observer->coverage || r->trials[i].coverage;
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
