/* Bands: readings that are in no band or in two, bands that never win, margins that are too wide. */
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
    *r = (rows){.rule = rule};
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

/* Neighbours in order are compared with the one that reaches furthest. Two rows of one label may overlap. */
static void shared(fg_compiler *c, const rows *r)
{
    const stretch *widest = r->stretches ? &r->sorted[0] : NULL;
    for (uint32_t i = 1; i < r->stretches; i++) {
        const stretch *s = &r->sorted[i];
        const fg_node *a = r->nodes[widest->row], *b = r->nodes[s->row];
        if (s->low <= widest->high && !fg_text_same(a->word, b->word)) {
            const bool first = widest->row < s->row;
            fg_report(c, FG_FIND_SHARED, (first ? b : a)->span, "{} is in '{}' and in '{}'",
                      "'{}' wins, it stands first; let one range end before the other",
                      fg_check_readings(c, r->rule->sensor, s->low, s->high < widest->high ? s->high : widest->high),
                      a->word, b->word, (first ? a : b)->word);
        }
        if (s->high > widest->high) widest = s;
    }
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
                      "move it above them, or take it out", r->nodes[row]->word);
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
    if (!fg_check_has_ranges(rule) || !collect(c, rule, bands, &r)) return;
    if (bands->otherwise == FG_NONE) gaps(c, &r);
    shared(c, &r);
    never_wins(c, &r);
}
