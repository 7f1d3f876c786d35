/* SPDX-License-Identifier: MIT */
/* Being asked to stop. */
#include "tool.h"

#include <signal.h>

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

void tool_listen_to_signals(void)
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
