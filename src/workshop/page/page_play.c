/* SPDX-License-Identifier: MIT */
/* A recording through the gate of a page, and what is asked about it. */
#include "workshop/page/session.h"

#include <ficklegate/promise.h>
#include <ficklegate/scenes.h>

#include <math.h>
#include <stdlib.h>
#include <string.h>

/* While a recording is played. */
typedef struct playing {
    fg_page *page;
    fg_page_played *played;
    json_t *broken, *columns;
    bool full;
} playing;

void fg_page_played_end(fg_page_played *played)
{
    free(played->changes);
    free(played->times);
    for (size_t i = 0; played->values && i < played->sensor_count; i++) free(played->values[i]);
    free(played->values);
    json_decref(played->texts);
    json_decref(played->numbers);
    *played = (fg_page_played){0};
}

/* The place of a text among all there were so far. */
static bool number_of(fg_page_played *played, fg_text text, uint32_t *number)
{
    const char *at = text.size ? text.at : "";
    const json_t *known = json_object_getn(played->numbers, at, text.size);
    if (known) {
        *number = (uint32_t)json_integer_value(known);
        return true;
    }
    *number = (uint32_t)json_array_size(played->texts);
    return json_array_append_new(played->texts, fg_page_text(text)) == 0 &&
           json_object_setn_new_nocheck(played->numbers, at, text.size, json_integer(*number)) == 0;
}

static bool on_change(void *context, const fg_change *change)
{
    playing *p = context;
    fg_page_played *played = p->played;
    if (played->change_count == played->change_room) {
        const size_t room = played->change_room ? 2 * played->change_room : 1024;
        fg_page_change *changes = realloc(played->changes, room * sizeof *changes);
        p->full = p->full || !changes;
        if (!changes) return false;
        played->changes = changes;
        played->change_room = room;
    }
    fg_page_change *c = &played->changes[played->change_count++];
    *c = (fg_page_change){.t_ms = (double)change->t_ms,
                          .name = (uint32_t)(change->declared - p->page->file.program.declared)};
    p->full = p->full || !number_of(played, change->is, &c->text);
    return !p->full;
}

static bool room_for_step(fg_page_played *played)
{
    if (played->step_count < played->step_room) return true;
    const size_t room = played->step_room ? 2 * played->step_room : 4096;
    double *times = realloc(played->times, room * sizeof *times);
    if (!times) return false;
    played->times = times;
    for (size_t i = 0; i < played->sensor_count; i++) {
        float *values = realloc(played->values[i], room * sizeof *values);
        if (!values) return false;
        played->values[i] = values;
    }
    played->step_room = room;
    return true;
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    playing *p = context;
    fg_page_played *played = p->played;
    (void)before;
    p->full = p->full || !room_for_step(played);
    if (p->full) return false;
    played->times[played->step_count] = (double)t_ms;
    for (size_t i = 0; i < played->sensor_count; i++) {
        const fg_sensor_state *state = fg_sensor_at(run, (uint16_t)i);
        played->values[i][played->step_count] = state->ok ? (float)state->value : NAN;
    }
    played->step_count++;
    return true;
}

static bool on_columns(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    const playing *p = context;
    (void)mistake;
    for (size_t i = 0; i < count; i++) json_array_append_new(p->columns, fg_page_text(columns[i]));
    return true;
}

static bool on_broken(void *context, const fg_broken *broken)
{
    const playing *p = context;
    json_array_append_new(p->broken, fg_page_broken_row(p->page, broken));
    return true;
}

/* From steps to units, once all is known. */
static void into_units(const fg_program *program, fg_page_played *played)
{
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        float one = 1;
        if (d->kind != FG_KIND_SENSOR || !d->decimals) continue;
        for (uint8_t k = 0; k < d->decimals; k++) one *= 10;
        for (size_t step = 0; step < played->step_count; step++) played->values[d->index][step] /= one;
    }
}

static json_t *notes_of(const fg_replay_report *r)
{
    json_t *notes = json_array();
    char text[700];
    if (r->unread_count) {
        snprintf(text, sizeof text, "no column for %s, so it is faulty throughout; the columns are %s", r->unread,
                 r->columns);
        json_array_append_new(notes, fg_page_text(fg_text_of(text)));
    }
    if (r->unreadable) {
        snprintf(text, sizeof text,
                 "%llu cells could not be read and count as faulty; the first is in line %llu, %s: '%s'",
                 (unsigned long long)r->unreadable, (unsigned long long)r->unreadable_line, r->unreadable_name,
                 r->unreadable_cell);
        json_array_append_new(notes, fg_page_text(fg_text_of(text)));
    }
    if (r->finer) {
        snprintf(text, sizeof text, "%llu readings were finer than a step and were rounded; the first is %s of %s",
                 (unsigned long long)r->finer, r->finer_cell, r->finer_name);
        json_array_append_new(notes, fg_page_text(fg_text_of(text)));
    }
    return notes;
}

