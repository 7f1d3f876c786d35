/* The comment on top of baked files: what they were made from. */
#include "workshop/bake/names.h"

#include <ficklegate/version.h>

#include <inttypes.h>
#include <string.h>

/* FNV-1a (Fowler, Noll, Vo) of all texts the gate was made of and the numbers set for it. */
static uint64_t hash_of(const baker *b)
{
    uint64_t hash = UINT64_C(0xcbf29ce484222325);
    for (uint32_t k = 0; k < b->program->source_count; k++)
        for (size_t i = 0; i < b->program->sources[k].text.size; i++)
            hash = (hash ^ (unsigned char)b->program->sources[k].text.at[i]) * UINT64_C(0x100000001b3);
    for (size_t k = 0; k < b->options->settings.count; k++) {
        const fg_text parts[2] = {b->options->settings.at[k].name, b->options->settings.at[k].value};
        for (int p = 0; p < 2; p++)
            for (size_t i = 0; i < parts[p].size; i++)
                hash = (hash ^ (unsigned char)parts[p].at[i]) * UINT64_C(0x100000001b3);
    }
    return hash;
}

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

void fg_bake_heading(const baker *b)
{
    const char *slash = strrchr(b->file->path, '/'), *file = slash ? slash + 1 : b->file->path;
    fputs(FG_BAKED, b->out);
    fg_bake_put_safe(b->out, file, strlen(file));
    fprintf(b->out, " by version %s, hash %016" PRIx64 ". Change that file, not this one.", FG_VERSION, hash_of(b));
    for (size_t i = 0; i < b->options->settings.count; i++) {
        const fg_setting *s = &b->options->settings.at[i];
        fputs(i ? ", " : "\n * With ", b->out);
        fg_bake_put_safe(b->out, s->name.at, s->name.size);
        fputs(" = ", b->out);
        fg_bake_put_safe(b->out, s->value.at, s->value.size);
    }
    fputs(" */\n", b->out);
}
