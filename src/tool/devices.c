/* SPDX-License-Identifier: MIT */
/* fickle replay GATE RECORDING --by COLUMN: the devices of one recording, what each said put together again. */
#include "tool.h"

#include <stdlib.h>
#include <string.h>

typedef struct device {
    const tool_devices *all;
    tool_changes changes;
    fg_summary *summary;
    char *name;
} device;

/* While they are played. */
typedef struct playing {
    tool_devices *all;
    device **devices;
    size_t count, room;
    tool_gather *gather;
    fg_replay_report *report;
} playing;

static bool on_change(void *context, const fg_change *change)
{
    return tool_changes_print(&((device *)context)->changes, change);
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    const device *d = context;
    (void)before;
    if (t_ms < d->all->from_ms) return true;
    if (d->all->coverage) fg_coverage_step(d->all->coverage, run);
    if (d->summary) fg_summary_step(d->summary, run, t_ms);
    return true;
}

static bool on_broken(void *context, const fg_broken *broken)
{
    const device *d = context;
    tool_broken *told = d->all->broken;
    const char *recording = told->where;
    char *where;
    if (asprintf(&where, "%s, %s %s", recording, d->all->by, d->name) < 0) return false;
    told->where = where;
    const bool good = tool_broken_add(told, broken);
    told->where = recording;
    free(where);
    return good;
}

static device *new_device(playing *l, fg_text name)
{
    const tool_devices *all = l->all;
    if (l->count == l->room) {
        const size_t room = l->room ? 2 * l->room : 16;
        device **devices = realloc(l->devices, room * sizeof(device *));
        if (!devices) return NULL;
        l->devices = devices;
        l->room = room;
    }
    device *d = calloc(1, sizeof *d);
    if (!d) return NULL;
    l->devices[l->count++] = d;
    *d = (device){.all = all, .changes = *all->changes, .name = strndup(name.at, name.size)};
    d->changes.device = d->name;
    if (all->summary) d->summary = fg_summary_start(all->program);
    d->changes.output = all->summary ? NULL : tool_gather_next(l->gather);
    return d->name && (all->summary ? d->summary != NULL : d->changes.output != NULL) ? d : NULL;
}

static bool on_device(void *context, fg_text name, size_t number, fg_replay_observer *observer)
{
    playing *l = context;
    const tool_devices *all = l->all;
    device *d = new_device(l, name);
    (void)number;
    if (!d) return false;
    *observer = (fg_replay_observer){.context = d,
                                     .change = all->summary ? NULL : on_change,
                                     .broken = on_broken,
                                     .step = all->coverage || all->summary ? on_step : NULL};
    return true;
}

/* Counts are summed; of what is told once the first device has it. */
static void add_report(fg_replay_report *sum, const fg_replay_report *one)
{
    const fg_replay_report before = *sum;
    if (!before.rows || (one->unreadable && !before.unreadable) || (one->finer && !before.finer) ||
        (one->refused && !before.refused))
        *sum = *one;
    else
        *sum = before;
    sum->rows = before.rows + one->rows;
    sum->steps = before.steps + one->steps;
    sum->changes = before.changes + one->changes;
    sum->broken = before.broken + one->broken;
    sum->length_ms = before.length_ms > one->length_ms ? before.length_ms : one->length_ms;
    sum->overlooked = before.overlooked + one->overlooked;
    sum->unreadable = before.unreadable + one->unreadable;
    sum->finer = before.finer + one->finer;
    sum->faulty_steps = before.faulty_steps + one->faulty_steps;
    sum->zeros_missed = before.zeros_missed + one->zeros_missed;
    sum->refused = before.refused + one->refused;
}

static void on_end(void *context, size_t number, const fg_replay_report *report)
{
    const playing *l = context;
    tool_devices *all = l->all;
    const device *d = l->devices[number];
    fg_replay_report one = *report;
    if (one.length_ms < all->from_ms) return; /* it ends before the part */
    if (d->changes.chosen.count && !all->summary) one.changes = d->changes.told;
    add_report(l->report, &one);
    all->length_ms += one.length_ms - all->from_ms;
    all->changes->quiet += d->changes.quiet;
    all->changes->plays += d->changes.plays;
    all->changes->failed = all->changes->failed || d->changes.failed;
    if (d->summary) fg_summary_add(all->summary, d->summary, one.length_ms);
}

fg_status tool_devices_play(tool_devices *all, const fg_readings *readings, fg_replay_report *report,
                            fg_mistake *mistake)
{
    all->by = readings->options.by;
    playing list = {.all = all, .report = report, .gather = tool_gather_open()};
    const fg_devices_observer observer = {
        .context = &list, .begin = on_device, .end = on_end, .progress = all->progress};
    *mistake = (fg_mistake){.status = FG_ERROR_MEMORY, .file = "fickle", .text = "there is not enough memory"};
    *report = (fg_replay_report){0};
    const fg_status status =
        list.gather ? fg_replay_devices(all->program, readings, &observer, mistake) : FG_ERROR_MEMORY;
    all->count = list.count;
    if (status == FG_OK && !tool_gather_copy(list.gather, all->changes->output)) all->changes->failed = true;
    tool_gather_close(list.gather);
    for (size_t i = 0; i < list.count; i++) {
        fg_summary_end(list.devices[i]->summary);
        free(list.devices[i]->name);
        free(list.devices[i]);
    }
    free(list.devices);
    return status;
}
