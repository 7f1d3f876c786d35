/* SPDX-License-Identifier: MIT */
/* The reasons at one step as a tree: every part with its answer, since when, how far it is from turning and what it
 * waits for. */
#include "workshop/why/why.h"

#include <string.h>

enum { DEPTH_MOST = 24 };

static fg_verdict now(const fg_asker *a, uint16_t slot) { return fg_answer(a->explainer.run, slot); }

static const fg_op *op_at(const fg_asker *a, uint16_t slot) { return &a->program->gate.ops[slot]; }

/* ---- lines ---- */

static fg_buffer *begin(fg_asker *a)
{
    a->line.size = 0;
    return &a->line;
}

static void end(fg_asker *a, uint32_t depth, bool decides)
{
    a->observer->reason(a->observer->context, &(fg_reason){a->t_ms, depth, decides, fg_buffer_text(&a->line)});
}

/* What the first deciding line suggests is what to look at next. */
static fg_buffer *suggest(fg_asker *a, bool decides)
{
    return decides && !a->silent && !a->next.size ? &a->next : NULL;
}

static void add_seconds(fg_buffer *out, int64_t ms)
{
    char text[40];
    (void)snprintf(text, sizeof text, "%lld.%03d s", (long long)(ms / 1000), (int)(ms % 1000));
    size_t size = strlen(text) - 2;
    while (text[size - 1] == '0') size--;
    if (text[size - 1] == '.') size--;
    fg_buffer_add(out, (fg_text){text, size});
    fg_buffer_add_c(out, " s");
}

static void add_since(const fg_asker *a, uint16_t slot, fg_buffer *out)
{
    if (a->shadow.since[slot] < 0) {
        fg_buffer_add_c(out, ", from the beginning");
        return;
    }
    fg_buffer_add_c(out, ", since ");
    add_seconds(out, a->shadow.since[slot]);
}

static void add_answer(const fg_asker *a, uint16_t slot, fg_buffer *out)
{
    const fg_declared *owner = a->explainer.slot_owners[slot];
    const fg_verdict answer = now(a, slot);
    if (owner)
        fg_buffer_add(out, fg_answer_text(owner, answer));
    else
        fg_buffer_add_c(out, answer == FG_YES ? "yes" : answer == FG_NO ? "no" : "unsure");
}

/* ---- how far ---- */

static void add_distance(fg_buffer *out, int64_t way, const fg_declared *sensor)
{
    const int64_t far = way < 0 ? -way : way;
    fg_buffer_add_value(out, (fg_value)(far > INT32_MAX ? INT32_MAX : far), sensor);
}

/* "depth has to rise by 1.9 cm" */
static void add_need(fg_buffer *out, int64_t way, const fg_declared *sensor, fg_value circle)
{
    if (!out || way == INT64_MAX || !way) return;
    fg_buffer_add(out, sensor->name);
    fg_buffer_add_c(out, circle ? (way > 0 ? " has to turn up by " : " has to turn down by ")
                                : (way > 0 ? " has to rise by " : " has to fall by "));
    add_distance(out, way, sensor);
}

static fg_value circle_of(const fg_asker *a, uint16_t sensor) { return a->program->gate.sensors[sensor].circle; }

/* ---- sensors and flags ---- */

/* What several look at is told once, or twice if it decides only the second time. Else a chain whose parts are shared
 * would be told as often as there are ways through it. True: say no more than that it stands above. */
static bool stands_above(fg_asker *a, uint16_t slot, bool decides)
{
    const uint8_t how = decides ? 2 : 1;
    if (a->shown[slot] >= how) return true;
    a->shown[slot] = how;
    return false;
}

