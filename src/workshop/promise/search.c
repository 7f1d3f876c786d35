/* SPDX-License-Identifier: MIT */
/* All states that some readings lead to, breadth first, each once: so the first break that is found is a shortest one,
 * and where there is none and nothing was left out, there is none at all. */
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

enum { BYTES_MOST = 300 << 20 };

/* A state: its bytes stand in `bytes`, at its number times their size. */
typedef struct state {
    uint32_t from;   /* the state before it; UINT32_MAX: the beginning */
    uint32_t choice; /* all choices of the step to it, as one number */
} state;

typedef struct search {
    fg_ask *a;
    fg_packing *packing;
    size_t size;
    unsigned char *bytes, *next;
    state *states;
    size_t count, room;
    uint32_t *table; /* by hash: open addressing, a power of two; 0: empty, else a number and 1 */
    size_t table_size;
    bool cut; /* something was left out: too many steps, or too much memory */
} search;

/* FNV-1a (Fowler, Noll, Vo), eight bytes at a time, folded at the end. */
static uint64_t hash_of(const unsigned char *bytes, size_t size)
{
    uint64_t hash = UINT64_C(0xcbf29ce484222325), word;
    for (; size >= sizeof word; bytes += sizeof word, size -= sizeof word) {
        memcpy(&word, bytes, sizeof word);
        hash = (hash ^ word) * UINT64_C(0x100000001b3);
        hash ^= hash >> 29;
    }
    for (; size; bytes++, size--) hash = (hash ^ *bytes) * UINT64_C(0x100000001b3);
    return hash ^ hash >> 32;
}

static bool grow(search *s)
{
    const size_t room = s->room ? 2 * s->room : 1024;
    if (room * (s->size + sizeof(state) + 2 * sizeof *s->table) > BYTES_MOST || room > UINT32_MAX / 2) return false;
    unsigned char *bytes = realloc(s->bytes, room * s->size);
    if (bytes) s->bytes = bytes;
    state *states = realloc(s->states, room * sizeof *states);
    if (states) s->states = states;
    uint32_t *table = calloc(2 * room, sizeof *table);
    if (!bytes || !states || !table) {
        free(table);
        s->a->full = true;
        return false;
    }
    free(s->table);
    s->table = table;
    s->table_size = 2 * room;
    s->room = room;
    for (size_t i = 0; i < s->count; i++) {
        size_t at = hash_of(s->bytes + i * s->size, s->size) & (s->table_size - 1);
        while (s->table[at]) at = (at + 1) & (s->table_size - 1);
        s->table[at] = (uint32_t)(i + 1);
    }
    return true;
}

/* Keeps the state that stands in `next`, if it is a new one. */
static void keep(search *s, uint32_t from, uint32_t choice)
{
    if (s->count == s->room && !grow(s)) {
        s->cut = true;
        return;
    }
    size_t at = hash_of(s->next, s->size) & (s->table_size - 1);
    for (; s->table[at]; at = (at + 1) & (s->table_size - 1))
        if (!memcmp(s->bytes + (s->table[at] - 1) * s->size, s->next, s->size)) return;
    memcpy(s->bytes + s->count * s->size, s->next, s->size);
    s->states[s->count] = (state){from, choice};
    s->table[at] = (uint32_t)++s->count;
}

static void feed_all(const fg_ask *a, uint32_t choice, fg_time at)
{
    for (size_t i = 0; i < a->cone.input_count; i++) {
        fg_cone_feed(a, i, choice % a->cone.inputs[i].count, at);
        choice /= a->cone.inputs[i].count;
    }
}

/* One step with these choices from a state, or from the beginning. True: it breaks. */
static bool try_step(search *s, uint32_t from, uint32_t choice)
{
    fg_ask *a = s->a;
    fg_judge judge = {0};
    fg_time now = FG_PACKED_NOW;
    if (from == UINT32_MAX) {
        memcpy(a->memory, a->fresh, a->size);
    } else {
        fg_packing_unpack(s->packing, s->bytes + from * s->size, &judge);
        now += a->gate->every;
    }
    feed_all(a, choice, now);
    fg_ask_step(a, now);
    a->steps++;
    const fg_judged judged = fg_judge_step(a, &judge);
    if (judged == FG_JUDGED_BROKEN) return true;
    if (judged == FG_JUDGED_OUTSIDE) return false;
    fg_packing_pack(s->packing, &judge, s->next);
    keep(s, from, choice);
    return false;
}

/* The choices that lead to the break: `choice` from state `from`. */
static void tell_way(search *s, uint32_t from, uint32_t choice, fg_path *way)
{
    const size_t inputs = s->a->cone.input_count;
    size_t steps = 1;
    for (uint32_t at = from; at != UINT32_MAX; at = s->states[at].from) steps++;
    way->steps = steps;
    way->choices = malloc((steps * inputs + 1) * sizeof *way->choices);
    s->a->full = s->a->full || !way->choices;
    while (way->choices && steps--) {
        for (size_t i = 0; i < inputs; i++) {
            way->choices[steps * inputs + i] = choice % s->a->cone.inputs[i].count;
            choice /= s->a->cone.inputs[i].count;
        }
        if (from != UINT32_MAX) {
            choice = s->states[from].choice;
            from = s->states[from].from;
        }
    }
}

static fg_promise_verdict go_through(search *s, fg_path *way)
{
    enum { OFTEN = 1 << 16 };
    fg_ask *a = s->a;
    const uint32_t combinations = (uint32_t)a->cone.combinations;
    for (uint32_t from = UINT32_MAX;; from = from == UINT32_MAX ? 0 : from + 1) {
        if (from != UINT32_MAX && from >= s->count) break;
        for (uint32_t choice = 0; choice < combinations; choice++) {
            if (a->steps >= a->most || a->full) {
                s->cut = true;
                return FG_PROMISE_UNDECIDED;
            }
            if (a->steps % OFTEN == 0 && a->progress.tell)
                a->progress.tell(a->progress.context, a->steps, a->steps, a->most);
            if (!try_step(s, from, choice)) continue;
            tell_way(s, from, choice, way);
            return FG_PROMISE_BREAKS;
        }
    }
    return s->cut || a->cone.open ? FG_PROMISE_UNDECIDED : FG_PROMISE_HOLDS;
}

fg_promise_verdict fg_search(fg_ask *a, fg_path *way, uint64_t *states)
{
    search s = {.a = a, .packing = fg_packing_start(a)};
    fg_promise_verdict verdict = FG_PROMISE_UNDECIDED;
    s.size = s.packing ? (fg_packing_size(s.packing) + 7) / 8 * 8 : 0;
    s.next = s.size ? calloc(1, s.size) : NULL;
    if (s.next && grow(&s))
        verdict = go_through(&s, way);
    else
        a->full = true;
    *states = s.count;
    fg_packing_end(s.packing);
    free(s.bytes);
    free(s.next);
    free(s.states);
    free(s.table);
    return verdict;
}
