/* SPDX-License-Identifier: MIT */
/* The view of a live run: what its two files share. */
#ifndef FICKLEGATE_TOOL_LIVE_VIEW_H
#define FICKLEGATE_TOOL_LIVE_VIEW_H

#define _XOPEN_SOURCE_EXTENDED 1
#include "live.h"

#include <curses.h>

enum { LOG_MOST = 200, LEAST_WIDTH = 60, LEAST_HEIGHT = 20, DRAWN_MS = 100, FIGURED_MS = 500, FIRST_LAMP = 16 };

typedef enum look { LOOK_PLAIN, LOOK_GOOD, LOOK_BAD, LOOK_UNSURE, LOOK_CHOSEN, LOOK_DIM, LOOK_MARK } look;

/* A change, or something that was told. */
typedef struct entry {
    int64_t t_ms;
    char *name, *text, *because; /* `name` NULL: it was told */
} entry;

struct live_view {
    live_session *s;
    SCREEN *screen;
    FILE *keys;
    int keys_handle;
    bool colours, utf8, frozen, why;
    size_t chosen;             /* among what can be chosen */
    const fg_declared **items; /* what can be chosen, in the order it is drawn */
    size_t item_count;
    int64_t *since; /* when each declared name changed; -1: not yet */
    entry log[LOG_MOST];
    size_t logged;
    char message[300];
    int64_t message_ms, drawn_ms, figured_ms;
    fg_figures *figures; /* of each sensor, worked out now and then */
    fg_figures (*label_figures)[FG_WATCH_LABELS];
};

/* ---- live_draw.c: writing, and what stands for each thing ---- */

/* A text in at most `width` columns of a line; returns how many it took. */
int live_put(const live_view *v, int y, int x, int width, look l, fg_text text);
__attribute__((format(printf, 6, 7))) int live_putf(const live_view *v, int y, int x, int width, look l,
                                                    const char *format, ...);
/* The one that the terminal can show. */
const char *live_sign(const live_view *v, const char *utf8, const char *ascii);
void live_heading(const live_view *v, int y, const char *text);
fg_text live_value_text(const fg_declared *d, fg_value value, char *room);
bool live_is_chosen(const live_view *v, const fg_declared *d);
void live_draw_sensor(const live_view *v, const fg_declared *d, int y);
/* What was read of a sensor since the mark. */
void live_draw_figures(const live_view *v, const fg_declared *d, int y);
void live_draw_answer(const live_view *v, const fg_declared *d, int y, int x, int width);
void live_draw_output(live_view *v, const fg_declared *d, int y, int x, int width);

#endif
