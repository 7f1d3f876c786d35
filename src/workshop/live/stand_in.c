/* SPDX-License-Identifier: MIT */
/* A pseudo-terminal that behaves as a board on a serial line does (POSIX.1-2017, posix_openpt). */
#include "workshop/base/buffer.h"

#include <ficklegate/stand_in.h>

#include <errno.h>
#include <fcntl.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <termios.h>
#include <unistd.h>

struct fg_stand_in {
    int handle; /* -1: the cable is pulled */
    char name[64];
    char *link;
    bool linked; /* the link is ours */
};

/* Raw from the first byte; closed again, so that it can be seen when somebody opens it. */
static bool make_raw(const char *name)
{
    struct termios about;
    const int line = open(name, O_RDWR | O_NOCTTY | O_CLOEXEC);
    if (line < 0) return false;
    bool good = tcgetattr(line, &about) == 0;
    if (good) {
        cfmakeraw(&about);
        good = tcsetattr(line, TCSANOW, &about) == 0;
    }
    (void)close(line);
    return good;
}

fg_status fg_stand_in_plug(fg_stand_in *b, fg_mistake *mistake)
{
    const int handle = posix_openpt(O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (handle < 0 || grantpt(handle) != 0 || unlockpt(handle) != 0 ||
        ptsname_r(handle, b->name, sizeof b->name) != 0 || !make_raw(b->name)) {
        const int error = errno;
        if (handle >= 0) (void)close(handle);
        return fg_mistake_set(mistake, FG_ERROR_FILE, "pty", 0, "there is no pseudo-terminal to be had: %s",
                              strerror(error));
    }
    if (b->link && symlink(b->name, b->link) != 0) {
        const int error = errno;
        (void)close(handle);
        return error == EEXIST
                   ? fg_mistake_set(mistake, FG_ERROR_FILE, b->link, 0,
                                    "exists already; choose another name, or remove it first")
                   : fg_mistake_set(mistake, FG_ERROR_FILE, b->link, 0, "cannot be made: %s", strerror(error));
    }
    b->linked = b->link != NULL;
    b->handle = handle;
    return FG_OK;
}

fg_stand_in *fg_stand_in_start(const char *link, fg_mistake *mistake)
{
    fg_stand_in *b = calloc(1, sizeof *b);
    *mistake = (fg_mistake){0};
    if (b) {
        b->handle = -1;
        b->link = link ? fg_c_string_of(fg_text_of(link)) : NULL;
        if ((!link || b->link) && fg_stand_in_plug(b, mistake) == FG_OK) return b;
    }
    if (!*mistake->text) (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, "pty", 0, "there is not enough memory");
    fg_stand_in_end(b);
    return NULL;
}

const char *fg_stand_in_name(const fg_stand_in *b) { return b->link ? b->link : b->name; }

bool fg_stand_in_is_open(const fg_stand_in *b)
{
    struct pollfd line = {b->handle, POLLIN, 0};
    return b->handle >= 0 && poll(&line, 1, 0) >= 0 && !(line.revents & POLLHUP);
}

bool fg_stand_in_write(fg_stand_in *b, const char *bytes, size_t size)
{
    enum { LONGEST_MS = 200 };
    while (size && fg_stand_in_is_open(b)) {
        struct pollfd line = {b->handle, POLLOUT, 0};
        const ssize_t put = write(b->handle, bytes, size);
        if (put > 0) {
            bytes += put;
            size -= (size_t)put;
        } else if ((put < 0 && errno != EAGAIN && errno != EINTR) || poll(&line, 1, LONGEST_MS) == 0) {
            return false;
        }
    }
    return size == 0;
}

size_t fg_stand_in_read(fg_stand_in *b, char *bytes, size_t size)
{
    const ssize_t got = b->handle < 0 ? -1 : read(b->handle, bytes, size);
    return got > 0 ? (size_t)got : 0;
}

void fg_stand_in_pull(fg_stand_in *b)
{
    if (b->handle >= 0) (void)close(b->handle);
    b->handle = -1;
    if (b->linked) (void)unlink(b->link);
    b->linked = false;
}

void fg_stand_in_end(fg_stand_in *b)
{
    if (!b) return;
    fg_stand_in_pull(b);
    free(b->link);
    free(b);
}
