/* SPDX-License-Identifier: MIT */
/* What an editor asks: what is wrong and how to mend it, what a name is and where it stands, what may come next. */
#include "lsp.h"

#include <ficklegate/tidy.h>
#include <ficklegate/version.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

static fg_text text_of(const lsp_view *v) { return (fg_text){v->document->text, v->document->size}; }

static json_t *string_of(fg_text text)
{
    json_t *string = json_stringn(text.size ? text.at : "", text.size);
    return string ? string : json_string("?"); /* no UTF-8 */
}

static bool find_view(lsp_server *s, const json_t *params, lsp_view *view)
{
    const json_t *document = json_object_get(params, "textDocument");
    const char *uri = json_string_value(json_object_get(document, "uri"));
    return uri && lsp_view_of(s, lsp_document_find(s, uri), view);
}

/* The name at the position that is asked about; FG_DECLARED_NONE. */
static uint32_t name_at(lsp_server *s, const json_t *params, lsp_view *view, fg_span *span)
{
    if (!find_view(s, params, view)) return FG_DECLARED_NONE;
    const uint32_t at = lsp_offset_of(s, text_of(view), json_object_get(params, "position"));
    return fg_edit_name_at(view->program, view->source, at, span);
}

/* A place in any source of the program. */
static json_t *location(const lsp_server *s, const lsp_view *v, fg_span span)
{
    const fg_source *source = &v->program->sources[span.source];
    const fg_text identity = source->identity.size ? source->identity : source->name;
    char *path = strndup(identity.at, identity.size);
    char *uri = path ? lsp_uri_of(path) : NULL;
    for (const lsp_document *d = s->documents; d && uri; d = d->next)
        if (!strcmp(d->path, path)) { /* as the editor writes it */
            free(uri);
            uri = strdup(d->uri);
        }
    json_t *found = uri ? json_pack("{s:s, s:o}", "uri", uri, "range", lsp_range_of(s, source->text, span)) : NULL;
    free(uri);
    free(path);
    return found;
}

/* ---- what is wrong ---- */

static json_t *diagnostic(const lsp_server *s, fg_text text, const fg_finding *f)
{
    static const int severities[] = {1, 2, 3};
    char *message = NULL;
    if (asprintf(&message, "%.*s%s%.*s", (int)f->what.size, f->what.at, f->instead.size ? "\n" : "",
                 (int)f->instead.size, f->instead.size ? f->instead.at : "") < 0)
        return NULL;
    json_t *d = json_pack("{s:o, s:i, s:s, s:s, s:o}", "range", lsp_range_of(s, text, f->span), "severity",
                          severities[fg_finding_severity(f->code)], "code", fg_finding_word(f->code), "source",
                          "fickle", "message", string_of(fg_text_of(message)));
    free(message);
    return d;
}

json_t *lsp_diagnostics(const lsp_server *s, const lsp_view *v)
{
    json_t *all = json_array();
    for (uint32_t i = 0; i < v->program->finding_count; i++)
        if (v->program->findings[i].span.source == v->source)
            json_array_append_new(all, diagnostic(s, text_of(v), &v->program->findings[i]));
    for (size_t i = 0; i < v->document->ran_count; i++) json_array_extend(all, v->document->ran[i].failed);
    return all;
}

void lsp_publish(lsp_server *s)
{
    for (lsp_document *d = s->documents; d; d = d->next) {
        lsp_view v;
        if (!lsp_view_of(s, d, &v)) continue;
        lsp_notify("textDocument/publishDiagnostics",
                   json_pack("{s:s, s:I, s:o}", "uri", d->uri, "version", (json_int_t)d->version, "diagnostics",
                             lsp_diagnostics(s, &v)));
    }
}

static json_t *edits_in(const char *uri, json_t *edits) { return json_pack("{s:{s:o}}", "changes", uri, edits); }

