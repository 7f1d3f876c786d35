/* SPDX-License-Identifier: MIT */
/** @file
 * Values, times and the three answers.
 *
 * A value is a whole number of a sensor's steps (1, 0.1, ... 0.000001 of its unit), never a float, so that a small
 * board and a large computer come to the same answer to the last bit.
 *
 *     void show(const char *line, size_t size)
 *     {
 *         fg_value depth;
 *         char text[FG_VALUE_TEXT_SIZE];
 *         if (fg_value_read(line, size, 1, &depth) != FG_OK) return; // "12.5" is 125 steps of 0.1
 *         fg_value_write(depth + 1, 1, text);
 *         printf("one step more: %s cm\n", text);
 *     }
 */
#ifndef FICKLEGATE_VALUE_H
#define FICKLEGATE_VALUE_H

#include <limits.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* Around what a public header declares: C linkage for C++, and the only names that a shared library exports. */
#ifdef __cplusplus
#define FG_C_LINKAGE_BEGIN extern "C" {
#define FG_C_LINKAGE_END   }
#else
#define FG_C_LINKAGE_BEGIN
#define FG_C_LINKAGE_END
#endif
#if defined(__ELF__) && !defined(__AVR__)
#define FG_PUBLIC_BEGIN FG_C_LINKAGE_BEGIN _Pragma("GCC visibility push(default)")
#define FG_PUBLIC_END   _Pragma("GCC visibility pop") FG_C_LINKAGE_END
#else
#define FG_PUBLIC_BEGIN FG_C_LINKAGE_BEGIN
#define FG_PUBLIC_END   FG_C_LINKAGE_END
#endif

FG_PUBLIC_BEGIN

#if defined(__GNUC__)
#define FG_MUST_CHECK __attribute__((warn_unused_result))
#else
#define FG_MUST_CHECK
#endif

/** A reading or a limit, in whole steps of its sensor: -2147483648 to 2147483647. */
typedef int32_t fg_value;

/** Milliseconds of an unsigned 32-bit clock that may wrap: only differences are used, and 2^31 or more is backwards. */
typedef uint32_t fg_time;

/** The longest time of the language: 24 days, in ms. */
#define FG_TIME_MOST INT32_C(2073600000)

/** What a rule answers. A threshold, hysteresis or condition: FG_UNSURE, FG_NO or FG_YES. Bands: FG_UNSURE, FG_NONE, or
 * FG_LABEL(i) for their label number i. Zeroed memory is unsure, so a state set to {0} has heard nothing yet. */
typedef uint8_t fg_verdict;

enum { FG_UNSURE = 0, FG_NO = 1, FG_YES = 2, FG_NONE = 255 };

/** Nothing where a constant condition holds, else it does not compile: for limits that are the wrong way round. */
#define FG_MUST(condition) (0 * (int)sizeof(char[(condition) ? 1 : -1]))

enum { FG_LABELS_MOST = 250, FG_DECIMALS_MOST = 6 };

/** The answer of bands for label number `i`, a constant from 0 to FG_LABELS_MOST - 1. */
#define FG_LABEL(i) ((fg_verdict)((i) + 1 + FG_MUST((i) >= 0 && (i) < FG_LABELS_MOST)))

/** The same of a number that is no constant. */
static inline fg_verdict fg_label(uint32_t i) { return (fg_verdict)(i + 1); }

/** No entry of a table, no slot, no row: what a 16-bit index is where there is nothing. */
#define FG_INDEX_NONE UINT16_MAX

/** What a call can come back with: its code and what a person may be told. */
#define FG_STATUSES(X)                                                                                                 \
    X(FG_OK, "all is well")                                                                                            \
    X(FG_ERROR_MEMORY, "the memory lent is too small")                                                                 \
    X(FG_ERROR_TEXT, "this is not a decimal number")                                                                   \
    X(FG_ERROR_RANGE, "the number does not fit into 32 bits of steps")                                                 \
    X(FG_ERROR_ARGUMENT, "an argument is out of its range")                                                            \
    X(FG_ERROR_GATE, "the gate has mistakes")                                                                          \
    X(FG_ERROR_FILE, "a file cannot be read or written")                                                               \
    X(FG_ERROR_RECORDING, "the recording has a mistake")

typedef enum fg_status {
#define FG_STATUS_CODE(code, text) code,
    FG_STATUSES(FG_STATUS_CODE)
#undef FG_STATUS_CODE
} fg_status;

/** The text of a status, for a person. `status`: any value; an unknown one gives a text too. Never NULL. */
const char *fg_status_text(fg_status status);

/** Reads a decimal ("12", "-0.5", "+5", ".5", "5.", "1e3", blanks around it cut) as whole steps.
 * `text`, `size`: the characters, need not end in NUL. `decimals`: 0 to 6, the step is 10 to the minus `decimals`; what
 * is finer is rounded to nearest, halves away from zero. `value`: where it goes, untouched on error. FG_ERROR_TEXT: not
 * a number. FG_ERROR_RANGE: beyond 32 bits of steps. FG_ERROR_ARGUMENT: `decimals` over 6. No state, safe in
 * interrupts. */
FG_MUST_CHECK fg_status fg_value_read(const char *text, size_t size, uint8_t decimals, fg_value *value);

enum { FG_VALUE_TEXT_SIZE = 16 };

/** Writes a value as a decimal with exactly `decimals` digits (0 to 6) behind the point: 125 with 1 is "12.5".
 * `text`: at least FG_VALUE_TEXT_SIZE characters, ends in NUL. Returns the length without the NUL. */
size_t fg_value_write(fg_value value, uint8_t decimals, char *text);

/** The three-way and, or, not: an `and` is no as soon as one side is no, an `or` yes as soon as one side is yes, and
 * what is left open by an unsure side is unsure. Arguments: FG_UNSURE, FG_NO or FG_YES. */
static inline fg_verdict fg_and(fg_verdict a, fg_verdict b)
{
    return ((a | b) & FG_NO) ? (fg_verdict)FG_NO : (fg_verdict)(a & b);
}

/** See fg_and. */
static inline fg_verdict fg_or(fg_verdict a, fg_verdict b)
{
    return ((a | b) & FG_YES) ? (fg_verdict)FG_YES : (fg_verdict)(a & b);
}

/** See fg_and. */
static inline fg_verdict fg_not(fg_verdict a) { return (fg_verdict)((a >> 1) | ((a & 1) << 1)); }

/** FG_YES for true, FG_NO for false. */
static inline fg_verdict fg_sure(bool yes) { return yes ? FG_YES : FG_NO; }

FG_PUBLIC_END
#endif
