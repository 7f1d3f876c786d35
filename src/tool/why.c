/* SPDX-License-Identifier: MIT */
/* fickle why GATE RECORDING NAME --at T */
#include "tool.h"

#include <ficklegate/why.h>

#include <inttypes.h>
#include <string.h>

typedef struct why_options {
    tool_options common;
    const char *name, *wanted;
    fg_time at, from, to;
    bool has_at, has_from, has_to;
} why_options;

static const struct argp_option own_options[] = {
    {"at", 't', "TIME", 0,
     "the moment, as in 12.5s, from the first row; without it where it turned, or else was nearest to that", 0},
    {"between", 'b', "TIME..TIME", 0, "every change from one time to another, as in 10s..20s", 0},
    {"not", 'N', "ANSWER", 0, "why was it not this: a label, yes, no, or a level such as on", 0},
    {"scene", 'n', "NAME", 0, "play a scene of the gate file instead of a recording", 0},
    TOOL_READING_OPTIONS,
    {0}};

static void take_times(why_options *o, const char *argument, struct argp_state *state)
{
    char first[32];
    const char *dots = strstr(argument, "..");
    const size_t size = dots ? (size_t)(dots - argument) : sizeof first;
    if (size < sizeof first) {
        memcpy(first, argument, size);
        first[size] = '\0';
        o->has_from = tool_time(first, &o->from);
        o->has_to = tool_time(dots + 2, &o->to);
    }
    if (!o->has_from || !o->has_to || o->to < o->from)
        tool_wrong_use(state, "--between needs two times, as in 10s..20s, not '%s'", argument);
}

static void take_name(why_options *o, char *argument, struct argp_state *state)
{
    if (!o->common.gate)
        o->common.gate = argument;
    else if (!o->common.recording && !o->name)
        o->common.recording = argument; /* the last one is the name: see check */
    else if (!o->name)
        o->name = argument;
    else
        tool_wrong_use(state, "unexpected argument '%s'", argument);
}

static void check(why_options *o, struct argp_state *state)
{
    if (o->common.scene && !o->name) { /* no recording then */
        o->name = o->common.recording;
        o->common.recording = NULL;
    }
    if (!o->common.gate)
        tool_wrong_use(state, "name a gate file");
    else if (o->common.scene && o->common.recording)
        tool_wrong_use(state, "name a recording or give --scene, not both");
    else if (!o->name)
        tool_wrong_use(state, "name a recording and the name to ask about: fickle why GATE RECORDING NAME");
    else if (o->has_at && o->has_from)
        tool_wrong_use(state, "give --at or --between, not both");
}

static error_t parse(int key, char *argument, struct argp_state *state)
{
    why_options *o = state->input;
    switch (key) {
    case ARGP_KEY_INIT: return tool_begin(&o->common, state);
    case 't':
        o->has_at = tool_time(argument, &o->at);
        if (!o->has_at) tool_wrong_use(state, "--at needs a time, as in 12.5s, not '%s'", argument);
        return 0;
    case 'b': take_times(o, argument, state); return 0;
    case 'N': o->wanted = argument; return 0;
    case 'n': o->common.scene = argument; return 0;
    case ARGP_KEY_ARG: take_name(o, argument, state); return 0;
    case ARGP_KEY_END: check(o, state); return 0;
    default: return tool_reading_option_of(&o->common, key, argument, state);
    }
}

typedef struct teller {
    FILE *output;
    tool_form form;
    const char *name, *wanted;
    int64_t told_ms;
    bool any, all;  /* all: of text too, however many lines that is */
    uint64_t lines; /* of the present moment */
} teller;

/* More lines than this nobody reads at once. */
enum { LINES_MOST = 200, NAMES_MOST = 100 };

/* The lines of a moment that were left out. */
static void tell_rest(teller *t)
{
    char room[64];
    if (t->lines > LINES_MOST && !t->all && t->form == FORM_TEXT)
        fprintf(t->output, "  ... and %s; --verbose prints them all\n",
                tool_counted(t->lines - LINES_MOST, "more line", room));
    t->lines = 0;
}

static void tell_text(teller *t, const fg_reason *reason)
{
    const bool next = !reason->depth && !reason->decides;
    if (!reason->depth) tell_rest(t);
    if (++t->lines > LINES_MOST && !t->all) return;
    if (!reason->depth && !next)
        fprintf(t->output, "%sat %" PRId64 ".%03" PRId64 " s  ", t->any ? "\n" : "", reason->t_ms / 1000,
                reason->t_ms % 1000);
    const int indent = next ? 0 : (int)(reason->depth ? 2 * reason->depth + 2 : 0);
    if (indent) fprintf(t->output, "%*s%s ", indent - 2, "", reason->decides ? ">" : "-");
    tool_wrapped(t->output, reason->text, indent);
    fputc('\n', t->output);
}

