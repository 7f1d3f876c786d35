/* SPDX-License-Identifier: MIT */
/* What the labelled readings of a rule say about each boundary, the margin, and the numbers to write. */
#include "workshop/base/limits.h"
#include "workshop/base/sort.h"
#include "workshop/tune/tuning.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

/* ---- the rule as it is written ---- */

static const fg_op *op_of(const fg_tuning *t) { return &t->program->gate.ops[t->rule->slot]; }

static uint16_t label_number(const fg_tuning *t, fg_verdict answer)
{
    if (!fg_kind_is(t->rule->kind, FG_KIND_LABELS)) return answer == FG_YES;
    return answer == FG_NONE ? t->rule->label_count : (uint16_t)(answer - 1);
}

uint16_t fg_tuning_judge(const fg_tuning *t, fg_value value)
{
    const fg_gate *gate = &t->program->gate;
    fg_rule_range range;
    for (uint16_t i = 0; fg_op_range(gate, op_of(t), i, &range); i++)
        if (fg_range_holds(range.range, value)) return label_number(t, range.answer);
    if (fg_kind_is(t->rule->kind, FG_KIND_LABELS)) return label_number(t, gate->bands[t->rule->index].otherwise);
    if (t->rule->kind == FG_KIND_HYSTERESIS) return FG_LABEL_EMPTY; /* the dead band: it stays what it is */
    (void)fg_op_range(gate, op_of(t), 0, &range);
    return range.answer != FG_YES;
}

static int by_position(const void *a, const void *b)
{
    const fg_boundary *x = a, *y = b;
    return (x->at > y->at) - (x->at < y->at);
}

static void add_position(fg_tuning *t, int64_t at)
{
    if (t->circle) at = fg_wrap(at, t->circle);
    if (at <= INT32_MIN || at > INT32_MAX || t->boundary_count == FG_BOUNDARIES_MOST) return;
    t->boundaries[t->boundary_count++] = (fg_boundary){.at = (fg_value)at};
}

/* Where a written number puts a boundary; of `near` the two of them. */
static void add_written(fg_tuning *t, const fg_written *w)
{
    if (w->role == FG_WRITTEN_FROM) add_position(t, w->value);
    if (w->role == FG_WRITTEN_UP_TO) add_position(t, (int64_t)w->value + 1);
    if (w->role != FG_WRITTEN_MIDDLE) return;
    add_position(t, (int64_t)w->value - w[1].value);
    add_position(t, (int64_t)w->value + w[1].value + 1);
}

/* A hysteresis has one boundary, in the middle of its dead band. */
static void find_dead_band(fg_tuning *t)
{
    const fg_hysteresis *rule = &t->program->gate.hysteresis[op_of(t)->rule];
    const bool up = rule->on.high == INT32_MAX;
    const int64_t first = up ? rule->on.low : rule->off.low, last = up ? rule->off.high : rule->on.high;
    t->boundaries[0] = (fg_boundary){.at = (fg_value)(last + 1 + (first - last - 1) / 2), .below = !up, .above = up};
    t->boundary_count = 1;
    t->tuned.margin_now = (fg_value)((first - last - 1) / 2);
    t->tuned.dead_band = fg_dead_band_of(&t->program->op_sources[t->rule->slot]);
}

