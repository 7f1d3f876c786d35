/* SPDX-License-Identifier: MIT */
/* fickle promise: what its files share. */
#ifndef FICKLEGATE_TOOL_PROMISE_H
#define FICKLEGATE_TOOL_PROMISE_H

#include "tool.h"

#include <ficklegate/promise.h>

/* One row of a promise and what came of it. */
typedef struct promise_answer {
    uint32_t promise, row, line; /* by their numbers */
    fg_text name;                /* of the promise */
    fg_text written;             /* the row */
    fg_status status;
    fg_promise_result result;
    fg_mistake mistake;
} promise_answer;

/* A form that programs read: what stands before all answers, each of them, number `number` from 1 on, and behind. */
void promise_form_begin(FILE *out, tool_form form, uint32_t answers);
/* False: no memory. */
bool promise_form_answer(FILE *out, tool_form form, const promise_answer *answer, uint32_t number);
void promise_form_end(FILE *out, tool_form form);

#endif