static void sensor_line(fg_asker *a, uint16_t sensor, uint32_t depth, bool decides)
{
    const fg_declared *d = a->explainer.sensors[sensor];
    const fg_sensor *rule = &a->program->gate.sensors[sensor];
    const bool good = fg_sensor_at(a->explainer.run, sensor)->ok;
    fg_buffer *out = begin(a);
    fg_buffer_add(out, d->name);
    fg_buffer_add_c(out, good ? " " : " is faulty: ");
    fg_explain_sensor(&a->explainer, d, out);
    add_since(a, d->slot, out);
    const bool above = rule->term_count && stands_above(a, d->slot, decides);
    if (above) fg_buffer_add_c(out, " (see above)");
    end(a, depth, decides);
    fg_buffer *next = good ? NULL : suggest(a, decides);
    const bool deeper = rule->term_count && depth < DEPTH_MOST && !above;
    for (uint16_t i = 0; deeper && i < rule->term_count; i++) {
        const fg_term *term = &a->program->gate.terms[rule->first_term + i];
        const bool reads = fg_term_reads(term->kind);
        bool seen = false;
        for (uint16_t k = 0; k < i && reads; k++) {
            const fg_term *other = &a->program->gate.terms[rule->first_term + k];
            seen = seen || (fg_term_reads(other->kind) && other->sensor == term->sensor);
        }
        if (!reads || seen) continue;
        sensor_line(a, term->sensor, depth + 1, decides && !good && !fg_sensor_at(a->explainer.run, term->sensor)->ok);
    }
    if (!next || a->next.size) return;
    fg_buffer_add_c(&a->next, "look at the sensor ");
    fg_buffer_add(&a->next, d->name);
    fg_buffer_add_c(&a->next, ": ");
    fg_explain_sensor(&a->explainer, d, &a->next);
}

/* ---- rules on a sensor ---- */

/* "fair has been the result for 1.2 s of 2 s" */
static void wait_line(fg_asker *a, const fg_settle *settle, const fg_settle_state *state, const fg_declared *rule,
                      uint32_t depth, bool decides)
{
    if (!settle->time || state->candidate == state->present || state->candidate == FG_UNSURE) return;
    const int64_t passed = (fg_time)(a->now - state->since);
    fg_buffer *out = begin(a);
    fg_buffer_add(out, fg_answer_text(rule, state->candidate));
    fg_buffer_add_c(out, " has been the result for ");
    add_seconds(out, passed);
    fg_buffer_add_c(out, " of ");
    add_seconds(out, (int64_t)settle->time);
    fg_buffer_add_c(out, ": it is settling");
    end(a, depth, decides);
    fg_buffer *next = suggest(a, decides);
    if (!next) return;
    fg_buffer_add_c(next, "wait: ");
    fg_buffer_add(next, rule->name);
    fg_buffer_add_c(next, " will be ");
    fg_buffer_add(next, fg_answer_text(rule, state->candidate));
    fg_buffer_add_c(next, " at ");
    add_seconds(next, a->t_ms + (int64_t)settle->time - passed);
    fg_buffer_add_c(next, " if the reading stays");
}

/* "; 1.9 cm short of over 14.0 cm" or "; by 1.9 cm" */
static void add_margin_left(fg_buffer *out, int64_t way, const fg_declared *sensor, bool yes)
{
    if (way == INT64_MAX) return;
    fg_buffer_add_c(out, yes ? ", which ends " : ", ");
    add_distance(out, way, sensor);
    fg_buffer_add_c(out, yes ? (way > 0 ? " higher" : " lower") : " short");
}

static void comparison_line(fg_asker *a, uint16_t sensor, const fg_comparison *written, bool yes, int64_t way,
                            uint32_t depth, bool decides)
{
    const fg_declared *d = a->explainer.sensors[sensor];
    fg_value value = 0;
    if (!fg_sensor_value(a->explainer.run, sensor, &value)) {
        sensor_line(a, sensor, depth, decides);
        return;
    }
    fg_buffer *out = begin(a);
    fg_buffer_add(out, d->name);
    fg_buffer_add_c(out, " ");
    fg_buffer_add_value(out, value, d);
    fg_buffer_add_c(out, yes ? " is " : " is not ");
    fg_explain_comparison(written, d, out);
    add_margin_left(out, way, d, yes);
    end(a, depth, decides);
    add_need(suggest(a, decides), way, d, circle_of(a, sensor));
}

