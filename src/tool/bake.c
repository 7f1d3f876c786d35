/* fickle bake GATE --tables -o NAME */
#include "tool.h"

#include <ficklegate/bake.h>
#include <ficklegate/tune.h>

#include <errno.h>
#include <stdlib.h>
#include <string.h>

typedef struct bake_options {
    tool_options common;
    const char *output;
    bool tables, force;
} bake_options;

static const struct argp_option own_options[] = {{"output", 'o', "NAME", 0, "write NAME.h and NAME.c", 0},
                                                 {"tables", 'T', NULL, 0, "tables for the library's engine", 0},
                                                 {"force", 'f', NULL, 0, "replace files that were not baked", 0},
                                                 {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    bake_options *o = state->input;
    switch (key) {
    case 'o': o->output = argument; return 0;
    case 'T': o->tables = true; return 0;
    case 'f': o->force = true; return 0;
    case ARGP_KEY_END:
        if (!o->output)
            argp_error(state, "name the two files: -o NAME");
        else if (!o->tables)
            argp_error(state, "say what to write: --tables");
        return tool_arguments(key, argument, state, WANTS_GATE);
    default: return tool_arguments(key, argument, state, WANTS_GATE);
    }
}

/* May this file be replaced? */
static bool is_ours(const char *path, bool force)
{
    char begin[sizeof FG_BAKED] = "";
    FILE *file = fopen(path, "r");
    if (!file) return true;
    const size_t size = fread(begin, 1, sizeof FG_BAKED - 1, file);
    fclose(file);
    if (force || (size == sizeof FG_BAKED - 1 && !strcmp(begin, FG_BAKED))) return true;
    fprintf(stderr, "%s: error: is there already and was not baked; name another, or replace it with --force\n", path);
    return false;
}

static void on_renamed(void *context, fg_text name, fg_text to)
{
    (void)context;
    fprintf(stderr, "fickle: '%.*s' becomes %.*s, as another name is the same in capitals\n", (int)name.size, name.at,
            (int)to.size, to.at);
}

static bool write_both(const char *const *paths, char *const *texts, const size_t *sizes)
{
    for (int i = 0; i < 2; i++) {
        fg_mistake mistake;
        if (fg_file_replace(paths[i], (fg_text){texts[i], sizes[i]}, &mistake) == FG_OK) continue;
        tool_print_mistake(&mistake);
        return false;
    }
    return true;
}

static int bake(const bake_options *o, const fg_gate_file *file)
{
    const size_t room = strlen(o->output) + 8;
    char *header_path = malloc(room), *source_path = malloc(room), *texts[2] = {NULL, NULL}, name[80];
    size_t sizes[2] = {0, 0};
    FILE *header = open_memstream(&texts[0], &sizes[0]), *source = open_memstream(&texts[1], &sizes[1]);
    bool good = header_path && source_path && header && source;
    if (good) {
        snprintf(header_path, room, "%s.h", o->output);
        snprintf(source_path, room, "%s.c", o->output);
        good = is_ours(header_path, o->force) && is_ours(source_path, o->force);
    } else {
        fputs("fickle: there is not enough memory\n", stderr);
    }
    if (good) {
        if (fg_bake_name(o->output, name, sizeof name) && !o->common.quiet)
            fprintf(stderr, "fickle: names begin with %s\n", name);
        const char *slash = strrchr(header_path, '/');
        const fg_bake_options options = {.name = name,
                                         .header = slash ? slash + 1 : header_path,
                                         .settings = o->common.settings,
                                         .setting_count = o->common.setting_count,
                                         .renamed = o->common.quiet ? NULL : on_renamed};
        good = fg_bake_tables(file, &options, header, source);
    }
    if (header) good = fclose(header) == 0 && good;
    if (source) good = fclose(source) == 0 && good;
    if (good) good = write_both((const char *const[]){header_path, source_path}, texts, sizes);
    free(header_path);
    free(source_path);
    free(texts[0]);
    free(texts[1]);
    return good ? EXIT_WELL : EXIT_WRONG;
}

int command_bake(int argc, char **argv)
{
    const struct argp_child children[] = {{&tool_common, 0, NULL, 0}, {0}};
    const struct argp argp = {
        .options = own_options,
        .parser = parse,
        .args_doc = "GATE --tables -o NAME",
        .doc = "Writes a gate as C for a board: NAME.h has the numbers of its sensors, flags, outputs and answers by "
               "name, NAME.c the gate as const tables for the library's engine."
               "\vThe same gate gives the same bytes. Files that are there are replaced only if they were baked.",
        .children = children};
    bake_options options = {0};
    fg_gate_file file;
    if (argp_parse(&argp, argc, argv, 0, NULL, &options)) return EXIT_WRONG;
    int status = tool_open_gate(&options.common, &file);
    if (status == EXIT_WELL) status = bake(&options, &file);
    if (status == EXIT_WELL) status = tool_strict_status(&file, &options.common);
    fg_gate_file_close(&file);
    return status;
}
