/* SPDX-License-Identifier: MIT */
/* Latch, count and pulse: the rows they need, and the numbers in them. */
#include "language/check/check.h"

/* A row that has to be there. Nothing is said if a row was broken: it may have been that one. */
static bool needs(fg_compiler *c, const fg_symbol *s, fg_attribute attribute, const char *word)
{
    for (const fg_node *node = s->body; node; node = node->next)
        if (node->kind == NODE_BROKEN) return false;
    if (fg_node_attribute(s, attribute)) return true;
    fg_report(c, FG_FIND_MISSING, s->span, "the {} {} has no '{}'", "add {} when and a condition",
              fg_text_of(fg_kind_word(s->kind)), s->name, fg_text_of(word), fg_text_of(word));
    return false;
}

/* Every row that listens. */
static void check_conditions(fg_compiler *c, const fg_symbol *s)
{
    for (fg_node *node = s->body; node; node = node->next)
        if (node->kind == NODE_ATTRIBUTE && node->row.has_when) (void)fg_check_condition(c, node->last);
}

/* Its limit was checked with the attributes; here its first value has to lie in it. */
static void check_count(fg_compiler *c, fg_symbol *s)
{
    const fg_node *first = fg_node_attribute(s, ATTR_FIRST);
    const fg_number_spec spec = {.what = T("the first value"), .low = s->low, .high = s->high};
    s->checked.number = s->low;
    if (first && first->first && !fg_quantity_steps(c, first->first, &spec, &s->checked.number))
        s->checked.number = s->low;
    check_conditions(c, s);
}

/* It needs a start, and at least one length above zero. */
static void check_pulse(fg_compiler *c, const fg_symbol *s)
{
    if (!needs(c, s, ATTR_START, "start")) return;
    if (!fg_node_attribute(s, ATTR_LAST)) {
        fg_report(c, FG_FIND_MISSING, s->span, "the pulse {} does not say how long it lasts", "add last 5s", s->name);
        return;
    }
    for (fg_node *node = s->body; node; node = node->next) {
        fg_time time;
        if (node->kind != NODE_ATTRIBUTE || node->row.attribute != ATTR_LAST) continue;
        if (!fg_quantity_duration(c, node->first, T("a pulse"), &time)) continue;
        fg_check_note_time(c, node->first, time);
        if (!time) fg_report(c, FG_FIND_RANGE, node->first->span, "a pulse needs some time", "write a time above 0");
    }
    check_conditions(c, s);
}

/* A latch only needs to be set: one that is never cleared may be meant. */
void fg_check_listener(fg_compiler *c, fg_symbol *symbol)
{
    switch (symbol->kind) {
    case FG_KIND_COUNT: check_count(c, symbol); return;
    case FG_KIND_PULSE: check_pulse(c, symbol); return;
    default:
        if (needs(c, symbol, ATTR_SET, "set")) check_conditions(c, symbol);
        return;
    }
}