/* What it gives way to, and where: a fix that is certain, or the name that was meant most likely. */
static bool mend_of(const fg_finding *f, fg_span *span, fg_text *mend)
{
    static const char guess[] = "did you mean '";
    if (f->fix.at) {
        *span = f->fix_span;
        *mend = f->fix;
        return true;
    }
    if (f->instead.size < sizeof guess || memcmp(f->instead.at, guess, sizeof guess - 1) != 0) return false;
    const char *begin = f->instead.at + sizeof guess - 1;
    const char *end = memchr(begin, '\'', f->instead.size - (sizeof guess - 1));
    if (!end) return false;
    *span = f->span;
    *mend = (fg_text){begin, (size_t)(end - begin)};
    return true;
}

/* A fix for each finding that knows one, where the range that is asked about touches it. */
static json_t *code_actions(lsp_server *s, const json_t *params)
{
    lsp_view v;
    json_t *all = json_array();
    if (!find_view(s, params, &v)) return all;
    const json_t *range = json_object_get(params, "range");
    const uint32_t from = lsp_offset_of(s, text_of(&v), json_object_get(range, "start"));
    const uint32_t to = lsp_offset_of(s, text_of(&v), json_object_get(range, "end"));
    for (uint32_t i = 0; i < v.program->finding_count; i++) {
        const fg_finding *f = &v.program->findings[i];
        const uint32_t end = f->span.at + f->span.size;
        fg_span span;
        fg_text mend;
        if (f->span.source != v.source || end < from || f->span.at > to) continue;
        if (!mend_of(f, &span, &mend) || span.source != v.source) continue;
        json_t *edit =
            json_pack("[{s:o, s:o}]", "range", lsp_range_of(s, text_of(&v), span), "newText", string_of(mend));
        json_array_append_new(all, json_pack("{s:o, s:s, s:[o], s:b, s:o}", "title",
                                             string_of(f->instead.size ? f->instead : f->what), "kind", "quickfix",
                                             "diagnostics", diagnostic(s, text_of(&v), f), "isPreferred",
                                             f->fix.at != NULL, "edit", edits_in(v.document->uri, edit)));
    }
    return all;
}

/* ---- names ---- */

static json_t *shown(const lsp_server *s, const lsp_view *v, fg_text text, fg_span span)
{
    return json_pack("{s:{s:s, s:o}, s:o}", "contents", "kind", "plaintext", "value", string_of(text), "range",
                     lsp_range_of(s, text_of(v), span));
}

/* What a name is, or what an attribute does. */
static json_t *hover(lsp_server *s, const json_t *params)
{
    lsp_view v;
    fg_span span;
    fg_text text;
    const uint32_t name = name_at(s, params, &v, &span);
    json_t *found = NULL;
    if (name != FG_DECLARED_NONE) {
        if (fg_edit_hover(v.program, &v.program->declared[name], &text) == FG_OK) found = shown(s, &v, text, span);
        fg_text_free(text);
    } else if (find_view(s, params, &v)) {
        const uint32_t at = lsp_offset_of(s, text_of(&v), json_object_get(params, "position"));
        const char *does = fg_edit_attribute_at(text_of(&v), at, &span);
        if (does) found = shown(s, &v, fg_text_of(does), span);
    }
    return found;
}

static json_t *definition(lsp_server *s, const json_t *params)
{
    lsp_view v;
    const uint32_t name = name_at(s, params, &v, NULL);
    return name == FG_DECLARED_NONE ? NULL : location(s, &v, v.program->declared[name].span);
}

static int by_place(const void *a, const void *b)
{
    const fg_span *x = a, *y = b;
    if (x->source != y->source) return x->source < y->source ? -1 : 1;
    return (x->at > y->at) - (x->at < y->at);
}

