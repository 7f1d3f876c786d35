/* SPDX-License-Identifier: MIT */
/* Changes as they are printed: a line each, as text, CSV or JSON. */
#include "tool.h"

#include <inttypes.h>
#include <string.h>
#ifndef FG_WITHOUT_JSON
#include <jansson.h>
#endif

static const fg_text comma = {",", 1}, newline = {"\n", 1};

static bool print_csv(tool_changes *p, const fg_change *change)
{
    tool_line line;
    tool_line_begin(&line, p->output);
    const char *const front[] = {p->of, p->device};
    for (int i = 0; i < 2; i++) {
        if (!front[i]) continue;
        tool_line_csv(&line, fg_text_of(front[i]));
        tool_line_text(&line, comma);
    }
    tool_line_number(&line, change->t_ms, 1);
    tool_line_text(&line, comma);
    tool_line_text(&line, change->declared->name);
    const fg_text cells[] = {change->was, change->is, change->because};
    for (int i = 0; i < 3; i++) {
        tool_line_text(&line, comma);
        tool_line_csv(&line, cells[i]);
    }
    tool_line_text(&line, newline);
    tool_line_out(&line);
    return !ferror(p->output);
}

#ifndef FG_WITHOUT_JSON
static json_t *string_of(fg_text text) { return json_stringn_nocheck(text.size ? text.at : "", text.size); }

static bool print_json(tool_changes *p, const fg_change *change)
{
    json_t *line = json_object();
    const bool made = (!p->of || json_object_set_new(line, "recording", string_of(fg_text_of(p->of))) == 0) &&
                      (!p->device || json_object_set_new(line, "device", string_of(fg_text_of(p->device))) == 0) &&
                      json_object_set_new(line, "t_ms", json_integer(change->t_ms)) == 0 &&
                      json_object_set_new(line, "name", string_of(change->declared->name)) == 0 &&
                      json_object_set_new(line, "was", string_of(change->was)) == 0 &&
                      json_object_set_new(line, "is", string_of(change->is)) == 0 &&
                      json_object_set_new(line, "because", string_of(change->because)) == 0;
    char room[2048];
    const size_t size = made ? json_dumpb(line, room, sizeof room, JSON_COMPACT) : 0;
    const bool written = size > sizeof room ? json_dumpf(line, p->output, JSON_COMPACT) == 0
                                            : size && fwrite(room, 1, size, p->output) == size;
    json_decref(line);
    fputc('\n', p->output);
    return written && !ferror(p->output);
}
#else
static bool print_json(tool_changes *p, const fg_change *change)
{
    (void)p;
    (void)change;
    return false;
}
#endif

/* The time stands once for all that changed at that step. */
static void put_time(tool_changes *p, tool_line *line, int64_t t_ms)
{
    enum { WIDTH = 11, BEHIND_POINT = 4 };
    const bool again = !p->of && !p->device && t_ms == p->last_ms;
    p->last_ms = t_ms;
    if (again) {
        tool_line_blanks(line, WIDTH);
        return;
    }
    int digits = 1;
    for (int64_t rest = t_ms / 1000; rest >= 10; rest /= 10) digits++;
    tool_line_blanks(line, WIDTH - BEHIND_POINT - digits);
    tool_line_number(line, t_ms / 1000, 1);
    tool_line_text(line, (fg_text){".", 1});
    tool_line_number(line, t_ms % 1000, 3);
}

