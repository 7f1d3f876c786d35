/* SPDX-License-Identifier: MIT */
/* Gates that differ from one that is played in some of their rules alone, played beside it.
 *
 * All of them read the same, so what sensors and flags read is worked out once. So is every answer that does not hang
 * on what differs. Each gate beside the first works out the ops that do (they stand `apart`), and only in steps in
 * which one of them may change: an answer from outside of them that they look at has changed, a value is no longer
 * where they want it (wants.h), a wait may have ended, or their own last step changed something. That is the argument
 * of quiet.c. */
#ifndef FICKLEGATE_WORKSHOP_BESIDE_H
#define FICKLEGATE_WORKSHOP_BESIDE_H

#include "workshop/replay/changes.h"
#include "workshop/replay/wants.h"

/* One of them. */
typedef struct fg_beside_gate {
    const fg_program *program;
    const fg_replay_observer *observer;
    fg_replay_report *report;
    void *memory;
    fg_run *run;
    fg_changes changes;
    fg_wants wants; /* since its last step, which was at run->now */
    bool rests;     /* nothing changes as long as they are met */
    bool stepped;   /* in the newest step of the first gate */
} fg_beside_gate;

typedef struct fg_beside {
    fg_beside_gate *gates;
    size_t count;
    bool *apart;        /* of each op */
    bool *names_apart;  /* of each declared name */
    bool *pulses_apart; /* of each pulse */
    uint16_t *ops;      /* those that are, in their order */
    uint16_t op_count;
    uint16_t *asked; /* the others that they look at */
    uint16_t asked_count;
    fg_verdict *heard;  /* their newest answers */
    fg_wanting wanting; /* of those that are apart; the sensors are among what they ask */
} fg_beside;

/* May this program be played beside the first? */
bool fg_beside_fits(const fg_program *first, const fg_program *program);

/* `gates` (the caller's until here, then freed with all else) and `count` are filled in, with a program that fits the
 * first, an observer that asks for changes without reasons and for nothing else, and an empty report; the rest is zero.
 * False: no memory; fg_beside_end() is due all the same. */
bool fg_beside_start(fg_beside *b, const fg_program *first);
/* What the reports do not say themselves is what the first one's says. */
void fg_beside_end(fg_beside *b, const fg_replay_report *first);
/* A text lacks something there was no memory for. */
bool fg_beside_is_cut_short(const fg_beside *b);

/* Behind each step of the first gate. */
void fg_beside_step(fg_beside *b, const fg_run *first);
/* Did it change anything in one of them? */
bool fg_beside_any(const fg_beside *b);
/* Tells what it changed of declared name number `name`; `change`: what the first gate's step did, NULL: nothing. False:
 * an observer has seen enough, or there is no memory. */
bool fg_beside_tell(fg_beside *b, uint32_t name, const fg_change *change, int64_t t_ms, bool told);
/* Behind all names. */
void fg_beside_all_told(fg_beside *b);
/* A pulse of the first gate started to no effect, or did not; `told`: this step is. */
void fg_beside_refused(fg_beside *b, uint16_t pulse, bool refused, bool spent, bool told, int64_t t_ms);

/* Narrows what the first gate wants, so that none of them changes either. False: one may. */
bool fg_beside_wants(const fg_beside *b, fg_wants *wants);

#endif
