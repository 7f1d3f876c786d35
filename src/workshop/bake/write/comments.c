/* SPDX-License-Identifier: MIT */
/* The comments: each part of the code quotes the declaration it comes from. */
#include "workshop/bake/write/write.h"

#include <ctype.h>
#include <string.h>

/* Reads on from one word or sign to the next. */
typedef struct reader {
    fg_text text;
    size_t at;
} reader;

static char here(const reader *r)
{
    if (r->at >= r->text.size) return '\0';
    return r->text.at[r->at];
}

static void skip_comment(reader *r)
{
    while (here(r) && here(r) != '\n') r->at++;
}

/* A `#` begins a comment behind white space, `;` or a brace. */
static bool at_comment(const reader *r)
{
    if (here(r) != '#') return false;
    if (!r->at) return true;
    const char before = r->text.at[r->at - 1];
    return isspace((unsigned char)before) || strchr(";{}", before);
}

static void copy_string(reader *r, fg_buffer *out)
{
    fg_buffer_add(out, (fg_text){&r->text.at[r->at++], 1});
    while (here(r) && here(r) != '"' && here(r) != '\n') fg_buffer_add(out, (fg_text){&r->text.at[r->at++], 1});
    if (here(r) == '"') fg_buffer_add(out, (fg_text){&r->text.at[r->at++], 1});
}

/* Does the line go on behind its end: what stands there asks for more, or the next line begins with what joins? */
static bool goes_on(const reader *r, const fg_buffer *out)
{
    static const char *const open[] = {"and", "or", "not", "when"}, *const joins[] = {"and", "or"};
    size_t end = out->size;
    while (end && out->text[end - 1] == ' ') end--;
    if (end && strchr(",|=(+-*/", out->text[end - 1])) return true;
    for (size_t i = 0; i < 4; i++) {
        const size_t size = strlen(open[i]);
        if (end > size && out->text[end - size - 1] == ' ' && !memcmp(out->text + end - size, open[i], size))
            return true;
    }
    reader next = *r;
    while (isspace((unsigned char)here(&next)) || at_comment(&next))
        if (at_comment(&next))
            skip_comment(&next);
        else
            next.at++;
    if (here(&next) == '|' || here(&next) == '{') return true;
    for (size_t i = 0; i < 2; i++) {
        const size_t size = strlen(joins[i]);
        if (next.text.size - next.at > size && !memcmp(next.text.at + next.at, joins[i], size) &&
            isspace((unsigned char)next.text.at[next.at + size]))
            return true;
    }
    return false;
}

/* A blank where there was white space; a row that a line end ended gets its `;`. */
static void copy_white(reader *r, fg_buffer *out, int depth)
{
    bool ended = false;
    while (isspace((unsigned char)here(r)) || at_comment(r)) {
        if (at_comment(r)) {
            skip_comment(r);
        } else {
            ended = ended || here(r) == '\n';
            r->at++;
        }
    }
    char last = ' ';
    if (out->size) last = out->text[out->size - 1];
    if (ended && depth > 0 && here(r) != '}' && !strchr("{;,|=(", last) && !goes_on(r, out)) fg_buffer_add_c(out, ";");
    if (last != ' ') fg_buffer_add_c(out, " ");
}

static void copy_declaration(reader *r, fg_buffer *out)
{
    int depth = 0;
    for (char c = here(r); c; c = here(r)) {
        if (c == '"') {
            copy_string(r, out);
        } else if (isspace((unsigned char)c) || at_comment(r)) {
            copy_white(r, out, depth);
        } else {
            depth += (c == '{') - (c == '}');
            fg_buffer_add(out, (fg_text){&r->text.at[r->at++], 1});
        }
    }
}

const char *fg_code_quote(coder *c, const fg_declared *d, size_t most)
{
    fg_buffer written = {0}, b = {0};
    if (d->span.source >= c->program->source_count) return fg_code_say(c, "%.*s", (int)d->name.size, d->name.at);
    reader r = {{c->program->sources[d->whole.source].text.at + d->whole.at, d->whole.size}, 0};
    copy_declaration(&r, &written);
    fg_buffer_add_shown(&b, fg_buffer_text(&written));
    for (size_t i = 0; i + 1 < b.size; i++)
        if ((b.text[i] == '*' && b.text[i + 1] == '/') || (b.text[i] == '/' && b.text[i + 1] == '*')) b.text[i] = ' ';
    const bool cut = b.size > most;
    while (cut && most && ((unsigned char)b.text[most] & 0xc0) == 0x80) most--; /* whole characters */
    const char *quote = fg_code_say(c, "%.*s%s", (int)(cut ? most : b.size), b.text ? b.text : "", cut ? " ..." : "");
    c->full = c->full || b.full || written.full;
    fg_buffer_free(&written);
    fg_buffer_free(&b);
    return quote;
}

void fg_code_comment(coder *c, int indent, const fg_declared *d)
{
    enum { WIDTH = 112 };
    const char *at = fg_code_quote(c, d, 600), *lead = "/* ";
    while (*at) {
        size_t size = strlen(at), end = size;
        if (size > WIDTH) {
            for (end = WIDTH; end && at[end] != ' '; end--) continue;
            if (!end) end = size;
        }
        fg_code_line(c, indent, "%s%.*s%s", lead, (int)end, at, at[end] ? "" : " */");
        at += end;
        while (*at == ' ') at++;
        lead = " * ";
    }
}
