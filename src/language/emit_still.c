/* What may be left alone at a step where no answer changes: marks on lines and texts that spare the engine a look. */
#include "front.h"

static bool output_moves(const fg_tables *t, const fg_output *output)
{
    if (output->kind == FG_DISPLAY) return true;
    for (uint16_t i = 0; i < output->row_count; i++) {
        const fg_level *level = &t->rows[output->first_row + i].level;
        if (level->form == FG_FORM_FOLLOW ? !t->follows[level->number].count : level->form > FG_FORM_HOLD) return true;
    }
    return false;
}

static bool line_is_still(const fg_tables *t, const fg_line_of_text *line)
{
    for (uint16_t i = 0; i < line->piece_count; i++) {
        const fg_piece *piece = &t->pieces[line->first_piece + i];
        if (piece->kind == FG_PIECE_SENSOR) return false;
        if (piece->kind == FG_PIECE_OUTPUT && output_moves(t, &t->outputs[piece->index])) return false;
    }
    return true;
}

/* The rules on a sensor that stand right behind its line. */
static uint8_t rules_behind(const fg_tables *t, uint32_t line)
{
    uint8_t count = 0;
    for (const fg_op *op = &t->ops[line + 1]; line + 1 + count < t->ops_used && count < UINT8_MAX; op++, count++)
        if (op->kind < FG_OP_THRESHOLD || op->kind > FG_OP_BANDS || op->a != t->ops[line].rule) break;
    return count;
}

void fg_emit_still(fg_front *f)
{
    fg_tables *t = f->tables;
    for (uint32_t i = 0; i < t->shows_used; i++) {
        fg_show *show = &t->shows[i];
        show->still = true;
        for (uint16_t k = 0; k < show->line_count; k++)
            if (!line_is_still(t, &t->lines[show->first_line + k])) show->still = false;
    }
    uint8_t behind = 0;
    for (uint32_t i = t->ops_used; i-- > 0;) {
        t->ops[i].spared = t->ops[i].kind == FG_OP_SENSOR ? rules_behind(t, i) : behind;
        if (t->ops[i].kind < FG_OP_FIRST_STILL)
            behind = 0;
        else if (behind < UINT8_MAX)
            behind++;
    }
}
