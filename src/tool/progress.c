/* SPDX-License-Identifier: MIT */
/* Progress on a terminal, for what takes over a second. */
#include "tool.h"

#include <time.h>
#include <unistd.h>

static struct {
    double began, shown;
} progress;

int64_t tool_now(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (int64_t)now.tv_sec * 1000 + now.tv_nsec / 1000000;
}

static double seconds(void) { return (double)tool_now() / 1000; }

/* `what` was done so far; `share` of the whole, from 0 (not known) to 1. */
static void show(const char *what, double share)
{
    if (!isatty(STDERR_FILENO)) return;
    const double now = seconds();
    if (progress.began == 0) progress.began = now;
    const double passed = now - progress.began;
    if (passed < 1 || now - progress.shown < 0.2) return;
    progress.shown = now;
    if (share > 0.001)
        fprintf(stderr, "\r%s, %.0f %%, %.0f s, about %.0f s left  ", what, 100 * share, passed,
                passed / share - passed);
    else
        fprintf(stderr, "\r%s, %.0f s  ", what, passed);
}

static void on_rows(void *context, uint64_t rows, uint64_t done, uint64_t all)
{
    char room[64];
    (void)context;
    show(tool_counted(rows, "row", room), all ? (double)done / (double)all : 0);
}

static void on_trials(void *context, uint64_t ended, uint64_t done, uint64_t all)
{
    const fg_gate_file *file = context;
    char what[64];
    snprintf(what, sizeof what, "%u of %u trials", (unsigned)ended, (unsigned)file->program.trial_count);
    show(what, all ? (double)done / (double)all : 0);
}

static void on_recordings(void *context, uint64_t ended, uint64_t done, uint64_t all)
{
    char what[80];
    snprintf(what, sizeof what, "%u of %zu recordings", (unsigned)ended, *(const size_t *)context);
    show(what, all ? (double)done / (double)all : 0);
}

fg_progress tool_progress_of_recordings(const size_t *count) { return (fg_progress){(void *)count, on_recordings}; }

fg_progress tool_progress_of_rows(void) { return (fg_progress){NULL, on_rows}; }

fg_progress tool_progress_of_trials(const fg_gate_file *file) { return (fg_progress){(void *)file, on_trials}; }

static void on_steps(void *context, uint64_t steps, uint64_t done, uint64_t all)
{
    char room[64];
    (void)context;
    show(tool_counted(steps, "step", room), all ? (double)done / (double)all : 0);
}

fg_progress tool_progress_of_steps(void) { return (fg_progress){NULL, on_steps}; }

static void on_promises(void *context, uint64_t ended, uint64_t done, uint64_t all)
{
    char what[64];
    snprintf(what, sizeof what, "%u of %u rows", (unsigned)ended, (unsigned)*(const uint32_t *)context);
    show(what, all ? (double)done / (double)all : 0);
}

fg_progress tool_progress_of_promises(const uint32_t *count) { return (fg_progress){(void *)count, on_promises}; }

static void on_moves(void *context, uint64_t ended, uint64_t done, uint64_t all)
{
    (void)context;
    (void)ended;
    show("moves", all ? (double)done / (double)all : 0);
}

fg_progress tool_progress_of_moves(void) { return (fg_progress){NULL, on_moves}; }

void tool_progress_aside(void)
{
    if (progress.shown > 0) fprintf(stderr, "\r%70s\r", "");
    progress.shown = 0;
}

void tool_progress_end(void)
{
    tool_progress_aside();
    progress.began = 0;
}
