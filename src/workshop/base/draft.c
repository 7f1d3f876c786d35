/* SPDX-License-Identifier: MIT */
/* Files that appear whole or not at all. */
#include "workshop/base/draft.h"

#include <dirent.h>
#include <errno.h>
#include <fcntl.h>
#include <inttypes.h>
#include <signal.h>
#include <stdatomic.h>
#include <stdlib.h>
#include <string.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

/* ---- names that a signal takes away ---- */

enum { NAMES_MOST = 64 };

/* The only state of the workshop that belongs to no object: a signal handler has nothing else to go by. */
static _Atomic(char *) names[NAMES_MOST];

static int keep_name(char *name)
{
    for (int i = 0; i < NAMES_MOST; i++) {
        char *none = NULL;
        if (atomic_compare_exchange_strong(&names[i], &none, name)) return i;
    }
    return -1; /* more files at once than anybody writes; a kill would leave this one */
}

static void forget_name(int slot)
{
    if (slot >= 0) atomic_store(&names[slot], NULL);
}

void fg_files_abandon(void)
{
    for (int i = 0; i < NAMES_MOST; i++) {
        const char *name = atomic_load(&names[i]);
        if (name) (void)unlink(name);
    }
}

/* ---- what is there already ---- */

static fg_status refuse(const char *path, const char *why, fg_mistake *mistake)
{
    return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "%s", why);
}

/* May this be overwritten? `about`: filled in if something is there. */
static fg_status look(const char *path, struct stat *about, bool *there, fg_mistake *mistake)
{
    *there = lstat(path, about) == 0;
    if (!*there) return FG_OK;
    if (S_ISLNK(about->st_mode))
        return refuse(path, "is a link, and what it leads to would be overwritten; name that file itself", mistake);
    if (S_ISDIR(about->st_mode)) return refuse(path, "is a folder; name a file", mistake);
    if (!S_ISREG(about->st_mode)) return refuse(path, "is a device or a pipe, not a file; name a file", mistake);
    if (about->st_nlink > 1)
        return refuse(
            path, "has a second name (a hard link) that would keep the old text; copy it to a file of its own first",
            mistake);
    if (!(about->st_mode & 0222) || access(path, W_OK) != 0)
        return refuse(path, "is write-protected; 'chmod u+w' allows it, or name another file", mistake);
    return FG_OK;
}

/* ---- what a killed run left ---- */

/* The process of a name NAME.part-PROCESS-NUMBER; 0 if it is another name. */
static pid_t process_of(const char *entry, const char *name)
{
    static const char mark[] = ".part-";
    const size_t size = strlen(name);
    if (strncmp(entry, name, size) != 0 || strncmp(entry + size, mark, sizeof mark - 1) != 0) return 0;
    const char *digits = entry + size + sizeof mark - 1;
    const size_t process = strspn(digits, "0123456789");
    if (!process || process > 9 || digits[process] != '-') return 0;
    const char *number = digits + process + 1;
    const size_t rest = strspn(number, "0123456789");
    return rest && !number[rest] ? (pid_t)strtol(digits, NULL, 10) : 0;
}

/* Nobody writes it any more: its process is gone, and no other holds its lock. */
static bool is_left(int folder, const char *entry, pid_t process)
{
    if (kill(process, 0) == 0 || errno != ESRCH) return false;
    const int handle = openat(folder, entry, O_RDONLY | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC);
    if (handle < 0) return false;
    struct stat about;
    const bool left = fstat(handle, &about) == 0 && S_ISREG(about.st_mode) && flock(handle, LOCK_EX | LOCK_NB) == 0;
    (void)close(handle);
    return left;
}

static void take_leftovers(const char *path)
{
    const char *slash = strrchr(path, '/'), *name = slash ? slash + 1 : path;
    const size_t size = slash ? (size_t)(slash - path) + 1 : 1;
    char *folder = calloc(1, size + 1);
    if (folder) memcpy(folder, slash ? path : ".", size);
    DIR *entries = folder ? opendir(folder) : NULL;
    for (const struct dirent *entry; entries && (entry = readdir(entries));) {
        const pid_t process = process_of(entry->d_name, name);
        if (process && is_left(dirfd(entries), entry->d_name, process))
            (void)unlinkat(dirfd(entries), entry->d_name, 0);
    }
    if (entries) (void)closedir(entries);
    free(folder);
}

