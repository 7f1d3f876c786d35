/* SPDX-License-Identifier: MIT */
#include "fuzzed_tool.h"

#include <poll.h>
#include <stdarg.h>
#include <time.h>

jmp_buf fuzz_out_of_it;

/* Wrong words end the program while they are parsed; scripts/fuzz.sh gives these names to what would do that, and they
 * come back here instead. */
#undef argp_parse
error_t argp_parse(const struct argp *argp, int argc, char **argv, unsigned flags, int *index, void *input);
error_t fuzz_argp_parse(const struct argp *argp, int argc, char **argv, unsigned flags, int *index, void *input)
{
    return argp_parse(argp, argc, argv, flags | ARGP_NO_EXIT | ARGP_NO_HELP, index, input);
}

void fuzz_argp_error(const struct argp_state *state, const char *format, ...)
{
    (void)state;
    (void)format;
    longjmp(fuzz_out_of_it, 1);
}

void fuzz_argp_state_help(const struct argp_state *state, FILE *stream, unsigned flags)
{
    (void)state;
    (void)stream;
    (void)flags;
    longjmp(fuzz_out_of_it, 1);
}

/* Time runs ten seconds at each look at the clock, nobody sleeps, and who waits too often is asked to stop. */
static int64_t clock_s;
static int waits;

static void wait_once(void)
{
    enum { OFTEN = 2000 };
    if (++waits > OFTEN) tool_stopped = SIGINT;
}

int fuzz_clock_gettime(clockid_t which, struct timespec *now)
{
    (void)which;
    *now = (struct timespec){clock_s += 10, 0};
    return 0;
}

int fuzz_nanosleep(const struct timespec *pause, struct timespec *left)
{
    (void)pause;
    (void)left;
    wait_once();
    return 0;
}

#undef poll
int poll(struct pollfd *handles, nfds_t count, int wait_ms);
int fuzz_poll(struct pollfd *handles, nfds_t count, int wait_ms)
{
    (void)wait_ms;
    wait_once();
    return poll(handles, count, 0);
}

void fuzz_tool_begin(void)
{
    tool_stopped = 0;
    waits = 0;
}
