/* fickle mimic GATE --scene NAME */
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

static int mimic(const tool_options *options, const fg_gate_file *file)
{
    const fg_program *program = &file->program;
    const fg_scene *scene = !options->scene && program->scene_count == 1 ? &program->scenes[0]
                            : options->scene                             ? tool_scene(options, file)
                                                                         : NULL;
    if (!scene && !options->scene && !options->edges)
        tool_say("%s: error: it has %" PRIu32 " scenes; name one with --scene\n", tool_path(file->path),
                 program->scene_count);
    if (!scene && !options->edges) return EXIT_WRONG;
    /* Rows go out as they are made: whoever reads them need not wait for the end of a long scene. */
    fg_mistake mistake = {0};
    const fg_recording_sink sink = {.context = stdout, .heading = print_cells, .row = print_row};
    const fg_status status =
        options->edges ? fg_edges_read(program, &sink, &mistake) : fg_scene_read(program, scene, &sink, &mistake);
    if (status != FG_OK && *mistake.text) tool_print_mistake(&mistake);
    return status == FG_OK || ferror(stdout) ? EXIT_WELL : EXIT_WRONG; /* tool_output_check has the last word */
}

int command_mimic(int argc, char **argv)
{
    const struct argp_child children[] = {{&tool_common, 0, NULL, 0}, {0}};
    const struct argp argp = {.options = own_options,
                              .parser = parse,
                              .args_doc = "GATE",
                              .doc = "Prints a scene of a gate file as a recording, the same on every machine."
                                     "\vA moment without a reading is an empty cell, a faulty one the word faulty.",
                              .children = children};
    tool_options options = {0};
    fg_gate_file file;
    if (!tool_parse(&argp, argc, argv, 0, &options)) return EXIT_WRONG;
    int status = tool_open_gate(&options, &file);
    if (status == EXIT_WELL) status = mimic(&options, &file);
    if (status == EXIT_WELL) status = tool_strict_status(&file, &options);
    fg_gate_file_close(&file);
    return status;
}
