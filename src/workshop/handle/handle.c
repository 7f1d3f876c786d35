/* SPDX-License-Identifier: MIT */
/* A gate behind one handle: what the library does, with texts going in and JSON coming out. */
#include "workshop/base/buffer.h"

#include <ficklegate/handle.h>
#include <ficklegate/live.h>
#include <ficklegate/scenes.h>
#include <ficklegate/trials.h>

#include <jansson.h>
#include <stdlib.h>
#include <string.h>

struct fg_handle {
    fg_gate_file file;
    fg_mistake mistake; /* of opening it */
    fg_status status;
    fg_live *live;
    fg_replay_observer observer; /* of the live run, which looks at it */
    fg_replay_report report;
    json_t *changes; /* while a row or a recording is played */
    char **because;  /* of each name, why it is as it is; NULL: it never changed */
    char *text;      /* what was returned last */
    fg_buffer now;
};

/* ---- texts ---- */

static const char *as_text(fg_handle *h, json_t *value)
{
    char *text = value ? json_dumps(value, JSON_COMPACT | JSON_ENCODE_ANY | JSON_PRESERVE_ORDER) : NULL;
    json_decref(value);
    free(h->text);
    h->text = text;
    return text;
}

static json_t *string_of(fg_text text)
{
    json_t *string = json_stringn(text.size ? text.at : "", text.size);
    return string ? string : json_string("?"); /* no UTF-8 */
}

static const char *tell_mistake(fg_handle *h, const fg_mistake *mistake)
{
    return as_text(h, json_pack("{s:{s:o, s:I, s:o}}", "mistake", "file", string_of(fg_text_of(mistake->file)), "line",
                                (json_int_t)mistake->line, "text", string_of(fg_text_of(mistake->text))));
}

/* ---- the gate ---- */

fg_handle *fg_handle_open(const char *path, const char *text)
{
    fg_handle *h = calloc(1, sizeof *h);
    if (!h) return NULL;
    h->status = text ? fg_gate_file_of_text(&h->file, path, fg_text_of(text), (fg_settings){0}, &h->mistake)
                     : fg_gate_file_open(&h->file, path, (fg_settings){0}, &h->mistake);
    if (h->status == FG_ERROR_MEMORY || (h->status == FG_OK && !fg_handle_restart(h))) {
        fg_handle_close(h);
        return NULL;
    }
    return h;
}

static void forget_reasons(fg_handle *h)
{
    for (uint32_t i = 0; h->because && i < h->file.program.declared_count; i++) free(h->because[i]);
    free(h->because);
    h->because = NULL;
}

void fg_handle_close(fg_handle *h)
{
    if (!h) return;
    fg_live_end(h->live);
    forget_reasons(h);
    fg_gate_file_close(&h->file);
    fg_buffer_free(&h->now);
    free(h->text);
    free(h);
}

bool fg_handle_good(const fg_handle *h) { return h->status == FG_OK; }

static json_t *finding_of(const fg_program *p, const fg_finding *f)
{
    static const char *const words[] = {"error", "warning", "note"};
    const fg_source *source = &p->sources[f->span.source];
    const fg_place place = fg_text_place(source->text, f->span.at);
    return json_pack("{s:s, s:s, s:o, s:I, s:I, s:o, s:o}", "severity", words[fg_finding_severity(f->code)], "kind",
                     fg_finding_word(f->code), "file", string_of(source->name), "line", (json_int_t)place.line,
                     "column", (json_int_t)place.column, "what", string_of(f->what), "instead", string_of(f->instead));
}

static json_t *name_of(const fg_program *p, const fg_declared *d)
{
    json_t *labels = json_array();
    for (uint16_t i = 0; i < d->label_count; i++) json_array_append_new(labels, string_of(d->labels[i]));
    return json_pack("{s:o, s:s, s:o, s:i, s:o, s:b}", "name", string_of(d->name), "kind", fg_kind_word(d->kind),
                     "unit", string_of(d->unit), "decimals", (int)d->decimals, "labels", labels, "read",
                     fg_program_reads(p, d));
}

