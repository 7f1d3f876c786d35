/* SPDX-License-Identifier: MIT */
/* Tuning: the cuts it finds against every possible list of cuts, and what it says of labels. */
#include <ficklegate/tune.h>

#include <check.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

static char folder[] = "/tmp/fickle-tune-XXXXXX";

static void enter(void)
{
    strcpy(folder, "/tmp/fickle-tune-XXXXXX");
    ck_assert_ptr_nonnull(mkdtemp(folder));
    ck_assert_int_eq(chdir(folder), 0);
}

static void leave(void)
{
    (void)unlink("a.gate");
    (void)unlink("a.csv");
    ck_assert_int_eq(chdir("/"), 0);
    ck_assert_int_eq(rmdir(folder), 0);
}

static void write_text(const char *path, const char *text)
{
    FILE *file = fopen(path, "w");
    ck_assert_ptr_nonnull(file);
    fputs(text, file);
    fclose(file);
}

enum { READINGS = 24, VALUES = 14 };

typedef struct sample {
    int value, label;
} sample;

/* A kind of rule, and what it answers with given boundaries, in the labels of the recording. */
typedef struct kind {
    const char *gate, *rule;
    const char *const *labels;
    int label_count, boundaries, circle;
    int segments[5]; /* the label of each, from low to high */
} kind;

static const char *const words[] = {"a", "b", "c"}, *const flags[] = {"no", "yes"};

static const kind shapes[] = {
    {"sensor s\nbands r from s { a | 5 | b }\n", "r", words, 2, 1, 0, {0, 1}},
    {"sensor s\nbands r from s { a | 3 | b | 9 | c }\n", "r", words, 3, 2, 0, {0, 1, 2}},
    {"sensor s\nbands r from s { a | 3 | b | 6 | c | 9 | a }\n", "r", words, 3, 3, 0, {0, 1, 2, 0}},
    {"sensor s { circle 14 }\nbands r from s { a | 3 | b | 9 | c | 12 }\n", "r", words, 3, 3, 14, {0, 1, 2, 0}},
    {"sensor s { circle 14 }\nbands r from s { a | 3 | b | 9 }\n", "r", words, 2, 2, 14, {0, 1, 0}},
    {"sensor s\nbands r from s { a under 4; b 4..8; c over 8 }\n", "r", words, 3, 2, 0, {0, 1, 2}},
    {"sensor s\nbands r from s { a under 4; c over 8; b otherwise }\n", "r", words, 3, 2, 0, {0, 1, 2}},
    {"sensor s\nthreshold r from s { over 5 }\n", "r", flags, 2, 1, 0, {0, 1}},
    {"sensor s\nthreshold r from s { at most 5 }\n", "r", flags, 2, 1, 0, {1, 0}},
    {"sensor s\nthreshold r from s { within 4..7 }\n", "r", flags, 2, 2, 0, {0, 1, 0}},
    {"sensor s\nthreshold r from s { outside 4..7 }\n", "r", flags, 2, 2, 0, {1, 0, 1}},
    {"sensor s { circle 14 }\nthreshold r from s { within 12..3 }\n", "r", flags, 2, 2, 14, {1, 0, 1}},
    {"sensor s { circle 14 }\nthreshold r from s { outside 4..7 }\n", "r", flags, 2, 2, 14, {1, 0, 1}},
    {"sensor s\nthreshold r from s { near 5 by 2 }\n", "r", flags, 2, 2, 0, {0, 1, 0}},
};

static uint64_t wrong_with(const kind *shape, const sample *samples, const int *at, bool turned)
{
    uint64_t wrong = 0;
    for (int i = 0; i < READINGS; i++) {
        int segment = 0;
        while (segment < shape->boundaries && samples[i].value >= at[segment]) segment++;
        wrong += (samples[i].label != shape->segments[segment]) != turned;
    }
    return wrong;
}

/* Every list of rising boundaries there is. */
static uint64_t least_wrong(const kind *shape, const sample *samples)
{
    const int low = shape->circle ? 0 : -4, high = shape->circle ? shape->circle - 1 : VALUES + 4;
    uint64_t least = UINT64_MAX;
    int at[3] = {low, low + 1, low + 2};
    for (;;) {
        uint64_t wrong = wrong_with(shape, samples, at, false);
        /* of a range on a circle either part may be the one through zero */
        if (shape->circle && shape->labels == flags) {
            const uint64_t turned = wrong_with(shape, samples, at, true);
            if (turned < wrong) wrong = turned;
        }
        if (wrong < least) least = wrong;
        int i = shape->boundaries - 1;
        while (i >= 0 && at[i] == high - (shape->boundaries - 1 - i)) i--;
        if (i < 0) return least;
        at[i]++;
        for (int k = i + 1; k < shape->boundaries; k++) at[k] = at[k - 1] + 1;
    }
}

static unsigned next(unsigned *state) { return *state = *state * 1103515245u + 12345u, *state >> 16 & 0x7fff; }

