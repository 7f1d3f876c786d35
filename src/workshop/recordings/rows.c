/* SPDX-License-Identifier: MIT */
/* What all forms of recordings share: the heading, the times, the way to the sink. */
#include "workshop/recordings/recording.h"

#include <errno.h>
#include <inttypes.h>
#include <search.h>
#include <stdlib.h>
#include <string.h>

void fg_rows_fail(fg_rows *rows, uint64_t line, const char *text)
{
    if (rows->status == FG_OK)
        rows->status = fg_mistake_set(rows->mistake, FG_ERROR_RECORDING, rows->path, line, "%s", text);
}

fg_status fg_rows_status(const fg_rows *rows)
{
    return rows->mistake->status == FG_ERROR_MEMORY ? FG_ERROR_MEMORY : FG_ERROR_RECORDING;
}

/* ---- times ---- */

/* The exponent behind an e; false if there is none there. */
static bool read_exponent(fg_text text, int *exponent)
{
    size_t i = 0;
    bool negative = false;
    if (text.size && (text.at[0] == '-' || text.at[0] == '+')) negative = text.at[i++] == '-';
    if (i == text.size || text.size > 6) return false;
    *exponent = 0;
    for (; i < text.size; i++) {
        if (text.at[i] < '0' || text.at[i] > '9') return false;
        *exponent = *exponent * 10 + (text.at[i] - '0');
    }
    if (negative) *exponent = -*exponent;
    return true;
}

/* A time as whole milliseconds, rounded to nearest. 64 bits hold any epoch. */
static bool read_number(fg_text cell, fg_time_kind kind, int64_t *t_ms)
{
    cell = fg_text_trimmed(cell);
    const bool negative = cell.size && cell.at[0] == '-';
    if (cell.size && (cell.at[0] == '-' || cell.at[0] == '+')) cell = (fg_text){cell.at + 1, cell.size - 1};
    int exponent = 0, points = 0;
    size_t end = 0, point = 0;
    for (; end < cell.size && ((cell.at[end] >= '0' && cell.at[end] <= '9') || cell.at[end] == '.'); end++)
        if (cell.at[end] == '.') {
            points++;
            point = end;
        }
    if (!points) point = end;
    if (points > 1 || end == (size_t)points) return false;
    if (end < cell.size && ((cell.at[end] != 'e' && cell.at[end] != 'E') ||
                            !read_exponent((fg_text){cell.at + end + 1, cell.size - end - 1}, &exponent)))
        return false;

    /* `places` digits are whole milliseconds; the one behind them decides the rounding. */
    int64_t places = (int64_t)point + exponent + (kind == FG_TIME_MS ? 0 : 3), value = 0;
    size_t i = 0;
    for (; places > 0 && (value || i < end); places--) {
        if (i == point) i++;
        if (value > INT64_MAX / 100) return false;
        value = value * 10 + (i < end ? cell.at[i++] - '0' : 0);
    }
    if (i == point) i++;
    if (places == 0 && i < end && cell.at[i] >= '5') value++;
    *t_ms = negative ? -value : value;
    return true;
}

static bool digits(const char **at, const char *end, int count, int64_t *value)
{
    *value = 0;
    for (; count; count--, ++*at) {
        if (*at == end || **at < '0' || **at > '9') return false;
        *value = *value * 10 + (**at - '0');
    }
    return true;
}

static bool skip(const char **at, const char *end, const char *any)
{
    if (*at == end || !strchr(any, **at)) return false;
    ++*at;
    return true;
}

/* Days since 1970 in the Gregorian calendar, years counted from March (Hinnant, chrono-compatible low-level date
 * algorithms, 2013). */
static int64_t days_of(int64_t year, int64_t month, int64_t day)
{
    const int64_t y = month <= 2 ? year - 1 : year, era = y / 400, of_era = y - era * 400;
    const int64_t of_year = (153 * (month > 2 ? month - 3 : month + 9) + 2) / 5 + day - 1;
    return era * 146097 + of_era * 365 + of_era / 4 - of_era / 100 + of_year - 719468;
}

