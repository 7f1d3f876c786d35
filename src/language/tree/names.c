/* SPDX-License-Identifier: MIT */
/* Who is declared, and the nearest name for one that is not.
 *
 * Names are looked up for every word of every condition, so they stand in a hash table beside the list that keeps their
 * order. Both hold the same symbols, which live in the arena. The nearest name is found by counting slips, letter by
 * letter, and only for a message.
 */
#include "language/text/findings.h"
#include "language/tree/names.h"

/* FNV-1a, 32 bits (Fowler, Noll, Vo). */
static uint32_t hash(fg_text name)
{
    uint32_t h = 2166136261u;
    for (size_t i = 0; i < name.size; i++) h = (h ^ (unsigned char)name.at[i]) * 16777619u;
    return h;
}

/* Where a name stands in the table, or would. */
static fg_symbol **place_of(fg_symbol **table, size_t size, fg_text name)
{
    size_t i = hash(name) & (size - 1);
    while (table[i] && !fg_text_same(table[i]->name, name)) i = (i + 1) & (size - 1);
    return &table[i];
}

/* Twice as large, before more than half of it is taken: open addressing needs room to stay short. The old table stays
 * in the arena, which takes nothing back. */
static bool grow(fg_compiler *c)
{
    size_t size = c->names_size ? c->names_size * 2 : 64;
    fg_symbol **table = FG_TAKE(fg_symbol *, &c->arena, size);
    if (!table) return false;
    for (fg_symbol *s = c->symbols; s; s = s->next) *place_of(table, size, s->name) = s;
    c->names = table;
    c->names_size = size;
    return true;
}

/* Asked for each name in each condition, so it is a hash table and no list. */
fg_symbol *fg_name_find(const fg_compiler *c, fg_text name)
{
    return c->names_size ? *place_of(c->names, c->names_size, name) : NULL;
}

/* A second declaration of a name is read on, so that its mistakes are found too, but it is not known by its name.
 * Without memory the spare symbol takes what is said about it; nobody uses it. */
fg_symbol *fg_name_declare(fg_compiler *c, fg_kind kind, fg_text name, fg_span span)
{
    /* Grown before the place is looked for: growing moves every place. */
    if (2 * ((size_t)c->symbol_count + 1) > c->names_size && !grow(c)) return &c->spare_symbol;
    fg_symbol **place = place_of(c->names, c->names_size, name);
    fg_symbol *symbol = FG_TAKE(fg_symbol, &c->arena, 1);
    if (!symbol) return &c->spare_symbol;
    *symbol = (fg_symbol){.kind = kind, .name = name, .span = span, .order = c->symbol_count, .slot = FG_INDEX_NONE};
    if (*place) {
        if (c->reported_count >= FG_FINDINGS_MOST) return symbol; /* no time for what nobody will see */
        fg_place first = fg_text_place(c->sources[(*place)->span.source].text, (*place)->span.at);
        fg_report(c, FG_FIND_TWICE, span, "'{}' is declared a second time; the first is in line {}",
                  "give one of them another name", name, fg_text_of_value(c, first.line, 0));
        return symbol; /* read, but not known */
    }
    *place = symbol;
    if (c->symbols_last)
        c->symbols_last->next = symbol;
    else
        c->symbols = symbol;
    c->symbols_last = symbol;
    c->symbol_count++;
    return symbol;
}

/* How many single-letter slips lie between two words (two neighbours exchanged count as one): the optimal string
 * alignment distance. More than `most` comes back as most + 1. */
static size_t distance_of(fg_text a, fg_text b, size_t most)
{
    enum { LONGEST = 40 };
    size_t rows[3][LONGEST + 1];
    size_t difference = a.size > b.size ? a.size - b.size : b.size - a.size;
    if (a.size > LONGEST || b.size > LONGEST || difference > most) return most + 1;
    for (size_t j = 0; j <= b.size; j++) rows[0][j] = j;
    for (size_t i = 1; i <= a.size; i++) {
        size_t *row = rows[i % 3], *above = rows[(i - 1) % 3];
        row[0] = i;
        for (size_t j = 1; j <= b.size; j++) {
            size_t least = above[j - 1] + (a.at[i - 1] != b.at[j - 1]);
            if (above[j] + 1 < least) least = above[j] + 1;
            if (row[j - 1] + 1 < least) least = row[j - 1] + 1;
            if (i > 1 && j > 1 && a.at[i - 1] == b.at[j - 2] && a.at[i - 2] == b.at[j - 1] &&
                rows[(i - 2) % 3][j - 2] + 1 < least)
                least = rows[(i - 2) % 3][j - 2] + 1;
            row[j] = least;
        }
    }
    return rows[a.size % 3][b.size];
}

/* Slips that still make a guess: one in a short word, two in a longer, three in a long one. */
size_t fg_name_reach(fg_text word) { return word.size <= 2 ? 1 : word.size <= 6 ? 2 : 3; }

/* Keeps the nearest of the words that were offered. A guess that changes every letter is none. */
void fg_name_nearest_add(fg_text word, fg_text other, fg_text *best, size_t *distance)
{
    size_t d = distance_of(word, other, *distance);
    if (d >= *distance || d >= other.size) return;
    *best = other;
    *distance = d;
}

