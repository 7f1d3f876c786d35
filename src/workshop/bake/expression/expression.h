/* SPDX-License-Identifier: MIT */
/* Yes-or-no expressions in C, and the answers of a gate's program as such. */
#ifndef FICKLEGATE_WORKSHOP_BAKE_EXPRESSION_EXPRESSION_H
#define FICKLEGATE_WORKSHOP_BAKE_EXPRESSION_EXPRESSION_H

#include "workshop/bake/plan/coder.h"

typedef enum code_operator {
    CODE_EQUAL,
    CODE_UNEQUAL,
    CODE_AT_LEAST,
    CODE_AT_MOST,
    CODE_OVER,
    CODE_UNDER
} code_operator;

/* A variable beside a constant: a number, or a name such as YES (`constant`; then `number` means nothing). */
typedef struct code_comparison {
    const char *variable;
    code_operator operator;
    const char *constant; /* NULL: it is a number */
    int64_t number;
} code_comparison;

/* How a test is made, which says where it needs brackets and how it is turned round. */
typedef enum code_join {
    CODE_WORD,       /* a variable */
    CODE_CALL,       /* anything else that stands by itself */
    CODE_COMPARISON, /* its only comparison */
    CODE_NOT,        /* "!", then `inner` */
    CODE_AND,
    CODE_OR,
    CODE_TRUE,
    CODE_FALSE
} code_join;

/* A yes-or-no expression in C: its text, and what it is made of, so that nothing has to be read from the text again. */
typedef struct code_test {
    code_join join;
    const char *text;
    const char *inner;                  /* of CODE_NOT */
    const code_comparison *comparisons; /* its own, or those that are joined in it */
    size_t count;
} code_test;

/* What holds at every step, and what at none. */
static const code_test code_always = {.join = CODE_TRUE, .text = "true"},
                       code_never = {.join = CODE_FALSE, .text = "false"};

code_test fg_code_atom(const char *variable); /* a variable that is true or false */
code_test fg_code_call(const char *text);     /* a call */
code_test fg_code_both(coder *c, code_test a, code_test b);
code_test fg_code_either(coder *c, code_test a, code_test b);
code_test fg_code_not(coder *c, code_test a);
/* Are they the same, word for word? */
bool fg_code_same(code_test a, code_test b);
/* A variable beside a number. INT32_MIN is written by its name. */
code_test fg_code_compare(coder *c, const char *variable, code_operator operator, int64_t number);
/* A variable beside a name. */
code_test fg_code_is(coder *c, const char *variable, const char *constant);
code_test fg_code_is_not(coder *c, const char *variable, const char *constant);

/* Is a value in a range? `sensor`: whose, for the limits to be carried back; NULL for others. */
code_test fg_code_in(coder *c, const code_sensor *sensor, const char *value, fg_range range);
code_test fg_code_out_of(coder *c, const code_sensor *sensor, const char *value, fg_range range); /* the opposite */

/* Is an answer yes, is it no? */
code_test fg_code_yes(coder *c, uint16_t slot);
code_test fg_code_no(coder *c, uint16_t slot);
/* Is it unsure, where it is known not to be yes? */
code_test fg_code_open(coder *c, uint16_t slot);
/* C for its answer: its variable, or else what that would be set to. */
const char *fg_code_value(coder *c, uint16_t slot);
const char *fg_code_worked_out(coder *c, uint16_t slot);

#endif
