/* SPDX-License-Identifier: MIT */
/* The examples do what their comments say. */
#include "../support/case_file.h"
#include "../support/suite.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

static char *output_of(const char *command, int *status)
{
    FILE *pipe = popen(command, "r");
    ck_assert_ptr_nonnull(pipe);
    char *text = calloc(1, 1 << 20);
    size_t size = fread(text, 1, (1 << 20) - 1, pipe);
    text[size] = '\0';
    *status = WEXITSTATUS(pclose(pipe));
    return text;
}

START_TEST(test_night_bike)
{
    int status;
    char *text = output_of(NIGHT_BIKE, &status);
    ck_assert_int_eq(status, 0);
    ck_assert_str_eq(text, "  12.2 s  front  100 %\n"
                           "  12.2 s  rear   40 %\n"
                           "  30.0 s  rear   100 %\n"
                           "  32.0 s  rear   40 %\n"
                           "  45.0 s  rear   100 %\n"
                           "  45.1 s  rear   40 %\n"
                           "  50.0 s  front  0 %\n"
                           "  50.0 s  rear   0 %\n"
                           "  52.0 s  front  100 %\n"
                           "  52.0 s  rear   40 %\n");
    free(text);
}
END_TEST

static const struct {
    const char *file, *command;
} recordings[] = {{"harbour/spring-tide.csv", MAKE_RECORDING},    {"beehive/weighings.csv", MAKE_BEEHIVE " weighings"},
                  {"beehive/season.csv", MAKE_BEEHIVE " season"}, {"proofing_box/look.csv", MAKE_BOX " look"},
                  {"proofing_box/notes.csv", MAKE_BOX " notes"},  {"proofing_box/evening.csv", MAKE_BOX " evening"},
                  {"proofing_box/shelf.csv", MAKE_BOX " shelf"}};

/* The recordings that are kept are those that their programs make. */
START_TEST(test_recordings)
{
    int status;
    char path[300];
    snprintf(path, sizeof path, "%s/examples/%s", ROOT, recordings[_i].file);
    char *kept = read_whole(path, NULL), *made = output_of(recordings[_i].command, &status);
    ck_assert_int_eq(status, 0);
    ck_assert(kept && strcmp(kept, made) == 0);
    free(kept);
    free(made);
}
END_TEST

START_TEST(test_harbour_check)
{
    int status;
    char *text = output_of(FICKLE " check --strict " ROOT "/examples/harbour/harbour.gate 2>&1", &status);
    ck_assert_msg(status == 0, "%s", text);
    free(text);
}
END_TEST

START_TEST(test_harbour_trials)
{
    int status;
    char *text = output_of(FICKLE " trial --require 100% " ROOT "/examples/harbour/harbour.gate 2>&1", &status);
    ck_assert_msg(status == 0 && strstr(text, "10 trials: 103 held\n"), "%.3000s", text);
    free(text);
}
END_TEST

/* Moving a limit makes a trial fail, for the reason that is told. */
START_TEST(test_harbour_trials_notice)
{
    int status;
    char *text = output_of(FICKLE " trial --set gale_limit=17.5 " ROOT "/examples/harbour/harbour.gate 2>&1", &status);
    ck_assert_int_eq(status, 1);
    ck_assert_msg(strstr(text, "failed       line 121   gale begins between 302s and 304s\n"), "%s", text);
    free(text);
}
END_TEST

START_TEST(test_harbour_replay)
{
    int status;
    char *text = output_of(FICKLE " replay --as csv " ROOT "/examples/harbour/harbour.gate " ROOT
                                  "/examples/harbour/spring-tide.csv 2>/dev/null",
                           &status);
    static const char *const lines[] = {
        "\n200000,wind,ok,faulty,the input was not a valid reading\n",
        "\n303000,gale,no,yes,\"wind 16.6 m/s is over 14.0 m/s, for 3 s\"\n",
        "\n150000,landings,1,2,add: boat is yes; with may_land is yes\n",
        "\n70800,alarm,yes,no,\"clear: ack is yes, which starts now\"\n",
    };
    ck_assert_int_eq(status, 0);
    for (int i = 0; i < COUNT_OF(lines); i++)
        ck_assert_msg(strstr(text, lines[i]), "no line %s in\n%s", lines[i], text);
    free(text);
}
END_TEST

