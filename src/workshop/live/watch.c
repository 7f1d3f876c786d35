/* SPDX-License-Identifier: MIT */
/* Figures of sensors that somebody looks at. */
#include "workshop/base/limits.h"
#include "workshop/base/sort.h"

#include <ficklegate/watch.h>

#include <math.h>
#include <stdlib.h>
#include <string.h>

enum { SETS = FG_WATCH_LABELS + 1 }; /* the labels, and what came since the mark */

/* The newest readings of one sensor under one label. */
typedef struct readings {
    fg_value *newest; /* a ring of FG_WATCH_KEPT; NULL: none yet */
    uint64_t count, faults;
    fg_value lowest, highest;
} readings;

typedef struct watched {
    const fg_declared *declared;
    size_t cell; /* its column in rows; 0: it is worked out from others */
    bool fresh;  /* a reading came since the last step */
    fg_value *limits;
    size_t limit_count;
    readings sets[SETS];
    fg_value seconds[FG_WATCH_SECONDS];
    int64_t second_of[FG_WATCH_SECONDS]; /* which second stands there, + 1 */
    bool seen;
    fg_value lowest, highest; /* ever */
} watched;

struct fg_watch {
    const fg_program *program;
    watched *sensors; /* by their index */
    fg_value *sorted; /* FG_WATCH_KEPT of them, to find the median */
    int label;
};

/* ---- the beginning ---- */

static bool gather_limits(const fg_watch *w, watched *s)
{
    if (!fg_limits_of_sensor(w->program, s->declared->index, &s->limits, &s->limit_count)) return false;
    size_t kept = 0;
    for (size_t i = 0; i < s->limit_count; i++)
        if (!i || s->limits[i] != s->limits[kept - 1]) s->limits[kept++] = s->limits[i];
    s->limit_count = kept;
    return true;
}

fg_watch *fg_watch_start(const fg_program *program)
{
    fg_watch *w = calloc(1, sizeof *w);
    size_t cell = 0;
    if (!w) return NULL;
    w->program = program;
    w->label = -1;
    w->sensors = calloc((size_t)program->gate.size.sensors + 1, sizeof *w->sensors);
    w->sorted = malloc(FG_WATCH_KEPT * sizeof *w->sorted);
    bool good = w->sensors && w->sorted;
    for (uint32_t i = 0; good && i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        const bool read = fg_program_reads(program, d);
        cell += read;
        if (d->kind != FG_KIND_SENSOR) continue;
        watched *s = &w->sensors[d->index];
        s->declared = d;
        s->cell = read ? cell : 0;
        good = gather_limits(w, s);
    }
    if (good) return w;
    fg_watch_end(w);
    return NULL;
}

void fg_watch_end(fg_watch *w)
{
    if (!w) return;
    for (uint16_t i = 0; w->sensors && i < w->program->gate.size.sensors; i++) {
        free(w->sensors[i].limits);
        for (int k = 0; k < SETS; k++) free(w->sensors[i].sets[k].newest);
    }
    free(w->sensors);
    free(w->sorted);
    free(w);
}

/* ---- readings ---- */

void fg_watch_row(fg_watch *w, const fg_text *cells, size_t count)
{
    for (uint16_t i = 0; i < w->program->gate.size.sensors; i++) {
        watched *s = &w->sensors[i];
        if (s->cell && s->cell < count && cells[s->cell].size) s->fresh = true;
    }
}

static void add(readings *r, bool good, fg_value value)
{
    if (!good) {
        r->faults++;
        return;
    }
    if (!r->newest) r->newest = malloc(FG_WATCH_KEPT * sizeof *r->newest);
    if (!r->newest) return;
    if (!r->count || value < r->lowest) r->lowest = value;
    if (!r->count || value > r->highest) r->highest = value;
    r->newest[r->count++ % FG_WATCH_KEPT] = value;
}

static void keep_second(watched *s, fg_value value, int64_t t_ms)
{
    const int64_t second = t_ms / 1000;
    s->seconds[second % FG_WATCH_SECONDS] = value;
    s->second_of[second % FG_WATCH_SECONDS] = second + 1;
}

void fg_watch_step(fg_watch *w, const fg_run *run, int64_t t_ms)
{
    for (uint16_t i = 0; i < w->program->gate.size.sensors; i++) {
        watched *s = &w->sensors[i];
        fg_value value = 0;
        const bool good = fg_sensor_value(run, i, &value);
        if (good) keep_second(s, value, t_ms);
        if (good && (!s->seen || value < s->lowest)) s->lowest = value;
        if (good && (!s->seen || value > s->highest)) s->highest = value;
        s->seen = s->seen || good;
        if (!s->fresh && s->cell) continue;
        s->fresh = false;
        add(&s->sets[FG_WATCH_LABELS], good, value);
        if (w->label >= 0) add(&s->sets[w->label], good, value);
    }
}

void fg_watch_mark(fg_watch *w)
{
    for (uint16_t i = 0; i < w->program->gate.size.sensors; i++) {
        readings *r = &w->sensors[i].sets[FG_WATCH_LABELS];
        r->count = r->faults = 0;
    }
}

void fg_watch_label(fg_watch *w, int label) { w->label = label < FG_WATCH_LABELS ? label : -1; }

/* ---- figures ---- */

static double mean_of(const readings *r, uint64_t from, uint64_t to)
{
    double sum = 0;
    for (uint64_t i = from; i < to; i++) sum += r->newest[i % FG_WATCH_KEPT];
    return to > from ? sum / (double)(to - from) : 0;
}

