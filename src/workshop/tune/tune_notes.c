/* SPDX-License-Identifier: MIT */
/* Notes: readings that a person wrote down, without times. Each row has a reading and its label, or each column has the
 * readings of the label that heads it. Every reading stands by itself: none follows another in time. */
#include "workshop/recordings/recording.h"
#include "workshop/replay/report.h"
#include "workshop/tune/tuning.h"

#include <stdlib.h>
#include <string.h>

/* Where the readings of a tuning stand. */
typedef struct place {
    size_t reading, label; /* a row each; FG_NO_COLUMN: not so */
    uint16_t *of_column;   /* else the label whose readings stand in each column, or FG_LABEL_EMPTY */
    bool fits;
} place;

typedef struct notes {
    fg_tuning *const *tunings;
    size_t count;
    fg_text label; /* of all of them, or empty */
    place *places;
    fg_replay_report *report;
    bool timed; /* they are no notes: their heading has times */
} notes;

/* ---- the heading ---- */

static const fg_declared *sensor_of(const fg_tuning *t)
{
    uint32_t i = 0;
    while (t->program->declared[i].kind != FG_KIND_SENSOR || t->program->declared[i].index != t->rule->sensor) i++;
    return &t->program->declared[i];
}

/* A reading in another unit would be a wrong number. */
static bool unit_fits(const fg_tuning *t, fg_text heading, fg_mistake *mistake)
{
    const fg_declared *sensor = sensor_of(t);
    fg_text unit;
    (void)fg_column_name(heading, &unit);
    if (!unit.size || !sensor->unit.size || fg_text_same(unit, sensor->unit)) return true;
    (void)fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0, "the column '%.*s' is not in %.*s, as sensor %.*s is",
                         (int)heading.size, heading.at, (int)sensor->unit.size, sensor->unit.at, (int)sensor->name.size,
                         sensor->name.at);
    return false;
}

/* A column for each label, at least two of them. */
static void find_label_columns(const fg_tuning *t, place *p, const fg_text *columns, size_t count)
{
    fg_text unit;
    size_t found = 0;
    for (size_t i = 0; i < count; i++) {
        const uint16_t label = fg_tuning_label_named(t, fg_column_name(columns[i], &unit));
        p->of_column[i] = label < FG_LABEL_OTHER ? label : FG_LABEL_EMPTY;
        found += label < FG_LABEL_OTHER;
    }
    p->fits = found > 1;
}

static bool find_place(const notes *n, size_t k, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    const fg_tuning *t = n->tunings[k];
    place *p = &n->places[k];
    *p = (place){.of_column = calloc(count + 1, sizeof *p->of_column)};
    if (!p->of_column) {
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, "", 0, "there is not enough memory for its columns");
        return false;
    }
    p->label =
        n->label.size ? FG_NO_COLUMN : fg_column_find(columns, count, t->column.size ? t->column : t->rule->name);
    p->reading = fg_column_find(columns, count, sensor_of(t)->name);
    if (p->reading == p->label) p->reading = FG_NO_COLUMN;
    if (p->reading == FG_NO_COLUMN && n->label.size && count == 1) p->reading = 0;
    if (p->reading == FG_NO_COLUMN && p->label != FG_NO_COLUMN && count == 2)
        p->reading = 1 - p->label; /* the other one */
    p->fits = p->reading != FG_NO_COLUMN && (n->label.size || p->label != FG_NO_COLUMN);
    if (!p->fits && !t->column.size && !n->label.size) find_label_columns(t, p, columns, count);
    bool good = true;
    for (size_t i = 0; i < count && good && p->fits; i++)
        if (p->reading != FG_NO_COLUMN && p->fits ? i == p->reading : p->of_column[i] != FG_LABEL_EMPTY)
            good = unit_fits(t, columns[i], mistake);
    return good;
}

static void list_columns(char *list, size_t room, const fg_text *columns, size_t count)
{
    size_t used = 0;
    *list = '\0';
    for (size_t i = 0; i < count && used + 1 < room; i++) {
        char name[64];
        fg_text_keep(name, sizeof name, columns[i]);
        used += (size_t)snprintf(list + used, room - used, "%s%s", i ? ", " : "", name);
    }
}

