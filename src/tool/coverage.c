/* SPDX-License-Identifier: MIT */
/* What was tried, as replay and trial say it. */
#include "tool.h"

#include <inttypes.h>
#include <string.h>

error_t tool_coverage_option(int key, const char *argument, struct argp_state *state)
{
    tool_options *o = state->input;
    switch (key) {
    case 'C': o->coverage = true; return 0;
    case TOOL_OPTION_SAVE_COVERAGE: o->save_coverage = argument; return 0;
    case TOOL_OPTION_ADD_COVERAGE: o->add_coverage[o->add_coverage_count++] = argument; return 0;
    case 'r': break;
    default: return ARGP_ERR_UNKNOWN;
    }
    const size_t number = strspn(argument, "0123456789.");
    fg_value share = -1;
    const bool read =
        fg_value_read(argument, number, 2, &share) == FG_OK && (!argument[number] || !strcmp(argument + number, "%"));
    if (!read || share < 0 || share > 10000)
        tool_wrong_use(state, "--require needs a share up to 100%%, as in 90%%, not '%s'", argument);
    o->require = (uint32_t)share;
    return 0;
}

bool tool_covers(const tool_options *o)
{
    return o->coverage || o->require || o->save_coverage || o->add_coverage_count;
}

fg_coverage *tool_coverage_begin(const tool_options *o, const fg_gate_file *file)
{
    fg_mistake mistake;
    if (o->save_coverage && (!tool_keeps(o->save_coverage, o->gate) || !tool_keeps(o->save_coverage, o->recording)))
        return NULL;
    fg_coverage *coverage = fg_coverage_start(&file->program);
    if (!coverage) tool_no_memory();
    for (size_t i = 0; coverage && i < o->add_coverage_count; i++) {
        if (fg_coverage_load(coverage, o->add_coverage[i], &mistake) == FG_OK) continue;
        tool_print_mistake(&mistake);
        fg_coverage_end(coverage);
        return NULL;
    }
    return coverage;
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    (void)before;
    (void)t_ms;
    fg_coverage_step(context, run);
    return !tool_stopped;
}

bool tool_coverage_play(const tool_options *o, const fg_gate_file *file, const char *recording, fg_coverage *coverage)
{
    const fg_readings readings = {.recording = recording, .options = o->reading};
    const fg_replay_observer observer = {.context = coverage, .step = on_step, .progress = tool_progress_of_rows()};
    fg_replay_report report;
    fg_mistake mistake;
    const fg_status status = fg_replay(&file->program, &readings, &observer, &report, &mistake);
    tool_progress_end();
    if (status != FG_OK) tool_print_mistake(&mistake);
    return status == FG_OK && !tool_stopped;
}

typedef struct list {
    FILE *output;
    const fg_declared *last;
} list;

static void tell(void *context, const fg_declared *declared, fg_text what)
{
    list *l = context;
    if (declared == l->last)
        fprintf(l->output, "  %-16s  ", "");
    else
        fprintf(l->output, "  %-16.*s  ", (int)declared->name.size, declared->name.at);
    l->last = declared;
    tool_text(l->output, what);
    fputc('\n', l->output);
}

int tool_print_coverage(FILE *output, const tool_options *options, const fg_coverage *coverage)
{
    uint64_t tried, all;
    fg_mistake mistake;
    if (options->save_coverage && fg_coverage_save(coverage, options->save_coverage, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
        return EXIT_WRONG;
    }
    fg_coverage_count(coverage, &tried, &all);
    const uint64_t share = all ? tried * 10000 / all : 10000; /* cut, so that 100 % means all */
    const bool short_of = share < options->require;
    if (options->form != FORM_TEXT && options->coverage) output = stderr; /* it is no part of that form */
    if (options->form == FORM_TEXT || options->coverage) {
        fprintf(output, "coverage: %" PRIu64 " of %" PRIu64 " situations, %" PRIu64 ".%" PRIu64 " %%", tried, all,
                share / 100, share / 10 % 10);
        fputs(tried == all || options->coverage ? "\n" : "; --coverage lists the rest\n", output);
        list l = {output, NULL};
        if (options->coverage && !fg_coverage_untried(coverage, &l, tell)) {
            tool_no_memory();
            return EXIT_WRONG;
        }
    }
    if (short_of)
        tool_say("fickle: %" PRIu64 ".%02" PRIu64 " %% is covered, --require asks for %u.%02u %%\n", share / 100,
                 share % 100, (unsigned)options->require / 100, (unsigned)options->require % 100);
    return short_of ? EXIT_HELD_NOT : EXIT_WELL;
}
