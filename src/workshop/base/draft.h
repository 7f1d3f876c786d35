/* SPDX-License-Identifier: MIT */
/* A file that appears whole or not at all: it is written beside its place under another name (PATH.part-PROCESS-NUMBER)
 * and renamed when it is whole.
 *
 * While it is written it is locked, and its name is kept for fg_files_abandon. What a killed run left behind is taken
 * away by the next run that writes the same path: its name, its dead process and the missing lock make that sure. */
#ifndef FICKLEGATE_WORKSHOP_DRAFT_H
#define FICKLEGATE_WORKSHOP_DRAFT_H

#include "workshop/base/buffer.h"

typedef struct fg_draft {
    char *path;      /* where it goes */
    char *meanwhile; /* its name until then */
    int handle;      /* open for writing and reading; -1 if there is none */
    int slot;        /* its place among the names for fg_files_abandon */
} fg_draft;

/* Begins to write `path`. A file that is there keeps its mode and owner. FG_ERROR_FILE with a mistake if nothing can be
 * written there, or if something else than this one file would be overwritten: a device, a pipe, a folder, a link, a
 * file with a second name, one that is write-protected, one whose owner cannot be kept. FG_ERROR_MEMORY. */
fg_status fg_draft_begin(fg_draft *draft, const char *path, fg_mistake *mistake);

/* Adds to it. FG_ERROR_FILE with a mistake; drop it then. */
fg_status fg_draft_write(fg_draft *draft, fg_text text, fg_mistake *mistake);

/* Everything is on the disk; only the name is missing. FG_ERROR_FILE with a mistake; drop it then. */
fg_status fg_draft_finish(fg_draft *draft, fg_mistake *mistake);

/* Gives it its name. FG_ERROR_FILE with a mistake; it is dropped then. `draft` is over either way. */
fg_status fg_draft_publish(fg_draft *draft, fg_mistake *mistake);

/* Takes it away; one that was published, or is set to {.handle = -1}, is fine. */
void fg_draft_drop(fg_draft *draft);

#endif
