/* SPDX-License-Identifier: MIT */
/* Runs the tool as a person would: files in a folder of their own, arguments, what it prints, its status. */
#include "../support/case_file.h"
#include "../support/tool_run.h"

#include <check.h>
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

static case_list cases;
static void same_text(const char *path, const char *file, const char *expected)
{
    char *got = read_whole(file, NULL);
    size_t at = 0;
    while (got && got[at] && got[at] == expected[at]) at++;
    while (at && expected[at - 1] != '\n') at--;
    ck_assert_msg(got && strcmp(got, expected) == 0,
                  "%s: %s is, from the first line that differs,\n%.900s\nexpected\n%.900s", path, file,
                  got ? got + at : "(nothing)", expected + at);
    free(got);
}

START_TEST(test_case)
{
    const char *path = cases.paths[_i];
    case_file file;
    ck_assert_msg(case_file_read(path, &file), "%s cannot be read", path);
    const char *words = case_file_text(&file, "words"), *status = case_file_text(&file, "status");
    ck_assert_msg(words && status, "%s lacks a section", path);
    for (size_t i = 0; i < file.count; i++)
        if (strncmp(file.sections[i].name, "file ", 5) == 0)
            write_whole(file.sections[i].name + 5, file.sections[i].text, strlen(file.sections[i].text));
    char line[1024];
    snprintf(line, sizeof line, "%s", words);
    line[strcspn(line, "\n")] = '\0';
    int got = run_fickle(line);
    const char *out = case_file_text(&file, "stdout"), *err = case_file_text(&file, "stderr");
    if (err) same_text(path, "stderr.txt", err);
    if (out) same_text(path, "stdout.txt", out);
    ck_assert_msg(got == atoi(status), "%s: status %d, expected %d", path, got, atoi(status));
    case_file_free(&file);
}
END_TEST

/* ---- input that cannot stand in a text file ---- */

static const char gate[] = "sensor depth { unit cm; step 0.1 }\nlamp red { on when depth over 5 }\n";

static void expect_refusal(const char *words, const char *message)
{
    int status = run_fickle(words);
    char *out = read_whole("stdout.txt", NULL), *err = read_whole("stderr.txt", NULL);
    ck_assert_msg(status == 2, "fickle %s: status %d", words, status);
    ck_assert_msg(strstr(err, message), "fickle %s says\n%s\nbut not '%s'", words, err, message);
    ck_assert_msg(!*out, "fickle %s printed half a result:\n%s", words, out);
    free(out);
    free(err);
}

START_TEST(test_nul_bytes)
{
    static const char recording[] = "t_ms,depth\n0,4\n100,\0\n";
    write_whole("a.gate", gate, strlen(gate));
    write_whole("nul.csv", recording, sizeof recording - 1);
    write_whole("nul.gate", "flag key\n\0\n", 11);
    expect_refusal("replay a.gate nul.csv", "nul.csv:");
    expect_refusal("check nul.gate", "nul.gate:2:1: error: there is a NUL byte here");
}
END_TEST

START_TEST(test_line_of_ten_megabytes)
{
    enum { SIZE = 10 << 20 };
    char *text = malloc(SIZE + 64);
    ck_assert_ptr_nonnull(text);
    strcpy(text, "t_ms,depth\n0,");
    size_t head = strlen(text);
    memset(text + head, '7', SIZE);
    write_whole("a.gate", gate, strlen(gate));
    write_whole("long.csv", text, head + SIZE);
    write_whole("long.gate", text + head, SIZE);
    expect_refusal("replay a.gate long.csv", "long.csv:2: error: this line is longer than 8 MB");
    expect_refusal("check long.gate", "long.gate:1:1: error:");
    free(text);
}
END_TEST

START_TEST(test_full_disk)
{
    write_whole("a.gate", gate, strlen(gate));
    write_whole("a.csv", "t_ms,depth\n0,4\n", 15);
    char command[512];
    snprintf(command, sizeof command, "%s replay a.gate a.csv >/dev/full 2>stderr.txt", FICKLE);
    int status = system(command);
    ck_assert(WIFEXITED(status) && WEXITSTATUS(status) == 2);
    char *err = read_whole("stderr.txt", NULL);
    ck_assert_msg(strstr(err, "cannot write"), "said: %s", err);
    free(err);
}
END_TEST

