/* SPDX-License-Identifier: MIT */
/* Number lines: the readings of a rule to scale, and a list of exactly who has which. */
#include "workshop/base/buffer.h"
#include "workshop/base/limits.h"

#include <ficklegate/number_lines.h>

#include <stdlib.h>
#include <string.h>

enum { COLUMNS_MOST = 200, POINTS_MOST = 2200 };

/* A stretch of readings with one owner. */
typedef struct stretch {
    fg_value low, high;
    fg_text owner; /* empty: nobody */
    bool shared;   /* more than one range has them */
} stretch;

typedef struct line {
    const fg_program *program;
    const fg_declared *rule;
    const fg_sensor *sensor;
    int width;
    fg_value points[POINTS_MOST]; /* where stretches begin */
    size_t point_count;
    stretch stretches[POINTS_MOST];
    size_t count;
    int64_t from, to; /* the readings drawn */
} line;

static fg_text c_text(const char *text) { return (fg_text){text, strlen(text)}; }

/* ---- who has a reading ---- */

static const fg_op *op_of(const fg_program *program, const fg_declared *rule) { return &program->gate.ops[rule->slot]; }

/* The first range that holds for a reading, and whether one behind it holds too and answers otherwise. False: none. */
static bool first_range(const line *l, fg_value reading, fg_rule_range *first, bool *shared)
{
    fg_rule_range range;
    bool found = false;
    for (uint16_t i = 0; fg_op_range(&l->program->gate, op_of(l->program, l->rule), i, &range); i++) {
        if (!fg_range_holds(range.range, reading)) continue;
        if (found && range.answer != first->answer) *shared = true;
        if (!found) *first = range;
        found = true;
    }
    return found;
}

static fg_text owner_of(const line *l, fg_value reading, bool *shared)
{
    fg_rule_range range = {0};
    *shared = false;
    const bool found = first_range(l, reading, &range, shared);
    if (fg_kind_is(l->rule->kind, FG_KIND_LABELS)) {
        const fg_verdict owner = found ? range.answer : l->program->gate.bands[l->rule->index].otherwise;
        const fg_text nobody = {0};
        return owner == FG_NONE ? nobody : l->rule->labels[owner - 1];
    }
    *shared = false; /* of yes and no the first range simply wins */
    if (l->rule->kind == FG_KIND_HYSTERESIS) return c_text(!found ? "stays" : range.answer == FG_YES ? "on" : "off");
    if (!found) (void)fg_op_range(&l->program->gate, op_of(l->program, l->rule), 0, &range);
    return c_text(found == (range.answer == FG_YES) ? "yes" : "no");
}

/* Would another answer, once believed, keep this reading by its margin? */
static bool margin_reaches(const line *l, fg_value reading)
{
    const bool labels = fg_kind_is(l->rule->kind, FG_KIND_LABELS);
    fg_rule_range range;
    bool shared;
    const fg_text owner = owner_of(l, reading, &shared);
    for (uint16_t i = 0; fg_op_range(&l->program->gate, op_of(l->program, l->rule), i, &range); i++) {
        const bool own = labels && fg_text_same(l->rule->labels[range.answer - 1], owner);
        const bool kept = fg_range_holds(range.kept, reading);
        if (labels ? !own && kept : kept != fg_range_holds(range.range, reading)) return true;
    }
    return false;
}

/* ---- stretches ---- */

static void add_point(line *l, int64_t at)
{
    const fg_value circle = l->sensor->circle;
    if (circle) at = fg_wrap(at, circle);
    if (at <= INT32_MIN || at > INT32_MAX || l->point_count == POINTS_MOST) return;
    size_t i = l->point_count;
    for (size_t k = 0; k < l->point_count; k++)
        if (l->points[k] == at) return;
    for (; i && l->points[i - 1] > at; i--) l->points[i] = l->points[i - 1];
    l->points[i] = (fg_value)at;
    l->point_count++;
}

static void add_range(line *l, const fg_range *range)
{
    if (range->low != INT32_MIN) add_point(l, range->low);
    if (range->high != INT32_MAX) add_point(l, (int64_t)range->high + 1);
}

static void collect_points(line *l)
{
    fg_rule_range range;
    for (uint16_t i = 0; fg_op_range(&l->program->gate, op_of(l->program, l->rule), i, &range); i++)
        add_range(l, range.range);
}

static void add_stretch(line *l, int64_t low, int64_t high)
{
    stretch s = {.low = (fg_value)low, .high = (fg_value)high};
    if (low > high) return;
    s.owner = owner_of(l, s.low, &s.shared);
    stretch *before = l->count ? &l->stretches[l->count - 1] : NULL;
    if (before && before->shared == s.shared && before->owner.size == s.owner.size &&
        (!s.owner.size || !memcmp(before->owner.at, s.owner.at, s.owner.size)))
        before->high = s.high;
    else
        l->stretches[l->count++] = s;
}