/* Those positions stay where the answer really changes; a gap that nobody labels counts as closed. */
static void find_boundaries(fg_tuning *t, const uint64_t *readings)
{
    const uint16_t none = fg_kind_is(t->rule->kind, FG_KIND_LABELS) ? t->rule->label_count : FG_LABEL_EMPTY;
    size_t kept = 0;
    t->boundary_count = 0;
    if (t->rule->kind == FG_KIND_HYSTERESIS) {
        find_dead_band(t);
        return;
    }
    for (uint32_t i = 0; i < t->program->written_count; i++)
        if (t->program->written[i].op == t->rule->slot) add_written(t, &t->program->written[i]);
    qsort(t->boundaries, t->boundary_count, sizeof *t->boundaries, by_position);
    for (size_t i = 0; i < t->boundary_count; i++) {
        fg_boundary b = t->boundaries[i];
        if (i && b.at == t->boundaries[i - 1].at) continue;
        const fg_value under = t->circle ? fg_wrap((int64_t)b.at - 1, t->circle) : b.at - 1;
        b.below = fg_tuning_judge(t, under);
        b.above = fg_tuning_judge(t, b.at);
        if (b.below == b.above) continue;
        fg_boundary *last = kept ? &t->boundaries[kept - 1] : NULL;
        if (last && last->above == none && b.below == none && !readings[none] && last->below != b.above) {
            last->at = (fg_value)(last->at + ((int64_t)b.at - last->at) / 2);
            last->above = b.above;
            last->gap = true;
            continue;
        }
        t->boundaries[kept++] = b;
    }
    t->boundary_count = kept;
    t->tuned.margin_now = t->program->op_sources[t->rule->slot].margin;
}

/* ---- each boundary ---- */

/* Has this label one segment only? Then all its readings belong to the boundaries of that. */
static bool only_segment(const fg_tuning *t, uint16_t label)
{
    size_t segments = 0;
    for (size_t k = 0; k < t->boundary_count; k++) segments += t->boundaries[k].above == label;
    if (!t->circle) segments += t->boundaries[0].below == label;
    return segments < 2;
}

/* How far a reading lies from boundary `i`, below 0 if on the side below. False if it does not belong to it: of a label
 * with several segments those count that lie in the segment next to it, or less than half of one on the wrong side. */
static bool offset_from(const fg_tuning *t, size_t i, fg_value value, bool below, bool only, int64_t *offset)
{
    const fg_boundary *b = t->boundaries;
    const size_t n = t->boundary_count;
    int64_t up = INT64_MAX, down = INT64_MAX; /* to the next boundaries */
    *offset = t->circle ? fg_way(b[i].at, value, t->circle) : (int64_t)value - b[i].at;
    if (only) return true;
    if (t->circle) {
        up = n > 1 ? fg_wrap((int64_t)b[(i + 1) % n].at - b[i].at, t->circle) : t->circle;
        down = n > 1 ? fg_wrap((int64_t)b[i].at - b[(i + n - 1) % n].at, t->circle) : t->circle;
        const fg_value round = fg_wrap((int64_t)value - b[i].at, t->circle);
        *offset = round < (below ? (up + 1) / 2 : up) ? round : (int64_t)round - t->circle;
    } else {
        if (i + 1 < n) up = (int64_t)b[i + 1].at - b[i].at;
        if (i > 0) down = (int64_t)b[i].at - b[i - 1].at;
    }
    if (below && up != INT64_MAX) up = (up + 1) / 2;
    if (!below && down != INT64_MAX) down = down / 2;
    return *offset < up && -*offset <= down;
}

typedef struct side {
    uint64_t *keys; /* of offsets, and below them how many readings lie there */
    size_t count;
    uint64_t readings;
} side;

static fg_value offset_of(uint64_t key) { return fg_value_of_key((uint32_t)(key >> 32)); }

/* So many readings of it lie below an offset. */
static uint64_t below_offset(const side *s, int64_t at)
{
    uint64_t readings = 0;
    for (size_t k = 0; k < s->count; k++)
        if (offset_of(s->keys[k]) < at) readings += (uint32_t)s->keys[k];
    return readings;
}

/* The lower of the two in the middle; 0 if there are none. */
static fg_value middle_of(side *s)
{
    uint64_t below = 0;
    fg_sort_keys(s->keys, s->count);
    for (size_t k = 0; k < s->count; k++) {
        below += (uint32_t)s->keys[k];
        if (below > (s->readings - 1) / 2) return offset_of(s->keys[k]);
    }
    return 0;
}

