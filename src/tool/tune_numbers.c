/* SPDX-License-Identifier: MIT */
/* New numbers into the gate file, or as a difference. */
#include "tune.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { EDITS_MOST = 1000 };

static void on_left(void *context, const fg_tuned_change *change, const char *why)
{
    const fg_declared *rule = fg_tuning_rule(context);
    char number[FG_VALUE_TEXT_SIZE];
    const size_t size = fg_value_write(change->value, rule->decimals, number);
    tool_say("fickle: note: %.*s would work better with %.*s %.*s, but that number is not changed here: %s\n",
             (int)rule->name.size, rule->name.at, (int)size, number, (int)rule->unit.size, rule->unit.at, why);
}

static void on_note(void *context, const fg_edit_note *note)
{
    const tuner *t = context;
    const fg_text rule = note->edit->rule->name, other = note->other->name;
    switch (note->kind) {
    case FG_EDIT_DISPUTED:
        tool_say("fickle: note: '%s' belongs to both %.*s and %.*s, which want %s and %s, so it stays as it is\n",
                 note->edit->was, (int)rule.size, rule.at, (int)other.size, other.at, note->edit->text,
                 note->other_text);
        return;
    case FG_EDIT_KEPT:
        tool_say("fickle: note: %.*s would work better with %s, but %.*s with %s, so it stays as it is\n",
                 (int)rule.size, rule.at, note->edit->text, (int)other.size, other.at, note->other_text);
        return;
    case FG_EDIT_SHARED:
        if (t->options->common.quiet) return;
        tool_say("fickle: note: %.*s has the same number, so it changes too\n", (int)other.size, other.at);
        return;
    }
}

/* ---- the trials with them ---- */

static void on_broken(void *context, const fg_trial_result *result)
{
    (void)context;
    tool_say("fickle: error: held, and %s with the new numbers: line %" PRIu32 ", %.*s: %.*s\n",
             fg_outcome_word(result->outcome), result->line, (int)result->expectation.size, result->expectation.at,
             (int)result->because.size, result->because.at);
}

/* EXIT_WELL: all that held still holds. */
static int compare_trials(const tuner *t, const fg_gate_file *changed)
{
    const tool_options *o = &t->options->common;
    const fg_trial_observer observer = {.result = on_broken, .progress = tool_progress_of_trials(t->file)};
    fg_trials_compared c;
    fg_mistake mistake;
    const fg_status status = fg_trials_compare(t->file, changed, &o->reading, o->jobs, &observer, &c, &mistake);
    tool_progress_end();
    if (status != FG_OK) {
        tool_print_mistake(&mistake);
        return EXIT_WRONG;
    }
    if (!o->quiet)
        tool_say("trials: %zu of %zu expectations hold with the new numbers, %zu of %zu did before\n", c.held_after,
                 c.expected_after, c.held_before, c.expected_before);
    return c.broken ? EXIT_HELD_NOT : EXIT_WELL;
}

/* The new text has to be a gate, and with --check its trials have to hold. */
static int try_out(const tuner *t, fg_text text)
{
    const tool_options *o = &t->options->common;
    fg_mistake mistake = {0};
    fg_gate_file changed = {0};
    int status = EXIT_WRONG;
    const fg_status compiled = fg_gate_file_of_text(&changed, t->file->path, text, tool_settings(o), &mistake);
    if (compiled == FG_ERROR_GATE) {
        tool_print_findings(&changed, tool_told(o));
        tool_say("fickle: error: the gate has errors with the new numbers, so nothing was written\n");
    } else if (compiled != FG_OK) {
        tool_print_mistake(&mistake);
    } else {
        status = t->options->check ? compare_trials(t, &changed) : EXIT_WELL;
    }
    fg_gate_file_close(&changed);
    return status;
}

/* ---- writing ---- */

static void tell_edits(const tuner *t, const fg_edit *edits, size_t count)
{
    for (size_t i = 0; i < count; i++) {
        const fg_text name = edits[i].number ? edits[i].number->name : edits[i].rule->name;
        fprintf(t->output, "%s:%" PRIu32 ": %.*s: %s -> %s\n", t->file->path,
                fg_text_place(t->file->program.sources[0].text, edits[i].span.at).line, (int)name.size, name.at,
                edits[i].was, edits[i].text);
    }
}

static int write_or_show(const tuner *t, const fg_edit *edits, size_t count, fg_text after)
{
    const tune_options *o = t->options;
    const bool text = o->common.form == FORM_TEXT;
    fg_mistake mistake;
    int status = o->write || o->check ? try_out(t, after) : EXIT_WELL;
    const bool refused = status == EXIT_HELD_NOT && !o->force;
    if (status == EXIT_WRONG) return status;
    if (refused && o->write) tool_say("fickle: error: nothing was written; --force writes anyway\n");
    if (o->write && !refused) {
        if (fg_file_change(t->file->path, t->file->program.sources[0].text, after, &mistake) != FG_OK) {
            tool_print_mistake(&mistake);
            return EXIT_WRONG;
        }
        if (text) fputc('\n', t->output);
        if (text) tell_edits(t, edits, count);
    } else if (text) {
        fputc('\n', t->output);
        if (!fg_write_diff(t->output, t->file->path, t->file->program.sources[0].text, after)) {
            tool_no_memory();
            return EXIT_WRONG;
        }
    }
    return refused ? EXIT_HELD_NOT : EXIT_WELL;
}

int tune_numbers(const tuner *t)
{
    fg_edit *edits = malloc(EDITS_MOST * sizeof *edits);
    size_t count = 0, wanted = 0;
    int status = EXIT_WRONG;
    if (t->options->write && strcmp(t->file->path, "-") == 0) {
        tool_say("fickle: error: a gate from standard input cannot be written back; name its file\n");
        free(edits);
        return EXIT_WRONG;
    }
    for (size_t i = 0; edits && i < t->count; i++) {
        if (t->tuned[i].backwards) continue; /* its numbers would fit the wrong way round */
        const size_t more =
            fg_tuning_edits(t->tunings[i], &t->tuned[i], edits + count, EDITS_MOST - count, t->tunings[i], on_left);
        count += more < EDITS_MOST - count ? more : EDITS_MOST - count;
    }
    const fg_tunings tunings = {t->tunings, t->tuned, t->count};
    if (edits) count = fg_edits_agreed(&tunings, edits, count, (void *)t, on_note);
    if (count == FG_EDITS_NO_MEMORY) {
        free(edits);
        edits = NULL;
    }
    if (edits && !count) {
        for (size_t i = 0; i < t->count; i++) wanted += t->tuned[i].change_count;
        if (t->options->common.form == FORM_TEXT)
            fprintf(t->output, "\nno number %s\n", wanted ? "is changed" : "needs to change");
        status = EXIT_WELL;
    } else if (edits) {
        const fg_text after = fg_edit_text(t->file->program.sources[0].text, edits, count);
        if (after.at)
            status = write_or_show(t, edits, count, after);
        else
            tool_no_memory();
        fg_text_free(after);
    } else {
        tool_no_memory();
    }
    free(edits);
    return status;
}
