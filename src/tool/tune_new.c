/* SPDX-License-Identifier: MIT */
/* fickle tune --new NAME: bands for labels that no rule has yet. */
#include "tune.h"

#include <stdlib.h>
#include <string.h>

enum { EDITS_MOST = FG_LABELS_MOST + 1 };

static fg_text joined(fg_text a, fg_text between, fg_text b)
{
    char *text = malloc(a.size + between.size + b.size + 1);
    if (!text) return (fg_text){0};
    if (a.size) memcpy(text, a.at, a.size);
    memcpy(text + a.size, between.at, between.size);
    memcpy(text + a.size + between.size, b.at, b.size);
    return (fg_text){text, a.size + between.size + b.size};
}

/* The labels as the readings have them. */
static bool make(const tune_options *o, const fg_gate_file *file, fg_new_bands_made *made)
{
    fg_tuning_source sources[2 * TUNE_MOST];
    size_t count = 0;
    fg_mistake mistake;
    const fg_new_bands what = {
        .name = o->new_name, .sensor = o->new_sensor, .column = o->label_count ? o->labels[0].value : (fg_text){0}};
    for (size_t i = 0; i < o->recording_count; i++)
        sources[count++] = (fg_tuning_source){.recording = o->recordings[i], .options = o->common.reading};
    for (size_t i = 0; i < o->sample_count; i++)
        sources[count++] = (fg_tuning_source){
            .recording = o->samples[i].value.at, .options = o->common.reading, .label = o->samples[i].name};
    const fg_status status = fg_new_bands_make(&file->program, &what, sources, count, made, &mistake);
    if (status != FG_OK) tool_print_mistake(&mistake);
    return status == FG_OK;
}

/* A gate with the new bands. False: told. */
static bool open_with(const tune_options *o, const char *path, fg_text text, fg_gate_file *grown)
{
    fg_mistake mistake;
    if (!text.at) {
        tool_no_memory();
        return false;
    }
    const fg_status status = fg_gate_file_of_text(grown, path, text, tool_settings(&o->common), &mistake);
    if (status == FG_ERROR_GATE)
        tool_print_findings(grown, tool_told(&o->common));
    else if (status != FG_OK)
        tool_print_mistake(&mistake);
    return status == FG_OK;
}

/* The text with the best cuts and a margin; empty: told. */
static fg_text tuned_text(const tune_options *o, const fg_gate_file *grown)
{
    tuner t = {.options = o, .file = grown};
    fg_edit *edits = malloc(EDITS_MOST * sizeof *edits);
    fg_text text = {0};
    if (!edits) tool_no_memory();
    if (edits && tune_work_out(&t)) {
        const size_t count = fg_tuning_edits(t.tunings[0], &t.tuned[0], edits, EDITS_MOST, NULL, NULL);
        const fg_text cut = fg_edit_text(grown->text, edits, count < EDITS_MOST ? count : EDITS_MOST);
        if (cut.at) text = fg_new_bands_margin(cut, t.tunings[0], &t.tuned[0]);
        if (!text.at) tool_no_memory();
        fg_text_free(cut);
    }
    free(edits);
    tune_free(&t);
    return text;
}

/* What it is like with them, and the bands themselves: into the file, or to be pasted. */
static int tell(tuner *t, const fg_gate_file *file, fg_text after)
{
    const tune_options *o = t->options;
    const fg_text bands = {after.at + file->text.size, after.size - file->text.size};
    const bool text = o->common.form == FORM_TEXT;
    fg_mistake mistake;
    if (!tune_work_out(t)) return EXIT_WRONG;
    tune_print(t);
    if (o->write && fg_file_change(file->path, file->text, after, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
        return EXIT_WRONG;
    }
    if (text)
        fprintf(t->output,
                o->write ? "\nthese bands were added at the end of %s:\n"
                         : "\npaste this at the end of %s, or run the command again with --write:\n",
                tool_path(file->path));
    if (text) fwrite(bands.at, 1, bands.size, t->output);
    return o->output ? tune_draw(t) : EXIT_WELL;
}

static int work(const tune_options *o, const fg_gate_file *file, fg_text name, const fg_new_bands_made *made)
{
    tune_options own = *o;
    fg_gate_file grown = {0}, done = {0};
    char rule[256];
    int status = EXIT_WRONG;
    snprintf(rule, sizeof rule, "%.*s", (int)name.size, name.at);
    own.rules[own.rule_count++] = rule;
    own.label_count = 0;
    if (*made->column)
        own.labels[own.label_count++] = (fg_setting){{rule, name.size}, {made->column, strlen(made->column)}};
    const bool ends = !file->text.size || file->text.at[file->text.size - 1] == '\n';
    const fg_text first = joined(file->text, fg_text_of(ends ? "\n" : "\n\n"), made->text);
    fg_text after = {0};
    if (open_with(&own, file->path, first, &grown)) after = tuned_text(&own, &grown);
    own.common.quiet = true; /* its cells were told already */
    if (after.at && open_with(&own, file->path, after, &done)) {
        tuner t = {.options = &own, .file = &done, .output = tool_output_open()};
        status = t.output ? tell(&t, file, after) : EXIT_WRONG;
        const int written = t.output ? tool_output_close(t.output, own.common.form, status != EXIT_WRONG) : EXIT_WRONG;
        if (written != EXIT_WELL) status = written;
        tune_free(&t);
    }
    fg_gate_file_close(&done);
    fg_gate_file_close(&grown);
    fg_text_free(after);
    fg_text_free(first);
    return status;
}

int tune_new(const tune_options *o, const fg_gate_file *file)
{
    fg_new_bands_made made;
    if (o->write && strcmp(file->path, "-") == 0) {
        tool_say("fickle: error: a gate from standard input cannot be written back; name its file\n");
        return EXIT_WRONG;
    }
    if (!make(o, file, &made)) return EXIT_WRONG;
    const int status = work(o, file, o->new_name, &made);
    fg_text_free(made.text);
    return status;
}
