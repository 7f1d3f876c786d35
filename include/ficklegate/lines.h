/* SPDX-License-Identifier: MIT */
/** @file
 * Lines as boards print them: `depth=123`, `depth: 12.5 cm wind: 3`, or numbers alone. For hosted machines and boards
 * alike: it uses no heap and no files.
 *
 *     fg_value depth_of(fg_text text)
 *     {
 *         fg_line line;
 *         fg_value depth = 0;
 *         fg_line_read(text, &line);
 *         for (size_t i = 0; i < line.count; i++)
 *             if (fg_text_is(line.readings[i].name, "depth"))
 *                 (void)fg_value_read(line.readings[i].value.at, line.readings[i].value.size, 1, &depth);
 *         return depth;
 *     }
 */
#ifndef FICKLEGATE_LINES_H
#define FICKLEGATE_LINES_H

#include <ficklegate/text.h>
#include <ficklegate/value.h>

FG_PUBLIC_BEGIN

/** What a line is. */
typedef enum fg_line_kind {
    FG_LINE_EMPTY, /**< nothing but blanks, or a comment that begins with # */
    FG_LINE_NAMED, /**< NAME=VALUE or NAME: VALUE, perhaps with units, divided by blanks, commas, tabs or semicolons */
    FG_LINE_NUMBERS, /**< numbers alone, divided in the same way */
    FG_LINE_OTHER    /**< a greeting, half a line, whatever else */
} fg_line_kind;

typedef struct fg_line_reading {
    fg_text name;  /**< empty where numbers stand alone */
    fg_text value; /**< as it is written: a number, or a word such as yes or nan */
    fg_text unit;  /**< behind a number; empty if there is none */
} fg_line_reading;

enum { FG_LINE_READINGS_MOST = 64 };

typedef struct fg_line {
    fg_line_kind kind;
    fg_text clock; /**< a time of the day in front of it, as in 12:00:01.250; empty if there is none */
    fg_line_reading readings[FG_LINE_READINGS_MOST];
    size_t count;
} fg_line;

/** Takes a line apart; its texts point into `text`. A line with more than FG_LINE_READINGS_MOST readings, or with
 * anything in it that is no reading, is FG_LINE_OTHER and has none. */
void fg_line_read(fg_text text, fg_line *line);

FG_PUBLIC_END
#endif
