/* SPDX-License-Identifier: MIT */
/* same GATE SEED: tidies a gate, and the same gate with blanks and line ends put in by chance. What comes out has the
 * same tables, trials, scenes and findings, and tidying it again changes nothing. */
#include <ficklegate/workshop.h>

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static uint32_t state;

static uint32_t dice(uint32_t sides)
{
    state = state * 1664525u + 1013904223u;
    return (uint32_t)((uint64_t)(state >> 8) * sides >> 24);
}

static int fail(const char *path, const char *what, fg_text text)
{
    fprintf(stderr, "%s: %s\n%.*s\n", path, what, (int)(text.size > 3000 ? 3000 : text.size), text.at);
    return 1;
}

/* The tables as C, without comments and without what is made of the text itself; the caller's, for free(). */
static char *tables_of(const fg_gate_file *file)
{
    fg_memory_file header, source;
    const fg_bake_options options = {.name = "gate", .header = "gate.h"};
    if (!fg_memory_file_open(&header) || !fg_memory_file_open(&source)) exit(2);
    const bool baked = fg_bake_tables(file, &options, header.file, source.file, NULL);
    if (!fg_memory_file_close(&header) || !fg_memory_file_close(&source)) exit(2);
    free(header.text);
    size_t size = 0;
    for (char *at = source.text; *at;) {
        char *end = strchr(at, '\n');
        const bool hash = strstr(at, "hash") && end && strstr(at, "hash") < end;
        if (!strncmp(at, "/*", 2)) end = strstr(at, "*/") + 1;
        if (!end) break;
        if (!hash && strncmp(at, "/*", 2) != 0)
            for (const char *c = at; c <= end; c++) {
                if (!strncmp(c, "/*", 2) && strstr(c, "*/") && strstr(c, "*/") < end)
                    c = strstr(c, "*/") + 1;
                else
                    source.text[size++] = *c;
            }
        at = end + 1;
    }
    source.text[size] = '\0';
    if (!baked) source.text[0] = '\0';
    return source.text;
}

static bool same_tables(const fg_gate_file *a, const fg_gate_file *b)
{
    char *x = tables_of(a), *y = tables_of(b);
    const bool same = !strcmp(x, y);
    free(x);
    free(y);
    return same && !memcmp(&a->program.gate.size, &b->program.gate.size, sizeof a->program.gate.size);
}

static bool same_expect(const fg_expect *a, const fg_expect *b)
{
    return a->kind == b->kind && a->from == b->from && a->to == b->to && a->most == b->most && a->least == b->least &&
           a->declared == b->declared && a->label_count == b->label_count && fg_text_same(a->column, b->column);
}

static bool same_trials(const fg_program *a, const fg_program *b)
{
    if (a->trial_count != b->trial_count || a->scene_count != b->scene_count || a->promise_count != b->promise_count)
        return false;
    for (uint32_t i = 0; i < a->trial_count; i++) {
        const fg_trial *x = &a->trials[i], *y = &b->trials[i];
        if (x->expect_count != y->expect_count || !fg_text_same(x->name, y->name)) return false;
        if (!fg_text_same(x->readings, y->readings) || x->sets != y->sets) return false;
        for (uint32_t k = 0; k < x->expect_count; k++)
            if (!same_expect(&x->expects[k], &y->expects[k])) return false;
    }
    for (uint32_t i = 0; i < a->scene_count; i++)
        if (a->scenes[i].row_count != b->scenes[i].row_count || a->scenes[i].lasts != b->scenes[i].lasts) return false;
    return true;
}

static bool same_findings(const fg_program *a, const fg_program *b)
{
    if (a->finding_count != b->finding_count) return false;
    for (uint32_t i = 0; i < a->finding_count; i++)
        if (a->findings[i].code != b->findings[i].code) return false;
    return true;
}

static int compare(const char *path, fg_text before, fg_text after)
{
    fg_gate_file a, b;
    fg_mistake mistake;
    const fg_settings settings = {0};
    const fg_status first = fg_gate_file_of_text(&a, path, before, settings, &mistake);
    const fg_status second = fg_gate_file_of_text(&b, path, after, settings, &mistake);
    int status = 0;
    if (first != second) status = fail(path, "is a gate only before, or only after", after);
    if (!status && first == FG_OK && !same_findings(&a.program, &b.program))
        status = fail(path, "other findings", after);
    if (!status && first == FG_OK && !same_tables(&a, &b)) status = fail(path, "other tables", after);
    if (!status && first == FG_OK && !same_trials(&a.program, &b.program)) status = fail(path, "other trials", after);
    fg_gate_file_close(&a);
    fg_gate_file_close(&b);
    return status;
}

/* 2: it cannot be tidied, because something is not closed. */
static int check(const char *path, fg_text wanted, fg_text text)
{
    fg_text once, twice;
    fg_mistake mistake;
    if (fg_tidy(path, text, &once, &mistake) != FG_OK) return mistake.status == FG_ERROR_GATE ? 2 : 1;
    int status = compare(path, wanted, once);
    if (fg_tidy(path, once, &twice, &mistake) != FG_OK) return fail(path, mistake.text, once);
    if (!status && !fg_text_same(once, twice)) status = fail(path, "tidied twice it is another text", twice);
    fg_text_free(once);
    fg_text_free(twice);
    return status;
}

/* Blanks become more blanks, and rows of a block begin new lines. Comments, texts and the ends of lines stay. */
static fg_text mess_up(fg_text text)
{
    char *out = malloc(8 * text.size + 8);
    size_t size = 0;
    bool string = false, comment = false, block = false;
    for (size_t i = 0; out && i < text.size; i++) {
        const char c = text.at[i];
        const char before = i ? text.at[i - 1] : '\n';
        if (c == '\n') comment = string = false;
        if (!comment && c == '"') string = !string;
        if (!string && c == '#' && (strchr(" \t\n;{}", before))) comment = true;
        out[size++] = c;
        if (string || comment) continue;
        if (c == '{') block = true;
        if (c == '}') block = false;
        if (c == ' ')
            for (uint32_t n = dice(3); n; n--) out[size++] = dice(4) ? ' ' : '\t';
        if (block && (c == ';' || c == '{') && !dice(3)) out[size++] = '\n';
        if (block && c == ';' && !dice(6)) out[size++] = ';';
        if (c == '\n' && !dice(12)) out[size++] = '\n';
    }
    return (fg_text){out, size};
}

int main(int argc, char **argv)
{
    enum { MESSES = 5, MOST = 1 << 24 };
    fg_text text;
    fg_mistake mistake;
    if (argc < 3 || fg_file_read(argv[1], MOST, &text, &mistake) != FG_OK) return 2;
    state = (uint32_t)strtoul(argv[2], NULL, 10) * 2654435761u + 1;
    int status = check(argv[1], text, text);
    for (int i = 0; i < MESSES && !status; i++) {
        const fg_text messed = mess_up(text);
        if (!messed.at) return 2;
        status = check(argv[1], text, messed);
        free((char *)messed.at);
    }
    fg_text_free(text);
    if (status == 2) puts("not closed");
    if (!status) puts("same");
    return status == 1;
}
