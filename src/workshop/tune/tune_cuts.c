/* SPDX-License-Identifier: MIT */
/* The best list of cuts for labelled readings.
 *
 * Dynamic programming over the readings in order of size: for each segment and each place between two readings the
 * fewest readings wrong if the segment ends there. What a segment gets wrong grows by the readings of another label as
 * it is drawn over them, so each place costs one look at what was counted of one value: values times segments in all.
 * Of places with as few wrong the one with the wider empty space wins. On a circle the first label holds again behind
 * the last cut, so the segments are those from zero round to zero.
 *
 * Two cuts may stand in one space, with a band between them that holds no reading, as long as there is room for both:
 * points without readings make room for them. */
#include "workshop/tune/tuning.h"

#include <stdlib.h>

enum { PLACES_MOST = 1 << 26 };

/* What was counted of one value; nothing where a cut could stand in a space. */
typedef struct point {
    fg_value value;
    uint32_t first, count; /* entries */
} point;

/* How good a way to a place is. */
typedef struct score {
    uint64_t wrong;
    int64_t space;
} score;

static const score IMPOSSIBLE = {UINT64_MAX, 0};

typedef struct search {
    const fg_counted *counted;
    size_t count;
    const fg_boundary *boundaries;
    size_t boundary_count, point_count;
    fg_value circle;
    point *points;
    int64_t *spaces; /* how wide the space is at each place, before the point of that number; 0 outside of all */
    score *before, *now;
    unsigned char *begins; /* of each segment and place: what begins there */
} search;

/* A segment begins at a place and is drawn on; begins there and ends there at once. */
enum { DRAWN = 1, EMPTY = 2 };

static bool better(score a, score b) { return a.wrong < b.wrong || (a.wrong == b.wrong && a.space > b.space); }

/* ---- points ---- */

static size_t different(const fg_counted *counted, size_t count)
{
    size_t values = 1;
    for (size_t i = 1; i < count; i++) values += counted[i].value != counted[i - 1].value;
    return values;
}

/* Where cuts may stand at most: behind `low`, up to `high`. */
static void ends(const search *s, int64_t *low, int64_t *high)
{
    const int64_t room = (int64_t)s->boundary_count + 1;
    *low = s->circle ? -1 : s->counted[0].value - room;
    *high = s->circle ? s->circle - 1 : s->counted[s->count - 1].value + room;
    if (*low < INT32_MIN) *low = INT32_MIN;
    if (*high > INT32_MAX) *high = INT32_MAX;
}

static void add_places(search *s, int64_t from, int64_t to)
{
    for (size_t i = 1; i <= s->boundary_count && from + (int64_t)i < to; i++)
        s->points[s->point_count++] = (point){(fg_value)(from + (int64_t)i), 0, 0};
}

static bool gather(search *s)
{
    const size_t values = different(s->counted, s->count), most = (values + 1) * s->boundary_count + values;
    const bool places =
        most * (s->boundary_count + 1) <= PLACES_MOST; /* so many different readings leave no room that would matter */
    int64_t last, high;
    ends(s, &last, &high);
    s->points = malloc((places ? most : values) * sizeof *s->points);
    if (!s->points) return false;
    for (size_t i = 0; i < s->count; i++) {
        const fg_value value = s->counted[i].value;
        if (i && value == s->counted[i - 1].value) {
            s->points[s->point_count - 1].count++;
            continue;
        }
        if (places) add_places(s, last, value);
        s->points[s->point_count++] = (point){value, (uint32_t)i, 1};
        last = value;
    }
    if (places) add_places(s, last, high + 1);
    return true;
}

/* The readings on either side of a place: cuts may stand behind `low`, up to `high`. False outside of all readings. */
static bool around(const search *s, size_t at, int64_t *low, int64_t *high)
{
    size_t below = at, above = at;
    ends(s, low, high);
    while (below && !s->points[below - 1].count) below--;
    while (above < s->point_count && !s->points[above].count) above++;
    if (below) *low = s->points[below - 1].value;
    if (above < s->point_count) *high = s->points[above].value;
    return below && above < s->point_count;
}

static bool measure_spaces(search *s)
{
    s->spaces = malloc((s->point_count + 1) * sizeof *s->spaces);
    for (size_t at = 0; s->spaces && at <= s->point_count; at++) {
        int64_t low, high;
        s->spaces[at] = around(s, at, &low, &high) ? high - low : 0;
        if (!s->spaces[at] && s->circle)
            s->spaces[at] = (int64_t)s->counted[0].value + s->circle - s->counted[s->count - 1].value;
    }
    return s->spaces != NULL;
}

/* ---- the search ---- */

static uint64_t wrong_in(const search *s, size_t at, uint16_t label)
{
    const point *p = &s->points[at];
    uint64_t wrong = 0;
    for (uint32_t i = 0; i < p->count; i++)
        if (s->counted[p->first + i].label != label) wrong += s->counted[p->first + i].count;
    return wrong;
}

