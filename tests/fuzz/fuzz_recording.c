/* SPDX-License-Identifier: MIT */
/* Any bytes as a recording: CSV, JSON Lines, gzipped or not. It is read with or without a pace, played, summed up,
 * covered, kept and read again; what was kept gives the same rows, and so do both ways to read. The first byte says
 * how. */
#include "mix.h"

#include <ficklegate/workshop.h>

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

static const char gates[2][700] = {
    "every 1s\nsensor d { unit cm; step 0.1; raw 0..1023 reads 0..250; trust 0..240; median 3; bridge 1s }\nsensor v { "
    "circle 360 }\n"
    "flag k { settle 2s }\nbands b from d { low | 20 | mid | 60 | high; margin 2 }\nlatch l { set when b is high; "
    "clear when k }\n"
    "count n { add when l; limit 0..9 }\nlamp red { on when l; on 20% if unsure }\ndisplay x { size 8x1; show \"{d "
    "unit}\" }\n",
    "sensor d { unit cm; step 0.1; raw 0..1023 reads 0..250; stale after 2s }\nsensor v { circle 360; mean 4 }\nflag "
    "k\n"
    "bands b from d { low 0..20; high over 30 }\nlatch l { set when b is high; clear when k }\n"
    "count n { add when l }\nlamp red { follow d 0..100 when l }\nsensor r = rate(d, 5) { unit x }\n"};

typedef struct watched {
    fg_summary *summary;
    fg_coverage *coverage;
    fg_saver *saver;
    uint64_t rows;
} watched;

static bool on_change(void *context, const fg_change *change)
{
    (void)context;
    if (!change->because.size) abort();
    return true;
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    watched *w = context;
    (void)before;
    fg_summary_step(w->summary, run, t_ms);
    fg_coverage_step(w->coverage, run);
    return ++w->rows < 20000 && (!w->saver || fg_save_step(w->saver, run, t_ms));
}

static void tell_name(void *context, const fg_summary_name *name) { *(uint64_t *)context += name->answer.size; }
static void tell_sensor(void *context, const fg_summary_sensor *sensor) { *(uint64_t *)context += sensor->seen; }

static fg_status play(const fg_program *program, const char *path, const fg_recording_options *options,
                      const char *kept, uint64_t *steps)
{
    fg_mistake mistake;
    fg_replay_report report;
    uint64_t told = 0;
    watched w = {fg_summary_start(program), fg_coverage_start(program),
                 kept ? fg_save_start(program, kept, &mistake) : NULL, 0};
    const fg_replay_observer observer = {.context = &w, .change = on_change, .step = on_step};
    const fg_readings readings = {.recording = path, .options = options ? *options : (fg_recording_options){0}};
    const fg_status status = fg_replay(program, &readings, &observer, &report, &mistake);
    if (status != FG_OK && (!*mistake.text || strlen(mistake.text) >= sizeof mistake.text)) abort();
    if (fg_utf8_wrong((fg_text){mistake.text, strlen(mistake.text)}) != strlen(mistake.text)) abort();
    (void)fg_summary_tell(w.summary, report.length_ms, &told, tell_name, tell_sensor);
    if (w.saver && fg_save_end(w.saver, status == FG_OK, &mistake) != FG_OK && status == FG_OK) abort();
    fg_summary_end(w.summary);
    fg_coverage_end(w.coverage);
    *steps = w.rows;
    return status;
}

/* What came out, as one number. */
typedef struct outcome {
    uint64_t hash, changes;
    fg_replay_report report;
    fg_mistake mistake;
    fg_status status;
} outcome;

static bool on_told(void *context, const fg_change *change)
{
    outcome *o = context;
    fuzz_mix(&o->hash, (fg_text){(const char *)&change->t_ms, sizeof change->t_ms});
    fuzz_mix(&o->hash, change->declared->name);
    fuzz_mix(&o->hash, change->is);
    fuzz_mix(&o->hash, change->because);
    return ++o->changes < 20000;
}

static void play_by(const fg_program *program, const char *path, const fg_recording_options *options, outcome *o)
{
    const fg_replay_observer observer = {.context = o, .change = on_told};
    const fg_readings readings = {.recording = path, .options = *options};
    memset(o, 0, sizeof *o);
    o->status = fg_replay(program, &readings, &observer, &o->report, &o->mistake);
    o->report.left_out = 0;
    o->report.busy = NULL;
}

/* Rows read in blocks, and left out where nothing changes, come out as those read as cells and stepped one by one. */
static void compare_ways(const fg_program *program, const char *path, fg_recording_options options, int how)
{
    static const size_t sizes[] = {0, 1, 2, 7};
    static outcome cells, blocks;
    options.by_cells = options.row_by_row = true;
    play_by(program, path, &options, &cells);
    options.by_cells = options.row_by_row = false;
    options.block_rows = sizes[how >> 4 & 3];
    play_by(program, path, &options, &blocks);
    if (cells.status != blocks.status || cells.hash != blocks.hash || cells.changes != blocks.changes ||
        memcmp(&cells.report, &blocks.report, sizeof cells.report) != 0 || cells.mistake.line != blocks.mistake.line ||
        strcmp(cells.mistake.text, blocks.mistake.text) != 0)
        abort();
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    static fg_gate_file files[2];
    char path[] = "/dev/shm/fickle-fuzz-XXXXXX", kept[64];
    fg_mistake mistake;
    if (!size) return 0;
    const int how = data[0];
    const fg_setting column = {{"d", 1}, {"deep", 4}};
    const fg_recording_options options = {
        .every = how & 2 ? 100 : 0, .columns = how & 4 ? &column : NULL, .column_count = how & 4 ? 1 : 0};
    fg_gate_file *file = &files[how & 1];
    if (!file->program.declared_count &&
        fg_gate_file_of_text(file, "fuzz.gate", (fg_text){gates[how & 1], strlen(gates[how & 1])}, (fg_settings){0},
                             &mistake) != FG_OK)
        abort();
    const int handle = mkstemp(path);
    if (handle < 0 || write(handle, data + 1, size - 1) != (ssize_t)(size - 1)) abort();
    close(handle);
    snprintf(kept, sizeof kept, "%s.%s", path, how & 8 ? "csv" : "jsonl");
    uint64_t steps, again;
    if (play(&file->program, path, &options, kept, &steps) == FG_OK &&
        play(&file->program, kept, NULL, NULL, &again) != FG_OK)
        abort();
    if (steps < 20000) compare_ways(&file->program, path, options, how); /* else a gap has no end */
    unlink(path);
    unlink(kept);
    return 0;
}
