/* SPDX-License-Identifier: MIT */
/* What every name was at every step, kept in a file.
 *
 * CSV and JSON Lines are written under another name beside it and renamed when they are whole. An SQLite file is there
 * from the beginning, in WAL mode, and complete up to its last commit. */
#include "workshop/base/draft.h"

#include <ficklegate/save.h>
#include "workshop/recordings/recording.h"
#include "workshop/recordings/save_form.h"

#include <errno.h>
#include <fcntl.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>
#ifndef FG_WITHOUT_JSON
#include <jansson.h>
#endif
#ifndef FG_WITHOUT_SQLITE
#include <sqlite3.h>
#endif

struct fg_saver {
    const fg_program *program;
    fg_save_form form;
    bool created; /* the database is ours */
    char *path;
    fg_draft draft; /* until it is whole; `file` writes to it */
    FILE *file;
    fg_buffer text;
#ifndef FG_WITHOUT_SQLITE
    sqlite3 *database;
    sqlite3_stmt *insert;
    uint32_t uncommitted;
#endif
    bool failed;
    int error; /* errno of the first failure */
};

static bool is_kept(const fg_declared *d) { return d->kind != FG_KIND_NUMBER && d->kind != FG_KIND_SEQUENCE; }

/* A sensor's value while it has one; everything else, its fault too, as it is reported. */
static fg_text text_of(fg_saver *s, const fg_declared *d, const fg_run *run)
{
    char value[FG_VALUE_TEXT_SIZE];
    fg_value steps;
    if (d->kind != FG_KIND_SENSOR || !fg_sensor_value(run, d->index, &steps)) return fg_text_now(&s->text, d, run);
    s->text.size = 0;
    fg_buffer_add(&s->text, (fg_text){value, fg_value_write(steps, d->decimals, value)});
    return fg_buffer_text(&s->text);
}

/* ---- CSV ---- */

static void csv_heading(fg_saver *s)
{
    fputs("t_ms", s->file);
    for (uint32_t i = 0; i < s->program->declared_count; i++) {
        if (!is_kept(&s->program->declared[i])) continue;
        fputc(',', s->file);
        fg_csv_cell(s->file, s->program->declared[i].name);
    }
    fputc('\n', s->file);
}

static void csv_step(fg_saver *s, const fg_run *run, int64_t t_ms)
{
    fprintf(s->file, "%" PRId64, t_ms);
    for (uint32_t i = 0; i < s->program->declared_count; i++) {
        if (!is_kept(&s->program->declared[i])) continue;
        fputc(',', s->file);
        fg_csv_cell(s->file, text_of(s, &s->program->declared[i], run));
    }
    fputc('\n', s->file);
}

/* ---- JSON Lines ---- */

#ifndef FG_WITHOUT_JSON
static json_t *json_of(fg_saver *s, const fg_declared *d, const fg_run *run)
{
    const fg_text text = text_of(s, d, run);
    const bool number = d->kind == FG_KIND_COUNT || (d->kind == FG_KIND_SENSOR && fg_answer(run, d->slot) == FG_YES);
    if (!number) return json_stringn_nocheck(text.at, text.size);
    fg_buffer_end(&s->text);
    if (s->text.full) return NULL;
    return d->decimals ? json_real(strtod(s->text.text, NULL)) : json_integer(strtoll(s->text.text, NULL, 10));
}

static void json_step(fg_saver *s, const fg_run *run, int64_t t_ms)
{
    json_t *line = json_object();
    bool good = json_object_set_new(line, "t_ms", json_integer(t_ms)) == 0;
    for (uint32_t i = 0; i < s->program->declared_count; i++) {
        const fg_declared *d = &s->program->declared[i];
        if (!is_kept(d)) continue;
        json_t *value = json_of(s, d, run); /* first: its text may need the buffer */
        s->text.size = 0;
        fg_buffer_add(&s->text, d->name);
        fg_buffer_end(&s->text);
        good = !s->text.full && json_object_set_new(line, s->text.text, value) == 0 && good;
    }
    good = good && json_dumpf(line, s->file, JSON_COMPACT | JSON_REAL_PRECISION(15)) == 0;
    fputc('\n', s->file);
    s->failed = s->failed || !good;
    json_decref(line);
}
#else
static void json_step(fg_saver *s, const fg_run *run, int64_t t_ms)
{
    (void)run;
    (void)t_ms;
    s->failed = true;
}
#endif

/* ---- SQLite ---- */

#ifndef FG_WITHOUT_SQLITE
enum { BATCH = 1000 };

