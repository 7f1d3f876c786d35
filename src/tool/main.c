/* SPDX-License-Identifier: MIT */
/* fickle: the command-line tool. One file a command; this one finds the command and runs it. */
#include "shell.h"

#include <ficklegate/version.h>

#include <fcntl.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

const char *argp_program_version = "fickle " FG_VERSION;

static const char about[] =
    "Turns sensor readings into decisions: rules, tested against recordings before a board runs them."
    "\vCommands:\n";

static const char more[] = "\n"
                           "'fickle COMMAND --help' explains a command. '-' is standard input.\n"
                           "\n"
                           "Exit status: 0 all well; 1 an expectation failed, or --strict found a\n"
                           "warning; 2 wrong use, or unreadable or wrong input; 3 not decided, where\n"
                           "--strict asks.";

/* The words of --help, with a line for each command. */
static void write_usage(char *text, size_t room)
{
    size_t size = (size_t)snprintf(text, room, "%s", about);
    const tool_command *command;
    for (size_t i = 0; (command = tool_command_at(i)); i++)
        size += (size_t)snprintf(text + size, room - size, "  %-22s %s\n", command->use, command->line);
    snprintf(text + size, room - size, "%s", more);
}

/* For somebody who only typed the name. */
static const char first_steps[] =
    "fickle: rules over sensor readings, tried out before a board follows them. To begin:\n"
    "\n"
    "  fickle new box                               write box.gate, a small gate file that runs\n"
    "  fickle check box.gate                        what is wrong or odd in it, and which rule owns which readings\n"
    "  fickle replay box.gate --scene \"an evening\"  what would be switched, when and why\n"
    "  fickle live box.gate hand                    move the sensor yourself and see what switches where\n"
    "  fickle trial box.gate                        does what you expect come out?\n"
    "  fickle draw box.gate --scene \"an evening\" -o box.png\n"
    "\n"
    "Instead of a scene name your own recording: a CSV file with a column t_ms and one for each sensor. A board that\n"
    "prints lines such as box=24.1 is looked at with: fickle live box.gate /dev/ttyACM0\n"
    "'fickle --help' lists all commands, 'fickle COMMAND --help' tells more of one.\n";

/* "check, replay and trial" */
static void write_names(char *text, size_t room)
{
    const tool_command *command;
    size_t size = 0;
    for (size_t i = 0; (command = tool_command_at(i)); i++) {
        const char *between = tool_command_at(i + 1) ? ", " : " and ";
        size += (size_t)snprintf(text + size, room - size, "%s%s", i ? between : "", command->name);
    }
}

static error_t parse(int key, char *argument, struct argp_state *state)
{
    const tool_command **command = state->input;
    char names[200];
    if (key == ARGP_KEY_NO_ARGS) {
        fputs(first_steps, stderr); /* and there is no command, which ends the run */
        return 0;
    }
    if (key != ARGP_KEY_ARG) return ARGP_ERR_UNKNOWN;
    for (size_t i = 0; (*command = tool_command_at(i)) && strcmp((*command)->name, argument) != 0;) i++;
    write_names(names, sizeof names);
    if (!*command) tool_wrong_use(state, "there is no command '%s'; the commands are %s", argument, names);
    state->next = state->argc;
    return 0;
}

/* A closed standard input, output or error would be the next file that is opened, and printed into. */
static void open_what_is_closed(void)
{
    for (int handle = 0; handle <= 2; handle++)
        if (fcntl(handle, F_GETFD) < 0 && open("/dev/null", handle == 0 ? O_WRONLY : O_RDONLY) != handle)
            _exit(EXIT_WRONG);
}

int main(int argc, char **argv)
{
    char usage[2000];
    write_usage(usage, sizeof usage);
    const struct argp argp = {.parser = parse, .args_doc = "COMMAND ...", .doc = usage};
    const tool_command *command = NULL;
    int first = 1;
    open_what_is_closed();
    tool_listen_to_signals();
    (void)atexit(tool_output_check);
    argp_err_exit_status = EXIT_WRONG;
    if (argc > 1 && !strcmp(argv[1], "complete")) return tool_complete(argc - 2, argv + 2);
    if (argc > 1 && !strcmp(argv[1], "words")) return tool_words();
    if (argc > 1 && !strcmp(argv[1], "manual")) return tool_manual(argc > 2 ? argv[2] : NULL);
    if (!tool_parse(&argp, argc, argv, ARGP_IN_ORDER, &command) || !command) return EXIT_WRONG;
    while (first < argc && strcmp(argv[first], command->name) != 0) first++;
    char name[32];
    snprintf(name, sizeof name, "fickle %s", command->name);
    argv[first] = name;
    return tool_run(command, argc - first, argv + first);
}
