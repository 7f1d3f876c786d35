/* SPDX-License-Identifier: MIT */
/* The lane of a sensor: its axis, its bands, limits and margins, and the curve. */
#include "workshop/draw/plot.h"

#include "workshop/base/limits.h"

#include <stdlib.h>

enum { LABELS_MOST = 64 };

static double y_of(const fg_plot_view *v, double value)
{
    return v->bottom + (value - v->low) / (v->high - v->low) * v->height;
}

/* ---- the axis ---- */

/* A step of 1, 2 or 5 times a power of ten, so that there are at most `most` in a range. At least a step of the sensor.
 */
static double nice_step(double range, int most)
{
    double step = 1;
    while (range > most * step) {
        if (range <= 2.0 * most * step) return 2 * step;
        if (range <= 5.0 * most * step) return 5 * step;
        step *= 10;
    }
    return step;
}

static double rounded_down(double value, double step)
{
    const double whole = (double)(int64_t)(value / step) * step;
    return whole > value ? whole - step : whole;
}

static double rounded_up(double value, double step) { return -rounded_down(-value, step); }

/* From the lowest to the highest reading, and the limits that are not far from them, rounded outwards to the marks of
 * the axis. A limit at an end keeps room beyond it. */
static fg_plot_view view_of(const fg_plotter *p, const fg_lane *lane, const fg_value *limits, size_t limit_count)
{
    enum { MARKS = 6 };
    const fg_value circle = p->picture->program->gate.sensors[lane->declared->index].circle;
    fg_value low = INT32_MAX, high = INT32_MIN;
    for (size_t i = 0; i < FG_BUCKETS; i++) {
        if (!lane->buckets[i].seen) continue;
        if (lane->buckets[i].lowest < low) low = lane->buckets[i].lowest;
        if (lane->buckets[i].highest > high) high = lane->buckets[i].highest;
    }
    if (low > high) low = high = 0;
    const double range = (double)high - low, reach = range > 0 ? 0.75 * range : 10;
    double from = low, to = high;
    for (size_t i = 0; i < limit_count; i++) {
        if (limits[i] < from && limits[i] >= low - reach) from = limits[i];
        if (limits[i] > to && limits[i] <= high + reach) to = limits[i];
    }
    if (to <= from) {
        from -= 1;
        to += 1;
    }
    fg_plot_view v = {p->top - p->sensor_height, p->sensor_height, 0, 0, nice_step(to - from, MARKS)};
    v.low = rounded_down(from, v.tick);
    v.high = rounded_up(to, v.tick);
    for (size_t i = 0; i < limit_count; i++) {
        if (limits[i] == v.low) v.low -= v.tick;
        if (limits[i] == v.high) v.high += v.tick;
    }
    if (circle && v.low < 0) v.low = 0;
    if (circle && v.high > circle) v.high = circle;
    return v;
}

static fg_value value_of(double value)
{
    return value <= INT32_MIN   ? INT32_MIN
           : value >= INT32_MAX ? INT32_MAX
                                : (fg_value)(value < 0 ? value - 0.5 : value + 0.5);
}

/* The marks of the axis with their numbers, none on another. */
static void draw_axis(const fg_plotter *p, const fg_declared *sensor, const fg_plot_view *v)
{
    char text[FG_VALUE_TEXT_SIZE];
    double last = -1e9, value = rounded_up(v->low, v->tick);
    for (;;) {
        if (value > v->high) value = v->high; /* the end of a circle is no multiple */
        const double y = y_of(v, value);
        const double inside = y < v->bottom + FG_PLOT_LINE / 2.0 ? v->bottom + FG_PLOT_LINE / 2.0
                              : y > v->bottom + v->height - FG_PLOT_LINE / 2.0
                                  ? v->bottom + v->height - FG_PLOT_LINE / 2.0
                                  : y;
        fg_value_short(value_of(value), sensor->decimals, text);
        if (inside - last >= FG_PLOT_LINE)
            fg_plot_label(p, p->left - 8, inside, fg_text_of(text), "right", p->theme.ink);
        if (inside - last >= FG_PLOT_LINE) last = inside;
        fprintf(p->out,
                "set arrow from screen %.5f, first %.2f to graph 0, first %.2f nohead back linecolor rgb '%s' "
                "linewidth 0.8\n",
                (p->left - 4.0) / p->width, y, y, p->theme.ink);
        if (value >= v->high) return;
        value += v->tick;
    }
}

