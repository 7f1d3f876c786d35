/* SPDX-License-Identifier: MIT */
/* What many devices say in turn, each put together again: blocks in one temporary file, and for each device a list of
 * them. Memory grows with the devices, hardly with what they say. */
#include "tool.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

enum { BLOCK = 4096 };

typedef struct stretch {
    off_t at;
    size_t size;
} stretch;

typedef struct said {
    tool_gather *gather;
    FILE *stream;
    stretch *stretches;
    size_t count, room;
    char block[BLOCK];
} said;

struct tool_gather {
    FILE *file;
    off_t end;
    said **all;
    size_t count, room;
};

tool_gather *tool_gather_open(void)
{
    tool_gather *g = calloc(1, sizeof *g);
    if (!g) return NULL;
    g->file = tool_output_open();
    if (g->file) return g;
    free(g);
    return NULL;
}

static ssize_t on_write(void *cookie, const char *text, size_t size)
{
    said *s = cookie;
    tool_gather *g = s->gather;
    stretch *last = s->count ? &s->stretches[s->count - 1] : NULL;
    if (pwrite(fileno(g->file), text, size, g->end) != (ssize_t)size) return 0;
    if (last && last->at + (off_t)last->size == g->end) {
        last->size += size;
    } else {
        if (!s->stretches || s->count == s->room) {
            const size_t room = s->room ? 2 * s->room : 4;
            stretch *stretches = realloc(s->stretches, room * sizeof *stretches);
            if (!stretches) return 0;
            s->stretches = stretches;
            s->room = room;
        }
        s->stretches[s->count++] = (stretch){g->end, size};
    }
    g->end += (off_t)size;
    return (ssize_t)size;
}

FILE *tool_gather_next(tool_gather *g)
{
    if (g->count == g->room) {
        const size_t room = g->room ? 2 * g->room : 16;
        said **all = realloc(g->all, room * sizeof(said *));
        if (!all) return NULL;
        g->all = all;
        g->room = room;
    }
    said *s = calloc(1, sizeof *s);
    if (!s) return NULL;
    s->gather = g;
    s->stream = fopencookie(s, "w", (cookie_io_functions_t){.write = on_write});
    if (!s->stream) {
        free(s);
        return NULL;
    }
    (void)setvbuf(s->stream, s->block, _IOFBF, sizeof s->block);
    g->all[g->count++] = s;
    return s->stream;
}

static bool copy(const tool_gather *g, const stretch *from, FILE *to)
{
    char block[BLOCK];
    for (size_t done = 0; done < from->size;) {
        const size_t wanted = from->size - done < sizeof block ? from->size - done : sizeof block;
        const ssize_t got = pread(fileno(g->file), block, wanted, from->at + (off_t)done);
        if (got <= 0 || fwrite(block, 1, (size_t)got, to) != (size_t)got) return false;
        done += (size_t)got;
    }
    return true;
}

bool tool_gather_copy(tool_gather *g, FILE *to)
{
    bool good = true;
    for (size_t i = 0; i < g->count; i++) {
        said *s = g->all[i];
        good = fclose(s->stream) == 0 && good;
        s->stream = NULL;
        for (size_t k = 0; good && k < s->count; k++) good = copy(g, &s->stretches[k], to);
    }
    return good;
}

void tool_gather_close(tool_gather *g)
{
    if (!g) return;
    for (size_t i = 0; i < g->count; i++) {
        if (g->all[i]->stream) fclose(g->all[i]->stream);
        free(g->all[i]->stretches);
        free(g->all[i]);
    }
    free(g->all);
    fclose(g->file);
    free(g);
}
