/* SPDX-License-Identifier: MIT */
/* Recordings: every form, what is refused, and how they are stopped. */
#include "../../support/case_file.h"
#include "../../support/suite.h"

#include <ficklegate/workshop.h>

#include <inttypes.h>
#include <sqlite3.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>
#include <zlib.h>

typedef struct heard {
    char text[400];
    int rows_wanted;
} heard;

static bool on_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    heard *h = context;
    (void)mistake;
    for (size_t i = 0; i < count; i++)
        sprintf(h->text + strlen(h->text), "[%.*s]", (int)columns[i].size, columns[i].at);
    return true;
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake)
{
    heard *h = context;
    (void)mistake;
    sprintf(h->text + strlen(h->text), " %" PRIu64 ":%" PRId64, line, t_ms);
    for (size_t i = 0; i < count; i++) sprintf(h->text + strlen(h->text), "(%.*s)", (int)cells[i].size, cells[i].at);
    return --h->rows_wanted != 0;
}

static bool on_unit(void *context, fg_text name, fg_text unit, uint64_t line)
{
    heard *h = context;
    (void)line;
    sprintf(h->text + strlen(h->text), "{%.*s %.*s}", (int)name.size, name.at, (int)unit.size, unit.at);
    return !fg_text_is(unit, "deg");
}

