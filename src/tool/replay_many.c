/* SPDX-License-Identifier: MIT */
/* fickle replay GATE RECORDING RECORDING..., or with --by: each recording is played by itself, several at once, and
 * each device in it; what comes out stands in the order of the command line, with the recording's name in front. */
#include "tool.h"

#include <errno.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* A recording that is being played, or waits to be told. */
typedef struct play {
    tool_options options; /* with this recording, which messages name */
    tool_changes changes;
    fg_coverage *coverage;
    fg_summary *summary;
    tool_broken broken;
    fg_replay_report report;
    fg_mistake mistake;
    fg_status status;
    size_t devices;
    int64_t length_ms; /* that was played, of all devices together */
} play;

typedef struct many {
    const tool_options *options;
    const fg_gate_file *file;
    tool_changes changes;   /* how all are printed, and where; does not change while they are played */
    uint64_t quiet, levels; /* changes that are not shown */
    fg_coverage *coverage;
    fg_summary *summary;
    play **plays;
    fg_replay_report sum;
    size_t unplayed, missing, devices;
    bool full; /* there was not enough memory, or no room for results */
} many;

static bool on_change(void *context, const fg_change *change)
{
    return tool_changes_print(&((play *)context)->changes, change);
}

static bool on_step(void *context, const fg_run *run, const fg_verdict *before, int64_t t_ms)
{
    const play *p = context;
    (void)before;
    if (t_ms < (int64_t)p->options.from) return true;
    if (p->coverage) fg_coverage_step(p->coverage, run);
    if (p->summary) fg_summary_step(p->summary, run, t_ms);
    return true;
}

static bool on_broken(void *context, const fg_broken *broken)
{
    return tool_broken_add(&((play *)context)->broken, broken);
}

static void end_play(play *p)
{
    if (!p) return;
    free(p->broken.kept);
    if (p->changes.output) fclose(p->changes.output);
    fg_coverage_end(p->coverage);
    fg_summary_end(p->summary);
    free(p);
}

static play *begin_play(const many *m, const char *recording)
{
    play *p = calloc(1, sizeof *p);
    if (!p) return NULL;
    p->options = *m->options;
    p->options.recording = recording;
    p->options.reading.gap_context = &p->options;
    p->broken = (tool_broken){.program = &m->file->program, .where = tool_path(recording), .waits = true};
    p->changes = m->changes;
    if (m->changes.of) p->changes.of = tool_path(recording);
    p->changes.output = tool_output_open();
    if (m->coverage) p->coverage = fg_coverage_start(&m->file->program);
    if (m->summary) p->summary = fg_summary_start(&m->file->program);
    if (p->changes.output && (!m->coverage || p->coverage) && (!m->summary || p->summary)) return p;
    end_play(p);
    return NULL;
}

static void play_one(void *context, unsigned number, fg_progress progress)
{
    many *m = context;
    play *p = m->plays[number] = begin_play(m, m->options->recordings[number]);
    fg_readings readings;
    if (!p || !tool_readings(&p->options, m->file, &readings)) return;
    if (readings.options.by) {
        tool_devices devices = {.program = &m->file->program,
                                .changes = &p->changes,
                                .coverage = p->coverage,
                                .summary = p->summary,
                                .broken = &p->broken,
                                .from_ms = readings.from_ms,
                                .progress = progress};
        p->status = tool_devices_play(&devices, &readings, &p->report, &p->mistake);
        p->devices = devices.count;
        p->length_ms = devices.length_ms;
        return;
    }
    const fg_replay_observer observer = {.context = p,
                                         .change = m->summary ? NULL : on_change,
                                         .broken = on_broken,
                                         .progress = progress,
                                         .step = p->coverage || p->summary ? on_step : NULL};
    p->status = fg_replay(&m->file->program, &readings, &observer, &p->report, &p->mistake);
    p->length_ms = p->report.length_ms - readings.from_ms;
}

/* What one came to goes behind what the others did. */
static bool copy(FILE *from, FILE *to)
{
    char block[1 << 14];
    size_t size;
    rewind(from);
    while ((size = fread(block, 1, sizeof block, from)) > 0 && fwrite(block, 1, size, to) == size) continue;
    return !ferror(from) && !ferror(to);
}

static bool tell_one(void *context, unsigned number)
{
    many *m = context;
    play *p = m->plays[number];
    m->plays[number] = NULL;
    tool_progress_aside();
    if (!p || p->broken.failed || (p->status == FG_OK && p->changes.failed && !ferror(p->changes.output))) {
        m->full = true;
        tool_no_memory();
    } else if (p->status != FG_OK) {
        m->unplayed++;
        m->full = p->status == FG_ERROR_MEMORY; /* the others would fare no better */
        tool_print_mistake(&p->mistake);
    } else if (p->changes.failed || !copy(p->changes.output, m->changes.output)) {
        m->full = true;
        tool_say("fickle: error: cannot store the results in the temporary folder: %s\n", strerror(errno));
    } else {
        if (m->coverage) fg_coverage_add(m->coverage, p->coverage);
        if (m->summary) fg_summary_add(m->summary, p->summary, p->report.length_ms); /* a sum of devices has ended */
        m->quiet += p->changes.quiet;
        m->levels += p->changes.plays;
        if (p->changes.chosen.count && !m->summary && !p->devices) p->report.changes = p->changes.told;
        m->missing += p->report.unread_count != 0;
        m->sum.broken += p->report.broken;
        tool_broken_end(&p->broken);
        m->sum.rows += p->report.rows;
        m->sum.steps += p->report.steps;
        m->sum.changes += p->report.changes;
        m->sum.length_ms += p->length_ms;
        m->devices += p->devices;
        tool_print_report(&p->options, &p->report);
    }
    end_play(p);
    return !m->full;
}