/* Behind the seconds: a fraction, rounded to milliseconds, and Z or a distance from it. */
static bool read_zone(const char *at, const char *end, int64_t *t_ms)
{
    int64_t ms = 0, scale = 1000, hours, minutes;
    if (skip(&at, end, ".")) {
        if (at == end || *at < '0' || *at > '9') return false;
        for (; at < end && *at >= '0' && *at <= '9'; at++, scale /= 10) /* the fourth digit rounds */
            ms += scale > 1 ? scale / 10 * (*at - '0') : scale == 1 && *at >= '5';
    }
    *t_ms += ms;
    if (skip(&at, end, "Zz")) return at == end;
    if (at == end || (*at != '+' && *at != '-')) return false;
    const int64_t sign = *at++ == '+' ? 1 : -1;
    if (!digits(&at, end, 2, &hours) || !skip(&at, end, ":") || !digits(&at, end, 2, &minutes) || at != end)
        return false;
    *t_ms -= sign * (hours * 60 + minutes) * 60000;
    return hours < 24 && minutes < 60;
}

bool fg_read_date(fg_text text, int64_t *t_ms)
{
    static const int8_t lengths[] = {31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
    const char *at = text.at, *end = text.at + text.size;
    int64_t year, month, day, hour, minute, second;
    if (!digits(&at, end, 4, &year) || !skip(&at, end, "-") || !digits(&at, end, 2, &month) || !skip(&at, end, "-") ||
        !digits(&at, end, 2, &day) || !skip(&at, end, "Tt ") || !digits(&at, end, 2, &hour) || !skip(&at, end, ":") ||
        !digits(&at, end, 2, &minute) || !skip(&at, end, ":") || !digits(&at, end, 2, &second))
        return false;
    if (month < 1 || month > 12 || day < 1 || day > lengths[month - 1] || hour > 23 || minute > 59 || second > 60)
        return false;
    *t_ms = ((days_of(year, month, day) * 24 + hour) * 60 + minute) * 60000 + second * 1000;
    return read_zone(at, end, t_ms);
}

/* 12:00:01, 9:30 or 12:00:01.250 as milliseconds since midnight. */
static bool read_clock(fg_text text, int64_t *t_ms)
{
    const char *at = text.at, *end = text.at + text.size;
    const char *colon = text.size ? memchr(text.at, ':', text.size) : NULL;
    int64_t hour, minute, second = 0, ms = 0, scale = 100;
    if (!colon || colon - at < 1 || colon - at > 2 || !digits(&at, end, (int)(colon - at), &hour)) return false;
    if (!skip(&at, end, ":") || !digits(&at, end, 2, &minute)) return false;
    if (at < end && (!skip(&at, end, ":") || !digits(&at, end, 2, &second))) return false;
    if (at < end && (!skip(&at, end, ".,") || at == end)) return false;
    for (; at < end && *at >= '0' && *at <= '9'; at++, scale /= 10) ms += scale * (*at - '0');
    *t_ms = ((hour * 60 + minute) * 60 + second) * 1000 + ms;
    return at == end && hour < 24 && minute < 60 && second < 61;
}

bool fg_time_read(fg_time_kind kind, fg_text cell, bool *clock, int64_t *t_ms)
{
    cell = fg_text_trimmed(cell);
    if (kind == FG_TIME_ANY && cell.size > 4 && cell.at[4] == '-') return fg_read_date(cell, t_ms);
    if (kind != FG_TIME_ANY || !cell.size || !memchr(cell.at, ':', cell.size)) return read_number(cell, kind, t_ms);
    *clock = true;
    return read_clock(cell, t_ms);
}

/* ---- the heading ---- */

fg_time_kind fg_time_kind_of(fg_text column)
{
    static const char *const words[FG_TIME_NONE] = {[FG_TIME_MS] = "t_ms", [FG_TIME_S] = "t_s", [FG_TIME_ANY] = "time"};
    for (int kind = 0; kind < FG_TIME_NONE; kind++)
        if (fg_text_same(column, fg_text_of(words[kind]))) return (fg_time_kind)kind;
    return FG_TIME_NONE;
}

fg_text fg_column_name(fg_text heading, fg_text *unit)
{
    char last = '\0';
    if (heading.size) last = heading.at[heading.size - 1];
    const char *at = heading.size ? memchr(heading.at, last == ']' ? '[' : '(', heading.size) : NULL;
    *unit = (fg_text){0};
    if (!at || (last != ']' && last != ')')) return heading;
    *unit = fg_text_trimmed((fg_text){at + 1, heading.size - (size_t)(at - heading.at) - 2});
    return fg_text_trimmed((fg_text){heading.at, (size_t)(at - heading.at)});
}

size_t fg_column_find(const fg_text *columns, size_t count, fg_text name)
{
    fg_text unit;
    size_t i = 0;
    while (i < count && !fg_text_alike(fg_column_name(columns[i], &unit), name)) i++;
    return i < count ? i : FG_NO_COLUMN;
}

/* The first column that has a time. */
static void find_time(fg_rows *r, const fg_text *columns, size_t count)
{
    r->time_kind = FG_TIME_NONE;
    for (size_t i = 0; i < count && r->time_kind == FG_TIME_NONE; i++) {
        r->time_kind = fg_time_kind_of(columns[i]);
        r->time_column = i;
    }
}

/* `--column depth=tide_cm`: the column tide_cm is called depth. */
static bool rename_columns(fg_rows *r, fg_text *columns, size_t count, uint64_t line)
{
    for (size_t k = 0; r->options && k < r->options->column_count; k++) {
        const fg_setting *mapped = &r->options->columns[k];
        size_t i = 0;
        while (i < count && !fg_text_same(columns[i], mapped->value)) i++;
        if (i < count) {
            columns[i] = mapped->name;
            continue;
        }
        r->status = fg_mistake_set(r->mistake, FG_ERROR_RECORDING, r->path, line,
                                   "there is no column '%.*s' to rename to '%.*s'", (int)mapped->value.size,
                                   mapped->value.at, (int)mapped->name.size, mapped->name.at);
        return false;
    }
    return true;
}

static int by_text(const void *a, const void *b)
{
    const fg_text *x = a, *y = b;
    const size_t least = x->size < y->size ? x->size : y->size;
    const int order = least ? memcmp(x->at, y->at, least) : 0;
    return order ? order : (x->size > y->size) - (x->size < y->size);
}

/* Two columns of one name: which of them would count? */
static bool all_differ(fg_rows *r, const fg_text *columns, size_t count, uint64_t line)
{
    fg_text *sorted = malloc((count + 1) * sizeof *sorted);
    size_t i = 1;
    if (!sorted) return true;
    if (count) memcpy(sorted, columns, count * sizeof *sorted);
    qsort(sorted, count, sizeof *sorted, by_text);
    while (i < count && (!sorted[i].size || !fg_text_same(sorted[i], sorted[i - 1]))) i++;
    if (i < count)
        r->status = fg_mistake_set(r->mistake, FG_ERROR_RECORDING, r->path, line,
                                   "two columns are called '%.*s'; remove one of them, or rename it",
                                   (int)(sorted[i].size > 60 ? 60 : sorted[i].size), sorted[i].at);
    free(sorted);
    return r->status == FG_OK;
}

void fg_list_name(char *list, size_t room, fg_text name)
{
    const size_t size = strlen(list), comma = size ? 2 : 0;
    char shown[200];
    fg_text_keep(shown, sizeof shown, name);
    if (size + comma + strlen(shown) + 1 > room) return;
    memcpy(list + size, ", ", comma);
    memcpy(list + size + comma, shown, strlen(shown) + 1);
}

static bool find_devices(fg_rows *r, const fg_text *columns, size_t count, uint64_t line)
{
    const fg_text by = fg_text_of(r->by);
    r->by_column = 0;
    while (r->by_column < count && !fg_text_same(columns[r->by_column], by)) r->by_column++;
    if (r->by_column < count && (r->time_kind == FG_TIME_NONE || r->by_column != r->time_column)) return true;
    char there[200] = "";
    for (size_t i = 0; i < count; i++) fg_list_name(there, sizeof there, columns[i]);
    if (r->by_column < count)
        r->status = fg_mistake_set(r->mistake, FG_ERROR_RECORDING, r->path, line,
                                   "the column '%s' has the times, so it cannot tell devices apart", r->by);
    else
        r->status = fg_mistake_set(r->mistake, FG_ERROR_RECORDING, r->path, line,
                                   "there is no column '%s' to tell devices apart; it has %s", r->by, there);
    return false;
}

void fg_rows_heading(fg_rows *r, fg_text *columns, size_t count, uint64_t line)
{
    r->headed = true;
    r->column_count = count;
    for (size_t i = 0; i < count; i++) columns[i] = fg_text_trimmed(columns[i]);
    if (count)
        snprintf(r->first_column, sizeof r->first_column, "%.*s", (int)(columns[0].size < 31 ? columns[0].size : 31),
                 columns[0].at);
    if (!rename_columns(r, columns, count, line)) return;
    find_time(r, columns, count);
    if (r->time_kind == FG_TIME_NONE && !(r->options && r->options->every)) {
        fg_rows_fail(
            r, line,
            r->told_by_line
                ? "these lines have no time; say how far they are apart: --every 100ms, or let each begin with t_ms"
                : "there is no heading with a time column; the first line names the columns, one of them t_ms, t_s or "
                  "time; without one, say how far the rows are apart: --every 100ms");
        return;
    }
    if (!all_differ(r, columns, count, line)) return;
    r->by = r->options ? r->options->by : NULL;
    if (r->by && !find_devices(r, columns, count, line)) return;
    if (!r->sink->heading(r->sink->context, columns, count, r->mistake)) {
        r->status = fg_rows_status(r);
        if (!*r->mistake->file) snprintf(r->mistake->file, sizeof r->mistake->file, "%s", r->path);
        if (!r->mistake->line) r->mistake->line = line;
    }
}

/* ---- rows ---- */

static bool time_of(fg_rows *r, const fg_text *cells, uint64_t line, int64_t *t_ms)
{
    static const char *const how[] = {
        "milliseconds, as in 1500", "seconds, as in 1.5",
        "seconds, as in 1.5, a clock time, as in 12:00:01, or a date, as in 2026-11-23T09:30:00Z"};
    if (r->time_kind == FG_TIME_NONE) {
        *t_ms = (int64_t)(r->clock->count * r->options->every);
        return true;
    }
    const fg_text time = cells[r->time_column];
    if (fg_time_read(r->time_kind, time, &r->of_day, t_ms)) return true;
    r->status =
        fg_mistake_set(r->mistake, FG_ERROR_RECORDING, r->path, line, "the time '%.*s' cannot be read; write %s",
                       (int)(time.size > 40 ? 40 : time.size), time.at, how[r->time_kind]);
    return false;
}

static void tell_progress(const fg_rows *r)
{
    uint64_t done = r->count, all = r->all;
    if (!all) fg_stream_progress(r->stream, &done, &all);
    r->sink->progress.tell(r->sink->progress.context, r->count, done, all);
}

int64_t fg_time_turn(fg_time_kind kind, bool clock, int64_t before, int64_t written)
{
    const int64_t day = (int64_t)24 * 60 * 60 * 1000, bits = (int64_t)1 << 32;
    if (clock) return day;
    return kind == FG_TIME_MS && written >= 0 && before < bits ? bits : 0;
}

/* A board that starts again prints its heading again, and may begin at time zero. */
static bool is_heading_again(fg_rows *r, const fg_text *cells, uint64_t line)
{
    char text[100];
    bool of_day = false;
    int64_t t_ms;
    if (r->told_by_line || !*r->first_column || !fg_text_same(fg_text_trimmed(cells[0]), fg_text_of(r->first_column)))
        return false;
    if (r->time_kind != FG_TIME_NONE && fg_time_read(r->time_kind, cells[r->time_column], &of_day, &t_ms)) return false;
    r->headings++;
    snprintf(text, sizeof text,
             "the heading comes again in line %" PRIu64 ": the board started again, its time goes on", line);
    if (r->sink->note) r->sink->note(r->sink->context, text);
    return true;
}

/* Times rise. A column t_ms may fall by 2^31 or more: it is the 32-bit clock of a board that wrapped. Clock times may
 * fall by half a day or more: it was midnight. Behind a heading that comes again the time goes on as it went before. */
static bool unwrap_time(fg_rows *r, uint64_t line, int64_t *t_ms)
{
    fg_row_clock *c = r->clock;
    const int64_t written = *t_ms, fall = c->count ? c->written_ms - written : 0;
    const int64_t turn = fg_time_turn(r->time_kind, r->of_day, c->written_ms, written);
    const bool wraps = turn && fall >= turn / 2;
    if (fall > 0 && !wraps && c->headings != r->headings) {
        c->wrapped_ms += fall + c->gap_ms;
    } else if (fall > 0 && !wraps) {
        r->status =
            fg_mistake_set(r->mistake, FG_ERROR_RECORDING, r->path, line,
                           "the time goes backwards here: %" PRId64 " ms after %" PRId64 " ms", written, c->written_ms);
        return false;
    }
    if (wraps) c->wrapped_ms += turn;
    if (c->count && fall < 0) c->gap_ms = -fall;
    c->headings = r->headings;
    c->written_ms = written;
    c->count++;
    *t_ms += c->wrapped_ms;
    return true;
}

bool fg_rows_plain_time(fg_rows *r, int64_t *t_ms)
{
    fg_row_clock *c = r->clock;
    if (c->headings != r->headings || (c->count && *t_ms < c->written_ms)) return false;
    if (c->count && *t_ms > c->written_ms) c->gap_ms = *t_ms - c->written_ms;
    c->written_ms = *t_ms;
    *t_ms += c->wrapped_ms;
    c->count++;
    r->count++;
    return true;
}

/* ---- devices ---- */

typedef struct device {
    fg_row_clock clock;
    size_t number;
    fg_text name;
    char text[]; /* of the name */
} device;

static int by_name(const void *a, const void *b)
{
    return by_text(&((const device *)a)->name, &((const device *)b)->name);
}

/* A copy of what is new. NULL: no memory. */
static device *device_of(fg_rows *r, fg_text name)
{
    const device wanted = {.name = name};
    device *const *found = tfind(&wanted, &r->devices, by_name);
    if (found) return *found;
    device *d = calloc(1, sizeof *d + name.size);
    if (!d) return NULL;
    d->name = (fg_text){d->text, name.size};
    memcpy(d->text, name.at, name.size);
    d->number = r->device_count;
    if (!tsearch(d, &r->devices, by_name)) {
        free(d);
        return NULL;
    }
    r->device_count++;
    return d;
}

void fg_rows_end(fg_rows *r)
{
    while (r->devices) {
        device *d = *(device **)r->devices;
        tdelete(d, &r->devices, by_name);
        free(d);
    }
}

static void end_by_sink(fg_rows *r)
{
    r->status = fg_rows_status(r);
    if (!*r->mistake->file) snprintf(r->mistake->file, sizeof r->mistake->file, "%s", r->path);
}

static bool take_device(fg_rows *r, const fg_text *cells, uint64_t line)
{
    const fg_text name = fg_text_trimmed(cells[r->by_column]);
    if (!name.size) {
        r->status = fg_mistake_set(r->mistake, FG_ERROR_RECORDING, r->path, line,
                                   "this row does not say which device it is of: its '%s' is empty", r->by);
        return false;
    }
    device *d = device_of(r, name);
    if (!d) {
        r->status = fg_mistake_set(r->mistake, FG_ERROR_MEMORY, r->path, line, "there is not enough memory");
        return false;
    }
    if (r->clock == &d->clock) return true;
    r->clock = &d->clock;
    if (!r->sink->device || r->sink->device(r->sink->context, d->name, d->number, r->mistake)) return true;
    end_by_sink(r);
    return false;
}

void fg_rows_numbers(fg_rows *r, const fg_number_rows *numbers)
{
    const uint64_t before = r->count - numbers->count;
    if (!numbers->count || r->status != FG_OK) return;
    if (before / FG_PROGRESS_ROWS != r->count / FG_PROGRESS_ROWS && r->sink->progress.tell) tell_progress(r);
    if (!r->sink->numbers(r->sink->context, numbers, r->mistake)) end_by_sink(r);
}

void fg_rows_row(fg_rows *r, const fg_text *cells, size_t count, uint64_t line)
{
    int64_t t_ms = 0;
    if (count != r->column_count) {
        r->status = fg_mistake_set(
            r->mistake, FG_ERROR_RECORDING, r->path, line,
            "this row has %zu cell%s, the heading has %zu; write one cell for each column, empty if nothing was read",
            count, count == 1 ? "" : "s", r->column_count);
        return;
    }
    if (is_heading_again(r, cells, line)) return;
    if (r->by && !take_device(r, cells, line)) return;
    if (!time_of(r, cells, line, &t_ms) || !unwrap_time(r, line, &t_ms)) return;
    if (++r->count % FG_PROGRESS_ROWS == 0 && r->sink->progress.tell) tell_progress(r);
    if (!r->sink->row(r->sink->context, t_ms, cells, count, line, r->mistake)) end_by_sink(r);
}
