/* gnuplot, driven over a pipe. */
#ifndef FICKLEGATE_WORKSHOP_PIPE_H
#define FICKLEGATE_WORKSHOP_PIPE_H

#include "buffer.h"

/* A script being written, and the file it draws to until that is whole. */
typedef struct fg_script {
    FILE *out;
    char *text, *meanwhile;
    const char *path;
    size_t size;
} fg_script;

/* Begins a script that draws to `path`. False: no memory; fg_script_end has to be called all the same. */
bool fg_script_begin(fg_script *script, const char *path);

/* Has gnuplot work on it, unless it is not `good` (no memory); the picture gets its name, or nothing of it stays. */
fg_status fg_script_end(fg_script *script, bool good, fg_mistake *mistake);

#endif
