/* Texts that live as long as the coder, and lines of code. */
#include "workshop/bake/plan/coder.h"

#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

static const char *keep(coder *c, char *text)
{
    if (c->text_count == c->text_room) {
        const size_t room = c->text_room ? 2 * c->text_room : 256;
        char **more = realloc(c->texts_made, room * sizeof *more);
        if (!more) {
            free(text);
            text = NULL;
        } else {
            c->texts_made = more;
            c->text_room = room;
        }
    }
    if (!text) {
        c->full = true;
        return "";
    }
    return c->texts_made[c->text_count++] = text;
}

const char *fg_code_say(coder *c, const char *format, ...)
{
    va_list list, again;
    va_start(list, format);
    va_copy(again, list);
    const int size = vsnprintf(NULL, 0, format, list);
    char *text = size < 0 ? NULL : malloc((size_t)size + 1);
    if (text) (void)vsnprintf(text, (size_t)size + 1, format, again);
    va_end(again);
    va_end(list);
    return keep(c, text);
}

enum { WIDTH = 120, INDENT = 4 };

static bool is_break(const char *at) { return !strncmp(at, " && ", 4) || !strncmp(at, " || ", 4); }

/* Where a line that is too long is broken: in front of the last && or || of what fits, else behind the
 * last comma. 0: nowhere. */
static size_t place_to_break(const char *text, size_t room)
{
    size_t best = 0;
    for (size_t i = INDENT; i < room && text[i]; i++)
        if (is_break(text + i)) best = i;
    if (best) return best;
    for (size_t i = INDENT; i + 1 < room && text[i]; i++)
        if (text[i] == ',' && text[i + 1] == ' ') best = i + 1;
    return best;
}

static void add_blanks(fg_buffer *b, int count)
{
    while (count-- > 0) fg_buffer_add_c(b, " ");
}

/* A piece of a line, in as many lines as it takes. */
static void add_piece(coder *c, const char *at, size_t size, int begin, bool whole)
{
    int blanks = begin;
    while (size + (size_t)blanks > WIDTH && !whole) {
        const size_t end = place_to_break(at, WIDTH - (size_t)blanks);
        if (!end || end >= size) break;
        add_blanks(c->out, blanks);
        fg_buffer_add(c->out, (fg_text){at, end});
        fg_buffer_add_c(c->out, "\n");
        at += end + 1;
        size -= end + 1;
        blanks = begin + INDENT;
    }
    if (size) add_blanks(c->out, blanks);
    fg_buffer_add(c->out, (fg_text){at, size});
    fg_buffer_add_c(c->out, "\n");
}

/* A line that is too long is broken where it says (\v), then wherever it goes. */
static void add_line(coder *c, char *text, int blanks)
{
    const bool whole = strstr(text, "/*") || !strncmp(text, " *", 2) || strchr(text, '"');
    size_t marks = 0;
    for (const char *at = text; *at; at++) marks += *at == '\v';
    if (strlen(text) - marks + (size_t)blanks <= WIDTH) {
        char *to = text;
        for (const char *at = text; *at; at++)
            if (*at != '\v') *to++ = *at;
        *to = '\0';
    }
    for (const char *at = text, *mark; at; at = mark ? mark + 1 + (mark[1] == ' ') : NULL) {
        mark = strchr(at, '\v');
        add_piece(c, at, mark ? (size_t)(mark - at) : strlen(at), at == text ? blanks : blanks + INDENT, whole);
    }
}

void fg_code_line(coder *c, int indent, const char *format, ...)
{
    char *text = NULL;
    va_list list, again;
    va_start(list, format);
    va_copy(again, list);
    const int size = vsnprintf(NULL, 0, format, list);
    if (size >= 0) text = malloc((size_t)size + 1);
    if (text) (void)vsnprintf(text, (size_t)size + 1, format, again);
    va_end(again);
    va_end(list);
    if (!text) {
        c->full = true;
        return;
    }
    char *at = text;
    if (*at == '\n') fg_buffer_add_c(c->out, "\n");
    at += *at == '\n';
    add_line(c, at, *at == '#' ? 0 : indent * INDENT);
    free(text);
}
