/* SPDX-License-Identifier: MIT */
/* What is written: whole or not at all, nothing that was not named, and nothing of it is left behind. */
#include "../support/case_file.h"
#include "../support/suite.h"
#include "../support/tool_run.h"

#include <ficklegate/workshop.h>

#include <check.h>
#include <fcntl.h>
#include <glob.h>
#include <signal.h>
#include <sqlite3.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

static void write_text(const char *path, const char *text) { write_whole(path, text, strlen(text)); }

static void holds(const char *path, const char *text)
{
    char *now = read_whole(path, NULL);
    ck_assert_msg(now && !strcmp(now, text), "%s holds %.200s", path, now);
    free(now);
}

static void refuses(const char *words, const char *message)
{
    const int status = run_fickle(words);
    char *err = read_whole("stderr.txt", NULL);
    ck_assert_msg(status == 2, "%s: status %d", words, status);
    ck_assert_msg(strstr(err, message), "%s says %s", words, err);
    free(err);
}

static void works(const char *words)
{
    const int status = run_fickle(words);
    char *err = read_whole("stderr.txt", NULL);
    ck_assert_msg(status == 0, "%s: status %d, %s", words, status, err);
    free(err);
}

static void nothing_is_left(const char *pattern)
{
    glob_t found;
    if (glob(pattern, 0, NULL, &found) == 0) ck_abort_msg("%s is left", found.gl_pathv[0]);
    globfree(&found);
}

static const char gate[] = "number cut = 5\nsensor d { unit cm }\nflag k\nbands b from d { low | cut | high }\n"
                           "buzzer z { A4 when k }\nlamp l { on when b is high }\n"
                           "scene \"s\" { lasts 1s; d stays 4 }\ntrial \"t\" { readings \"s\"; expect k never }\n";
static const char readings[] = "t_ms,d,k,seen\n0,1,0,low\n100,9,1,high\n200,8,1,high\n300,1,0,low\n";

static void write_both(void)
{
    write_text("a.gate", gate);
    write_text("a.csv", readings);
}

/* Every way to name a file that is to be written; %s is the name. Two of them need an ending. */
static const struct {
    const char *words, *ending;
} writers[] = {
    {"replay a.gate a.csv -q --save %s", ".csv"},
    {"replay a.gate a.csv -q --save %s", ".jsonl"},
    {"replay a.gate a.csv -q --save %s", ".sqlite"},
    {"draw a.gate a.csv -q -o %s", ".png"},
    {"draw a.gate a.csv -q -o %s", ".svg"},
    {"draw a.gate a.csv -q --sound %s", ".wav"},
    {"draw --spread a.gate a.csv --label b=seen -q -o %s", ".svg"},
    {"tune a.gate a.csv --label b=seen -q -o %s", ".png"},
    {"tune a.gate a.csv --try 'cut=3..5 by 1' -q -o %s", ".svg"},
};

enum { WRITERS = sizeof writers / sizeof *writers };

static void words_for(int i, const char *name, char *words, size_t room)
{
    char path[100];
    snprintf(path, sizeof path, "%s%s", name, writers[i].ending);
    snprintf(words, room, writers[i].words, path); // NOLINT
}

static int count_files(void)
{
    glob_t found;
    const int count = glob("*", 0, NULL, &found) == 0 ? (int)found.gl_pathc : 0;
    globfree(&found);
    return count;
}

/* Names that SQLite would take for something else are names of files, to write and to read. */
START_TEST(test_odd_names_of_databases)
{
    static const char *const odd[] = {"file:y.sqlite", "file:///y.sqlite", ":memory:.sqlite",
                                      "a?mode=memory%41#.sqlite"};
    char words[200];
    write_text("a.gate", gate);
    write_text("a.csv", readings);
    if (_i == 1) ck_assert(mkdir("file:", 0777) == 0);
    works("check a.gate -q");
    const int before = count_files();
    snprintf(words, sizeof words, "replay a.gate a.csv -q --as csv --save '%s'", odd[_i]);
    works(words);
    struct stat about;
    ck_assert(stat(odd[_i], &about) == 0 && about.st_size > 0);
    snprintf(words, sizeof words, "replay a.gate '%s' -q --as csv", odd[_i]);
    works(words);
    ck_assert_int_eq(count_files(), before + (_i != 1));
}
END_TEST

