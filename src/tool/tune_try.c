/* fickle tune GATE [RECORDING] --try "NUMBER=A..B by S": what each value would do. */
#include "tune.h"

#include <ficklegate/draw.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { VALUES_MOST = 200, SHOWN_NAMES = 4, TEXT_NAMES = 2, LINES_SHOWN = 4 };

/* What a name did with one value. */
typedef struct doing {
    uint64_t changes;
    int64_t first_ms, last_ms, shortest_ms; /* of its changes; -1: none */
    int64_t sum_ms;                         /* of the times of its changes */
} doing;

typedef struct one_value {
    char text[32];
    uint32_t held, expected;
    uint32_t lines[LINES_SHOWN];
    uint32_t line_count;
    doing *names; /* one for each that is declared; NULL without a recording */
} one_value;

typedef struct attempt {
    const tune_options *options;
    const fg_gate_file *file;
    char name[64];
    one_value values[VALUES_MOST];
    size_t count;
    one_value *now;
    const fg_program *program; /* with the present value */
} attempt;

/* ---- which values ---- */

static int decimals_in(const char *text, size_t size)
{
    const char *point = memchr(text, '.', size);
    return point ? (int)(text + size - point - 1) : 0;
}

/* "8..16 by 0.5" in the finest of the steps that are written. */
static bool read_values(attempt *a, const char *text)
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
        if (decimals > 6 || fg_value_read(texts[i], sizes[i], (uint8_t)decimals, &numbers[i]) != FG_OK) return false;
    if (numbers[2] <= 0 || numbers[1] < numbers[0]) return false;
    for (int64_t v = numbers[0]; v <= numbers[1]; v += numbers[2]) {
        char written[FG_VALUE_TEXT_SIZE];
        if (a->count == VALUES_MOST) return false;
        const size_t size = fg_value_write((fg_value)v, (uint8_t)decimals, written);
        snprintf(a->values[a->count++].text, sizeof a->values->text, "%.*s", (int)size, written);
    }
    return true;
}

static bool read_try(attempt *a)
{
    const char *equals = strchr(a->options->try, '=');
    const size_t size = equals ? (size_t)(equals - a->options->try) : 0;
    if (equals && size && size < sizeof a->name) {
        memcpy(a->name, a->options->try, size);
        if (read_values(a, equals + 1)) return true;
    }
    tool_say(
        "fickle: error: --try needs a number of the gate and at most %d rising values, as in \"bilge_high=8..16 by "
        "0.5\", not '%s'\n",
        VALUES_MOST, a->options->try);
    return false;
}

/* ---- one value ---- */

static void on_trial(void *context, const fg_trial *trial, const fg_replay_report *report)
{
    (void)context;
    (void)trial;
    (void)report;
}

static void on_result(void *context, const fg_trial_result *result)
{
    one_value *v = ((attempt *)context)->now;
    v->expected++;
    v->held += result->outcome == FG_OUTCOME_HELD;
    if (result->outcome != FG_OUTCOME_HELD && v->line_count++ < LINES_SHOWN) v->lines[v->line_count - 1] = result->line;
}

static bool on_change(void *context, const fg_change *change)
{
    const attempt *a = context;
    doing *d = &a->now->names[change->declared - a->program->declared];
    if (!change->was.size) return true;
    const int64_t stay = d->changes ? change->t_ms - d->last_ms : change->t_ms;
    if (!d->changes++) d->first_ms = change->t_ms;
    if (d->shortest_ms < 0 || stay < d->shortest_ms) d->shortest_ms = stay;
    d->last_ms = change->t_ms;
    d->sum_ms += change->t_ms;
    return true;
}

static bool play(attempt *a, const fg_gate_file *gate)
{
    const fg_replay_observer observer = {.context = a, .change = on_change, .progress = tool_progress};
    fg_replay_report report;
    fg_mistake mistake;
    a->program = &gate->program;
    a->now->names = calloc((size_t)gate->program.declared_count + 1, sizeof *a->now->names);
    for (uint32_t i = 0; a->now->names && i < gate->program.declared_count; i++)
        a->now->names[i] = (doing){0, -1, -1, -1, 0};
    if (!a->now->names) return false;
    const fg_status status =
        fg_replay(&gate->program, a->options->recordings[0], &a->options->common.reading, &observer, &report, &mistake);
    tool_progress_end();
    if (status != FG_OK) tool_print_mistake(&mistake);
    return status == FG_OK;
}

