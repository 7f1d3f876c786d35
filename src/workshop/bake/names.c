/* SPDX-License-Identifier: MIT */
/* The names in baked files: letters, digits and _, no two alike, none a word of C or C++. */
#include "workshop/bake/names.h"

#include <ctype.h>
#include <stdlib.h>
#include <string.h>

/* Words that a name must not be: those of C up to C23 and of C++ up to C++23, macros of the headers of C, words of
 * compilers for small and old machines, and what the library and every program have. */
static const char *const taken[] = {"alignas",
                                    "alignof",
                                    "and",
                                    "and_eq",
                                    "arm",
                                    "asm",
                                    "assert",
                                    "atomic_cancel",
                                    "atomic_commit",
                                    "atomic_noexcept",
                                    "auto",
                                    "avr",
                                    "bitand",
                                    "bitor",
                                    "bool",
                                    "break",
                                    "case",
                                    "catch",
                                    "cdecl",
                                    "char",
                                    "char16_t",
                                    "char32_t",
                                    "char8_t",
                                    "class",
                                    "co_await",
                                    "co_return",
                                    "co_yield",
                                    "compl",
                                    "complex",
                                    "concept",
                                    "const",
                                    "const_cast",
                                    "consteval",
                                    "constexpr",
                                    "constinit",
                                    "continue",
                                    "decltype",
                                    "default",
                                    "delete",
                                    "do",
                                    "double",
                                    "dynamic_cast",
                                    "else",
                                    "enum",
                                    "errno",
                                    "explicit",
                                    "export",
                                    "extern",
                                    "false",
                                    "far",
                                    "fg",
                                    "float",
                                    "for",
                                    "friend",
                                    "goto",
                                    "huge",
                                    "i386",
                                    "if",
                                    "imaginary",
                                    "import",
                                    "inline",
                                    "int",
                                    "interface",
                                    "interrupt",
                                    "linux",
                                    "long",
                                    "m68k",
                                    "main",
                                    "memcpy",
                                    "memmove",
                                    "memset",
                                    "mips",
                                    "module",
                                    "mutable",
                                    "namespace",
                                    "near",
                                    "new",
                                    "noexcept",
                                    "noreturn",
                                    "not",
                                    "not_eq",
                                    "nullptr",
                                    "offsetof",
                                    "operator",
                                    "or",
                                    "or_eq",
                                    "pascal",
                                    "pixel",
                                    "private",
                                    "protected",
                                    "public",
                                    "reflexpr",
                                    "register",
                                    "reinterpret_cast",
                                    "requires",
                                    "restrict",
                                    "return",
                                    "setjmp",
                                    "short",
                                    "signed",
                                    "sizeof",
                                    "small",
                                    "sparc",
                                    "static",
                                    "static_assert",
                                    "static_cast",
                                    "stderr",
                                    "stdin",
                                    "stdout",
                                    "struct",
                                    "sun",
                                    "switch",
                                    "synchronized",
                                    "template",
                                    "this",
                                    "thread_local",
                                    "throw",
                                    "true",
                                    "try",
                                    "typedef",
                                    "typeid",
                                    "typename",
                                    "typeof",
                                    "typeof_unqual",
                                    "union",
                                    "unix",
                                    "unsigned",
                                    "using",
                                    "vax",
                                    "vector",
                                    "virtual",
                                    "void",
                                    "volatile",
                                    "wchar_t",
                                    "while",
                                    "xor",
                                    "xor_eq"};

/* What stands in <NAME.h> of C, of POSIX and of boards' cores: a file of that name beside a program may be taken for
 * it. */
static const char *const headers[] = {
    "arduino",    "assert",      "complex",   "ctype",     "dirent",  "eeprom",    "errno",   "fcntl",  "fenv",
    "ficklegate", "float",       "inttypes",  "iso646",    "limits",  "locale",    "math",    "poll",   "print",
    "pthread",    "regex",       "sched",     "semaphore", "servo",   "setjmp",    "signal",  "spawn",  "spi",
    "stdalign",   "stdarg",      "stdatomic", "stdbit",    "stdbool", "stdckdint", "stddef",  "stdint", "stdio",
    "stdlib",     "stdnoreturn", "stream",    "string",    "strings", "syslog",    "termios", "tgmath", "threads",
    "time",       "uchar",       "unistd",    "utime",     "wchar",   "wctype",    "wire",    "wstring"};

bool fg_bake_is_taken(const char *name)
{
    for (size_t i = 0; i < sizeof taken / sizeof *taken; i++)
        if (!strcmp(name, taken[i])) return true;
    const size_t size = strlen(name);
    return size > 2 && !strcmp(name + size - 2, "_t"); /* int16_t */
}

const char *fg_bake_shadows(const char *path)
{
    const char *slash = strrchr(path, '/'), *last = slash ? slash + 1 : path;
    for (size_t i = 0; i < sizeof headers / sizeof *headers; i++)
        if (fg_text_alike(fg_text_of(last), fg_text_of(headers[i]))) return headers[i];
    return NULL;
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
        fg_buffer_end(&b);
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
    fg_buffer_end(&b);
    n->full = n->full || b.full;
    if (b.full)
        fg_buffer_free(&b);
    else
        keep_name(n, b.text);
}

bool fg_bake_namer(namer *n)
{
    const fg_program *p = n->baker->program;
    size_t names = 4 * (size_t)p->declared_count;
    for (uint32_t i = 0; i < p->declared_count; i++) names += p->declared[i].label_count;
    n->used = calloc(names + FG_BAKE_RESERVED_MOST, sizeof *n->used);
    n->capitals = fg_c_string_of(fg_text_of(n->baker->name));
    for (char *c = n->capitals; c && *c; c++) *c = (char)toupper((unsigned char)*c);
    return n->used && n->capitals;
}

void fg_bake_namer_free(namer *n)
{
    for (size_t i = 0; i < n->count; i++) free(n->used[i]);
    free(n->used);
    free(n->capitals);
    fg_words_free(&n->taken);
}
