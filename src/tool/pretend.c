/* fickle pretend GATE --scene NAME */
#include "tool.h"

#include <inttypes.h>

static const struct argp_option own_options[] = {
    {"scene", 'n', "NAME", 0, "the scene of the gate file; may be left out if there is one only", 0},
    {"edges", 'E', NULL, 0,
     "instead of a scene: slowly through every limit of every rule, and each sensor failing once", 0},
    {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    if (key == 'n') {
        ((tool_options *)state->input)->scene = argument;
        return 0;
    }
    if (key == 'E') {
        ((tool_options *)state->input)->edges = true;
        return 0;
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
    const tool_options *options = given;
    const fg_program *program = &file->program;
    fg_readings readings = {0};
    if (options->scene && !tool_readings(options, file, &readings)) return EXIT_WRONG;
    const fg_scene *scene = readings.scene;
    if (!scene && program->scene_count == 1) scene = &program->scenes[0];
    if (!scene && !options->edges) {
        tool_say("%s: error: it has %" PRIu32 " scenes; name one with --scene\n", tool_path(file->path),
                 program->scene_count);
        return EXIT_WRONG;
    }
    /* Rows go out as they are made: whoever reads them need not wait for the end of a long scene. */
    fg_mistake mistake = {0};
    const fg_recording_sink sink = {.context = stdout, .heading = print_cells, .row = print_row};
    const fg_status status =
        options->edges ? fg_edges_read(program, &sink, &mistake) : fg_scene_read(program, scene, &sink, &mistake);
    if (status != FG_OK && *mistake.text) tool_print_mistake(&mistake);
    return status == FG_OK || ferror(stdout) ? EXIT_WELL : EXIT_WRONG; /* tool_output_check has the last word */
}

static const struct argp argp = {.options = own_options,
                                 .parser = parse,
                                 .args_doc = "GATE",
                                 .doc = "Prints a scene of a gate file as a recording, the same on every machine."
                                        "\vA moment without a reading is an empty cell, a faulty one the word faulty."};

const tool_command command_pretend = {.name = "pretend",
                                      .use = "pretend GATE",
                                      .line = "prints a scene as a recording",
                                      .argp = &argp,
                                      .options_size = sizeof(tool_options),
                                      .forms = 1 << FORM_TEXT | 1 << FORM_CSV,
                                      .run = run};