static bool print_text(tool_changes *p, const fg_change *change)
{
    static const fg_text arrow = {" -> ", 4};
    tool_line line;
    tool_line_begin(&line, p->output);
    if (p->of) tool_line_padded(&line, fg_text_of(p->of), p->of_width + 2);
    if (p->device) tool_line_padded(&line, fg_text_of(p->device), p->device_width + 2);
    put_time(p, &line, change->t_ms);
    tool_line_blanks(&line, 2);
    tool_line_padded(&line, change->declared->name, p->name_width);
    tool_line_blanks(&line, 2);
    int width = (int)(change->is.size + (change->was.size ? change->was.size + arrow.size : 0));
    tool_line_text(&line, change->was);
    if (change->was.size) tool_line_text(&line, arrow);
    tool_line_text(&line, change->is);
    const int indent = (p->of ? p->of_width + 2 : 0) + (p->device ? p->device_width + 2 : 0) + 11 + 2 + p->name_width +
                       2 + p->change_width + 2;
    if (width > p->change_width && indent + 20 <= p->width) {
        tool_line_text(&line, newline);
        tool_line_blanks(&line, indent);
    } else {
        tool_line_blanks(&line, width < p->change_width ? p->change_width - width + 2 : 2);
    }
    if (p->width) {
        tool_line_out(&line);
        tool_wrapped(p->output, change->because, indent);
    } else {
        tool_line_text(&line, change->because);
    }
    tool_line_text(&line, newline);
    tool_line_out(&line);
    return !ferror(p->output);
}

void tool_changes_begin(tool_changes *p, const fg_program *program)
{
    enum { NARROW = 4, WIDE = 24, CHANGE = 20 };
    p->name_width = NARROW;
    p->change_width = CHANGE;
    p->last_ms = -1;
    p->width = tool_width();
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        if (d->kind != FG_KIND_NUMBER && (int)d->name.size > p->name_width) p->name_width = (int)d->name.size;
    }
    if (p->name_width > WIDE) p->name_width = WIDE;
}

void tool_changes_heading(const tool_changes *p)
{
    if (p->form == FORM_CSV)
        fprintf(p->output, "%s%st_ms,name,was,is,because\n", p->of ? "recording," : "", p->device ? "device," : "");
    if (p->form == FORM_TEXT && p->of) fprintf(p->output, "%-*s  ", p->of_width, "recording");
    if (p->form == FORM_TEXT && p->device) fprintf(p->output, "%-*s  ", p->device_width, "device");
    if (p->form == FORM_TEXT)
        fprintf(p->output, "%11s  %-*s  %-*s  because\n", "time [s]", p->name_width, "name", p->change_width,
                "was -> is");
}

/* At the first step a person looks for the outputs, for what a reading is called, and for what is wrong. */
static bool matters_at_first(const fg_change *change)
{
    const fg_kind kind = change->declared->kind;
    if (fg_kind_is(kind, FG_KIND_IS_OUTPUT) || fg_kind_is(kind, FG_KIND_LABELS)) return true;
    return fg_text_is(change->is, fg_kind_is(kind, FG_KIND_READ) ? "faulty" : "yes");
}

/* Is it a change that a person would only read over? */
static bool is_left_out(tool_changes *p, const fg_change *change)
{
    if (p->form != FORM_TEXT || p->all) return false;
    const bool quiet = !change->was.size && !p->chosen.count && !matters_at_first(change);
    p->quiet += quiet;
    p->plays += change->plays_on;
    return quiet || change->plays_on;
}

/* The changes that were left out. */
void tool_changes_tell_left_out(const tool_changes *p, const char *path)
{
    char a[64], b[64];
    if (!p->quiet && !p->plays) return;
    tool_say("%s: not shown: ", path);
    if (p->quiet) tool_say("%s at rest in the first step", tool_counted(p->quiet, "name", a));
    if (p->plays) tool_say("%s%s of sequences and sweeps", p->quiet ? ", " : "", tool_counted(p->plays, "level", b));
    tool_say("; --verbose prints them\n");
}

bool tool_changes_print(tool_changes *p, const fg_change *change)
{
    if (!tool_is_chosen(&p->chosen, change->declared)) return true;
    p->told++;
    if (is_left_out(p, change)) return true;
    const bool printed = p->form == FORM_JSONL ? print_json(p, change)
                         : p->form == FORM_CSV ? print_csv(p, change)
                                               : print_text(p, change);
    p->failed = !printed;
    return printed;
}
