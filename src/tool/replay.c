/* SPDX-License-Identifier: MIT */
/* fickle replay GATE RECORDING */
#include "tool.h"

#include <inttypes.h>
#include <string.h>

#ifdef FG_WITHOUT_JSON
enum { REPLAY_FORMS = 1 << FORM_TEXT | 1 << FORM_CSV };
#else
enum { REPLAY_FORMS = 1 << FORM_TEXT | 1 << FORM_CSV | 1 << FORM_JSONL };
#endif

typedef struct printer {
    tool_changes changes;
    fg_coverage *coverage; /* NULL unless asked for */
    fg_summary *summary;
    fg_saver *saver;
    tool_broken broken;
    int64_t from_ms;
    const fg_replay_report *report;
    const char *path; /* of the recording; NULL: nothing is told beforehand */
} printer;

enum { COMPARE = TOOL_OPTION_OWN, BY };

static const struct argp_option own_options[] = {
    {"scene", 'n', "NAME", 0, "play a scene of the gate file instead of a recording", 0},
    TOOL_PART_OPTIONS,
    TOOL_READING_OPTIONS,
    {"save", 'k', "FILE", 0, "keep what every name was at every step: FILE.csv, .jsonl or .sqlite", 0},
    {"summary", 'm', NULL, 0, "a table instead of every change: how long each answer lasted, what each sensor read", 0},
    {"compare", COMPARE, NULL, 0,
     "hold what a board said, in columns named like rules, counts or outputs, against the gate", 0},
    {"by", BY, "COLUMN", 0, "the recording holds several devices, which this column tells apart", 0},
    TOOL_COVERAGE_OPTIONS,
    TOOL_JOBS_OPTION,
    {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    tool_options *o = state->input;
    if (tool_coverage_option(key, argument, state) == 0 || tool_reading_option(key, argument, state) == 0 ||
        tool_part_option(key, argument, state) == 0 || tool_jobs_option(key, argument, state) == 0)
        return 0;
    switch (key) {
    case 'n': o->scene = argument; return 0;
    case 'm': o->summary = true; return 0;
    case 'k': o->save = argument; return 0;
    case COMPARE: o->compare = true; return 0;
    case BY: o->reading.by = argument; return 0;
    default: return tool_arguments(key, argument, state, WANTS_GATE | WANTS_RECORDINGS);
    }
}

static bool on_change(void *context, const fg_change *change)
{
    return tool_changes_print(&((printer *)context)->changes, change);
}

static bool on_broken(void *context, const fg_broken *broken)
{
    return tool_broken_add(&((printer *)context)->broken, broken);
}

/* What is missing is told before the first change, because every answer may hang on it. */
static bool on_columns(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    const printer *p = context;
    (void)columns;
    (void)count;
    (void)mistake;
    if (p->path) tool_print_missing(p->path, p->report);
    return true;
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    printer *p = context;
    (void)before;
    if (t_ms < p->from_ms) return true;
    if (p->coverage) fg_coverage_step(p->coverage, run);
    if (p->summary) fg_summary_step(p->summary, run, t_ms);
    return !p->saver || (!tool_stopped && fg_save_step(p->saver, run, t_ms));
}

/* Everything that is to be printed or counted begins here. False with a message if there is no memory for it. */
static bool begin(printer *p, const tool_options *options, const fg_gate_file *file)
{
    tool_changes_begin(&p->changes, &file->program);
    if (tool_covers(options) && !(p->coverage = tool_coverage_begin(options, file))) return false;
    if (options->summary && !(p->summary = fg_summary_start(&file->program))) {
        tool_no_memory();
        return false;
    }
    if (!options->summary) tool_changes_heading(&p->changes);
    return true;
}

/* What stands below the changes, or instead of them. The exit status. */
static int end(printer *p, const tool_options *options, const fg_replay_report *report, bool good)
{
    int status = good ? EXIT_WELL : EXIT_WRONG;
    fg_mistake mistake = {0};
    if (p->changes.failed && !ferror(p->changes.output)) tool_no_memory(); /* else the output says why */
    if (good && p->summary &&
        !tool_print_summary(p->changes.output, options, &p->changes.chosen, p->changes.name_width, p->summary,
                            report->length_ms)) {
        tool_no_memory();
        status = EXIT_WRONG;
    }
    if (good && p->coverage && status == EXIT_WELL)
        status = tool_print_coverage(p->changes.output, options, p->coverage);
    fg_summary_end(p->summary);
    fg_coverage_end(p->coverage);
    const bool kept = good || (tool_ends_itself && tool_stopped &&
                               !p->changes.failed); /* a database stays, with its steps up to then */
    if (p->saver && fg_save_end(p->saver, kept, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
        status = EXIT_WRONG;
    }
    const int written = tool_output_close(p->changes.output, p->changes.form, status != EXIT_WRONG);
    return written == EXIT_WELL ? status : written;
}

/* Nothing is played: what earlier runs tried is put together. */
static int add_up(const tool_options *options, const fg_gate_file *file)
{
    if (options->summary || options->save || options->compare || options->reading.by) {
        tool_say("fickle: error: name a recording to play; without one only coverage is put together\n");
        return EXIT_WRONG;
    }
    fg_coverage *coverage = tool_coverage_begin(options, file);
    FILE *output = coverage ? tool_output_open() : NULL;
    int status = EXIT_WRONG;
    if (output) {
        status = tool_print_coverage(output, options, coverage);
        const int written = tool_output_close(output, options->form, status != EXIT_WRONG);
        if (written != EXIT_WELL) status = written;
    }
    fg_coverage_end(coverage);
    return status;
}

static int run(void *given, const fg_gate_file *file)
{
    const tool_options *options = given;
    fg_readings readings;
    if (options->summary && tool_form_is_one_of(options, 1 << FORM_TEXT | 1 << FORM_CSV) != EXIT_WELL)
        return EXIT_WRONG;
    if (!options->recording && !options->scene) return add_up(options, file);
    if (options->recording_count > 1 || options->reading.by) return tool_replay_many(options, file);
    if (!tool_readings(options, file, &readings)) return EXIT_WRONG;
    if (options->compare) return tool_compare(options, file, &readings);
    printer p = {.changes = {.form = options->form, .all = options->verbose},
                 .broken = {.program = &file->program},
                 .from_ms = readings.from_ms};
    fg_replay_report report;
    fg_mistake mistake;
    if (!tool_names(options, file, &p.changes.chosen)) return EXIT_WRONG;
    p.changes.output = tool_output_open();
    if (!p.changes.output) return EXIT_WRONG;
    if (options->save &&
        (!tool_keeps(options->save, options->gate) || !tool_keeps(options->save, options->recording))) {
        (void)tool_output_close(p.changes.output, p.changes.form, false);
        return EXIT_WRONG;
    }
    const char *ending = options->save ? strrchr(options->save, '.') : NULL;
    tool_ends_itself = ending && !strcmp(ending, ".sqlite");
    if (options->save) p.saver = fg_save_start(&file->program, options->save, &mistake);
    if (options->save && !p.saver) {
        tool_print_mistake(&mistake);
        (void)tool_output_close(p.changes.output, p.changes.form, false);
        return EXIT_WRONG;
    }
    p.report = &report;
    p.path = options->quiet || options->scene ? NULL : tool_path(options->recording);
    if (!begin(&p, options, file)) return end(&p, options, &(fg_replay_report){0}, false);
    const fg_replay_observer observer = {.context = &p,
                                         .change = options->summary ? NULL : on_change,
                                         .columns = on_columns,
                                         .broken = on_broken,
                                         .progress = tool_progress_of_rows(),
                                         .step = p.coverage || p.summary || p.saver ? on_step : NULL};
    const fg_status status = fg_replay(&file->program, &readings, &observer, &report, &mistake);
    tool_progress_end();
    if (p.broken.failed) p.changes.failed = true;
    const int result = end(&p, options, &report, status == FG_OK && !p.changes.failed && !tool_stopped);
    tool_end_if_stopped();
    tool_ends_itself = false;
    if (status != FG_OK) tool_print_mistake(&mistake);
    if (p.changes.chosen.count && !options->summary) report.changes = p.changes.told;
    if (result != EXIT_WRONG) tool_print_report(options, &report);
    if (result != EXIT_WRONG && !options->quiet)
        tool_changes_tell_left_out(&p.changes, tool_path(tool_readings_name(options)));
    const bool missing = options->strict && !options->scene && report.unread_count;
    return result == EXIT_WELL && (missing || report.broken) ? EXIT_HELD_NOT : result;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE [RECORDING...]",
    .doc =
        "Plays a recording through a gate on the simulated board and prints every change with its reason. Of several "
        "recordings each is played by itself, and its name stands in front of its changes. Without one, what "
        "--add-coverage names is put together."
        "\vA recording is CSV with a heading (cells separated by commas, semicolons or tabs), JSON Lines, or lines "
        "as boards print them (depth=12.5 wind=3), each of them gzipped or not, or an SQLite file with one table. "
        "It has a column with the time (t_ms in milliseconds, t_s in seconds, time in seconds or as "
        "2026-11-23T09:30:00Z) and one for each sensor (NAME in its unit, NAME.raw in counts) and flag. Empty cells "
        "are no new reading, what is no number is a faulty one, lines that begin with # are comments."};

const tool_command command_replay = {.name = "replay",
                                     .use = "replay GATE RECORDING",
                                     .line = "prints every change with its reason",
                                     .argp = &argp,
                                     .options_size = sizeof(tool_options),
                                     .forms = REPLAY_FORMS,
                                     .verbose = true,
                                     .promises = true,
                                     .run = run};