/* ---- the file ---- */

static int open_new(const char *path, char *name, size_t room)
{
    int handle = -1;
    for (int i = 0; i < 1000 && handle < 0; i++) {
        snprintf(name, room, "%s.part-%ld-%d", path, (long)getpid(), i);
        handle = open(name, O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
        if (handle < 0 && errno != EEXIST) break;
    }
    return handle;
}

/* As the file that is there: mode and owner. */
static bool take_after(int handle, const struct stat *about)
{
    struct stat now;
    if (fstat(handle, &now) != 0) return false;
    if ((now.st_uid != about->st_uid || now.st_gid != about->st_gid) &&
        fchown(handle, about->st_uid, about->st_gid) != 0)
        return false;
    return fchmod(handle, about->st_mode & 07777) == 0;
}

fg_status fg_draft_begin(fg_draft *draft, const char *path, fg_mistake *mistake)
{
    struct stat about;
    bool there;
    const size_t size = strlen(path), room = size + 48;
    *mistake = (fg_mistake){0};
    *draft = (fg_draft){.handle = -1, .slot = -1};
    const fg_status status = look(path, &about, &there, mistake);
    if (status != FG_OK) return status;
    draft->path = malloc(size + 1);
    draft->meanwhile = malloc(room);
    if (!draft->path || !draft->meanwhile) {
        fg_draft_drop(draft);
        return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to write it");
    }
    memcpy(draft->path, path, size + 1);
    take_leftovers(path);
    draft->handle = open_new(path, draft->meanwhile, room);
    if (draft->handle < 0) {
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be written: %s", strerror(errno));
        fg_draft_drop(draft);
        return FG_ERROR_FILE;
    }
    draft->slot = keep_name(draft->meanwhile);
    (void)flock(draft->handle, LOCK_EX | LOCK_NB);
    if (!there || take_after(draft->handle, &about)) return FG_OK;
    fg_draft_drop(draft);
    return refuse(path, "belongs to somebody else, who would lose it; name another file", mistake);
}

fg_status fg_draft_write(fg_draft *draft, fg_text text, fg_mistake *mistake)
{
    while (text.size) {
        const ssize_t put = write(draft->handle, text.at, text.size);
        if (put < 0 && errno == EINTR) continue;
        if (put <= 0)
            return fg_mistake_set(mistake, FG_ERROR_FILE, draft->path, 0, "cannot be written: %s", strerror(errno));
        text = (fg_text){text.at + put, text.size - (size_t)put};
    }
    return FG_OK;
}

fg_status fg_draft_finish(fg_draft *draft, fg_mistake *mistake)
{
    if (fsync(draft->handle) == 0) return FG_OK;
    return fg_mistake_set(mistake, FG_ERROR_FILE, draft->path, 0, "cannot be written: %s", strerror(errno));
}

fg_status fg_draft_publish(fg_draft *draft, fg_mistake *mistake)
{
    fg_status status = fg_draft_finish(draft, mistake);
    if (status == FG_OK && rename(draft->meanwhile, draft->path) != 0)
        status = fg_mistake_set(mistake, FG_ERROR_FILE, draft->path, 0, "cannot be written: %s", strerror(errno));
    if (status == FG_OK) {
        forget_name(draft->slot);
        (void)close(draft->handle);
        draft->handle = draft->slot = -1;
    }
    fg_draft_drop(draft);
    return status;
}

void fg_draft_drop(fg_draft *draft)
{
    if (draft->handle >= 0) {
        (void)unlink(draft->meanwhile);
        (void)close(draft->handle);
    }
    forget_name(draft->slot);
    free(draft->path);
    free(draft->meanwhile);
    *draft = (fg_draft){.handle = -1, .slot = -1};
}

/* ---- whole texts ---- */

/* A second name for what is there, so that it can come back; NULL if nothing is there, or with a mistake. */
static char *keep_old(const char *path, fg_status *status, fg_mistake *mistake)
{
    const size_t size = strlen(path) + 48;
    if (access(path, F_OK) != 0) return NULL;
    char *old = malloc(size);
    if (!old) {
        *status = fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to write it");
        return NULL;
    }
    snprintf(old, size, "%s.part-%ld-%d", path, (long)getpid(), 1000);
    (void)unlink(old);
    if (link(path, old) == 0) return old;
    *status = fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be replaced: %s", strerror(errno));
    free(old);
    return NULL;
}

/* What was published gives way to what was there before. */
static void put_back(const char *path, const char *old)
{
    if (old)
        (void)rename(old, path);
    else
        (void)unlink(path);
}

/* Renames all; if one cannot be, none is. */
static fg_status publish_all(fg_draft *drafts, const char *const *paths, size_t count, fg_mistake *mistake)
{
    char *old[FG_FILES_MOST] = {0};
    size_t published = 0;
    fg_status status = FG_OK;
    for (size_t i = 0; i < count && status == FG_OK && count > 1; i++) old[i] = keep_old(paths[i], &status, mistake);
    while (published < count && status == FG_OK) {
        status = fg_draft_publish(&drafts[published], mistake);
        published += status == FG_OK;
    }
    for (size_t i = 0; i < count; i++) {
        if (status != FG_OK && i < published) put_back(paths[i], old[i]);
        if (old[i]) (void)unlink(old[i]);
        free(old[i]);
    }
    return status;
}

fg_status fg_files_write(const char *const *paths, const fg_text *texts, size_t count, fg_mistake *mistake)
{
    fg_draft drafts[FG_FILES_MOST];
    size_t begun = 0;
    fg_status status = FG_OK;
    *mistake = (fg_mistake){0};
    if (count > FG_FILES_MOST) return FG_ERROR_ARGUMENT;
    for (size_t i = 0; i < count; i++) drafts[i] = (fg_draft){.handle = -1, .slot = -1};
    for (; begun < count && status == FG_OK; begun++) {
        status = fg_draft_begin(&drafts[begun], paths[begun], mistake);
        if (status == FG_OK) status = fg_draft_write(&drafts[begun], texts[begun], mistake);
        if (status == FG_OK) status = fg_draft_finish(&drafts[begun], mistake);
    }
    if (status == FG_OK) status = publish_all(drafts, paths, count, mistake);
    for (size_t i = 0; i < count; i++) fg_draft_drop(&drafts[i]);
    return status;
}

/* Is this still in the file? */
static bool still_holds(const char *path, fg_text text)
{
    fg_text now;
    fg_mistake unheard;
    if (fg_file_read(path, text.size, &now, &unheard) != FG_OK) return false;
    const bool same = fg_text_same(now, text);
    free((void *)now.at);
    return same;
}

fg_status fg_file_change(const char *path, fg_text before, fg_text after, fg_mistake *mistake)
{
    fg_draft draft;
    *mistake = (fg_mistake){0};
    char *real = realpath(path, NULL); /* through a link, so that the link stays one */
    if (!real) return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be written: %s", strerror(errno));
    fg_status status = fg_draft_begin(&draft, real, mistake);
    if (status == FG_OK) {
        status = fg_draft_write(&draft, after, mistake);
        if (status == FG_OK && !still_holds(real, before))
            status = fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                                    "has changed since it was read, so nothing is written; run it again");
        if (status == FG_OK)
            status = fg_draft_publish(&draft, mistake);
        else
            fg_draft_drop(&draft);
    }
    free(real);
    return status;
}

bool fg_file_same(const char *a, const char *b)
{
    struct stat first, second;
    return stat(a, &first) == 0 && stat(b, &second) == 0 && first.st_dev == second.st_dev &&
           first.st_ino == second.st_ino;
}
