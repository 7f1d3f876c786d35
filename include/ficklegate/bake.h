/* SPDX-License-Identifier: MIT */
/** @file
 * A gate as C for a board: straight code that needs nothing else, or const tables for the library's engine. For hosted
 * machines.
 *
 *     bool bake(const fg_gate_file *file, FILE *header, FILE *source)
 *     {
 *         const fg_bake_options options = {.name = "harbour", .header = "harbour.h"};
 *         fg_baked baked;
 *         if (!fg_bake_code(file, &options, header, source, &baked)) return false;
 *         printf("a run remembers %zu bytes\n", baked.packed);
 *         return true;
 *     }
 */
#ifndef FICKLEGATE_BAKE_H
#define FICKLEGATE_BAKE_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

/** What the first line of a baked file begins with: only such a file is replaced without being asked. */
#define FG_BAKED "/* Baked by fickle from "

typedef struct fg_bake_options {
    const char *name;     /**< what everything begins with: see fg_bake_name */
    const char *header;   /**< the header's file name, for the source to include */
    fg_settings settings; /**< the numbers that were set for it, for the comment on top */
    bool units;           /**< straight code: a sensor with `raw` is fed with its unit, not with counts */
    bool report;          /**< straight code: with a function that reports readings and levels as a line */
    bool details;         /**< straight code: every sensor's value and whether an output changed can be asked */
    void *context;
    void (*renamed)(void *context, fg_text name, fg_text to); /**< two names that are one in capitals; may be NULL */
    /** Straight code: a sensor that is worked out in 64 bits, which is large and slow on a small chip. `cure`: the
     * sensors whose `trust` would make 32 bits of it; empty if none would. May be NULL. */
    void (*wide)(void *context, const fg_declared *sensor, fg_text cure);
} fg_bake_options;

/** The name for everything in the files `path`.h and `path`.c: the last part of the path, as letters, digits and _, not
 * a word of C or C++. True if that is another than the last part. `name`: `room` characters, at least 40; longer names
 * are cut. */
bool fg_bake_name(const char *path, char *name, size_t room);

/** The header of C, POSIX or a board's core that `path`.h would be mistaken for, without its .h; NULL if there is none.
 */
const char *fg_bake_shadows(const char *path);

/** What a bake made. */
typedef struct fg_baked {
    size_t packed;  /**< bytes that a run remembers on an 8-bit chip; of tables, on this machine */
    size_t aligned; /**< the same where numbers are aligned to their size */
} fg_baked;

/** Writes the header (the numbers of sensors, flags, outputs, answers and labels by name, the gate, the bytes a run
 * needs) and the source (the tables) of a gate. The same gate gives the same bytes. `baked` may be NULL. Errors stay
 * with the files. False: there is not enough memory, or the gate was compiled with what watches it (a trial, promises).
 */
bool fg_bake_tables(const fg_gate_file *file, const fg_bake_options *options, FILE *header, FILE *source,
                    fg_baked *baked);

/** The same as straight code: a header with one struct for the state and calls to start, feed, step and ask, and a
 * source that needs no library. It answers as the engine does, to the last bit. */
bool fg_bake_code(const fg_gate_file *file, const fg_bake_options *options, FILE *header, FILE *source,
                  fg_baked *baked);

/** Why a gate is too large for straight code ("has more than ..."), or NULL. */
const char *fg_bake_code_misfit(const fg_gate_file *file);

FG_PUBLIC_END
#endif