const char *fg_handle_about(fg_handle *h)
{
    const fg_program *p = &h->file.program;
    if (h->status != FG_OK && h->status != FG_ERROR_GATE) return tell_mistake(h, &h->mistake);
    json_t *findings = json_array(), *names = json_array(), *trials = json_array(), *scenes = json_array();
    for (uint32_t i = 0; i < p->finding_count; i++) json_array_append_new(findings, finding_of(p, &p->findings[i]));
    for (uint32_t i = 0; i < p->declared_count; i++) json_array_append_new(names, name_of(p, &p->declared[i]));
    for (uint32_t i = 0; i < p->trial_count; i++) json_array_append_new(trials, string_of(p->trials[i].name));
    for (uint32_t i = 0; i < p->scene_count; i++) json_array_append_new(scenes, string_of(p->scenes[i].name));
    return as_text(h, json_pack("{s:b, s:o, s:I, s:o, s:o, s:o, s:o}", "good", h->status == FG_OK, "title",
                                string_of(p->title), "every", (json_int_t)p->gate.every, "findings", findings, "names",
                                names, "trials", trials, "scenes", scenes));
}

/* ---- rows ---- */

static bool on_change(void *context, const fg_change *change)
{
    fg_handle *h = context;
    const size_t number = (size_t)(change->declared - h->file.program.declared);
    if (h->because) {
        free(h->because[number]);
        h->because[number] = fg_c_string_of(change->because);
    }
    return json_array_append_new(h->changes,
                                 json_pack("{s:I, s:o, s:o, s:o, s:o}", "t_ms", (json_int_t)change->t_ms, "name",
                                           string_of(change->declared->name), "was", string_of(change->was), "is",
                                           string_of(change->is), "because", string_of(change->because))) == 0;
}

bool fg_handle_restart(fg_handle *h)
{
    const fg_live_options options = {0};
    h->observer = (fg_replay_observer){.context = h, .change = on_change};
    fg_live_end(h->live);
    forget_reasons(h);
    h->live = fg_live_start(&h->file.program, &options, &h->observer, &h->report);
    h->because = calloc((size_t)h->file.program.declared_count + 1, sizeof *h->because);
    return h->live && h->because;
}

static const char *tell_changes(fg_handle *h, bool good)
{
    json_t *changes = h->changes;
    h->changes = NULL;
    if (good) return as_text(h, changes);
    json_decref(changes);
    return NULL;
}

const char *fg_handle_row(fg_handle *h, int64_t t_ms, const char *const *names, const char *const *values, size_t count)
{
    fg_text *texts = calloc(2 * count + 1, sizeof *texts);
    if (h->status != FG_OK || !texts) {
        free(texts);
        return h->status == FG_OK ? NULL : fg_handle_about(h);
    }
    for (size_t i = 0; i < count; i++) {
        texts[i] = fg_text_of(names[i]);
        texts[count + i] = fg_text_of(values[i]);
    }
    h->changes = json_array();
    bool good = h->changes && fg_live_row(h->live, texts, texts + count, count, t_ms);
    good = good && fg_live_until_run(h->live, fg_live_time(h->live) + 1); /* its own step too */
    free(texts);
    return tell_changes(h, good);
}

const char *fg_handle_until(fg_handle *h, int64_t t_ms)
{
    if (h->status != FG_OK) return fg_handle_about(h);
    h->changes = json_array();
    return tell_changes(h, h->changes && fg_live_until_run(h->live, t_ms + 1));
}

