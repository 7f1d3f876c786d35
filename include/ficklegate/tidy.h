/* SPDX-License-Identifier: MIT */
/** @file
 * Tidying: one layout for gate files.
 *
 *     bool is_tidy(fg_text gate, fg_mistake *mistake)
 *     {
 *         fg_text tidied;
 *         const bool good = fg_tidy("harbour.gate", gate, &tidied, mistake) == FG_OK;
 *         const bool same = good && fg_text_same(gate, tidied);
 *         fg_text_free(tidied);
 *         return same;
 *     }
 */
#ifndef FICKLEGATE_TIDY_H
#define FICKLEGATE_TIDY_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

/** How long a line with a block on it may be, in characters; a longer one is spread over several. */
#define FG_TIDY_WIDTH 120

/** Lays out the text of a gate file and changes nothing else:
 * - a statement begins its line, a row of a block that is spread over lines stands four blanks in, each on its own
 * line;
 * - a block on one line stays there while it fits; one that is spread stays spread;
 * - of declarations that follow each other, each on one line, names and what follows them stand below each other, and
 *   so do comments behind lines that follow each other;
 * - one blank between words, around `=` and `|`, behind a comma, inside the braces of a block, and two in front of a
 *   comment; no `;` at the end of a line;
 * - blank lines and comments stay where they are, but for blank lines at the beginning and the end.
 * Tidying what was tidied changes nothing. `path`: for the mistake.
 * FG_ERROR_GATE: a brace or a text is not closed, or a brace closes nothing; `mistake` says on which line.
 * FG_ERROR_MEMORY. Give the text back with fg_text_free whatever came out. */
FG_MUST_CHECK fg_status fg_tidy(const char *path, fg_text text, fg_text *tidied, fg_mistake *mistake);

FG_PUBLIC_END
#endif