static const struct {
    const char *file;
    fg_status status;
    uint64_t line; /* of the mistake */
    const char *heard, *mistake;
} recordings[] = {
    {"t_ms,a\n0,1\n100,2\n", FG_OK, 0, "[t_ms][a] 2:0(0)(1) 3:100(100)(2)", ""},
    {"t_s,a\n0.0005,1\n1.5,2", FG_OK, 0, "[t_s][a] 2:1(0.0005)(1) 3:1500(1.5)(2)", ""},
    {"time,a\n-2,1\n1e-1,2\n.25e1,3\n", FG_OK, 0, "[time][a] 2:-2000(-2)(1) 3:100(1e-1)(2) 4:2500(.25e1)(3)", ""},
    {"\xEF\xBB\xBF# first\n\nt_ms,a\r\n# x \"\n0,1\r\n\n\n5,2\r\n", FG_OK, 0, "[t_ms][a] 5:0(0)(1) 8:5(5)(2)", ""},
    {"t_ms , a\n 7 , \"x,y\"\n", FG_OK, 0, "[t_ms][a] 2:7(7)(x,y)", ""},
    {"t_ms,a\n0,\"two\nlines # here\"\n9,b\n", FG_OK, 0, "[t_ms][a] 2:0(0)(two\nlines # here) 4:9(9)(b)", ""},
    {"t_ms,a\n-0.5,1\n0.5,1\n1700000000000,\n", FG_OK, 0,
     "[t_ms][a] 2:-1(-0.5)(1) 3:1(0.5)(1) 4:1700000000000(1700000000000)()", ""},
    /* the 32-bit clock of a board, and what is none */
    {"t_ms,a\n4294967290,1\n4,2\n2147483652,3\n3,4\n", FG_OK, 0,
     "[t_ms][a] 2:4294967290(4294967290)(1) 3:4294967300(4)(2) 4:6442450948(2147483652)(3) 5:8589934595(3)(4)", ""},
    {"t_ms,a\n2147483652,1\n5,2\n", FG_ERROR_RECORDING, 3, "[t_ms][a] 2:2147483652(2147483652)(1)",
     "goes backwards here: 5 ms after 2147483652 ms"},
    {"t_ms,a\n4294967296,1\n0,2\n", FG_ERROR_RECORDING, 3, "[t_ms][a] 2:4294967296(4294967296)(1)", "goes backwards"},
    {"t_s,a\n4294967,1\n0,2\n", FG_ERROR_RECORDING, 3, "[t_s][a] 2:4294967000(4294967)(1)", "goes backwards"},
    {"time,a\n2026-03-01T00:00:00Z,1\n2026-02-01T00:00:00Z,2\n", FG_ERROR_RECORDING, 3,
     "[time][a] 2:1772323200000(2026-03-01T00:00:00Z)(1)", "goes backwards"},
    {"t_ms;a;b\n0;1,5;\"x;y\"\n", FG_OK, 0, "[t_ms][a][b] 2:0(0)(1.5)(x;y)", ""},
    /* as spreadsheets write: a comma is a decimal point, rows of empty cells at the end */
    {"t_ms;a\n0; -12,5 \n1;1,2,3\n2;,5\n3;5,\n4;1.000,5\n;\n ;\n", FG_OK, 0,
     "[t_ms][a] 2:0(0)(-12.5) 3:1(1)(1,2,3) 4:2(2)(,5) 5:3(3)(5,) 6:4(4)(1.000,5)", ""},
    {"t_ms,a\n0,\"1,5\"\n,\n", FG_OK, 0, "[t_ms][a] 2:0(0)(1,5)", ""},
    {"t_ms,a\n0,1\n,\n5,2\n", FG_ERROR_RECORDING, 3, "[t_ms][a] 2:0(0)(1)", "the time '' cannot be read"},
    /* times of a day */
    {"time,a\n12:00:01,1\n12:00:01.25,2\n12:00:02,3\n12:01,4\n", FG_OK, 0,
     "[time][a] 2:43201000(12:00:01)(1) 3:43201250(12:00:01.25)(2) 4:43202000(12:00:02)(3) 5:43260000(12:01)(4)", ""},
    {"time,a\n23:59:59,1\n0:00:01,2\n", FG_OK, 0, "[time][a] 2:86399000(23:59:59)(1) 3:86401000(0:00:01)(2)", ""},
    {"time,a\n12:00:00,1\n11:00:00,2\n", FG_ERROR_RECORDING, 3, "[time][a] 2:43200000(12:00:00)(1)", "goes backwards"},
    {"time,a\n24:00:00,1\n", FG_ERROR_RECORDING, 2, "[time][a]", "the time '24:00:00' cannot be read"},
    {"t_s,a\n12:00:00,1\n", FG_ERROR_RECORDING, 2, "[t_s][a]", "the time '12:00:00' cannot be read"},
    {"PK\3\4abc", FG_ERROR_RECORDING, 0, "", "export it as CSV"},
    {"\xD0\xCF\x11\xE0 abc", FG_ERROR_RECORDING, 0, "", "export it as CSV"},
    {"\xFF\xFEt", FG_ERROR_RECORDING, 0, "", "UTF-16; export it as CSV in UTF-8"},
    {"# c\nt_ms\ta\n0\t1,2\n", FG_OK, 0, "[t_ms][a] 3:0(0)(1,2)", ""},
    {"time,a\n1970-01-02T00:00:00Z,1\n2024-02-29 23:59:60.9996z,3\n2026-11-23T10:30:00.1239+01:00,2\n", FG_OK, 0,
     "[time][a] 2:86400000(1970-01-02T00:00:00Z)(1) 3:1709251201000(2024-02-29 23:59:60.9996z)(3) "
     "4:1795426200124(2026-11-23T10:30:00.1239+01:00)(2)",
     ""},
    {"{\"t_ms\":0,\"a\":7.3}\n# c\n\n{\"b\":true,\"t_ms\":5,\"a\":null}\n{\"t_ms\":9,\"a\":\"x\",\"b\":[1]}", FG_OK, 0,
     "[t_ms][a][b] 1:0(0)(7.3)() 4:5(5)()(1) 5:9(9)(x)({})", ""},
    {"{\"t_s\":0.1,\"a\":0.15}\n", FG_OK, 0, "[t_s][a] 1:100(0.1)(0.15)", ""},
    {"{\"t_ms\":0}\n[1]\n", FG_ERROR_RECORDING, 2, "", "this line is not an object"},
    {"{\"t_ms\":0}\n{\"t_ms\":1\n", FG_ERROR_RECORDING, 2, "", "this line is not JSON"},
    {"{\"a\":0}\n", FG_ERROR_RECORDING, 1, "", "these lines have no time; say how far they are apart: --every 100ms"},
    {"time,a\n2026-02-30T00:00:00,1\n", FG_ERROR_RECORDING, 2, "[time][a]", "or a date, as in 2026-11-23T09:30:00Z"},
    {"time,a\n2026-13-01T00:00:00Z,1\n", FG_ERROR_RECORDING, 2, "[time][a]", "cannot be read"},
    {"t_ms,a,a\n0,1,2\n", FG_ERROR_RECORDING, 1, "", "two columns are called 'a'"},
    {"t_ms,a\n0,1\nt_ms,b\nx,2\n", FG_ERROR_RECORDING, 4, "[t_ms][a] 2:0(0)(1)", "the time 'x' cannot be read"},
    {"t_ms,a\n0,1\n50,2\nt_ms,a\n0,3\n50,4\n", FG_OK, 0, "[t_ms][a] 2:0(0)(1) 3:50(50)(2) 5:100(0)(3) 6:150(50)(4)",
     ""},
    {"t_ms,a\n0,1\n50,2\n0,3\n", FG_ERROR_RECORDING, 4, "[t_ms][a] 2:0(0)(1) 3:50(50)(2)", "goes backwards"},
    {"", FG_ERROR_RECORDING, 0, "", "is empty"},
    {"# only\n\n", FG_ERROR_RECORDING, 0, "", "is empty"},
    {"0,1\n100,2\n", FG_ERROR_RECORDING, 1, "", "this line holds 2 numbers without a name"},
    {"12.5\n", FG_ERROR_RECORDING, 1, "", "this line holds 1 number without a name"},
    /* lines as boards print them */
    {"hello\nt_ms=0 a=7.3 b: yes\n\n# c\nt_ms=5, a=-1e2\nt_ms=9;b=no;a=nan\n", FG_OK, 0,
     "[t_ms][a][b] 2:0(0)(7.3)(yes) 5:5(5)(-1e2)() 6:9(9)(nan)(no)", ""},
    {"12:00:01.250 a=1\n12:00:02 a=2\n12:00:0\n0,1\n", FG_OK, 0,
     "[time][a] 1:43201250(12:00:01.250)(1) 2:43202000(12:00:02)(2)", ""},
    {"t_s=0.1 a: 1.5 cm b=2m/s\nt_s=0.2 a=2mm b = 3\n", FG_OK, 0,
     "[t_s][a][b]{a cm}{b m/s} 1:100(0.1)(1.5)(2) 2:200(0.2)(2mm)(3)", ""},
    {"t_ms=0 ms a=1\nt_ms=3 b\nt_ms=5ms a=2\n", FG_OK, 0, "[t_ms][a] 1:0(0)(1) 3:5(5)(2)", ""},
    {"time=0 s a=1\ntime=1 ms a=2\ntime=2s a=3\n", FG_OK, 0, "[time][a] 1:0(0)(1) 3:2000(2)(3)", ""},
    {"t_ms=0 a=15 deg\nt_ms=5 a=16\nt_ms=9 a=17deg\n", FG_OK, 0,
     "[t_ms][a]{a deg} 1:0(0)(15 deg) 2:5(5)(16) 3:9(9)(17deg)", ""},
    {"t_ms=0 a=1\nnetwork: found it\nt_ms=5 a=2\n", FG_OK, 0, "[t_ms][a][network] 1:0(0)(1)() 3:5(5)(2)()", ""},
    {"t_ms=0 a=12,5\n", FG_OK, 0, "[t_ms][a] 1:0(0)(12,5)", ""},
    {"t_ms=5 a=1\nt_ms=4 a=1\n", FG_ERROR_RECORDING, 2, "[t_ms][a] 1:5(5)(1)", "the time goes backwards here"},
    {"a=1\n", FG_ERROR_RECORDING, 1, "", "these lines have no time"},
    {"t_ms,a\n0,1\n\n5\n", FG_ERROR_RECORDING, 4, "[t_ms][a] 2:0(0)(1)", "this row has 1 cell, the heading has 2"},
    {"t_ms,a\n0,1,2\n", FG_ERROR_RECORDING, 2, "[t_ms][a]", "this row has 3 cells, the heading has 2"},
    {"t_ms,a\nsoon,1\n", FG_ERROR_RECORDING, 2, "[t_ms][a]", "the time 'soon' cannot be read; write milliseconds"},
    {"t_s,a\n,1\n", FG_ERROR_RECORDING, 2, "[t_s][a]", "write seconds"},
    {"t_ms,a\n1e99,1\n", FG_ERROR_RECORDING, 2, "[t_ms][a]", "cannot be read"},
    {"t_ms,a\n1.2.3,1\n", FG_ERROR_RECORDING, 2, "[t_ms][a]", "cannot be read"},
    {"t_ms,a\n0,5\" pipe\n", FG_ERROR_RECORDING, 2, "[t_ms][a]", "a quote inside a cell"},
    {"t_ms,a\n0,\"open\n1,2\n", FG_ERROR_RECORDING, 2, "[t_ms][a]", "a quote that begins in this row is not closed"},
};

