/* SPDX-License-Identifier: MIT */
/* Messages on standard error: findings with their line and place, mistakes, what a replay came across. */
#include "tool.h"

#include <inttypes.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

static bool colours(void)
{
    const char *no = getenv("NO_COLOR");
    return isatty(STDERR_FILENO) && !(no && *no);
}

/* ---- findings ---- */

enum { SHOWN = 96 };

void tool_say(const char *format, ...)
{
    va_list values;
    char room[2048], *text = NULL; /* most fits; what is longer is cut where there is no memory for it */
    va_start(values, format);
    const int size = vsnprintf(room, sizeof room, format, values);
    va_end(values);
    if (size >= (int)sizeof room) {
        va_start(values, format);
        if (vasprintf(&text, format, values) < 0) text = NULL;
        va_end(values);
    }
    for (const char *at = text ? text : room; *at;) { /* the ends of lines are ours */
        const size_t line = strcspn(at, "\n");
        fg_text_show(stderr, (fg_text){at, line});
        at += line;
        if (*at) fputc(*at++, stderr);
    }
    free(text);
}

static bool is_start(char c) { return ((unsigned char)c & 0xc0) != 0x80; }

static uint32_t width_of(const char *text, size_t size)
{
    uint32_t width = 0;
    for (size_t i = 0; i < size; i++) width += is_start(text[i]);
    return width;
}

/* One character as it is shown; a tab is a blank, so that what stands below it is in its place. */
static void show_character(FILE *out, fg_text text)
{
    if (*text.at == '\t')
        fputc(' ', out);
    else
        fg_text_show(out, text);
}

/* The line with the place marked; of a long line the part around the place. What is shown as an escape is wider than it
 * is in the file, so the mark follows what is shown. */
static void print_place(const fg_place *place, uint32_t marked)
{
    uint32_t from = 1, column = 0;
    size_t mark = SIZE_MAX, mark_end = SIZE_MAX;
    fg_memory_file line;
    if (!fg_memory_file_open(&line)) return;
    if (place->column > SHOWN - 20) from = place->column - SHOWN / 2;
    for (size_t i = 0, next; i < place->text.size; i = next) {
        for (next = i + 1; next < place->text.size && !is_start(place->text.at[next]);) next++;
        column++;
        if (column < from) continue;
        (void)fflush(line.file);
        if (column == place->column) mark = line.size;
        if (column == place->column + marked) mark_end = line.size;
        if (column >= from + SHOWN) {
            fputs("...", line.file);
            break;
        }
        show_character(line.file, (fg_text){place->text.at + i, next - i});
    }
    if (!fg_memory_file_close(&line)) return;
    const char *shown = line.text;
    if (mark > line.size) mark = line.size;
    if (mark_end > line.size) mark_end = line.size;
    const uint32_t wide = width_of(shown + mark, mark_end - mark), before = width_of(shown, mark);
    fprintf(stderr, "%s%s\n%*s", from > 1 ? "    ..." : "    ", shown, (int)before + (from > 1 ? 7 : 4), "");
    for (uint32_t m = 0; m < (marked && wide ? wide : 1); m++) fputc(m ? '~' : '^', stderr);
    fputc('\n', stderr);
    free(line.text);
}

static uint32_t marked_length(fg_text text, fg_span span)
{
    uint32_t length = 0;
    for (uint32_t i = span.at; i < span.at + span.size && i < text.size && text.at[i] != '\n'; i++)
        length += is_start(text.at[i]);
    return length;
}

static void print_finding(const fg_gate_file *file, const fg_finding *finding)
{
    static const char *const words[] = {"error", "warning", "note"};
    static const char *const paints[] = {"\033[31;1m", "\033[33;1m", "\033[36m"};
    const fg_severity severity = fg_finding_severity(finding->code);
    const uint16_t number = finding->span.source;
    const bool asked = number >= FG_SOURCE_ASKED, setting = !asked && number >= FG_SOURCE_SETTING;
    const fg_setting *set = setting ? &file->settings.at[number - FG_SOURCE_SETTING] : NULL;
    const fg_source *source = setting || asked ? NULL : &file->program.sources[number];
    const fg_text text = asked ? file->settings.asked[number - FG_SOURCE_ASKED] : setting ? set->value : source->text;
    const fg_place place = fg_text_place(text, finding->span.at);
    if (asked)
        tool_say("the condition: ");
    else if (setting)
        tool_say("--set %.*s: ", (int)set->name.size, set->name.at);
    else
        tool_say("%.*s:%" PRIu32 ":%" PRIu32 ": ", finding->span.source ? (int)source->name.size : 999,
                 finding->span.source ? source->name.at : tool_path(file->path), place.line, place.column);
    fprintf(stderr, "%s%s%s: ", colours() ? paints[severity] : "", words[severity], colours() ? "\033[0m" : "");
    tool_say("%.*s [%s]\n", (int)finding->what.size, finding->what.at, fg_finding_word(finding->code));
    if (text.size) print_place(&place, marked_length(text, finding->span));
    if (finding->instead.size) tool_say("    %.*s\n", (int)finding->instead.size, finding->instead.at);
}