static bool run_sql(fg_saver *s, const char *sql)
{
    return sqlite3_exec(s->database, sql, NULL, NULL, NULL) == SQLITE_OK;
}

static bool database_start(fg_saver *s)
{
    fg_buffer create = {0}, insert = {0};
    fg_buffer_add_c(&create, "CREATE TABLE steps (t_ms INTEGER");
    fg_buffer_add_c(&insert, "INSERT INTO steps VALUES (?");
    for (uint32_t i = 0; i < s->program->declared_count; i++) {
        if (!is_kept(&s->program->declared[i])) continue;
        fg_buffer_add_c(&create, ", \"");
        fg_buffer_add(&create, s->program->declared[i].name); /* letters, digits and _ only */
        fg_buffer_add_c(&create, "\" NUMERIC");
        fg_buffer_add_c(&insert, ", ?");
    }
    fg_buffer_add(&create, (fg_text){")", 2});
    fg_buffer_add(&insert, (fg_text){")", 2});
    char *name = sqlite3_mprintf("%s%s", *s->path == '/' ? "" : "./", s->path); /* file: and :memory: are names too */
    const bool good =
        !create.full && !insert.full && name &&
        sqlite3_open_v2(name, &s->database, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE, NULL) == SQLITE_OK &&
        run_sql(s, "PRAGMA journal_mode = WAL") && run_sql(s, "PRAGMA synchronous = NORMAL") &&
        run_sql(s, create.text) && sqlite3_prepare_v2(s->database, insert.text, -1, &s->insert, NULL) == SQLITE_OK &&
        run_sql(s, "BEGIN");
    fg_buffer_free(&create);
    fg_buffer_free(&insert);
    sqlite3_free(name);
    return good;
}

static void database_step(fg_saver *s, const fg_run *run, int64_t t_ms)
{
    int column = 1;
    bool good = sqlite3_bind_int64(s->insert, column++, t_ms) == SQLITE_OK;
    for (uint32_t i = 0; i < s->program->declared_count && good; i++) {
        if (!is_kept(&s->program->declared[i])) continue;
        const fg_text text = text_of(s, &s->program->declared[i], run);
        good = (text.size ? sqlite3_bind_text(s->insert, column, text.at, (int)text.size, SQLITE_TRANSIENT)
                          : sqlite3_bind_null(s->insert, column)) == SQLITE_OK;
        column++;
    }
    good = good && sqlite3_step(s->insert) == SQLITE_DONE && sqlite3_reset(s->insert) == SQLITE_OK;
    if (good && ++s->uncommitted == BATCH) {
        good = run_sql(s, "COMMIT") && run_sql(s, "BEGIN");
        s->uncommitted = 0;
    }
    s->failed = s->failed || !good;
}

static bool database_end(fg_saver *s)
{
    sqlite3_finalize(s->insert);
    /* Whole, it is one file again, which can be copied and read without others beside it. */
    const bool good = !s->failed && run_sql(s, "COMMIT") && run_sql(s, "PRAGMA journal_mode = DELETE");
    const bool closed = sqlite3_close(s->database) == SQLITE_OK;
    s->database = NULL;
    s->created = !closed || !good; /* what is whole stays */
    return closed && good;
}

/* Nothing of it stays. */
static void database_drop(fg_saver *s)
{
    static const char *const tails[] = {"", "-wal", "-shm", "-journal"};
    char name[4096];
    if (s->database) {
        sqlite3_finalize(s->insert);
        (void)sqlite3_close(s->database);
    }
    if (!s->created) return;
    for (size_t i = 0; i < sizeof tails / sizeof *tails; i++) {
        const int size = snprintf(name, sizeof name, "%s%s", s->path, tails[i]);
        if (size < (int)sizeof name) (void)unlink(name);
    }
}
#else
static bool database_start(fg_saver *s)
{
    (void)s;
    return false;
}

static void database_step(fg_saver *s, const fg_run *run, int64_t t_ms)
{
    (void)run;
    (void)t_ms;
    s->failed = true;
}

static bool database_end(fg_saver *s)
{
    (void)s;
    return false;
}

static void database_drop(fg_saver *s) { (void)s; }
#endif

/* ---- names ---- */

