/* SPDX-License-Identifier: MIT */
/** @file
 * Files: read and written whole, gate files compiled, texts for people and for tables. For hosted machines: it uses the
 * heap and files.
 *
 * Every function here is safe to call from several threads at once on different objects. Texts handed to callbacks are
 * valid during the call only.
 *
 *     int print_title(const char *path)
 *     {
 *         fg_gate_file file;
 *         fg_mistake mistake;
 *         const fg_status status = fg_gate_file_open(&file, path, (fg_settings){0}, &mistake);
 *         if (status == FG_OK) fg_text_show(stdout, file.program.title);
 *         fg_gate_file_close(&file);
 *         return status == FG_OK ? 0 : 1;
 *     }
 */
#ifndef FICKLEGATE_FILES_H
#define FICKLEGATE_FILES_H

#include <ficklegate/language.h>
#include <stdio.h>

FG_PUBLIC_BEGIN

/* ---- mistakes ---- */

/** Why something could not be done: the file, the line in it (0: the file as a whole), what is wrong and what to do. */
typedef struct fg_mistake {
    fg_status status; /**< what kind it is; FG_OK: nothing is wrong */
    char file[4096];  /**< as long as a path may be */
    uint64_t line;
    char text[4096 + 512]; /**< it may name another file */
} fg_mistake;

/* ---- files ---- */

/** Gives back a text that a function made for its caller and says so. One set to {0} is fine. */
void fg_text_free(fg_text text);

/** Reads a whole file, at most `most` bytes; "-" is standard input. Give the text back with fg_text_free. FG_ERROR_FILE
 * and a mistake if it cannot be read, is a folder, or is longer. */
FG_MUST_CHECK fg_status fg_file_read(const char *path, size_t most, fg_text *text, fg_mistake *mistake);

enum { FG_FILES_MOST = 4 };

/** Writes whole files, at most FG_FILES_MOST: all of them or none. One that is there keeps its mode and owner.
 * FG_ERROR_FILE with a mistake if something cannot be written, or if more than these files would be overwritten: a
 * device, a pipe, a folder, a link, a file with a second name, a write-protected one. FG_ERROR_ARGUMENT: too many. */
FG_MUST_CHECK fg_status fg_files_write(const char *const *paths, const fg_text *texts, size_t count,
                                       fg_mistake *mistake);

/** Changes a file that was read: `before` is what it held then. Follows links; mode and owner stay. FG_ERROR_FILE with
 * a mistake if it holds something else by now, or cannot be written (see fg_files_write). */
FG_MUST_CHECK fg_status fg_file_change(const char *path, fg_text before, fg_text after, fg_mistake *mistake);

/** Are these two paths one file on the disk? False if either is not there. */
bool fg_file_same(const char *a, const char *b);

/** Takes away every file that is being written and is not whole yet, for a program that is about to end. May be called
 * from a signal handler. */
void fg_files_abandon(void);

/** A text that is written as a file is. Where memory runs out it tells so for sure, as open_memstream does not. */
typedef struct fg_memory_file {
    FILE *file; /**< NULL: there is none, or no more */
    char *text; /**< the caller's, for free(), once the file is closed */
    size_t size, room;
    bool full;
} fg_memory_file;

/** False: no memory; then there is nothing to close. The structure stays where it is until it is closed. */
FG_MUST_CHECK bool fg_memory_file_open(fg_memory_file *m);
/** True: the text is whole and ends in NUL. False: there was not enough memory; `text` is NULL. */
FG_MUST_CHECK bool fg_memory_file_close(fg_memory_file *m);

/** A text that stands in place of a file, as while it is being edited. */
typedef struct fg_open_text {
    const char *path; /**< its full path, without links */
    fg_text text;
} fg_open_text;

