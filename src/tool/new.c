/* SPDX-License-Identifier: MIT */
/* fickle new NAME */
#include "tool.h"

#include <stdlib.h>
#include <string.h>
#include <unistd.h>

typedef struct new_options {
    tool_options common;
    const char *name;
} new_options;

/* A % stands for the name of the file. */
static const char template[] =
    "# A small gate to begin with. Change whatever you like, then run: fickle check %.gate\n"
    "gate \"%\"\n"
    "every 1s\n"
    "\n"
    "# What is read: a name, a unit, and the smallest step it can tell apart.\n"
    "sensor box { unit °C; step 0.1 }\n"
    "\n"
    "# Which readings mean what. Two limits, so that noise at one of them does not make it chatter.\n"
    "hysteresis cold from box { on under 26; off over 27 }\n"
    "\n"
    "# What is switched, and when. If the sensor fails, the heater rests.\n"
    "relay heater { on when cold; off if unsure }\n"
    "\n"
    "# Made-up readings, to try it without a board: fickle replay %.gate --scene \"an evening\"\n"
    "scene \"an evening\" {\n"
    "    lasts 60s\n"
    "    box ramps 28 to 24 from 5s to 30s\n"
    "    box ramps 24 to 28 from 35s to 50s\n"
    "    box drops out from 40s to 42s\n"
    "}\n"
    "\n"
    "# What has to come out: fickle trial %.gate\n"
    "trial \"an evening\" {\n"
    "    readings \"an evening\"\n"
    "    expect heater is off at 10s\n"
    "    expect heater is on at 30s\n"
    "    expect heater is off at end\n"
    "    expect heater is on never while box faulty\n"
    "}\n";

/* The name without its folder and without an ending .gate. */
static fg_text bare_name(const char *name)
{
    const char *slash = strrchr(name, '/'), *begin = slash ? slash + 1 : name;
    const size_t size = strlen(begin);
    return (fg_text){begin, size > 5 && strcmp(begin + size - 5, ".gate") == 0 ? size - 5 : size};
}

/* The caller's to free(); NULL without memory. */
static char *filled(fg_text name)
{
    size_t room = sizeof template, size = 0;
    for (const char *at = template; *at; at++) room += *at == '%' ? name.size : 0;
    char *text = malloc(room);
    for (const char *at = template; text && *at; at++) {
        if (*at != '%') {
            text[size++] = *at;
            continue;
        }
        memcpy(text + size, name.at, name.size);
        size += name.size;
    }
    if (text) text[size] = '\0';
    return text;
}

static bool fits(fg_text name)
{
    for (size_t i = 0; i < name.size; i++)
        if ((unsigned char)name.at[i] < ' ' || strchr("\"\\", name.at[i])) return false;
    return name.size != 0;
}

static int write_gate(const char *path, const char *text)
{
    fg_mistake mistake;
    const fg_text whole = fg_text_of(text);
    if (access(path, F_OK) == 0) {
        tool_say("%s: error: it exists already; choose another name, or remove it first\n", path);
        return EXIT_WRONG;
    }
    if (fg_files_write(&path, &whole, 1, &mistake) == FG_OK) return EXIT_WELL;
    tool_print_mistake(&mistake);
    return EXIT_WRONG;
}

static int run(void *given, const fg_gate_file *file)
{
    const new_options *o = given;
    const fg_text name = bare_name(o->name);
    char path[4096];
    int status = EXIT_WRONG;
    (void)file;
    if (!fits(name)) {
        tool_say("fickle: error: '%s' cannot be the name of a gate file; write a word, as in  fickle new box\n",
                 o->name);
        return status;
    }
    const size_t front = (size_t)(name.at - o->name);
    if (snprintf(path, sizeof path, "%.*s%.*s.gate", (int)front, o->name, (int)name.size, name.at) >=
        (int)sizeof path) {
        tool_say("fickle: error: this path is too long\n");
        return status;
    }
    char *text = filled(name);
    if (text)
        status = write_gate(path, text);
    else
        tool_no_memory();
    free(text);
    if (status == EXIT_WELL && !o->common.quiet)
        printf("%s is written: a sensor, a rule, a heater, readings made up, and what has to come out.\nNext:\n"
               "  fickle check %s\n  fickle trial %s\n  fickle replay %s --scene \"an evening\"\n",
               path, path, path, path);
    return status;
}

static error_t parse(int key, char *argument, struct argp_state *state)
{
    new_options *o = state->input;
    switch (key) {
    case ARGP_KEY_INIT: return tool_begin(&o->common, state);
    case ARGP_KEY_ARG:
        if (o->name) tool_wrong_use(state, "unexpected argument '%s'", argument);
        o->name = argument;
        return 0;
    case ARGP_KEY_END:
        if (!o->name) tool_wrong_use(state, "name the gate file to be written, as in  fickle new box");
        return 0;
    default: return ARGP_ERR_UNKNOWN;
    }
}

static const struct argp argp = {
    .parser = parse,
    .args_doc = "NAME",
    .doc = "Writes NAME.gate, a small gate file with comments that runs: a sensor, a rule, something that is switched, "
           "readings made up, and a trial."};

const tool_command command_new = {.name = "new",
                                  .use = "new NAME",
                                  .line = "writes a small gate file to start from",
                                  .argp = &argp,
                                  .options_size = sizeof(new_options),
                                  .forms = 1 << FORM_TEXT,
                                  .run = run};
