/* SPDX-License-Identifier: MIT */
/* Pieces of work in several threads. One lock guards the numbers; a piece itself runs without it. */
#include <ficklegate/jobs.h>

#include <pthread.h>
#include <stdatomic.h>
#include <stdlib.h>
#include <unistd.h>

enum { JOBS_MOST = 64, WHOLE = 1000 };

typedef struct jobs_run jobs_run;

typedef struct piece {
    jobs_run *run;
    atomic_uint share; /* of WHOLE, how far it is */
    bool done;
} piece;

struct jobs_run {
    const fg_jobs *jobs;
    unsigned at_once;
    piece *pieces;
    pthread_mutex_t lock;
    pthread_cond_t told_some;
    unsigned begun, done, told;
    bool telling, over;
    pthread_mutex_t progress;
};

/* One thread at a time says how far all are; the others go on. */
static void on_progress(void *context, uint64_t rows, uint64_t done, uint64_t all)
{
    piece *p = context;
    jobs_run *r = p->run;
    const fg_progress *progress = &r->jobs->progress;
    uint64_t share = 0;
    unsigned ended = 0;
    (void)rows;
    if (all) atomic_store(&p->share, (unsigned)(done * WHOLE / all));
    if (pthread_mutex_trylock(&r->progress) != 0) return;
    for (unsigned i = 0; i < r->jobs->count; i++) {
        const unsigned one = atomic_load(&r->pieces[i].share);
        share += one;
        ended += one == WHOLE;
    }
    progress->tell(progress->context, ended, share, (uint64_t)WHOLE * r->jobs->count);
    (void)pthread_mutex_unlock(&r->progress);
}

/* The next piece, or `count`. Waits while too many are not told yet. With the lock. */
static unsigned begin_piece(jobs_run *r)
{
    while (!r->over && r->jobs->tell && r->begun < r->jobs->count && r->begun >= r->told + 2 * r->at_once)
        (void)pthread_cond_wait(&r->told_some, &r->lock);
    return r->over || r->begun == r->jobs->count ? r->jobs->count : r->begun++;
}

/* Tells what is done and in turn, unless another thread does. With the lock, which is open while something is told. */
static void tell_done(jobs_run *r)
{
    if (r->telling || !r->jobs->tell) return;
    r->telling = true;
    while (!r->over && r->told < r->jobs->count && r->pieces[r->told].done) {
        (void)pthread_mutex_unlock(&r->lock);
        (void)pthread_mutex_lock(&r->progress);
        const bool go_on = r->jobs->tell(r->jobs->context, r->told);
        (void)pthread_mutex_unlock(&r->progress);
        (void)pthread_mutex_lock(&r->lock);
        r->told++;
        r->over = !go_on;
        (void)pthread_cond_broadcast(&r->told_some);
    }
    r->telling = false;
}

static void *work(void *context)
{
    jobs_run *r = context;
    const fg_jobs *jobs = r->jobs;
    (void)pthread_mutex_lock(&r->lock);
    for (unsigned i; (i = begin_piece(r)) < jobs->count;) {
        piece *p = &r->pieces[i];
        (void)pthread_mutex_unlock(&r->lock);
        jobs->work(jobs->context, i, (fg_progress){p, jobs->progress.tell ? on_progress : NULL});
        atomic_store(&p->share, WHOLE);
        if (jobs->progress.tell) on_progress(p, 0, 0, 0);
        (void)pthread_mutex_lock(&r->lock);
        p->done = true;
        tell_done(r);
    }
    (void)pthread_mutex_unlock(&r->lock);
    return NULL;
}

/* The calling thread works too, so that there is one even where no other can be had. */
bool fg_jobs_run(const fg_jobs *jobs)
{
    pthread_t threads[JOBS_MOST];
    const long processors = sysconf(_SC_NPROCESSORS_ONLN);
    unsigned begun = 0;
    jobs_run r = {.jobs = jobs, .at_once = jobs->jobs, .pieces = calloc((size_t)jobs->count + 1, sizeof *r.pieces)};
    if (!r.pieces) return false;
    for (unsigned i = 0; i < jobs->count; i++) r.pieces[i].run = &r;
    if (!r.at_once) r.at_once = processors > 0 ? (unsigned)processors : 1;
    if (r.at_once > JOBS_MOST) r.at_once = JOBS_MOST;
    if (r.at_once > jobs->count) r.at_once = jobs->count;
    (void)pthread_mutex_init(&r.lock, NULL);
    (void)pthread_mutex_init(&r.progress, NULL);
    (void)pthread_cond_init(&r.told_some, NULL);
    while (begun + 1 < r.at_once && pthread_create(&threads[begun], NULL, work, &r) == 0) begun++;
    (void)work(&r);
    for (unsigned i = 0; i < begun; i++) (void)pthread_join(threads[i], NULL);
    (void)pthread_cond_destroy(&r.told_some);
    (void)pthread_mutex_destroy(&r.progress);
    (void)pthread_mutex_destroy(&r.lock);
    free(r.pieces);
    return true;
}
