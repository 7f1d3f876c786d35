/* SPDX-License-Identifier: MIT */
/* Outputs: exactly one row wins, so exactly one thing is switched and nothing is left on by accident. */
#include "parts.h"
#include "run.h"

/* Member by member: a struct may have bytes between its members that nobody set. */
bool fg_level_same(const fg_level *a, const fg_level *b)
{
    return a->form == b->form && a->percent == b->percent && a->number == b->number && a->colour == b->colour;
}

/* A pattern says less than a level: no strength and no colour means any. A text is compared as the display would write
 * it now, with its values filled in. */
bool fg_pattern_fits(fg_run *run, uint16_t number, const fg_pattern *pattern)
{
    const fg_level *level = &run->outputs[number].level;
    if (pattern->level.form != level->form) return false;
    if (!FG_WITHOUT_TEXTS && level->form == FG_FORM_SHOW)
        return fg_display_shows(run, &run->gate->outputs[number], (uint16_t)pattern->level.number);
    return pattern->level.number == level->number && (!pattern->percent || pattern->level.percent == level->percent) &&
           (!pattern->colour || pattern->level.colour == level->colour);
}

/* Zero strength is the rest, whoever says it: a `follow` that comes down to 0 % gives `off`, so each level has one
 * form only. */
fg_level fg_level_normal(fg_level level)
{
    switch ((fg_form)level.form) {
    case FG_FORM_ON: return level.percent ? level : fg_level_of(FG_FORM_OFF, 0, 0);
    case FG_FORM_TONE: return level.percent && level.number > 0 ? level : fg_level_of(FG_FORM_QUIET, 0, 0);
    case FG_FORM_FORWARD:
    case FG_FORM_BACK: return level.percent ? level : fg_level_of(FG_FORM_STOP, 0, 0);
    case FG_FORM_FILL:
    case FG_FORM_LIGHT: return level.number > 0 ? level : fg_level_of(FG_FORM_OFF, 0, 0);
    default: return level;
    }
}

/* ---- which row wins ---- */

/* What a row needs besides its condition: the source of what it follows, the tempo of what it plays. */
static bool source_lost(const fg_run *run, const fg_row *row)
{
    if (row->level.form == FG_FORM_FOLLOW) return fg_follow_lost(run, (uint16_t)row->level.number);
    return row->level.form == FG_FORM_PLAY && fg_play_lost(run, (uint16_t)row->level.number);
}

/* Rows are asked from the first on. `unsure` says whether one above was unsure, which is what an `if unsure` row waits
 * for. A row whose source is lost is unsure itself: it may not win, but it counts. */
static bool row_holds(const fg_run *run, const fg_row *row, bool playing_through, bool *unsure)
{
    if (playing_through) return true;
    if (row->when == FG_ROW_WHEN && run->answers[row->slot] == FG_NO) return false;
    if (row->when == FG_ROW_IF_UNSURE && !*unsure) return false;
    fg_verdict answer = row->when == FG_ROW_WHEN ? run->answers[row->slot] : (fg_verdict)FG_YES;
    if (answer != FG_NO && source_lost(run, row)) answer = FG_UNSURE;
    if (answer == FG_UNSURE) *unsure = true;
    return answer == FG_YES;
}

/* The winner, or FG_INDEX_NONE at rest. What moves or carries power is never switched on past a reading that is not
 * there. */
static uint16_t judge(const fg_run *run, const fg_output *output, fg_output_state *state, uint16_t through)
{
    bool unsure = false;
    uint16_t i = 0;
    const fg_row *rows = fg_output_rows(run->gate, output);
    while (i < output->row_count && !row_holds(run, &rows[i], i == through, &unsure)) i++;
    const bool none = i == output->row_count;
    state->unsure = unsure && output->guarded && (none || rows[i].when != FG_ROW_IF_UNSURE);
    return none || state->unsure ? (uint16_t)FG_INDEX_NONE : i;
}

/* ---- what level it brings ---- */

/* The bounds of a follow were checked against the output, so what comes out fits its level. */
static fg_level follow_level(const fg_run *run, const fg_output *output, const fg_row *row)
{
    const int32_t value = fg_follow_value(run, (uint16_t)row->level.number);
    switch ((fg_output_kind)output->kind) {
    case FG_OUTPUT_LAMP: return fg_level_of(FG_FORM_ON, (uint8_t)value, 0);
    case FG_OUTPUT_BUZZER: return fg_level_of(FG_FORM_TONE, 100, value);
    case FG_OUTPUT_MOTOR:
        return fg_level_of((uint8_t)(value < 0 ? FG_FORM_BACK : FG_FORM_FORWARD), (uint8_t)(value < 0 ? -value : value),
                           0);
    case FG_OUTPUT_BAR: return fg_level_of((uint8_t)(output->single ? FG_FORM_LIGHT : FG_FORM_FILL), 0, value);
    default: return fg_level_of(FG_FORM_TURN, 0, value);
    }
}