/** Numbers of the gate file that get other values. */
typedef struct fg_settings {
    const fg_setting *at; /**< may be NULL if there are none; they and their texts live as long as what uses them */
    size_t count;         /**< below 1000 */
    bool promises;        /**< a run is to be held against the promises of the gate; not for what is baked */
    const fg_text *asked; /**< conditions a run is asked for, as in fg_language_input; not for what is baked */
    size_t asked_count;
    const fg_open_text *open; /**< of included files */
    size_t open_count;
} fg_settings;

/** A gate file, read and compiled. */
typedef struct fg_gate_file {
    char *path;
    char *identity; /**< its full path, NULL for standard input */
    fg_text text;
    char *owned; /**< the text's own memory */
    void *memory;
    struct fg_included *included;
    struct fg_trial_texts *trials; /**< the text apart from its trials; NULL without any */
    uint32_t trial;                /**< compiled for a trial: its number in `program` */
    bool no_memory;                /**< for a file it includes */
    fg_settings settings;          /**< what it was compiled with */
    fg_program program;
} fg_gate_file;

/** Reads and compiles a gate file; memory grows as it needs. Give it back with fg_gate_file_close whatever came out.
 * `settings`: live as long as the file.
 * FG_ERROR_GATE: the findings in `file->program` say why. FG_ERROR_FILE, FG_ERROR_MEMORY: `mistake` says why. */
FG_MUST_CHECK fg_status fg_gate_file_open(fg_gate_file *file, const char *path, fg_settings settings,
                                          fg_mistake *mistake);

/** The same for a text that is in no file yet: it is read as if it stood in `path`, beside which its recordings and
 * includes are found. The text may be given back at once. */
FG_MUST_CHECK fg_status fg_gate_file_of_text(fg_gate_file *file, const char *path, fg_text text, fg_settings settings,
                                             fg_mistake *mistake);

/** Compiles it again for one of its trials, with the settings it has; `file` is open, `out` is closed apart from it and
 * before it. The other trials of the file itself are left out of its text but for their line ends, so that many trials
 * cost no more than their share. */
FG_MUST_CHECK fg_status fg_gate_file_for_trial(const fg_gate_file *file, int32_t trial, fg_gate_file *out,
                                               fg_mistake *mistake);

/** A file named in another stands beside it, unless its path begins at the root. The path is the caller's, for free();
 * NULL without memory. */
char *fg_file_beside(const char *file, fg_text name);

/** Gives everything back. A file set to {0} is fine. */
void fg_gate_file_close(fg_gate_file *file);

/* ---- texts ---- */

/** An answer as it is written: yes, no, unsure, ok, faulty, none or a label. */
fg_text fg_answer_text(const fg_declared *declared, fg_verdict answer);

/** What is written at a place of a gate, in one line: without comments, and with one blank where there are more. Give
 * the text back with fg_text_free. False: no memory. */
FG_MUST_CHECK bool fg_program_written(const fg_program *program, fg_span span, fg_text *text);

/** Writes a text for a person. What would steer a terminal or change the order of what is read becomes a visible
 * escape: control characters and bytes that are not UTF-8 as `\x1b`, marks of direction, line ends of Unicode and
 * characters that are none as `\u202e`. Everything else stays as it is. Errors stay with the file. */
void fg_text_show(FILE *file, fg_text text);

enum { FG_ESCAPE_SIZE = 12 };

/** Takes the next piece off a text that is not empty, as fg_text_show would write it: a part of the text, or an escape
 * in `room`, FG_ESCAPE_SIZE characters. */
fg_text fg_text_next_shown(fg_text *text, char *room);

/** Does a cell of CSV need quotes (RFC 4180)? */
bool fg_csv_needs_quotes(fg_text cell);

/** Writes one, in quotes where it needs them. Errors stay with the file. */
void fg_csv_cell(FILE *file, fg_text cell);

/** Writes a row as a JSON object and a line end: numbers as such, all else as strings, null for what is empty. False:
 * no memory, or this library was built without JSON. Errors of writing stay with the file. */
FG_MUST_CHECK bool fg_json_row(FILE *file, const fg_text *names, const fg_text *cells, size_t count);

FG_PUBLIC_END
#endif
