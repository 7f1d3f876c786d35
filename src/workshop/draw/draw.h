/* SPDX-License-Identifier: MIT */
/* What the parts of a picture share: draw.c gathers what every name was, draw_plot.c has it drawn. */
#ifndef FICKLEGATE_WORKSHOP_DRAW_H
#define FICKLEGATE_WORKSHOP_DRAW_H

#include "workshop/base/buffer.h"

#include <ficklegate/draw.h>

enum { FG_BUCKETS = 4096 };

/* What a sensor read in a stretch of time. */
typedef struct fg_bucket {
    fg_value first, lowest, highest, last;
    bool seen, faulty;
} fg_bucket;

/* From here on a name was this. */
typedef struct fg_stretch {
    int64_t t_ms;
    char *text;
    fg_level at;   /* of an output */
    uint8_t level; /* which of the lane's levels it is, FG_LEVELS if none of them */
    bool owned;    /* the text is its own, and not the level's */
    bool rest;     /* no, off, stop ...: drawn as a line */
    bool unsure;   /* unsure or faulty: hatched */
} fg_stretch;

enum { FG_LEVELS = 16 };

typedef struct fg_lane {
    const fg_declared *declared;
    fg_bucket *buckets; /* of a sensor */
    fg_stretch *stretches;
    size_t stretch_count, stretch_room;
    char *levels[FG_LEVELS]; /* the first ones that came, rest and unsure aside */
    uint8_t level_count;
    fg_verdict answer; /* the newest */
    fg_value count;
} fg_lane;

typedef struct fg_picture {
    const fg_program *program;
    const fg_draw_options *options;
    fg_lane *lanes; /* sensors, then answers, then outputs */
    size_t lane_count, sensor_count;
    int64_t bucket_ms; /* how long a bucket is; doubled when they do not reach */
    int64_t from_ms, to_ms;
    bool began, full;
    fg_buffer text;
} fg_picture;

/* Draws it. FG_ERROR_FILE with a mistake. */
fg_status fg_plot(const fg_picture *picture, const char *path, fg_mistake *mistake);

#endif
