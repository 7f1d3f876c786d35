/* SPDX-License-Identifier: MIT */
/* fickle page GATE RECORDING... */
#include "tool.h"

#include <stdlib.h>
#include <string.h>

typedef struct page_options {
    tool_options common;
    const char *output;
} page_options;

static const struct argp_option own_options[] = {
    {"output", 'o', "FILE", 0, "the file to write; GATE.html beside you if left out", 0}, {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    page_options *o = state->input;
    if (key == ARGP_KEY_INIT) return tool_begin(&o->common, state);
    if (key == 'o') {
        o->output = argument;
        return 0;
    }
    if (key == ARGP_KEY_END) return 0; /* without a gate it is the example, without a recording it is moved by hand */
    return tool_arguments(key, argument, state, WANTS_GATE | WANTS_RECORDINGS);
}

/* "harbour.html" for examples/harbour/harbour.gate; for free(). */
static char *output_name(const page_options *o)
{
    char *name;
    if (o->output) return strdup(o->output);
    const char *gate = o->common.gate ? o->common.gate : "fickle.gate", *slash = strrchr(gate, '/');
    if (slash) gate = slash + 1;
    if (!strcmp(gate, "-")) gate = "gate";
    const char *dot = strrchr(gate, '.');
    return asprintf(&name, "%.*s.html", (int)(dot && dot != gate ? (size_t)(dot - gate) : strlen(gate)), gate) < 0
               ? NULL
               : name;
}

static bool keeps_inputs(const page_options *o, const char *path)
{
    bool good = tool_keeps(path, o->common.gate);
    for (size_t i = 0; i < o->common.recording_count && good; i++) good = tool_keeps(path, o->common.recordings[i]);
    return good;
}

static int run(void *given, const fg_gate_file *file)
{
    const page_options *o = given;
    fg_mistake mistake = {0};
    fg_text page;
    if (o->common.setting_count) {
        tool_say("fickle: error: the page has the gate as it is written; change the number there, not by --set\n");
        return EXIT_WRONG;
    }
    if (!fg_page_is_there()) {
        tool_say("fickle: error: was built without the page; run scripts/install-packages.sh page, then build\n");
        return EXIT_WRONG;
    }
    char *path = output_name(o);
    if (!path) {
        tool_no_memory();
        return EXIT_WRONG;
    }
    fg_status status = FG_ERROR_ARGUMENT;
    if (keeps_inputs(o, path)) {
        status = fg_page_of(file, o->common.recordings, o->common.recording_count, &page, &mistake);
        if (status == FG_OK) {
            const char *const paths[] = {path};
            status = fg_files_write(paths, &page, 1, &mistake);
            fg_text_free(page);
        }
        if (status != FG_OK) tool_print_mistake(&mistake);
        if (status == FG_OK && !o->common.quiet) tool_say("%s: open it in any browser\n", path);
    }
    free(path);
    return status == FG_OK ? EXIT_WELL : EXIT_WRONG;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "[GATE [RECORDING...]]",
    .doc = "Writes one HTML file that any browser opens without a network: the gate's text, the recordings as a "
           "picture with limits to drag, sensors to move by hand, reasons and trials."
           "\vRecordings of the gate's trials come with it. Without a gate it is a page with an example, into which "
           "gates and recordings can be dropped. The page holds the same engine as this tool and answers the same."};

const tool_command command_page = {.name = "page",
                                   .use = "page GATE REC...",
                                   .line = "one file for any browser, with limits to drag",
                                   .argp = &argp,
                                   .options_size = sizeof(page_options),
                                   .forms = 1 << FORM_TEXT,
                                   .mistakes = true,
                                   .run = run};