static bool try_value(attempt *a)
{
    tool_options *common = calloc(1, sizeof *common);
    fg_gate_file gate = {0};
    fg_mistake mistake;
    if (!common) return false;
    *common = a->options->common;
    if (common->setting_count == SETTINGS_MOST) common->setting_count--;
    common->settings[common->setting_count++] =
        (fg_setting){{a->name, strlen(a->name)}, {a->now->text, strlen(a->now->text)}};
    const fg_status status = fg_gate_file_open(&gate, a->file->path, common->settings, common->setting_count, &mistake);
    bool good = status == FG_OK;
    if (status == FG_ERROR_GATE) {
        tool_say("fickle: with %s=%s:\n", a->name, a->now->text);
        tool_print_findings(&gate, common);
    } else if (!good) {
        tool_print_mistake(&mistake);
    }
    const fg_trial_observer observer = {.context = a, .trial = on_trial, .result = on_result};
    if (good && gate.program.trial_count) good = tool_run_trials(common, &gate, &observer);
    if (good && a->options->recording_count) good = play(a, &gate);
    fg_gate_file_close(&gate);
    free(common);
    return good;
}

/* ---- the table ---- */

/* Does anything of this name hang on the number? */
static bool differs(const attempt *a, uint32_t name)
{
    const doing *first = &a->values[0].names[name];
    for (size_t i = 1; i < a->count; i++) {
        const doing *d = &a->values[i].names[name];
        if (d->changes != first->changes || d->sum_ms != first->sum_ms) return true;
    }
    return false;
}

/* The first few names that differ: a rule, an output, and more of both. */
static size_t choose_names(const attempt *a, uint32_t *names)
{
    const fg_program *p = &a->file->program;
    bool taken[2] = {false, false};
    size_t count = 0;
    for (int turn = 0; turn < 2 && a->options->recording_count; turn++)
        for (uint32_t i = 0; i < p->declared_count && count < SHOWN_NAMES; i++) {
            const bool output = fg_kind_is(p->declared[i].kind, FG_KIND_IS_OUTPUT);
            bool known = false;
            for (size_t k = 0; k < count; k++) known = known || names[k] == i;
            if (known || (turn == 0 && taken[output]) || !differs(a, i)) continue;
            taken[output] = true;
            names[count++] = i;
        }
    return count;
}

static void print_lines(FILE *out, const one_value *v)
{
    char text[80] = "";
    size_t size = 0;
    for (uint32_t i = 0; i < v->line_count && i < LINES_SHOWN; i++)
        size += (size_t)snprintf(text + size, sizeof text - size, "%s%" PRIu32, i ? ", " : "line ", v->lines[i]);
    if (v->line_count > LINES_SHOWN) snprintf(text + size, sizeof text - size, " ...");
    fprintf(out, "  %-26s", text);
}

static void print_doing(FILE *out, const doing *d, double later)
{
    fprintf(out, "  %7" PRIu64, d->changes);
    if (d->first_ms < 0)
        fprintf(out, " %9s %9s %12s", "-", "-", "-");
    else
        fprintf(out, " %9.1f %9.1f %12.1f", (double)d->first_ms / 1000, later, (double)d->shortest_ms / 1000);
}

/* How many seconds later its changes come on average than with the value that has as many and the earliest. */
static double later_by(const attempt *a, const one_value *value, uint32_t name)
{
    const doing *own = &value->names[name];
    int64_t earliest = own->sum_ms;
    for (size_t i = 0; i < a->count; i++) {
        const doing *d = &a->values[i].names[name];
        if (d->changes == own->changes && d->sum_ms < earliest) earliest = d->sum_ms;
    }
    return own->changes ? (double)(own->sum_ms - earliest) / 1000 / (double)own->changes : 0;
}

