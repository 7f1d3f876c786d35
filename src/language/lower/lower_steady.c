/* SPDX-License-Identifier: MIT */
/* What a step can skip while no answer changes: marks on ops and texts. */
#include "language/lower/lower.h"

/* May an output be at another level at the next step, although no answer changes until then? */
static bool output_moves(const fg_tables *t, const fg_output *output)
{
    if (output->kind == FG_OUTPUT_DISPLAY) return true;
    for (uint16_t i = 0; i < output->row_count; i++) {
        const fg_level *level = &fg_at_rows(t, output->first_row + (uint32_t)i)->level;
        if (level->form == FG_FORM_FOLLOW && fg_at_follows(t, (uint32_t)level->number)->count) continue;
        if (fg_form_traits((fg_form)level->form) & FG_FORM_MOVES) return true;
    }
    return false;
}

/* A line without sensors, and without outputs that move, changes only where an answer does. */
static bool shows_answers_only(const fg_tables *t, const fg_show_line *line)
{
    for (uint16_t i = 0; i < line->piece_count; i++) {
        const fg_piece *piece = fg_at_pieces(t, line->first_piece + (uint32_t)i);
        if (piece->kind == FG_PIECE_SENSOR) return false;
        if (piece->kind == FG_PIECE_OUTPUT && output_moves(t, fg_at_outputs(t, piece->index))) return false;
    }
    return true;
}

/* How many rules on a sensor stand right behind its op. */
static uint8_t rules_behind(const fg_tables *t, uint32_t sensor)
{
    uint8_t count = 0;
    const uint16_t number = fg_at_ops(t, sensor)->rule;
    for (uint32_t i = sensor + 1; i < t->ops.used && count < UINT8_MAX; i++, count++)
        if (!fg_op_is(fg_at_ops(t, i)->kind, FG_OP_RULE) || fg_at_ops(t, i)->a != number) break;
    return count;
}

/* From the end to the beginning, because what an op is spared stands behind it: a sensor its rules, an op from answers
 * alone those of its kind that follow it. 255 is as far as a byte counts; there the step looks again. */
void fg_lower_steady(fg_compiler *c)
{
    fg_tables *t = c->tables;
    for (uint32_t i = 0; i < t->shows.used; i++) {
        fg_show *show = fg_at_shows(t, i);
        show->answers_only = true;
        for (uint16_t k = 0; k < show->line_count; k++)
            if (!shows_answers_only(t, fg_at_show_lines(t, show->first_line + (uint32_t)k))) show->answers_only = false;
    }
    uint8_t behind = 0; /* ops from answers alone that stand in a row */
    for (uint32_t i = t->ops.used; i-- > 0;) {
        fg_op *op = fg_at_ops(t, i);
        op->spared = op->kind == FG_OP_SENSOR ? rules_behind(t, i) : behind;
        if (!fg_op_is(op->kind, FG_OP_FROM_ANSWERS))
            behind = 0;
        else if (behind < UINT8_MAX)
            behind++;
    }
}
