/** @file
 * The longer text behind each kind of finding, with a wrong and a right example.
 *
 *     void explain(fg_finding_code code) { puts(fg_finding_text(code)->why); }
 */
#ifndef FICKLEGATE_FINDINGS_H
#define FICKLEGATE_FINDINGS_H

#include <ficklegate/language.h>
#include <stdio.h>

FG_PUBLIC_BEGIN

/** The longer text behind a kind of finding, and a gate with and without it. */
typedef struct fg_code_text {
    const char *why, *wrong, *right;
} fg_code_text;

/** NULL for a code that does not exist. */
const fg_code_text *fg_finding_text(fg_finding_code code);

FG_PUBLIC_END
#endif