/* To the other side of a range. */
static int64_t way_over(const fg_range *range, fg_value value, fg_value circle)
{
    return fg_range_holds(range, value) ? fg_way_out_of(range, value, circle) : fg_way_into(range, value, circle);
}

/* A reading that is yes only because it was before. */
static void kept_line(fg_asker *a, const fg_op *op, uint16_t slot, fg_value value, int64_t way, uint32_t depth,
                      bool decides)
{
    const fg_declared *sensor = a->explainer.sensors[op->a];
    fg_buffer *out = begin(a);
    fg_buffer_add(out, sensor->name);
    fg_buffer_add_c(out, " ");
    fg_buffer_add_value(out, value, sensor);
    fg_buffer_add_c(out, " is not ");
    fg_explain_comparison(&a->program->op_sources[slot].comparison, sensor, out);
    fg_buffer_add_c(out, ", but the margin of ");
    fg_buffer_add_value(out, a->program->op_sources[slot].margin, sensor);
    fg_buffer_add_c(out, " keeps it");
    add_margin_left(out, way, sensor, true);
    end(a, depth, decides);
}

static void threshold_lines(fg_asker *a, const fg_op *op, uint16_t slot, uint32_t depth, bool decides)
{
    const fg_threshold *rule = &a->program->gate.thresholds[op->rule];
    const fg_settle_state *state = &a->shadow.thresholds[op->rule].settle;
    const fg_range *range = state->present == FG_YES ? &rule->kept : &rule->range; /* a yes holds on for its margin */
    fg_value value = 0;
    const bool good = fg_sensor_value(a->explainer.run, op->a, &value);
    const int64_t way = good ? way_over(range, value, circle_of(a, op->a)) : INT64_MAX;
    wait_line(a, &rule->settle, state, a->explainer.slot_owners[slot], depth, decides);
    if (good && fg_range_holds(range, value) != fg_range_holds(&rule->range, value))
        kept_line(a, op, slot, value, way, depth, decides);
    else
        comparison_line(a, op->a, &a->program->op_sources[slot].comparison,
                        good && fg_range_holds(range, value) != rule->outside, way, depth, decides);
}

static void hysteresis_lines(fg_asker *a, const fg_op *op, uint16_t slot, uint32_t depth, bool decides)
{
    const fg_hysteresis *rule = &a->program->gate.hysteresis[op->rule];
    const fg_settle_state *state = &a->shadow.hysteresis[op->rule].settle;
    const fg_op_source *source = &a->program->op_sources[slot];
    const bool on = state->present == FG_YES;
    fg_value value = 0;
    const bool good = fg_sensor_value(a->explainer.run, op->a, &value);
    wait_line(a, &rule->settle, state, a->explainer.slot_owners[slot], depth, decides);
    const fg_range *own = on ? &rule->on : &rule->off, *other = on ? &rule->off : &rule->on;
    const fg_comparison *own_words = on ? &source->comparison : &source->off,
                        *others = on ? &source->off : &source->comparison;
    if (!good || fg_range_holds(own, value)) {
        comparison_line(a, op->a, own_words, true, INT64_MAX, depth, decides);
        if (!good) return;
    } else if (!fg_range_holds(other, value)) {
        fg_buffer *out = begin(a);
        fg_buffer_add(out, a->explainer.sensors[op->a]->name);
        fg_buffer_add_c(out, " ");
        fg_buffer_add_value(out, value, a->explainer.sensors[op->a]);
        fg_buffer_add_c(out, " lies between the two limits, so the answer stays");
        end(a, depth, decides);
    }
    /* what would turn it */
    const int64_t way = fg_way_into(other, value, 0);
    comparison_line(a, op->a, others, !way, way ? way : INT64_MAX, depth, decides && !way);
    if (way) add_need(suggest(a, decides), way, a->explainer.sensors[op->a], 0);
}

/* The label that a reading has by the limits as written. */
static fg_verdict judged(const fg_bands *rule, fg_value value)
{
    for (uint16_t i = 0; i < rule->count; i++)
        if (fg_range_holds(&rule->bands[i].range, value)) return rule->bands[i].label;
    return rule->otherwise;
}

