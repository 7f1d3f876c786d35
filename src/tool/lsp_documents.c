/* SPDX-License-Identifier: MIT */
/* Texts that are being edited: opened, changed, compiled; places in them. */
#include "lsp.h"

#include <ctype.h>
#include <limits.h>
#include <stdlib.h>
#include <string.h>

/* ---- URIs ---- */

static int hex(char c)
{
    if (c >= '0' && c <= '9') return c - '0';
    c = (char)tolower((unsigned char)c);
    return c >= 'a' && c <= 'f' ? c - 'a' + 10 : -1;
}

/* file:///a%20b to /a b; anything else stays as it is and is no file. */
static char *path_of(const char *uri)
{
    const bool file = strncmp(uri, "file://", 7) == 0;
    char *path = strdup(file ? uri + 7 : uri), *to = path;
    for (const char *at = path; path && *at; at++) {
        const bool escaped = file && *at == '%' && hex(at[1]) >= 0 && hex(at[2]) >= 0;
        const unsigned char byte = (unsigned char)(escaped ? 16 * hex(at[1]) + hex(at[2]) : *at);
        memcpy(to++, &byte, 1);
        if (escaped) at += 2;
    }
    if (path) *to = '\0';
    char *real = path ? realpath(path, NULL) : NULL; /* one that is not there yet keeps its name */
    if (!real) return path;
    free(path);
    return real;
}

char *lsp_uri_of(const char *path)
{
    static const char begin[] = "file://", digits[] = "0123456789ABCDEF";
    char *uri = malloc(3 * strlen(path) + sizeof begin), *to = uri;
    if (!uri) return NULL;
    memcpy(to, begin, sizeof begin - 1);
    to += sizeof begin - 1;
    for (; *path; path++) {
        const unsigned char c = (unsigned char)*path;
        if (isalnum(c) || strchr("/-._~", c)) {
            *to++ = *path;
        } else {
            *to++ = '%';
            *to++ = digits[c >> 4];
            *to++ = digits[c & 15];
        }
    }
    *to = '\0';
    return uri;
}

/* ---- places ---- */

static uint32_t units_of(const lsp_server *s, uint32_t character, size_t bytes)
{
    return s->utf8 ? (uint32_t)bytes : character > 0xFFFF ? 2 : 1;
}

static size_t character_at(fg_text text, size_t at, uint32_t *character)
{
    const size_t bytes = fg_utf8_size((fg_text){text.at + at, text.size - at}, character);
    if (bytes) return bytes;
    *character = '?';
    return 1;
}

uint32_t lsp_offset_of(const lsp_server *s, fg_text text, const json_t *position)
{
    const json_int_t line = json_integer_value(json_object_get(position, "line"));
    const json_int_t wanted = json_integer_value(json_object_get(position, "character"));
    size_t at = 0;
    for (json_int_t i = 0; i < line; i++) {
        const char *newline = at < text.size ? memchr(text.at + at, '\n', text.size - at) : NULL;
        if (!newline) return (uint32_t)text.size;
        at = (size_t)(newline - text.at) + 1;
    }
    for (json_int_t units = 0; units < wanted && at < text.size && text.at[at] != '\n';) {
        uint32_t character;
        const size_t bytes = character_at(text, at, &character);
        units += units_of(s, character, bytes);
        at += bytes;
    }
    return (uint32_t)at;
}

json_t *lsp_position_of(const lsp_server *s, fg_text text, uint32_t to)
{
    json_int_t line = 0, units = 0;
    if (to > text.size) to = (uint32_t)text.size;
    for (size_t at = 0; at < to;) {
        uint32_t character;
        const size_t bytes = character_at(text, at, &character);
        units += units_of(s, character, bytes);
        if (text.at[at] == '\n') {
            line++;
            units = 0;
        }
        at += bytes;
    }
    return json_pack("{s:I, s:I}", "line", line, "character", units);
}

json_t *lsp_range_of(const lsp_server *s, fg_text text, fg_span span)
{
    return json_pack("{s:o, s:o}", "start", lsp_position_of(s, text, span.at), "end",
                     lsp_position_of(s, text, span.at + span.size));
}

/* ---- documents ---- */

lsp_document *lsp_document_find(const lsp_server *s, const char *uri)
{
    lsp_document *d = s->documents;
    while (d && (!uri || strcmp(d->uri, uri) != 0)) d = d->next;
    return d;
}

void lsp_document_forget_runs(lsp_document *d)
{
    for (size_t i = 0; i < d->ran_count; i++) {
        free(d->ran[i].said);
        json_decref(d->ran[i].failed);
    }
    free(d->ran);
    d->ran = NULL;
    d->ran_count = 0;
}

static void forget_gate(lsp_document *d)
{
    if (d->open_gate) fg_gate_file_close(&d->gate);
    d->open_gate = false;
}

static void forget(lsp_document *d)
{
    forget_gate(d);
    lsp_document_forget_runs(d);
    free(d->uri);
    free(d->path);
    free(d->text);
    free(d);
}

