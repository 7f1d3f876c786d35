/* A row as a line of JSON. */
#include "workshop/base/buffer.h"

#ifndef FG_WITHOUT_JSON
#include <jansson.h>
#include <stdlib.h>
#include <string.h>

/* A decimal as JSON has it, and nothing else, is a number. */
static json_t *value_of(fg_text cell)
{
    char text[40], *end;
    fg_value steps;
    if (!cell.size) return json_null();
    const bool plain = cell.size < sizeof text && strchr("-0123456789", *cell.at);
    if (!plain || fg_value_read(cell.at, cell.size, 0, &steps) == FG_ERROR_TEXT)
        return json_stringn_nocheck(cell.at, cell.size);
    memcpy(text, cell.at, cell.size);
    text[cell.size] = '\0';
    const double real = strtod(text, &end);
    if (*end) return json_stringn_nocheck(cell.at, cell.size);
    return strpbrk(text, ".eE") ? json_real(real) : json_integer(strtoll(text, NULL, 10));
}

bool fg_json_row(FILE *file, const fg_text *names, const fg_text *cells, size_t count)
{
    json_t *object = json_object();
    fg_buffer name = {0};
    bool good = object != NULL;
    for (size_t i = 0; good && i < count; i++) {
        name.size = 0;
        fg_buffer_add(&name, names[i]);
        fg_buffer_add(&name, (fg_text){"", 1});
        good = !name.full && json_object_set_new_nocheck(object, name.text, value_of(cells[i])) == 0;
    }
    good = good && json_dumpf(object, file, JSON_COMPACT | JSON_REAL_PRECISION(15)) == 0;
    fputc('\n', file);
    json_decref(object);
    fg_buffer_free(&name);
    return good;
}

#else

bool fg_json_row(FILE *file, const fg_text *names, const fg_text *cells, size_t count)
{
    (void)file;
    (void)names;
    (void)cells;
    (void)count;
    return false;
}

#endif
