/* SPDX-License-Identifier: MIT */
/* A picture as a script for gnuplot: everything is laid out here in pixels, gnuplot has the axis, the lines, the fonts.
 * Every area has its name beside or inside it besides its colour. */
#include "workshop/draw/pipe.h"
#include "workshop/draw/plot.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

enum { LABEL_LETTERS = 40, NOTE_LETTER = 6, NOTE_LINE = 14, MARK_ROW = 24 };

/* ---- marks of trials ---- */

/* A line number needs room beside its mark, so marks that come close stand in several rows. */
typedef struct mark_row {
    double end; /* in pixels */
} mark_row;

enum { MARK_ROWS = 12 };

typedef void put_mark(const fg_plotter *p, const fg_draw_mark *mark, uint32_t row, void *context);

static uint32_t each_mark(const fg_plotter *p, put_mark *put, void *context)
{
    const fg_draw_options *o = p->picture->options;
    mark_row rows[MARK_ROWS];
    uint32_t used = 0;
    for (uint32_t i = 0; i < MARK_ROWS; i++) rows[i].end = -1e9;
    for (size_t i = 0; i < o->mark_count; i++) {
        const fg_draw_mark *m = &o->marks[i];
        if (m->from_ms > p->picture->to_ms || m->to_ms < p->picture->from_ms) continue;
        const double from = fg_plot_pixel(p, m->from_ms), to = fg_plot_pixel(p, m->to_ms), middle = (from + to) / 2;
        const double left = from < middle - 14 ? from : middle - 14, right = to > middle + 14 ? to : middle + 14;
        uint32_t row = 0;
        while (row + 1 < MARK_ROWS && left < rows[row].end + 2) row++;
        rows[row].end = right > rows[row].end ? right : rows[row].end;
        if (row + 1 > used) used = row + 1;
        if (put) put(p, m, row, context);
    }
    return used;
}

/* ---- the whole of it ---- */

typedef struct unit {
    const char *word;
    double ms;
} unit;

static void choose_unit(fg_plotter *p)
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

/* What stands right of a lane, at most. */
static int widest_label(const fg_plotter *p)
{
    int most = 0;
    for (uint32_t i = 0; i < p->picture->program->declared_count; i++) {
        const fg_declared *d = &p->picture->program->declared[i];
        for (uint16_t k = 0; fg_kind_is(d->kind, FG_KIND_LABELS) && k < d->label_count; k++)
            if (fg_plot_letters(d->labels[k]) > most) most = fg_plot_letters(d->labels[k]);
    }
    return most < LABEL_LETTERS ? most : LABEL_LETTERS;
}

/* A text of the list below the picture: a number, a name, what it stands for. With `out` NULL it only takes its place.
 */
typedef struct note_writer {
    FILE *out;
    uint32_t lines;
    double x;
} note_writer;

static void write_note(const fg_plotter *p, note_writer *w, const char *number, fg_text name, fg_text text)
{
    const int letters = fg_plot_letters(fg_text_of(number)) + fg_plot_letters(name) + fg_plot_letters(text);
    const double wide = (double)(letters + 6) * NOTE_LETTER;
    if (!w->lines || w->x + wide > p->width - 20) {
        w->lines++;
        w->x = 10;
    }
    if (w->out) {
        fputs("set label ", w->out);
        fg_plot_text(w->out, fg_text_of(number), SIZE_MAX);
        fputs(".", w->out);
        fg_plot_text(w->out, name, SIZE_MAX);
        fputs(".': '.", w->out);
        fg_plot_text(w->out, text, SIZE_MAX);
        fprintf(w->out, " at screen %.5f, screen %.5f left font ',8' textcolor rgb '%s'\n", w->x / p->width,
                (14.0 + NOTE_LINE * (p->note_lines - w->lines + 1)) / p->height, p->theme.ink);
    }
    w->x += wide;
}