/* `words` ends with NULL; empty if none is near enough. */
fg_text fg_name_nearest_word(fg_text word, const char *const *words)
{
    fg_text best = {0};
    size_t distance = fg_name_reach(word) + 1;
    for (; *words; words++) fg_name_nearest_add(word, fg_text_of(*words), &best, &distance);
    return best;
}

/* Among the names of these kinds. Behind the last finding that is kept nobody would see the guess, and comparing all
 * names with all others takes time. */
static fg_text nearest(const fg_compiler *c, fg_text name, uint32_t kinds)
{
    fg_text best = {0};
    size_t distance = fg_name_reach(name) + 1;
    if (c->reported_count >= FG_FINDINGS_MOST) return best;
    for (const fg_symbol *s = c->symbols; s; s = s->next)
        if (kinds & FG_KIND_BIT(s->kind)) fg_name_nearest_add(name, s->name, &best, &distance);
    return best;
}

/* "a sensor", "a number or flag" for the kinds a place takes. */
static fg_text kinds_text(fg_compiler *c, uint32_t kinds)
{
    fg_text text = {0};
    uint32_t count = 0;
    for (uint32_t kind = 0; kind < 32; kind++) {
        if (!(kinds & FG_KIND_BIT(kind))) continue;
        if (++count > 3) return T("something with a yes or no");
        text = text.size ? fg_text_join(c, text, " or ", fg_text_of(fg_kind_word((fg_kind)kind)))
                         : fg_text_join(c, kind == FG_KIND_BANDS ? T("") : T("a "), "",
                                        fg_text_of(fg_kind_word((fg_kind)kind)));
    }
    return text;
}

/* The first bands that have a label of this name; NULL: none. */
static const fg_symbol *with_label(const fg_compiler *c, fg_text name)
{
    if (c->reported_count >= FG_FINDINGS_MOST) return NULL;
    for (const fg_symbol *s = c->symbols; s; s = s->next)
        for (uint16_t i = 0; i < s->label_count; i++)
            if (fg_text_same(s->labels[i], name)) return s;
    return NULL;
}

/* NULL if there is no such name, or one of another kind. Both are reported, so the caller need not say anything more.
 */
/* For whoever asks where a name stands. */
static void note_use(fg_compiler *c, fg_symbol *symbol, fg_span span)
{
    fg_use *use = c->quiet ? NULL : FG_TAKE(fg_use, &c->arena, 1);
    if (!use) return;
    *use = (fg_use){symbol, span, c->named};
    c->named = use;
    c->named_count++;
}

fg_symbol *fg_name_use(fg_compiler *c, fg_text name, fg_span span, uint32_t kinds)
{
    fg_symbol *symbol = fg_name_find(c, name);
    if (!symbol) {
        fg_text guess = nearest(c, name, kinds);
        const fg_symbol *bands = kinds & FG_KINDS_WITH(FG_KIND_LABELS) ? with_label(c, name) : NULL;
        if (bands) {
            fg_report(c, FG_FIND_UNKNOWN, span, "'{}' is a label of {}", "write {} is {}", name, bands->name,
                      bands->name, name);
            fg_report_fix(c, (fg_span){span.at, 0, span.source}, fg_text_join(c, bands->name, " is ", T("")));
        } else if (guess.size)
            fg_report(c, FG_FIND_UNKNOWN, span, "'{}' is not declared", "did you mean '{}'?", name, guess);
        else
            fg_report(c, FG_FIND_UNKNOWN, span, "'{}' is not declared", "declare {} of this name, or correct the name",
                      name, kinds_text(c, kinds));
        return NULL;
    }
    /* Used, even if it is of the wrong kind: one message about it is enough. */
    symbol->used = true;
    note_use(c, symbol, span);
    if (kinds & FG_KIND_BIT(symbol->kind)) return symbol;
    fg_text guess = nearest(c, name, kinds);
    if (guess.size)
        fg_report(c, FG_FIND_KIND, span, "'{}' is declared as {}; here belongs {}", "did you mean '{}'?", name,
                  fg_text_of(fg_kind_word(symbol->kind)), kinds_text(c, kinds), guess);
    else
        fg_report(c, FG_FIND_KIND, span, "'{}' is declared as {}; here belongs {}", "", name,
                  fg_text_of(fg_kind_word(symbol->kind)), kinds_text(c, kinds));
    return NULL;
}

/* The uses of a name decide the order of the ops and find cycles; the place is kept for the message. */
void fg_name_used_by(fg_compiler *c, fg_symbol *user, fg_symbol *symbol, fg_span span)
{
    fg_use *use = FG_TAKE(fg_use, &c->arena, 1);
    if (!use) return;
    *use = (fg_use){symbol, span, NULL};
    if (user->uses_last)
        user->uses_last->next = use;
    else
        user->uses = use;
    user->uses_last = use;
}

/* While the body of a name is read, what it names is what it hangs on. */
void fg_name_depend(fg_compiler *c, fg_symbol *symbol, fg_span span)
{
    symbol->used = true;
    note_use(c, symbol, span);
    if (c->dependent) fg_name_used_by(c, c->dependent, symbol, span);
}