static uint64_t wrong_at(const side *below, const side *above, int64_t at)
{
    return below->readings - below_offset(below, at) + below_offset(above, at);
}

/* The readings right below and above a boundary, of whatever label. */
static void neighbours(const fg_tuning *t, const fg_counted *counted, size_t count, fg_value at, fg_tuned_cut *cut)
{
    size_t low = 0, high = count;
    while (low < high) {
        const size_t middle = low + (high - low) / 2;
        if (counted[middle].value < at)
            low = middle + 1;
        else
            high = middle;
    }
    const bool wraps = t->circle != 0;
    cut->last_below = low ? counted[low - 1].value : wraps ? counted[count - 1].value : at > INT32_MIN ? at - 1 : at;
    cut->first_above = low < count ? counted[low].value : wraps ? counted[0].value : at;
}

static fg_value space_around(const fg_tuning *t, const fg_tuned_cut *cut, fg_value at)
{
    const int64_t below = t->circle ? fg_wrap((int64_t)at - cut->last_below, t->circle) : (int64_t)at - cut->last_below;
    const int64_t above =
        t->circle ? fg_wrap((int64_t)cut->first_above - at, t->circle) : (int64_t)cut->first_above - at;
    const int64_t space = below - 1 < above ? below - 1 : above;
    return (fg_value)(space < 0 ? 0 : space > INT32_MAX ? INT32_MAX : space);
}

static fg_value moved(const fg_tuning *t, fg_value at, int64_t by)
{
    const int64_t to = at + by;
    if (t->circle) return fg_wrap(to, t->circle);
    return (fg_value)(to < INT32_MIN ? INT32_MIN : to > INT32_MAX ? INT32_MAX : to);
}

static void gather_sides(const fg_tuning *t, const fg_counted *counted, size_t count, size_t i, side *below,
                         side *above)
{
    const fg_boundary *b = &t->boundaries[i];
    const bool below_only = only_segment(t, b->below), above_only = only_segment(t, b->above);
    for (size_t k = 0; k < count; k++) {
        int64_t offset;
        const bool is_below = counted[k].label == b->below;
        if (!is_below && counted[k].label != b->above) continue;
        if (!offset_from(t, i, counted[k].value, is_below, is_below ? below_only : above_only, &offset)) continue;
        side *s = is_below ? below : above;
        offset = offset > INT32_MAX ? INT32_MAX : offset < INT32_MIN ? INT32_MIN : offset;
        s->keys[s->count++] = (uint64_t)fg_key_of((fg_value)offset) << 32 | counted[k].count;
        s->readings += counted[k].count;
    }
}

/* A number that lies in the same space as the best one answers every reading alike; it may stay if no other boundary
 * moves into that space. */
static bool may_stay(const fg_tuning *t, size_t i, const fg_tuned_cut *at_present)
{
    const fg_tuned_cut *best = &t->cuts[i];
    if (at_present->last_below != best->last_below || at_present->first_above != best->first_above) return false;
    for (size_t k = 0; k < t->boundary_count; k++) {
        const fg_value at = t->boundaries[k].at;
        if (k == i) continue;
        if (fg_tuning_distance(t, best->last_below, at) + (int64_t)fg_tuning_distance(t, at, best->first_above) ==
            fg_tuning_distance(t, best->last_below, best->first_above))
            return false;
    }
    return true;
}