/* Where a name stands, each place once; for free(). */
static fg_span *places_of(const fg_program *p, uint32_t name, bool declaration, size_t *count)
{
    fg_span *all = malloc((p->use_count + 1u) * sizeof *all);
    size_t used = 0;
    *count = 0;
    if (!all) return NULL;
    if (declaration) all[used++] = p->declared[name].span;
    for (uint32_t i = 0; i < p->use_count; i++)
        if (p->uses[i].declared == name && p->uses[i].span.source < p->source_count) all[used++] = p->uses[i].span;
    qsort(all, used, sizeof *all, by_place);
    for (size_t i = 0; i < used; i++) {
        const fg_source *source = &p->sources[all[i].source];
        const bool same = *count && !by_place(&all[*count - 1], &all[i]);
        const fg_text written = {source->text.at + all[i].at, all[i].size};
        if (!same && fg_text_same(written, p->declared[name].name)) all[(*count)++] = all[i];
    }
    return all;
}

static json_t *references(lsp_server *s, const json_t *params)
{
    lsp_view v;
    size_t count = 0;
    const json_t *context = json_object_get(params, "context");
    const uint32_t name = name_at(s, params, &v, NULL);
    json_t *all = json_array();
    if (name == FG_DECLARED_NONE) return all;
    fg_span *places = places_of(v.program, name, json_is_true(json_object_get(context, "includeDeclaration")), &count);
    for (size_t i = 0; i < count; i++) json_array_append_new(all, location(s, &v, places[i]));
    free(places);
    return all;
}

static json_t *highlights(lsp_server *s, const json_t *params)
{
    lsp_view v;
    size_t count = 0;
    const uint32_t name = name_at(s, params, &v, NULL);
    json_t *all = json_array();
    if (name == FG_DECLARED_NONE) return all;
    fg_span *places = places_of(v.program, name, true, &count);
    for (size_t i = 0; i < count; i++)
        if (places[i].source == v.source)
            json_array_append_new(all, json_pack("{s:o}", "range", lsp_range_of(s, text_of(&v), places[i])));
    free(places);
    return all;
}

static json_t *prepare_rename(lsp_server *s, const json_t *params)
{
    lsp_view v;
    fg_span span;
    const uint32_t name = name_at(s, params, &v, &span);
    if (name == FG_DECLARED_NONE) return NULL;
    return json_pack("{s:o, s:o}", "range", lsp_range_of(s, text_of(&v), span), "placeholder",
                     string_of(v.program->declared[name].name));
}

/* In all files of the gate. A name that is taken, or none, changes nothing. */
static json_t *rename_name(lsp_server *s, const json_t *params)
{
    lsp_view v;
    size_t count = 0;
    const char *to = json_string_value(json_object_get(params, "newName"));
    const uint32_t name = name_at(s, params, &v, NULL);
    if (name == FG_DECLARED_NONE || !to) return NULL;
    if (!fg_name_fits(fg_text_of(to)) || fg_program_find(v.program, fg_text_of(to))) {
        lsp_notify("window/showMessage",
                   json_pack("{s:i, s:s}", "type", 2, "message",
                             fg_name_fits(fg_text_of(to)) ? "this name is declared already"
                                                          : "a name is a letter, then letters, digits and _, and no "
                                                            "word of conditions"));
        return NULL;
    }
    json_t *changes = json_object();
    fg_span *places = places_of(v.program, name, true, &count);
    for (size_t i = 0; i < count; i++) {
        json_t *where = location(s, &v, places[i]);
        const char *uri = json_string_value(json_object_get(where, "uri"));
        if (uri && !json_object_get(changes, uri)) json_object_set_new(changes, uri, json_array());
        if (uri)
            json_array_append_new(json_object_get(changes, uri),
                                  json_pack("{s:O, s:s}", "range", json_object_get(where, "range"), "newText", to));
        json_decref(where);
    }
    free(places);
    return json_pack("{s:o}", "changes", changes);
}

/* ---- what may come next ---- */