/* The shortest way to a reading with this label; INT64_MAX if there is none. */
static int64_t way_to_label(const fg_bands *rule, fg_verdict label, fg_value value, fg_value circle)
{
    int64_t best = INT64_MAX;
    for (uint16_t i = 0; i < rule->count; i++) {
        if (rule->bands[i].label != label) continue;
        const int64_t way = fg_way_into(&rule->bands[i].range, value, circle), far = way < 0 ? -way : way;
        if (best == INT64_MAX || far < (best < 0 ? -best : best)) best = way;
    }
    return best;
}

static void neighbour_line(fg_asker *a, const fg_op *op, const fg_declared *rule, fg_verdict label, fg_value value,
                           uint32_t depth, bool wanted)
{
    const fg_declared *sensor = a->explainer.sensors[op->a];
    const fg_value circle = circle_of(a, op->a);
    const int64_t way = way_to_label(&a->program->gate.bands[op->rule], label, value, circle);
    if (way == INT64_MAX || !way) return;
    fg_buffer *out = begin(a);
    fg_buffer_add(out, fg_answer_text(rule, label));
    fg_buffer_add_c(out, " is ");
    add_distance(out, way, sensor);
    fg_buffer_add_c(out, circle ? (way > 0 ? " further up" : " further down") : (way > 0 ? " higher" : " lower"));
    end(a, depth, false);
    if (wanted) add_need(suggest(a, true), way, sensor, circle);
}

/* `wanted`: labels that are waited for, by their bit of a list of `count`; NULL: any other. */
static void bands_lines(fg_asker *a, const fg_op *op, uint16_t slot, uint32_t depth, bool decides,
                        const fg_verdict *wanted, size_t count)
{
    const fg_bands *rule = &a->program->gate.bands[op->rule];
    const fg_declared *name = a->explainer.slot_owners[slot], *sensor = a->explainer.sensors[op->a];
    fg_value value = 0;
    wait_line(a, &rule->settle, &a->shadow.bands[op->rule].settle, name, depth, decides);
    if (!fg_sensor_value(a->explainer.run, op->a, &value)) {
        sensor_line(a, op->a, depth, decides);
        return;
    }
    fg_buffer *out = begin(a);
    fg_buffer_add(out, sensor->name);
    fg_buffer_add_c(out, " ");
    fg_buffer_add_value(out, value, sensor);
    const fg_verdict written = judged(rule, value), answer = now(a, slot);
    if (written == answer || answer == FG_UNSURE) {
        fg_buffer_add_c(out, written == FG_NONE ? " is in no band" : ", which is ");
        if (written != FG_NONE) fg_buffer_add(out, fg_answer_text(name, written));
    } else {
        fg_buffer_add_c(out, " would be ");
        fg_buffer_add(out, fg_answer_text(name, written));
        fg_buffer_add_c(out, ", but it lies within the margin, or has to settle");
    }
    end(a, depth, decides);
    for (size_t i = 0; i < count; i++)
        if (wanted[i] != answer) neighbour_line(a, op, name, wanted[i], value, depth, decides);
    if (count) return;
    for (uint16_t i = 0; i < name->label_count; i++)
        if (fg_label(i) != answer && fg_label(i) != written)
            neighbour_line(a, op, name, fg_label(i), value, depth, false);
}

/* ---- conditions ---- */

static void node(fg_asker *a, uint16_t slot, uint32_t depth, bool decides);

static void add_span(const fg_asker *a, fg_span span, fg_buffer *out)
{
    const fg_text text = a->program->sources[span.source].text;
    for (uint32_t i = 0; i < span.size && span.at + i < text.size; i++) { /* a line that goes on, in one */
        const char c = text.at[span.at + i];
        const bool blank = c == ' ' || c == '\t' || c == '\r' || c == '\n';
        if (!blank || (out->size && out->text[out->size - 1] != ' '))
            fg_buffer_add(out, (fg_text){blank ? " " : &text.at[span.at + i], 1});
    }
}

