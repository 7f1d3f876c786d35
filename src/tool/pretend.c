/* SPDX-License-Identifier: MIT */
/* fickle pretend GATE --scene NAME */
#include "pretend.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { TO = TOOL_OPTION_OWN, LINES, BOARD, WITH, NO_TIMES, SPEED, LOGIN, CA, REACH, UNTRIED, LIMIT, SAVE_TO };

static const struct argp_option own_options[] = {
    {"scene", 'n', "NAME", 0, "the scene of the gate file; may be left out if there is one only", 0},
    {"edges", 'E', NULL, 0,
     "instead of a scene: slowly through every limit of every rule, and each sensor failing once", 0},
    {"reach", REACH, "CONDITION", 0,
     "instead of a scene: the readings that make a condition true soonest (\"tide is flood\", \"pump row 3\")", 0},
    {"reach-untried", UNTRIED, NULL, 0,
     "a recording for everything that the recordings named, or else the trials, never tried", 0},
    {"add-coverage", TOOL_OPTION_ADD_COVERAGE, "FILE", 0, "with --reach-untried, what earlier runs tried", 0},
    {"limit", LIMIT, "N", 0, "with --reach and --reach-untried, try at most N steps for each", 0},
    {"save-to", SAVE_TO, "FOLDER", 0, "with --reach-untried, where the recordings go; this folder if left out", 0},
    {"to", TO, "WHERE", 0,
     "send it in real time, as a board does: pty (pty:PATH gives it a name), mqtt://HOST/TOPIC, or - to print it", 0},
    {"login", LOGIN, "FILE", 0, "user and password for a broker, a line each; else FICKLE_USER and FICKLE_PASSWORD", 0},
    {"ca", CA, "FILE", 0, "whom to trust with mqtts://", 0},
    {"lines", LINES, "FORM", 0, "with --to, how the board prints: named, units, csv, numbers or json", 0},
    {"board", BOARD, NULL, 0, "with --to, what the outputs do as well", 0},
    {"no-times", NO_TIMES, NULL, 0, "with --to, lines without t_ms", 0},
    {"speed", SPEED, "N", 0, "with --to, N times as fast", 0},
    {"with", WITH, "FAULTS", 0, "with --to, what goes wrong on the line: garbage, torn, restart, pulled", 0},
    {0}};

static const char *const lines_words[] = {
#define PRETEND_LINES_WORD(code, word) word,
    PRETEND_LINES(PRETEND_LINES_WORD)
#undef PRETEND_LINES_WORD
};

static const char *const fault_words[] = {
#define PRETEND_FAULT_WORD(code, word) word,
    PRETEND_FAULTS(PRETEND_FAULT_WORD)
#undef PRETEND_FAULT_WORD
};

static void take_lines(pretend_options *o, const char *argument, struct argp_state *state)
{
    int i = 0;
    while (i < PRETEND_LINES_COUNT && strcmp(lines_words[i], argument) != 0) i++;
    if (i == PRETEND_LINES_COUNT)
        tool_wrong_use(state, "--lines can be named, units, csv, numbers or json, not '%s'", argument);
    o->lines = (pretend_lines)i;
}

static void take_faults(pretend_options *o, const char *at, struct argp_state *state)
{
    while (*at) {
        const size_t size = strcspn(at, ",");
        int i = 0;
        while (i < PRETEND_FAULT_COUNT && !fg_text_is((fg_text){at, size}, fault_words[i])) i++;
        if (i == PRETEND_FAULT_COUNT)
            tool_wrong_use(state, "--with takes garbage, torn, restart and pulled, with commas between, not '%.*s'",
                           (int)size, at);
        o->faults |= 1u << i;
        at += size + (at[size] == ',');
    }
}

static void take_condition(pretend_options *o, const char *argument)
{
    o->reach.reach = argument;
    o->condition = fg_text_of(argument);
    o->common.asked = &o->condition;
    o->common.asked_count = !tool_reach_is_row(argument);
}

static void check(const pretend_options *o, struct argp_state *state)
{
    if (o->to && strcmp(o->to, "-") != 0 && strcmp(o->to, "pty") != 0 && !fg_broker_is(o->to) &&
        (strncmp(o->to, "pty:", 4) != 0 || !o->to[4]))
        tool_wrong_use(state, "--to takes pty, pty:PATH, mqtt://HOST/TOPIC or -, not '%s'", o->to);
    if (o->to && o->common.edges) tool_wrong_use(state, "--to plays a scene; leave out --edges");
    if ((o->reach.reach || o->reach.untried) && (o->to || o->common.scene || o->common.edges))
        tool_wrong_use(state, "--reach and --reach-untried look for readings; leave out --scene, --edges and --to");
    if (!o->reach.untried && (o->reach.folder || o->common.add_coverage_count || o->common.recording_count))
        tool_wrong_use(state, "recordings, --save-to and --add-coverage go with --reach-untried");
    if (!o->reach.untried && !o->reach.reach && o->reach.limit)
        tool_wrong_use(state, "--limit goes with --reach or --reach-untried");
    if (!o->to && (o->board || o->faults || o->lines != LINES_NAMED || o->no_times))
        tool_wrong_use(state, "--lines, --board, --no-times and --with go with --to: say where the lines go");
}