static void add_choice(void *context, fg_text word, fg_choice_sort sort, const fg_declared *declared)
{
    static const int kinds[] = {14, 10, 6, 20, 14}; /* Keyword, Property, Variable, EnumMember, Keyword */
    json_t *item = json_pack("{s:o, s:i}", "label", string_of(word), "kind", kinds[sort]);
    if (declared && sort == FG_CHOICE_IS_NAME)
        json_object_set_new(item, "detail", json_string(fg_kind_word(declared->kind)));
    if (declared && sort == FG_CHOICE_IS_LABEL) json_object_set_new(item, "detail", string_of(declared->name));
    json_array_append_new(context, item);
}

static json_t *completion(lsp_server *s, const json_t *params)
{
    lsp_view v;
    json_t *all = json_array();
    if (find_view(s, params, &v))
        fg_edit_choices(v.program, text_of(&v), lsp_offset_of(s, text_of(&v), json_object_get(params, "position")), all,
                        add_choice);
    return all;
}

/* ---- the text as a whole ---- */

static json_t *symbol(const lsp_server *s, const lsp_view *v, fg_text name, const char *detail, int kind, fg_span whole,
                      fg_span span)
{
    if (!name.size) name = fg_text_of(detail);
    if (span.at < whole.at || span.at + span.size > whole.at + whole.size) whole = span;
    return json_pack("{s:o, s:s, s:i, s:o, s:o}", "name", string_of(name), "detail", detail, "kind", kind, "range",
                     lsp_range_of(s, text_of(v), whole), "selectionRange", lsp_range_of(s, text_of(v), span));
}

static json_t *symbols(lsp_server *s, const json_t *params)
{
    enum { CONSTANT = 14, VARIABLE = 13, EVENT = 24 };
    lsp_view v;
    json_t *all = json_array();
    if (!find_view(s, params, &v)) return all;
    const fg_program *p = v.program;
    for (uint32_t i = 0; i < p->declared_count; i++) {
        const fg_declared *d = &p->declared[i];
        if (d->span.source == v.source)
            json_array_append_new(all, symbol(s, &v, d->name, fg_kind_word(d->kind),
                                              d->kind == FG_KIND_NUMBER ? CONSTANT : VARIABLE, d->whole, d->span));
    }
    for (uint32_t i = 0; i < p->trial_count; i++)
        if (p->trials[i].span.source == v.source)
            json_array_append_new(
                all, symbol(s, &v, p->trials[i].name, "trial", EVENT, p->trials[i].whole, p->trials[i].span));
    for (uint32_t i = 0; i < p->promise_count; i++)
        if (p->promises[i].span.source == v.source)
            json_array_append_new(
                all, symbol(s, &v, p->promises[i].text, "promise", EVENT, p->promises[i].span, p->promises[i].span));
    return all;
}

typedef struct folds {
    const lsp_server *s;
    fg_text text;
    json_t *all;
} folds;

static json_int_t line_of(const folds *f, uint32_t at)
{
    json_t *position = lsp_position_of(f->s, f->text, at);
    const json_int_t line = json_integer_value(json_object_get(position, "line"));
    json_decref(position);
    return line;
}

/* A block over several lines; the line of its closing brace stays. */
static void add_fold(void *context, uint32_t from, uint32_t to)
{
    const folds *f = context;
    if (!memchr(f->text.at + from, '\n', to - from)) return;
    json_array_append_new(f->all,
                          json_pack("{s:I, s:I}", "startLine", line_of(f, from), "endLine", line_of(f, to) - 1));
}

static json_t *folding(lsp_server *s, const json_t *params)
{
    lsp_view v;
    folds f = {.s = s, .all = json_array()};
    if (!find_view(s, params, &v)) return f.all;
    f.text = text_of(&v);
    fg_edit_blocks(f.text, &f, add_fold);
    return f.all;
}

static json_t *formatting(lsp_server *s, const json_t *params)
{
    lsp_view v;
    fg_text tidied;
    fg_mistake mistake;
    if (!find_view(s, params, &v)) return NULL;
    const fg_text text = text_of(&v);
    if (fg_tidy(v.document->path, text, &tidied, &mistake) != FG_OK) return NULL;
    json_t *edits = fg_text_same(text, tidied) ? json_array()
                                               : json_pack("[{s:o, s:o}]", "range",
                                                           lsp_range_of(s, text, (fg_span){0, (uint32_t)text.size, 0}),
                                                           "newText", string_of(tidied));
    fg_text_free(tidied);
    return edits;
}

