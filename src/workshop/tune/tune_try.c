/* SPDX-License-Identifier: MIT */
/* What each value of a number would do: trials held, changes, and how late they come. */
#include "workshop/base/buffer.h"

#include <ficklegate/tune.h>

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

/* A value that is tried, with the gate that has it. */
typedef struct attempt {
    fg_tried_value *value;
    fg_gate_file gate;
    fg_setting *settings;
    uint32_t broken;
} attempt;

/* ---- which values ---- */

static int decimals_in(const char *text, size_t size)
{
    const char *point = memchr(text, '.', size);
    return point ? (int)(text + size - point - 1) : 0;
}

/* "8..16 by 0.5" in the finest of the steps that are written. */
static bool read_values(fg_tried *t, const char *text)
{
    const char *dots = strstr(text, ".."), *by = dots ? strstr(dots, " by ") : NULL;
    if (!dots || !by) return false;
    const char *to = dots + 2, *step = by + 4;
    const size_t sizes[3] = {(size_t)(dots - text), (size_t)(by - to), strlen(step)};
    const char *const texts[3] = {text, to, step};
    fg_value numbers[3];
    int decimals = 0;
    for (int i = 0; i < 3; i++)
        if (decimals_in(texts[i], sizes[i]) > decimals) decimals = decimals_in(texts[i], sizes[i]);
    for (int i = 0; i < 3; i++)
        if (decimals > FG_DECIMALS_MOST || fg_value_read(texts[i], sizes[i], (uint8_t)decimals, &numbers[i]) != FG_OK)
            return false;
    if (numbers[2] <= 0 || numbers[1] < numbers[0]) return false;
    for (int64_t v = numbers[0]; v <= numbers[1]; v += numbers[2]) {
        char written[FG_VALUE_TEXT_SIZE];
        if (t->count == FG_TRY_VALUES_MOST) return false;
        const size_t size = fg_value_write((fg_value)v, (uint8_t)decimals, written);
        snprintf(t->values[t->count++].text, sizeof t->values->text, "%.*s", (int)size, written);
    }
    return true;
}

static bool read_what(fg_tried *t, const char *what)
{
    const char *equals = strchr(what, '=');
    const size_t size = equals ? (size_t)(equals - what) : 0;
    if (!size || size >= sizeof t->number) return false;
    memcpy(t->number, what, size);
    return read_values(t, equals + 1);
}

/* ---- one value ---- */

static void on_result(void *context, const fg_trial_result *result)
{
    attempt *a = context;
    a->value->expected++;
    a->value->held += result->outcome == FG_OUTCOME_HELD;
    if (result->outcome != FG_OUTCOME_HELD && a->broken++ < FG_TRY_LINES) a->value->lines[a->broken - 1] = result->line;
}

static bool on_change(void *context, const fg_change *change)
{
    const attempt *a = context;
    fg_tried_name *n = &a->value->names[change->declared - a->gate.program.declared];
    if (!change->was.size) return true;
    const int64_t stay = n->changes ? change->t_ms - n->last_ms : change->t_ms;
    if (!n->changes++) n->first_ms = change->t_ms;
    if (n->shortest_ms < 0 || stay < n->shortest_ms) n->shortest_ms = stay;
    n->last_ms = change->t_ms;
    n->sum_ms += change->t_ms;
    return true;
}

static fg_status no_memory(fg_mistake *mistake)
{
    return fg_mistake_set(mistake, FG_ERROR_MEMORY, "fickle", 0, "there is not enough memory");
}

/* Opens the gate with this value and runs its trials. */
static fg_status begin_attempt(attempt *a, const fg_gate_file *file, const fg_tried *tried,
                               const fg_try_options *options, fg_mistake *mistake)
{
    const size_t count = file->settings.count;
    const fg_trial_observer observer = {.context = a, .result = on_result, .progress = options->trial_progress};
    a->settings = malloc((count + 1) * sizeof *a->settings);
    if (!a->settings) return no_memory(mistake);
    if (count) memcpy(a->settings, file->settings.at, count * sizeof *a->settings);
    a->settings[count] = (fg_setting){fg_text_of(tried->number), fg_text_of(a->value->text)};
    const fg_status status =
        fg_gate_file_open(&a->gate, file->path, (fg_settings){.at = a->settings, .count = count + 1}, mistake);
    if (status == FG_ERROR_GATE && options->refused) options->refused(options->context, a->value->text, &a->gate);
    if (status != FG_OK) return status;
    return fg_trials_run(&a->gate, options->trial_options, options->jobs, &observer, mistake);
}

