/* SPDX-License-Identifier: MIT */
/* Texts that grow, and values, times and mistakes written into them. */
#include "workshop/base/buffer.h"

#include <inttypes.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

fg_text fg_text_trimmed(fg_text text)
{
    while (text.size && (text.at[0] == ' ' || text.at[0] == '\t')) text = (fg_text){text.at + 1, text.size - 1};
    while (text.size && (text.at[text.size - 1] == ' ' || text.at[text.size - 1] == '\t')) text.size--;
    return text;
}

void fg_buffer_room(fg_buffer *b, size_t size)
{
    if (size <= b->room || b->full) return;
    size_t room = b->room ? b->room : 256;
    while (room < size) room *= 2;
    char *more = realloc(b->text, room);
    if (more) {
        b->text = more;
        b->room = room;
    } else {
        b->full = true;
    }
}

void fg_buffer_add(fg_buffer *b, fg_text text)
{
    if (!text.size || b->full) return;
    fg_buffer_room(b, b->size + text.size);
    if (b->full) return;
    memcpy(b->text + b->size, text.at, text.size);
    b->size += text.size;
}

void fg_buffer_end(fg_buffer *b)
{
    fg_buffer_room(b, b->size + 1);
    if (!b->full) b->text[b->size] = '\0';
}

void fg_buffer_add_c(fg_buffer *b, const char *text) { fg_buffer_add(b, (fg_text){text, strlen(text)}); }

/* ---- texts for a person ---- */

/* Characters that steer a terminal, end a line or change the direction of what is read. */
static bool steers(uint32_t c)
{
    static const uint32_t ranges[][2] = {{0, 0x1f},        {0x7f, 0x9f},      {0x61c, 0x61c},   {0x200b, 0x200f},
                                         {0x2028, 0x202e}, {0x2060, 0x206f},  {0xfeff, 0xfeff}, {0xfff9, 0xfffb},
                                         {0xfffe, 0xffff}, {0xe0000, 0xe0fff}};
    for (size_t i = 0; i < sizeof ranges / sizeof *ranges; i++)
        if (c >= ranges[i][0] && c <= ranges[i][1]) return true;
    return false;
}

fg_text fg_text_next_shown(fg_text *text, char *room)
{
    uint32_t c = 0;
    size_t size = 0, taken = 0;
    while (taken < text->size && text->at[taken] >= ' ' && text->at[taken] <= '~') taken++; /* which is most of them */
    while (taken < text->size) {
        size = fg_utf8_size((fg_text){text->at + taken, text->size - taken}, &c);
        if (!size || steers(c)) break;
        taken += size;
    }
    fg_text piece = {text->at, taken};
    if (!taken) {
        taken = size ? size : 1;
        if (!size || c < 0x80)
            piece.size = (size_t)snprintf(room, FG_ESCAPE_SIZE, "\\x%02x", (unsigned char)*text->at);
        else
            piece.size = (size_t)snprintf(room, FG_ESCAPE_SIZE, "\\u%04" PRIx32, c);
        piece.at = room;
    }
    *text = (fg_text){text->at + taken, text->size - taken};
    return piece;
}

void fg_buffer_add_shown(fg_buffer *b, fg_text text)
{
    char room[FG_ESCAPE_SIZE];
    while (text.size) fg_buffer_add(b, fg_text_next_shown(&text, room));
}

void fg_text_keep(char *to, size_t room, fg_text text)
{
    char escape[FG_ESCAPE_SIZE];
    size_t size = 0;
    while (text.size) {
        fg_text piece = fg_text_next_shown(&text, escape);
        const bool cut = piece.size > room - 1 - size;
        if (cut) piece.size = room - 1 - size;
        while (cut && piece.size && ((unsigned char)piece.at[piece.size] & 0xc0) == 0x80) piece.size--;
        if (cut && piece.at == escape) piece.size = 0; /* no half escapes */
        memcpy(to + size, piece.at, piece.size);
        size += piece.size;
        if (cut) break;
    }
    to[size] = '\0';
}

void fg_text_show(FILE *file, fg_text text)
{
    char room[FG_ESCAPE_SIZE];
    while (text.size) {
        const fg_text piece = fg_text_next_shown(&text, room);
        fwrite(piece.at, 1, piece.size, file);
    }
}

