/* SPDX-License-Identifier: MIT */
/* fickle tune GATE RECORDING... */
#include "tune.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* An option without a letter. */
enum { OPTION_CHECK = TOOL_OPTION_OWN, OPTION_NEW };

static const struct argp_option own_options[] = {
    {"label", 'l', "[RULE=]COLUMN", 0, "the column of the recordings with the true label", 0},
    {"sample", 'L', "LABEL=FILE", 0, "a recording that is of one label from end to end; may be given several times", 0},
    {"rule", 'R', "NAME", 0, "the bands, threshold or hysteresis to tune; may be given several times", 0},
    {"new", OPTION_NEW, "NAME [from SENSOR]", 0,
     "make bands of the labels that the readings have, which no rule has yet; --write puts them into the gate file", 0},
    {"write", 'w', NULL, 0, "change the numbers in the gate file; without it the difference is printed", 0},
    {"check", OPTION_CHECK, NULL, 0, "run the trials with the new numbers first; write nothing if one that held fails",
     0},
    {"force", 'f', NULL, 0, "with --check: write anyway", 0},
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
    tool_say("%s: error: has no threshold, hysteresis or bands to tune; create bands from the labels: --new NAME\n"
             "    or write a rule with guessed limits: bands NAME from %.*s { low | 20 | high }\n",
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

/* Does the picture overwrite nothing that is read? */
static bool keeps_all(const tune_options *o)
{
    bool good = !o->output || tool_keeps(o->output, o->common.gate);
    for (size_t i = 0; good && o->output && i < o->recording_count; i++) good = tool_keeps(o->output, o->recordings[i]);
    for (size_t i = 0; good && o->output && i < o->sample_count; i++)
        good = tool_keeps(o->output, o->samples[i].value.at);
    return good;
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
                                   .line = "finds limits from labelled readings",
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