/* ---- texts beside the lane ---- */

typedef struct beside {
    double y;
    char text[80];
} beside;

static int by_height(const void *a, const void *b)
{
    const beside *x = a, *y = b;
    return (x->y > y->y) - (x->y < y->y);
}

/* Moves those apart that would stand on each other: from below upwards, then down again where they left the lane. */
static void put_beside(const fg_plotter *p, const fg_plot_view *v, beside *texts, size_t count, double x,
                       const char *colour)
{
    qsort(texts, count, sizeof *texts, by_height);
    for (size_t i = 1; i < count; i++)
        if (texts[i].y < texts[i - 1].y + FG_PLOT_LINE) texts[i].y = texts[i - 1].y + FG_PLOT_LINE;
    double most = v->bottom + v->height;
    for (size_t i = count; i-- > 0;) {
        if (texts[i].y > most) texts[i].y = most;
        most = texts[i].y - FG_PLOT_LINE;
    }
    for (size_t i = 0; i < count; i++) fg_plot_label(p, x, texts[i].y, fg_text_of(texts[i].text), "left", colour);
}

/* ---- bands and limits ---- */

static void area(const fg_plotter *p, const fg_plot_view *v, double from, double to, const char *colour)
{
    if (from < v->low) from = v->low;
    if (to > v->high) to = v->high;
    if (to <= from) return;
    fprintf(p->out,
            "set object rectangle from graph 0, first %.2f to graph 1, first %.2f behind fillcolor rgb '%s' "
            "fillstyle solid noborder\n",
            y_of(v, from), y_of(v, to), colour);
}

typedef struct names {
    beside texts[LABELS_MOST];
    size_t count;
} names;

static void band_part(fg_plotter *p, const fg_plot_view *v, names *n, fg_text label, double from, double to)
{
    if (from < v->low) from = v->low;
    if (to > v->high) to = v->high;
    if (to <= from) return;
    char pale[FG_COLOUR_TEXT];
    area(p, v, from, to, fg_plot_mixed(&p->theme, fg_plot_fill(fg_plot_fill_of(p, label)), 25, pale));
    if (n->count == LABELS_MOST) return;
    n->texts[n->count].y = (y_of(v, from) + y_of(v, to)) / 2;
    fg_text_keep(n->texts[n->count++].text, sizeof n->texts->text, label);
}

/* The bands of the first rule that has some. */
static void draw_bands(fg_plotter *p, const fg_declared *sensor, const fg_plot_view *v)
{
    const fg_program *program = p->picture->program;
    const fg_value circle = program->gate.sensors[sensor->index].circle;
    names n = {.count = 0};
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *rule = &program->declared[i];
        if (!fg_kind_is(rule->kind, FG_KIND_LABELS) || rule->sensor != sensor->index) continue;
        const fg_bands *bands = &program->gate.bands[rule->index];
        for (uint16_t k = 0; k < bands->count; k++) {
            const fg_range range = bands->bands[k].range;
            const fg_text label = fg_answer_text(rule, bands->bands[k].label);
            if (circle && range.low > range.high) {
                band_part(p, v, &n, label, range.low, circle);
                band_part(p, v, &n, label, 0, (double)range.high + 1);
            } else {
                band_part(p, v, &n, label, range.low, (double)range.high + 1);
            }
        }
        break;
    }
    put_beside(p, v, n.texts, n.count, (double)p->width - p->right + 60, p->theme.ink);
}

