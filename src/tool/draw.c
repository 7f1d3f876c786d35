/* SPDX-License-Identifier: MIT */
/* fickle draw GATE RECORDING -o PICTURE */
#include "tool.h"

#include <ficklegate/draw.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { MARKS_MOST = 1000, OPTION_SOUND = TOOL_OPTION_OWN };

typedef struct draw_options {
    tool_options common;
    const char *output, *sound;
    uint32_t width, height;
    bool dark;
} draw_options;

static const struct argp_option own_options[] = {
    {"output", 'o', "FILE", 0, "the picture: FILE.png or FILE.svg", 0},
    {"size", 'z', "WIDTHxHEIGHT", 0, "in pixels; 1280 wide and as high as it needs if left out", 0},
    {"sound", OPTION_SOUND, "FILE", 0, "what a buzzer would be heard to do: FILE.wav", 0},
    {"dark", 'd', NULL, 0, "light on dark", 0},
    {"spread", 'p', NULL, 0, "draw labelled readings instead, as a tune sees them; takes the options of tune", 0},
    {"scene", 'n', "NAME", 0, "play a scene of the gate file instead of a recording", 0},
    TOOL_PART_OPTIONS,
    TOOL_READING_OPTIONS,
    {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    draw_options *o = state->input;
    if (tool_part_option(key, argument, state) == 0 || tool_reading_option(key, argument, state) == 0) return 0;
    switch (key) {
    case 'o': o->output = argument; return 0;
    case OPTION_SOUND: o->sound = argument; return 0;
    case 'd': o->dark = true; return 0;
    case 'p':
        tool_wrong_use(state,
                       "-p (--spread) stands by itself, as in fickle draw -p GATE RECORDING --label COLUMN -o FILE");
        return 0;
    case 'n': o->common.scene = argument; return 0;
    case 'z': tool_size(argument, &o->width, &o->height, state); return 0;
    case ARGP_KEY_END:
        if (!o->output && !o->sound)
            tool_wrong_use(state, "name the picture: -o FILE.png or -o FILE.svg (or a sound: --sound FILE.wav)");
        return tool_arguments(key, argument, state, WANTS_GATE | WANTS_RECORDING);
    default: return tool_arguments(key, argument, state, WANTS_GATE | WANTS_RECORDING);
    }
}

/* The buzzer that --only names, else the first one. */
static const fg_declared *find_buzzer(const fg_gate_file *file, const tool_chosen *chosen)
{
    for (size_t i = 0; i < chosen->count; i++)
        if (chosen->names[i]->kind == FG_KIND_BUZZER) return chosen->names[i];
    for (uint32_t i = 0; i < file->program.declared_count && !chosen->count; i++)
        if (file->program.declared[i].kind == FG_KIND_BUZZER) return &file->program.declared[i];
    tool_say("%s: error: there is no buzzer to hear%s\n", tool_path(file->path), chosen->count ? " in --only" : "");
    return NULL;
}

/* What is to be drawn or heard. */
typedef struct subject {
    const draw_options *o;
    const fg_gate_file *file;
    fg_readings readings;
    tool_chosen chosen;
} subject;

static int sound(const subject *s)
{
    const draw_options *o = s->o;
    fg_replay_report report;
    fg_mistake mistake;
    const fg_declared *buzzer = find_buzzer(s->file, &s->chosen);
    if (!buzzer) return EXIT_WRONG;
    if (fg_sound(&s->file->program, &s->readings, buzzer, o->sound, &report, &mistake) == FG_OK) return EXIT_WELL;
    tool_print_mistake(&mistake);
    return EXIT_WRONG;
}

/* The title of the gate and what it plays. */
static void write_title(const subject *s, char *title, size_t room)
{
    const fg_text gate = s->file->program.title;
    const char *what = tool_path(tool_readings_name(&s->o->common)), *slash = strrchr(what, '/');
    snprintf(title, room, "%.*s%s%s", (int)(gate.size < 120 ? gate.size : 120), gate.size ? gate.at : "",
             gate.size ? ": " : "", slash ? slash + 1 : what);
}

static int draw(const subject *s)
{
    const draw_options *o = s->o;
    fg_replay_report report;
    fg_mistake mistake;
    char title[300];
    size_t mark_count = 0;
    fg_draw_mark *marks = calloc(MARKS_MOST, sizeof *marks);
    if (!marks) {
        tool_no_memory();
        return EXIT_WRONG;
    }
    write_title(s, title, sizeof title);
    fg_status status = fg_draw_trial_marks(s->file, &s->readings, marks, MARKS_MOST, &mark_count, &mistake);
    const fg_draw_options options = {.width = o->width,
                                     .height = o->height,
                                     .dark = o->dark,
                                     .names = s->chosen.names,
                                     .name_count = s->chosen.count,
                                     .marks = marks,
                                     .mark_count = mark_count,
                                     .title = title,
                                     .progress = tool_progress_of_rows()};
    if (status == FG_OK) status = fg_draw(&s->file->program, &s->readings, &options, o->output, &report, &mistake);
    tool_progress_end();
    free(marks);
    if (status != FG_OK) {
        tool_print_mistake(&mistake);
        return EXIT_WRONG;
    }
    tool_print_report(&o->common, &report);
    return EXIT_WELL;
}

static int draw_all(void *given, const fg_gate_file *file)
{
    const draw_options *o = given;
    subject s = {.o = o, .file = file};
    if (!tool_readings(&o->common, file, &s.readings) || !tool_names(&o->common, file, &s.chosen)) return EXIT_WRONG;
    const char *const written[] = {o->output, o->sound};
    for (int i = 0; i < 2; i++)
        if (written[i] && (!tool_keeps(written[i], o->common.gate) || !tool_keeps(written[i], o->common.recording)))
            return EXIT_WRONG;
    int status = o->sound ? sound(&s) : EXIT_WELL;
    if (status == EXIT_WELL && o->output) status = draw(&s);
    return status;
}

/* --spread, cut short or not: the picture of a tuning, which has options of its own. */
static const tool_command *spread_instead(int *argc, char **argv)
{
    for (int i = 1; i < *argc && strcmp(argv[i], "--") != 0; i++) {
        const size_t size = strlen(argv[i]);
        const bool spread = !strcmp(argv[i], "-p") || (size >= strlen("--sp") && !strncmp(argv[i], "--spread", size));
        if (!spread) continue;
        memmove(&argv[i], &argv[i + 1], (size_t)(*argc - i) * sizeof *argv);
        --*argc;
        return &command_spread;
    }
    return &command_draw;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE [RECORDING] -o FILE",
    .doc = "Draws a recording: sensors with their limits and bands, answers and outputs below, on one time axis."
           "\vExpectations of the trials that play this recording are marked where they name a time. gnuplot draws "
           "(package gnuplot-nox)."};

const tool_command command_draw = {.name = "draw",
                                   .use = "draw GATE RECORDING",
                                   .line = "a picture of it",
                                   .argp = &argp,
                                   .options_size = sizeof(draw_options),
                                   .forms = 1 << FORM_TEXT,
                                   .verbose = true,
                                   .run = draw_all,
                                   .instead = spread_instead};
