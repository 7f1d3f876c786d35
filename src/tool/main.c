/* fickle: the command-line tool. One file a command; this one finds the command. */
#include "tool.h"

#include <ficklegate/version.h>

#include <fcntl.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

const char *argp_program_version = "fickle " FG_VERSION;

static const struct {
    const char *name;
    int (*run)(int argc, char **argv);
} commands[] = {{"check", command_check}, {"replay", command_replay}, {"trial", command_trial},
                {"mimic", command_mimic}, {"tune", command_tune},     {"why", command_why},
                {"draw", command_draw},   {"bake", command_bake}};

enum { COMMANDS = sizeof commands / sizeof *commands };

static const char usage_text[] =
    "Readings in, decisions out: rules over sensor readings, tried on recordings before a board does it for real."
    "\vCommands:\n"
    "  check GATE             what is wrong or odd in a gate file; what it costs\n"
    "  replay GATE RECORDING  every change: time, what, was, is, because\n"
    "  trial GATE             its trials: what held, and what broke the rest\n"
    "  mimic GATE             a scene of it as a recording\n"
    "  tune GATE RECORDING    its limits from labelled readings\n"
    "  why GATE REC. NAME     the reasons at one moment\n"
    "  draw GATE RECORDING    a picture of it\n"
    "  bake GATE              C for a board\n"
    "\n"
    "'fickle COMMAND --help' tells more. '-' is standard input.\n"
    "\n"
    "Exit status: 0 all well; 1 an expectation failed, or --strict found a\n"
    "warning; 2 wrong use, or unreadable or wrong input.";

static error_t parse(int key, char *argument, struct argp_state *state)
{
    int *command = state->input;
    if (key == ARGP_KEY_NO_ARGS) argp_usage(state);
    if (key != ARGP_KEY_ARG) return ARGP_ERR_UNKNOWN;
    for (*command = 0; *command < COMMANDS; ++*command)
        if (strcmp(commands[*command].name, argument) == 0) break;
    if (*command == COMMANDS)
        tool_wrong_use(
            state, "there is no command '%s'; the commands are check, replay, trial, mimic, tune, why, draw and bake",
            argument);
    state->next = state->argc;
    return 0;
}

/* ---- what the program is given ---- */

/* A closed standard input, output or error would be the next file that is opened, and printed into. */
static void open_what_is_closed(void)
{
    for (int handle = 0; handle <= 2; handle++)
        if (fcntl(handle, F_GETFD) < 0 && open("/dev/null", handle == 0 ? O_WRONLY : O_RDONLY) != handle)
            _exit(EXIT_WRONG);
}

/* ---- being asked to stop ---- */

volatile sig_atomic_t tool_stopped; /* the signal that asked */
volatile sig_atomic_t tool_ends_itself;

static void end_by(int signal_number)
{
    fg_files_abandon();
    (void)signal(signal_number, SIG_DFL);
    (void)raise(signal_number);
}

/* What is not whole is taken away. Only a database that is being written is ended in order, by the step that sees
 * `tool_stopped`; who asks twice does not want to wait for it. */
static void on_signal(int signal_number)
{
    const bool again = tool_stopped;
    tool_stopped = signal_number;
    if (tool_ends_itself && !again) return;
    end_by(signal_number);
}

void tool_end_if_stopped(void)
{
    if (tool_stopped) end_by(tool_stopped);
}

static void listen_to_signals(void)
{
    static const int asked[] = {SIGINT, SIGTERM, SIGHUP, SIGXCPU};
    struct sigaction action = {.sa_handler = on_signal}, before;
    (void)sigemptyset(&action.sa_mask);
    action.sa_flags = SA_NODEFER;
    for (size_t i = 0; i < sizeof asked / sizeof *asked; i++)
        if (sigaction(asked[i], NULL, &before) == 0 && before.sa_handler != SIG_IGN) /* as nohup asks for */
            (void)sigaction(asked[i], &action, NULL);
    (void)signal(SIGPIPE, SIG_IGN); /* a reader that goes away is an error like others: status 2 */
    (void)signal(SIGXFSZ, SIG_IGN); /* and so is a file that may not become larger */
}

int main(int argc, char **argv)
{
    const struct argp argp = {.parser = parse, .args_doc = "COMMAND ...", .doc = usage_text};
    int command = COMMANDS;
    int first = 1;
    open_what_is_closed();
    listen_to_signals();
    (void)atexit(tool_output_check);
    argp_err_exit_status = EXIT_WRONG;
    if (!tool_parse(&argp, argc, argv, ARGP_IN_ORDER, &command) || command == COMMANDS) return EXIT_WRONG;
    while (first < argc && strcmp(argv[first], commands[command].name) != 0) first++;
    char name[32];
    snprintf(name, sizeof name, "fickle %s", commands[command].name);
    argv[first] = name;
    return commands[command].run(argc - first, argv + first);
}
