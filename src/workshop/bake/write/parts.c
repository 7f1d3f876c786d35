/* SPDX-License-Identifier: MIT */
/* The functions that baked gates call are copied in from bake/parts and two files of the core, which the build puts
 * into baked_parts.inc: those that are called, those that they call, and nothing else. */
#include "workshop/bake/write/write.h"
#include "baked_parts.inc"

#include <ctype.h>
#include <stdlib.h>
#include <string.h>

typedef struct part {
    fg_text text, name;
    bool used, is_static, is_function;
} part;

enum { PARTS_MOST = 200 };

typedef struct parts {
    part list[PARTS_MOST];
    size_t count;
} parts;

static bool is_word(char c) { return isalnum((unsigned char)c) || c == '_'; }

/* The name of what a block declares: the word in front of its first ( or [, or the last word of a struct. */
static fg_text name_of(fg_text block)
{
    const char *at = block.at, *const end = block.at + block.size;
    if (block.size > 2 && !memcmp(at, "/*", 2)) at = strstr(at, "*/") + 2;
    while (at < end && isspace((unsigned char)*at)) at++;
    if (!strncmp(at, "enum ", 5)) { /* called by its first word */
        at = strchr(at, '{') + 1;
        while (*at == ' ') at++;
        const char *stop = at;
        while (is_word(*stop)) stop++;
        return (fg_text){at, (size_t)(stop - at)};
    }
    const char *stop = at;
    if (!strncmp(at, "typedef struct ", 15)) {
        stop = end;
        while (stop > at && !is_word(stop[-1])) stop--;
    } else if (!strncmp(at, "#define ", 8)) {
        stop = at + 8;
        while (is_word(*stop)) stop++;
    } else {
        while (stop < end && !strchr("([=", *stop)) stop++;
        while (stop > at && stop[-1] == ' ') stop--;
    }
    const char *begin = stop;
    while (begin > at && is_word(begin[-1])) begin--;
    return (fg_text){begin, (size_t)(stop - begin)};
}

/* A block is a comment and what is declared below it, up to a line that ends it. Includes, guards and prototypes are
 * none. */
static void add_block(parts *p, fg_text block)
{
    const char *code = block.at;
    if (block.size > 2 && !memcmp(code, "/*", 2)) code = strstr(code, "*/") + 3;
    const fg_text bare = {code, block.size - (size_t)(code - block.at)};
    if (!memcmp(code, "#include", 8) || !memcmp(code, "#ifndef", 7) || !memcmp(code, "#endif", 6)) return;
    const bool prototype = !memchr(bare.at, '{', bare.size) && !memchr(bare.at, '=', bare.size) && *code != '#';
    const fg_text name = name_of(block);
    const bool guard = name.size > 2 && !memcmp(name.at + name.size - 2, "_H", 2);
    if (prototype || guard || p->count == PARTS_MOST) return;
    const bool declares =
        !strncmp(code, "static ", 7) || !strncmp(code, "typedef ", 8) || !strncmp(code, "enum ", 5) || *code == '#';
    const bool is_function = *code != '#' && name.at[name.size] == '(' && strncmp(code, "enum", 4) != 0;
    p->list[p->count++] = (part){.text = block, .name = name, .is_static = declares, .is_function = is_function};
}

typedef enum inside { NOT_INSIDE, INSIDE_FUNCTION, INSIDE_LIST } inside;

/* Does this line end a block? */
static bool ends_block(const char *line, size_t size, inside *in, bool comment)
{
    if (comment || !size) return false;
    const char last = line[size - 1];
    if (*in == INSIDE_FUNCTION) return *line == '}';
    if (*in == INSIDE_LIST) return *line == '}' || (size > 1 && last == ';' && line[size - 2] == '}');
    if (*line == '{')
        *in = INSIDE_FUNCTION;
    else if (last == '{')
        *in = INSIDE_LIST;
    return *in == NOT_INSIDE && (last == ';' || last == '}' || *line == '#');
}

