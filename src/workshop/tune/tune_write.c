/* SPDX-License-Identifier: MIT */
/* Changed numbers into the gate file: the edits, the text with them, the difference. */
#include "workshop/tune/tuning.h"

#include <stdlib.h>
#include <string.h>

/* ---- edits ---- */

static const char *why_not(const fg_tuned_change *change)
{
    if (!change->written->span.size) return "it is worked out from others, or was set for this run";
    if (change->written->span.source) return "it stands in an included file; tune it there";
    return NULL;
}

size_t fg_tuning_edits(const fg_tuning *t, const fg_tuned *tuned, fg_edit *edits, size_t room, void *context,
                       void (*left)(void *context, const fg_tuned_change *change, const char *why))
{
    size_t count = 0;
    for (size_t i = 0; i < tuned->change_count; i++) {
        const fg_tuned_change *change = &tuned->changes[i];
        const fg_written *w = change->written;
        const char *why = why_not(change);
        if (why) {
            if (left) left(context, change, why);
            continue;
        }
        if (count++ >= room) continue;
        fg_edit *edit = &edits[count - 1];
        const fg_text text = t->program->sources[0].text;
        *edit = (fg_edit){.span = w->span, .rule = t->rule};
        if (w->number != FG_DECLARED_NONE) edit->number = &t->program->declared[w->number];
        fg_value_short(change->value, t->rule->decimals, edit->text);
        snprintf(edit->was, sizeof edit->was, "%.*s", (int)w->span.size, text.at + w->span.at);
    }
    return count;
}

static int by_place(const void *a, const void *b)
{
    const fg_edit *x = a, *y = b;
    return (x->span.at > y->span.at) - (x->span.at < y->span.at);
}

fg_text fg_edit_text(fg_text text, fg_edit *edits, size_t count)
{
    fg_buffer out = {0};
    uint32_t at = 0;
    qsort(edits, count, sizeof *edits, by_place);
    fg_buffer_room(&out, text.size + 1);
    for (size_t i = 0; i < count; i++) {
        fg_buffer_add(&out, (fg_text){text.at + at, edits[i].span.at - at});
        fg_buffer_add_c(&out, edits[i].text);
        at = edits[i].span.at + edits[i].span.size;
    }
    fg_buffer_add(&out, (fg_text){text.at + at, text.size - at});
    if (!out.full) return fg_buffer_text(&out);
    fg_buffer_free(&out);
    return (fg_text){0};
}

/* ---- the difference ---- */

/* The line that begins at `at`, with its end. */
static fg_text line_at(fg_text text, size_t at)
{
    const char *end = at < text.size ? memchr(text.at + at, '\n', text.size - at) : NULL;
    return (fg_text){text.at + at, (end ? (size_t)(end - text.at) + 1 : text.size) - at};
}

enum { AROUND = 3 };

typedef struct lines {
    fg_text *lines;
    size_t count;
} lines;

static lines split(fg_text text)
{
    lines l = {malloc((text.size + 1) * sizeof *l.lines), 0};
    for (size_t at = 0; l.lines && at < text.size; at += l.lines[l.count - 1].size)
        l.lines[l.count++] = line_at(text, at);
    return l;
}

static void write_line(FILE *out, char mark, fg_text line)
{
    fputc(mark, out);
    fwrite(line.at, 1, line.size, out);
    if (!line.size || line.at[line.size - 1] != '\n') fputs("\n\\ No newline at end of file\n", out);
}

/* From line `from` up to `to`: first what was, then what is, for each run of changed lines. */
static void write_hunk(FILE *out, const lines *a, const lines *b, size_t from, size_t to)
{
    fprintf(out, "@@ -%zu,%zu +%zu,%zu @@\n", from + 1, to - from, from + 1, to - from);
    for (size_t i = from, end; i < to; i = end) {
        end = i + 1;
        if (fg_text_same(a->lines[i], b->lines[i])) {
            write_line(out, ' ', a->lines[i]);
            continue;
        }
        while (end < to && !fg_text_same(a->lines[end], b->lines[end])) end++;
        for (size_t k = i; k < end; k++) write_line(out, '-', a->lines[k]);
        for (size_t k = i; k < end; k++) write_line(out, '+', b->lines[k]);
    }
}

bool fg_write_diff(FILE *out, const char *path, fg_text before, fg_text after)
{
    lines a = split(before), b = split(after);
    const size_t count = a.count < b.count ? a.count : b.count;
    const bool good = a.lines && b.lines;
    if (good) fprintf(out, "--- %s\n+++ %s\n", path, path);
    for (size_t i = 0; good && i < count; i++) {
        if (fg_text_same(a.lines[i], b.lines[i])) continue;
        size_t last = i, to = i + 1;
        for (; to < count && to - last <= (size_t)2 * AROUND; to++)
            if (!fg_text_same(a.lines[to], b.lines[to])) last = to;
        to = last + 1 + AROUND < count ? last + 1 + AROUND : count;
        write_hunk(out, &a, &b, i > AROUND ? i - AROUND : 0, to);
        i = to - 1;
    }
    free(a.lines);
    free(b.lines);
    return good;
}
