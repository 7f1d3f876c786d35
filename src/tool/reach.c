/* SPDX-License-Identifier: MIT */
/* Whether something can happen at all, and which readings lead there: pretend --reach and --reach-untried, check
 * --deep. */
#include "tool.h"

#include <ficklegate/promise.h>

#include <ctype.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* "pump row 3": the words of a row of an output. */
static bool is_row(fg_text text, fg_text *name, uint16_t *row)
{
    static const char between[] = " row ";
    size_t at = 0;
    uint32_t number = 0;
    while (at < text.size && (isalnum((unsigned char)text.at[at]) || text.at[at] == '_')) at++;
    *name = (fg_text){text.at, at};
    if (!at || text.size - at < sizeof between || memcmp(text.at + at, between, sizeof between - 1) != 0) return false;
    for (at += sizeof between - 1; at < text.size; at++) {
        if (!isdigit((unsigned char)text.at[at]) || number > 9999) return false;
        number = 10 * number + (uint32_t)(text.at[at] - '0');
    }
    *row = (uint16_t)number;
    return true;
}

bool tool_reach_is_row(const char *text)
{
    fg_text name;
    uint16_t row;
    return is_row(fg_text_of(text), &name, &row);
}

static bool has_pace(const fg_gate_file *file)
{
    if (file->program.gate.every) return true;
    tool_say("%s: error: what can happen is worked out step by step, so say how often it steps; add every 50ms in "
             "front of its declarations\n",
             tool_path(file->path));
    return false;
}

/* What was asked for. False, told: it has no such row. */
static bool find_situation(const fg_gate_file *file, const char *text, fg_situation *situation)
{
    fg_text name;
    const fg_program *p = &file->program;
    uint16_t row;
    if (!is_row(fg_text_of(text), &name, &row)) {
        *situation = (fg_situation){.kind = FG_SITUATION_ANSWER, .number = p->asked[0], .answer = FG_YES};
        return true;
    }
    const fg_declared *d = fg_program_find(p, name);
    const bool output = d && fg_kind_is(d->kind, FG_KIND_IS_OUTPUT);
    const uint16_t rows = output ? p->gate.outputs[d->index].row_count : 0;
    if (!rows || !row || row > rows) {
        tool_say(output ? "fickle: error: %.*s has %u rows, so none is row %u\n"
                        : "fickle: error: %.*s is no output; rows are those of lamps, motors and other outputs\n",
                 (int)name.size, name.at, (unsigned)rows, (unsigned)row);
        return false;
    }
    *situation = (fg_situation){.kind = FG_SITUATION_ROW,
                                .declared = (uint32_t)(d - p->declared),
                                .number = d->index,
                                .row = (uint16_t)(row - 1)};
    return true;
}

int tool_reach(const tool_options *common, const fg_gate_file *file, const tool_reach_options *o)
{
    fg_situation situation;
    fg_promise_result result;
    fg_mistake mistake;
    const fg_promise_options options = {.steps = o->limit, .progress = tool_progress_of_steps()};
    int status = EXIT_HELD_NOT;
    if (!has_pace(file) || !find_situation(file, o->reach, &situation)) return EXIT_WRONG;
    const bool good = fg_promise_reach(file, &situation, &options, &result, &mistake) == FG_OK;
    tool_progress_end();
    if (!good) {
        tool_print_mistake(&mistake);
        status = EXIT_WRONG;
    } else if (result.verdict == FG_PROMISE_BREAKS) {
        tool_output_show(result.recording);
        if (!common->quiet)
            tool_say("%s: after %.3f s%s\n", o->reach, (double)result.after_ms / 1000,
                     result.shortest ? ", the soonest there is" : "");
        status = EXIT_WELL;
    } else if (result.verdict == FG_PROMISE_HOLDS) {
        tool_say("%s: can never happen: %.*s\n", o->reach, (int)result.because.size, result.because.at);
    } else {
        tool_say("%s: not found: %.*s\n", o->reach, (int)result.because.size, result.because.at);
        if (common->strict) status = EXIT_OPEN;
    }
    fg_promise_result_free(&result);
    return status;
}

/* ---- everything that was never tried ---- */

typedef struct untried {
    const tool_options *common;
    const fg_gate_file *file;
    const tool_reach_options *options;
    fg_coverage *coverage;
    FILE *output;
    const fg_declared *last;
    uint32_t counts[3];
} untried;

