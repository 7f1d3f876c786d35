/* SPDX-License-Identifier: MIT */
/* Bands: readings that are in no band or in two, bands that never win, one that is not as wide as the others, margins
 * that are too wide. */
#include "language/warn/warn.h"

/* A stretch of readings without a way through zero, and the row it comes from. */
typedef struct stretch {
    int64_t low, high;
    uint32_t row;
} stretch;

typedef struct rows {
    const fg_node **nodes; /* the row of each band, in the order written */
    stretch *sorted;
    uint32_t count, stretches;
    const fg_symbol *rule;
    const fg_band *bands;
} rows;

/* In the order of their beginnings. */
static void add_stretch(rows *r, int64_t low, int64_t high, uint32_t row)
{
    uint32_t at = r->stretches++;
    for (; at && r->sorted[at - 1].low > low; at--) r->sorted[at] = r->sorted[at - 1];
    r->sorted[at] = (stretch){low, high, row};
}

/* The ranges of all rows; one that runs through zero becomes two. False: some row was wrong, or there was no memory. */
static bool collect(fg_compiler *c, const fg_symbol *rule, const fg_bands *bands, rows *r)
{
    *r = (rows){.rule = rule, .bands = bands->bands};
    r->nodes = FG_TAKE(const fg_node *, &c->arena, bands->count);
    r->sorted = FG_TAKE(stretch, &c->arena, 2 * (size_t)bands->count);
    if (!r->nodes || !r->sorted) return false;
    for (const fg_node *node = rule->body; node && r->count < bands->count; node = node->next)
        if (node->kind == NODE_LABEL_ROW && node->first) r->nodes[r->count++] = node;
    if (r->count != bands->count) return false;
    for (uint32_t i = 0; i < r->count; i++) {
        const fg_range range = bands->bands[i].range;
        if (range.low <= range.high) {
            add_stretch(r, range.low, range.high, i);
        } else {
            add_stretch(r, range.low, rule->sensor->circle - 1, i);
            add_stretch(r, 0, range.high, i);
        }
    }
    return true;
}

/* ---- gaps and shared readings ---- */

/* The warning stands at the row behind the gap. */
static void say_gap(fg_compiler *c, const rows *r, const fg_node *where, int64_t low, int64_t high)
{
    fg_report(c, FG_FIND_GAP, where->span, "{} is in no band of {}", "move a limit, or add a row: LABEL otherwise",
              fg_check_readings(c, r->rule->sensor, low, high), r->rule->name);
}

/* What lies between the highest end so far and the next beginning belongs to nobody. Outside of all rows a line is
 * open on purpose; a circle has no outside. */
static void gaps(fg_compiler *c, const rows *r)
{
    const fg_value circle = r->rule->sensor->circle;
    /* The highest reading that has an owner so far; stretches come in the order of their beginnings. */
    int64_t covered = r->stretches ? r->sorted[0].high : 0;
    for (uint32_t i = 1; i < r->stretches; i++) {
        const stretch *s = &r->sorted[i];
        if (s->low > covered + 1) say_gap(c, r, r->nodes[s->row], covered + 1, s->low - 1);
        if (s->high > covered) covered = s->high;
    }
    if (!circle || !r->stretches) return;
    const stretch *first = &r->sorted[0];
    const bool before = first->low > 0, behind = covered < circle - 1;
    if (before && behind)
        say_gap(c, r, r->nodes[first->row], covered + 1, first->low - 1); /* through zero */
    else if (before || behind)
        say_gap(c, r, r->nodes[first->row], before ? 0 : covered + 1, before ? first->low - 1 : circle - 1);
}

static void say_shared(fg_compiler *c, const rows *r, const stretch *lower, const stretch *upper)
{
    const fg_node *a = r->nodes[lower->row], *b = r->nodes[upper->row];
    const bool first = lower->row < upper->row;
    fg_report(c, FG_FIND_SHARED, (first ? b : a)->span, "{} is in '{}' and in '{}'",
              "'{}' wins because it comes first; let one range end before the other begins",
              fg_check_readings(c, r->rule->sensor, upper->low, upper->high < lower->high ? upper->high : lower->high),
              a->word, b->word, (first ? a : b)->word);
}

