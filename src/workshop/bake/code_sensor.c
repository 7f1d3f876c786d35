/* Sensors and flags: what is kept of a reading, and the stages it goes through before the rules see it. */
#include "coder.h"

#include <inttypes.h>
#include <string.h>

enum { NARROW = 32766 };

/* ---- how the rules look at a sensor ---- */

/* What is found out about the uses of a sensor: `exact` if the value itself matters and not only on which side of a
 * limit it lies; the outermost limits. */
typedef struct uses {
    bool exact, followed;
    bool judged, asked; /* a rule or a comparison looks at its value; something at whether it is faulty */
    int64_t low, high;
} uses;

static void limit(uses *u, fg_value at)
{
    if (at < u->low) u->low = at;
    if (at > u->high) u->high = at;
}

static void limits(uses *u, const fg_range *r)
{
    if (r->low != INT32_MIN) limit(u, r->low); /* else it is open there */
    if (r->high != INT32_MAX) limit(u, r->high);
}

static void look_at_rule(const fg_gate *g, const fg_op *op, uint16_t sensor, uses *u)
{
    if (op->kind == FG_OP_SENSOR_FAULTY) u->asked = u->asked || op->rule == sensor;
    if (op->a != sensor) return;
    u->judged = u->judged || (op->kind >= FG_OP_THRESHOLD && op->kind <= FG_OP_COMPARE);
    if (op->kind == FG_OP_THRESHOLD) {
        limits(u, &g->thresholds[op->rule].range);
        limits(u, &g->thresholds[op->rule].kept);
        u->exact = u->exact || g->thresholds[op->rule].settle.within >= 0;
    } else if (op->kind == FG_OP_HYSTERESIS) {
        limits(u, &g->hysteresis[op->rule].on);
        limits(u, &g->hysteresis[op->rule].off);
        u->exact = u->exact || g->hysteresis[op->rule].settle.within >= 0;
    } else if (op->kind == FG_OP_BANDS) {
        const fg_bands *b = &g->bands[op->rule];
        for (uint16_t i = 0; i < b->count; i++) {
            limits(u, &b->bands[i].range);
            limits(u, &b->bands[i].kept);
        }
        u->exact = u->exact || b->settle.within >= 0;
    } else if (op->kind == FG_OP_COMPARE) {
        limits(u, &g->compares[op->rule].range);
    }
}

static void look_at_follow(const fg_gate *g, uint16_t number, uint16_t sensor, uses *u)
{
    const fg_follow *f = &g->follows[number];
    if (f->count || f->source != sensor) return;
    u->followed = true;
    limit(u, f->from);
    limit(u, f->to);
}

static void look_at_level(const fg_gate *g, const fg_level *level, uint16_t sensor, uses *u)
{
    if (level->form == FG_FORM_FOLLOW) look_at_follow(g, (uint16_t)level->number, sensor, u);
    if (level->form == FG_FORM_PLAY) {
        const fg_sequence *s = &g->sequences[level->number];
        for (uint16_t i = 0; i < s->segment_count; i++) {
            const fg_segment *segment = &g->segments[s->first_segment + i];
            if (segment->tempo != FG_INDEX_NONE) look_at_follow(g, segment->tempo, sensor, u);
        }
    }
}

/* Does a text that a display may show have this sensor in it? */
static bool is_shown(const fg_gate *g, uint32_t show, uint16_t sensor)
{
    for (uint16_t l = 0; l < g->shows[show].line_count; l++) {
        const fg_show_line *line = &g->show_lines[g->shows[show].first_line + l];
        for (uint16_t i = 0; i < line->piece_count; i++) {
            const fg_piece *piece = &g->pieces[line->first_piece + i];
            if (piece->kind == FG_PIECE_SENSOR && piece->index == sensor) return true;
        }
    }
    return false;
}

typedef struct shown {
    const fg_gate *gate;
    uint16_t sensor;
    bool yes;
} shown;

static void look_at_show(void *context, const fg_level *level)
{
    shown *s = context;
    if (level->form == FG_FORM_SHOW) s->yes = s->yes || is_shown(s->gate, (uint32_t)level->number, s->sensor);
}