/* What the recordings that were named try; without any what the trials do. */
static bool play(untried *u)
{
    const tool_options *o = u->common;
    fg_mistake mistake;
    for (size_t i = 0; i < o->recording_count; i++)
        if (!tool_coverage_play(o, u->file, o->recordings[i], u->coverage)) return false;
    if (o->recording_count || o->add_coverage_count || !u->file->program.trial_count) return true;
    const fg_trial_observer observer = {.coverage = u->coverage, .progress = tool_progress_of_trials(u->file)};
    const bool good = fg_trials_run(u->file, &o->reading, o->jobs, &observer, &mistake) == FG_OK;
    tool_progress_end();
    if (!good) tool_print_mistake(&mistake);
    return good;
}

/* "reach-tide-limit-2-above" for its file. */
static char *file_name(const untried *u, size_t i, const fg_declared *d)
{
    fg_text key;
    char *name = NULL;
    if (!fg_coverage_key(u->coverage, i, &key)) return NULL;
    if (asprintf(&name, "reach-%.*s-%.*s", (int)d->name.size, d->name.at, (int)key.size, key.at) < 0) name = NULL;
    for (char *at = name; at && *at; at++)
        if (*at == ' ') *at = '-';
    fg_text_free(key);
    return name;
}

/* The path it was saved at, for free(); NULL, told. */
static char *save(const untried *u, size_t i, const fg_declared *d, fg_text words, const fg_promise_result *result)
{
    char *name = file_name(u, i, d), *about = NULL, *path = NULL;
    const int size = asprintf(&about, "%.*s: until now %.*s, here after %" PRId64 " ms", (int)d->name.size, d->name.at,
                              (int)words.size, words.at, result->after_ms);
    if (name && size >= 0)
        path = tool_found_save(u->options->folder, name, (fg_text){about, (size_t)size}, result->recording);
    else
        tool_no_memory();
    free(name);
    if (size >= 0) free(about);
    return path;
}

static const char *const verdicts[] = {"not found", "can never happen, proven", "found"};

static void print_one(untried *u, const fg_declared *d, fg_text words, const fg_promise_result *result,
                      const char *path)
{
    FILE *out = u->output;
    u->counts[result->verdict]++;
    if (u->common->form == FORM_CSV) {
        fg_csv_cell(out, d->name);
        fputc(',', out);
        fg_csv_cell(out, words);
        fprintf(out, ",%s,", result->verdict == FG_PROMISE_HOLDS ? "can never happen" : verdicts[result->verdict]);
        if (path) fprintf(out, "%" PRId64, result->after_ms);
        fputc(',', out);
        if (path) fg_csv_cell(out, fg_text_of(path));
        fputc(',', out);
        if (!path) fg_csv_cell(out, result->because);
        fputc('\n', out);
        return;
    }
    if (d != u->last) fprintf(out, "%.*s\n", (int)d->name.size, d->name.at);
    u->last = d;
    fputs("  ", out);
    tool_text(out, words);
    if (path)
        fprintf(out, "\n      %s, after %.3f s\n", path, (double)result->after_ms / 1000);
    else
        fprintf(out, "\n      %s\n", verdicts[result->verdict]);
    if (!path && u->common->verbose) {
        fputs("      ", out);
        tool_wrapped(out, result->because, 6);
        fputc('\n', out);
    }
}

static bool ask_one(untried *u, size_t i, const fg_situation *s)
{
    const fg_declared *d = &u->file->program.declared[s->declared];
    const fg_promise_options options = {.steps = u->options->limit, .progress = tool_progress_of_steps()};
    fg_promise_result result;
    fg_mistake mistake;
    fg_text words;
    char *path = NULL;
    bool good = fg_promise_reach(u->file, s, &options, &result, &mistake) == FG_OK;
    tool_progress_end();
    if (!good) tool_print_mistake(&mistake);
    if (good && !fg_coverage_words(u->coverage, i, &words)) {
        tool_no_memory();
        good = false;
    } else if (good) {
        if (result.verdict == FG_PROMISE_BREAKS) good = (path = save(u, i, d, words, &result)) != NULL;
        if (good) print_one(u, d, words, &result, path);
        fg_text_free(words);
    }
    free(path);
    fg_promise_result_free(&result);
    return good;
}

static bool ask_all(untried *u)
{
    bool good = true;
    for (uint32_t d = 0; d < u->file->program.declared_count; d++)
        for (size_t i = 0; good && i < fg_coverage_size(u->coverage) && !tool_stopped; i++) {
            bool tried;
            const fg_situation *s = fg_coverage_at(u->coverage, i, &tried);
            if (!tried && s->declared == d) good = ask_one(u, i, s);
        }
    return good && !tool_stopped;
}

