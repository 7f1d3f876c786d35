/* SPDX-License-Identifier: MIT */
/* fickle bake GATE -o NAME */
#include "tool.h"

#include <ficklegate/bake.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

typedef struct bake_options {
    tool_options common;
    const char *output, *depends;
    bool tables, units, report, details, force;
} bake_options;

enum { REPORT = TOOL_OPTION_OWN, DETAILS, DEPENDS };

static const struct argp_option own_options[] = {
    {"output", 'o', "NAME", 0, "write NAME.h and NAME.c", 0},
    {"tables", 'T', NULL, 0, "const tables for the library's engine instead of code", 0},
    {"units", 'u', NULL, 0, "feed sensors that have `raw` with their unit, not with counts", 0},
    {"report", REPORT, NULL, 0, "with a function that prints readings and levels as a line, for fickle live", 0},
    {"details", DETAILS, NULL, 0, "with functions that tell each sensor's value and which outputs have changed", 0},
    {"depends", DEPENDS, "FILE", 0, "write a rule for make there: which files the two are made of", 0},
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
    case DETAILS: o->details = true; return 0;
    case DEPENDS: o->depends = argument; return 0;
    case 'f': o->force = true; return 0;
    case ARGP_KEY_END:
        if (!o->output)
            tool_wrong_use(state, "name the two files: -o NAME");
        else if (o->tables && o->units)
            tool_wrong_use(state, "--units is for code: with --tables, fg_feed takes units and fg_feed_counts counts");
        else if (o->tables && o->report)
            tool_wrong_use(state, "--report is for code: with --tables, fg_output_text gives each output's level");
        else if (o->tables && o->details)
            tool_wrong_use(state, "--details is for code: with --tables, fg_sensor_value and fg_output_at tell them");
        return tool_arguments(key, argument, state, WANTS_GATE);
    default: return tool_arguments(key, argument, state, WANTS_GATE);
    }
}

/* May this file be replaced? One of ours begins so. */
static bool is_ours(const char *path, const char *begins, bool force)
{
    bool same = true;
    FILE *file = fopen(path, "r");
    if (!file) return true;
    for (const char *c = begins; *c && same; c++) same = fgetc(file) == *c;
    fclose(file);
    if (force || same) return true;
    tool_say("%s: error: exists already and was not baked; choose another name, or replace it with --force\n", path);
    return false;
}

static void on_renamed(void *context, fg_text name, fg_text to)
{
    (void)context;
    tool_say("fickle: note: '%.*s' becomes %.*s, as another name is the same in capitals\n", (int)name.size, name.at,
             (int)to.size, to.at);
}

