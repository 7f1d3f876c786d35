/* SPDX-License-Identifier: MIT */
/* Bytes as they come: lines, and what each of them holds. */
#include "workshop/live/live.h"

#include <stdlib.h>
#include <string.h>

#include <csv.h>
#ifndef FG_WITHOUT_JSON
#include "workshop/recordings/json.h"
#endif

/* ---- lines that are no readings ---- */

static bool is_text(fg_text line)
{
    for (size_t i = 0; i < line.size; i++) {
        const unsigned char c = (unsigned char)line.at[i];
        if ((c < ' ' && c != '\t') || c >= 0x7f) return false;
    }
    return true;
}

static bool count_other(fg_live *l, fg_text line)
{
    enum { MANY = 5 };
    char shown[60], escape[FG_ESCAPE_SIZE];
    size_t size = 0;
    l->lines.others++;
    l->garbage += !is_text(line);
    if (l->garbage >= MANY && !l->told_garbage) {
        l->told_garbage = true;
        fg_live_tell(l, "what comes is no text; on a serial line the speed may be wrong: --baud 115200 or 9600");
    }
    if (l->told_other) return true;
    l->told_other = true;
    while (line.size && size + FG_ESCAPE_SIZE < sizeof shown - 4) {
        const fg_text piece = fg_text_next_shown(&line, escape);
        const size_t part = piece.size < sizeof shown - 4 - size ? piece.size : sizeof shown - 4 - size;
        memcpy(shown + size, piece.at, part);
        size += part;
        if (part < piece.size) break;
    }
    fg_live_tell(l, "line %llu holds no readings: %.*s%s", (unsigned long long)l->line_number, (int)size, shown,
                 line.size ? "..." : "");
    return true;
}

/* ---- CSV ---- */

enum { CELLS_MOST = FG_LINE_READINGS_MOST * 4 };

typedef struct cells {
    char text[FG_LIVE_LINE_MOST + 1];
    size_t size;
    fg_text at[CELLS_MOST];
    size_t count;
    bool too_many;
} cells;

static void on_cell(void *cell, size_t size, void *context)
{
    cells *c = context;
    if (c->count == CELLS_MOST || c->size + size > sizeof c->text) {
        c->too_many = true;
        return;
    }
    if (size) memcpy(c->text + c->size, cell, size);
    c->at[c->count++] = fg_text_trimmed((fg_text){c->text + c->size, size});
    c->size += size;
}

/* The cells of one line; false if it cannot be taken apart. */
static bool split(fg_text line, char divides, cells *c)
{
    struct csv_parser parser;
    c->size = c->count = 0;
    c->too_many = false;
    if (csv_init(&parser, CSV_STRICT | CSV_STRICT_FINI) != 0) return false;
    csv_set_delim(&parser, (unsigned char)divides);
    const bool good = csv_parse(&parser, line.at, line.size, on_cell, NULL, c) == line.size &&
                      csv_fini(&parser, on_cell, NULL, c) == 0;
    csv_free(&parser);
    return good && !c->too_many;
}

static char divider_of(fg_text line)
{
    size_t counts[3] = {0};
    for (size_t i = 0; i < line.size; i++) {
        counts[0] += line.at[i] == ',';
        counts[1] += line.at[i] == ';';
        counts[2] += line.at[i] == '\t';
    }
    if (counts[1] > counts[0] && counts[1] >= counts[2]) return ';';
    return counts[2] > counts[0] ? '\t' : ',';
}

static bool begins_like_a_number(fg_text cell)
{
    return cell.size && ((*cell.at >= '0' && *cell.at <= '9') || strchr("+-.", *cell.at));
}

/* Does the gate, or whoever renames columns, know such a name, in whatever letter case? */
static bool is_known(const fg_live *l, fg_text name)
{
    fg_text unit;
    const fg_text bare = fg_column_name(name, &unit);
    const fg_program *program = l->player.program;
    const fg_recording_options *o = &l->options.reading;
    if (fg_time_kind_of(name) != FG_TIME_NONE) return true;
    for (size_t i = 0; i < o->column_count; i++)
        if (fg_text_same(o->columns[i].value, name)) return true;
    for (uint32_t i = 0; i < program->declared_count; i++)
        if (fg_text_alike(program->declared[i].name, bare)) return true;
    return fg_player_input(&l->player, name, &(fg_input){0});
}

