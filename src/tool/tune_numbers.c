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
    tool_say("fickle: %.*s would be better with %.*s %.*s, but that number is not changed here: %s\n",
             (int)rule->name.size, rule->name.at, (int)size, number, (int)rule->unit.size, rule->unit.at, why);
}

static bool same_place(const fg_edit *a, const fg_edit *b)
{
    return a->span.at == b->span.at && a->span.source == b->span.source;
}

/* The first other edit of the same number that wants another value; `count` if there is none. */
static size_t quarrel_of(const fg_edit *edits, size_t count, size_t i)
{
    size_t other = 0;
    while (other < count && (!same_place(&edits[other], &edits[i]) || !strcmp(edits[other].text, edits[i].text)))
        other++;
    return other;
}

/* One number for several rules that want it different stays as it is, however many they are. */
static size_t without_quarrels(fg_edit *edits, size_t count)
{
    bool kept[EDITS_MOST];
    size_t left = 0;
    for (size_t i = 0; i < count; i++) {
        const size_t other = quarrel_of(edits, count, i);
        size_t first = 0;
        while (!same_place(&edits[first], &edits[i])) first++;
        kept[i] = other == count && first == i;
        if (other < count && first == i) /* told once, at the first of them */
            tool_say("fickle: '%s' belongs to both %.*s and %.*s, which want %s and %s, so it stays as it is\n",
                     edits[i].was, (int)edits[i].rule->name.size, edits[i].rule->name.at,
                     (int)edits[other].rule->name.size, edits[other].rule->name.at, edits[i].text, edits[other].text);
    }
    for (size_t i = 0; i < count; i++)
        if (kept[i]) edits[left++] = edits[i];
    return left;
}

static const fg_declared *rule_of_line(const fg_program *p, uint16_t line)
{
    uint32_t i = 0;
    while (i < p->declared_count && p->declared[i].slot != line) i++;
    return i < p->declared_count ? &p->declared[i] : NULL;
}

/* Does this rule, if it was tuned, want the number changed as well? Those that want another value were told of before.
 */
static bool agrees(const tuner *t, const fg_declared *rule, const fg_written *written, bool *tuned)
{
    bool wants = false;
    *tuned = false;
    for (size_t k = 0; k < t->count; k++) {
        if (fg_tuning_rule(t->tunings[k]) != rule) continue;
        *tuned = true;
        for (size_t i = 0; i < t->tuned[k].change_count; i++)
            wants = wants || t->tuned[k].changes[i].written == written;
    }
    return wants;
}

/* Who else stands on a number: a rule that was tuned and wants it as it is keeps it; others are told of. */
static bool is_kept(const tuner *t, const fg_edit *edit)
{
    const fg_program *p = &t->file->program;
    for (uint32_t i = 0; i < p->written_count; i++) {
        const fg_written *w = &p->written[i];
        bool tuned;
        if (w->span.source != edit->span.source || w->span.at != edit->span.at || !w->span.size) continue;
        const fg_declared *other = rule_of_line(p, w->op), *rule = edit->rule;
        if (!other || other == rule || agrees(t, other, w, &tuned)) continue;
        if (tuned) {
            tool_say("fickle: %.*s would be better with %s, but %.*s with %s, so it stays as it is\n",
                     (int)rule->name.size, rule->name.at, edit->text, (int)other->name.size, other->name.at, edit->was);
            return true;
        }
        if (!t->options->common.quiet)
            tool_say("fickle: note: %.*s has the same number, so it changes too\n", (int)other->name.size,
                     other->name.at);
    }
    return false;
}

static size_t without_kept(const tuner *t, fg_edit *edits, size_t count)
{
    size_t kept = 0;
    for (size_t i = 0; i < count; i++)
        if (!is_kept(t, &edits[i])) edits[kept++] = edits[i];
    return kept;
}

/* ---- the trials with them ---- */

