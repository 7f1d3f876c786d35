/* SPDX-License-Identifier: MIT */
/* Conditions: comparisons fit their sensors, times and numbers their places. */
#include "language/check/check.h"

/* A comparison of a sensor, or of a count: that is compared as a sensor without unit that counts in whole steps. */
static bool check_compare(fg_compiler *c, fg_node *node)
{
    fg_threshold range;
    const fg_symbol count = {.name = node->symbol->name};
    const fg_symbol *compared = node->kind == NODE_COMPARE_COUNT ? &count : node->symbol;
    if (!fg_check_comparison(c, node->first, compared, 0, &range)) return false;
    node->found.compare = (fg_compare){range.range, range.outside != node->negated};
    return true;
}

/* Every part is checked, also behind one that is wrong, so that one run reports all. */
static bool check_parts(fg_compiler *c, fg_node *first)
{
    bool good = true;
    for (fg_node *part = first; part; part = part->next) good = fg_check_condition(c, part) && good;
    return good;
}

/* The first child is the number, the others are the parts. Their count stands in 8 bits of an op. */
static bool check_yes_in(fg_compiler *c, fg_node *node)
{
    fg_node *least = node->first;
    uint32_t count = 0;
    const bool good = check_parts(c, least->next);
    for (const fg_node *part = least->next; part; part = part->next) count++;
    if (count >= UINT8_MAX) {
        fg_report(c, FG_FIND_TOO_MANY, node->span, "such a list has at most 254 parts", "give groups of them names");
        return false;
    }
    /* `at least 0` would always hold; more than there are never. */
    const fg_number_spec spec = {
        .what = T("how many of them"), .low = node->comparison == FG_COMPARE_AT_LEAST, .high = count};
    return fg_quantity_steps(c, least, &spec, &least->found.steps) && good;
}

/* The time stands behind what it is about. */
static bool check_for(fg_compiler *c, fg_node *node)
{
    fg_time time;
    const bool good = fg_check_condition(c, node->first);
    if (!fg_quantity_duration(c, node->last, T("'for'"), &time)) return false;
    fg_check_note_time(c, node->last, time);
    return good;
}

/* Numbers in it become steps and ranges, which stay in the nodes for lowering. A broken node was reported as it was
 * read. */
bool fg_check_condition(fg_compiler *c, fg_node *node)
{
    switch ((fg_node_kind)node->kind) {
    case NODE_COMPARE:
    case NODE_COMPARE_COUNT: return check_compare(c, node);
    case NODE_OUTPUT_IS: return fg_check_level(c, node->first, node->symbol, &node->first->found.level);
    case NODE_NOT:
    case NODE_AND:
    case NODE_OR:
    case NODE_PREVIOUSLY:
    case NODE_STARTS:
    case NODE_ENDS: return check_parts(c, node->first);
    case NODE_IS: fg_check_note_labels(c, node); return true;
    case NODE_YES_IN: return check_yes_in(c, node);
    case NODE_FOR: return check_for(c, node);
    default: return node->kind != NODE_BROKEN;
    }
}
