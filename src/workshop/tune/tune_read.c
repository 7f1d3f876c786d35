/* SPDX-License-Identifier: MIT */
/* Labelled readings: what the sensor of a rule read at each step of a recording, and how that step is labelled. */
#include "workshop/tune/tuning.h"

typedef struct reader {
    fg_tuning *const *tunings;
    size_t count;
    bool labelled; /* the recording as a whole */
    const fg_replay_report *report;
} reader;

static bool on_columns(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    const reader *r = context;
    bool any = r->labelled;
    for (size_t k = 0; k < r->count && !r->labelled; k++) {
        fg_tuning *t = r->tunings[k];
        t->at = 0;
        const fg_text wanted = t->column.size ? t->column : t->rule->name;
        while (t->at < count && !fg_text_same(columns[t->at], wanted)) t->at++;
        t->has_column = t->at < count;
        any = any || t->has_column;
    }
    if (any) return true;
    const fg_text column = r->count ? r->tunings[0]->column : (fg_text){0};
    if (!column.size) {
        (void)fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                             "say which column has the true label: --label COLUMN; it has %s", r->report->columns);
        return false;
    }
    (void)fg_mistake_set(mistake, FG_ERROR_RECORDING, "", 0,
                         "there is no column '%.*s' with the true labels; it has %s", (int)column.size, column.at,
                         r->report->columns);
    return false;
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count)
{
    const reader *r = context;
    (void)t_ms;
    (void)count;
    for (size_t k = 0; k < r->count && !r->labelled; k++)
        if (r->tunings[k]->has_column)
            r->tunings[k]->present = fg_tuning_label(r->tunings[k], cells[r->tunings[k]->at]);
    return true;
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    const reader *r = context;
    (void)before;
    (void)t_ms;
    bool room = true;
    for (size_t k = 0; k < r->count; k++) {
        fg_tuning *t = r->tunings[k];
        fg_value value = 0;
        const bool good = fg_sensor_value(run, t->rule->sensor, &value);
        t->tuned.faulty += !good;
        t->tuned.unlabelled += good && t->present == FG_LABEL_EMPTY;
        t->tuned.unknown += good && t->present == FG_LABEL_OTHER;
        fg_tuning_add(t, value, good ? t->present : FG_LABEL_BREAK);
        room = room && !t->full;
    }
    return room;
}

fg_status fg_tuning_read(fg_tuning *const *tunings, size_t count, const fg_tuning_source *source,
                         fg_replay_report *report, fg_mistake *mistake)
{
    const bool labelled = source->label.size != 0;
    const fg_readings readings = {.recording = source->recording, .options = source->options};
    reader r = {tunings, count, labelled, report};
    const fg_replay_observer observer = {
        .context = &r, .columns = on_columns, .row = on_row, .step = on_step, .progress = source->progress};
    if (!count)
        return fg_mistake_set(mistake, FG_ERROR_ARGUMENT, source->recording, 0,
                              "is read for no rule; name one to tune");
    fg_status status = FG_OK;
    if (fg_notes_read(tunings, count, source, report, mistake, &status)) return status;
    for (size_t k = 0; k < count; k++) {
        fg_tuning *t = tunings[k];
        t->has_column = false;
        t->present = labelled ? fg_tuning_label(t, source->label) : FG_LABEL_EMPTY;
        fg_tuning_add(t, 0, FG_LABEL_BREAK);
    }
    status = fg_replay(tunings[0]->program, &readings, &observer, report, mistake);
    for (size_t k = 0; k < count && status == FG_OK; k++)
        if (tunings[k]->full)
            status = fg_mistake_set(mistake, FG_ERROR_MEMORY, source->recording, 0,
                                    "there is not enough memory for all of its readings");
    return status;
}
