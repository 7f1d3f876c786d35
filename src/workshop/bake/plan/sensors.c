/* SPDX-License-Identifier: MIT */
/* How the rules look at sensors and flags, and what has to be kept of their readings. */
#include "workshop/bake/plan/coder.h"

enum { NARROW = 32766 };

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
    if (!fg_op_is(op->kind, FG_OP_ON_SENSOR)) return;
    const fg_settle *settle = fg_op_settle(g, op);
    fg_rule_range range;
    u->judged = true;
    u->exact = u->exact || (settle && settle->within >= 0);
    for (uint16_t i = 0; fg_op_range(g, op, i, &range); i++) {
        limits(u, range.range);
        limits(u, range.kept);
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
            const bool looks = fg_term_reads(t->kind);
            u.exact = u.exact || (looks && t->sensor == sensor);
        }
    const fg_sensor *rule = &g->sensors[sensor];
    c->sensors[sensor].shown = c->sensors[sensor].shown || c->baker->options->details;
    c->sensors[sensor].valued = u.judged || u.followed || u.exact || c->sensors[sensor].shown;
    c->sensors[sensor].used = c->sensors[sensor].valued || u.asked;
    u.exact = u.exact || c->sensors[sensor].shown || rule->circle ||
              rule->stages & (FG_STAGE_MEAN | FG_STAGE_ZERO | FG_STAGE_STUCK);
    if (rule->trust != FG_TRUST_ALL) limits(&u, &rule->trusted);
    return u;
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
        fg_rule_range range;
        if (!fg_op_is(op->kind, FG_OP_ON_SENSOR) || op->a != sensor) continue;
        for (uint16_t k = 0; fg_op_range(g, op, k, &range); k++)
            all = all && fits(c, sensor, range.range) && fits(c, sensor, range.kept);
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
    const bool small = s->small = u.low >= -NARROW && u.high <= NARROW;
    if (rule->term_count) return; /* it may turn out to be narrow as its sum is worked out */
    if (rule->scale_count && !c->baker->options->units && !u.exact && !u.followed && fg_code_one_way(s) &&
        !(s->falls && rule->window) && fg_code_find_ends(s)) {
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
    if (s->rule->stages & FG_STAGE_STALE) {
        s->at = fg_code_member(c, "uint32_t", fg_code_word(c, s->declared->name, "_at"), 0, "when it was read");
        s->fresh = fg_code_member(c, "bool", fg_code_word(c, s->declared->name, "_fresh"), 0, "since the last step");
    }
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
    if (rule->stages & FG_STAGE_STALE) {
        f->at = fg_code_member(c, "uint32_t", fg_code_word(c, f->declared->name, "_at"), 0, "when it was read");
        f->fresh = fg_code_member(c, "bool", fg_code_word(c, f->declared->name, "_fresh"), 0, "since the last step");
    }
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

bool fg_code_is_narrow(const code_sensor *s)
{
    return s->narrow && !s->rule->circle && !(s->rule->stages & FG_STAGE_ZERO);
}