typedef struct painting {
    const lsp_server *s;
    fg_text text;
    json_t *data;
    size_t at; /* as far as lines and units were counted */
    json_int_t line, units, line_before, units_before;
} painting;

static json_int_t units_to(painting *p, size_t to)
{
    json_int_t units = 0;
    for (; p->at < to; p->at++) {
        const unsigned char c = (unsigned char)p->text.at[p->at];
        if (c == '\n') {
            p->line++;
            units = -p->units;
        } else {
            units += p->s->utf8 ? 1 : (c & 0xC0) == 0x80 ? 0 : c >= 0xF0 ? 2 : 1;
        }
        if (c == '\n') p->units = units = 0;
    }
    p->units += units;
    return p->units;
}

static void add_paint(void *context, fg_span span, fg_paint paint)
{
    painting *p = context;
    const json_int_t from = units_to(p, span.at), line = p->line;
    const json_int_t size = units_to(p, span.at + span.size) - from;
    const bool same = line == p->line_before;
    const json_int_t numbers[] = {line - p->line_before, same ? from - p->units_before : from, size, paint - 1, 0};
    for (size_t i = 0; i < sizeof numbers / sizeof *numbers; i++)
        json_array_append_new(p->data, json_integer(numbers[i]));
    p->line_before = line;
    p->units_before = from;
}

static json_t *semantic_tokens(lsp_server *s, const json_t *params)
{
    lsp_view v;
    painting p = {.s = s, .data = json_array()};
    if (find_view(s, params, &v)) {
        p.text = text_of(&v);
        fg_edit_paint(v.program, v.source, p.text, &p, add_paint);
    }
    return json_pack("{s:o}", "data", p.data);
}

typedef struct hints {
    const lsp_server *s;
    fg_text text;
    uint32_t from, to;
    json_t *all;
} hints;

static void add_hint(void *context, uint32_t at, fg_text hint)
{
    const hints *h = context;
    if (at < h->from || at > h->to) return;
    json_array_append_new(h->all, json_pack("{s:o, s:o, s:b}", "position", lsp_position_of(h->s, h->text, at), "label",
                                            string_of(hint), "paddingLeft", 1));
}

static json_t *inlay_hints(lsp_server *s, const json_t *params)
{
    lsp_view v;
    hints h = {.s = s, .all = json_array()};
    if (!find_view(s, params, &v)) return h.all;
    const json_t *range = json_object_get(params, "range");
    h.text = text_of(&v);
    h.from = lsp_offset_of(s, h.text, json_object_get(range, "start"));
    h.to = lsp_offset_of(s, h.text, json_object_get(range, "end"));
    fg_edit_hints(v.program, v.source, &h, add_hint);
    return h.all;
}

/* ---- trials and promises ---- */

static lsp_ran *ran_of(lsp_document *d, bool promise, uint32_t number)
{
    for (size_t i = 0; i < d->ran_count; i++)
        if (d->ran[i].promise == promise && d->ran[i].number == number) return &d->ran[i];
    return NULL;
}

static json_t *lens(lsp_server *s, const lsp_view *v, bool promise, uint32_t number, fg_span span)
{
    const lsp_ran *ran = ran_of(v->document, promise, number);
    return json_pack("{s:o, s:{s:o, s:s, s:[s, i]}}", "range", lsp_range_of(s, text_of(v), span), "command", "title",
                     string_of(fg_text_of(ran       ? ran->said
                                          : promise ? "ask"
                                                    : "run")),
                     "command", promise ? "fickle.promise" : "fickle.trial", "arguments", v->document->uri,
                     (int)number);
}