static void collect_stretches(line *l)
{
    const fg_value circle = l->sensor->circle;
    int64_t low = circle ? 0 : INT32_MIN;
    const int64_t end = circle ? circle - 1 : INT32_MAX;
    collect_points(l);
    for (size_t i = 0; i < l->point_count && l->count + 1 < POINTS_MOST; i++) {
        add_stretch(l, low, (int64_t)l->points[i] - 1);
        low = l->points[i];
    }
    add_stretch(l, low, end);
}

static void choose_scale(line *l)
{
    if (l->sensor->circle) {
        l->from = 0;
        l->to = l->sensor->circle - 1;
        return;
    }
    const int64_t first = l->point_count ? l->points[0] : 0, last = l->point_count ? l->points[l->point_count - 1] : 0;
    const int64_t margin = l->program->op_sources[l->rule->slot].margin;
    int64_t room = (last - first) / 4;
    if (room < 4 * margin) room = 4 * margin;
    if (room < 10) room = 10;
    l->from = first - room;
    l->to = last + room;
    if (l->from < INT32_MIN) l->from = INT32_MIN;
    if (l->to > INT32_MAX) l->to = INT32_MAX;
}

/* ---- drawing ---- */

static int column_of(const line *l, int64_t reading)
{
    const int64_t span = l->to - l->from;
    return (int)(((reading - l->from) * (l->width - 1) + span / 2) / span);
}

static fg_value reading_at(const line *l, int column)
{
    return (fg_value)(l->from + (l->to - l->from) * column / (l->width - 1));
}

static int characters(fg_text text)
{
    int count = 0;
    for (size_t i = 0; i < text.size; i++) count += ((unsigned char)text.at[i] & 0xc0) != 0x80;
    return count;
}

static void add_blanks(fg_buffer *out, int count)
{
    while (count-- > 0) fg_buffer_add_c(out, " ");
}

/* Where the label of a stretch stands, in its middle; false where there is no room for it. */
static bool label_place(const line *l, const stretch *s, int *where, int *length)
{
    const int begin = s->low < l->from ? 0 : column_of(l, s->low),
              end = s->high > l->to ? l->width : column_of(l, s->high) + 1;
    *length = characters(s->owner);
    *where = begin + (end - begin - *length + 1) / 2;
    return *length && *length + 1 <= end - begin;
}

/* One row of labels with a blank between any two. Those that would touch their neighbour stand one row above: these are
 * left for `upper`, which draws only them. False: the row is empty. */
static bool draw_label_row(const line *l, bool upper, fg_buffer *out)
{
    int at = 0, low_at = 0;
    bool any = false;
    for (size_t i = 0; i < l->count; i++) {
        int where, length;
        if (!label_place(l, &l->stretches[i], &where, &length)) continue;
        const bool fits = !low_at || where > low_at;
        if (fits) low_at = where + length;
        if (fits == upper || (at && where <= at)) continue;
        add_blanks(out, where - at);
        fg_buffer_add(out, l->stretches[i].owner);
        at = where + length;
        any = true;
    }
    if (any || !upper) fg_buffer_add_c(out, "\n");
    return any;
}

static void draw_labels(const line *l, fg_buffer *out)
{
    (void)draw_label_row(l, true, out);
    (void)draw_label_row(l, false, out);
}

static void draw_axis(const line *l, fg_buffer *out)
{
    char axis[COLUMNS_MOST + 1];
    for (int column = 0; column < l->width; column++) {
        bool shared;
        const fg_value reading = reading_at(l, column);
        const fg_text owner = owner_of(l, reading, &shared);
        axis[column] = '=';
        if (margin_reaches(l, reading)) axis[column] = '~';
        if (!owner.size) axis[column] = ' ';
        if (shared) axis[column] = '#';
    }
    for (size_t i = 0; i < l->point_count; i++)
        if (l->points[i] > l->from && l->points[i] <= l->to) axis[column_of(l, l->points[i])] = '|';
    fg_buffer_add(out, (fg_text){axis, (size_t)l->width});
    fg_buffer_add_c(out, l->sensor->circle ? "|\n" : "\n");
}

