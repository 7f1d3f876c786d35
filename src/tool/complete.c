/* SPDX-License-Identifier: MIT */
/* fickle complete COMMAND WORD...: what may stand where the last word stands, a line each with a tab and what it is,
 * for the shells (shell/). `:files .gate` asks the shell for files with this ending, `:files` for any. */
#include "shell.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

typedef struct completing {
    const tool_command *command;
    const struct argp_option *option; /* whose value is completed; NULL: none's */
    const char *word;                 /* what is there of it, behind the `=` of an option */
    const char *before;               /* what of the word stands in front of that, with its size */
    size_t before_size;
    const char *names[3]; /* gate, recording, and what comes third */
    size_t name_count;
    fg_gate_file gate;
    bool open;
} completing;

static bool fits(const completing *c, fg_text candidate)
{
    const size_t size = strlen(c->word);
    return candidate.size >= size && !memcmp(candidate.at, c->word, size);
}

/* One candidate; `ending` behind it belongs to it. */
static void offer(const completing *c, fg_text candidate, const char *ending, const char *about)
{
    if (!fits(c, candidate) || !tool_is_plain(candidate)) return;
    printf("%.*s%.*s%s\t%s\n", (int)c->before_size, c->before, (int)candidate.size, candidate.at, ending, about);
}

static void offer_files(const char *ending) { printf(":files%s%s\n", *ending ? " " : "", ending); }

/* ---- options ---- */

static const struct argp_option *options_of(const completing *c, int which)
{
    return which ? tool_common.options : c->command->argp->options;
}

static const struct argp_option *option_named(const completing *c, const char *name, size_t size)
{
    for (int which = 0; which < 2; which++)
        for (const struct argp_option *o = options_of(c, which); o && (o->name || o->key || o->doc); o++) {
            if (o->name && strlen(o->name) == size && !memcmp(o->name, name, size)) return o;
        }
    return NULL;
}

static void offer_options(const completing *c)
{
    for (int which = 0; which < 2; which++)
        for (const struct argp_option *o = options_of(c, which); o && (o->name || o->key || o->doc); o++) {
            char text[80];
            if (!o->name || o->flags & OPTION_HIDDEN) continue;
            snprintf(text, sizeof text, "--%s", o->name);
            offer(c, fg_text_of(text), o->arg ? "=" : "", o->doc ? o->doc : "");
        }
}

/* ---- what the gate and the recording have ---- */

static bool has_gate(completing *c)
{
    fg_mistake mistake;
    if (c->open) return true;
    if (!c->name_count) return false;
    (void)!fg_gate_file_open(&c->gate, c->names[0], (fg_settings){0}, &mistake);
    c->open = true;
    return true;
}

static void offer_names(completing *c, uint32_t kinds, const char *ending)
{
    if (!has_gate(c)) return;
    for (uint32_t i = 0; i < c->gate.program.declared_count; i++) {
        const fg_declared *d = &c->gate.program.declared[i];
        if (kinds & FG_KIND_BIT(d->kind)) offer(c, d->name, ending, fg_kind_word(d->kind));
    }
}

static void offer_scenes(completing *c)
{
    for (uint32_t i = 0; has_gate(c) && i < c->gate.program.scene_count; i++)
        offer(c, c->gate.program.scenes[i].name, "", "scene");
}

static void offer_promises(completing *c)
{
    for (uint32_t i = 0; has_gate(c) && i < c->gate.program.promise_count; i++)
        if (c->gate.program.promises[i].text.size) offer(c, c->gate.program.promises[i].text, "", "promise");
}

/* The heading of a recording. */
static void offer_columns(const completing *c)
{
    char line[4096];
    FILE *file = c->name_count > 1 ? fopen(c->names[1], "r") : NULL;
    bool heading = false;
    while (file && !heading && fgets(line, sizeof line, file)) heading = *line != '#' && *line != '\n';
    if (file) (void)fclose(file);
    for (char *at = heading ? line : NULL; at && *at;) {
        const size_t size = strcspn(at, ",;\t\r\n");
        if (size) offer(c, (fg_text){at, size}, "", "column");
        at += size;
        at += strspn(at, ",;\t\r\n");
    }
}

/* ---- values ---- */

static void offer_forms(const completing *c)
{
    static const char *const words[] = {
#define COMPLETE_FORM_WORD(code, word) word,
        TOOL_FORMS(COMPLETE_FORM_WORD)
#undef COMPLETE_FORM_WORD
    };
    for (int i = 0; i < TOOL_FORM_COUNT; i++)
        if (c->command->forms >> i & 1) offer(c, fg_text_of(words[i]), "", "");
}