static uses uses_of(coder *c, uint16_t sensor);

/* Does anything look at a sensor, also by way of others that are worked out from it? Found out once. */
static bool is_used(coder *c, uint16_t sensor)
{
    code_sensor *s = &c->sensors[sensor];
    if (!s->looked_at) {
        s->looked_at = true;
        (void)uses_of(c, sensor);
    }
    return s->used;
}

static uses uses_of(coder *c, uint16_t sensor)
{
    const fg_gate *g = c->gate;
    uses u = {.low = 0, .high = 0};
    for (uint16_t i = 0; i < g->size.ops; i++) look_at_rule(g, &g->ops[i], sensor, &u);
    for (uint16_t i = 0; i < g->size.outputs; i++)
        for (uint16_t k = 0; k < g->outputs[i].row_count; k++) {
            const fg_level *level = &g->rows[g->outputs[i].first_row + k].level;
            shown s = {.gate = g, .sensor = sensor};
            look_at_level(g, level, sensor, &u);
            look_at_show(&s, level);
            fg_code_levels_of_sequence(c, level, look_at_show, &s);
            c->sensors[sensor].shown = c->sensors[sensor].shown || s.yes;
        }
    for (uint16_t i = 0; i < g->size.sensors; i++)
        for (uint16_t k = 0; k < g->sensors[i].term_count && is_used(c, i); k++) {
            const fg_term *t = &g->terms[g->sensors[i].first_term + k];
            const bool looks = t->kind == FG_TERM_SENSOR || t->kind >= FG_TERM_RATE;
            u.exact = u.exact || (looks && t->sensor == sensor);
        }
    const fg_sensor *rule = &g->sensors[sensor];
    c->sensors[sensor].valued = u.judged || u.followed || u.exact || c->sensors[sensor].shown;
    c->sensors[sensor].used = c->sensors[sensor].valued || u.asked;
    u.exact = u.exact || c->sensors[sensor].shown || rule->circle ||
              rule->stages & (FG_STAGE_MEAN | FG_STAGE_ZERO | FG_STAGE_STUCK);
    if (rule->trust != FG_TRUST_ALL) limits(&u, &rule->trusted);
    return u;
}

/* ---- limits in counts ---- */

/* A value for counts that may be beyond 32 bits: then it is the end on that side. */
static fg_value value_of(const code_sensor *s, int32_t counts)
{
    fg_value value;
    if (fg_scale_value(s->rule->scale, s->rule->scale_count, counts, &value)) return value;
    return (counts > 0) == s->falls ? INT32_MIN : INT32_MAX;
}

/* The first of the counts from which on the value has reached `wanted` (falling: has come down to it); `none` if it
 * never has. Halves what is left again and again; values never turn back. */
static bool first_to_reach(const code_sensor *s, fg_value wanted, int32_t *counts)
{
    int64_t low = s->first, high = (int64_t)s->last + 1;
    while (low < high) {
        const int64_t middle = low + (high - low) / 2;
        const fg_value value = value_of(s, (int32_t)middle);
        if (s->falls ? value <= wanted : value >= wanted)
            high = middle;
        else
            low = middle + 1;
    }
    *counts = (int32_t)low;
    return low <= s->last;
}

bool fg_code_carry_back(const code_sensor *s, fg_range range, fg_range *counts)
{
    const fg_value begin = s->falls ? range.high : range.low, end = s->falls ? range.low : range.high;
    const bool open_begin = begin == (s->falls ? INT32_MAX : INT32_MIN);
    const bool open_end = end == (s->falls ? INT32_MIN : INT32_MAX);
    fg_range result = {INT32_MIN, INT32_MAX};
    int32_t past;
    if (!open_begin && !first_to_reach(s, begin, &result.low)) return false;
    if (result.low == s->first) result.low = INT32_MIN;
    if (!open_end && first_to_reach(s, s->falls ? end - 1 : end + 1, &past)) {
        if (past <= s->first) return false;
        result.high = past - 1;
    }
    *counts = result;
    return result.low <= result.high;
}

