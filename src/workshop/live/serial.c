/* SPDX-License-Identifier: MIT */
/* Serial lines by termios (POSIX.1-2017, chapter 11). */
#include "workshop/base/buffer.h"

#include <ficklegate/serial.h>

#include <errno.h>
#include <fcntl.h>
#include <grp.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <sys/file.h>
#include <sys/ioctl.h>
#include <sys/stat.h>
#include <termios.h>
#include <unistd.h>

struct fg_serial {
    char *path;
    uint32_t baud;
    speed_t speed;
    int handle; /* -1: the board is gone */
};

static const struct {
    uint32_t baud;
    speed_t speed;
} speeds[] = {{300, B300},         {600, B600},        {1200, B1200},     {2400, B2400},     {4800, B4800},
              {9600, B9600},       {19200, B19200},    {38400, B38400},   {57600, B57600},   {115200, B115200},
              {230400, B230400},   {460800, B460800},  {500000, B500000}, {921600, B921600}, {1000000, B1000000},
              {1500000, B1500000}, {2000000, B2000000}};

enum { SPEEDS = sizeof speeds / sizeof *speeds };

static bool speed_of(uint32_t baud, speed_t *speed)
{
    size_t i = 0;
    while (i < SPEEDS && speeds[i].baud != baud) i++;
    if (i < SPEEDS) *speed = speeds[i].speed;
    return i < SPEEDS;
}

/* As a board sends: bytes, without anything added, echoed or taken for an order. */
static bool make_raw(int handle, speed_t speed)
{
    struct termios about;
    if (tcgetattr(handle, &about) != 0) return false;
    cfmakeraw(&about);
    about.c_cflag |= CLOCAL | CREAD;
    about.c_cflag &= ~(tcflag_t)(CSTOPB | CRTSCTS);
    about.c_cc[VMIN] = 0;
    about.c_cc[VTIME] = 0;
    return cfsetispeed(&about, speed) == 0 && cfsetospeed(&about, speed) == 0 &&
           tcsetattr(handle, TCSANOW, &about) == 0;
}

/* -1 with errno. EBUSY: somebody else has it. */
static int open_line(const char *path, speed_t speed)
{
    const int handle = open(path, O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (handle < 0) return -1;
    int error = 0;
    if (!isatty(handle))
        error = ENOTTY;
    else if (flock(handle, LOCK_EX | LOCK_NB) != 0)
        error = errno == EWOULDBLOCK ? EBUSY : errno;
    else if (!make_raw(handle, speed))
        error = errno;
    if (!error) {
        (void)ioctl(handle, TIOCEXCL);
        return handle;
    }
    (void)close(handle);
    errno = error;
    return -1;
}

static void tell_denied(const char *path, fg_mistake *mistake)
{
    struct stat about;
    const struct group *group = stat(path, &about) == 0 ? getgrgid(about.st_gid) : NULL;
    if (group && about.st_gid != 0)
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                             "you may not use it; it belongs to the group %s: sudo usermod -a -G %s $USER, then log in "
                             "again",
                             group->gr_name, group->gr_name);
    else
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "you may not use it; it belongs to another user");
}

static void tell(const char *path, uint32_t baud, int error, fg_mistake *mistake)
{
    switch (error) {
    case ENOENT:
    case ENXIO:
    case ENODEV:
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                             "is not there; plug the board in and look for its name: ls /dev/ttyACM* /dev/ttyUSB*");
        break;
    case EACCES:
    case EPERM: tell_denied(path, mistake); break;
    case EBUSY:
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                             "is used by another program; close that one first (a serial monitor, a second fickle)");
        break;
    case ENOTTY: (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "is no serial device"); break;
    case EINVAL:
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot have %u baud; try 9600 or 115200",
                             (unsigned)baud);
        break;
    default: (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be opened: %s", strerror(error)); break;
    }
}

fg_serial *fg_serial_open(const char *path, uint32_t baud, fg_mistake *mistake)
{
    speed_t speed;
    *mistake = (fg_mistake){0};
    if (!speed_of(baud, &speed)) {
        char list[200];
        size_t size = 0;
        for (size_t i = 0; i < SPEEDS; i++)
            size += (size_t)snprintf(list + size, sizeof list - size, "%s%u", i ? ", " : "", (unsigned)speeds[i].baud);
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "there is no speed of %u baud; the speeds are %s",
                             (unsigned)baud, list);
        return NULL;
    }
    const int handle = open_line(path, speed);
    const int error = errno;
    fg_serial *s = handle < 0 ? NULL : calloc(1, sizeof *s);
    char *copy = s ? fg_c_string_of(fg_text_of(path)) : NULL;
    if (copy) {
        *s = (fg_serial){copy, baud, speed, handle};
        return s;
    }
    if (handle < 0)
        tell(path, baud, error, mistake);
    else
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory");
    if (handle >= 0) (void)close(handle);
    free(s);
    return NULL;
}

int fg_serial_handle(const fg_serial *s) { return s->handle; }

static void is_gone(fg_serial *s)
{
    if (s->handle >= 0) (void)close(s->handle);
    s->handle = -1;
}

/* A raw line that has nothing to read gives 0 bytes as long as the board is there, and so does one that was hung up:
 * poll tells them apart. */
long fg_serial_read(fg_serial *s, char *bytes, size_t size)
{
    if (s->handle < 0) return -1;
    struct pollfd line = {s->handle, POLLIN, 0};
    const ssize_t got = read(s->handle, bytes, size);
    if (got > 0) return got;
    const bool nothing = got == 0 || errno == EAGAIN || errno == EINTR;
    if (nothing && poll(&line, 1, 0) >= 0 && !(line.revents & (POLLHUP | POLLERR | POLLNVAL))) return 0;
    is_gone(s);
    return -1;
}

bool fg_serial_write(fg_serial *s, const char *bytes, size_t size)
{
    enum { LONGEST_MS = 1000 };
    while (size && s->handle >= 0) {
        struct pollfd line = {s->handle, POLLOUT, 0};
        const ssize_t put = write(s->handle, bytes, size);
        if (put > 0) {
            bytes += put;
            size -= (size_t)put;
        } else if (put < 0 && errno != EAGAIN && errno != EINTR) {
            is_gone(s);
        } else if (poll(&line, 1, LONGEST_MS) == 0) {
            return false;
        }
    }
    return size == 0;
}

bool fg_serial_look(fg_serial *s)
{
    if (s->handle < 0) s->handle = open_line(s->path, s->speed);
    return s->handle >= 0;
}

void fg_serial_close(fg_serial *s)
{
    if (!s) return;
    is_gone(s);
    free(s->path);
    free(s);
}