fg_severity tool_told(const tool_options *options)
{
    return options->quiet ? FG_SEVERITY_ERROR : options->notes ? FG_SEVERITY_NOTE : FG_SEVERITY_WARNING;
}

void tool_print_findings(const fg_gate_file *file, fg_severity least)
{
    for (uint32_t i = 0; i < file->program.finding_count; i++) {
        const fg_finding *finding = &file->program.findings[i];
        if (fg_finding_severity(finding->code) > least) continue;
        print_finding(file, finding);
    }
    if (file->program.unlisted_count)
        tool_say("%s: and %" PRIu32 " more; fix these first\n", tool_path(file->path), file->program.unlisted_count);
}

bool tool_keeps(const char *path, const char *input)
{
    if (!input || !fg_file_same(path, input)) return true;
    tool_say("%s: error: is an input of this command and would be overwritten; choose another name\n", path);
    return false;
}

void tool_no_memory(void) { tool_say("fickle: error: there is not enough memory\n"); }

const char *tool_path(const char *path) { return strcmp(path, "-") == 0 ? "standard input" : path; }

void tool_print_mistake(const fg_mistake *mistake)
{
    const char *file = *mistake->file ? tool_path(mistake->file) : "fickle";
    if (mistake->line)
        tool_say("%s:%" PRIu64 ": error: %s\n", file, mistake->line, mistake->text);
    else
        tool_say("%s: error: %s\n", file, mistake->text);
}

int tool_open_gate(const tool_options *options, fg_gate_file *file)
{
    char room[64];
    fg_mistake mistake = {0};
    fg_status status = fg_gate_file_open(file, options->gate, tool_settings(options), &mistake);
    if (status == FG_OK || status == FG_ERROR_GATE) {
        tool_print_findings(file, tool_told(options));
        if (status == FG_OK || options->mistakes) return EXIT_WELL;
        tool_say("%s: %s; nothing has been run\n", tool_path(file->path),
                 tool_counted(file->program.error_count, "error", room));
        return EXIT_WRONG;
    }
    if (!*mistake.text) snprintf(mistake.text, sizeof mistake.text, "%s", fg_status_text(status));
    if (!*mistake.file) snprintf(mistake.file, sizeof mistake.file, "%s", options->gate);
    tool_print_mistake(&mistake);
    return EXIT_WRONG;
}

int tool_check_trials(const tool_options *options, const fg_gate_file *file)
{
    int status = EXIT_WELL;
    for (uint32_t i = 0; i < file->program.trial_count; i++) {
        fg_gate_file trial;
        fg_mistake mistake = {0};
        const fg_text name = file->program.trials[i].name;
        if (!file->program.trials[i].sets) continue; /* as the file itself, which was checked */
        const fg_status compiled = fg_gate_file_for_trial(file, (int32_t)i, &trial, &mistake);
        if (compiled == FG_ERROR_GATE) {
            tool_say("with the numbers that the trial \"%.*s\" sets:\n", (int)name.size, name.at);
            tool_print_findings(&trial, tool_told(options));
            status = EXIT_WRONG;
        } else if (compiled != FG_OK) {
            tool_print_mistake(&mistake);
            status = EXIT_WRONG;
        }
        fg_gate_file_close(&trial);
    }
    return status;
}

void tool_gap(void *context, uint64_t line, int64_t gap_ms, uint64_t steps)
{
    const tool_options *o = context;
    char room[64];
    const int64_t seconds = gap_ms / 1000;
    if (o->quiet) return;
    tool_say("%s:%" PRIu64 ": note: no row for %" PRId64
             " d %02d:%02d:%02d before this one, which is %s to play; it takes a "
             "while\n",
             o->recording ? tool_path(o->recording) : "recording", line, seconds / 86400, (int)(seconds / 3600 % 24),
             (int)(seconds / 60 % 60), (int)(seconds % 60), tool_counted(steps, "step", room));
}

/* ---- what a replay came across ---- */

const char *tool_column_meant(const fg_replay_report *report, char room[128])
{
    const char *like = report->unread_like, *quote = strpbrk(like, " \t()[]{}'\"&;|<>*?$\\#!~`") ? "'" : "";
    snprintf(room, 128, "did you mean '%s'? --column %s%s=%s%s", like, quote, report->unread_name, like, quote);
    return room;
}

void tool_print_missing(const char *path, const fg_replay_report *report)
{
    char room[128];
    if (!report->unread_count) return;
    tool_say("%s: no column for %s, so %s faulty throughout; ", path, report->unread,
             report->unread_count == 1 ? "it is" : "they are");
    if (*report->unread_like)
        tool_say("%s\n", tool_column_meant(report, room));
    else
        tool_say("the columns are %s (--column NAME=COLUMN names another)\n", report->columns);
}

