/* SPDX-License-Identifier: MIT */
/* Rows of plain numbers, read straight from the bytes: decimals become whole steps on the way, cells that nobody wants
 * are passed over. What is not plain (a quote, a blank, a word, an exponent, more decimals than the step has, another
 * number of cells, a time that falls) is left to the general reader, line by line, which alone decides what it means
 * and what is a mistake. */
#include "workshop/recordings/recording.h"

#include <stdlib.h>
#include <string.h>

/* What is done with a cell. */
typedef enum cell_use { PASSED_OVER, NUMBER, FLAG, TIME } cell_use;

typedef struct cell_plan {
    uint8_t use; /* cell_use */
    uint8_t decimals;
} cell_plan;

struct fg_plain {
    fg_rows *rows;
    cell_plan *cells;
    size_t cell_count, width;
    char delimiter;
    size_t count, room; /* rows */
    size_t empty;       /* cells of the present row */
    int64_t *t_ms;
    int32_t **columns, *values;
    bool holes;
};

enum { ROWS = 2048, VALUES_MOST = 1 << 18, DIGITS_MOST = 15 }; /* digits: of a number in whole steps */

/* Times are kept in ms; those in seconds have three decimals. */
static bool plan_cells(fg_plain *p, const fg_number_column *wanted)
{
    const fg_rows *r = p->rows;
    for (size_t i = 0; i < p->cell_count; i++) {
        cell_plan *c = &p->cells[i];
        c->use = !wanted[i].wanted ? PASSED_OVER : wanted[i].is_flag ? FLAG : NUMBER;
        c->decimals = wanted[i].decimals;
        p->width += wanted[i].wanted;
    }
    if (r->time_kind == FG_TIME_NONE) return true;
    cell_plan *time = &p->cells[r->time_column];
    if (time->use != PASSED_OVER) return false;
    *time = (cell_plan){TIME, r->time_kind == FG_TIME_MS ? 0 : 3};
    return true;
}

fg_plain *fg_plain_start(fg_rows *rows, char delimiter, bool *full)
{
    const fg_recording_options *options = rows->options;
    *full = false;
    if (!rows->sink->wanted || !rows->sink->numbers || (options && options->by_cells)) return NULL;
    const fg_number_column *wanted = rows->sink->wanted(rows->sink->context);
    if (!wanted || !rows->column_count) return NULL;
    if (rows->time_kind == FG_TIME_NONE && strpbrk(rows->first_column, "0123456789"))
        return NULL; /* a row may look like the heading that comes again */
    fg_plain *p = calloc(1, sizeof *p);
    if (p) *p = (fg_plain){.rows = rows, .cell_count = rows->column_count, .delimiter = delimiter};
    if (p) p->cells = calloc(p->cell_count, sizeof *p->cells);
    const bool good = p && p->cells && plan_cells(p, wanted);
    if (good) {
        const size_t most = VALUES_MOST / (p->width + 1) + 1;
        p->room = options && options->block_rows ? options->block_rows : ROWS;
        if (p->room > most) p->room = most;
        p->t_ms = malloc(p->room * sizeof *p->t_ms);
        p->values = malloc(p->room * (p->width + 1) * sizeof *p->values);
        p->columns = calloc(p->width + 1, sizeof *p->columns);
    }
    if (good && p->t_ms && p->values && p->columns) {
        for (size_t i = 0; i < p->width; i++) p->columns[i] = p->values + i * p->room;
        return p;
    }
    *full = !p || !p->cells || good;
    fg_plain_end(p);
    return NULL;
}

void fg_plain_end(fg_plain *p)
{
    if (!p) return;
    free(p->cells);
    free(p->t_ms);
    free(p->values);
    free(p->columns);
    free(p);
}

static const uint32_t tens[] = {1, 10, 100, 1000, 10000, 100000, 1000000};

/* Above 9: there is none. */
static unsigned digit_at(const char *at) { return (unsigned)(unsigned char)*at - '0'; }

/* A decimal as whole steps; NULL if it is not plain. Nothing read: `*value` is left as it is. */
static const char *read_decimal(const char *at, unsigned decimals, int64_t *value)
{
    const bool negative = *at == '-';
    const char *const first = at += negative;
    uint64_t number = 0; /* of too many digits it is not used */
    for (unsigned digit; (digit = digit_at(at)) <= 9; at++) number = number * 10 + digit;
    size_t digits = (size_t)(at - first);
    if (*at == '.') {
        const char *const point = at++;
        for (unsigned digit; (digit = digit_at(at)) <= 9; at++) number = number * 10 + digit;
        const size_t behind = (size_t)(at - point) - 1;
        digits += behind;
        if (behind > decimals) return NULL;
        decimals -= (unsigned)behind;
    }
    if (digits + decimals > DIGITS_MOST) return NULL;
    if (!digits) return negative || at != first ? NULL : at;
    const int64_t steps = (int64_t)number * tens[decimals];
    *value = negative ? -steps : steps;
    return at;
}

/* Between semicolons a comma may be a decimal point, which the general reader tells once. */
static const char *pass_over(const char *at, char delimiter)
{
    const char odd = delimiter == ';' ? ',' : '"';
    while (*at != delimiter && *at != '\n' && *at != '"' && *at != '\r' && *at != odd) at++;
    return *at == '"' || *at == odd ? NULL : at;
}

