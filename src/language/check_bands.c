/* Bands: a cut list or ranges become bands with their readings, each widened by the margin once. */
#include "front.h"

/* ---- labels ---- */

void fg_check_collect_labels(fg_front *f, fg_symbol *bands)
{
    uint32_t most = 0;
    for (const fg_node *node = bands->body; node; node = node->next)
        most += node->kind == NODE_LABEL || node->kind == NODE_ROW_RANGE;
    bands->labels = FG_TAKE(fg_text, &f->arena, most < FG_LABELS_MOST ? most : FG_LABELS_MOST);
    if (!bands->labels) return;
    for (fg_node *node = bands->body; node; node = node->next) {
        if (node->kind != NODE_LABEL && node->kind != NODE_ROW_RANGE) continue;
        uint16_t i = 0;
        while (i < bands->label_count && !fg_text_same(bands->labels[i], node->word)) i++;
        if (i == FG_LABELS_MOST) {
            fg_say(f, FG_FIND_TOO_MANY, node->span, "bands have at most 250 labels",
                   "split them over two sensors or bands");
            return;
        }
        if (i == bands->label_count) bands->labels[bands->label_count++] = node->word;
        node->role = (uint8_t)i;
    }
}

/* ---- cuts ---- */

static bool cuts_in_order(fg_front *f, const fg_symbol *rule, const fg_node *cut, int64_t value, const fg_node *before,
                          int64_t before_value)
{
    if (!before || before_value < value) return true;
    if (before_value == value)
        fg_say(f, FG_FIND_ORDER, cut->span, "the cut {} stands twice, so nothing lies between",
               "take one of the two out", fg_span_text(f, cut->span));
    else
        fg_say(f, FG_FIND_ORDER, cut->span, "the cut {} comes after {}, but cuts rise",
               "put the cuts of {} in rising order", fg_span_text(f, cut->span), fg_span_text(f, before->span),
               rule->name);
    return false;
}

static bool cut_list_ends_well(fg_front *f, const fg_symbol *rule, const fg_node *last, bool circle)
{
    if (circle && last->kind == NODE_LABEL) {
        fg_say(f, FG_FIND_CIRCLE, last->span, "{} is a circle, so '{}' needs a cut where it ends",
               "add | and the number where the first label begins again", rule->sensor->name, last->word);
        return false;
    }
    if (!circle && last->kind == NODE_CUT) {
        fg_say(f, FG_FIND_MISSING, last->span, "there is no label behind the last cut",
               "add | and the label of what lies over {}", fg_span_text(f, last->span));
        return false;
    }
    return true;
}

/* One band of a cut list from `low` to `high`. False: its margin fills the circle. */
static bool add_band(fg_front *f, const fg_symbol *rule, const fg_node *label, fg_range range, int64_t margin,
                     fg_band *bands, uint16_t *count)
{
    fg_band *band = &bands[(*count)++];
    *band = (fg_band){.range = range, .label = FG_LABEL(label->role)};
    if (fg_check_widen(rule->sensor, range, margin, &band->kept)) return true;
    fg_say(f, FG_FIND_MARGIN, label->span, "with its margin '{}' holds every reading of the circle",
           "make the margin smaller", label->word);
    return false;
}

static void check_cuts(fg_front *f, const fg_symbol *rule, int64_t margin, fg_bands *out, fg_band *bands)
{
    const fg_node *label = NULL, *cut = NULL, *last = NULL, *first_label = NULL;
    const fg_value circle = rule->sensor->circle;
    int64_t from = INT32_MIN, first = 0;
    for (const fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_LABEL) label = node;
        if (node->kind == NODE_LABEL || node->kind == NODE_CUT) last = node;
        if (node->kind == NODE_LABEL && !first_label) first_label = node;
        if (node->kind != NODE_CUT) continue;
        int64_t value = 0;
        if (!fg_check_limit(f, node->first, rule->sensor, &value) || !cuts_in_order(f, rule, node, value, cut, from))
            return;
        if (!cut) first = value;
        if (label && (cut || !circle) && value > INT32_MIN &&
            !add_band(f, rule, label, (fg_range){(fg_value)from, (fg_value)(value - 1)}, margin, bands, &out->count))
            return;
        cut = node;
        from = value;
    }
    if (!label || !last || !cut_list_ends_well(f, rule, last, circle != 0)) return;
    fg_range rest = {(fg_value)from, INT32_MAX};
    if (circle) { /* through zero the first label holds again */
        rest.high = fg_wrap(first - 1, circle);
        label = first_label;
    }
    (void)add_band(f, rule, label, rest, margin, bands, &out->count);
}