static void draw_numbers(const line *l, fg_buffer *out)
{
    int at = 0;
    for (size_t i = 0; i < l->point_count; i++) {
        char text[FG_VALUE_TEXT_SIZE];
        int length = (int)fg_value_write(l->points[i], l->rule->decimals, text);
        int where = column_of(l, l->points[i]) - length / 2;
        if (where < 0) where = 0;
        if (where < at + (at > 0) || where + length > l->width + 2) continue;
        add_blanks(out, where - at);
        fg_buffer_add_c(out, text);
        at = where + length;
    }
    if (l->rule->unit.size) {
        fg_buffer_add_c(out, " ");
        fg_buffer_add(out, l->rule->unit);
    }
    fg_buffer_add_c(out, "\n");
}

/* ---- the list ---- */

/* Does the first band of a circle go on behind the last one, through zero? */
static bool goes_through_zero(const line *l)
{
    const stretch *first = &l->stretches[0], *last = &l->stretches[l->count - 1];
    return l->sensor->circle && l->count > 1 && first->owner.size && first->shared == last->shared &&
           fg_text_same(first->owner, last->owner);
}

static void list_stretch(const line *l, const stretch *s, int name_width, fg_buffer *out)
{
    const fg_declared bare = {.decimals = l->rule->decimals};
    const bool through_zero = goes_through_zero(l);
    stretch whole = l->stretches[0];
    if (through_zero && s == &l->stretches[l->count - 1]) return; /* told as one with the first */
    whole.low = l->stretches[l->count - 1].low;
    if (through_zero && s == &l->stretches[0]) s = &whole;
    const fg_text name = s->owner.size ? s->owner : c_text("(none)");
    fg_buffer_add_c(out, "  ");
    fg_buffer_add(out, name);
    add_blanks(out, name_width - characters(name) + 2);
    if (s->low == INT32_MIN && s->high == INT32_MAX) {
        fg_buffer_add_c(out, "every reading");
    } else if (s->low == INT32_MIN) {
        fg_buffer_add_c(out, "up to ");
        fg_buffer_add_value(out, s->high, l->rule);
    } else if (s->high == INT32_MAX) {
        fg_buffer_add_value(out, s->low, l->rule);
        fg_buffer_add_c(out, " and more");
    } else {
        fg_buffer_add_value(out, s->low, &bare);
        fg_buffer_add_c(out, "..");
        fg_buffer_add_value(out, s->high, l->rule);
        if (l->rule->kind != FG_KIND_HYSTERESIS) { /* a dead band has its width below, from limit to limit */
            const int64_t turn = s->high < s->low ? l->sensor->circle : 0, wide = turn + s->high - s->low + 1;
            fg_buffer_add_c(out, ", ");
            fg_buffer_add_value(out, wide > INT32_MAX ? INT32_MAX : (fg_value)wide, l->rule);
            fg_buffer_add_c(out, " wide");
        }
    }
    if (s->shared) fg_buffer_add_c(out, ", shared: it comes first");
    fg_buffer_add_c(out, "\n");
}

static void list_rest(const line *l, fg_buffer *out)
{
    const fg_op_source *source = &l->program->op_sources[l->rule->slot];
    if (source->margin) {
        fg_buffer_add_c(out, "  ~ the margin of ");
        fg_buffer_add_value(out, source->margin, l->rule);
        fg_buffer_add_c(out, ": within it the present answer is kept\n");
    }
    if (l->rule->kind == FG_KIND_HYSTERESIS) {
        for (size_t i = 0; i < l->count; i++) {
            const stretch *s = &l->stretches[i];
            if (s->owner.size != 5) continue; /* "stays" */
            fg_buffer_add_c(out, "  the dead band is ");
            fg_buffer_add_value(out, fg_dead_band_of(source), l->rule);
            fg_buffer_add_c(out, " wide: noise smaller than that does not cause chatter\n");
        }
    }
    if (l->sensor->circle) {
        fg_buffer_add_c(out, "  a circle: it continues at 0 after the right end\n");
    }
}

/* For free(); NULL: no memory. */
static line *new_line(const fg_program *program, const fg_declared *rule)
{
    line *l = calloc(1, sizeof *l);
    if (!l) return NULL;
    l->program = program;
    l->rule = rule;
    l->sensor = &program->gate.sensors[rule->sensor];
    collect_stretches(l);
    return l;
}

fg_status fg_number_line(const fg_program *program, const fg_declared *rule, int width, fg_text *text)
{
    fg_buffer out = {0};
    int name_width = 6;
    line *l = new_line(program, rule);
    if (!l) return FG_ERROR_MEMORY;
    l->width = width < 40 ? 40 : width > COLUMNS_MOST ? COLUMNS_MOST : width;
    choose_scale(l);
    fg_buffer_add(&out, rule->name);
    fg_buffer_add_c(&out, "\n");
    draw_labels(l, &out);
    draw_axis(l, &out);
    draw_numbers(l, &out);
    for (size_t i = 0; i < l->count; i++)
        if (characters(l->stretches[i].owner) > name_width) name_width = characters(l->stretches[i].owner);
    for (size_t i = 0; i < l->count; i++) list_stretch(l, &l->stretches[i], name_width, &out);
    list_rest(l, &out);
    free(l);
    *text = fg_buffer_text(&out);
    if (!out.full) return FG_OK;
    fg_buffer_free(&out);
    return FG_ERROR_MEMORY;
}