/* Readings that mostly lie where their label is at home; all labels are there. */
static void make_samples(const kind *shape, unsigned seed, sample *samples)
{
    unsigned state = seed;
    for (int i = 0; i < READINGS; i++) {
        const int home =
            i < 2 * shape->label_count ? i % shape->label_count : (int)(next(&state) % 3) % shape->label_count;
        const int around = VALUES * (2 * home + 1) / (2 * shape->label_count);
        const int spread = seed % 4 == 3 ? VALUES : (int)(seed % 4) + 2;
        samples[i].value = (around + (int)(next(&state) % (unsigned)(2 * spread + 1)) - spread + 2 * VALUES) % VALUES;
        samples[i].label = home;
    }
}

/* Opens the gate and tunes it by the recording. Both are to be given back. */
static fg_tuning *tune(fg_gate_file *gate, fg_tuned *tuned)
{
    fg_mistake mistake;
    fg_replay_report report;
    const fg_tuning_source source = {.recording = "a.csv"};
    const fg_status status = fg_gate_file_open(gate, "a.gate", (fg_settings){0}, &mistake);
    ck_assert_msg(status == FG_OK, "no gate:\n%s", gate->program.sources ? gate->program.sources[0].text.at : "");
    fg_tuning *tuning =
        fg_tuning_start(&gate->program, fg_program_find(&gate->program, (fg_text){"r", 1}), (fg_text){"true", 4});
    ck_assert_ptr_nonnull(tuning);
    ck_assert_int_eq(fg_tuning_read(&tuning, 1, &source, &report, &mistake), FG_OK);
    ck_assert(fg_tuning_work(tuning, tuned));
    return tuning;
}

static uint64_t tuned_wrong(const kind *shape, const sample *samples, fg_tuned *tuned, uint64_t *after)
{
    fg_gate_file gate;
    FILE *file = fopen("a.csv", "w");
    fputs("t_ms,s,true\n", file);
    for (int i = 0; i < READINGS; i++)
        fprintf(file, "%d,%d,%s\n", i, samples[i].value, shape->labels[samples[i].label]);
    fclose(file);
    write_text("a.gate", shape->gate);
    fg_tuning *tuning = tune(&gate, tuned);
    const uint64_t wrong = tuned->wrong_best;

    /* The numbers, written back, give no more wrong than that; only those of `near` may lose a step. */
    fg_edit edits[8];
    const size_t count = fg_tuning_edits(tuning, tuned, edits, 8, NULL, NULL);
    const fg_text text = fg_edit_text(gate.program.sources[0].text, edits, count);
    char *changed = malloc(text.size + 1);
    memcpy(changed, text.at, text.size);
    changed[text.size] = '\0';
    fg_tuning_end(tuning);
    fg_gate_file_close(&gate);
    write_text("a.gate", changed);
    fg_tuned again;
    tuning = tune(&gate, &again);
    *after = again.wrong_now;
    fg_tuning_end(tuning);
    fg_gate_file_close(&gate);
    free((void *)text.at);
    free(changed);
    return wrong;
}

START_TEST(test_no_cuts_are_better)
{
    const kind *shape = &shapes[_i];
    for (unsigned seed = 1; seed <= 60; seed++) {
        sample samples[READINGS];
        fg_tuned tuned;
        uint64_t after;
        make_samples(shape, seed, samples);
        const uint64_t least = least_wrong(shape, samples), wrong = tuned_wrong(shape, samples, &tuned, &after);
        ck_assert_msg(wrong == least, "%sseed %u: %d wrong, %d are possible", shape->gate, seed, (int)wrong,
                      (int)least);
        if (!strstr(shape->gate, "near"))
            ck_assert_msg(after == least, "%sseed %u: %d wrong with the numbers written, %d are possible", shape->gate,
                          seed, (int)after, (int)least);
    }
}
END_TEST

/* So many readings of two labels, spread so far around zero, so far apart: in few places, and in all that there are. */
static const struct {
    int count;
    int64_t spread;
    long apart;
} spreads[] = {{3, 5, 1},     {47, 300, 1},    {48, 300, 1},         {500, 4, 1},
               {500, 300, 1}, {500, 70000, 1}, {500, 2147483646, 1}, {500, 7, 16}};

static int by_size(const void *a, const void *b)
{
    const long x = *(const long *)a, y = *(const long *)b;
    return (x > y) - (x < y);
}

