/* Names, members of the state, lines. */
#include "coder.h"

#include <ctype.h>
#include <inttypes.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

/* ---- texts ---- */

static const char *keep(coder *c, char *text)
{
    if (c->text_count == c->text_room) {
        const size_t room = c->text_room ? 2 * c->text_room : 256;
        char **more = realloc(c->texts_made, room * sizeof *more);
        if (!more) {
            free(text);
            text = NULL;
        } else {
            c->texts_made = more;
            c->text_room = room;
        }
    }
    if (!text) {
        c->full = true;
        return "";
    }
    return c->texts_made[c->text_count++] = text;
}

const char *fg_code_say(coder *c, const char *format, ...)
{
    va_list list, again;
    va_start(list, format);
    va_copy(again, list);
    const int size = vsnprintf(NULL, 0, format, list);
    char *text = size < 0 ? NULL : malloc((size_t)size + 1);
    if (text) (void)vsnprintf(text, (size_t)size + 1, format, again);
    va_end(again);
    va_end(list);
    return keep(c, text);
}

/* ---- lines ---- */

enum { WIDTH = 120, INDENT = 4 };

static bool is_break(const char *at) { return !strncmp(at, " && ", 4) || !strncmp(at, " || ", 4); }

/* Where a line that is too long is broken: in front of the last && or || of what fits, else behind the
 * last comma. 0: nowhere. */
static size_t place_to_break(const char *text, size_t room)
{
    size_t best = 0;
    for (size_t i = INDENT; i < room && text[i]; i++)
        if (is_break(text + i)) best = i;
    if (best) return best;
    for (size_t i = INDENT; i + 1 < room && text[i]; i++)
        if (text[i] == ',' && text[i + 1] == ' ') best = i + 1;
    return best;
}

static void add_blanks(fg_buffer *b, int count)
{
    while (count-- > 0) fg_buffer_add_c(b, " ");
}

/* A piece of a line, in as many lines as it takes. */
static void add_piece(coder *c, const char *at, size_t size, int begin, bool whole)
{
    int blanks = begin;
    while (size + (size_t)blanks > WIDTH && !whole) {
        const size_t end = place_to_break(at, WIDTH - (size_t)blanks);
        if (!end || end >= size) break;
        add_blanks(c->out, blanks);
        fg_buffer_add(c->out, (fg_text){at, end});
        fg_buffer_add_c(c->out, "\n");
        at += end + 1;
        size -= end + 1;
        blanks = begin + INDENT;
    }
    if (size) add_blanks(c->out, blanks);
    fg_buffer_add(c->out, (fg_text){at, size});
    fg_buffer_add_c(c->out, "\n");
}

/* A line that is too long is broken where it says (\v), then wherever it goes. */
static void add_line(coder *c, char *text, int blanks)
{
    const bool whole = strstr(text, "/*") || !strncmp(text, " *", 2) || strchr(text, '"');
    size_t marks = 0;
    for (const char *at = text; *at; at++) marks += *at == '\v';
    if (strlen(text) - marks + (size_t)blanks <= WIDTH) {
        char *to = text;
        for (const char *at = text; *at; at++)
            if (*at != '\v') *to++ = *at;
        *to = '\0';
    }
    for (const char *at = text, *mark; at; at = mark ? mark + 1 + (mark[1] == ' ') : NULL) {
        mark = strchr(at, '\v');
        add_piece(c, at, mark ? (size_t)(mark - at) : strlen(at), at == text ? blanks : blanks + INDENT, whole);
    }
}

void fg_code_line(coder *c, int indent, const char *format, ...)
{
    char *text = NULL;
    va_list list, again;
    va_start(list, format);
    va_copy(again, list);
    const int size = vsnprintf(NULL, 0, format, list);
    if (size >= 0) text = malloc((size_t)size + 1);
    if (text) (void)vsnprintf(text, (size_t)size + 1, format, again);
    va_end(again);
    va_end(list);
    if (!text) {
        c->full = true;
        return;
    }
    char *at = text;
    if (*at == '\n') fg_buffer_add_c(c->out, "\n");
    at += *at == '\n';
    add_line(c, at, *at == '#' ? 0 : indent * INDENT);
    free(text);
}

/* ---- words ---- */

/* Words of functions; a member of the state may have them. */
static const char *const local_words[] = {"s",       "now",    "gone",  "passed", "row",    "at",     "is",
                                          "reading", "w",      "line",  "text",   "value",  "sensor", "flag",
                                          "output",  "answer", "count", "counts", "newest", "oldest", "took",
                                          "inner",   "units",  "good",  "result"};

static bool is_known(const coder *c, const char *name, bool member)
{
    const fg_text word = fg_text_of(name);
    if (fg_words_has(&c->names, word)) return true;
    for (size_t i = 0; !member && i < sizeof local_words / sizeof *local_words; i++)
        if (!strcmp(local_words[i], name)) return true;
    return fg_bake_is_taken(name) || (!member && fg_words_has(&c->part_names, word));
}

