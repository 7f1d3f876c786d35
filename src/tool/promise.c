/* SPDX-License-Identifier: MIT */
/* fickle promise GATE */
#include "tool.h"

#include <ctype.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

typedef struct promise_options {
    tool_options common;
    const char *folder;
    uint64_t limit;
    const char **names;
    size_t name_count;
} promise_options;

enum { LIMIT = TOOL_OPTION_OWN, SAVE_TO };

static const struct argp_option own_options[] = {
    {"limit", LIMIT, "N", 0, "try at most N steps for each row; 8000000 if left out", 0},
    {"save-to", SAVE_TO, "FOLDER", 0, "where recordings that break a promise are saved; this folder if left out", 0},
    {0}};

static error_t parse(int key, char *argument, struct argp_state *state)
{
    promise_options *o = state->input;
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
    uint32_t counts[3];
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
    fprintf(out, "  breaks after %.3f s%s, with these readings:\n", (double)result->after_ms / 1000,
            result->shortest ? ", the soonest there is" : "");
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

static void print_row(printer *p, const fg_promise *promise, const fg_expect *row, const fg_promise_result *result)
{
    FILE *out = p->output;
    fg_text written;
    const uint32_t line = fg_program_line(&p->file->program, row->span);
    p->counts[result->verdict]++;
    if (!fg_program_written(&p->file->program, row->span, &written)) {
        p->failed = true;
        return;
    }
    if (p->options->common.form == FORM_CSV) {
        fg_csv_cell(out, promise->text);
        fprintf(out, ",%" PRIu32 ",", line);
        fg_csv_cell(out, written);
        fprintf(out, ",%s,", fg_promise_word(result->verdict));
        if (result->verdict == FG_PROMISE_BREAKS) fprintf(out, "%" PRId64, result->after_ms);
        fputc(',', out);
        fg_csv_cell(out, result->because);
        fputc('\n', out);
        if (result->verdict == FG_PROMISE_BREAKS) free(save(p, row, result));
    } else {
        if (promise->text.size) {
            tool_text(out, promise->text);
            fputc('\n', out);
        }
        fprintf(out, "  line %" PRIu32 ": ", line);
        tool_wrapped(out, written, 4);
        fputc('\n', out);
        if (result->verdict == FG_PROMISE_BREAKS) {
            print_break(p, row, result);
        } else {
            fprintf(out, "  %s%s: ", fg_promise_word(result->verdict),
                    result->verdict == FG_PROMISE_HOLDS ? ", whatever is read" : "");
            tool_wrapped(out, result->because, 4);
            fputc('\n', out);
        }
    }
    fg_text_free(written);
}

static bool ask_all(printer *p)
{
    const fg_program *program = &p->file->program;
    const fg_promise_options options = {.steps = p->options->limit, .progress = tool_progress_of_steps()};
    for (uint32_t i = 0; i < program->promise_count; i++) {
        const fg_promise *promise = &program->promises[i];
        if (!is_wanted(p->options, promise)) continue;
        for (uint32_t k = 0; k < promise->row_count && !p->failed && !tool_stopped; k++) {
            fg_promise_result result;
            fg_mistake mistake;
            if (promise->rows[k].kind == FG_EXPECT_ASSUME) continue;
            const bool good = fg_promise_ask(p->file, i, k, &options, &result, &mistake) == FG_OK;
            tool_progress_end();
            if (good)
                print_row(p, promise, &promise->rows[k], &result);
            else
                tool_print_mistake(&mistake);
            p->failed = p->failed || !good;
            fg_promise_result_free(&result);
        }
    }
    return !p->failed && !tool_stopped;
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
    if (o->common.form == FORM_CSV) fputs("promise,line,row,verdict,after_ms,because\n", p.output);
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
                                      .forms = 1 << FORM_TEXT | 1 << FORM_CSV,
                                      .promises = true,
                                      .run = run};
