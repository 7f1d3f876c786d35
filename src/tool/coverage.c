/* SPDX-License-Identifier: MIT */
/* What was tried, as replay and trial say it. */
#include "tool.h"

#include <inttypes.h>
#include <string.h>

error_t tool_coverage_option(int key, const char *argument, struct argp_state *state)
{
    tool_options *o = state->input;
    if (key == 'C') {
        o->coverage = true;
        return 0;
    }
    if (key != 'r') return ARGP_ERR_UNKNOWN;
    const size_t number = strspn(argument, "0123456789.");
    fg_value share = -1;
    const bool read =
        fg_value_read(argument, number, 2, &share) == FG_OK && (!argument[number] || !strcmp(argument + number, "%"));
    if (!read || share < 0 || share > 10000)
        tool_wrong_use(state, "--require needs a share up to 100%%, as in 90%%, not '%s'", argument);
    o->require = (uint32_t)share;
    return 0;
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
