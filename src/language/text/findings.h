/* SPDX-License-Identifier: MIT */
/* Findings: what is wrong or odd, where, and what to write instead. */
#ifndef FICKLEGATE_LANGUAGE_TEXT_FINDINGS_H
#define FICKLEGATE_LANGUAGE_TEXT_FINDINGS_H

#include "language/compiler.h"

/* Reports a finding. In `what` and `instead` each {} stands for the next of the texts. Ends with a text of NULL. */
void fg_report(fg_compiler *c, fg_finding_code code, fg_span span, const char *what, const char *instead, ...);
/* Adds a certain mend to what was reported last: `span` gives way to `text`. */
void fg_report_fix(fg_compiler *c, fg_span span, fg_text text);
/* Steps of 10^-decimals as a person writes them. */
fg_text fg_text_of_value(fg_compiler *c, int64_t value, uint8_t decimals);
/* The same with its unit. */
fg_text fg_text_of_value_unit(fg_compiler *c, int64_t value, uint8_t decimals, fg_text unit);
/* Two texts as one, with something between. */
fg_text fg_text_join(fg_compiler *c, fg_text a, const char *between, fg_text b);
/* Puts the findings in the order of the text, into the program. */
void fg_report_finish(fg_compiler *c);
/* What a span covers, cut to a length fit for a message. */
fg_text fg_span_text(const fg_compiler *c, fg_span span);

#endif
