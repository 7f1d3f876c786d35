/* fickle tune GATE RECORDING... */
#include "tune.h"

#include <ficklegate/draw.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* An option without a letter. */
enum { OPTION_CHECK = 256, OPTION_NEW };

static const struct argp_option own_options[] = {
    {"label", 'l', "[RULE=]COLUMN", 0, "the column of the recordings with the true label", 0},
    {"sample", 'L', "LABEL=FILE", 0, "a recording that is of one label from end to end; may be given several times", 0},
    {"rule", 'R', "NAME", 0, "the bands, threshold or hysteresis to tune; may be given several times", 0},
    {"new", OPTION_NEW, "NAME [from SENSOR]", 0,
     "make bands of the labels that the readings have, which no rule has yet; --write puts them into the gate file", 0},
    {"write", 'w', NULL, 0, "change the numbers in the gate file; without it the difference is printed", 0},
    {"check", OPTION_CHECK, NULL, 0, "run the trials with the new numbers first; write nothing if one that held fails",
     0},
    {"force", 'f', NULL, 0, "with --check: write nevertheless", 0},
    {"try", 'y', "NUMBER=A..B by S", 0, "what each value of a number of the gate would do: trials, changes, how late",
     0},
    {"output", 'o', "FILE", 0, "a picture of the labelled readings and the limits: FILE.png or FILE.svg", 0},
    {"size", 'z', "WIDTHxHEIGHT", 0, "of the picture, in pixels", 0},
    {"dark", 'd', NULL, 0, "a picture light on dark", 0},
    TOOL_READING_OPTIONS,
    {0}};

static void add_pair(struct argp_state *state, const char *option, const char *form, fg_setting *pairs, size_t *count,
                     const char *argument, bool needs_name)
{
    const char *equals = strchr(argument, '=');
    if (*count == TUNE_MOST)
        tool_wrong_use(state, "%s can be given %d times at most", option, TUNE_MOST);
    else if ((needs_name && !equals) || equals == argument || !*(equals ? equals + 1 : argument))
        tool_wrong_use(state, "%s needs %s, not '%s'", option, form, argument);
    else
        pairs[(*count)++] = (fg_setting){{argument, equals ? (size_t)(equals - argument) : 0},
                                         {equals ? equals + 1 : argument, strlen(equals ? equals + 1 : argument)}};
}

static void add_argument(tune_options *o, char *argument, struct argp_state *state)
{
    if (!o->common.gate)
        o->common.gate = argument;
    else if (o->recording_count == TUNE_MOST)
        tool_wrong_use(state, "at most %d recordings can be named", TUNE_MOST);
    else
        o->recordings[o->recording_count++] = tool_recording_named(state, &o->common, argument);
}

/* NAME, or NAME from SENSOR. */
static void read_new(tune_options *o, const char *argument, struct argp_state *state)
{
    const char *from = strstr(argument, " from ");
    o->new_name = (fg_text){argument, from ? (size_t)(from - argument) : strlen(argument)};
    if (from) o->new_sensor = (fg_text){from + 6, strlen(from + 6)};
    if (!o->new_name.size || (from && !o->new_sensor.size))
        tool_wrong_use(state, "--new needs NAME, or \"NAME from SENSOR\", not '%s'", argument);
}

static void check_arguments(const tune_options *o, struct argp_state *state)
{
    if (!o->common.gate)
        tool_wrong_use(state, "name a gate file");
    else if (o->new_name.size && (o->try || o->rule_count || o->check || o->only_picture))
        tool_wrong_use(state, "--new makes bands that are not there yet; it goes with no --try, --rule or --check");
    else if (o->try && (o->recording_count > 1 || o->label_count || o->sample_count || o->rule_count || o->write))
        tool_wrong_use(state, "--try takes a gate and one recording, and writes nothing");
    else if (o->try)
        return;
    else if (!o->recording_count && !o->sample_count)
        tool_wrong_use(state, "name a recording with a column of true labels or notes with a column for each label, or "
                              "give --sample LABEL=FILE for each label");
    else if (o->only_picture && !o->output)
        tool_wrong_use(state, "name the picture: -o FILE.png or -o FILE.svg");
    else if (!o->recording_count && o->label_count)
        tool_wrong_use(state, "--label needs a recording that has this column");
}

