/* SPDX-License-Identifier: MIT */
/* Gates, recordings and names from somebody who wants in: nothing of them is executed, nothing steers a terminal, and
 * what other programs read stays well formed. */
#include "../support/case_file.h"
#include "../support/suite.h"
#include "../support/tool_run.h"

#include <ficklegate/workshop.h>

#include <check.h>
#include <expat.h>
#include <jansson.h>
#include <sqlite3.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

static void write_text(const char *path, const char *text) { write_whole(path, text, strlen(text)); }

/* ---- what reaches the plotter ---- */

/* Each would leave a file `in` behind if somebody executed it. */
static const char *const payloads[] = {"`touch in`",
                                       "$(touch in)",
                                       "'; system('touch in'); '",
                                       "\"\"; system(\"\"touch in\"\"); \"\"",
                                       "\"\"; system \"\"touch in\"\"; x=\"\"",
                                       "@ARGV `touch in` @x",
                                       "' at 0,0\\n!touch in\\n#",
                                       "\\`touch in\\` \\\\`touch in\\\\`",
                                       "{{/Symbol `touch in`}} ^{{x}}_{{y}}",
                                       "%s%n%d`touch in`",
                                       "'' `touch in` ''''",
                                       "\\",
                                       "END_OF_DATA `touch in`"};

enum { PAYLOADS = sizeof payloads / sizeof *payloads };

static const char readings[] = "t_ms,d,k,seen\n0,1,0,low\n100,9,1,high\n200,9,1,high\n300,1,0,low\n400,2,0,low\n";

/* `text`: as it stands inside of quotes in a gate. */
static void write_gate(const char *text)
{
    FILE *out = fopen("a.gate", "w");
    fprintf(out,
            "gate \"%s\"\nevery 100ms\nnumber cut = 5\nsensor d { unit \"%s\" }\nflag k\n"
            "bands b from d { low \"%s\" | cut | high \"%s\" }\n"
            "display board { size 60x2; show \"%s\", \"{b}\" when k; show \"%s\" }\nbuzzer z { A4 when k }\n"
            "scene \"%s\" { lasts 1s; d ramps 0 to 9 from 0s to 1s }\n"
            "trial \"%s\" { readings \"a.csv\"; expect k at 150ms; expect board is \"%s\" at end }\n",
            text, text, text, text, text, text, text, text, text);
    fclose(out);
    write_text("a.csv", readings);
}

static void nobody_got_in(const char *how, const char *payload)
{
    ck_assert_msg(!exists("in"), "%s executed %s", how, payload);
}

START_TEST(test_texts_of_a_gate)
{
    static const char *const commands[] = {
        "draw a.gate a.csv -o a.svg -q",
        "draw a.gate a.csv -o a.png --only d,board --dark -q",
        "draw --spread a.gate a.csv --label b=seen -o b.png -q",
        "tune a.gate a.csv --label b=seen -o c.svg -q",
        "tune a.gate a.csv --try 'cut=3..7 by 1' -o d.svg -q",
        "replay a.gate a.csv --verbose",
        "trial a.gate --coverage",
        "why a.gate a.csv board --at 200ms",
        "bake a.gate -o baked",
        "check a.gate",
    };
    write_gate(payloads[_i]);
    for (size_t i = 0; i < sizeof commands / sizeof *commands; i++) {
        const int status = run_fickle(commands[i]);
        char *err = read_whole("stderr.txt", NULL);
        ck_assert_msg(status == 0 || (status == 1 && strstr(commands[i], "trial")), "%s with %s: status %d, %s",
                      commands[i], payloads[_i], status, err);
        free(err);
        nobody_got_in(commands[i], payloads[_i]);
    }
    ck_assert(exists("a.svg") && exists("a.png") && exists("b.png") && exists("c.svg") && exists("d.svg"));
}
END_TEST

/* The name of a recording and of a scene stand in the title of a picture. */
START_TEST(test_names_of_readings)
{
    static const char *const names[] = {"`touch in`.csv", "x';system('touch in');'.csv", "x\n!touch in\n.csv",
                                        "x\";system(\"touch in\");\".csv", "@x `touch in`.csv"};
    write_gate("a");
    for (size_t i = 0; i < sizeof names / sizeof *names; i++) {
        write_text(names[i], readings);
        FILE *out = fopen("name.sh", "w");
        fprintf(out, "name=$(cat <<'END'\n%s\nEND\n)\n%s draw a.gate \"$name\" -o a.svg -q", names[i], FICKLE);
        fclose(out);
        ck_assert_msg(system("sh name.sh 2>stderr.txt") == 0, "no picture of %s", names[i]);
        nobody_got_in("draw", names[i]);
    }
}
END_TEST

