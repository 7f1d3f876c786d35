/* SPDX-License-Identifier: MIT */
/** @file
 * Keep: rows of readings in a file while they come, so that whatever ends the program, all but the last second is
 * there, as a recording like any other.
 *
 *     fg_keeper *begin(const char *path, fg_mistake *mistake)
 *     {
 *         const fg_text columns[] = {fg_text_of("t_ms"), fg_text_of("depth")};
 *         return fg_keep_start(path, columns, 2, mistake);
 *     }
 *
 *     bool add(fg_keeper *keeper, fg_text t_ms, fg_text depth, int64_t now_ms)
 *     {
 *         const fg_text cells[] = {t_ms, depth};
 *         fg_keep_row(keeper, cells);
 *         return fg_keep_until(keeper, now_ms);
 *     }
 */
#ifndef FICKLEGATE_KEEP_H
#define FICKLEGATE_KEEP_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

typedef struct fg_keeper fg_keeper;

/** Begins a file that is not there yet: `path` ends in .csv, .jsonl or .sqlite. `columns`: at least one, copied. NULL
 * with a mistake. */
fg_keeper *fg_keep_start(const char *path, const fg_text *columns, size_t count, fg_mistake *mistake);

/** Adds a row: a cell for each column, empty where nothing was read. */
void fg_keep_row(fg_keeper *keeper, const fg_text *cells);

/** To be called every now and then with a clock in ms: writes what is older than half a second. False the first time
 * that something cannot be written, and fg_keep_mistake says why; it is tried again, and rows beyond 4 MB are lost. */
FG_MUST_CHECK bool fg_keep_until(fg_keeper *keeper, int64_t now_ms);
const fg_mistake *fg_keep_mistake(const fg_keeper *keeper);

/** Rows so far. */
uint64_t fg_keep_rows(const fg_keeper *keeper);

/** Writes the rest and gives everything back. FG_ERROR_FILE: `mistake` says how many rows could not be written. NULL is
 * fine. */
FG_MUST_CHECK fg_status fg_keep_end(fg_keeper *keeper, fg_mistake *mistake);

FG_PUBLIC_END
#endif