static error_t parse(int key, char *argument, struct argp_state *state)
{
    tune_options *o = state->input;
    switch (key) {
    case ARGP_KEY_INIT: return tool_begin(&o->common, state);
    case 'l':
        add_pair(state, "--label", "COLUMN or RULE=COLUMN", o->labels, &o->label_count, argument, false);
        return 0;
    case 'L': add_pair(state, "--sample", "LABEL=FILE", o->samples, &o->sample_count, argument, true); return 0;
    case 'R':
        if (o->rule_count == TUNE_MOST) tool_wrong_use(state, "--rule can be given %d times at most", TUNE_MOST);
        o->rules[o->rule_count++ % TUNE_MOST] = argument;
        return 0;
    case 'w': o->write = true; return 0;
    case OPTION_NEW: read_new(o, argument, state); return 0;
    case OPTION_CHECK: o->check = true; return 0;
    case 'f': o->force = true; return 0;
    case 'y':
        if (o->try) tool_wrong_use(state, "--try takes one number at a time; run it again for '%s'", argument);
        o->try = argument;
        return 0;
    case 'o': o->output = argument; return 0;
    case 'd': o->dark = true; return 0;
    case 'z': tool_size(argument, &o->width, &o->height, state); return 0;
    case ARGP_KEY_ARG: add_argument(o, argument, state); return 0;
    case ARGP_KEY_END: check_arguments(o, state); return 0;
    default: return tool_reading_option_of(&o->common, key, argument, state);
    }
}

/* ---- which rules ---- */

/* Was this rule asked for by name, or is any fine? */
static bool is_asked(const tune_options *o, const fg_declared *d, bool *named)
{
    bool any = false, asked = false;
    for (size_t i = 0; i < o->rule_count; i++) {
        any = true;
        asked = asked || fg_text_is(d->name, o->rules[i]);
    }
    for (size_t i = 0; i < o->label_count; i++) {
        if (!o->labels[i].name.size) continue;
        any = true;
        asked = asked || fg_text_same(d->name, o->labels[i].name);
    }
    *named = asked;
    return asked || !any;
}

static fg_text column_of(const tune_options *o, const fg_declared *d)
{
    fg_text column = {0};
    for (size_t i = 0; i < o->label_count; i++)
        if (!o->labels[i].name.size || fg_text_same(d->name, o->labels[i].name)) column = o->labels[i].value;
    return column;
}

static bool is_rule(const fg_program *program, fg_text name)
{
    const fg_declared *d = fg_program_find(program, name);
    if (d && fg_kind_is(d->kind, FG_KIND_ON_SENSOR)) return true;
    tool_say("fickle: error: '%.*s' is no bands, threshold or hysteresis of the gate; it has", (int)name.size, name.at);
    for (uint32_t i = 0; i < program->declared_count; i++)
        if (fg_kind_is(program->declared[i].kind, FG_KIND_ON_SENSOR))
            tool_say(" %.*s", (int)program->declared[i].name.size, program->declared[i].name.at);
    tool_say("\n");
    return false;
}

/* Is there anything to tune? */
static bool has_a_rule(const fg_gate_file *file)
{
    const fg_program *p = &file->program;
    fg_text sensor = fg_text_of("SENSOR");
    for (uint32_t i = p->declared_count; i-- > 0;) {
        if (fg_kind_is(p->declared[i].kind, FG_KIND_ON_SENSOR)) return true;
        if (p->declared[i].kind == FG_KIND_SENSOR) sensor = p->declared[i].name;
    }
    tool_say("%s: error: has no threshold, hysteresis or bands to tune; let them be made of the labels: --new NAME\n"
             "    or write a rule with limits as you guess them: bands NAME from %.*s { low | 20 | high }\n",
             tool_path(file->path), (int)sensor.size, sensor.at);
    return false;
}

static bool names_are_known(const tune_options *o, const fg_program *program)
{
    for (size_t i = 0; i < o->rule_count; i++)
        if (!is_rule(program, (fg_text){o->rules[i], strlen(o->rules[i])})) return false;
    for (size_t i = 0; i < o->label_count; i++)
        if (o->labels[i].name.size && !is_rule(program, o->labels[i].name)) return false;
    return true;
}