/* A disk that is full after 4 kB: a message, and no half file. */
START_TEST(test_full_disk_under_save)
{
    static const struct {
        const char *file;
        int room; /* in blocks of 512 bytes */
    } kept[] = {{"kept.csv", 8}, {"kept.jsonl", 8}, {"none.sqlite", 8}, {"kept.sqlite", 200}};
    write_whole("a.gate", gate, strlen(gate));
    FILE *out = fopen("many.csv", "w");
    fputs("t_ms,depth\n", out);
    for (int i = 0; i < 20000; i++) fprintf(out, "%d,%d.%d\n", i * 100, i % 9, i % 10);
    fclose(out);
    for (size_t i = 0; i < sizeof kept / sizeof *kept; i++) {
        char command[512];
        snprintf(command, sizeof command,
                 "trap '' XFSZ; ulimit -f %d; %s replay a.gate many.csv --quiet --summary --save %s >/dev/null "
                 "2>stderr.txt",
                 kept[i].room, FICKLE, kept[i].file);
        int status = system(command);
        char *err = read_whole("stderr.txt", NULL);
        ck_assert_msg(WIFEXITED(status) && WEXITSTATUS(status) == 2, "%s: status %d", kept[i].file, status);
        ck_assert_msg(strstr(err, kept[i].file), "%s: said %s", kept[i].file, err);
        free(err);
    }
    ck_assert_msg(system("test -z \"$(ls kept.csv* kept.jsonl* none.* 2>/dev/null)\"") == 0, "half a file was left");
}
END_TEST

START_TEST(test_many_columns)
{
    enum { COLUMNS = 200000 };
    write_whole("a.gate", gate, strlen(gate));
    FILE *out = fopen("wide.csv", "w");
    fputs("t_ms,depth", out);
    for (int i = 0; i < COLUMNS; i++) fprintf(out, ",c%d", i);
    for (int row = 0; row < 3; row++) {
        fprintf(out, "\n%d,%d", row * 100, 3 * row);
        for (int i = 0; i < COLUMNS; i++) fputs(",7", out);
    }
    fputc('\n', out);
    fclose(out);
    ck_assert_int_eq(run_fickle("replay a.gate wide.csv --as csv"), 0);
    char *text = read_whole("stdout.txt", NULL);
    ck_assert_msg(strstr(text, "200,red,off,on,"), "printed %s", text);
    free(text);
}
END_TEST

START_TEST(test_folder_for_a_file)
{
    ck_assert_int_eq(system("mkdir a.gate"), 0);
    expect_refusal("check a.gate", "a.gate: error: is a folder; name a file");
}
END_TEST

/* A letter stands for one long option, whichever command it is given to. */
START_TEST(test_letters)
{
    static const char *const commands[] = {"check", "replay", "trial", "pretend", "tune", "why", "draw", "bake"};
    char names[128][32] = {{0}};
    for (size_t i = 0; i < sizeof commands / sizeof *commands; i++) {
        char words[40];
        snprintf(words, sizeof words, "%s --help", commands[i]);
        ck_assert_int_eq(run_fickle(words), 0);
        char *help = read_whole("stdout.txt", NULL);
        int found = 0;
        for (const char *at = help; (at = strstr(at, "\n  -")); at++) {
            char letter, name[32];
            if (sscanf(at, "\n  -%c, --%31[a-z-]", &letter, name) != 2) continue;
            char *const known = names[(unsigned char)letter & 127];
            if (!*known) strcpy(known, name);
            ck_assert_msg(!strcmp(known, name), "-%c is --%s and, in %s, --%s", letter, known, commands[i], name);
            found++;
        }
        ck_assert_int_ge(found, 5);
        free(help);
    }
}
END_TEST

/* A path may be as long as the system allows, and a message about it says it whole. */
START_TEST(test_long_folder)
{
    char folder[1000] = "", path[1100], words[1300];
    const char *trial = "sensor depth\nthreshold deep from depth { over 5 }\n"
                        "trial \"x\" { readings \"a.csv\"; expect deep at 1s }\n",
               *readings = "t_s,depth\n0,4\n1,6\n";
    while (strlen(folder) < 800) strcat(folder, "a-folder-with-a-name-of-some-length-in-a-tree-that-goes-deep/");
    snprintf(words, sizeof words, "mkdir -p %s", folder);
    ck_assert_int_eq(system(words), 0);
    snprintf(path, sizeof path, "%sa.gate", folder);
    write_whole(path, trial, strlen(trial));
    snprintf(words, sizeof words, "trial %s", path);
    snprintf(path, sizeof path, "%sa.csv'", folder);
    ck_assert_int_eq(run_fickle(words), 2);
    char *err = read_whole("stderr.txt", NULL);
    ck_assert_msg(strstr(err, path), "%s", err);
    free(err);
    snprintf(path, sizeof path, "%sa.csv", folder);
    write_whole(path, readings, strlen(readings));
    ck_assert_int_eq(run_fickle(words), 0);
}
END_TEST

/* ---- pictures and sounds ---- */

