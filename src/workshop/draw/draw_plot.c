/* A picture as a script for gnuplot: everything is laid out here in pixels, gnuplot has the axis, the lines, the fonts.
 * Every area has its name beside or inside it besides its colour. */
#include "workshop/draw/draw.h"
#include "workshop/draw/draw_theme.h"
#include "workshop/base/limits.h"
#include "workshop/draw/pipe.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { YES_FILL = FG_FILL_YES, FILLS = FG_FILLS, LEVEL_FILL = 1 };

enum {
    TOP = 44,
    BOTTOM = 66,
    SENSOR_HEIGHT = 92,
    SENSOR_LEAST = 36,
    STRIP_HEIGHT = 20,
    GAP = 7,
    LETTER = 7, /* how wide a letter of the font is, about */
    LINE = 12,  /* how high */
    LABELS_MOST = 64,
    LABEL_LETTERS = 24
};

typedef struct plot {
    const fg_picture *picture;
    FILE *out;
    fg_theme theme;
    uint32_t width, height, sensor_height;
    int left, right; /* margins */
    double unit;     /* ms in a unit of the time axis */
    const char *unit_word;
    uint32_t columns; /* of pixels in the plot */
    double top;       /* of the present lane, in pixels from the bottom of the plot */
} plot;

static double at(const plot *p, int64_t t_ms) { return (double)t_ms / p->unit; }

static double pixel_of(const plot *p, int64_t t_ms)
{
    const fg_picture *picture = p->picture;
    return (double)(t_ms - picture->from_ms) * p->columns / (double)(picture->to_ms - picture->from_ms);
}

static int64_t time_of(const plot *p, double pixel)
{
    const fg_picture *picture = p->picture;
    return picture->from_ms + (int64_t)(pixel * (double)(picture->to_ms - picture->from_ms) / p->columns);
}

static int letters(fg_text text)
{
    int count = 0;
    for (size_t i = 0; i < text.size; i++) count += ((unsigned char)text.at[i] & 0xc0) != 0x80;
    return count;
}

/* ---- texts beside the plot ---- */

/* `x`: in pixels from the left of the picture. */
static void side_label(const plot *p, double x, double y, fg_text text, const char *place, const char *colour)
{
    fputs("set label ", p->out);
    fg_plot_text(p->out, text, 60);
    fprintf(p->out, " at screen %.5f, first %.1f %s front textcolor rgb '%s'\n", x / p->width, y, place, colour);
}

/* ---- sensors ---- */

typedef struct view {
    double bottom, height; /* of the lane */
    double low, high;      /* in steps */
} view;

static double y_of(const view *v, double value)
{
    return v->bottom + (value - v->low) / (v->high - v->low) * v->height;
}

/* Readings, and the limits that are not far from them. */
static view view_of(const plot *p, const fg_lane *lane, const fg_value *limits, size_t limit_count)
{
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
    const double pad = to > from ? 0.08 * (to - from) : 1;
    view v = {p->top - p->sensor_height, p->sensor_height, from - pad, to + pad};
    if (circle && v.low < 0) v.low = 0;
    if (circle && v.high > circle) v.high = circle;
    return v;
}

/* The limits of all rules on a sensor, each once, and the margins around them. */
static size_t limits_on(const plot *p, uint16_t sensor, fg_value *limits, fg_value *margins, size_t most)
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

static void area(const plot *p, const view *v, double from, double to, const char *colour)
{
    if (from < v->low) from = v->low;
    if (to > v->high) to = v->high;
    if (to <= from) return;
    fprintf(p->out,
            "set object rectangle from graph 0, first %.2f to graph 1, first %.2f behind fillcolor rgb '%s' "
            "fillstyle solid noborder\n",
            y_of(v, from), y_of(v, to), colour);
}

/* A name beside its area, unless another stands there already. */
typedef struct labels {
    double y[LABELS_MOST];
    size_t count;
} labels;

static bool is_free(labels *l, double y)
{
    for (size_t i = 0; i < l->count; i++)
        if (y - l->y[i] < LINE && l->y[i] - y < LINE) return false;
    if (l->count == LABELS_MOST) return false;
    l->y[l->count++] = y;
    return true;
}

