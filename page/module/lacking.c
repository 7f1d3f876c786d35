/* SPDX-License-Identifier: MIT */
/* What WASI lacks. */
#include "lacking.h"

#include <errno.h>
#include <string.h>

int dup(int handle)
{
    (void)handle;
    errno = ENOTSUP;
    return -1;
}

char *realpath(const char *path, char *resolved)
{
    (void)resolved;
    return strdup(path);
}
