/* fickle draw GATE RECORDING -o PICTURE */
#include "tool.h"

#include <ficklegate/draw.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { NAMES_MOST = 200, MARKS_MOST = 1000 };

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
    {"from", 'f', "TIME", 0, "begin here, as in 10s", 0},
    {"to", 't', "TIME", 0, "end here", 0},
    {"size", 'z', "WIDTHxHEIGHT", 0, "in pixels; 1280 wide and as high as it needs if left out", 0},
    {"sound", 'S' + 256, "FILE", 0, "what a buzzer would be heard to do: FILE.wav", 0},
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
    case 'S' + 256: o->sound = argument; return 0;
    case 'O': o->only = argument; return 0;
    case 'd': o->dark = true; return 0;
    case 'n': o->common.scene = argument; return 0;
    case 'f': take_time("--from", argument, &o->from, state); return 0;
    case 't':
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

/* ---- marks: the trials of this recording ---- */

typedef struct marker {
    fg_draw_mark marks[MARKS_MOST];
    size_t count;
    int64_t length_ms;
} marker;

static void on_trial(void *context, const fg_trial *trial, const fg_replay_report *report)
{
    (void)trial;
    ((marker *)context)->length_ms = report->length_ms;
}

static void on_result(void *context, const fg_trial_result *result)
{
    marker *m = context;
    const fg_expect *e = result->expect;
    if (m->count == MARKS_MOST) return;
    fg_draw_mark mark = {.from_ms = e->from, .to_ms = e->from, .held = result->outcome == FG_OUTCOME_HELD};
    if (e->kind == FG_EXPECT_AT_END)
        mark.from_ms = mark.to_ms = m->length_ms;
    else if (e->kind == FG_EXPECT_FROM || e->kind == FG_EXPECT_BEGINS)
        mark.to_ms = e->to;
    else if (e->kind != FG_EXPECT_AT)
        return; /* of the whole recording: no place on its time */
    m->marks[m->count++] = mark;
}

/* Are these the readings of a trial? Files are the same if they are one on the disk. */
static bool same_readings(const draw_options *o, const fg_gate_file *file, fg_text readings)
{
    if (o->common.scene) return tool_is(readings, o->common.scene);
    const char *slash = strrchr(file->path, '/');
    const int folder = slash && *readings.at != '/' ? (int)(slash + 1 - file->path) : 0;
    char path[4096];
    if (snprintf(path, sizeof path, "%.*s%.*s", folder, file->path, (int)readings.size, readings.at) >=
        (int)sizeof path)
        return false;
    return fg_file_same(path, o->common.recording);
}

/* A trial that sets numbers plays another gate, so it has no place in this picture; one that cannot run is told. */
static bool run_trials(const draw_options *o, const fg_gate_file *file, marker *m)
{
    const fg_trial_observer observer = {.context = m, .trial = on_trial, .result = on_result};
    for (uint32_t i = 0; i < file->program.trial_count; i++) {
        fg_mistake mistake;
        if (file->program.trials[i].sets || !same_readings(o, file, file->program.trials[i].readings)) continue;
        if (fg_trial_run(file, o->common.settings, o->common.setting_count, &o->common.reading, i, &observer,
                         &mistake) == FG_OK)
            continue;
        tool_print_mistake(&mistake);
        return false;
    }
    return true;
}

/* The buzzer that --only names, else the first one. */
static const fg_declared *find_buzzer(const draw_options *o, const fg_gate_file *file, const fg_declared **names,
                                      size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (names[i]->kind == FG_KIND_BUZZER) return names[i];
    for (uint32_t i = 0; i < file->program.declared_count && !o->only; i++)
        if (file->program.declared[i].kind == FG_KIND_BUZZER) return &file->program.declared[i];
    tool_say("%s: error: there is no buzzer to hear%s\n", tool_path(file->path), o->only ? " in --only" : "");
    return NULL;
}

