/* SPDX-License-Identifier: MIT */
/* fickle replay --compare: what a board said it did, held against what the gate does. */
#include "tool.h"

#include <ficklegate/compare.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

typedef struct table {
    FILE *output;
    const tool_options *options;
    const fg_compared_name **names; /* those that were chosen */
    size_t count;
    uint64_t compared, agree, between; /* values of them */
    const fg_compared_name *first;     /* the one that differs first; NULL: none does */
    int width;                         /* of the names */
    const char *explained_by;          /* a recording that `fickle why` can play; NULL: none */
} table;

static void print_csv(const table *t, const fg_compared_name *n)
{
    fg_csv_cell(t->output, n->declared->name);
    fprintf(t->output, ",%" PRIu64 ",%" PRIu64 ",", n->compared, n->agree);
    if (n->said) fprintf(t->output, "%" PRId64 ",%" PRIu64, n->t_ms, n->line);
    if (!n->said) fputc(',', t->output);
    const char *cells[] = {n->said, n->own, n->because};
    for (int i = 0; i < 3; i++) {
        fputc(',', t->output);
        if (cells[i]) fg_csv_cell(t->output, fg_text_of(cells[i]));
    }
    fputc('\n', t->output);
}

/* A name that differs: how often it agrees, the first difference and what the gate makes of it. */
static void print_text(const table *t, const fg_compared_name *n)
{
    char share[64];
    snprintf(share, sizeof share, "%" PRIu64 " of %" PRIu64, n->agree, n->compared);
    fprintf(t->output, "%-*.*s  %-16s  %" PRId64 ".%03" PRId64 " s, line %" PRIu64 ": the board says ", t->width,
            (int)n->declared->name.size, n->declared->name.at, share, n->t_ms / 1000, n->t_ms % 1000, n->line);
    tool_text(t->output, fg_text_of(n->said));
    fputs(", the gate ", t->output);
    tool_text(t->output, fg_text_of(n->own));
    fprintf(t->output, "\n%*s", t->width + 20, "");
    tool_wrapped(t->output, fg_text_of(n->because), t->width + 20);
    fputc('\n', t->output);
}

static void add_name(table *t, const fg_compared_name *n)
{
    const int width = n->declared->name.size > 24 ? 24 : (int)n->declared->name.size;
    t->names[t->count++] = n;
    t->compared += n->compared;
    t->agree += n->agree;
    t->between += n->between;
    if (n->said && (!t->first || n->t_ms < t->first->t_ms)) t->first = n;
    if (width > t->width) t->width = width;
}

/* As text those that differ, as CSV all of them. */
static void print_names(const table *t)
{
    size_t agree = 0;
    char room[64];
    if (t->options->form == FORM_CSV)
        fputs("name,compared,agree,t_ms,line,board,gate,because\n", t->output);
    else if (t->first)
        fprintf(t->output, "%-*s  %-16s  first difference\n", t->width, "name", "agree");
    for (size_t i = 0; i < t->count; i++) {
        agree += !t->names[i]->said;
        if (t->options->form == FORM_CSV)
            print_csv(t, t->names[i]);
        else if (t->names[i]->said)
            print_text(t, t->names[i]);
    }
    if (t->options->form == FORM_TEXT && agree)
        fprintf(t->output, "%s %s in every row\n", tool_counted(agree, "name", room), agree == 1 ? "agrees" : "agree");
}

/* How many agree, and what to do about the first that does not. */
static void tell_verdict(const table *t)
{
    char a[64];
    const tool_options *o = t->options;
    const char *path = tool_path(o->recording);
    if (o->quiet) return;
    if (!t->first) {
        tool_say("%s: the board and the gate agree in %s\n", path,
                 t->compared == 1 ? "the only value" : tool_counted(t->compared, "value", a));
        return;
    }
    const fg_text name = t->first->declared->name;
    if (t->between)
        tool_say("%s: %s stand in rows between two steps; --row-steps steps at each row, as a board does "
                 "whose steps come late\n",
                 path, tool_counted(t->between, "value", a));
    tool_say("%s: the board and the gate differ in %" PRIu64 " of %s, first in %.*s; ", path, t->compared - t->agree,
             tool_counted(t->compared, "value", a), (int)name.size, name.at);
    if (!t->explained_by || strcmp(o->gate, "-") == 0)
        tool_say("'fickle why' explains it from a file\n"); /* it reads everything twice */
    else
        tool_say("see why: fickle why %s %s %.*s --at %" PRId64 "ms%s\n", o->gate, t->explained_by, (int)name.size,
                 name.at, t->first->t_ms, o->reading.row_steps ? " --row-steps" : "");
}

static bool fits(const tool_options *o)
{
    const char *other = o->scene                    ? "--scene"
                        : o->save                   ? "--save"
                        : o->summary                ? "--summary"
                        : o->coverage || o->require ? "--coverage"
                                                    : NULL;
    if (other) tool_say("fickle: error: --compare prints a table of its own from a recording; leave %s away\n", other);
    return !other && tool_form_is_one_of(o, 1 << FORM_TEXT | 1 << FORM_CSV) == EXIT_WELL;
}

/* Prints those that were chosen. EXIT_HELD_NOT if one differs, EXIT_WRONG if there is nothing to compare. */
static int print(table *t, const fg_compared *compared, const tool_chosen *chosen)
{
    t->names = calloc(compared->count + 1, sizeof(const fg_compared_name *));
    if (!t->names) {
        tool_no_memory();
        return EXIT_WRONG;
    }
    for (size_t i = 0; i < compared->count; i++)
        if (tool_is_chosen(chosen, compared->names[i].declared)) add_name(t, &compared->names[i]);
    if (!t->compared) {
        tool_say("%s: error: nothing to compare: %s\n", tool_path(t->options->recording),
                 chosen->count ? "no name of --only has a column with values that a board said"
                               : "the columns named like rules, counts and outputs are empty");
        return EXIT_WRONG;
    }
    print_names(t);
    return t->first ? EXIT_HELD_NOT : EXIT_WELL;
}

int tool_compare_print(const tool_options *options, const tool_chosen *chosen, const fg_compared *compared,
                       const fg_replay_report *report, const char *explained_by)
{
    table t = {.output = tool_output_open(), .options = options, .width = 4, .explained_by = explained_by};
    if (!t.output) return EXIT_WRONG;
    int result = print(&t, compared, chosen);
    const int written = tool_output_close(t.output, options->form, result != EXIT_WRONG);
    if (written != EXIT_WELL) result = written;
    if (result != EXIT_WRONG) {
        tool_print_report(options, report);
        tell_verdict(&t);
    }
    free(t.names);
    return result;
}

int tool_compare(const tool_options *options, const fg_gate_file *file, const fg_readings *readings)
{
    fg_compared compared = {0};
    fg_replay_report report;
    fg_mistake mistake = {0};
    tool_chosen chosen = {0};
    int result = EXIT_WRONG;
    if (!fits(options) || !tool_names(options, file, &chosen)) return EXIT_WRONG;
    const fg_status status =
        fg_compare_recording(&file->program, readings, tool_progress_of_rows(), &compared, &report, &mistake);
    tool_progress_end();
    tool_end_if_stopped();
    if (status == FG_OK)
        result = tool_compare_print(options, &chosen, &compared, &report,
                                    strcmp(options->recording, "-") == 0 ? NULL : options->recording);
    else
        tool_print_mistake(&mistake);
    if (result == EXIT_WELL && options->strict && report.unread_count) result = EXIT_HELD_NOT;
    fg_compared_end(&compared);
    return result;
}
