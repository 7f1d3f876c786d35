/* Whole files, and gate files. */
#include "buffer.h"

#include <errno.h>
#include <fcntl.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

fg_status fg_file_read(const char *path, size_t most, fg_text *text, fg_mistake *mistake)
{
    const bool standard = strcmp(path, "-") == 0;
    FILE *file = standard ? stdin : fopen(path, "rb");
    fg_buffer all = {0};
    char block[1 << 16];
    size_t size;
    if (!file) return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be opened: %s", strerror(errno));
    errno = 0;
    while ((size = fread(block, 1, sizeof block, file)) > 0 && all.size <= most)
        fg_buffer_add(&all, (fg_text){block, size});
    int error = ferror(file) ? (errno ? errno : EIO) : 0;
    if (!standard) fclose(file);
    if (!error && !all.full && all.size <= most) {
        *text = fg_buffer_text(&all);
        return FG_OK;
    }
    fg_buffer_free(&all);
    if (error) return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be read: %s", strerror(error));
    return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "is longer than %zu MB; is it the right file?", most >> 20);
}

static char *copy_of(const char *text)
{
    size_t size = strlen(text) + 1;
    char *copy = malloc(size);
    if (copy) memcpy(copy, text, size);
    return copy;
}

/* ---- includes ---- */

/* What a gate file reads besides itself: kept until it is closed. */
typedef struct fg_included {
    struct fg_included *next;
    char *name, *identity;
    fg_text text;
} fg_included;

char *fg_file_beside(const char *file, fg_text name)
{
    const char *slash = strrchr(file, '/');
    const bool rooted = name.size && name.at[0] == '/';
    const size_t folder = slash && !rooted ? (size_t)(slash - file) + 1 : 0;
    char *path = malloc(folder + name.size + 1);
    if (!path) return NULL;
    memcpy(path, file, folder);
    memcpy(path + folder, name.at, name.size);
    path[folder + name.size] = '\0';
    return path;
}

static bool read_include(void *context, fg_text path, fg_text from, fg_source *source)
{
    enum { MOST = 16 << 20 };
    fg_gate_file *file = context;
    fg_mistake unheard = {0};
    fg_included *included = calloc(1, sizeof *included);
    char *base = calloc(1, from.size + 1);
    if (base && from.size) memcpy(base, from.at, from.size);
    char *beside = base ? fg_file_beside(base, path) : NULL;
    char *real = beside ? realpath(beside, NULL) : NULL; /* two ways to one file are one file */
    bool good = included && real && fg_file_read(beside, MOST, &included->text, &unheard) == FG_OK;
    free(base);
    if (!good) {
        free(real);
        free(beside);
        free(included);
        return false;
    }
    included->name = beside;
    included->identity = real;
    included->next = file->included;
    file->included = included;
    *source = (fg_source){{beside, strlen(beside)}, included->text, {real, strlen(real)}};
    return true;
}

static void forget_includes(fg_gate_file *file)
{
    while (file->included) {
        fg_included *first = file->included;
        file->included = first->next;
        free(first->name);
        free(first->identity);
        free((char *)first->text.at);
        free(first);
    }
}

/* ---- gate files ---- */

static fg_status compile(fg_gate_file *file, const fg_setting *settings, size_t setting_count, int32_t trial,
                         fg_mistake *mistake)
{
    const fg_language_input input = {.text = file->text,
                                     .name = {file->path, strlen(file->path)},
                                     .identity = {file->identity, file->identity ? strlen(file->identity) : 0},
                                     .settings = settings,
                                     .setting_count = setting_count,
                                     .trial = trial,
                                     .read = read_include,
                                     .context = file};
    for (size_t size = 64 * file->text.size + (1 << 16);; size *= 2) {
        free(file->memory);
        forget_includes(file);
        file->memory = malloc(size);
        if (!file->memory)
            return fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory to read it");
        fg_status status = fg_language_compile(&input, file->memory, size, &file->program);
        if (status != FG_ERROR_MEMORY) return status;
    }
}

fg_status fg_gate_file_open(fg_gate_file *file, const char *path, const fg_setting *settings, size_t setting_count,
                            fg_mistake *mistake)
{
    enum { MOST = 16 << 20 };
    *file = (fg_gate_file){.path = copy_of(path), .identity = realpath(path, NULL)};
    if (!file->path) return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory");
    fg_status status = fg_file_read(path, MOST, &file->text, mistake);
    if (status != FG_OK) return status;
    file->owned = (char *)file->text.at;
    return compile(file, settings, setting_count, FG_NO_TRIAL, mistake);
}

fg_status fg_gate_file_for_trial(const fg_gate_file *file, const fg_setting *settings, size_t setting_count,
                                 int32_t trial, fg_gate_file *out, fg_mistake *mistake)
{
    *out = (fg_gate_file){.path = copy_of(file->path), .identity = realpath(file->path, NULL)};
    char *text = malloc(file->text.size + 1);
    if (text) memcpy(text, file->text.at, file->text.size);
    out->text = (fg_text){text, file->text.size};
    out->owned = text;
    if (!out->path || !text)
        return fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory");
    return compile(out, settings, setting_count, trial, mistake);
}

void fg_gate_file_close(fg_gate_file *file)
{
    free(file->path);
    free(file->identity);
    free(file->owned);
    free(file->memory);
    forget_includes(file);
    *file = (fg_gate_file){0};
}

char *fg_part_open(const char *path, int *handle)
{
    const size_t size = strlen(path) + 48;
    char *name = malloc(size);
    *handle = -1;
    if (!name) return NULL;
    for (int i = 0; i < 1000 && *handle < 0; i++) {
        snprintf(name, size, "%s.part-%ld-%d", path, (long)getpid(), i);
        *handle = open(name, O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
        if (*handle < 0 && errno != EEXIST) break;
    }
    return name;
}