static void offer_codes(const completing *c)
{
    for (int code = 0; code < FG_FINDING_CODES; code++)
        offer(c, fg_text_of(fg_finding_word((fg_finding_code)code)), "", "");
    offer(c, fg_text_of("list"), "", "all of them");
}

/* Behind the last comma of a list. */
static void skip_list(completing *c)
{
    const char *comma = strrchr(c->word, ',');
    if (!comma) return;
    c->before_size += (size_t)(comma + 1 - c->word);
    if (c->before_size == (size_t)(comma + 1 - c->word)) c->before = c->word;
    c->word = comma + 1;
}

/* Behind NAME=. */
static bool skip_name(completing *c)
{
    const char *equals = strchr(c->word, '=');
    if (!equals) return false;
    if (!c->before_size) c->before = c->word;
    c->before_size += (size_t)(equals + 1 - c->word);
    c->word = equals + 1;
    return true;
}

static void offer_value(completing *c)
{
    const char *name = c->option->name, *about = c->option->arg;
    if (!strcmp(name, "set") || !strcmp(name, "try")) {
        offer_names(c, FG_KIND_BIT(FG_KIND_NUMBER), "=");
    } else if (!strcmp(name, "scene")) {
        offer_scenes(c);
    } else if (!strcmp(name, "only")) {
        skip_list(c);
        offer_names(c, UINT32_MAX & ~FG_KIND_BIT(FG_KIND_NUMBER) & ~FG_KIND_BIT(FG_KIND_SEQUENCE), "");
    } else if (!strcmp(name, "as")) {
        offer_forms(c);
    } else if (!strcmp(name, "explain")) {
        offer_codes(c);
    } else if (!strcmp(name, "column")) {
        if (skip_name(c))
            offer_columns(c);
        else
            offer_names(c, FG_KIND_BIT(FG_KIND_SENSOR) | FG_KIND_BIT(FG_KIND_FLAG), "=");
    } else if (!strcmp(name, "label") || !strcmp(name, "by")) {
        offer_columns(c);
    } else if (strstr(about, "FILE") || strstr(about, "FOLDER")) {
        offer_files("");
    }
}

/* What is named without an option. */
static void offer_place(completing *c)
{
    const bool gate = !c->name_count || c->command == &command_tidy;
    if (c->command == &command_new || c->command == &command_lsp) return;
    if (gate)
        offer_files(".gate");
    else if (c->command == &command_promise)
        offer_promises(c);
    else if (c->command == &command_why && c->name_count == 2)
        offer_names(c, UINT32_MAX & ~FG_KIND_BIT(FG_KIND_NUMBER) & ~FG_KIND_BIT(FG_KIND_SEQUENCE), "");
    else
        offer_files("");
}

/* The words in front: names of files, and options with what they take. */
static void look_back(completing *c, int count, char **words)
{
    for (int i = 0; i < count; i++) {
        const char *word = words[i];
        c->option = NULL;
        if (strncmp(word, "--", 2) == 0) {
            const struct argp_option *o = option_named(c, word + 2, strcspn(word + 2, "="));
            if (o && o->arg && !strchr(word, '=')) c->option = o;
            if (c->option && i + 1 < count) i++;
            if (i + 1 < count || strchr(word, '=')) continue;
            if (words[i] != word) c->option = NULL;
        } else if (*word != '-' && c->name_count < sizeof c->names / sizeof *c->names) {
            c->names[c->name_count++] = word;
        }
    }
}

static void offer_commands(const char *word)
{
    const completing c = {.word = word, .before = ""};
    const tool_command *command;
    for (size_t i = 0; (command = tool_command_at(i)); i++) offer(&c, fg_text_of(command->name), "", command->line);
}

int tool_complete(int count, char **words)
{
    completing c = {.word = count ? words[count - 1] : "", .before = ""};
    if (count < 2) {
        offer_commands(c.word);
        return EXIT_WELL;
    }
    for (size_t i = 0; (c.command = tool_command_at(i)) && strcmp(c.command->name, words[0]) != 0;) i++;
    if (!c.command) return EXIT_WELL;
    look_back(&c, count - 2, words + 1);
    const char *equals = strchr(c.word, '=');
    if (!c.option && strncmp(c.word, "--", 2) == 0 && equals) {
        c.option = option_named(&c, c.word + 2, (size_t)(equals - c.word) - 2);
        c.before = c.word;
        c.before_size = (size_t)(equals + 1 - c.word);
        c.word = equals + 1;
        if (!c.option || !c.option->arg) return EXIT_WELL;
    }
    if (c.option)
        offer_value(&c);
    else if (*c.word == '-')
        offer_options(&c);
    else
        offer_place(&c);
    if (c.open) fg_gate_file_close(&c.gate);
    return EXIT_WELL;
}
