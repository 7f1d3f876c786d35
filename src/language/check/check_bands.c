/* Bands: a list of cuts, or rows of ranges.
 *
 * Both become the same table: ranges with labels, of which the first that holds wins. A list of cuts covers every
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
        fg_report(c, FG_FIND_ORDER, cut->span, "the cut {} stands twice, so nothing lies between",
                  "take one of the two out", fg_span_text(c, cut->span));
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
        fg_report(c, FG_FIND_MISSING, last->span, "there is no label behind the last cut",
                  "add | and the label of what lies over {}", fg_span_text(c, last->span));
        return false;
    }
    return true;
}

/* One band of a cut list from `low` to `high`. False: its margin fills the circle. */
static bool add_band(fg_compiler *c, const fg_symbol *rule, const fg_node *label, fg_range range, int64_t margin,
                     fg_band *bands, uint16_t *count)
{
    fg_band *band = &bands[(*count)++];
    *band = (fg_band){.range = range, .label = FG_LABEL(label->label.number)};
    if (fg_check_widen(rule->sensor, range, margin, &band->kept)) return true;
    fg_report(c, FG_FIND_MARGIN, label->span, "with its margin '{}' holds every reading of the circle",
              "make the margin smaller", label->word);
    return false;
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
    *band = (fg_band){range.range, range.kept, FG_LABEL(row->label.number)};
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
            out->otherwise = FG_LABEL(row->label.number);
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
    const fg_node *stray = NULL, *before = NULL;
    if (!out) return;
    *out = (fg_bands){.otherwise = FG_NONE};
    for (const fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_BROKEN) return;
        labels += node->kind == NODE_LABEL;
        rows += node->kind == NODE_LABEL_ROW;
        if (rows && node->kind == NODE_LABEL && !stray) stray = node;
        if (labels && node->kind == NODE_LABEL_ROW && !stray) stray = node;
        if (node->kind == NODE_LABEL && before && before->kind == NODE_LABEL && !stray) stray = node;
        if (node->kind == NODE_LABEL || node->kind == NODE_CUT) before = node;
    }
    if (!labels && !rows) {
        fg_report(c, FG_FIND_MISSING, rule->span, "the bands {} have no labels",
                  "write low | 20 | middle | 60 | high, or a range for each label", rule->name);
        return;
    }
    if (stray) {
        fg_report(c, FG_FIND_SYNTAX, stray->span, "bands are either one list of cuts or rows of ranges",
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
    if (labels)
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
