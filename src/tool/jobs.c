/* Trials side by side: each is run by itself, its results are kept, and all are told in the order of the file. */
#include "tool.h"

#include <pthread.h>
#include <stdatomic.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

enum { JOBS_MOST = 64 };

typedef struct kept_result {
    uint32_t line;
    fg_outcome outcome;
    char *expectation, *because;
} kept_result;

typedef struct yard yard;

/* One trial that was run. */
typedef struct kept_trial {
    fg_status status;
    fg_mistake mistake;
    fg_replay_report report;
    kept_result *results;
    size_t count, room;
    fg_coverage *coverage;
    bool full;
    yard *yard;
    atomic_uint share; /* of 1000, how far it is */
} kept_trial;

struct yard {
    const tool_options *options;
    const fg_gate_file *file;
    kept_trial *trials;
    atomic_uint next, ended;
    pthread_mutex_t showing;
};

static char *copy_of(fg_text text)
{
    char *copy = malloc(text.size + 1);
    if (copy && text.size) memcpy(copy, text.at, text.size);
    if (copy) copy[text.size] = '\0';
    return copy;
}

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
    *r = (kept_result){result->line, result->outcome, copy_of(result->expectation), copy_of(result->because)};
    t->full = t->full || !r->expectation || !r->because;
}

/* One thread at a time says how far all are; the others go on. */
static void keep_progress(void *context, uint64_t done, uint64_t all)
{
    kept_trial *t = context;
    yard *y = t->yard;
    const uint32_t count = y->file->program.trial_count;
    char what[64];
    double share = 0;
    if (all) atomic_store(&t->share, (unsigned)(done * 1000 / all));
    if (pthread_mutex_trylock(&y->showing) != 0) return;
    for (uint32_t i = 0; i < count; i++) share += atomic_load(&y->trials[i].share);
    snprintf(what, sizeof what, "%u of %u trials", atomic_load(&y->ended), (unsigned)count);
    tool_progress_show(what, share / 1000 / count);
    (void)pthread_mutex_unlock(&y->showing);
}

static void *work(void *context)
{
    yard *y = context;
    for (unsigned i; (i = atomic_fetch_add(&y->next, 1)) < y->file->program.trial_count;) {
        kept_trial *t = &y->trials[i];
        const fg_trial_observer observer = {.context = t,
                                            .trial = keep_trial,
                                            .result = keep_result,
                                            .coverage = t->coverage,
                                            .progress = keep_progress};
        t->status = fg_trial_run(y->file, y->options->settings, y->options->setting_count, &y->options->reading, i,
                                 &observer, &t->mistake);
        atomic_store(&t->share, 1000);
        atomic_fetch_add(&y->ended, 1);
    }
    return NULL;
}

/* The calling thread works too, so that there is one even where no other can be had. */
static void run_all(yard *y)
{
    pthread_t threads[JOBS_MOST];
    const long processors = sysconf(_SC_NPROCESSORS_ONLN);
    unsigned jobs = y->options->jobs ? y->options->jobs : processors > 0 ? (unsigned)processors : 1, begun = 0;
    if (jobs > JOBS_MOST) jobs = JOBS_MOST;
    if (jobs > y->file->program.trial_count) jobs = y->file->program.trial_count;
    while (begun + 1 < jobs && pthread_create(&threads[begun], NULL, work, y) == 0) begun++;
    (void)work(y);
    for (unsigned i = 0; i < begun; i++) (void)pthread_join(threads[i], NULL);
}

static fg_text text_of(const char *text) { return (fg_text){text, strlen(text)}; }

static bool tell(const kept_trial *t, const fg_trial *trial, const fg_trial_observer *observer)
{
    if (t->status != FG_OK) {
        tool_print_mistake(&t->mistake);
        return false;
    }
    if (t->full) {
        tool_no_memory();
        return false;
    }
    observer->trial(observer->context, trial, &t->report);
    for (size_t i = 0; i < t->count; i++) {
        const kept_result *r = &t->results[i];
        observer->result(observer->context, &(fg_trial_result){.trial = trial,
                                                               .expect = &trial->expects[i],
                                                               .line = r->line,
                                                               .expectation = text_of(r->expectation),
                                                               .outcome = r->outcome,
                                                               .because = text_of(r->because)});
    }
    if (observer->coverage) fg_coverage_add(observer->coverage, t->coverage);
    return true;
}

bool tool_run_trials(const tool_options *options, const fg_gate_file *file, const fg_trial_observer *observer)
{
    const uint32_t count = file->program.trial_count;
    yard y = {.options = options, .file = file, .trials = calloc((size_t)count + 1, sizeof *y.trials)};
    bool good = y.trials != NULL;
    for (uint32_t i = 0; good && i < count; i++) {
        y.trials[i].yard = &y;
        y.trials[i].coverage = observer->coverage ? fg_coverage_start(&file->program) : NULL;
        good = !observer->coverage || y.trials[i].coverage;
    }
    if (!good) tool_no_memory();
    if (good) {
        (void)pthread_mutex_init(&y.showing, NULL);
        run_all(&y);
        (void)pthread_mutex_destroy(&y.showing);
        tool_progress_end();
    }
    for (uint32_t i = 0; i < count && good; i++) good = tell(&y.trials[i], &file->program.trials[i], observer);
    for (uint32_t i = 0; y.trials && i < count; i++) {
        for (size_t k = 0; k < y.trials[i].count; k++) {
            free(y.trials[i].results[k].expectation);
            free(y.trials[i].results[k].because);
        }
        free(y.trials[i].results);
        fg_coverage_end(y.trials[i].coverage);
    }
    free(y.trials);
    return good;
}