static bool start(tuner *t, const fg_program *program)
{
    t->tunings = calloc((size_t)program->declared_count + 1, sizeof(fg_tuning *));
    t->named = calloc((size_t)program->declared_count + 1, sizeof *t->named);
    t->tuned = calloc((size_t)program->declared_count + 1, sizeof *t->tuned);
    bool good = t->tunings && t->named && t->tuned;
    for (uint32_t i = 0; good && i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        bool named;
        if (!fg_kind_is(d->kind, FG_KIND_ON_SENSOR) || !is_asked(t->options, d, &named)) continue;
        t->named[t->count] = named;
        t->tunings[t->count] = fg_tuning_start(program, d, column_of(t->options, d));
        good = t->tunings[t->count++] != NULL;
    }
    if (!good) tool_no_memory();
    return good;
}

/* ---- reading ---- */

static bool read_one(tuner *t, const char *recording, fg_text label)
{
    fg_replay_report report = {0};
    fg_mistake mistake;
    const fg_tuning_source source = {.recording = recording,
                                     .options = t->options->common.reading,
                                     .label = label,
                                     .progress = tool_progress_of_rows()};
    const fg_status status = fg_tuning_read(t->tunings, t->count, &source, &report, &mistake);
    tool_progress_end();
    if (status != FG_OK) {
        tool_print_mistake(&mistake);
        return false;
    }
    t->rows += report.rows;
    if (t->options->common.quiet) return true;
    if (*report.note) tool_say("%s: %s\n", tool_path(recording), report.note);
    tool_print_cells(tool_path(recording), &report);
    return true;
}

static bool read_all(tuner *t)
{
    const tune_options *o = t->options;
    for (size_t i = 0; i < o->recording_count; i++)
        if (!read_one(t, o->recordings[i], (fg_text){0})) return false;
    for (size_t i = 0; i < o->sample_count; i++)
        if (!read_one(t, o->samples[i].value.at, o->samples[i].name)) return false;
    return true;
}

static void tell_missing(const tuner *t, size_t i)
{
    const fg_declared *rule = fg_tuning_rule(t->tunings[i]);
    tool_say("fickle: error: there are not readings of two labels of %.*s; its labels are", (int)rule->name.size,
             rule->name.at);
    if (!fg_kind_is(rule->kind, FG_KIND_LABELS)) tool_say(" yes and no");
    for (uint16_t k = 0; fg_kind_is(rule->kind, FG_KIND_LABELS) && k < rule->label_count; k++)
        tool_say(" %.*s", (int)rule->labels[k].size, rule->labels[k].at);
    if (t->tuned[i].unknown) tool_say(", and the readings have '%s'", t->tuned[i].unknown_label);
    tool_say("\n");
}

/* A rule that nobody named stays if all labels are its own and there are two of them. */
static bool keep_those_that_fit(tuner *t)
{
    size_t kept = 0, plain = 0;
    char unknown[FG_SHOWN_MOST + 1] = "";
    for (size_t i = 0; i < t->count; i++) {
        const bool fits = !t->tuned[i].unknown && t->tuned[i].label_count >= 2;
        if (t->tuned[i].unknown && !*unknown) memcpy(unknown, t->tuned[i].unknown_label, sizeof unknown);
        if (t->named[i] && t->tuned[i].label_count < 2) {
            tell_missing(t, i);
            return false;
        }
        if (!t->named[i] && !fits) {
            fg_tuning_end(t->tunings[i]);
            continue;
        }
        plain += !t->named[i] && !fg_kind_is(fg_tuning_rule(t->tunings[i])->kind, FG_KIND_LABELS);
        t->tunings[kept] = t->tunings[i];
        t->named[kept] = t->named[i];
        t->tuned[kept++] = t->tuned[i];
    }
    t->count = kept;
    if (!kept && *unknown)
        tool_say("fickle: error: no rule has all of the labels, as in '%s'; name the rule to tune, --rule NAME, or let "
                 "bands be made of them: --new NAME\n",
                 unknown);
    else if (!kept)
        tool_say("fickle: error: there are not readings of two labels of a rule to tell apart\n");
    if (plain < 2) return kept > 0;
    tool_say("fickle: error: labels yes and no fit several rules; name the one to tune: --rule NAME, one of");
    for (size_t i = 0; i < t->count; i++) {
        const fg_text name = fg_tuning_rule(t->tunings[i])->name;
        tool_say(" %.*s", (int)name.size, name.at);
    }
    tool_say("\n");
    return false;
}

