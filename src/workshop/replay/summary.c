/* SPDX-License-Identifier: MIT */
/* What happened, as a table: how long each answer lasted, how often it changed, how short its shortest stay was, and
 * what each sensor read. */
#include "workshop/base/buffer.h"

#include <ficklegate/summary.h>

#include <stdlib.h>
#include <string.h>

/* ---- many whole numbers, for their middle ----
 *
 * Counted by value in a table of fixed size. When it is full, neighbouring values are put together, two by two, so that
 * memory stays bounded; the middle is then exact to that grain. */

enum { BITS_FIRST = 6, BITS_MOST = 14 };

typedef struct tally {
    int64_t *values; /* of the whole grain */
    uint64_t *counts;
    uint32_t used, newest; /* `newest`: the place that was counted last */
    uint8_t bits;          /* the table has 2^bits places */
    uint8_t shift;         /* a grain is 2^shift */
} tally;

static uint32_t places(const tally *t) { return UINT32_C(1) << t->bits; }

static bool tally_start(tally *t, uint8_t bits)
{
    *t = (tally){.bits = bits};
    t->values = calloc(places(t), sizeof *t->values);
    t->counts = calloc(places(t), sizeof *t->counts);
    return t->values && t->counts;
}

static void tally_end(tally *t)
{
    free(t->values);
    free(t->counts);
}

static int64_t grain(int64_t value, uint8_t shift)
{
    const int64_t size = INT64_C(1) << shift;
    return value >= 0 ? value / size : -((-value + size - 1) / size);
}

static void tally_put(tally *t, int64_t key, uint64_t count)
{
    uint32_t at = (uint32_t)((uint64_t)key * UINT64_C(0x9e3779b97f4a7c15) >> (64 - t->bits));
    while (t->counts[at] && t->values[at] != key) at = (at + 1) & (places(t) - 1);
    t->used += !t->counts[at];
    t->values[at] = key;
    t->counts[at] += count;
    t->newest = at;
}

/* Into a table of so many bits, with grains that are so many bits coarser. */
static bool tally_move(tally *t, uint8_t bits, uint8_t coarser)
{
    tally moved;
    if (!tally_start(&moved, bits)) {
        tally_end(&moved);
        return false;
    }
    moved.shift = (uint8_t)(t->shift + coarser);
    for (uint32_t i = 0; i < places(t); i++)
        if (t->counts[i]) tally_put(&moved, grain(t->values[i], coarser), t->counts[i]);
    tally_end(t);
    *t = moved;
    return true;
}

/* False: there was no memory to count it. */
static bool tally_add(tally *t, int64_t value, uint64_t count)
{
    const int64_t key = t->shift ? grain(value, t->shift) : value;
    if (t->counts[t->newest] && t->values[t->newest] == key) { /* readings dwell */
        t->counts[t->newest] += count;
        return true;
    }
    while (t->used >= places(t) / 4 * 3 && (t->bits < BITS_MOST || t->shift < 40)) {
        const uint32_t before = t->used;
        const bool grows = t->bits < BITS_MOST;
        if (!tally_move(t, (uint8_t)(t->bits + grows), !grows)) return false;
        if (!grows && t->used == before) break;
    }
    if (t->used < places(t) - 1) tally_put(t, grain(value, t->shift), count);
    return true;
}

static bool tally_add_all(tally *t, const tally *other)
{
    if (t->shift < other->shift && !tally_move(t, t->bits, (uint8_t)(other->shift - t->shift))) return false;
    for (uint32_t i = 0; i < places(other); i++)
        if (other->counts[i] && !tally_add(t, other->values[i] * (INT64_C(1) << other->shift), other->counts[i]))
            return false;
    return true;
}

typedef struct value_count {
    int64_t value;
    uint64_t count;
} value_count;

static int by_value(const void *a, const void *b)
{
    const value_count *x = a, *y = b;
    return (x->value > y->value) - (x->value < y->value);
}

/* The lower of the two in the middle; it stays as it is if there is none. False: no memory. */
static bool tally_median(const tally *t, int64_t *median)
{
    value_count *all = malloc((t->used + 1u) * sizeof *all);
    uint64_t total = 0, passed = 0;
    uint32_t used = 0, i = 0;
    for (uint32_t k = 0; all && k < places(t); k++) {
        if (!t->counts[k]) continue;
        all[used++] = (value_count){t->values[k], t->counts[k]};
        total += t->counts[k];
    }
    if (used) qsort(all, used, sizeof *all, by_value);
    while (i < used && (passed += all[i].count) * 2 < total) i++;
    if (i < used) *median = all[i].value * (INT64_C(1) << t->shift);
    const bool good = all != NULL;
    free(all);
    return good;
}

