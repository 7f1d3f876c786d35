/* fickle live: what its files share. */
#ifndef FICKLEGATE_TOOL_LIVE_H
#define FICKLEGATE_TOOL_LIVE_H

#include "tool.h"

#include <ficklegate/live.h>
#include <ficklegate/serial.h>

typedef enum live_kind {
    LIVE_STREAM, /* standard input, or a pipe with a name */
    LIVE_SERIAL,
    LIVE_PLAYED, /* a recording or a scene, at its own pace */
    LIVE_HAND
} live_kind;

typedef struct live_options {
    tool_options common;
    uint32_t baud;
    double speed; /* of a recording or scene; 1: as it was */
} live_options;

/* A run from its first reading to its end. */
typedef struct live_session {
    const live_options *options;
    const fg_gate_file *file;
    const char *name; /* of the source, for messages */
    fg_live *live;
    fg_replay_report report;
    tool_changes changes;
    live_kind kind;
    fg_serial *serial;
    int stream;        /* a descriptor, or -1 */
    bool over;         /* the source has ended, or the person has seen enough */
    int64_t looked_ms; /* for a board that is gone */
    fg_text *columns;  /* of what is played */
    size_t column_count;
    int64_t played_ms; /* the time of its first row */
} live_session;

/* Milliseconds of a clock that nobody sets. */
int64_t live_now(void);
/* Waits until `until_ms`, or until something comes, and lets the run go on. False: it is over. */
bool live_turn(live_session *s, int64_t until_ms);

#endif
