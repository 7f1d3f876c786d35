/* SPDX-License-Identifier: MIT */
/* What WASI lacks of what the workshop asks for. */
#ifndef FICKLEGATE_PAGE_LACKING_H
#define FICKLEGATE_PAGE_LACKING_H

/* Standard input cannot be read twice here: -1. */
int dup(int handle);
/* The folder in memory has no links, so every path is the real one. The caller's, for free(). */
char *realpath(const char *path, char *resolved);

#endif
