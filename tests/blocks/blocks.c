/* SPDX-License-Identifier: MIT */
/* blocks GATE SEED [RECORDING]: plays a recording, or one that is made up here, by cells and row by row, and then in
 * blocks of several sizes with rows left out, and compares all that comes out. Prints how many steps and changes there
 * were.
 *
 * What is made up dwells on, beside and between the limits of the sensors, drifts over them, and has what a plain row
 * has not: faults, empty cells, quotes, exponents, comments, too many decimals, odd times. */
#include <ficklegate/workshop.h>

#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { TEXT_MOST = 16 << 20, LIMITS_MOST = 2000, SENSORS_MOST = 256 };

typedef struct told {
    char *text;
    size_t size;
    fg_replay_report report;
    fg_status status;
    fg_mistake mistake;
    uint64_t left_out;
    /* of whoever looks at each step */
    bool watches, without_reasons;
    int64_t from_ms; /* what comes before is not looked at */
    uint64_t steps;  /* so many are looked at, then the replay is ended */
    uint64_t left;   /* of these */
    uint64_t seen;   /* a number made of all that a step shows (FNV-1a) */
    fg_summary *summary;
    fg_coverage *coverage;
    const fg_program *program; /* whose names it is told of */
} told;

static uint32_t state;

static uint32_t dice(uint32_t sides)
{
    state = state * 1664525u + 1013904223u;
    return (uint32_t)((uint64_t)(state >> 8) * sides >> 24);
}

/* ---- what is made up ---- */

typedef struct input {
    const fg_declared *declared;
    fg_value limits[LIMITS_MOST];
    size_t limit_count;
    int64_t at, drift;
    int32_t noise;
    uint32_t rows_left;
    bool counts;
} input;

static void find_limits(const fg_program *p, input *in)
{
    const fg_gate *gate = &p->gate;
    fg_rule_range range;
    for (uint16_t i = 0; i < gate->size.ops; i++)
        for (uint16_t k = 0; fg_op_range(gate, &gate->ops[i], k, &range); k++) {
            const fg_value ends[] = {range.range->low, range.range->high, range.kept->low, range.kept->high};
            const bool own = gate->ops[i].a == in->declared->index, known = gate->ops[i].kind != FG_OP_COMPARE_COUNT;
            for (size_t e = 0; e < 4; e++) /* those of others too: a sum may be nearly its part */
                if (known && (own || !dice(4)) && ends[e] > -1000000 && ends[e] < 1000000 &&
                    in->limit_count < LIMITS_MOST)
                    in->limits[in->limit_count++] = ends[e];
        }
}

static void turn(input *in)
{
    static const int32_t noises[] = {0, 0, 0, 0, 0, 1, 2, 5, 30};
    in->rows_left = 1 + dice(dice(4) ? 2000 : 60);
    in->noise = noises[dice(9)];
    in->drift = dice(8) ? 0 : (int32_t)dice(7) - 3;
    if (in->limit_count && dice(5))
        in->at = in->limits[dice((uint32_t)in->limit_count)] + (int32_t)dice(5) - 2;
    else
        in->at = (int32_t)dice(4000) - 2000;
}

static void write_cell(FILE *out, input *in, bool odd)
{
    static const char *const words[] = {"x", "", " 5", "1e1", "\"7\"", "3.1415926", "nan", "99999999999", "-", "+3"};
    char text[FG_VALUE_TEXT_SIZE];
    if (!in->rows_left) turn(in);
    in->rows_left--;
    in->at += in->drift;
    if (odd) {
        fputs(words[dice(sizeof words / sizeof *words)], out);
    } else if (in->declared->kind == FG_KIND_FLAG) {
        fputc(in->at & 1 ? '1' : '0', out);
    } else {
        const int64_t value = in->at + (in->noise ? (int32_t)dice((uint32_t)in->noise * 2 + 1) - in->noise : 0);
        fg_value_write((fg_value)value, in->counts ? 0 : in->declared->decimals, text);
        fputs(text, out);
    }
}

