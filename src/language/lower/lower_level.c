/* SPDX-License-Identifier: MIT */
/* Levels: texts, follows and sweeps get their numbers. */
#include "language/check/quantity.h"
#include "language/lower/lower.h"
#include "language/text/findings.h"

/* ---- texts ---- */

/* Numbers are texts once and for all. What changes is looked up when the line is written: a sensor by its index, an
 * answer by its slot. */
static fg_piece piece_of(fg_compiler *c, const fg_node *node)
{
    const fg_symbol *s = node->symbol;
    fg_piece piece = {.text = node->word, .kind = FG_PIECE_TEXT};
    if (!s) return piece;
    piece = (fg_piece){.index = s->slot, .kind = FG_PIECE_ANSWER};
    if (s->kind == FG_KIND_NUMBER) {
        piece.kind = FG_PIECE_TEXT;
        piece.text = fg_quantity_text(c, &s->quantity, node->with_unit);
    } else if (s->kind == FG_KIND_SENSOR) {
        piece.kind = FG_PIECE_SENSOR;
        piece.index = s->index;
        if (node->with_unit && s->unit.size) piece.text = fg_text_join(c, T(" "), "", s->unit);
    } else if (fg_kind_is(s->kind, FG_KIND_LABELS)) {
        piece.kind = FG_PIECE_BANDS;
        piece.first_label = s->first_text;
    } else if (s->kind == FG_KIND_COUNT || fg_kind_is(s->kind, FG_KIND_IS_OUTPUT)) {
        piece.kind = s->kind == FG_KIND_COUNT ? FG_PIECE_COUNT : FG_PIECE_OUTPUT;
        piece.index = s->index;
    }
    return piece;
}

/* A text is a run of lines, a line a run of pieces; each knows its first and how many. */
static uint16_t lower_show(fg_compiler *c, const fg_node *node)
{
    fg_tables *t = c->tables;
    fg_show show = {.first_line = (uint16_t)t->show_lines.used};
    for (const fg_node *text = node->first; text; text = text->next) {
        fg_show_line line = {.first_piece = (uint16_t)t->pieces.used};
        for (const fg_node *piece = text->first; piece; piece = piece->next, line.piece_count++)
            (void)fg_push_pieces(c, piece_of(c, piece), text->span);
        (void)fg_push_show_lines(c, line, text->span);
        show.line_count++;
    }
    return fg_push_shows(c, show, node->span);
}

/* ---- levels ---- */

/* The plain part was checked into the node; what needs a table gets its index here. */
fg_level fg_lower_level(fg_compiler *c, const fg_node *node)
{
    fg_level level = node->found.level;
    switch ((fg_form)level.form) {
    case FG_FORM_SHOW: level.number = lower_show(c, node); break;
    case FG_FORM_FOLLOW: level.number = fg_push_follows(c, node->first->found.follow, node->span); break;
    case FG_FORM_SWEEP: level.number = fg_push_sweeps(c, node->first->found.sweep, node->span); break;
    default: break;
    }
    return level;
}
