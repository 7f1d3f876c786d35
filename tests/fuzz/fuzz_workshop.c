/* SPDX-License-Identifier: MIT */
/* Any gate with any recording, and all that the workshop makes of them: number lines, three ways to bake, the recording
 * through every limit, scenes, trials, reasons, pictures up to the plotter, tuning. What stands before the first line
 * of
 * === is the gate. */
#include <ficklegate/workshop.h>
#include <ficklegate/draw.h>
#include <ficklegate/tune.h>
#include <ficklegate/why.h>

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

enum { ROWS_MOST = 2000 };

static char folder[] = "/dev/shm/fickle-fuzz-XXXXXX";

static void write_file(const char *path, const void *bytes, size_t size)
{
    FILE *out = fopen(path, "wb");
    if (!out || fwrite(bytes, 1, size, out) != size) abort();
    fclose(out);
}

static void begin(void)
{
    static bool begun;
    if (begun) return;
    begun = true;
    if (!mkdtemp(folder) || chdir(folder) != 0) abort();
    (void)setenv("PATH", "", 1); /* no plotter: its script is made all the same */
}

/* What goes wrong is told, in text that can be shown. */
static void told(fg_status status, const fg_mistake *mistake)
{
    if (status == FG_OK || status == FG_ERROR_ARGUMENT) return;
    const size_t size = strlen(mistake->text);
    if (!size || fg_utf8_wrong((fg_text){mistake->text, size}) != size) abort();
}

/* ---- rows that are made ---- */

static bool on_heading(void *context, const fg_text *columns, size_t count, fg_mistake *mistake)
{
    (void)columns;
    (void)mistake;
    *(size_t *)context = count;
    return true;
}

static bool on_row(void *context, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line, fg_mistake *mistake)
{
    (void)cells;
    if (t_ms < 0 || count != *(size_t *)context) abort();
    if (line >= ROWS_MOST) snprintf(mistake->text, sizeof mistake->text, "enough");
    return line < ROWS_MOST;
}

static void make_rows(const fg_program *program)
{
    size_t count = 0;
    fg_mistake mistake;
    const fg_recording_sink sink = {.context = &count, .heading = on_heading, .row = on_row};
    told(fg_edges_read(program, &sink, &mistake), &mistake);
    for (uint32_t i = 0; i < program->scene_count; i++)
        told(fg_scene_read(program, &program->scenes[i], &sink, &mistake), &mistake);
}

/* ---- texts that are made ---- */

static void make_texts(const fg_gate_file *file)
{
    fg_text text;
    for (uint32_t i = 0; i < file->program.declared_count; i++) {
        const fg_declared *d = &file->program.declared[i];
        if (!fg_kind_is(d->kind, FG_KIND_ON_SENSOR) || fg_number_line(&file->program, d, 80, &text) != FG_OK) continue;
        if (fg_utf8_wrong(text) != text.size) abort();
        fg_text_free(text);
    }
    if (fg_delays(&file->program, &text) == FG_OK) fg_text_free(text);
    for (int way = 0; way < 3; way++) {
        char *texts[2] = {NULL, NULL};
        size_t sizes[2];
        FILE *header = open_memstream(&texts[0], &sizes[0]), *source = open_memstream(&texts[1], &sizes[1]);
        const fg_bake_options options = {.name = "fuzz", .header = "fuzz.h", .units = way == 1};
        if (way == 2)
            (void)fg_bake_tables(file, &options, header, source, NULL);
        else if (!fg_bake_code_misfit(file))
            (void)fg_bake_code(file, &options, header, source, NULL);
        fclose(header);
        fclose(source);
        free(texts[0]);
        free(texts[1]);
    }
}

/* ---- what is played ---- */

static void on_trial(void *context, const fg_trial *trial, const fg_replay_report *report)
{
    (void)context;
    (void)trial;
    (void)report;
}

static void on_result(void *context, const fg_trial_result *result)
{
    (void)context;
    if ((int)result->outcome >= (int)FG_OUTCOMES_IN_ALL || !result->because.size || !result->line) abort();
}

static void on_reason(void *context, const fg_reason *reason)
{
    (void)context;
    if (!reason->text.size) abort();
}

static void play(const fg_gate_file *file)
{
    const fg_program *p = &file->program;
    const fg_recording_options options = {0};
    fg_replay_report report;
    fg_mistake mistake;
    const fg_trial_observer observer = {.trial = on_trial, .result = on_result};
    const fg_why_observer reasons = {.reason = on_reason};
    const fg_readings recording = {.recording = "a.csv"},
                      scene = {.recording = "a.csv", .scene = p->scene_count ? &p->scenes[0] : NULL};
    for (uint32_t i = 0; i < p->trial_count; i++) told(fg_trial_run(file, &options, i, &observer, &mistake), &mistake);
    for (uint32_t i = 0; i < p->declared_count && i < 12; i++) {
        fg_question question = {.name = &p->declared[i], .from_ms = 300, .to_ms = i % 2 ? 300 : 2000};
        told(fg_why(p, &recording, &question, &reasons, &report, &mistake), &mistake);
    }
    const fg_draw_options draw = {.title = "a"};
    told(fg_draw(p, &recording, &draw, "a.svg", &report, &mistake), &mistake);
    told(fg_draw(p, &scene, &draw, "a.png", &report, &mistake), &mistake);
}

static void tune(const fg_program *p)
{
    const fg_tuning_source source = {.recording = "a.csv"};
    for (uint32_t i = 0; i < p->declared_count; i++) {
        const fg_declared *d = &p->declared[i];
        fg_replay_report report;
        fg_mistake mistake;
        fg_tuned tuned;
        fg_edit edits[64];
        const fg_draw_options draw = {0};
        if (!fg_kind_is(d->kind, FG_KIND_ON_SENSOR)) continue;
        fg_tuning *tuning = fg_tuning_start(p, d, (fg_text){"seen", 4});
        if (tuning && fg_tuning_read(&tuning, 1, &source, &report, &mistake) == FG_OK &&
            fg_tuning_work(tuning, &tuned)) {
            (void)fg_tuning_edits(tuning, &tuned, edits, 64, NULL, NULL);
            told(fg_draw_spread(&(fg_tunings){&tuning, &tuned, 1}, &draw, "b.svg", &mistake), &mistake);
        }
        fg_tuning_end(tuning);
    }
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    size_t gate_size = 0;
    fg_gate_file file;
    fg_mistake mistake;
    while (gate_size + 5 < size && memcmp(data + gate_size, "\n===\n", 5) != 0) gate_size++;
    if (gate_size + 5 >= size) return 0;
    begin();
    write_file("a.csv", data + gate_size + 5, size - gate_size - 5);
    if (fg_gate_file_of_text(&file, "fuzz.gate", (fg_text){(const char *)data, gate_size},
                             (fg_settings){.promises = true}, &mistake) == FG_OK) {
        bool slow = file.program.gate.every && file.program.gate.every < 50;
        for (uint32_t i = 0; i < file.program.scene_count; i++) {
            const fg_scene *s = &file.program.scenes[i];
            const fg_time pace =
                file.program.gate.every && file.program.gate.every < s->every ? file.program.gate.every : s->every;
            slow = slow || s->lasts / pace > ROWS_MOST;
        }
        make_texts(&file);
        make_rows(&file.program);
        if (!slow) {
            play(&file);
            tune(&file.program);
        }
    }
    fg_gate_file_close(&file);
    return 0;
}