static void write_gzipped(const char *path, const char *text)
{
    gzFile file = gzopen(path, "wb");
    ck_assert_ptr_nonnull(file);
    if (*text) ck_assert_int_gt(gzputs(file, text), 0);
    ck_assert_int_eq(gzclose(file), Z_OK);
}

/* Each as it is, and gzipped. */
START_TEST(test_recording)
{
    for (int packed = 0; packed < 2; packed++) {
        char path[] = "/tmp/fickle-recording-XXXXXX";
        heard h = {0};
        fg_mistake mistake;
        const fg_recording_sink sink = {.context = &h, .heading = on_heading, .row = on_row, .unit = on_unit};
        close(mkstemp(path));
        if (packed)
            write_gzipped(path, recordings[_i].file);
        else
            write_whole(path, recordings[_i].file, strlen(recordings[_i].file));
        fg_status status = fg_recording_read(path, NULL, &sink, &mistake);
        unlink(path);
        ck_assert_str_eq(h.text, recordings[_i].heard);
        ck_assert_msg(strstr(mistake.text, recordings[_i].mistake), "%s", mistake.text);
        ck_assert_uint_eq(mistake.line, recordings[_i].line);
        ck_assert_int_eq(status, recordings[_i].status);
    }
}
END_TEST

START_TEST(test_packed_and_cut_short)
{
    char path[] = "/tmp/fickle-recording-XXXXXX";
    heard h = {0};
    fg_mistake mistake;
    size_t size;
    const fg_recording_sink sink = {.context = &h, .heading = on_heading, .row = on_row};
    close(mkstemp(path));
    write_gzipped(path, "t_ms,a\n0,1\n100,2\n200,3\n");
    char *bytes = read_whole(path, &size);
    write_whole(path, bytes, size - 9);
    ck_assert_int_eq(fg_recording_read(path, NULL, &sink, &mistake), FG_ERROR_RECORDING);
    ck_assert_msg(strstr(mistake.text, "ends too early"), "%s", mistake.text);
    bytes[size / 2] ^= 0x55;
    write_whole(path, bytes, size);
    ck_assert_int_eq(fg_recording_read(path, NULL, &sink, &mistake), FG_ERROR_RECORDING);
    ck_assert_msg(strstr(mistake.text, "is damaged"), "%s", mistake.text);
    unlink(path);
    free(bytes);
}
END_TEST