/* The counts that give a value of 32 bits: those around 0 if any do. */
static bool find_ends(code_sensor *s)
{
    fg_value value;
    int64_t low = INT32_MIN, high = 0;
    if (!fg_scale_value(s->rule->scale, s->rule->scale_count, 0, &value)) return false;
    while (low < high) {
        const int64_t middle = low + (high - low) / 2;
        if (fg_scale_value(s->rule->scale, s->rule->scale_count, (int32_t)middle, &value))
            high = middle;
        else
            low = middle + 1;
    }
    s->first = (int32_t)low;
    low = 0;
    high = INT32_MAX;
    while (low < high) {
        const int64_t middle = high - (high - low) / 2;
        if (fg_scale_value(s->rule->scale, s->rule->scale_count, (int32_t)middle, &value))
            low = middle;
        else
            high = middle - 1;
    }
    s->last = (int32_t)low;
    return true;
}

/* Do its values only rise or only fall with the counts? */
static bool one_way(code_sensor *s)
{
    bool rises = false;
    for (uint8_t i = 0; i < s->rule->scale_count; i++) {
        rises = rises || s->rule->scale[i].slope > 0;
        s->falls = s->falls || s->rule->scale[i].slope < 0;
    }
    return rises != s->falls;
}

static bool fits(const coder *c, uint16_t sensor, const fg_range *range)
{
    fg_range counts;
    if (!fg_code_carry_back(&c->sensors[sensor], *range, &counts)) return true;
    return (counts.low == INT32_MIN || counts.low >= -NARROW) && (counts.high == INT32_MAX || counts.high <= NARROW) &&
           (counts.low == INT32_MIN || counts.low <= NARROW) && (counts.high == INT32_MAX || counts.high >= -NARROW);
}

/* Are all limits, in counts, numbers of 16 bits? */
static bool limits_fit(const coder *c, uint16_t sensor)
{
    const fg_gate *g = c->gate;
    bool all = g->sensors[sensor].trust == FG_TRUST_ALL || fits(c, sensor, &g->sensors[sensor].trusted);
    for (uint16_t i = 0; i < g->size.ops; i++) {
        const fg_op *op = &g->ops[i];
        if (op->kind > FG_OP_COMPARE || op->kind < FG_OP_THRESHOLD || op->a != sensor) continue;
        if (op->kind == FG_OP_THRESHOLD)
            all = all && fits(c, sensor, &g->thresholds[op->rule].range) &&
                  fits(c, sensor, &g->thresholds[op->rule].kept);
        else if (op->kind == FG_OP_HYSTERESIS)
            all = all && fits(c, sensor, &g->hysteresis[op->rule].on) && fits(c, sensor, &g->hysteresis[op->rule].off);
        else if (op->kind == FG_OP_COMPARE)
            all = all && fits(c, sensor, &g->compares[op->rule].range);
        else
            for (uint16_t k = 0; k < g->bands[op->rule].count; k++)
                all = all && fits(c, sensor, &g->bands[op->rule].bands[k].range) &&
                      fits(c, sensor, &g->bands[op->rule].bands[k].kept);
    }
    return all;
}

static void plan(coder *c, uint16_t number)
{
    code_sensor *s = &c->sensors[number];
    const fg_sensor *rule = s->rule;
    const bool bound = rule->trust == FG_TRUST_RANGE && !rule->term_count;
    s->low = bound ? rule->trusted.low : INT32_MIN;
    s->high = bound ? rule->trusted.high : INT32_MAX;
    const uses u = uses_of(c, number);
    s->looked_at = true;
    if (!s->used) return;
    const bool small = u.low >= -NARROW && u.high <= NARROW;
    if (rule->term_count) return;
    if (rule->scale_count && !c->baker->options->units && !u.exact && !u.followed && one_way(s) &&
        !(s->falls && rule->window) && find_ends(s)) {
        s->counts = true;
        s->narrow = limits_fit(c, number);
        return;
    }
    s->narrow = small && (!u.exact || (rule->trust == FG_TRUST_RANGE && rule->trusted.low > INT32_MIN &&
                                       rule->trusted.high < INT32_MAX));
}

