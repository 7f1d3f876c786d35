/* gnuplot, driven over a pipe: a pair of sockets, so that a gnuplot that ends early is an error and no signal. */
#include "pipe.h"

#include <errno.h>
#include <fcntl.h>
#include <spawn.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

extern char **environ;

static bool spawn(int input, pid_t *child)
{
    static char name[] = "gnuplot";
    char *arguments[] = {name, NULL};
    posix_spawn_file_actions_t actions;
    if (posix_spawn_file_actions_init(&actions) != 0) return false;
    bool good = posix_spawn_file_actions_adddup2(&actions, input, STDIN_FILENO) == 0 &&
                posix_spawn_file_actions_addopen(&actions, STDOUT_FILENO, "/dev/null", O_WRONLY, 0) == 0 &&
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

static bool run(const char *script, size_t size, int *exit_status)
{
    int ends[2];
    pid_t child;
    if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0) return false;
    const bool begun = spawn(ends[1], &child);
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

static fg_status draw(const char *script, size_t size, const char *meanwhile, const char *path, fg_mistake *mistake)
{
    int exit_status = 0;
    struct stat about;
    const char *const no_gnuplot = "drawing needs gnuplot, which is not there; install gnuplot-nox";
    if (stat(meanwhile, &about) != 0)
        return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be written: %s", strerror(errno));
    errno = 0;
    const bool ran = run(script, size, &exit_status);
    const int error = errno;
    if (ran && exit_status == 0 && stat(meanwhile, &about) == 0 && about.st_size > 0 && rename(meanwhile, path) == 0)
        return FG_OK;
    (void)unlink(meanwhile);
    if ((!ran && error == ENOENT) || exit_status == 127)
        return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "%s", no_gnuplot);
    if (!ran) return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "gnuplot cannot be run: %s", strerror(error));
    return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                          "gnuplot could not draw it (its exit status is %d); is there room on the disk?", exit_status);
}

bool fg_script_begin(fg_script *script, const char *path)
{
    int handle;
    *script = (fg_script){.path = path};
    script->out = open_memstream(&script->text, &script->size);
    script->meanwhile = fg_part_open(path, &handle);
    if (handle >= 0) (void)close(handle);
    return script->out && script->meanwhile;
}

fg_status fg_script_end(fg_script *script, bool good, fg_mistake *mistake)
{
    fg_status status = FG_ERROR_MEMORY;
    good = script->out && fclose(script->out) == 0 && script->meanwhile && good;
    if (good)
        status = draw(script->text, script->size, script->meanwhile, script->path, mistake);
    else
        (void)fg_mistake_set(mistake, status, script->path, 0, "there is not enough memory to draw it");
    if (!good && script->meanwhile) (void)unlink(script->meanwhile);
    free(script->text);
    free(script->meanwhile);
    return status;
}