static const char horn_gate[] = "every 100ms\nsensor depth { unit cm; step 0.1; trust 0..500 }\n"
                                "bands tide from depth { low | 20 | high; margin 2 }\n"
                                "buzzer horn { 440Hz when tide is high }\n";

static void write_readings(int rows, int spike)
{
    FILE *out = fopen("a.csv", "w");
    fputs("t_ms,depth\n", out);
    for (int i = 0; i < rows; i++) fprintf(out, "%d,%d\n", i * 100, i == spike ? 333 : i % 7);
    fclose(out);
}

/* The first bytes of a PNG have its size. */
START_TEST(test_picture)
{
    size_t size = 0;
    write_whole("a.gate", horn_gate, strlen(horn_gate));
    write_readings(600, 300);
    ck_assert_int_eq(run_fickle("draw a.gate a.csv -o a.png --size 1000x500 -q"), 0);
    char *png = read_whole("a.png", &size);
    ck_assert_msg(size > 5000 && !memcmp(png, "\x89PNG\r\n\x1a\n", 8), "%d bytes, no PNG", (int)size);
    ck_assert_msg(!memcmp(png + 16, "\0\0\x03\xe8\0\0\x01\xf4", 8), "not 1000x500");
    free(png);
    ck_assert_int_eq(run_fickle("draw a.gate a.csv -o a.svg --dark --only tide,horn -q"), 0);
    char *svg = read_whole("a.svg", NULL);
    ck_assert_msg(strstr(svg, ">low<") && strstr(svg, ">horn<") && strstr(svg, "#101418"), "%.900s", svg);
    ck_assert_msg(!strstr(svg, ">depth<"), "depth was not asked for");
    free(svg);
}
END_TEST

/* A trial that stands in another folder names its recording from there; its expectations are marked all the same. */
START_TEST(test_marks_of_an_included_trial)
{
    const char *included = "trial \"high water\" { readings \"../a.csv\"; expect tide is high from 30s to 31s }\n",
               *readings = "t_ms,depth\n0,4\n100,33\n60000,33\n";
    char both[1000];
    snprintf(both, sizeof both, "%sinclude \"sub/trials.gate\"\n", horn_gate);
    write_whole("a.gate", both, strlen(both));
    write_whole("sub/trials.gate", included, strlen(included));
    write_whole("a.csv", readings, strlen(readings));
    ck_assert_int_eq(run_fickle("draw a.gate a.csv -o a.svg -q"), 0);
    char *svg = read_whole("a.svg", NULL);
    ck_assert_msg(strstr(svg, "expect") != NULL, "no mark in the picture");
    free(svg);
}
END_TEST

/* One reading of many stands out: the top of the lane is where it is. */
START_TEST(test_picture_keeps_spikes)
{
    write_whole("a.gate", horn_gate, strlen(horn_gate));
    write_readings(100000, 70001);
    ck_assert_int_eq(run_fickle("draw a.gate a.csv -o a.svg -q"), 0);
    char *svg = read_whole("a.svg", NULL);
    ck_assert_msg(strstr(svg, ">400<") && !strstr(svg, ">500<"), "the axis does not end above 333 cm");
    free(svg);
}
END_TEST

static const char vane_gate[] =
    "sensor vane { unit deg; circle 360 }\nsensor wind { unit m/s; step 0.1 }\n"
    "bands toward from vane { equal north, east, south, west }\n"
    "hysteresis gale from wind { on over 14; off under 10 }\n"
    "lamp amber { on when gale; on 30% when wind over 8 }\nlamp warning { on \"ff00ff\" when gale }\n"
    "motor fan { forward 80% when gale; back 40% when toward is west }\n"
    "display board { size 12x1; show \"a long text\" when toward is south; show \"{toward}\" }\n"
    "scene \"round\" { lasts 60s; every 1s; vane ramps 0 to 360 from 0s to 60s; wind ramps 2 to 18 from 5s to 40s\n"
    "wind jumps to 5 at 50s; vane reads 180 from 5s to 6s }\n"
    "trial \"round\" { readings \"round\"; expect gale at 40s; expect fan is stop from 1s to 5s }\n";

/* What stands in a picture: own colours, numbers of the axis, a scale beside what has a strength, a number and a line
 * below for a text without room, the line of each expectation, a grey dead band. */
START_TEST(test_picture_tells)
{
    static const char *const told[] = {">north<",
                                       ">west<",
                                       ">14<",
                                       ">10<",
                                       ">20<",
                                       ">100<",
                                       "rgb(255, 191,   0)",
                                       "rgb(255,   0, 255)",
                                       ">0..100 %<",
                                       ">-100..100 %<",
                                       ">on 30%<",
                                       " fan: back 40%<",
                                       " board: show \"a long text\"<",
                                       ">11<",
                                       " board: show \"north\"<",
                                       "grey: a dead band"};
    write_whole("a.gate", vane_gate, strlen(vane_gate));
    ck_assert_int_eq(run_fickle("draw a.gate --scene round -o a.svg -q"), 0);
    char *svg = read_whole("a.svg", NULL);
    for (size_t i = 0; i < sizeof told / sizeof *told; i++)
        ck_assert_msg(strstr(svg, told[i]), "%s is not there", told[i]);
    free(svg);
}
END_TEST

