/* SPDX-License-Identifier: MIT */
/* Where the limits and margins of rules are written, so that a tool can change them and nothing else. */
#include "language/lower/lower.h"

#include "language/tree/names.h"
#include "language/tree/parse.h"

/* Where the digits of a limit stand: those are what tuning changes. A number with a name stands where that is
 * declared. */
static void add(fg_compiler *c, fg_growing *list, const fg_symbol *rule, const fg_node *number, fg_written_role role,
                bool off)
{
    fg_written *w = (fg_written *)fg_growing_push(c, list, sizeof *w);
    if (!w) return;
    *w = (fg_written){.op = rule->slot,
                      .role = (uint8_t)role,
                      .off = off,
                      .value = (fg_value)number->found.steps,
                      .number = FG_DECLARED_NONE};
    w->negative = number->kind == NODE_NEGATIVE;
    if (w->negative) number = number->first;
    if (number->kind == NODE_NUMBER_NAME) {
        const fg_symbol *named = fg_name_find(c, number->word);
        if (!named) return;
        w->number = named->order;
        number = named->body;
    }
    if (number && number->kind == NODE_LITERAL) (void)fg_node_digits(c, number, &w->span);
}

/* Of `over N` and `at most N` the number is the last reading below the boundary, of `under N` and `at least N` the
 * first above it. */
static void add_comparison(fg_compiler *c, fg_growing *list, const fg_symbol *rule, const fg_node *comparison, bool off)
{
    const uint8_t traits = fg_comparison_form_of((fg_comparison_kind)comparison->comparison)->traits;
    if (traits & FG_COMPARE_TWO_ENDS) {
        add(c, list, rule, comparison->first, FG_WRITTEN_FROM, off);
        add(c, list, rule, comparison->last, FG_WRITTEN_UP_TO, off);
    } else if (traits & FG_COMPARE_ROUND) {
        add(c, list, rule, comparison->first, FG_WRITTEN_MIDDLE, off);
        add(c, list, rule, comparison->last, FG_WRITTEN_BY, off);
    } else {
        const bool up_to = !(traits & FG_COMPARE_UPWARDS) == !(traits & FG_COMPARE_EXCLUDES);
        add(c, list, rule, comparison->first, up_to ? FG_WRITTEN_UP_TO : FG_WRITTEN_FROM, off);
    }
}

/* Cuts, ends of ranges, the numbers of comparisons, and the margin. */
static void add_rule(fg_compiler *c, fg_growing *list, const fg_symbol *rule)
{
    for (const fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_CUT) add(c, list, rule, node->first, FG_WRITTEN_FROM, false);
        if (node->kind == NODE_LABEL_ROW && node->first) add_comparison(c, list, rule, node->first, false);
        if (node->kind == NODE_ON || node->kind == NODE_OFF)
            add_comparison(c, list, rule, node->first, node->kind == NODE_OFF);
        if (node->kind == NODE_COMPARISON) add_comparison(c, list, rule, node, false);
        if (node->kind == NODE_ATTRIBUTE && node->row.attribute == ATTR_MARGIN)
            add(c, list, rule, node->first, FG_WRITTEN_MARGIN, false);
    }
}

/* Rule by rule, so that the tool finds those of a rule together. */
void fg_lower_written(fg_compiler *c)
{
    fg_growing list = {0};
    for (const fg_symbol *s = c->symbols; s; s = s->next)
        if (fg_kind_is(s->kind, FG_KIND_ON_SENSOR)) add_rule(c, &list, s);
    c->program->written = (const fg_written *)list.at;
    c->program->written_count = list.used;
}
