/* SPDX-License-Identifier: MIT */
/* A gate and its recordings into the page: names and bytes as JSON, gzipped, in base64, in their place in the HTML. */
#include "workshop/base/buffer.h"

#include <ficklegate/page.h>
#include <ficklegate/scenes.h>

#include <jansson.h>
#include <stdlib.h>
#include <string.h>
#define ZLIB_CONST
#include <zlib.h>

#ifdef FG_PAGE_FILE

/* The page as it was built, taken in by the assembler. */
__asm__(".section .rodata\n"
        "fg_page_begin:\n"
        ".incbin \"" FG_PAGE_FILE "\"\n"
        "fg_page_end_of:\n"
        ".byte 0\n"
        ".previous\n");
extern const char fg_page_begin[] __attribute__((visibility("hidden")));
extern const char fg_page_end_of[] __attribute__((visibility("hidden")));

static fg_text built_page(void) { return (fg_text){fg_page_begin, (size_t)(fg_page_end_of - fg_page_begin)}; }

#else

static fg_text built_page(void) { return (fg_text){0}; }

#endif

static const char place_begin[] = "<script type=\"text/plain\" id=\"files\">", place_end[] = "</script>";

/* Where the files stand in the page; false: it is none. */
static bool find_place(fg_text page, size_t *from, size_t *to)
{
    const char *begin = page.size ? memmem(page.at, page.size, place_begin, strlen(place_begin)) : NULL;
    if (!begin) return false;
    *from = (size_t)(begin - page.at) + strlen(place_begin);
    const char *end = memmem(page.at + *from, page.size - *from, place_end, strlen(place_end));
    *to = end ? (size_t)(end - page.at) : *from;
    return end != NULL;
}

bool fg_page_is_there(void)
{
    size_t from, to;
    return find_place(built_page(), &from, &to);
}

/* ---- base64 (RFC 4648) and gzip ---- */

static void add_base64(fg_buffer *out, const unsigned char *at, size_t size)
{
    static const char digits[] = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/=";
    enum { FILL = 64 };
    fg_buffer_room(out, out->size + (size + 2) / 3 * 4 + 1);
    for (size_t i = 0; i < size && !out->full; i += 3) {
        const size_t left = size - i;
        const uint32_t bits =
            (uint32_t)at[i] << 16 | (left > 1 ? (uint32_t)at[i + 1] << 8 : 0) | (left > 2 ? (uint32_t)at[i + 2] : 0);
        char *to = out->text + out->size;
        to[0] = digits[bits >> 18];
        to[1] = digits[bits >> 12 & 63];
        to[2] = digits[left > 1 ? bits >> 6 & 63 : FILL];
        to[3] = digits[left > 2 ? bits & 63 : FILL];
        out->size += 4;
    }
}

/* False: no memory. The head of the packed bytes names no time, so they are always the same. */
static bool add_packed(fg_buffer *out, fg_text text)
{
    enum { GZIP = 16, BITS = 15, MEMORY = 9 };
    z_stream z = {.next_in = (const Bytef *)text.at, .avail_in = (uInt)text.size};
    if (deflateInit2(&z, Z_BEST_COMPRESSION, Z_DEFLATED, BITS + GZIP, MEMORY, Z_DEFAULT_STRATEGY) != Z_OK) return false;
    const uLong room = deflateBound(&z, (uLong)text.size);
    unsigned char *packed = malloc(room);
    z.next_out = packed;
    z.avail_out = (uInt)room;
    const bool good = packed && deflate(&z, Z_FINISH) == Z_STREAM_END;
    if (good) add_base64(out, packed, z.total_out);
    (void)deflateEnd(&z);
    free(packed);
    return good && !out->full;
}

/* ---- the files ---- */

typedef struct pack {
    json_t *files, *recordings;
    fg_text folder; /* of the gate, with its slash; names in the page count from there */
    fg_status status;
    fg_mistake *mistake;
} pack;

static void no_memory(pack *p)
{
    p->status = fg_mistake_set(p->mistake, FG_ERROR_MEMORY, "fickle", 0, "there is not enough memory");
}

/* "/harbour.gate": beside the gate its place there, else the last part of its name. NULL: no memory. */
static char *name_in_page(const pack *p, const char *path)
{
    char *name = NULL;
    if (!strcmp(path, "-")) path = "standard-input.gate";
    const char *slash = strrchr(path, '/');
    const bool beside = p->folder.size && !strncmp(path, p->folder.at, p->folder.size);
    const char *own = beside || (!p->folder.size && *path != '/') ? path + p->folder.size : slash ? slash + 1 : path;
    return asprintf(&name, "/%s", own) < 0 ? NULL : name;
}