static void tell(void *context, const fg_reason *reason)
{
    teller *t = context;
    if (t->form == FORM_CSV) {
        fprintf(t->output, "%" PRId64 ",%u,%s,", reason->t_ms, (unsigned)reason->depth, reason->decides ? "yes" : "no");
        fg_csv_cell(t->output, reason->text);
        fputc('\n', t->output);
    } else {
        tell_text(t, reason);
    }
    t->any = true;
}

static void tell_moment(void *context, const fg_why_moment *moment)
{
    const teller *t = context;
    char when[64], room[64];
    if (t->form == FORM_CSV) return;
    snprintf(when, sizeof when, "%" PRId64 ".%03" PRId64 " s", moment->t_ms / 1000, moment->t_ms % 1000);
    if (moment->kind == FG_WHY_TURNED && t->wanted)
        fprintf(t->output, "%s was %s %s, first at %s\n\n", t->name, t->wanted,
                tool_counted(moment->times, "time", room), when);
    else if (moment->kind == FG_WHY_TURNED)
        fprintf(t->output, "%s changed %s, last at %s\n\n", t->name, tool_counted(moment->times, "time", room), when);
    else if (t->wanted)
        fprintf(t->output, "%s was never %s; it was nearest to that at %s\n\n", t->name, t->wanted, when);
    else
        fprintf(t->output, "%s never changed; it was nearest to that at %s\n\n", t->name, when);
}

static const fg_declared *find_name(const why_options *o, const fg_gate_file *file)
{
    const fg_declared *d = fg_program_find(&file->program, fg_text_of(o->name));
    if (d) return d;
    tool_say("%s: error: there is no name '%s'; it has", tool_path(file->path), o->name);
    const uint32_t count = file->program.declared_count;
    for (uint32_t i = 0; i < count && i < NAMES_MOST; i++)
        tool_say(" %.*s", (int)file->program.declared[i].name.size, file->program.declared[i].name.at);
    if (count > NAMES_MOST) tool_say(" and %s", tool_counted(count - NAMES_MOST, "more name", (char[64]){0}));
    tool_say("\n");
    return NULL;
}

static int run(void *given, const fg_gate_file *file)
{
    const why_options *o = given;
    const tool_options *c = &o->common;
    const fg_declared *name = find_name(o, file);
    fg_readings readings;
    const bool known = name && tool_readings(c, file, &readings);
    teller t = {.output = tool_output_open(), .form = c->form, .name = o->name, .wanted = o->wanted, .all = c->verbose};
    fg_replay_report report;
    fg_mistake mistake;
    if (!t.output) return EXIT_WRONG;
    if (!known) {
        (void)tool_output_close(t.output, t.form, false);
        return EXIT_WRONG;
    }
    if (c->form == FORM_CSV) fputs("t_ms,depth,decides,text\n", t.output);
    const fg_question question = {.name = name,
                                  .from_ms = o->has_at ? o->at : o->from,
                                  .to_ms = o->has_at ? o->at : o->to,
                                  .wanted = {o->wanted, o->wanted ? strlen(o->wanted) : 0},
                                  .nearest = !o->has_at && !o->has_from};
    const fg_why_observer observer = {&t, tell, tell_moment};
    const fg_status status = fg_why(&file->program, &readings, &question, &observer, &report, &mistake);
    tell_rest(&t);
    if (status != FG_OK) {
        if (!*mistake.file) snprintf(mistake.file, sizeof mistake.file, "%s", "fickle");
        tool_print_mistake(&mistake);
    } else if (!t.any && c->form == FORM_TEXT) {
        fprintf(t.output, "%s did not change in that period\n", o->name);
    }
    return tool_output_close(t.output, t.form, status == FG_OK) == EXIT_WELL && status == FG_OK ? EXIT_WELL
                                                                                                : EXIT_WRONG;
}

static const struct argp argp = {
    .options = own_options,
    .parser = parse,
    .args_doc = "GATE [RECORDING] NAME",
    .doc = "Tells why a name was what it was at one moment of a recording, down to the readings."
           "\vEach line is a part with its answer and since when; what stands below it, further in, is why. "
           "Lines with > decide, lines with - do not. The last line says what to look at next."};

const tool_command command_why = {.name = "why",
                                  .use = "why GATE REC. NAME",
                                  .line = "explains a change, or why there was none",
                                  .argp = &argp,
                                  .options_size = sizeof(why_options),
                                  .forms = 1 << FORM_TEXT | 1 << FORM_CSV,
                                  .verbose = true,
                                  .run = run};