void fg_buffer_add_value(fg_buffer *b, fg_value value, const fg_declared *declared)
{
    char text[FG_VALUE_TEXT_SIZE];
    size_t size = fg_value_write(value, declared->decimals, text);
    fg_buffer_add(b, (fg_text){text, size});
    if (!declared->unit.size) return;
    fg_buffer_add_c(b, " ");
    fg_buffer_add(b, declared->unit);
}

void fg_buffer_add_number(fg_buffer *b, int64_t number)
{
    char text[24];
    int size = snprintf(text, sizeof text, "%" PRId64, number);
    fg_buffer_add(b, (fg_text){text, (size_t)size});
}

void fg_buffer_add_time(fg_buffer *b, int64_t ms)
{
    char text[32];
    int size;
    if (ms < 1000)
        size = snprintf(text, sizeof text, "%" PRId64 " ms", ms);
    else if (ms % 1000 == 0)
        size = snprintf(text, sizeof text, "%" PRId64 " s", ms / 1000);
    else if (ms % 100 == 0)
        size = snprintf(text, sizeof text, "%" PRId64 ".%" PRId64 " s", ms / 1000, ms % 1000 / 100);
    else
        size = snprintf(text, sizeof text, "%" PRId64 ".%03" PRId64 " s", ms / 1000, ms % 1000);
    fg_buffer_add(b, (fg_text){text, (size_t)size});
}

/* ---- texts written as files ---- */

static ssize_t put_in_memory(void *cookie, const char *text, size_t size)
{
    fg_memory_file *m = cookie;
    fg_buffer b = {m->text, m->size, m->room, m->full};
    fg_buffer_add(&b, (fg_text){text, size});
    m->text = b.text;
    m->size = b.size;
    m->room = b.room;
    m->full = b.full;
    return b.full ? 0 : (ssize_t)size;
}

bool fg_memory_file_open(fg_memory_file *m)
{
    *m = (fg_memory_file){0};
    m->file = fopencookie(m, "w", (cookie_io_functions_t){.write = put_in_memory});
    return m->file != NULL;
}

bool fg_memory_file_close(fg_memory_file *m)
{
    bool good = fputc('\0', m->file) == 0 && !ferror(m->file);
    good = fclose(m->file) == 0 && good && !m->full;
    m->file = NULL;
    if (good) {
        m->size--;
    } else {
        free(m->text);
        *m = (fg_memory_file){0};
    }
    return good;
}

fg_text fg_buffer_text(const fg_buffer *b) { return (fg_text){b->text, b->size}; }

void fg_buffer_free(fg_buffer *b)
{
    free(b->text);
    *b = (fg_buffer){0};
}

fg_status fg_mistake_set(fg_mistake *mistake, fg_status status, const char *file, uint64_t line, const char *format,
                         ...)
{
    va_list values;
    va_start(values, format);
    char text[sizeof mistake->text];
    const int size = vsnprintf(text, sizeof text, format, values); // NOLINT(*-valist.Uninitialized)
    va_end(values);
    fg_text_keep(mistake->text, sizeof mistake->text, fg_text_of(size < 0 ? "" : text));
    snprintf(mistake->file, sizeof mistake->file, "%s", file);
    mistake->line = size < 0 ? 0 : line;
    mistake->status = status;
    return status;
}

void fg_buffer_add_written(fg_buffer *b, const fg_program *program, fg_span span)
{
    const fg_text text = program->sources[span.source].text;
    const size_t end = (size_t)span.at + span.size, from = b->size;
    bool quoted = false, blank = false;
    for (size_t i = span.at; i < end; i++) {
        const char c = text.at[i];
        const bool begins = i && strchr(" \t\r\n;{}", text.at[i - 1]) != NULL;
        if (c == '"') quoted = !quoted;
        if (c == '#' && !quoted && begins) {
            while (i < end && text.at[i] != '\n') i++;
            blank = true;
        } else if (strchr(" \t\r\n", c) && !quoted) {
            blank = true;
        } else {
            if (blank && b->size > from) fg_buffer_add_c(b, " ");
            blank = false;
            fg_buffer_add(b, (fg_text){&text.at[i], 1});
        }
    }
}

bool fg_program_written(const fg_program *program, fg_span span, fg_text *text)
{
    fg_buffer b = {0};
    fg_buffer_add_written(&b, program, span);
    *text = fg_buffer_text(&b);
    if (b.full) fg_buffer_free(&b);
    return !b.full;
}
