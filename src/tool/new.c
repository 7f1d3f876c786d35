/* SPDX-License-Identifier: MIT */
/* fickle new NAME */
#include "tool.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

typedef struct new_options {
    tool_options common;
    const char *name;
    bool project;
} new_options;

enum { PROJECT = TOOL_OPTION_OWN };

static const struct argp_option own_options[] = {
    {"project", PROJECT, NULL, 0,
     "a folder NAME with the gate, a README, a check for a build server, and .editorconfig", 0},
    {0}};

/* A % stands for the name of the file. */
static const char gate_template[] =
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

static const char readme_template[] =
    "# %\n"
    "\n"
    "`%.gate` says what is sensed, how readings are sorted into conditions, and what is switched.\n"
    "\n"
    "- `fickle check %.gate`: what is wrong or odd, and which rule owns which readings\n"
    "- `fickle replay %.gate --scene \"an evening\"`: what would be switched, when and why\n"
    "- `fickle trial %.gate`: does what is expected come out? With `--nudge`: which limits does no trial pin down?\n"
    "- `fickle bake %.gate -o %`: C for a board\n"
    "\n"
    "Put your own recordings beside it, CSV files with a column t_ms and one for each sensor, and name them in "
    "trials.\n"
    "`sh check.sh` is what a build server runs.\n";

static const char check_template[] =
    "#!/bin/sh\n"
    "# Everything that has to be right before a board gets it. Status 0: all is well.\n"
    "set -eu\n"
    "cd \"$(dirname \"$0\")\"\n"
    "fickle tidy --check ./*.gate\n"
    "fickle check --strict --quiet %.gate\n"
    "fickle trial --strict --require 80% %.gate\n";

static const char editor_template[] = "root = true\n"
                                      "\n"
                                      "[*.gate]\n"
                                      "charset = utf-8\n"
                                      "end_of_line = lf\n"
                                      "indent_style = space\n"
                                      "indent_size = 4\n"
                                      "insert_final_newline = true\n";

/* The name without its folder and without an ending .gate. */
static fg_text bare_name(const char *name)
{
    const char *slash = strrchr(name, '/'), *begin = slash ? slash + 1 : name;
    const size_t size = strlen(begin);
    return (fg_text){begin, size > 5 && strcmp(begin + size - 5, ".gate") == 0 ? size - 5 : size};
}

/* The caller's to free(); NULL without memory. */
static char *filled(const char *template, fg_text name)
{
    size_t room = strlen(template) + 1, size = 0;
    for (const char *at = template; *at; at++) room += *at == '%' ? name.size : 0;
    char *text = malloc(room);
    for (const char *at = template; text && *at; at++) {
        if (*at != '%' || (at > template && at[-1] >= '0' && at[-1] <= '9')) { /* 90% stays */
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

/* A folder of its own, whole or not at all. */
static int write_project(const char *folder, fg_text name)
{
    static const char *const templates[] = {gate_template, readme_template, check_template, editor_template};
    static const char *const endings[] = {".gate", "README.md", "check.sh", ".editorconfig"};
    enum { FILES = sizeof templates / sizeof *templates };
    char *paths[FILES] = {0};
    fg_text texts[FILES] = {0};
    fg_mistake mistake = {0};
    int status = EXIT_WRONG;
    bool good = true;
    for (int i = 0; i < FILES; i++) {
        char *text = filled(templates[i], name);
        const fg_text file = i ? (fg_text){"", 0} : name;
        if (asprintf(&paths[i], "%s/%.*s%s", folder, (int)file.size, file.at, endings[i]) < 0) paths[i] = NULL;
        if (text) texts[i] = fg_text_of(text);
        good = good && text && paths[i];
    }
    if (!good) {
        tool_no_memory();
    } else if (mkdir(folder, 0777) != 0) {
        tool_say("%s: error: %s; choose another name\n", folder,
                 errno == EEXIST ? "it exists already" : strerror(errno));
    } else if (fg_files_write((const char *const *)paths, texts, FILES, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
        (void)rmdir(folder);
    } else {
        status = EXIT_WELL;
    }
    for (int i = 0; i < FILES; i++) {
        fg_text_free(texts[i]);
        free(paths[i]);
    }
    return status;
}

static int write_one(const char *path, fg_text name)
{
    char *text = filled(gate_template, name);
    const int status = text ? write_gate(path, text) : EXIT_WRONG;
    if (!text) tool_no_memory();
    free(text);
    return status;
}

static int run(void *given, const fg_gate_file *file)
{
    const new_options *o = given;
    const fg_text name = bare_name(o->name);
    char path[4096];
    (void)file;
    if (!fits(name)) {
        tool_say("fickle: error: '%s' cannot be the name of a gate file; write a word, as in  fickle new box\n",
                 o->name);
        return EXIT_WRONG;
    }
    const size_t front = (size_t)(name.at - o->name);
    if (snprintf(path, sizeof path, "%.*s%.*s%s", (int)front, o->name, (int)name.size, name.at,
                 o->project ? "" : ".gate") >= (int)sizeof path) {
        tool_say("fickle: error: this path is too long\n");
        return EXIT_WRONG;
    }
    const int status = o->project ? write_project(path, name) : write_one(path, name);
    if (status != EXIT_WELL || o->common.quiet) return status;
    if (o->project)
        printf("%s/ is written: a gate with a scene and a trial, README.md, check.sh for a build server, "
               ".editorconfig.\nNext:\n  cd %s\n  sh check.sh\n",
               path, path);
    else
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
    case PROJECT: o->project = true; return 0;
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
    .options = own_options,
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