static const struct {
    const char *sql, *heard, *mistake;
} databases[] = {
    {"CREATE TABLE r (t_ms INTEGER, \"a b\" REAL, k); INSERT INTO r VALUES (0, 7.3, 'no'), (5, NULL, 1)",
     "[t_ms][a b][k] 1:0(0)(7.3)(no) 2:5(5)()(1)", ""},
    {"CREATE TABLE r (t_ms, a); CREATE TABLE s (t_ms)", "", "several tables"},
    {"CREATE TABLE r (t_ms, a); DROP TABLE r", "", "has no table"},
    {"CREATE TABLE r (a); INSERT INTO r VALUES (1)", "", "no heading with a time column"},
};

START_TEST(test_database)
{
    char path[] = "/tmp/fickle-recording-XXXXXX";
    heard h = {0};
    fg_mistake mistake;
    sqlite3 *file;
    const fg_recording_sink sink = {.context = &h, .heading = on_heading, .row = on_row};
    close(mkstemp(path));
    ck_assert_int_eq(sqlite3_open(path, &file), SQLITE_OK);
    ck_assert_int_eq(sqlite3_exec(file, databases[_i].sql, NULL, NULL, NULL), SQLITE_OK);
    const fg_status wanted = *databases[_i].mistake ? FG_ERROR_RECORDING : FG_OK;
    ck_assert_int_eq(fg_recording_read(path, NULL, &sink, &mistake), wanted);
    ck_assert_str_eq(h.text, databases[_i].heard);
    ck_assert_msg(strstr(mistake.text, databases[_i].mistake), "%s", mistake.text);
    ck_assert_int_eq(sqlite3_exec(file, "BEGIN EXCLUSIVE", NULL, NULL, NULL), SQLITE_OK);
    ck_assert_int_eq(fg_recording_read(path, NULL, &sink, &mistake), FG_ERROR_RECORDING);
    ck_assert_msg(strstr(mistake.text, "is locked"), "%s", mistake.text);
    sqlite3_close(file);
    unlink(path);
}
END_TEST

/* Columns under another name, rows without a time. */
START_TEST(test_reading_options)
{
    char path[] = "/tmp/fickle-recording-XXXXXX";
    heard h = {0};
    fg_mistake mistake;
    const fg_recording_sink sink = {.context = &h, .heading = on_heading, .row = on_row};
    const fg_setting columns[] = {{{"depth", 5}, {"tide_cm", 7}}, {{"key", 3}, {"k", 1}}};
    fg_recording_options options = {.every = 250, .columns = columns, .column_count = 1};
    close(mkstemp(path));
    write_whole(path, "tide_cm,x\n1,2\n3,4\n", 18);
    ck_assert_int_eq(fg_recording_read(path, &options, &sink, &mistake), FG_OK);
    ck_assert_str_eq(h.text, "[depth][x] 2:0(1)(2) 3:250(3)(4)");
    options.column_count = 2;
    ck_assert_int_eq(fg_recording_read(path, &options, &sink, &mistake), FG_ERROR_RECORDING);
    ck_assert_msg(strstr(mistake.text, "there is no column 'k' to rename to 'key'"), "%s", mistake.text);
    unlink(path);
}
END_TEST