/* A database that another program left in the mode where it keeps files beside it is read without making any. */
START_TEST(test_read_only_is_read_only)
{
    sqlite3 *file = NULL;
    write_text("a.gate", gate);
    ck_assert_int_eq(sqlite3_open("w.sqlite", &file), SQLITE_OK);
    ck_assert_int_eq(
        sqlite3_exec(file, "PRAGMA journal_mode = WAL; CREATE TABLE r(t_ms, d); INSERT INTO r VALUES(0, 1), (100, 7)",
                     NULL, NULL, NULL),
        SQLITE_OK);
    works("replay a.gate w.sqlite -q --as csv"); /* while the other has it open, with what it has written last */
    sqlite3_close(file);
    const int before = count_files();
    works("replay a.gate w.sqlite -q --as csv");
    ck_assert_int_eq(count_files(), before);
}
END_TEST

/* ---- what is there already ---- */

START_TEST(test_what_is_there)
{
    char words[300], path[100];
    const bool database = !strcmp(writers[_i].ending, ".sqlite");
    struct stat about;
    write_both();
    write_text("other", "other\n");
    snprintf(path, sizeof path, "link%s", writers[_i].ending);
    ck_assert_int_eq(symlink("other", path), 0);
    words_for(_i, "link", words, sizeof words);
    refuses(words, database ? "exists already" : "is a link");
    holds("other", "other\n");

    snprintf(path, sizeof path, "dangling%s", writers[_i].ending);
    ck_assert_int_eq(symlink("nowhere", path), 0);
    words_for(_i, "dangling", words, sizeof words);
    refuses(words, database ? "exists already" : "is a link");
    ck_assert(!exists("nowhere"));

    snprintf(path, sizeof path, "pipe%s", writers[_i].ending);
    ck_assert_int_eq(mkfifo(path, 0600), 0);
    words_for(_i, "pipe", words, sizeof words);
    refuses(words, database ? "exists already" : "is a device or a pipe");

    snprintf(path, sizeof path, "folder%s", writers[_i].ending);
    ck_assert_int_eq(mkdir(path, 0700), 0);
    words_for(_i, "folder", words, sizeof words);
    refuses(words, database ? "exists already" : "is a folder");

    snprintf(path, sizeof path, "two%s", writers[_i].ending);
    ck_assert_int_eq(link("other", path), 0);
    words_for(_i, "two", words, sizeof words);
    refuses(words, database ? "exists already" : "has a second name");
    holds("other", "other\n");

    snprintf(path, sizeof path, "kept%s", writers[_i].ending);
    write_text(path, "kept\n");
    ck_assert_int_eq(chmod(path, 0444), 0);
    words_for(_i, "kept", words, sizeof words);
    refuses(words, database ? "exists already" : "is write-protected");
    holds(path, "kept\n");

    ck_assert_int_eq(chmod(path, 0604), 0);
    if (database) {
        refuses(words, "exists already");
        holds(path, "kept\n");
    } else {
        works(words);
        ck_assert(stat(path, &about) == 0 && (about.st_mode & 07777) == 0604 && about.st_size != 5);
        if (geteuid() == 0) { /* root may write for others, and leaves them what is theirs */
            ck_assert_int_eq(chown(path, 12345, 23456), 0);
            works(words);
            ck_assert(stat(path, &about) == 0 && about.st_uid == 12345 && about.st_gid == 23456);
        }
    }
    nothing_is_left("*.part-*");
}
END_TEST

START_TEST(test_nothing_that_is_read)
{
    write_both();
    refuses("replay a.gate a.csv --save a.csv", "is an input of this command");
    refuses("replay a.gate ./sub/../a.csv --save a.csv", "is an input of this command");
    ck_assert_int_eq(link("a.csv", "twin.csv"), 0);
    refuses("replay a.gate a.csv --save twin.csv", "is an input of this command");
    ck_assert_int_eq(rename("a.csv", "a.svg"), 0);
    refuses("draw a.gate a.svg -o a.svg", "is an input of this command");
    refuses("tune a.gate a.svg --label b=seen -o a.svg", "is an input of this command");
    holds("a.svg", readings);
}
END_TEST