static void band_part(const plot *p, const view *v, labels *taken, fg_text label, int shade, double from, double to)
{
    if (from < v->low) from = v->low;
    if (to > v->high) to = v->high;
    if (to <= from) return;
    area(p, v, from, to, p->theme.band[shade]);
    const double y = (y_of(v, from) + y_of(v, to)) / 2;
    if (y_of(v, to) - y_of(v, from) >= LINE - 2 && is_free(taken, y))
        side_label(p, (double)p->width - p->right + 54, y,
                   (fg_text){label.at, label.size < LABEL_LETTERS ? label.size : LABEL_LETTERS}, "left", p->theme.ink);
}

/* The bands of the first rule that has some. */
static void draw_bands(const plot *p, const fg_declared *sensor, const view *v)
{
    const fg_program *program = p->picture->program;
    const fg_value circle = program->gate.sensors[sensor->index].circle;
    labels taken = {.count = 0};
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *rule = &program->declared[i];
        if (!fg_kind_is(rule->kind, FG_KIND_LABELS) || rule->sensor != sensor->index) continue;
        const fg_bands *bands = &program->gate.bands[rule->index];
        for (uint16_t k = 0; k < bands->count; k++) {
            const fg_range range = bands->bands[k].range;
            const fg_text label = fg_answer_text(rule, bands->bands[k].label);
            if (circle && range.low > range.high) {
                band_part(p, v, &taken, label, k % 2, range.low, circle);
                band_part(p, v, &taken, label, k % 2, 0, (double)range.high + 1);
            } else {
                band_part(p, v, &taken, label, k % 2, range.low, (double)range.high + 1);
            }
        }
        return;
    }
}

static void draw_limits(const plot *p, const fg_declared *sensor, const view *v, const fg_value *limits,
                        const fg_value *margins, size_t count)
{
    labels taken = {.count = 0};
    for (size_t i = 0; i < count; i++) {
        char text[FG_VALUE_TEXT_SIZE];
        for (int side = -1; side <= 1; side++) {
            const double value = (double)limits[i] + side * (double)margins[i];
            if (value < v->low || value > v->high || (side && !margins[i])) continue;
            fprintf(
                p->out, "set arrow from graph 0, first %.2f to graph 1, first %.2f nohead back linecolor rgb '%s' %s\n",
                y_of(v, value), y_of(v, value), p->theme.limit, side ? "dashtype 3 linewidth 0.8" : "linewidth 1.2");
        }
        if (limits[i] < v->low || limits[i] > v->high || !is_free(&taken, y_of(v, limits[i]))) continue;
        fg_value_short(limits[i], sensor->decimals, text);
        side_label(p, (double)p->width - p->right + 6, y_of(v, limits[i]), fg_text_of(text), "left", p->theme.limit);
    }
}

/* The value nearest to an end of what can be seen, which may lie beyond all values. */
static fg_value value_of_end(double end)
{
    const double near = end < 0 ? end - 0.5 : end + 0.5;
    return near <= INT32_MIN ? INT32_MIN : near >= INT32_MAX ? INT32_MAX : (fg_value)near;
}

/* The two ends of what can be seen, at the axis. */
static void draw_ends(const plot *p, const fg_declared *sensor, const view *v)
{
    char text[FG_VALUE_TEXT_SIZE];
    fg_value_short(value_of_end(v->low), sensor->decimals, text);
    side_label(p, p->left - 6, v->bottom + LINE / 2.0 - 1, fg_text_of(text), "right", p->theme.ink);
    fg_value_short(value_of_end(v->high), sensor->decimals, text);
    side_label(p, p->left - 6, v->bottom + v->height - LINE / 2.0 + 1, fg_text_of(text), "right", p->theme.ink);
}

static void sensor_name(const plot *p, const fg_declared *sensor, const view *v)
{
    char text[80];
    const double y = v->bottom + v->height / 2;
    side_label(p, 10, sensor->unit.size ? y + LINE / 2.0 + 1 : y, sensor->name, "left", p->theme.ink);
    if (!sensor->unit.size) return;
    snprintf(text, sizeof text, "[%.*s]", (int)(sensor->unit.size < 40 ? sensor->unit.size : 40), sensor->unit.at);
    side_label(p, 10, y - LINE / 2.0 - 1, fg_text_of(text), "left", p->theme.ink);
}