/* Names of pictures: each is a file of that name, or refused. */
START_TEST(test_names_of_pictures)
{
    static const char *const names[] = {"|touch in;.png", "x'.png", "`touch in`.png",  "a\n!touch in\n.svg",
                                        "-o.png",         "\".svg", "$(touch in).svg", "| cat > in; .svg"};
    write_gate("a");
    for (size_t i = 0; i < sizeof names / sizeof *names; i++) {
        FILE *out = fopen("name.sh", "w");
        fprintf(out,
                "name=$(cat <<'END'\n%s\nEND\n)\n%s draw a.gate a.csv -q -o \"./$name\" && %s draw a.gate a.csv -q -o "
                "\"$name\"",
                names[i], FICKLE, FICKLE);
        fclose(out);
        const int status = system("sh name.sh 2>stderr.txt");
        ck_assert_msg(status == 0 && exists(names[i]), "no picture called %s", names[i]);
        nobody_got_in("draw", names[i]);
    }
}
END_TEST

/* A user's own settings change no picture. */
START_TEST(test_settings_of_the_plotter)
{
    static const char settings[] = "system('touch in')\nset terminal dumb\nset output 'in'\n";
    write_gate("a");
    write_text(".gnuplot", settings);
    ck_assert_int_eq(run_fickle_with("HOME=. ", "draw a.gate a.csv -o a.svg -q"), 0);
    nobody_got_in("draw", ".gnuplot");
    char *svg = read_whole("a.svg", NULL);
    ck_assert_ptr_nonnull(strstr(svg, "</svg>"));
    free(svg);
}
END_TEST

/* ---- what is not UTF-8 ---- */

static const struct {
    const char *text;
    unsigned line, column;
    const char *message;
} encodings[] = {
    {"gate \"Caf\xe9\"\nflag k\n", 1, 10, "this is not UTF-8"},
    {"flag k # \xff\n", 1, 10, "this is not UTF-8"},
    {"flag k\nlamp l { on \xc0\x80 }\n", 2, 13, "this is not UTF-8"},
    {"flag k\ngate \"\xed\xa0\x80\"\n", 2, 7, "this is not UTF-8"},
    {"flag k\ngate \"\xf4\x90\x80\x80\"\n", 2, 7, "this is not UTF-8"},
    {"flag k\ngate \"cut \xe2\x82", 2, 11, "this is not UTF-8"},
    {"\xff\xfe"
     "f\1",
     1, 1, "this file is UTF-16"},
};

START_TEST(test_encoding)
{
    char place[64];
    write_text("a.gate", encodings[_i].text);
    ck_assert_int_eq(run_fickle("check a.gate"), 2);
    char *err = read_whole("stderr.txt", NULL);
    snprintf(place, sizeof place, "a.gate:%u:%u: error: ", encodings[_i].line, encodings[_i].column);
    ck_assert_msg(strstr(err, place) && strstr(err, encodings[_i].message), "%s", err);
    ck_assert_uint_eq(fg_utf8_wrong((fg_text){err, strlen(err)}), strlen(err)); /* and the message is */
    free(err);
    write_text("b.gate", "include \"a.gate\"\n");
    ck_assert_int_eq(run_fickle("check b.gate"), 2);
    err = read_whole("stderr.txt", NULL);
    ck_assert_msg(strstr(err, place), "%s", err);
    free(err);
}
END_TEST

/* ---- what would steer a terminal ---- */

#define STEERS                                                                                                         \
    "\x1b]0;owned\a\x1b[2J\x7f \xc2\x9b"                                                                               \
    "31m \xe2\x80\xae"                                                                                                 \
    "txt \xe2\x81\xa6 \xef\xbb\xbf \xe2\x80\xa8"

static void shows_nothing_that_steers(const char *file, const char *how)
{
    size_t size = 0;
    char *text = read_whole(file, &size);
    uint32_t character = 0;
    for (size_t i = 0, length; i < size; i += length) {
        length = fg_utf8_size((fg_text){text + i, size - i}, &character);
        ck_assert_msg(length, "%s: %s is not UTF-8 at byte %zu: %.60s", how, file, i, text + i);
        const bool steers = (character < ' ' && character != '\n') || (character >= 0x7f && character < 0xa0) ||
                            (character >= 0x2028 && character <= 0x202e) ||
                            (character >= 0x2066 && character <= 0x2069) || character == 0xfeff;
        ck_assert_msg(!steers, "%s: %s holds U+%04X: %.60s", how, file, character, text + i);
    }
    free(text);
}

