/* SPDX-License-Identifier: MIT */
/* The tree: nodes, their children, the parts of a declaration. */
#include "language/tree/parse.h"

/* Never NULL: without memory it is the spare node, and the arena says that it is full. So the parser has no branch for
 * a missing node. */
fg_node *fg_node_new(fg_compiler *c, fg_node_kind kind, fg_span span)
{
    fg_node *node = FG_TAKE(fg_node, &c->arena, 1);
    if (!node) node = &c->spare;
    *node = (fg_node){.kind = (uint8_t)kind, .span = span};
    return node;
}

/* At the end, so children stand as they are written. */
void fg_node_add(fg_node *parent, fg_node *child)
{
    if (parent == child) return; /* both the spare one */
    if (parent->last)
        parent->last->next = child;
    else
        parent->first = child;
    parent->last = child;
}

/* The same for the rows of a declaration. A node that is added twice in a row stays once: a broken row may be reported
 * from two places. */
void fg_symbol_add(fg_symbol *symbol, fg_node *node)
{
    if (symbol->body_last == node) return;
    if (symbol->body_last)
        symbol->body_last->next = node;
    else
        symbol->body = node;
    symbol->body_last = node;
}

/* The first of its kind; whether it stands twice was reported as it was read. */
fg_node *fg_node_attribute(const fg_symbol *symbol, fg_attribute attribute)
{
    for (fg_node *node = symbol->body; node; node = node->next)
        if (node->kind == NODE_ATTRIBUTE && node->row.attribute == attribute) return node;
    return NULL;
}

/* The second condition of an expectation, behind the first and, with `within`, behind the time. */
fg_node *fg_node_expect_other(const fg_node *expect)
{
    fg_node *const rest = expect->first ? expect->first->next : NULL;
    switch (expect->expect.kind) {
    case FG_EXPECT_ALWAYS:
    case FG_EXPECT_NEVER: return rest;
    case FG_EXPECT_WITHIN: return rest ? rest->next : NULL; /* the time is between them */
    default: return NULL;
    }
}

/* Its number; below 0 if there is no such label. Labels are few, so they are looked through. */
int fg_symbol_label(const fg_symbol *bands, fg_text word)
{
    for (int i = 0; i < bands->label_count; i++)
        if (fg_text_same(bands->labels[i], word)) return i;
    return -1;
}

/* A label may stand in several rows and is one label all the same: its number is that of its first row. They are
 * collected before any condition is read, so that `is LABEL` can be checked as it is read. */
void fg_symbol_collect_labels(fg_compiler *c, fg_symbol *bands)
{
    uint32_t most = 0;
    for (const fg_node *node = bands->body; node; node = node->next)
        most += node->kind == NODE_LABEL || node->kind == NODE_LABEL_ROW;
    bands->labels = FG_TAKE(fg_text, &c->arena, most < FG_LABELS_MOST ? most : FG_LABELS_MOST);
    if (!bands->labels) return;
    for (fg_node *node = bands->body; node; node = node->next) {
        if (node->kind != NODE_LABEL && node->kind != NODE_LABEL_ROW) continue;
        int i = fg_symbol_label(bands, node->word);
        if (i < 0) i = bands->label_count;
        if (i == FG_LABELS_MOST) {
            fg_report(c, FG_FIND_TOO_MANY, node->span, "bands have at most 250 labels",
                      "split them over two sensors or bands");
            return;
        }
        if (i == bands->label_count) bands->labels[bands->label_count++] = node->word;
        node->label.number = (uint8_t)i;
    }
}

bool fg_node_digits(const fg_compiler *c, const fg_node *literal, fg_span *span)
{
    if (literal->span.source >= c->source_count) return false;
    const fg_text text = c->sources[literal->span.source].text;
    const uintptr_t begin = (uintptr_t)text.at, digits = (uintptr_t)literal->word.at;
    if (digits < begin || digits >= begin + text.size) return false;
    *span = literal->span;
    span->size = (uint32_t)(digits - begin + literal->word.size) - span->at;
    return true;
}