static void on_wide(void *context, const fg_declared *sensor, fg_text cure)
{
    (void)context;
    if (cure.size)
        tool_say(
            "fickle: note: %.*s is worked out in 64 bits, large and slow on an 8-bit chip; with `trust` for %.*s 32 "
            "bits are enough\n",
            (int)sensor->name.size, sensor->name.at, (int)cure.size, cure.at);
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

/* The files on their way: header, source and, where it was asked for, the rule. */
enum { HEADER, SOURCE, RULE, FILES };

typedef struct files {
    char *paths[FILES];
    fg_memory_file texts[FILES];
    size_t count;
    char name[80];
    fg_baked baked;
} files;

/* A path as make reads it. */
static void put_path(FILE *out, const char *path, size_t size)
{
    for (size_t i = 0; i < size; i++) {
        if (path[i] == ' ' || path[i] == '#' || path[i] == '\\') fputc('\\', out);
        if (path[i] == '$') fputc('$', out);
        fputc(path[i], out);
    }
}

/* May the rule be written there: is it none of the other files, and if it is there, a rule for them? */
static bool may_have_rule(const bake_options *o, const fg_gate_file *file, const files *f)
{
    fg_memory_file begins;
    bool good = true;
    for (uint32_t i = 0; i < file->program.source_count && good; i++) {
        char *source;
        const fg_text name = file->program.sources[i].name;
        good = asprintf(&source, "%.*s", (int)name.size, name.at) >= 0;
        if (!good) break;
        good = tool_keeps(o->depends, source);
        free(source);
    }
    for (int i = 0; i < RULE && good; i++) {
        good = strcmp(o->depends, f->paths[i]) != 0 && !fg_file_same(o->depends, f->paths[i]);
        if (!good) tool_say("%s: error: is one of the two files; choose another name for the rule\n", o->depends);
    }
    if (!good || !fg_memory_file_open(&begins)) return false;
    put_path(begins.file, f->paths[HEADER], strlen(f->paths[HEADER]));
    if (!fg_memory_file_close(&begins)) return false;
    good = is_ours(o->depends, begins.text, o->force);
    free(begins.text);
    return good;
}

static bool may_begin(const bake_options *o, const fg_gate_file *file, files *f)
{
    const char *misfit = o->tables ? NULL : fg_bake_code_misfit(file);
    f->count = o->depends ? FILES : RULE;
    for (int i = 0; i < RULE; i++)
        if (asprintf(&f->paths[i], "%s.%c", o->output, i ? 'c' : 'h') < 0) f->paths[i] = NULL;
    f->paths[RULE] = o->depends ? strdup(o->depends) : NULL;
    if (!f->paths[HEADER] || !f->paths[SOURCE] || (o->depends && !f->paths[RULE])) {
        tool_no_memory();
        return false;
    }
    if (misfit) tool_say("%s: error: %s; bake it with --tables\n", file->path, misfit);
    return !misfit && is_name(o->output) && is_ours(f->paths[HEADER], FG_BAKED, o->force) &&
           is_ours(f->paths[SOURCE], FG_BAKED, o->force) && (!o->depends || may_have_rule(o, file, f));
}

/* Both files are made of the gate and of all that it includes. */
static void write_rule(const fg_gate_file *file, files *f)
{
    FILE *out = f->texts[RULE].file;
    put_path(out, f->paths[HEADER], strlen(f->paths[HEADER]));
    fputc(' ', out);
    put_path(out, f->paths[SOURCE], strlen(f->paths[SOURCE]));
    fputc(':', out);
    for (uint32_t i = 0; i < file->program.source_count; i++) {
        fputc(' ', out);
        put_path(out, file->program.sources[i].name.at, file->program.sources[i].name.size);
    }
    fputc('\n', out);
}

static bool write_all(const files *f)
{
    fg_mistake mistake;
    fg_text texts[FILES];
    for (size_t i = 0; i < f->count; i++) texts[i] = (fg_text){f->texts[i].text, f->texts[i].size};
    if (fg_files_write((const char *const *)f->paths, texts, f->count, &mistake) == FG_OK) return true;
    tool_print_mistake(&mistake);
    return false;
}

static bool write_texts(const bake_options *o, const fg_gate_file *file, files *f)
{
    bool good = true, open[FILES] = {false};
    for (size_t i = 0; i < f->count; i++) good = (open[i] = fg_memory_file_open(&f->texts[i])) && good;
    const char *slash = strrchr(f->paths[0], '/');
    const fg_bake_options options = {.name = f->name,
                                     .header = slash ? slash + 1 : f->paths[0],
                                     .settings = tool_settings(&o->common),
                                     .units = o->units,
                                     .report = o->report,
                                     .details = o->details,
                                     .renamed = o->common.quiet ? NULL : on_renamed,
                                     .wide = o->common.quiet ? NULL : on_wide};
    good = good && (o->tables ? fg_bake_tables : fg_bake_code)(file, &options, f->texts[HEADER].file,
                                                               f->texts[SOURCE].file, &f->baked);
    if (good && o->depends) write_rule(file, f);
    for (size_t i = 0; i < f->count; i++) good = open[i] && fg_memory_file_close(&f->texts[i]) && good;
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
        fprintf(out, "  %s_start once, then %s_feed, %s_step, %s_output", f->name, f->name, f->name, f->name);
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
    good = good && write_all(&f);
    if (good && !o->common.quiet) good = tell_result(o, file, &f) == EXIT_WELL;
    for (int i = 0; i < FILES; i++) {
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