/* Told once for all ends of a rule, so that ranges that really overlap stand out. */
static void say_touching(fg_compiler *c, const rows *r, uint32_t lower, uint32_t upper, uint32_t count)
{
    const fg_symbol *sensor = r->rule->sensor;
    if (r->bands[lower].range.high != r->bands[upper].range.low) { /* they share the upper's other end, on a circle */
        const uint32_t swapped = lower;
        lower = upper;
        upper = swapped;
    }
    const fg_text below = r->nodes[lower]->word, above = r->nodes[upper]->word;
    const int64_t end = r->bands[upper].range.low, next = sensor->circle ? fg_wrap(end + 1, sensor->circle) : end + 1;
    fg_report(c, FG_FIND_TOUCHING, r->nodes[lower < upper ? upper : lower]->span,
              count == 1 ? "'{}' and '{}' share the reading {}; the first row has it"
                         : "'{}' and '{}' share the reading {}, and others share their ends too; the first row has it",
              "let '{}' begin at {}, or write cuts: {} | {} | {}", below, above,
              fg_text_of_value_unit(c, end, sensor->decimals, sensor->unit), above,
              fg_text_of_value_unit(c, next, sensor->decimals, sensor->unit), below,
              fg_text_of_value(c, end, sensor->decimals), above);
}

static bool is_end(const fg_range *range, int64_t value)
{
    return range->low != range->high && (value == range->low || value == range->high);
}

/* Neighbours in order are compared with the one that reaches furthest. Two rows of one label may overlap. */
static void shared(fg_compiler *c, const rows *r)
{
    const stretch *widest = r->stretches ? &r->sorted[0] : NULL;
    uint32_t touching = 0, lower = 0, upper = 0;
    for (uint32_t i = 1; i < r->stretches; i++) {
        const stretch *s = &r->sorted[i];
        if (s->low <= widest->high && !fg_text_same(r->nodes[widest->row]->word, r->nodes[s->row]->word)) {
            const bool touches = (s->low == widest->high || s->low == s->high) &&
                                 is_end(&r->bands[widest->row].range, s->low) &&
                                 is_end(&r->bands[s->row].range, s->low);
            if (touches && !touching++) lower = widest->row, upper = s->row;
            if (!touches) say_shared(c, r, widest, s);
        }
        if (s->high > widest->high) widest = s;
    }
    if (touching) say_touching(c, r, lower, upper, touching);
}

/* ---- the odd one out ---- */

/* A band with two ends. */
typedef struct wide {
    const fg_node *node; /* its label or row */
    const fg_node *cut;  /* of a list of cuts: where it begins */
    int64_t steps;
} wide;

/* The widths that can be compared, in the order of the text. */
static uint32_t collect_widths(const fg_symbol *rule, const fg_bands *bands, wide *widths)
{
    const fg_value circle = rule->sensor->circle;
    const fg_node *cut = NULL;
    uint32_t band = 0, count = 0;
    for (const fg_node *node = rule->body; node && band < bands->count; node = node->next) {
        if (node->kind == NODE_CUT) cut = node;
        if (node->kind != NODE_LABEL && !(node->kind == NODE_LABEL_ROW && node->first)) continue;
        const fg_range r = bands->bands[band++].range;
        if (r.low == INT32_MIN || r.high == INT32_MAX) continue;
        const int64_t steps = (int64_t)r.high - r.low + (r.low > r.high ? circle : 0) + 1;
        widths[count++] = (wide){node, cut, steps};
    }
    return count;
}

static bool alike(int64_t a, int64_t b) { return a - b <= 1 && b - a <= 1; }

/* Of two odd neighbours that would be as the others if the cut between them moved, the cut is told. */
static void say_odd(fg_compiler *c, const fg_symbol *rule, const wide *odd, const wide *other, int64_t usual)
{
    const fg_symbol *s = rule->sensor;
    const fg_text others = fg_text_of_value_unit(c, usual, s->decimals, s->unit);
    int64_t at = 0;
    const fg_number_spec slot = fg_check_limit_of(s, false);
    if (other && other == odd + 1 && other->cut && odd->steps + other->steps == 2 * usual &&
        fg_quantity_steps(c, other->cut->first, &slot, &at)) {
        fg_report(c, FG_FIND_ODD, other->cut->span, "the bands '{}' and '{}' are {} and {} wide, the others {}",
                  "did you mean {}? then all have the same width; if not, leave it", odd->node->word, other->node->word,
                  fg_text_of_value_unit(c, odd->steps, s->decimals, s->unit),
                  fg_text_of_value_unit(c, other->steps, s->decimals, s->unit), others,
                  fg_text_of_value(c, at - odd->steps + usual, s->decimals));
        return;
    }
    for (const wide *w = odd; w; w = w == odd ? other : NULL)
        fg_report(c, FG_FIND_ODD, w->node->span, "'{}' is {} wide, the others are {} wide",
                  "is one of its limits mistyped? if not, leave it", w->node->word,
                  fg_text_of_value_unit(c, w->steps, s->decimals, s->unit), others);
}

