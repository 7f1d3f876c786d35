/* Labelled readings: what the sensor of a rule read at each step of a recording, and how that step is labelled. */
#include "workshop/tune/tuning.h"

#include <stdlib.h>
#include <string.h>

fg_tuning *fg_tuning_start(const fg_program *program, const fg_declared *rule, fg_text column)
{
    fg_tuning *t = calloc(1, sizeof *t);
    if (!t) return NULL;
    t->program = program;
    t->rule = rule;
    t->column = column;
    t->circle = program->gate.sensors[rule->sensor].circle;
    t->labels = fg_kind_is(rule->kind, FG_KIND_LABELS) ? (uint16_t)(rule->label_count + 1) : 2;
    return t;
}

void fg_tuning_end(fg_tuning *t)
{
    if (!t) return;
    for (size_t i = 0; i < FG_BOUNDARIES_MOST; i++) fg_buffer_free(&t->because[i]);
    free(t->steps);
    free(t->of_labels);
    free(t->cuts);
    free(t->changes);
    free(t);
}

const fg_declared *fg_tuning_rule(const fg_tuning *t) { return t->rule; }

fg_verdict fg_label_verdict(const fg_tuning *t, uint16_t label)
{
    if (!fg_kind_is(t->rule->kind, FG_KIND_LABELS)) return label ? FG_YES : FG_NO;
    return label < t->rule->label_count ? FG_LABEL(label) : FG_NONE;
}

void fg_tuning_add(fg_tuning *t, fg_value value, uint16_t label)
{
    if (t->step_count == t->step_room) {
        const size_t room = t->step_room ? 2 * t->step_room : 4096;
        fg_labelled *steps = realloc(t->steps, room * sizeof *steps);
        t->full = t->full || !steps;
        if (!steps) return;
        t->steps = steps;
        t->step_room = room;
    }
    t->steps[t->step_count++] = (fg_labelled){value, label};
}

uint16_t fg_tuning_label_named(const fg_tuning *t, fg_text name)
{
    const fg_declared *rule = t->rule;
    bool yes;
    if (!fg_kind_is(rule->kind, FG_KIND_LABELS)) return fg_flag_word(name, &yes) ? yes : FG_LABEL_OTHER;
    for (uint16_t i = 0; i < rule->label_count; i++)
        if (fg_text_same(rule->labels[i], name)) return i;
    for (uint16_t i = 0; i < rule->label_count; i++)
        if (fg_text_alike(rule->labels[i], name)) return i;
    return fg_text_alike(name, fg_text_of("none")) ? rule->label_count : FG_LABEL_OTHER;
}

uint16_t fg_tuning_label(fg_tuning *t, fg_text word)
{
    word = fg_text_trimmed(word);
    if (!word.size) return FG_LABEL_EMPTY;
    const uint16_t label = fg_tuning_label_named(t, word);
    if (label != FG_LABEL_OTHER) return label;
    if (!*t->tuned.unknown_label) fg_text_keep(t->tuned.unknown_label, sizeof t->tuned.unknown_label, word);
    return FG_LABEL_OTHER;
}

/* ---- one recording ---- */

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

/* ---- sorted ---- */

static int by_value(const void *a, const void *b)
{
    const fg_labelled *x = a, *y = b;
    if (x->value != y->value) return x->value < y->value ? -1 : 1;
    return (x->label > y->label) - (x->label < y->label);
}

fg_labelled *fg_tuning_sorted(const fg_labelled *steps, size_t count, size_t *sorted_count)
{
    fg_labelled *sorted = malloc((count + 1) * sizeof *sorted);
    *sorted_count = 0;
    if (!sorted) return NULL;
    for (size_t i = 0; i < count; i++)
        if (steps[i].label < FG_LABEL_OTHER) sorted[(*sorted_count)++] = steps[i];
    qsort(sorted, *sorted_count, sizeof *sorted, by_value);
    return sorted;
}
