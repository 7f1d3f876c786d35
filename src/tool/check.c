/* SPDX-License-Identifier: MIT */
/* fickle check GATE */
#include "tool.h"

#include <ficklegate/bake.h>
#include <ficklegate/tune.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* An option without a letter. */
enum { OPTION_FIX = TOOL_OPTION_OWN, OPTION_DEEP };

static const struct argp_option options_of_check[] = {
    {"fix", OPTION_FIX, NULL, 0, "apply the fixes that are certain, and print them as a diff", 0},
    {"deep", OPTION_DEEP, NULL, 0, "prove which answers and rows no readings lead to; it may take a while", 0},
    {"explain", 'x', "CODE", 0, "explain a kind of message, with examples ('list' lists them all)", 0},
    {0}};

static void print_indented(const char *text)
{
    while (*text) {
        const size_t size = strcspn(text, "\n");
        printf("    %.*s\n", (int)(size > 100 ? 100 : size), text);
        text += size + (text[size] == '\n');
    }
}

static void list_codes(FILE *output)
{
    for (int code = 0; code < FG_FINDING_CODES; code++) fprintf(output, "%s\n", fg_finding_word((fg_finding_code)code));
}

static int explain(const char *word)
{
    static const char *const severities[] = {"an error: nothing runs", "a warning: it runs", "a note"};
    int code = 0;
    if (strcmp(word, "list") == 0) {
        list_codes(stdout);
        return EXIT_WELL;
    }
    while (code < FG_FINDING_CODES && strcmp(fg_finding_word((fg_finding_code)code), word) != 0) code++;
    if (code == FG_FINDING_CODES) {
        tool_say("fickle: error: there is no kind of message '%s'; --explain list names them all\n", word);
        return EXIT_WRONG;
    }
    const fg_code_text *text = fg_finding_text((fg_finding_code)code);
    printf("%s (%s)\n\n", word, severities[fg_finding_severity((fg_finding_code)code)]);
    tool_wrapped(stdout, (fg_text){text->why, strlen(text->why)}, 0);
    puts("\n\nwrong:");
    print_indented(text->wrong);
    puts("\nright:");
    print_indented(text->right);
    return EXIT_WELL;
}

static error_t parse(int key, char *argument, struct argp_state *state)
{
    tool_options *options = state->input;
    options->notes = true;
    if (key == 'x') {
        options->explain = argument;
        return 0;
    }
    if (key == OPTION_FIX) {
        options->fix = true;
        return 0;
    }
    if (key == OPTION_DEEP) {
        options->deep = true;
        return 0;
    }
    if (key == ARGP_KEY_END && options->explain) return 0;
    return tool_arguments(key, argument, state, WANTS_GATE);
}

/* "hysteresis" and "bands" are plurals already. */
static const char *plural(uint32_t count, fg_kind kind)
{
    const char *word = fg_kind_word(kind);
    if (count == 1 || word[strlen(word) - 1] == 's') return "";
    return word[strlen(word) - 1] == 'h' ? "es" : "s";
}

/* A count with its word, on the next line where this one is full. */
static void print_count(FILE *out, size_t *column, uint32_t count, const char *word, const char *ending)
{
    enum { INDENT = 12 };
    char text[64];
    const int size = snprintf(text, sizeof text, "%" PRIu32 " %s%s", count, word, ending);
    const size_t width = tool_width() ? (size_t)tool_width() : 100;
    if (*column > INDENT) *column += (size_t)fprintf(out, ",");
    if (*column > INDENT && *column + (size_t)size + 2 > width) {
        fprintf(out, "\n%*s", INDENT, "");
        *column = INDENT;
    } else if (*column > INDENT) {
        *column += (size_t)fprintf(out, " ");
    }
    *column += (size_t)fprintf(out, "%s", text);
}

static void print_kinds(FILE *out, const fg_program *program)
{
    uint32_t counts[FG_KINDS_IN_ALL] = {0};
    size_t column = 12;
    for (uint32_t i = 0; i < program->declared_count; i++) counts[program->declared[i].kind]++;
    fputs("  declares  ", out);
    for (int k = 0; k < FG_KINDS_IN_ALL; k++)
        if (counts[k]) print_count(out, &column, counts[k], fg_kind_word((fg_kind)k), plural(counts[k], (fg_kind)k));
    if (program->trial_count)
        print_count(out, &column, program->trial_count, "trial", program->trial_count == 1 ? "" : "s");
    if (program->promise_count)
        print_count(out, &column, program->promise_count, "promise", program->promise_count == 1 ? "" : "s");
    if (program->scene_count)
        print_count(out, &column, program->scene_count, "scene", program->scene_count == 1 ? "" : "s");
    fputc('\n', out);
}

