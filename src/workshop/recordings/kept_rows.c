/* SPDX-License-Identifier: MIT */
/* A recording that is read once and played often: its rows, as the sink had them, in memory. */
#include "workshop/recordings/recording.h"

#include <stdlib.h>
#include <string.h>

/* Rows of plain numbers, or one row of cells. */
typedef struct piece {
    fg_number_rows numbers; /* count 0: a row of cells */
    int64_t *times;
    int32_t *values; /* column by column */
    const int32_t **columns;
    int64_t t_ms;
    uint64_t line;
    char *cells; /* one behind the other, each with a NUL */
    size_t cell_count;
} piece;

struct fg_kept_rows {
    char *path;
    bool whole; /* it was read to its end, and all of it is here */
    char **columns;
    fg_text *texts;
    size_t column_count;
    fg_number_column *wanted; /* of each column, as they are kept; NULL: all rows are cells */
    piece *pieces;
    size_t count, room, bytes;
    char *note;
};

enum { BYTES_MOST = 512 << 20 };

fg_kept_rows *fg_kept_rows_start(void) { return calloc(1, sizeof(fg_kept_rows)); }

void fg_kept_rows_forget(fg_kept_rows *k)
{
    for (size_t i = 0; i < k->count; i++) {
        free(k->pieces[i].times);
        free(k->pieces[i].values);
        free(k->pieces[i].columns);
        free(k->pieces[i].cells);
    }
    for (size_t i = 0; k->columns && i < k->column_count; i++) free(k->columns[i]);
    free(k->columns);
    free(k->texts);
    free(k->wanted);
    free(k->pieces);
    free(k->note);
    free(k->path);
    *k = (fg_kept_rows){0};
}

void fg_kept_rows_end(fg_kept_rows *k)
{
    if (k) fg_kept_rows_forget(k);
    free(k);
}

const char *fg_kept_rows_path(const fg_kept_rows *k) { return k->path; }

/* ---- reading, and keeping what comes by ---- */

typedef struct keeping {
    fg_kept_rows *kept;
    const fg_recording_sink *sink;
    const fg_number_column *wanted;
    bool headed; /* the sink has had its heading */
    bool full;   /* what comes is not kept: it is too much, or hangs on who listens */
} keeping;

static bool keep_columns(fg_kept_rows *k, const fg_text *columns, size_t count)
{
    k->columns = calloc(count + 1, sizeof *k->columns);
    k->texts = calloc(count + 1, sizeof *k->texts);
    k->column_count = k->columns && k->texts ? count : 0;
    for (size_t i = 0; i < k->column_count; i++) {
        k->columns[i] = fg_c_string_of(columns[i]);
        if (!k->columns[i]) return false;
        k->texts[i] = (fg_text){k->columns[i], columns[i].size};
    }
    return k->texts != NULL;
}

static bool on_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    keeping *k = context;
    k->full = !keep_columns(k->kept, columns, count) || k->full;
    if (k->headed) return true;
    k->headed = true;
    return k->sink->heading(k->sink->context, columns, count, mistake);
}

static const fg_number_column *on_wanted(void *context)
{
    keeping *k = context;
    if (!k->wanted && k->sink->wanted) k->wanted = k->sink->wanted(k->sink->context);
    if (!k->wanted) return NULL;
    k->kept->wanted = malloc((k->kept->column_count + 1) * sizeof *k->kept->wanted);
    if (k->kept->wanted)
        memcpy(k->kept->wanted, k->wanted, k->kept->column_count * sizeof *k->kept->wanted);
    else
        k->full = true;
    return k->wanted;
}

/* Room for one piece more; NULL: it is not kept. */
static piece *new_piece(keeping *k, size_t bytes)
{
    fg_kept_rows *kept = k->kept;
    k->full = k->full || kept->bytes + bytes > BYTES_MOST;
    if (k->full) return NULL;
    if (kept->count == kept->room) {
        const size_t room = kept->room ? 2 * kept->room : 64;
        piece *pieces = realloc(kept->pieces, room * sizeof *pieces);
        k->full = !pieces;
        if (!pieces) return NULL;
        kept->pieces = pieces;
        kept->room = room;
    }
    kept->bytes += bytes;
    piece *p = &kept->pieces[kept->count++];
    *p = (piece){0};
    return p;
}

