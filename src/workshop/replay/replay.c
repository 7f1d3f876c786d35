/* SPDX-License-Identifier: MIT */
/* A recording through a gate on the simulated board: rows become readings, steps become reports of what changed. */
#include "workshop/recordings/recording.h"
#include "workshop/replay/player.h"

#include <ficklegate/scenes.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* What a column of the recording is for. */
typedef struct column {
    fg_input input;
    const fg_declared *said_of; /* the name a board said something of, if that is listened to */
} column;

typedef struct replay {
    fg_player player;
    const fg_readings *readings;
    column *columns;
    size_t column_count;
    int64_t first_ms; /* of the first row, as written */
    bool over;        /* the part to report has ended */
} replay;

/* ---- rows ---- */

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake)
{
    replay *r = context;
    fg_player *p = &r->player;
    (void)mistake;
    if (!p->began) {
        r->first_ms = t_ms;
        p->clock = (fg_time)(uint64_t)t_ms;
    }
    const int64_t from_first = t_ms - r->first_ms, last = r->readings->to_ms;
    r->over = last && from_first > last;
    if (!fg_player_until(p, r->over && p->pace ? last + 1 : from_first, line) || r->over) return false;
    fg_player_row(p, from_first);
    if (p->observer->row && !p->observer->row(p->observer->context, from_first, cells, count)) {
        p->stopped = true;
        return false;
    }
    for (size_t i = 0; i < count; i++) {
        if (r->columns[i].input.declared) fg_player_cell(p, &r->columns[i].input, cells[i], line);
        if (r->columns[i].said_of) fg_player_say(p, r->columns[i].said_of, cells[i], line);
    }
    return fg_player_row_ends(p);
}

static void last_steps(replay *r)
{
    fg_player *p = &r->player;
    if (!p->began || p->stopped) return;
    p->report->length_ms = r->over ? r->readings->to_ms : p->t_ms;
    if (!r->over) fg_player_last_step(p); /* the row behind the part has made its last step */
    if (!p->stopped && p->observer->end) p->observer->end(p->observer->context, p->run);
}

/* ---- the heading ---- */

static void list_name(char *list, size_t room, fg_text name)
{
    const size_t size = strlen(list), comma = size ? 2 : 0;
    char shown[200];
    fg_text_keep(shown, sizeof shown, name);
    if (size + comma + strlen(shown) + 1 <= room) snprintf(list + size, room - size, "%s%s", comma ? ", " : "", shown);
}

/* Gives a column to its sensor or flag; each has one at most. */
static bool take_column(replay *r, size_t i, fg_text name, const fg_declared **owners, fg_mistake *mistake)
{
    fg_input input;
    if (!fg_player_input(&r->player, name, &input)) return true;
    if (input.counts && !r->player.program->gate.sensors[input.declared->index].scale_count) {
        fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                       "the column '%.*s' holds counts, but the sensor has no 'raw ... reads' to make units of them",
                       (int)name.size, name.at);
        return false;
    }
    if (owners[input.number]) {
        fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0, "'%.*s' has two columns; remove one of them",
                       (int)input.declared->name.size, input.declared->name.at);
        return false;
    }
    owners[input.number] = input.declared;
    r->columns[i].input = input;
    return true;
}

/* A column that nothing uses and that is called as this input, but for letter case, unit, or what stands around it. */
static fg_text column_like(const replay *r, const fg_text *columns, size_t count, fg_text name)
{
    fg_text best = {0}, unit;
    for (size_t i = 0; i < count; i++) {
        const fg_text bare = fg_column_name(columns[i], &unit);
        if (r->columns[i].input.declared) continue;
        if (fg_text_alike(bare, name)) return columns[i];
        for (size_t k = 0; !best.size && name.size > 2 && k + name.size <= bare.size; k++)
            if (fg_text_alike((fg_text){bare.at + k, name.size}, name)) best = columns[i];
    }
    return best;
}

static void note_unread(replay *r, const fg_text *columns, size_t count, const fg_declared *input)
{
    fg_replay_report *report = r->player.report;
    list_name(report->unread, sizeof report->unread, input->name);
    if (report->unread_count++) return;
    fg_text_keep(report->unread_name, sizeof report->unread_name, input->name);
    const fg_text like = column_like(r, columns, count, input->name);
    if (like.size < sizeof report->unread_like) fg_text_keep(report->unread_like, sizeof report->unread_like, like);
}

