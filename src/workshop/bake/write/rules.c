/* SPDX-License-Identifier: MIT */
/* Thresholds, hysteresis and bands. Limits stand as numbers, margins are added already. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>
#include <string.h>

typedef struct ruling {
    coder *c;
    const code_sensor *sensor;
    const char *is; /* the present answer */
    fg_text name;
} ruling;

/* ---- settling ---- */

static bool settles(const fg_settle *settle) { return settle->time > 0; }

/* The variable of a rule: one byte, or that and what settling remembers. */
static const char *add_answer(coder *c, uint16_t slot, fg_text name, const fg_settle *settle)
{
    const char *word = fg_code_word(c, name, "");
    if (!settles(settle)) return c->slots[slot] = fg_code_member(c, "uint8_t", word, 0, NULL);
    const char *type = "settling";
    if (settle->within >= 0)
        type = "settling_within";
    else if (settle->time > CODE_SHORT_TIME)
        type = "settling_long";
    *(settle->within >= 0              ? &c->settling_within
      : settle->time > CODE_SHORT_TIME ? &c->settling_long
                                       : &c->settling) = true;
    const char *member = fg_code_member(c, fg_code_say(c, "%s_%s", c->name, type), word, 0, NULL);
    return c->slots[slot] = fg_code_say(c, "%s.is", member);
}

/* Believes what came out, at once or once it has lasted. */
static void believe(const ruling *r, const fg_settle *settle, const char *came)
{
    coder *c = r->c;
    if (!settles(settle)) {
        fg_code_line(c, 1, "%s = %s;", r->is, came);
        return;
    }
    const char *member = fg_code_say(c, "%.*s", (int)(strlen(r->is) - 3), r->is);
    if (settle->within >= 0) {
        const int64_t most = (int64_t)1 << 29;
        const bool large = r->sensor->low <= -most || r->sensor->high >= most;
        fg_code_line(c, 1, "\3settle_within%s(&%s, %s, \3gone, %" PRIu32 "u, %s, %" PRId32 ", %" PRId32 ");",
                     large ? "_long" : "", member, came, settle->time, r->sensor->value, settle->within,
                     settle->circle);
    } else if (settle->time > CODE_SHORT_TIME) {
        fg_code_line(c, 1, "\3settle_long(&%s, %s, \3gone, %" PRIu32 "u);", member, came, settle->time);
    } else {
        c->settle_calls++;
        fg_code_line(c, 1, "\3settle(&%s, %s, \3passed, %" PRIu32 "u);", member, came, settle->time);
    }
}

/* ---- threshold ---- */

static code_test holds(const ruling *r, const fg_range *range, bool outside)
{
    const code_sensor *s = r->sensor;
    return outside ? fg_code_out_of(r->c, s, s->value, *range) : fg_code_in(r->c, s, s->value, *range);
}

static void threshold(const ruling *r, const fg_threshold *rule)
{
    coder *c = r->c;
    const code_test plain = holds(r, &rule->range, rule->outside), kept = holds(r, &rule->kept, rule->outside);
    const char *in = plain.text;
    if (!fg_code_same(plain, kept)) in = fg_code_say(c, "(%s == \3YES ? %s : %s)", r->is, kept.text, plain.text);
    believe(r, &rule->settle,
            fg_code_say(c, "%s ? \3UNSURE : %s ? \3YES : \3NO", fg_code_not(c, fg_code_atom(r->sensor->ok)).text, in));
}

/* ---- hysteresis ---- */

static void hysteresis(const ruling *r, const fg_hysteresis *rule)
{
    coder *c = r->c;
    const code_test on = rule->never_on ? code_never : holds(r, &rule->on, false);
    const code_test off = rule->never_off ? code_never : holds(r, &rule->off, false);
    const char *faulty = fg_code_not(c, fg_code_atom(r->sensor->ok)).text;
    const char *first = rule->first_on ? "\3YES" : "\3NO";
    if (settles(&rule->settle)) {
        believe(r, &rule->settle,
                fg_code_say(c, "%s ? \3UNSURE : %s ? \3YES : %s ? \3NO : %s != \3UNSURE ? %s : %s", faulty, on.text,
                            off.text, r->is, r->is, first));
        return;
    }
    fg_code_line(c, 1, "if (%s)", faulty);
    fg_code_line(c, 2, "%s = \3UNSURE;", r->is);
    const code_test unsure = fg_code_is(c, r->is, "\3UNSURE");
    fg_code_line(c, 1, "else if (%s)", on.text);
    fg_code_line(c, 2, "%s = \3YES;", r->is);
    fg_code_line(c, 1, "else if (%s)", rule->first_on ? off.text : fg_code_either(c, off, unsure).text);
    fg_code_line(c, 2, "%s = \3NO;", r->is);
    if (!rule->first_on) return;
    fg_code_line(c, 1, "else if (%s)", unsure.text);
    fg_code_line(c, 2, "%s = \3YES;", r->is);
}