static const struct {
    const char *file, *names, *only;
    uint64_t line; /* of the mistake; 0: there is none */
    const char *heard, *mistake;
} numbers[] = {
    {"0 7.3\n5 8\n", "t_ms,a", "", 0, "[t_ms][a] 1:0(0)(7.3) 2:5(5)(8)", ""},
    {"0,12\n5,-1e2\n", " t_ms , a ", "", 0, "[t_ms][a] 1:0(0)(12) 2:5(5)(-1e2)", ""},
    {"hello\n0;1\nagain\n5\t2\n6\n", "t_ms,a", "", 0, "[t_ms][a] 2:0(0)(1) 4:5(5)(2)", ""},
    {"t_ms,x\n0,1\n", "t_s,a", "", 0, "[t_s][a] 2:0(0)(1)", ""}, /* whoever asks knows better than the heading */
    {"9:00:01 7\n", "a", "", 0, "[time][a] 1:32401000(9:00:01)(7)", ""},
    {"0 7\n", "t_ms,a,b", "", 1, "", "this line holds 2 numbers, and --columns has 3 names"},
    {"0 7\n", "t_ms,", "", 0, "", "--columns needs a name for each number"},
    {"0 7\n", "t_ms,t_ms", "", 1, "", "two columns are called 't_ms'"},
    {"9:00:01 7\n9:00:02 8\n", NULL, "a", 0, "[time][a] 1:32401000(9:00:01)(7) 2:32402000(9:00:02)(8)", ""},
    {"0 7\n", NULL, "a", 1, "", "say what each is, in their order: --columns t_ms,depth"},
    {"7\n", NULL, "a", 1, "", "these lines have no time"},
    {"t_ms\n7\n", NULL, "a", 0, "[t_ms] 2:7(7)", ""}, /* a heading is a heading */
};

START_TEST(test_numbers)
{
    char path[] = "/tmp/fickle-recording-XXXXXX";
    heard h = {0};
    fg_mistake mistake;
    const fg_recording_sink sink = {.context = &h, .heading = on_heading, .row = on_row};
    const fg_recording_options options = {.names = numbers[_i].names, .only = fg_text_of(numbers[_i].only)};
    close(mkstemp(path));
    write_whole(path, numbers[_i].file, strlen(numbers[_i].file));
    const fg_status status = fg_recording_read(path, &options, &sink, &mistake);
    unlink(path);
    ck_assert_str_eq(h.text, numbers[_i].heard);
    ck_assert_msg(strstr(mistake.text, numbers[_i].mistake), "%s", mistake.text);
    ck_assert_uint_eq(mistake.line, numbers[_i].line);
    ck_assert_int_eq(status, *numbers[_i].mistake ? FG_ERROR_RECORDING : FG_OK);
}
END_TEST

/* ---- rows of plain numbers ---- */

typedef struct plain_heard {
    heard h;
    fg_number_column columns[4]; /* a: two decimals, b: none, k: a flag; nobody wants the others */
} plain_heard;

static bool on_plain_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    plain_heard *p = context;
    (void)mistake;
    for (size_t i = 0; i < count; i++)
        p->columns[i] = (fg_number_column){.wanted = fg_text_is(columns[i], "a") || fg_text_is(columns[i], "b") ||
                                                     fg_text_is(columns[i], "k"),
                                           .is_flag = fg_text_is(columns[i], "k"),
                                           .decimals = fg_text_is(columns[i], "a") ? 2 : 0};
    return true;
}

static const fg_number_column *on_wanted(void *context) { return ((plain_heard *)context)->columns; }

static bool on_numbers(void *context, const fg_number_rows *rows, fg_mistake *mistake)
{
    plain_heard *p = context;
    char *text = p->h.text;
    bool holes = false;
    (void)mistake;
    for (size_t i = 0; i < rows->count; i++) {
        sprintf(text + strlen(text), " %" PRIu64 ":%" PRId64, rows->line + i, rows->t_ms[i]);
        for (size_t k = 0; k < rows->width; k++) {
            const int32_t number = rows->columns[k][i];
            holes = holes || number == FG_NUMBER_NONE;
            sprintf(text + strlen(text), number == FG_NUMBER_NONE ? "<>" : "<%" PRId32 ">", number);
        }
    }
    ck_assert_int_eq(rows->holes, holes);
    return true;
}