/* Returns how many lines they take. */
static uint32_t write_notes(const fg_plotter *p, FILE *out)
{
    note_writer w = {.out = out};
    char text[80];
    for (size_t i = 0; i < p->note_count; i++) {
        snprintf(text, sizeof text, "%zu ", i + 1);
        write_note(p, &w, text, p->picture->lanes[p->notes[i].lane].declared->name, fg_text_of(p->notes[i].text));
    }
    for (size_t i = 0; i < p->picture->lane_count; i++) {
        if (!p->crowded[i]) continue;
        snprintf(text, sizeof text, "%zu texts without room; fickle replay lists them", p->crowded[i]);
        write_note(p, &w, "", p->picture->lanes[i].declared->name, fg_text_of(text));
    }
    return w.lines;
}

/* Every lane is as high as it needs; with a height of their own pictures of few lanes have higher ones. */
static bool lay_out(fg_plotter *p)
{
    const fg_picture *picture = p->picture;
    const fg_draw_options *o = picture->options;
    int names = 8;
    for (size_t i = 0; i < picture->lane_count; i++)
        if (fg_plot_letters(picture->lanes[i].declared->name) > names)
            names = fg_plot_letters(picture->lanes[i].declared->name);
    if (names > LABEL_LETTERS) names = LABEL_LETTERS;
    p->left = 10 + names * (FG_PLOT_LETTER + 1) + 56;
    p->right = 66 + (picture->sensor_count ? widest_label(p) * (FG_PLOT_LETTER + 1) : 0);
    p->width = o->width ? o->width : 1280;
    p->columns = p->width > (uint32_t)(p->left + p->right + 100) ? p->width - (uint32_t)(p->left + p->right) : 100;
    choose_unit(p);
    p->strips = calloc(picture->lane_count + 1, sizeof *p->strips);
    p->crowded = calloc(picture->lane_count + 1, sizeof *p->crowded);
    if (!p->strips || !p->crowded) return false;
    uint32_t fixed = FG_PLOT_TOP + FG_PLOT_BOTTOM + (uint32_t)picture->sensor_count * FG_PLOT_GAP;
    for (size_t i = picture->sensor_count; i < picture->lane_count; i++) {
        p->strips[i] = fg_plot_strip_of(&picture->lanes[i]);
        fixed += (uint32_t)p->strips[i].height + FG_PLOT_GAP;
        fg_plot_collect_notes(p, i);
    }
    p->mark_rows = each_mark(p, NULL, NULL);
    p->note_lines = write_notes(p, NULL);
    fixed += p->mark_rows * MARK_ROW + p->note_lines * NOTE_LINE;
    const uint32_t sensors = (uint32_t)picture->sensor_count;
    p->sensor_height = FG_PLOT_SENSOR;
    if (sensors && o->height > fixed + sensors * FG_PLOT_SENSOR) p->sensor_height = (o->height - fixed) / sensors;
    p->height = fixed + sensors * p->sensor_height;
    if (o->height > p->height) p->height = o->height;
    p->top = p->height - FG_PLOT_TOP - FG_PLOT_BOTTOM - (double)p->note_lines * NOTE_LINE;
    return true;
}

static void write_head(const fg_plotter *p, const char *path)
{
    FILE *out = p->out;
    const char *title = p->picture->options->title;
    const double bottom = FG_PLOT_BOTTOM + (double)p->note_lines * NOTE_LINE;
    fg_plot_head(out, &p->theme, p->width, p->height, path);
    fprintf(out,
            "set lmargin at screen %.5f\nset rmargin at screen %.5f\nset tmargin at screen %.5f\n"
            "set bmargin at screen %.5f\n",
            (double)p->left / p->width, 1 - (double)p->right / p->width, 1 - (double)FG_PLOT_TOP / p->height,
            bottom / p->height);
    fprintf(out,
            "set xrange [%.9g:%.9g]\nset yrange [0:%.1f]\nunset ytics\nunset key\nset border 1 linecolor rgb '%s'\n"
            "set xtics nomirror textcolor rgb '%s'\nset grid xtics back linecolor rgb '%s' linewidth 0.5\n"
            "set xlabel 'time [%s]' textcolor rgb '%s' offset 0,0.4\n",
            fg_plot_at(p, p->picture->from_ms), fg_plot_at(p, p->picture->to_ms), p->top, p->theme.ink, p->theme.ink,
            p->theme.faint, p->unit_word, p->theme.ink);
    fputs("set label ", out);
    fg_plot_text(out, fg_text_of(title ? title : ""), 120);
    fprintf(out, " at screen %.5f, screen %.5f left font ',12' textcolor rgb '%s'\n", 10.0 / p->width,
            1 - 20.0 / p->height, p->theme.ink);
    fprintf(
        out,
        "set label \"filled: yes, or the label or level in it    line: no, or at rest    hatched: unsure or faulty    "
        "orange line: a limit, dotted its margin    grey: a dead band%s\" at screen %.5f, screen %.5f left "
        "font ',8' textcolor rgb '%s'\n",
        p->picture->options->mark_count ? "    triangle: expected and held, cross: failed, with its line" : "",
        10.0 / p->width, 14.0 / p->height, p->theme.ink);
    (void)write_notes(p, out);
}

