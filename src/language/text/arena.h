/* SPDX-License-Identifier: MIT */
/* Memory for one compilation: handed out of the block that the caller lent, never taken back. */
#ifndef FICKLEGATE_LANGUAGE_TEXT_ARENA_H
#define FICKLEGATE_LANGUAGE_TEXT_ARENA_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

typedef struct fg_arena {
    unsigned char *memory;
    size_t size, used;
    bool full; /* something did not fit: everything after it is void */
} fg_arena;

/* Zeroed memory, aligned for anything; NULL (and `full`) if it does not fit. */
void *fg_arena_take(fg_arena *arena, size_t count, size_t size);

/* The same for values of a type; the cast is for C++. */
#define FG_TAKE(type, arena, count) ((type *)fg_arena_take(arena, count, sizeof(type)))

#endif