START_TEST(test_terminal)
{
    static const char rows[] =
        "t_ms,d,k,seen,\"" STEERS "\"\n0,1,0,low,\n100,\"" STEERS "\xff\",1,\"" STEERS "\nx\",\n200,9,1,high,\n";
    static const char *const commands[] = {"check a.gate",
                                           "replay a.gate a.csv --verbose",
                                           "replay a.gate a.csv --summary --coverage",
                                           "trial a.gate",
                                           "trial a.gate --as tap",
                                           "why a.gate a.csv board --at 100ms",
                                           "tune a.gate a.csv --label b=seen --rule b",
                                           "bake a.gate -o baked --force",
                                           "bake a.gate -o tables --tables",
                                           "replay a.gate a.csv --scene no\x1b[31m",
                                           "replay a.gate missing\x1b[31m.csv",
                                           "draw a.gate a.csv --only \x1b[31m -o a.png",
                                           "replay a.gate a.csv --set x\x1b=5",
                                           "replay a.gate a.csv --column d=\x1b"};
    FILE *out = fopen("a.gate", "w");
    fprintf(out,
            "gate \"%s\"\nsensor d { unit \"%s\" }\nflag k\nbands b from d { low | 5 | high \"%s\" }\n"
            "display board { size 60x2; show \"%s\", \"{b}\" when k; show \"x\" } # %s\n"
            "trial \"%s # SKIP\" { readings \"a.csv\"; expect k at 150ms; expect board is \"%s\" at end\n"
            "  expect b matches seen }\n",
            STEERS, STEERS, STEERS, STEERS, STEERS, STEERS, STEERS);
    fclose(out);
    write_text("a.csv", rows);
    for (size_t i = 0; i < sizeof commands / sizeof *commands; i++) {
        (void)run_fickle(commands[i]);
        shows_nothing_that_steers("stdout.txt", commands[i]);
        shows_nothing_that_steers("stderr.txt", commands[i]);
    }
    shows_nothing_that_steers("baked.h", "bake");
    shows_nothing_that_steers("baked.c", "bake");
    shows_nothing_that_steers("tables.h", "bake --tables");
    shows_nothing_that_steers("tables.c", "bake --tables");
}
END_TEST

/* ---- what other programs read ---- */

static void parse_xml(const char *file)
{
    size_t size = 0;
    char *text = read_whole(file, &size);
    XML_Parser parser = XML_ParserCreate(NULL);
    const enum XML_Status good = XML_Parse(parser, text, (int)size, 1);
    ck_assert_msg(good, "%s, line %lu: %s", file, XML_GetCurrentLineNumber(parser),
                  XML_ErrorString(XML_GetErrorCode(parser)));
    XML_ParserFree(parser);
    free(text);
}

/* Each line is a version, a plan, a result with its number, or a comment; no result is a directive. */
static void parse_tap(const char *file, int results)
{
    int number = 0, planned = 0;
    char *text = read_whole(file, NULL);
    for (char *line = strtok(text, "\n"); line; line = strtok(NULL, "\n")) {
        int count;
        if (sscanf(line, "ok %d - ", &count) == 1 || sscanf(line, "not ok %d - ", &count) == 1) {
            ck_assert_int_eq(count, ++number);
            for (const char *c = line; *c; c++) ck_assert_msg(*c != '#' || c[-1] == '\\', "a directive: %s", line);
        } else if (sscanf(line, "1..%d", &count) == 1) {
            planned = count;
        } else {
            ck_assert_msg(*line == '#' || !strcmp(line, "TAP version 13"), "what is this: %s", line);
        }
    }
    ck_assert_int_eq(number, results);
    ck_assert_int_eq(planned, results);
    free(text);
}

static void parse_json_lines(const char *file)
{
    char *text = read_whole(file, NULL);
    int lines = 0;
    for (char *line = strtok(text, "\n"); line; line = strtok(NULL, "\n"), lines++) {
        json_error_t error;
        json_t *object = json_loads(line, JSON_REJECT_DUPLICATES, &error);
        ck_assert_msg(json_is_object(object) && json_object_size(object) == 5, "%s: %s", error.text, line);
        json_decref(object);
    }
    ck_assert_int_gt(lines, 3);
    free(text);
}