/* A condition by its name, or in the words of the gate file. */
static void add_condition(const fg_asker *a, uint16_t slot, fg_buffer *out)
{
    if (a->explainer.slot_owners[slot])
        fg_buffer_add(out, a->explainer.slot_owners[slot]->name);
    else
        add_span(a, a->program->op_sources[slot].span, out);
}

/* The parts of an `and` that is no are those that are no, and so on. */
static void joint_lines(fg_asker *a, uint16_t slot, uint32_t depth, bool decides)
{
    const fg_op *op = op_at(a, slot);
    const fg_verdict answer = now(a, slot);
    const uint16_t parts[2] = {op->a, op->b};
    const bool all = answer == (op->kind == FG_OP_AND ? FG_YES : FG_NO);
    for (int i = 0; i < 2; i++) {
        const fg_op *part = op_at(a, parts[i]);
        const bool does = decides && (all || now(a, parts[i]) == answer);
        if (part->kind == op->kind && !a->explainer.slot_owners[parts[i]] && !fg_yes_in_op(a->program, parts[i]))
            joint_lines(a, parts[i], depth, does);
        else
            node(a, parts[i], depth, does);
    }
}

static void part_line(fg_asker *a, const char *word, uint16_t slot, uint32_t depth, bool decides)
{
    if (slot == FG_INDEX_NONE) return;
    fg_buffer *out = begin(a);
    fg_buffer_add_c(out, word);
    fg_buffer_add_c(out, " ");
    add_condition(a, slot, out);
    fg_buffer_add_c(out, ": ");
    add_answer(a, slot, out);
    end(a, depth, decides);
    node(a, slot, depth + 1, decides);
}

static void for_line(fg_asker *a, const fg_op *op, uint16_t slot, uint32_t depth, bool decides)
{
    const fg_lasting_state *state = &a->shadow.lastings[op->rule];
    const int64_t time = (int64_t)a->program->gate.lastings[op->rule];
    if (now(a, slot) == FG_NO && now(a, op->a) == FG_YES) {
        const int64_t passed = (fg_time)(a->now - state->since);
        fg_buffer *out = begin(a);
        fg_buffer_add_c(out, "it has been yes for ");
        add_seconds(out, passed);
        fg_buffer_add_c(out, " of ");
        add_seconds(out, time);
        end(a, depth, decides);
        fg_buffer *next = suggest(a, decides);
        if (next) {
            fg_buffer_add_c(next, "wait: it will have lasted at ");
            add_seconds(next, a->t_ms + time - passed);
        }
    }
    node(a, op->a, depth, decides);
}

/* A latch is yes because it is set now, or since it is not cleared; no because it is cleared now, or not set; unsure
 * because a part that is unsure could have changed it. */
static void latch_lines(fg_asker *a, const fg_op *op, uint16_t slot, uint32_t depth, bool decides)
{
    const bool yes = now(a, slot) == FG_YES, set = now(a, op->a) == FG_YES;
    const bool clear = op->b != FG_INDEX_NONE && now(a, op->b) == FG_YES;
    if (now(a, slot) == FG_UNSURE) { /* what is unsure could have changed it */
        fg_buffer_add_c(begin(a), "a missing reading could change it, so it is unsure");
        end(a, depth, decides);
        part_line(a, "set when", op->a, depth, decides && now(a, op->a) == FG_UNSURE);
        part_line(a, "clear when", op->b, depth, decides && op->b != FG_INDEX_NONE && now(a, op->b) == FG_UNSURE);
        return;
    }
    const bool cleared = clear && (set || a->program->gate.latches[op->rule].clear_wins);
    part_line(a, "set when", op->a, depth, decides && (yes ? set : !set));
    part_line(a, "clear when", op->b, depth, decides && (yes ? !set : cleared));
}

static void count_lines(fg_asker *a, uint16_t number, uint32_t depth, bool decides)
{
    const fg_counter *c = &a->program->gate.counters[number];
    part_line(a, "add when", c->add, depth, decides);
    part_line(a, "take when", c->take, depth, false);
    part_line(a, "zero when", c->zero, depth, decides && c->zero != FG_INDEX_NONE && now(a, c->zero) == FG_YES);
}

