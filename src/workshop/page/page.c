/* SPDX-License-Identifier: MIT */
/* The gate of a page: opened, told about, its numbers moved. */
#include "workshop/page/session.h"

#include "workshop/base/limits.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

fg_page *fg_page_start(void)
{
    fg_page *page = calloc(1, sizeof *page);
    if (page) page->kept = fg_kept_rows_start();
    if (page && page->kept) return page;
    free(page);
    return NULL;
}

static void close_gate(fg_page *page)
{
    fg_page_moved_end(&page->hand);
    fg_page_played_end(&page->played);
    fg_coverage_end(page->coverage);
    fg_watch_end(page->watch);
    free(page->recording);
    if (page->open) fg_gate_file_close(&page->file);
    *page = (fg_page){.answer = page->answer, .kept = page->kept};
}

void fg_page_end(fg_page *page)
{
    if (!page) return;
    close_gate(page);
    fg_kept_rows_end(page->kept);
    free(page->answer);
    free(page);
}

void *fg_page_take(size_t size) { return malloc(size ? size : 1); }
void fg_page_give_back(void *memory) { free(memory); }

void fg_page_written(fg_page *page, const char *path)
{
    const char *kept = fg_kept_rows_path(page->kept);
    if (kept && !strcmp(kept, path)) fg_kept_rows_forget(page->kept);
}

/* ---- what is told of a gate ---- */

static json_t *fix_of(const fg_finding *finding)
{
    const fg_span span = finding->fix_span;
    if (!finding->fix.at) return json_null();
    return json_pack("{s:I, s:I, s:o}", "from", (json_int_t)span.at, "to", (json_int_t)span.at + span.size, "text",
                     fg_page_text(finding->fix));
}

static json_t *findings_of(const fg_program *p)
{
    static const char *const severities[] = {"error", "warning", "note"};
    json_t *all = json_array();
    for (uint32_t i = 0; i < p->finding_count; i++) {
        const fg_finding *f = &p->findings[i];
        const bool setting = f->span.source >= p->source_count;
        const fg_source *source = &p->sources[setting ? 0 : f->span.source];
        const fg_place place = fg_text_place(source->text, setting ? 0 : f->span.at);
        json_array_append_new(all, json_pack("{s:s, s:s, s:o, s:I, s:I, s:I, s:I, s:o, s:o, s:o}", "severity",
                                             severities[fg_finding_severity(f->code)], "kind", fg_finding_word(f->code),
                                             "file", fg_page_text(source->name), "line", (json_int_t)place.line,
                                             "column", (json_int_t)place.column, "from", (json_int_t)f->span.at, "to",
                                             (json_int_t)f->span.at + f->span.size, "what", fg_page_text(f->what),
                                             "instead", fg_page_text(f->instead), "fix", fix_of(f)));
    }
    return all;
}

static json_t *labels_of(const fg_declared *d)
{
    json_t *labels = json_array();
    for (uint16_t i = 0; i < d->label_count; i++) json_array_append_new(labels, fg_page_text(d->labels[i]));
    return labels;
}

static json_t *names_of(const fg_page *page)
{
    const fg_program *p = &page->file.program;
    json_t *all = json_array();
    for (uint32_t i = 0; i < p->declared_count; i++) {
        const fg_declared *d = &p->declared[i];
        const bool sensor = d->kind == FG_KIND_SENSOR, output = fg_kind_is(d->kind, FG_KIND_IS_OUTPUT);
        fg_value low = 0, high = 0;
        if (sensor) fg_watch_scale(page->watch, d, &low, &high);
        json_array_append_new(all,
                              json_pack("{s:o, s:s, s:o, s:i, s:o, s:b, s:b, s:b, s:I, s:o, s:o, s:b}", "name",
                                        fg_page_text(d->name), "kind", fg_kind_word(d->kind), "unit",
                                        fg_page_text(d->unit), "decimals", (int)d->decimals, "labels", labels_of(d),
                                        "read", (int)fg_program_reads(p, d), "output", (int)output, "answers",
                                        (int)(output || d->kind == FG_KIND_COUNT || d->slot != FG_INDEX_NONE), "index",
                                        (json_int_t)d->index, "low", fg_page_value(low, d->decimals, sensor), "high",
                                        fg_page_value(high, d->decimals, sensor), "circle",
                                        (int)(sensor && p->gate.sensors[d->index].circle != 0)));
    }
    return all;
}

