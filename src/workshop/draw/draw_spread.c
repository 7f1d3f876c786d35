/* SPDX-License-Identifier: MIT */
/* Labelled readings as distributions, one above the other, with the limits between them. */
#include "workshop/draw/draw_theme.h"
#include "workshop/draw/pipe.h"
#include "workshop/tune/tuning.h"

#include <ficklegate/draw.h>

#include <math.h>
#include <stdlib.h>
#include <string.h>

enum { BINS = 160, HEAD = 44, FOOT = 60, ROW = 58, LEAST_ROW = 30, LEFT = 190, RIGHT = 40 };

typedef struct spread {
    FILE *out;
    const fg_theme *theme;
    uint32_t width, height;
    double row; /* height of a label's row in pixels */
} spread;

typedef struct axis {
    double low, high, unit; /* steps; steps in a unit */
    double bin;             /* whole steps, or some bins would hold more of them than others */
} axis;

static axis axis_of(const fg_tuning *t, const fg_tuned *tuned)
{
    axis a = {0, 0, 1, 1};
    bool any = false;
    for (size_t i = 0; i < t->step_count; i++) {
        if (t->steps[i].label >= FG_LABEL_OTHER) continue;
        const double v = t->steps[i].value;
        if (!any || v < a.low) a.low = v;
        if (!any || v > a.high) a.high = v;
        any = true;
    }
    for (size_t i = 0; i < tuned->cut_count && !t->circle; i++) {
        if (tuned->cuts[i].now < a.low && tuned->cuts[i].now > a.low - (a.high - a.low)) a.low = tuned->cuts[i].now;
        if (tuned->cuts[i].now > a.high && tuned->cuts[i].now < a.high + (a.high - a.low)) a.high = tuned->cuts[i].now;
    }
    if (t->circle) {
        a.low = 0;
        a.high = t->circle;
    }
    const double pad = t->circle ? 0 : a.high > a.low ? 0.03 * (a.high - a.low) : 1;
    a.low = floor(a.low - pad);
    a.high = ceil(a.high + pad);
    a.bin = ceil((a.high - a.low) / BINS);
    for (uint8_t i = 0; i < t->rule->decimals; i++) a.unit *= 10;
    return a;
}

/* How many readings of a label fall into each bin. */
static void count_bins(const fg_tuning *t, const axis *a, fg_verdict label, uint32_t *bins)
{
    memset(bins, 0, (BINS + 1) * sizeof *bins);
    for (size_t i = 0; i < t->step_count; i++) {
        if (t->steps[i].label >= FG_LABEL_OTHER || fg_label_verdict(t, t->steps[i].label) != label) continue;
        const size_t k = (size_t)((t->steps[i].value - a->low) / a->bin);
        bins[k < BINS ? k : BINS]++;
    }
}

static void row_data(const spread *s, const fg_tuning *t, const axis *a, fg_verdict label, double bottom)
{
    uint32_t bins[BINS + 1], most = 1;
    count_bins(t, a, label, bins);
    for (size_t k = 0; k <= BINS; k++)
        if (bins[k] > most) most = bins[k];
    for (size_t k = 0; k <= BINS; k++) {
        const double from = (a->low + (double)k * a->bin) / a->unit, to = from + a->bin / a->unit;
        const double top = bottom + 0.8 * s->row * bins[k] / most;
        if (bins[k]) fprintf(s->out, "%.9g %.2f %.9g %.9g %.2f %.2f\n", (from + to) / 2, bottom, from, to, bottom, top);
    }
}

static double shown(const fg_tuning *t, const fg_tuned_cut *cut, fg_value position, const axis *a)
{
    int64_t number = cut->writes_below ? (int64_t)position - 1 : position;
    if (t->circle) number = fg_wrap(number, t->circle);
    return (double)number / a->unit;
}

static void cut_lines(const spread *s, const fg_tuning *t, const fg_tuned *tuned, const axis *a)
{
    double last = -1e9;
    for (size_t i = 0; i < tuned->cut_count; i++) {
        const fg_tuned_cut *cut = &tuned->cuts[i];
        const double now = shown(t, cut, cut->now, a), chosen = shown(t, cut, cut->chosen, a);
        fprintf(s->out,
                "set arrow from first %.9g, graph 0 to first %.9g, graph 1 nohead front dashtype 3 linecolor rgb '%s' "
                "linewidth 1.2\n",
                now, now, s->theme->ink);
        if (!cut->tuned) continue;
        fprintf(
            s->out,
            "set arrow from first %.9g, graph 0 to first %.9g, graph 1 nohead front linecolor rgb '%s' linewidth 2\n",
            chosen, chosen, s->theme->limit);
        const bool high = (chosen - last) * a->unit / (a->high - a->low) < 0.06; /* two close to each other */
        fprintf(s->out, "set label '%.*f' at first %.9g, graph 1 center offset 0,%.1f textcolor rgb '%s'\n",
                (int)t->rule->decimals, chosen, chosen, high ? 1.5 : 0.6, s->theme->limit);
        last = high ? -1e9 : chosen;
    }
}

