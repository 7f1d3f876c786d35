/* Outputs: exactly one row wins, so exactly one thing is switched and nothing is left on by accident. */
#include "run.h"

bool fg_level_same(const fg_level *a, const fg_level *b)
{
    return a->form == b->form && a->percent == b->percent && a->number == b->number && a->colour == b->colour;
}

bool fg_pattern_fits(const fg_pattern *pattern, const fg_level *level)
{
    return pattern->level.form == level->form && pattern->level.number == level->number &&
           (!pattern->percent || pattern->level.percent == level->percent) &&
           (!pattern->colour || pattern->level.colour == level->colour);
}

static bool row_holds(const fg_row *row, const fg_verdict *answers, bool *unsure)
{
    if (row->when == FG_ALWAYS) return true;
    if (row->when == FG_IF_UNSURE) return *unsure;
    if (answers[row->slot] == FG_UNSURE) *unsure = true;
    return answers[row->slot] == FG_YES;
}

static uint16_t winning_row(const fg_output *output, const fg_row *rows, const fg_verdict *answers, bool *unsure)
{
    uint16_t row = 0;
    while (row < output->row_count && !row_holds(&rows[row], answers, unsure)) row++;
    return row < output->row_count ? row : FG_ROW_NONE;
}

void fg_output_step(const fg_output *output, const fg_row *rows, const fg_verdict *answers, fg_output_state *state)
{
    bool unsure = false;
    state->before = state->level;
    rows += output->first_row;
    state->row = winning_row(output, rows, answers, &unsure);

    /* What moves or carries power is never switched on past a reading that is not there. */
    state->unsure = unsure && output->guarded && (state->row == FG_ROW_NONE || rows[state->row].when != FG_IF_UNSURE);
    if (state->unsure) state->row = FG_ROW_NONE;
    if (state->row == FG_ROW_NONE)
        state->level = output->rest;
    else if (rows[state->row].level.form != FG_FORM_HOLD)
        state->level = rows[state->row].level;
    state->changed = !state->stepped || !fg_level_same(&state->before, &state->level);
    state->stepped = true;
}
