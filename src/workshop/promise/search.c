/* SPDX-License-Identifier: MIT */
/* All states that some readings lead to, breadth first, each once: so the first break that is found is a shortest one,
 * and where there is none and nothing was left out, there is none at all. Whether something can always end is asked of
 * the whole graph, backwards from where it has ended. */
#include "workshop/promise/ask.h"

#include <stdlib.h>
#include <string.h>

enum { BYTES_MOST = 300 << 20 };

/* A state: its bytes stand in `bytes`, at its number times their size. */
typedef struct state {
    uint32_t from;   /* the state before it; UINT32_MAX: the beginning */
    uint32_t choice; /* all choices of the step to it, as one number */
    uint32_t end;    /* of one that can end: in how many steps it may have; NEVER_ENDS: in none */
} state;

#define NEVER_ENDS UINT32_MAX

typedef struct search {
    fg_ask *a;
    fg_packing *packing;
    size_t size;
    unsigned char *bytes, *next;
    state *states;
    size_t count, room;
    uint32_t *table; /* by hash: open addressing, a power of two; 0: empty, else a number and 1 */
    size_t table_size;
    uint32_t *edges; /* of one that can end: where each choice leads from each state, and 1; 0: outside */
    size_t edge_room;
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

/* Keeps the state that stands in `next`, if it is a new one. Its number and 1; 0: there is no room. */
static uint32_t keep(search *s, uint32_t from, uint32_t choice)
{
    if (s->count == s->room && !grow(s)) {
        s->cut = true;
        return 0;
    }
    size_t at = hash_of(s->next, s->size) & (s->table_size - 1);
    for (; s->table[at]; at = (at + 1) & (s->table_size - 1))
        if (!memcmp(s->bytes + (s->table[at] - 1) * s->size, s->next, s->size)) return s->table[at];
    memcpy(s->bytes + s->count * s->size, s->next, s->size);
    s->states[s->count] = (state){from, choice, NEVER_ENDS};
    return s->table[at] = (uint32_t)++s->count;
}

static void feed_all(const fg_ask *a, uint32_t choice, fg_time at)
{
    for (size_t i = 0; i < a->cone.input_count; i++) {
        fg_cone_feed(a, i, choice % a->cone.inputs[i].count, at);
        choice /= a->cone.inputs[i].count;
    }
}

static void note_edge(search *s, uint32_t from, uint32_t choice, uint32_t to)
{
    if (from == UINT32_MAX) return;
    const size_t combinations = (size_t)s->a->cone.combinations, at = from * combinations + choice;
    if (at >= s->edge_room) {
        const size_t room = 2 * at + combinations + 1024;
        uint32_t *edges = realloc(s->edges, room * sizeof *edges);
        if (!edges) {
            s->a->full = s->cut = true;
            return;
        }
        memset(edges + s->edge_room, 0, (room - s->edge_room) * sizeof *edges);
        s->edges = edges;
        s->edge_room = room;
    }
    s->edges[at] = to;
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
    const uint32_t to = keep(s, from, choice);
    if (to && a->row->kind == FG_EXPECT_CAN_END) {
        if (!judge.event) s->states[to - 1].end = 0;
        note_edge(s, from, choice, to);
    }
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

/* In how few steps each state can have ended: a state is a step further than the nearest of those it leads to. Round by
 * round, since a round costs less than turning all edges would. `keys`: only choices with this key count; may be NULL.
 */
static void find_ends(search *s, const uint32_t *keys, uint32_t key)
{
    const size_t combinations = (size_t)s->a->cone.combinations;
    for (uint32_t round = 1, more = 1; more; round++) {
        more = 0;
        for (size_t i = 0; i < s->count; i++) {
            if (s->states[i].end != NEVER_ENDS) continue;
            for (size_t choice = 0; choice < combinations; choice++) {
                const size_t at = i * combinations + choice;
                const uint32_t to = at < s->edge_room && (!keys || keys[choice] == key) ? s->edges[at] : 0;
                if (!to || s->states[to - 1].end != round - 1) continue;
                s->states[i].end = round;
                more = 1;
                break;
            }
        }
    }
}

static bool keeps_still(const fg_ask *a, const fg_asked_input *input)
{
    return input->declared->kind == FG_KIND_SENSOR && a->program->gate.sensors[input->declared->index].window;
}

#define NO_KEY UINT32_MAX

/* Which values the smoothed sensors have in a choice, as one number below `most`; NO_KEY: one of them has none. */
static uint32_t key_of(const fg_ask *a, uint32_t choice, uint32_t *most)
{
    uint32_t key = 0;
    bool all = true;
    *most = 1;
    for (size_t i = 0; i < a->cone.input_count; i++) {
        const fg_asked_input *input = &a->cone.inputs[i];
        const uint32_t own = choice % input->count;
        choice /= input->count;
        if (!keeps_still(a, input)) continue;
        all = all && input->choices[own].kind == FG_CHOICE_VALUE;
        key = key * input->count + own;
        *most *= input->count;
    }
    return all ? key : NO_KEY;
}

/* Can it end in time from this state? */
static bool ends_in_time(const search *s, size_t i, uint32_t slack)
{
    const uint64_t end = s->states[i].end;
    return end != NEVER_ENDS && (end ? end + slack : 0) * s->a->gate->every <= s->a->row->from;
}

static bool all_end(const search *s)
{
    for (size_t i = 0; i < s->count; i++)
        if (!ends_in_time(s, i, s->a->slack)) return false;
    return true;
}

/* The same while each smoothed sensor keeps one value, which has to be one for all states: while the windows fill, any
 * state may be come to. */
static fg_promise_verdict judge_still_ends(search *s)
{
    const uint64_t work_most = 200000000;
    const uint32_t combinations = (uint32_t)s->a->cone.combinations;
    uint32_t most = 1, *keys = malloc((combinations + 1u) * sizeof *keys);
    for (uint32_t choice = 0; keys && choice < combinations; choice++) keys[choice] = key_of(s->a, choice, &most);
    const bool good = keys && (uint64_t)s->count * combinations * most <= work_most;
    fg_promise_verdict verdict = FG_PROMISE_UNDECIDED; /* where it does not end so, other readings might end it */
    s->a->full = s->a->full || !keys;
    for (uint32_t key = 0; good && key < most && verdict == FG_PROMISE_UNDECIDED; key++) {
        find_ends(s, keys, key);
        if (all_end(s)) verdict = FG_PROMISE_HOLDS;
        for (size_t i = 0; i < s->count; i++)
            if (s->states[i].end) s->states[i].end = NEVER_ENDS;
    }
    free(keys);
    return verdict;
}

/* Every state is there: the first one from which it cannot end in time is the soonest. */
static fg_promise_verdict judge_ends(search *s, fg_path *path)
{
    if (s->a->still) return judge_still_ends(s);
    find_ends(s, NULL, 0);
    for (size_t i = 0; i < s->count; i++) {
        if (ends_in_time(s, i, 0)) continue;
        tell_way(s, s->states[i].from, s->states[i].choice, path);
        s->a->never_ends = s->states[i].end == NEVER_ENDS;
        return FG_PROMISE_BREAKS;
    }
    return FG_PROMISE_HOLDS;
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
    if (s->cut || a->cone.open) return FG_PROMISE_UNDECIDED;
    return a->row->kind == FG_EXPECT_CAN_END ? judge_ends(s, way) : FG_PROMISE_HOLDS;
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
    free(s.edges);
    return verdict;
}