static void pulse_lines(fg_asker *a, const fg_op *op, uint16_t slot, uint32_t depth, bool decides)
{
    const fg_pulser *p = &a->program->gate.pulses[op->rule];
    const bool over = now(a, slot) == FG_NO && now(a, p->start) == FG_YES;
    const bool spent = now(a, slot) == FG_NO && fg_pulse_at(a->explainer.run, op->rule)->spent;
    if (spent) {
        fg_buffer *out = begin(a);
        fg_buffer_add_c(out, "it has ended and waits for ");
        add_condition(a, p->again, out);
        fg_buffer_add_c(out, " before it can start again");
        end(a, depth, decides);
        fg_buffer *next = suggest(a, decides);
        if (next) {
            add_condition(a, p->again, next);
            fg_buffer_add_c(next, " has to start first");
        }
    } else if (over) {
        fg_buffer_add_c(begin(a), "it started earlier and has ended, or could not start");
        end(a, depth, decides);
    }
    part_line(a, "start when", p->start, depth, decides && !over && !spent);
    part_line(a, "again when", p->again, depth, decides && spent);
    part_line(a, "stop when", p->stop, depth, decides && p->stop != FG_INDEX_NONE && now(a, p->stop) != FG_NO);
}

static void flag_line(fg_asker *a, const fg_declared *d, uint32_t depth, bool decides)
{
    fg_buffer *out = begin(a);
    fg_explain(&a->explainer, d, out);
    end(a, depth, decides);
    fg_buffer *next = suggest(a, decides);
    if (!next) return;
    fg_buffer_add_c(next, "look at ");
    fg_buffer_add(next, d->name);
    fg_buffer_add_c(next, ": ");
    fg_explain(&a->explainer, d, next);
}

/* What stands behind an answer, a step deeper. */
static void details(fg_asker *a, uint16_t slot, uint32_t depth, bool decides)
{
    const fg_op *op = op_at(a, slot);
    const fg_op *yes_in = fg_yes_in_op(a->program, slot);
    fg_value value = 0;
    if (depth > DEPTH_MOST) return;
    for (uint16_t i = 0; yes_in && i < yes_in->b; i++)
        node(a, a->program->gate.slots[yes_in->rule + i], depth, decides);
    if (yes_in) return;
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR:
    case FG_OP_SENSOR_FAULTY: sensor_line(a, op->rule, depth, decides); return;
    case FG_OP_FLAG:
    case FG_OP_FLAG_FAULTY: flag_line(a, a->explainer.flags[op->rule], depth, decides); return;
    case FG_OP_THRESHOLD: threshold_lines(a, op, slot, depth, decides); return;
    case FG_OP_HYSTERESIS: hysteresis_lines(a, op, slot, depth, decides); return;
    case FG_OP_BANDS: bands_lines(a, op, slot, depth, decides, NULL, 0); return;
    case FG_OP_COMPARE: {
        const fg_compare *c = &a->program->gate.compares[op->rule];
        const bool good = fg_sensor_value(a->explainer.run, op->a, &value);
        comparison_line(a, op->a, &a->program->op_sources[slot].comparison, now(a, slot) == FG_YES,
                        good ? way_over(&c->range, value, circle_of(a, op->a)) : INT64_MAX, depth, decides);
        return;
    }
    case FG_OP_IS:
        if (!a->explainer.slot_owners[op->a]) return;
        {
            fg_buffer *out = begin(a);
            fg_buffer_add(out, a->explainer.slot_owners[op->a]->name);
            fg_buffer_add_c(out, " is ");
            add_answer(a, op->a, out);
            add_since(a, op->a, out);
            end(a, depth, decides);
        }
        bands_lines(a, op_at(a, op->a), op->a, depth + 1, decides, a->program->gate.labels + op->rule,
                    now(a, slot) == FG_NO ? op->b : 0);
        return;
    case FG_OP_AND:
    case FG_OP_OR: joint_lines(a, slot, depth, decides); return;
    case FG_OP_FOR: for_line(a, op, slot, depth, decides); return;
    case FG_OP_LATCH: latch_lines(a, op, slot, depth, decides); return;
    case FG_OP_PULSE: pulse_lines(a, op, slot, depth, decides); return;
    case FG_OP_COUNT: count_lines(a, op->rule, depth, decides); return;
    default:
        if (fg_op_is(op->kind, FG_OP_A_IS_SLOT)) node(a, op->a, depth, decides);
        if (fg_op_is(op->kind, FG_OP_B_IS_SLOT) && op->b != FG_INDEX_NONE) node(a, op->b, depth, decides);
        return;
    }
}