int tool_reach_untried(const tool_options *common, const fg_gate_file *file, const tool_reach_options *o)
{
    untried u = {.common = common, .file = file, .options = o};
    if (!has_pace(file)) return EXIT_WRONG;
    u.coverage = tool_coverage_begin(common, file);
    if (!u.coverage) return EXIT_WRONG;
    u.output = play(&u) ? tool_output_open() : NULL;
    if (!u.output) {
        fg_coverage_end(u.coverage);
        return EXIT_WRONG;
    }
    if (common->form == FORM_CSV) fputs("name,what,verdict,after_ms,recording,because\n", u.output);
    const bool good = ask_all(&u);
    const uint32_t found = u.counts[FG_PROMISE_BREAKS], never = u.counts[FG_PROMISE_HOLDS];
    const uint32_t open = u.counts[FG_PROMISE_UNDECIDED];
    if (common->form == FORM_TEXT)
        fprintf(u.output,
                "%" PRIu32 " never tried: %" PRIu32 " found, %" PRIu32 " can never happen, %" PRIu32 " not found\n",
                found + never + open, found, never, open);
    fg_coverage_end(u.coverage);
    if (tool_output_close(u.output, common->form, good) != EXIT_WELL || !good) return EXIT_WRONG;
    return open && common->strict ? EXIT_OPEN : EXIT_WELL;
}

/* ---- what can never happen ---- */

/* An answer that no reading gives, or a row that never wins, is hardly meant. A no that never comes may be. */
static bool is_looked_at(const fg_program *p, const fg_situation *s)
{
    if (s->kind == FG_SITUATION_ROW) return true;
    return s->kind == FG_SITUATION_ANSWER &&
           (s->answer == FG_YES || fg_kind_is(p->declared[s->declared].kind, FG_KIND_LABELS));
}

static void warn(const fg_gate_file *file, const fg_situation *s, const fg_promise_result *result)
{
    const fg_program *p = &file->program;
    const fg_declared *d = &p->declared[s->declared];
    const fg_source *source = &p->sources[d->span.source];
    char what[40];
    if (s->kind == FG_SITUATION_ROW)
        snprintf(what, sizeof what, "row %u can never win", s->row + 1u);
    else
        snprintf(what, sizeof what, "can never be");
    fg_text answer = {0};
    if (s->kind != FG_SITUATION_ROW) answer = fg_answer_text(d, s->answer);
    tool_say("%.*s:%" PRIu32 ": warning: %.*s: %s%s%.*s, whatever is read: %.*s [never]\n", (int)source->name.size,
             source->name.at, fg_program_line(p, d->span), (int)d->name.size, d->name.at, what, answer.size ? " " : "",
             (int)answer.size, answer.size ? answer.at : "", (int)result->because.size, result->because.at);
}

int tool_reach_check(const tool_options *common, const fg_gate_file *file)
{
    enum { WANDER = 400000, STEPS = 2000000 };
    const fg_program *p = &file->program;
    const fg_promise_options options = {.steps = STEPS, .progress = tool_progress_of_steps()};
    fg_mistake mistake;
    uint32_t never = 0, open = 0;
    if (!has_pace(file)) return EXIT_WRONG;
    fg_coverage *coverage = fg_coverage_start(p);
    bool good = coverage != NULL;
    if (!good)
        tool_no_memory();
    else if (!(good = fg_promise_wander(file, WANDER, coverage, &mistake) == FG_OK))
        tool_print_mistake(&mistake);
    for (size_t i = 0; good && i < fg_coverage_size(coverage) && !tool_stopped; i++) {
        bool tried;
        const fg_situation *s = fg_coverage_at(coverage, i, &tried);
        fg_promise_result result;
        if (tried || !is_looked_at(p, s)) continue;
        good = fg_promise_reach(file, s, &options, &result, &mistake) == FG_OK;
        tool_progress_end();
        if (!good) tool_print_mistake(&mistake);
        if (good && result.verdict == FG_PROMISE_HOLDS) warn(file, s, &result);
        never += good && result.verdict == FG_PROMISE_HOLDS;
        open += good && result.verdict == FG_PROMISE_UNDECIDED;
        fg_promise_result_free(&result);
    }
    fg_coverage_end(coverage);
    if (!good || tool_stopped) return EXIT_WRONG;
    if (!common->quiet && open)
        tool_say("%s: of %" PRIu32 " answers and rows it was not found whether they can happen; fickle pretend "
                 "--reach-untried looks longer\n",
                 tool_path(file->path), open);
    return never && common->strict ? EXIT_HELD_NOT : EXIT_WELL;
}
