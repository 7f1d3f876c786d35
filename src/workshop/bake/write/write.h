/* SPDX-License-Identifier: MIT */
/* The writers of straight C: code.c puts the files together, the others write one kind of line each. */
#ifndef FICKLEGATE_WORKSHOP_BAKE_WRITE_WRITE_H
#define FICKLEGATE_WORKSHOP_BAKE_WRITE_WRITE_H

#include "workshop/bake/expression/expression.h"

/* ---- comments ---- */

/* What a declaration says, in one line without comments, at most `most` characters. */
const char *fg_code_quote(coder *c, const fg_declared *declared, size_t most);
/* A comment in front of what it becomes. */
void fg_code_comment(coder *c, int indent, const fg_declared *declared);

/* ---- the parts that are copied in ---- */

/* Makes a symbol of each part. False without memory. */
bool fg_code_part_symbols(coder *c);
/* Adds the parts that are used, and those that they call. False without memory. */
bool fg_code_parts(coder *c, fg_buffer *out);
/* Adds a block, with the gate's name in place of fg_ in the names of parts. */
void fg_code_block_write(const coder *c, const code_block *block, fg_buffer *out);

/* How many bytes of stack a step takes at most on an 8-bit chip, from its code; what stands in the header for that. */
#define CODE_STACK_PLACE "stack_of_a_step"
size_t fg_code_stack(coder *c, fg_buffer *source);
/* Adds code with brackets around operands and braces around branches, as MISRA C:2012 asks in its rules 12.1 and 15.6.
 * `code` gets a NUL at its end. False without memory. */
bool fg_code_brackets(fg_buffer *code, fg_buffer *out);

/* ---- the step, one function a kind of line ---- */

void fg_code_sensor(coder *c, uint16_t number);
/* What a sensor is worked out from: code that sets its value `result`, which is 0 before it, and declares `ok`. */
void fg_code_sum(coder *c, uint16_t number, const char *result, const char *ok);
/* Can it be worked out in 32 bits? If so its range is known, and whether 16 are enough for its value. */
bool fg_code_plan_short_sum(coder *c, uint16_t number);
/* The same as fg_code_sum for such a one. Returns the variable that says whether there is a value: `ok` or another's.
 */
const char *fg_code_short_sum(coder *c, uint16_t number, const char *result, const char *ok);
/* Says of a sum that is worked out in 64 bits which ranges would make 32 of it. */
void fg_code_tell_wide(coder *c, uint16_t number);
/* How many millionths a step of so many decimals is. */
int32_t fg_code_millionths(uint8_t decimals);
/* How large, with either sign, whole steps may be for a length that is rounded at once; 0: there is no such way. */
int32_t fg_code_short_most(uint8_t decimals);
/* The members that a dip, a peak or a rate remembers. `number`: the sensor that is worked out. */
typedef struct code_window {
    const char *values, *times, *ring, *far;
    bool narrow;
} code_window;
code_window fg_code_window(coder *c, uint16_t number, const fg_term *term);
/* A dip or peak, worked out at every step: its variable. */
const char *fg_code_best_in_window(coder *c, uint16_t number, const fg_term *term);
void fg_code_flag(coder *c, uint16_t number);
void fg_code_rule(coder *c, uint16_t slot);
/* An op that hangs on answers or on the clock. */
void fg_code_condition(coder *c, uint16_t slot);
void fg_code_output(coder *c, uint16_t number);
/* Puts the lines of a large step into functions, and calls of them in their place. Sets c->out. */
void fg_code_split(coder *c, code_block *lines);

/* A function for a clamped line; returns a call of it with the present value of its source. */
const char *fg_code_follow(coder *c, uint16_t number, const char *name);
/* Whether the source of a follow is there. */
code_test fg_code_follow_source(coder *c, uint16_t number);

/* ---- the rest of the files ---- */

/* The functions that write the texts of displays; false if there are none. With a report, also those that write the
 * levels of all other outputs. */
bool fg_code_texts(coder *c);
/* The names of the functions that write an output's level, and a line of a display. */
const char *fg_code_put_level(coder *c, uint16_t output);
const char *fg_code_put_line(coder *c, uint16_t output);
/* The function that reports what was read and what the outputs are at. */
void fg_code_report(coder *c);
/* The functions that turn counts into units as they are fed. */
void fg_code_conversions(coder *c);
/* Are a sensor's counts turned so? */
bool fg_code_converts(const coder *c, const code_sensor *sensor);
/* What outlives a loss of power: the calls that save it and take it back. Nothing where the gate has no such thing. */
void fg_code_saved(coder *c);
/* Whether a latch is on, and the assignment that switches it on, by its number among latches. */
const char *fg_code_latch_is_on(coder *c, uint16_t latch);
const char *fg_code_latch_switch_on(coder *c, uint16_t latch);
/* The calls that ask what the last step brought: answers, counts, levels, values. */
void fg_code_asks(coder *c);
/* The header, into c->header; `texts`: there are displays. */
void fg_code_header(coder *c, bool texts);

#endif