/* ---- ranges ---- */

static bool row_range(fg_front *f, const fg_symbol *rule, const fg_node *row, int64_t margin, fg_band *band)
{
    fg_threshold range;
    const fg_node *comparison = row->first;
    if (comparison->kind == NODE_OUTSIDE || comparison->kind == NODE_NEAR) {
        fg_say(f, FG_FIND_KIND, comparison->span, "a band is one range",
               "write {} A..B, under A, over B, at least A or at most B", row->word);
        return false;
    }
    if (!fg_check_comparison(f, comparison, rule->sensor, margin, &range) || range.outside) return false;
    *band = (fg_band){range.range, range.kept, FG_LABEL(row->role)};
    return true;
}

static void check_ranges(fg_front *f, const fg_symbol *rule, int64_t margin, fg_bands *out, fg_band *bands)
{
    const fg_node *otherwise = NULL;
    for (const fg_node *row = rule->body; row; row = row->next) {
        if (row->kind != NODE_ROW_RANGE) continue;
        if (otherwise) {
            fg_say(f, FG_FIND_ORDER, row->span, "'{}' stands below 'otherwise' and can never win",
                   "put 'otherwise' last", row->word);
            return;
        }
        if (!row->first) {
            otherwise = row;
            out->otherwise = FG_LABEL(row->role);
        } else if (row_range(f, rule, row, margin, &bands[out->count])) {
            out->count++;
        }
    }
}

/* ---- both ---- */

static void check_texts(fg_front *f, const fg_symbol *rule)
{
    bool seen[FG_LABELS_MOST] = {false};
    for (const fg_node *node = rule->body; node; node = node->next) {
        if ((node->kind != NODE_LABEL && node->kind != NODE_ROW_RANGE) || !node->unit_span.size) continue;
        if (seen[node->role])
            fg_say(f, FG_FIND_TWICE, node->unit_span, "the label '{}' has a text already", "give it its text once",
                   node->word);
        seen[node->role] = true;
    }
}

void fg_check_bands(fg_front *f, fg_symbol *rule, fg_bands *out)
{
    uint32_t labels = 0, rows = 0;
    const fg_node *stray = NULL, *before = NULL;
    *out = (fg_bands){.otherwise = FG_NONE};
    for (const fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_BROKEN) return;
        labels += node->kind == NODE_LABEL;
        rows += node->kind == NODE_ROW_RANGE;
        if (rows && node->kind == NODE_LABEL && !stray) stray = node;
        if (labels && node->kind == NODE_ROW_RANGE && !stray) stray = node;
        if (node->kind == NODE_LABEL && before && before->kind == NODE_LABEL && !stray) stray = node;
        if (node->kind == NODE_LABEL || node->kind == NODE_CUT) before = node;
    }
    if (!labels && !rows) {
        fg_say(f, FG_FIND_MISSING, rule->span, "the bands {} have no labels",
               "write low | 20 | middle | 60 | high, or a range for each label", rule->name);
        return;
    }
    if (stray) {
        fg_say(f, FG_FIND_SYNTAX, stray->span, "bands are either one list of cuts or rows of ranges",
               "write all of {} in one form", rule->name);
        return;
    }
    if (!rule->sensor) return;
    const int64_t margin = fg_check_margin(f, rule);
    fg_band *bands = FG_TAKE(fg_band, &f->arena, labels + rows + 1);
    if (!bands) return;
    out->bands = bands;
    out->settle = fg_check_settle(f, rule);
    out->keeps = fg_check_attribute(rule, ATTR_MARGIN) != NULL;
    check_texts(f, rule);
    if (labels)
        check_cuts(f, rule, margin, out, bands);
    else
        check_ranges(f, rule, margin, out, bands);
}
