/* A gate as C: the names, the header, and the comment on top of both files. */
#include "baker.h"

#include <ficklegate/version.h>

#include <ctype.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* ---- names ---- */

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

/* ---- the comment on top ---- */

/* FNV-1a (Fowler, Noll, Vo) of all texts the gate was made of and the numbers set for it. */
static uint64_t hash_of(const baker *b)
{
    uint64_t hash = UINT64_C(0xcbf29ce484222325);
    for (uint32_t k = 0; k < b->program->source_count; k++)
        for (size_t i = 0; i < b->program->sources[k].text.size; i++)
            hash = (hash ^ (unsigned char)b->program->sources[k].text.at[i]) * UINT64_C(0x100000001b3);
    for (size_t k = 0; k < b->options->settings.count; k++) {
        const fg_text parts[2] = {b->options->settings.at[k].name, b->options->settings.at[k].value};
        for (int p = 0; p < 2; p++)
            for (size_t i = 0; i < parts[p].size; i++)
                hash = (hash ^ (unsigned char)parts[p].at[i]) * UINT64_C(0x100000001b3);
    }
    return hash;
}

/* How many characters stand before a star. */
static size_t before_star(const char *text, size_t size)
{
    const char *star = memchr(text, '*', size);
    return star ? (size_t)(star - text) : size;
}

/* No comment ends inside of it. */
static void put_safe(FILE *out, const char *text, size_t size)
{
    for (size_t i = 0; i < size;) {
        const size_t length = text[i] == '*' ? 1 : before_star(text + i, size - i);
        if (text[i] == '*')
            fputc(' ', out);
        else
            fg_text_show(out, (fg_text){text + i, length});
        i += length;
    }
}

void fg_bake_top(const baker *b)
{
    const char *slash = strrchr(b->file->path, '/'), *file = slash ? slash + 1 : b->file->path;
    fputs(FG_BAKED, b->out);
    put_safe(b->out, file, strlen(file));
    fprintf(b->out, " by version %s, hash %016" PRIx64 ". Change that file, not this one.", FG_VERSION, hash_of(b));
    for (size_t i = 0; i < b->options->settings.count; i++) {
        const fg_setting *s = &b->options->settings.at[i];
        fputs(i ? ", " : "\n * With ", b->out);
        put_safe(b->out, s->name.at, s->name.size);
        fputs(" = ", b->out);
        put_safe(b->out, s->value.at, s->value.size);
    }
    fputs(" */\n", b->out);
}

/* ---- the header ---- */

static void write_enum(namer *n, const char *kind, bool (*fits)(const fg_declared *d),
                       uint32_t (*number)(const fg_declared *d), const char *what)
{
    const baker *b = n->baker;
    bool any = false;
    for (uint32_t i = 0; i < b->program->declared_count; i++) {
        const fg_declared *d = &b->program->declared[i];
        if (!fits(d)) continue;
        if (!any) fprintf(b->out, "\n/* %s */\nenum {\n", what);
        any = true;
        fprintf(b->out, "    %s = %" PRIu32 ",", fg_bake_enumerator(n, kind, d->name, (fg_text){0}), number(d));
        if (d->kind == FG_KIND_SENSOR) {
            fprintf(b->out, " /* in steps of %s%.*s1 ", d->decimals ? "0." : "", d->decimals ? d->decimals - 1 : 0,
                    "00000");
            put_safe(b->out, d->unit.at, d->unit.size);
            fputs(d->unit.size ? " */" : "*/", b->out);
        }
        fputc('\n', b->out);
    }
    if (any) fputs("};\n", b->out);
}

static bool is_sensor(const fg_declared *d) { return d->kind == FG_KIND_SENSOR; }
static bool is_flag(const fg_declared *d) { return d->kind == FG_KIND_FLAG; }
static bool is_count(const fg_declared *d) { return d->kind == FG_KIND_COUNT; }
static bool is_output(const fg_declared *d) { return fg_kind_is(d->kind, FG_KIND_IS_OUTPUT); }
static bool has_answer(const fg_declared *d)
{
    return d->slot != FG_INDEX_NONE && !is_output(d) && !is_count(d) && d->kind != FG_KIND_SENSOR;
}
static uint32_t index_of(const fg_declared *d) { return d->index; }
static uint32_t slot_of(const fg_declared *d) { return d->slot; }

static void write_labels(namer *n)
{
    const baker *b = n->baker;
    for (uint32_t i = 0; i < b->program->declared_count; i++) {
        const fg_declared *d = &b->program->declared[i];
        if (d->kind != FG_KIND_BANDS || !d->label_count) continue;
        fputs("\n/* Labels of ", b->out);
        put_safe(b->out, d->name.at, d->name.size);
        fputs("; FG_NONE in no band, FG_UNSURE without a reading. */\nenum {\n", b->out);
        for (uint16_t k = 0; k < d->label_count; k++)
            fprintf(b->out, "    %s = FG_LABEL(%u),\n", fg_bake_enumerator(n, "", d->labels[k], d->name), k);
        fputs("};\n", b->out);
    }
}

static void write_header(namer *n)
{
    const baker *b = n->baker;
    fprintf(b->out,
            "#ifndef BAKED_%s_H\n#define BAKED_%s_H\n\n#include <ficklegate.h>\n\n#ifdef __cplusplus\nextern \"C\" "
            "{\n#endif\n",
            b->name, b->name);
    write_enum(n, "SENSOR", is_sensor, index_of, "For fg_feed, fg_feed_counts, fg_sensor_value.");
    write_enum(n, "FLAG", is_flag, index_of, "For fg_feed_flag.");
    write_enum(n, "OUTPUT", is_output, index_of, "For fg_output_at, fg_display_line.");
    write_enum(n, "COUNT", is_count, index_of, "For fg_count_value.");
    write_enum(n, "ANSWER", has_answer, slot_of, "For fg_answer: FG_YES, FG_NO, FG_UNSURE, or a label.");
    write_labels(n);
    fprintf(b->out,
            "\n/* The gate; a run of it takes fg_run_size(&%s_gate) bytes, %zu where a pointer has %zu. It steps every "
            "%" PRIu32 " ms (0: when readings came). */\n"
            "extern const fg_gate %s_gate;\n\n#ifdef __cplusplus\n}\n#endif\n#endif\n",
            b->name, fg_run_size(b->gate), sizeof(void *), b->gate->every, b->name);
}

bool fg_bake_tables(const fg_gate_file *file, const fg_bake_options *options, FILE *header, FILE *source)
{
    baker b = {.file = file,
               .program = &file->program,
               .gate = &file->program.gate,
               .options = options,
               .name = options->name,
               .out = header};
    namer n = {.baker = &b};
    if (!fg_bake_namer(&n)) return false;
    fg_bake_top(&b);
    write_header(&n);
    b.out = source;
    fg_bake_top(&b);
    fprintf(source, "#include \"%s\"\n\n", options->header);
    fg_bake_source(&b);
    fg_bake_namer_free(&n);
    return !n.full;
}