/* What is played of it: all, or a part. */
static fg_readings make_up(const fg_program *p, const char *path)
{
    static input inputs[SENSORS_MOST];
    static const uint32_t lengths[] = {40, 300, 1500, 5000};
    size_t count = 0;
    FILE *out = fopen(path, "w");
    if (!out) exit(2);
    memset(inputs, 0, sizeof inputs);
    for (uint32_t i = 0; i < p->declared_count && count < SENSORS_MOST; i++) {
        if (!fg_program_reads(p, &p->declared[i]) || !dice(12)) continue; /* now and then a column is missing */
        inputs[count].declared = &p->declared[i];
        if (p->declared[i].kind == FG_KIND_SENSOR) {
            find_limits(p, &inputs[count]);
            inputs[count].counts = p->gate.sensors[p->declared[i].index].scale_count && dice(4);
        }
        count++;
    }
    const bool spare = dice(2) != 0;
    const uint32_t odd = dice(3) ? 0 : 1 + dice(200), rows = lengths[dice(4)];
    const int64_t pace = p->gate.every && dice(6) ? p->gate.every : 1 + dice(400);
    const uint32_t together = dice(4) ? 0 : 2 + dice(5); /* of so many rows one has the time of the row before it */
    const int64_t first = dice(2) ? 0 : dice(1000000);
    int64_t t = first;
    fputs("t_ms", out);
    if (spare) fputs(",spare", out);
    for (size_t i = 0; i < count; i++)
        fprintf(out, ",%.*s%s", (int)inputs[i].declared->name.size, inputs[i].declared->name.at,
                inputs[i].counts ? ".raw" : "");
    fputc('\n', out);
    for (uint32_t row = 0; row < rows; row++) {
        if (odd && !dice(odd * 20)) fputs("# a comment, with commas\n", out);
        fprintf(out, "%" PRId64, t);
        if (spare) fputs(odd && !dice(50) ? ",\"a, b\"" : ",word", out);
        for (size_t i = 0; i < count; i++) {
            fputc(',', out);
            write_cell(out, &inputs[i], odd && !dice(odd));
        }
        fputs(odd && !dice(odd * 5) ? "\r\n" : "\n", out);
        if (!together || dice(together)) t += odd && !dice(30) ? dice(3) * pace + dice(40) : pace;
    }
    if (fclose(out)) exit(2);
    fg_readings part = {.recording = path};
    if (!dice(3)) part.from_ms = dice((uint32_t)(t - first) + 1);
    if (!dice(3)) part.to_ms = dice((uint32_t)(t - first) + 1);
    return part;
}

/* ---- what comes out ---- */

static bool on_change(void *context, const fg_change *c)
{
    told *t = context;
    const size_t room = TEXT_MOST - t->size;
    if (c->declared < t->program->declared || c->declared >= t->program->declared + t->program->declared_count) exit(2);
    const int size = snprintf(t->text + t->size, room, "%" PRId64 " %.*s %.*s -> %.*s %.*s\n", c->t_ms,
                              (int)c->declared->name.size, c->declared->name.at, (int)c->was.size, c->was.at,
                              (int)c->is.size, c->is.at, (int)c->because.size, c->because.at);
    if (size < 0 || (size_t)size >= room) return false;
    t->size += (size_t)size;
    return true;
}

static bool on_broken(void *context, const fg_broken *b)
{
    told *t = context;
    const size_t room = TEXT_MOST - t->size;
    const int size = snprintf(t->text + t->size, room, "%" PRId64 " line %" PRIu32 " is broken: %.*s\n", b->t_ms,
                              b->line, (int)b->because.size, b->because.at);
    if (size < 0 || (size_t)size >= room) return false;
    t->size += (size_t)size;
    return true;
}