/* The recording of all edges tries all that may happen in a gate whose sensors are all read. */
START_TEST(test_edges_try_everything)
{
    static const char gate[] = "number high = 5 cm\n"
                               "sensor depth { unit cm; step 0.1 }\n"
                               "sensor vane { circle 360 }\n"
                               "flag key\n"
                               "threshold deep from depth { over high }\n"
                               "bands b from depth { low 0..2; mid 4..6; rest otherwise }\n"
                               "bands w from vane { n | 90 | s | 270 }\n"
                               "threshold north from vane { near 0 by 1 }\n"
                               "sensor alone\nbands m from alone { lo | 3 | hi; margin 5 }\n"
                               "latch held { set when deep and key; clear when not key }\n"
                               "condition c = depth under 1.5 and key\n"
                               "lamp red { on when deep; on 40% when held; on 10% when key }\n";
    char path[] = "/tmp/fickle-edges-XXXXXX", command[300];
    int status;
    ck_assert_int_ge(close(mkstemp(path)), 0);
    write_whole(path, gate, sizeof gate - 1);
    snprintf(command, sizeof command, "%s pretend %s --edges | %s replay %s - --summary --require 100%% 2>&1", FICKLE,
             path, FICKLE, path);
    char *text = output_of(command, &status);
    unlink(path);
    ck_assert_msg(status == 0 && strstr(text, "coverage: 55 of 55 situations, 100.0 %\n"), "%s", text);
    free(text);
}
END_TEST

/* What was saved of a replay can be replayed, with the same changes. */
START_TEST(test_saved_is_the_same)
{
    static const char *const endings[] = {"csv", "jsonl", "sqlite"};
    char command[900], wanted[60];
    int status;
    snprintf(command, sizeof command,
             "d=$(mktemp -d) && %s pretend %s/examples/harbour/harbour.gate --scene 'a squall' > $d/r.csv && cat > "
             "$d/a.gate <<'G'\n"
             "every 100ms\nsensor wind { step 0.1; trust 0..40 }\nflag key\nthreshold gale from wind { over 14; settle "
             "2s }\n"
             "lamp l { on when gale and key }\nG\n"
             "%s replay $d/a.gate $d/r.csv --quiet --as csv --save $d/s.%s > $d/1 && %s replay $d/a.gate $d/s.%s "
             "--quiet --as csv > "
             "$d/2 && cut -d, -f1-4 $d/1 > $d/3 && cut -d, -f1-4 $d/2 | cmp - $d/3 && ls $d; rm -r $d",
             FICKLE, ROOT, FICKLE, endings[_i], FICKLE, endings[_i]);
    char *text = output_of(command, &status);
    snprintf(wanted, sizeof wanted, "1\n2\n3\na.gate\nr.csv\ns.%s\n", endings[_i]);
    ck_assert_str_eq(text, wanted);
    free(text);
}
END_TEST

/* The keeper's guesses fail the season; one command finds numbers that hold, and changes nothing else. */
START_TEST(test_beehive_is_tuned)
{
    int status;
    char *text =
        output_of("d=$(mktemp -d) && cp " ROOT "/examples/beehive/beehive.gate " ROOT
                  "/examples/beehive/*.csv $d && cd $d && cp beehive.gate guess.gate && "
                  "{ " FICKLE " trial beehive.gate -q >/dev/null; echo before $?; " FICKLE
                  " tune beehive.gate weighings.csv --label seen --write --check -q >/dev/null; echo tuned $?; " FICKLE
                  " trial beehive.gate -q >/dev/null; echo after $?; diff guess.gate beehive.gate | grep '^[<>]'; "
                  "ls -A | grep -c . ; rm -r $d; }",
                  &status);
    ck_assert_str_eq(text, "before 1\ntuned 0\nafter 0\n"
                           "< number hungry_below = 16 kg\n> number hungry_below = 19.55 kg\n"
                           "<     hungry | hungry_below | enough | 34 | full\n<     margin 0.1\n"
                           ">     hungry | hungry_below | enough | 31.94 | full\n>     margin 0.62\n4\n");
    free(text);
}
END_TEST

