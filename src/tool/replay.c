/* fickle replay GATE RECORDING */
#include "tool.h"

#include <inttypes.h>
#include <string.h>
#ifndef FG_WITHOUT_JSON
#include <jansson.h>
#endif

#ifdef FG_WITHOUT_JSON
enum { REPLAY_FORMS = 1 << FORM_TEXT | 1 << FORM_CSV };
#else
enum { REPLAY_FORMS = 1 << FORM_TEXT | 1 << FORM_CSV | 1 << FORM_JSONL };
#endif

typedef struct printer {
    FILE *output;
    tool_form form;
    int name_width, change_width;
    int64_t last_ms;
    fg_coverage *coverage; /* NULL unless asked for */
    fg_summary *summary;
    fg_saver *saver;
    tool_chosen chosen;
    int64_t from_ms;
    bool all;       /* of text too: what is at rest when it begins, and each level of a sequence */
    uint64_t told;  /* changes that belong here */
    uint64_t quiet; /* of those, names that were at rest in the first step */
    uint64_t plays; /* and levels of sequences */
    const fg_replay_report *report;
    const char *path; /* of the recording; NULL: nothing is told beforehand */
    bool failed;      /* a change could not be written */
} printer;

enum { COMPARE = TOOL_OPTION_OWN };

static const struct argp_option own_options[] = {
    {"scene", 'n', "NAME", 0, "play a scene of the gate file instead of a recording", 0},
    TOOL_PART_OPTIONS,
    TOOL_READING_OPTIONS,
    {"save", 'k', "FILE", 0, "keep what every name was at every step: FILE.csv, .jsonl or .sqlite", 0},
    {"summary", 'm', NULL, 0, "a table instead of every change: how long each answer lasted, what each sensor read", 0},
    {"compare", COMPARE, NULL, 0,
     "hold what a board said, in columns named like rules, counts or outputs, against the gate", 0},
    TOOL_COVERAGE_OPTIONS,
    {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    tool_options *o = state->input;
    if (tool_coverage_option(key, argument, state) == 0 || tool_reading_option(key, argument, state) == 0 ||
        tool_part_option(key, argument, state) == 0)
        return 0;
    switch (key) {
    case 'n': o->scene = argument; return 0;
    case 'm': o->summary = true; return 0;
    case 'k': o->save = argument; return 0;
    case COMPARE: o->compare = true; return 0;
    default: return tool_arguments(key, argument, state, WANTS_GATE | WANTS_RECORDING);
    }
}

static bool print_csv(printer *p, const fg_change *change)
{
    fprintf(p->output, "%" PRId64 ",", change->t_ms);
    tool_text(p->output, change->declared->name);
    const fg_text cells[] = {change->was, change->is, change->because};
    for (int i = 0; i < 3; i++) {
        fputc(',', p->output);
        fg_csv_cell(p->output, cells[i]);
    }
    fputc('\n', p->output);
    return !ferror(p->output);
}

#ifndef FG_WITHOUT_JSON
static json_t *string_of(fg_text text) { return json_stringn_nocheck(text.size ? text.at : "", text.size); }

static bool print_json(printer *p, const fg_change *change)
{
    json_t *line = json_object();
    const bool made = json_object_set_new(line, "t_ms", json_integer(change->t_ms)) == 0 &&
                      json_object_set_new(line, "name", string_of(change->declared->name)) == 0 &&
                      json_object_set_new(line, "was", string_of(change->was)) == 0 &&
                      json_object_set_new(line, "is", string_of(change->is)) == 0 &&
                      json_object_set_new(line, "because", string_of(change->because)) == 0;
    const bool written = made && json_dumpf(line, p->output, JSON_COMPACT) == 0;
    json_decref(line);
    fputc('\n', p->output);
    return written && !ferror(p->output);
}
#else
static bool print_json(printer *p, const fg_change *change)
{
    (void)p;
    (void)change;
    return false;
}
#endif

/* The time stands once for all that changed at that step. */
static bool print_text(printer *p, const fg_change *change)
{
    if (change->t_ms == p->last_ms)
        fprintf(p->output, "%*s", 11, "");
    else
        fprintf(p->output, "%7" PRId64 ".%03" PRId64, change->t_ms / 1000, change->t_ms % 1000);
    p->last_ms = change->t_ms;
    fprintf(p->output, "  %-*.*s  ", p->name_width, (int)change->declared->name.size, change->declared->name.at);
    int width = (int)(change->is.size + (change->was.size ? change->was.size + 4 : 0));
    tool_text(p->output, change->was);
    if (change->was.size) fputs(" -> ", p->output);
    tool_text(p->output, change->is);
    const int indent = 11 + 2 + p->name_width + 2 + p->change_width + 2;
    if (width > p->change_width && indent + 20 <= tool_width())
        fprintf(p->output, "\n%*s", indent, "");
    else
        fprintf(p->output, "%*s", width < p->change_width ? p->change_width - width + 2 : 2, "");
    tool_wrapped(p->output, change->because, indent);
    fputc('\n', p->output);
    return !ferror(p->output);
}

/* At the first step a person looks for the outputs, for what a reading is called, and for what is wrong. */
static bool matters_at_first(const fg_change *change)
{
    const fg_kind kind = change->declared->kind;
    if (fg_kind_is(kind, FG_KIND_IS_OUTPUT) || fg_kind_is(kind, FG_KIND_LABELS)) return true;
    return fg_text_is(change->is, fg_kind_is(kind, FG_KIND_READ) ? "faulty" : "yes");
}

/* Is it a change that a person would only read over? */
static bool is_left_out(printer *p, const fg_change *change)
{
    if (p->form != FORM_TEXT || p->all) return false;
    const bool quiet = !change->was.size && !p->chosen.count && !matters_at_first(change);
    p->quiet += quiet;
    p->plays += change->plays_on;
    return quiet || change->plays_on;
}

/* The changes that were left out. */
static void tell_left_out(const printer *p, const char *path)
{
    char a[64], b[64];
    if (!p->quiet && !p->plays) return;
    tool_say("%s: not shown: ", path);
    if (p->quiet) tool_say("%s at rest in the first step", tool_counted(p->quiet, "name", a));
    if (p->plays) tool_say("%s%s of sequences and sweeps", p->quiet ? ", " : "", tool_counted(p->plays, "level", b));
    tool_say("; --verbose prints them\n");
}

static bool on_change(void *context, const fg_change *change)
{
    printer *p = context;
    if (!tool_is_chosen(&p->chosen, change->declared)) return true;
    p->told++;
    if (is_left_out(p, change)) return true;
    const bool printed = p->form == FORM_JSONL ? print_json(p, change)
                         : p->form == FORM_CSV ? print_csv(p, change)
                                               : print_text(p, change);
    p->failed = !printed;
    return printed;
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
    for (uint32_t i = 0; i < file->program.declared_count; i++) {
        const fg_declared *d = &file->program.declared[i];
        if (d->kind != FG_KIND_NUMBER && (int)d->name.size > p->name_width) p->name_width = (int)d->name.size;
    }
    if (p->name_width > 24) p->name_width = 24;
    const bool covers = options->coverage || options->require;
    if (covers) p->coverage = fg_coverage_start(&file->program);
    if (options->summary) p->summary = fg_summary_start(&file->program);
    if ((covers && !p->coverage) || (options->summary && !p->summary)) {
        tool_no_memory();
        return false;
    }
    if (options->summary) return true;
    if (p->form == FORM_CSV)
        fputs("t_ms,name,was,is,because\n", p->output);
    else if (p->form == FORM_TEXT)
        fprintf(p->output, "%11s  %-*s  %-*s  because\n", "time [s]", p->name_width, "name", p->change_width,
                "was -> is");
    return true;
}

/* What stands below the changes, or instead of them. The exit status. */
static int end(printer *p, const tool_options *options, const fg_replay_report *report, bool good)
{
    int status = good ? EXIT_WELL : EXIT_WRONG;
    fg_mistake mistake = {0};
    if (p->failed && !ferror(p->output)) tool_no_memory(); /* else the output says why */
    if (good && p->summary &&
        !tool_print_summary(p->output, options, &p->chosen, p->name_width, p->summary, report->length_ms)) {
        tool_no_memory();
        status = EXIT_WRONG;
    }
    if (good && p->coverage && status == EXIT_WELL) status = tool_print_coverage(p->output, options, p->coverage);
    fg_summary_end(p->summary);
    fg_coverage_end(p->coverage);
    const bool kept =
        good || (tool_ends_itself && tool_stopped && !p->failed); /* a database stays, with its steps up to then */
    if (p->saver && fg_save_end(p->saver, kept, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
        status = EXIT_WRONG;
    }
    const int written = tool_output_close(p->output, p->form, status != EXIT_WRONG);
    return written == EXIT_WELL ? status : written;
}

static int run(void *given, const fg_gate_file *file)
{
    const tool_options *options = given;
    fg_readings readings;
    if (options->summary && tool_form_is_one_of(options, 1 << FORM_TEXT | 1 << FORM_CSV) != EXIT_WELL)
        return EXIT_WRONG;
    if (!tool_readings(options, file, &readings)) return EXIT_WRONG;
    if (options->compare) return tool_compare(options, file, &readings);
    printer p = {.form = options->form,
                 .name_width = 4,
                 .change_width = 20,
                 .last_ms = -1,
                 .from_ms = readings.from_ms,
                 .all = options->verbose};
    fg_replay_report report;
    fg_mistake mistake;
    if (!tool_names(options, file, &p.chosen)) return EXIT_WRONG;
    p.output = tool_output_open();
    if (!p.output) return EXIT_WRONG;
    if (options->save &&
        (!tool_keeps(options->save, options->gate) || !tool_keeps(options->save, options->recording))) {
        (void)tool_output_close(p.output, p.form, false);
        return EXIT_WRONG;
    }
    const char *ending = options->save ? strrchr(options->save, '.') : NULL;
    tool_ends_itself = ending && !strcmp(ending, ".sqlite");
    if (options->save) p.saver = fg_save_start(&file->program, options->save, &mistake);
    if (options->save && !p.saver) {
        tool_print_mistake(&mistake);
        (void)tool_output_close(p.output, p.form, false);
        return EXIT_WRONG;
    }
    p.report = &report;
    p.path = options->quiet || options->scene ? NULL : tool_path(options->recording);
    if (!begin(&p, options, file)) return end(&p, options, &(fg_replay_report){0}, false);
    const fg_replay_observer observer = {.context = &p,
                                         .change = options->summary ? NULL : on_change,
                                         .columns = on_columns,
                                         .progress = tool_progress_of_rows(),
                                         .step = p.coverage || p.summary || p.saver ? on_step : NULL};
    const fg_status status = fg_replay(&file->program, &readings, &observer, &report, &mistake);
    tool_progress_end();
    const int result = end(&p, options, &report, status == FG_OK && !p.failed && !tool_stopped);
    tool_end_if_stopped();
    tool_ends_itself = false;
    if (status != FG_OK) tool_print_mistake(&mistake);
    if (p.chosen.count && !options->summary) report.changes = p.told;
    if (result != EXIT_WRONG) tool_print_report(options, &report);
    if (result != EXIT_WRONG && !options->quiet) tell_left_out(&p, tool_path(tool_readings_name(options)));
    const bool missing = options->strict && !options->scene && report.unread_count;
    return result == EXIT_WELL && missing ? EXIT_HELD_NOT : result;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE [RECORDING]",
    .doc = "Plays a recording through a gate on the simulated board and prints every change with its reason."
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
                                     .run = run};
