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

/* The recording that is kept is the one its program makes. */
START_TEST(test_harbour_recording)
{
    int status;
    char *kept = read_whole(ROOT "/examples/harbour/spring-tide.csv", NULL), *made = output_of(MAKE_RECORDING, &status);
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
    ck_assert_msg(strstr(text, "failed       line 115   gale begins between 302s and 304s\n"), "%s", text);
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
        "\n200000,wind,ok,faulty,what was read is no reading\n",
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
    snprintf(command, sizeof command, "%s mimic %s --edges | %s replay %s - --summary --require 100%% 2>&1", FICKLE,
             path, FICKLE, path);
    char *text = output_of(command, &status);
    unlink(path);
    ck_assert_msg(status == 0 && strstr(text, "tried 55 of 55 things that may happen, 100.0 %\n"), "%s", text);
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
             "d=$(mktemp -d) && %s mimic %s/examples/harbour/harbour.gate --scene 'a squall' > $d/r.csv && cat > "
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
    tcase_add_test(tests, test_harbour_recording);
    tcase_add_test(tests, test_harbour_check);
    tcase_add_test(tests, test_harbour_trials);
    tcase_add_test(tests, test_harbour_trials_notice);
    tcase_add_test(tests, test_harbour_replay);
    tcase_add_test(tests, test_edges_try_everything);
    tcase_add_loop_test(tests, test_saved_is_the_same, 0, 3);
    tcase_add_test(tests, test_pages);
}

int main(void) { return run_suite("examples", fill); }
