/* SPDX-License-Identifier: MIT */
/* fickle bake GATE -o NAME */
#include "tool.h"

#include <ficklegate/bake.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

typedef struct bake_options {
    tool_options common;
    const char *output;
    bool tables, units, report, force;
} bake_options;

enum { REPORT = TOOL_OPTION_OWN };

static const struct argp_option own_options[] = {
    {"output", 'o', "NAME", 0, "write NAME.h and NAME.c", 0},
    {"tables", 'T', NULL, 0, "const tables for the library's engine instead of code", 0},
    {"units", 'u', NULL, 0, "feed sensors that have `raw` with their unit, not with counts", 0},
    {"report", REPORT, NULL, 0, "with a function that prints readings and levels as a line, for fickle live", 0},
    {"force", 'f', NULL, 0, "replace files that were not baked", 0},
    {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    bake_options *o = state->input;
    switch (key) {
    case 'o': o->output = argument; return 0;
    case 'T': o->tables = true; return 0;
    case 'u': o->units = true; return 0;
    case REPORT: o->report = true; return 0;
    case 'f': o->force = true; return 0;
    case ARGP_KEY_END:
        if (!o->output)
            tool_wrong_use(state, "name the two files: -o NAME");
        else if (o->tables && o->units)
            tool_wrong_use(state, "--units is for code: with --tables, fg_feed takes units and fg_feed_counts counts");
        else if (o->tables && o->report)
            tool_wrong_use(state, "--report is for code: with --tables, fg_output_text gives each output's level");
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
    tool_say("%s: error: exists already and was not baked; choose another name, or replace it with --force\n", path);
    return false;
}

static void on_renamed(void *context, fg_text name, fg_text to)
{
    (void)context;
    tool_say("fickle: note: '%.*s' becomes %.*s, as another name is the same in capitals\n", (int)name.size, name.at,
             (int)to.size, to.at);
}

/* What has no pin of its own is told, so that nobody waits for it to move. */
static void tell_displays(const fg_gate_file *file)
{
    for (uint32_t i = 0; i < file->program.declared_count; i++) {
        const fg_declared *d = &file->program.declared[i];
        if (d->kind == FG_KIND_DISPLAY || d->kind == FG_KIND_BAR)
            tool_say("fickle: note: the ports drive no %s: bring %.*s to its level in your own code\n",
                     fg_kind_word(d->kind), (int)d->name.size, d->name.at);
    }
}

static bool write_both(const char *const *paths, const fg_memory_file *texts)
{
    fg_mistake mistake;
    const fg_text both[] = {{texts[0].text, texts[0].size}, {texts[1].text, texts[1].size}};
    if (fg_files_write(paths, both, 2, &mistake) == FG_OK) return true;
    tool_print_mistake(&mistake);
    return false;
}

/* The name stands in an #include, where nothing is escaped. */
static bool may_be_included(const char *name)
{
    return tool_is_plain((fg_text){name, strlen(name)}) && !strpbrk(name, "\"\\?*");
}

/* A name for two files: not a folder, and without an ending. */
static bool is_name(const char *output)
{
    const char *slash = strrchr(output, '/'), *last = slash ? slash + 1 : output;
    const size_t size = strlen(last);
    const char *shadows = fg_bake_shadows(output);
    const bool ending = size > 2 && (!strcmp(last + size - 2, ".c") || !strcmp(last + size - 2, ".h"));
    if (!size)
        tool_say("fickle: error: -o '%s' names no file; write a name behind it, such as '%sgate'\n", output, output);
    if (ending)
        tool_say("fickle: error: -o '%s' would become '%s.h' and '%s.c'; leave the ending out\n", output, output,
                 output);
    if (size && !may_be_included(last))
        tool_say("fickle: error: -o '%s' cannot stand in an #include; leave out quotes, ?, *, \\ and what is no text\n",
                 output);
    if (shadows)
        tool_say(
            "fickle: error: -o '%s' would make '%s.h', which a program may take for its <%s.h>; write -o %s_gate\n",
            output, last, shadows, output);
    return size && !ending && !shadows && may_be_included(last);
}

/* The two files on their way. */
typedef struct files {
    char *paths[2];
    fg_memory_file texts[2];
    char name[80];
    fg_baked baked;
} files;

static bool may_begin(const bake_options *o, const fg_gate_file *file, files *f)
{
    const char *misfit = o->tables ? NULL : fg_bake_code_misfit(file);
    for (int i = 0; i < 2; i++)
        if (asprintf(&f->paths[i], "%s.%c", o->output, i ? 'c' : 'h') < 0) f->paths[i] = NULL;
    if (!f->paths[0] || !f->paths[1]) {
        tool_no_memory();
        return false;
    }
    if (misfit) tool_say("%s: error: %s; bake it with --tables\n", file->path, misfit);
    return !misfit && is_name(o->output) && is_ours(f->paths[0], o->force) && is_ours(f->paths[1], o->force);
}

static bool write_texts(const bake_options *o, const fg_gate_file *file, files *f)
{
    const bool open[2] = {fg_memory_file_open(&f->texts[0]), fg_memory_file_open(&f->texts[1])};
    const char *slash = strrchr(f->paths[0], '/');
    const fg_bake_options options = {.name = f->name,
                                     .header = slash ? slash + 1 : f->paths[0],
                                     .settings = tool_settings(&o->common),
                                     .units = o->units,
                                     .report = o->report,
                                     .renamed = o->common.quiet ? NULL : on_renamed};
    bool good =
        open[0] && open[1] &&
        (o->tables ? fg_bake_tables : fg_bake_code)(file, &options, f->texts[0].file, f->texts[1].file, &f->baked);
    for (int i = 0; i < 2; i++) good = open[i] && fg_memory_file_close(&f->texts[i]) && good;
    if (!good) tool_no_memory();
    return good;
}

/* What to do with the files now. */
static int tell_result(const bake_options *o, const fg_gate_file *file, const files *f)
{
    FILE *out = tool_output_open();
    if (!out) return EXIT_WRONG;
    fprintf(out, "%s and %s: copy both to the board's project%s\n", f->paths[0], f->paths[1],
            o->tables ? ", and ficklegate.h and ficklegate.c" : "");
    if (!o->tables)
        fprintf(out, "  it remembers %zu bytes on an 8-bit chip, %zu where numbers are aligned\n", f->baked.packed,
                f->baked.aligned);
    if (o->tables)
        fprintf(out, "  fg_run_start(&%s_gate, ...) once, then fg_feed, fg_step, fg_output_at", f->name);
    else
        fprintf(out, "  %s_start once, then %s_feed, %s_step, %s_level", f->name, f->name, f->name, f->name);
    if (file->program.gate.every) fprintf(out, " every %" PRIu32 " ms", file->program.gate.every);
    fputc('\n', out);
    return tool_output_close(out, FORM_TEXT, true);
}

static int run(void *given, const fg_gate_file *file)
{
    const bake_options *o = given;
    files f = {0};
    bool good = may_begin(o, file, &f);
    if (good && fg_bake_name(o->output, f.name, sizeof f.name) && !o->common.quiet)
        tool_say("fickle: names begin with %s\n", f.name);
    good = good && write_texts(o, file, &f);
    if (good && !o->common.quiet) tell_displays(file);
    good = good && write_both((const char *const *)f.paths, f.texts);
    if (good && !o->common.quiet) good = tell_result(o, file, &f) == EXIT_WELL;
    for (int i = 0; i < 2; i++) {
        free(f.paths[i]);
        free(f.texts[i].text);
    }
    return good ? EXIT_WELL : EXIT_WRONG;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE -o NAME",
    .doc = "Writes a gate as C for a board: NAME.h has its state, its calls and the names of its sensors, flags, "
           "outputs and answers, NAME.c the gate as straight code, or with --tables as const tables for the library's "
           "engine."
           "\vThe same gate gives the same bytes. Files that are there are replaced only if they were baked."};

const tool_command command_bake = {.name = "bake",
                                   .use = "bake GATE",
                                   .line = "C for a board",
                                   .argp = &argp,
                                   .options_size = sizeof(bake_options),
                                   .forms = 1 << FORM_TEXT,
                                   .run = run};