/* A part with its answer, and what stands behind it. */
static void node(fg_asker *a, uint16_t slot, uint32_t depth, bool decides)
{
    const fg_op *op = op_at(a, slot);
    const fg_declared *owner = a->explainer.slot_owners[slot];
    if (op->kind == FG_OP_COMPARE || (!owner && op->kind == FG_OP_SENSOR_FAULTY)) { /* one line says it all */
        details(a, slot, depth, decides);
        return;
    }
    fg_buffer *out = begin(a);
    add_condition(a, slot, out);
    fg_buffer_add_c(out, owner ? " is " : ": ");
    add_answer(a, slot, out);
    add_since(a, slot, out);
    const bool above = owner && op->kind >= FG_OP_FOR && stands_above(a, slot, decides);
    if (above) fg_buffer_add_c(out, " (see above)");
    end(a, depth, decides);
    if (!above) details(a, slot, depth + 1, decides);
}

/* ---- outputs ---- */

static void row_line(fg_asker *a, const fg_output *output, uint16_t i, bool wins, bool decides)
{
    const fg_row *row = &a->program->gate.rows[output->first_row + i];
    char level[FG_LEVEL_TEXT_SIZE];
    fg_buffer *out = begin(a);
    fg_buffer_add_c(out, "row ");
    fg_buffer_add_number(out, i + 1);
    fg_buffer_add_c(out, ", ");
    if (fg_form_is_plain(row->level.form))
        fg_buffer_add(out, (fg_text){level, fg_level_text(&row->level, level)});
    else
        fg_buffer_add_c(out, fg_form_word((fg_form)row->level.form));
    if (row->when == FG_ROW_WHEN) {
        fg_buffer_add_c(out, " when ");
        add_condition(a, row->slot, out);
        fg_buffer_add_c(out, ": ");
        add_answer(a, row->slot, out);
        add_since(a, row->slot, out);
    } else {
        fg_buffer_add_c(out, row->when == FG_ROW_IF_UNSURE ? " if a row above is unsure" : ", always");
    }
    if (wins) fg_buffer_add_c(out, "; this row wins");
    end(a, 1, decides);
    if (row->when == FG_ROW_WHEN) node(a, row->slot, 2, decides);
}

/* At rest every row that does not hold decides, or those that are unsure if it rests because of them; so do these for a
 * row that holds because of them. */
static bool row_decides(const fg_asker *a, const fg_output *output, const fg_output_state *state, uint16_t i)
{
    const fg_row *rows = fg_output_rows(&a->program->gate, output);
    const bool rests = state->row == FG_INDEX_NONE,
               unsure = rows[i].when == FG_ROW_WHEN && now(a, rows[i].slot) == FG_UNSURE;
    if (state->row == i) return true;
    if (rests && !state->unsure) return rows[i].when == FG_ROW_WHEN;
    return unsure && (rests || rows[state->row].when == FG_ROW_IF_UNSURE);
}