START_TEST(test_readings_lie_in_order)
{
    enum { MOST = 500 };
    const int count = spreads[_i].count;
    long of[2][MOST], all[MOST];
    int used[2] = {0, 0}, label[MOST];
    unsigned state = 7;
    fg_gate_file gate;
    fg_tuned tuned;
    FILE *file = fopen("a.csv", "w");
    fputs("t_ms,s,true\n", file);
    for (int i = 0; i < count; i++) {
        const int64_t by_chance = (int64_t)next(&state) << 30 | (int64_t)next(&state) << 15 | next(&state);
        const long place = (long)(by_chance % (2 * spreads[_i].spread + 1) - spreads[_i].spread);
        all[i] = place * spreads[_i].apart;
        label[i] = i < 2 ? i : place > spreads[_i].spread / 3 || next(&state) % 8 == 0;
        of[label[i]][used[label[i]]++] = all[i];
        fprintf(file, "%d,%ld,%s\n", i, all[i], flags[label[i]]);
    }
    fclose(file);
    write_text("a.gate", "sensor s\nthreshold r from s { over 0 }\n");
    fg_tuning *tuning = tune(&gate, &tuned);
    ck_assert_uint_eq(tuned.label_count, 2);
    for (int k = 0; k < 2; k++) {
        qsort(of[k], (size_t)used[k], sizeof *of[k], by_size);
        ck_assert_uint_eq(tuned.labels[k].readings, (uint64_t)used[k]);
        ck_assert_int_eq(tuned.labels[k].lowest, of[k][0]);
        ck_assert_int_eq(tuned.labels[k].median, of[k][(used[k] - 1) / 2]);
        ck_assert_int_eq(tuned.labels[k].highest, of[k][used[k] - 1]);
    }
    uint64_t least = UINT64_MAX;
    for (int at = -1; at < count; at++) { /* the limit is this reading, or below all of them */
        uint64_t wrong = 0;
        for (int i = 0; i < count; i++) wrong += (at < 0 || all[i] > all[at]) != label[i];
        if (wrong < least) least = wrong;
    }
    ck_assert_uint_eq(tuned.wrong_best, least);
    fg_tuning_end(tuning);
    fg_gate_file_close(&gate);
}
END_TEST

/* Noise, and now and then (of 100 readings) one far off; some cells are lost. */
static void make_noise(unsigned seed, long width, unsigned far, unsigned lasts)
{
    unsigned state = seed;
    FILE *file = fopen("a.csv", "w");
    fputs("t_ms,s,true\n", file);
    for (int i = 0, left = 0, label = 0; i < 4000; i++, left--) {
        if (!left) {
            left = (int)(lasts + next(&state) % (2 * lasts));
            label = !label;
        }
        const long noise = (long)(next(&state) % (unsigned)(2 * width + 1)) - width;
        const long value = next(&state) % 100 < far ? (next(&state) % 2 ? 9000 : -9000) : 30 * label - 15 + noise;
        if (next(&state) % 300 == 0)
            fprintf(file, "%d,lost,%s\n", i, flags[label]);
        else
            fprintf(file, "%d,%ld,%s\n", i, value, flags[label]);
    }
    fclose(file);
}

static void tune_smoothed(const char *smoothing, fg_tuned *tuned)
{
    fg_gate_file gate;
    char text[120];
    snprintf(text, sizeof text, "sensor s { %s }\nthreshold r from s { over 0 }\n", smoothing);
    write_text("a.gate", text);
    fg_tuning_end(tune(&gate, tuned));
    fg_gate_file_close(&gate);
}

static const struct {
    long width;
    unsigned far, lasts;
} noises[] = {{17, 0, 100}, {22, 0, 100}, {30, 0, 100}, {60, 0, 100}, {250, 0, 100}, {14, 3, 100},
              {14, 12, 25}, {14, 6, 20},  {14, 20, 25}, {14, 25, 99}, {14, 38, 99}};

/* What is said of smoothing is what comes out with a sensor that is smoothed so; the shortest that gets the fewest
 * wrong, if that is at most half. */
START_TEST(test_smoothing)
{
    static const char *const tries[] = {"mean 2",   "median 3", "mean 4",    "median 5", "mean 8",
                                        "median 9", "mean 16",  "median 15", "mean 32"};
    fg_tuned plain, smoothed;
    char said[20], best[20] = "median 0";
    make_noise(1, noises[_i].width, noises[_i].far, noises[_i].lasts);
    tune_smoothed("", &plain);
    uint64_t least = plain.wrong_best;
    for (size_t i = 0; i < sizeof tries / sizeof *tries; i++) {
        tune_smoothed(tries[i], &smoothed);
        if (smoothed.wrong_best >= least || smoothed.wrong_best > plain.wrong_best / 2) continue;
        least = smoothed.wrong_best;
        snprintf(best, sizeof best, "%s", tries[i]);
    }
    snprintf(said, sizeof said, "%s %d", plain.smoothing_mean ? "mean" : "median", plain.smoothing);
    ck_assert_str_eq(said, best);
    if (plain.smoothing) ck_assert_uint_eq(plain.smoothing_wrong, least);
}
END_TEST

int main(void)
{
    Suite *suite = suite_create("tune");
    TCase *cases = tcase_create("cuts");
    tcase_add_checked_fixture(cases, enter, leave);
    tcase_add_loop_test(cases, test_no_cuts_are_better, 0, (int)(sizeof shapes / sizeof *shapes));
    tcase_add_loop_test(cases, test_readings_lie_in_order, 0, (int)(sizeof spreads / sizeof *spreads));
    tcase_add_loop_test(cases, test_smoothing, 0, (int)(sizeof noises / sizeof *noises));
    tcase_set_timeout(cases, 60);
    suite_add_tcase(suite, cases);
    SRunner *runner = srunner_create(suite);
    srunner_run_all(runner, CK_NORMAL);
    const int failed = srunner_ntests_failed(runner);
    srunner_free(runner);
    return failed ? 1 : 0;
}