/* The boundaries are where they are best; `now`: where this one stands in the gate. */
static void work_cut(fg_tuning *t, const fg_counted *counted, size_t count, size_t i, fg_value now, uint64_t *room)
{
    const fg_boundary *b = &t->boundaries[i];
    fg_tuned_cut *cut = &t->cuts[i];
    const bool last = cut->writes_below;
    side below = {.keys = room}, above = {.keys = room + count};
    *cut = (fg_tuned_cut){.below = fg_label_verdict(t, b->below),
                          .above = fg_label_verdict(t, b->above),
                          .now = now,
                          .halfway = now,
                          .best = b->at,
                          .chosen = now,
                          .tuned = b->tuned,
                          .gap = b->gap,
                          .writes_below = last};
    if (!b->tuned) return;
    gather_sides(t, counted, count, i, &below, &above);
    const bool both = below.count && above.count;
    const int64_t sum = (int64_t)middle_of(&below) + middle_of(&above);
    const int64_t half = !both ? 0 : sum < 0 ? (sum - 1) / 2 : (sum + 1) / 2;
    const int64_t at_now = t->circle ? fg_way(b->at, now, t->circle) : (int64_t)now - b->at;
    cut->halfway = moved(t, b->at, half);
    cut->below_readings = below.readings;
    cut->above_readings = above.readings;
    cut->readings = below.readings + above.readings;
    cut->wrong_now = wrong_at(&below, &above, at_now);
    cut->wrong_halfway = wrong_at(&below, &above, half);
    cut->below_wrong = below.readings - below_offset(&below, 0);
    cut->above_wrong = below_offset(&above, 0);
    cut->wrong_best = cut->below_wrong + cut->above_wrong;
    neighbours(t, counted, count, b->at, cut);
    cut->margin = space_around(t, cut, b->at);
    /* A number that is as good, and as safe as the noise asks for or nearly as can be, stays. */
    fg_tuned_cut at_present = *cut;
    neighbours(t, counted, count, now, &at_present);
    const fg_value space = space_around(t, &at_present, now);
    const bool stays =
        !b->gap && may_stay(t, i, &at_present) && (space >= t->tuned.noise || space >= cut->margin - cut->margin / 8);
    cut->chosen = stays ? now : cut->best;
    if (!stays) return;
    cut->last_below = at_present.last_below;
    cut->first_above = at_present.first_above;
    cut->margin = space;
}

/* ---- the margin ---- */

/* Never less than the gate has. What is less than the noise grows to it, but only as far as it holds no reading. */
static void choose_margin(fg_tuning *t)
{
    fg_tuned *out = &t->tuned;
    fg_value widest = INT32_MAX;
    for (size_t i = 0; i < t->boundary_count; i++)
        if (t->cuts[i].tuned && t->cuts[i].margin < widest) widest = t->cuts[i].margin;
    out->margin = out->margin_now;
    out->widest = widest == INT32_MAX ? 0 : widest;
    if (widest == INT32_MAX || out->margin >= out->noise) return;
    const fg_value wanted = widest < out->noise ? widest : out->noise;
    if (wanted > out->margin) out->margin = wanted;
}

/* How many labelled readings a hysteresis with these limits gets wrong, played in order. */
static uint64_t wrong_played(const fg_tuning *t, const fg_hysteresis *limits)
{
    const fg_hysteresis rule = {
        .on = limits->on, .off = limits->off, .settle = FG_SETTLE_NONE, .first_on = limits->first_on};
    fg_hysteresis_state state = {0};
    uint64_t wrong = 0;
    (void)fg_hysteresis_fault(&state);
    for (size_t i = 0; i < t->step_count; i++) {
        if (t->steps[i].label == FG_LABEL_BREAK) {
            (void)fg_hysteresis_fault(&state);
            continue;
        }
        const fg_verdict answer = fg_hysteresis_step(&rule, &state, t->steps[i].value, (fg_time)i);
        wrong += t->steps[i].label < FG_LABEL_OTHER && (answer == FG_YES) != (t->steps[i].label == 1);
    }
    return wrong;
}

/* New limits of a hysteresis have to prove themselves in order of time; if the old ones do as well and some are
 * wrong anyway, they stay. */