/* The curve: in each bucket from its first reading over its lowest and highest to its last. */
static void curve_data(const plot *p, const fg_lane *lane, const view *v)
{
    const double half = p->picture->program->gate.sensors[lane->declared->index].circle / 2.0;
    const fg_bucket *before = NULL;
    bool open = false;
    for (size_t i = 0; i < FG_BUCKETS; i++) {
        const fg_bucket *b = &lane->buckets[i];
        const double t = at(p, p->picture->from_ms + (int64_t)i * p->picture->bucket_ms);
        if (b->faulty && open) fputs("\n", p->out);
        if (b->faulty) open = false;
        if (!b->seen) continue;
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
    fputs("\n", p->out);
}

/* Times in which the sensor was faulty, as boxes over the whole lane. */
static void fault_data(const plot *p, const fg_lane *lane, const view *v)
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
        double a = pixel_of(p, from), b = pixel_of(p, to);
        if (b - a < 6) {
            from = time_of(p, (a + b) / 2 - 3);
            to = time_of(p, (a + b) / 2 + 3);
        }
        fprintf(p->out, "%.9g %.2f %.9g %.9g %.2f %.2f\n", at(p, (from + to) / 2), v->bottom, at(p, from), at(p, to),
                v->bottom, v->bottom + v->height);
    }
}

/* ---- strips ---- */

typedef struct strip_box {
    double from, to; /* pixels */
    int fill;        /* of fills; -1: hatched, -2: a line */
    fg_text text;
} strip_box;

/* Levels in the order in which they first came; of many, two fills in turn tell where one ends. */
static int level_fill(const fg_lane *lane, const fg_stretch *s)
{
    if (lane->level_count < FILLS - 1 && s->level < lane->level_count) return (LEVEL_FILL + s->level) % (FILLS - 1);
    return (s - lane->stretches) % 2 ? LEVEL_FILL : 0;
}

static int fill_of(const fg_lane *lane, const fg_stretch *s)
{
    const fg_declared *d = lane->declared;
    if (s->unsure) return -1;
    if (s->rest) return -2;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT) || d->kind == FG_KIND_COUNT) return level_fill(lane, s);
    if (!fg_kind_is(d->kind, FG_KIND_LABELS)) return YES_FILL;
    for (uint16_t i = 0; i < d->label_count; i++)
        if (fg_text_same(d->labels[i], fg_text_of(s->text))) return i % (FILLS - 1);
    return -2; /* none */
}

/* Goes through the stretches of a lane as boxes; what is shorter than a pixel is drawn as a pixel and a half, one for
 * each column. */
static void each_box(const plot *p, const fg_lane *lane, double y,
                     void (*put)(const plot *p, const strip_box *box, double y))
{
    double last = -10;
    for (size_t i = 0; i < lane->stretch_count; i++) {
        const fg_stretch *s = &lane->stretches[i];
        const int64_t end = i + 1 < lane->stretch_count ? s[1].t_ms : p->picture->to_ms;
        strip_box box = {pixel_of(p, s->t_ms), pixel_of(p, end), fill_of(lane, s), fg_text_of(s->text)};
        if (box.from > p->columns) return;
        if (box.to - box.from < 1.5) {
            if (box.fill == -2 || box.from - last < 1) continue;
            last = box.from;
            box.to = box.from + 1.5;
        }
        put(p, &box, y);
    }
}

static void put_rect(const plot *p, const strip_box *box, double y, double half)
{
    fprintf(p->out, "%.9g %.2f %.9g %.9g %.2f %.2f", at(p, time_of(p, (box->from + box->to) / 2)), y,
            at(p, time_of(p, box->from)), at(p, time_of(p, box->to)), y - half, y + half);
}

static void put_solid(const plot *p, const strip_box *box, double y)
{
    if (box->fill < 0) return;
    put_rect(p, box, y, STRIP_HEIGHT / 2.0);
    fprintf(p->out, " 0x%s\n", fg_plot_fill((size_t)box->fill) + 1);
}

