/* SPDX-License-Identifier: MIT */
/* The forms that what is saved can have, and the names that fit into them. */
#include "workshop/recordings/save_form.h"

#include "workshop/base/buffer.h"

#include <errno.h>
#include <fcntl.h>
#include <stdlib.h>
#include <string.h>

fg_save_form fg_save_form_of(const char *path, fg_mistake *mistake)
{
    static const char *const endings[] = {".csv", ".jsonl", ".sqlite"};
    const size_t size = strlen(path);
    for (int i = 0; i < FG_SAVE_FORMS; i++) {
        const size_t tail = strlen(endings[i]);
        if (size > tail && !strcmp(path + size - tail, endings[i])) return (fg_save_form)i;
    }
    (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                         "the ending says how it is to be written: .csv, .jsonl or .sqlite");
    return FG_SAVE_FORMS;
}

static char folded(char c) { return (char)(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c); }

static int by_folded(const void *a, const void *b)
{
    const fg_text *x = a, *y = b;
    for (size_t i = 0; i < x->size && i < y->size; i++)
        if (folded(x->at[i]) != folded(y->at[i])) return folded(x->at[i]) < folded(y->at[i]) ? -1 : 1;
    return (x->size > y->size) - (x->size < y->size);
}

bool fg_save_names_fit(fg_save_form form, fg_text *names, size_t count, const char *path, fg_mistake *mistake)
{
    enum { COLUMNS_MOST = 2000 };
    if (form != FG_SAVE_SQLITE) return true;
    if (count + 1 > COLUMNS_MOST) {
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                             "can have %d columns, and the gate has %zu names; save it as .csv or .jsonl", COLUMNS_MOST,
                             count);
        return false;
    }
    qsort(names, count, sizeof *names, by_folded);
    for (size_t i = 1; i < count; i++) {
        if (by_folded(&names[i - 1], &names[i]) != 0) continue;
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                             "cannot tell '%.*s' from '%.*s': in a database letter case makes no difference; rename "
                             "one, or save it as .csv or .jsonl",
                             (int)names[i - 1].size, names[i - 1].at, (int)names[i].size, names[i].at);
        return false;
    }
    return true;
}

int fg_save_create(const char *path, fg_mistake *mistake)
{
    const int handle = open(path, O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
    if (handle < 0 && errno == EEXIST)
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                             "exists already; choose another name, or remove it first");
    else if (handle < 0)
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be written: %s", strerror(errno));
    return handle;
}