static void add_file(pack *p, const char *name, fg_text text)
{
    fg_buffer base64 = {0};
    add_base64(&base64, (const unsigned char *)text.at, text.size);
    if (base64.full || json_object_set_new(p->files, name, json_stringn(base64.size ? base64.text : "", base64.size)))
        no_memory(p);
    fg_buffer_free(&base64);
}

static bool is_listed(const json_t *list, const char *name)
{
    size_t i;
    const json_t *one;
    json_array_foreach(list, i, one) if (!strcmp(json_string_value(one), name)) return true;
    return false;
}

/* A recording; `asked`: it has to be there. */
static void add_recording(pack *p, const char *path, bool asked)
{
    enum { MOST = 200 << 20 };
    fg_text text;
    fg_mistake unheard = {0};
    char *name = name_in_page(p, path);
    if (!name) {
        no_memory(p);
        return;
    }
    if (!is_listed(p->recordings, name)) {
        const fg_status status = fg_file_read(path, MOST, &text, asked ? p->mistake : &unheard);
        if (status == FG_OK) {
            add_file(p, name, text);
            if (json_array_append_new(p->recordings, json_string(name))) no_memory(p);
            fg_text_free(text);
        } else if (asked || status == FG_ERROR_MEMORY) {
            p->status = status;
        }
    }
    free(name);
}

static void add_recordings_of_trials(pack *p, const fg_gate_file *file)
{
    const fg_program *program = &file->program;
    for (uint32_t i = 0; i < program->trial_count && p->status == FG_OK; i++) {
        const fg_trial *trial = &program->trials[i];
        if (fg_scene_find(program, trial->readings)) continue;
        char *gate = fg_c_string_of(program->sources[trial->span.source].name);
        char *path = gate ? fg_file_beside(gate, trial->readings) : NULL;
        if (path)
            add_recording(p, path, false);
        else
            no_memory(p);
        free(path);
        free(gate);
    }
}

static void add_gate(pack *p, const fg_gate_file *file)
{
    const fg_program *program = &file->program;
    for (uint32_t i = 0; i < program->source_count && p->status == FG_OK; i++) {
        char *path = fg_c_string_of(program->sources[i].name);
        char *name = path ? name_in_page(p, path) : NULL;
        if (name)
            add_file(p, name, program->sources[i].text);
        else
            no_memory(p);
        free(name);
        free(path);
    }
}

/* {"gate", "files": {name: base64}, "recordings": [name]} */
static char *packed_json(pack *p, const fg_gate_file *file)
{
    char *gate = name_in_page(p, file->path);
    json_t *all = json_pack("{s:s?, s:O, s:O}", "gate", gate, "files", p->files, "recordings", p->recordings);
    char *text = all ? json_dumps(all, JSON_COMPACT | JSON_SORT_KEYS) : NULL;
    json_decref(all);
    free(gate);
    return text;
}

static fg_status pack_files(const fg_gate_file *file, const char *const *recordings, size_t count, fg_buffer *out,
                            fg_mistake *mistake)
{
    const char *slash = strrchr(file->path, '/');
    pack p = {.files = json_object(),
              .recordings = json_array(),
              .folder = {file->path, slash ? (size_t)(slash - file->path) + 1 : 0},
              .status = FG_OK,
              .mistake = mistake};
    if (!p.files || !p.recordings) no_memory(&p);
    if (p.status == FG_OK) add_gate(&p, file);
    for (size_t i = 0; i < count && p.status == FG_OK; i++) add_recording(&p, recordings[i], true);
    if (p.status == FG_OK) add_recordings_of_trials(&p, file);
    char *text = p.status == FG_OK ? packed_json(&p, file) : NULL;
    if (p.status == FG_OK && (!text || !add_packed(out, fg_text_of(text)))) no_memory(&p);
    free(text);
    json_decref(p.files);
    json_decref(p.recordings);
    return p.status;
}

fg_status fg_page_of(const fg_gate_file *file, const char *const *recordings, size_t count, fg_text *page,
                     fg_mistake *mistake)
{
    const fg_text built = built_page();
    fg_buffer out = {0};
    size_t from, to;
    fg_status status = FG_OK;
    *page = (fg_text){0};
    if (!find_place(built, &from, &to))
        return fg_mistake_set(mistake, FG_ERROR_ARGUMENT, "fickle", 0, "was built without the page");
    fg_buffer_add(&out, (fg_text){built.at, file ? from : to});
    if (file) status = pack_files(file, recordings, count, &out, mistake);
    fg_buffer_add(&out, (fg_text){built.at + to, built.size - to});
    if (status == FG_OK && out.full)
        status = fg_mistake_set(mistake, FG_ERROR_MEMORY, "fickle", 0, "there is not enough memory");
    if (status == FG_OK)
        *page = fg_buffer_text(&out);
    else
        fg_buffer_free(&out);
    return status;
}