/* "24 devices in 2 recordings: 480 rows, 960.000 s, 480 steps, 31 changes" */
static void print_sum(const many *m)
{
    char a[64], b[64], c[64], d[64], e[64];
    const size_t played = m->options->recording_count - m->unplayed;
    if (m->options->quiet) return;
    if (m->options->reading.by) tool_say("%s in ", tool_counted(m->devices, "device", a));
    tool_say("%s: %s, %" PRId64 ".%03" PRId64 " s, %s, %s", tool_counted(played, "recording", b),
             tool_counted(m->sum.rows, "row", c), m->sum.length_ms / 1000, m->sum.length_ms % 1000,
             tool_counted(m->sum.steps, "step", d), tool_counted(m->sum.changes, "change", e));
    if (m->unplayed) tool_say("; %s could not be played", tool_counted(m->unplayed, "other", a));
    tool_say("\n");
    tool_changes_tell_left_out(&(tool_changes){.quiet = m->quiet, .plays = m->levels}, "all together");
}

/* The table and the coverage of all. The exit status. */
static int end(many *m)
{
    const tool_options *o = m->options;
    bool good = !m->full && m->unplayed < o->recording_count;
    int status = EXIT_WELL;
    if (good && m->summary &&
        !tool_print_summary(m->changes.output, o, &m->changes.chosen, m->changes.name_width, m->summary,
                            (int64_t)o->from + m->sum.length_ms)) {
        tool_no_memory();
        good = false;
    }
    if (good && m->coverage) status = tool_print_coverage(m->changes.output, o, m->coverage);
    const int written = tool_output_close(m->changes.output, m->changes.form, good && status != EXIT_WRONG);
    if (written != EXIT_WELL) return written;
    print_sum(m);
    if (m->unplayed) return EXIT_WRONG;
    const bool missing = o->strict && m->missing;
    return status == EXIT_WELL && (missing || m->sum.broken) ? EXIT_HELD_NOT : status;
}

/* False, told, if something that is needed cannot be had. */
static bool begin(many *m)
{
    const tool_options *o = m->options;
    if (o->save || o->compare || o->scene) {
        tool_say("fickle: error: %s is for one recording of one device; name one, without --by\n", o->save ? "--save"
                                                                                                   : o->compare
                                                                                                       ? "--compare"
                                                                                                       : "--scene");
        return false;
    }
    if (!tool_names(o, m->file, &m->changes.chosen)) return false;
    if (tool_covers(o) && !(m->coverage = tool_coverage_begin(o, m->file))) return false;
    m->plays = calloc(o->recording_count, sizeof(play *));
    if (o->summary) m->summary = fg_summary_start(&m->file->program);
    if (!m->plays || (o->summary && !m->summary)) {
        tool_no_memory();
        return false;
    }
    for (size_t i = 0; i < o->recording_count; i++) {
        const int width = (int)strlen(tool_path(o->recordings[i]));
        if (width > m->changes.of_width) m->changes.of_width = width;
    }
    tool_changes_begin(&m->changes, &m->file->program);
    m->changes.output = tool_output_open();
    return m->changes.output != NULL;
}

int tool_replay_many(const tool_options *options, const fg_gate_file *file)
{
    enum { NARROW = 9, DEVICE = 12 }; /* at least the heading */
    many m = {.options = options,
              .file = file,
              .changes = {.form = options->form,
                          .all = options->verbose,
                          .of = options->recording_count > 1 ? "" : NULL,
                          .device = options->reading.by ? "" : NULL,
                          .of_width = NARROW,
                          .device_width = DEVICE}};
    const fg_jobs all = {.count = (unsigned)options->recording_count,
                         .jobs = options->jobs,
                         .context = &m,
                         .work = play_one,
                         .tell = tell_one,
                         .progress = tool_progress_of_recordings(&options->recording_count)};
    int status = EXIT_WRONG;
    if (begin(&m)) {
        if (!options->summary) tool_changes_heading(&m.changes);
        if (!fg_jobs_run(&all)) {
            m.full = true;
            tool_no_memory();
        }
        tool_progress_end();
        status = end(&m);
    }
    for (size_t i = 0; m.plays && i < options->recording_count; i++) end_play(m.plays[i]); /* those nobody told */
    free(m.plays);
    fg_summary_end(m.summary);
    fg_coverage_end(m.coverage);
    return status;
}
