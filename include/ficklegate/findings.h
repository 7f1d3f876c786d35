/* SPDX-License-Identifier: MIT */
/** @file
 * The longer text behind each kind of finding, with a wrong and a right example; and the mends that are certain.
 *
 *     void explain(fg_finding_code code) { puts(fg_finding_text(code)->why); }
 */
#ifndef FICKLEGATE_FINDINGS_H
#define FICKLEGATE_FINDINGS_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

/** The longer text behind a kind of finding, and a gate with and without it. */
typedef struct fg_code_text {
    const char *why, *wrong, *right;
} fg_code_text;

/** NULL for a code that does not exist. */
const fg_code_text *fg_finding_text(fg_finding_code code);

/** A gate's text with every mend made that is certain (fg_finding.fix), again and again until there is none; `count`:
 * how many. What it includes is read beside `path` and stays as it is. Give `fixed` back with fg_text_free.
 * FG_ERROR_FILE, FG_ERROR_MEMORY: `mistake` says why, and `fixed` is empty. */
FG_MUST_CHECK fg_status fg_gate_fixed(const char *path, fg_text text, fg_settings settings, fg_text *fixed,
                                      uint32_t *count, fg_mistake *mistake);

FG_PUBLIC_END
#endif
