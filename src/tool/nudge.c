/* SPDX-License-Identifier: MIT */
/* fickle trial --nudge: would a trial notice if a limit were another one? */
#include "tool.h"

#include <inttypes.h>

typedef struct printer {
    FILE *output;
    const tool_options *options;
    uint32_t unnoticed;
} printer;

static void print_csv(FILE *out, const fg_nudge *n)
{
    fprintf(out, "%" PRIu32 ",%" PRIu32 ",", n->line, n->column);
    fg_csv_cell(out, n->was);
    fputc(',', out);
    fg_csv_cell(out, n->is);
    fprintf(out, ",%s,", n->noticed ? "yes" : "no");
    if (n->noticed) fg_csv_cell(out, n->trial);
    fputc(',', out);
    if (n->noticed) fprintf(out, "%" PRIu32, n->trial_line);
    fputc('\n', out);
}

static void on_nudge(void *context, const fg_nudge *n)
{
    printer *p = context;
    if (p->options->form == FORM_CSV) {
        print_csv(p->output, n);
        return;
    }
    if (n->noticed && !p->options->verbose) return;
    if (!n->noticed && !p->unnoticed++ && !p->options->verbose) fputs("no trial notices\n", p->output);
    fprintf(p->output, "  line %-4" PRIu32 " %.*s moved to %.*s", n->line, (int)n->was.size, n->was.at, (int)n->is.size,
            n->is.at);
    if (p->options->verbose && !n->noticed) fputs(": no trial notices", p->output);
    if (n->noticed)
        fprintf(p->output, ": noticed by %.*s, line %" PRIu32, (int)n->trial.size, n->trial.at, n->trial_line);
    fputc('\n', p->output);
}

static void print_sum(FILE *out, const fg_nudged *n, uint64_t share)
{
    fprintf(out, "the trials notice %zu of %zu moves by one step, %" PRIu64 ".%" PRIu64 " %%\n", n->noticed, n->moves,
            share / 100, share / 10 % 10);
    char room[64];
    if (n->not_held)
        fprintf(out, "not asked: %s that did not hold before\n", tool_counted(n->not_held, "expectation", room));
    if (n->misfits) fprintf(out, "left out: %zu after which it is no gate any more\n", n->misfits);
    if (n->outside) fprintf(out, "left out: %zu numbers and labels in included files\n", n->outside);
}

int tool_nudge(const tool_options *options, const fg_gate_file *file)
{
    printer p = {.output = tool_output_open(), .options = options};
    const fg_nudge_observer observer = {.context = &p, .nudge = on_nudge, .progress = tool_progress_of_moves()};
    fg_nudged nudged;
    fg_mistake mistake;
    if (!p.output) return EXIT_WRONG;
    if (options->form == FORM_CSV) fputs("line,column,was,is,noticed,trial,trial_line\n", p.output);
    const bool good = fg_trials_nudge(file, &options->reading, options->jobs, &observer, &nudged, &mistake) == FG_OK;
    tool_progress_end();
    if (!good) tool_print_mistake(&mistake);
    const uint64_t share = nudged.moves ? nudged.noticed * 10000 / nudged.moves : 10000; /* cut: 100 % means all */
    if (good && options->form == FORM_TEXT) print_sum(p.output, &nudged, share);
    if (tool_output_close(p.output, options->form, good) != EXIT_WELL || !good) return EXIT_WRONG;
    if (share >= options->require) return EXIT_WELL;
    tool_say("fickle: %" PRIu64 ".%02" PRIu64 " %% of the moves are noticed, --require asks for %u.%02u %%\n",
             share / 100, share % 100, (unsigned)options->require / 100, (unsigned)options->require % 100);
    return EXIT_HELD_NOT;
}
