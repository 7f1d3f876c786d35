/* SPDX-License-Identifier: MIT */
/* Rows that are kept while they come. Text is written in whole lines, straight to the file; a database commits. */
#include "workshop/recordings/recording.h"
#include "workshop/recordings/save_form.h"

#include <ficklegate/keep.h>

#include <errno.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>
#ifndef FG_WITHOUT_SQLITE
#include <sqlite3.h>
#endif

enum { WAITS_MOST = 4 << 20, OFTEN_MS = 500 };

struct fg_keeper {
    fg_save_form form;
    char *path;
    fg_text *columns; /* in one piece of memory with their texts */
    size_t count;
    int handle;
    off_t whole; /* bytes of the file that are whole lines */
    fg_memory_file waits;
    uint64_t waiting; /* rows in it */
    bool open;
    uint64_t rows, lost;
    int64_t written_ms;
    bool clock_runs, failing, told;
    fg_text *cells; /* of the row that is added, as they are kept */
    fg_buffer shown;
    fg_mistake mistake;
#ifndef FG_WITHOUT_SQLITE
    sqlite3 *database;
    sqlite3_stmt *insert;
    bool begun; /* a transaction */
#endif
};

static bool fails(fg_keeper *k, const char *why)
{
    k->failing = true;
    (void)fg_mistake_set(&k->mistake, FG_ERROR_FILE, k->path, 0, "cannot be written: %s", why);
    return false;
}

/* ---- text ---- */

static bool wait_anew(fg_keeper *k)
{
    k->waiting = 0;
    k->open = fg_memory_file_open(&k->waits);
    return k->open;
}

/* How much of a text is whole rows, and how many. Only a cell of CSV may hold a line end, in quotes. */
static size_t whole_rows(const fg_keeper *k, const char *text, size_t size, uint64_t *rows)
{
    size_t whole = 0;
    bool quoted = false;
    *rows = 0;
    for (size_t i = 0; i < size; i++) {
        if (text[i] == '"' && k->form == FG_SAVE_CSV) quoted = !quoted;
        if (text[i] != '\n' || quoted) continue;
        whole = i + 1;
        ++*rows;
    }
    return whole;
}

/* As many whole rows as there is room for; returns how many bytes they are. If that is not all, errno says why. */
static size_t append(fg_keeper *k, const char *text, size_t size, uint64_t *rows)
{
    size_t done = 0;
    int error = 0;
    while (done < size && !error) {
        const ssize_t put = write(k->handle, text + done, size - done);
        if (put > 0) done += (size_t)put;
        if (put == 0) error = ENOSPC;
        if (put < 0 && errno != EINTR) error = errno;
    }
    const size_t kept = whole_rows(k, text, done, rows);
    k->whole += (off_t)kept;
    if (kept < done && ftruncate(k->handle, k->whole) == 0) (void)lseek(k->handle, k->whole, SEEK_SET);
    errno = error;
    return kept;
}

/* What waits goes out, or waits on; beyond a bound it is lost. */
static bool write_text(fg_keeper *k)
{
    uint64_t rows = 0;
    if (!k->open) return wait_anew(k) ? true : fails(k, "there is not enough memory");
    if (!k->waiting && k->whole) return true;
    const uint64_t waited = k->waiting;
    if (!fg_memory_file_close(&k->waits)) {
        k->lost += waited;
        (void)wait_anew(k);
        return fails(k, "there is not enough memory");
    }
    const fg_text text = {k->waits.text, k->waits.size};
    const size_t kept = append(k, text.at, text.size, &rows);
    const int error = errno;
    const size_t left = text.size - kept, again = left > WAITS_MOST ? 0 : left;
    const bool open = wait_anew(k);
    if (open && again) fwrite(text.at + kept, 1, again, k->waits.file);
    if (left && open && again) k->waiting = waited - rows;
    if (left && !(open && again)) k->lost += waited - rows;
    fg_text_free(text);
    return !left || fails(k, strerror(error));
}

static void add_text(fg_keeper *k, const fg_text *cells)
{
    if (!k->open) {
        k->lost++;
        return;
    }
    k->waiting++;
    if (k->form == FG_SAVE_JSONL) {
        if (!fg_json_row(k->waits.file, k->columns, cells, k->count)) k->waits.full = true;
        return;
    }
    for (size_t i = 0; i < k->count; i++) {
        if (i) fputc(',', k->waits.file);
        fg_csv_cell(k->waits.file, cells[i]);
    }
    fputc('\n', k->waits.file);
}

/* ---- a database ---- */

