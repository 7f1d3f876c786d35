/* fickle live GATE SOURCE */
#include "live.h"

#include <errno.h>
#include <fcntl.h>
#include <inttypes.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <time.h>
#include <unistd.h>

#ifdef FG_WITHOUT_JSON
enum { LIVE_FORMS = 1 << FORM_TEXT | 1 << FORM_CSV };
#else
enum { LIVE_FORMS = 1 << FORM_TEXT | 1 << FORM_CSV | 1 << FORM_JSONL };
#endif

enum { BAUD = TOOL_OPTION_OWN, SPEED };

static const struct argp_option own_options[] = {
    {"scene", 'n', "NAME", 0, "a scene of the gate file, at its own pace", 0},
    {"speed", SPEED, "N", 0, "play a scene or recording N times as fast", 0},
    {"baud", BAUD, "N", 0, "the speed of a serial device; 9600 if nothing is said", 0},
    {"only", 'O', "NAMES", 0, "print just these names, with commas between", 0},
    TOOL_READING_OPTIONS,
    {0}};

static bool read_number(const char *text, double most, double *number)
{
    char *end;
    errno = 0;
    *number = strtod(text, &end);
    return end != text && !*end && !errno && *number > 0 && *number <= most;
}

static void check(struct argp_state *state, live_options *o)
{
    if (!o->common.gate)
        tool_wrong_use(state, "name a gate file");
    else if (o->common.recording && o->common.scene)
        tool_wrong_use(state, "name a source or give --scene, not both");
    else if (!o->common.recording && !o->common.scene)
        tool_wrong_use(state,
                       "say where readings come from: a serial device such as /dev/ttyACM0, - for standard input, "
                       "a recording, or --scene NAME");
    else if (o->common.recording && !strcmp(o->common.gate, "-") && !strcmp(o->common.recording, "-"))
        tool_wrong_use(state, "only one of the two can be standard input");
}

static error_t parse(int key, char *argument, struct argp_state *state)
{
    live_options *o = state->input;
    double number;
    if (tool_reading_option_of(&o->common, key, argument, state) == 0) return 0;
    switch (key) {
    case ARGP_KEY_INIT:
        o->baud = FG_BAUD_USUAL;
        o->speed = 1;
        return tool_begin(&o->common, state);
    case 'n': o->common.scene = argument; return 0;
    case 'O': o->common.only = argument; return 0;
    case BAUD:
        if (!read_number(argument, 10e6, &number))
            tool_wrong_use(state, "--baud needs a speed, as in 115200, not '%s'", argument);
        o->baud = (uint32_t)number;
        return 0;
    case SPEED:
        if (!read_number(argument, 1e6, &o->speed))
            tool_wrong_use(state, "--speed needs a number, as in 10, not '%s'", argument);
        return 0;
    case ARGP_KEY_ARG:
        if (!o->common.gate)
            o->common.gate = argument;
        else if (!o->common.recording)
            o->common.recording = tool_recording_named(state, &o->common, argument);
        else
            tool_wrong_use(state, "unexpected argument '%s'", argument);
        return 0;
    case ARGP_KEY_END: check(state, o); return 0;
    default: return ARGP_ERR_UNKNOWN;
    }
}

/* ---- time ---- */

int64_t live_now(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (int64_t)now.tv_sec * 1000 + now.tv_nsec / 1000000;
}

/* ---- what is printed ---- */

/* Each line goes out whole as soon as it is known. */
static bool on_change(void *context, const fg_change *change)
{
    live_session *s = context;
    fg_memory_file line;
    if (!fg_memory_file_open(&line)) return false;
    s->changes.output = line.file;
    const bool printed = tool_changes_print(&s->changes, change);
    if (!fg_memory_file_close(&line)) return false;
    const fg_text text = {line.text, line.size};
    if (s->changes.form == FORM_TEXT)
        tool_output_show(text);
    else
        tool_text(stdout, text);
    free(line.text);
    return tool_output_flush() && printed;
}

static void on_tell(void *context, const char *text)
{
    const live_session *s = context;
    if (!s->options->common.quiet) tool_say("%s: %s\n", s->name, text);
}

/* ---- sources ---- */

static const char *const not_there =
    "is not there; plug the board in and look for its name: ls /dev/ttyACM* /dev/ttyUSB*";

