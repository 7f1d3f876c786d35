/* SPDX-License-Identifier: MIT */
/** @file
 * Rules as pictures made of characters, and how long each takes to believe a change.
 *
 *     void show(const fg_program *program, const fg_declared *rule)
 *     {
 *         fg_text text;
 *         if (fg_number_line(program, rule, 80, &text) != FG_OK) return;
 *         fg_text_show(stdout, text);
 *         fg_text_free(text);
 *     }
 */
#ifndef FICKLEGATE_NUMBER_LINES_H
#define FICKLEGATE_NUMBER_LINES_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

/** A number line of a threshold, hysteresis or bands: who has which readings, to scale, `width` columns wide (40 to
 * 200), with the exact readings below. Give the text back with
 * fg_text_free. FG_ERROR_MEMORY. */
FG_MUST_CHECK fg_status fg_number_line(const fg_program *program, const fg_declared *rule, int width, fg_text *text);

/** How many steps of its sensor each band has: one number for each label, 0 for one that goes on without an end or has
 * none. `bands`: also those with ranges. FG_ERROR_MEMORY. */
FG_MUST_CHECK fg_status fg_band_widths(const fg_program *program, const fg_declared *bands, int64_t *widths);

/** How long it takes until each rule believes a clear change: pace, smoothing, settling. A line for each rule that
 * waits, and nothing if none does. Give the text back with
 * fg_text_free. FG_ERROR_MEMORY. */
FG_MUST_CHECK fg_status fg_delays(const fg_program *program, fg_text *text);

FG_PUBLIC_END
#endif