static json_t *lenses(lsp_server *s, const json_t *params)
{
    lsp_view v;
    json_t *all = json_array();
    if (!find_view(s, params, &v) || v.program->error_count) return all;
    for (uint32_t i = 0; i < v.program->trial_count; i++)
        if (v.program->trials[i].span.source == v.source)
            json_array_append_new(all, lens(s, &v, false, i, v.program->trials[i].span));
    for (uint32_t i = 0; i < v.program->promise_count; i++)
        if (v.program->promises[i].span.source == v.source)
            json_array_append_new(all, lens(s, &v, true, i, v.program->promises[i].span));
    return all;
}

/* What a run came to: how many held, and a diagnostic for each that did not. */
typedef struct running {
    lsp_server *s;
    const lsp_view *v;
    uint32_t held, all, open;
    json_t *failed;
} running;

static void add_failed(running *r, fg_span span, fg_text why, int severity)
{
    if (span.source != r->v->source) return;
    json_array_append_new(r->failed,
                          json_pack("{s:o, s:i, s:s, s:o}", "range", lsp_range_of(r->s, text_of(r->v), span),
                                    "severity", severity, "source", "fickle trial", "message", string_of(why)));
}

static void on_result(void *context, const fg_trial_result *result)
{
    running *r = context;
    r->all++;
    r->held += result->outcome == FG_OUTCOME_HELD;
    if (result->outcome != FG_OUTCOME_HELD) add_failed(r, result->expect->span, result->because, 1);
}

static bool run_trial(running *r, uint32_t number, fg_mistake *mistake)
{
    const fg_trial_observer observer = {.context = r, .result = on_result};
    return fg_trial_run(r->v->gate, NULL, number, &observer, mistake) == FG_OK;
}

static bool run_promise(running *r, uint32_t number, fg_mistake *mistake)
{
    enum { STEPS = 2000000 };
    const fg_promise *promise = &r->v->program->promises[number];
    const fg_promise_options options = {.steps = STEPS};
    for (uint32_t i = 0; i < promise->row_count; i++) {
        fg_promise_result result;
        if (promise->rows[i].kind == FG_EXPECT_ASSUME) continue;
        if (fg_promise_ask(r->v->gate, number, i, &options, &result, mistake) != FG_OK) return false;
        r->all++;
        r->held += result.verdict == FG_PROMISE_HOLDS;
        r->open += result.verdict == FG_PROMISE_UNDECIDED;
        if (result.verdict != FG_PROMISE_HOLDS)
            add_failed(r, promise->rows[i].span, result.because, result.verdict == FG_PROMISE_BREAKS ? 1 : 3);
        fg_promise_result_free(&result);
    }
    return true;
}

/* "held 3 of 5" stands above the trial until its text changes. */
static void keep_run(lsp_document *d, bool promise, uint32_t number, const running *r, const char *why)
{
    char *said = NULL;
    const int size = why ? asprintf(&said, "not run: %s", why)
                     : r->open
                         ? asprintf(&said, "%s %" PRIu32 " of %" PRIu32 ", %" PRIu32 " not decided",
                                    promise ? "holds" : "held", r->held, r->all, r->open)
                         : asprintf(&said, "%s %" PRIu32 " of %" PRIu32, promise ? "holds" : "held", r->held, r->all);
    lsp_ran *ran = ran_of(d, promise, number);
    if (size < 0) return;
    if (!ran) {
        lsp_ran *all = realloc(d->ran, (d->ran_count + 1) * sizeof *all);
        if (!all) {
            free(said);
            return;
        }
        d->ran = all;
        ran = &all[d->ran_count++];
        *ran = (lsp_ran){0};
    }
    free(ran->said);
    json_decref(ran->failed);
    *ran = (lsp_ran){promise, number, said, json_incref(r->failed)};
}