/* The same bytes each time; what was baked may be replaced, what was not stays. */
START_TEST(test_bake)
{
    int status;
    char *text = output_of(
        "d=$(mktemp -d) && cd $d && { " FICKLE " bake " ROOT "/examples/harbour/harbour.gate --tables -o "
        "my-harbour -q && mkdir a && cp my-* a && " FICKLE " bake " ROOT
        "/examples/harbour/harbour.gate --tables -o my-harbour -q && diff -r a/my-harbour.c my-harbour.c && diff "
        "a/my-harbour.h my-harbour.h && grep -c include my-harbour.c && grep include my-harbour.c && echo own > "
        "own.c && " FICKLE " bake " ROOT "/examples/harbour/harbour.gate --tables -o own -q 2>&1 | tail -c 50; "
        "ls; stat -c %a my-harbour.h; cat own.c; rm -r $d; }",
        &status);
    ck_assert_str_eq(text, "1\n#include \"my-harbour.h\"\n; choose another name, or replace it with --force\n"
                           "a\nmy-harbour.c\nmy-harbour.h\nown.c\n644\nown\n");
    free(text);
}
END_TEST

/* ---- the demo: what it prints fits on a screen ---- */

START_TEST(test_demo)
{
    int status, lines = 0;
    char *text = output_of("cd " ROOT " && FICKLE=" FICKLE " ./demo.sh 2>&1", &status);
    ck_assert_msg(status == 0, "%s", text);
    for (char *at = text, *end; *at; at = end + 1, lines++) {
        int characters = 0;
        end = strchr(at, '\n');
        ck_assert_ptr_nonnull(end);
        for (char *c = at; c < end; c++) characters += ((unsigned char)*c & 0xC0) != 0x80;
        ck_assert_msg(characters <= 100, "%d characters: %.*s", characters, (int)(end - at), at);
    }
    ck_assert_msg(lines <= 45, "%d lines", lines);
    ck_assert_ptr_nonnull(strstr(text, "next: docs/first-gate.md"));
    free(text);
}
END_TEST

/* ---- the tutorial: its gates are written, its commands are run, and print what stands there ---- */

/* Up to the fence that ends a block; `at` goes behind it. */
static char *block_at(char **at)
{
    char *begin = *at, *end = strstr(begin, "```\n");
    ck_assert_ptr_nonnull(end);
    *end = '\0';
    *at = end + 4;
    return begin;
}

static void run_block(char *block, const char *folder)
{
    while (*block) {
        char command[600], *line = strchr(block, '\n'), *expected = line + 1, *next = expected;
        int status;
        ck_assert_msg(block[0] == '$' && line, "no command: %.60s", block);
        while (*next && strncmp(next, "$ ", 2) != 0) next = strchr(next, '\n') + 1;
        snprintf(command, sizeof command, "cd %s && PATH=$(dirname %s):$PATH && { %.*s; } 2>&1", folder, FICKLE,
                 (int)(line - block - 2), block + 2);
        char *said = output_of(command, &status);
        ck_assert_msg(strlen(said) == (size_t)(next - expected) && !strncmp(said, expected, strlen(said)),
                      "%.*s prints\n%.3000s", (int)(line - block), block, said);
        free(said);
        block = next;
    }
}

/* A page to follow, step by step: gates are written as it says, and each command prints what it shows. */
static void follow(const char *page, const char *folder, int least)
{
    char *text = read_whole(page, NULL);
    int blocks = 0;
    ck_assert_ptr_nonnull(text);
    for (char *at = text, *fence; (fence = strstr(at, "\n```")); blocks++) {
        char *line = fence + 4, path[300];
        at = strchr(line, '\n') + 1;
        char *block = block_at(&at);
        if (!strncmp(line, "gate ", 5)) {
            snprintf(path, sizeof path, "%s/%.*s", folder, (int)strcspn(line + 5, "\n"), line + 5);
            write_whole(path, block, strlen(block));
        } else {
            ck_assert(!strncmp(line, "console\n", 8));
            run_block(block, folder);
        }
    }
    ck_assert_int_ge(blocks, least);
    free(text);
}

