/* SPDX-License-Identifier: MIT */
/** @file
 * A gate behind one handle, for other programming languages: names and values are texts, what comes back is JSON.
 *
 *     #include <stdio.h>
 *
 *     int main(void)
 *     {
 *         const char *names[] = {"box"}, *values[] = {"25.9"};
 *         fg_handle *handle = fg_handle_open("box.gate", NULL);
 *         if (handle) puts(fg_handle_about(handle));
 *         if (handle && fg_handle_good(handle)) puts(fg_handle_row(handle, 0, names, values, 1));
 *         fg_handle_close(handle);
 *         return 0;
 *     }
 *
 * A text that comes back is UTF-8, ends in NUL, and is valid until the next call with the same handle; NULL: there is
 * no memory. Where something cannot be done the JSON is {"mistake": {"file", "line", "text"}}. It needs jansson. */
#ifndef FICKLEGATE_HANDLE_H
#define FICKLEGATE_HANDLE_H

#include <ficklegate/value.h>

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

FG_PUBLIC_BEGIN

typedef struct fg_handle fg_handle;

/** Reads and compiles a gate file; `text` stands in its place if it is not NULL. NULL: there is no memory, anything
 * else is told by fg_handle_about. */
fg_handle *fg_handle_open(const char *path, const char *text);
/** Gives everything back; NULL is fine. */
void fg_handle_close(fg_handle *handle);
/** Is it a gate, or has it mistakes? */
bool fg_handle_good(const fg_handle *handle);
/** {"good", "title", "every": ms or 0, "findings": [{"severity", "kind", "file", "line", "column", "what", "instead"}],
 * "names": [{"name", "kind", "unit", "decimals", "labels", "read"}], "trials": [name], "scenes": [name]}. */
const char *fg_handle_about(fg_handle *handle);

/** A row of readings at `t_ms`, not before the last one: the steps up to it are made. `names`, `values`: `count` of
 * each, written as in a recording; an empty value is no new reading, one that is no number a faulty one. [{"t_ms",
 * "name", "was", "is", "because"}]: what changed. */
const char *fg_handle_row(fg_handle *handle, int64_t t_ms, const char *const *names, const char *const *values,
                          size_t count);
/** Makes the steps up to `t_ms` from the first row. As fg_handle_row. */
const char *fg_handle_until(fg_handle *handle, int64_t t_ms);
/** Forgets all rows: the next one is the first. False: there is no memory. */
bool fg_handle_restart(fg_handle *handle);
/** What a name is now: an answer, a value, a level; NULL if there is no such name, or no row came yet. */
const char *fg_handle_now(fg_handle *handle, const char *name);
/** Why it became so, NULL as above, or before its first change. */
const char *fg_handle_why(fg_handle *handle, const char *name);

/** Plays a recording, or a scene of the gate: {"changes": as in fg_handle_row, "rows", "length_ms"}. */
const char *fg_handle_replay(fg_handle *handle, const char *recording, bool scene);
/** Runs all trials: {"results": [{"trial", "line", "expectation", "outcome", "because"}], "tried", "situations",
 * "untried": [{"name", "what"}]}. */
const char *fg_handle_trials(fg_handle *handle);

FG_PUBLIC_END
#endif
