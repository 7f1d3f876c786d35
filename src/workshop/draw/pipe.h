/* SPDX-License-Identifier: MIT */
/* gnuplot, driven over a pipe. */
#ifndef FICKLEGATE_WORKSHOP_PIPE_H
#define FICKLEGATE_WORKSHOP_PIPE_H

#include "workshop/base/draft.h"

/* A script being written, and the picture that gnuplot will draw by it. */
typedef struct fg_script {
    fg_memory_file text;
    fg_draft picture;
} fg_script;

/* Begins a script that draws to `path`. On FG_OK fg_script_end has to be called. Errors: see fg_draft_begin. */
fg_status fg_script_begin(fg_script *script, const char *path, fg_mistake *mistake);

/* Has gnuplot work on it, unless it is not `good` (no memory); the picture gets its name, or nothing of it stays. */
fg_status fg_script_end(fg_script *script, bool good, fg_mistake *mistake);

#endif
