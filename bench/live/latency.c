/* SPDX-License-Identifier: MIT */
/* latency FICKLE: how long a line takes from its arrival to its change on standard output, at 1,000 lines a second for
 * ten seconds. Prints the median and the worst, in ms. */
#include <inttypes.h>
#include <poll.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

enum { LINES = 10000, EACH_NS = 1000000 };

static int64_t now_ns(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (int64_t)now.tv_sec * 1000000000 + now.tv_nsec;
}

static double ms_of(int64_t ns) { return (double)ns / 1e6; }

static int by_size(const void *a, const void *b)
{
    const int64_t x = *(const int64_t *)a, y = *(const int64_t *)b;
    return (x > y) - (x < y);
}

int main(int argc, char **argv)
{
    static int64_t sent[LINES + 1], took[LINES];
    static char gate[] = "/tmp/fickle-latency-XXXXXX";
    int to[2], from[2], count = 0, lines = 0;
    char block[1 << 16];
    const int handle = mkstemp(gate);
    static const char text[] = "sensor depth\nthreshold deep from depth { over 5 }\n";
    if (argc != 2 || handle < 0 || write(handle, text, sizeof text - 1) < 0 || pipe(to) || pipe(from)) return 2;
    const pid_t child = fork();
    if (child == 0) {
        if (dup2(to[0], 0) < 0 || dup2(from[1], 1) < 0) return 2;
        (void)close(to[1]), (void)close(from[0]);
        (void)execl(argv[1], argv[1], "live", gate, "-", "--as", "csv", "--only", "deep", "-q", (char *)NULL);
        return 2;
    }
    (void)close(to[0]), (void)close(from[1]);
    usleep(300000);
    const int64_t began = now_ns();
    /* Each line changes the answer, and its reading, which tells its number, stands in the reason. */
    while (count < LINES) {
        const int64_t now = now_ns();
        if (lines < LINES && now >= began + (int64_t)lines * EACH_NS) {
            sent[lines] = now;
            char line[32];
            const int size = snprintf(line, sizeof line, "depth=%d\n", lines % 2 ? 10 + lines : -lines);
            if (write(to[1], line, (size_t)size) != size) return 2;
            lines++;
            continue;
        }
        struct pollfd out = {from[0], POLLIN, 0};
        if (poll(&out, 1, lines < LINES ? 0 : 2000) == 0 && lines == LINES) break;
        if (!out.revents) continue;
        const ssize_t got = read(from[0], block, sizeof block);
        const int64_t came = now_ns();
        static char line[400];
        static size_t size;
        for (ssize_t i = 0; i < got; i++) {
            if (block[i] != '\n') {
                if (size + 1 < sizeof line) line[size++] = block[i];
                continue;
            }
            line[size] = '\0';
            size = 0;
            const char *at = strstr(line, "depth ");
            if (!at) continue;
            const int reading = (int)strtol(at + 6, NULL, 10), number = reading > 0 ? reading - 10 : -reading;
            if (count < LINES && number >= 0 && number < lines) took[count++] = came - sent[number];
        }
    }
    (void)kill(child, SIGTERM);
    (void)waitpid(child, NULL, 0);
    (void)unlink(gate);
    qsort(took, (size_t)count, sizeof *took, by_size);
    const int half = count / 2, most = count * 99 / 100;
    printf("%d of %d lines changed something, the others came in the same ms as another; from arrival to the change: "
           "median %.2f ms, 99 of 100 below %.2f ms, worst "
           "%.2f ms\n",
           count, LINES, ms_of(took[half]), ms_of(took[most]), ms_of(took[count - 1]));
    return 0;
}
