/* SQLite files with one table, its rows in the order they were written. */
#include "recording.h"

#include <stdlib.h>
#include <string.h>

#ifndef FG_WITHOUT_SQLITE
#include <sqlite3.h>

static void fail(fg_rows *rows, sqlite3 *file, uint64_t row)
{
    const int code = sqlite3_errcode(file);
    if (rows->status != FG_OK) return;
    rows->status = fg_mistake_set(rows->mistake, FG_ERROR_RECORDING, rows->path, row, "%s",
                                  code == SQLITE_BUSY || code == SQLITE_LOCKED
                                      ? "is locked by another program; try again when that has closed it"
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
            const char *text = (const char *)sqlite3_column_text(all, (int)i);
            cells[i] = (fg_text){text, text ? (size_t)sqlite3_column_bytes(all, (int)i) : 0};
        }
        fg_rows_row(rows, cells, count, rows->count + 1);
    }
    if (rows->status == FG_OK && code != SQLITE_DONE) fail(rows, file, rows->count + 1);
    free(cells);
}

void fg_sqlite_read(fg_rows *rows)
{
    sqlite3 *file = NULL;
    sqlite3_stmt *all = NULL;
    if (strcmp(rows->path, "-") == 0) {
        fg_rows_fail(rows, 0, "is an SQLite file, which cannot come from standard input; name the file");
        return;
    }
    if (sqlite3_open_v2(rows->path, &file, SQLITE_OPEN_READONLY, NULL) != SQLITE_OK) fail(rows, file, 0);
    char *table = rows->status == FG_OK ? only_table(rows, file) : NULL;
    if (rows->sink->progress && table) rows->all = count_rows(file, table);
    char *query = table ? sqlite3_mprintf("SELECT * FROM \"%w\" ORDER BY rowid", table) : NULL;
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

void fg_sqlite_read(fg_rows *rows)
{
    fg_rows_fail(rows, 0,
                 "is an SQLite file, and this program was built without; install libsqlite3-dev and build it again");
}

#endif