static void label_names(const spread *s, const fg_tuning *t, const fg_tuned *tuned)
{
    for (size_t i = 0; i < tuned->label_count; i++) {
        const fg_tuned_label *l = &tuned->labels[i];
        const double y = ((double)(tuned->label_count - 1 - i) + 0.4) * s->row;
        fprintf(s->out, "set label ");
        fg_plot_text(s->out, fg_answer_text(t->rule, l->label), 20);
        fprintf(s->out, " at screen %.5f, first %.2f left textcolor rgb '%s'\n", 14.0 / s->width, y + 6, s->theme->ink);
        fprintf(s->out, "set label '%llu readings' at screen %.5f, first %.2f left font ',8' textcolor rgb '%s'\n",
                (unsigned long long)l->readings, 14.0 / s->width, y - 8, s->theme->ink);
    }
}

/* One rule in its part of the picture; `top`: of it, in pixels from the bottom. */
static void panel(const spread *s, const fg_tuning *t, const fg_tuned *tuned, size_t number, double top)
{
    const axis a = axis_of(t, tuned);
    const double height = s->row * (double)tuned->label_count, bottom = top - HEAD - height;
    FILE *out = s->out;
    fprintf(
        out,
        "unset label\nunset arrow\nset lmargin at screen %.5f\nset rmargin at screen %.5f\nset tmargin at screen %.5f\n"
        "set bmargin at screen %.5f\nset xrange [%.9g:%.9g]\nset yrange [0:%.2f]\n",
        (double)LEFT / s->width, 1 - (double)RIGHT / s->width, (top - HEAD) / s->height, bottom / s->height,
        a.low / a.unit, a.high / a.unit, height);
    fputs("set label ", out);
    fg_plot_text(out, t->rule->name, 60);
    fprintf(out, " at screen %.5f, screen %.5f left font ',12' textcolor rgb '%s'\n", 14.0 / s->width,
            (top - 16) / s->height, s->theme->ink);
    fprintf(out,
            "set label 'dotted: the limit as it is    solid: the better one    above its name: how often a label read "
            "this' at screen %.5f, screen %.5f right font ',8' textcolor rgb '%s'\n",
            1 - (double)RIGHT / s->width, (top - 10) / s->height, s->theme->ink);
    const fg_declared *sensor = NULL;
    for (uint32_t i = 0; i < t->program->declared_count; i++)
        if (t->program->declared[i].kind == FG_KIND_SENSOR && t->program->declared[i].index == t->rule->sensor)
            sensor = &t->program->declared[i];
    char text[120];
    if (sensor) {
        const int name = (int)(sensor->name.size < 40 ? sensor->name.size : 40);
        const int unit = (int)(sensor->unit.size < 40 ? sensor->unit.size : 40);
        snprintf(text, sizeof text, unit ? "%.*s [%.*s]" : "%.*s", name, sensor->name.at, unit, sensor->unit.at);
        fputs("set xlabel ", out);
        fg_plot_text(out, fg_text_of(text), 100);
        fprintf(out, " textcolor rgb '%s' offset 0,0.4\n", s->theme->ink);
    }
    label_names(s, t, tuned);
    cut_lines(s, t, tuned, &a);
    for (size_t i = 0; i < tuned->label_count; i++) {
        fprintf(out, "$row%zu_%zu << END_OF_DATA\n-1e9 -1e9 -1e9 -1e9 -1e9 -1e9\n", number, i);
        row_data(s, t, &a, tuned->labels[i].label, (double)(tuned->label_count - 1 - i) * s->row);
        fputs("END_OF_DATA\n", out);
    }
    for (size_t i = 0; i < tuned->label_count; i++)
        fprintf(out, "%s $row%zu_%zu using 1:2:3:4:5:6 with boxxyerror fillstyle solid noborder linecolor rgb '%s'",
                i ? "," : "plot", number, i, fg_plot_fill(i));
    fputc('\n', out);
}

static void write_all(spread *s, const fg_tunings *t, const char *path)
{
    double top = s->height - 6;
    fg_plot_head(s->out, s->theme, s->width, s->height, path);
    fprintf(s->out,
            "set multiplot\nunset ytics\nunset key\nset border 1 linecolor rgb '%s'\n"
            "set xtics nomirror textcolor rgb '%s'\nset grid xtics back linecolor rgb '%s' linewidth 0.5\n",
            s->theme->ink, s->theme->ink, s->theme->faint);
    for (size_t i = 0; i < t->count; i++) {
        panel(s, t->tunings[i], &t->tuned[i], i, top);
        top -= HEAD + FOOT + s->row * (double)t->tuned[i].label_count;
    }
    fprintf(s->out, "unset multiplot\n");
}

fg_status fg_draw_spread(const fg_tunings *tunings, const fg_draw_options *options, const char *path,
                         fg_mistake *mistake)
{
    fg_script script;
    size_t rows = 0;
    spread s = {.theme = fg_theme_of(options->dark), .width = options->width ? options->width : 1280, .row = ROW};
    *mistake = (fg_mistake){0};
    if (!fg_picture_ending(path))
        return fg_mistake_set(mistake, FG_ERROR_FILE, path, 0, "the ending says how it is to be drawn: .png or .svg");
    for (size_t i = 0; i < tunings->count; i++) rows += tunings->tuned[i].label_count;
    const uint32_t fixed = (uint32_t)tunings->count * (HEAD + FOOT) + 12;
    if (options->height > fixed && rows) s.row = (double)(options->height - fixed) / (double)rows;
    if (s.row < LEAST_ROW) s.row = LEAST_ROW;
    s.height = fixed + (uint32_t)(s.row * (double)rows + 0.5);
    const fg_status status = fg_script_begin(&script, path, mistake);
    if (status != FG_OK) return status;
    s.out = script.text.file;
    write_all(&s, tunings, path);
    return fg_script_end(&script, true, mistake);
}