static void put_hatched(const plot *p, const strip_box *box, double y)
{
    if (box->fill != -1) return;
    put_rect(p, box, y, STRIP_HEIGHT / 2.0);
    fputc('\n', p->out);
}

static void put_line(const plot *p, const strip_box *box, double y)
{
    if (box->fill == -2)
        fprintf(p->out, "%.9g %.2f\n%.9g %.2f\n\n", at(p, time_of(p, box->from)), y, at(p, time_of(p, box->to)), y);
}

/* Inside, if there is room. */
static void put_name(const plot *p, const strip_box *box, double y)
{
    const bool yes = box->fill == YES_FILL && fg_text_same(box->text, fg_text_of("yes"));
    if (box->fill < 0 || yes || box->to - box->from < letters(box->text) * LETTER + 8) return;
    fprintf(p->out, "%.9g %.2f ", at(p, time_of(p, (box->from + box->to) / 2)), y);
    fg_plot_datum(p->out, box->text, 100);
    fprintf(p->out, " 0x%s\n", fg_plot_fill_is_pale((size_t)box->fill) ? "101418" : "ffffff");
}

/* ---- marks of trials ---- */

static void mark_data(const plot *p, double y, bool held, bool spans)
{
    const fg_draw_options *o = p->picture->options;
    for (size_t i = 0; i < o->mark_count; i++) {
        const fg_draw_mark *m = &o->marks[i];
        if (m->held != held || m->from_ms > p->picture->to_ms || m->to_ms < p->picture->from_ms) continue;
        if (spans && m->to_ms > m->from_ms)
            fprintf(p->out, "%.9g %.2f\n%.9g %.2f\n\n", at(p, m->from_ms), y, at(p, m->to_ms), y);
        if (!spans) fprintf(p->out, "%.9g %.2f\n", at(p, (m->from_ms + m->to_ms) / 2), y);
    }
}

/* ---- the whole of it ---- */

typedef struct unit {
    const char *word;
    double ms;
} unit;

static void choose_unit(plot *p)
{
    static const unit units[] = {
#define AXIS_UNIT(word, ms) {word, ms},
        FG_TIME_UNITS(AXIS_UNIT)
#undef AXIS_UNIT
            {"days", 86400000}};
    const double span = (double)(p->picture->to_ms - p->picture->from_ms);
    const unit *u = span < 2000         ? &units[0]
                    : span < 600500     ? &units[1]
                    : span < 3.6e6 * 3  ? &units[2]
                    : span < 8.64e7 * 3 ? &units[3]
                                        : &units[4];
    p->unit = u->ms;
    p->unit_word = u->word;
}

static void lay_out(plot *p)
{
    const fg_picture *picture = p->picture;
    const fg_draw_options *o = picture->options;
    const size_t strips = picture->lane_count - picture->sensor_count + (o->mark_count ? 1 : 0);
    int names = 8, bands = 0;
    for (size_t i = 0; i < picture->lane_count; i++) {
        const fg_declared *d = picture->lanes[i].declared;
        if (letters(d->name) > names) names = letters(d->name);
    }
    for (uint32_t i = 0; i < picture->program->declared_count; i++) {
        const fg_declared *d = &picture->program->declared[i];
        for (uint16_t k = 0; fg_kind_is(d->kind, FG_KIND_LABELS) && k < d->label_count; k++)
            if (letters(d->labels[k]) > bands) bands = letters(d->labels[k]);
    }
    if (names > 36) names = 36;
    if (bands > LABEL_LETTERS) bands = LABEL_LETTERS;
    p->left = 10 + names * (LETTER + 1) + 46;
    p->right = 60 + (picture->sensor_count ? bands * (LETTER + 1) : 0);
    p->width = o->width ? o->width : 1280;
    const uint32_t fixed =
        TOP + BOTTOM + (uint32_t)strips * (STRIP_HEIGHT + GAP) + (uint32_t)picture->sensor_count * GAP;
    p->sensor_height = SENSOR_HEIGHT;
    p->height = o->height ? o->height : fixed + (uint32_t)picture->sensor_count * SENSOR_HEIGHT;
    if (o->height && picture->sensor_count) {
        p->sensor_height = o->height > fixed ? (o->height - fixed) / (uint32_t)picture->sensor_count : 0;
        if (p->sensor_height < SENSOR_LEAST) p->sensor_height = SENSOR_LEAST;
    }
    const uint32_t needed = fixed + (uint32_t)picture->sensor_count * p->sensor_height;
    if (p->height < needed) p->height = needed;
    p->columns = p->width > (uint32_t)(p->left + p->right + 100) ? p->width - (uint32_t)(p->left + p->right) : 100;
    p->top = p->height - TOP - BOTTOM;
    choose_unit(p);
}

