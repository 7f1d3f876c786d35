/* SPDX-License-Identifier: MIT */
/* fickle tune GATE [RECORDING] --try "NUMBER=A..B by S": what each value would do. */
#include "tune.h"

#include <ficklegate/draw.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { SHOWN_NAMES = 4, TEXT_NAMES = 2 };

typedef struct table {
    const tune_options *options;
    const fg_gate_file *file;
    fg_tried tried;
    uint32_t names[SHOWN_NAMES]; /* those that change with the number */
} table;

static void print_lines(FILE *out, const fg_tried_value *v)
{
    char text[80] = "";
    size_t size = 0;
    const uint32_t broken = v->expected - v->held;
    for (uint32_t i = 0; i < broken && i < FG_TRY_LINES; i++)
        size += (size_t)snprintf(text + size, sizeof text - size, "%s%" PRIu32, i ? ", " : "line ", v->lines[i]);
    if (broken > FG_TRY_LINES) snprintf(text + size, sizeof text - size, " ...");
    fprintf(out, "  %-26s", text);
}

static void print_doing(FILE *out, const fg_tried_name *d, double later)
{
    fprintf(out, "  %7" PRIu64, d->changes);
    if (d->first_ms < 0)
        fprintf(out, " %9s %9s %12s", "-", "-", "-");
    else
        fprintf(out, " %9.1f %9.1f %12.1f", (double)d->first_ms / 1000, later, (double)d->shortest_ms / 1000);
}

static void print_text(const table *a, FILE *out, size_t name_count)
{
    const bool trials = a->file->program.trial_count > 0;
    if (name_count) fprintf(out, trials ? "%57s" : "%14s", "");
    for (size_t k = 0; k < name_count; k++) {
        const fg_text name = a->file->program.declared[a->names[k]].name;
        fprintf(out, "  %.*s%*s", (int)name.size, name.at,
                k + 1 < name_count && name.size < 40 ? 40 - (int)name.size : 0, "");
    }
    fprintf(out, "%s%14s", name_count ? "\n" : "", a->tried.number);
    if (trials) fprintf(out, "  %6s %6s  %-26s", "held", "of", "what does not");
    for (size_t k = 0; k < name_count; k++)
        fprintf(out, "  %7s %9s %9s %12s", "changes", "first [s]", "later [s]", "shortest [s]");
    fputc('\n', out);
    for (size_t i = 0; i < a->tried.count; i++) {
        const fg_tried_value *v = &a->tried.values[i];
        fprintf(out, "%14s", v->text);
        if (trials) fprintf(out, "  %6" PRIu32 " %6" PRIu32, v->held, v->expected);
        if (trials) print_lines(out, v);
        for (size_t k = 0; k < name_count; k++)
            print_doing(out, &v->names[a->names[k]], fg_tried_later(&a->tried, i, a->names[k]));
        fputc('\n', out);
    }
    if (a->options->recording_count && !name_count) fputs("nothing in this recording hangs on it\n", out);
    if (name_count)
        fputs("first: of its changes; later: how much, on average, than with the value that changes as often and the "
              "earliest\n",
              out);
}

static void print_csv(const table *a, FILE *out, size_t name_count)
{
    fputs("value,held,expected,name,changes,first_ms,shortest_ms\n", out);
    for (size_t i = 0; i < a->tried.count; i++) {
        const fg_tried_value *v = &a->tried.values[i];
        if (!name_count) fprintf(out, "%s,%" PRIu32 ",%" PRIu32 ",,,,\n", v->text, v->held, v->expected);
        for (size_t k = 0; k < name_count; k++) {
            const fg_tried_name *d = &v->names[a->names[k]];
            const fg_text name = a->file->program.declared[a->names[k]].name;
            fprintf(out, "%s,%" PRIu32 ",%" PRIu32 ",%.*s,%" PRIu64 ",%" PRId64 ",%" PRId64 "\n", v->text, v->held,
                    v->expected, (int)name.size, name.at, d->changes, d->first_ms, d->shortest_ms);
        }
    }
}

static bool draw(const table *a, size_t name_count)
{
    static double x[FG_TRY_VALUES_MOST], y[SHOWN_NAMES + 1][FG_TRY_VALUES_MOST];
    fg_curve curves[SHOWN_NAMES + 1];
    size_t count = 0;
    fg_mistake mistake;
    for (size_t i = 0; i < a->tried.count; i++) x[i] = strtod(a->tried.values[i].text, NULL);
    if (a->file->program.trial_count) {
        for (size_t i = 0; i < a->tried.count; i++) y[count][i] = a->tried.values[i].expected - a->tried.values[i].held;
        curves[count] = (fg_curve){{"of the trials", 13}, "expectations broken", y[count]};
        count++;
    }
    for (size_t k = 0; k < name_count; k++) {
        for (size_t i = 0; i < a->tried.count; i++) y[count][i] = (double)a->tried.values[i].names[a->names[k]].changes;
        curves[count] = (fg_curve){a->file->program.declared[a->names[k]].name, "changes", y[count]};
        count++;
    }
    const fg_draw_options options = {
        .width = a->options->width, .height = a->options->height, .dark = a->options->dark, .title = a->options->try};
    if (fg_draw_curves(x, a->tried.count, a->tried.number, curves, count, &options, a->options->output, &mistake) ==
        FG_OK)
        return true;
    tool_print_mistake(&mistake);
    return false;
}

static void on_refused(void *context, const char *value, const fg_gate_file *gate)
{
    const table *a = context;
    tool_say("fickle: with %s=%s:\n", a->tried.number, value);
    tool_print_findings(gate, tool_told(&a->options->common));
}

/* False: told. */
static bool try_all(table *a)
{
    const tool_options *common = &a->options->common;
    const bool plays = a->options->recording_count > 0;
    const fg_readings readings = {.recording = plays ? a->options->recordings[0] : NULL, .options = common->reading};
    const fg_try_options options = {.readings = plays ? &readings : NULL,
                                    .trial_options = &common->reading,
                                    .jobs = common->jobs,
                                    .replay_progress = tool_progress_of_rows(),
                                    .trial_progress = tool_progress_of_trials(a->file),
                                    .context = a,
                                    .refused = on_refused};
    fg_mistake mistake;
    const fg_status status = fg_try(a->file, a->options->try, &options, &a->tried, &mistake);
    tool_progress_end();
    if (status == FG_ERROR_ARGUMENT)
        tool_say("fickle: error: --try needs a number of the gate and at most %d rising values, as in "
                 "\"bilge_high=8..16 by 0.5\", not '%s'\n",
                 FG_TRY_VALUES_MOST, a->options->try);
    else if (status != FG_OK && status != FG_ERROR_GATE)
        tool_print_mistake(&mistake);
    return status == FG_OK;
}

int tune_try(const tune_options *options, const fg_gate_file *file)
{
    table a = {.options = options, .file = file};
    FILE *out = tool_output_open();
    if (!out) return EXIT_WRONG;
    bool good = try_all(&a);
    if (good) {
        const size_t count = fg_tried_names(&a.tried, &file->program, a.names, SHOWN_NAMES);
        if (options->common.form == FORM_CSV)
            print_csv(&a, out, count);
        else
            print_text(&a, out, count < TEXT_NAMES ? count : TEXT_NAMES);
        if (options->output) good = draw(&a, count);
    }
    fg_tried_free(&a.tried);
    return tool_output_close(out, options->common.form, good) == EXIT_WELL && good ? EXIT_WELL : EXIT_WRONG;
}