START_TEST(test_forms)
{
    static const char *const texts[] = {
        "a ]]> b & <c> 'd'", "\xef\xbf\xbe \xef\xbf\xbf", "x # SKIP \\ # TODO", STEERS, "&#0; &lt;", "<!-- -->"};
    static const char rows[] = "t_ms,d,k,seen\n0,1,0,low\n100,9,1,\"]]>\n# not ok\xff\"\n200,9,1,high\n";
    for (size_t i = 0; i < sizeof texts / sizeof *texts; i++) {
        write_gate(texts[i]);
        FILE *out = fopen("a.gate", "a");
        fprintf(
            out,
            "trial \"two %s\" { readings \"a.csv\"; expect b matches seen; expect k # SKIP\n  or not\n  k always }\n",
            texts[i]);
        fclose(out);
        write_text("a.csv", rows);
        ck_assert_int_eq(run_fickle("trial a.gate --as junit"), 1);
        parse_xml("stdout.txt");
        ck_assert_int_eq(run_fickle("trial a.gate --as tap"), 1);
        parse_tap("stdout.txt", 4);
        ck_assert_int_eq(run_fickle("replay a.gate a.csv --as jsonl"), 0);
        parse_json_lines("stdout.txt");
        ck_assert_int_eq(run_fickle("draw a.gate a.csv -o a.svg -q"), 0);
        parse_xml("a.svg");
    }
}
END_TEST

/* Arguments that are told back, by the tool's own words and by the library that reads options. */
START_TEST(test_arguments)
{
    static const char *const words[] = {"che\x1b[31mck a.gate",
                                        "check a.gate '--as=\x1b[31m'",
                                        "check a.gate '--\x1b[31m'",
                                        "check a.gate '-\x1b[31m'",
                                        "trial a.gate --jobs '\x1b[31m'",
                                        "draw a.gate a.csv -o a.svg --size '\x1b]0;x\a'",
                                        "replay a.gate a.csv 'one\x1b[31m'",
                                        "replay a.gate a.csv --every '\x1b[31m'",
                                        "check --explain '\x1b[31m'",
                                        "why a.gate a.csv 'k\xff' --at '\xe2\x80\xae'"};
    write_gate("plain");
    write_text("a.csv", "t_ms,d,k\n0,1,0\n");
    for (size_t i = 0; i < sizeof words / sizeof *words; i++) {
        ck_assert_msg(run_fickle(words[i]) == 2, "%s", words[i]);
        shows_nothing_that_steers("stderr.txt", words[i]);
    }
}
END_TEST

/* The name of a baked header stands in an #include. */
START_TEST(test_names_of_headers)
{
    static const char *const odd[] = {"a\"b",   "a\\b", "a\n#error b", "a\x1b[31m", "a\"\n#include \"b",
                                      "a?\?/b", "a\xff"};
    char words[200];
    write_gate("plain");
    for (size_t i = 0; i < sizeof odd / sizeof *odd; i++) {
        (void)snprintf(words, sizeof words, "bake a.gate -o '%s'", odd[i]);
        ck_assert_msg(run_fickle(words) == 2, "%s", words);
        shows_nothing_that_steers("stderr.txt", words);
        nobody_got_in("bake -o", odd[i]);
        ck_assert_int_ne(access(odd[i], F_OK), 0);
    }
}
END_TEST

/* ---- what is no file ---- */