/* May a boundary stand at this place? One that is left alone stands where it is. */
static bool may_stand(const search *s, const fg_boundary *boundary, size_t at)
{
    if (boundary->tuned) return true;
    return (at == 0 || s->points[at - 1].value < boundary->at) &&
           (at == s->point_count || s->points[at].value >= boundary->at);
}

/* One more segment: `before` has the scores of ending the one before it at each place. */
static void next_segment(search *s, size_t segment)
{
    const fg_boundary *boundary = &s->boundaries[segment - 1];
    const bool last = segment == s->boundary_count && !s->circle; /* a cut stands on the circle, not behind it */
    const bool may_be_empty =
        last || !boundary->tuned || (segment < s->boundary_count && !s->boundaries[segment].tuned);
    unsigned char *begins = s->begins + segment * (s->point_count + 1);
    score open = IMPOSSIBLE; /* it has begun, and holds the points up to this place */
    for (size_t at = 0; at <= s->point_count; at++) {
        if (at && open.wrong != UINT64_MAX) open.wrong += wrong_in(s, at - 1, boundary->above);
        begins[at] = 0;
        s->now[at] = open;
        if (s->before[at].wrong == UINT64_MAX || !may_stand(s, boundary, at)) continue;
        const score entered = {s->before[at].wrong, s->before[at].space + (boundary->tuned ? s->spaces[at] : 0)};
        if (!better(entered, open)) continue;
        open = entered;
        begins[at] = DRAWN;
        if (!may_be_empty) continue;
        s->now[at] = entered;
        begins[at] |= EMPTY;
    }
}

/* The place where each boundary stands. */
static void trace_back(const search *s, size_t *places)
{
    size_t at = s->point_count;
    for (size_t segment = s->boundary_count; segment > 0; segment--) {
        const unsigned char *begins = s->begins + segment * (s->point_count + 1);
        if (!(begins[at] & EMPTY)) {
            do at--;
            while (!(begins[at] & DRAWN));
        }
        places[segment - 1] = at;
    }
}

/* ---- where they stand ---- */

/* Those in one space stand evenly in it; a single one in its middle. */
static void put(const search *s, const size_t *places, fg_boundary *boundaries)
{
    for (size_t i = 0, next; i < s->boundary_count; i = next) {
        int64_t low, high, others_low, others_high;
        size_t count = 0;
        const bool inside = around(s, places[i], &low, &high);
        for (next = i; next < s->boundary_count; next++, count++) {
            (void)around(s, places[next], &others_low, &others_high);
            if (others_low != low || others_high != high) break;
        }
        int64_t from = low, to = high;
        const bool above_all = !inside && low >= s->counted[s->count - 1].value;
        if (!inside && s->circle && above_all) /* the space runs through zero, the list of cuts does not */
            to = (int64_t)s->counted[0].value + s->circle;
        else if (!inside && s->circle)
            from = (int64_t)s->counted[s->count - 1].value - s->circle;
        else if (above_all) /* right beside the readings */
            to = low + (int64_t)count;
        else if (!inside)
            from = high - (int64_t)count;
        for (size_t k = 0; k < count; k++) {
            int64_t at = from + 1 + (to - from - 1) * (int64_t)(k + 1) / (int64_t)(count + 1);
            const int64_t least = low + 1 + (int64_t)k, most = high - (int64_t)(count - 1 - k);
            if (at < least) at = least;
            if (at > most) at = most;
            if (boundaries[i + k].tuned) boundaries[i + k].at = (fg_value)at;
        }
    }
}

static uint64_t find(search *s, fg_boundary *boundaries, size_t *places)
{
    s->before[0] = (score){0, 0};
    for (size_t at = 0; at < s->point_count; at++)
        s->before[at + 1] = (score){s->before[at].wrong + wrong_in(s, at, boundaries[0].below), 0};
    for (size_t segment = 1; segment <= s->boundary_count; segment++) {
        next_segment(s, segment);
        score *swap = s->before;
        s->before = s->now;
        s->now = swap;
    }
    const uint64_t wrong = s->before[s->point_count].wrong;
    if (wrong == UINT64_MAX) return wrong;
    trace_back(s, places);
    put(s, places, boundaries);
    return wrong;
}

bool fg_best_cuts(const fg_tuning *t, const fg_counted *counted, size_t count, fg_boundary *boundaries,
                  size_t boundary_count, uint64_t *wrong)
{
    search s = {.counted = counted,
                .count = count,
                .boundaries = boundaries,
                .boundary_count = boundary_count,
                .circle = t->circle};
    *wrong = UINT64_MAX;
    if (!count || !boundary_count) return true;
    const bool gathered = gather(&s) && measure_spaces(&s);
    size_t *places = malloc(boundary_count * sizeof *places);
    s.before = malloc((s.point_count + 1) * sizeof *s.before);
    s.now = malloc((s.point_count + 1) * sizeof *s.now);
    s.begins = malloc((boundary_count + 1) * (s.point_count + 1));
    const bool good = gathered && places && s.before && s.now && s.begins;
    if (good) *wrong = find(&s, boundaries, places);
    free(s.points);
    free(s.spaces);
    free(s.before);
    free(s.now);
    free(s.begins);
    free(places);
    return good;
}