/* <150> came as a number of whole steps, (1.5) in a cell. */
static const struct {
    const char *file, *heard, *mistake;
    fg_time every;
} plain_rows[] = {
    {"t_ms,x,a,k\n0,w,1.5,1\n5,,-1.50,0\r\n7,w w,3,1\n", " 2:0<150><1> 3:5<-150><0> 4:7<300><1>", "", 0},
    {"t_ms,a,b\n0,-1.5,-12\n1,007.25,+3\n2,.5,4\n3,5.,6\n4,-.25,7\n",
     " 2:0<-150><-12> 3:1(1)(007.25)(+3) 4:2<50><4> 5:3<500><6> 6:4<-25><7>", "", 0},
    {"t_ms,a\n0,1.25\n1,1.2399\n2,1.250\n3,1.25\n", " 2:0<125> 3:1(1)(1.2399) 4:2(2)(1.250) 5:3<125>", "", 0},
    {"t_ms,a\n0,21474836.47\n1,21474836.48\n2,-21474836.47\n3,-21474836.48\n",
     " 2:0<2147483647> 3:1(1)(21474836.48) 4:2<-2147483647> 5:3(3)(-21474836.48)", "", 0},
    {"t_ms,b\n0,2147483647\n1,2147483648\n2,-2147483648\n3,12345678901234567890123\n",
     " 2:0<2147483647> 3:1(1)(2147483648) 4:2(2)(-2147483648) 5:3(3)(12345678901234567890123)", "", 0},
    {"t_ms,a\n0,1234567890123\n1,12345678901234567\n2,-1234567890123456.1\n",
     " 2:0(0)(1234567890123) 3:1(1)(12345678901234567) 4:2(2)(-1234567890123456.1)", "", 0},
    {"t_ms,b\n0, 1\n1,1e1\n2,\"3\"\n3,-\n4,x\n5,1.0\n6,1\n",
     " 2:0(0)(1) 3:1(1)(1e1) 4:2(2)(3) 5:3(3)(-) 6:4(4)(x) 7:5(5)(1.0) 8:6<1>", "", 0},
    {"t_ms,k\n0,1\n1,2\n2,1.0\n3,01\n4,yes\n5,10\n6,\n7,-1\n8,0\n",
     " 2:0<1> 3:1(1)(2) 4:2(2)(1.0) 5:3(3)(01) 6:4(4)(yes) 7:5(5)(10) 8:6<> 9:7(7)(-1) 10:8<0>", "", 0},
    {"t_ms,a,b\n0,,1\n1,2,\n2,,\n3,1,1\n", " 2:0<><1> 3:1<200><> 4:2<><> 5:3<100><1>", "", 0},
    {"x,t_ms,a\nw,0,1\n#,5,2\n# 6\nw,7,3\n", " 2:0<100> 5:7<300>", "", 0},
    {"x,t_ms,a\n\"w\",0,1\n\"v,\n#\",1,2\nw,2,3\n", " 2:0(w)(0)(1) 3:1(v,\n#)(1)(2) 5:2<300>", "", 0},
    {"t_ms,a\n\n0,1\n\n\n5,2\n", " 3:0<100> 6:5<200>", "", 0},
    /* times */
    {"t_s,a\n0,1\n1.5,2\n2.25,3\n2.2504,4\n", " 2:0<100> 3:1500<200> 4:2250<300> 5:2250(2.2504)(4)", "", 0},
    {"t_ms,a\n-5,1\n0.5,2\n7,3\n", " 2:-5<100> 3:1(0.5)(2) 4:7<300>", "", 0},
    {"t_ms,a\n0,1\n,2\n", " 2:0<100>", "the time '' cannot be read", 0},
    {"t_ms,a\n0,1\n1,2,3\n", " 2:0<100>", "this row has 3 cells", 0},
    {"t_ms,a\n0,1\n1\n", " 2:0<100>", "this row has 1 cell", 0},
    {"t_ms,a\n5,1\n4,2\n", " 2:5<100>", "goes backwards", 0},
    {"t_ms,a\n5,1\n5,2\n6,3\n", " 2:5<100> 3:5<200> 4:6<300>", "", 0},
    /* a board that began anew, or whose clock did: what falls behind it goes on from there */
    {"t_ms,a\n0,1\n50,2\n150,3\nt_ms,a\n0,4\n50,5\n", " 2:0<100> 3:50<200> 4:150<300> 6:250(0)(4) 7:300<500>", "", 0},
    {"t_ms,a\n0,1\n50,2\nt_ms,a\n90,3\n95,4\n", " 2:0<100> 3:50<200> 5:90(90)(3) 6:95<400>", "", 0},
    {"t_ms,a\n4294967290,1\n4,2\n9,3\n", " 2:4294967290<100> 3:4294967300(4)(2) 4:4294967305<300>", "", 0},
    /* rows without a time */
    {"a,k\n1,1\n2,0\n", " 2:0<100><1> 3:10<200><0>", "", 10},
    {"a,k\n1,1\n,\n2,0\n,0\n", " 2:0<100><1> 3:10()() 4:20(2)(0) 5:30<><0>", "", 10},
    {"a,k\n1,1\n,\n,\n", " 2:0<100><1>", "", 10},
    /* semicolons: a comma is a decimal point, also where nobody asks */
    {"t_ms;x;a\n0;1;1.5\n1;2;1,5\n2;3,5;2\n3;4;2\n", " 2:0<150> 3:1(1)(2)(1.5) 4:2(2)(3.5)(2) 5:3<200>", "", 0},
    {"t_ms,a\n0,1\n5,2", " 2:0<100> 3:5(5)(2)", "", 0}, /* a last line without an end */
};