/* ---- a full disk ---- */

/* After 4 kB nothing more fits: the picture that was there stays, and so do all others. */
START_TEST(test_full_disk)
{
    char words[300], path[100];
    const bool database = !strcmp(writers[_i].ending, ".sqlite");
    write_text("a.gate", gate);
    FILE *out = fopen("a.csv", "w");
    fputs("t_ms,d,k,seen\n", out);
    for (int i = 0; i < 3000; i++) fprintf(out, "%d,%d,%d,%s\n", i * 100, i % 11, i % 2, i % 11 < 5 ? "low" : "high");
    fclose(out);
    snprintf(path, sizeof path, "full%s", writers[_i].ending);
    if (!database) write_text(path, "good\n");
    words_for(_i, "full", words, sizeof words);
    const int status = run_fickle_with("sh -c 'ulimit -f 8; exec \"$0\" \"$@\"' ", words);
    ck_assert_msg(status == 2, "%s: status %d", words, status);
    if (database)
        nothing_is_left("full*");
    else
        holds(path, "good\n");
    nothing_is_left("*.part-*");
}
END_TEST

/* A recording that goes wrong on its way: no half of what was to be kept. */
START_TEST(test_half_a_run)
{
    static const char *const endings[] = {"csv", "jsonl", "sqlite"};
    write_text("a.gate", gate);
    write_text("a.csv", "t_ms,d,k,seen\n0,1,0,low\n100,9,1,high\n50,9,1,high\n");
    char words[100];
    snprintf(words, sizeof words, "replay a.gate a.csv -q --save half.%s", endings[_i]);
    refuses(words, "a.csv:4: error");
    nothing_is_left("half*");
}
END_TEST

/* Results that nobody can take: status 2, whatever the command. */
START_TEST(test_results_that_cannot_be_written)
{
    static const char *const commands[] = {"check a.gate",
                                           "check --explain list",
                                           "check --explain unused",
                                           "replay a.gate a.csv",
                                           "replay a.gate a.csv --as csv",
                                           "replay a.gate a.csv --summary",
                                           "trial a.gate",
                                           "trial a.gate --as junit",
                                           "pretend a.gate --scene s",
                                           "pretend a.gate --edges",
                                           "why a.gate a.csv l --at 100ms",
                                           "tune a.gate a.csv --label b=seen",
                                           "tune a.gate a.csv --try 'cut=3..5 by 1'",
                                           "bake a.gate -o baked --force",
                                           "--help",
                                           "--version",
                                           "replay --help"};
    char command[600];
    write_both();
    for (size_t i = 0; i < sizeof commands / sizeof *commands; i++)
        for (int closed = 0; closed < 2; closed++) {
            snprintf(command, sizeof command, "%s %s 2>stderr.txt %s", FICKLE, commands[i],
                     closed ? ">&-" : ">/dev/full");
            const int status = system(command);
            ck_assert_msg(WIFEXITED(status) && WEXITSTATUS(status) == 2, "%s: status %d", command, WEXITSTATUS(status));
        }
    /* with standard output closed nothing is printed into the files that are opened next */
    snprintf(command, sizeof command, "%s replay a.gate a.csv --save kept.csv >&- 2>&-", FICKLE);
    ck_assert_int_ne(system(command), 0);
    holds("a.gate", gate);
    holds("a.csv", readings);
}
END_TEST

/* ---- a gate that is changed ---- */

static const char tuned[] = "tune a.gate a.csv --label b=seen --write -q";
static const char far_off[] = "number cut = 2\nsensor d { unit cm }\nflag k\nbands b from d { low | cut | high }\n"
                              "buzzer z { A4 when k }\n";
static const char tuned_gate[] = "number cut = 5\nsensor d { unit cm }\nflag k\nbands b from d { low | cut | high }\n"
                                 "buzzer z { A4 when k }\n";