static bool work(tuner *t)
{
    for (size_t i = 0; i < t->count; i++) {
        if (fg_tuning_work(t->tunings[i], &t->tuned[i])) continue;
        tool_no_memory();
        return false;
    }
    return keep_those_that_fit(t);
}

/* Does the picture overwrite nothing that is read? */
static bool keeps_all(const tune_options *o)
{
    bool good = !o->output || tool_keeps(o->output, o->common.gate);
    for (size_t i = 0; good && o->output && i < o->recording_count; i++) good = tool_keeps(o->output, o->recordings[i]);
    for (size_t i = 0; good && o->output && i < o->sample_count; i++)
        good = tool_keeps(o->output, o->samples[i].value.at);
    return good;
}

bool tune_work_out(tuner *t) { return start(t, &t->file->program) && read_all(t) && work(t); }

void tune_free(tuner *t)
{
    for (size_t i = 0; i < t->count; i++) fg_tuning_end(t->tunings[i]);
    free(t->tunings);
    free(t->named);
    free(t->tuned);
}

static int tune(const tune_options *options, const fg_gate_file *file)
{
    tuner t = {.options = options, .file = file, .output = tool_output_open()};
    int status = EXIT_WRONG;
    if (!t.output) return EXIT_WRONG;
    if (has_a_rule(file) && names_are_known(options, &file->program) && tune_work_out(&t)) {
        if (!options->only_picture) tune_print(&t);
        status = options->only_picture ? EXIT_WELL : tune_numbers(&t);
        if (status != EXIT_WRONG && options->output && tune_draw(&t) != EXIT_WELL) status = EXIT_WRONG;
    }
    const int written = tool_output_close(t.output, options->common.form, status != EXIT_WRONG);
    tune_free(&t);
    return written == EXIT_WELL ? status : written;
}

int tune_draw(const tuner *t)
{
    const tune_options *o = t->options;
    const fg_draw_options options = {.width = o->width, .height = o->height, .dark = o->dark};
    fg_mistake mistake;
    if (fg_draw_spread(&(fg_tunings){t->tunings, t->tuned, t->count}, &options, o->output, &mistake) == FG_OK)
        return EXIT_WELL;
    tool_print_mistake(&mistake);
    return EXIT_WRONG;
}

static int run(void *given, const fg_gate_file *file)
{
    const tune_options *options = given;
    if (!keeps_all(options)) return EXIT_WRONG;
    if (options->new_name.size) return tune_new(options, file);
    return options->try ? tune_try(options, file) : tune(options, file);
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE [RECORDING...]",
    .doc = "Works out from labelled readings where the limits of a rule had best stand."
           "\vThe recordings have a column with the true label of each row (of bands one of their labels, of a "
           "threshold or hysteresis yes or no; an empty cell is none), or each --sample is a recording of one "
           "label. For each label it says what was read; for each boundary the number there is now, the one "
           "halfway between the medians and the one with the fewest readings on the wrong side, and which to "
           "take, and why."};

const tool_command command_tune = {.name = "tune",
                                   .use = "tune GATE RECORDING",
                                   .line = "its limits from labelled readings",
                                   .argp = &argp,
                                   .options_size = sizeof(tune_options),
                                   .forms = 1 << FORM_TEXT | 1 << FORM_CSV,
                                   .run = run};

static error_t parse_spread(int key, char *argument, struct argp_state *state)
{
    if (key == ARGP_KEY_INIT) ((tune_options *)state->input)->only_picture = true;
    return parse(key, argument, state);
}

static const struct argp argp_of_spread = {.options = own_options,
                                           .parser = parse_spread,
                                           .args_doc = "GATE [RECORDING...]",
                                           .doc = "Draws labelled readings and the limits, as tune sees them."};

const tool_command command_spread = {.name = "draw --spread",
                                     .argp = &argp_of_spread,
                                     .options_size = sizeof(tune_options),
                                     .forms = 1 << FORM_TEXT,
                                     .run = run};
