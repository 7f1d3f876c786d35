/* SPDX-License-Identifier: MIT */
/* replay --summary: what happened, as a table. */
#include "tool.h"

#include <inttypes.h>
#include <string.h>

typedef struct table {
    FILE *output;
    const tool_options *options;
    const tool_chosen *chosen;
    int64_t length_ms;
    const fg_declared *last;
    bool sensors; /* their heading stands */
    int width;
} table;

static void print_seconds(FILE *output, int width, int64_t ms)
{
    char text[40];
    snprintf(text, sizeof text, "%" PRId64 ".%03" PRId64 " s", ms / 1000, ms % 1000);
    fprintf(output, "%*s", width, text);
}

static void name_as_csv(table *t, const fg_summary_name *n)
{
    fg_csv_cell(t->output, n->declared->name);
    fputc(',', t->output);
    fg_csv_cell(t->output, n->answer);
    fprintf(t->output, ",%" PRId64 ",%" PRIu64 ",", n->ms, n->changes);
    if (n->shortest_ms >= 0) fprintf(t->output, "%" PRId64, n->shortest_ms);
    fprintf(t->output, ",%s,%s\n", n->is_first ? "yes" : "no", n->is_last ? "yes" : "no");
}

static void on_name(void *context, const fg_summary_name *n)
{
    table *t = context;
    if (!tool_is_chosen(t->chosen, n->declared)) return;
    if (t->options->form == FORM_CSV) {
        name_as_csv(t, n);
        return;
    }
    const bool again = n->declared == t->last;
    t->last = n->declared;
    fprintf(t->output, "%-*.*s  ", t->width, again ? 0 : (int)n->declared->name.size, n->declared->name.at);
    if (again)
        fprintf(t->output, "%7s  %13s", "", "");
    else
        fprintf(t->output, "%7" PRIu64 "  ", n->changes);
    if (!again && n->shortest_ms >= 0)
        print_seconds(t->output, 13, n->shortest_ms);
    else if (!again)
        fprintf(t->output, "%13s", "");
    fputs("  ", t->output);
    print_seconds(t->output, 13, n->ms);
    const int64_t tenths = t->length_ms ? n->ms * 1000 / t->length_ms : 0;
    fprintf(t->output, "  %3" PRId64 ".%" PRId64 " %%  ", tenths / 10, tenths % 10);
    tool_text(t->output, n->answer);
    fprintf(t->output, "%s\n",
            n->is_first && n->is_last ? "  (first, last)"
            : n->is_first             ? "  (first)"
            : n->is_last              ? "  (last)"
                                      : "");
}

static void print_value(FILE *output, const fg_declared *d, fg_value value)
{
    char text[FG_VALUE_TEXT_SIZE];
    (void)fg_value_write(value, d->decimals, text);
    fprintf(output, "  %10s", text);
}

static void on_sensor(void *context, const fg_summary_sensor *s)
{
    table *t = context;
    if (t->options->form == FORM_CSV || !tool_is_chosen(t->chosen, s->declared)) return;
    if (!t->sensors)
        fprintf(t->output, "\n%-*s  %10s  %10s  %10s  %10s  %8s  unit\n", t->width, "sensor", "lowest", "median",
                "highest", "noise", "faulty");
    t->sensors = true;
    fprintf(t->output, "%-*.*s", t->width, (int)s->declared->name.size, s->declared->name.at);
    if (s->seen) {
        print_value(t->output, s->declared, s->lowest);
        print_value(t->output, s->declared, s->median);
        print_value(t->output, s->declared, s->highest);
        print_value(t->output, s->declared, s->noise);
    } else {
        fprintf(t->output, "  %10s  %10s  %10s  %10s", "", "", "", "");
    }
    fprintf(t->output, "  %4u.%u %%  ", (unsigned)s->faulty_share / 100, (unsigned)s->faulty_share / 10 % 10);
    tool_text(t->output, s->declared->unit);
    fputc('\n', t->output);
}

bool tool_print_summary(FILE *output, const tool_options *options, const tool_chosen *chosen, int width,
                        fg_summary *summary, int64_t end_ms)
{
    table t = {.output = output,
               .options = options,
               .chosen = chosen,
               .length_ms = end_ms - options->from,
               .width = width > 6 ? width : 6};
    if (options->form == FORM_CSV)
        fputs("name,answer,time_ms,changes,shortest_ms,first,last\n", output);
    else
        fprintf(output, "%-*s  %7s  %13s  %13s  %7s  answer\n", t.width, "name", "changes", "shortest stay", "time",
                "share");
    if (!fg_summary_tell(summary, end_ms, &t, on_name, on_sensor)) return false;
    if (options->form == FORM_TEXT)
        fputs("noise: half of all changes from one step to the next are at most this large\n", output);
    return true;
}
