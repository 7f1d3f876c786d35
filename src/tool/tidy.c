/* SPDX-License-Identifier: MIT */
/* fickle tidy GATE... */
#include "tool.h"

#include <ficklegate/tidy.h>
#include <ficklegate/tune.h>

#include <string.h>

typedef struct tidy_options {
    tool_options common;
    bool write, check;
} tidy_options;

enum { WRITE = TOOL_OPTION_OWN, CHECK };

static const struct argp_option own_options[] = {
    {"write", WRITE, NULL, 0, "change the files instead of printing them", 0},
    {"check", CHECK, NULL, 0, "print what would change; status 1 if something would", 0},
    {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    tidy_options *o = state->input;
    switch (key) {
    case ARGP_KEY_INIT: return tool_begin(&o->common, state);
    case WRITE: o->write = true; return 0;
    case CHECK: o->check = true; return 0;
    case ARGP_KEY_ARG: o->common.recordings[o->common.recording_count++] = argument; return 0;
    case ARGP_KEY_END:
        if (!o->common.recording_count) tool_wrong_use(state, "name a gate file, or - for standard input");
        if (o->write && o->check) tool_wrong_use(state, "--write changes files and --check leaves them; choose one");
        if (!o->write && !o->check && o->common.recording_count > 1)
            tool_wrong_use(state, "several files go with --write or --check");
        return 0;
    default: return ARGP_ERR_UNKNOWN;
    }
}

/* One file. EXIT_HELD_NOT: it is not tidy. */
static int tidy_one(const tidy_options *o, const char *path, FILE *out)
{
    fg_text before = {0}, after = {0};
    fg_mistake mistake;
    int status = EXIT_WELL;
    if (fg_file_read(path, FG_SOURCE_MOST_BYTES, &before, &mistake) != FG_OK ||
        fg_tidy(path, before, &after, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
        status = EXIT_WRONG;
    } else if (!o->write && !o->check) {
        fwrite(after.at, 1, after.size, out);
    } else if (!fg_text_same(before, after)) {
        status = EXIT_HELD_NOT;
        if (o->check && !fg_write_diff(out, path, before, after)) {
            tool_no_memory();
            status = EXIT_WRONG;
        }
        if (o->write && fg_file_change(path, before, after, &mistake) != FG_OK) {
            tool_print_mistake(&mistake);
            status = EXIT_WRONG;
        } else if (o->write) {
            if (!o->common.quiet) tool_say("%s: tidied\n", path);
            status = EXIT_WELL;
        }
    }
    fg_text_free(before);
    fg_text_free(after);
    return status;
}

static int run(void *given, const fg_gate_file *file)
{
    const tidy_options *o = given;
    int status = EXIT_WELL;
    (void)file;
    for (size_t i = 0; i < o->common.recording_count && o->write; i++)
        if (!strcmp(o->common.recordings[i], "-")) {
            tool_say("fickle: error: standard input cannot be changed; leave out --write\n");
            return EXIT_WRONG;
        }
    FILE *out = tool_output_open();
    if (!out) return EXIT_WRONG;
    for (size_t i = 0; i < o->common.recording_count; i++) {
        const int one = tidy_one(o, o->common.recordings[i], out);
        if (one > status) status = one;
    }
    /* A gate goes out byte for byte, for whoever puts it into a file. */
    const int written = tool_output_close(out, o->check ? FORM_TEXT : FORM_CSV, status != EXIT_WRONG || o->check);
    return written == EXIT_WELL ? status : written;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE...",
    .doc =
        "Lays out a gate file: names below each other, one row a line, one blank between words. Prints it, or changes "
        "the file with --write."
        "\vA block on one line stays there while it fits in 120 characters. Comments and blank lines stay where they "
        "are, and nothing means anything else afterwards."};

const tool_command command_tidy = {.name = "tidy",
                                   .use = "tidy GATE",
                                   .line = "lays out a gate file",
                                   .argp = &argp,
                                   .options_size = sizeof(tidy_options),
                                   .forms = 1 << FORM_TEXT,
                                   .run = run};
