/* SPDX-License-Identifier: MIT */
/* An output: its rows, and what they play. */
#include "workshop/bake/write/rows.h"

void fg_code_output(coder *c, uint16_t number)
{
    const fg_output *rule = &c->gate->outputs[number];
    const char *follows[CODE_ROWS_MOST] = {NULL};
    code_rows r = {.c = c, .rule = rule, .number = number, .follows = follows};
    bool plays = false;
    for (uint16_t i = 0; i < rule->row_count; i++) {
        const uint8_t form = c->gate->rows[rule->first_row + i].level.form;
        plays = plays || form == FG_FORM_PLAY || form == FG_FORM_SWEEP;
    }
    if (plays)
        fg_code_plays(&r);
    else
        fg_code_rows(&r, 1);
}