#ifndef FG_WITHOUT_SQLITE
static bool run_sql(fg_keeper *k, const char *sql)
{
    return sqlite3_exec(k->database, sql, NULL, NULL, NULL) == SQLITE_OK;
}

static char *statement(const fg_keeper *k, bool create)
{
    char *text = sqlite3_mprintf(create ? "CREATE TABLE readings (" : "INSERT INTO readings VALUES (");
    for (size_t i = 0; text && i < k->count; i++) {
        char *longer = create ? sqlite3_mprintf("%s%s\"%.*w\" NUMERIC", text, i ? ", " : "", (int)k->columns[i].size,
                                                k->columns[i].at)
                              : sqlite3_mprintf("%s%s", text, i ? ", ?" : "?");
        sqlite3_free(text);
        text = longer;
    }
    char *whole = text ? sqlite3_mprintf("%s)", text) : NULL;
    sqlite3_free(text);
    return whole;
}

static bool database_start(fg_keeper *k)
{
    char *name = sqlite3_mprintf("%s%s", *k->path == '/' ? "" : "./", k->path); /* file: and :memory: are names too */
    char *create = statement(k, true), *insert = statement(k, false);
    const bool good = name && create && insert &&
                      sqlite3_open_v2(name, &k->database, SQLITE_OPEN_READWRITE, NULL) == SQLITE_OK &&
                      run_sql(k, "PRAGMA journal_mode = WAL") && run_sql(k, "PRAGMA synchronous = NORMAL") &&
                      run_sql(k, create) && sqlite3_prepare_v2(k->database, insert, -1, &k->insert, NULL) == SQLITE_OK;
    sqlite3_free(name);
    sqlite3_free(create);
    sqlite3_free(insert);
    return good || fails(k, k->database ? sqlite3_errmsg(k->database) : "there is not enough memory");
}

static void database_row(fg_keeper *k, const fg_text *cells)
{
    bool good = k->begun || run_sql(k, "BEGIN");
    k->begun = good;
    for (size_t i = 0; i < k->count && good; i++)
        good =
            (cells[i].size ? sqlite3_bind_text(k->insert, (int)i + 1, cells[i].at, (int)cells[i].size, SQLITE_TRANSIENT)
                           : sqlite3_bind_null(k->insert, (int)i + 1)) == SQLITE_OK;
    good = good && sqlite3_step(k->insert) == SQLITE_DONE;
    const char *why = good ? NULL : sqlite3_errmsg(k->database);
    if (!good) (void)fails(k, why);
    (void)sqlite3_reset(k->insert);
    k->begun = sqlite3_get_autocommit(k->database) == 0; /* a full disk rolls back by itself */
    k->lost += !good;
    k->waiting += good;
}

static bool database_commit(fg_keeper *k)
{
    if (!k->begun) return true;
    const bool good = run_sql(k, "COMMIT");
    if (!good) {
        (void)fails(k, sqlite3_errmsg(k->database));
        if (sqlite3_get_autocommit(k->database)) k->lost += k->waiting;
    }
    k->begun = sqlite3_get_autocommit(k->database) == 0;
    if (!k->begun) k->waiting = 0;
    return good;
}

static void database_end(fg_keeper *k)
{
    sqlite3_finalize(k->insert);
    if (k->database) (void)run_sql(k, "PRAGMA journal_mode = DELETE"); /* one file again */
    (void)sqlite3_close(k->database);
}
#else
static bool database_start(fg_keeper *k)
{
    return fails(k, "this program was built without SQLite; install libsqlite3-dev and build it again");
}

static void database_row(fg_keeper *k, const fg_text *cells)
{
    (void)cells;
    k->lost++;
}

static bool database_commit(fg_keeper *k)
{
    (void)k;
    return true;
}

static void database_end(fg_keeper *k) { (void)k; }
#endif

/* ---- the whole of it ---- */

static bool copy_columns(fg_keeper *k, const fg_text *columns, size_t count)
{
    size_t size = 0;
    for (size_t i = 0; i < count; i++) size += columns[i].size;
    k->columns = malloc(count * sizeof *k->columns + size + 1);
    k->count = count;
    char *text = k->columns ? (char *)(k->columns + count) : NULL;
    for (size_t i = 0; text && i < count; i++) {
        memcpy(text, columns[i].at, columns[i].size);
        k->columns[i] = (fg_text){text, columns[i].size};
        text += columns[i].size;
    }
    k->cells = calloc(count + 1, sizeof *k->cells);
    return text && k->cells;
}

