/* SPDX-License-Identifier: MIT */
/* Any words behind `fickle`, over a gate and a recording that are there: it ends with a status and never anything else.
 * The words are separated by line ends; they have no slash, so that nothing is written elsewhere. */
#include "tool/tool.h"

#include <poll.h>
#include <setjmp.h>
#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);
int fickle_main(int argc, char **argv);

static jmp_buf out_of_it;

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
    longjmp(out_of_it, 1);
}

void fuzz_argp_state_help(const struct argp_state *state, FILE *stream, unsigned flags)
{
    (void)state;
    (void)stream;
    (void)flags;
    longjmp(out_of_it, 1);
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

static void begin(void)
{
    static char folder[] = "/dev/shm/fickle-fuzz-XXXXXX";
    static const char gate[] =
        "number cut = 5\nsensor d { unit cm; step 0.1 }\nflag k\nbands b from d { low | cut | high }\n"
        "lamp l { on when k and b is high }\nbuzzer z { A4 when k }\n"
        "scene \"s\" { lasts 1s; d ramps 0 to 9 from 0s to 1s }\n"
        "trial \"t\" { readings \"a.csv\"; expect k never }\n";
    static const char rows[] = "t_ms,d,k,seen\n0,1,0,low\n100,9,1,high\n200,8,1,high\n300,1,0,low\n";
    static bool begun;
    if (begun) return;
    begun = true;
    if (!mkdtemp(folder) || chdir(folder) != 0) abort();
    FILE *file = fopen("a.gate", "w");
    if (!file || fputs(gate, file) < 0 || fclose(file) != 0) abort();
    file = fopen("a.csv", "w");
    if (!file || fputs(rows, file) < 0 || fclose(file) != 0) abort();
    if (!freopen("/dev/null", "r", stdin) || !freopen("/dev/null", "w", stdout)) abort();
    (void)setenv("PATH", "", 1);
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    enum { WORDS = 24 };
    static char text[1024], name[] = "fickle";
    char *words[WORDS + 2] = {name};
    int count = 1;
    begin();
    if (size >= sizeof text) return 0;
    memcpy(text, data, size);
    text[size] = '\0';
    for (size_t i = 0; i < size; i++)
        if (text[i] == '/' || text[i] == '\0') text[i] = '_';
    for (char *word = strtok(text, "\n"); word && count < WORDS; word = strtok(NULL, "\n")) words[count++] = word;
    tool_stopped = 0;
    waits = 0;
    if (setjmp(out_of_it) == 0) {
        const int status = fickle_main(count, words);
        if (status < 0 || status > 2) abort();
    }
    return 0;
}
