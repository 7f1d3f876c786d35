/* Leaves out locals that nothing uses: those of rows that can never win, and those that only such locals looked at. */
#include "workshop/bake/write/write.h"

#include <ctype.h>
#include <stdlib.h>
#include <string.h>

static bool is_word(char c) { return isalnum((unsigned char)c) || c == '_'; }

/* Adds the words of code; members, comments and constants are no uses. False without memory. */
static bool see(fg_words *w, fg_text code)
{
    for (size_t i = 0; i < code.size;) {
        const char *at = code.at + i;
        const size_t aside = fg_code_aside(code, i);
        size_t size = aside ? aside : 1;
        if (!aside && is_word(*at)) {
            while (i + size < code.size && is_word(at[size])) size++;
            const bool member = i > 1 && at[-1] == '>' && at[-2] == '-';
            if (!member && !fg_words_add(w, (fg_text){at, size})) return false;
        }
        i += size;
    }
    return true;
}

/* A statement: lines up to one that ends it. */
typedef struct statement {
    fg_text text;    /* with its line ends */
    fg_text defines; /* the local it makes, else empty */
    fg_text value;   /* what that is set to, with the semicolon */
    bool remembers;  /* working it out changes the state */
    bool left_out;
} statement;

/* "const TYPE NAME = VALUE;", or with [SIZE] behind the name */
static void look_at(statement *s)
{
    const fg_text line = fg_text_trimmed(s->text);
    const char *equals = line.size > 6 && !memcmp(line.at, "const ", 6) ? memchr(line.at, '=', line.size) : NULL;
    if (!equals || equals - line.at < 9 || equals[-1] != ' ') return;
    const char *bracket = memchr(line.at, '[', (size_t)(equals - line.at));
    const char *end = bracket ? bracket : equals - 1, *begin = end;
    while (begin > line.at && is_word(begin[-1])) begin--;
    s->defines = (fg_text){begin, (size_t)(end - begin)};
    s->value = (fg_text){equals + 2, (size_t)(s->text.at + s->text.size - equals) - 2};
    for (size_t i = 0; i + 4 < s->value.size; i++) s->remembers = s->remembers || !memcmp(s->value.at + i, "(&s->", 5);
}

static size_t line_size(const char *at, const char *end)
{
    const char *newline = memchr(at, '\n', (size_t)(end - at));
    return newline ? (size_t)(newline - at) + 1 : (size_t)(end - at);
}

/* Takes the code apart; a definition may go over several lines. Returns how many there are. */
static size_t take_apart(fg_text code, statement *list)
{
    size_t count = 0;
    const char *const end = code.at + code.size;
    for (const char *at = code.at; at < end; at += list[count++].text.size) {
        statement *s = &list[count];
        *s = (statement){.text = {at, line_size(at, end)}};
        if (memcmp(fg_text_trimmed(s->text).at, "const ", 6) != 0) continue;
        while (s->text.size > 1 && s->text.at[s->text.size - 2] != ';' && at + s->text.size < end)
            s->text.size += line_size(at + s->text.size, end);
        look_at(s);
    }
    return count;
}

/* What is not used by what stands behind it is not used at all, so one way from the end is enough. */
static bool judge(fg_words *w, statement *list, size_t count)
{
    bool good = true;
    while (count-- && good) {
        statement *s = &list[count];
        s->left_out = s->defines.size && !fg_words_has(w, s->defines);
        if (!s->left_out)
            good = see(w, s->text);
        else if (s->remembers)
            good = see(w, s->value);
    }
    return good;
}

static void write_rest(const statement *list, size_t count, fg_buffer *out)
{
    for (size_t i = 0; i < count; i++) {
        const statement *s = &list[i];
        if (s->left_out && !s->remembers) continue;
        if (s->left_out) {
            const size_t indent = (size_t)(strstr(s->text.at, "const ") - s->text.at);
            fg_buffer_add(out, (fg_text){s->text.at, indent});
            fg_buffer_add_c(out, "(void)");
        }
        fg_buffer_add(out, s->left_out ? s->value : s->text);
    }
}

bool fg_code_prune(fg_buffer *code)
{
    size_t lines = 1;
    fg_words w = {0};
    fg_buffer rest = {0};
    for (size_t i = 0; i < code->size; i++) lines += code->text[i] == '\n';
    fg_buffer_add(code, (fg_text){"", 1}); /* a NUL behind it */
    statement *list = calloc(lines + 1, sizeof *list);
    bool good = list && !code->full;
    if (good) {
        code->size--;
        const size_t count = take_apart(fg_buffer_text(code), list);
        good = judge(&w, list, count);
        write_rest(list, count, &rest);
        fg_buffer_free(code);
        *code = rest;
    }
    free(list);
    fg_words_free(&w);
    return good && !code->full;
}

/* ---- functions ---- */

/* The name of a static function whose text ends here, and where that begins: behind the end of the one before. */
static fg_text last_function(fg_text code, fg_text *name)
{
    static const char end[] = "\n}\n";
    size_t from = code.size > 4 ? code.size - 4 : 0;
    while (from && memcmp(code.at + from - 1, end, sizeof end - 1) != 0) from--;
    if (from) from += sizeof end - 2;
    const fg_text text = {code.at + from, code.size - from};
    const char *head = from < code.size ? strstr(text.at, "\nstatic ") : NULL;
    *name = (fg_text){0};
    if (!head || head >= text.at + text.size) return text;
    const char *stop = strchr(head, '('), *begin = stop;
    while (begin > head && is_word(begin[-1])) begin--;
    *name = (fg_text){begin, (size_t)(stop - begin)};
    return text;
}

bool fg_code_prune_functions(fg_buffer *functions, fg_text step, fg_text texts)
{
    fg_words w = {0};
    fg_buffer rest = {0};
    size_t count = 0;
    fg_buffer_add(functions, (fg_text){"", 1});
    fg_text *kept = malloc((functions->size / 8 + 1) * sizeof *kept); /* no function is shorter */
    bool good = kept && !functions->full && see(&w, step) && see(&w, texts);
    if (good) {
        for (size_t end = functions->size - 1; end && good;) {
            fg_text name;
            const fg_text one = last_function((fg_text){functions->text, end}, &name);
            end -= one.size;
            if (name.size && !fg_words_has(&w, name)) continue;
            good = see(&w, one);
            kept[count++] = one;
        }
        while (count) fg_buffer_add(&rest, kept[--count]);
        good = good && !rest.full;
        fg_buffer_free(functions);
        *functions = rest;
    }
    free(kept);
    fg_words_free(&w);
    return good;
}