static void read_parts(parts *p)
{
    p->count = 0;
    for (const char *at = baked_parts, *block = NULL; *at;) {
        bool comment = false, first = true;
        inside in = NOT_INSIDE;
        for (block = at; *at;) {
            const char *const line = at, *const end = strchr(line, '\n');
            const size_t size = (size_t)(end - line);
            at = end + 1;
            if (!size && first) { /* blank lines between blocks, and behind a heading */
                block = at;
                continue;
            }
            if (!size && in == NOT_INSIDE) { /* a comment that belongs to the file */
                block = at;
                first = true;
                continue;
            }
            comment = comment || !strncmp(line, "/*", 2);
            const bool ends = ends_block(line, size, &in, comment);
            if (comment && size >= 2 && !memcmp(end - 2, "*/", 2)) comment = false;
            first = false;
            if (!ends) continue;
            add_block(p, (fg_text){block, (size_t)(end - block)});
            break;
        }
    }
}

static part *find(parts *p, fg_text word)
{
    for (size_t i = 0; i < p->count; i++)
        if (fg_text_same(p->list[i].name, word)) return &p->list[i];
    return NULL;
}

/* How long the string or character constant is that begins here; 0 if none does. */
static size_t constant_at(fg_text text, size_t at)
{
    const char quote = text.at[at];
    size_t end = at + 1;
    if (quote != '"' && quote != '\'') return 0;
    while (end < text.size && text.at[end] != quote) end += text.at[end] == '\\' ? 2 : 1;
    return (end < text.size ? end + 1 : text.size) - at;
}

/* The same for a comment. */
static size_t comment_at(fg_text text, size_t at)
{
    if (text.size - at < 2 || memcmp(text.at + at, "/*", 2) != 0) return 0;
    const char *end = strstr(text.at + at, "*/");
    return end ? (size_t)(end - text.at) + 2 - at : text.size - at;
}

static size_t word_at(fg_text text, size_t at)
{
    size_t size = 0;
    while (at + size < text.size && is_word(text.at[at + size])) size++;
    return size;
}

/* The part that a word names; NULL if it is a member, or a variable of the name of a function. */
static part *named_at(parts *p, fg_text text, size_t i, size_t size)
{
    const char *at = text.at + i;
    if (i && (at[-1] == '.' || (i > 1 && at[-1] == '>' && at[-2] == '-'))) return NULL;
    part *found = find(p, (fg_text){at, size});
    return found && found->is_function && (i + size >= text.size || at[size] != '(') ? NULL : found;
}

/* Marks the parts whose names stand in a text, members, comments and strings aside, and those they call. */
static void mark(parts *p, fg_text text, fg_text own)
{
    for (size_t i = 0; i < text.size;) {
        const char *at = text.at + i;
        const size_t aside = comment_at(text, i) + constant_at(text, i);
        if (aside) {
            i += aside;
        } else if (is_word(*at)) {
            const size_t size = word_at(text, i);
            part *found = named_at(p, text, i, size);
            if (found && !found->used && !fg_text_same(found->name, own)) {
                found->used = true;
                mark(p, found->text, found->name);
            }
            i += size;
        } else {
            i++;
        }
    }
}

/* The name of the gate in place of fg_, its name in capitals in place of FG_. With `own` a name without one gets it
 * too, so that two gates fit into one file. */
static void add_name(const coder *c, fg_text name, bool own, fg_buffer *out)
{
    const bool small = name.size > 3 && !memcmp(name.at, "fg_", 3), large = name.size > 3 && !memcmp(name.at, "FG_", 3);
    const size_t from = small || large ? 3 : 0;
    if (small || large || own) {
        fg_buffer_add_c(out, isupper((unsigned char)*name.at) ? c->capitals : c->name);
        fg_buffer_add_c(out, "_");
    }
    fg_buffer_add(out, (fg_text){name.at + from, name.size - from});
}

/* Copies a part. All names in it that begin with fg_ are of parts, those in its comments too. */
static void copy_code(const coder *c, parts *p, fg_text code, fg_buffer *out)
{
    for (size_t i = 0; i < code.size;) {
        const size_t aside = constant_at(code, i), word = aside ? 0 : word_at(code, i), size = aside ? aside : word;
        if (word)
            add_name(c, (fg_text){code.at + i, size}, named_at(p, code, i, size), out);
        else
            fg_buffer_add(out, (fg_text){code.at + i, size ? size : 1});
        i += size ? size : 1;
    }
}

