/* SPDX-License-Identifier: MIT */
/* Readings through one gate, or through several that differ in numbers and are played at once. */
#include "workshop/replay/replaying.h"

#include <ficklegate/scenes.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

typedef struct group {
    fg_replaying *all;
    size_t count;
    fg_beside beside; /* of the first of them */
} group;

static bool on_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    const group *g = context;
    for (size_t i = 0; i < g->count; i++)
        if (!fg_replaying_heading(&g->all[i], columns, count, mistake)) return false;
    return true;
}

/* Gates that read a column in different steps get its cells. */
static const fg_number_column *on_wanted(void *context)
{
    const group *g = context;
    const fg_number_column *first = fg_replaying_wanted(&g->all[0]);
    bool same = first != NULL;
    for (size_t i = 1; i < g->count && same; i++) {
        const fg_number_column *own = fg_replaying_wanted(&g->all[i]);
        same = own && !memcmp(own, first, g->all[0].column_count * sizeof *own);
    }
    return same ? first : NULL;
}

/* The part is over for all of them at once; an observer that has seen enough ends all. */
static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake)
{
    const group *g = context;
    bool go_on = true;
    (void)mistake;
    for (size_t i = 0; i < g->count; i++) go_on = fg_replaying_row(&g->all[i], t_ms, cells, count, line) && go_on;
    return go_on;
}

static bool on_numbers(void *context, const fg_number_rows *rows, fg_mistake *mistake)
{
    const group *g = context;
    bool go_on = true;
    (void)mistake;
    for (size_t i = 0; i < g->count; i++) go_on = fg_replaying_numbers(&g->all[i], rows) && go_on;
    return go_on;
}

static void on_note(void *context, const char *text)
{
    const group *g = context;
    for (size_t i = 0; i < g->count; i++) fg_replaying_note(&g->all[i], text);
}

static bool on_unit(void *context, fg_text name, fg_text unit, uint64_t line)
{
    const group *g = context;
    bool own = true;
    for (size_t i = 0; i < g->count; i++) own = fg_player_unit(&g->all[i].player, name, unit, line) && own;
    return own;
}

static fg_status read_all(group *g, const fg_readings *readings, fg_mistake *mistake)
{
    const fg_replaying *r = &g->all[0];
    const fg_player *p = &r->player;
    const fg_recording_sink sink = {.context = g,
                                    .heading = on_heading,
                                    .row = on_row,
                                    .note = on_note,
                                    .progress = p->observer->progress,
                                    .unit = on_unit,
                                    .wanted = on_wanted,
                                    .numbers = on_numbers};
    fg_recording_options options = readings->options;
    bool stopped = false;
    if (!options.only.size) options.only = fg_player_only(p);
    fg_status status = readings->scene ? fg_scene_read(p->program, readings->scene, &sink, mistake)
                       : readings->kept
                           ? fg_kept_rows_read(readings->kept, readings->recording, &options, &sink, mistake)
                           : fg_recording_read(readings->recording, &options, &sink, mistake);
    if (status == FG_OK && !p->began)
        status = fg_mistake_set(mistake, FG_ERROR_RECORDING, readings->recording, 0, "has a heading but no rows");
    for (size_t i = 0; i < g->count; i++) {
        if (status == FG_OK || r->over) fg_replaying_last_steps(&g->all[i]);
        stopped = stopped || g->all[i].player.stopped;
    }
    if (stopped || r->over) return FG_OK;
    if (status == FG_OK && p->t_ms < readings->from_ms)
        status = fg_mistake_set(mistake, FG_ERROR_ARGUMENT, readings->scene ? "fickle" : readings->recording, 0,
                                "ends at %" PRId64 ".%03" PRId64 " s, before the part you asked for begins",
                                p->t_ms / 1000, p->t_ms % 1000);
    return status;
}

/* ---- several gates ---- */

static bool asks_for_changes_alone(const fg_replay_observer *o)
{
    return o->without_reasons && !o->step && !o->end && !o->columns && !o->row && !o->said;
}

/* What fits the first program is played beside it, all else on its own. */
static bool begin_all(group *g, const fg_program *const *programs, const fg_replay_observer *observers, size_t count,
                      const fg_readings *readings, fg_replay_report *reports)
{
    fg_beside *b = &g->beside;
    bool good = true;
    const bool alone = count == 1 || programs[0]->promises_watched || !asks_for_changes_alone(&observers[0]);
    b->gates = alone ? NULL : calloc(count, sizeof *b->gates);
    for (size_t i = 0; i < count; i++) {
        const bool fits = i && b->gates && !programs[i]->promises_watched && asks_for_changes_alone(&observers[i]) &&
                          fg_beside_fits(programs[0], programs[i]);
        if (fits) {
            reports[i] = (fg_replay_report){0};
            b->gates[b->count++] =
                (fg_beside_gate){.program = programs[i], .observer = &observers[i], .report = &reports[i]};
            continue;
        }
        fg_replaying *r = &g->all[g->count++];
        *r = fg_replaying_begin(programs[i], readings, &observers[i], &reports[i]);
        if (i) r->player.gap = NULL; /* one of them tells it */
        good = fg_player_start(&r->player) && good;
    }
    if (b->count) good = fg_beside_start(b, programs[0]) && good;
    if (b->count) g->all[0].player.beside = b;
    return good;
}

fg_status fg_replay_together(const fg_program *const *programs, const fg_replay_observer *observers, size_t count,
                             const fg_readings *readings, fg_replay_report *reports, fg_mistake *mistake)
{
    group g = {.all = calloc(count, sizeof *g.all)};
    fg_status status = FG_ERROR_MEMORY;
    *mistake = (fg_mistake){0};
    bool good = g.all && begin_all(&g, programs, observers, count, readings, reports);
    if (good) status = read_all(&g, readings, mistake);
    good = good && !fg_beside_is_cut_short(&g.beside);
    for (size_t i = 0; i < g.count; i++) {
        good = good && !fg_player_is_cut_short(&g.all[i].player);
        fg_replaying_end(&g.all[i]);
    }
    fg_beside_end(&g.beside, reports);
    free(g.all);
    if (!good || (status == FG_ERROR_MEMORY && !*mistake->text))
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, readings->scene ? "fickle" : readings->recording, 0,
                                "there is not enough memory to play it");
    return status;
}

fg_status fg_replay(const fg_program *program, const fg_readings *readings, const fg_replay_observer *observer,
                    fg_replay_report *report, fg_mistake *mistake)
{
    return fg_replay_together(&program, observer, 1, readings, report, mistake);
}