static bool make_names(fg_tried_value *value, uint32_t count)
{
    value->names = calloc((size_t)count + 1, sizeof *value->names);
    for (uint32_t i = 0; value->names && i < count; i++)
        value->names[i] = (fg_tried_name){.first_ms = -1, .shortest_ms = -1, .last_ms = -1};
    return value->names != NULL;
}

/* Plays the readings through the gates with all values at once. */
static fg_status play(attempt *attempts, size_t count, const fg_try_options *options, fg_mistake *mistake)
{
    const fg_program **programs = calloc(count, sizeof(const fg_program *));
    fg_replay_observer *observers = calloc(count, sizeof *observers);
    fg_replay_report *reports = calloc(count, sizeof *reports);
    bool good = programs && observers && reports;
    for (size_t i = 0; i < count && good; i++) {
        programs[i] = &attempts[i].gate.program;
        observers[i] = (fg_replay_observer){.context = &attempts[i],
                                            .change = on_change,
                                            .without_reasons = true,
                                            .progress = options->replay_progress};
        good = make_names(attempts[i].value, programs[i]->declared_count);
    }
    const fg_status status =
        good ? fg_replay_together(programs, observers, count, options->readings, reports, mistake) : no_memory(mistake);
    free(programs);
    free(observers);
    free(reports);
    return status;
}

fg_status fg_try(const fg_gate_file *file, const char *what, const fg_try_options *options, fg_tried *tried,
                 fg_mistake *mistake)
{
    fg_status status = FG_OK;
    *mistake = (fg_mistake){0};
    *tried = (fg_tried){.name_count = file->program.declared_count};
    tried->values = calloc(FG_TRY_VALUES_MOST, sizeof *tried->values);
    if (!tried->values) return no_memory(mistake);
    if (!read_what(tried, what)) return FG_ERROR_ARGUMENT;
    attempt *attempts = calloc(tried->count, sizeof *attempts);
    if (!attempts) return no_memory(mistake);
    for (size_t i = 0; i < tried->count && status == FG_OK; i++) {
        attempts[i].value = &tried->values[i];
        status = begin_attempt(&attempts[i], file, tried, options, mistake);
    }
    if (status == FG_OK && options->readings) status = play(attempts, tried->count, options, mistake);
    for (size_t i = 0; i < tried->count; i++) {
        fg_gate_file_close(&attempts[i].gate);
        free(attempts[i].settings);
    }
    free(attempts);
    return status;
}

void fg_tried_free(fg_tried *tried)
{
    for (size_t i = 0; tried->values && i < tried->count; i++) free(tried->values[i].names);
    free(tried->values);
    *tried = (fg_tried){0};
}

/* ---- what came of it ---- */

/* Does anything of this name depend on the number? */
static bool differs(const fg_tried *t, uint32_t name)
{
    const fg_tried_name *first = &t->values[0].names[name];
    for (size_t i = 1; i < t->count; i++) {
        const fg_tried_name *n = &t->values[i].names[name];
        if (n->changes != first->changes || n->sum_ms != first->sum_ms) return true;
    }
    return false;
}

size_t fg_tried_names(const fg_tried *tried, const fg_program *program, uint32_t *names, size_t room)
{
    bool taken[2] = {false, false};
    size_t count = 0;
    if (!tried->count || !tried->values[0].names) return 0;
    for (int turn = 0; turn < 2; turn++)
        for (uint32_t i = 0; i < tried->name_count && count < room; i++) {
            const bool output = fg_kind_is(program->declared[i].kind, FG_KIND_IS_OUTPUT);
            bool known = false;
            for (size_t k = 0; k < count; k++) known = known || names[k] == i;
            if (known || (turn == 0 && taken[output]) || !differs(tried, i)) continue;
            taken[output] = true;
            names[count++] = i;
        }
    return count;
}

double fg_tried_later(const fg_tried *tried, size_t value, uint32_t name)
{
    const fg_tried_name *own = &tried->values[value].names[name];
    int64_t earliest = own->sum_ms;
    for (size_t i = 0; i < tried->count; i++) {
        const fg_tried_name *n = &tried->values[i].names[name];
        if (n->changes == own->changes && n->sum_ms < earliest) earliest = n->sum_ms;
    }
    return own->changes ? (double)(own->sum_ms - earliest) / 1000 / (double)own->changes : 0;
}
