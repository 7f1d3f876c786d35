/* SPDX-License-Identifier: MIT */
/* The trials of a gate file before and after a change of it. */
#include "workshop/base/buffer.h"

#include <ficklegate/trials.h>

#include <stdlib.h>

/* How every expectation came out, in the order of the file. */
typedef struct outcomes {
    fg_outcome *list;
    size_t count, room, held, broken;
    const struct outcomes *before;     /* NULL: these are the ones before */
    const fg_trial_observer *observer; /* hears of those that held and do not any more */
    bool full;
} outcomes;

static bool held_before(const outcomes *o)
{
    return o->before && o->count < o->before->count && o->before->list[o->count] == FG_OUTCOME_HELD;
}

static void on_result(void *context, const fg_trial_result *result)
{
    outcomes *o = context;
    if (o->count == o->room) {
        const size_t room = o->room ? 2 * o->room : 64;
        fg_outcome *list = realloc(o->list, room * sizeof *list);
        o->full = o->full || !list;
        if (!list) return;
        o->list = list;
        o->room = room;
    }
    const bool broken = held_before(o) && result->outcome != FG_OUTCOME_HELD;
    o->list[o->count++] = result->outcome;
    o->held += result->outcome == FG_OUTCOME_HELD;
    o->broken += broken;
    if (broken && o->observer->result) o->observer->result(o->observer->context, result);
}

static fg_status run(const fg_gate_file *file, const fg_recording_options *options, unsigned jobs, outcomes *o,
                     fg_mistake *mistake)
{
    const fg_trial_observer gathering = {.context = o, .result = on_result, .progress = o->observer->progress};
    const fg_status status = fg_trials_run(file, options, jobs, &gathering, mistake);
    if (status != FG_OK || !o->full) return status;
    return fg_mistake_set(mistake, FG_ERROR_MEMORY, "fickle", 0, "there is not enough memory");
}

fg_status fg_trials_compare(const fg_gate_file *before, const fg_gate_file *after, const fg_recording_options *options,
                            unsigned jobs, const fg_trial_observer *observer, fg_trials_compared *compared,
                            fg_mistake *mistake)
{
    outcomes old = {.observer = observer}, new = {.observer = observer, .before = &old};
    fg_status status = run(before, options, jobs, &old, mistake);
    if (status == FG_OK) status = run(after, options, jobs, &new, mistake);
    *compared = (fg_trials_compared){old.held, old.count, new.held, new.count, new.broken};
    free(old.list);
    free(new.list);
    return status;
}
