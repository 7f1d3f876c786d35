/* SPDX-License-Identifier: MIT */
/* What running one trial and running all of them share. */
#ifndef FICKLEGATE_WORKSHOP_TRIAL_H
#define FICKLEGATE_WORKSHOP_TRIAL_H

#include "workshop/base/buffer.h"

#include <ficklegate/trials.h>

/* An expectation as it is written, in one line and without the word expect. */
void fg_expect_text(const fg_program *program, const fg_expect *expect, fg_buffer *out);

#endif
