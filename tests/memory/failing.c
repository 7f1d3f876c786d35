/* Preloaded before a program: allocation number FAIL_AT fails, or with FAIL_FROM=1 that one and all after it. Without
 * FAIL_AT nothing fails, and the number of allocations goes to the file COUNT_TO. Only calls from the program's own
 * code are counted where OWN_ONLY is set: the C library's own (of stdio, locales, the loader) end a program by
 * themselves. */
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

static bool fails(void)
{
    if (!ready) return false;
    const unsigned long number = atomic_fetch_add(&count, 1) + 1;
    return fail_at && (number == fail_at || (fail_from && number > fail_at));
}

static void *none(void)
{
    errno = ENOMEM;
    return NULL;
}

void *malloc(size_t size) { return fails() ? none() : __libc_malloc(size); }
void *calloc(size_t number, size_t size) { return fails() ? none() : __libc_calloc(number, size); }
void *realloc(void *old, size_t size) { return fails() ? none() : __libc_realloc(old, size); }

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