const char *fg_code_word(coder *c, fg_text thing, const char *suffix)
{
    fg_buffer b = {0};
    for (size_t i = 0; i < thing.size; i++) {
        const char small = (char)tolower((unsigned char)thing.at[i]);
        fg_buffer_add(&b, (fg_text){&small, 1});
    }
    fg_buffer_add_c(&b, suffix);
    fg_buffer_add(&b, (fg_text){"", 1});
    const char *base = fg_code_say(c, "%s", b.full ? "x" : b.text), *name = base;
    c->full = c->full || b.full;
    fg_buffer_free(&b);
    uint32_t *known = fg_words_number(&c->names, fg_text_of(base)), number = known && *known ? *known : 2;
    for (; is_known(c, name, !*suffix) && !c->full; number++) name = fg_code_say(c, "%s_%" PRIu32, base, number);
    if (known) *known = number; /* the next one of this name need not try all those before it */
    c->full = c->full || !fg_words_add(&c->names, fg_text_of(name));
    return name;
}

/* ---- what is declared ---- */

bool fg_code_index(coder *c)
{
    const fg_program *p = c->program;
    uint32_t counts[FG_KINDS_IN_ALL] = {0};
    c->owners = calloc(c->gate->size.ops + 1u, sizeof(fg_declared *));
    c->by_kind = calloc(FG_KINDS_IN_ALL, sizeof(fg_declared **));
    bool good = c->owners && c->by_kind;
    for (uint32_t i = 0; i < p->declared_count; i++) counts[p->declared[i].kind]++;
    for (int k = 0; good && k < FG_KINDS_IN_ALL; k++) {
        const bool output = fg_kind_is((fg_kind)k, FG_KIND_IS_OUTPUT); /* these are numbered together */
        c->by_kind[k] = calloc((output ? c->gate->size.outputs : counts[k]) + 1u, sizeof(fg_declared *));
        good = c->by_kind[k] != NULL;
    }
    for (uint32_t i = p->declared_count; good && i-- > 0;) { /* of two on one line the first counts */
        const fg_declared *d = &p->declared[i];
        c->by_kind[d->kind][d->index] = d;
        if (d->slot != FG_INDEX_NONE) c->owners[d->slot] = d;
    }
    for (uint16_t line = c->gate->size.ops; good && line-- > 0;)
        if (!c->owners[line] && line + 1u < c->gate->size.ops) c->owners[line] = c->owners[line + 1];
    return good;
}

const fg_declared *fg_code_declared(const coder *c, fg_kind kind, uint16_t index) { return c->by_kind[kind][index]; }

const fg_declared *fg_code_owner(const coder *c, uint16_t line) { return c->owners[line]; }

const char *fg_code_label(const coder *c, const fg_declared *d, fg_verdict answer)
{
    if (answer == FG_NONE) return "NONE";
    return c->labels[c->first_label[d - c->program->declared] + answer - 1u];
}

/* ---- the state ---- */

static void measure(code_member *m)
{
    static const struct {
        const char *type;
        uint8_t size, aligned, alignment;
    } known[] = {{"uint32_t", 4, 4, 4},       {"int32_t", 4, 4, 4},
                 {"uint16_t", 2, 2, 2},       {"int16_t", 2, 2, 2},
                 {"uint8_t", 1, 1, 1},        {"int8_t", 1, 1, 1},
                 {"bool", 1, 1, 1},           {"_settling", 4, 4, 2},
                 {"_settling_long", 6, 8, 4}, {"_settling_within", 10, 12, 4},
                 {"_ring", 2, 2, 1},          {"_playing", 16, 16, 4}};
    const size_t size = strlen(m->type);
    for (size_t i = 0; i < sizeof known / sizeof *known; i++) {
        const size_t end = strlen(known[i].type);
        if (end > size || strcmp(m->type + size - end, known[i].type) != 0 || (*known[i].type != '_' && end != size))
            continue;
        m->size = known[i].size;
        m->aligned = known[i].aligned;
        m->alignment = known[i].alignment;
    }
}

const char *fg_code_member(coder *c, const char *type, const char *name, uint16_t count, const char *comment)
{
    if (c->member_count == c->member_room) {
        const size_t room = c->member_room ? 2 * c->member_room : 64;
        code_member *more = realloc(c->members, room * sizeof *more);
        if (!more) {
            c->full = true;
            return "";
        }
        c->members = more;
        c->member_room = room;
    }
    code_member *m = &c->members[c->member_count++];
    *m = (code_member){.type = type, .name = name, .comment = comment, .count = count};
    measure(m);
    return fg_code_say(c, "s->%s", name);
}

const char *fg_code_bare(const char *member)
{
    const char *arrow = strchr(member, '>');
    return arrow ? arrow + 1 : member; /* there is none where there was no memory for it */
}

const char *fg_code_type(int64_t low, int64_t high)
{
    if (low >= 0 && high <= UINT8_MAX) return "uint8_t";
    if (low >= INT8_MIN && high <= INT8_MAX) return "int8_t";
    if (low >= 0 && high <= UINT16_MAX) return "uint16_t";
    if (low >= INT16_MIN && high <= INT16_MAX) return "int16_t";
    return low >= 0 && high > INT32_MAX ? "uint32_t" : "int32_t";
}

const char *fg_code_number(coder *c, int64_t number)
{
    if (number == INT32_MIN) return "INT32_MIN";
    if (number > INT32_MAX || number < INT32_MIN) return fg_code_say(c, "INT64_C(%" PRId64 ")", number);
    return fg_code_say(c, "%" PRId64, number);
}
