/* fickle check GATE */
#include "tool.h"

#include <inttypes.h>

static error_t parse(int key, char *argument, struct argp_state *state)
{
    return tool_arguments(key, argument, state, WANTS_GATE);
}

static void print_kinds(const fg_program *program)
{
    uint32_t counts[FG_KINDS_IN_ALL] = {0};
    const char *between = "";
    for (uint32_t i = 0; i < program->declared_count; i++) counts[program->declared[i].kind]++;
    fputs("  declares  ", stdout);
    for (int k = 0; k < FG_KINDS_IN_ALL; k++) {
        if (!counts[k]) continue;
        printf("%s%" PRIu32 " %s", between, counts[k], fg_kind_word((fg_kind)k));
        between = ", ";
    }
    if (program->trial_count) printf("%s%" PRIu32 " trial", between, program->trial_count);
    fputc('\n', stdout);
}

static void print_summary(const fg_gate_file *file)
{
    char a[32];
    const fg_program *p = &file->program;
    printf("%s: no errors", tool_path(file->path));
    if (p->warning_count) printf(", %" PRIu32 " warning%s", p->warning_count, p->warning_count == 1 ? "" : "s");
    fputc('\n', stdout);
    if (p->title.size) printf("  gate      %.*s\n", (int)p->title.size, p->title.at);
    print_kinds(p);
    if (p->gate.every)
        printf("  steps     every %" PRIu32 " ms\n", p->gate.every);
    else
        puts("  steps     with each reading");
    printf("  memory    %s bytes of state on this machine\n", tool_grouped(fg_run_size(&p->gate), a));
}

int command_check(int argc, char **argv)
{
    const struct argp_child children[] = {{&tool_common, 0, NULL, 0}, {0}};
    const struct argp argp = {.parser = parse,
                              .args_doc = "GATE",
                              .doc = "Reads a gate file and says what is wrong or odd in it.",
                              .children = children};
    tool_options options = {0};
    fg_gate_file file;
    if (argp_parse(&argp, argc, argv, 0, NULL, &options)) return EXIT_WRONG;
    int status = tool_open_gate(&options, &file);
    if (status == EXIT_WELL) {
        status = tool_check_trials(&options, &file);
        if (status == EXIT_WELL && !options.quiet) print_summary(&file);
        if (status == EXIT_WELL) status = tool_strict_status(&file, &options);
    }
    fg_gate_file_close(&file);
    return status;
}
