/* SPDX-License-Identifier: MIT */
/* Bands: a list of cuts, equal parts, which are such a list too, or rows of ranges.
 *
 * All become the same table: ranges with labels, of which the first that holds wins. A list of cuts covers every
 * reading once. Rows may leave gaps, which is a warning, and overlap, which is one too; where they overlap the upper
 * one wins.
 */
#include "language/check/check.h"

/* ---- cuts ---- */

/* Cuts rise, and no two are the same. */
static bool cuts_in_order(fg_compiler *c, const fg_symbol *rule, const fg_node *cut, int64_t value,
                          const fg_node *before, int64_t before_value)
{
    if (!before || before_value < value) return true;
    if (before_value == value)
        fg_report(c, FG_FIND_ORDER, cut->span, "the cut {} appears twice, so nothing lies between",
                  "remove one of the two", fg_span_text(c, cut->span));
    else if (rule->sensor->circle && !value && (!cut->next || cut->next->kind != NODE_LABEL))
        fg_report(c, FG_FIND_ORDER, cut->span, "the cut {} comes after {}, but cuts rise",
                  "begin the list with the label that goes up to zero, then | 0 |", fg_span_text(c, cut->span),
                  fg_span_text(c, before->span));
    else
        fg_report(c, FG_FIND_ORDER, cut->span, "the cut {} comes after {}, but cuts rise",
                  "put the cuts of {} in rising order", fg_span_text(c, cut->span), fg_span_text(c, before->span),
                  rule->name);
    return false;
}

/* A line goes on for ever on both sides, so it begins and ends with a label. A circle comes round, so it ends with the
 * cut at which the first label begins again. */
static bool cut_list_ends_well(fg_compiler *c, const fg_symbol *rule, const fg_node *last, bool circle)
{
    if (circle && last->kind == NODE_LABEL) {
        fg_report(c, FG_FIND_CIRCLE, last->span, "{} is a circle, so '{}' needs a cut where it ends",
                  "add | and the number where the first label begins again", rule->sensor->name, last->word);
        return false;
    }
    if (!circle && last->kind == NODE_CUT) {
        fg_report(c, FG_FIND_MISSING, last->span, "there is no label after the last cut",
                  "add | and the label for readings above {}", fg_span_text(c, last->span));
        return false;
    }
    return true;
}

/* One band of a cut list from `low` to `high`. False: its margin fills the circle. */
static bool add_band(fg_compiler *c, const fg_symbol *rule, const fg_node *label, fg_range range, int64_t margin,
                     fg_band *bands, uint16_t *count)
{
    fg_band *band = &bands[(*count)++];
    *band = (fg_band){.range = range, .label = fg_label(label->label.number)};
    if (fg_check_widen(rule->sensor, range, margin, &band->kept)) return true;
    fg_report(c, FG_FIND_MARGIN, label->span, "with its margin '{}' holds every reading of the circle",
              "make the margin smaller", label->word);
    return false;
}

/* `low | 20 high`: the label was read as the unit of the limit. */
static bool bar_missing(fg_compiler *c, const fg_symbol *rule, const fg_node *cut)
{
    const fg_node *number = cut->first;
    if (cut->next && cut->next->kind == NODE_LABEL) return false;
    if (number->kind != NODE_LITERAL || !number->literal.unit.size) return false;
    if (fg_text_same(number->literal.unit, rule->sensor->unit)) return false;
    const fg_span label = number->literal.unit_span;
    fg_report(c, FG_FIND_SYNTAX, label, "a | is missing between {} and '{}'", "write | {}", number->word,
              number->literal.unit, number->literal.unit);
    fg_report_fix(c, (fg_span){label.at, 0, label.source}, T("| "));
    return true;
}

/* Each band goes from its cut to one step before the next: a reading exactly on a cut belongs to the band behind it. */
static void check_cuts(fg_compiler *c, const fg_symbol *rule, int64_t margin, fg_bands *out, fg_band *bands)
{
    const fg_node *label = NULL, *cut = NULL, *last = NULL, *first_label = NULL;
    const fg_value circle = rule->sensor->circle;
    int64_t from = INT32_MIN, first = 0;
    for (fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_LABEL) label = node;
        if (node->kind == NODE_LABEL || node->kind == NODE_CUT) last = node;
        if (node->kind == NODE_LABEL && !first_label) first_label = node;
        if (node->kind != NODE_CUT) continue;
        int64_t value = 0;
        if (bar_missing(c, rule, node)) return;
        if (!fg_check_limit(c, node->first, rule->sensor, &value) || !cuts_in_order(c, rule, node, value, cut, from))
            return;
        if (!cut) first = value;
        /* In front of the first cut a line goes on down to the lowest reading. On a circle there is nothing in front
         * of it: that stretch belongs to the last band. */
        if (label && (cut || !circle) && value > INT32_MIN &&
            !add_band(c, rule, label, (fg_range){(fg_value)from, (fg_value)(value - 1)}, margin, bands, &out->count))
            return;
        cut = node;
        from = value;
    }
    if (!label || !last || !cut_list_ends_well(c, rule, last, circle != 0)) return;
    fg_range rest = {(fg_value)from, INT32_MAX};
    if (circle) { /* through zero the first label holds again */
        rest.high = fg_wrap(first - 1, circle);
        label = first_label;
    }
    (void)add_band(c, rule, label, rest, margin, bands, &out->count);
}

