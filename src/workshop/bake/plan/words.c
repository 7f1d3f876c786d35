/* SPDX-License-Identifier: MIT */
/* The words of the code: locals, functions and members of the state, no two alike. */
#include "workshop/bake/plan/coder.h"

#include <ctype.h>
#include <inttypes.h>
#include <string.h>
#include <stdlib.h>

/* Words of functions; a member of the state may have them. */
static const char *const local_words[] = {
    "s",      "now",  "gone",  "went",  "back",   "before", "passed", "row",     "at",    "is",     "reading",
    "w",      "line", "text",  "value", "sensor", "flag",   "output", "answer",  "count", "counts", "newest",
    "oldest", "took", "inner", "units", "good",   "result", "out",    "context", "c",     "of"};

static bool is_known(const coder *c, const char *name, bool member)
{
    const fg_text word = fg_text_of(name);
    if (fg_words_has(&c->names, word)) return true;
    for (size_t i = 0; !member && i < sizeof local_words / sizeof *local_words; i++)
        if (!strcmp(local_words[i], name)) return true;
    return fg_bake_is_taken(name) || (!member && fg_code_symbol_number(&c->symbols, word));
}

const char *fg_code_word(coder *c, fg_text thing, const char *suffix)
{
    fg_buffer b = {0};
    for (size_t i = 0; i < thing.size; i++) {
        const char small = (char)tolower((unsigned char)thing.at[i]);
        fg_buffer_add(&b, (fg_text){&small, 1});
    }
    fg_buffer_add_c(&b, suffix);
    fg_buffer_end(&b);
    const char *base = fg_code_say(c, "%s", b.full ? "x" : b.text), *name = base;
    c->full = c->full || b.full;
    fg_buffer_free(&b);
    uint32_t *known = fg_words_number(&c->names, fg_text_of(base)), number = known && *known ? *known : 2;
    for (; is_known(c, name, !*suffix) && !c->full; number++) name = fg_code_say(c, "%s_%" PRIu32, base, number);
    if (known) *known = number; /* the next one of this name need not try all those before it */
    c->full = c->full || !fg_words_add(&c->names, fg_text_of(name));
    return name;
}

const char *fg_code_local(coder *c, fg_text thing, const char *suffix)
{
    const char *word = fg_code_word(c, thing, suffix);
    c->full = c->full || !fg_code_symbol(&c->symbols, word);
    return fg_code_say(c, "\3%s", word);
}

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

const char *fg_code_safe(coder *c, fg_text text)
{
    fg_buffer b = {0};
    fg_buffer_add_shown(&b, text);
    for (size_t i = 0; i < b.size; i++)
        if (b.text[i] == '*') b.text[i] = ' ';
    const char *safe = fg_code_say(c, "%.*s", (int)b.size, b.size ? b.text : "");
    c->full = c->full || b.full;
    fg_buffer_free(&b);
    return safe;
}

const char *fg_code_steps(coder *c, const fg_declared *d)
{
    return fg_code_say(c, "in steps of %s%.*s1 %s", d->decimals ? "0." : "", d->decimals ? d->decimals - 1 : 0, "00000",
                       fg_code_safe(c, d->unit));
}

const char *fg_code_clock(fg_time time) { return time > CODE_SHORT_TIME ? "\3gone" : "\3passed"; }

const char *fg_code_clock_type(fg_time time) { return time > CODE_SHORT_TIME ? "uint32_t" : "uint16_t"; }