/* A call of what settles an answer costs 15 cycles on an AVR, a copy 30 bytes of flash: up to three are worth that. */
static bool is_inlined(const coder *c, const part *one)
{
    return c->settle_calls <= 3 && fg_text_same(one->name, fg_text_of("settle"));
}

static void copy_part(const coder *c, parts *p, const part *one, fg_buffer *out)
{
    const char *code = one->text.at, *const end = code + one->text.size;
    if (!memcmp(code, "/*", 2)) code = strstr(code, "*/") + 3;
    fg_buffer_add(out, (fg_text){one->text.at, (size_t)(code - one->text.at)});
    if (is_inlined(c, one)) {
        fg_buffer_add_c(out, "#if defined(__GNUC__)\n__attribute__((always_inline))\n#endif\nstatic inline ");
        code += strlen("static ");
    } else if (!one->is_static) {
        fg_buffer_add_c(out, "static ");
    }
    copy_code(c, p, (fg_text){code, (size_t)(end - code)}, out);
    fg_buffer_add_c(out, "\n\n");
}

/* Does a word stand in a part? */
static bool has_word(fg_text text, const char *word)
{
    const size_t size = strlen(word);
    for (size_t i = 0; i + size <= text.size; i++)
        if (!memcmp(text.at + i, word, size) && (!i || !is_word(text.at[i - 1])) &&
            (i + size == text.size || !is_word(text.at[i + size])))
            return true;
    return false;
}

/* The answers that a part names are used where the part is. */
static void mark_answers(coder *c, const part *one)
{
    for (size_t i = 0; i < c->symbols.count; i++) {
        code_symbol *s = &c->symbols.list[i];
        s->used = s->used || (isupper((unsigned char)*s->name) && has_word(one->text, s->name));
    }
}

bool fg_code_parts(coder *c, fg_buffer *out)
{
    parts *p = malloc(sizeof *p);
    if (!p) return false;
    read_parts(p);
    for (size_t i = 0; i < p->count; i++) {
        const uint32_t symbol = fg_code_symbol_number(&c->symbols, p->list[i].name);
        if (p->list[i].used || !symbol || !c->symbols.list[symbol - 1].used) continue;
        p->list[i].used = true;
        mark(p, p->list[i].text, p->list[i].name);
    }
    for (size_t i = 0; i < p->count; i++) {
        if (!p->list[i].used) continue;
        copy_part(c, p, &p->list[i], out);
        mark_answers(c, &p->list[i]);
    }
    free(p);
    return true;
}

void fg_code_block_write(const coder *c, const code_block *b, fg_buffer *out)
{
    size_t at = 0;
    out->full = out->full || b->text.full;
    if (out->full) return; /* something is missing: there was no memory for it */
    for (size_t i = 0; i < b->use_count; i++) {
        const code_symbol *symbol = &c->symbols.list[b->uses[i].symbol - 1];
        const fg_text name = fg_text_of(symbol->name);
        fg_buffer_add(out, (fg_text){b->text.text + at, b->uses[i].at - at});
        add_name(c, name, symbol->of_file, out);
        at = b->uses[i].at + name.size;
    }
    if (b->text.size) fg_buffer_add(out, (fg_text){b->text.text + at, b->text.size - at});
}

bool fg_code_part_symbols(coder *c)
{
    static const char *const others[] = {"now", "gone", "back", "passed", "UNSURE", "NO", "YES", "NONE", "FG_IN_FLASH"};
    parts *p = malloc(sizeof *p);
    bool good = p != NULL;
    if (good) read_parts(p);
    for (size_t i = 0; i < sizeof others / sizeof *others; i++) good = good && fg_code_symbol(&c->symbols, others[i]);
    for (size_t i = 0; good && i < p->count; i++)
        good = fg_code_symbol_of_file(
            &c->symbols,
            fg_code_symbol(&c->symbols, fg_code_say(c, "%.*s", (int)p->list[i].name.size, p->list[i].name.at)));
    free(p);
    return good;
}