static bool on_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    replay *r = context;
    const fg_player *p = &r->player;
    const fg_declared **owners = calloc((size_t)p->sim.input_count + 1, sizeof(fg_declared *));
    r->columns = calloc(count, sizeof *r->columns);
    r->column_count = count;
    size_t said = 0;
    bool good = owners && r->columns;
    if (!good) fg_mistake_set(mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory for its columns");
    for (size_t i = 0; good && i < count; i++) {
        column *c = &r->columns[i];
        list_name(p->report->columns, sizeof p->report->columns, columns[i]);
        good = take_column(r, i, columns[i], owners, mistake);
        c->said_of = p->observer->said ? fg_player_said_of(p, columns[i]) : NULL;
        said += c->said_of != NULL;
        if (!c->input.declared && !c->said_of && fg_time_kind_of(columns[i]) == FG_TIME_NONE)
            list_name(p->report->ignored, sizeof p->report->ignored, columns[i]);
    }
    uint32_t inputs = 0;
    for (uint32_t i = 0; good && i < p->program->declared_count; i++) {
        const fg_declared *d = &p->program->declared[i];
        if (!fg_program_reads(p->program, d)) continue;
        inputs++;
        if (owners[d->index + (d->kind == FG_KIND_FLAG ? p->program->gate.size.sensors : 0)]) continue;
        note_unread(r, columns, count, d);
    }
    if (good && p->report->unread_count == inputs) {
        fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                       "no column belongs to a sensor or flag of the gate; it has %s, the gate has %s",
                       p->report->columns, inputs ? p->report->unread : "none");
        good = false;
    }
    if (good && p->observer->said && !said) {
        fg_mistake_set(
            mistake, FG_ERROR_RECORDING, "", 0,
            "no column is named like a rule, count or output of the gate, so there is nothing to compare; it "
            "has %s",
            p->report->columns);
        good = false;
    }
    free(owners);
    return good && (!p->observer->columns || p->observer->columns(p->observer->context, columns, count, mistake));
}

/* ---- the way in ---- */

static void on_note(void *context, const char *text)
{
    const replay *r = context;
    fg_text_keep(r->player.report->note, sizeof r->player.report->note, (fg_text){text, strlen(text)});
}

static bool on_unit(void *context, fg_text name, fg_text unit, uint64_t line)
{
    return fg_player_unit(&((replay *)context)->player, name, unit, line);
}

static fg_status read_all(replay *r, const fg_readings *readings, fg_mistake *mistake)
{
    const fg_player *p = &r->player;
    const fg_recording_sink sink = {r, on_heading, on_row, on_note, p->observer->progress, on_unit};
    fg_recording_options options = readings->options;
    if (!options.only.size) options.only = fg_player_only(p);
    fg_status status = readings->scene ? fg_scene_read(p->program, readings->scene, &sink, mistake)
                                       : fg_recording_read(readings->recording, &options, &sink, mistake);
    if (status == FG_OK && !p->began)
        status = fg_mistake_set(mistake, FG_ERROR_RECORDING, readings->recording, 0, "has a heading but no rows");
    if (status == FG_OK || r->over) last_steps(r);
    if (p->stopped || r->over) return FG_OK;
    if (status == FG_OK && p->t_ms < readings->from_ms)
        status = fg_mistake_set(mistake, FG_ERROR_ARGUMENT, readings->scene ? "fickle" : readings->recording, 0,
                                "ends at %" PRId64 ".%03" PRId64 " s, before the part you asked for begins",
                                p->t_ms / 1000, p->t_ms % 1000);
    return status;
}

fg_status fg_replay(const fg_program *program, const fg_readings *readings, const fg_replay_observer *observer,
                    fg_replay_report *report, fg_mistake *mistake)
{
    replay r = {.player = {.program = program,
                           .observer = observer,
                           .report = report,
                           .pace = readings->options.row_steps ? 0 : program->gate.every,
                           .from_ms = readings->from_ms,
                           .gap = readings->options.gap,
                           .gap_context = readings->options.gap_context},
                .readings = readings};
    const char *name = readings->scene ? "fickle" : readings->recording;
    fg_status status = FG_ERROR_MEMORY;
    *report = (fg_replay_report){0};
    *mistake = (fg_mistake){0};
    if (fg_player_start(&r.player)) status = read_all(&r, readings, mistake);
    if (fg_player_is_cut_short(&r.player) || (status == FG_ERROR_MEMORY && !*mistake->text))
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, name, 0, "there is not enough memory to play it");
    free(r.columns);
    fg_player_end(&r.player);
    return status;
}