static void add_members(coder *c, uint16_t number)
{
    code_sensor *s = &c->sensors[number];
    if (s->rule->term_count || !s->used) return;
    const char *name = fg_code_word(c, s->declared->name, "");
    const char *unit = s->counts ? "counts" : s->declared->unit.size ? fg_code_steps(c, s->declared) : "in its steps";
    s->newest = fg_code_member(c, s->narrow ? "int16_t" : "int32_t", name, 0, unit);
    s->heard = fg_code_member(c, "bool", fg_code_word(c, s->declared->name, "_heard"), 0, "the newest is a reading");
    if (s->rule->stages & FG_STAGE_STALE)
        s->at = fg_code_member(c, "uint32_t", fg_code_word(c, s->declared->name, "_at"), 0, "when it was read");
    if (s->rule->stages & FG_STAGE_STALE && s->rule->stages & FG_STAGE_STUCK)
        s->old = fg_code_member(c, "bool", fg_code_word(c, s->declared->name, "_old"), 0, NULL);
    s->value = s->newest;
    s->ok = s->heard;
}

static void plan_flag(coder *c, uint16_t number)
{
    code_flag *f = &c->flags[number];
    const fg_flag *rule = &c->gate->flags[number];
    const char *name = fg_code_word(c, f->declared->name, "");
    f->newest = f->bridged = f->answer = fg_code_member(c, "uint8_t", name, 0, "a flag, as it was read");
    if (rule->stages & FG_STAGE_STALE)
        f->at = fg_code_member(c, "uint32_t", fg_code_word(c, f->declared->name, "_at"), 0, "when it was read");
}

void fg_code_plan_sensors(coder *c)
{
    for (uint32_t i = 0; i < c->program->declared_count; i++) {
        const fg_declared *d = &c->program->declared[i];
        if (d->kind == FG_KIND_SENSOR)
            c->sensors[d->index] = (code_sensor){.declared = d, .rule = &c->gate->sensors[d->index]};
        if (d->kind == FG_KIND_FLAG) c->flags[d->index].declared = d;
    }
    for (uint16_t i = 0; i < c->gate->size.sensors; i++) {
        plan(c, i);
        add_members(c, i);
    }
    for (uint16_t i = 0; i < c->gate->size.flags; i++) plan_flag(c, i);
}

/* ---- the stages ---- */

typedef struct stages {
    coder *c;
    code_sensor *s;
    const fg_sensor *rule;
    fg_text name;
    const char *value, *ok, *type; /* locals */
} stages;

static const char *member(const stages *t, const char *type, const char *suffix, uint16_t count, const char *comment)
{
    return fg_code_member(t->c, type, fg_code_word(t->c, t->name, suffix), count, comment);
}

/* A clock of the shorter kind if its time allows; saturates at what matters. */
static const char *clock_for(coder *c, fg_time time)
{
    if (time > CODE_SHORT_TIME) return "gone";
    c->passed = true;
    return "passed";
}

static const char *clock_type(fg_time time) { return time > CODE_SHORT_TIME ? "uint32_t" : "uint16_t"; }

static void stuck_stage(const stages *t)
{
    coder *c = t->c;
    const fg_time time = t->rule->stuck;
    const char *type = clock_type(time),
               *still = member(t, t->s->narrow ? "int16_t" : "int32_t", "_still", 0, "where it last moved to");
    const char *waited = member(t, type, "_still_for", 0, "ms"),
               *known = member(t, "bool", "_moved", 0, "it has been read once");
    fg_code_line(c, 1, "if (%s < %" PRIu32 "u) %s = (%s)(%s + %s);", waited, time, waited, type, waited,
                 clock_for(c, time));
    fg_code_line(c, 1, "if (%s && (!%s || %s != %s)) {", t->s->heard, known, still, t->s->newest);
    fg_code_line(c, 2, "%s = true;", known);
    fg_code_line(c, 2, "%s = %s;", still, t->s->newest);
    fg_code_line(c, 2, "%s = 0;", waited);
    fg_code_line(c, 1, "}");
    fg_code_line(c, 1, "if (%s >= %" PRIu32 "u) %s = false;", waited, time, t->ok);
}

