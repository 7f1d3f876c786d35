/* SPDX-License-Identifier: MIT */
/* What a board said, held against the gate's own answers. */
#include "workshop/base/buffer.h"

#include <ficklegate/compare.h>

#include <stdlib.h>
#include <string.h>

typedef struct comparer {
    fg_compared *compared;
    bool full; /* there is no memory for it */
} comparer;

/* The name's place, in the order of the gate file. */
static fg_compared_name *name_of(fg_compared *c, const fg_declared *declared)
{
    size_t at = 0;
    while (at < c->count && c->names[at].declared < declared) at++;
    if (at < c->count && c->names[at].declared == declared) return &c->names[at];
    fg_compared_name *names = realloc(c->names, (c->count + 1) * sizeof *names);
    if (!names) return NULL;
    c->names = names;
    memmove(names + at + 1, names + at, (c->count - at) * sizeof *names);
    names[at] = (fg_compared_name){.declared = declared};
    c->count++;
    return &names[at];
}

/* False: no memory. */
static bool keep_first(fg_compared_name *name, const fg_said *said)
{
    if (name->said) return true;
    name->t_ms = said->t_ms;
    name->line = said->line;
    name->said = fg_c_string_of(said->said);
    name->own = fg_c_string_of(said->own);
    name->because = fg_c_string_of(said->because);
    return name->said && name->own && name->because;
}

bool fg_compared_add(fg_compared *compared, const fg_said *said)
{
    fg_compared_name *name = name_of(compared, said->declared);
    if (!name || (!said->agrees && !keep_first(name, said))) return false;
    name->compared++;
    name->agree += said->agrees;
    name->between += said->between;
    return true;
}

static bool on_said(void *context, const fg_said *said)
{
    comparer *x = context;
    x->full = !fg_compared_add(x->compared, said);
    return !x->full;
}

fg_status fg_compare_recording(const fg_program *program, const fg_readings *readings, fg_progress progress,
                               fg_compared *compared, fg_replay_report *report, fg_mistake *mistake)
{
    comparer x = {.compared = compared};
    const fg_replay_observer observer = {.context = &x, .said = on_said, .progress = progress};
    *compared = (fg_compared){0};
    const fg_status status = fg_replay(program, readings, &observer, report, mistake);
    if (x.full)
        return fg_mistake_set(mistake, FG_ERROR_MEMORY, readings->recording, 0,
                              "there is not enough memory to compare it");
    return status;
}

void fg_compared_end(fg_compared *compared)
{
    for (size_t i = 0; i < compared->count; i++) {
        free(compared->names[i].said);
        free(compared->names[i].own);
        free(compared->names[i].because);
    }
    free(compared->names);
    *compared = (fg_compared){0};
}