static void mix(told *t, const void *bytes, size_t size)
{
    for (size_t i = 0; i < size; i++) t->seen = (t->seen ^ ((const uint8_t *)bytes)[i]) * UINT64_C(0x100000001b3);
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    told *t = context;
    const fg_gate_sizes *n = &run->gate->size;
    if (t_ms < t->from_ms) return true;
    mix(t, &t_ms, sizeof t_ms);
    for (uint16_t i = 0; i < n->sensors; i++) {
        fg_value value = 0;
        const bool good = fg_sensor_value(run, i, &value);
        mix(t, &good, sizeof good);
        mix(t, &value, sizeof value);
    }
    mix(t, fg_answers(run), (size_t)n->ops + n->watched);
    if (before) mix(t, before, (size_t)n->ops + n->watched);
    for (uint16_t i = 0; i < n->counters; i++) mix(t, &(fg_value){fg_count_value(run, i)}, sizeof(fg_value));
    for (uint16_t i = 0; i < n->outputs; i++) mix(t, &fg_output_at(run, i)->row, sizeof(uint16_t));
    fg_summary_step(t->summary, run, t_ms);
    fg_coverage_step(t->coverage, run);
    return --t->left != 0;
}

static void on_name(void *context, const fg_summary_name *name)
{
    mix(context, name->answer.at, name->answer.size);
    mix(context, &name->ms, sizeof name->ms);
}

static void on_sensor(void *context, const fg_summary_sensor *sensor)
{
    mix(context, &sensor->lowest, sizeof sensor->lowest);
    mix(context, &sensor->median, sizeof sensor->median);
    mix(context, &sensor->highest, sizeof sensor->highest);
}

static void end_watching(told *t)
{
    uint64_t tried, all;
    if (!fg_summary_tell(t->summary, t->report.length_ms, t, on_name, on_sensor)) exit(2);
    fg_coverage_count(t->coverage, &tried, &all);
    mix(t, &tried, sizeof tried);
    fg_summary_end(t->summary);
    fg_coverage_end(t->coverage);
}

static void begin(told *t, const fg_program *p)
{
    t->program = p;
    t->size = 0;
    t->seen = 0;
    memset(&t->report, 0, sizeof t->report);
    memset(&t->mistake, 0, sizeof t->mistake);
}

static void end(told *t)
{
    t->left_out = t->report.left_out;
    t->report.left_out = 0;
    t->report.busy = NULL;
}

static void play(const fg_program *p, fg_readings readings, fg_recording_options options, told *t)
{
    readings.options = options;
    t->from_ms = readings.from_ms;
    t->left = t->steps;
    const fg_replay_observer observer = {.context = t,
                                         .change = on_change,
                                         .broken = on_broken,
                                         .step = t->watches ? on_step : NULL,
                                         .without_reasons = t->without_reasons};
    if (t->watches && (!(t->summary = fg_summary_start(p)) || !(t->coverage = fg_coverage_start(p)))) exit(2);
    begin(t, p);
    t->status = fg_replay(p, &readings, &observer, &t->report, &t->mistake);
    if (t->watches) end_watching(t);
    end(t);
}

static bool same(const told *a, const told *b)
{
    return a->status == b->status && a->size == b->size && a->seen == b->seen && !memcmp(a->text, b->text, a->size) &&
           !memcmp(&a->report, &b->report, sizeof a->report) && !strcmp(a->mistake.text, b->mistake.text) &&
           a->mistake.line == b->mistake.line;
}

static void show_difference(const told *a, const told *b)
{
    size_t i = 0;
    while (i < a->size && i < b->size && a->text[i] == b->text[i]) i++;
    while (i && a->text[i - 1] != '\n') i--;
    fprintf(stderr, "  row by row: %.*s\n  in blocks:  %.*s\n", (int)strcspn(a->text + i, "\n"), a->text + i,
            (int)strcspn(b->text + i, "\n"), b->text + i);
    fprintf(stderr,
            "  rows %" PRIu64 " %" PRIu64 ", steps %" PRIu64 " %" PRIu64 ", faulty %" PRIu64 " %" PRIu64
            ", overlooked %" PRIu64 " %" PRIu64 ", '%s' '%s'\n",
            a->report.rows, b->report.rows, a->report.steps, b->report.steps, a->report.faulty_steps,
            b->report.faulty_steps, a->report.overlooked, b->report.overlooked, a->mistake.text, b->mistake.text);
}