START_TEST(test_first_gate)
{
    char folder[] = "/tmp/fickle-first-XXXXXX", command[300];
    int status;
    ck_assert_ptr_nonnull(mkdtemp(folder));
    snprintf(command, sizeof command, "cp %s/examples/proofing_box/*.csv %s", ROOT, folder);
    free(output_of(command, &status));
    follow(ROOT "/docs/first-gate.md", folder, 12);
    /* The example is where the tutorial ends, under a comment of its own. */
    snprintf(command, sizeof command, "tail -n +2 %s/examples/proofing_box/box.gate | diff - %s/box.gate; rm -r %s",
             ROOT, folder, folder);
    char *differs = output_of(command, &status);
    ck_assert_msg(!*differs, "%s", differs);
    free(differs);
}
END_TEST

/* A project that was just written is in order, by its own check. */
START_TEST(test_new_project)
{
    char command[700];
    int status;
    snprintf(
        command, sizeof command,
        "{ d=$(mktemp -d) && cd $d && PATH=$(dirname %s):$PATH && fickle new shelf --project -q && ls -A shelf && sh "
        "shelf/check.sh && fickle new shelf --project; echo $?; rm -r $d; } 2>&1",
        FICKLE);
    char *said = output_of(command, &status);
    ck_assert_msg(!strncmp(said, ".editorconfig\nREADME.md\ncheck.sh\nshelf.gate\n", 44), "%s", said);
    ck_assert_msg(strstr(said, "1 trial: 4 held\n") && strstr(said, "shelf: error: it exists already") &&
                      strstr(said, "\n2\n"),
                  "%s", said);
    free(said);
}
END_TEST

START_TEST(test_never)
{
    char folder[] = "/tmp/fickle-never-XXXXXX", command[300];
    int status;
    ck_assert_ptr_nonnull(mkdtemp(folder));
    follow(ROOT "/docs/never.md", folder, 10);
    snprintf(command, sizeof command, "rm -r %s", folder);
    free(output_of(command, &status));
}
END_TEST

/* Every gate in the pages for users: fenced blocks that name no other language. */
static void check_blocks(const char *page, int least)
{
    char *text = read_whole(page, NULL), *at = text;
    int blocks = 0, status;
    ck_assert_ptr_nonnull(text);
    while ((at = strstr(at, "\n```"))) {
        char *begin = strchr(at + 1, '\n'), *end = strstr(begin, "\n```");
        bool gate = begin == at + 4;
        ck_assert_ptr_nonnull(end);
        if (gate) {
            char path[] = "/tmp/fickle-page-XXXXXX", command[200];
            ck_assert_int_ge(close(mkstemp(path)), 0);
            write_whole(path, begin + 1, (size_t)(end - begin));
            snprintf(command, sizeof command, "%s check %s 2>&1", FICKLE, path);
            char *said = output_of(command, &status);
            ck_assert_msg(status == 0, "%s: %.*s\n%s", page, (int)(end - begin), begin, said);
            free(said);
            unlink(path);
            blocks++;
        }
        at = end + 4;
    }
    ck_assert_msg(blocks >= least, "%s has only %d gates", page, blocks);
    free(text);
}

START_TEST(test_pages)
{
    check_blocks(ROOT "/docs/language.md", 14);
    check_blocks(ROOT "/README.md", 1);
}
END_TEST

static void fill(TCase *tests)
{
    tcase_add_test(tests, test_night_bike);
    tcase_add_loop_test(tests, test_recordings, 0, (int)(sizeof recordings / sizeof *recordings));
    tcase_add_test(tests, test_beehive_is_tuned);
    tcase_add_test(tests, test_demo);
    tcase_add_test(tests, test_first_gate);
    tcase_add_test(tests, test_never);
    tcase_add_test(tests, test_new_project);
    tcase_add_test(tests, test_bake);
    tcase_add_test(tests, test_harbour_check);
    tcase_add_test(tests, test_harbour_trials);
    tcase_add_test(tests, test_harbour_trials_notice);
    tcase_add_test(tests, test_harbour_replay);
    tcase_add_test(tests, test_edges_try_everything);
    tcase_add_loop_test(tests, test_saved_is_the_same, 0, 3);
    tcase_add_test(tests, test_pages);
}

int main(void) { return run_suite("examples", fill); }