static bool names_fit(const fg_keeper *k, fg_mistake *mistake)
{
    fg_text *names = malloc(k->count * sizeof *names);
    if (!names) return false;
    memcpy(names, k->columns, k->count * sizeof *names);
    const bool fit = fg_save_names_fit(k->form, names, k->count, k->path, mistake);
    free(names);
    return fit;
}

static bool begin(fg_keeper *k)
{
    k->handle = fg_save_create(k->path, &k->mistake);
    if (k->handle < 0) return false;
    if (k->form == FG_SAVE_SQLITE) {
        if (database_start(k)) return true;
    } else if (wait_anew(k)) {
        if (k->form == FG_SAVE_CSV) add_text(k, k->columns);
        if (k->form == FG_SAVE_JSONL || write_text(k)) return true;
    }
    (void)unlink(k->path);
    return false;
}

static void give_back(fg_keeper *k)
{
    if (k->form == FG_SAVE_SQLITE) database_end(k);
    if (k->open && fg_memory_file_close(&k->waits)) free(k->waits.text);
    if (k->handle >= 0) (void)close(k->handle);
    fg_buffer_free(&k->shown);
    free(k->cells);
    free(k->columns);
    free(k->path);
    free(k);
}

fg_keeper *fg_keep_start(const char *path, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    *mistake = (fg_mistake){0};
    const fg_save_form form = fg_save_form_of(path, mistake);
    fg_keeper *k = form == FG_SAVE_FORMS ? NULL : calloc(1, sizeof *k);
    if (k) {
        k->form = form;
        k->handle = -1;
        k->path = fg_c_string_of(fg_text_of(path));
        if (k->path && copy_columns(k, columns, count) && names_fit(k, &k->mistake) && begin(k)) return k;
        *mistake = k->mistake;
        give_back(k);
    }
    if (!*mistake->text)
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to write it");
    return NULL;
}

static bool is_plain(fg_text cell)
{
    for (size_t i = 0; i < cell.size; i++)
        if ((unsigned char)cell.at[i] < ' ' || (unsigned char)cell.at[i] > '~') return false;
    return true;
}

/* Bytes that no file should hold are kept as escapes: such a cell is no reading either way. */
static const fg_text *clean(fg_keeper *k, const fg_text *cells)
{
    size_t i = 0, from = 0;
    while (i < k->count && is_plain(cells[i])) i++;
    if (i == k->count) return cells;
    k->shown.size = 0;
    for (i = 0; i < k->count; i++) fg_buffer_add_shown(&k->shown, cells[i]);
    if (k->shown.full) return NULL;
    for (i = 0; i < k->count; i++) { /* the buffer no longer moves */
        const size_t before = k->shown.size;
        k->shown.size = from;
        fg_buffer_add_shown(&k->shown, cells[i]);
        k->cells[i] = (fg_text){k->shown.text + from, k->shown.size - from};
        from = k->shown.size;
        k->shown.size = before;
    }
    return k->cells;
}

void fg_keep_row(fg_keeper *k, const fg_text *cells)
{
    k->rows++;
    cells = clean(k, cells);
    if (!cells)
        k->lost++;
    else if (k->form == FG_SAVE_SQLITE)
        database_row(k, cells);
    else
        add_text(k, cells);
}

static bool write_now(fg_keeper *k) { return k->form == FG_SAVE_SQLITE ? database_commit(k) : write_text(k); }

bool fg_keep_until(fg_keeper *k, int64_t now_ms)
{
    if (!k->clock_runs) k->written_ms = now_ms;
    k->clock_runs = true;
    if (now_ms - k->written_ms >= OFTEN_MS) {
        k->written_ms = now_ms;
        if (write_now(k) && k->form != FG_SAVE_SQLITE) k->failing = k->told = false;
    }
    const bool tell = k->failing && !k->told;
    k->told = k->told || k->failing;
    return !tell;
}

const fg_mistake *fg_keep_mistake(const fg_keeper *k) { return &k->mistake; }

uint64_t fg_keep_rows(const fg_keeper *k) { return k->rows; }

fg_status fg_keep_end(fg_keeper *k, fg_mistake *mistake)
{
    *mistake = (fg_mistake){0};
    if (!k) return FG_OK;
    if (!write_now(k)) k->lost += k->waiting;
    if (k->lost)
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, k->path, 0,
                             "%" PRIu64 " of %" PRIu64 " rows could not be written: %s", k->lost, k->rows,
                             strchr(k->mistake.text, ':') ? strchr(k->mistake.text, ':') + 2 : "");
    give_back(k);
    return mistake->status;
}