/* Kept in memory: read, from memory, and again where somebody wanted it all as cells meanwhile. */
static bool same_kept(const fg_program *p, fg_readings readings, const told *wanted, told *got)
{
    static const bool by_cells[] = {false, false, true};
    bool good = (readings.kept = fg_kept_rows_start()) != NULL;
    for (size_t i = 0; i < sizeof by_cells / sizeof *by_cells && good; i++) {
        play(p, readings, (fg_recording_options){.by_cells = by_cells[i]}, got);
        good = same(wanted, got);
    }
    fg_kept_rows_end(readings.kept);
    return good;
}

/* ---- gates with other numbers ---- */

enum { GATES = 3, MOVES_MOST = 2, ROUNDS = 2 };

typedef struct number {
    size_t at, size;
} number;

static bool is_digit(char c) { return c >= '0' && c <= '9'; }

/* A few numbers of the text, in their order; those of names may be among them. */
static size_t pick_numbers(fg_text text, number *picked)
{
    size_t numbers = 0, count = 0;
    const uint32_t most = 1 + dice(MOVES_MOST);
    for (size_t i = 0; i < text.size; i++) numbers += is_digit(text.at[i]) && (!i || !is_digit(text.at[i - 1]));
    for (size_t i = 0; i < text.size && count < most; i++) {
        if (!is_digit(text.at[i]) || (i && is_digit(text.at[i - 1])) || dice((uint32_t)numbers) >= most) continue;
        number *n = &picked[count++];
        *n = (number){.at = i};
        while (i + n->size < text.size && n->size < 9 && is_digit(text.at[i + n->size])) n->size++;
    }
    return count;
}

/* The gate with other numbers there. False: that is no gate. */
static bool open_moved(fg_gate_file *moved, fg_text text, const char *name, const number *picked, size_t count)
{
    char *own = malloc(text.size + count * FG_VALUE_TEXT_SIZE + 1);
    fg_mistake mistake;
    size_t size = 0, from = 0;
    if (!own) exit(2);
    for (size_t i = 0; i < count; i++) {
        const long was = strtol(text.at + picked[i].at, NULL, 10), by = (long)dice(dice(2) ? 4 : 40);
        memcpy(own + size, text.at + from, picked[i].at - from);
        size += picked[i].at - from;
        size += (size_t)sprintf(own + size, "%ld",
                                was > 99              ? was + by * 17
                                : was < by || dice(2) ? was + by
                                                      : was - by);
        from = picked[i].at + picked[i].size;
    }
    memcpy(own + size, text.at + from, text.size - from);
    size += text.size - from;
    const fg_status status = fg_gate_file_of_text(moved, name, (fg_text){own, size}, (fg_settings){0}, &mistake);
    if (status != FG_OK) fg_gate_file_close(moved);
    free(own);
    return status == FG_OK;
}

/* Played at once, each gives what it gives alone. */
static bool same_together(const fg_gate_file *file, const char *name, fg_readings readings)
{
    static const fg_recording_options options[] = {{0}, {.block_rows = 7}, {.by_cells = true}};
    static told alone[GATES], got[GATES];
    fg_gate_file moved[GATES];
    const fg_program *programs[GATES];
    fg_replay_observer observers[GATES];
    fg_replay_report reports[GATES];
    size_t count = 0;
    bool good = true;
    number picked[MOVES_MOST];
    const size_t numbers = pick_numbers(file->text, picked);
    for (int tries = 0; tries < 4 * GATES && count < GATES; tries++)
        if (open_moved(&moved[count], file->text, name, picked, numbers)) count++;
    for (size_t i = 0; i < count; i++) {
        programs[i] = &moved[i].program;
        alone[i] = (told){.text = calloc(TEXT_MOST, 1), .without_reasons = true};
        got[i] = (told){.text = calloc(TEXT_MOST, 1)};
        if (!alone[i].text || !got[i].text) exit(2);
        observers[i] = (fg_replay_observer){.context = &got[i], .change = on_change, .without_reasons = true};
        play(programs[i], readings, (fg_recording_options){.by_cells = true, .row_by_row = true}, &alone[i]);
    }
    for (size_t k = 0; k < sizeof options / sizeof *options && count && good; k++) {
        fg_mistake mistake;
        for (size_t i = 0; i < count; i++) begin(&got[i], programs[i]);
        readings.options = options[k];
        const fg_status status = fg_replay_together(programs, observers, count, &readings, reports, &mistake);
        for (size_t i = 0; i < count && good; i++) {
            got[i].status = status;
            got[i].mistake = mistake;
            got[i].report = reports[i];
            end(&got[i]);
            good = same(&alone[i], &got[i]);
            if (good) continue;
            fprintf(stderr, "%s %s differs where gate %zu of %zu is played beside others\n", name, readings.recording,
                    i, count);
            show_difference(&alone[i], &got[i]);
        }
    }
    for (size_t i = 0; i < count; i++) {
        fg_gate_file_close(&moved[i]);
        free(alone[i].text);
        free(got[i].text);
    }
    return good;
}