START_TEST(test_tune_write)
{
    struct stat about;
    write_text("a.csv", readings);
    write_text("real.gate", far_off); /* through a link: the file changes, the link stays one */
    ck_assert_int_eq(chmod("real.gate", 0640), 0);
    ck_assert_int_eq(symlink("real.gate", "a.gate"), 0);
    works(tuned);
    holds("real.gate", tuned_gate);
    ck_assert(lstat("a.gate", &about) == 0 && S_ISLNK(about.st_mode));
    ck_assert(stat("real.gate", &about) == 0 && (about.st_mode & 07777) == 0640);

    ck_assert_int_eq(unlink("a.gate"), 0);
    write_text("other.gate", far_off);
    ck_assert_int_eq(link("other.gate", "a.gate"), 0);
    refuses(tuned, "has a second name");
    holds("other.gate", far_off);

    ck_assert_int_eq(unlink("a.gate"), 0);
    write_text("a.gate", far_off);
    ck_assert_int_eq(chmod("a.gate", 0444), 0);
    refuses(tuned, "is write-protected");
    holds("a.gate", far_off);
    nothing_is_left("*.part-*");
    nothing_is_left("*tuned*");
}
END_TEST

/* New bands stand at the end, and nothing else changes. */
START_TEST(test_tune_new_writes)
{
    write_text("a.csv", "b;c\n1,4;8\n2;9\n");
    write_text("a.gate", "sensor d { unit cm; step 0.1 }");
    works("tune a.gate a.csv --new size --write -q");
    holds("a.gate", "sensor d { unit cm; step 0.1 }\n\nbands size from d {\n    b | 4.7 | c\n"
                    "    margin 1.3 # half of the gap between the readings\n}\n");
    nothing_is_left("*.part-*");
}
END_TEST

START_TEST(test_changed_meanwhile)
{
    fg_mistake mistake;
    const fg_text before = {far_off, strlen(far_off)}, after = {tuned_gate, strlen(tuned_gate)};
    write_text("a.gate", "number cut = 3\n");
    ck_assert_int_eq(fg_file_change("a.gate", before, after, &mistake), FG_ERROR_FILE);
    ck_assert_msg(strstr(mistake.text, "has changed since it was read"), "%s", mistake.text);
    holds("a.gate", "number cut = 3\n");
    write_text("a.gate", far_off);
    ck_assert_int_eq(fg_file_change("a.gate", before, after, &mistake), FG_OK);
    holds("a.gate", tuned_gate);
}
END_TEST

/* ---- two files, or none ---- */

START_TEST(test_bake_both_or_neither)
{
    write_both();
    works("bake a.gate -o x -q");
    char *header = read_whole("x.h", NULL), *source = read_whole("x.c", NULL);
    write_text("a.gate", "flag k\nlamp l { on when k }\n");
    ck_assert_int_eq(chmod("x.c", 0444), 0);
    refuses("bake a.gate -o x -q", "write-protected");
    holds("x.h", header);
    holds("x.c", source);
    ck_assert_int_eq(unlink("x.c"), 0);
    ck_assert_int_eq(mkdir("x.c", 0700), 0);
    refuses("bake a.gate -o x -q --force", "is a folder");
    holds("x.h", header);
    ck_assert_int_eq(rename("x.h", "y.h"), 0);
    refuses("bake a.gate -o x -q --force", "is a folder");
    ck_assert(!exists("x.h"));
    nothing_is_left("*.part-*");
    free(header);
    free(source);
}
END_TEST

/* ---- asked to stop ---- */

static pid_t start_save(const char *name, int *input)
{
    int ends[2];
    ck_assert_int_eq(pipe(ends), 0);
    const pid_t child = fork();
    if (child == 0) {
        const int quiet = open("/dev/null", O_RDWR);
        dup2(ends[0], 0);
        dup2(quiet, 1);
        dup2(quiet, 2);
        close(ends[0]);
        close(ends[1]);
        execl(FICKLE, "fickle", "replay", "a.gate", "-", "--summary", "--save", name, (char *)NULL);
        _exit(99);
    }
    close(ends[0]);
    *input = ends[1];
    return child;
}