static void write_head(const plot *p, const char *path)
{
    FILE *out = p->out;
    const char *title = p->picture->options->title;
    fg_plot_head(out, &p->theme, p->width, p->height, path);
    fprintf(out,
            "set lmargin at screen %.5f\nset rmargin at screen %.5f\nset tmargin at screen %.5f\n"
            "set bmargin at screen %.5f\n",
            (double)p->left / p->width, 1 - (double)p->right / p->width, 1 - (double)TOP / p->height,
            (double)BOTTOM / p->height);
    fprintf(out,
            "set xrange [%.9g:%.9g]\nset yrange [0:%u]\nunset ytics\nunset key\nset border 1 linecolor rgb '%s'\n"
            "set xtics nomirror textcolor rgb '%s'\nset grid xtics back linecolor rgb '%s' linewidth 0.5\n"
            "set xlabel 'time [%s]' textcolor rgb '%s' offset 0,0.4\n",
            at(p, p->picture->from_ms), at(p, p->picture->to_ms), p->height - TOP - BOTTOM, p->theme.ink, p->theme.ink,
            p->theme.faint, p->unit_word, p->theme.ink);
    fputs("set label ", out);
    fg_plot_text(out, fg_text_of(title ? title : ""), 120);
    fprintf(out, " at screen %.5f, screen %.5f left font ',12' textcolor rgb '%s'\n", 10.0 / p->width,
            1 - 20.0 / p->height, p->theme.ink);
    fprintf(out,
            "set label \"filled: yes, or the label or level written in it    line: no, or at rest    hatched: "
            "unsure or faulty    orange line: a limit, dotted its margin%s\" at screen %.5f, screen %.5f left "
            "font ',8' textcolor rgb '%s'\n",
            p->picture->options->mark_count ? "    triangle: expected and held, cross: broken" : "", 10.0 / p->width,
            14.0 / p->height, p->theme.ink);
}

/* Everything of the lanes that is not data, and their places. */
static double *write_lanes(plot *p, view *views)
{
    const fg_picture *picture = p->picture;
    double *middles = malloc((picture->lane_count + 2) * sizeof *middles);
    for (size_t i = 0; middles && i < picture->lane_count; i++) {
        const fg_lane *lane = &picture->lanes[i];
        const fg_declared *d = lane->declared;
        if (!lane->buckets) {
            middles[i] = p->top - STRIP_HEIGHT / 2.0;
            side_label(p, 10, middles[i], d->name, "left", p->theme.ink);
            p->top -= STRIP_HEIGHT + GAP;
            continue;
        }
        fg_value limits[LABELS_MOST], margins[LABELS_MOST];
        const size_t count = limits_on(p, d->index, limits, margins, LABELS_MOST);
        views[i] = view_of(p, lane, limits, count);
        draw_bands(p, d, &views[i]);
        draw_limits(p, d, &views[i], limits, margins, count);
        draw_ends(p, d, &views[i]);
        sensor_name(p, d, &views[i]);
        fprintf(p->out,
                "set object rectangle from graph 0, first %.2f to graph 1, first %.2f fillstyle empty border "
                "linecolor rgb '%s' back\n",
                views[i].bottom, p->top, p->theme.faint);
        p->top -= p->sensor_height + GAP;
    }
    if (middles && picture->options->mark_count) {
        middles[picture->lane_count] = p->top - STRIP_HEIGHT / 2.0;
        side_label(p, 10, middles[picture->lane_count], fg_text_of("expected"), "left", p->theme.ink);
    }
    return middles;
}

