/* SPDX-License-Identifier: MIT */
/* Sensors: the stages a reading goes through before the rules see it. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>

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

static void stuck_stage(const stages *t)
{
    coder *c = t->c;
    const fg_time time = t->rule->stuck;
    const char *type = fg_code_clock_type(time),
               *still = member(t, t->s->narrow ? "int16_t" : "int32_t", "_still", 0, "where it last moved to");
    const char *waited = member(t, type, "_still_for", 0, "ms"),
               *known = member(t, "bool", "_moved", 0, "it has been read once");
    fg_code_line(c, 1, "if (%s < %" PRIu32 "u) %s = (%s)(%s + %s);", waited, time, waited, type, waited,
                 fg_code_clock(time));
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
    const char *type = fg_code_clock_type(time),
               *good = member(t, t->type, "_good", 0, "the last good one, and how long ago in ms");
    const char *waited = member(t, type, "_good_for", 0, NULL), *known = member(t, "bool", "_known", 0, NULL);
    fg_code_line(c, 1, "if (%s) { /* bridge */", t->ok);
    fg_code_line(c, 2, "%s = %s;", good, t->value);
    fg_code_line(c, 2, "%s = 0;", waited);
    fg_code_line(c, 2, "%s = true;", known);
    fg_code_line(c, 1, "} else if (%s) {", known);
    fg_code_line(c, 2, "%s = (%s)(%s + %s);", waited, type, waited, fg_code_clock(time));
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
        fg_code_line(c, 2, "%s = \3circle_mean%s(%s, &%s, %u, %" PRId32 ", %s);", t->value, kind, values, ring, size,
                     t->rule->circle, t->value);
    } else if (t->rule->circle) {
        const char *sorted = member(t, t->type, "_sorted", (uint16_t)size, NULL);
        fg_code_line(c, 2, "%s = \3circle_median%s(%s, &%s, %u, %" PRId32 ", %s, %s);", t->value, kind, values, ring,
                     size, t->rule->circle, t->value, sorted);
    } else if (means) {
        fg_code_line(c, 2, "%s = \3mean%s(%s, &%s, %u, %s);", t->value, suffix, values, ring, size, t->value);
    } else {
        const char *sorted = member(t, t->type, "_sorted", (uint16_t)size, "the same in order");
        fg_code_line(c, 2, "%s = \3median%s(%s, %s, &%s, %u, %s);", t->value, suffix, values, sorted, ring, size,
                     t->value);
    }
}

static void zero_stage(const stages *t)
{
    coder *c = t->c;
    const char *last = member(t, "uint8_t", "_zeroed", 0, "the last sure answer of what sets its zero");
    const char *zero = member(t, "int32_t", "_zero", 0, NULL);
    c->zeros[t->s - c->sensors] = zero;
    const char *starts = fg_code_local(c, t->name, "_starts");
    const char *value = fg_code_say(c, "\3starts(&%s, %s) == \3YES", last, c->flags[t->rule->zero_flag].answer);
    fg_code_define(c, 1, (code_definition){"bool", starts, "", value, true});
    fg_code_line(c, 1, "if (%s && %s) %s = %s;", starts, t->ok, zero, t->value);
    const bool fits = t->s->high - t->s->low <= INT32_MAX;
    if (t->rule->circle) {
        fg_code_line(c, 1, "%s = \3wrapped_32(%s - %s, %" PRId32 ");", t->value, t->value, zero, t->rule->circle);
    } else if (fits) {
        fg_code_line(c, 1, "%s -= %s;", t->value, zero);
    } else {
        const char *moved = fg_code_local(c, t->name, "_moved_by");
        fg_code_define(
            c, 1, (code_definition){"int64_t", moved, "", fg_code_say(c, "(int64_t)%s - %s", t->value, zero), false});
        fg_code_line(c, 1, "if (%s >= INT32_MIN && %s <= INT32_MAX)", moved, moved);
        fg_code_line(c, 2, "%s = (int32_t)%s;", t->value, moved);
        fg_code_line(c, 1, "else");
        fg_code_line(c, 2, "%s = false;", t->ok);
    }
    const int64_t span = fits ? t->s->high - t->s->low : INT32_MAX;
    if (!t->rule->circle) t->s->low = -span - !fits;
    if (!t->rule->circle) t->s->high = span;
}

/* What is asked for later has to be kept. */
static void keep_shown(const stages *t)
{
    coder *c = t->c;
    const char *value = member(t, t->type, "_shown", 0, "as the rules saw it"),
               *ok = member(t, "bool", "_there", 0, NULL);
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
        fg_code_line(c, 1, "\3stamp(&%s, &%s, \3now, \3back);", at, t->s->fresh);
        if (old) { /* a reading that is too old still counts as one that has not moved */
            fg_code_line(c, 1, "if ((uint32_t)(\3now - %s) > %" PRIu32 "u) %s = true; /* stale */", at, t->rule->stale,
                         old);
            fg_code_line(c, 1, "bool %s = %s && !%s;", t->ok, t->s->heard, old);
        } else {
            fg_code_line(c, 1, "if ((uint32_t)(\3now - %s) > %" PRIu32 "u) %s = false; /* stale */", at, t->rule->stale,
                         t->s->heard);
            fg_code_line(c, 1, "bool %s = %s;", t->ok, t->s->heard);
        }
    } else {
        fg_code_line(c, 1, "bool %s = %s;", t->ok, t->s->heard);
    }
    if (stuck) stuck_stage(t);
    if (t->rule->trust == FG_TRUST_RANGE) trust_stage(t, t->s->newest);
    if (t->rule->circle)
        fg_code_line(c, 1, "%s %s = \3wrapped_32(%s, %" PRId32 ");", t->type, t->value, t->s->newest, t->rule->circle);
    else
        fg_code_line(c, 1, "%s %s = %s;", t->type, t->value, t->s->newest);
}

static void begin_sum(stages *t, uint16_t number, bool is_short)
{
    fg_code_line(t->c, 1, "%s %s = 0;", t->type, t->value);
    if (is_short)
        t->ok = fg_code_short_sum(t->c, number, t->value, t->ok);
    else
        fg_code_sum(t->c, number, t->value, t->ok);
    if (t->rule->trust == FG_TRUST_RANGE) trust_stage(t, t->value);
    if (t->rule->trust == FG_TRUST_RANGE && t->rule->trusted.low > t->s->low) t->s->low = t->rule->trusted.low;
    if (t->rule->trust == FG_TRUST_RANGE && t->rule->trusted.high < t->s->high) t->s->high = t->rule->trusted.high;
    if (t->rule->circle)
        fg_code_line(t->c, 1, "%s = \3wrapped_32(%s, %" PRId32 ");", t->value, t->value, t->rule->circle);
}

void fg_code_sensor(coder *c, uint16_t number)
{
    code_sensor *s = &c->sensors[number];
    const fg_sensor *rule = s->rule;
    stages t = {.c = c, .s = s, .rule = rule, .name = s->declared->name};
    if (!s->used) return;
    const bool plain = !rule->stages && !rule->trust && !rule->window && !rule->circle;
    if (plain && !rule->term_count && !s->shown) return;
    const bool is_short = rule->term_count && fg_code_plan_short_sum(c, number), narrow = fg_code_is_narrow(s);
    t.type = narrow ? "int16_t" : "int32_t";
    t.value = fg_code_local(c, t.name, "_now");
    t.ok = fg_code_local(c, t.name, "_ok");
    if (rule->term_count)
        begin_sum(&t, number, is_short);
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
