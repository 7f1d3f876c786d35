/* SPDX-License-Identifier: MIT */
/* Lowering: what was checked becomes the tables of a gate. It reads the tree and asks no questions: the only thing that
 * can go wrong is that a table becomes too large for 16 bits. */
#ifndef FICKLEGATE_LANGUAGE_LOWER_LOWER_H
#define FICKLEGATE_LANGUAGE_LOWER_LOWER_H

#include "language/lower/tables.h"

/* Everything. Called when the check found no error. */
void fg_lower(fg_compiler *c);

/* The names of the program. Also after errors, as far as they were read. */
void fg_lower_declared(fg_compiler *c);

/* An op with its place in the text. Returns its slot; FG_INDEX_NONE if there is no room. */
uint16_t fg_lower_op(fg_compiler *c, fg_op op, fg_span span);

/* The ops of a condition. Returns the slot of its answer. */
uint16_t fg_lower_condition(fg_compiler *c, const fg_node *node);

/* The conditions that a `previously` looks back at, behind everything else. */
void fg_lower_looked_back(fg_compiler *c);

/* A comparison for a person. */
fg_comparison fg_lower_comparison(const fg_node *comparison);

/* The tables of sensors, with the terms of sums and the windows. */
void fg_lower_sensors(fg_compiler *c);

/* A latch, count or pulse; a sequence; an output. */
void fg_lower_listener(fg_compiler *c, fg_symbol *symbol);
void fg_lower_sequence(fg_compiler *c, const fg_symbol *sequence);
void fg_lower_output(fg_compiler *c, fg_symbol *s);
/* A level with the number of its text, follow or sweep. */
fg_level fg_lower_level(fg_compiler *c, const fg_node *node);

/* The ops of the promises, which are kept where a run is to be held against them. */
void fg_lower_promises(fg_compiler *c);
/* Those of the conditions that are asked for this run. */
void fg_lower_asked(fg_compiler *c);
/* The ops of the expectations: those of all trials are worked out, and of the trial compiled they are kept. */
void fg_lower_trials(fg_compiler *c);

/* Marks what a step can skip while no answer changes. */
void fg_lower_steady(fg_compiler *c);

/* Where the limits and margins of rules are written. */
void fg_lower_written(fg_compiler *c);

#endif