START_TEST(test_picture_without_gnuplot)
{
    write_whole("a.gate", horn_gate, strlen(horn_gate));
    write_readings(10, 5);
    char command[512];
    snprintf(command, sizeof command, "PATH= %s draw a.gate a.csv -o a.png 2>stderr.txt", FICKLE);
    int status = system(command);
    ck_assert(WIFEXITED(status) && WEXITSTATUS(status) == 2);
    char *err = read_whole("stderr.txt", NULL);
    ck_assert_msg(strstr(err, "install gnuplot-nox"), "said: %s", err);
    ck_assert_int_eq(system("test -z \"$(ls a.png* 2>/dev/null)\""), 0);
    free(err);
}
END_TEST

/* 440 Hz from 3 s on for a tenth of a second: 44 times through zero upwards, and silence around it. */
START_TEST(test_sound)
{
    size_t size = 0;
    int rises = 0;
    write_whole("a.gate", horn_gate, strlen(horn_gate));
    write_readings(60, 30);
    ck_assert_int_eq(run_fickle("draw a.gate a.csv --sound a.wav -q"), 0);
    char *wav = read_whole("a.wav", &size);
    ck_assert_msg(size == 44 + 2 * 22050 * 59 / 10, "%d bytes", (int)size);
    const short *samples = (const short *)(const void *)(wav + 44);
    for (int i = 1; i < 22050 * 59 / 10; i++) {
        const bool inside = i >= 3 * 22050 && i < 3 * 22050 + 2205;
        rises += samples[i - 1] <= 0 && samples[i] > 0;
        ck_assert_msg(inside || samples[i] == 0, "a sound at sample %d", i);
    }
    ck_assert_msg(rises >= 43 && rises <= 45, "%d rises", rises);
    free(wav);
}
END_TEST

/* Twice the rows, about the same memory: the peak is bounded, not proportional. */
START_TEST(test_memory_does_not_grow)
{
    write_whole("a.gate", gate, strlen(gate));
    FILE *out = fopen("many.csv", "w");
    fputs("t_ms,depth\n", out);
    for (int i = 0; i < 200000; i++) fprintf(out, "%d,%d.%d\n", i * 100, i % 9, i % 10);
    fclose(out);
    char command[512];
    snprintf(command, sizeof command, "ulimit -v %d; %s replay a.gate many.csv --as csv >/dev/null", 64 * 1024,
             FICKLE_PLAIN);
    ck_assert_int_eq(system(command), 0);
}
END_TEST

int main(void)
{
    cases = case_list_of(CASES);
    Suite *suite = suite_create("tool");
    TCase *all = tcase_create("cases"), *odd = tcase_create("odd input");
    tcase_add_checked_fixture(all, enter_folder, leave_folder);
    tcase_add_checked_fixture(odd, enter_folder, leave_folder);
    tcase_add_loop_test(all, test_case, 0, (int)cases.count);
    tcase_add_test(odd, test_nul_bytes);
    tcase_add_test(odd, test_line_of_ten_megabytes);
    tcase_add_test(odd, test_full_disk);
    tcase_add_test(odd, test_full_disk_under_save);
    tcase_add_test(odd, test_many_columns);
    tcase_add_test(odd, test_picture);
    tcase_add_test(odd, test_picture_keeps_spikes);
    tcase_add_test(odd, test_picture_tells);
    tcase_add_test(odd, test_picture_without_gnuplot);
    tcase_add_test(odd, test_sound);
    tcase_add_test(odd, test_folder_for_a_file);
    tcase_add_test(odd, test_long_folder);
    tcase_add_test(odd, test_letters);
    tcase_add_test(odd, test_marks_of_an_included_trial);
    if (*FICKLE_PLAIN) tcase_add_test(odd, test_memory_does_not_grow);
    tcase_set_timeout(all, 240);
    tcase_set_timeout(odd, 240);
    suite_add_tcase(suite, all);
    suite_add_tcase(suite, odd);
    SRunner *runner = srunner_create(suite);
    srunner_run_all(runner, CK_NORMAL);
    int failed = srunner_ntests_failed(runner);
    srunner_free(runner);
    bool none = !cases.count;
    case_list_free(&cases);
    return failed || none ? 1 : 0;
}