/* Such a row has a place of its own in run.plays. */
static bool plays(const fg_row *row) { return row->level.form == FG_FORM_PLAY || row->level.form == FG_FORM_SWEEP; }

/* The level of the winner. False: it played through and is over, so the rows are judged again. */
static bool bring(fg_run *run, const fg_output *output, fg_output_state *state, uint16_t winner, bool took_over)
{
    const fg_row *row = &run->gate->rows[output->first_row + winner];
    if (row->level.form == FG_FORM_HOLD || (row->level.form < FG_FORM_HOLD && !took_over)) return true;
    if (row->level.form == FG_FORM_FOLLOW) {
        state->level = fg_level_normal(follow_level(run, output, row));
    } else if (plays(row)) {
        fg_play_state *play = &run->plays[row->play];
        if (took_over) {
            fg_play_take_over(run, row, play);
            state->through = row->through;
        }
        state->level = fg_play_level(run, row, play);
        if (!play->over) return true;
        state->level = output->rest;
        if (!state->through) return true;
        state->through = false;
        return false;
    } else {
        state->level = row->level;
    }
    return true;
}

/* May what this row brings be another level at the next step, although no answer changes until then? */
static bool lives(const fg_run *run, const fg_level *level)
{
    const fg_gate *gate = run->gate;
    switch ((fg_form)level->form) {
    case FG_FORM_SHOW: return !gate->shows[level->number].answers_only;
    case FG_FORM_FOLLOW: return !gate->follows[level->number].count;
    default: return level->form > FG_FORM_HOLD;
    }
}

/* The order is the contract. First the time up to this step goes to the row that had the output, then rows are judged,
 * then the winner brings its level. A sequence that played `through` and ended here lets the rows be judged once more,
 * on the level of the last step, as if it had not been there. */
void fg_output_step(fg_run *run, uint16_t number)
{
    const fg_output *output = &run->gate->outputs[number];
    fg_output_state *state = &run->outputs[number];
    const uint16_t previous = state->row;
    const fg_row *rows = fg_output_rows(run->gate, output);

    if (state->changed) state->before = state->level;
    if (previous != FG_INDEX_NONE && plays(&rows[previous])) /* the time up to this step counts, whoever wins now */
        fg_play_pass(run, &rows[previous], run->now - state->at);
    state->at = run->now;
    /* A row that plays on to its end ends early where its tempo is lost. */
    if (state->through && source_lost(run, &rows[previous])) state->through = false; /* broken off: judged as ever */

    uint16_t winner = judge(run, output, state, state->through ? previous : (uint16_t)FG_INDEX_NONE);
    if (winner != previous) state->through = false;
    if (winner != FG_INDEX_NONE && !bring(run, output, state, winner, winner != previous)) {
        winner = judge(run, output, state, FG_INDEX_NONE);
        if (winner != FG_INDEX_NONE && winner != previous) {
            state->level = state->before; /* for a row that holds */
            (void)bring(run, output, state, winner, true);
        }
    }
    if (winner == FG_INDEX_NONE && (winner != previous || !state->stepped)) state->level = output->rest;
    state->row = winner;
    const bool shown =
        !FG_WITHOUT_TEXTS && output->kind == FG_OUTPUT_DISPLAY && fg_display_write(run, output, &state->level);
    const bool same = output->kind == FG_OUTPUT_DISPLAY && !FG_WITHOUT_TEXTS
                          ? state->before.form == state->level.form
                          : fg_level_same(&state->before, &state->level);
    state->changed = !state->stepped || shown || !same; /* a display shows texts, whichever row brings them */
    state->stepped = true;
    if (state->changed) run->stirred = true;
    state->lives = lives(run, winner == FG_INDEX_NONE ? &output->rest : &rows[winner].level);
}

/* Only for steps in which no answer changed: then the same row wins as before, and of the rows only one that follows a
 * sensor, or moves, can bring something new. */
void fg_output_rest(fg_run *run, uint16_t number)
{
    fg_output_state *state = &run->outputs[number];
    const fg_output *output = &run->gate->outputs[number];
    const fg_row *row = state->lives ? &run->gate->rows[output->first_row + state->row] : NULL;
    if (row && row->level.form != FG_FORM_FOLLOW) {
        fg_output_step(run, number);
        return;
    }
    if (state->changed) state->before = state->level;
    state->changed = false;
    if (!row) return;
    state->level = fg_level_normal(follow_level(run, output, row));
    state->changed = !fg_level_same(&state->before, &state->level);
    if (state->changed) run->stirred = true;
}
