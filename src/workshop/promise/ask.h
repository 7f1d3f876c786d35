/* SPDX-License-Identifier: MIT */
/* What the files of this folder share: one row of a promise, or a situation, that is asked. cone.c finds what it hangs
 * on, states.c makes equal states equal, abstract.c makes a simpler gate that can do more, judge.c says at each step
 * whether it holds, search.c goes through all states, climb.c moves readings towards a
 * limit, chance.c tries readings by chance (dice.c), tidy.c makes a break short; wander.c looks at a whole gate. */
#ifndef FICKLEGATE_WORKSHOP_PROMISE_ASK_H
#define FICKLEGATE_WORKSHOP_PROMISE_ASK_H

#include "workshop/base/buffer.h"

#include <ficklegate/promise.h>

typedef enum fg_choice_kind { FG_CHOICE_VALUE, FG_CHOICE_FAULT, FG_CHOICE_NOTHING } fg_choice_kind;

/* One thing that may come for a sensor or flag at a step. */
typedef struct fg_choice {
    fg_choice_kind kind;
    fg_value value; /* of a flag 0 or 1 */
} fg_choice;

/* A sensor or flag that the row hangs on and that is read. */
typedef struct fg_asked_input {
    const fg_declared *declared;
    fg_choice *choices;
    uint32_t count;
} fg_asked_input;

/* What the row hangs on, and what may come. */
typedef struct fg_cone {
    bool *ops, *sensors, *flags, *outputs, *counters; /* of each whether it belongs to it */
    bool *follows;                                    /* sensors whose last good value goes on counting */
    fg_asked_input *inputs;
    size_t input_count;
    uint64_t combinations; /* of choices at one step */
    const char *open; /* why readings that are told apart may be more than the choices; NULL: they are all there are */
    const char *closed; /* why its states cannot be searched at all */
} fg_cone;

typedef struct fg_abstract fg_abstract;

typedef struct fg_ask {
    const fg_program *program;
    const fg_gate *gate;     /* the program's, or an abstract one */
    const fg_declared *free; /* of an abstract one: a flag for each answer that is any */
    size_t free_count;
    const fg_promise *promise;
    const fg_expect *row;
    const fg_situation *situation; /* is asked instead, as if it should never happen; NULL: the row is */
    fg_cone cone;
    uint64_t most, steps; /* that may be tried, that were */
    fg_progress progress;
    fg_gate slice;        /* the gate with nothing but the cone at work, which the run is of */
    fg_op *ops;           /* of the slice */
    void *memory, *fresh; /* of the run; as it is at its start */
    size_t size;
    fg_run *run;
    bool still;      /* of one that can end: smoothed sensors keep one value while it does, and `slack` */
    uint32_t slack;  /* steps go by before they have it */
    bool full;       /* there was no memory */
    bool never_ends; /* of a break of `can end`: in no time at all */
} fg_ask;

/* Where the row stands besides the gate: what it awaits. */
typedef struct fg_judge {
    bool stepped, event; /* event: at the step before; of `can end` whether it is so now */
    uint32_t awaits;     /* ms since what it follows began, and 1; 0: nothing is awaited */
} fg_judge;

typedef enum fg_judged { FG_JUDGED_WELL, FG_JUDGED_BROKEN, FG_JUDGED_OUTSIDE } fg_judged;

/* cone.c. `all`: everything there is. False: no memory. */
bool fg_cone_find(fg_ask *a, bool all);
/* The same of one slot, without what may come. */
bool fg_cone_of_slot(fg_ask *a, uint16_t slot);
void fg_cone_end(fg_cone *cone);
/* One more of what may come. False: no memory. */
bool fg_cone_add_choice(fg_asked_input *input, fg_choice_kind kind, fg_value value);
/* Feeds choice number `choice` of an input at a moment. */
void fg_cone_feed(const fg_ask *a, size_t input, uint32_t choice, fg_time at);

/* Which answers are any: those of all rules that remember, and of flags that do; of rules with one, or two, such rules
 * between them and the row; those that share no input with what stands behind `while` or `of`; with what the row names
 * at all; none. From the simplest gate to the one that is nearest. */
typedef enum fg_freedom {
    FG_FREE_MEMORIES,
    FG_FREE_MEMORIES_BEHIND,
    FG_FREE_MEMORIES_FAR,
    FG_FREE_OF_WHILE,
    FG_FREE_OF_ROW,
    FG_FREE_NOTHING,
    FG_FREEDOMS
} fg_freedom;

/* abstract.c. NULL: no memory. */
fg_abstract *fg_abstract_start(const fg_ask *a, fg_freedom freedom);
void fg_abstract_end(fg_abstract *abstract);
const fg_gate *fg_abstract_gate(const fg_abstract *abstract);
/* A flag for each answer that is any. */
const fg_declared *fg_abstract_free(const fg_abstract *abstract, size_t *count);

/* judge.c: after a step. FG_JUDGED_OUTSIDE: what is assumed does not hold. */
fg_judged fg_judge_step(const fg_ask *a, fg_judge *judge);

/* states.c: what a run and a judge are, as bytes that are the same for states that answer the same for ever. */
typedef struct fg_packing fg_packing;
fg_packing *fg_packing_start(const fg_ask *a); /* NULL: no memory */
void fg_packing_end(fg_packing *packing);
size_t fg_packing_size(const fg_packing *packing);
/* The state after a step. The run is of no more use. */
void fg_packing_pack(const fg_packing *packing, const fg_judge *judge, unsigned char *bytes);
/* The run as it was then, and the clock is at FG_PACKED_NOW. */
void fg_packing_unpack(const fg_packing *packing, const unsigned char *bytes, fg_judge *judge);

#define FG_PACKED_NOW UINT32_C(0x40000000)

/* One step of the run, `begins`: the first, from what stands in it. What came was fed. */
void fg_ask_step(const fg_ask *a, fg_time now);

/* Readings from the first step on: for each step a choice of each input. */
typedef struct fg_path {
    uint32_t *choices; /* step by step */
    size_t steps;
} fg_path;

/* search.c: goes through all states. HOLDS only if there are no more. A break is a shortest one. */
fg_promise_verdict fg_search(fg_ask *a, fg_path *way, uint64_t *states);
/* promise.c: a run of the cone, or of all there is; end it in any case. False: no memory. */
bool fg_ask_begin(fg_ask *a, bool all);
void fg_ask_end(fg_ask *a);

/* dice.c: numbers by chance, the same on every machine; below `most`. */
typedef struct fg_dice {
    uint64_t state;
} fg_dice;
uint32_t fg_dice_throw(fg_dice *d, uint32_t most);

/* climb.c: readings that bring a sensor to where a situation has it, or UNDECIDED. */
fg_promise_verdict fg_climb(fg_ask *a, fg_path *path);
/* chance.c: a break by chance, or UNDECIDED. */
fg_promise_verdict fg_search_by_chance(fg_ask *a, fg_path *way);
/* tidy.c: fewer changes and faults, as long as it breaks. */
void fg_path_tidy(fg_ask *a, fg_path *way);
/* At which step these readings break the row; SIZE_MAX: they do not. */
size_t fg_path_breaks(fg_ask *a, const fg_path *way);

#endif
