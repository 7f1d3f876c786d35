/* What a board said, held against the gate's own answers. */
#include "workshop/base/buffer.h"

#include <ficklegate/compare.h>

#include <stdlib.h>
#include <string.h>

typedef struct comparer {
    fg_compared *compared;
    bool full; /* there is no memory for it */
} comparer;

/* The name's place, which is made where it is new: the order is put right at the end. */
static fg_compared_name *name_of(fg_compared *c, const fg_declared *declared)
{
    for (size_t i = 0; i < c->count; i++)
        if (c->names[i].declared == declared) return &c->names[i];
    fg_compared_name *names = realloc(c->names, (c->count + 1) * sizeof *names);
    if (!names) return NULL;
    c->names = names;
    names[c->count] = (fg_compared_name){.declared = declared};
    return &names[c->count++];
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

static bool on_said(void *context, const fg_said *said)
{
    comparer *x = context;
    fg_compared_name *name = name_of(x->compared, said->declared);
    x->full = !name || (!said->agrees && !keep_first(name, said));
    if (x->full) return false;
    name->compared++;
    name->agree += said->agrees;
    name->between += said->between;
    return true;
}

static int by_place(const void *a, const void *b)
{
    const fg_compared_name *x = a, *y = b;
    return (x->declared > y->declared) - (x->declared < y->declared);
}

fg_status fg_compare_recording(const fg_program *program, const fg_readings *readings, fg_progress progress,
                               fg_compared *compared, fg_replay_report *report, fg_mistake *mistake)
{
    comparer x = {.compared = compared};
    const fg_replay_observer observer = {.context = &x, .said = on_said, .progress = progress};
    *compared = (fg_compared){0};
    const fg_status status = fg_replay(program, readings, &observer, report, mistake);
    if (compared->count) qsort(compared->names, compared->count, sizeof *compared->names, by_place);
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