static bool set_text(lsp_document *d, const char *text, size_t size)
{
    char *copy = malloc(size + 1);
    if (!copy) return false;
    memcpy(copy, text, size);
    copy[size] = '\0';
    free(d->text);
    d->text = copy;
    d->size = size;
    d->stale = true;
    return true;
}

bool lsp_document_open(lsp_server *s, const char *uri, const char *text, size_t size, int64_t version)
{
    lsp_document_close(s, uri); /* one that is open already begins anew */
    lsp_document *d = calloc(1, sizeof *d);
    if (!d) return false;
    d->uri = strdup(uri);
    d->path = path_of(uri);
    d->version = version;
    if (!d->uri || !d->path || !set_text(d, text, size)) {
        forget(d);
        return false;
    }
    d->next = s->documents;
    s->documents = d;
    for (lsp_document *other = d; other; other = other->next) other->stale = true; /* it may be included there */
    s->unpublished = true;
    return true;
}

void lsp_document_close(lsp_server *s, const char *uri)
{
    lsp_document **at = &s->documents;
    while (*at && strcmp((*at)->uri, uri) != 0) at = &(*at)->next;
    lsp_document *d = *at;
    if (!d) return;
    *at = d->next;
    forget(d);
    s->unpublished = true;
    for (lsp_document *other = s->documents; other; other = other->next) other->stale = true;
}

/* A range gives way to a text, or the whole does. */
static bool change_once(const lsp_server *s, lsp_document *d, const json_t *change)
{
    const json_t *range = json_object_get(change, "range"), *text = json_object_get(change, "text");
    if (!json_is_string(text)) return true; /* nothing that could be done */
    const char *with = json_string_value(text);
    const size_t added = json_string_length(text);
    if (!json_is_object(range)) return set_text(d, with, added);
    const fg_text whole = {d->text, d->size};
    uint32_t from = lsp_offset_of(s, whole, json_object_get(range, "start"));
    uint32_t to = lsp_offset_of(s, whole, json_object_get(range, "end"));
    if (to < from) to = from;
    const size_t size = d->size - (to - from) + added;
    char *changed = malloc(size + 1);
    if (!changed) return false;
    memcpy(changed, d->text, from);
    memcpy(changed + from, with, added);
    memcpy(changed + from + added, d->text + to, d->size - to);
    changed[size] = '\0';
    free(d->text);
    d->text = changed;
    d->size = size;
    d->stale = true;
    return true;
}

bool lsp_document_change(lsp_server *s, lsp_document *d, const json_t *changes, int64_t version)
{
    size_t i;
    json_t *change;
    d->version = version;
    s->unpublished = true;
    lsp_document_forget_runs(d);
    json_array_foreach(changes, i, change) if (!change_once(s, d, change)) return false;
    for (lsp_document *other = s->documents; other; other = other->next) other->stale = true; /* it may include this */
    return true;
}

/* Findings are no failure here. */
bool lsp_documents_compile(lsp_server *s)
{
    size_t count = 0;
    bool stale = false, good = true;
    for (const lsp_document *d = s->documents; d; d = d->next, count++) stale = stale || d->stale;
    if (!stale) return true;
    fg_open_text *open = malloc((count + 1) * sizeof *open);
    if (!open) return false;
    /* Programs keep what they were compiled with, so all of them are closed first. */
    for (lsp_document *d = s->documents; d; d = d->next) forget_gate(d);
    free(s->open);
    s->open = open;
    count = 0;
    for (const lsp_document *d = s->documents; d; d = d->next)
        s->open[count++] = (fg_open_text){d->path, {d->text, d->size}};
    for (lsp_document *d = s->documents; d; d = d->next) {
        fg_mistake mistake;
        const fg_settings settings = {.promises = true, .open = s->open, .open_count = count};
        const fg_status status =
            fg_gate_file_of_text(&d->gate, d->path, (fg_text){d->text, d->size}, settings, &mistake);
        d->open_gate = true;
        d->stale = false;
        good = good && (status == FG_OK || status == FG_ERROR_GATE);
    }
    return good;
}

bool lsp_view_of(const lsp_server *s, lsp_document *d, lsp_view *view)
{
    if (!d || !d->open_gate) return false;
    *view = (lsp_view){d, &d->gate.program, &d->gate, 0};
    for (lsp_document *other = s->documents; other; other = other->next) {
        const fg_program *p = &other->gate.program;
        if (other == d || !other->open_gate) continue;
        for (uint16_t i = 1; i < p->source_count; i++)
            if (fg_text_is(p->sources[i].identity, d->path)) {
                *view = (lsp_view){d, p, &other->gate, i};
                return true;
            }
    }
    return true;
}

void lsp_documents_end(lsp_server *s)
{
    while (s->documents) {
        lsp_document *d = s->documents;
        s->documents = d->next;
        forget(d);
    }
    free(s->open);
}