/* ---- widths ---- */

fg_status fg_band_widths(const fg_program *program, const fg_declared *bands, int64_t *widths)
{
    line *l = new_line(program, bands);
    if (!l) return FG_ERROR_MEMORY;
    for (uint16_t label = 0; label < bands->label_count; label++) {
        bool ends = true;
        widths[label] = 0;
        for (size_t i = 0; i < l->count; i++) {
            const stretch *s = &l->stretches[i];
            if (!fg_text_same(s->owner, bands->labels[label])) continue;
            widths[label] += (int64_t)s->high - s->low + 1;
            ends = ends && s->low != INT32_MIN && s->high != INT32_MAX;
        }
        if (!ends) widths[label] = 0;
    }
    free(l);
    return FG_OK;
}

/* ---- delays ---- */

typedef struct delay {
    const fg_program *program;
    fg_buffer *out;
    int64_t steps, ms;
    bool any;
} delay;

static void add_cause(delay *d, const char *what, const fg_text *whose, int64_t steps, int64_t ms)
{
    const fg_time every = d->program->gate.every;
    if (d->any) fg_buffer_add_c(d->out, " + ");
    d->any = true;
    fg_buffer_add_c(d->out, what);
    if (whose) {
        fg_buffer_add_c(d->out, " of ");
        fg_buffer_add(d->out, *whose);
    }
    fg_buffer_add_c(d->out, " ");
    if (steps && every) ms = steps * every;
    if (steps && !every) {
        fg_buffer_add_number(d->out, steps);
        fg_buffer_add_c(d->out, steps == 1 ? " reading" : " readings");
        d->steps += steps;
        return;
    }
    fg_buffer_add_time(d->out, ms);
    d->ms += ms;
}

/* A median follows when more than half of its window is new, a mean surely when all of it is. */
static void add_smoothing(delay *d, const fg_declared *sensor)
{
    const fg_sensor *s = &d->program->gate.sensors[sensor->index];
    if (!s->window) return;
    const bool mean = s->stages & FG_STAGE_MEAN;
    add_cause(d, mean ? "mean" : "median", &sensor->name, mean ? s->window - 1 : s->window / 2, 0);
}

static const fg_declared *sensor_declared(const fg_program *program, uint16_t index)
{
    for (uint32_t i = 0; i < program->declared_count; i++)
        if (program->declared[i].kind == FG_KIND_SENSOR && program->declared[i].index == index)
            return &program->declared[i];
    return NULL;
}

static void add_rule(const fg_program *program, const fg_declared *rule, fg_buffer *out)
{
    fg_buffer causes = {0};
    delay d = {.program = program, .out = &causes};
    const fg_time settle = fg_op_settle(&program->gate, op_of(program, rule))->time, every = program->gate.every;
    const fg_declared *sensor = sensor_declared(program, rule->sensor);
    if (every) add_cause(&d, "pace", NULL, 1, 0);
    if (sensor) add_smoothing(&d, sensor);
    if (settle) add_cause(&d, "settle", NULL, 0, every ? (settle + every - 1) / every * (int64_t)every : settle);
    if (d.ms > every || d.steps) { /* the pace alone is no news */
        fg_buffer_add_c(out, "  ");
        fg_buffer_add(out, rule->name);
        fg_buffer_add_c(out, "  up to ");
        if (d.ms || !d.steps) fg_buffer_add_time(out, d.ms);
        if (d.ms && d.steps) fg_buffer_add_c(out, " and ");
        if (d.steps) {
            fg_buffer_add_number(out, d.steps);
            fg_buffer_add_c(out, d.steps == 1 ? " reading" : " readings");
        }
        fg_buffer_add_c(out, ": ");
        fg_buffer_add(out, fg_buffer_text(&causes));
        fg_buffer_add_c(out, "\n");
        out->full = out->full || causes.full;
    }
    fg_buffer_free(&causes);
}

fg_status fg_delays(const fg_program *program, fg_text *text)
{
    fg_buffer out = {0};
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        if (fg_kind_is(d->kind, FG_KIND_ON_SENSOR)) add_rule(program, d, &out);
    }
    *text = fg_buffer_text(&out);
    if (!out.full) return FG_OK;
    fg_buffer_free(&out);
    return FG_ERROR_MEMORY;
}
