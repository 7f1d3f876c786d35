/* SPDX-License-Identifier: MIT */
/* Options that several commands have: how recordings are read, how results are written, numbers set for a run. */
#include "tool.h"

#include <errno.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

/* What every command knows. */
static const struct argp_option options[] = {
    {"set", 's', "NUMBER=VALUE", 0, "use another value for a number of the gate file, for this run only", 0},
    {"as", 'a', "FORM", 0, "output format: text; most commands also csv, replay jsonl, trial tap and junit", 0},
    {"strict", 'S', NULL, 0, "treat warnings as failures (status 1)", 0},
    {"verbose", 'v', NULL, 0, "print more: unused columns, all reasons", 0},
    {"quiet", 'q', NULL, 0, "print only results and errors", 0},
    {0}};

static const char *const form_words[] = {
#define TOOL_FORM_WORD(code, word) word,
    TOOL_FORMS(TOOL_FORM_WORD)
#undef TOOL_FORM_WORD
};

int tool_form_is_one_of(const tool_options *o, unsigned forms)
{
    const char *between = "";
    if (forms >> o->form & 1) return EXIT_WELL;
    tool_say("fickle: error: this command has no output format %s; it can write ", form_words[o->form]);
    for (int i = 0; i < TOOL_FORM_COUNT; i++) {
        if (!(forms >> i & 1)) continue;
        tool_say("%s%s", between, form_words[i]);
        between = ", ";
    }
    tool_say("\n");
    return EXIT_WRONG;
}

static void add_setting(struct argp_state *state, tool_options *o, const char *argument)
{
    const char *equals = strchr(argument, '=');
    if (!equals || equals == argument) {
        tool_wrong_use(state, "--set needs NUMBER=VALUE, not '%s'", argument);
        return;
    }
    if (o->setting_count == SETTINGS_MOST) {
        tool_wrong_use(state, "--set can be given %d times at most", SETTINGS_MOST);
        return;
    }
    o->settings[o->setting_count++] =
        (fg_setting){{argument, (size_t)(equals - argument)}, {equals + 1, strlen(equals + 1)}};
}

static error_t parse(int key, char *argument, struct argp_state *state)
{
    tool_options *o = state->input;
    switch (key) {
    case 's': add_setting(state, o, argument); return 0;
    case 'S': o->strict = true; return 0;
    case 'q': o->quiet = true; return 0;
    case 'v': o->verbose = true; return 0;
    case 'a':
        o->form = FORM_TEXT;
        while (o->form < TOOL_FORM_COUNT && strcmp(form_words[o->form], argument) != 0) o->form++;
        if (o->form == TOOL_FORM_COUNT)
            tool_wrong_use(state, "--as can be text, csv, jsonl, tap or junit, not '%s'", argument);
        return 0;
    default: return ARGP_ERR_UNKNOWN;
    }
}

/* ---- how recordings are read ---- */

bool tool_time(const char *text, fg_time *time)
{
    const size_t number = strspn(text, "0123456789.");
    const fg_time unit = fg_unit_ms(fg_text_of(text + number));
    fg_value thousandths;
    if (!unit || fg_value_read(text, number, 3, &thousandths) != FG_OK) return false;
    const int64_t ms = (int64_t)thousandths * unit / 1000;
    if (ms < INT32_MAX) *time = (fg_time)ms;
    return ms < INT32_MAX;
}

bool tool_number(const char *text, double most, double *number)
{
    char *end;
    errno = 0;
    *number = strtod(text, &end);
    return end != text && !*end && !errno && *number > 0 && *number <= most;
}

static void add_column(struct argp_state *state, tool_options *o, const char *argument)
{
    const char *equals = strchr(argument, '=');
    if (!equals || equals == argument || !equals[1])
        tool_wrong_use(state, "--column needs NAME=COLUMN, not '%s'", argument);
    else if (o->reading.column_count == SETTINGS_MOST)
        tool_wrong_use(state, "--column can be given %d times at most", SETTINGS_MOST);
    else
        o->columns[o->reading.column_count++] =
            (fg_setting){{argument, (size_t)(equals - argument)}, {equals + 1, strlen(equals + 1)}};
    o->reading.columns = o->columns;
}

error_t tool_reading_option_of(tool_options *o, int key, const char *argument, struct argp_state *state)
{
    switch (key) {
    case 'c': add_column(state, o, argument); return 0;
    case TOOL_OPTION_ROW_STEPS: o->reading.row_steps = true; return 0;
    case TOOL_OPTION_COLUMNS: o->reading.names = argument; return 0;
    case 'e':
        if (!tool_time(argument, &o->reading.every) || !o->reading.every)
            tool_wrong_use(state, "--every needs a time, as in 100ms, not '%s'", argument);
        return 0;
    default: return ARGP_ERR_UNKNOWN;
    }
}

error_t tool_reading_option(int key, const char *argument, struct argp_state *state)
{
    return tool_reading_option_of(state->input, key, argument, state);
}

