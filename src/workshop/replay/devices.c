/* SPDX-License-Identifier: MIT */
/* Several devices in one recording: each is played as if its rows were a recording of their own. */
#include "workshop/replay/replaying.h"

#include <stdlib.h>

static fg_status no_memory(fg_mistake *mistake, const char *name)
{
    return fg_mistake_set(mistake, FG_ERROR_MEMORY, name, 0, "there is not enough memory to play it");
}

typedef struct device {
    fg_replaying replay;
    fg_replay_observer observer;
    fg_replay_report report;
} device;

typedef struct devices {
    const fg_program *program;
    const fg_readings *readings;
    const fg_devices_observer *observer;
    device **all;
    size_t count, named, room; /* `named`: of whom there was a row */
    device *now;
    char **columns; /* of the heading, which each device hears */
    fg_text *texts;
    size_t column_count;
    bool full, stopped;
} devices;

static device *new_device(devices *s)
{
    if (s->count == s->room) {
        const size_t room = s->room ? 2 * s->room : 16;
        device **all = realloc(s->all, room * sizeof(device *));
        if (!all) return NULL;
        s->all = all;
        s->room = room;
    }
    device *d = calloc(1, sizeof *d);
    if (!d) return NULL;
    s->all[s->count++] = d;
    d->replay = fg_replaying_begin(s->program, s->readings, &d->observer, &d->report);
    return fg_player_start(&d->replay.player) ? d : NULL;
}

/* Everything that is wrong with the columns is told before the first row, by the first device, which has no name yet.
 */
static bool devices_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    devices *s = context;
    s->columns = calloc(count + 1, sizeof *s->columns);
    s->texts = calloc(count + 1, sizeof *s->texts);
    s->now = s->columns && s->texts ? new_device(s) : NULL;
    s->full = !s->now;
    for (size_t i = 0; i < count && !s->full; i++) {
        s->columns[i] = fg_c_string_of(columns[i]);
        s->full = !s->columns[i];
        if (!s->full) s->texts[i] = (fg_text){s->columns[i], columns[i].size};
    }
    s->column_count = count;
    if (!s->full) return fg_replaying_heading(&s->now->replay, columns, count, mistake);
    (void)no_memory(mistake, "");
    return false;
}

static bool on_device(void *context, fg_text name, size_t number, fg_mistake *mistake)
{
    devices *s = context;
    const bool is_new = number == s->named;
    if (is_new && number) /* the first one is there since the heading */
        s->full = !new_device(s) || !fg_replaying_heading(&s->all[number]->replay, s->texts, s->column_count, mistake);
    s->now = s->full ? NULL : s->all[number];
    if (is_new && !s->full) s->full = !s->observer->begin(s->observer->context, name, number, &s->now->observer);
    s->named += is_new;
    if (s->full) (void)no_memory(mistake, "");
    return !s->full;
}

/* A device whose part is over ends nobody else's. */
static bool on_device_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line,
                          fg_mistake *mistake)
{
    devices *s = context;
    fg_replaying *r = &s->now->replay;
    (void)mistake;
    if (r->over || fg_replaying_row(r, t_ms, cells, count, line) || r->over) return true;
    s->stopped = true;
    return false;
}

static void devices_note(void *context, const char *text)
{
    fg_replaying_note(&((devices *)context)->all[0]->replay, text);
}

static bool devices_unit(void *context, fg_text name, fg_text unit, uint64_t line)
{
    return fg_player_unit(&((devices *)context)->all[0]->replay.player, name, unit, line);
}

static void end_devices(devices *s, bool good)
{
    for (size_t i = 0; i < s->count; i++) {
        fg_replaying *r = &s->all[i]->replay;
        if (good) fg_replaying_last_steps(r);
        s->full = s->full || fg_player_is_cut_short(&r->player);
        if (good && r->player.began && s->observer->end) s->observer->end(s->observer->context, i, &s->all[i]->report);
        fg_replaying_end(r);
        free(s->all[i]);
    }
    for (size_t i = 0; s->columns && i < s->column_count; i++) free(s->columns[i]);
    free(s->columns);
    free(s->texts);
    free(s->all);
}

fg_status fg_replay_devices(const fg_program *program, const fg_readings *readings, const fg_devices_observer *observer,
                            fg_mistake *mistake)
{
    devices s = {.program = program, .readings = readings, .observer = observer};
    const fg_recording_sink sink = {.context = &s,
                                    .heading = devices_heading,
                                    .row = on_device_row,
                                    .note = devices_note,
                                    .progress = observer->progress,
                                    .unit = devices_unit,
                                    .device = on_device};
    fg_status status = fg_recording_read(readings->recording, &readings->options, &sink, mistake);
    if (status == FG_OK && !s.named)
        status = fg_mistake_set(mistake, FG_ERROR_RECORDING, readings->recording, 0, "has a heading but no rows");
    if (s.stopped) status = FG_OK;
    end_devices(&s, status == FG_OK);
    return s.full ? no_memory(mistake, readings->recording) : status;
}