/* Rows that take until the file is there and something of it is written. */
static void feed(int input, int from, int rows)
{
    char row[64];
    if (!from) ck_assert_int_gt((int)write(input, "t_ms,d,k\n", 9), 0);
    for (int i = from; i < from + rows; i++) {
        const int size = snprintf(row, sizeof row, "%d,%d,0\n", i * 100, i % 10);
        ck_assert_int_eq((int)write(input, row, (size_t)size), size);
    }
}

static bool appears(const char *pattern)
{
    for (int i = 0; i < 500; i++) {
        glob_t found;
        const bool there = glob(pattern, 0, NULL, &found) == 0;
        if (there) globfree(&found);
        if (there) return true;
        usleep(10000);
    }
    return false;
}

static const struct {
    const char *name;
    int signal_number;
} stops[] = {{"x.csv", SIGINT},    {"x.csv", SIGTERM},    {"x.csv", SIGHUP},   {"x.jsonl", SIGTERM},
             {"x.sqlite", SIGINT}, {"x.sqlite", SIGTERM}, {"x.sqlite", SIGHUP}};

START_TEST(test_stop)
{
    int input, status = 0;
    const bool database = strstr(stops[_i].name, "sqlite") != NULL;
    write_both();
    (void)signal(SIGPIPE, SIG_IGN);
    const pid_t child = start_save(stops[_i].name, &input);
    feed(input, 0, 40000);
    ck_assert(appears(database ? "x.sqlite-wal" : "x.*.part-*"));
    ck_assert_int_eq(kill(child, stops[_i].signal_number), 0);
    bool reads = true;
    for (int i = 40000; reads && i < 4000000; i++) { /* it goes on until a step */
        char row[64];
        const int size = snprintf(row, sizeof row, "%d,1,0\n", i * 100);
        reads = write(input, row, (size_t)size) == size;
    }
    close(input);
    ck_assert(waitpid(child, &status, 0) == child);
    ck_assert_msg(WIFSIGNALED(status) && WTERMSIG(status) == stops[_i].signal_number, "%s ended with %x",
                  stops[_i].name, (unsigned)status);
    nothing_is_left("*.part-*");
    nothing_is_left("*-wal");
    nothing_is_left("*-shm");
    nothing_is_left("*-journal");
    ck_assert_int_eq(exists(stops[_i].name), database);
    if (!database) return;
    sqlite3 *file = NULL; /* and what is there can be read */
    ck_assert_int_eq(sqlite3_open_v2("x.sqlite", &file, SQLITE_OPEN_READONLY, NULL), SQLITE_OK);
    ck_assert_int_eq(sqlite3_exec(file, "SELECT count(*) FROM steps", NULL, NULL, NULL), SQLITE_OK);
    sqlite3_close(file);
}
END_TEST

/* A kill leaves a file; the next run of the same name takes it away, but not what another still writes. */
START_TEST(test_leftovers)
{
    int input, status;
    char alive[64], other[] = "x.csv.part-77-0.bak";
    write_both();
    const pid_t child = start_save("x.csv", &input);
    feed(input, 0, 2000);
    ck_assert(appears("x.csv.part-*"));
    ck_assert_int_eq(kill(child, SIGKILL), 0);
    ck_assert_int_eq(waitpid(child, &status, 0), child);
    close(input);
    ck_assert(appears("x.csv.part-*"));
    snprintf(alive, sizeof alive, "x.csv.part-%ld-0", (long)getpid());
    write_text(alive, "somebody's\n");
    write_text(other, "somebody's\n");
    works("replay a.gate a.csv -q --save x.csv");
    ck_assert(exists(alive) && exists(other) && exists("x.csv"));
    char gone[64];
    snprintf(gone, sizeof gone, "x.csv.part-%ld-0", (long)child);
    ck_assert_msg(!exists(gone), "%s is still there", gone);
}
END_TEST

/* ---- names that a file cannot keep apart ---- */

