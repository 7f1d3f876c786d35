/* SPDX-License-Identifier: MIT */
/* fickle promise GATE */
#include "promise.h"

#include <ficklegate/jobs.h>

#include <ctype.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

typedef struct promise_options {
    tool_options common;
    const char *folder;
    uint64_t limit;
    size_t name_count; /* texts of promises, in tool_options.recordings */
} promise_options;

enum { LIMIT = TOOL_OPTION_OWN, SAVE_TO };

static const struct argp_option own_options[] = {
    {"limit", LIMIT, "N", 0, "try at most N steps for each row; 8000000 if left out", 0},
    {"jobs", 'j', "N", 0, "ask about so many rows at once; one for each processor, up to 4, if left out", 0},
    {"save-to", SAVE_TO, "FOLDER", 0, "where recordings that break a promise are saved; this folder if left out", 0},
    {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    promise_options *o = state->input;
    if (tool_jobs_option(key, argument, state) == 0) return 0;
    switch (key) {
    case ARGP_KEY_INIT: return tool_begin(&o->common, state);
    case LIMIT: o->limit = tool_found_limit(argument, state); return 0;
    case SAVE_TO: o->folder = argument; return 0;
    case ARGP_KEY_ARG:
        if (o->common.gate) {
            o->common.recordings[o->name_count++] = argument;
            return 0;
        }
        break;
    default: break;
    }
    return tool_arguments(key, argument, state, WANTS_GATE);
}

/* Names are texts of promises; without any all are asked. */
static bool is_wanted(const promise_options *o, const fg_promise *promise)
{
    bool wanted = !o->name_count;
    for (size_t i = 0; i < o->name_count && !wanted; i++) wanted = fg_text_is(promise->text, o->common.recordings[i]);
    return wanted;
}

static bool names_are_known(const promise_options *o, const fg_program *p)
{
    bool known = true;
    for (size_t i = 0; i < o->name_count; i++) {
        bool found = false;
        for (uint32_t k = 0; k < p->promise_count && !found; k++)
            found = fg_text_is(p->promises[k].text, o->common.recordings[i]);
        if (!found) tool_say("fickle: error: there is no promise \"%s\"\n", o->common.recordings[i]);
        known = known && found;
    }
    return known;
}

/* ---- what is printed ---- */

typedef struct printer {
    const promise_options *options;
    const fg_gate_file *file;
    FILE *output;
    promise_answer *answers;
    uint32_t answer_count, counts[3];
    bool failed;
} printer;

/* The first name of the row that has a moment to be asked about. */
static fg_text name_to_ask(const fg_program *p, const fg_expect *row)
{
    const fg_source *source = &p->sources[row->span.source];
    const fg_text text = {source->text.at + row->condition.at, row->condition.size};
    size_t at = 0;
    while (at < text.size) {
        size_t end = at;
        while (end < text.size && (isalnum((unsigned char)text.at[end]) || text.at[end] == '_')) end++;
        const fg_text word = {text.at + at, end - at};
        const fg_declared *d = word.size ? fg_program_find(p, word) : NULL;
        if (d && d->kind != FG_KIND_SENSOR && d->kind != FG_KIND_FLAG && d->kind != FG_KIND_NUMBER) return d->name;
        at = end == at ? at + 1 : end;
    }
    return (fg_text){0};
}

/* From 1 on, of the rows that stand on its line. */
static uint32_t row_on_line(const fg_program *p, const fg_expect *row)
{
    uint32_t number = 0;
    for (uint32_t i = 0; i < p->promise_count; i++)
        for (uint32_t k = 0; k < p->promises[i].row_count; k++) {
            const fg_expect *other = &p->promises[i].rows[k];
            const bool same = other->span.source == row->span.source &&
                              fg_program_line(p, other->span) == fg_program_line(p, row->span);
            number += same && other->kind != FG_EXPECT_ASSUME && other->span.at <= row->span.at;
        }
    return number;
}

/* Saves the recording; the path is for free(), NULL if it could not be. */
static char *save(printer *p, const fg_expect *row, const fg_promise_result *result)
{
    const fg_program *program = &p->file->program;
    const fg_text gate = program->sources[row->span.source].name;
    const uint32_t line = fg_program_line(program, row->span), number = row_on_line(program, row);
    char name[60], which[20] = ""; /* of several rows on this line */
    char *about = NULL, *path = NULL;
    if (number > 1) snprintf(which, sizeof which, "-%" PRIu32, number);
    snprintf(name, sizeof name, "promise-line-%" PRIu32 "%s", line, which);
    const int size = asprintf(&about, "%.*s:%" PRIu32 " is broken after %" PRId64 " ms", (int)gate.size, gate.at, line,
                              result->after_ms);
    if (size >= 0)
        path = tool_found_save(p->options->folder, name, (fg_text){about, (size_t)size}, result->recording);
    else
        tool_no_memory();
    if (size >= 0) free(about);
    p->failed = p->failed || !path;
    return path;
}

static void print_break(printer *p, const fg_expect *row, const fg_promise_result *result)
{
    FILE *out = p->output;
    char *path = save(p, row, result);
    const fg_text name = name_to_ask(&p->file->program, row);
    fprintf(out, "  %sbreaks%s after %.3f s%s, with these readings:\n", tool_paint(true), tool_paint(false),
            (double)result->after_ms / 1000, result->shortest ? ", the soonest there is" : "");
    tool_found_print(out, result->recording);
    fputs("    ", out);
    tool_wrapped(out, result->because, 4);
    fputc('\n', out);
    if (path) fprintf(out, "  saved: %s\n", path);
    if (path && name.size)
        fprintf(out, "  next:  fickle why %s %s %.*s --at %" PRId64 "ms\n", tool_path(p->file->path), path,
                (int)name.size, name.at, result->after_ms);
    free(path);
}

static void print_text(printer *p, const promise_answer *a)
{
    FILE *out = p->output;
    const fg_promise_result *result = &a->result;
    if (a->name.size) {
        tool_text(out, a->name);
        fputc('\n', out);
    }
    fprintf(out, "  line %" PRIu32 ": ", a->line);
    tool_wrapped(out, a->written, 4);
    fputc('\n', out);
    if (result->verdict == FG_PROMISE_BREAKS) {
        print_break(p, &p->file->program.promises[a->promise].rows[a->row], result);
        return;
    }
    fprintf(out, "  %s%s: ", fg_promise_word(result->verdict),
            result->verdict == FG_PROMISE_HOLDS ? ", whatever is read" : "");
    tool_wrapped(out, result->because, 4);
    fputc('\n', out);
}

/* ---- several rows at once ---- */

static void work(void *context, unsigned number, fg_progress progress)
{
    const printer *p = context;
    promise_answer *a = &p->answers[number];
    const fg_promise_options options = {.steps = p->options->limit, .progress = progress};
    if (tool_stopped) return;
    a->status = fg_promise_ask(p->file, a->promise, a->row, &options, &a->result, &a->mistake);
}

static bool tell(void *context, unsigned number)
{
    printer *p = context;
    promise_answer *a = &p->answers[number];
    const tool_form form = p->options->common.form;
    if (tool_stopped) return false;
    tool_progress_aside();
    if (a->status != FG_OK) {
        tool_print_mistake(&a->mistake);
        p->failed = true;
        return false;
    }
    p->counts[a->result.verdict]++;
    if (form == FORM_TEXT) {
        print_text(p, a);
    } else {
        if (!promise_form_answer(p->output, form, a, number + 1)) p->failed = true;
        const fg_expect *row = &p->file->program.promises[a->promise].rows[a->row];
        if (a->result.verdict == FG_PROMISE_BREAKS) free(save(p, row, &a->result));
    }
    return !p->failed;
}

/* A row may take 300 MB for its states, so more than a few at once have to be asked for. */
static unsigned jobs_of(const promise_options *o)
{
    enum { FEW = 4 };
    return o->common.jobs || sysconf(_SC_NPROCESSORS_ONLN) <= FEW ? o->common.jobs : FEW;
}

/* The rows that are asked about. False: no memory. */
static bool find_rows(printer *p)
{
    const fg_program *program = &p->file->program;
    size_t rows = 0;
    for (uint32_t i = 0; i < program->promise_count; i++) rows += program->promises[i].row_count;
    p->answers = calloc(rows + 1, sizeof *p->answers);
    bool good = p->answers != NULL;
    for (uint32_t i = 0; good && i < program->promise_count; i++) {
        const fg_promise *promise = &program->promises[i];
        if (!is_wanted(p->options, promise)) continue;
        for (uint32_t k = 0; good && k < promise->row_count; k++) {
            if (promise->rows[k].kind == FG_EXPECT_ASSUME) continue;
            promise_answer *a = &p->answers[p->answer_count++];
            *a = (promise_answer){.promise = i, .row = k, .name = promise->text};
            a->line = fg_program_line(program, promise->rows[k].span);
            good = fg_program_written(program, promise->rows[k].span, &a->written);
        }
    }
    return good;
}

static bool ask_all(printer *p)
{
    const tool_form form = p->options->common.form;
    bool good = find_rows(p);
    if (good) promise_form_begin(p->output, form, p->answer_count);
    const fg_jobs jobs = {.count = p->answer_count,
                          .jobs = jobs_of(p->options),
                          .context = p,
                          .work = work,
                          .tell = tell,
                          .progress = tool_progress_of_promises(&p->answer_count)};
    good = good && fg_jobs_run(&jobs);
    tool_progress_end();
    if (!good) tool_no_memory();
    promise_form_end(p->output, form);
    for (uint32_t i = 0; p->answers && i < p->answer_count; i++) {
        fg_promise_result_free(&p->answers[i].result);
        fg_text_free(p->answers[i].written);
    }
    free(p->answers);
    return good && !p->failed && !tool_stopped;
}

static int run(void *given, const fg_gate_file *file)
{
    const promise_options *o = given;
    printer p = {.options = o, .file = file};
    if (!file->program.promise_count) {
        tool_say("%s: error: it promises nothing; add promise \"name\" { CONDITION never while CONDITION }\n",
                 file->path);
        return EXIT_WRONG;
    }
    if (!names_are_known(o, &file->program)) return EXIT_WRONG;
    p.output = tool_output_open();
    if (!p.output) return EXIT_WRONG;
    const bool good = ask_all(&p);
    if (o->common.form == FORM_TEXT && good)
        fprintf(p.output, "%" PRIu32 " hold, %" PRIu32 " break, %" PRIu32 " not decided\n", p.counts[FG_PROMISE_HOLDS],
                p.counts[FG_PROMISE_BREAKS], p.counts[FG_PROMISE_UNDECIDED]);
    if (tool_output_close(p.output, o->common.form, good) != EXIT_WELL || !good) return EXIT_WRONG;
    if (p.counts[FG_PROMISE_BREAKS]) return EXIT_HELD_NOT;
    return p.counts[FG_PROMISE_UNDECIDED] && o->common.strict ? EXIT_OPEN : EXIT_WELL;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE [NAME...]",
    .doc =
        "Asks of each promise of a gate file whether it holds whatever is read. One that breaks comes with a "
        "recording that breaks it, with as few changes and faults as were found."
        "\vNAME is the text of a promise; without one all are asked. The engine itself goes through every state that "
        "some readings lead to, so what holds is proven. Status 1 if a promise breaks, 3 with --strict if one is "
        "not decided."};

const tool_command command_promise = {.name = "promise",
                                      .use = "promise GATE",
                                      .line = "whether its promises hold, whatever is read",
                                      .argp = &argp,
                                      .options_size = sizeof(promise_options),
                                      .forms = 1 << FORM_TEXT | 1 << FORM_CSV | 1 << FORM_JSONL | 1 << FORM_TAP |
                                               1 << FORM_JUNIT,
                                      .promises = true,
                                      .run = run};