static void prove_hysteresis(fg_tuning *t)
{
    fg_tuned_cut *cut = &t->cuts[0];
    const fg_hysteresis *now = &t->program->gate.hysteresis[op_of(t)->rule];
    fg_hysteresis chosen = *now;
    const fg_value first = moved(t, cut->chosen, t->tuned.margin), last = moved(t, cut->chosen, -t->tuned.margin - 1);
    t->tuned.wrong_now = t->tuned.wrong_best = cut->wrong_now = wrong_played(t, now);
    if (!cut->tuned || (cut->chosen == cut->now && t->tuned.margin == t->tuned.margin_now)) return;
    if (now->on.high == INT32_MAX) {
        chosen.on.low = first;
        chosen.off.high = last;
    } else {
        chosen.on.high = last;
        chosen.off.low = first;
    }
    t->tuned.wrong_best = wrong_played(t, &chosen);
    if (t->tuned.wrong_best < t->tuned.wrong_now || !t->tuned.wrong_best) return;
    t->tuned.wrong_best = t->tuned.wrong_now;
    t->tuned.margin = t->tuned.margin_now;
    cut->chosen = cut->now;
}

/* ---- the numbers to write ---- */

static void change(fg_tuning *t, const fg_written *w, int64_t value)
{
    fg_tuned *out = &t->tuned;
    if (t->circle && w->role != FG_WRITTEN_BY && w->role != FG_WRITTEN_MARGIN) value = fg_wrap(value, t->circle);
    if (value == w->value || value < INT32_MIN || value > INT32_MAX) return;
    t->changes[out->change_count++] = (fg_tuned_change){w, (fg_value)(w->negative ? -value : value)};
}

/* Whose limit stands here: of ranges that share their ends the judge names the first one for both. */
static fg_verdict owner_of(const fg_tuning *t, fg_value reading, bool above)
{
    fg_rule_range range;
    for (uint16_t i = 0; fg_op_range(&t->program->gate, op_of(t), i, &range); i++)
        if ((above ? range.range->low : range.range->high) == reading) return range.answer;
    return fg_label_verdict(t, fg_tuning_judge(t, reading));
}

/* The boundary that this position became part of. */
static const fg_tuned_cut *cut_at(const fg_tuning *t, int64_t position, bool above)
{
    if (t->circle) position = fg_wrap(position, t->circle);
    if (position <= INT32_MIN || position > INT32_MAX) return NULL; /* as in add_position */
    const fg_value reading =
        t->circle ? fg_wrap(above ? position : position - 1, t->circle) : (fg_value)(above ? position : position - 1);
    const fg_verdict label = owner_of(t, reading, above);
    const fg_tuned_cut *best = NULL;
    for (size_t i = 0; i < t->boundary_count; i++) {
        const fg_tuned_cut *cut = &t->cuts[i];
        if (cut->now == position) return cut;
        if ((above ? cut->above : cut->below) != label) continue; /* half of a gap that was closed */
        if (!best ||
            fg_tuning_distance(t, cut->now, (fg_value)position) < fg_tuning_distance(t, best->now, (fg_value)position))
            best = cut;
    }
    return best;
}

static void change_hysteresis(fg_tuning *t, const fg_written *w)
{
    const fg_hysteresis *rule = &t->program->gate.hysteresis[op_of(t)->rule];
    const bool up = rule->on.high == INT32_MAX, upper = up != w->off;
    if (!t->cuts[0].tuned) return;
    if (t->cuts[0].chosen == t->cuts[0].now && t->tuned.margin == t->tuned.margin_now) return;
    const int64_t first = t->cuts[0].chosen + (upper ? (int64_t)t->tuned.margin : -(int64_t)t->tuned.margin);
    /* up: on from `first`; off below `first` of the lower one */
    change(t, w, w->role == FG_WRITTEN_FROM ? first : first - 1);
}

