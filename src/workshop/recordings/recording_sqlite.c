/* SPDX-License-Identifier: MIT */
/* SQLite files with one table, its rows in the order they were written. */
#include "workshop/recordings/recording.h"

#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#ifndef FG_WITHOUT_SQLITE
#include <sqlite3.h>

static void fail(fg_rows *rows, sqlite3 *file, uint64_t row)
{
    const int code = file ? sqlite3_errcode(file) : SQLITE_NOMEM;
    if (rows->status != FG_OK) return;
    rows->status = fg_mistake_set(rows->mistake, FG_ERROR_RECORDING, rows->path, row, "%s",
                                  code == SQLITE_BUSY || code == SQLITE_LOCKED
                                      ? "is locked by another program; try again when that has closed it"
                                  : code == SQLITE_TOOBIG ? "holds a cell longer than 8 MB; a recording has short cells"
                                  : code == SQLITE_NOMEM  ? "there is not enough memory to read it"
                                  : code == SQLITE_CORRUPT || code == SQLITE_NOTADB
                                      ? "is damaged; 'PRAGMA integrity_check' in a database program tells more"
                                      : sqlite3_errmsg(file));
}

/* The name of the one table; the caller's to sqlite3_free. */
static char *only_table(fg_rows *rows, sqlite3 *file)
{
    sqlite3_stmt *list = NULL;
    char *name = NULL;
    int tables = 0,
        code = sqlite3_prepare_v2(
            file, "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%'", -1, &list, NULL);
    while (code == SQLITE_OK || code == SQLITE_ROW) {
        code = sqlite3_step(list);
        if (code == SQLITE_ROW && !tables++) name = sqlite3_mprintf("%s", (const char *)sqlite3_column_text(list, 0));
    }
    if (code != SQLITE_DONE) fail(rows, file, 0);
    if (tables != 1) fg_rows_fail(rows, 0, tables ? "has several tables; a recording has one" : "has no table");
    if (tables == 1 && !name && rows->status == FG_OK)
        rows->status = fg_mistake_set(rows->mistake, FG_ERROR_MEMORY, rows->path, 0, "there is not enough memory");
    sqlite3_finalize(list);
    return name;
}

/* 0 if that is not known. */
static uint64_t count_rows(sqlite3 *file, const char *table)
{
    sqlite3_stmt *count = NULL;
    char *query = sqlite3_mprintf("SELECT count(*) FROM \"%w\"", table);
    uint64_t rows = 0;
    if (query && sqlite3_prepare_v2(file, query, -1, &count, NULL) == SQLITE_OK && sqlite3_step(count) == SQLITE_ROW)
        rows = (uint64_t)sqlite3_column_int64(count, 0);
    sqlite3_finalize(count);
    sqlite3_free(query);
    return rows;
}

static void read_rows(fg_rows *rows, sqlite3 *file, sqlite3_stmt *all)
{
    const size_t count = (size_t)sqlite3_column_count(all);
    fg_text *cells = calloc(count + 1, sizeof *cells);
    int code = SQLITE_ROW;
    if (!cells) {
        rows->status = fg_mistake_set(rows->mistake, FG_ERROR_MEMORY, rows->path, 0, "there is not enough memory");
        return;
    }
    for (size_t i = 0; i < count; i++) {
        const char *name = sqlite3_column_name(all, (int)i);
        cells[i] = (fg_text){name, name ? strlen(name) : 0};
    }
    fg_rows_heading(rows, cells, count, 0);
    while (rows->status == FG_OK && (code = sqlite3_step(all)) == SQLITE_ROW) {
        for (size_t i = 0; i < count; i++) {
            const bool empty = sqlite3_column_type(all, (int)i) == SQLITE_NULL;
            const char *text = (const char *)sqlite3_column_text(all, (int)i);
            if (!text && !empty) fail(rows, file, rows->count + 1); /* there was no memory for it */
            cells[i] = (fg_text){text, text ? (size_t)sqlite3_column_bytes(all, (int)i) : 0};
        }
        if (rows->status == FG_OK) fg_rows_row(rows, cells, count, rows->count + 1);
    }
    if (rows->status == FG_OK && code != SQLITE_DONE) fail(rows, file, rows->count + 1);
    free(cells);
}

/* The name by which a table's rows are asked for in the order they were written: one that no column has taken. NULL:
 * there is none, and the rows come in the order of the table's key (also WITHOUT ROWID). */