static json_t *execute(lsp_server *s, const json_t *params)
{
    const char *command = json_string_value(json_object_get(params, "command"));
    const json_t *arguments = json_object_get(params, "arguments");
    const char *uri = json_string_value(json_array_get(arguments, 0));
    const json_int_t number = json_integer_value(json_array_get(arguments, 1));
    lsp_view v;
    fg_mistake mistake = {0};
    const bool promise = command && !strcmp(command, "fickle.promise");
    if (!command || !uri || (!promise && strcmp(command, "fickle.trial") != 0)) return NULL;
    if (!lsp_view_of(s, lsp_document_find(s, uri), &v) || v.program->error_count || number < 0) return NULL;
    if (number >= (json_int_t)(promise ? v.program->promise_count : v.program->trial_count)) return NULL;
    running r = {.s = s, .v = &v, .failed = json_array()};
    const bool ran = promise ? run_promise(&r, (uint32_t)number, &mistake) : run_trial(&r, (uint32_t)number, &mistake);
    keep_run(v.document, promise, (uint32_t)number, &r, ran ? NULL : mistake.text);
    json_decref(r.failed);
    lsp_publish(s);
    if (s->lens_refreshes)
        lsp_send(json_pack("{s:s, s:I, s:s}", "jsonrpc", "2.0", "id", (json_int_t)++s->next_id, "method",
                           "workspace/codeLens/refresh"));
    const lsp_ran *kept = ran_of(v.document, promise, (uint32_t)number);
    return kept ? string_of(fg_text_of(kept->said)) : NULL;
}

/* ---- what there is ---- */

static const struct {
    const char *method;
    lsp_answer *answer;
} methods[] = {{"textDocument/hover", hover},
               {"textDocument/definition", definition},
               {"textDocument/references", references},
               {"textDocument/documentHighlight", highlights},
               {"textDocument/prepareRename", prepare_rename},
               {"textDocument/rename", rename_name},
               {"textDocument/completion", completion},
               {"textDocument/codeAction", code_actions},
               {"textDocument/documentSymbol", symbols},
               {"textDocument/foldingRange", folding},
               {"textDocument/formatting", formatting},
               {"textDocument/semanticTokens/full", semantic_tokens},
               {"textDocument/inlayHint", inlay_hints},
               {"textDocument/codeLens", lenses},
               {"workspace/executeCommand", execute}};

lsp_answer *lsp_answer_to(const char *method)
{
    for (size_t i = 0; i < sizeof methods / sizeof *methods; i++)
        if (!strcmp(methods[i].method, method)) return methods[i].answer;
    return NULL;
}

json_t *lsp_capabilities(const lsp_server *s)
{
    json_t *types = json_array();
#define LSP_TYPE(code, word)                                                                                           \
    if (code != FG_PAINT_NONE) json_array_append_new(types, json_string(word));
    FG_PAINTS(LSP_TYPE)
#undef LSP_TYPE
    return json_pack(
        "{s:{s:s, s:{s:b, s:i}, s:b, s:b, s:b, s:b, s:{s:b}, s:{s:[s, s, s]}, s:{s:[s]}, s:b, s:b, s:b, s:{s:{s:o, "
        "s:[]}, s:b}, s:b, s:{}, s:{s:[s, s]}}, s:{s:s, s:s}}",
        "capabilities", "positionEncoding", s->utf8 ? "utf-8" : "utf-16", "textDocumentSync", "openClose", 1, "change",
        2, "hoverProvider", 1, "definitionProvider", 1, "referencesProvider", 1, "documentHighlightProvider", 1,
        "renameProvider", "prepareProvider", 1, "completionProvider", "triggerCharacters", " ", "{", ";",
        "codeActionProvider", "codeActionKinds", "quickfix", "documentSymbolProvider", 1, "foldingRangeProvider", 1,
        "documentFormattingProvider", 1, "semanticTokensProvider", "legend", "tokenTypes", types, "tokenModifiers",
        "full", 1, "inlayHintProvider", 1, "codeLensProvider", "executeCommandProvider", "commands", "fickle.trial",
        "fickle.promise", "serverInfo", "name", "fickle", "version", fg_version());
}