/* At least half have one width, give or take a step, and one or two have another. Quadratic, so only so many are looked
 * at. */
static void odd_one_out(fg_compiler *c, const fg_symbol *rule, const fg_bands *bands)
{
    enum { FEWEST = 4, MOST = 300 };
    wide *widths = FG_TAKE(wide, &c->arena, (size_t)bands->count + 1);
    const uint32_t count = widths ? collect_widths(rule, bands, widths) : 0;
    uint32_t best = 0, best_count = 0;
    if (count < FEWEST || count > MOST) return;
    for (uint32_t i = 0; i < count; i++) {
        uint32_t same = 0;
        for (uint32_t k = 0; k < count; k++) same += alike(widths[i].steps, widths[k].steps);
        if (same > best_count) best = i, best_count = same;
    }
    const uint32_t different = count - best_count;
    if (2 * best_count < count || !different || different > 2) return;
    const wide *odd[2] = {NULL, NULL};
    for (uint32_t i = 0; i < count; i++)
        if (!alike(widths[best].steps, widths[i].steps)) odd[odd[0] != NULL] = &widths[i];
    say_odd(c, rule, odd[0], odd[1], widths[best].steps);
}

/* ---- never wins ---- */

/* How far the rows above `row` cover the readings from `from` on; one less if they do not. */
static int64_t covered_from(const rows *r, uint32_t row, int64_t from)
{
    int64_t reach = from - 1;
    for (uint32_t i = 0; i < r->stretches && r->sorted[i].low <= from; i++)
        if (r->sorted[i].row < row && r->sorted[i].high > reach) reach = r->sorted[i].high;
    return reach;
}

/* Is every reading of a row in one above it? Quadratic in the rows, so only so many are looked at. */
static void never_wins(fg_compiler *c, const rows *r)
{
    enum { ROWS_LOOKED_AT = 300 };
    for (uint32_t row = 1; row < r->count && row < ROWS_LOOKED_AT; row++) {
        bool covered = true;
        for (uint32_t i = 0; i < r->stretches && covered; i++) {
            const stretch *s = &r->sorted[i];
            int64_t at = s->low;
            if (s->row != row) continue;
            while (covered && at <= s->high) {
                /* How far the rows above have all readings from here on. */
                const int64_t reach = covered_from(r, row, at);
                covered = reach >= at;
                at = reach + 1;
            }
        }
        if (covered)
            fg_report(c, FG_FIND_NEVER_WINS, r->nodes[row]->span,
                      "'{}' can never win here: the rows above have all its readings",
                      "move it above them, or remove it", r->nodes[row]->word);
    }
}

/* ---- margin ---- */

/* A margin of more than half a band lets its neighbours keep all of it, one from each side. */
static void wide_margin(fg_compiler *c, const fg_symbol *rule, const fg_bands *bands)
{
    const fg_node *margin = fg_node_attribute(rule, ATTR_MARGIN);
    const fg_value circle = rule->sensor->circle;
    const bool cuts = !fg_check_has_ranges(rule);
    int64_t narrowest = INT64_MAX;
    uint8_t label = 0;
    if (!margin) return;
    for (uint32_t i = 0; i < bands->count; i++) {
        const fg_range r = bands->bands[i].range;
        if (r.low == INT32_MIN || r.high == INT32_MAX) continue;
        int64_t width = (circle ? fg_wrap((int64_t)r.high - r.low, circle) : (int64_t)r.high - r.low) + cuts;
        if (width >= narrowest) continue;
        narrowest = width;
        label = bands->bands[i].label;
    }
    const int64_t steps = rule->margin;
    if (narrowest == INT64_MAX || 2 * steps <= narrowest) return;
    const fg_symbol *sensor = rule->sensor;
    fg_report(c, FG_FIND_WIDE_MARGIN, margin->span, "the margin is wider than half of '{}', which is {} wide",
              "write {} or less, or give the label more room", rule->labels[label - 1],
              fg_text_of_value_unit(c, narrowest, sensor->decimals, sensor->unit),
              fg_text_of_value_unit(c, narrowest / 2, sensor->decimals, sensor->unit));
}

/* A list of cuts has no gaps and no overlaps by its form. */
void fg_warn_bands(fg_compiler *c, const fg_symbol *rule)
{
    const fg_bands *bands = rule->checked.bands;
    rows r;
    if (!rule->sensor) return;
    wide_margin(c, rule, bands);
    odd_one_out(c, rule, bands);
    if (!fg_check_has_ranges(rule) || !collect(c, rule, bands, &r)) return;
    if (bands->otherwise == FG_NONE) gaps(c, &r);
    shared(c, &r);
    never_wins(c, &r);
}