static const char *row_name(sqlite3 *file, const char *table)
{
    static const char *const names[] = {"_rowid_", "rowid", "oid"};
    const char *found = NULL;
    sqlite3_stmt *all = NULL;
    char *query = sqlite3_mprintf("SELECT * FROM \"%w\" LIMIT 0", table);
    if (query) (void)sqlite3_prepare_v2(file, query, -1, &all, NULL);
    for (size_t i = 0; all && !found && i < sizeof names / sizeof *names; i++) {
        sqlite3_stmt *one = NULL;
        bool taken = false;
        for (int k = 0; k < sqlite3_column_count(all); k++)
            taken = taken || sqlite3_stricmp(sqlite3_column_name(all, k), names[i]) == 0;
        char *asked = sqlite3_mprintf("SELECT %s FROM \"%w\" LIMIT 0", names[i], table);
        if (!taken && asked && sqlite3_prepare_v2(file, asked, -1, &one, NULL) == SQLITE_OK) found = names[i];
        sqlite3_finalize(one);
        sqlite3_free(asked);
    }
    sqlite3_finalize(all);
    sqlite3_free(query);
    return found;
}

/* Was it written with a log beside it (WAL), and is none there, so that nobody is writing it? Bytes 18 and 19 of an
 * SQLite file say so (https://www.sqlite.org/fileformat.html). */
static bool is_at_rest(const char *path)
{
    char head[20] = "";
    FILE *in = fopen(path, "rb");
    const bool logged = in && fread(head, 1, sizeof head, in) == sizeof head && head[18] == 2 && head[19] == 2;
    char *log = logged ? sqlite3_mprintf("%s-wal", path) : NULL;
    const bool rests = log && access(log, F_OK) != 0;
    sqlite3_free(log);
    if (in) fclose(in);
    return rests;
}

/* Opens it by a name that means this file whatever is in it, and so that SQLite makes no files beside it. */
static int open_to_read(const char *path, sqlite3 **file)
{
    fg_buffer name = {0};
    fg_buffer_add_c(&name, *path == '/' ? "file://" : "file:./");
    for (const char *at = path; *at; at++) {
        char escape[4];
        if (*at == '%' || *at == '?' || *at == '#')
            (void)snprintf(escape, sizeof escape, "%%%02x", (unsigned char)*at);
        else
            (void)snprintf(escape, sizeof escape, "%c", *at);
        fg_buffer_add_c(&name, escape);
    }
    if (is_at_rest(path)) fg_buffer_add_c(&name, "?immutable=1");
    fg_buffer_end(&name);
    const int code =
        name.full ? SQLITE_NOMEM : sqlite3_open_v2(name.text, file, SQLITE_OPEN_READONLY | SQLITE_OPEN_URI, NULL);
    fg_buffer_free(&name);
    return code;
}

void fg_sqlite_read(fg_rows *rows, fg_stream *stream, char *block, size_t size)
{
    (void)stream;
    (void)block;
    (void)size;
    sqlite3 *file = NULL;
    sqlite3_stmt *all = NULL;
    if (strcmp(rows->path, "-") == 0) {
        fg_rows_fail(rows, 0, "is an SQLite file, which cannot come from standard input; name the file");
        return;
    }
    if (open_to_read(rows->path, &file) != SQLITE_OK) fail(rows, file, 0);
    if (file) (void)sqlite3_limit(file, SQLITE_LIMIT_LENGTH, FG_ROW_MOST); /* as a line of the other forms */
    char *table = rows->status == FG_OK ? only_table(rows, file) : NULL;
    if (rows->sink->progress.tell && table) rows->all = count_rows(file, table);
    const char *order = table ? row_name(file, table) : NULL;
    char *query = !table  ? NULL
                  : order ? sqlite3_mprintf("SELECT * FROM \"%w\" ORDER BY %s", table, order)
                          : sqlite3_mprintf("SELECT * FROM \"%w\"", table);
    if (table && !query)
        rows->status = fg_mistake_set(rows->mistake, FG_ERROR_MEMORY, rows->path, 0, "there is not enough memory");
    if (rows->status == FG_OK && query) {
        if (sqlite3_prepare_v2(file, query, -1, &all, NULL) == SQLITE_OK)
            read_rows(rows, file, all);
        else
            fail(rows, file, 0);
    }
    sqlite3_finalize(all);
    sqlite3_free(query);
    sqlite3_free(table);
    sqlite3_close(file);
}

#else

void fg_sqlite_read(fg_rows *rows, fg_stream *stream, char *block, size_t size)
{
    (void)stream;
    (void)block;
    (void)size;
    fg_rows_fail(rows, 0,
                 "is an SQLite file, and this program was built without; install libsqlite3-dev and build it again");
}

#endif
