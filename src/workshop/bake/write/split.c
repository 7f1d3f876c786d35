/* SPDX-License-Identifier: MIT */
/* The step of a large gate in several functions: a compiler that has all of it in one keeps more in memory than in
 * registers, and nobody reads it. A function begins where a declaration does. Locals that are needed in more than one
 * of them stand in a struct that they pass on. */
#include "workshop/bake/write/write.h"

#include <stdlib.h>
#include <string.h>

/* Lines: a step with more is split, and the least that makes a function. */
enum { WHOLE_MOST = 160, PART_LEAST = 60, PARTS_MOST = 400 };

/* A local that is shared, by the number of its symbol. */
typedef struct shared {
    bool yes;
    unsigned part;   /* the first that needs it, from 1 */
    size_t line, at; /* where its declaration begins, and its name in it */
    fg_text type;    /* without const */
} shared;

typedef struct splitter {
    coder *c;
    const code_block *lines;
    size_t ends[PARTS_MOST]; /* where each part ends */
    unsigned count;
    shared *locals;
} splitter;

static const char *const clocks[] = {"now", "gone", "back", "passed"};
enum { CLOCKS = sizeof clocks / sizeof *clocks };

static size_t lines_between(const code_block *b, size_t from, size_t to)
{
    size_t count = 0;
    for (size_t i = from; i < to; i++) count += b->text.text[i] == '\n';
    return count;
}

/* Where the next declaration begins behind a place, its comment included; the end if none does. */
static size_t next_declaration(const code_block *b, size_t from)
{
    static const char begins[] = "\n\n    /* ";
    const size_t size = sizeof begins - 1;
    for (size_t i = from; i + size <= b->text.size; i++)
        if (!memcmp(b->text.text + i, begins, size)) return i + 1;
    return b->text.size;
}

static void choose_ends(splitter *s)
{
    const code_block *b = s->lines;
    for (size_t from = 0, to = 0; from < b->text.size && s->count < PARTS_MOST; from = to) {
        do to = next_declaration(b, to + 1);
        while (to < b->text.size && lines_between(b, from, to) < PART_LEAST);
        if (s->count + 1 == PARTS_MOST) to = b->text.size;
        s->ends[s->count++] = to;
    }
}

/* ---- locals ---- */

static bool is_clock(const char *name)
{
    for (size_t i = 0; i < CLOCKS; i++)
        if (!strcmp(name, clocks[i])) return true;
    return false;
}

/* A local of the step: what is in capitals is an answer. */
static bool is_local(const splitter *s, uint32_t symbol)
{
    const code_symbol *it = &s->c->symbols.list[symbol - 1];
    return !it->of_file && !is_clock(it->name) && !(*it->name >= 'A' && *it->name <= 'Z');
}

/* What stands between the beginning of a line and a name: "    const uint8_t ". Without a type it is no declaration. */
static fg_text type_before(const code_block *b, size_t line, size_t at)
{
    fg_text type = {b->text.text + line, at - line};
    static const char begins[] = "    ", constant[] = "const ";
    if (type.size < 6 || memcmp(type.at, begins, 4) != 0 || type.at[4] == ' ') return (fg_text){0};
    type = fg_text_trimmed(type);
    if (type.size > 6 && !memcmp(type.at, constant, 6)) type = (fg_text){type.at + 6, type.size - 6};
    for (size_t i = 0; i < type.size; i++)
        if (!strchr("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_", type.at[i])) return (fg_text){0};
    return type;
}

/* Finds the locals that more than one part needs; false if one of them is not declared on a line of its own. */
static bool find_shared(splitter *s)
{
    const code_block *b = s->lines;
    unsigned part = 1;
    for (size_t i = 0; i < b->use_count; i++) {
        const code_use *u = &b->uses[i];
        while (part < s->count && u->at >= s->ends[part - 1]) part++;
        if (!is_local(s, u->symbol)) continue;
        shared *one = &s->locals[u->symbol];
        if (!one->part) {
            size_t line = u->at;
            while (line && b->text.text[line - 1] != '\n') line--;
            *one = (shared){.part = part, .line = line, .at = u->at, .type = type_before(b, line, u->at)};
        }
        one->yes = one->yes || one->part != part;
        const char behind = b->text.text[one->at + strlen(s->c->symbols.list[u->symbol - 1].name)];
        if (one->yes && (!one->type.size || behind == '[')) return false;
    }
    return true;
}

/* ---- writing ---- */