/* The name of a strip, and below it what its height stands for. */
static void strip_label(const fg_plotter *p, const fg_lane *lane, const fg_strip *strip)
{
    static const char *const units[FG_KINDS_IN_ALL] = {
        [FG_KIND_LAMP] = " %", [FG_KIND_MOTOR] = " %", [FG_KIND_SERVO] = " deg", [FG_KIND_BAR] = " lights"};
    char scale[64];
    const fg_declared *d = lane->declared;
    fg_plot_label(p, 10, strip->middle + (strip->curve ? FG_PLOT_LINE / 2.0 : 0), d->name, "left", p->theme.ink);
    if (!strip->curve) return;
    snprintf(scale, sizeof scale, "%" PRId32 "..%" PRId32 "%s", strip->low, strip->high,
             units[d->kind] ? units[d->kind] : "");
    fg_plot_label(p, 10, strip->middle - FG_PLOT_LINE / 2.0 - 2, fg_text_of(scale), "left", p->theme.ink);
}

/* Everything of the lanes that is not data, and their places. */
static void write_lanes(fg_plotter *p, fg_plot_view *views)
{
    const fg_picture *picture = p->picture;
    for (size_t i = 0; i < picture->lane_count; i++) {
        const fg_lane *lane = &picture->lanes[i];
        if (lane->buckets) {
            fg_plot_sensor(p, lane, &views[i]);
            p->top -= p->sensor_height + FG_PLOT_GAP;
            continue;
        }
        fg_strip *strip = &p->strips[i];
        strip->middle = p->top - strip->height / 2;
        strip_label(p, lane, strip);
        p->top -= strip->height + FG_PLOT_GAP;
    }
    if (p->mark_rows) fg_plot_label(p, 10, p->top - MARK_ROW / 2.0, fg_text_of("expected"), "left", p->theme.ink);
}

/* A block of data; one point far outside, so that it is never empty. */
static void block(const fg_plotter *p, const char *name, int columns)
{
    fprintf(p->out, "$%s << END_OF_DATA\n", name);
    for (int i = 0; i < columns; i++) fprintf(p->out, i == 2 && columns == 4 ? "\"\" " : "-1e9 ");
    fputs(columns == 2 ? "\n\n" : "\n", p->out);
}

static void end_block(const fg_plotter *p) { fputs("END_OF_DATA\n", p->out); }

static double mark_y(const fg_plotter *p, uint32_t row) { return p->top - MARK_ROW * (row + 0.5); }

typedef struct wanted {
    bool held, spans, lines;
} wanted;

static void put_mark_data(const fg_plotter *p, const fg_draw_mark *m, uint32_t row, void *context)
{
    const wanted *w = context;
    const double y = mark_y(p, row);
    if (w->lines) {
        if (m->line)
            fprintf(p->out, "%.9g %.2f \"%" PRIu32 "\" 0x%s\n", fg_plot_at(p, (m->from_ms + m->to_ms) / 2), y + 10,
                    m->line, p->theme.ink + 1);
        return;
    }
    if (w->spans && m->to_ms > m->from_ms)
        fprintf(p->out, "%.9g %.2f\n%.9g %.2f\n\n", fg_plot_at(p, m->from_ms), y, fg_plot_at(p, m->to_ms), y);
    if (!w->spans && m->held == w->held) fprintf(p->out, "%.9g %.2f\n", fg_plot_at(p, (m->from_ms + m->to_ms) / 2), y);
}

