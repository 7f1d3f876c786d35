/* SPDX-License-Identifier: MIT */
/* gnuplot, driven over a pipe: a pair of sockets, so that a gnuplot that ends early is an error and no signal. */
#include "workshop/draw/pipe.h"

#include "workshop/draw/draw_theme.h"

#include <errno.h>
#include <fcntl.h>
#include <spawn.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

/* Without a user's own settings (-d): they would change what is drawn. */
static bool spawn(int input, int output, pid_t *child)
{
    static char name[] = "gnuplot", plain[] = "-d";
    char *arguments[] = {name, plain, NULL};
    posix_spawn_file_actions_t actions;
    if (posix_spawn_file_actions_init(&actions) != 0) return false;
    bool good = posix_spawn_file_actions_adddup2(&actions, input, STDIN_FILENO) == 0 &&
                posix_spawn_file_actions_adddup2(&actions, output, STDOUT_FILENO) == 0 &&
                posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, "/dev/null", O_WRONLY, 0) == 0;
    if (good) {
        errno = posix_spawnp(child, name, &actions, NULL, arguments, environ);
        good = errno == 0;
    }
    (void)posix_spawn_file_actions_destroy(&actions);
    return good;
}

static bool send_all(int to, const char *script, size_t size)
{
    while (size) {
        const ssize_t put = send(to, script, size, MSG_NOSIGNAL);
        if (put <= 0) return false;
        script += put;
        size -= (size_t)put;
    }
    return true;
}

static bool run(const char *script, size_t size, int output, int *exit_status)
{
    int ends[2];
    pid_t child;
    if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0) return false;
    const bool begun = spawn(ends[1], output, &child);
    const int error = errno;
    (void)close(ends[1]);
    if (begun) (void)send_all(ends[0], script, size);
    (void)close(ends[0]);
    errno = error;
    if (!begun) return false;
    int status = 0;
    while (waitpid(child, &status, 0) < 0 && errno == EINTR) continue;
    *exit_status = WIFEXITED(status) ? WEXITSTATUS(status) : 1;
    return true;
}

/* A picture that lacks its end was cut short, whatever gnuplot says of it: a full disk does that. */
static bool is_whole(int picture, const char *path)
{
    static const char png[] = "\0\0\0\0IEND\xae\x42\x60\x82", svg[] = "</svg>";
    char tail[64];
    const bool is_svg = !strcmp(fg_picture_ending(path), ".svg");
    const char *end = is_svg ? svg : png;
    const size_t size = is_svg ? sizeof svg - 1 : sizeof png - 1;
    const off_t length = lseek(picture, 0, SEEK_END),
                from = length > (off_t)sizeof tail ? length - (off_t)sizeof tail : 0;
    ssize_t got = length > 0 ? pread(picture, tail, sizeof tail, from) : 0;
    while (got > 0 && strchr(" \t\r\n", tail[got - 1]) && is_svg) got--;
    return got >= (ssize_t)size && !memcmp(tail + got - (ssize_t)size, end, size);
}

static fg_status draw(const fg_script *script, fg_mistake *mistake)
{
    int exit_status = 0;
    const char *const path = script->picture.path;
    errno = 0;
    const bool ran = run(script->text.text, script->text.size, script->picture.handle, &exit_status);
    const int error = errno;
    if ((!ran && error == ENOENT) || exit_status == 127)
        return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                              "drawing needs gnuplot, which is not there; install gnuplot-nox");
    if (!ran) return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "gnuplot cannot be run: %s", strerror(error));
    if (exit_status == 0 && is_whole(script->picture.handle, path)) return FG_OK;
    return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                          "gnuplot could not draw it (its exit status is %d); is there room on the disk?", exit_status);
}

fg_status fg_script_begin(fg_script *script, const char *path, fg_mistake *mistake)
{
    *script = (fg_script){.picture = {.handle = -1, .slot = -1}};
    const fg_status status = fg_draft_begin(&script->picture, path, mistake);
    if (status != FG_OK) return status;
    if (fg_memory_file_open(&script->text)) return FG_OK;
    fg_draft_drop(&script->picture);
    return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to draw it");
}

fg_status fg_script_end(fg_script *script, bool good, fg_mistake *mistake)
{
    fg_status status = FG_ERROR_MEMORY;
    if (fg_memory_file_close(&script->text) && good)
        status = draw(script, mistake);
    else
        (void)fg_mistake_set(mistake, status, script->picture.path, 0, "there is not enough memory to draw it");
    if (status == FG_OK)
        status = fg_draft_publish(&script->picture, mistake);
    else
        fg_draft_drop(&script->picture);
    free(script->text.text);
    return status;
}
