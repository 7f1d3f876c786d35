/* SPDX-License-Identifier: MIT */
/* Preloaded before a program: allocation number FAIL_AT fails, or with FAIL_FROM=1 that one and all after it. Without
 * FAIL_AT nothing fails, and the number of allocations goes to the file COUNT_TO. Those of
 * libjansson always succeed: its 2.14 crashes at one that fails. */
#define _GNU_SOURCE
#include <dlfcn.h>
#include <errno.h>
#include <stdatomic.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

static atomic_ulong count;
static unsigned long fail_at;
static bool fail_from, ready;
static const char *count_to;

void *__libc_malloc(size_t size);
void *__libc_calloc(size_t number, size_t size);
void *__libc_realloc(void *old, size_t size);
void *malloc(size_t size);
void *calloc(size_t number, size_t size);
void *realloc(void *old, size_t size);

static bool is_jansson(const void *caller)
{
    Dl_info info;
    return dladdr(caller, &info) && info.dli_fname && strstr(info.dli_fname, "jansson");
}

static bool fails(const void *caller)
{
    if (!ready || is_jansson(caller)) return false;
    const unsigned long number = atomic_fetch_add(&count, 1) + 1;
    return fail_at && (number == fail_at || (fail_from && number > fail_at));
}

static void *none(void)
{
    errno = ENOMEM;
    return NULL;
}

void *malloc(size_t size) { return fails(__builtin_return_address(0)) ? none() : __libc_malloc(size); }
void *calloc(size_t number, size_t size)
{
    return fails(__builtin_return_address(0)) ? none() : __libc_calloc(number, size);
}
void *realloc(void *old, size_t size)
{
    return fails(__builtin_return_address(0)) ? none() : __libc_realloc(old, size);
}

__attribute__((constructor)) static void begin(void)
{
    const char *at = getenv("FAIL_AT"), *from = getenv("FAIL_FROM");
    fail_at = at ? strtoul(at, NULL, 10) : 0;
    fail_from = from && *from == '1';
    count_to = getenv("COUNT_TO");
    unsetenv("LD_PRELOAD"); /* programs that it starts have memory */
    ready = true;
}

__attribute__((destructor)) static void end(void)
{
    ready = false;
    if (!count_to) return;
    FILE *out = fopen(count_to, "w");
    if (!out) return;
    fprintf(out, "%lu\n", atomic_load(&count));
    fclose(out);
}