/* Does each name get a column of its own? Told before anything is played. */
static bool names_fit(const fg_program *program, fg_save_form kind, const char *path, fg_mistake *mistake)
{
    fg_text *names = malloc(((size_t)program->declared_count + 1) * sizeof *names);
    size_t count = 0;
    bool good = names != NULL;
    if (!good) (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to write it");
    for (uint32_t i = 0; good && i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        if (!is_kept(d)) continue;
        names[count++] = d->name;
        if (fg_time_kind_of(d->name) != FG_TIME_MS) continue;
        (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0,
                             "has a column for the time, which would be taken for '%.*s'; rename that in the gate",
                             (int)d->name.size, d->name.at);
        good = false;
    }
    good = good && fg_save_names_fit(kind, names, count, path, mistake);
    free(names);
    return good;
}

/* ---- the whole of it ---- */

static void drop(fg_saver *s)
{
    if (s->file) (void)fclose(s->file);
    fg_draft_drop(&s->draft);
    if (s->form == FG_SAVE_SQLITE) database_drop(s);
    fg_buffer_free(&s->text);
    free(s->path);
    free(s);
}

/* Made here and now, so that of two runs one has it; what is there already stays. */
static fg_status create_database(fg_saver *s, fg_mistake *mistake)
{
    const int handle = fg_save_create(s->path, mistake);
    if (handle < 0) return FG_ERROR_FILE;
    (void)close(handle);
    s->created = true;
    return database_start(s) ? FG_OK : FG_ERROR_FILE;
}

static fg_status begin(fg_saver *s, fg_mistake *mistake)
{
    if (s->form == FG_SAVE_SQLITE) return create_database(s, mistake);
    const fg_status status = fg_draft_begin(&s->draft, s->path, mistake);
    if (status != FG_OK) return status;
    const int handle = dup(s->draft.handle);
    s->file = handle < 0 ? NULL : fdopen(handle, "wb");
    if (!s->file && handle >= 0) (void)close(handle);
    if (s->file && s->form == FG_SAVE_CSV) csv_heading(s);
    return s->file ? FG_OK : FG_ERROR_FILE;
}

static const char *why(const fg_saver *s)
{
#ifndef FG_WITHOUT_SQLITE
    if (s->database) return sqlite3_errmsg(s->database);
#endif
    if (s->form == FG_SAVE_SQLITE)
        return "this program was built without SQLite; install libsqlite3-dev and build it again";
    return s->error ? strerror(s->error) : errno ? strerror(errno) : "there is not enough memory";
}

fg_saver *fg_save_start(const fg_program *program, const char *path, fg_mistake *mistake)
{
    *mistake = (fg_mistake){0};
    const fg_save_form kind = fg_save_form_of(path, mistake);
    if (kind == FG_SAVE_FORMS || !names_fit(program, kind, path, mistake)) return NULL;
    fg_saver *s = calloc(1, sizeof *s);
    const size_t size = strlen(path) + 1;
    errno = 0;
    if (s) {
        s->program = program;
        s->form = kind;
        s->draft = (fg_draft){.handle = -1, .slot = -1};
        s->path = malloc(size);
        if (s->path) {
            memcpy(s->path, path, size);
            if (begin(s, mistake) == FG_OK) return s;
        }
        if (!*mistake->text) (void)fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "cannot be written: %s", why(s));
        drop(s);
    } else {
        (void)fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to write it");
    }
    return NULL;
}

bool fg_save_step(fg_saver *s, const fg_run *run, int64_t t_ms)
{
    if (s->failed) return false;
    errno = 0;
    if (s->form == FG_SAVE_CSV) csv_step(s, run, t_ms);
    if (s->form == FG_SAVE_JSONL) json_step(s, run, t_ms);
    if (s->form == FG_SAVE_SQLITE) database_step(s, run, t_ms);
    s->failed = s->failed || s->text.full || (s->file && ferror(s->file));
    if (s->failed) s->error = errno;
    return !s->failed;
}

fg_status fg_save_end(fg_saver *s, bool good, fg_mistake *mistake)
{
    bool written = !s->failed;
    errno = 0;
    if (s->form == FG_SAVE_SQLITE) {
        if (!written) (void)fg_mistake_set(mistake, FG_ERROR_FILE, s->path, 0, "cannot be written: %s", why(s));
        if (written && good && !database_end(s)) {
            written = false;
            (void)fg_mistake_set(mistake, FG_ERROR_FILE, s->path, 0, "cannot be written completely");
        }
    } else {
        written = written && fflush(s->file) == 0;
        if (!written)
            (void)fg_mistake_set(mistake, FG_ERROR_FILE, s->path, 0, "cannot be written: %s", why(s));
        else if (good)
            written = fg_draft_publish(&s->draft, mistake) == FG_OK;
    }
    drop(s);
    return written ? FG_OK : FG_ERROR_FILE;
}
