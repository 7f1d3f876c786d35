/* gnuplot, driven over a pipe. */
#ifndef FICKLEGATE_WORKSHOP_PIPE_H
#define FICKLEGATE_WORKSHOP_PIPE_H

#include "buffer.h"

/* A name beside `path` for a file until it is whole; the file is there, empty. The caller's to free; NULL if there is
 * no memory or it cannot be made. */
char *fg_part_name(const char *path);

/* Has gnuplot work on a script that draws to the file `meanwhile`, which then gets the name `path`, or goes away if
 * something went wrong. */
fg_status fg_gnuplot(const char *script, size_t size, const char *meanwhile, const char *path, fg_mistake *mistake);

#endif
