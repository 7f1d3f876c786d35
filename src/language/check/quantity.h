/* SPDX-License-Identifier: MIT */
/* Numbers: exact fractions with a unit, and whole steps of the place they stand in. */
#ifndef FICKLEGATE_LANGUAGE_CHECK_QUANTITY_H
#define FICKLEGATE_LANGUAGE_CHECK_QUANTITY_H

#include "language/compiler.h"

/* What a place takes. */
typedef struct fg_number_spec {
    fg_text what;      /* whose number it is, for messages */
    fg_text unit;      /* its unit, empty if it has none */
    fg_text sensor;    /* whose step it is; empty: nobody's */
    uint8_t decimals;  /* of its step */
    bool duration;     /* any of ms s min h; the step is 1 ms */
    bool unit_needed;  /* a bare number is an error */
    int64_t low, high; /* what it may be, in steps */
} fg_number_spec;

/* What a number is, exactly. `ok` false: reported. */
fg_quantity fg_quantity_of(fg_compiler *c, const fg_node *number);
/* The number in whole steps of the place. False: reported. */
bool fg_quantity_steps(fg_compiler *c, const fg_node *number, const fg_number_spec *spec, int64_t *steps);
/* A time from 0 ms to 24 days, kept in the node too. */
bool fg_quantity_duration(fg_compiler *c, fg_node *number, fg_text what, fg_time *ms);
/* Exact value in 10^-scale units for where points may be finer than a step. */
bool fg_quantity_exact(fg_compiler *c, const fg_node *number, const fg_number_spec *spec, fg_quantity *q);
/* The greatest number that both are a multiple of. */
int64_t fg_common_divisor(int64_t a, int64_t b);
/* Its plain decimals, at most six, with its unit behind a space. */
fg_text fg_quantity_text(fg_compiler *c, const fg_quantity *q, bool unit);

#endif
