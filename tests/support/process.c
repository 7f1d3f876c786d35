/* SPDX-License-Identifier: MIT */
#include "process.h"
#include "tool_run.h"

#include <check.h>
#include <errno.h>
#include <fcntl.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

enum { PATIENCE_MS = 20000, INPUTS = 8 };

static struct {
    char name[32];
    int handle;
} inputs[INPUTS];

void pause_ms(int ms)
{
    const struct timespec pause = {ms / 1000, ms % 1000 * 1000000L};
    nanosleep(&pause, NULL);
}

static int input_of(const char *name)
{
    for (int i = 0; i < INPUTS; i++)
        if (!strcmp(inputs[i].name, name)) return i;
    ck_abort_msg("no process %s", name);
    return 0;
}

pid_t start_process(const char *name, const char *words)
{
    char command[4096], in[64], out[64], err[64];
    int at = 0;
    snprintf(in, sizeof in, "%s.in", name);
    snprintf(out, sizeof out, "%s.out", name);
    snprintf(err, sizeof err, "%s.err", name);
    snprintf(command, sizeof command, "exec %s", words);
    (void)unlink(in);
    ck_assert_int_eq(mkfifo(in, 0600), 0);
    const int input = open(in, O_RDWR | O_CLOEXEC);
    while (at < INPUTS && *inputs[at].name && strcmp(inputs[at].name, name)) at++;
    ck_assert_int_lt(at, INPUTS);
    snprintf(inputs[at].name, sizeof inputs[at].name, "%s", name);
    inputs[at].handle = input;
    (void)close(open(out, O_WRONLY | O_CREAT | O_TRUNC, 0600));
    (void)close(open(err, O_WRONLY | O_CREAT | O_TRUNC, 0600));
    const pid_t process = fork();
    ck_assert_int_ge(process, 0);
    if (process) return process;
    (void)setpgid(0, 0);
    (void)setenv("NO_COLOR", "1", 1);
    if (dup2(open(in, O_RDONLY | O_NONBLOCK), 0) < 0 || dup2(open(out, O_WRONLY | O_APPEND), 1) < 0 ||
        dup2(open(err, O_WRONLY | O_APPEND), 2) < 0)
        _exit(99);
    (void)fcntl(0, F_SETFL, 0);
    execl("/bin/sh", "sh", "-c", command, (char *)NULL);
    _exit(99);
}

pid_t start_fickle(const char *name, const char *words)
{
    char command[4096];
    snprintf(command, sizeof command, "%s %s", FICKLE, words);
    return start_process(name, command);
}

void write_to(const char *name, const char *text)
{
    ck_assert_int_eq(write(inputs[input_of(name)].handle, text, strlen(text)), (ssize_t)strlen(text));
}

void close_input(const char *name)
{
    const int at = input_of(name);
    ck_assert_int_eq(close(inputs[at].handle), 0);
}

static char *read_whole(const char *file)
{
    static char text[1 << 20];
    FILE *in = fopen(file, "r");
    const size_t size = in ? fread(text, 1, sizeof text - 1, in) : 0;
    if (in) (void)fclose(in);
    text[size] = '\0';
    return text;
}

int count_text(const char *file, const char *text)
{
    int count = 0;
    for (const char *at = read_whole(file); (at = strstr(at, text)); at++) count++;
    return count;
}

void await_text(const char *file, const char *text)
{
    for (int waited = 0; waited < PATIENCE_MS; waited += 10) {
        if (strstr(read_whole(file), text)) return;
        pause_ms(10);
    }
    ck_abort_msg("%s never held '%s' but\n%s", file, text, read_whole(file));
}

void await_file(const char *path)
{
    for (int waited = 0; waited < PATIENCE_MS; waited += 10) {
        if (exists(path)) return;
        pause_ms(10);
    }
    ck_abort_msg("there never was %s", path);
}

int end_process(pid_t process, int signal_number)
{
    int status = 0;
    if (signal_number) (void)kill(process, signal_number);
    for (int waited = 0; waited < PATIENCE_MS; waited += 10) {
        if (waitpid(process, &status, WNOHANG) == process)
            return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
        pause_ms(10);
    }
    (void)kill(process, SIGKILL);
    ck_abort_msg("it did not end");
    return 0;
}