/* What a name stands for. False, told: nothing. */
static bool open_source(live_session *s)
{
    const live_options *o = s->options;
    const char *source = o->common.recording;
    struct stat about;
    fg_mistake mistake = {0};
    s->stream = -1;
    s->name = o->common.scene ? o->common.scene : tool_path(source);
    if (o->common.scene) {
        s->kind = LIVE_PLAYED;
        return true;
    }
    if (!strcmp(source, "-")) {
        s->kind = LIVE_STREAM;
        s->stream = STDIN_FILENO;
        return true;
    }
    const bool there = stat(source, &about) == 0;
    if (there && S_ISREG(about.st_mode)) {
        s->kind = LIVE_PLAYED;
        return true;
    }
    if (there && S_ISFIFO(about.st_mode)) {
        s->kind = LIVE_STREAM;
        s->stream = open(source, O_RDONLY | O_CLOEXEC);
        if (s->stream < 0) tool_say("%s: error: cannot be opened: %s\n", source, strerror(errno));
        return s->stream >= 0;
    }
    if (!there && strncmp(source, "/dev/", 5) != 0) {
        tool_say("%s: error: %s\n", source, errno == ENOENT ? "there is no such file or device" : strerror(errno));
        return false;
    }
    s->kind = LIVE_SERIAL;
    s->serial = there || errno != ENOENT ? fg_serial_open(source, o->baud, &mistake) : NULL;
    if (s->serial) return true;
    if (*mistake.text)
        tool_print_mistake(&mistake);
    else
        tool_say("%s: error: %s\n", source, not_there);
    return false;
}

static bool read_stream(live_session *s)
{
    static char block[1 << 16];
    const ssize_t got = read(s->stream, block, sizeof block);
    if (got > 0) return fg_live_bytes(s->live, block, (size_t)got, live_now());
    if (got < 0 && (errno == EINTR || errno == EAGAIN)) return true;
    s->over = true;
    return fg_live_bytes_end(s->live, true, live_now());
}

static bool read_serial(live_session *s)
{
    char block[1 << 12];
    const long got = fg_serial_read(s->serial, block, sizeof block);
    if (got > 0) return fg_live_bytes(s->live, block, (size_t)got, live_now());
    if (got == 0) return true;
    on_tell(s, "the board is gone; readings go on when it is plugged in again");
    return fg_live_bytes_end(s->live, false, live_now());
}

/* A board that was pulled out is looked for now and then. */
static void look_for_board(live_session *s, int64_t now)
{
    enum { OFTEN_MS = 250 };
    if (!s->serial || fg_serial_handle(s->serial) >= 0 || now - s->looked_ms < OFTEN_MS) return;
    s->looked_ms = now;
    if (fg_serial_look(s->serial)) on_tell(s, "the board is back");
}

static int source_handle(const live_session *s)
{
    if (s->kind == LIVE_SERIAL) return fg_serial_handle(s->serial);
    return s->kind == LIVE_STREAM && !s->over ? s->stream : -1;
}

bool live_turn(live_session *s, int64_t until_ms)
{
    enum { LONGEST_MS = 100 };
    int64_t now = live_now(), wait = LONGEST_MS;
    const int64_t due = s->kind == LIVE_PLAYED ? INT64_MAX : fg_live_next(s->live);
    if (until_ms - now < wait) wait = until_ms - now;
    if (due != INT64_MAX && due - now < wait) wait = due - now;
    struct pollfd from = {source_handle(s), POLLIN, 0};
    const int ready = poll(&from, 1, wait > 0 ? (int)wait : 0);
    if (tool_stopped || (ready < 0 && errno != EINTR)) return false;
    if (from.revents && !(s->kind == LIVE_SERIAL ? read_serial(s) : read_stream(s))) return false;
    now = live_now();
    look_for_board(s, now);
    return s->kind == LIVE_PLAYED || fg_live_until(s->live, now);
}

/* ---- what is played ---- */

static bool on_played_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    live_session *s = context;
    size_t size = 0;
    for (size_t i = 0; i < count; i++) size += columns[i].size;
    s->columns = malloc(count * sizeof *s->columns + size + 1);
    if (!s->columns) {
        mistake->status = FG_ERROR_MEMORY;
        snprintf(mistake->text, sizeof mistake->text, "there is not enough memory for its columns");
        return false;
    }
    s->column_count = count;
    char *texts = (char *)(s->columns + count);
    for (size_t i = 0; i < count; i++) {
        memcpy(texts, columns[i].at, columns[i].size);
        s->columns[i] = (fg_text){texts, columns[i].size};
        texts += columns[i].size;
    }
    return true;
}

