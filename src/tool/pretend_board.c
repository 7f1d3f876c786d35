/* SPDX-License-Identifier: MIT */
/* fickle pretend --to: a scene as a board would send it, in real time. */
#include "pretend.h"

#include <errno.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

/* One name that is sent. */
typedef struct item {
    const fg_declared *declared;
    char *text; /* of an output */
    size_t room;
} item;

typedef struct pretender {
    const pretend_options *options;
    const fg_gate_file *file;
    fg_stand_in *board;
    fg_broker *broker; /* both NULL: standard output */
    fg_live *live;     /* of the board's own gate; NULL: it only sends readings */
    fg_replay_report report;
    item *items;
    fg_text *columns, *cells;
    size_t count;      /* of the cells, the time first */
    size_t read_count; /* of them, what the scene has */
    int64_t began_ms;  /* by our clock */
    int64_t clock_ms;  /* what the board's clock lags behind, since it began anew */
    uint64_t rows;
    bool failed;
} pretender;

static void sleep_ms(int64_t ms)
{
    const struct timespec pause = {ms / 1000, ms % 1000 * 1000000};
    if (ms > 0) (void)nanosleep(&pause, NULL);
}

/* ---- lines ---- */

static bool is_left_out(const pretender *p, size_t i)
{
    return (i == 0 && p->options->no_times) ||
           (!p->cells[i].size && p->options->lines != LINES_CSV && p->options->lines != LINES_NUMBERS);
}

static void write_cells(const pretender *p, FILE *line, const fg_text *cells)
{
    bool first = true;
    for (size_t i = 0; i < p->count; i++) {
        if (i == 0 && p->options->no_times) continue;
        if (!first) fputc(',', line);
        first = false;
        fg_csv_cell(line, cells[i]);
    }
}

static void write_named(const pretender *p, FILE *line)
{
    const bool units = p->options->lines == LINES_UNITS;
    bool first = true;
    for (size_t i = 0; i < p->count; i++) {
        if (is_left_out(p, i)) continue;
        if (!first) fputc(' ', line);
        first = false;
        tool_text(line, p->columns[i]);
        fputs(units ? ": " : "=", line);
        tool_text(line, p->cells[i]);
        const fg_declared *d = i && i < p->read_count ? p->items[i].declared : NULL;
        const bool number = p->cells[i].size && strchr("-.0123456789", *p->cells[i].at);
        if (!units || !d || !d->unit.size || !number) continue;
        fputc(' ', line);
        tool_text(line, d->unit);
    }
}

static void write_json(pretender *p, FILE *line)
{
    const size_t first = p->options->no_times;
    if (!fg_json_row(line, p->columns + first, p->cells + first, p->count - first)) p->failed = true;
}

static void send(pretender *p, const char *bytes, size_t size)
{
    const fg_text line = {bytes, size && bytes[size - 1] == '\n' ? size - 1 : size};
    if (p->board)
        (void)fg_stand_in_write(p->board, bytes, size); /* what nobody takes is lost */
    else if (p->broker)
        p->failed = p->failed || !fg_broker_publish(p->broker, (fg_text){0}, line, false);
    else
        p->failed = p->failed || fwrite(bytes, 1, size, stdout) != size || !tool_output_flush();
}

static void send_line(pretender *p, void (*write_line)(pretender *p, FILE *line), bool torn)
{
    fg_memory_file line;
    if (!fg_memory_file_open(&line)) {
        p->failed = true;
        return;
    }
    write_line(p, line.file);
    if (p->options->lines != LINES_JSON) fputs("\r\n", line.file);
    if (!fg_memory_file_close(&line)) {
        p->failed = true;
        return;
    }
    send(p, line.text, torn ? line.size / 2 : line.size);
    free(line.text);
}

static void write_row(pretender *p, FILE *line)
{
    switch (p->options->lines) {
    case LINES_JSON: write_json(p, line); break;
    case LINES_CSV:
    case LINES_NUMBERS: write_cells(p, line, p->cells); break;
    default: write_named(p, line); break;
    }
}

