/* SPDX-License-Identifier: MIT */
/* What running one trial and running all of them share. */
#ifndef FICKLEGATE_WORKSHOP_TRIAL_H
#define FICKLEGATE_WORKSHOP_TRIAL_H

#include "workshop/base/buffer.h"

#include <ficklegate/trials.h>

/* The line on which an expectation stands in its file. */
uint32_t fg_expect_line(const fg_program *program, const fg_expect *expect);

/* An expectation as it is written, in one line and without the word expect. */
void fg_expect_text(const fg_program *program, const fg_expect *expect, fg_buffer *out);

#endif