static bool begin(playing *p, unsigned how)
{
    fg_page_played *played = p->played;
    const uint16_t sensors = p->page->file.program.gate.size.sensors;
    fg_page_played_end(played);
    played->texts = json_array();
    played->numbers = json_object();
    p->broken = json_array();
    p->columns = json_array();
    if (how & FG_PAGE_VALUES) {
        played->sensor_count = sensors;
        played->values = calloc((size_t)sensors + 1, sizeof *played->values);
        if (!played->values) return false;
    }
    return played->texts && played->numbers && p->broken && p->columns;
}

/* The readings that are named, or a scene. False: there is no such scene. */
static bool readings_of(const fg_page *page, fg_readings *readings)
{
    *readings = (fg_readings){.recording = page->recording, .kept = page->kept};
    if (!page->of_scene) return true;
    readings->scene = fg_scene_find(&page->file.program, fg_text_of(page->recording));
    return readings->scene != NULL;
}

const char *fg_page_play(fg_page *page, const char *recording, unsigned how)
{
    playing p = {.page = page, .played = &page->played};
    fg_replay_report report;
    fg_mistake mistake = {0};
    fg_readings readings;
    if (!page->open) return fg_page_mistake(page, &mistake);
    char *copy = fg_c_string_of(fg_text_of(recording)); /* it may be the one that goes */
    free(page->recording);
    page->recording = copy;
    page->of_scene = how & FG_PAGE_SCENE;
    if (!copy || !begin(&p, how)) {
        json_decref(p.broken);
        json_decref(p.columns);
        return NULL;
    }
    const fg_replay_observer observer = {.context = &p,
                                         .change = on_change,
                                         .without_reasons = true,
                                         .step = how & FG_PAGE_VALUES ? on_step : NULL,
                                         .columns = on_columns,
                                         .broken = on_broken};
    fg_status status = FG_ERROR_ARGUMENT;
    if (readings_of(page, &readings)) status = fg_replay(&page->file.program, &readings, &observer, &report, &mistake);
    if (p.full || status != FG_OK) {
        json_decref(p.broken);
        json_decref(p.columns);
        return p.full ? NULL : fg_page_mistake(page, &mistake);
    }
    into_units(&page->file.program, p.played);
    return fg_page_answer(page, json_pack("{s:I, s:I, s:I, s:f, s:o, s:O, s:o, s:o}", "rows", (json_int_t)report.rows,
                                          "steps", (json_int_t)report.steps, "changes", (json_int_t)report.changes,
                                          "length", (double)report.length_ms, "columns", p.columns, "texts",
                                          p.played->texts, "notes", notes_of(&report), "broken", p.broken));
}

size_t fg_page_change_count(const fg_page *page) { return page->played.change_count; }
const fg_page_change *fg_page_changes(const fg_page *page) { return page->played.changes; }
size_t fg_page_step_count(const fg_page *page) { return page->played.step_count; }
const double *fg_page_times(const fg_page *page) { return page->played.times; }
size_t fg_page_sensor_count(const fg_page *page) { return page->played.sensor_count; }
const float *fg_page_values(const fg_page *page, uint32_t sensor)
{
    return sensor < page->played.sensor_count ? page->played.values[sensor] : NULL;
}

/* A cell of CSV, in quotes where it needs them (RFC 4180). */
static void add_cell(fg_buffer *out, const char *text)
{
    const bool quoted = strpbrk(text, ",\"\r\n") != NULL;
    if (quoted) fg_buffer_add_c(out, "\"");
    for (const char *c = text; *c; c++) {
        if (*c == '"') fg_buffer_add_c(out, "\"");
        fg_buffer_add(out, (fg_text){c, 1});
    }
    if (quoted) fg_buffer_add_c(out, "\"");
}

const char *fg_page_change_table(fg_page *page)
{
    const fg_page_played *played = &page->played;
    fg_buffer out = {0};
    const char **was = calloc((size_t)page->file.program.declared_count + 1, sizeof *was);
    if (!was) return NULL;
    fg_buffer_add_c(&out, "t_ms,name,was,is\n");
    for (size_t i = 0; i < played->change_count; i++) {
        const fg_page_change *c = &played->changes[i];
        const char *is = json_string_value(json_array_get(played->texts, c->text));
        fg_buffer_add_number(&out, (int64_t)c->t_ms);
        fg_buffer_add_c(&out, ",");
        fg_buffer_add(&out, page->file.program.declared[c->name].name);
        fg_buffer_add_c(&out, ",");
        if (was[c->name]) add_cell(&out, was[c->name]);
        fg_buffer_add_c(&out, ",");
        add_cell(&out, is);
        fg_buffer_add_c(&out, "\n");
        was[c->name] = is;
    }
    const char *answer =
        out.full ? NULL : fg_page_answer(page, json_pack("{s:o}", "text", fg_page_text(fg_buffer_text(&out))));
    free(was);
    fg_buffer_free(&out);
    return answer;
}

/* ---- why ---- */

