/* SPDX-License-Identifier: MIT */
/* Memory: handed out from the lent block in one direction, never taken back. */
#include "language/text/arena.h"

#include "core/mem.h"

/* Zeroed, and aligned for anything. Once it is full it stays full: a later request that would fit is refused as well,
 * so that one missing piece is enough to know that the whole is worth nothing. */
void *fg_arena_take(fg_arena *arena, size_t count, size_t size)
{
    const size_t unit = FG_ALIGNOF(max_align_t);
    if (size && count > (SIZE_MAX - unit) / size) {
        arena->full = true;
        return NULL;
    }
    size_t needed = (count * size + unit - 1) / unit * unit;
    if (arena->full || needed > arena->size - arena->used) {
        arena->full = true;
        return NULL;
    }
    void *taken = arena->memory + arena->used;
    arena->used += needed;
    memset(taken, 0, needed);
    return taken;
}