/* ---- names ---- */

/* How long a name had one answer. */
typedef struct stay {
    char *text;
    int64_t ms;
    bool begins, ends; /* a recording */
} stay;

enum { STAYS_MOST = 64 };

typedef struct name_account {
    stay stays[STAYS_MOST]; /* in the order in which they came; the last one takes what is too much */
    uint32_t stay_count, now;
    uint64_t changes;
    int64_t since, shortest; /* -1: it never changed */
    int64_t answer;          /* the newest, as a number; not of outputs */
} name_account;

typedef struct sensor_account {
    fg_value lowest, highest, last;
    bool seen, follows;
    uint64_t good, steps;
    tally values, moves;
} sensor_account;

struct fg_summary {
    const fg_program *program;
    name_account **names; /* NULL for a number or a sequence */
    sensor_account *sensors;
    bool stepped, full;
    fg_buffer text;
};

static uint32_t stay_of(fg_summary *s, name_account *n, fg_text text)
{
    uint32_t i = 0;
    while (i < n->stay_count && !fg_text_same(fg_text_of(n->stays[i].text), text)) i++;
    if (i < n->stay_count || i == STAYS_MOST) return i < STAYS_MOST ? i : STAYS_MOST - 1;
    if (i == STAYS_MOST - 1) text = (fg_text){"others", 6};
    n->stays[i].text = malloc(text.size + 1);
    s->full = s->full || !n->stays[i].text;
    if (!n->stays[i].text) return 0;
    if (text.size) memcpy(n->stays[i].text, text.at, text.size);
    n->stays[i].text[text.size] = '\0';
    n->stay_count++;
    return i;
}

static void step_name(fg_summary *s, name_account *n, const fg_declared *d, const fg_run *run, int64_t t_ms)
{
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) {
        if (s->stepped && !fg_output_at(run, d->index)->changed) return;
    } else {
        const int64_t answer =
            d->kind == FG_KIND_COUNT ? fg_count_value(run, d->index) : (int64_t)fg_answer(run, d->slot);
        if (s->stepped && answer == n->answer) return;
        n->answer = answer;
    }
    const fg_text text = fg_text_now(&s->text, d, run);
    if (s->stepped) {
        if (!n->stay_count || fg_text_same(fg_text_of(n->stays[n->now].text), text)) return;
        n->stays[n->now].ms += t_ms - n->since;
        n->changes++;
        if (n->shortest < 0 || t_ms - n->since < n->shortest) n->shortest = t_ms - n->since;
    }
    n->now = stay_of(s, n, text);
    n->since = t_ms;
    if (!s->stepped && n->stay_count) n->stays[n->now].begins = true;
}

/* False: there was no memory to count the value. */
static bool step_sensor(sensor_account *a, const fg_run *run, uint16_t number, fg_value circle)
{
    fg_value value;
    a->steps++;
    if (!fg_sensor_value(run, number, &value)) {
        a->follows = false;
        return true;
    }
    a->good++;
    if (!a->seen || value < a->lowest) a->lowest = value;
    if (!a->seen || value > a->highest) a->highest = value;
    bool counted = tally_add(&a->values, value, 1);
    if (a->follows) {
        const int64_t way = fg_way(a->last, value, circle);
        counted = tally_add(&a->moves, way < 0 ? -way : way, 1) && counted;
    }
    a->seen = a->follows = true;
    a->last = value;
    return counted;
}

fg_summary *fg_summary_start(const fg_program *program)
{
    fg_summary *s = calloc(1, sizeof *s);
    if (!s) return NULL;
    s->program = program;
    s->names = calloc((size_t)program->declared_count + 1, sizeof(name_account *));
    s->sensors = calloc((size_t)program->gate.size.sensors + 1, sizeof *s->sensors);
    s->full = !s->names || !s->sensors;
    for (uint32_t i = 0; !s->full && i < program->declared_count; i++) {
        const fg_kind kind = program->declared[i].kind;
        if (kind == FG_KIND_NUMBER || kind == FG_KIND_SEQUENCE) continue;
        s->names[i] = calloc(1, sizeof **s->names);
        s->full = !s->names[i];
        if (s->names[i]) s->names[i]->shortest = -1;
    }
    for (uint16_t i = 0; !s->full && i < program->gate.size.sensors; i++)
        s->full = !tally_start(&s->sensors[i].values, BITS_FIRST) || !tally_start(&s->sensors[i].moves, BITS_FIRST);
    if (!s->full) return s;
    fg_summary_end(s);
    return NULL;
}

