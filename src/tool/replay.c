/* fickle replay GATE RECORDING */
#include "tool.h"

#include <inttypes.h>

typedef struct printer {
    FILE *output;
    tool_form form;
    int name_width, change_width;
    int64_t last_ms;
} printer;

static const struct argp_option own_options[] = {
    {"scene", 'n', "NAME", 0, "play a scene of the gate file instead of a recording", 0}, {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    if (key == 'n') {
        ((tool_options *)state->input)->scene = argument;
        return 0;
    }
    return tool_arguments(key, argument, state, WANTS_GATE | WANTS_RECORDING);
}

static bool print_csv(printer *p, const fg_change *change)
{
    fprintf(p->output, "%" PRId64 ",", change->t_ms);
    tool_text(p->output, change->declared->name);
    const fg_text cells[] = {change->was, change->is, change->because};
    for (int i = 0; i < 3; i++) {
        fputc(',', p->output);
        tool_csv_cell(p->output, cells[i]);
    }
    fputc('\n', p->output);
    return !ferror(p->output);
}

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
    fprintf(p->output, "%*s", width < p->change_width ? p->change_width - width + 2 : 2, "");
    tool_wrapped(p->output, change->because, 11 + 2 + p->name_width + 2 + p->change_width + 2);
    fputc('\n', p->output);
    return !ferror(p->output);
}

static bool on_change(void *context, const fg_change *change)
{
    printer *p = context;
    return p->form == FORM_CSV ? print_csv(p, change) : print_text(p, change);
}

static int replay(const tool_options *options, const fg_gate_file *file)
{
    const fg_scene *scene = options->scene ? tool_scene(options, file) : NULL;
    if (options->scene && !scene) return EXIT_WRONG;
    printer p = {
        .output = tool_output_open(), .form = options->form, .name_width = 4, .change_width = 20, .last_ms = -1};
    fg_replay_report report;
    fg_mistake mistake;
    if (!p.output) return EXIT_WRONG;
    for (uint32_t i = 0; i < file->program.declared_count; i++) {
        const fg_declared *d = &file->program.declared[i];
        if (d->kind != FG_KIND_NUMBER && (int)d->name.size > p.name_width) p.name_width = (int)d->name.size;
    }
    if (p.name_width > 24) p.name_width = 24;
    if (p.form == FORM_CSV)
        fputs("t_ms,name,was,is,because\n", p.output);
    else
        fprintf(p.output, "%11s  %-*s  %-*s  because\n", "time [s]", p.name_width, "name", p.change_width, "was -> is");

    const fg_replay_observer observer = {.context = &p, .change = on_change, .progress = tool_progress};
    fg_status status = scene ? fg_replay_scene(&file->program, scene, &observer, &report, &mistake)
                             : fg_replay(&file->program, options->recording, &observer, &report, &mistake);
    tool_progress_end();
    int result = tool_output_close(p.output, status == FG_OK);
    if (status != FG_OK) tool_print_mistake(&mistake);
    if (scene) report.unreadable = 0; /* what is faulty there is meant to be */
    if (status == FG_OK && result == EXIT_WELL)
        tool_print_report(options, scene ? options->scene : options->recording, &report);
    return result;
}

int command_replay(int argc, char **argv)
{
    const struct argp_child children[] = {{&tool_common, 0, NULL, 0}, {0}};
    const struct argp argp = {
        .options = own_options,
        .parser = parse,
        .args_doc = "GATE [RECORDING]",
        .doc =
            "Plays a recording through a gate on the simulated board and prints every change with its reason."
            "\vA recording is CSV: a heading with a time column (t_ms in milliseconds, t_s or time in seconds) and a "
            "column for each sensor (NAME in its unit, NAME.raw in counts) and flag. Empty cells are no new reading, "
            "what is no number is a faulty one, lines that begin with # are comments.",
        .children = children};
    tool_options options = {0};
    fg_gate_file file;
    if (argp_parse(&argp, argc, argv, 0, NULL, &options)) return EXIT_WRONG;
    int status = tool_open_gate(&options, &file);
    if (status == EXIT_WELL) status = replay(&options, &file);
    if (status == EXIT_WELL) status = tool_strict_status(&file, &options);
    fg_gate_file_close(&file);
    return status;
}
