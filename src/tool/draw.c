/* fickle draw GATE RECORDING -o PICTURE */
#include "tool.h"

#include <ficklegate/draw.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { NAMES_MOST = 200, MARKS_MOST = 1000 };

/* Options without a letter. */
enum { OPTION_FROM = 256, OPTION_TO, OPTION_SOUND };

typedef struct draw_options {
    tool_options common;
    const char *output, *only, *sound;
    uint32_t width, height;
    bool dark;
    fg_time from, to;
    bool has_to;
} draw_options;

static const struct argp_option own_options[] = {
    {"output", 'o', "FILE", 0, "the picture: FILE.png or FILE.svg", 0},
    {"only", 'O', "NAMES", 0, "draw just these, with commas between", 0},
    {"from", OPTION_FROM, "TIME", 0, "begin here, as in 10s", 0},
    {"to", OPTION_TO, "TIME", 0, "end here", 0},
    {"size", 'z', "WIDTHxHEIGHT", 0, "in pixels; 1280 wide and as high as it needs if left out", 0},
    {"sound", OPTION_SOUND, "FILE", 0, "what a buzzer would be heard to do: FILE.wav", 0},
    {"dark", 'd', NULL, 0, "light on dark", 0},
    {"spread", 'p', NULL, 0, "draw labelled readings instead, as a tune sees them; takes the options of tune", 0},
    {"scene", 'n', "NAME", 0, "play a scene of the gate file instead of a recording", 0},
    TOOL_READING_OPTIONS,
    {0}};

static void take_time(const char *option, const char *argument, fg_time *time, struct argp_state *state)
{
    if (!tool_time(argument, time)) tool_wrong_use(state, "%s needs a time, as in 12.5s, not '%s'", option, argument);
}

static error_t parse(int key, char *argument, struct argp_state *state)
{
    draw_options *o = state->input;
    switch (key) {
    case 'o': o->output = argument; return 0;
    case OPTION_SOUND: o->sound = argument; return 0;
    case 'O': o->only = argument; return 0;
    case 'd': o->dark = true; return 0;
    case 'p':
        tool_wrong_use(state,
                       "-p (--spread) stands by itself, as in fickle draw -p GATE RECORDING --label COLUMN -o FILE");
        return 0;
    case 'n': o->common.scene = argument; return 0;
    case OPTION_FROM: take_time("--from", argument, &o->from, state); return 0;
    case OPTION_TO:
        take_time("--to", argument, &o->to, state);
        o->has_to = true;
        return 0;
    case 'z': tool_size(argument, &o->width, &o->height, state); return 0;
    case ARGP_KEY_END:
        if (!o->output && !o->sound)
            tool_wrong_use(state, "name the picture: -o FILE.png or -o FILE.svg (or a sound: --sound FILE.wav)");
        else if (o->has_to && o->to <= o->from)
            tool_wrong_use(state, "--to has to come after --from");
        return tool_arguments(key, argument, state, WANTS_GATE | WANTS_RECORDING);
    default:
        if (tool_reading_option(key, argument, state) == 0) return 0;
        return tool_arguments(key, argument, state, WANTS_GATE | WANTS_RECORDING);
    }
}

/* ---- the names ---- */

static bool find_names(const draw_options *o, const fg_gate_file *file, const fg_declared **names, size_t *count)
{
    const char *at = o->only;
    *count = 0;
    while (at && *at) {
        const size_t size = strcspn(at, ",");
        const fg_declared *d = fg_program_find(&file->program, (fg_text){at, size});
        if (!d || *count == NAMES_MOST || d->kind == FG_KIND_NUMBER || d->kind == FG_KIND_SEQUENCE) {
            tool_say("%s: error: '%.*s' cannot be drawn; --only takes sensors, flags, rules and outputs of the gate\n",
                     tool_path(file->path), (int)size, at);
            return false;
        }
        names[(*count)++] = d;
        at += size + (at[size] == ',');
    }
    return true;
}

/* The buzzer that --only names, else the first one. */
static const fg_declared *find_buzzer(const draw_options *o, const fg_gate_file *file, const fg_declared *const *names,
                                      size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (names[i]->kind == FG_KIND_BUZZER) return names[i];
    for (uint32_t i = 0; i < file->program.declared_count && !o->only; i++)
        if (file->program.declared[i].kind == FG_KIND_BUZZER) return &file->program.declared[i];
    tool_say("%s: error: there is no buzzer to hear%s\n", tool_path(file->path), o->only ? " in --only" : "");
    return NULL;
}

/* What is to be drawn or heard. */
typedef struct subject {
    const draw_options *o;
    const fg_gate_file *file;
    fg_readings readings;
    const fg_declared *names[NAMES_MOST];
    size_t name_count;
} subject;

static int sound(const subject *s)
{
    const draw_options *o = s->o;
    fg_replay_report report;
    fg_mistake mistake;
    const fg_sound_options options = {.buzzer = find_buzzer(o, s->file, s->names, s->name_count),
                                      .from_ms = o->from,
                                      .to_ms = o->has_to ? (int64_t)o->to : -1};
    if (!options.buzzer) return EXIT_WRONG;
    if (fg_sound(&s->file->program, &s->readings, &options, o->sound, &report, &mistake) == FG_OK) return EXIT_WELL;
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
                                     .from_ms = o->from,
                                     .to_ms = o->has_to ? (int64_t)o->to : -1,
                                     .names = s->names,
                                     .name_count = s->name_count,
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
    if (!tool_readings(&o->common, file, &s.readings) || !find_names(o, file, s.names, &s.name_count))
        return EXIT_WRONG;
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