/* ---- bands ---- */

/* Each label while it is the present answer, and what keeps it. */
static void write_kept(const ruling *r, const fg_bands *rule, const fg_declared *d)
{
    coder *c = r->c;
    fg_code_line(c, 1, "/* the present answer holds for the margin longer */");
    for (uint16_t k = 0; k < d->label_count; k++) {
        code_test kept = code_never;
        for (uint16_t i = 0; i < rule->count; i++)
            if (rule->bands[i].label == fg_label(k))
                kept = fg_code_either(c, kept, fg_code_in(c, r->sensor, "reading", rule->bands[i].kept));
        const code_test stays = fg_code_both(c, fg_code_is(c, "is", fg_code_label(c, d, fg_label(k))), kept);
        if (stays.join != CODE_FALSE) fg_code_line(c, 1, "if (%s) return is;", stays.text);
    }
}

/* The bands as they are written, the first that holds wins. Where the bands before have all that lies below, the lower
 * limit goes without saying. */
static bool write_ranges(const ruling *r, const fg_bands *rule, const fg_declared *d)
{
    coder *c = r->c;
    int64_t reached = r->sensor->rule->circle ? -1 : INT32_MIN - (int64_t)1; /* all up to here is decided */
    for (uint16_t i = 0; i < rule->count; i++) {
        fg_range range = rule->bands[i].range;
        const char *name = fg_code_label(c, d, rule->bands[i].label);
        if (range.low > range.high) { /* through zero: two parts */
            fg_code_line(c, 1, "if (%s) return %s;", fg_code_in(c, r->sensor, "reading", range).text, name);
            if (range.high > reached && reached == -1) reached = range.high;
            continue;
        }
        const bool follows = range.low <= reached + 1;
        if (follows && range.high > reached) reached = range.high;
        if (follows) range.low = INT32_MIN;
        const code_test in = fg_code_in(c, r->sensor, "reading", range);
        if (in.join == CODE_TRUE) {
            fg_code_line(c, 1, "return %s;", name);
            return true;
        }
        if (in.join != CODE_FALSE) fg_code_line(c, 1, "if (%s) return %s;", in.text, name);
    }
    return false;
}

static void bands(const ruling *r, const fg_bands *rule, const fg_declared *d)
{
    coder *c = r->c;
    const code_sensor *s = r->sensor;
    const char *type = fg_code_is_narrow(s) ? "int16_t" : "int32_t";
    const char *function = fg_code_local(c, r->name, "_of");
    code_block *const step = fg_code_function_begin(c, function);
    fg_code_line(c, 0, "/* Which of the bands %.*s a reading is in%s. */", (int)r->name.size, r->name.at,
                 rule->keeps ? "; `is`: the present answer" : "");
    fg_code_line(c, 0, "static uint8_t %s(%s reading%s)", function, type, rule->keeps ? ", uint8_t is" : "");
    fg_code_line(c, 0, "{");
    if (!rule->count) fg_code_line(c, 1, "(void)reading;");
    if (rule->keeps) write_kept(r, rule, d);
    if (!write_ranges(r, rule, d)) fg_code_line(c, 1, "return %s;", fg_code_label(c, d, rule->otherwise));
    fg_code_line(c, 0, "}\n");
    fg_code_function_end(c, step);
    const char *kept = rule->keeps ? fg_code_say(c, ", %s", r->is) : "";
    believe(r, &rule->settle, fg_code_say(c, "%s ? %s(%s%s) : \3UNSURE", s->ok, function, s->value, kept));
}

void fg_code_rule(coder *c, uint16_t slot)
{
    const fg_op *op = &c->gate->ops[slot];
    const fg_declared *d = fg_code_declared(c, fg_op_declared_kind((fg_op_kind)op->kind), op->rule);
    const ruling r = {.c = c,
                      .sensor = &c->sensors[op->a],
                      .name = d->name,
                      .is = add_answer(c, slot, d->name, fg_op_settle(c->gate, op))};
    switch (op->kind) {
    case FG_OP_THRESHOLD: threshold(&r, &c->gate->thresholds[op->rule]); return;
    case FG_OP_HYSTERESIS: hysteresis(&r, &c->gate->hysteresis[op->rule]); return;
    case FG_OP_BANDS: bands(&r, &c->gate->bands[op->rule], d); return;
    default: return;
    }
}
