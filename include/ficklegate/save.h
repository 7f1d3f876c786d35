/* SPDX-License-Identifier: MIT */
/** @file
 * Save: what every name was at every step, as a file.
 *
 *     bool on_step(fg_saver *saver, const fg_run *run, int64_t t_ms) { return fg_save_step(saver, run, t_ms); }
 */
#ifndef FICKLEGATE_SAVE_H
#define FICKLEGATE_SAVE_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

typedef struct fg_saver fg_saver;

/** Begins a file: `path` ends in .csv, .jsonl or .sqlite. A column t_ms and one for each name but numbers and
 * sequences; a sensor's value, everything else (faulty too) as it is reported. CSV and JSON Lines get their name when
 * they are whole; an SQLite file may not be there yet, has a table `steps` and, whatever ends the program, is
 * complete up to its last commit. NULL with a mistake. */
fg_saver *fg_save_start(const fg_program *program, const char *path, fg_mistake *mistake);

/** Adds a step. False: it cannot be written, fg_save_end says why. */
FG_MUST_CHECK bool fg_save_step(fg_saver *saver, const fg_run *run, int64_t t_ms);

/** Ends the file, and gives the saver back. `good`: false if what was kept is not whole; then nothing of it stays. */
FG_MUST_CHECK fg_status fg_save_end(fg_saver *saver, bool good, fg_mistake *mistake);

FG_PUBLIC_END
#endif