static void print_owned(FILE *out, fg_text text)
{
    tool_text(out, text);
    fg_text_free(text);
}

/* Each row of each promise, under its text. */
static bool print_promises(FILE *out, const fg_program *program)
{
    enum { INDENT = 12 };
    bool first = true;
    for (uint32_t i = 0; i < program->promise_count; i++) {
        const fg_promise *promise = &program->promises[i];
        if (!promise->text.size && !promise->row_count) continue; /* it was warned of */
        fputs(first ? "  promises  " : "            ", out);
        first = false;
        if (promise->text.size) {
            tool_wrapped(out, promise->text, INDENT);
            fprintf(out, "\n%*s", INDENT + 2, "");
        }
        for (uint32_t k = 0; k < promise->row_count; k++) {
            fg_text row;
            if (!fg_program_written(program, promise->rows[k].span, &row)) return false;
            if (k) fprintf(out, "%*s", INDENT + (promise->text.size ? 2 : 0), "");
            tool_wrapped(out, row, INDENT + 2);
            fputc('\n', out);
            fg_text_free(row);
        }
    }
    return true;
}

static bool print_lines(FILE *out, const fg_program *program)
{
    const int width = tool_width() ? tool_width() : 80;
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        fg_text text;
        if (!fg_kind_is(d->kind, FG_KIND_ON_SENSOR)) continue;
        if (fg_number_line(program, d, width < 100 ? width - 2 : 98, &text) != FG_OK) return false;
        fputc('\n', out);
        print_owned(out, text);
    }
    return true;
}

static bool print_delays(FILE *out, const fg_program *program)
{
    fg_text text;
    if (fg_delays(program, &text) != FG_OK) return false;
    if (text.size) fputs("\ndelay until a clear change takes effect\n", out);
    print_owned(out, text);
    return true;
}

/* ---- what is dear on a board ---- */

/* The sums that need 64 bits, and what would change that. */
typedef struct wide_sums {
    fg_memory_file names, cures;
    bool any;
} wide_sums;

static void on_wide(void *context, const fg_declared *sensor, fg_text cure)
{
    wide_sums *w = context;
    fprintf(w->names.file, "%s%.*s", w->any ? ", " : "", (int)sensor->name.size, sensor->name.at);
    w->any = true;
    if (cure.size)
        fprintf(w->cures.file, "            32 bits are enough for %.*s with `trust` for %.*s\n",
                (int)sensor->name.size, sensor->name.at, (int)cure.size, cure.at);
}

/* Known is that only when the gate is baked. */
static bool find_wide_sums(const fg_gate_file *file, wide_sums *w)
{
    fg_memory_file files[2];
    const fg_bake_options options = {.name = "gate", .header = "gate.h", .context = w, .wide = on_wide};
    const bool open[2] = {fg_memory_file_open(&files[0]), fg_memory_file_open(&files[1])};
    bool good = open[0] && open[1] && fg_bake_code(file, &options, files[0].file, files[1].file, NULL);
    for (int i = 0; i < 2; i++) {
        if (!open[i]) continue;
        good = fg_memory_file_close(&files[i]) && good;
        free(files[i].text);
    }
    return good;
}

static bool print_wide_sums(FILE *out, const fg_gate_file *file)
{
    wide_sums w = {.any = false};
    bool sums = false;
    for (uint16_t i = 0; i < file->program.gate.size.sensors; i++)
        sums = sums || file->program.gate.sensors[i].term_count;
    if (!sums || fg_bake_code_misfit(file)) return true;
    const bool open[2] = {fg_memory_file_open(&w.names), fg_memory_file_open(&w.cures)};
    bool good = open[0] && open[1] && find_wide_sums(file, &w);
    if (open[0]) good = fg_memory_file_close(&w.names) && good;
    if (open[1]) good = fg_memory_file_close(&w.cures) && good;
    if (good && w.any)
        fprintf(out, "  board     sums in 64 bits, large and slow on an 8-bit chip: %s\n%s", w.names.text,
                w.cures.text);
    if (open[0]) free(w.names.text);
    if (open[1]) free(w.cures.text);
    return good;
}