static void write_strips(fg_plotter *p)
{
    static const struct {
        const char *name;
        int columns;
        void (*put)(fg_plotter *p, const fg_lane *lane, const fg_strip *strip);
    } strips[] = {{"solid", 8, fg_plot_solid},
                  {"hatched", 6, fg_plot_hatched},
                  {"resting", 2, fg_plot_resting},
                  {"names", 4, fg_plot_names}};
    const fg_picture *picture = p->picture;
    for (size_t k = 0; k < sizeof strips / sizeof *strips; k++) {
        block(p, strips[k].name, strips[k].columns);
        for (size_t i = picture->sensor_count; i < picture->lane_count; i++)
            strips[k].put(p, &picture->lanes[i], &p->strips[i]);
        if (strips[k].columns == 4) (void)each_mark(p, put_mark_data, &(wanted){.lines = true});
        end_block(p);
    }
}

static void write_data(fg_plotter *p, const fg_plot_view *views)
{
    const fg_picture *picture = p->picture;
    block(p, "curves", 2);
    for (size_t i = 0; i < picture->sensor_count; i++) fg_plot_sensor_curve(p, &picture->lanes[i], &views[i]);
    end_block(p);
    block(p, "faults", 6);
    for (size_t i = 0; i < picture->sensor_count; i++) fg_plot_sensor_faults(p, &picture->lanes[i], &views[i]);
    end_block(p);
    write_strips(p);
    block(p, "held", 2);
    (void)each_mark(p, put_mark_data, &(wanted){.held = true});
    end_block(p);
    block(p, "broken", 2);
    (void)each_mark(p, put_mark_data, &(wanted){.held = false});
    end_block(p);
    block(p, "spans", 2);
    (void)each_mark(p, put_mark_data, &(wanted){.spans = true});
    end_block(p);
}

static void write_plot(const fg_plotter *p)
{
    const fg_theme *t = &p->theme;
    fprintf(
        p->out,
        "plot $faults using 1:2:3:4:5:6 with boxxyerror fillstyle transparent pattern 4 noborder linecolor rgb '%s', "
        "$curves using 1:2 with lines linecolor rgb '%s' linewidth 1.3, "
        "$resting using 1:2 with lines linecolor rgb '%s' linewidth 1, "
        "$solid using 1:2:3:4:5:6:7 with boxxyerror fillstyle solid noborder linecolor rgb variable, "
        "$solid using 1:2:3:4:5:6:8 with boxxyerror fillstyle empty linecolor rgb variable linewidth 0.6, "
        "$hatched using 1:2:3:4:5:6 with boxxyerror linecolor rgb '%s' fillstyle transparent pattern 4 border "
        "linecolor rgb '%s', "
        "$spans using 1:2 with lines linecolor rgb '%s' linewidth 2, "
        "$held using 1:2 with points pointtype 9 pointsize 1.2 linecolor rgb '%s', "
        "$broken using 1:2 with points pointtype 2 pointsize 1.4 linewidth 2.5 linecolor rgb '%s', "
        "$names using 1:2:3:4 with labels font ',8' textcolor rgb variable\n",
        t->fault, t->curve, t->ink, t->fault, t->fault, t->ink, t->held, t->fault);
}

fg_status fg_plot(const fg_picture *picture, const char *path, fg_mistake *mistake)
{
    fg_script script;
    const fg_status status = fg_script_begin(&script, path, mistake);
    if (status != FG_OK) return status;
    fg_plotter *p = calloc(1, sizeof *p);
    fg_plot_view *views = calloc(picture->sensor_count + 1, sizeof *views);
    bool good = p && views;
    if (good) {
        p->picture = picture;
        p->theme = *fg_theme_of(picture->options->dark);
        p->out = script.text.file;
        good = lay_out(p);
    }
    if (good) {
        write_head(p, path);
        write_lanes(p, views);
        write_data(p, views);
        write_plot(p);
    }
    if (p) free(p->strips);
    if (p) free(p->crowded);
    free(p);
    free(views);
    return fg_script_end(&script, good, mistake);
}
