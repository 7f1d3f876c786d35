/* SPDX-License-Identifier: MIT */
/* fickle pretend --to: what its files share. */
#ifndef FICKLEGATE_TOOL_PRETEND_H
#define FICKLEGATE_TOOL_PRETEND_H

#include "tool.h"

#include <ficklegate/broker.h>
#include <ficklegate/live.h>
#include <ficklegate/stand_in.h>

/* How a board prints its lines, and the words for it. */
#define PRETEND_LINES(X)                                                                                               \
    X(LINES_NAMED, "named")     /* depth=12.5 wind=3 */                                                                \
    X(LINES_UNITS, "units")     /* depth: 12.5 cm wind: 3 m/s */                                                       \
    X(LINES_CSV, "csv")         /* a heading, then cells */                                                            \
    X(LINES_NUMBERS, "numbers") /* cells without a heading */                                                          \
    X(LINES_JSON, "json")       /* an object a line */

typedef enum pretend_lines {
#define PRETEND_LINES_CODE(code, word) code,
    PRETEND_LINES(PRETEND_LINES_CODE)
#undef PRETEND_LINES_CODE
        PRETEND_LINES_COUNT
} pretend_lines;

/* What may go wrong on a line, a sum of 1 << ... */
#define PRETEND_FAULTS(X)                                                                                              \
    X(FAULT_GARBAGE, "garbage") /* bytes that are no text */                                                           \
    X(FAULT_TORN, "torn")       /* half a line */                                                                      \
    X(FAULT_RESTART, "restart") /* the board begins anew, its heading and its clock too */                             \
    X(FAULT_PULLED, "pulled")   /* the cable is out for two seconds */

typedef enum pretend_fault {
#define PRETEND_FAULT_CODE(code, word) code,
    PRETEND_FAULTS(PRETEND_FAULT_CODE)
#undef PRETEND_FAULT_CODE
        PRETEND_FAULT_COUNT
} pretend_fault;

typedef struct pretend_options {
    tool_options common;
    const char *login, *ca;
    const char *to; /* NULL: the recording, printed at once */
    pretend_lines lines;
    unsigned faults;
    bool board;    /* what the outputs do too */
    bool no_times; /* the lines have none */
    double speed;
    tool_reach_options reach;
    fg_text condition; /* of --reach */
} pretend_options;

/* Plays a scene as a board would send it, in real time. The exit status. */
int pretend_board(const pretend_options *options, const fg_gate_file *file, const fg_scene *scene);

#endif