static int print_summary(const fg_gate_file *file)
{
    char a[32], b[32], c[32];
    const fg_program *p = &file->program;
    FILE *out = tool_output_open();
    if (!out) return EXIT_WRONG;
    fprintf(out, "%s: no errors", tool_path(file->path));
    if (p->warning_count) fprintf(out, ", %" PRIu32 " warning%s", p->warning_count, p->warning_count == 1 ? "" : "s");
    fputc('\n', out);
    if (p->title.size) fprintf(out, "  gate      %.*s\n", (int)p->title.size, p->title.at);
    print_kinds(out, p);
    if (p->gate.every)
        fprintf(out, "  steps     every %" PRIu32 " ms\n", p->gate.every);
    else
        fputs("  steps     at each reading\n", out);
    fprintf(out, "  memory    %s bytes of state, %s bytes of tables, on this machine\n",
            tool_grouped(fg_run_size(&p->gate), a), tool_grouped(p->table_bytes, b));
    fprintf(out, "  work      at most %s operations per step\n", tool_grouped(fg_gate_work(&p->gate), c));
    const bool good =
        print_promises(out, p) && print_wide_sums(out, file) && print_lines(out, p) && print_delays(out, p);
    if (!good) tool_no_memory();
    return tool_output_close(out, FORM_TEXT, good);
}

/* The changes, and then the file; what is left is told by the check that follows. */
static int write_fixed(const char *path, fg_text before, fg_text after, uint32_t count, bool quiet)
{
    char room[64];
    fg_mistake mistake;
    FILE *out = tool_output_open();
    if (!out) return EXIT_WRONG;
    const bool shown = fg_write_diff(out, path, before, after);
    if (!shown) tool_no_memory();
    int status = tool_output_close(out, FORM_TEXT, shown);
    if (status == EXIT_WELL && fg_file_change(path, before, after, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
        status = EXIT_WRONG;
    }
    if (status == EXIT_WELL && !quiet) tool_say("%s: %s made\n", path, tool_counted(count, "change", room));
    return status;
}

static int fix(const void *given)
{
    const tool_options *o = given;
    fg_text before, after;
    uint32_t count;
    fg_mistake mistake;
    int status = EXIT_WELL;
    if (!o->fix) return EXIT_WELL;
    if (strcmp(o->gate, "-") == 0) {
        tool_say("fickle: error: a gate from standard input cannot be changed; name its file\n");
        return EXIT_WRONG;
    }
    if (fg_file_read(o->gate, FG_SOURCE_MOST_BYTES, &before, &mistake) != FG_OK)
        return EXIT_WELL; /* told by the check */
    if (fg_gate_fixed(o->gate, before, tool_settings(o), &after, &count, &mistake) != FG_OK) {
        tool_print_mistake(&mistake);
        status = EXIT_WRONG;
    } else if (count) {
        status = write_fixed(o->gate, before, after, count, o->quiet);
    } else if (!o->quiet) {
        tool_say("%s: no certain fix\n", o->gate);
    }
    fg_text_free(after);
    fg_text_free(before);
    return status;
}

static int run(void *given, const fg_gate_file *file)
{
    const tool_options *options = given;
    if (options->explain) return explain(options->explain);
    int status = tool_check_trials(options, file);
    int never = EXIT_WELL;
    if (status == EXIT_WELL && options->deep) never = tool_reach_check(options, file);
    if (never != EXIT_WELL) status = never;
    if (never == EXIT_HELD_NOT && !options->quiet && print_summary(file) != EXIT_WELL) return EXIT_WRONG;
    return status == EXIT_WELL && !options->quiet ? print_summary(file) : status;
}

static const struct argp argp = {
    .options = options_of_check,
    .parser = parse,
    .args_doc = "GATE\n--explain CODE",
    .doc = "Reads a gate file and says what is wrong or odd in it, who has which readings, and what it costs."};

const tool_command command_check = {.name = "check",
                                    .use = "check GATE",
                                    .line = "errors, warnings, number lines and cost of a gate file",
                                    .argp = &argp,
                                    .options_size = sizeof(tool_options),
                                    .forms = 1 << FORM_TEXT,
                                    .before = fix,
                                    .run = run};
