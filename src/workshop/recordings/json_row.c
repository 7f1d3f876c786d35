/* SPDX-License-Identifier: MIT */
/* A row as a line of JSON. */
#include "workshop/base/buffer.h"

#ifndef FG_WITHOUT_JSON
#include <jansson.h>
#include <stdlib.h>
#include <string.h>

static size_t digits_at(fg_text cell, size_t from)
{
    size_t i = from;
    while (i < cell.size && cell.at[i] >= '0' && cell.at[i] <= '9') i++;
    return i - from;
}

/* Is it a plain decimal that is read back as the same reading, also by a flag, to which 1 is a word and 1.0 is none? */
static bool is_number(fg_text cell)
{
    enum { DIGITS = 15 };
    const size_t sign = cell.size && *cell.at == '-', whole = digits_at(cell, sign), point = sign + whole;
    if (!whole || cell.size > DIGITS || (whole > 1 && cell.at[sign] == '0')) return false;
    const bool one_digit_flag = whole == 1 && (cell.at[sign] == '0' || cell.at[sign] == '1');
    if (point == cell.size) return !sign || !one_digit_flag;
    const size_t fraction = digits_at(cell, point + 1);
    if (cell.at[point] != '.' || !fraction || point + 1 + fraction != cell.size) return false;
    for (size_t i = point + 1; i < cell.size; i++)
        if (cell.at[i] != '0') return true;
    return !one_digit_flag;
}

static json_t *value_of(fg_text cell)
{
    char text[40];
    if (!cell.size) return json_null();
    if (!is_number(cell)) return json_stringn_nocheck(cell.at, cell.size);
    memcpy(text, cell.at, cell.size);
    text[cell.size] = '\0';
    return strchr(text, '.') ? json_real(strtod(text, NULL)) : json_integer(strtoll(text, NULL, 10));
}

bool fg_json_row(FILE *file, const fg_text *names, const fg_text *cells, size_t count)
{
    json_t *object = json_object();
    fg_buffer name = {0};
    bool good = object != NULL;
    for (size_t i = 0; good && i < count; i++) {
        name.size = 0;
        fg_buffer_add(&name, names[i]);
        fg_buffer_end(&name);
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
