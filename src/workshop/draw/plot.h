/* SPDX-License-Identifier: MIT */
/* What the parts of a picture's script share: plot.c has places, texts and fills, draw_sensor.c the lanes of sensors,
 * draw_strip.c the strips of answers and outputs, draw_plot.c lays everything out and writes the script. */
#ifndef FICKLEGATE_WORKSHOP_PLOT_H
#define FICKLEGATE_WORKSHOP_PLOT_H

#include "workshop/draw/draw.h"
#include "workshop/draw/draw_theme.h"

enum {
    FG_PLOT_TOP = 44,
    FG_PLOT_BOTTOM = 66,
    FG_PLOT_SENSOR = 140, /* a lane of a sensor is at least this high */
    FG_PLOT_STRIP = 20,
    FG_PLOT_CURVE = 40, /* a strip that shows a strength or an angle */
    FG_PLOT_GAP = 7,
    FG_PLOT_LETTER = 7, /* how wide a letter of the font is, about */
    FG_PLOT_LINE = 12   /* how high */
};

/* A text that found no room, by its number in the picture. */
typedef struct fg_plot_note {
    size_t lane;
    const char *text;
    double pixel; /* where its number stands */
    bool inside;  /* it stands in every box that has room for it, too */
} fg_plot_note;

enum { FG_PLOT_NOTES = 200, FG_PALETTE = 64 };

/* A strip: how a value of its output becomes a height. */
typedef struct fg_strip {
    bool curve;        /* it shows a strength, an angle or a number of lights */
    int32_t low, high; /* of that */
    double middle;     /* where it stands, in pixels from the bottom of the plot */
    double height;
} fg_strip;

typedef struct fg_plotter {
    const fg_picture *picture;
    FILE *out;
    fg_theme theme;
    uint32_t width, height, sensor_height;
    int left, right; /* margins */
    double unit;     /* ms in a unit of the time axis */
    const char *unit_word;
    uint32_t columns; /* of pixels in the plot */
    double top;       /* of the present lane, in pixels from the bottom of the plot */
    fg_strip *strips; /* of each lane */
    fg_text palette[FG_PALETTE];
    size_t palette_count;
    fg_plot_note notes[FG_PLOT_NOTES];
    size_t note_count;
    size_t *crowded; /* of each lane: how many texts it has that are not listed */
    uint32_t note_lines, mark_rows;
} fg_plotter;

/* Where a time is: on the axis, and in pixels from the left of the plot; and back. */
double fg_plot_at(const fg_plotter *p, int64_t t_ms);
double fg_plot_pixel(const fg_plotter *p, int64_t t_ms);
int64_t fg_plot_time(const fg_plotter *p, double pixel);
/* How many characters a text has. */
int fg_plot_letters(fg_text text);
/* A text at `x` pixels from the left of the picture and `y` from the bottom of the plot. */
void fg_plot_label(const fg_plotter *p, double x, double y, fg_text text, const char *place, const char *colour);
/* The fill that a label or level has in the whole picture. */
size_t fg_plot_fill_of(fg_plotter *p, fg_text text);

/* ---- sensors ---- */

typedef struct fg_plot_view {
    double bottom, height; /* of the lane */
    double low, high;      /* in steps */
    double tick;           /* from one mark of the axis to the next */
} fg_plot_view;

/* Everything of a sensor's lane that is no data. */
void fg_plot_sensor(fg_plotter *p, const fg_lane *lane, fg_plot_view *view);
void fg_plot_sensor_curve(const fg_plotter *p, const fg_lane *lane, const fg_plot_view *view);
void fg_plot_sensor_faults(const fg_plotter *p, const fg_lane *lane, const fg_plot_view *view);

/* ---- strips ---- */

/* How the strip of a lane is drawn. */
fg_strip fg_plot_strip_of(const fg_lane *lane);
/* The blocks of data for the strips: filled, hatched, at rest, and the texts in them. */
void fg_plot_solid(fg_plotter *p, const fg_lane *lane, const fg_strip *strip);
void fg_plot_hatched(fg_plotter *p, const fg_lane *lane, const fg_strip *strip);
void fg_plot_resting(fg_plotter *p, const fg_lane *lane, const fg_strip *strip);
void fg_plot_names(fg_plotter *p, const fg_lane *lane, const fg_strip *strip);
/* Finds the texts of a lane that have no room in any of their boxes. */
void fg_plot_collect_notes(fg_plotter *p, size_t number);

#endif