static bool on_numbers(void *context, const fg_number_rows *rows, fg_mistake *mistake)
{
    keeping *k = context;
    const size_t values = rows->count * rows->width;
    piece *p = new_piece(k, rows->count * sizeof(int64_t) + values * sizeof(int32_t));
    if (p) {
        p->times = malloc(rows->count * sizeof *p->times);
        p->values = malloc((values + 1) * sizeof *p->values);
        p->columns = malloc((rows->width + 1) * sizeof *p->columns);
        k->full = !p->times || !p->values || !p->columns;
    }
    if (p && !k->full) {
        memcpy(p->times, rows->t_ms, rows->count * sizeof *p->times);
        for (size_t i = 0; i < rows->width; i++) {
            p->columns[i] = p->values + i * rows->count;
            memcpy(p->values + i * rows->count, rows->columns[i], rows->count * sizeof *p->values);
        }
        p->numbers = *rows;
        p->numbers.t_ms = p->times;
        p->numbers.columns = p->columns;
    }
    return k->sink->numbers(k->sink->context, rows, mistake);
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake)
{
    keeping *k = context;
    size_t size = 0;
    for (size_t i = 0; i < count; i++) size += cells[i].size + 1;
    piece *p = new_piece(k, size + sizeof *p);
    if (p) {
        p->cells = malloc(size + 1);
        k->full = !p->cells;
    }
    if (p && !k->full) {
        char *to = p->cells;
        for (size_t i = 0; i < count; i++) {
            if (cells[i].size) memcpy(to, cells[i].at, cells[i].size);
            to[cells[i].size] = '\0';
            k->full = k->full || strlen(to) != cells[i].size;
            to += cells[i].size + 1;
        }
        p->t_ms = t_ms;
        p->line = line;
        p->cell_count = count;
    }
    return k->sink->row(k->sink->context, t_ms, cells, count, line, mistake);
}

static void on_note(void *context, const char *text)
{
    keeping *k = context;
    free(k->kept->note);
    k->kept->note = strdup(text);
    k->full = k->full || !k->kept->note;
    if (k->sink->note) k->sink->note(k->sink->context, text);
}

/* Whether a unit belongs to a reading is for the sink to say, so such rows are read anew each time. */
static bool on_unit(void *context, fg_text name, fg_text unit, uint64_t line)
{
    keeping *k = context;
    k->full = true;
    return k->sink->unit(k->sink->context, name, unit, line);
}

/* `headed`: the sink has had its heading, and wants `wanted`. */
static fg_status read_anew(fg_kept_rows *k, const char *path, const fg_recording_options *options,
                           const fg_recording_sink *sink, bool headed, const fg_number_column *wanted,
                           fg_mistake *mistake)
{
    fg_kept_rows_forget(k);
    keeping now = {.kept = k, .sink = sink, .headed = headed, .wanted = wanted};
    const fg_recording_sink own = {.context = &now,
                                   .heading = on_heading,
                                   .row = on_row,
                                   .note = on_note,
                                   .progress = sink->progress,
                                   .unit = sink->unit ? on_unit : NULL,
                                   .wanted = on_wanted,
                                   .numbers = on_numbers};
    const fg_status status = fg_recording_read(path, options, &own, mistake);
    k->path = status == FG_OK && !now.full ? strdup(path) : NULL;
    k->whole = k->path != NULL;
    if (!k->whole) fg_kept_rows_forget(k);
    return status;
}

/* ---- telling it again ---- */

static bool same_wanted(const fg_kept_rows *k, const fg_number_column *wanted)
{
    if (!k->wanted || !wanted) return !k->wanted && !wanted;
    for (size_t i = 0; i < k->column_count; i++) {
        const fg_number_column *a = &k->wanted[i], *b = &wanted[i];
        if (a->wanted != b->wanted || (a->wanted && (a->is_flag != b->is_flag || a->decimals != b->decimals)))
            return false;
    }
    return true;
}

static bool tell_row(const piece *p, const fg_recording_sink *sink, fg_text *cells, fg_mistake *mistake)
{
    const char *at = p->cells;
    for (size_t i = 0; i < p->cell_count; i++) {
        cells[i] = fg_text_of(at);
        at += cells[i].size + 1;
    }
    return sink->row(sink->context, p->t_ms, cells, p->cell_count, p->line, mistake);
}

fg_status fg_kept_rows_read(fg_kept_rows *k, const char *path, const fg_recording_options *options,
                            const fg_recording_sink *sink, fg_mistake *mistake)
{
    *mistake = (fg_mistake){0};
    if (!k->whole || strcmp(k->path, path) != 0) return read_anew(k, path, options, sink, false, NULL, mistake);
    size_t most = k->column_count;
    for (size_t i = 0; i < k->count; i++)
        if (k->pieces[i].cell_count > most) most = k->pieces[i].cell_count;
    fg_text *cells = calloc(most + 1, sizeof *cells); /* also of the heading, which whoever hears it may change */
    if (!cells) return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to read it");
    memcpy(cells, k->texts, k->column_count * sizeof *cells);
    bool good = sink->heading(sink->context, cells, k->column_count, mistake);
    const fg_number_column *wanted = good && sink->wanted ? sink->wanted(sink->context) : NULL;
    if (good && !same_wanted(k, wanted)) {
        free(cells);
        return read_anew(k, path, options, sink, true, wanted, mistake);
    }
    if (good && k->note && sink->note) sink->note(sink->context, k->note);
    for (size_t i = 0; i < k->count && good; i++) {
        const piece *p = &k->pieces[i];
        good =
            p->numbers.count ? sink->numbers(sink->context, &p->numbers, mistake) : tell_row(p, sink, cells, mistake);
    }
    free(cells);
    if (good) return FG_OK;
    if (mistake->status == FG_OK) mistake->status = FG_ERROR_RECORDING;
    if (!*mistake->file) snprintf(mistake->file, sizeof mistake->file, "%s", path);
    return mistake->status;
}