/* What nearly every number is: some digits, and as many behind a point as its step has, or none. NULL if it is another,
 * or has more digits than 32 bits hold for sure. */
static inline const char *read_usual(const char *at, unsigned decimals, int32_t *value)
{
    static const uint8_t lengths[] = {9, 8, 7, 6, 5, 4, 3}; /* in front of a point, by decimals */
    const bool negative = *at == '-';
    const char *const first = at += negative;
    uint32_t number = digit_at(at), digit = digit_at(at + 1);
    if (number > 9) return NULL;
    at++;
    if (digit <= 9) { /* three digits are always few enough */
        number = number * 10 + digit;
        digit = digit_at(++at);
        if (digit <= 9) {
            number = number * 10 + digit;
            while ((digit = digit_at(++at)) <= 9) number = number * 10 + digit;
            if (at - first > lengths[decimals]) return NULL;
        }
    }
    if (*at == '.') {
        for (at++; decimals; decimals--, at++) {
            if ((digit = digit_at(at)) > 9) return NULL;
            number = number * 10 + digit;
        }
        if (digit_at(at) <= 9) return NULL;
    } else if (decimals) {
        number *= tens[decimals];
    }
    *value = negative ? -(int32_t)number : (int32_t)number;
    return at;
}

/* A time in ms without a point; others go the way of all decimals. */
static inline const char *read_time(const char *at, unsigned decimals, int64_t *t_ms)
{
    const char *const first = at;
    uint64_t number = 0;
    for (unsigned digit; (digit = digit_at(at)) <= 9; at++) number = number * 10 + digit;
    if (decimals || at == first || at - first > DIGITS_MOST || *at == '.') return read_decimal(first, decimals, t_ms);
    *t_ms = (int64_t)number;
    return at;
}

/* Any other: empty, with fewer decimals or more digits. */
static const char *read_unusual(fg_plain *p, const cell_plan *cell, const char *at, int32_t *value)
{
    int64_t number = FG_NUMBER_NONE;
    const char *const end = cell->use == FLAG && digit_at(at) <= 9 ? NULL : read_decimal(at, cell->decimals, &number);
    if (end == at) {
        p->empty++;
    } else if (!end || number < -INT32_MAX || number > INT32_MAX || cell->use == FLAG) {
        return NULL;
    }
    *value = (int32_t)number;
    return end;
}

/* A flag is one of two digits; what stands behind it must end the cell. */
static const char *read_flag(const char *at, int32_t *value)
{
    const unsigned digit = digit_at(at);
    *value = (int32_t)digit;
    return digit <= 1 ? at + 1 : NULL;
}

/* A line as a row; NULL if it is not plain. It ends in a newline. */
static const char *read_line(fg_plain *p, const char *at, int64_t *t_ms)
{
    const char delimiter = p->delimiter;
    const cell_plan *cell = p->cells, *const last = cell + p->cell_count - 1;
    int32_t **column = p->columns;
    const size_t row = p->count;
    p->empty = 0;
    for (;; cell++) {
        const char *next;
        if (cell->use == NUMBER || cell->use == FLAG) {
            int32_t *const to = *column++ + row;
            next = cell->use == NUMBER ? read_usual(at, cell->decimals, to) : read_flag(at, to);
            if (!next) next = read_unusual(p, cell, at, to);
        } else if (cell->use == TIME) {
            next = read_time(at, cell->decimals, t_ms);
            if (next == at) return NULL;
        } else {
            next = pass_over(at, delimiter);
        }
        if (!next) return NULL;
        at = next;
        if (cell == last) break;
        if (*at++ != delimiter) return NULL;
    }
    if (*at == '\r') at++;
    /* without a time a row of empty cells may be none */
    return *at == '\n' && (p->empty < p->width || p->rows->time_kind != FG_TIME_NONE) ? at + 1 : NULL;
}

static void hand_on(fg_plain *p, uint64_t line)
{
    const fg_number_rows rows = {.count = p->count,
                                 .width = p->width,
                                 .t_ms = p->t_ms,
                                 .columns = (const int32_t *const *)p->columns,
                                 .holes = p->holes,
                                 .line = line - p->count};
    fg_rows_numbers(p->rows, &rows);
    p->count = 0;
    p->holes = false;
}

size_t fg_plain_read(fg_plain *p, const char *at, const char *end, uint64_t line, uint64_t *lines)
{
    const char *const begin = at;
    const uint64_t first = line;
    const bool timed = p->rows->time_kind != FG_TIME_NONE;
    while (at < end && p->rows->status == FG_OK && *at != '#') {
        int64_t t_ms = timed ? 0 : (int64_t)(p->rows->clock->count * p->rows->options->every);
        const char *next = read_line(p, at, &t_ms);
        if (!next || !fg_rows_plain_time(p->rows, &t_ms)) break;
        p->t_ms[p->count++] = t_ms;
        p->holes = p->holes || p->empty;
        at = next;
        line++;
        if (p->count == p->room) hand_on(p, line);
    }
    if (p->count) hand_on(p, line);
    *lines = line - first;
    return (size_t)(at - begin);
}