static void trust_stage(const stages *t, const char *value)
{
    const code_test out = fg_code_out_of(t->c, t->s, value, t->rule->trusted);
    if (out.join == CODE_FALSE) return;
    fg_code_line(t->c, 1, "if (%s) %s = false; /* trust */", out.text, t->ok);
}

static void bridge_stage(const stages *t)
{
    coder *c = t->c;
    const fg_time time = t->rule->bridge;
    const char *type = clock_type(time),
               *good = member(t, t->type, "_good", 0, "the last good one, and how long ago in ms");
    const char *waited = member(t, type, "_good_for", 0, NULL), *known = member(t, "bool", "_known", 0, NULL);
    fg_code_line(c, 1, "if (%s) { /* bridge */", t->ok);
    fg_code_line(c, 2, "%s = %s;", good, t->value);
    fg_code_line(c, 2, "%s = 0;", waited);
    fg_code_line(c, 2, "%s = true;", known);
    fg_code_line(c, 1, "} else if (%s) {", known);
    fg_code_line(c, 2, "%s = (%s)(%s + %s);", waited, type, waited, clock_for(c, time));
    fg_code_line(c, 2, "%s = %s = %s <= %" PRIu32 "u;", t->ok, known, waited, time);
    fg_code_line(c, 2, "%s = %s;", t->value, good);
    fg_code_line(c, 1, "}");
}

static void window_stage(const stages *t, bool narrow)
{
    coder *c = t->c;
    const bool means = t->rule->stages & FG_STAGE_MEAN;
    const unsigned size = t->rule->window;
    const char *suffix = narrow ? "_16" : "";
    const char *values = member(t, t->type, "_last", (uint16_t)size, "the last good ones");
    const char *ring = member(t, fg_code_say(c, "%s_ring", c->name), "_ring", 0, NULL);
    c->ring = true;
    fg_code_line(c, 1, "if (!%s)", t->ok);
    fg_code_line(c, 2, "%s.count = %s.head = 0;", ring, ring);
    fg_code_line(c, 1, "else");
    const char *kind = t->rule->circle < (1 << 29) ? "" : "_long";
    if (t->rule->circle && means) {
        fg_code_line(c, 2, "%s = circle_mean%s(%s, &%s, %u, %" PRId32 ", %s);", t->value, kind, values, ring, size,
                     t->rule->circle, t->value);
    } else if (t->rule->circle) {
        const char *sorted = member(t, t->type, "_sorted", (uint16_t)size, NULL);
        fg_code_line(c, 2, "%s = circle_median%s(%s, &%s, %u, %" PRId32 ", %s, %s);", t->value, kind, values, ring,
                     size, t->rule->circle, t->value, sorted);
    } else if (means) {
        fg_code_line(c, 2, "%s = mean%s(%s, &%s, %u, %s);", t->value, suffix, values, ring, size, t->value);
    } else {
        const char *sorted = member(t, t->type, "_sorted", (uint16_t)size, "the same in order");
        fg_code_line(c, 2, "%s = median%s(%s, %s, &%s, %u, %s);", t->value, suffix, values, sorted, ring, size,
                     t->value);
    }
}