void fg_summary_end(fg_summary *s)
{
    if (!s) return;
    for (uint32_t i = 0; s->names && i < s->program->declared_count; i++) {
        for (uint32_t k = 0; s->names[i] && k < s->names[i]->stay_count; k++) free(s->names[i]->stays[k].text);
        free(s->names[i]);
    }
    for (uint16_t i = 0; s->sensors && i < s->program->gate.size.sensors; i++) {
        tally_end(&s->sensors[i].values);
        tally_end(&s->sensors[i].moves);
    }
    fg_buffer_free(&s->text);
    free(s->names);
    free(s->sensors);
    free(s);
}

void fg_summary_step(fg_summary *s, const fg_run *run, int64_t t_ms)
{
    for (uint32_t i = 0; i < s->program->declared_count && !(s->stepped && run->still); i++)
        if (s->names[i]) step_name(s, s->names[i], &s->program->declared[i], run, t_ms);
    for (uint16_t i = 0; i < s->program->gate.size.sensors; i++)
        s->full = !step_sensor(&s->sensors[i], run, i, s->program->gate.sensors[i].circle) || s->full;
    s->stepped = true;
}

static void add_name(fg_summary *s, name_account *n, const name_account *other, bool open, int64_t end_ms)
{
    for (uint32_t k = 0; k < other->stay_count && !s->full; k++) {
        const bool last = open && k == other->now;
        stay *one = &n->stays[stay_of(s, n, fg_text_of(other->stays[k].text))];
        if (s->full) return;
        one->ms += other->stays[k].ms + (last ? end_ms - other->since : 0);
        one->begins = one->begins || other->stays[k].begins;
        one->ends = one->ends || other->stays[k].ends || last;
    }
    n->changes += other->changes;
    if (other->shortest >= 0 && (n->shortest < 0 || other->shortest < n->shortest)) n->shortest = other->shortest;
}

static bool add_sensor(sensor_account *a, const sensor_account *other)
{
    if (other->seen && (!a->seen || other->lowest < a->lowest)) a->lowest = other->lowest;
    if (other->seen && (!a->seen || other->highest > a->highest)) a->highest = other->highest;
    a->seen = a->seen || other->seen;
    a->good += other->good;
    a->steps += other->steps;
    return tally_add_all(&a->values, &other->values) && tally_add_all(&a->moves, &other->moves);
}

void fg_summary_add(fg_summary *s, const fg_summary *other, int64_t end_ms)
{
    for (uint32_t i = 0; i < s->program->declared_count; i++)
        if (s->names[i]) add_name(s, s->names[i], other->names[i], other->stepped, end_ms);
    for (uint16_t i = 0; i < s->program->gate.size.sensors; i++)
        s->full = !add_sensor(&s->sensors[i], &other->sensors[i]) || s->full;
    s->full = s->full || other->full || other->text.full;
}

static void tell_sensor(fg_summary *s, const fg_declared *d, fg_summary_sensor *out)
{
    const sensor_account *a = &s->sensors[d->index];
    int64_t median = 0, move = 0;
    *out = (fg_summary_sensor){.declared = d, .seen = a->seen, .lowest = a->lowest, .highest = a->highest};
    if (a->steps) out->faulty_share = (uint32_t)((a->steps - a->good) * 10000 / a->steps);
    s->full = !tally_median(&a->values, &median) || !tally_median(&a->moves, &move) || s->full;
    out->median = (fg_value)median;
    out->noise = (fg_value)(move > INT32_MAX ? INT32_MAX : move);
}

bool fg_summary_tell(fg_summary *s, int64_t end_ms, void *context,
                     void (*name)(void *context, const fg_summary_name *name),
                     void (*sensor)(void *context, const fg_summary_sensor *sensor))
{
    for (uint32_t i = 0; i < s->program->declared_count; i++) {
        name_account *n = s->names[i];
        if (!n || !n->stay_count || s->full) continue;
        for (uint32_t k = 0; k < n->stay_count; k++) {
            const bool last = s->stepped && k == n->now;
            name(context, &(fg_summary_name){.declared = &s->program->declared[i],
                                             .answer = {n->stays[k].text, strlen(n->stays[k].text)},
                                             .ms = n->stays[k].ms + (last ? end_ms - n->since : 0),
                                             .changes = n->changes,
                                             .shortest_ms = n->shortest,
                                             .is_first = n->stays[k].begins,
                                             .is_last = last || n->stays[k].ends});
        }
    }
    for (uint32_t i = 0; i < s->program->declared_count && !s->full; i++) {
        fg_summary_sensor told;
        if (s->program->declared[i].kind != FG_KIND_SENSOR) continue;
        tell_sensor(s, &s->program->declared[i], &told);
        sensor(context, &told);
    }
    return !s->full && !s->text.full;
}
