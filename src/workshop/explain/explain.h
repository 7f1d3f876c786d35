/* SPDX-License-Identifier: MIT */
/* Reasons: why a name has the answer it has, down to the readings and limits. */
#ifndef FICKLEGATE_WORKSHOP_EXPLAIN_H
#define FICKLEGATE_WORKSHOP_EXPLAIN_H

#include "workshop/base/buffer.h"

typedef struct fg_explainer {
    const fg_program *program;
    const fg_declared **slot_owners; /* the name whose slot it is, or NULL */
    const fg_declared **sensors, **flags, **counts, **outputs, **sequences;
    const fg_run *run;
    const fg_verdict *before; /* the answers one step ago; NULL at the first step */
    const bool *no_column;    /* of sensors, then flags: the recording has none for it; NULL: not known */
} fg_explainer;

/* False: no memory. */
bool fg_explainer_start(fg_explainer *x, const fg_program *program, const fg_run *run);
void fg_explainer_end(fg_explainer *x);

/* The reason of a name's present answer or level. What changed at this step comes first. */
void fg_explain(const fg_explainer *x, const fg_declared *declared, fg_buffer *out);

/* The op that says whether enough of a list are yes, where `at least`, `at most` or `exactly N yes in` stands at this
 * slot; else NULL. */
const fg_op *fg_yes_in_op(const fg_program *program, uint16_t slot);

/* The reason of the answer under a slot. */
void fg_explain_slot(const fg_explainer *x, uint16_t slot, fg_buffer *out);

/* "over 14.0 m/s", "within 20.0..59.9 cm", "reads 12.0 cm", or why the sensor is faulty. */
void fg_explain_comparison(const fg_comparison *comparison, const fg_declared *sensor, fg_buffer *out);
void fg_explain_range(const fg_range *range, const fg_declared *sensor, fg_buffer *out);
void fg_explain_sensor(const fg_explainer *x, const fg_declared *sensor, fg_buffer *out);

#endif
