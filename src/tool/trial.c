/* SPDX-License-Identifier: MIT */
/* fickle trial GATE */
#include "tool.h"

#include <inttypes.h>
#include <stdlib.h>

typedef struct printer {
    FILE *output;
    const tool_options *options;
    uint32_t counts[FG_OUTCOMES_IN_ALL];
    uint32_t results, suite_results, suite_failures;
    fg_memory_file cases; /* of the trial that is being told, as XML */
    fg_text suite;
    bool failed; /* there was no memory for the cases */
    const fg_program *program;
    bool missing;  /* some recording has no column for a sensor or flag */
    bool unplayed; /* some readings could not be played */
    tool_broken broken;
    bool told; /* why is told once for the whole trial, which is one of those */
} printer;

enum { NUDGE = TOOL_OPTION_OWN };

static const struct argp_option own_options[] = {
    {"nudge", NUDGE, NULL, 0,
     "move each limit, margin, time and label by one step, and say which moves no trial notices; --require is about "
     "them then",
     0},
    {"jobs", 'j', "N", 0, "run so many trials at once; one for each processor if left out", 0},
    TOOL_READING_OPTIONS,
    TOOL_COVERAGE_OPTIONS,
    {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    if (tool_coverage_option(key, argument, state) == 0 || tool_reading_option(key, argument, state) == 0) return 0;
    if (tool_jobs_option(key, argument, state) == 0) return 0;
    if (key == NUDGE) {
        ((tool_options *)state->input)->nudge = true;
        return 0;
    }
    return tool_arguments(key, argument, state, WANTS_GATE);
}

/* ---- forms that other programs read ---- */

static void print_tap(printer *p, const fg_trial_result *result)
{
    fprintf(p->output, "%s %" PRIu32 " - ", result->outcome == FG_OUTCOME_HELD ? "ok" : "not ok", p->results);
    tool_tap_text(p->output, result->trial->name);
    fprintf(p->output, ", line %" PRIu32 ": ", result->line);
    tool_tap_text(p->output, result->expectation);
    fputc('\n', p->output);
    if (result->outcome == FG_OUTCOME_HELD) return;
    fprintf(p->output, "# %s: ", fg_outcome_word(result->outcome));
    tool_text(p->output, result->because);
    fputc('\n', p->output);
}

static void end_suite(printer *p)
{
    if (!p->cases.file) return;
    p->failed = !fg_memory_file_close(&p->cases) || p->failed;
    if (p->failed) return;
    fputs("  <testsuite name=\"", p->output);
    tool_xml(p->output, p->suite);
    fprintf(p->output, "\" tests=\"%" PRIu32 "\" failures=\"%" PRIu32 "\">\n", p->suite_results, p->suite_failures);
    tool_text(p->output, (fg_text){p->cases.text, p->cases.size});
    fputs("  </testsuite>\n", p->output);
    free(p->cases.text);
    p->cases = (fg_memory_file){0};
    p->suite_results = p->suite_failures = 0;
}

static void print_junit(printer *p, const fg_trial_result *result)
{
    p->failed = p->failed || (!p->cases.file && !fg_memory_file_open(&p->cases));
    if (p->failed) return;
    FILE *const cases = p->cases.file;
    p->suite_results++;
    fputs("    <testcase classname=\"", cases);
    tool_xml(cases, result->trial->name);
    fprintf(cases, "\" name=\"line %" PRIu32 ": ", result->line);
    tool_xml(cases, result->expectation);
    if (result->outcome == FG_OUTCOME_HELD) {
        fputs("\"/>\n", cases);
        return;
    }
    p->suite_failures++;
    fprintf(cases, "\">\n      <failure type=\"%s\" message=\"", fg_outcome_word(result->outcome));
    tool_xml(cases, result->because);
    fputs("\"/>\n    </testcase>\n", cases);
}

static void on_trial(void *context, const fg_trial *trial, const fg_replay_report *report)
{
    printer *p = context;
    char room[64], meant[128];
    end_suite(p);
    p->suite = trial->name;
    p->told = false;
    p->missing = p->missing || (report->unread_count && !fg_scene_find(p->program, trial->readings));
    if (p->options->form != FORM_TEXT) return;
    fprintf(p->output, "%.*s  (%.*s: %s, %" PRId64 ".%03" PRId64 " s)\n", (int)trial->name.size, trial->name.at,
            (int)trial->readings.size, trial->readings.at, tool_counted(report->rows, "row", room),
            report->length_ms / 1000, report->length_ms % 1000);
    if (report->unread_count)
        fprintf(p->output, "  no column for %s, so %s faulty throughout", report->unread,
                report->unread_count == 1 ? "it is" : "they are");
    if (report->unread_count && *report->unread_like) fprintf(p->output, "; %s", tool_column_meant(report, meant));
    if (report->unread_count) fputc('\n', p->output);
    if (report->finer)
        fprintf(p->output, "  %s finer than a step, and rounded: '%s' of %s in line %" PRIu64 "; write step 0.%.*s1\n",
                tool_counted(report->finer, "reading", room), report->finer_cell, report->finer_name,
                report->finer_line, report->finer_decimals - 1, "00000");
}

static void on_broken(void *context, const fg_trial *trial, const fg_broken *broken)
{
    printer *p = context;
    char *where;
    if (asprintf(&where, "the trial \"%.*s\"", (int)trial->name.size, trial->name.at) < 0) {
        p->failed = true;
        return;
    }
    p->broken.where = where;
    if (!tool_broken_add(&p->broken, broken)) p->failed = true;
    free(where);
}

static void on_unplayed(void *context, const fg_trial *trial, const fg_mistake *mistake)
{
    printer *p = context;
    end_suite(p);
    p->suite = trial->name;
    p->unplayed = p->told = true;
    tool_print_mistake(mistake);
    if (p->options->form == FORM_TEXT)
        fprintf(p->output, "%.*s  (not played: %s)\n", (int)trial->name.size, trial->name.at, mistake->text);
}

static void on_result(void *context, const fg_trial_result *result)
{
    printer *p = context;
    const char *word = fg_outcome_word(result->outcome);
    p->counts[result->outcome]++;
    p->results++;
    if (p->options->form == FORM_TAP) {
        print_tap(p, result);
        return;
    }
    if (p->options->form == FORM_JUNIT) {
        print_junit(p, result);
        return;
    }
    if (p->options->form == FORM_CSV) {
        fg_csv_cell(p->output, result->trial->name);
        fprintf(p->output, ",%" PRIu32 ",%s,", result->line, word);
        fg_csv_cell(p->output, result->because);
        fputc('\n', p->output);
        return;
    }
    const bool good = result->outcome == FG_OUTCOME_HELD;
    fprintf(p->output, "  %s%-11s%s  line %-4" PRIu32 "  ", good ? "" : tool_paint(true), word,
            good ? "" : tool_paint(false), result->line);
    tool_wrapped(p->output, result->expectation, 26);
    fputc('\n', p->output);
    if (good || p->told) return; /* what held needs no reason: what did not stands out */
    fprintf(p->output, "%26s", "");
    tool_wrapped(p->output, result->because, 26);
    fputc('\n', p->output);
}

static void print_sum(const printer *p, uint32_t trials)
{
    static const fg_outcome order[] = {FG_OUTCOME_HELD, FG_OUTCOME_FAILED, FG_OUTCOME_NEVER_TRIED,
                                       FG_OUTCOME_UNDECIDED};
    const char *between = ": ";
    if (p->options->form == FORM_TAP) fprintf(p->output, "1..%" PRIu32 "\n", p->results);
    if (p->options->form == FORM_JUNIT) fputs("</testsuites>\n", p->output);
    if (p->options->form != FORM_TEXT) return;
    fprintf(p->output, "%" PRIu32 " trial%s", trials, trials == 1 ? "" : "s");
    for (int i = 0; i < FG_OUTCOMES_IN_ALL; i++) {
        if (!p->counts[order[i]] && order[i] != FG_OUTCOME_HELD) continue;
        fprintf(p->output, "%s%" PRIu32 " %s", between, p->counts[order[i]], fg_outcome_word(order[i]));
        between = ", ";
    }
    fputc('\n', p->output);
}

static int run_trials(const tool_options *options, const fg_gate_file *file)
{
    const uint32_t trials = file->program.trial_count;
    printer p = {.output = tool_output_open(),
                 .options = options,
                 .program = &file->program,
                 .broken = {.program = &file->program}};
    if (!p.output) return EXIT_WRONG;
    if (options->form == FORM_CSV) fputs("trial,line,verdict,because\n", p.output);
    if (options->form == FORM_TAP) fputs("TAP version 13\n", p.output);
    if (options->form == FORM_JUNIT) fputs("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites>\n", p.output);
    fg_coverage *coverage = tool_coverage_begin(options, file);
    if (!coverage) {
        (void)tool_output_close(p.output, options->form, false);
        return EXIT_WRONG;
    }
    const fg_trial_observer observer = {.context = &p,
                                        .trial = on_trial,
                                        .unplayed = on_unplayed,
                                        .broken = on_broken,
                                        .result = on_result,
                                        .coverage = coverage,
                                        .progress = tool_progress_of_trials(file)};
    fg_mistake mistake;
    const bool ran = fg_trials_run(file, &options->reading, options->jobs, &observer, &mistake) == FG_OK;
    tool_progress_end();
    if (!ran) tool_print_mistake(&mistake);
    end_suite(&p);
    print_sum(&p, trials);
    const bool good = ran && !p.failed;
    const int covered = good ? tool_print_coverage(p.output, options, coverage) : EXIT_WELL;
    fg_coverage_end(coverage);
    if (ran && !good) tool_no_memory();
    free(p.cases.text);
    if (tool_output_close(p.output, options->form, good && covered != EXIT_WRONG) != EXIT_WELL) return EXIT_WRONG;
    if (p.unplayed) return EXIT_WRONG;
    return p.counts[FG_OUTCOME_FAILED] + p.counts[FG_OUTCOME_NEVER_TRIED] + p.counts[FG_OUTCOME_UNDECIDED] +
                   p.broken.count
               ? EXIT_HELD_NOT
           : covered == EXIT_WELL && options->strict && p.missing ? EXIT_HELD_NOT
                                                                  : covered;
}

static int run(void *given, const fg_gate_file *file)
{
    const tool_options *options = given;
    if (!file->program.trial_count) {
        tool_say("%s: error: it has no trials; add one: trial \"name\" { readings \"file.csv\"; expect ... }\n",
                 file->path);
        return EXIT_WRONG;
    }
    const int status = tool_check_trials(options, file);
    if (status != EXIT_WELL) return status;
    if (!options->nudge) return run_trials(options, file);
    if (tool_form_is_one_of(options, 1 << FORM_TEXT | 1 << FORM_CSV) != EXIT_WELL) return EXIT_WRONG;
    return tool_nudge(options, file);
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE",
    .doc = "Plays the recordings of a gate file's trials and says which expectations held."
           "\vReadings are looked for beside the gate file. Status 1 if an expectation failed, was "
           "never tried, or is undecided because its recording ends too early."};

const tool_command command_trial = {.name = "trial",
                                    .use = "trial GATE",
                                    .line = "runs the trials: what held, what failed and why",
                                    .argp = &argp,
                                    .options_size = sizeof(tool_options),
                                    .verbose = true,
                                    .forms = 1 << FORM_TEXT | 1 << FORM_CSV | 1 << FORM_TAP | 1 << FORM_JUNIT,
                                    .promises = true,
                                    .run = run};
