/* SPDX-License-Identifier: MIT */
/* What the parts of `why` share: why.c plays and keeps time, why_tree.c tells the reasons,
 * why_near.c finds out how far it is from another answer. */
#ifndef FICKLEGATE_WORKSHOP_WHY_H
#define FICKLEGATE_WORKSHOP_WHY_H

#include "workshop/explain/explain.h"

#include <ficklegate/why.h>

/* A second set of rules, fed with the same readings, shows what the run keeps to itself: what is settling, since when.
 */
typedef struct fg_shadow {
#define FG_SHADOW_RULE(NAME, name, table) fg_##name##_state *table;
    FG_SENSOR_RULES(FG_SHADOW_RULE)
#undef FG_SHADOW_RULE
    fg_lasting_state *lastings;
    int64_t *since; /* of each slot: when its answer began; -1: it never changed */
} fg_shadow;

typedef struct fg_asker {
    const fg_program *program;
    const fg_question *question;
    fg_explainer explainer;
    fg_shadow shadow;
    fg_time now;  /* on the clock of the recording */
    int64_t t_ms; /* of the present step */
    const fg_why_observer *observer;
    fg_buffer line, next; /* next: what to look at */
    uint32_t deciding;    /* how deep the chain of deciding lines goes */
    bool silent;          /* these lines suggest nothing */
    uint32_t looks;       /* how many parts fg_why_lack may still look at */
    uint8_t *shown;       /* of each slot: 1 where its parts were shown, 2 where they decided */
} fg_asker;

/* Tells why the name is what it is now, or not what is wanted. */
void fg_why_tell(fg_asker *asker);

/* How far the name is from turning, or from what is wanted; 0: it is that already. Comparable from step to step. */
int64_t fg_why_lack(fg_asker *asker);
/* The row of an output at rest that is nearest to holding; FG_INDEX_NONE if none ever holds. */
uint16_t fg_why_nearest_row(fg_asker *asker, const fg_output *output);

/* Is this what was wanted: the word of its form, or the first characters of it as it is written? */
bool fg_why_is_level(const fg_level *level, fg_text wanted);

/* How far a reading is from lying in a range (0: it does), or from leaving it; below 0: it has to fall. `circle` 0: no
 * circle. INT64_MAX: there is no way. */
int64_t fg_way_into(const fg_range *range, fg_value value, fg_value circle);
int64_t fg_way_out_of(const fg_range *range, fg_value value, fg_value circle);

#endif