/* A block of data; one point far outside, so that it is never empty. */
static void block(const plot *p, const char *name, int columns)
{
    fprintf(p->out, "$%s << END_OF_DATA\n", name);
    for (int i = 0; i < columns; i++) fprintf(p->out, i == 2 && columns == 4 ? "\"\" " : "-1e9 ");
    fputs(columns == 2 ? "\n\n" : "\n", p->out);
}

static void end_block(const plot *p) { fputs("END_OF_DATA\n", p->out); }

static void write_data(const plot *p, const view *views, const double *middles)
{
    static const struct {
        const char *name;
        int columns;
        void (*put)(const plot *p, const strip_box *box, double y);
    } strips[] = {
        {"solid", 7, put_solid}, {"hatched", 6, put_hatched}, {"resting", 2, put_line}, {"names", 4, put_name}};
    const fg_picture *picture = p->picture;
    block(p, "curves", 2);
    for (size_t i = 0; i < picture->sensor_count; i++) curve_data(p, &picture->lanes[i], &views[i]);
    end_block(p);
    block(p, "faults", 6);
    for (size_t i = 0; i < picture->sensor_count; i++) fault_data(p, &picture->lanes[i], &views[i]);
    end_block(p);
    for (size_t k = 0; k < sizeof strips / sizeof *strips; k++) {
        block(p, strips[k].name, strips[k].columns);
        for (size_t i = picture->sensor_count; i < picture->lane_count; i++)
            each_box(p, &picture->lanes[i], middles[i], strips[k].put);
        end_block(p);
    }
    const double y = middles[picture->lane_count];
    block(p, "held", 2);
    if (picture->options->mark_count) mark_data(p, y, true, false);
    end_block(p);
    block(p, "broken", 2);
    if (picture->options->mark_count) mark_data(p, y, false, false);
    end_block(p);
    block(p, "spans", 2);
    if (picture->options->mark_count) {
        mark_data(p, y, true, true);
        mark_data(p, y, false, true);
    }
    end_block(p);
}

static void write_plot(const plot *p)
{
    const fg_theme *t = &p->theme;
    fprintf(
        p->out,
        "plot $faults using 1:2:3:4:5:6 with boxxyerror fillstyle transparent pattern 4 noborder linecolor rgb '%s', "
        "$curves using 1:2 with lines linecolor rgb '%s' linewidth 1.3, "
        "$resting using 1:2 with lines linecolor rgb '%s' linewidth 1, "
        "$solid using 1:2:3:4:5:6:7 with boxxyerror fillstyle solid noborder linecolor rgb variable, "
        "$solid using 1:2:3:4:5:6 with boxxyerror linecolor rgb '%s' linewidth 0.6 fillstyle empty border linecolor "
        "rgb '%s', "
        "$hatched using 1:2:3:4:5:6 with boxxyerror linecolor rgb '%s' fillstyle transparent pattern 4 border "
        "linecolor rgb '%s', "
        "$spans using 1:2 with lines linecolor rgb '%s' linewidth 2, "
        "$held using 1:2 with points pointtype 9 pointsize 1.2 linecolor rgb '%s', "
        "$broken using 1:2 with points pointtype 2 pointsize 1.4 linewidth 2.5 linecolor rgb '%s', "
        "$names using 1:2:3:4 with labels font ',8' textcolor rgb variable\n",
        t->fault, t->curve, t->ink, t->paper, t->paper, t->fault, t->fault, t->ink, t->held, t->fault);
}

fg_status fg_plot(const fg_picture *picture, const char *path, fg_mistake *mistake)
{
    fg_script script;
    const fg_status status = fg_script_begin(&script, path, mistake);
    if (status != FG_OK) return status;
    plot p = {.picture = picture, .theme = *fg_theme_of(picture->options->dark), .out = script.text.file};
    view *views = calloc(picture->sensor_count + 1, sizeof *views);
    double *middles = NULL;
    if (views) {
        lay_out(&p);
        write_head(&p, path);
        middles = write_lanes(&p, views);
    }
    if (middles) {
        write_data(&p, views, middles);
        write_plot(&p);
    }
    const bool good = middles != NULL;
    free(views);
    free(middles);
    return fg_script_end(&script, good, mistake);
}