/* Names of columns, one of which is known, and no number among them: no first reading is taken for that. */
static bool is_heading(const fg_live *l, const cells *c)
{
    bool known = false;
    for (size_t i = 0; i < c->count; i++) {
        if (!c->at[i].size || begins_like_a_number(c->at[i])) return false;
        known = known || is_known(l, c->at[i]);
    }
    return known;
}

static bool keep_heading(fg_live *l, const cells *c, char divides)
{
    const size_t table = c->count * sizeof(fg_text);
    free(l->heading);
    l->heading = malloc(table + c->size + 1);
    l->heading_count = l->heading ? c->count : 0;
    l->divides = divides;
    if (!l->heading) return false;
    char *texts = (char *)l->heading + table;
    memcpy(texts, c->text, c->size);
    for (size_t i = 0; i < c->count; i++) l->heading[i] = (fg_text){texts + (c->at[i].at - c->text), c->at[i].size};
    return true;
}

static bool take_cells(fg_live *l, const cells *c, fg_text clock, int64_t now_ms)
{
    fg_live_part parts[CELLS_MOST];
    if (c->count != l->heading_count) {
        l->lines.torn++;
        return true;
    }
    for (size_t i = 0; i < c->count; i++) parts[i] = (fg_live_part){l->heading[i], c->at[i], {0}};
    return fg_live_take(l, parts, c->count, clock, now_ms);
}

/* ---- numbers ---- */

/* Those that --columns gives, or of the only sensor. */
static size_t given_names(const fg_live *l, fg_live_part *parts)
{
    const char *at = l->options.reading.names;
    size_t count = 0;
    if (!at && l->only.size) parts[count++] = (fg_live_part){.name = l->only};
    while (at && count < FG_LINE_READINGS_MOST) {
        const size_t size = strcspn(at, ",");
        parts[count++] = (fg_live_part){.name = fg_text_trimmed((fg_text){at, size})};
        at = at[size] ? at + size + 1 : NULL;
    }
    return count;
}

/* Cells of words and numbers for the names that were given. */
static bool take_given(fg_live *l, fg_text line, const cells *c, int64_t now_ms)
{
    fg_live_part parts[FG_LINE_READINGS_MOST];
    const size_t count = given_names(l, parts);
    if (count != c->count || count < 2) return count_other(l, line);
    for (size_t i = 0; i < count; i++) parts[i].value = c->at[i];
    return fg_live_take(l, parts, count, (fg_text){0}, now_ms);
}

static bool take_numbers(fg_live *l, int64_t now_ms)
{
    fg_live_part parts[FG_LINE_READINGS_MOST];
    const size_t count = given_names(l, parts), came = l->parsed.count;
    if (count && count == came) {
        for (size_t i = 0; i < count; i++) parts[i].value = l->parsed.readings[i].value;
        return fg_live_take(l, parts, count, l->parsed.clock, now_ms);
    }
    l->lines.torn += count != 0;
    l->lines.others += count == 0;
    if (l->told_numbers) return true;
    l->told_numbers = true;
    if (count)
        fg_live_tell(
            l, "line %llu holds %zu number%s, and there %s %zu name%s for them; a line with another count is torn",
            (unsigned long long)l->line_number, came, came == 1 ? "" : "s", count == 1 ? "is" : "are", count,
            count == 1 ? "" : "s");
    else
        fg_live_tell(l,
                     "line %llu holds %zu number%s without a name; say what each is, in their order: --columns "
                     "t_ms,depth",
                     (unsigned long long)l->line_number, came, came == 1 ? "" : "s");
    return true;
}

/* ---- JSON ---- */

#ifndef FG_WITHOUT_JSON
static bool take_json(fg_live *l, fg_text line, int64_t now_ms)
{
    fg_live_part parts[FG_LINE_READINGS_MOST];
    char texts[FG_LINE_READINGS_MOST][FG_JSON_CELL];
    size_t count = 0;
    const char *name;
    json_t *value, *object = json_loadb(line.at, line.size, JSON_REJECT_DUPLICATES, NULL);
    if (!json_is_object(object)) {
        json_decref(object);
        return count_other(l, line);
    }
    /* cppcheck-suppress unknownMacro */
    json_object_foreach(object, name, value)
    {
        if (count == FG_LINE_READINGS_MOST) break;
        parts[count] = (fg_live_part){fg_text_of(name), fg_json_cell(value, texts[count]), {0}};
        count++;
    }
    const bool more = fg_live_take(l, parts, count, (fg_text){0}, now_ms);
    json_decref(object);
    return more;
}
#else
static bool take_json(fg_live *l, fg_text line, int64_t now_ms)
{
    (void)now_ms;
    return count_other(l, line);
}
#endif