error_t tool_jobs_option(int key, const char *argument, struct argp_state *state)
{
    char *rest;
    if (key != 'j') return ARGP_ERR_UNKNOWN;
    const unsigned long jobs = strtoul(argument, &rest, 10);
    if (*argument < '1' || *argument > '9' || *rest || jobs > 64)
        tool_wrong_use(state, "--jobs needs a number from 1 to 64, not '%s'", argument);
    ((tool_options *)state->input)->jobs = (unsigned)jobs;
    return 0;
}

void tool_size(const char *argument, uint32_t *width, uint32_t *height, struct argp_state *state)
{
    char *end;
    const unsigned long wide = strtoul(argument, &end, 10);
    const unsigned long high = *end == 'x' ? strtoul(end + 1, &end, 10) : 0;
    if (*end || *argument < '0' || *argument > '9' || wide < 400 || wide > 8000 || high < 150 || high > 8000) {
        tool_wrong_use(state,
                       "--size needs a width from 400 and a height from 150 up to 8000, as in 1280x800, not '%s'",
                       argument);
        return;
    }
    *width = (uint32_t)wide;
    *height = (uint32_t)high;
}

/* ---- the file names ---- */

const struct argp tool_common = {.options = options, .parser = parse};

static void check_names(struct argp_state *state, const tool_options *o, int wants)
{
    if (!o->gate)
        tool_wrong_use(state, "name a gate file");
    else if (wants & WANTS_RECORDING && o->recording && o->scene)
        tool_wrong_use(state, "name a recording or give --scene, not both");
    else if (wants & WANTS_RECORDING && !o->recording && !o->scene && !o->add_coverage_count)
        tool_wrong_use(state, "name a recording to play through %s, or a scene of it with --scene", o->gate);
    else if (wants & WANTS_RECORDING && o->recording && strcmp(o->gate, "-") == 0 && strcmp(o->recording, "-") == 0)
        tool_wrong_use(state, "only one of the two can be standard input");
}

void tool_wrong_use(struct argp_state *state, const char *format, ...)
{
    char text[1000];
    va_list values;
    va_start(values, format);
    (void)vsnprintf(text, sizeof text, format, values);
    va_end(values);
    tool_say("fickle: error: %s\n", text);
    tool_say("Try '%s --help'.\n", state->name);
    argp_state_help(state, stderr, ARGP_HELP_EXIT_ERR); /* prints nothing more, and ends the run */
}

/* The library that reads options tells one that it does not know as it is; none of ours steers a terminal. */
static bool options_can_be_told(int argc, char **argv)
{
    for (int i = 1; i < argc && strcmp(argv[i], "--") != 0; i++) {
        if (*argv[i] != '-' || tool_is_plain((fg_text){argv[i], strcspn(argv[i], "=")})) continue;
        tool_say("fickle: error: '%s' is not an option; write a file of that name as ./%s\n", argv[i], argv[i]);
        return false;
    }
    return true;
}

bool tool_parse(const struct argp *argp, int argc, char **argv, unsigned flags, void *input)
{
    if (!options_can_be_told(argc, argv)) return false;
    const error_t error = argp_parse(argp, argc, argv, flags, NULL, input);
    if (error == ENOMEM) tool_no_memory();
    return error == 0;
}

error_t tool_begin(tool_options *o, struct argp_state *state)
{
    state->child_inputs[0] = o;
    o->reading.gap = tool_gap;
    o->reading.gap_context = o;
    return 0;
}

static bool is_gate_name(const char *path)
{
    const size_t size = strlen(path);
    return size > 5 && !strcmp(path + size - 5, ".gate");
}

char *tool_recording_named(struct argp_state *state, const tool_options *o, char *argument)
{
    if (is_gate_name(argument) && !is_gate_name(o->gate))
        tool_wrong_use(state, "put the gate file first: %s %s, not %s %s", argument, o->gate, o->gate, argument);
    return argument;
}

static void add_recording(struct argp_state *state, tool_options *o, char *argument)
{
    const char *named = tool_recording_named(state, o, argument);
    for (size_t i = 0; i < o->recording_count; i++)
        if (!strcmp(named, "-") && !strcmp(o->recordings[i], "-"))
            tool_wrong_use(state, "only one of the recordings can be standard input");
    if (!o->recording) o->recording = named;
    o->recordings[o->recording_count++] = named;
}

error_t tool_arguments(int key, char *argument, struct argp_state *state, int wants)
{
    tool_options *o = state->input;
    switch (key) {
    case ARGP_KEY_INIT: return tool_begin(o, state);
    case ARGP_KEY_ARG:
        if (!o->gate)
            o->gate = argument;
        else if (wants & WANTS_RECORDING && (!o->recording || (wants & WANTS_RECORDINGS) == WANTS_RECORDINGS))
            add_recording(state, o, argument);
        else
            tool_wrong_use(state, "unexpected argument '%s'", argument);
        return 0;
    case ARGP_KEY_END: check_names(state, o, wants); return 0;
    default: return ARGP_ERR_UNKNOWN;
    }
}
