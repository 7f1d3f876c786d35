/* SPDX-License-Identifier: MIT */
/* Curves over one number, a panel for each kind of value. */
#include "workshop/draw/draw_theme.h"
#include "workshop/draw/pipe.h"

#include <ficklegate/draw.h>

#include <stdlib.h>
#include <string.h>

enum { HEAD = 44, FOOT = 52, PANEL = 190, LEFT = 90, RIGHT = 220 };

typedef struct graph {
    FILE *out;
    const fg_theme *theme;
    uint32_t width, height, panel;
    const double *x;
    size_t count;
} graph;

static void data(const graph *g, const fg_curve *curve, size_t number)
{
    fprintf(g->out, "$curve%zu << END_OF_DATA\n", number);
    for (size_t i = 0; i < g->count; i++) fprintf(g->out, "%.9g %.9g\n", g->x[i], curve->y[i]);
    fputs("END_OF_DATA\n", g->out);
}

/* All curves of one kind of value, from `first` on. Returns the first of another. */
static size_t panel(const graph *g, const fg_curve *curves, size_t count, size_t first, double top, const char *x_name,
                    const char *title, bool lowest)
{
    static const int points[] = {7, 5, 9, 11, 13, 15};
    size_t end = first;
    double most = 0;
    while (end < count && !strcmp(curves[end].what, curves[first].what)) end++;
    for (size_t k = first; k < end; k++) {
        data(g, &curves[k], k);
        for (size_t i = 0; i < g->count; i++)
            if (curves[k].y[i] > most) most = curves[k].y[i];
    }
    fprintf(g->out,
            "unset label\nset tmargin at screen %.5f\nset bmargin at screen %.5f\nset yrange [0:%.9g]\nset ylabel '%s' "
            "textcolor rgb '%s'\n",
            top / g->height, (top - g->panel) / g->height, most * 1.1 + 1, curves[first].what, g->theme->ink);
    fputs(most > 8 ? "set ytics autofreq\n" : "set ytics 1\n", g->out); /* what is counted is whole */
    if (first == 0) {
        fputs("set label ", g->out);
        fg_plot_text(g->out, fg_text_of(title), 120);
        fprintf(g->out, " at screen %.5f, screen %.5f left font ',12' textcolor rgb '%s'\n", 10.0 / g->width,
                1 - 20.0 / g->height, g->theme->ink);
    }
    if (lowest) {
        fputs("set xlabel ", g->out);
        fg_plot_text(g->out, fg_text_of(x_name), 60);
        fprintf(g->out, " textcolor rgb '%s'\n", g->theme->ink);
    }
    for (size_t k = first; k < end; k++) {
        fprintf(g->out,
                "%s $curve%zu using 1:2 with linespoints linewidth 1.6 pointtype %d pointsize 0.9 linecolor rgb '%s' "
                "title ",
                k == first ? "plot" : ",", k, points[(k - first) % 6],
                fg_plot_fill(k == first ? FG_FILL_YES : k - first));
        fg_plot_text(g->out, curves[k].name, 24);
    }
    fputc('\n', g->out);
    return end;
}

static size_t panels_of(const fg_curve *curves, size_t count)
{
    size_t panels = count ? 1 : 0;
    for (size_t i = 1; i < count; i++) panels += strcmp(curves[i].what, curves[i - 1].what) != 0;
    return panels;
}

fg_status fg_draw_curves(const double *x, size_t point_count, const char *x_name, const fg_curve *curves, size_t count,
                         const fg_draw_options *options, const char *path, fg_mistake *mistake)
{
    fg_script script;
    const uint32_t panels = (uint32_t)panels_of(curves, count);
    graph g = {.theme = fg_theme_of(options->dark),
               .width = options->width ? options->width : 1280,
               .x = x,
               .count = point_count};
    *mistake = (fg_mistake){0};
    if (!fg_picture_ending(path))
        return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "the ending says how it is to be drawn: .png or .svg");
    if (!panels) return fg_mistake_set(mistake, FG_ERROR_ARGUMENT, path, 0, "there is nothing to draw");
    g.height = options->height ? options->height : HEAD + panels * (PANEL + FOOT);
    g.panel = g.height > HEAD + panels * (FOOT + 60) ? (g.height - HEAD) / panels - FOOT : 60;
    const fg_status status = fg_script_begin(&script, path, mistake);
    if (status != FG_OK) return status;
    g.out = script.text.file;
    double top = g.height - HEAD;
    fg_plot_head(g.out, g.theme, g.width, g.height, path);
    fprintf(g.out,
            "set multiplot\nset lmargin at screen %.5f\nset rmargin at screen %.5f\nset border 3 linecolor rgb '%s'\n"
            "set tics nomirror textcolor rgb '%s'\nset grid back linecolor rgb '%s' linewidth 0.5\n"
            "set key outside right top textcolor rgb '%s'\nset xrange [%.9g:%.9g]\n",
            (double)LEFT / g.width, 1 - (double)RIGHT / g.width, g.theme->ink, g.theme->ink, g.theme->faint,
            g.theme->ink, x[0], point_count > 1 ? x[point_count - 1] : x[0] + 1);
    for (size_t first = 0; first < count;) {
        size_t end = first;
        while (end < count && !strcmp(curves[end].what, curves[first].what)) end++;
        first = panel(&g, curves, count, first, top, x_name, options->title ? options->title : "", end == count);
        top -= g.panel + FOOT;
    }
    fputs("unset multiplot\n", g.out);
    return fg_script_end(&script, true, mistake);
}