/* On a broker a message for each name, unless it is an object with all of them. */
static void send_row(pretender *p, bool torn)
{
    if (!p->broker || p->options->lines == LINES_JSON) {
        send_line(p, write_row, torn);
        return;
    }
    for (size_t i = 1; i < p->count; i++)
        if (p->cells[i].size && !fg_broker_publish(p->broker, p->columns[i], p->cells[i], false)) p->failed = true;
}

static void write_heading(pretender *p, FILE *line) { write_cells(p, line, p->columns); }

static void write_greeting(pretender *p, FILE *line)
{
    (void)p;
    fputs("# ready", line);
}

static void begin_anew(pretender *p)
{
    if (p->broker) return; /* it greets nobody */
    send_line(p, write_greeting, false);
    if (p->options->lines == LINES_CSV) send_line(p, write_heading, false);
}

/* ---- what the board does ---- */

static void take_output(pretender *p, size_t i)
{
    item *it = &p->items[i];
    const fg_run *run = fg_live_run(p->live);
    const size_t size = fg_output_text(run, it->declared->index, NULL, 0);
    if (size + 1 > it->room) {
        char *text = realloc(it->text, size + 64);
        p->failed = p->failed || !text;
        if (!text) return;
        it->text = text;
        it->room = size + 64;
    }
    p->cells[i] = (fg_text){it->text, fg_output_text(run, it->declared->index, it->text, it->room)};
}

/* Lets the gate make its steps up to this moment and takes what the outputs are at. */
static void step(pretender *p, const fg_text *cells, int64_t t_ms)
{
    if (!p->live) return;
    if (!fg_live_row(p->live, p->columns, cells, p->read_count, t_ms) || !fg_live_until_run(p->live, t_ms + 1))
        p->failed = true;
    for (size_t i = p->read_count; i < p->count; i++) take_output(p, i);
}

/* ---- what goes wrong on the line ---- */

static bool has(const pretender *p, pretend_fault fault) { return p->options->faults >> fault & 1; }

static void restart(pretender *p, int64_t t_ms)
{
    p->clock_ms = t_ms;
    begin_anew(p);
}

static void pull(pretender *p)
{
    enum { OUT_MS = 2000 };
    fg_mistake mistake = {0};
    if (!p->board) return;
    fg_stand_in_pull(p->board);
    sleep_ms(OUT_MS);
    p->began_ms += OUT_MS; /* the board was off, too */
    if (fg_stand_in_plug(p->board, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
        p->failed = true;
    }
    for (int i = 0; i < OUT_MS / 10 && !fg_stand_in_is_open(p->board) && !tool_stopped; i++) {
        sleep_ms(10);
        p->began_ms += 10;
    }
}

/* At rows that everybody can foresee; true: the row itself is torn. */
static bool go_wrong(pretender *p, int64_t t_ms)
{
    static const char garbage[] = "\xff\x00\x9c\xf3\x80\x1b[2J\xfe\xe0\n";
    enum { ROUND = 40, GARBAGE_AT = 5, TORN_AT = 15, RESTART_AT = 25, PULLED_AT = 35 };
    const uint64_t at = p->rows % ROUND;
    if (at == GARBAGE_AT && has(p, FAULT_GARBAGE)) send(p, garbage, sizeof garbage - 1);
    if (at == RESTART_AT && has(p, FAULT_RESTART)) restart(p, t_ms);
    if (at == PULLED_AT && has(p, FAULT_PULLED)) pull(p);
    return at == TORN_AT && has(p, FAULT_TORN);
}

/* ---- rows ---- */

static bool make_items(pretender *p, const fg_text *columns, size_t count)
{
    const fg_program *program = &p->file->program;
    const size_t most = count + program->gate.size.outputs;
    p->items = calloc(most, sizeof *p->items);
    p->columns = calloc(most, sizeof *p->columns);
    p->cells = calloc(most, sizeof *p->cells);
    if (!p->items || !p->columns || !p->cells) return false;
    p->count = p->read_count = count;
    for (size_t i = 0; i < count; i++) {
        p->columns[i] = columns[i]; /* of the program, or lasting */
        p->items[i].declared = fg_program_find(program, columns[i]);
    }
    p->columns[0] = fg_text_of("t_ms");
    for (uint32_t i = 0; p->live && i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        if (!fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) continue;
        p->items[p->count] = (item){.declared = d};
        p->columns[p->count++] = d->name;
    }
    return true;
}

static bool on_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    pretender *p = context;
    (void)mistake;
    if (!make_items(p, columns, count)) {
        tool_no_memory();
        return false;
    }
    begin_anew(p);
    p->began_ms = tool_now();
    return !p->failed;
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake)
{
    pretender *p = context;
    char time[24];
    (void)line;
    (void)mistake;
    static const fg_broker_sink nobody = {0};
    for (int64_t wait; (wait = p->began_ms + (int64_t)((double)t_ms / p->options->speed) - tool_now()) > 0;) {
        if (tool_stopped || p->failed) return false;
        if (p->broker) (void)fg_broker_turn(p->broker, &nobody);
        sleep_ms(wait < 50 ? wait : 50);
    }
    for (size_t i = 1; i < count; i++) p->cells[i] = cells[i];
    step(p, cells, t_ms);
    p->rows++;
    const bool torn = go_wrong(p, t_ms);
    p->cells[0] = (fg_text){time, (size_t)snprintf(time, sizeof time, "%" PRId64, t_ms - p->clock_ms)};
    send_row(p, torn);
    return !p->failed && !tool_stopped;
}

