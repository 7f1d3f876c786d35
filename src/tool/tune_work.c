/* SPDX-License-Identifier: MIT */
/* What `fickle tune` does with its recordings, whatever comes of it: the rules that are asked for, their readings, and
 * what is found out. */
#include "tune.h"

#include <ficklegate/draw.h>
#include <stdlib.h>
#include <string.h>

/* ---- which rules ---- */

/* Was this rule asked for by name, or is any fine? */
static bool is_asked(const tune_options *o, const fg_declared *d, bool *named)
{
    bool any = false, asked = false;
    for (size_t i = 0; i < o->rule_count; i++) {
        any = true;
        asked = asked || fg_text_is(d->name, o->rules[i]);
    }
    for (size_t i = 0; i < o->label_count; i++) {
        if (!o->labels[i].name.size) continue;
        any = true;
        asked = asked || fg_text_same(d->name, o->labels[i].name);
    }
    *named = asked;
    return asked || !any;
}

static fg_text column_of(const tune_options *o, const fg_declared *d)
{
    fg_text column = {0};
    for (size_t i = 0; i < o->label_count; i++)
        if (!o->labels[i].name.size || fg_text_same(d->name, o->labels[i].name)) column = o->labels[i].value;
    return column;
}

static bool start(tuner *t, const fg_program *program)
{
    t->tunings = calloc((size_t)program->declared_count + 1, sizeof(fg_tuning *));
    t->named = calloc((size_t)program->declared_count + 1, sizeof *t->named);
    t->tuned = calloc((size_t)program->declared_count + 1, sizeof *t->tuned);
    bool good = t->tunings && t->named && t->tuned;
    for (uint32_t i = 0; good && i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        bool named;
        if (!fg_kind_is(d->kind, FG_KIND_ON_SENSOR) || !is_asked(t->options, d, &named)) continue;
        t->named[t->count] = named;
        t->tunings[t->count] = fg_tuning_start(program, d, column_of(t->options, d));
        good = t->tunings[t->count++] != NULL;
    }
    if (!good) tool_no_memory();
    return good;
}

/* ---- reading ---- */

static bool read_one(tuner *t, const char *recording, fg_text label)
{
    fg_replay_report report = {0};
    fg_mistake mistake;
    const fg_tuning_source source = {.recording = recording,
                                     .options = t->options->common.reading,
                                     .label = label,
                                     .progress = tool_progress_of_rows()};
    const fg_status status = fg_tuning_read(t->tunings, t->count, &source, &report, &mistake);
    tool_progress_end();
    if (status != FG_OK) {
        tool_print_mistake(&mistake);
        return false;
    }
    t->rows += report.rows;
    if (t->options->common.quiet) return true;
    if (*report.note) tool_say("%s: %s\n", tool_path(recording), report.note);
    tool_print_cells(tool_path(recording), &report);
    return true;
}

static bool read_all(tuner *t)
{
    const tune_options *o = t->options;
    for (size_t i = 0; i < o->recording_count; i++)
        if (!read_one(t, o->recordings[i], (fg_text){0})) return false;
    for (size_t i = 0; i < o->sample_count; i++)
        if (!read_one(t, o->samples[i].value.at, o->samples[i].name)) return false;
    return true;
}

static void tell_missing(const tuner *t, size_t i)
{
    const fg_declared *rule = fg_tuning_rule(t->tunings[i]);
    tool_say("fickle: error: there are no readings of two labels of %.*s; its labels are", (int)rule->name.size,
             rule->name.at);
    if (!fg_kind_is(rule->kind, FG_KIND_LABELS)) tool_say(" yes and no");
    for (uint16_t k = 0; fg_kind_is(rule->kind, FG_KIND_LABELS) && k < rule->label_count; k++)
        tool_say(" %.*s", (int)rule->labels[k].size, rule->labels[k].at);
    if (t->tuned[i].unknown) tool_say(", and the readings have '%s'", t->tuned[i].unknown_label);
    tool_say("\n");
}

/* A rule that nobody named stays if all labels are its own and there are two of them. */
static bool keep_those_that_fit(tuner *t)
{
    size_t kept = 0, plain = 0;
    char unknown[FG_SHOWN_MOST + 1] = "";
    for (size_t i = 0; i < t->count; i++) {
        const bool fits = !t->tuned[i].unknown && t->tuned[i].label_count >= 2;
        if (t->tuned[i].unknown && !*unknown) memcpy(unknown, t->tuned[i].unknown_label, sizeof unknown);
        if (t->named[i] && t->tuned[i].label_count < 2) {
            tell_missing(t, i);
            return false;
        }
        if (!t->named[i] && !fits) {
            fg_tuning_end(t->tunings[i]);
            continue;
        }
        plain += !t->named[i] && !fg_kind_is(fg_tuning_rule(t->tunings[i])->kind, FG_KIND_LABELS);
        t->tunings[kept] = t->tunings[i];
        t->named[kept] = t->named[i];
        t->tuned[kept++] = t->tuned[i];
    }
    t->count = kept;
    if (!kept && *unknown)
        tool_say("fickle: error: no rule has all of the labels, as in '%s'; name the rule to tune, --rule NAME, or "
                 "create bands from them: --new NAME\n",
                 unknown);
    else if (!kept)
        tool_say("fickle: error: there are no readings of two labels of a rule\n");
    if (plain < 2) return kept > 0;
    tool_say("fickle: error: labels yes and no fit several rules; name the one to tune: --rule NAME, one of");
    for (size_t i = 0; i < t->count; i++) {
        const fg_text name = fg_tuning_rule(t->tunings[i])->name;
        tool_say(" %.*s", (int)name.size, name.at);
    }
    tool_say("\n");
    return false;
}

static bool work(tuner *t)
{
    for (size_t i = 0; i < t->count; i++) {
        if (fg_tuning_work(t->tunings[i], &t->tuned[i])) continue;
        tool_no_memory();
        return false;
    }
    return keep_those_that_fit(t);
}

bool tune_work_out(tuner *t) { return start(t, &t->file->program) && read_all(t) && work(t); }

void tune_free(tuner *t)
{
    for (size_t i = 0; i < t->count; i++) fg_tuning_end(t->tunings[i]);
    free(t->tunings);
    free(t->named);
    free(t->tuned);
}

int tune_draw(const tuner *t)
{
    const tune_options *o = t->options;
    const fg_draw_options options = {.width = o->width, .height = o->height, .dark = o->dark};
    fg_mistake mistake;
    if (fg_draw_spread(&(fg_tunings){t->tunings, t->tuned, t->count}, &options, o->output, &mistake) == FG_OK)
        return EXIT_WELL;
    tool_print_mistake(&mistake);
    return EXIT_WRONG;
}