static double deviation_of(const readings *r, uint64_t from, uint64_t to)
{
    const double mean = mean_of(r, from, to);
    double sum = 0;
    for (uint64_t i = from; i < to; i++) {
        const double apart = r->newest[i % FG_WATCH_KEPT] - mean;
        sum += apart * apart;
    }
    return to > from + 1 ? sqrt(sum / (double)(to - from - 1)) : 0;
}

/* Half of all changes from one reading to the next are at most this large, as in a summary. */
static fg_value noise_of(const fg_watch *w, const watched *s, const readings *r, uint64_t kept)
{
    const fg_value circle = w->program->gate.sensors[s->declared->index].circle;
    size_t count = 0;
    for (uint64_t i = r->count - kept + 1; i < r->count; i++) {
        int64_t apart = (int64_t)r->newest[i % FG_WATCH_KEPT] - r->newest[(i - 1) % FG_WATCH_KEPT];
        if (apart < 0) apart = -apart;
        if (circle && circle - apart < apart) apart = circle - apart;
        w->sorted[count++] = (fg_value)(apart > INT32_MAX ? INT32_MAX : apart);
    }
    if (!count) return 0;
    fg_sort_values(w->sorted, count);
    return w->sorted[count / 2];
}

/* Whether the newest third lies where the one before it lay. */
static bool lies_still(const readings *r)
{
    enum { ENOUGH = 9 };
    const uint64_t kept = r->count < FG_WATCH_KEPT ? r->count : FG_WATCH_KEPT, third = kept / 3, end = r->count;
    if (r->count < ENOUGH) return false;
    const double moved = fabs(mean_of(r, end - third, end) - mean_of(r, end - 2 * third, end - third));
    const double noise = deviation_of(r, end - third, end);
    return moved <= (noise > 1 ? noise : 1);
}

void fg_watch_figures(const fg_watch *w, const fg_declared *sensor, int label, fg_figures *figures)
{
    const watched *s = &w->sensors[sensor->index];
    const readings *r = &s->sets[label < 0 ? FG_WATCH_LABELS : label];
    const uint64_t kept = r->count < FG_WATCH_KEPT ? r->count : FG_WATCH_KEPT;
    *figures = (fg_figures){.count = r->count, .faults = r->faults, .lowest = r->lowest, .highest = r->highest};
    if (!r->count) return;
    memcpy(w->sorted, r->newest, (size_t)kept * sizeof *w->sorted);
    fg_sort_values(w->sorted, (size_t)kept);
    figures->median = w->sorted[kept / 2];
    figures->noise = noise_of(w, s, r, kept);
    figures->still = lies_still(r);
}

/* ---- the scale and the limits ---- */

void fg_watch_scale(const fg_watch *w, const fg_declared *sensor, fg_value *low, fg_value *high)
{
    const watched *s = &w->sensors[sensor->index];
    const fg_sensor *about = &w->program->gate.sensors[sensor->index];
    if (about->circle) {
        *low = 0;
        *high = about->circle - 1;
        return;
    }
    const fg_range trusted = about->trusted;
    const bool from = about->trust && trusted.low != INT32_MIN, to = about->trust && trusted.high != INT32_MAX;
    int64_t least = s->limit_count ? s->limits[0] : 0, most = s->limit_count ? s->limits[s->limit_count - 1] : 100;
    if (s->seen && s->lowest < least) least = s->lowest;
    if (s->seen && s->highest > most) most = s->highest;
    if (least > 0 && least <= 2 * (most - least)) least = 0; /* a scale begins at zero where that is near */
    const int64_t apart = !least ? 0 : most - least ? (most - least) / 4 + 1 : 10;
    const int64_t beyond = most - least ? (most - least) / 4 + 1 : 10;
    *low = (fg_value)(from ? trusted.low : least - apart < INT32_MIN ? INT32_MIN : least - apart);
    *high = (fg_value)(to ? trusted.high : most + beyond > INT32_MAX ? INT32_MAX : most + beyond);
}

const fg_value *fg_watch_limits(const fg_watch *w, const fg_declared *sensor, size_t *count)
{
    *count = w->sensors[sensor->index].limit_count;
    return w->sensors[sensor->index].limits;
}

bool fg_watch_next_stop(const fg_watch *w, const fg_declared *sensor, fg_value value, int way, fg_value *next)
{
    const watched *s = &w->sensors[sensor->index];
    fg_value low, high;
    bool found = false;
    fg_watch_scale(w, sensor, &low, &high);
    for (size_t i = 0; i < s->limit_count + 2; i++) {
        for (int beside = -1; beside <= 1; beside++) {
            const fg_value stop = i < s->limit_count ? fg_limit_beside(w->program, sensor->index, s->limits[i], beside)
                                  : i == s->limit_count ? low
                                                        : high;
            if (way > 0 ? stop <= value : stop >= value) continue;
            if (found && (way > 0 ? stop >= *next : stop <= *next)) continue;
            *next = stop;
            found = true;
        }
    }
    return found;
}

void fg_watch_trace(const fg_watch *w, const fg_declared *sensor, int64_t t_ms, fg_trace *trace)
{
    const watched *s = &w->sensors[sensor->index];
    const int64_t now = t_ms / 1000;
    for (int i = 0; i < FG_WATCH_SECONDS; i++) {
        const int64_t second = now - FG_WATCH_SECONDS + 1 + i;
        trace->good[i] = second >= 0 && s->second_of[second % FG_WATCH_SECONDS] == second + 1;
        trace->values[i] = trace->good[i] ? s->seconds[second % FG_WATCH_SECONDS] : 0;
    }
}