/* ---- equal parts ---- */

/* Where the parts begin, from the second one on a line, from the first one on a circle. */
typedef struct parts {
    int64_t from[FG_LABELS_MOST];
    uint32_t count;
} parts;

/* A quotient of whole numbers, rounded to nearest, halves away from zero; `by` is above zero. */
static int64_t rounded(int64_t of, int64_t by)
{
    return of < 0 ? -((-of * 2 + by) / (2 * by)) : (of * 2 + by) / (2 * by);
}

/* The first part goes on below the range, the last one above it. */
static bool parts_across(fg_compiler *c, const fg_symbol *rule, const fg_node *equal, parts *p)
{
    int64_t low, high;
    fg_node *range = equal->first;
    if (!range || range->kind != NODE_COMPARISON) {
        fg_report(c, FG_FIND_MISSING, equal->span, "{} is no circle, so equal parts need a range",
                  "write across A..B after the labels", rule->sensor->name);
        return false;
    }
    if (!fg_check_limit(c, range->first, rule->sensor, &low) || !fg_check_limit(c, range->last, rule->sensor, &high))
        return false;
    if (low >= high) {
        fg_report(c, FG_FIND_ORDER, range->span, "the range {} is in the wrong order", "write the smaller number first",
                  fg_span_text(c, range->span));
        return false;
    }
    for (uint32_t i = 1; i < p->count; i++) p->from[i] = rounded(low * (p->count - i) + high * i, p->count);
    return true;
}

/* The middle of the first part is at zero, or where it is centred. */
static bool parts_round(fg_compiler *c, const fg_symbol *rule, const fg_node *equal, parts *p)
{
    const int64_t circle = rule->sensor->circle, by = 2 * (int64_t)p->count;
    int64_t middle = 0;
    if (equal->first && equal->first->kind == NODE_COMPARISON) {
        fg_report(c, FG_FIND_CIRCLE, equal->first->span, "{} is a circle, so equal parts go all the way round",
                  "leave 'across' out, or write centred on N", rule->sensor->name);
        return false;
    }
    if (equal->first && !fg_check_limit(c, equal->first, rule->sensor, &middle)) return false;
    for (uint32_t i = 0; i < p->count; i++) {
        const int64_t begins = (middle * by + circle * (2 * (int64_t)i - 1) + circle * by) % (circle * by);
        p->from[i] = rounded(begins, by) % circle;
    }
    return true;
}

/* A cut for who looks at the limits of a rule, where it would be written. */
static void add_cut(fg_compiler *c, fg_symbol *rule, const fg_node *equal, int64_t value)
{
    fg_node *cut = fg_node_new(c, NODE_CUT, equal->span), *number = fg_node_new(c, NODE_LITERAL, equal->span);
    number->found.steps = value;
    fg_node_add(cut, number);
    fg_symbol_add(rule, cut);
}

/* The bands stand in the table as those of a list of cuts: from the lowest cut on, on a circle the one through zero
 * last. */
static void check_equal(fg_compiler *c, fg_symbol *rule, const fg_node *equal, int64_t margin, fg_bands *out,
                        fg_band *bands)
{
    const fg_node *labels[FG_LABELS_MOST];
    const fg_value circle = rule->sensor->circle;
    parts p = {.count = 0};
    for (const fg_node *node = rule->body; node && p.count < FG_LABELS_MOST; node = node->next)
        if (node->kind == NODE_LABEL) labels[p.count++] = node;
    if (p.count < 2) {
        fg_report(c, FG_FIND_MISSING, equal->span, "equal parts need two labels at least",
                  "write equal low, high across A..B");
        return;
    }
    if (!(circle ? parts_round(c, rule, equal, &p) : parts_across(c, rule, equal, &p))) return;
    uint32_t first = 0;
    for (uint32_t i = 1; circle && i < p.count; i++)
        if (p.from[i] < p.from[first]) first = i;
    for (uint32_t k = 0; k < p.count; k++) {
        const uint32_t i = (first + k) % p.count, next = (i + 1) % p.count;
        const bool lowest = !circle && !k, highest = k + 1 == p.count;
        const int64_t low = lowest ? INT32_MIN : p.from[i];
        const int64_t high = !highest ? p.from[next] - 1 : circle ? fg_wrap(p.from[next] - 1, circle) : INT32_MAX;
        if (low > high && !(circle && highest)) {
            fg_report(c, FG_FIND_ORDER, equal->span, "the parts are smaller than a step of {}",
                      "write fewer labels, or give the sensor a smaller step", rule->sensor->name);
            return;
        }
        if (!lowest) add_cut(c, rule, equal, low);
        if (!add_band(c, rule, labels[i], (fg_range){(fg_value)low, (fg_value)high}, margin, bands, &out->count))
            return;
    }
}