/* Between the two limits of a hysteresis its answer stays. */
static void draw_dead_bands(const fg_plotter *p, const fg_declared *sensor, const fg_plot_view *v)
{
    const fg_program *program = p->picture->program;
    char pale[FG_COLOUR_TEXT];
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *rule = &program->declared[i];
        if (rule->kind != FG_KIND_HYSTERESIS || rule->sensor != sensor->index) continue;
        const fg_hysteresis *h = &program->gate.hysteresis[rule->index];
        const bool up = h->on.high == INT32_MAX;
        area(p, v, up ? h->off.high : h->on.high, up ? h->on.low : h->off.low,
             fg_plot_mixed(&p->theme, p->theme.faint, 40, pale));
    }
}

/* The limits of all rules on a sensor, each once, and the margins around them. */
static size_t limits_on(const fg_plotter *p, uint16_t sensor, fg_value *limits, fg_value *margins, size_t most)
{
    const fg_program *program = p->picture->program;
    fg_value own[FG_LIMITS_MOST];
    size_t count = 0;
    for (uint16_t slot = 0; slot < program->gate.size.ops; slot++) {
        const fg_op *op = &program->gate.ops[slot];
        if (!fg_op_is(op->kind, FG_OP_ON_SENSOR) || op->a != sensor) continue;
        const size_t more = fg_limits_of(program, slot, own);
        for (size_t i = 0; i < more && count < most; i++) {
            size_t k = 0;
            while (k < count && limits[k] != own[i]) k++;
            if (k == count) {
                limits[count] = own[i];
                margins[count++] = 0;
            }
            if (program->op_sources[slot].margin > margins[k]) margins[k] = program->op_sources[slot].margin;
        }
    }
    return count;
}

static void draw_limits(const fg_plotter *p, const fg_declared *sensor, const fg_plot_view *v, const fg_value *limits,
                        const fg_value *margins, size_t count)
{
    beside texts[LABELS_MOST];
    size_t told = 0;
    for (size_t i = 0; i < count; i++) {
        for (int side = -1; side <= 1; side++) {
            const double value = (double)limits[i] + side * (double)margins[i];
            if (value < v->low || value > v->high || (side && !margins[i])) continue;
            fprintf(
                p->out, "set arrow from graph 0, first %.2f to graph 1, first %.2f nohead back linecolor rgb '%s' %s\n",
                y_of(v, value), y_of(v, value), p->theme.limit, side ? "dashtype 3 linewidth 0.8" : "linewidth 1.2");
        }
        if (limits[i] < v->low || limits[i] > v->high) continue;
        texts[told].y = y_of(v, limits[i]);
        fg_value_short(limits[i], sensor->decimals, texts[told++].text);
    }
    if (told) put_beside(p, v, texts, told, (double)p->width - p->right + 6, p->theme.limit);
}

static void draw_name(const fg_plotter *p, const fg_declared *sensor, const fg_plot_view *v)
{
    char text[80];
    const double y = v->bottom + v->height / 2;
    fg_plot_label(p, 10, sensor->unit.size ? y + FG_PLOT_LINE / 2.0 + 1 : y, sensor->name, "left", p->theme.ink);
    if (!sensor->unit.size) return;
    snprintf(text, sizeof text, "[%.*s]", (int)(sensor->unit.size < 40 ? sensor->unit.size : 40), sensor->unit.at);
    fg_plot_label(p, 10, y - FG_PLOT_LINE / 2.0 - 1, fg_text_of(text), "left", p->theme.ink);
}

