/* SPDX-License-Identifier: MIT */
/* The check: names are resolved, numbers fit their places, ranges their sensors, levels their outputs.
 *
 * It writes no table. What it finds out stays in the tree (`found` of a node, the checked part of a symbol), where
 * lowering reads it. Each function reports what is wrong; where one returns false, something was reported.
 */
#ifndef FICKLEGATE_LANGUAGE_CHECK_CHECK_H
#define FICKLEGATE_LANGUAGE_CHECK_CHECK_H

#include "language/check/quantity.h"
#include "language/tree/parse.h"

/* Checks everything that was read. */
void fg_check(fg_compiler *c);

/* ---- names and order ---- */

/* Gives every name its index, and finds the sensors and flags that rules and sensors name. */
void fg_check_names(fg_compiler *c);
/* Puts every name behind those it looks at: sets `next_in_order`. Reports names that depend on themselves. */
void fg_check_order(fg_compiler *c);

/* ---- sensors ---- */

/* The stages of a sensor, its scale, its limits of trust; unit and step, which all its rules take from it. */
void fg_check_sensor(fg_compiler *c, fg_symbol *sensor);
/* The stages of a flag. */
void fg_check_flag(fg_compiler *c, fg_symbol *flag);
/* A sensor that is worked out: its unit, its step, the numbers in its sum. */
void fg_check_sum(fg_compiler *c, fg_symbol *sensor);
/* Notes the sensors that a sum looks at, for the order. */
void fg_check_sum_uses(fg_compiler *c, fg_symbol *sensor);

/* ---- limits and rules ---- */

/* What a limit, or with `distance` a margin, of this sensor takes. */
fg_number_spec fg_check_limit_of(const fg_symbol *sensor, bool distance);
/* A number as a limit of a sensor, kept in the node. */
bool fg_check_limit(fg_compiler *c, fg_node *number, const fg_symbol *sensor, int64_t *value);
/* FG_COMPARE_... of a comparison. */
uint8_t fg_check_comparison_traits(const fg_node *comparison);
/* A comparison as ranges of readings, `kept` widened by the margin. */
bool fg_check_comparison(fg_compiler *c, fg_node *comparison, const fg_symbol *sensor, int64_t margin,
                         fg_threshold *out);
/* A range widened by the margin, round a circle or up to the ends of 32 bits. False, and nothing is reported: on a
 * circle it meets itself. */
bool fg_check_widen(const fg_symbol *sensor, fg_range range, int64_t margin, fg_range *kept);
/* "20.1 to 24.9 cm", or one reading. */
fg_text fg_check_readings(fg_compiler *c, const fg_symbol *sensor, int64_t low, int64_t high);
/* What rules have in common; the margin is kept in the symbol. */
int64_t fg_check_margin(fg_compiler *c, fg_symbol *rule);
/* How long a rule settles; FG_SETTLE_NONE if it does not. */
fg_settle fg_check_settle(fg_compiler *c, const fg_symbol *rule);
/* A rule on a sensor, of any kind. */
void fg_check_rule(fg_compiler *c, fg_symbol *rule);
/* Bands, as cuts or as ranges. */
void fg_check_bands(fg_compiler *c, fg_symbol *rule);
/* Are the bands rows of ranges, and not a list of cuts? */
bool fg_check_has_ranges(const fg_symbol *rule);

/* ---- conditions and what listens to them ---- */

/* Every number in a condition. False: reported. */
bool fg_check_condition(fg_compiler *c, fg_node *condition);
/* A latch, count or pulse: the rows it needs, and their conditions. */
void fg_check_listener(fg_compiler *c, fg_symbol *symbol);

/* ---- outputs ---- */

/* The attributes of an output, which its rows need. */
void fg_check_output_attributes(fg_compiler *c, fg_symbol *output);
/* The levels and conditions of an output. */
void fg_check_output_rows(fg_compiler *c, fg_symbol *output);
/* The segments of a sequence, and that it takes time. */
void fg_check_sequence(fg_compiler *c, fg_symbol *sequence);
/* A level as this output would be at it. */
bool fg_check_level(fg_compiler *c, fg_node *node, const fg_symbol *output, fg_level *level);
/* What a follow goes from and to; `output`: NULL for a tempo. */
bool fg_check_follow(fg_compiler *c, fg_node *node, const fg_symbol *output, const fg_number_spec *target);

/* ---- trials and scenes ---- */

/* The trials, into the program. */
void fg_check_trials(fg_compiler *c);
/* What may be moved to see whether anybody notices: a number on the number line of a sensor, a time, the labels of
 * `is`; later all that was noted, into the program. */
void fg_check_note_limit(fg_compiler *c, const fg_node *number, uint8_t decimals);
void fg_check_note_time(fg_compiler *c, const fg_node *number, fg_time ms);
void fg_check_note_labels(fg_compiler *c, const fg_node *is);
void fg_check_moves(fg_compiler *c);
/* The promises, into the program. */
void fg_check_promises(fg_compiler *c);
/* The scenes, into the program. */
void fg_check_scenes(fg_compiler *c);

#endif