int main(int argc, char **argv)
{
    static const size_t sizes[] = {1, 2, 7, 64, 0};
    fg_gate_file file;
    fg_mistake mistake = {0};
    char path[300];
    told wanted = {.text = calloc(TEXT_MOST, 1)}, got = {.text = calloc(TEXT_MOST, 1)};
    if (argc < 3 || !wanted.text || !got.text) return 2;
    if (fg_gate_file_open(&file, argv[1], (fg_settings){.promises = true}, &mistake) != FG_OK) {
        puts("no gate");
        return 0;
    }
    state = (uint32_t)strtoul(argv[2], NULL, 10) * 2654435761u + 1;
    snprintf(path, sizeof path, "%s.%s.csv", argv[1], argv[2]);
    const fg_readings readings = argc > 3 ? (fg_readings){.recording = argv[3]} : make_up(&file.program, path);
    play(&file.program, readings, (fg_recording_options){.by_cells = true, .row_by_row = true}, &wanted);
    uint64_t left_out = 0;
    for (size_t i = 0; i < sizeof sizes / sizeof *sizes; i++)
        for (int row_by_row = 0; row_by_row < 2; row_by_row++) {
            const fg_recording_options options = {.block_rows = sizes[i], .row_by_row = row_by_row};
            play(&file.program, readings, options, &got);
            if (got.left_out > left_out) left_out = got.left_out;
            if (same(&wanted, &got)) continue;
            fprintf(stderr, "%s %s differs in blocks of %zu%s\n", argv[1], readings.recording, sizes[i],
                    row_by_row ? ", row by row" : "");
            show_difference(&wanted, &got);
            return 1;
        }
    wanted.watches = got.watches = true;
    wanted.steps = got.steps = dice(3) ? UINT64_MAX : 1 + dice(dice(2) ? 2000 : 40);
    play(&file.program, readings, (fg_recording_options){.by_cells = true, .row_by_row = true}, &wanted);
    for (size_t block_rows = 0; block_rows < 8; block_rows += 7) {
        play(&file.program, readings, (fg_recording_options){.block_rows = block_rows}, &got);
        if (same(&wanted, &got)) continue;
        fprintf(stderr, "%s %s differs in blocks of %zu where each step is looked at\n", argv[1], readings.recording,
                block_rows);
        show_difference(&wanted, &got);
        return 1;
    }
    wanted.watches = got.watches = false;
    play(&file.program, readings, (fg_recording_options){.by_cells = true, .row_by_row = true}, &wanted);
    if (!same_kept(&file.program, readings, &wanted, &got)) {
        fprintf(stderr, "%s %s differs where it is kept\n", argv[1], readings.recording);
        show_difference(&wanted, &got);
        return 1;
    }
    for (int round = 0; round < ROUNDS; round++)
        if (!same_together(&file, argv[1], readings)) return 1;
    printf("same %" PRIu64 " steps %" PRIu64 " changes %" PRIu64 " left out\n", wanted.report.steps,
           wanted.report.changes, left_out);
    if (argc == 3) remove(path);
    free(wanted.text);
    free(got.text);
    fg_gate_file_close(&file);
    return 0;
}
