/* SPDX-License-Identifier: MIT */
/* The comment on top of baked files and the numbers of a header: what they were made from. */
#include "workshop/bake/names.h"

#include <ficklegate/version.h>

#include <inttypes.h>
#include <string.h>

/* How many characters stand before a star. */
static size_t before_star(const char *text, size_t size)
{
    const char *star = memchr(text, '*', size);
    return star ? (size_t)(star - text) : size;
}

void fg_bake_put_safe(FILE *out, const char *text, size_t size)
{
    for (size_t i = 0; i < size;) {
        const size_t length = text[i] == '*' ? 1 : before_star(text + i, size - i);
        if (text[i] == '*')
            fputc(' ', out);
        else
            fg_text_show(out, (fg_text){text + i, length});
        i += length;
    }
}

void fg_bake_terms(const baker *b, bool copies_parts)
{
    fputs("/* This code is yours, to use under any terms you like. ", b->out);
    fputs(copies_parts
              ? "The functions that are copied in come from Fickle Gate and are\n * under MIT No Attribution (SPDX "
                "MIT-0): "
                "no notice is needed. There is no warranty of any kind. */\n"
              : "The library that runs it is under the MIT licence.\n * There is no warranty of any kind. */\n",
          b->out);
}

void fg_bake_heading(const baker *b)
{
    const char *slash = strrchr(b->file->path, '/'), *file = slash ? slash + 1 : b->file->path;
    fputs(FG_BAKED, b->out);
    fg_bake_put_safe(b->out, file, strlen(file));
    fprintf(b->out, " by version %s, hash %016" PRIx64 ". Change that file, not this one.", FG_VERSION, b->gate->hash);
    for (size_t i = 0; i < b->options->settings.count; i++) {
        const fg_setting *s = &b->options->settings.at[i];
        fputs(i ? ", " : "\n * With ", b->out);
        fg_bake_put_safe(b->out, s->name.at, s->name.size);
        fputs(" = ", b->out);
        fg_bake_put_safe(b->out, s->value.at, s->value.size);
    }
    fputs(" */\n", b->out);
}

/* ---- numbers of a header ---- */

/* A label has at least two words behind the name of the gate, so only numbers of two words could be one as well. */
void fg_bake_reserve_numbers(namer *n)
{
    fg_bake_reserve(n, "_EVERY_MS");
    fg_bake_reserve(n, "_STACK");
    fg_bake_reserve(n, "_TEXT_SIZE");
}

bool fg_bake_keeps(const baker *b) { return fg_run_saved_size(b->gate) > FG_SAVED_HEAD + FG_SAVED_CHECK; }

static void add_number(const namer *n, fg_buffer *out, const char *word, uint32_t number)
{
    char line[200];
    snprintf(line, sizeof line, "#define %s%s %" PRIu32 "\n", n->capitals, word, number);
    fg_buffer_add_c(out, line);
}

void fg_bake_numbers(const namer *n, fg_buffer *out)
{
    const baker *b = n->baker;
    char line[200];
    fg_buffer_add_c(out, "\n/* What it was baked from, and by which version. */\n");
    snprintf(line, sizeof line, "#define %s_HASH UINT64_C(0x%016" PRIx64 ")\n", n->capitals, b->gate->hash);
    fg_buffer_add_c(out, line);
    snprintf(line, sizeof line, "#define %s_VERSION \"%s\"\n", n->capitals, FG_VERSION);
    fg_buffer_add_c(out, line);
    fg_buffer_add_c(
        out, "\n/* How many there are, and how many ms from step to step (0: it steps when readings came). */\n");
    add_number(n, out, "_SENSORS", b->gate->size.sensors);
    add_number(n, out, "_FLAGS", b->gate->size.flags);
    add_number(n, out, "_OUTPUTS", b->gate->size.outputs);
    add_number(n, out, "_COUNTS", b->gate->size.counters);
    add_number(n, out, "_EVERY_MS", b->gate->every);
    if (!fg_bake_keeps(b)) return;
    fg_buffer_add_c(out, "\n/* How many bytes outlive a loss of power: latches, counts and zeros. */\n");
    add_number(n, out, "_SAVED", (uint32_t)fg_run_saved_size(b->gate));
}