static bool on_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    notes *n = context;
    bool any = false;
    for (size_t i = 0; i < count; i++) n->timed = n->timed || fg_time_kind_of(columns[i]) != FG_TIME_NONE;
    if (n->timed) return false;
    for (size_t k = 0; k < n->count; k++) {
        if (!find_place(n, k, columns, count, mistake)) return false;
        any = any || n->places[k].fits;
    }
    list_columns(n->report->columns, sizeof n->report->columns, columns, count);
    if (any) return true;
    const fg_tuning *t = n->tunings[0];
    const fg_declared *sensor = sensor_of(t);
    if (t->column.size || n->label.size)
        (void)fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                             "notes without times need a column '%.*s' with the readings%s%.*s%s; it has %s",
                             (int)sensor->name.size, sensor->name.at, t->column.size ? " and one '" : "",
                             (int)t->column.size, t->column.at, t->column.size ? "' with the labels" : "",
                             n->report->columns);
    else
        (void)fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                             "say which column has the labels, --label COLUMN, or let each column be headed by a label "
                             "and hold its readings; it has %s",
                             n->report->columns);
    return false;
}

/* ---- rows ---- */

static void add_reading(const notes *n, fg_tuning *t, fg_text cell, uint16_t label, uint64_t line)
{
    const fg_sensor *sensor = &t->program->gate.sensors[t->rule->sensor];
    fg_value value;
    cell = fg_text_trimmed(cell);
    if (!cell.size) return;
    const bool read = fg_value_read(cell.at, cell.size, t->rule->decimals, &value) == FG_OK;
    if (read)
        fg_report_finer(n->report, sensor_of(t), cell, line);
    else
        fg_report_unreadable(n->report, sensor_of(t), cell, line);
    const bool good = read && (sensor->trust == FG_TRUST_ALL || fg_range_holds(&sensor->trusted, value));
    t->tuned.faulty += !good;
    t->tuned.unlabelled += good && label == FG_LABEL_EMPTY;
    t->tuned.unknown += good && label == FG_LABEL_OTHER;
    if (good) fg_tuning_add(t, t->circle ? fg_wrap(value, t->circle) : value, label);
    fg_tuning_add(t, 0, FG_LABEL_BREAK); /* nothing is known of what came before */
}

static void on_note(void *context, const char *text)
{
    const notes *n = context;
    fg_text_keep(n->report->note, sizeof n->report->note, fg_text_of(text));
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake)
{
    const notes *n = context;
    (void)t_ms;
    for (size_t k = 0; k < n->count; k++) {
        fg_tuning *t = n->tunings[k];
        const place *p = &n->places[k];
        const bool row = p->reading != FG_NO_COLUMN && (n->label.size || p->label != FG_NO_COLUMN);
        if (p->fits && row)
            add_reading(n, t, cells[p->reading], fg_tuning_label(t, n->label.size ? n->label : cells[p->label]), line);
        for (size_t i = 0; p->fits && !row && i < count; i++)
            if (p->of_column[i] != FG_LABEL_EMPTY) add_reading(n, t, cells[i], p->of_column[i], line);
        if (!t->full) continue;
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, "", line, "there is not enough memory for all of its readings");
        return false;
    }
    n->report->rows++;
    return true;
}

bool fg_notes_read(fg_tuning *const *tunings, size_t count, const fg_tuning_source *source, fg_replay_report *report,
                   fg_mistake *mistake, fg_status *status)
{
    notes n = {.tunings = tunings,
               .count = count,
               .label = source->label,
               .report = report,
               .places = calloc(count, sizeof *n.places)};
    const fg_recording_sink sink = {
        .context = &n, .heading = on_heading, .row = on_row, .note = on_note, .progress = source->progress};
    fg_recording_options options = source->options;
    if (options.every || !strcmp(source->recording, "-")) { /* paced; or it could not be read a second time */
        free(n.places);
        return false;
    }
    options.every = 1;
    *report = (fg_replay_report){0};
    *mistake = (fg_mistake){0};
    *status = n.places ? fg_recording_read(source->recording, &options, &sink, mistake)
                       : fg_mistake_set(mistake, FG_ERROR_MEMORY, source->recording, 0,
                                        "there is not enough memory to read it");
    for (size_t k = 0; n.places && k < count; k++) free(n.places[k].of_column);
    free(n.places);
    return !n.timed;
}
