/* SPDX-License-Identifier: MIT */
/* Places, texts and fills of a picture, for all its parts. */
#include "workshop/draw/plot.h"

double fg_plot_at(const fg_plotter *p, int64_t t_ms) { return (double)t_ms / p->unit; }

double fg_plot_pixel(const fg_plotter *p, int64_t t_ms)
{
    const fg_picture *picture = p->picture;
    return (double)(t_ms - picture->from_ms) * p->columns / (double)(picture->to_ms - picture->from_ms);
}

int64_t fg_plot_time(const fg_plotter *p, double pixel)
{
    const fg_picture *picture = p->picture;
    return picture->from_ms + (int64_t)(pixel * (double)(picture->to_ms - picture->from_ms) / p->columns);
}

int fg_plot_letters(fg_text text)
{
    int count = 0;
    for (size_t i = 0; i < text.size; i++) count += ((unsigned char)text.at[i] & 0xc0) != 0x80;
    return count;
}

void fg_plot_label(const fg_plotter *p, double x, double y, fg_text text, const char *place, const char *colour)
{
    fputs("set label ", p->out);
    fg_plot_text(p->out, text, 80);
    fprintf(p->out, " at screen %.5f, first %.1f %s front textcolor rgb '%s'\n", x / p->width, y, place, colour);
}

/* The same text has the same fill wherever it comes; more texts than fills share them in turn. The fill of yes is its
 * own. */
size_t fg_plot_fill_of(fg_plotter *p, fg_text text)
{
    size_t i = 0;
    while (i < p->palette_count && !fg_text_same(p->palette[i], text)) i++;
    if (i == p->palette_count && i < FG_PALETTE) p->palette[p->palette_count++] = text;
    return i % (FG_FILLS - 1);
}
