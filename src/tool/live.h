/* SPDX-License-Identifier: MIT */
/* fickle live: what its files share. */
#ifndef FICKLEGATE_TOOL_LIVE_H
#define FICKLEGATE_TOOL_LIVE_H

#include "tool.h"

#include <ficklegate/broker.h>
#include <ficklegate/keep.h>
#include <ficklegate/live.h>
#include <ficklegate/serial.h>
#include <ficklegate/watch.h>

enum { LIVE_IDLE_MS = 100, LIVE_LEAP_MS = 60000 };

typedef enum live_kind {
    LIVE_STREAM, /* standard input, or a pipe with a name */
    LIVE_SERIAL,
    LIVE_BROKER,
    LIVE_PLAYED, /* a recording or a scene, at its own pace */
    LIVE_HAND
} live_kind;

typedef struct live_options {
    tool_options common;
    uint32_t baud;
    double speed;         /* of a recording or scene; 1: as it was */
    const char *label_as; /* the column of labels given by a key */
    const char *to;       /* where outputs are switched */
    const char *login, *ca;
    const char *topics[FG_BROKER_TOPICS_MOST]; /* NAME=TOPIC */
    size_t topic_count;
} live_options;

typedef struct live_view live_view;
typedef struct live_way live_way;

/* A run from its first reading to its end. */
typedef struct live_session live_session;

struct live_session {
    void (*tell)(const live_session *s, const char *text); /* in the view or on standard error */
    bool (*turn)(live_session *s, int64_t until_ms);
    const live_options *options;
    const fg_gate_file *file;
    const char *name; /* of the source, for messages */
    fg_live *live;
    fg_replay_report report;
    tool_changes changes;
    fg_compared compared;
    fg_watch *watch;
    fg_keeper *keeper;
    live_way *way;   /* NULL: nothing is switched */
    live_view *view; /* NULL: lines are printed */
    live_kind kind;
    fg_serial *serial;
    fg_broker *broker;
    int stream;        /* a descriptor, or -1 */
    bool over;         /* the source has ended */
    bool quits;        /* the person has seen enough */
    bool wrong;        /* something that was asked for could not be done */
    int64_t looked_ms; /* for a board that is gone */

    bool still;                             /* time stands */
    int64_t still_ms, lost_ms;              /* where it stands; what it has lost */
    const fg_text *labels[FG_WATCH_LABELS]; /* by their digit; NULL: none */
    int label;                              /* that readings have now; -1: none */
    fg_text *kept;                          /* the cells of a row that is kept, its label behind them */

    fg_text *columns; /* of what is played */
    size_t column_count;
    int64_t played_ms, began_ms; /* the time of its first row, and when that was by our clock */
};

/* ---- live_session.c ---- */

/* Milliseconds of a clock that stands while time does. */
int64_t live_clock(const live_session *s);
/* Time stands or goes on; one step of the gate further while it stands. */
void live_stand(live_session *s, bool stands);
void live_one_step(live_session *s);
/* Says something to the person. */
void live_tell(void *context, const char *text);
/* Waits until `until_ms` of its clock, or until something comes, and lets the run go on. False: it is over. */
bool live_turn(live_session *s, int64_t until_ms);

/* ---- live_source.c ---- */

/* What the source's name stands for. False, told: nothing. */
bool live_source_open(live_session *s);
void live_source_close(live_session *s);
int live_source_handle(const live_session *s);
/* A broker by its address, with what the options say. NULL, told: there is none. */
fg_broker *live_broker_open(const live_options *o, const char *address, bool listens, const char *will);
/* What has come; false: the run is over. */
bool live_source_read(live_session *s);
/* What has to be done now and then, whether something came or not; false: the run is over. */
bool live_source_turn(live_session *s, int64_t now);
/* Plays a recording or scene from its first row to its last. False, told: it cannot. */
bool live_play(live_session *s);

/* ---- live_way.c ---- */

/* Where --to leads. NULL, told: nowhere. */
live_way *live_way_open(live_session *s, const char *to);
int live_way_handle(const live_way *way);
void live_way_turn(live_session *s);
void live_way_switch(live_session *s, fg_text name, fg_text level);
/* Every output to its rest level, and closed; NULL is fine. */
void live_way_end(live_session *s);

/* ---- live_view.c: ncurses ---- */

/* NULL, told: there is no terminal for it. */
live_view *live_view_start(live_session *s);
void live_view_end(live_view *view);
void live_view_change(live_view *view, const fg_change *change);
void live_view_note(live_view *view, const char *text);
/* Draws what is new, if it is time to. */
void live_view_draw(live_view *view);
int live_view_handle(const live_view *view); /* of the keyboard */
/* Takes the keys that were pressed. */
void live_view_keys(live_view *view);

/* ---- live_hand.c: what keys do to sensors and flags ---- */

/* One key on the chosen name: what it did in words, or NULL if it is none of these. */
const char *live_hand_key(live_session *s, const fg_declared *d, int key);
/* Every sensor and flag begins somewhere. False: no memory. */
bool live_hand_begin(live_session *s);
/* The labels that digits stand for. False, told: there are none. */
bool live_labels_find(live_session *s);

#endif
