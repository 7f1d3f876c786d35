/* SPDX-License-Identifier: MIT */
/* Whole files, and gate files. */
#include "workshop/base/buffer.h"

#include <errno.h>
#include <fcntl.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

/* What something is that is no file. */
static const char *no_file(mode_t mode)
{
    if (S_ISDIR(mode)) return "is a folder; name a file in it";
    if (S_ISFIFO(mode)) return "is a pipe; write - instead and send it to standard input";
    if (S_ISSOCK(mode)) return "is a socket; name a file";
    return S_ISREG(mode) ? NULL : "is a device; name a file, or write - and send it to standard input";
}

int fg_input_open(const char *path, fg_mistake *mistake)
{
    struct stat about;
    if (strcmp(path, "-") == 0) return dup(STDIN_FILENO);
    /* looked at before it is opened: opening a pipe waits, opening a device may do something */
    const char *why = stat(path, &about) == 0 ? no_file(about.st_mode) : NULL;
    const int handle = why ? -1 : open(path, O_RDONLY | O_NONBLOCK | O_CLOEXEC);
    if (handle >= 0 && (fstat(handle, &about) != 0 || no_file(about.st_mode))) why = "has become something else";
    if (handle >= 0 && !why) return handle;
    if (handle >= 0) (void)close(handle);
    (void)(why ? fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "%s", why)
               : fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be opened: %s", strerror(errno)));
    return -1;
}

fg_status fg_file_read(const char *path, size_t most, fg_text *text, fg_mistake *mistake)
{
    fg_buffer all = {0};
    char block[1 << 16];
    ssize_t size;
    const int handle = fg_input_open(path, mistake);
    if (handle < 0) return FG_ERROR_FILE;
    while (((size = read(handle, block, sizeof block)) > 0 || (size < 0 && errno == EINTR)) && all.size <= most &&
           !all.full)
        if (size > 0) fg_buffer_add(&all, (fg_text){block, (size_t)size});
    const int error = size < 0 ? errno : 0;
    (void)close(handle);
    if (!error && !all.full && all.size <= most) {
        *text = fg_buffer_text(&all);
        return FG_OK;
    }
    const bool full = all.full;
    fg_buffer_free(&all);
    if (error) return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be read: %s", strerror(error));
    if (full) return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to read it");
    return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "is longer than %zu MB; is it the right file?", most >> 20);
}

char *fg_c_string_of(fg_text text)
{
    char *copy = malloc(text.size + 1);
    if (!copy) return NULL;
    if (text.size) memcpy(copy, text.at, text.size);
    copy[text.size] = '\0';
    return copy;
}

void fg_text_free(fg_text text) { free((char *)text.at); }

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

/* Why an include cannot be read, for the message about it; kept as long as the file. */
static fg_text keep_reason(fg_gate_file *file, const char *reason)
{
    fg_included *kept = calloc(1, sizeof *kept);
    if (!kept) return (fg_text){0};
    kept->next = file->included;
    kept->text.at = fg_c_string_of(fg_text_of(reason));
    kept->text.size = kept->text.at ? strlen(reason) : 0;
    file->included = kept;
    return kept->text;
}

/* A copy of what an editor has of it. False: it has nothing, or, with `status`, there is no memory. */
static bool read_open(const fg_gate_file *file, const char *real, fg_text *text, fg_status *status)
{
    for (size_t i = 0; i < file->settings.open_count; i++) {
        const fg_open_text *open = &file->settings.open[i];
        if (strcmp(open->path, real) != 0) continue;
        text->at = fg_c_string_of(open->text);
        text->size = open->text.size;
        *status = text->at ? FG_OK : FG_ERROR_MEMORY;
        return true;
    }
    return false;
}

static bool read_include(void *context, fg_text path, fg_text from, fg_source *source)
{
    enum { MOST = 16 << 20 };
    fg_gate_file *file = context;
    fg_mistake unheard = {0};
    fg_included *included = calloc(1, sizeof *included);
    char *base = fg_c_string_of(from);
    char *beside = base ? fg_file_beside(base, path) : NULL;
    errno = 0;
    char *real = beside ? realpath(beside, NULL) : NULL; /* two ways to one file are one file */
    fg_status status = !included || !beside || errno == ENOMEM ? FG_ERROR_MEMORY : FG_ERROR_FILE;
    if (included && real && !read_open(file, real, &included->text, &status))
        status = fg_file_read(beside, MOST, &included->text, &unheard);
    free(base);
    if (status != FG_OK) {
        file->no_memory = file->no_memory || status == FG_ERROR_MEMORY;
        if (*unheard.text) *source = (fg_source){.text = keep_reason(file, unheard.text)};
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
        fg_text_free(first->text);
        free(first);
    }
}

/* ---- gate files ---- */

static fg_status compile(fg_gate_file *file, fg_settings settings, uint32_t trial, fg_mistake *mistake)
{
    const fg_language_input input = {.text = file->text,
                                     .name = {file->path, strlen(file->path)},
                                     .identity = {file->identity, file->identity ? strlen(file->identity) : 0},
                                     .settings = settings.at,
                                     .setting_count = settings.count,
                                     .trial = trial,
                                     .promises = settings.promises,
                                     .asked = settings.asked,
                                     .asked_count = settings.asked_count,
                                     .read_file = read_include,
                                     .context = file};
    file->settings = settings;
    for (size_t size = 64 * file->text.size + (1 << 16);; size *= 2) {
        free(file->memory);
        forget_includes(file);
        file->memory = malloc(size);
        if (!file->memory)
            return fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory to read it");
        fg_status status = fg_language_compile(&input, file->memory, size, &file->program);
        if (file->no_memory)
            return fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory to read it");
        if (status != FG_ERROR_MEMORY) return status;
    }
}