/* Waits until the row is due, while the steps before it are made at their time. */
static bool on_played_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line,
                          fg_mistake *mistake)
{
    live_session *s = context;
    static int64_t began; /* of the run, by our clock */
    (void)line;
    (void)mistake;
    if (fg_live_time(s->live) < 0) {
        s->played_ms = t_ms;
        began = live_now();
    }
    const double speed = s->options->speed;
    const int64_t at = t_ms - s->played_ms, due = began + (int64_t)((double)at / speed);
    for (int64_t now; (now = live_now()) < due;) {
        const int64_t run = (int64_t)((double)(now - began) * speed);
        if (!fg_live_until_run(s->live, run < at ? run : at)) return false;
        const int64_t soon = now + 10;
        if (!live_turn(s, due < soon ? due : soon)) return false;
    }
    return !tool_stopped && fg_live_row(s->live, s->columns, cells, count, t_ms);
}

static bool play(live_session *s)
{
    fg_readings readings;
    fg_mistake mistake = {0};
    if (!tool_readings(&s->options->common, s->file, &readings)) return false;
    const fg_recording_sink sink = {.context = s, .heading = on_played_heading, .row = on_played_row};
    const fg_status status = readings.scene ? fg_scene_read(&s->file->program, readings.scene, &sink, &mistake)
                                            : fg_recording_read(readings.recording, &readings.options, &sink, &mistake);
    if (status == FG_OK || !*mistake.text) return true;
    tool_print_mistake(&mistake);
    return false;
}

/* ---- the run ---- */

static void print_report(const live_session *s)
{
    char a[64], b[64];
    const fg_live_lines lines = fg_live_line_counts(s->live);
    if (s->options->common.quiet) return;
    if (s->kind == LIVE_STREAM || s->kind == LIVE_SERIAL)
        tool_say("%s: %s, %s without readings, %s torn\n", s->name, tool_counted(lines.all, "line", a),
                 tool_grouped(lines.others, b), tool_grouped(lines.torn, a + 32));
    for (uint32_t i = 0; i < s->file->program.declared_count; i++) {
        const fg_declared *d = &s->file->program.declared[i];
        if (!fg_kind_is(d->kind, FG_KIND_READ) || fg_live_was_read(s->live, d)) continue;
        if (d->kind == FG_KIND_SENSOR && s->file->program.gate.sensors[d->index].term_count) continue;
        tool_say("%s: no reading of %.*s came, so it was faulty throughout\n", s->name, (int)d->name.size, d->name.at);
    }
}

static int run(void *given, const fg_gate_file *file)
{
    const live_options *options = given;
    live_session s = {
        .options = options, .file = file, .changes = {.form = options->common.form, .all = options->common.verbose}};
    if (!tool_names(&options->common, file, &s.changes.chosen)) return EXIT_WRONG;
    if (!open_source(&s)) return EXIT_WRONG;
    const fg_live_options how = {
        .reading = options->common.reading, .idle_ms = s.kind == LIVE_PLAYED ? 0 : 100, .tell = on_tell, .context = &s};
    const fg_replay_observer observer = {.context = &s, .change = on_change};
    int status = EXIT_WELL;
    tool_ends_itself = true;
    s.live = fg_live_start(&file->program, &how, &observer, &s.report);
    if (!s.live) tool_no_memory();
    tool_changes_begin(&s.changes, &file->program);
    if (s.live) {
        s.changes.output = stdout;
        tool_changes_heading(&s.changes);
        (void)tool_output_flush();
        if (s.kind == LIVE_PLAYED)
            status = play(&s) ? EXIT_WELL : EXIT_WRONG;
        else
            while (!s.over && live_turn(&s, INT64_MAX)) continue;
        print_report(&s);
    }
    fg_live_end(s.live);
    if (s.live && !options->common.quiet) tool_print_report(&options->common, &s.report);
    fg_serial_close(s.serial);
    if (s.stream > STDIN_FILENO) (void)close(s.stream);
    free(s.columns);
    tool_ends_itself = false;
    return s.live ? status : EXIT_WRONG;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE [SOURCE]",
    .doc =
        "Lets readings go through a gate as they come, and shows what they make of it."
        "\vSOURCE is a serial device (/dev/ttyACM0), - for standard input, or a recording. A board prints a line for "
        "each reading, such as depth=12.5 wind=3; docs/boards.md has it in five lines of C. Ctrl-C ends it."};

const tool_command command_live = {.name = "live",
                                   .use = "live GATE SOURCE",
                                   .line = "readings as they come, from a board or a pipe",
                                   .argp = &argp,
                                   .options_size = sizeof(live_options),
                                   .forms = LIVE_FORMS,
                                   .verbose = true,
                                   .run = run};