static const struct {
    const char *gate, *file, *message;
} names[] = {
    {"sensor t_ms { unit cm }\nsensor d\n", "x.csv", "would be taken for 't_ms'"},
    {"sensor d\nflag t_ms\n", "x.jsonl", "would be taken for 't_ms'"},
    {"sensor d\nthreshold t_ms from d { over 5 }\n", "x.sqlite", "would be taken for 't_ms'"},
    {"sensor d\nsensor D { unit cm }\n", "x.sqlite", "cannot tell 'D' from 'd'|cannot tell 'd' from 'D'"},
    {"sensor d\nsensor D { unit cm }\n", "x.csv", NULL},
    {"sensor d\nsensor D { unit cm }\n", "x.jsonl", NULL},
};

static bool says_one_of(const char *text, const char *messages)
{
    char list[200];
    snprintf(list, sizeof list, "%s", messages);
    for (char *one = strtok(list, "|"); one; one = strtok(NULL, "|"))
        if (strstr(text, one)) return true;
    return false;
}

START_TEST(test_names)
{
    char words[100];
    write_text("n.gate", names[_i].gate);
    write_text("n.csv", "t_ms,d,D\n0,1,2\n100,3,4\n");
    snprintf(words, sizeof words, "replay n.gate n.csv -q --save %s", names[_i].file);
    const int status = run_fickle(words);
    char *err = read_whole("stderr.txt", NULL);
    ck_assert_msg(names[_i].message ? status == 2 && says_one_of(err, names[_i].message) : status == 0, "%s: %d, %s",
                  names[_i].gate, status, err);
    ck_assert_int_eq(exists(names[_i].file), !names[_i].message);
    free(err);
}
END_TEST

/* Two names that are alike in 255 letters, and more names than a database has columns. */
START_TEST(test_long_and_many_names)
{
    char words[100];
    FILE *out = fopen("long.gate", "w");
    for (int i = 0; i < 2; i++) fprintf(out, "flag k%0300d%d\n", 0, i);
    fputs("sensor d\n", out);
    fclose(out);
    write_text("n.csv", "t_ms,d\n0,1\n100,3\n");
    works("replay long.gate n.csv -q --save long.jsonl");
    works("replay long.gate long.jsonl -q --as csv");
    char *kept = read_whole("long.jsonl", NULL);
    int names_kept = 0;
    for (const char *at = kept; (at = strstr(at, "\"k0")); at++) names_kept++;
    ck_assert_int_eq(names_kept, 4);
    free(kept);
    for (int count = 1998; count <= 2000; count++) {
        out = fopen("many.gate", "w");
        for (int i = 0; i < count; i++) fprintf(out, "flag k%d\n", i);
        fputs("sensor d\n", out);
        fclose(out);
        snprintf(words, sizeof words, "replay many.gate n.csv -q --save many%d.sqlite", count);
        if (count < 1999)
            works(words);
        else
            refuses(words, "can have 2000 columns");
    }
    nothing_is_left("many1999*");
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_checked_fixture(tests, enter_folder, leave_folder);
    tcase_add_loop_test(tests, test_what_is_there, 0, WRITERS);
    tcase_add_loop_test(tests, test_odd_names_of_databases, 0, 4);
    tcase_add_test(tests, test_read_only_is_read_only);
    tcase_add_test(tests, test_nothing_that_is_read);
    tcase_add_loop_test(tests, test_full_disk, 0, WRITERS);
    tcase_add_loop_test(tests, test_half_a_run, 0, 3);
    tcase_add_test(tests, test_results_that_cannot_be_written);
    tcase_add_test(tests, test_tune_write);
    tcase_add_test(tests, test_tune_new_writes);
    tcase_add_test(tests, test_changed_meanwhile);
    tcase_add_test(tests, test_bake_both_or_neither);
    tcase_add_loop_test(tests, test_stop, 0, sizeof stops / sizeof *stops);
    tcase_add_test(tests, test_leftovers);
    tcase_add_loop_test(tests, test_names, 0, sizeof names / sizeof *names);
    tcase_add_test(tests, test_long_and_many_names);
}

int main(void) { return run_suite("files", fill); }
