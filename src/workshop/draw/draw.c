/* SPDX-License-Identifier: MIT */
/* What every name was, gathered for a picture: the lowest and highest reading of each stretch of time, and each change
 * of an answer. */
#include "workshop/draw/draw.h"
#include "workshop/draw/draw_theme.h"

#include <stdlib.h>
#include <string.h>

/* ---- lanes ---- */

static bool can_be_drawn(const fg_declared *d) { return d->kind != FG_KIND_NUMBER && d->kind != FG_KIND_SEQUENCE; }

/* Sensors stand on top, outputs at the bottom. */
static int place_of(const fg_declared *d)
{
    return d->kind == FG_KIND_SENSOR ? 0 : d->kind == FG_KIND_FLAG ? 1 : fg_kind_is(d->kind, FG_KIND_IS_OUTPUT) ? 3 : 2;
}

static bool add_lane(fg_picture *p, const fg_declared *d)
{
    fg_lane *lane = &p->lanes[p->lane_count++];
    *lane = (fg_lane){.declared = d};
    if (d->kind != FG_KIND_SENSOR) return true;
    p->sensor_count++;
    lane->buckets = calloc(FG_BUCKETS, sizeof *lane->buckets);
    return lane->buckets != NULL;
}

static bool make_lanes(fg_picture *p)
{
    const fg_draw_options *o = p->options;
    bool good = true;
    p->lanes = calloc((size_t)p->program->declared_count + o->name_count + 1, sizeof *p->lanes);
    if (!p->lanes) return false;
    for (int place = 0; place < 4; place++) {
        for (size_t i = 0; i < o->name_count; i++)
            if (place_of(o->names[i]) == place && can_be_drawn(o->names[i])) good = add_lane(p, o->names[i]) && good;
        for (uint32_t i = 0; i < p->program->declared_count && !o->name_count; i++) {
            const fg_declared *d = &p->program->declared[i];
            if (place_of(d) == place && can_be_drawn(d)) good = add_lane(p, d) && good;
        }
    }
    return good;
}

static void free_stretch(const fg_stretch *s)
{
    if (s->owned) free(s->text);
}

static void drop_lanes(fg_picture *p)
{
    for (size_t i = 0; p->lanes && i < p->lane_count; i++) {
        for (size_t k = 0; k < p->lanes[i].stretch_count; k++) free_stretch(&p->lanes[i].stretches[k]);
        for (uint8_t k = 0; k < p->lanes[i].level_count; k++) free(p->lanes[i].levels[k]);
        free(p->lanes[i].stretches);
        free(p->lanes[i].buckets);
    }
    free(p->lanes);
    fg_buffer_free(&p->text);
}

/* ---- buckets ---- */

static void join(fg_bucket *to, const fg_bucket *more)
{
    to->faulty = to->faulty || more->faulty;
    if (!more->seen) return;
    if (!to->seen) {
        const bool faulty = to->faulty;
        *to = *more;
        to->faulty = faulty;
        return;
    }
    if (more->lowest < to->lowest) to->lowest = more->lowest;
    if (more->highest > to->highest) to->highest = more->highest;
    to->last = more->last;
}

/* Twice the time for each. */
static void widen(fg_picture *p)
{
    for (size_t i = 0; i < p->sensor_count; i++) {
        fg_bucket *b = p->lanes[i].buckets;
        for (size_t k = 0; k < FG_BUCKETS; k++) {
            const fg_bucket moved = b[k];
            if (k % 2 == 0)
                b[k / 2] = moved;
            else
                join(&b[k / 2], &moved);
        }
        memset(b + FG_BUCKETS / 2, 0, FG_BUCKETS / 2 * sizeof *b);
    }
    p->bucket_ms *= 2;
}

static void sensor_step(fg_picture *p, const fg_lane *lane, const fg_run *run, int64_t t_ms)
{
    fg_bucket now = {0};
    now.seen = fg_sensor_value(run, lane->declared->index, &now.last);
    now.faulty = !now.seen;
    now.first = now.lowest = now.highest = now.last;
    join(&lane->buckets[(t_ms - p->from_ms) / p->bucket_ms], &now);
}

/* ---- answers ---- */

