/* SPDX-License-Identifier: MIT */
/* What in a gate may be moved by one step to see whether anybody notices: its limits and margins, its times, its
 * labels. They are noted where they are checked, since only there their step is known. */
#include "language/check/check.h"

#include "language/tree/names.h"
#include "language/tree/parse.h"

static void note(fg_compiler *c, fg_movable movable)
{
    fg_movable_node *node = FG_TAKE(fg_movable_node, &c->arena, 1);
    if (!node) return;
    node->movable = movable;
    node->next = c->movables;
    c->movables = node;
    c->movable_count++;
}

/* Digits, and of a time its unit as well. */
static void note_literal(fg_compiler *c, const fg_node *literal, fg_movable m)
{
    const fg_span unit = literal->literal.unit_span;
    if (!fg_node_digits(c, literal, &m.span)) return;
    if (m.kind == FG_MOVE_TIME) {
        const uint32_t end = m.span.at + m.span.size;
        if (unit.source != m.span.source || unit.at < end) return; /* it stands elsewhere */
        m.span.size = unit.at + unit.size - m.span.at;
    }
    note(c, m);
}

/* A number with a name is moved where it is declared; of a sum each part; a factor is no limit. */
static void note_number(fg_compiler *c, const fg_node *number, fg_movable movable)
{
    enum { CHAIN_MOST = 100 };
    const fg_node *at = number;
    for (int chain = 0; at && at->kind == NODE_NUMBER_NAME && chain < CHAIN_MOST; chain++) {
        const fg_symbol *symbol = fg_name_find(c, at->word);
        at = symbol ? symbol->body : NULL;
    }
    if (at && at->kind == NODE_LITERAL) note_literal(c, at, movable);
    if (!at || at != number || movable.kind == FG_MOVE_TIME) return;
    const bool sum = at->kind == NODE_SUM || at->kind == NODE_DIFFERENCE || at->kind == NODE_HALFWAY;
    if (!sum && at->kind != NODE_NEGATIVE) return;
    for (const fg_node *part = at->first; part; part = part->next) note_number(c, part, movable);
}

void fg_check_note_limit(fg_compiler *c, const fg_node *number, uint8_t decimals)
{
    if (c->notes_moves) note_number(c, number, (fg_movable){.kind = FG_MOVE_VALUE, .decimals = decimals});
}

void fg_check_note_time(fg_compiler *c, const fg_node *number, fg_time ms)
{
    if (c->notes_moves) note_number(c, number, (fg_movable){.kind = FG_MOVE_TIME, .time = ms});
}

static bool asks_for(const fg_node *is, fg_text word)
{
    for (const fg_node *label = is->first; label; label = label->next)
        if (fg_text_same(label->word, word)) return true;
    return false;
}

/* Another label of the same bands in its place. */
void fg_check_note_labels(fg_compiler *c, const fg_node *is)
{
    const fg_symbol *bands = is->symbol;
    if (!c->notes_moves || !bands) return;
    for (const fg_node *label = is->first; label; label = label->next) {
        const int i = fg_symbol_label(bands, label->word);
        for (uint16_t k = 1; i >= 0 && k < bands->label_count; k++) {
            const fg_text other = bands->labels[((uint16_t)i + k) % bands->label_count];
            if (asks_for(is, other)) continue;
            note(c, (fg_movable){.span = label->span, .kind = FG_MOVE_LABEL, .instead = other});
            break;
        }
    }
}

void fg_check_moves(fg_compiler *c)
{
    fg_movable *all = FG_TAKE(fg_movable, &c->arena, c->movable_count);
    uint32_t count = c->movable_count;
    if (!all) return;
    for (const fg_movable_node *node = c->movables; node; node = node->next) all[--count] = node->movable;
    c->program->movables = all;
    c->program->movable_count = c->movable_count;
}