void tool_print_cells(const char *path, const fg_replay_report *report)
{
    char room[64];
    if (report->unreadable)
        tool_say("%s: %s could not be read and %s as faulty; the first is in line %" PRIu64 ", %s: '%s'\n", path,
                 tool_counted(report->unreadable, "cell", room), report->unreadable == 1 ? "counts" : "count",
                 report->unreadable_line, report->unreadable_name, report->unreadable_cell);
    if (*report->other_unit)
        tool_say("%s: line %" PRIu64 " has %s in %s, and its sensor is in %s; every number is taken as %s; "
                 "write unit %s in %s, or let the board print %s\n",
                 path, report->other_unit_line, report->other_unit_name, report->other_unit, report->own_unit,
                 report->own_unit, report->other_unit, report->other_unit_name, report->own_unit);
    if (report->finer)
        tool_say("%s: %s %s finer than the step of %s and %s rounded; the first is in line %" PRIu64
                 ", %s: '%s'; write step 0.%.*s1 in %s\n",
                 path, tool_counted(report->finer, "reading", room), report->finer == 1 ? "is" : "are",
                 report->finer == 1 ? "its sensor" : "their sensor", report->finer == 1 ? "was" : "were",
                 report->finer_line, report->finer_name, report->finer_cell, report->finer_decimals - 1, "00000",
                 report->finer_name);
}

void tool_print_report(const tool_options *options, const fg_replay_report *report)
{
    char a[64], b[64], c[64], d[64];
    const char *path = tool_path(tool_readings_name(options));
    if (options->quiet) return;
    tool_say("%s: %s, ", path, tool_counted(report->rows, "row", a));
    if (options->from || options->to) tool_say("%u.%03u s to ", options->from / 1000u, options->from % 1000u);
    tool_say("%" PRId64 ".%03" PRId64 " s, %s, %s", report->length_ms / 1000, report->length_ms % 1000,
             tool_counted(report->steps, "step", b), tool_counted(report->changes, "change", c));
    if (report->faulty_steps) tool_say(", %s", tool_counted(report->faulty_steps, "faulty reading", d));
    tool_say("\n");
    if (*report->note) tool_say("%s: %s\n", path, report->note);
    if (options->verbose && *report->ignored) tool_say("%s: unused columns: %s\n", path, report->ignored);
    tool_print_missing(path, report);
    if (!options->scene) tool_print_cells(path, report); /* what is faulty in a scene is meant to be */
    if (report->zeros_missed)
        tool_say("%s: a sensor was faulty when its zero was asked for (%s), so the previous zero was kept\n", path,
                 tool_counted(report->zeros_missed, "time", a));
    if (report->refused)
        tool_say("%s: %s of %s had no effect, the first at %" PRId64 ".%03" PRId64 " s: %s\n", path,
                 tool_counted(report->refused, "start", a), report->refused_name, report->refused_ms / 1000,
                 report->refused_ms % 1000, report->refused_why);
    if (options->verbose && report->left_out)
        tool_say("%s: %s of %s changed nothing and needed no working out\n", path, tool_grouped(report->left_out, a),
                 tool_counted(report->steps, "step", b));
    else if (options->verbose && report->busy)
        tool_say("%s: every step was worked out: %s\n", path, report->busy);
    if (report->overlooked)
        tool_say("%s: %s arrived between two steps and %s not used\n", path,
                 tool_counted(report->overlooked, "reading", a), report->overlooked == 1 ? "was" : "were");
}

static const fg_scene *find_scene(const tool_options *options, const fg_gate_file *file)
{
    const fg_program *program = &file->program;
    const fg_scene *scene = fg_scene_find(program, fg_text_of(options->scene));
    if (scene) return scene;
    tool_say("%s: error: it has no scene '%s'; ", tool_path(file->path), options->scene);
    if (!program->scene_count) tool_say("%s", "add one: scene \"name\" { lasts 60s; SENSOR stays 40 }");
    for (uint32_t i = 0; i < program->scene_count; i++)
        tool_say("%s'%.*s'", i ? ", " : "it has ", (int)program->scenes[i].name.size, program->scenes[i].name.at);
    tool_say("\n");
    return NULL;
}

bool tool_readings(const tool_options *options, const fg_gate_file *file, fg_readings *readings)
{
    *readings = (fg_readings){
        .recording = options->recording, .options = options->reading, .from_ms = options->from, .to_ms = options->to};
    if (!options->scene) return true;
    readings->scene = find_scene(options, file);
    return readings->scene != NULL;
}

const char *tool_readings_name(const tool_options *options)
{
    return options->scene ? options->scene : options->recording;
}