/* In blocks of several sizes. */
START_TEST(test_plain_rows)
{
    static const size_t sizes[] = {0, 1, 2};
    for (size_t i = 0; i < COUNT_OF(sizes); i++) {
        char path[] = "/tmp/fickle-recording-XXXXXX";
        plain_heard p = {0};
        fg_mistake mistake = {0};
        const fg_recording_sink sink = {
            .context = &p, .heading = on_plain_heading, .row = on_row, .wanted = on_wanted, .numbers = on_numbers};
        const fg_recording_options options = {.every = plain_rows[_i].every, .block_rows = sizes[i]};
        close(mkstemp(path));
        write_whole(path, plain_rows[_i].file, strlen(plain_rows[_i].file));
        const fg_status status = fg_recording_read(path, &options, &sink, &mistake);
        unlink(path);
        ck_assert_str_eq(p.h.text, plain_rows[_i].heard);
        ck_assert_msg(strstr(mistake.text, plain_rows[_i].mistake), "%s", mistake.text);
        ck_assert_int_eq(status, *plain_rows[_i].mistake ? FG_ERROR_RECORDING : FG_OK);
    }
}
END_TEST

static const struct {
    const char *text;
    fg_line_kind kind;
    const char *heard; /* the clock, then name=value[unit] of each */
} lines[] = {
    {"", FG_LINE_EMPTY, ""},
    {" \t\r", FG_LINE_EMPTY, ""},
    {"# depth=1", FG_LINE_EMPTY, ""},
    {"depth=123", FG_LINE_NAMED, " depth=123[]"},
    {"depth: 12.5 cm wind: 3", FG_LINE_NAMED, " depth=12.5[cm] wind=3[]"},
    {"depth=1,wind=2;key=yes\tx : nan\r", FG_LINE_NAMED, " depth=1[] wind=2[] key=yes[] x=nan[]"},
    {"depth=12.5cm, wind = -3.1 m/s", FG_LINE_NAMED, " depth=12.5[cm] wind=-3.1[m/s]"},
    {"depth= wind=3", FG_LINE_NAMED, " depth=[] wind=3[]"},
    {"mode=x:3", FG_LINE_NAMED, " mode=x:3[]"},
    {"pump=forward 80% flag=15 deg red=on  10% ,key=no", FG_LINE_NAMED,
     " pump=forward 80%[] flag=15[deg] red=on  10%[] key=no[]"},
    {"horn=523Hz 50% pump=stop", FG_LINE_NAMED, " horn=523Hz 50%[] pump=stop[]"},
    {"depth=5cm 50%x", FG_LINE_OTHER, ""},
    {"board=show \"a=1, b\", \"c\" red=on", FG_LINE_NAMED, " board=show \"a=1, b\", \"c\"[] red=on[]"},
    {"board=show \"a=1", FG_LINE_NAMED, " board=show \"a=1[]"},
    {"depth=", FG_LINE_NAMED, " depth=[]"},
    {"depth=12,5 wind=4", FG_LINE_NAMED, " depth=12,5[] wind=4[]"},
    {"depth=12,5 cm wind=4", FG_LINE_NAMED, " depth=12,5[cm] wind=4[]"},
    {"12:00:01.250 depth=1", FG_LINE_NAMED, "12:00:01.250 depth=1[]"},
    {"12:00:01", FG_LINE_EMPTY, "12:00:01"},
    {"12 -3.5;+4,.5 1e3", FG_LINE_NUMBERS, " =12[] =-3.5[] =+4[] =.5[] =1e3[]"},
    {"12 apples", FG_LINE_OTHER, ""},
    {"depth=1 2", FG_LINE_OTHER, ""},
    {"depth=1 and so on", FG_LINE_OTHER, ""},
    {"t_ms,depth", FG_LINE_OTHER, ""},
    {"{\"depth\":1}", FG_LINE_OTHER, ""},
    {"12:00", FG_LINE_OTHER, ""},
    {"2026-11-23T09:30:00Z", FG_LINE_OTHER, ""},
    {"\x80\xff=1", FG_LINE_OTHER, ""},
};

START_TEST(test_line)
{
    char text[400] = "";
    fg_line line;
    fg_line_read(fg_text_of(lines[_i].text), &line);
    sprintf(text, "%.*s", (int)line.clock.size, line.clock.at);
    for (size_t i = 0; i < line.count; i++) {
        const fg_line_reading *r = &line.readings[i];
        sprintf(text + strlen(text), " %.*s=%.*s[%.*s]", (int)r->name.size, r->name.at, (int)r->value.size, r->value.at,
                (int)r->unit.size, r->unit.at);
    }
    ck_assert_str_eq(text, lines[_i].heard);
    ck_assert_int_eq(line.kind, lines[_i].kind);
}
END_TEST

