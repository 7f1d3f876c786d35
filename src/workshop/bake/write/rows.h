/* SPDX-License-Identifier: MIT */
/* The rows of an output, while their code is written. */
#ifndef FICKLEGATE_WORKSHOP_BAKE_WRITE_ROWS_H
#define FICKLEGATE_WORKSHOP_BAKE_WRITE_ROWS_H

#include "workshop/bake/write/write.h"

enum { CODE_REST = 65535 };

typedef struct code_rows code_rows;

/* The rows of one output while its code is written. */
struct code_rows {
    coder *c;
    const fg_output *rule;
    uint16_t number;
    const char *row;     /* the variable that says which row wins, from 1; NULL where nobody asks */
    const char *through; /* the one that plays on to its end, or 0 */
    const struct code_playing *plays;
    size_t play_count;
    const char **follows; /* for each row the call that gives its level, once it is written */

    /* Writes what a row plays where it wins in the chain; NULL: the chain only says which row won. */
    void (*play)(const code_rows *rows, uint16_t row, int indent);
};

/* The chain of rows: sets what a plain row brings, and `row`. */
void fg_code_rows(const code_rows *r, int indent);
/* Is there an `if unsure` row from this one on? */
bool fg_code_has_unsure_row(const code_rows *r, uint16_t from);
/* The statements that bring an output to a level. */
void fg_code_set_level(coder *c, int indent, uint16_t output, const fg_level *level);

/* An output with rows that play or sweep. */
void fg_code_plays(code_rows *r);

#endif
