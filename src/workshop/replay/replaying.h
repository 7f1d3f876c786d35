/* SPDX-License-Identifier: MIT */
/* One replay while it runs, for whoever reads the rows: a recording for one gate, for several, or of several devices.
 */
#ifndef FICKLEGATE_WORKSHOP_REPLAYING_H
#define FICKLEGATE_WORKSHOP_REPLAYING_H

#include "workshop/recordings/recording.h"
#include "workshop/replay/quiet.h"

/* What a column of the recording is for. */
typedef struct fg_replaying_column {
    fg_input input;
    const fg_declared *said_of; /* the name a board said something of, if that is listened to */
} fg_replaying_column;

/* It does not move while it runs. */
typedef struct fg_replaying {
    fg_player player;
    const fg_readings *readings;
    fg_replaying_column *columns;
    size_t column_count;
    fg_number_column *wanted; /* of each column, where plain numbers do */
    fg_input *inputs;         /* of each wanted column */
    fg_quiet quiet;
    bool may_leave_out; /* rows in which nothing changes */
    int64_t first_ms;   /* of the first row, as written */
    bool over;          /* the part to report has ended */
} fg_replaying;

/* Nothing is allocated yet. */
fg_replaying fg_replaying_begin(const fg_program *program, const fg_readings *readings,
                                const fg_replay_observer *observer, fg_replay_report *report);
/* The columns; false with a mistake if they do not fit the gate. */
bool fg_replaying_heading(fg_replaying *r, const fg_text *columns, size_t count, fg_mistake *mistake);
/* What each column is wanted as, where plain numbers do, as in fg_recording_sink. */
const fg_number_column *fg_replaying_wanted(fg_replaying *r);
/* Rows; false: the part is over (`over`), or the observer has seen enough. */
bool fg_replaying_row(fg_replaying *r, int64_t t_ms, const fg_text *cells, size_t count, uint64_t line);
bool fg_replaying_numbers(fg_replaying *r, const fg_number_rows *rows);
void fg_replaying_note(fg_replaying *r, const char *text);
/* Behind the last row. */
void fg_replaying_last_steps(fg_replaying *r);
void fg_replaying_end(fg_replaying *r);

#endif