static error_t parse(int key, char *argument, struct argp_state *state)
{
    pretend_options *o = state->input;
    switch (key) {
    case ARGP_KEY_INIT: o->speed = 1; break;
    case ARGP_KEY_END: check(o, state); break;
    case 'n': o->common.scene = argument; return 0;
    case 'E': o->common.edges = true; return 0;
    case TO: o->to = argument; return 0;
    case LINES: take_lines(o, argument, state); return 0;
    case LOGIN: o->login = argument; return 0;
    case CA: o->ca = argument; return 0;
    case BOARD: o->board = true; return 0;
    case NO_TIMES: o->no_times = true; return 0;
    case REACH: take_condition(o, argument); return 0;
    case UNTRIED: o->reach.untried = true; return 0;
    case LIMIT: o->reach.limit = tool_found_limit(argument, state); return 0;
    case SAVE_TO: o->reach.folder = argument; return 0;
    case TOOL_OPTION_ADD_COVERAGE: return tool_coverage_option(key, argument, state);
    case ARGP_KEY_ARG:
        if (!o->common.gate) break;
        o->common.recordings[o->common.recording_count++] = argument;
        return 0;
    case WITH: take_faults(o, argument, state); return 0;
    case SPEED:
        if (!tool_number(argument, 1e6, &o->speed))
            tool_wrong_use(state, "--speed needs a number, as in 10, not '%s'", argument);
        return 0;
    default: break;
    }
    return tool_arguments(key, argument, state, WANTS_GATE);
}

static bool print_cells(void *context, const fg_text *cells, size_t count, fg_mistake *mistake)
{
    (void)mistake;
    for (size_t i = 0; i < count; i++) {
        if (i) fputc(',', context);
        fg_csv_cell(context, cells[i]);
    }
    fputc('\n', context);
    return !ferror((FILE *)context);
}

static bool print_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line,
                      fg_mistake *mistake)
{
    (void)t_ms;
    (void)line;
    return print_cells(context, cells, count, mistake);
}

static int run(void *given, const fg_gate_file *file)
{
    const pretend_options *own = given;
    const tool_options *options = &own->common;
    const fg_program *program = &file->program;
    fg_readings readings = {0};
    if (own->reach.untried) return tool_reach_untried(options, file, &own->reach);
    if (own->reach.reach) return tool_reach(options, file, &own->reach);
    if (options->scene && !tool_readings(options, file, &readings)) return EXIT_WRONG;
    const fg_scene *scene = readings.scene;
    if (!scene && program->scene_count == 1) scene = &program->scenes[0];
    if (!scene && !options->edges) {
        tool_say("%s: error: it has %" PRIu32 " scenes; name one with --scene\n", tool_path(file->path),
                 program->scene_count);
        return EXIT_WRONG;
    }
    if (own->to) return pretend_board(own, file, scene);
    /* Rows go out as they are made: whoever reads them need not wait for the end of a long scene. */
    fg_mistake mistake = {0};
    const fg_recording_sink sink = {.context = stdout, .heading = print_cells, .row = print_row};
    const fg_status status =
        options->edges ? fg_edges_read(program, &sink, &mistake) : fg_scene_read(program, scene, &sink, &mistake);
    if (status != FG_OK && *mistake.text) tool_print_mistake(&mistake);
    return status == FG_OK || ferror(stdout) ? EXIT_WELL : EXIT_WRONG; /* tool_output_check has the last word */
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE\nGATE --reach-untried [RECORDING...]",
    .doc = "Prints a scene of a gate file as a recording, the same on every machine, or stands in for a board, or "
           "finds the readings that lead somewhere."
           "\vA moment without a reading is an empty cell, a faulty one the word faulty. With --to pty it "
           "prints the name of a device, waits until somebody opens it (fickle live GATE "
           "NAME), and sends the scene as a board would. --reach prints a recording that leads there; status 1 if none "
           "does or none was found."};

const tool_command command_pretend = {.name = "pretend",
                                      .use = "pretend GATE",
                                      .line = "prints a scene, plays a board, or finds readings",
                                      .argp = &argp,
                                      .options_size = sizeof(pretend_options),
                                      .forms = 1 << FORM_TEXT | 1 << FORM_CSV,
                                      .verbose = true,
                                      .run = run};