typedef struct outcomes {
    fg_outcome *list;
    size_t count, room;
    FILE *output; /* where the ones that fail now are told; NULL: they are only gathered */
    const struct outcomes *before;
    size_t broken, held;
    bool full;
} outcomes;

static void on_trial(void *context, const fg_trial *trial, const fg_replay_report *report)
{
    (void)context;
    (void)trial;
    (void)report;
}

static void on_result(void *context, const fg_trial_result *result)
{
    outcomes *o = context;
    if (o->count == o->room) {
        const size_t room = o->room ? 2 * o->room : 64;
        fg_outcome *list = realloc(o->list, room * sizeof *list);
        o->full = o->full || !list;
        if (!list) return;
        o->list = list;
        o->room = room;
    }
    const bool held = !o->before || (o->count < o->before->count && o->before->list[o->count] == FG_OUTCOME_HELD);
    o->list[o->count++] = result->outcome;
    o->held += result->outcome == FG_OUTCOME_HELD;
    if (!o->before || !held || result->outcome == FG_OUTCOME_HELD) return;
    o->broken++;
    tool_say("fickle: held, and %s with the new numbers: line %" PRIu32 ", %.*s: %.*s\n",
             fg_outcome_word(result->outcome), result->line, (int)result->expectation.size, result->expectation.at,
             (int)result->because.size, result->because.at);
}

static bool run(const tuner *t, const fg_gate_file *file, outcomes *o)
{
    const fg_trial_observer observer = {.context = o, .trial = on_trial, .result = on_result};
    const bool ran = tool_run_trials(&t->options->common, file, &observer);
    if (ran && o->full) tool_no_memory();
    return ran && !o->full;
}

/* EXIT_WELL: all that held still holds. */
static int compare_trials(const tuner *t, const fg_gate_file *changed)
{
    outcomes before = {0}, after = {.before = &before};
    int status = EXIT_WRONG;
    if (run(t, t->file, &before) && run(t, changed, &after)) status = after.broken ? EXIT_HELD_NOT : EXIT_WELL;
    if (status != EXIT_WRONG && !t->options->common.quiet)
        tool_say("trials: %zu of %zu expectations hold with the new numbers, %zu of %zu did before\n", after.held,
                 after.count, before.held, before.count);
    free(before.list);
    free(after.list);
    return status;
}

/* The new text has to be a gate, and with --check its trials have to hold. */
static int try_out(const tuner *t, fg_text text)
{
    const tool_options *o = &t->options->common;
    fg_mistake mistake = {0};
    fg_gate_file changed = {0};
    int status = EXIT_WRONG;
    const fg_status compiled =
        fg_gate_file_of_text(&changed, t->file->path, text, o->settings, o->setting_count, &mistake);
    if (compiled == FG_ERROR_GATE) {
        tool_print_findings(&changed, o);
        tool_say("fickle: error: with the new numbers it is no gate any more, so nothing is written\n");
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
    if (refused && o->write) tool_say("fickle: nothing is written; --force writes nevertheless\n");
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
        const size_t more =
            fg_tuning_edits(t->tunings[i], &t->tuned[i], edits + count, EDITS_MOST - count, t->tunings[i], on_left);
        count += more < EDITS_MOST - count ? more : EDITS_MOST - count;
    }
    if (edits) count = without_kept(t, edits, without_quarrels(edits, count));
    if (edits && !count) {
        for (size_t i = 0; i < t->count; i++) wanted += t->tuned[i].change_count;
        if (t->options->common.form == FORM_TEXT)
            fprintf(t->output, "\nno number %s\n", wanted ? "is changed" : "has to change");
        status = EXIT_WELL;
    } else if (edits) {
        const fg_text after = fg_edit_text(t->file->program.sources[0].text, edits, count);
        if (after.at)
            status = write_or_show(t, edits, count, after);
        else
            tool_no_memory();
        free((void *)after.at);
    } else {
        tool_no_memory();
    }
    free(edits);
    return status;
}
