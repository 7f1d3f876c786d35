/* Whole files, and gate files. */
#include "buffer.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>

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

static fg_status compile(fg_gate_file *file, const fg_setting *settings, size_t setting_count, int32_t trial,
                         fg_mistake *mistake)
{
    fg_language_input input = {file->text, settings, setting_count, trial};
    for (size_t size = 64 * file->text.size + (1 << 16);; size *= 2) {
        free(file->memory);
        file->memory = malloc(size);
        if (!file->memory)
            return fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory to read it");
        fg_status status = fg_language_compile(&input, file->memory, size, &file->program);
        if (status != FG_ERROR_MEMORY) return status;
    }
}

static char *copy_of(const char *text)
{
    size_t size = strlen(text) + 1;
    char *copy = malloc(size);
    if (copy) memcpy(copy, text, size);
    return copy;
}

fg_status fg_gate_file_open(fg_gate_file *file, const char *path, const fg_setting *settings, size_t setting_count,
                            fg_mistake *mistake)
{
    enum { MOST = 16 << 20 };
    *file = (fg_gate_file){.path = copy_of(path)};
    if (!file->path) return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory");
    fg_status status = fg_file_read(path, MOST, &file->text, mistake);
    if (status != FG_OK) return status;
    file->owned = (char *)file->text.at;
    return compile(file, settings, setting_count, FG_NO_TRIAL, mistake);
}

fg_status fg_gate_file_for_trial(const fg_gate_file *file, const fg_setting *settings, size_t setting_count,
                                 int32_t trial, fg_gate_file *out, fg_mistake *mistake)
{
    *out = (fg_gate_file){.path = copy_of(file->path)};
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
    free(file->owned);
    free(file->memory);
    *file = (fg_gate_file){0};
}