static void zero_stage(const stages *t)
{
    coder *c = t->c;
    const char *last = member(t, "uint8_t", "_zeroed", 0, "the last sure answer of what sets its zero");
    const char *zero = member(t, "int32_t", "_zero", 0, NULL);
    const char *starts = fg_code_word(c, t->name, "_starts");
    fg_code_line(c, 1, "const bool %s = starts(&%s, %s) == YES;", starts, last, c->flags[t->rule->zero_flag].answer);
    fg_code_line(c, 1, "if (%s && %s) %s = %s;", starts, t->ok, zero, t->value);
    const bool fits = t->s->high - t->s->low <= INT32_MAX;
    if (t->rule->circle) {
        fg_code_line(c, 1, "%s = wrapped_32(%s - %s, %" PRId32 ");", t->value, t->value, zero, t->rule->circle);
    } else if (fits) {
        fg_code_line(c, 1, "%s -= %s;", t->value, zero);
    } else {
        const char *moved = fg_code_word(c, t->name, "_moved_by");
        fg_code_line(c, 1, "const int64_t %s = (int64_t)%s - %s;", moved, t->value, zero);
        fg_code_line(c, 1, "if (%s < INT32_MIN || %s > INT32_MAX) %s = false;", moved, moved, t->ok);
        fg_code_line(c, 1, "%s = (int32_t)%s;", t->value, moved);
    }
    const int64_t span = fits ? t->s->high - t->s->low : INT32_MAX;
    if (!t->rule->circle) t->s->low = -span - !fits;
    if (!t->rule->circle) t->s->high = span;
}

/* What a display shows later has to be kept. */
static void keep_shown(const stages *t)
{
    coder *c = t->c;
    const char *value = member(t, t->type, "_shown", 0, "for the texts"), *ok = member(t, "bool", "_there", 0, NULL);
    fg_code_line(c, 1, "%s = %s;", value, t->value);
    fg_code_line(c, 1, "%s = %s;", ok, t->ok);
    t->s->value = value;
    t->s->ok = ok;
}

static void begin_read(const stages *t)
{
    coder *c = t->c;
    const bool stuck = t->rule->stages & FG_STAGE_STUCK;
    if (t->rule->stages & FG_STAGE_STALE) {
        const char *at = t->s->at, *old = t->s->old;
        if (old) { /* a reading that is too old still counts as one that has not moved */
            fg_code_line(c, 1, "if ((uint32_t)(now - %s) > %" PRIu32 "u) %s = true; /* stale */", at, t->rule->stale,
                         old);
            fg_code_line(c, 1, "bool %s = %s && !%s;", t->ok, t->s->heard, old);
        } else {
            fg_code_line(c, 1, "if ((uint32_t)(now - %s) > %" PRIu32 "u) %s = false; /* stale */", at, t->rule->stale,
                         t->s->heard);
            fg_code_line(c, 1, "bool %s = %s;", t->ok, t->s->heard);
        }
    } else {
        fg_code_line(c, 1, "bool %s = %s;", t->ok, t->s->heard);
    }
    if (stuck) stuck_stage(t);
    if (t->rule->trust == FG_TRUST_RANGE) trust_stage(t, t->s->newest);
    if (t->rule->circle)
        fg_code_line(c, 1, "%s %s = wrapped_32(%s, %" PRId32 ");", t->type, t->value, t->s->newest, t->rule->circle);
    else
        fg_code_line(c, 1, "%s %s = %s;", t->type, t->value, t->s->newest);
}

static void begin_sum(const stages *t, uint16_t number)
{
    fg_code_line(t->c, 1, "int32_t %s = 0;", t->value);
    fg_code_line(t->c, 1, "bool %s = false;", t->ok);
    fg_code_sum(t->c, number, t->value, t->ok);
    if (t->rule->trust == FG_TRUST_RANGE) trust_stage(t, t->value);
    if (t->rule->trust == FG_TRUST_RANGE && t->rule->trusted.low > t->s->low) t->s->low = t->rule->trusted.low;
    if (t->rule->trust == FG_TRUST_RANGE && t->rule->trusted.high < t->s->high) t->s->high = t->rule->trusted.high;
    if (t->rule->circle)
        fg_code_line(t->c, 1, "%s = wrapped_32(%s, %" PRId32 ");", t->value, t->value, t->rule->circle);
}

bool fg_code_is_narrow(const code_sensor *s)
{
    return s->narrow && !s->rule->circle && !(s->rule->stages & FG_STAGE_ZERO);
}