/* ---- trials apart ---- */

/* The text of a gate file without its trials, of which only the line ends are left: so each trial can be compiled with
 * what it needs and without all the others, and every line keeps its number. */
typedef struct fg_trial_texts {
    fg_buffer rest;
    struct place {
        size_t at, newlines; /* where the trial stood in `rest`, and what is left of it */
    } places[];
} fg_trial_texts;

static size_t count_newlines(fg_text text)
{
    size_t count = 0;
    for (size_t i = 0; i < text.size; i++) count += text.at[i] == '\n';
    return count;
}

static fg_status take_trials_apart(fg_gate_file *file, fg_mistake *mistake)
{
    const fg_program *p = &file->program;
    size_t done = 0;
    if (!p->trial_count) return FG_OK;
    fg_trial_texts *t = calloc(1, sizeof *t + p->trial_count * sizeof t->places[0]);
    if (!t) return fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory to read it");
    file->trials = t;
    for (uint32_t i = 0; i < p->trial_count; i++) {
        const fg_span whole = p->trials[i].whole;
        if (whole.source) continue; /* of an included file */
        fg_buffer_add(&t->rest, (fg_text){file->text.at + done, whole.at - done});
        t->places[i].at = t->rest.size;
        t->places[i].newlines = count_newlines((fg_text){file->text.at + whole.at, whole.size});
        for (size_t k = 0; k < t->places[i].newlines; k++) fg_buffer_add_c(&t->rest, "\n");
        done = whole.at + whole.size;
    }
    fg_buffer_add(&t->rest, (fg_text){file->text.at + done, file->text.size - done});
    if (!t->rest.full) return FG_OK;
    return fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory to read it");
}

/* The text with this trial alone. */
static void text_with_trial(const fg_gate_file *file, uint32_t trial, fg_buffer *out)
{
    const fg_span whole = file->program.trials[trial].whole;
    const struct place *place = &file->trials->places[trial];
    const fg_text rest = fg_buffer_text(&file->trials->rest);
    if (whole.source) {
        fg_buffer_add(out, rest);
        return;
    }
    const size_t behind = place->at + place->newlines;
    fg_buffer_add(out, (fg_text){rest.at, place->at});
    fg_buffer_add(out, (fg_text){file->text.at + whole.at, whole.size});
    fg_buffer_add(out, (fg_text){rest.at + behind, rest.size - behind});
}

static void forget_trials(fg_gate_file *file)
{
    if (file->trials) fg_buffer_free(&file->trials->rest);
    free(file->trials);
}

fg_status fg_gate_file_open(fg_gate_file *file, const char *path, fg_settings settings, fg_mistake *mistake)
{
    enum { MOST = 16 << 20 };
    *file = (fg_gate_file){.path = fg_c_string_of(fg_text_of(path)), .identity = realpath(path, NULL)};
    if (!file->path || (!file->identity && errno == ENOMEM))
        return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory");
    fg_status status = fg_file_read(path, MOST, &file->text, mistake);
    if (status != FG_OK) return status;
    file->owned = (char *)file->text.at;
    status = compile(file, settings, FG_TRIAL_NONE, mistake);
    return status == FG_OK ? take_trials_apart(file, mistake) : status;
}

/* A gate whose text is copied instead of read. */
static fg_status open_copy(fg_gate_file *file, const char *path, fg_text text, fg_settings settings, uint32_t trial,
                           fg_mistake *mistake)
{
    *file = (fg_gate_file){.path = fg_c_string_of(fg_text_of(path)), .identity = realpath(path, NULL)};
    const bool known = file->identity || errno != ENOMEM;
    char *copy = malloc(text.size + 1);
    if (copy && text.size) memcpy(copy, text.at, text.size);
    file->text = (fg_text){copy, copy ? text.size : 0};
    file->owned = copy;
    if (!file->path || !known || !copy)
        return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory");
    const fg_status status = compile(file, settings, trial, mistake);
    return status == FG_OK && trial == FG_TRIAL_NONE ? take_trials_apart(file, mistake) : status;
}

fg_status fg_gate_file_of_text(fg_gate_file *file, const char *path, fg_text text, fg_settings settings,
                               fg_mistake *mistake)
{
    return open_copy(file, path, text, settings, FG_TRIAL_NONE, mistake);
}

fg_status fg_gate_file_for_trial(const fg_gate_file *file, int32_t trial, fg_gate_file *out, fg_mistake *mistake)
{
    const fg_program *p = &file->program;
    fg_buffer text = {0};
    uint32_t number = 0; /* those of included files stay */
    *out = (fg_gate_file){0};
    if (!file->trials || trial < 0 || (uint32_t)trial >= p->trial_count) return FG_ERROR_ARGUMENT;
    for (int32_t i = 0; i < trial; i++) number += p->trials[i].whole.source != 0;
    text_with_trial(file, (uint32_t)trial, &text);
    const fg_status status =
        text.full ? fg_mistake_set(mistake, FG_ERROR_MEMORY, file->path, 0, "there is not enough memory")
                  : open_copy(out, file->path, fg_buffer_text(&text), file->settings, number + 1, mistake);
    out->trial = number;
    fg_buffer_free(&text);
    return status;
}

void fg_gate_file_close(fg_gate_file *file)
{
    free(file->path);
    free(file->identity);
    free(file->owned);
    forget_trials(file);
    free(file->memory);
    forget_includes(file);
    *file = (fg_gate_file){0};
}