/* Rows down to the one that wins, and those that were wanted. */
static void output_lines(fg_asker *a, const fg_declared *d)
{
    const fg_output *output = &a->program->gate.outputs[d->index];
    const fg_output_state *state = fg_output_at(a->explainer.run, d->index);
    const bool asked = a->question->wanted.size != 0, rests = state->row == FG_INDEX_NONE && !state->unsure;
    const uint16_t nearest = rests ? fg_why_nearest_row(a, output) : (uint16_t)FG_INDEX_NONE;
    for (uint16_t i = 0; i < output->row_count; i++) {
        const fg_row *row = &a->program->gate.rows[output->first_row + i];
        const bool wins = state->row == i, wanted = fg_why_is_level(&row->level, a->question->wanted);
        if (state->row != FG_INDEX_NONE && i > state->row && !wanted) continue;
        a->silent = rests && !asked && nearest != FG_INDEX_NONE && i != nearest;
        row_line(a, output, i, wins, asked ? wanted : row_decides(a, output, state, i));
        a->silent = false;
    }
    if (state->row != FG_INDEX_NONE) return;
    fg_buffer *out = begin(a);
    fg_buffer_add_c(out, state->unsure ? "a row is unsure and none says what then, so it rests"
                                       : "no row holds, so it rests");
    if (nearest != FG_INDEX_NONE && output->row_count > 1) {
        fg_buffer_add_c(out, "; row ");
        fg_buffer_add_number(out, nearest + 1);
        fg_buffer_add_c(out, " is nearest to holding");
    }
    end(a, 1, true);
}

/* ---- the whole of it ---- */

static void name_line(fg_asker *a, const fg_declared *d)
{
    fg_buffer text = {0}, *out = begin(a);
    fg_value value;
    fg_buffer_add(out, d->name);
    fg_buffer_add_c(out, " is ");
    if (d->kind == FG_KIND_SENSOR && fg_sensor_value(a->explainer.run, d->index, &value))
        fg_buffer_add_value(out, value, d);
    else
        fg_buffer_add(out, fg_text_now(&text, d, a->explainer.run));
    a->line.full = a->line.full || text.full;
    if (!fg_kind_is(d->kind, FG_KIND_IS_OUTPUT) && d->slot != FG_INDEX_NONE && d->kind != FG_KIND_COUNT)
        add_since(a, d->slot, out);
    if (a->question->wanted.size) {
        fg_buffer_add_c(out, ", not ");
        fg_buffer_add(out, a->question->wanted);
    }
    end(a, 0, true);
    fg_buffer_free(&text);
}

/* What holds needs no hint. */
static bool is_as_meant(const fg_asker *a, const fg_declared *d)
{
    if (a->question->wanted.size || d->kind == FG_KIND_SENSOR) return false;
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) {
        const fg_output_state *state = fg_output_at(a->explainer.run, d->index);
        const fg_output *output = &a->program->gate.outputs[d->index];
        return state->row != FG_INDEX_NONE && a->program->gate.rows[output->first_row + state->row].when == FG_ROW_WHEN;
    }
    if (d->kind == FG_KIND_COUNT) {
        const uint16_t add = a->program->gate.counters[d->index].add;
        return add == FG_INDEX_NONE || now(a, add) == FG_YES;
    }
    return now(a, d->slot) == FG_YES;
}

void fg_why_tell(fg_asker *a)
{
    const fg_declared *d = a->question->name;
    const fg_text wanted = a->question->wanted;
    a->next.size = 0;
    memset(a->shown, 0, a->program->gate.size.ops);
    name_line(a, d);
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) {
        output_lines(a, d);
    } else if (fg_kind_is(d->kind, FG_KIND_LABELS) && wanted.size) {
        fg_verdict label = FG_NONE;
        for (uint16_t i = 0; i < d->label_count; i++)
            if (fg_text_same(d->labels[i], wanted)) label = fg_label(i);
        bands_lines(a, op_at(a, d->slot), d->slot, 1, true, &label, 1);
    } else if (d->kind == FG_KIND_COUNT) {
        count_lines(a, d->index, 1, true);
    } else {
        details(a, d->slot, 1, true);
    }
    if (!a->next.size || is_as_meant(a, d)) return;
    fg_buffer *out = begin(a);
    fg_buffer_add_c(out, "next: ");
    fg_buffer_add(out, fg_buffer_text(&a->next));
    end(a, 0, false);
}