/* The declaration of a rule on a sensor by its op. */
static uint32_t rule_of(const fg_program *p, uint16_t op)
{
    uint32_t i = 0;
    while (i < p->declared_count && !(p->declared[i].slot == op && fg_kind_is(p->declared[i].kind, FG_KIND_ON_SENSOR)))
        i++;
    return i;
}

static uint32_t sensor_of(const fg_program *p, uint16_t index)
{
    uint32_t i = 0;
    while (p->declared[i].kind != FG_KIND_SENSOR || p->declared[i].index != index) i++;
    return i;
}

static json_t *limits_of(const fg_program *p)
{
    json_t *all = json_array();
    for (uint32_t i = 0; i < p->written_count; i++) {
        const fg_written *w = &p->written[i];
        const uint32_t rule = rule_of(p, w->op);
        if (rule == p->declared_count) continue; /* it stands in a condition */
        const fg_declared *d = &p->declared[rule];
        const bool along = w->role == FG_WRITTEN_BY || w->role == FG_WRITTEN_MARGIN; /* a distance, and no place */
        json_array_append_new(
            all, json_pack("{s:I, s:I, s:I, s:o, s:o, s:o, s:I, s:I, s:o, s:b, s:b}", "written", (json_int_t)i, "name",
                           (json_int_t)rule, "sensor", (json_int_t)sensor_of(p, d->sensor), "value",
                           fg_page_value(w->value, d->decimals, true), "step", fg_page_value(1, d->decimals, true),
                           "file", fg_page_text(p->sources[w->span.source].name), "from", (json_int_t)w->span.at, "to",
                           (json_int_t)w->span.at + w->span.size, "number",
                           w->number == FG_DECLARED_NONE ? json_null() : fg_page_text(p->declared[w->number].name),
                           "moves", (int)(w->span.size != 0), "distance", (int)along));
    }
    return all;
}

static bool range_of(const fg_program *p, const fg_declared *d, uint16_t i, fg_rule_range *range)
{
    if (d->kind == FG_KIND_THRESHOLD) return fg_threshold_range(&p->gate.thresholds[d->index], i, range);
    if (d->kind == FG_KIND_HYSTERESIS) return fg_hysteresis_range(&p->gate.hysteresis[d->index], i, range);
    return fg_bands_range(&p->gate.bands[d->index], i, range);
}

static json_t *ranges_of(const fg_program *p)
{
    json_t *all = json_array();
    for (uint32_t rule = 0; rule < p->declared_count; rule++) {
        const fg_declared *d = &p->declared[rule];
        fg_rule_range r;
        if (!fg_kind_is(d->kind, FG_KIND_ON_SENSOR)) continue;
        for (uint16_t i = 0; range_of(p, d, i, &r); i++)
            json_array_append_new(
                all, json_pack("{s:I, s:I, s:o, s:o, s:o}", "name", (json_int_t)rule, "sensor",
                               (json_int_t)sensor_of(p, d->sensor), "answer", fg_page_text(fg_answer_text(d, r.answer)),
                               "low", fg_page_value(r.range->low, d->decimals, r.range->low != INT32_MIN), "high",
                               fg_page_value(r.range->high, d->decimals, r.range->high != INT32_MAX)));
    }
    return all;
}

static json_t *trials_of(const fg_program *p)
{
    json_t *all = json_array();
    for (uint32_t i = 0; i < p->trial_count; i++)
        json_array_append_new(all, json_pack("{s:o, s:o, s:I, s:b}", "name", fg_page_text(p->trials[i].name),
                                             "readings", fg_page_text(p->trials[i].readings), "line",
                                             (json_int_t)fg_program_line(p, p->trials[i].span), "scene",
                                             (int)(fg_scene_find(p, p->trials[i].readings) != NULL)));
    return all;
}

static json_t *scenes_of(const fg_program *p)
{
    json_t *all = json_array();
    for (uint32_t i = 0; i < p->scene_count; i++) json_array_append_new(all, fg_page_text(p->scenes[i].name));
    return all;
}

static json_t *files_of(const fg_program *p)
{
    json_t *all = json_array();
    for (uint32_t i = 0; i < p->source_count; i++) json_array_append_new(all, fg_page_text(p->sources[i].name));
    return all;
}

static json_t *colours(void)
{
    json_t *all = json_object();
    uint32_t rgb;
    char text[8];
    for (size_t i = 0; fg_colour_name(i, &rgb); i++) {
        snprintf(text, sizeof text, "#%06x", (unsigned)(rgb & 0xffffff));
        json_object_set_new(all, fg_colour_name(i, &rgb), json_string(text));
    }
    return all;
}

