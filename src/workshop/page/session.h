/* SPDX-License-Identifier: MIT */
/* What the files of this folder share. */
#ifndef FICKLEGATE_WORKSHOP_PAGE_SESSION_H
#define FICKLEGATE_WORKSHOP_PAGE_SESSION_H

#include "workshop/base/buffer.h"
#include "workshop/page/module.h"

#include <jansson.h>

/* A recording that was played: changes in the order of time, the texts they went to, what sensors were. */
typedef struct fg_page_played {
    fg_page_change *changes;
    size_t change_count, change_room;
    double *times;
    float **values; /* of each sensor */
    size_t step_count, step_room, sensor_count;
    json_t *texts;
    json_t *numbers; /* of each text: its place in `texts` */
} fg_page_played;

/* Sensors that are moved by hand. */
typedef struct fg_page_moved {
    fg_live *live;
    fg_replay_observer observer;
    fg_replay_report report;
    fg_buffer done; /* the rows so far, as CSV */
    json_t *broken; /* since the last answer */
} fg_page_moved;

struct fg_page {
    fg_gate_file file;
    bool open;
    char *answer; /* the JSON that was returned last */
    fg_watch *watch;
    fg_page_played played;
    char *recording; /* the one played last; NULL: none */
    bool of_scene;
    fg_coverage *coverage;
    fg_kept_rows *kept; /* of `recording` */
    fg_page_moved hand;
};

/* What is returned: takes `answer` over. NULL: no memory. */
const char *fg_page_answer(fg_page *page, json_t *answer);
const char *fg_page_mistake(fg_page *page, const fg_mistake *mistake);
/* A text as a string; bytes that are no UTF-8 become visible escapes. */
json_t *fg_page_text(fg_text text);
/* A number of steps in the unit of its sensor; null where `good` is false. */
json_t *fg_page_value(fg_value steps, uint8_t decimals, bool good);
/* Line, file, promise, row and reason. */
json_t *fg_page_broken_row(const fg_page *page, const fg_broken *broken);

void fg_page_played_end(fg_page_played *played);
void fg_page_moved_end(fg_page_moved *hand);

#endif
