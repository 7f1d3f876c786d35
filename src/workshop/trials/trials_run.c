/* SPDX-License-Identifier: MIT */
/* All trials of a gate file, several at once: each is run by itself and its results are kept, until all can be told in
 * the order of the file. */
#include "workshop/trials/trial.h"

#include <pthread.h>
#include <stdatomic.h>
#include <stdio.h>
#include <stdlib.h>
#include <unistd.h>

enum { JOBS_MOST = 64, WHOLE = 1000 };

typedef struct kept_result {
    uint32_t line;
    fg_outcome outcome;
    char *expectation, *because;
} kept_result;

typedef struct trials_run trials_run;

/* One trial that was run. */
typedef struct kept_trial {
    trials_run *all;
    fg_status status;
    fg_mistake mistake;
    fg_replay_report report;
    kept_result *results;
    size_t count, room;
    fg_coverage *coverage;
    bool full;
    atomic_uint share; /* of WHOLE, how far it is */
} kept_trial;

struct trials_run {
    const fg_gate_file *file;
    const fg_recording_options *options;
    const fg_trial_observer *observer;
    kept_trial *trials;
    atomic_uint next, ended;
    pthread_mutex_t telling;
};

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

/* One thread at a time says how far all are; the others go on. */
static void keep_progress(void *context, uint64_t rows, uint64_t done, uint64_t all)
{
    kept_trial *t = context;
    trials_run *r = t->all;
    const uint32_t count = r->file->program.trial_count;
    uint64_t share = 0;
    (void)rows;
    if (all) atomic_store(&t->share, (unsigned)(done * WHOLE / all));
    if (pthread_mutex_trylock(&r->telling) != 0) return;
    for (uint32_t i = 0; i < count; i++) share += atomic_load(&r->trials[i].share);
    r->observer->progress.tell(r->observer->progress.context, atomic_load(&r->ended), share, (uint64_t)WHOLE * count);
    (void)pthread_mutex_unlock(&r->telling);
}

static void *work(void *context)
{
    trials_run *r = context;
    for (unsigned i; (i = atomic_fetch_add(&r->next, 1)) < r->file->program.trial_count;) {
        kept_trial *t = &r->trials[i];
        const fg_trial_observer observer = {.context = t,
                                            .trial = keep_trial,
                                            .result = keep_result,
                                            .coverage = t->coverage,
                                            .progress = {t, r->observer->progress.tell ? keep_progress : NULL}};
        t->status = fg_trial_run(r->file, r->options, i, &observer, &t->mistake);
        atomic_store(&t->share, WHOLE);
        atomic_fetch_add(&r->ended, 1);
    }
    return NULL;
}

/* ---- all of them ---- */

/* The calling thread works too, so that there is one even where no other can be had. */
static void run_all(trials_run *r, unsigned jobs)
{
    pthread_t threads[JOBS_MOST];
    const long processors = sysconf(_SC_NPROCESSORS_ONLN);
    unsigned begun = 0;
    if (!jobs) jobs = processors > 0 ? (unsigned)processors : 1;
    if (jobs > JOBS_MOST) jobs = JOBS_MOST;
    if (jobs > r->file->program.trial_count) jobs = r->file->program.trial_count;
    (void)pthread_mutex_init(&r->telling, NULL);
    while (begun + 1 < jobs && pthread_create(&threads[begun], NULL, work, r) == 0) begun++;
    (void)work(r);
    for (unsigned i = 0; i < begun; i++) (void)pthread_join(threads[i], NULL);
    (void)pthread_mutex_destroy(&r->telling);
}

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
        r->trials[i].all = r;
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
    if (begin(&r))
        run_all(&r, jobs);
    else
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, "fickle", 0, "there is not enough memory");
    for (uint32_t i = 0; i < file->program.trial_count && status == FG_OK; i++) status = tell(&r, i, mistake);
    end(&r);
    return status;
}