static json_t *about_all(const fg_page *page)
{
    const fg_program *p = &page->file.program;
    return json_pack("{s:b, s:o, s:I, s:o, s:o, s:o, s:o, s:o, s:o, s:o, s:I, s:o}", "good", 1, "title",
                     fg_page_text(p->title), "every", (json_int_t)p->gate.every, "files", files_of(p), "findings",
                     findings_of(p), "names", names_of(page), "limits", limits_of(p), "ranges", ranges_of(p), "trials",
                     trials_of(p), "scenes", scenes_of(p), "promises", (json_int_t)p->promise_count, "colours",
                     colours());
}

static json_t *about_moved(const fg_page *page)
{
    const fg_program *p = &page->file.program;
    return json_pack("{s:b, s:o, s:o, s:o}", "good", 1, "findings", findings_of(p), "limits", limits_of(p), "ranges",
                     ranges_of(p));
}

static const char *open_gate(fg_page *page, const char *path, json_t *(*about)(const fg_page *page))
{
    fg_gate_file file;
    fg_mistake mistake = {0};
    const fg_status status = fg_gate_file_open(&file, path, (fg_settings){.promises = true}, &mistake);
    if (status != FG_OK) {
        const char *answer = NULL;
        if (status == FG_ERROR_GATE)
            answer = fg_page_answer(page, json_pack("{s:b, s:o, s:o}", "good", 0, "files", files_of(&file.program),
                                                    "findings", findings_of(&file.program)));
        else
            answer = fg_page_mistake(page, &mistake);
        fg_gate_file_close(&file);
        return answer;
    }
    close_gate(page);
    page->file = file;
    page->open = true;
    page->watch = fg_watch_start(&page->file.program);
    page->coverage = fg_coverage_start(&page->file.program);
    return page->watch && page->coverage ? fg_page_answer(page, about(page)) : NULL;
}

const char *fg_page_open(fg_page *page, const char *path) { return open_gate(page, path, about_all); }
const char *fg_page_open_moved(fg_page *page, const char *path) { return open_gate(page, path, about_moved); }
uint32_t fg_page_name_count(const fg_page *page) { return page->open ? page->file.program.declared_count : 0; }

/* ---- numbers ---- */

static fg_value steps_of(double value, uint8_t decimals)
{
    for (uint8_t i = 0; i < decimals; i++) value *= 10;
    value = round(value);
    return value <= INT32_MIN ? INT32_MIN : value >= INT32_MAX ? INT32_MAX : (fg_value)value;
}

const char *fg_page_move(fg_page *page, uint32_t limit, double value)
{
    const fg_program *p = &page->file.program;
    json_t *edits = json_array();
    if (page->open && limit < p->written_count && p->written[limit].span.size) {
        const fg_written *w = &p->written[limit];
        const uint8_t decimals = p->declared[rule_of(p, w->op)].decimals;
        char text[FG_VALUE_TEXT_SIZE];
        const fg_value steps = steps_of(value, decimals);
        fg_value_short(w->negative && steps != INT32_MIN ? -steps : steps, decimals, text);
        json_array_append_new(
            edits, json_pack("{s:o, s:I, s:I, s:s}", "file", fg_page_text(p->sources[w->span.source].name), "from",
                             (json_int_t)w->span.at, "to", (json_int_t)w->span.at + w->span.size, "text", text));
    }
    return fg_page_answer(page, json_pack("{s:o}", "edits", edits));
}

const char *fg_page_line(fg_page *page, uint32_t name, int width)
{
    const fg_program *p = &page->file.program;
    fg_text line = {0};
    if (!page->open || name >= p->declared_count || !fg_kind_is(p->declared[name].kind, FG_KIND_ON_SENSOR))
        return fg_page_answer(page, json_pack("{s:s}", "text", ""));
    if (fg_number_line(p, &p->declared[name], width, &line) != FG_OK) return NULL;
    const char *answer = fg_page_answer(page, json_pack("{s:o}", "text", fg_page_text(line)));
    fg_text_free(line);
    return answer;
}

const char *fg_page_next(fg_page *page, uint32_t name, double value, int way)
{
    const fg_program *p = &page->file.program;
    fg_value next = 0;
    bool found = false;
    if (page->open && name < p->declared_count && p->declared[name].kind == FG_KIND_SENSOR)
        found = fg_watch_next_stop(page->watch, &p->declared[name], steps_of(value, p->declared[name].decimals), way,
                                   &next);
    return fg_page_answer(
        page, json_pack("{s:o}", "value", fg_page_value(next, found ? p->declared[name].decimals : 0, found)));
}