const char *fg_handle_now(fg_handle *h, const char *name)
{
    const fg_declared *d = fg_program_find(&h->file.program, fg_text_of(name));
    if (h->status != FG_OK || !d || fg_live_time(h->live) < 0) return NULL;
    if (d->kind == FG_KIND_NUMBER || d->kind == FG_KIND_SEQUENCE) return NULL;
    fg_value value;
    char text[FG_VALUE_TEXT_SIZE];
    fg_text now = fg_text_now(&h->now, d, fg_live_run(h->live));
    if (d->kind == FG_KIND_SENSOR && fg_sensor_value(fg_live_run(h->live), d->index, &value)) /* it says ok */
        now = (fg_text){text, fg_value_write(value, d->decimals, text)};
    free(h->text);
    h->text = fg_c_string_of(now);
    return h->text;
}

const char *fg_handle_why(fg_handle *h, const char *name)
{
    const fg_declared *d = fg_program_find(&h->file.program, fg_text_of(name));
    return d && h->because ? h->because[d - h->file.program.declared] : NULL;
}

/* ---- recordings and trials ---- */

const char *fg_handle_replay(fg_handle *h, const char *recording, bool scene)
{
    fg_replay_report report;
    fg_mistake mistake = {0};
    char **because = h->because; /* those of the rows stay */
    if (h->status != FG_OK) return fg_handle_about(h);
    fg_readings readings = {.recording = scene ? NULL : recording};
    if (scene) readings.scene = fg_scene_find(&h->file.program, fg_text_of(recording));
    if (scene && !readings.scene) {
        (void)fg_mistake_set(&mistake, FG_ERROR_ARGUMENT, h->file.path, 0, "there is no scene of this name");
        return tell_mistake(h, &mistake);
    }
    const fg_replay_observer observer = {.context = h, .change = on_change};
    h->changes = json_array();
    h->because = NULL;
    const fg_status status = fg_replay(&h->file.program, &readings, &observer, &report, &mistake);
    h->because = because;
    json_t *changes = h->changes;
    h->changes = NULL;
    if (status == FG_OK)
        return as_text(h, json_pack("{s:o, s:I, s:I}", "changes", changes, "rows", (json_int_t)report.rows, "length_ms",
                                    (json_int_t)report.length_ms));
    json_decref(changes);
    return tell_mistake(h, &mistake);
}

static void on_result(void *context, const fg_trial_result *result)
{
    json_array_append_new(context,
                          json_pack("{s:o, s:I, s:o, s:s, s:o}", "trial", string_of(result->trial->name), "line",
                                    (json_int_t)result->line, "expectation", string_of(result->expectation), "outcome",
                                    fg_outcome_word(result->outcome), "because", string_of(result->because)));
}

static void on_untried(void *context, const fg_declared *declared, fg_text what)
{
    json_array_append_new(context, json_pack("{s:o, s:o}", "name", string_of(declared->name), "what", string_of(what)));
}

const char *fg_handle_trials(fg_handle *h)
{
    fg_mistake mistake = {0};
    uint64_t tried = 0, all = 0;
    if (h->status != FG_OK) return fg_handle_about(h);
    json_t *results = json_array(), *untried = json_array();
    fg_coverage *coverage = fg_coverage_start(&h->file.program);
    const fg_trial_observer observer = {.context = results, .result = on_result, .coverage = coverage};
    fg_status status = coverage ? fg_trials_run(&h->file, NULL, 0, &observer, &mistake) : FG_ERROR_MEMORY;
    if (status == FG_OK) fg_coverage_count(coverage, &tried, &all);
    if (status == FG_OK && !fg_coverage_untried(coverage, untried, on_untried)) status = FG_ERROR_MEMORY;
    fg_coverage_end(coverage);
    if (status == FG_OK)
        return as_text(h, json_pack("{s:o, s:I, s:I, s:o}", "results", results, "tried", (json_int_t)tried,
                                    "situations", (json_int_t)all, "untried", untried));
    json_decref(results);
    json_decref(untried);
    return status == FG_ERROR_MEMORY ? NULL : tell_mistake(h, &mistake);
}
