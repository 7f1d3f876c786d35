/* SPDX-License-Identifier: MIT */
/* What all commands have in common: the beginning and the end. */
#include "tool.h"

#include <stdlib.h>

/* Options that a command has nothing to do with are refused, not passed over. */
static int can_be_honoured(const tool_command *command, const tool_options *options)
{
    if (tool_form_is_one_of(options, command->forms) != EXIT_WELL) return EXIT_WRONG;
    if (!options->verbose || command->verbose) return EXIT_WELL;
    tool_say("fickle: error: %s has nothing more to print; leave out --verbose\n", command->name);
    return EXIT_WRONG;
}

static int run_on_gate(const tool_command *command, void *options)
{
    const tool_options *common = options;
    fg_gate_file file;
    int status = command->before ? command->before(options) : EXIT_WELL;
    if (status != EXIT_WELL) return status;
    ((tool_options *)options)->promises = command->promises;
    ((tool_options *)options)->mistakes = command->mistakes;
    status = tool_open_gate(common, &file);
    if (status == EXIT_WELL) status = command->run(options, &file);
    if (status == EXIT_WELL && common->strict && file.program.warning_count) status = EXIT_HELD_NOT;
    fg_gate_file_close(&file);
    return status;
}

int tool_run(const tool_command *command, int argc, char **argv)
{
    const struct argp_child children[] = {{&tool_common, 0, NULL, 0}, {0}};
    if (command->instead) command = command->instead(&argc, argv);
    struct argp argp = *command->argp;
    void *options = calloc(1, command->options_size);
    int status = EXIT_WRONG;
    argp.children = children;
    const char **names = calloc(2 * ((size_t)argc + 1), sizeof *names); /* more files than words are never named */
    if (!options || !names) {
        free(options);
        free(names);
        tool_no_memory();
        return EXIT_WRONG;
    }
    ((tool_options *)options)->recordings = names;
    ((tool_options *)options)->add_coverage = names + argc + 1;
    if (tool_parse(&argp, argc, argv, 0, options)) status = can_be_honoured(command, options);
    if (status == EXIT_WELL)
        status = ((const tool_options *)options)->gate ? run_on_gate(command, options) : command->run(options, NULL);
    free(options);
    free(names);
    return status;
}