/* ---- ranges ---- */

/* A band is one stretch of readings. What is outside of a range is two. */
static bool row_range(fg_compiler *c, const fg_symbol *rule, const fg_node *row, int64_t margin, fg_band *band)
{
    fg_threshold range;
    fg_node *comparison = row->first;
    if (fg_check_comparison_traits(comparison) & (FG_COMPARE_INVERTED | FG_COMPARE_ROUND)) {
        fg_report(c, FG_FIND_KIND, comparison->span, "a band is one range",
                  "write {} A..B, under A, over B, at least A or at most B", row->word);
        return false;
    }
    if (!fg_check_comparison(c, comparison, rule->sensor, margin, &range) || range.outside) return false;
    *band = (fg_band){range.range, range.kept, fg_label(row->label.number)};
    return true;
}

/* Bands stand in the table in the order of their rows, because the first that holds wins. */
static void check_ranges(fg_compiler *c, const fg_symbol *rule, int64_t margin, fg_bands *out, fg_band *bands)
{
    const fg_node *otherwise = NULL;
    for (const fg_node *row = rule->body; row; row = row->next) {
        if (row->kind != NODE_LABEL_ROW) continue;
        if (otherwise) {
            fg_report(c, FG_FIND_ORDER, row->span, "'{}' stands below 'otherwise' and can never win",
                      "put 'otherwise' last", row->word);
            return;
        }
        if (!row->first) {
            otherwise = row;
            out->otherwise = fg_label(row->label.number);
        } else if (row_range(c, rule, row, margin, &bands[out->count])) {
            out->count++;
        }
    }
}

/* ---- both ---- */

/* A label may stand in several rows, but it has one text. */
static void check_texts(fg_compiler *c, const fg_symbol *rule)
{
    bool seen[FG_LABELS_MOST] = {false};
    for (const fg_node *node = rule->body; node; node = node->next) {
        if ((node->kind != NODE_LABEL && node->kind != NODE_LABEL_ROW) || !node->label.has_text) continue;
        if (seen[node->label.number])
            fg_report(c, FG_FIND_TWICE, node->label.text_span, "the label '{}' has a text already",
                      "give it its text once", node->word);
        seen[node->label.number] = true;
    }
}

/* Either one list of cuts or rows of ranges. Mixed, nobody could say what lies between them. */
void fg_check_bands(fg_compiler *c, fg_symbol *rule)
{
    fg_bands *const out = rule->checked.bands = FG_TAKE(fg_bands, &c->arena, 1);
    /* A list of cuts is made of NODE_LABEL and NODE_CUT, rows of ranges of NODE_LABEL_ROW. `stray` is the first that
     * does not fit the form. */
    uint32_t labels = 0, rows = 0;
    const fg_node *stray = NULL, *before = NULL, *equal = NULL;
    if (!out) return;
    *out = (fg_bands){.otherwise = FG_NONE};
    for (const fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_BROKEN) return;
        labels += node->kind == NODE_LABEL;
        rows += node->kind == NODE_LABEL_ROW;
        if (rows && node->kind == NODE_LABEL && !stray) stray = node;
        if (labels && node->kind == NODE_LABEL_ROW && !stray) stray = node;
        if (node->kind == NODE_LABEL && before && before->kind == NODE_LABEL && !stray && !equal) stray = node;
        if (equal && (node->kind == NODE_EQUAL || node->kind == NODE_CUT) && !stray) stray = node;
        if (labels && node->kind == NODE_EQUAL && !stray) stray = node;
        if (node->kind == NODE_EQUAL) equal = node;
        if (node->kind == NODE_LABEL || node->kind == NODE_CUT) before = node;
    }
    if (!labels && !rows) {
        fg_report(c, FG_FIND_MISSING, rule->span, "the bands {} have no labels",
                  "write low | 20 | middle | 60 | high, or a range for each label", rule->name);
        return;
    }
    if (stray) {
        fg_report(c, FG_FIND_SYNTAX, stray->span, "bands are one list of cuts, equal parts, or rows of ranges",
                  "write all of {} in one form", rule->name);
        return;
    }
    if (!rule->sensor) return;
    const int64_t margin = fg_check_margin(c, rule);
    fg_band *bands = FG_TAKE(fg_band, &c->arena, labels + rows + 1);
    if (!bands) return;
    out->bands = bands;
    out->settle = fg_check_settle(c, rule);
    out->keeps = fg_node_attribute(rule, ATTR_MARGIN) != NULL;
    check_texts(c, rule);
    if (equal)
        check_equal(c, rule, equal, margin, out, bands);
    else if (labels)
        check_cuts(c, rule, margin, out, bands);
    else
        check_ranges(c, rule, margin, out, bands);
}

/* Rows of ranges may leave gaps and overlap; a list of cuts can do neither. */
bool fg_check_has_ranges(const fg_symbol *rule)
{
    for (const fg_node *node = rule->body; node; node = node->next)
        if (node->kind == NODE_LABEL_ROW) return true;
    return false;
}