static void on_reason(void *context, const fg_reason *reason)
{
    json_array_append_new(context, json_pack("{s:f, s:I, s:b, s:o}", "t", (double)reason->t_ms, "depth",
                                             (json_int_t)reason->depth, "decides", (int)reason->decides, "text",
                                             fg_page_text(reason->text)));
}

const char *fg_page_why(fg_page *page, uint32_t name, double t_ms)
{
    fg_mistake mistake = {0};
    fg_readings readings;
    fg_replay_report report;
    if (!page->open || !page->recording || name >= page->file.program.declared_count || !readings_of(page, &readings))
        return fg_page_mistake(page, &mistake);
    const fg_question question = {
        .name = &page->file.program.declared[name], .from_ms = (int64_t)t_ms, .to_ms = (int64_t)t_ms};
    json_t *reasons = json_array();
    const fg_why_observer observer = {.context = reasons, .reason = on_reason};
    if (fg_why(&page->file.program, &readings, &question, &observer, &report, &mistake) == FG_OK)
        return fg_page_answer(page, json_pack("{s:o}", "reasons", reasons));
    json_decref(reasons);
    return fg_page_mistake(page, &mistake);
}

/* ---- trials ---- */

static void on_result(void *context, const fg_trial_result *result)
{
    json_array_append_new(context,
                          json_pack("{s:I, s:o, s:s, s:o}", "line", (json_int_t)result->line, "expectation",
                                    fg_page_text(result->expectation), "outcome", fg_outcome_word(result->outcome),
                                    "because", fg_page_text(result->because)));
}

/* What was never tried, in the order of declaration. NULL: no memory. */
static json_t *untried_of(const fg_coverage *coverage, const fg_program *p)
{
    json_t *of_names = json_array(), *all = json_array();
    bool good = all && of_names;
    for (uint32_t d = 0; d < p->declared_count; d++) json_array_append_new(of_names, json_array());
    for (size_t i = 0; good && i < fg_coverage_size(coverage); i++) {
        bool tried;
        fg_text words;
        const fg_situation *s = fg_coverage_at(coverage, i, &tried);
        if (tried) continue;
        good = fg_coverage_words(coverage, i, &words);
        json_array_append_new(json_array_get(of_names, s->declared),
                              json_pack("{s:o, s:o, s:I}", "name", fg_page_text(p->declared[s->declared].name), "what",
                                        fg_page_text(words), "number", (json_int_t)i));
        fg_text_free(words);
    }
    for (uint32_t d = 0; d < p->declared_count; d++) json_array_extend(all, json_array_get(of_names, d));
    json_decref(of_names);
    if (good) return all;
    json_decref(all);
    return NULL;
}

const char *fg_page_trial(fg_page *page, uint32_t trial)
{
    fg_mistake mistake = {0};
    if (!page->open || trial >= page->file.program.trial_count) return fg_page_mistake(page, &mistake);
    json_t *results = json_array();
    fg_coverage *own = fg_coverage_start(&page->file.program);
    const fg_trial_observer observer = {.context = results, .result = on_result, .coverage = own};
    const fg_status status = own ? fg_trial_run(&page->file, NULL, trial, &observer, &mistake) : FG_ERROR_MEMORY;
    const char *answer = NULL;
    if (status == FG_OK) {
        uint64_t tried, all;
        fg_coverage_add(page->coverage, own);
        fg_coverage_count(page->coverage, &tried, &all);
        json_t *untried = untried_of(page->coverage, &page->file.program);
        answer = fg_page_answer(page, json_pack("{s:O, s:I, s:I, s:o}", "results", results, "tried", (json_int_t)tried,
                                                "all", (json_int_t)all, "untried", untried));
    } else if (own) {
        answer = fg_page_mistake(page, &mistake);
    }
    fg_coverage_end(own);
    json_decref(results);
    return answer;
}

const char *fg_page_reach(fg_page *page, uint32_t number)
{
    enum { STEPS = 500000 }; /* a second or two in a browser */
    static const char *const verdicts[] = {"not found", "never", "found"};
    const fg_promise_options options = {.steps = STEPS};
    fg_promise_result result = {0};
    fg_mistake mistake = {.text = "there is no such situation"};
    if (!page->open || number >= fg_coverage_size(page->coverage)) return fg_page_mistake(page, &mistake);
    if (!page->file.program.gate.every) {
        mistake = (fg_mistake){.text = "what can happen is worked out step by step; add every 50ms in front of the "
                                       "declarations"};
        return fg_page_mistake(page, &mistake);
    }
    const fg_situation *situation = fg_coverage_at(page->coverage, number, NULL);
    const char *answer =
        fg_promise_reach(&page->file, situation, &options, &result, &mistake) == FG_OK
            ? fg_page_answer(page, json_pack("{s:s, s:o, s:I, s:o}", "verdict", verdicts[result.verdict], "text",
                                             fg_page_text(result.recording), "after", (json_int_t)result.after_ms,
                                             "because", fg_page_text(result.because)))
            : fg_page_mistake(page, &mistake);
    fg_promise_result_free(&result);
    return answer;
}