static bool is_rest(const fg_declared *d, fg_text text, const fg_run *run, bool *unsure)
{
    *unsure = false;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) {
        const uint8_t form = fg_output_at(run, d->index)->level.form;
        return form == FG_FORM_OFF || form == FG_FORM_QUIET || form == FG_FORM_STOP || form == FG_FORM_BLANK;
    }
    if (d->kind == FG_KIND_COUNT) return false;
    *unsure = fg_answer(run, d->slot) == FG_UNSURE;
    return !fg_kind_is(d->kind, FG_KIND_LABELS) && fg_text_same(text, fg_text_of("no"));
}

/* Levels come again and again: each of the first is kept once, in the order in which they came. */
static void take_text(fg_lane *lane, fg_stretch *s, fg_text text)
{
    s->level = s->rest || s->unsure ? FG_LEVELS : 0;
    while (s->level < lane->level_count && !fg_text_same(text, fg_text_of(lane->levels[s->level]))) s->level++;
    if (s->level < lane->level_count) {
        s->text = lane->levels[s->level];
        return;
    }
    s->text = fg_c_string_of(text);
    s->owned = s->level >= FG_LEVELS;
    if (s->text && !s->owned) lane->levels[lane->level_count++] = s->text;
}

static void add_stretch(fg_picture *p, fg_lane *lane, const fg_run *run, int64_t t_ms)
{
    const fg_text text = fg_text_now(&p->text, lane->declared, run);
    if (lane->stretch_count && t_ms <= p->from_ms) /* only the last one before the part counts */
        free_stretch(&lane->stretches[--lane->stretch_count]);
    if (lane->stretch_count == lane->stretch_room) {
        const size_t room = lane->stretch_room ? 2 * lane->stretch_room : 64;
        fg_stretch *stretches = realloc(lane->stretches, room * sizeof *stretches);
        p->full = p->full || !stretches;
        if (!stretches) return;
        lane->stretches = stretches;
        lane->stretch_room = room;
    }
    fg_stretch *s = &lane->stretches[lane->stretch_count++];
    *s = (fg_stretch){.t_ms = t_ms < p->from_ms ? p->from_ms : t_ms};
    if (fg_kind_is(lane->declared->kind, FG_KIND_IS_OUTPUT)) s->at = fg_output_at(run, lane->declared->index)->level;
    s->rest = is_rest(lane->declared, text, run, &s->unsure);
    take_text(lane, s, text);
    p->full = p->full || !s->text;
}

static bool has_changed(fg_lane *lane, const fg_run *run)
{
    const fg_declared *d = lane->declared;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) return !lane->stretch_count || fg_output_at(run, d->index)->changed;
    if (d->kind == FG_KIND_COUNT) {
        const fg_value count = fg_count_value(run, d->index);
        const bool changed = !lane->stretch_count || count != lane->count;
        lane->count = count;
        return changed;
    }
    const fg_verdict answer = fg_answer(run, d->slot);
    const bool changed = !lane->stretch_count || answer != lane->answer;
    lane->answer = answer;
    return changed;
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    fg_picture *p = context;
    (void)before;
    const bool inside = t_ms >= p->from_ms;
    while (inside && (t_ms - p->from_ms) / p->bucket_ms >= FG_BUCKETS) widen(p);
    for (size_t i = 0; i < p->lane_count; i++) {
        fg_lane *lane = &p->lanes[i];
        if (lane->buckets && inside)
            sensor_step(p, lane, run, t_ms);
        else if (!lane->buckets && has_changed(lane, run))
            add_stretch(p, lane, run, t_ms);
    }
    p->to_ms = t_ms;
    return !p->full;
}

fg_status fg_draw(const fg_program *program, const fg_readings *readings, const fg_draw_options *draw, const char *path,
                  fg_replay_report *report, fg_mistake *mistake)
{
    fg_picture p = {.program = program, .options = draw, .bucket_ms = 1, .from_ms = readings->from_ms};
    const fg_replay_observer observer = {.context = &p, .step = on_step, .progress = draw->progress};
    *mistake = (fg_mistake){0};
    if (!fg_picture_ending(path))
        return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "the ending says how it is to be drawn: .png or .svg");
    fg_status status = FG_ERROR_MEMORY;
    if (make_lanes(&p)) status = fg_replay(program, readings, &observer, report, mistake);
    if (status == FG_ERROR_MEMORY || p.full || p.text.full)
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to draw it");
    if (status == FG_OK) {
        if (report->length_ms > p.to_ms) p.to_ms = report->length_ms;
        if (p.to_ms <= p.from_ms) p.to_ms = p.from_ms + 1;
    }
    if (status == FG_OK) status = fg_plot(&p, path, mistake);
    drop_lanes(&p);
    return status;
}