static void print_text(const attempt *a, FILE *out, const uint32_t *names, size_t name_count)
{
    const bool trials = a->file->program.trial_count > 0;
    if (name_count) fprintf(out, trials ? "%57s" : "%14s", "");
    for (size_t k = 0; k < name_count; k++) {
        const fg_text name = a->file->program.declared[names[k]].name;
        fprintf(out, "  %.*s%*s", (int)name.size, name.at,
                k + 1 < name_count && name.size < 40 ? 40 - (int)name.size : 0, "");
    }
    fprintf(out, "%s%14s", name_count ? "\n" : "", a->name);
    if (trials) fprintf(out, "  %6s %6s  %-26s", "held", "of", "what does not");
    for (size_t k = 0; k < name_count; k++)
        fprintf(out, "  %7s %9s %9s %12s", "changes", "first [s]", "later [s]", "shortest [s]");
    fputc('\n', out);
    for (size_t i = 0; i < a->count; i++) {
        const one_value *v = &a->values[i];
        fprintf(out, "%14s", v->text);
        if (trials) fprintf(out, "  %6" PRIu32 " %6" PRIu32, v->held, v->expected);
        if (trials) print_lines(out, v);
        for (size_t k = 0; k < name_count; k++) print_doing(out, &v->names[names[k]], later_by(a, v, names[k]));
        fputc('\n', out);
    }
    if (a->options->recording_count && !name_count) fputs("nothing in this recording hangs on it\n", out);
    if (name_count)
        fputs("first: of its changes; later: how much, on average, than with the value that changes as often and the "
              "earliest\n",
              out);
}

static void print_csv(const attempt *a, FILE *out, const uint32_t *names, size_t name_count)
{
    fputs("value,held,expected,name,changes,first_ms,shortest_ms\n", out);
    for (size_t i = 0; i < a->count; i++) {
        const one_value *v = &a->values[i];
        if (!name_count) fprintf(out, "%s,%" PRIu32 ",%" PRIu32 ",,,,\n", v->text, v->held, v->expected);
        for (size_t k = 0; k < name_count; k++) {
            const doing *d = &v->names[names[k]];
            const fg_text name = a->file->program.declared[names[k]].name;
            fprintf(out, "%s,%" PRIu32 ",%" PRIu32 ",%.*s,%" PRIu64 ",%" PRId64 ",%" PRId64 "\n", v->text, v->held,
                    v->expected, (int)name.size, name.at, d->changes, d->first_ms, d->shortest_ms);
        }
    }
}

static bool draw(const attempt *a, const uint32_t *names, size_t name_count)
{
    static double x[VALUES_MOST], y[SHOWN_NAMES + 1][VALUES_MOST];
    fg_curve curves[SHOWN_NAMES + 1];
    size_t count = 0;
    fg_mistake mistake;
    for (size_t i = 0; i < a->count; i++) x[i] = strtod(a->values[i].text, NULL);
    if (a->file->program.trial_count) {
        for (size_t i = 0; i < a->count; i++) y[count][i] = a->values[i].expected - a->values[i].held;
        curves[count] = (fg_curve){{"of the trials", 13}, "expectations broken", y[count]};
        count++;
    }
    for (size_t k = 0; k < name_count; k++) {
        for (size_t i = 0; i < a->count; i++) y[count][i] = (double)a->values[i].names[names[k]].changes;
        curves[count] = (fg_curve){a->file->program.declared[names[k]].name, "changes", y[count]};
        count++;
    }
    const fg_draw_options options = {
        .width = a->options->width, .height = a->options->height, .dark = a->options->dark, .title = a->options->try};
    if (fg_draw_curves(x, a->count, a->name, curves, count, &options, a->options->output, &mistake) == FG_OK)
        return true;
    tool_print_mistake(&mistake);
    return false;
}

int tune_try(const tune_options *options, const fg_gate_file *file)
{
    attempt *a = calloc(1, sizeof *a);
    FILE *out = a ? tool_output_open() : NULL;
    uint32_t names[SHOWN_NAMES];
    bool good = out != NULL;
    if (!good) {
        free(a);
        return EXIT_WRONG;
    }
    a->options = options;
    a->file = file;
    good = read_try(a);
    for (size_t i = 0; good && i < a->count; i++) {
        a->now = &a->values[i];
        good = try_value(a);
    }
    if (good) {
        const size_t name_count = choose_names(a, names);
        if (options->common.form == FORM_CSV)
            print_csv(a, out, names, name_count);
        else
            print_text(a, out, names, name_count < TEXT_NAMES ? name_count : TEXT_NAMES);
        if (options->output) good = draw(a, names, name_count);
    }
    for (size_t i = 0; i < a->count; i++) free(a->values[i].names);
    free(a);
    return tool_output_close(out, options->common.form, good) == EXIT_WELL && good ? EXIT_WELL : EXIT_WRONG;
}