static void change_near(fg_tuning *t, const fg_written *w)
{
    const fg_tuned_cut *from = cut_at(t, (int64_t)w->value - w[1].value, true);
    const fg_tuned_cut *to = cut_at(t, (int64_t)w->value + w[1].value + 1, false);
    if (!from || !to || !from->tuned || !to->tuned) return;
    if (from->chosen == from->now && to->chosen == to->now) return;
    const int64_t width =
        t->circle ? fg_wrap((int64_t)to->chosen - 1 - from->chosen, t->circle) : (int64_t)to->chosen - 1 - from->chosen;
    change(t, w, from->chosen + width / 2);
    change(t, w + 1, width / 2);
}

static void change_limit(fg_tuning *t, const fg_written *w)
{
    const bool from = w->role == FG_WRITTEN_FROM;
    const int64_t position = from ? w->value : (int64_t)w->value + 1;
    /* a FROM may begin its label or end the one before: take the boundary that stands there */
    const fg_tuned_cut *cut = cut_at(t, position, from);
    if (cut && cut->tuned && (cut->gap || cut->chosen != cut->now))
        change(t, w, from ? cut->chosen : (int64_t)cut->chosen - 1);
}

static void work_changes(fg_tuning *t)
{
    const bool hysteresis = t->rule->kind == FG_KIND_HYSTERESIS;
    for (uint32_t i = 0; i < t->program->written_count; i++) {
        const fg_written *w = &t->program->written[i];
        if (w->op != t->rule->slot) continue;
        if (w->role == FG_WRITTEN_MARGIN)
            change(t, w, t->tuned.margin);
        else if (hysteresis)
            change_hysteresis(t, w);
        else if (w->role == FG_WRITTEN_MIDDLE)
            change_near(t, w);
        else if (w->role != FG_WRITTEN_BY)
            change_limit(t, w);
    }
}

/* A boundary that only ever stands as the last reading below it is told that way. */
static void find_last(fg_tuning *t)
{
    for (size_t i = 0; i < t->boundary_count && t->rule->kind != FG_KIND_HYSTERESIS; i++) {
        bool from = false, up_to = false;
        for (uint32_t k = 0; k < t->program->written_count; k++) {
            const fg_written *w = &t->program->written[k];
            if (w->op != t->rule->slot) continue;
            from = from || (w->role == FG_WRITTEN_FROM && w->value == t->boundaries[i].at);
            up_to = up_to || (w->role == FG_WRITTEN_UP_TO && w->value == t->boundaries[i].at - 1);
        }
        t->cuts[i].writes_below = up_to && !from;
    }
}

/* ---- the whole of it ---- */

static const fg_tuned_label *label_seen(const fg_tuned *tuned, fg_verdict label)
{
    for (size_t i = 0; i < tuned->label_count; i++)
        if (tuned->labels[i].label == label) return &tuned->labels[i];
    return NULL;
}

/* At every boundary that was tuned the label below it reads more than the one above, and no limits help much. */
static bool fits_backwards(const fg_tuning *t, const fg_tuned *tuned)
{
    size_t backwards = 0;
    for (size_t i = 0; i < t->boundary_count && !t->circle; i++) {
        const fg_tuned_cut *cut = &t->cuts[i];
        const fg_tuned_label *below = label_seen(tuned, cut->below), *above = label_seen(tuned, cut->above);
        if (!cut->tuned || !below || !above) continue;
        if (below->median <= above->median) return false;
        backwards++;
    }
    return backwards > 0 && tuned->wrong_best * 3 > tuned->readings;
}

static uint64_t wrong_as_written(const fg_tuning *t, const fg_counted *counted, size_t count)
{
    uint64_t wrong = 0;
    for (size_t i = 0; i < count; i++) {
        const uint16_t answer = fg_tuning_judge(t, counted[i].value);
        if (answer != counted[i].label && answer != FG_LABEL_EMPTY) wrong += counted[i].count;
    }
    return wrong;
}

/* Both of a label's sides need readings; what is left alone stays where it is. */
static void mark_tuned(fg_tuning *t, const uint64_t *readings)
{
    for (size_t i = 0; i < t->boundary_count; i++)
        t->boundaries[i].tuned = readings[t->boundaries[i].below] && readings[t->boundaries[i].above];
}