START_TEST(test_no_file)
{
    static const struct {
        const char *words, *message;
    } tries[] = {
        {"check sub", "sub: error: is a folder"},
        {"check pipe", "pipe: error: is a pipe"},
        {"check /dev/zero", "/dev/zero: error: is a device"},
        {"check includes-a-folder.gate", "'sub' is a folder"},
        {"check includes-a-pipe.gate", "'pipe' is a pipe"},
        {"check includes-a-device.gate", "'/dev/zero' is a device"},
        {"replay a.gate sub", "sub: error: is a folder"},
        {"replay a.gate pipe", "pipe: error: is a pipe"},
        {"replay a.gate /dev/zero", "/dev/zero: error: is a device"},
        {"tune a.gate pipe --label b=seen", "pipe: error: is a pipe"},
        {"trial reads-a-pipe.gate", "is a pipe"},
        {"replay a.gate missing.csv", "missing.csv: error: cannot be opened"},
    };
    write_gate("a");
    ck_assert_int_eq(mkfifo("pipe", 0600), 0);
    write_text("includes-a-folder.gate", "include \"sub\"\n");
    write_text("includes-a-pipe.gate", "include \"pipe\"\n");
    write_text("includes-a-device.gate", "include \"/dev/zero\"\n");
    static const char trial[] = "flag k\nlamp l { on when k }\ntrial \"t\" { readings \"pipe\"; expect k at end }\n";
    write_text("reads-a-pipe.gate", trial);
    for (size_t i = 0; i < sizeof tries / sizeof *tries; i++) {
        ck_assert_int_eq(run_fickle_with("timeout 20 ", tries[i].words), 2);
        char *err = read_whole("stderr.txt", NULL);
        ck_assert_msg(strstr(err, tries[i].message), "%s says %s", tries[i].words, err);
        free(err);
    }
}
END_TEST

/* ---- databases from somebody else ---- */

static const struct {
    const char *sql;
    int status;
    const char *says; /* on standard output or error */
} databases[] = {
    {"CREATE TABLE x (t_ms, d, rowid); INSERT INTO x VALUES (0, 1, 5), (100, 9, 4), (200, 1, 3)", 0, "100,b,low,high"},
    {"CREATE TABLE x (t_ms, d, rowid, _rowid_); INSERT INTO x VALUES (0, 1, 5, 9), (100, 9, 4, 8)", 0,
     "100,b,low,high"},
    {"CREATE TABLE x (t_ms, d, rowid, _rowid_, oid); INSERT INTO x VALUES (0, 1, 5, 9, 3), (100, 9, 4, 8, 2)", 0,
     "100,b,low,high"},
    {"CREATE TABLE x (t_ms INTEGER PRIMARY KEY, d) WITHOUT ROWID; INSERT INTO x VALUES (100, 9), (0, 1)", 0,
     "100,b,low,high"},
    {"CREATE TABLE \"a\"\"b; DROP TABLE x\" (t_ms, d); INSERT INTO \"a\"\"b; DROP TABLE x\" VALUES (0, 1), (100, 9)", 0,
     "100,b,low,high"},
    {"CREATE TABLE x (t_ms, d); INSERT INTO x VALUES (0, 1), (100, zeroblob(9000000))", 2, "longer than 8 MB"},
    {"CREATE TABLE x (t_ms, d); CREATE TABLE y (a)", 2, "has several tables"},
    {"CREATE TABLE x (t_ms, d); INSERT INTO x VALUES (0, 1), (100, x'00ff'), (200, NULL)", 0, "b,low,unsure"},
};

START_TEST(test_database)
{
    sqlite3 *file = NULL;
    write_text("a.gate", "sensor d { unit cm }\nbands b from d { low | 5 | high }\n");
    ck_assert_int_eq(sqlite3_open("a.sqlite", &file), SQLITE_OK);
    ck_assert_int_eq(sqlite3_exec(file, databases[_i].sql, NULL, NULL, NULL), SQLITE_OK);
    sqlite3_close(file);
    const int status = run_fickle("replay a.gate a.sqlite --as csv");
    char *out = read_whole("stdout.txt", NULL), *err = read_whole("stderr.txt", NULL);
    ck_assert_msg(status == databases[_i].status &&
                      (strstr(out, databases[_i].says) || strstr(err, databases[_i].says)),
                  "%s: status %d\n%s%s", databases[_i].sql, status, out, err);
    free(out);
    free(err);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_checked_fixture(tests, enter_folder, leave_folder);
    tcase_add_loop_test(tests, test_texts_of_a_gate, 0, PAYLOADS);
    tcase_add_test(tests, test_names_of_readings);
    tcase_add_test(tests, test_names_of_pictures);
    tcase_add_test(tests, test_settings_of_the_plotter);
    tcase_add_loop_test(tests, test_encoding, 0, sizeof encodings / sizeof *encodings);
    tcase_add_test(tests, test_terminal);
    tcase_add_test(tests, test_forms);
    tcase_add_test(tests, test_arguments);
    tcase_add_test(tests, test_names_of_headers);
    tcase_add_test(tests, test_no_file);
    tcase_add_loop_test(tests, test_database, 0, sizeof databases / sizeof *databases);
}

int main(void) { return run_suite("attacks", fill); }