static int sound(const draw_options *o, const fg_gate_file *file, const fg_scene *scene, const fg_declared **names,
                 size_t count)
{
    const tool_options *c = &o->common;
    fg_replay_report report;
    fg_mistake mistake;
    const fg_declared *buzzer = find_buzzer(o, file, names, count);
    if (!buzzer) return EXIT_WRONG;
    if (fg_sound(&file->program, c->recording, &c->reading, scene, buzzer, o->from, o->has_to ? (int64_t)o->to : -1,
                 o->sound, &report, &mistake) == FG_OK)
        return EXIT_WELL;
    tool_print_mistake(&mistake);
    return EXIT_WRONG;
}

static int draw(const draw_options *o, const fg_gate_file *file, const fg_scene *scene, const fg_declared **names,
                size_t name_count)
{
    const tool_options *c = &o->common;
    fg_replay_report report;
    fg_mistake mistake;
    char title[300];
    marker *m = calloc(1, sizeof *m);
    if (!m) tool_no_memory();
    if (!m || !run_trials(o, file, m)) {
        free(m);
        return EXIT_WRONG;
    }
    const fg_text gate = file->program.title;
    const char *what = c->scene ? c->scene : tool_path(c->recording), *slash = strrchr(what, '/');
    snprintf(title, sizeof title, "%.*s%s%s", (int)(gate.size < 120 ? gate.size : 120), gate.size ? gate.at : "",
             gate.size ? ": " : "", slash ? slash + 1 : what);
    const fg_draw_options options = {.width = o->width,
                                     .height = o->height,
                                     .dark = o->dark,
                                     .from_ms = o->from,
                                     .to_ms = o->has_to ? (int64_t)o->to : -1,
                                     .names = names,
                                     .name_count = name_count,
                                     .marks = m->marks,
                                     .mark_count = m->count,
                                     .title = title};
    const fg_status status = fg_draw(&file->program, c->recording, &c->reading, scene, &options, o->output,
                                     tool_progress, &report, &mistake);
    tool_progress_end();
    free(m);
    if (status != FG_OK) {
        tool_print_mistake(&mistake);
        return EXIT_WRONG;
    }
    if (scene) report.unreadable = 0;
    tool_print_report(c, scene ? c->scene : c->recording, &report);
    return EXIT_WELL;
}

static int draw_all(const draw_options *o, const fg_gate_file *file)
{
    const fg_scene *scene = o->common.scene ? tool_scene(&o->common, file) : NULL;
    const fg_declared *names[NAMES_MOST];
    size_t count;
    if ((o->common.scene && !scene) || !find_names(o, file, names, &count)) return EXIT_WRONG;
    const char *const written[] = {o->output, o->sound};
    for (int i = 0; i < 2; i++)
        if (written[i] && (!tool_keeps(written[i], o->common.gate) || !tool_keeps(written[i], o->common.recording)))
            return EXIT_WRONG;
    int status = o->sound ? sound(o, file, scene, names, count) : EXIT_WELL;
    if (status == EXIT_WELL && o->output) status = draw(o, file, scene, names, count);
    return status;
}

int command_draw(int argc, char **argv)
{
    const struct argp_child children[] = {{&tool_common, 0, NULL, 0}, {0}};
    const struct argp argp = {
        .options = own_options,
        .parser = parse,
        .args_doc = "GATE [RECORDING] -o FILE",
        .doc = "Draws a recording: sensors with their limits and bands, answers and outputs below, on one time axis."
               "\vExpectations of the trials that play this recording are marked where they name a time. gnuplot draws "
               "(package gnuplot-nox).",
        .children = children};
    draw_options options = {0};
    fg_gate_file file;
    for (int i = 1; i < argc; i++) {
        if (strcmp(argv[i], "--spread") != 0) continue;
        memmove(&argv[i], &argv[i + 1], (size_t)(argc - i) * sizeof *argv);
        return tune_only_picture(argc - 1, argv);
    }
    if (!tool_parse(&argp, argc, argv, 0, &options)) return EXIT_WRONG;
    int status = tool_open_gate(&options.common, &file);
    if (status == EXIT_WELL) status = draw_all(&options, &file);
    if (status == EXIT_WELL) status = tool_strict_status(&file, &options.common);
    fg_gate_file_close(&file);
    return status;
}