/* A range on a circle may turn out to run through zero, or no longer to: both ways are tried, and the numbers keep
 * their sides. False: no memory. */
static bool best_cuts(fg_tuning *t, const fg_counted *counted, size_t count, fg_value *now, uint64_t *wrong)
{
    fg_boundary *b = t->boundaries, other[2];
    const bool range = t->circle && t->rule->kind == FG_KIND_THRESHOLD && t->boundary_count == 2;
    if (range)
        for (int i = 0; i < 2; i++)
            other[i] = (fg_boundary){.at = b[i].at, .below = b[i].above, .above = b[i].below, .tuned = b[i].tuned};
    uint64_t turned = UINT64_MAX;
    if (!fg_best_cuts(t, counted, count, b, t->boundary_count, wrong) ||
        (range && !fg_best_cuts(t, counted, count, other, 2, &turned)))
        return false;
    if (turned >= *wrong) return true;
    *wrong = turned;
    const fg_value first = now[0];
    now[0] = now[1];
    now[1] = first;
    memcpy(b, other, sizeof other);
    return true;
}

static bool work_all(fg_tuning *t, const fg_counted *counted, size_t count, const uint64_t *readings)
{
    fg_value *now = malloc((t->boundary_count + 1) * sizeof *now);
    uint64_t *room = malloc((2 * count + 1) * sizeof *room);
    bool good = now && room;
    mark_tuned(t, readings);
    for (size_t i = 0; good && i < t->boundary_count; i++) now[i] = t->boundaries[i].at;
    t->tuned.wrong_now = wrong_as_written(t, counted, count);
    uint64_t wrong;
    if (good && t->boundary_count) good = best_cuts(t, counted, count, now, &wrong);
    if (good && t->boundary_count) {
        if (wrong == UINT64_MAX)
            for (size_t i = 0; i < t->boundary_count; i++) t->boundaries[i].tuned = false;
        else
            t->tuned.wrong_best = wrong;
        for (size_t i = 0; i < t->boundary_count; i++) work_cut(t, counted, count, i, now[i], room);
        choose_margin(t);
        if (t->rule->kind == FG_KIND_HYSTERESIS) prove_hysteresis(t);
        t->tuned.backwards = fits_backwards(t, &t->tuned);
        work_changes(t);
        good = wrong == UINT64_MAX || fg_tuning_smooth(t, wrong);
    }
    free(now);
    free(room);
    return good;
}

bool fg_tuning_work(fg_tuning *t, fg_tuned *tuned)
{
    size_t count;
    uint64_t *readings = calloc((size_t)t->labels + 1, sizeof *readings);
    fg_counted *counted = fg_tuning_count(t->steps, t->step_count, t->labels, &count);
    bool good = readings && counted && !t->full;
    t->tuned.readings = 0;
    for (size_t i = 0; good && i < count; i++) {
        readings[counted[i].label] += counted[i].count;
        t->tuned.readings += counted[i].count;
    }
    if (good) find_boundaries(t, readings);
    t->tuned.margin = t->tuned.margin_now;
    t->cuts = good ? calloc(t->boundary_count + 1, sizeof *t->cuts) : NULL;
    t->changes = good ? calloc((size_t)t->program->written_count + 1, sizeof *t->changes) : NULL;
    good = good && t->cuts && t->changes;
    if (good) find_last(t);
    good = good && fg_tuning_describe(t, readings);
    if (good && count) good = work_all(t, counted, count, readings);
    t->tuned.cuts = t->cuts;
    t->tuned.cut_count = t->boundary_count;
    t->tuned.changes = t->changes;
    free(readings);
    free(counted);
    for (size_t i = 0; good && i < t->boundary_count; i++) {
        fg_tuning_because(t, i);
        good = !t->because[i].full;
        t->cuts[i].because = t->because[i].text;
    }
    *tuned = t->tuned;
    return good;
}
