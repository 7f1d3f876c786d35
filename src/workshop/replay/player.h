/* SPDX-License-Identifier: MIT */
/* A gate that runs on the simulated board: readings go in, steps are made, what changed comes out with its reason. */
#ifndef FICKLEGATE_WORKSHOP_PLAYER_H
#define FICKLEGATE_WORKSHOP_PLAYER_H

#include "workshop/explain/explain.h"
#include "workshop/replay/beside.h"

#include <ficklegate/replay.h>
#include <ficklegate/sim.h>

/* What readings of one name are put into. */
typedef struct fg_input {
    const fg_declared *declared; /* a sensor or flag; NULL: nobody's */
    uint16_t number;             /* as the port has it */
    bool counts;                 /* NAME.raw */
} fg_input;

/* What a board said of one name in a row whose step is yet to come. */
typedef struct fg_saying {
    fg_buffer text; /* empty: nothing */
    uint64_t line;
} fg_saying;

typedef struct fg_player {
    const fg_program *program;
    const fg_replay_observer *observer;
    fg_replay_report *report;
    fg_time pace;    /* ms between two steps; 0: a step for each row */
    int64_t from_ms; /* what comes before it is played without a word */
    void (*gap)(void *context, uint64_t line, int64_t gap_ms, uint64_t steps); /* of fg_recording_options */
    void *gap_context;

    fg_sim sim;
    fg_port port;
    void *memory;
    fg_run *run;
    fg_changes changes;
    fg_explainer explainer;
    fg_buffer because;
    fg_saying *sayings;           /* of each declared name; NULL: nobody listens */
    struct fg_promises *promises; /* NULL: nobody watches */
    fg_beside *beside;            /* gates that are played beside this one; NULL: there are none */

    bool began;
    bool stopped;    /* the observer has seen enough */
    bool waits;      /* the newest row has no step yet, and steps are rows */
    int64_t t_ms;    /* of the newest row, from the first */
    fg_time clock;   /* what the board's clock says at the newest row */
    int64_t next_ms; /* of the next step, with a pace */
} fg_player;

/* `program`, `observer`, `report`, `pace`, `from_ms` and `gap` are filled in, the rest is zero. False: no memory;
 * fg_player_end() is due all the same. */
bool fg_player_start(fg_player *p);
void fg_player_end(fg_player *p);
/* A text lacks something there was no memory for. */
bool fg_player_is_cut_short(const fg_player *p);

/* The sensor or flag of this name, or of NAME.raw; false if it is none, or worked out from others. */
bool fg_player_input(const fg_player *p, fg_text name, fg_input *input);
/* The rule, count or output that a column of this name says something of, or NULL. */
const fg_declared *fg_player_said_of(const fg_player *p, fg_text name);
/* What numbers that stand alone belong to: the sensor, where there is just one and no flag. Else empty. */
fg_text fg_player_only(const fg_player *p);
/* Keeps the first unit in the report that is not its sensor's. False: this name is read by nobody. */
bool fg_player_unit(const fg_player *p, fg_text name, fg_text unit, uint64_t line);

/* The steps before `t_ms`. `line` comes next. False: the observer has seen enough. */
bool fg_player_until(fg_player *p, int64_t t_ms, uint64_t line);
/* A row begins at `t_ms`, which fg_player_until has come to. */
void fg_player_row(fg_player *p, int64_t t_ms);
/* A cell of that row. One that is no number, or one that no sensor can hold, is a faulty reading. */
void fg_player_cell(fg_player *p, const fg_input *input, fg_text cell, uint64_t line);
/* The same for a number: of a flag 0 or 1. */
void fg_player_number(fg_player *p, const fg_input *input, int32_t number);
/* Rows were left out that change nothing, each a step: so many, the last at `t_ms`. Behind fg_player_until. */
void fg_player_left_out(fg_player *p, uint64_t rows, int64_t t_ms);
/* What a board said in it, which its step is held against. */
void fg_player_say(fg_player *p, const fg_declared *of, fg_text said, uint64_t line);
/* That was the whole row. */
bool fg_player_row_ends(fg_player *p);
/* The step of the last row, if it has none yet. */
void fg_player_last_step(fg_player *p);

#endif