/* The struct of what is shared; NULL if nothing is. */
static const char *write_struct(const splitter *s)
{
    coder *c = s->c;
    const char *members = "";
    for (size_t i = 1; i <= c->symbols.count; i++)
        if (s->locals[i].yes)
            members = fg_code_say(c, "%s    %.*s %s;\n", members, (int)s->locals[i].type.size, s->locals[i].type.at,
                                  c->symbols.list[i - 1].name);
    if (!*members) return NULL;
    const char *type = fg_code_say(c, "%s_shared", c->name);
    code_block *const step = fg_code_function_begin(c, NULL);
    fg_code_line(c, 0, "/* What the parts of a step hand on to each other. */");
    fg_code_line(c, 0, "typedef struct %s {", type);
    fg_code_line(c, 0, "%s} %s;\n", members, type);
    fg_code_function_end(c, step);
    return type;
}

/* A part with `of->` in front of what is shared, and the declarations of that made assignments. */
static void copy_part(const splitter *s, size_t from, size_t to)
{
    const code_block *b = s->lines;
    size_t at = from;
    for (size_t i = 0; i < b->use_count; i++) {
        const code_use *u = &b->uses[i];
        if (u->at < from || u->at >= to || !s->locals[u->symbol].yes) continue;
        const shared *one = &s->locals[u->symbol];
        const bool declares = u->at == one->at;
        const size_t behind = u->at + strlen(s->c->symbols.list[u->symbol - 1].name);
        fg_code_block_copy(s->c->out, b, at, declares ? one->line : u->at);
        at = declares && b->text.text[behind] == ';' ? behind + 2 : u->at; /* without a value nothing is left of it */
        if (at == u->at) fg_buffer_add_c(&s->c->out->text, declares ? "    of->" : "of->");
    }
    fg_code_block_copy(s->c->out, b, at, to);
}

static bool uses_clock(const splitter *s, size_t from, size_t to, const char *clock)
{
    const uint32_t symbol = fg_code_symbol_number(&s->c->symbols, fg_text_of(clock));
    for (size_t k = 0; k < s->lines->use_count; k++) {
        const code_use *u = &s->lines->uses[k];
        if (u->symbol == symbol && u->at >= from && u->at < to) return true;
    }
    return false;
}

static void write_part(const splitter *s, unsigned number, const char *type, code_block *calls)
{
    coder *c = s->c;
    const size_t from = number > 1 ? s->ends[number - 2] : 0, to = s->ends[number - 1];
    const char *takes = type ? fg_code_say(c, ", %s *of", type) : "", *gives = type ? ", &of" : "";
    for (size_t i = 0; i < CLOCKS; i++) {
        if (!uses_clock(s, from, to, clocks[i])) continue;
        takes =
            fg_code_say(c, "%s, %s %s", takes, strcmp(clocks[i], "passed") != 0 ? "uint32_t" : "uint16_t", clocks[i]);
        gives = fg_code_say(c, "%s, \3%s", gives, clocks[i]);
    }
    code_block *const step = fg_code_function_begin(c, NULL);
    fg_code_line(c, 0, "#if defined(__GNUC__)\n__attribute__((noinline))\n#endif");
    fg_code_line(c, 0, "static void %s_step_%u(%s_state *s%s)", c->name, number, c->name, takes);
    fg_code_line(c, 0, "{");
    const size_t begin = c->out->text.size;
    copy_part(s, from + (s->lines->text.text[from] == '\n'), to);
    fg_buffer_end(&c->out->text);
    if (type && !c->out->text.full && !strstr(c->out->text.text + begin, "of->")) fg_code_line(c, 1, "(void)of;");
    fg_code_line(c, 0, "}\n");
    fg_code_function_end(c, step);
    c->out = calls;
    fg_code_line(c, 1, "%s_step_%u(s%s);", c->name, number, gives);
    c->out = step;
}

void fg_code_split(coder *c, code_block *lines)
{
    splitter s = {.c = c, .lines = lines};
    code_block calls = {0};
    if (lines->text.full || lines_between(lines, 0, lines->text.size) <= WHOLE_MOST) return;
    s.locals = calloc(c->symbols.count + 1, sizeof *s.locals);
    c->full = c->full || !s.locals;
    choose_ends(&s);
    if (s.locals && s.count > 1 && find_shared(&s)) {
        const char *type = write_struct(&s);
        if (type) {
            c->out = &calls; /* cppcheck-suppress autoVariables; it is set to another by the caller */
            fg_code_line(c, 1, "%s of;", type);
        }
        for (unsigned i = 1; i <= s.count; i++) write_part(&s, i, type, &calls);
        fg_code_block_free(lines);
        *lines = calls;
    }
    free(s.locals);
}
