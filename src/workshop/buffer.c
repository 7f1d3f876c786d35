#include "buffer.h"

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

void fg_buffer_add_c(fg_buffer *b, const char *text) { fg_buffer_add(b, (fg_text){text, strlen(text)}); }

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
    const int size = vsnprintf(mistake->text, sizeof mistake->text, format, values); // NOLINT(*-valist.Uninitialized)
    va_end(values);
    snprintf(mistake->file, sizeof mistake->file, "%s", file);
    mistake->line = size < 0 ? 0 : line;
    return status;
}
