/* SPDX-License-Identifier: MIT */
/* The state of one run: one block of the caller's memory, this head first, then a table for each kind of state. */
#ifndef FICKLEGATE_CORE_RUN_H
#define FICKLEGATE_CORE_RUN_H

#include <ficklegate/gate.h>

/* A level without a colour. */
static inline fg_level fg_level_of(uint8_t form, uint8_t percent, int32_t number)
{
    const fg_level level = {form, percent, number, 0};
    return level;
}

/* Do the terms of a sensor leave one value on the stack and never more than it holds? */
bool fg_expression_fits(const fg_gate *gate, const fg_sensor *sensor);

/* The value of a sensor that is worked out, in its steps. False: faulty. */
bool fg_expression_value(fg_run *run, const fg_sensor *sensor, fg_value *value);

/* Works out the rows of an output and sets its level. */
void fg_output_step(fg_run *run, uint16_t number);

/* The same where no answer has changed: only what moves by itself, and what shows values, is worked out. */
void fg_output_rest(fg_run *run, uint16_t number);

/* Is the source of a follow faulty? */
bool fg_follow_lost(const fg_run *run, uint16_t number);

/* Where a follow stands now; while its source is faulty, at its last good reading. */
int32_t fg_follow_value(const fg_run *run, uint16_t number);

/* Advances a row that plays and says its level; `over` when the sequence has ended. */
fg_level fg_play_level(fg_run *run, const fg_row *row, fg_play_state *play);
/* Adds time to a row that plays or sweeps. */
void fg_play_pass(const fg_run *run, const fg_row *row, fg_time time);
/* Begins a row that took over: anew, or where it stood. */
void fg_play_take_over(fg_run *run, const fg_row *row, fg_play_state *play);
/* Is the source of a tempo of this sequence faulty? */
bool fg_play_lost(const fg_run *run, uint16_t sequence);

/* Writes the texts of a display for a level; true if they are others than before. */
bool fg_display_write(fg_run *run, const fg_output *output, const fg_level *level);
/* Does a display show just this? */
bool fg_display_shows(fg_run *run, const fg_output *output, uint16_t show);

/* Is an output at a level of this pattern? */
bool fg_pattern_fits(fg_run *run, uint16_t output, const fg_pattern *pattern);

#endif