/* 64 readings fit into a line, 65 are too many to be one. */
START_TEST(test_long_line)
{
    char text[4 * (FG_LINE_READINGS_MOST + 1) + 1] = "";
    fg_line line;
    for (int i = 0; i <= FG_LINE_READINGS_MOST; i++) {
        strcat(text, "a=1 ");
        fg_line_read((fg_text){text, strlen(text)}, &line);
        ck_assert_uint_eq(line.count, i < FG_LINE_READINGS_MOST ? (size_t)i + 1 : 0);
    }
    ck_assert_int_eq(line.kind, FG_LINE_OTHER);
}
END_TEST

START_TEST(test_missing_recording)
{
    heard h = {0};
    fg_mistake mistake;
    const fg_recording_sink sink = {.context = &h, .heading = on_heading, .row = on_row};
    ck_assert_int_eq(fg_recording_read("/nowhere/a.csv", NULL, &sink, &mistake), FG_ERROR_FILE);
    ck_assert_str_eq(mistake.file, "/nowhere/a.csv");
}
END_TEST

/* Blocks end anywhere: a row that lies across two of them is one row. */
START_TEST(test_rows_across_blocks)
{
    enum { ROWS = 60000 };
    char path[] = "/tmp/fickle-recording-XXXXXX";
    fg_mistake mistake;
    close(mkstemp(path));
    FILE *file = fopen(path, "w");
    fputs("t_ms,a\n", file);
    for (int i = 0; i < ROWS; i++) fprintf(file, "%d,%d\n%s", i, i * 7, i % 9000 == 5 ? "# a comment, \"\n" : "");
    fclose(file);
    fg_gate_file gate;
    fg_replay_report report;
    char gate_path[] = "/tmp/fickle-gate-XXXXXX";
    close(mkstemp(gate_path));
    write_whole(gate_path, "sensor a\nthreshold big from a { over 419992 }\n", 45);
    ck_assert_int_eq(fg_gate_file_open(&gate, gate_path, (fg_settings){0}, &mistake), FG_OK);
    const fg_replay_observer observer = {0};
    ck_assert_int_eq(fg_replay(&gate.program, &(fg_readings){.recording = path}, &observer, &report, &mistake), FG_OK);
    ck_assert_uint_eq(report.rows, ROWS);
    ck_assert_uint_eq(report.unreadable, 0);
    ck_assert_uint_eq(report.changes, 3); /* a, big; big at the last row */
    ck_assert_int_eq(report.length_ms, ROWS - 1);
    fg_gate_file_close(&gate);
    unlink(path);
    unlink(gate_path);
}
END_TEST

/* An observer that has seen enough ends the replay, and that is no mistake. */
static bool stop_at_once(void *context, const fg_change *change)
{
    (void)change;
    ++*(int *)context;
    return false;
}

START_TEST(test_stop)
{
    char path[] = "/tmp/fickle-recording-XXXXXX", gate_path[] = "/tmp/fickle-gate-XXXXXX";
    int seen = 0;
    fg_mistake mistake;
    fg_gate_file gate;
    fg_replay_report report;
    close(mkstemp(path));
    close(mkstemp(gate_path));
    write_whole(path, "t_ms,a\n0,1\n1,2\n2,3\n", 19);
    write_whole(gate_path, "sensor a", 8);
    ck_assert_int_eq(fg_gate_file_open(&gate, gate_path, (fg_settings){0}, &mistake), FG_OK);
    const fg_replay_observer observer = {.context = &seen, .change = stop_at_once};
    ck_assert_int_eq(fg_replay(&gate.program, &(fg_readings){.recording = path}, &observer, &report, &mistake), FG_OK);
    ck_assert_int_eq(seen, 1);
    fg_gate_file_close(&gate);
    unlink(path);
    unlink(gate_path);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_loop_test(tests, test_recording, 0, COUNT_OF(recordings));
    tcase_add_test(tests, test_packed_and_cut_short);
    tcase_add_loop_test(tests, test_database, 0, COUNT_OF(databases));
    tcase_add_test(tests, test_reading_options);
    tcase_add_loop_test(tests, test_numbers, 0, COUNT_OF(numbers));
    tcase_add_loop_test(tests, test_plain_rows, 0, COUNT_OF(plain_rows));
    tcase_add_loop_test(tests, test_line, 0, COUNT_OF(lines));
    tcase_add_test(tests, test_long_line);
    tcase_add_test(tests, test_missing_recording);
    tcase_add_test(tests, test_rows_across_blocks);
    tcase_add_test(tests, test_stop);
}

int main(void) { return run_suite("recordings", fill); }
