/* Yes-or-no expressions in C, and the answers of a gate's program as such. */
#ifndef FICKLEGATE_WORKSHOP_BAKE_EXPRESSION_EXPRESSION_H
#define FICKLEGATE_WORKSHOP_BAKE_EXPRESSION_EXPRESSION_H

#include "workshop/bake/plan/coder.h"

/* Yes or no in C: a text, and how it is joined to others. */
typedef enum code_join { CODE_ATOM, CODE_AND, CODE_OR, CODE_TRUE, CODE_FALSE } code_join;

typedef struct code_test {
    code_join join;
    const char *text;
} code_test;

/* What holds at every step, and what at none. */
static const code_test code_always = {CODE_TRUE, "true"}, code_never = {CODE_FALSE, "false"};

code_test fg_code_atom(const char *text);
code_test fg_code_both(coder *c, code_test a, code_test b);
code_test fg_code_either(coder *c, code_test a, code_test b);
code_test fg_code_not(coder *c, code_test a);
code_test fg_code_is(coder *c, const char *variable, const char *constant);
code_test fg_code_is_not(coder *c, const char *variable, const char *constant);
/* Is a value in a range? `sensor`: whose, for the limits to be carried back; NULL for others. */
code_test fg_code_in(coder *c, const code_sensor *sensor, const char *value, fg_range range);
code_test fg_code_out_of(coder *c, const code_sensor *sensor, const char *value, fg_range range); /* the opposite */

/* Is the answer of a line yes, is it no? */
code_test fg_code_yes(coder *c, uint16_t slot);
code_test fg_code_no(coder *c, uint16_t slot);
/* Is it unsure, where it is known not to be yes? */
code_test fg_code_open(coder *c, uint16_t slot);
/* C for its answer: its variable, or else what that would be set to. */
const char *fg_code_value(coder *c, uint16_t slot);
const char *fg_code_worked_out(coder *c, uint16_t slot);

#endif
