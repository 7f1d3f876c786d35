/* fickle check GATE */
#include "tool.h"

#include <inttypes.h>
#include <stdlib.h>

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

static void print_owned(fg_text text)
{
    tool_text(stdout, text);
    free((void *)(uintptr_t)text.at);
}

static bool print_lines(const fg_program *program)
{
    const int width = tool_width() ? tool_width() : 80;
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        fg_text text;
        if (d->kind != FG_KIND_THRESHOLD && d->kind != FG_KIND_HYSTERESIS && d->kind != FG_KIND_BANDS) continue;
        if (fg_number_line(program, d, width < 100 ? width - 2 : 98, &text) != FG_OK) return false;
        fputc('\n', stdout);
        print_owned(text);
    }
    return true;
}

static bool print_delays(const fg_program *program)
{
    fg_text text;
    if (fg_delays(program, &text) != FG_OK) return false;
    if (text.size) puts("\nuntil a clear change is believed");
    print_owned(text);
    return true;
}

static int print_summary(const fg_gate_file *file)
{
    char a[32], b[32], c[32];
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
    printf("  memory    %s bytes of state, %s bytes of tables, as on this machine\n",
           tool_grouped(fg_run_size(&p->gate), a), tool_grouped(p->table_bytes, b));
    printf("  work      at most %s operations a step\n", tool_grouped(fg_gate_work(&p->gate), c));
    if (print_lines(p) && print_delays(p)) return EXIT_WELL;
    fputs("fickle: there is not enough memory\n", stderr);
    return EXIT_WRONG;
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
        if (status == EXIT_WELL && !options.quiet) status = print_summary(&file);
        if (status == EXIT_WELL) status = tool_strict_status(&file, &options);
    }
    fg_gate_file_close(&file);
    return status;
}
