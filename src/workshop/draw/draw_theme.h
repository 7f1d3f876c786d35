/* SPDX-License-Identifier: MIT */
/* What all pictures share: colours, texts, the head of a script for gnuplot. */
#ifndef FICKLEGATE_WORKSHOP_DRAW_THEME_H
#define FICKLEGATE_WORKSHOP_DRAW_THEME_H

#include "workshop/base/buffer.h"

typedef struct fg_theme {
    const char *paper, *ink, *faint, *limit, *curve, *fault, *held;
} fg_theme;

const fg_theme *fg_theme_of(bool dark);

/* Fills of labels, in their order: those of Okabe and Ito (Color Universal Design, 2008), which stay apart for
 * colour-blind people. The last one is for yes. */
enum { FG_FILLS = 7, FG_FILL_YES = 6 };
const char *fg_plot_fill(size_t number);
/* "#rrggbb" as a number. */
uint32_t fg_plot_rgb(const char *colour);
/* A colour with only a share of it, in hundredths, over the paper: "#rrggbb" in `mixed`. */
enum { FG_COLOUR_TEXT = 8 };
const char *fg_plot_mixed(const fg_theme *theme, const char *colour, int share, char *mixed);

/* A text in quotes as a command of gnuplot takes it, at most `most` bytes of it. Whatever it holds, it is drawn and
 * never executed. */
void fg_plot_text(FILE *out, fg_text text, size_t most);

/* The same as a field of a block of data. */
void fg_plot_datum(FILE *out, fg_text text, size_t most);

/* Terminal, size, colours. The picture goes to standard output, so no file name reaches gnuplot; `path` only tells the
 * form. */
void fg_plot_head(FILE *out, const fg_theme *theme, uint32_t width, uint32_t height, const char *path);

/* ".png" or ".svg" if the path ends so, else NULL. */
const char *fg_picture_ending(const char *path);

#endif