/* ---- the whole of it ---- */

static bool wait_for_somebody(const pretender *p)
{
    tool_say("%s\n", fg_stand_in_name(p->board));
    while (!fg_stand_in_is_open(p->board) && !tool_stopped) sleep_ms(10);
    return !tool_stopped;
}

/* Opens what --to names; false, told, if that cannot be. */
static bool open_way(pretender *p)
{
    const char *to = p->options->to;
    fg_mistake mistake;
    if (!strcmp(to, "-")) return true;
    if (fg_broker_is(to)) {
        const fg_broker_options options = {.address = to, .ca_file = p->options->ca};
        p->broker = tool_broker_open(&options, p->options->login);
        return p->broker != NULL;
    }
    if (!has(p, FAULT_PULLED) || !strncmp(to, "pty:", 4)) {
        p->board = fg_stand_in_start(strncmp(to, "pty:", 4) == 0 ? to + 4 : NULL, &mistake);
        if (!p->board) tool_print_mistake(&mistake);
        return p->board != NULL;
    }
    tool_say("fickle: error: a cable that is pulled out needs a name that stays: --to pty:PATH\n");
    return false;
}

int pretend_board(const pretend_options *options, const fg_gate_file *file, const fg_scene *scene)
{
    pretender p = {.options = options, .file = file};
    fg_mistake mistake = {0};
    const fg_replay_observer nobody = {0};
    const fg_live_options how = {0};
    if (!open_way(&p)) return EXIT_WRONG;
    tool_ends_itself = true;
    if (options->board) p.live = fg_live_start(&file->program, &how, &nobody, &p.report);
    if (options->board && !p.live) {
        tool_no_memory();
        p.failed = true;
    }
    const fg_recording_sink sink = {.context = &p, .heading = on_heading, .row = on_row};
    if (!p.failed && (!p.board || wait_for_somebody(&p)) &&
        fg_scene_read(&file->program, scene, &sink, &mistake) != FG_OK && *mistake.text)
        tool_print_mistake(&mistake);
    for (int i = 0; p.board && i < 100 && fg_stand_in_is_open(p.board) && !tool_stopped; i++) sleep_ms(10);
    fg_live_end(p.live);
    fg_stand_in_end(p.board);
    fg_broker_close(p.broker);
    for (size_t i = 0; p.items && i < p.count; i++) free(p.items[i].text);
    free(p.items);
    free(p.columns);
    free(p.cells);
    tool_ends_itself = false;
    return p.failed && !ferror(stdout) ? EXIT_WRONG : EXIT_WELL; /* tool_output_check has the last word */
}