void fg_code_sensor(coder *c, uint16_t number)
{
    code_sensor *s = &c->sensors[number];
    const fg_sensor *rule = s->rule;
    stages t = {.c = c, .s = s, .rule = rule, .name = s->declared->name};
    if (!s->used) return;
    const bool plain = !rule->stages && !rule->trust && !rule->window && !rule->circle;
    if (plain && !rule->term_count && !s->shown) return;
    const bool narrow = fg_code_is_narrow(s);
    t.type = narrow ? "int16_t" : "int32_t";
    t.value = fg_code_word(c, t.name, "_now");
    t.ok = fg_code_word(c, t.name, "_ok");
    if (rule->term_count)
        begin_sum(&t, number);
    else
        begin_read(&t);
    if (rule->circle) s->low = 0;
    if (rule->circle) s->high = rule->circle - 1;
    if (rule->trust == FG_TRUST_WRAP) trust_stage(&t, t.value);
    if (rule->stages & FG_STAGE_BRIDGE) bridge_stage(&t);
    if (rule->window) window_stage(&t, narrow);
    if (rule->stages & FG_STAGE_ZERO) zero_stage(&t);
    s->value = t.value;
    s->ok = t.ok;
    if (!s->valued) fg_code_line(c, 1, "(void)%s; /* only whether it is faulty is asked */", t.value);
    if (s->shown) keep_shown(&t);
}

/* ---- flags ---- */

void fg_code_flag(coder *c, uint16_t number)
{
    code_flag *f = &c->flags[number];
    const fg_flag *rule = &c->gate->flags[number];
    const fg_text name = f->declared->name;
    if (rule->stages & FG_STAGE_STALE)
        fg_code_line(c, 1, "if ((uint32_t)(now - %s) > %" PRIu32 "u) %s = UNSURE; /* stale */", f->at, rule->stale,
                     f->newest);
    const char *level = f->newest;
    if (rule->stages & FG_STAGE_BRIDGE) {
        const char *type = clock_type(rule->bridge);
        const char *good = fg_code_member(c, "uint8_t", fg_code_word(c, name, "_good"), 0,
                                          "the last good one, and how long ago in ms");
        const char *waited = fg_code_member(c, type, fg_code_word(c, name, "_good_for"), 0, NULL);
        level = fg_code_word(c, name, "_now");
        fg_code_line(c, 1, "uint8_t %s = %s;", level, f->newest);
        fg_code_line(c, 1, "if (%s != UNSURE) { /* bridge */", level);
        fg_code_line(c, 2, "%s = %s;", good, level);
        fg_code_line(c, 2, "%s = 0;", waited);
        fg_code_line(c, 1, "} else if (%s != UNSURE) {", good);
        fg_code_line(c, 2, "%s = (%s)(%s + %s);", waited, type, waited, clock_for(c, rule->bridge));
        fg_code_line(c, 2, "if (%s > %" PRIu32 "u) %s = UNSURE;", waited, rule->bridge, good);
        fg_code_line(c, 2, "%s = %s;", level, good);
        fg_code_line(c, 1, "}");
    }
    f->bridged = level;
    if (rule->settle) {
        const bool is_short_time = rule->settle <= CODE_SHORT_TIME;
        const char *type = fg_code_say(c, is_short_time ? "%s_settling" : "%s_settling_long", c->name);
        const char *settling = fg_code_member(c, type, fg_code_word(c, name, "_settled"), 0, NULL);
        if (is_short_time)
            c->settling = true;
        else
            c->settling_long = true;
        fg_code_line(c, 1, "settle%s(&%s, %s, %s, %" PRIu32 "u);", is_short_time ? "" : "_long", settling, level,
                     clock_for(c, rule->settle), rule->settle);
        level = fg_code_say(c, "%s.is", settling);
    } else if (rule->stages & FG_STAGE_BRIDGE) {
        const char *kept = fg_code_member(c, "uint8_t", fg_code_word(c, name, "_is"), 0, NULL);
        fg_code_line(c, 1, "%s = %s;", kept, level);
        level = kept;
    }
    f->answer = level;
}
