/* The names in baked files: letters, digits and _, no two alike, none a word of C or C++. */
#include "workshop/bake/names.h"

#include <ctype.h>
#include <stdlib.h>
#include <string.h>

/* Words of C11 and C++17, and of the library, that a name must not be. */
static const char *const taken[] = {
    "alignas",  "alignof", "and",     "asm",       "auto",     "bool",     "break",     "case",      "catch",
    "char",     "class",   "const",   "constexpr", "continue", "decltype", "default",   "delete",    "do",
    "double",   "else",    "enum",    "explicit",  "export",   "extern",   "false",     "float",     "for",
    "friend",   "goto",    "if",      "inline",    "int",      "long",     "mutable",   "namespace", "new",
    "noexcept", "not",     "nullptr", "operator",  "or",       "private",  "protected", "public",    "register",
    "restrict", "return",  "short",   "signed",    "sizeof",   "static",   "struct",    "switch",    "template",
    "this",     "throw",   "true",    "try",       "typedef",  "typeid",   "typename",  "union",     "unsigned",
    "using",    "virtual", "void",    "volatile",  "while",    "xor",      "fg",        "main",      "unix",
    "linux",    "i386",    "near",    "far",       "errno",    "stdin",    "stdout",    "stderr",    "assert",
    "memset",   "memcpy"};

bool fg_bake_is_taken(const char *name)
{
    for (size_t i = 0; i < sizeof taken / sizeof *taken; i++)
        if (!strcmp(name, taken[i])) return true;
    const size_t size = strlen(name);
    return size > 2 && !strcmp(name + size - 2, "_t"); /* int16_t */
}

bool fg_bake_name(const char *path, char *name, size_t room)
{
    const char *slash = strrchr(path, '/'), *last = slash ? slash + 1 : path;
    size_t size = 0;
    if (!isalpha((unsigned char)*last)) size = (size_t)snprintf(name, room, "gate_");
    for (const char *c = last; *c && size + 2 < room; c++)
        name[size++] = (char)(isalnum((unsigned char)*c) && (unsigned char)*c < 128 ? *c : '_');
    name[size] = '\0';
    if (fg_bake_is_taken(name)) (void)snprintf(name + size, room - size, "_");
    return strcmp(name, last) != 0;
}

void fg_bake_capitals(fg_buffer *out, const char *text, size_t size)
{
    for (size_t i = 0; i < size; i++) {
        const char c = (char)toupper((unsigned char)text[i]);
        fg_buffer_add(out, (fg_text){&c, 1});
    }
}

static void keep_name(namer *n, char *name)
{
    n->used[n->count++] = name;
    n->full = n->full || !fg_words_add(&n->taken, fg_text_of(name));
}

const char *fg_bake_enumerator(namer *n, const char *kind, fg_text thing, fg_text of)
{
    fg_buffer b = {0};
    char number[16] = "";
    for (int i = 2; !b.full; i++) {
        b.size = 0;
        fg_bake_capitals(&b, n->baker->name, strlen(n->baker->name));
        fg_buffer_add_c(&b, "_");
        fg_buffer_add_c(&b, kind);
        if (*kind) fg_buffer_add_c(&b, "_");
        if (of.size) fg_bake_capitals(&b, of.at, of.size);
        if (of.size) fg_buffer_add_c(&b, "_");
        fg_bake_capitals(&b, thing.at, thing.size);
        fg_buffer_add_c(&b, number);
        fg_buffer_add(&b, (fg_text){"", 1});
        if (b.full || !fg_words_has(&n->taken, fg_text_of(b.text))) break;
        snprintf(number, sizeof number, "_%d", i);
    }
    if (*number && !b.full && n->baker->options->renamed)
        n->baker->options->renamed(n->baker->options->context, thing, fg_text_of(b.text));
    n->full = n->full || b.full;
    if (b.full) {
        fg_buffer_free(&b);
        return "";
    }
    keep_name(n, b.text);
    return b.text;
}

/* A name that the header has anyway. */
void fg_bake_reserve(namer *n, const char *word)
{
    fg_buffer b = {0};
    fg_bake_capitals(&b, n->baker->name, strlen(n->baker->name));
    fg_buffer_add_c(&b, word);
    fg_buffer_add(&b, (fg_text){"", 1});
    n->full = n->full || b.full;
    if (b.full)
        fg_buffer_free(&b);
    else
        keep_name(n, b.text);
}

bool fg_bake_namer(namer *n)
{
    const fg_program *p = n->baker->program;
    size_t names = 2 * (size_t)p->declared_count;
    for (uint32_t i = 0; i < p->declared_count; i++) names += p->declared[i].label_count;
    n->used = calloc(names + 3, sizeof *n->used);
    return n->used != NULL;
}

void fg_bake_namer_free(namer *n)
{
    for (size_t i = 0; i < n->count; i++) free(n->used[i]);
    free(n->used);
    fg_words_free(&n->taken);
}