/* ---- a line ---- */

static bool take_named(fg_live *l, int64_t now_ms)
{
    fg_live_part parts[FG_LINE_READINGS_MOST];
    for (size_t i = 0; i < l->parsed.count; i++) {
        const fg_line_reading *r = &l->parsed.readings[i];
        parts[i] = (fg_live_part){r->name, r->value, r->unit};
    }
    return fg_live_take(l, parts, l->parsed.count, l->parsed.clock, now_ms);
}

/* Words: a heading, a row of one that has words in it, or something else. */
static bool take_words(fg_live *l, fg_text line, int64_t now_ms)
{
    cells c;
    const char divides = divider_of(line);
    if (!is_text(line)) return count_other(l, line);
    if (split(line, divides, &c) && is_heading(l, &c)) {
        if (keep_heading(l, &c, divides)) return true;
        return count_other(l, line);
    }
    if (l->heading && split(line, l->divides, &c) && c.count == l->heading_count && c.count > 1)
        return take_cells(l, &c, (fg_text){0}, now_ms);
    if (!l->heading && l->options.reading.names && split(line, divides, &c)) return take_given(l, line, &c, now_ms);
    return count_other(l, line);
}

static bool take_line(fg_live *l, fg_text line, int64_t now_ms)
{
    cells c;
    const uint64_t rows = l->clock.rows;
    bool more = true;
    l->line_number++;
    line = fg_text_trimmed(line);
    if (!line.size || *line.at == '#') return true;
    l->lines.all++;
    if (*line.at == '{') {
        more = take_json(l, line, now_ms);
    } else {
        fg_line_read(line, &l->parsed);
        switch (l->parsed.kind) {
        case FG_LINE_NAMED: more = take_named(l, now_ms); break;
        case FG_LINE_NUMBERS:
            if (l->heading && split(line, l->divides, &c))
                more = take_cells(l, &c, (fg_text){0}, now_ms);
            else
                more = take_numbers(l, now_ms);
            break;
        case FG_LINE_OTHER: more = take_words(l, line, now_ms); break;
        case FG_LINE_EMPTY: break;
        }
    }
    if (l->clock.rows != rows) l->garbage = 0;
    return more;
}

/* ---- bytes ---- */

static bool line_ends(fg_live *l, int64_t now_ms)
{
    bool more = true;
    if (l->drops_line || l->line.full) {
        l->line_number++;
        l->lines.all++;
        more = count_other(l, fg_text_of("(more than 4096 bytes without a line end)"));
    } else if (l->line.size) {
        more = take_line(l, fg_buffer_text(&l->line), now_ms);
    }
    l->line.size = 0;
    l->line.full = false;
    l->drops_line = false;
    return more;
}

bool fg_live_bytes(fg_live *l, const char *bytes, size_t size, int64_t now_ms)
{
    const char *const end = bytes + size;
    while (bytes < end) {
        const char *at = bytes;
        while (at < end && *at != '\n' && *at != '\r') at++;
        if (l->line.size + (size_t)(at - bytes) > FG_LIVE_LINE_MOST) l->drops_line = true;
        if (!l->drops_line) fg_buffer_add(&l->line, (fg_text){bytes, (size_t)(at - bytes)});
        if (at < end && !line_ends(l, now_ms)) return false;
        bytes = at + (at < end);
    }
    return true;
}

bool fg_live_bytes_end(fg_live *l, bool whole, int64_t now_ms)
{
    if (whole) return line_ends(l, now_ms);
    l->lines.torn += l->line.size != 0;
    l->line.size = 0;
    l->drops_line = false;
    return true;
}

bool fg_live_message(fg_live *l, fg_text name, fg_text value, int64_t now_ms)
{
    value = fg_text_trimmed(value);
    l->line_number++;
    l->lines.all++;
    if (value.size > FG_LIVE_LINE_MOST) return count_other(l, fg_text_of("(a message of more than 4096 bytes)"));
    if (value.size && *value.at == '{') return take_json(l, value, now_ms);
    return fg_live_take(l, &(fg_live_part){name, value, {0}}, 1, (fg_text){0}, now_ms);
}