void fg_plot_sensor(fg_plotter *p, const fg_lane *lane, fg_plot_view *view)
{
    const fg_declared *d = lane->declared;
    fg_value limits[LABELS_MOST], margins[LABELS_MOST];
    const size_t count = limits_on(p, d->index, limits, margins, LABELS_MOST);
    *view = view_of(p, lane, limits, count);
    draw_bands(p, d, view);
    draw_dead_bands(p, d, view);
    draw_limits(p, d, view, limits, margins, count);
    draw_axis(p, d, view);
    draw_name(p, d, view);
    fprintf(p->out,
            "set object rectangle from graph 0, first %.2f to graph 1, first %.2f fillstyle empty border "
            "linecolor rgb '%s' back\n",
            view->bottom, p->top, p->theme.faint);
}

/* ---- data ---- */

/* The curve: in each bucket from its first reading over its lowest and highest to its last. Without `every` a reading
 * holds until the next one comes, so the line stays where it is up to there. */
void fg_plot_sensor_curve(const fg_plotter *p, const fg_lane *lane, const fg_plot_view *v)
{
    const double half = p->picture->program->gate.sensors[lane->declared->index].circle / 2.0;
    const bool holds = !p->picture->program->gate.every;
    const fg_bucket *before = NULL;
    bool open = false;
    for (size_t i = 0; i < FG_BUCKETS; i++) {
        const fg_bucket *b = &lane->buckets[i];
        const double t = fg_plot_at(p, p->picture->from_ms + (int64_t)i * p->picture->bucket_ms);
        if (b->faulty && open && holds) fprintf(p->out, "%.9g %.2f\n", t, y_of(v, before->last));
        if (b->faulty && open) fputs("\n", p->out);
        if (b->faulty) open = false;
        if (!b->seen) continue;
        if (holds && open) fprintf(p->out, "%.9g %.2f\n", t, y_of(v, before->last));
        /* round a circle the line does not cross the whole lane */
        const double jump = before ? (double)b->first - before->last : 0;
        if (half > 0 && open && (jump > half || jump < -half)) fputs("\n", p->out);
        before = b;
        open = true;
        fprintf(p->out, "%.9g %.2f\n", t, y_of(v, b->first));
        if (half > 0 && (double)b->highest - b->lowest > half) {
            fprintf(p->out, "\n%.9g %.2f\n", t, y_of(v, b->last));
            continue;
        }
        if (b->lowest != b->first) fprintf(p->out, "%.9g %.2f\n", t, y_of(v, b->lowest));
        if (b->highest != b->first) fprintf(p->out, "%.9g %.2f\n", t, y_of(v, b->highest));
        if (b->last != b->highest || b->highest != b->first) fprintf(p->out, "%.9g %.2f\n", t, y_of(v, b->last));
    }
    if (holds && open) fprintf(p->out, "%.9g %.2f\n", fg_plot_at(p, p->picture->to_ms), y_of(v, before->last));
    fputs("\n", p->out);
}

/* Times in which the sensor was faulty, as boxes over the whole lane. */
void fg_plot_sensor_faults(const fg_plotter *p, const fg_lane *lane, const fg_plot_view *v)
{
    const fg_picture *picture = p->picture;
    for (size_t i = 0, end; i < FG_BUCKETS; i = end) {
        end = i + 1;
        if (!lane->buckets[i].faulty) continue;
        /* up to the next good reading */
        while (end < FG_BUCKETS && (lane->buckets[end].faulty || !lane->buckets[end].seen)) end++;
        int64_t from = picture->from_ms + (int64_t)i * picture->bucket_ms;
        int64_t to = picture->from_ms + (int64_t)end * picture->bucket_ms;
        if (to > picture->to_ms) to = picture->to_ms;
        double a = fg_plot_pixel(p, from), b = fg_plot_pixel(p, to);
        if (b - a < 6) {
            from = fg_plot_time(p, (a + b) / 2 - 3);
            to = fg_plot_time(p, (a + b) / 2 + 3);
        }
        fprintf(p->out, "%.9g %.2f %.9g %.9g %.2f %.2f\n", fg_plot_at(p, (from + to) / 2), v->bottom,
                fg_plot_at(p, from), fg_plot_at(p, to), v->bottom, v->bottom + v->height);
    }
}
