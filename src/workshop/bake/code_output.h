/* Outputs as straight C: what rows and sequences share. */
#ifndef FICKLEGATE_WORKSHOP_CODE_OUTPUT_H
#define FICKLEGATE_WORKSHOP_CODE_OUTPUT_H

#include "coder.h"

enum {
    CODE_ROWS_MOST = 250,
    CODE_PLAYS_MOST = 250,
    CODE_TEXTS_MOST = 1000,
    CODE_OUTPUTS_MOST = 1000,
    CODE_REST = 65535
};

/* The rows of one output while its code is written. */
typedef struct code_rows {
    coder *c;
    const fg_output *rule;
    uint16_t number;
    const char *row;     /* the variable that says which row wins, from 1; NULL where nobody asks */
    const char *through; /* the one that plays on to its end, or 0 */
    bool inline_plays;   /* what plays is written where its row wins */
    const struct code_playing *plays;
    size_t play_count;
    const char **follows; /* for each row the call that gives its level, once it is written */
} code_rows;

/* Is there an `if unsure` row from this one on? */
bool fg_code_has_unsure_row(const code_rows *r, uint16_t from);
/* The greatest number that both are a multiple of. */
int64_t fg_code_common(int64_t a, int64_t b);
/* Of a row that plays the same again and again: how long it takes, in ms; else 0. */
uint32_t fg_code_loop(const coder *c, const fg_level *level);
/* A row that plays wins: its code where that stands in the chain. */
void fg_code_play_row(const code_rows *r, uint16_t row, int indent);

/* The number that a level is on its output: %, Hz, degrees, lights, of a display the number of its text. */
int32_t fg_code_level_number(const coder *c, uint16_t output, const fg_level *level);
void fg_code_set_level(coder *c, int indent, uint16_t output, const fg_level *level);

/* How many texts a display may have at the most. */
uint32_t fg_code_text_count(const fg_gate *gate, uint16_t output);
/* The number of a text on a display, from 1. */
int32_t fg_code_text_number(const coder *c, uint16_t output, uint32_t show);

/* The chain of rows: sets what a plain row brings, and `row`. */
void fg_code_rows(const code_rows *r, int indent);

/* An output with rows that play or sweep. */
void fg_code_play(code_rows *r);

#endif
