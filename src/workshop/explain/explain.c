/* SPDX-License-Identifier: MIT */
/* Why an answer is what it is, in one line: the readings and limits that made it, and what changed with it. */
#include "workshop/explain/explain.h"

#include <stdlib.h>
#include <string.h>

bool fg_explainer_start(fg_explainer *x, const fg_program *program, const fg_run *run)
{
    const size_t slots = (size_t)program->gate.size.ops + program->gate.size.watched;
    *x = (fg_explainer){.program = program, .run = run};
    x->slot_owners = calloc(slots + 1, sizeof(fg_declared *));
    x->sensors = calloc((size_t)program->gate.size.sensors + 1, sizeof(fg_declared *));
    x->counts = calloc((size_t)program->gate.size.counters + 1, sizeof(fg_declared *));
    x->outputs = calloc((size_t)program->gate.size.outputs + 1, sizeof(fg_declared *));
    x->sequences = calloc((size_t)program->declared_count + 1, sizeof(fg_declared *));
    if (!x->counts || !x->outputs || !x->sequences) return false;
    x->flags = calloc((size_t)program->gate.size.flags + 1, sizeof(fg_declared *));
    if (!x->slot_owners || !x->sensors || !x->flags) return false;
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        if (d->slot != FG_INDEX_NONE && !x->slot_owners[d->slot]) x->slot_owners[d->slot] = d;
        if (d->kind == FG_KIND_SENSOR) x->sensors[d->index] = d;
        if (d->kind == FG_KIND_FLAG) x->flags[d->index] = d;
        if (d->kind == FG_KIND_COUNT) x->counts[d->index] = d;
        if (d->kind == FG_KIND_SEQUENCE) x->sequences[d->index] = d;
        if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) x->outputs[d->index] = d;
    }
    return true;
}

void fg_explainer_end(fg_explainer *x)
{
    free(x->slot_owners);
    free(x->sensors);
    free(x->flags);
    free(x->counts);
    free(x->outputs);
    free(x->sequences);
    *x = (fg_explainer){0};
}

static fg_verdict now(const fg_explainer *x, uint16_t slot) { return fg_answer(x->run, slot); }

static bool changed(const fg_explainer *x, uint16_t slot) { return x->before && x->before[slot] != now(x, slot); }

/* ---- readings ---- */

static void add_span(fg_value low, fg_value high, const fg_declared *sensor, fg_buffer *out)
{
    const fg_declared bare = {.decimals = sensor->decimals};
    fg_buffer_add_value(out, low, &bare);
    fg_buffer_add_c(out, "..");
    fg_buffer_add_value(out, high, sensor);
}

/* Of input number `input`, sensors before flags. */
static void never_read(const fg_explainer *x, size_t input, fg_buffer *out)
{
    const bool missing = x->no_column && x->no_column[input];
    fg_buffer_add_c(out, missing ? "the recording has no column for it" : "no reading has arrived yet");
}

static void faulty_reason(const fg_explainer *x, const fg_sensor_state *state, const fg_declared *d, fg_buffer *out)
{
    const fg_sensor *sensor = &x->program->gate.sensors[d->index];
    if (state->heard == FG_HEARD_NOTHING) {
        never_read(x, d->index, out);
    } else if (state->heard == FG_HEARD_FAULT) {
        fg_buffer_add_c(out, sensor->term_count ? "it cannot be calculated from its parts"
                                                : "the input was not a valid reading");
    } else if (state->old) {
        fg_buffer_add_c(out, "the last reading is older than ");
        fg_buffer_add_time(out, sensor->stale);
    } else if (state->is_stuck) {
        fg_buffer_add_c(out, "it has not moved for ");
        fg_buffer_add_time(out, sensor->stuck);
    } else if (state->refused) {
        fg_buffer_add_value(out, state->newest, d);
        fg_buffer_add_c(out, " is outside trust ");
        add_span(sensor->trusted.low, sensor->trusted.high, d, out);
    } else {
        fg_buffer_add_c(out, "the value does not fit in 32 bits");
    }
}

void fg_explain_sensor(const fg_explainer *x, const fg_declared *sensor, fg_buffer *out)
{
    const fg_declared *d = sensor;
    const fg_sensor_state *state = fg_sensor_at(x->run, d->index);
    if (!state->ok) {
        faulty_reason(x, state, d, out);
        return;
    }
    fg_buffer_add_c(out, "reads ");
    fg_buffer_add_value(out, state->value, d);
    const bool bridged = state->heard != FG_HEARD_VALUE || state->old || state->is_stuck || state->refused;
    if (bridged) fg_buffer_add_c(out, ", carried over from the last good reading");
}

/* "depth 61.0 cm" */
static void add_reading(const fg_explainer *x, uint16_t sensor, fg_buffer *out)
{
    fg_value value;
    fg_buffer_add(out, x->sensors[sensor]->name);
    fg_buffer_add_c(out, " ");
    if (fg_sensor_value(x->run, sensor, &value))
        fg_buffer_add_value(out, value, x->sensors[sensor]);
    else
        fg_buffer_add_c(out, "is faulty");
}

static void add_faulty(const fg_explainer *x, const fg_declared *sensor, fg_buffer *out)
{
    fg_buffer_add(out, sensor->name);
    fg_buffer_add_c(out, " is faulty: ");
    fg_explain_sensor(x, sensor, out);
}

static void flag_reason(const fg_explainer *x, const fg_declared *d, fg_buffer *out)
{
    const fg_flag_state *state = fg_flag_at(x->run, d->index);
    if (state->heard == FG_HEARD_NOTHING)
        never_read(x, (size_t)x->program->gate.size.sensors + d->index, out);
    else if (state->heard == FG_HEARD_FAULT)
        fg_buffer_add_c(out, "the input was neither yes nor no");
    else if (state->old)
        fg_buffer_add_c(out, "the last reading is too old");
    else
        fg_buffer_add_c(out, state->newest ? "reads yes" : "reads no");
    if (state->bridged != FG_UNSURE && state->answer == FG_UNSURE) fg_buffer_add_c(out, ", not yet settled");
    if (x->program->gate.flags[d->index].inverted && state->heard == FG_HEARD_VALUE) fg_buffer_add_c(out, ", inverted");
}

/* ---- limits ---- */

void fg_explain_comparison(const fg_comparison *c, const fg_declared *sensor, fg_buffer *out)
{
    const fg_comparison_form *form = fg_comparison_form_of(c->kind);
    const fg_declared bare = {.decimals = sensor->decimals};
    const bool two = form->traits & FG_COMPARE_TWO_ENDS;
    fg_buffer_add_c(out, form->word);
    if (*form->word) fg_buffer_add_c(out, " ");
    if (form->second) fg_buffer_add_c(out, form->second);
    if (form->second) fg_buffer_add_c(out, " ");
    if (two) {
        fg_buffer_add_value(out, c->a, &bare);
        fg_buffer_add_c(out, "..");
    }
    fg_buffer_add_value(out, two ? c->b : c->a, sensor);
    if (!(form->traits & FG_COMPARE_ROUND)) return;
    fg_buffer_add_c(out, " by ");
    fg_buffer_add_value(out, c->b, sensor);
}

static void add_for(const fg_settle *settle, fg_buffer *out)
{
    if (!settle->time) return;
    fg_buffer_add_c(out, ", for ");
    fg_buffer_add_time(out, settle->time);
}

static void add_margin(fg_value margin, const fg_declared *sensor, fg_buffer *out)
{
    if (!margin) return;
    fg_buffer_add_c(out, ", by more than the margin of ");
    fg_buffer_add_value(out, margin, sensor);
}

/* Why a rule on a sensor has no answer yet. */
static void add_unsure_rule(const fg_explainer *x, uint16_t sensor, const fg_settle *settle, fg_buffer *out)
{
    fg_value value;
    if (!fg_sensor_value(x->run, sensor, &value)) {
        add_faulty(x, x->sensors[sensor], out);
        return;
    }
    add_reading(x, sensor, out);
    fg_buffer_add_c(out, " has not settled for ");
    fg_buffer_add_time(out, settle->time);
}

static void threshold_reason(const fg_explainer *x, const fg_op *op, uint16_t slot, fg_buffer *out)
{
    const fg_op_source *source = &x->program->op_sources[slot];
    const fg_threshold *rule = &x->program->gate.thresholds[op->rule];
    const fg_verdict answer = now(x, slot);
    if (answer == FG_UNSURE) {
        add_unsure_rule(x, op->a, &rule->settle, out);
        return;
    }
    add_reading(x, op->a, out);
    fg_buffer_add_c(out, answer == FG_YES ? " is " : " is not ");
    fg_explain_comparison(&source->comparison, x->sensors[op->a], out);
    if (answer == FG_NO && x->before && x->before[slot] == FG_YES) add_margin(source->margin, x->sensors[op->a], out);
    add_for(&rule->settle, out);
}

static void hysteresis_reason(const fg_explainer *x, const fg_op *op, uint16_t slot, fg_buffer *out)
{
    const fg_op_source *source = &x->program->op_sources[slot];
    const fg_hysteresis *rule = &x->program->gate.hysteresis[op->rule];
    const fg_verdict answer = now(x, slot);
    fg_value value = 0;
    if (answer == FG_UNSURE || !fg_sensor_value(x->run, op->a, &value)) {
        add_unsure_rule(x, op->a, &rule->settle, out);
        return;
    }
    const fg_range *side = answer == FG_YES ? &rule->on : &rule->off;
    add_reading(x, op->a, out);
    if (fg_range_holds(side, value)) {
        fg_buffer_add_c(out, " is ");
        fg_explain_comparison(answer == FG_YES ? &source->comparison : &source->off, x->sensors[op->a], out);
        add_for(&rule->settle, out);
        return;
    }
    fg_buffer_add_c(out, " is between the limits, ");
    fg_explain_comparison(&source->comparison, x->sensors[op->a], out);
    fg_buffer_add_c(out, " and ");
    fg_explain_comparison(&source->off, x->sensors[op->a], out);
}

void fg_explain_range(const fg_range *range, const fg_declared *sensor, fg_buffer *out)
{
    const fg_declared bare = {.decimals = sensor->decimals};
    if (range->low == INT32_MIN && range->high == INT32_MAX) {
        fg_buffer_add_c(out, "any reading");
    } else if (range->low == INT32_MIN) {
        fg_buffer_add_c(out, "at most ");
        fg_buffer_add_value(out, range->high, sensor);
    } else if (range->high == INT32_MAX) {
        fg_buffer_add_c(out, "at least ");
        fg_buffer_add_value(out, range->low, sensor);
    } else {
        fg_buffer_add_c(out, "within ");
        fg_buffer_add_value(out, range->low, &bare);
        fg_buffer_add_c(out, "..");
        fg_buffer_add_value(out, range->high, sensor);
    }
}

static void bands_reason(const fg_explainer *x, const fg_op *op, uint16_t slot, fg_buffer *out)
{
    const fg_bands *rule = &x->program->gate.bands[op->rule];
    const fg_verdict answer = now(x, slot);
    fg_value value = 0;
    if (answer == FG_UNSURE || !fg_sensor_value(x->run, op->a, &value)) {
        add_unsure_rule(x, op->a, &rule->settle, out);
        return;
    }
    add_reading(x, op->a, out);
    const fg_band *band = NULL;
    for (uint16_t i = 0; i < rule->count && !band; i++)
        if (rule->bands[i].label == answer && fg_range_holds(&rule->bands[i].range, value)) band = &rule->bands[i];
    if (band) {
        fg_buffer_add_c(out, " is ");
        fg_explain_range(&band->range, x->sensors[op->a], out);
    } else if (answer == rule->otherwise) {
        fg_buffer_add_c(out, answer == FG_NONE ? " is in no band" : " is in no other band");
    } else {
        fg_buffer_add_c(out, " is within the margin");
    }
    add_for(&rule->settle, out);
}

/* ---- conditions ---- */

enum { ATOMS_MOST = 24, DEPTH_MOST = 6 };

/* The parts of a condition that decide its present answer. */
typedef struct atoms {
    uint16_t slots[ATOMS_MOST];
    int count;
    bool more;
} atoms;

const fg_op *fg_yes_in_op(const fg_program *program, uint16_t slot)
{
    const fg_op *op = &program->gate.ops[slot];
    if (op->kind == FG_OP_AT_LEAST) return op;
    if (op->kind != FG_OP_NOT && op->kind != FG_OP_AND) return NULL;
    return program->op_sources[slot].comparison.kind == FG_COMPARE_NONE ? NULL : &program->gate.ops[op->a];
}

/* A condition that stands under a name of its own is an atom; and, or, not are looked through. */
static void collect(const fg_explainer *x, uint16_t slot, bool top, int depth, atoms *found)
{
    const fg_op *op = &x->program->gate.ops[slot];
    const bool joint = op->kind == FG_OP_AND || op->kind == FG_OP_OR || op->kind == FG_OP_NOT;
    if (!joint || fg_yes_in_op(x->program, slot) || (!top && x->slot_owners[slot]) || depth > 200) {
        for (int i = 0; i < found->count; i++)
            if (found->slots[i] == slot) return;
        found->more = found->more || found->count == ATOMS_MOST;
        if (found->count < ATOMS_MOST) found->slots[found->count++] = slot;
        return;
    }
    if (op->kind == FG_OP_NOT) {
        collect(x, op->a, false, depth + 1, found);
        return;
    }
    /* An `and` that is no is so by its no parts, one that is yes by all, one that is unsure by its unsure parts. */
    const fg_verdict answer = now(x, slot);
    const bool all = answer == (op->kind == FG_OP_AND ? FG_YES : FG_NO);
    if (all || now(x, op->a) == answer) collect(x, op->a, false, depth + 1, found);
    if (all || now(x, op->b) == answer) collect(x, op->b, false, depth + 1, found);
}

static void reason(const fg_explainer *x, uint16_t slot, int depth, fg_buffer *out);

/* "gale is no", "tide is fair", "bilge 4.2 cm is under 5 cm": the shortest that names it with its answer. */
static void short_form(const fg_explainer *x, uint16_t slot, fg_buffer *out)
{
    const fg_op *op = &x->program->gate.ops[slot];
    const fg_declared *owner = x->slot_owners[slot];
    if (op->kind == FG_OP_IS && !owner && x->slot_owners[op->a]) {
        owner = x->slot_owners[op->a];
        slot = op->a;
    }
    if (owner) {
        fg_buffer_add(out, owner->name);
        fg_buffer_add_c(out, " is ");
        fg_buffer_add(out, fg_answer_text(owner, now(x, slot)));
        return;
    }
    reason(x, slot, DEPTH_MOST, out);
}

/* The short form, and behind it why. */
static void long_form(const fg_explainer *x, uint16_t slot, int depth, fg_buffer *out)
{
    const fg_op *op = &x->program->gate.ops[slot];
    const bool named = x->slot_owners[slot] || (op->kind == FG_OP_IS && x->slot_owners[op->a]);
    short_form(x, slot, out);
    if (!named || depth >= DEPTH_MOST || (op->kind == FG_OP_FLAG && now(x, slot) != FG_UNSURE)) return;
    fg_buffer_add_c(out, " (");
    reason(x, op->kind == FG_OP_IS && !x->slot_owners[slot] ? op->a : slot, depth + 1, out);
    fg_buffer_add_c(out, ")");
}

static void condition_reason(const fg_explainer *x, uint16_t slot, int depth, fg_buffer *out)
{
    atoms found = {.count = 0};
    int turned = 0, listed = 0;
    collect(x, slot, true, 0, &found);
    for (int i = 0; i < found.count; i++) turned += changed(x, found.slots[i]);
    for (int i = 0; i < found.count; i++) {
        if (turned && !changed(x, found.slots[i])) continue;
        if (listed++) fg_buffer_add_c(out, "; ");
        long_form(x, found.slots[i], depth, out);
    }
    if (turned == found.count) turned = 0;
    for (int i = 0, others = 0; turned && i < found.count; i++) {
        if (changed(x, found.slots[i])) continue;
        fg_buffer_add_c(out, others++ ? ", " : "; with ");
        short_form(x, found.slots[i], out);
    }
    if (found.more) fg_buffer_add_c(out, " and more");
}

static void compare_reason(const fg_explainer *x, const fg_op *op, uint16_t slot, fg_buffer *out)
{
    fg_value value;
    if (!fg_sensor_value(x->run, op->a, &value)) {
        add_faulty(x, x->sensors[op->a], out);
        return;
    }
    add_reading(x, op->a, out);
    fg_buffer_add_c(out, now(x, slot) == FG_YES ? " is " : " is not ");
    fg_explain_comparison(&x->program->op_sources[slot].comparison, x->sensors[op->a], out);
}

static void output_is_reason(const fg_explainer *x, const fg_op *op, fg_buffer *out)
{
    const fg_declared *output = x->outputs[op->a];
    fg_buffer_add(out, output->name);
    fg_buffer_add_c(out, " is ");
    const size_t size = fg_output_text(x->run, op->a, NULL, 0);
    fg_buffer_room(out, out->size + size);
    if (!out->full) out->size += fg_output_text(x->run, op->a, out->text + out->size, size);
    fg_buffer_add_c(out, " (");
    fg_explain(x, output, out);
    fg_buffer_add_c(out, ")");
}

static void add_count(const fg_explainer *x, uint16_t count, fg_buffer *out)
{
    fg_buffer_add(out, x->counts[count]->name);
    fg_buffer_add_c(out, " ");
    fg_buffer_add_number(out, fg_count_value(x->run, count));
}

static void compare_count_reason(const fg_explainer *x, const fg_op *op, uint16_t slot, fg_buffer *out)
{
    const fg_comparison *c = &x->program->op_sources[slot].comparison;
    const fg_declared count = {0};
    add_count(x, op->a, out);
    if (c->kind == FG_COMPARE_WITHIN && c->a == c->b) { /* COUNT is N */
        fg_buffer_add_c(out, fg_count_value(x->run, op->a) == c->a ? " is " : " is not ");
        fg_buffer_add_number(out, c->a);
        return;
    }
    fg_buffer_add_c(out, now(x, slot) == FG_YES ? " is " : " is not ");
    fg_explain_comparison(c, &count, out);
}

/* A condition in the words of the gate file, or by its name. */
static void add_written(const fg_explainer *x, uint16_t slot, fg_buffer *out)
{
    const fg_span span = x->program->op_sources[slot].span;
    if (x->slot_owners[slot])
        fg_buffer_add(out, x->slot_owners[slot]->name);
    else
        fg_buffer_add(out, (fg_text){x->program->sources[span.source].text.at + span.at, span.size});
}

/* Which of several conditions are yes, each with its reason if it changed now. */
static void add_part(const fg_explainer *x, const char *word, uint16_t slot, int depth, int *listed, fg_buffer *out)
{
    if (slot == FG_INDEX_NONE || now(x, slot) == FG_NO) return;
    if ((*listed)++) fg_buffer_add_c(out, "; ");
    fg_buffer_add_c(out, word);
    fg_buffer_add_c(out, ": ");
    long_form(x, slot, depth, out);
}

static void latch_reason(const fg_explainer *x, const fg_op *op, uint16_t slot, int depth, fg_buffer *out)
{
    int listed = 0;
    if (now(x, slot) == FG_UNSURE) fg_buffer_add_c(out, "a missing reading could change it, so it is unsure: ");
    add_part(x, "set", op->a, depth, &listed, out);
    add_part(x, "clear", op->b, depth, &listed, out);
    if (!listed) fg_buffer_add_c(out, now(x, slot) == FG_YES ? "it was set and not cleared" : "it was not set");
}

/* What an op looks at and is not no, where nothing more is known of the op. */
static void parts_reason(const fg_explainer *x, const fg_op *op, int depth, fg_buffer *out)
{
    const uint16_t parts[] = {fg_op_is(op->kind, FG_OP_A_IS_SLOT) ? op->a : (uint16_t)FG_INDEX_NONE,
                              fg_op_is(op->kind, FG_OP_B_IS_SLOT) ? op->b : (uint16_t)FG_INDEX_NONE};
    int listed = 0;
    for (int i = 0; i < 2; i++) {
        if (parts[i] == FG_INDEX_NONE || now(x, parts[i]) == FG_NO) continue;
        if (listed++) fg_buffer_add_c(out, "; ");
        long_form(x, parts[i], depth, out);
    }
    if (!listed) fg_buffer_add_c(out, "none of its inputs is yes");
}

static void count_reason(const fg_explainer *x, uint16_t number, fg_buffer *out)
{
    int listed = 0;
    const fg_counter *c = &x->program->gate.counters[number];
    add_part(x, "add", c->add, 1, &listed, out);
    add_part(x, "take", c->take, 1, &listed, out);
    add_part(x, "zero", c->zero, 1, &listed, out);
    if (!listed) fg_buffer_add_c(out, "nothing was counted");
}

static void pulse_reason(const fg_explainer *x, uint16_t slot, uint16_t number, int depth, fg_buffer *out)
{
    int listed = 0;
    const fg_pulser *p = &x->program->gate.pulses[number];
    if (p->stop != FG_INDEX_NONE) add_part(x, "stop", p->stop, depth, &listed, out);
    if (!listed && now(x, slot) == FG_YES) add_part(x, "start", p->start, depth, &listed, out);
    if (listed) return;
    if (now(x, slot) == FG_NO && fg_pulse_at(x->run, number)->spent) {
        fg_buffer_add_c(out, "it has ended and waits for ");
        add_written(x, p->again, out);
        fg_buffer_add_c(out, " before it can start again");
        return;
    }
    fg_buffer_add_c(out, now(x, slot) == FG_YES ? "it is still running" : "it has ended, or has not started");
}

/* What stands behind a word: `X for T`, `X starts`. */
static void behind_reason(const fg_explainer *x, const fg_op *op, uint16_t slot, int depth, fg_buffer *out)
{
    const fg_verdict answer = now(x, slot);
    long_form(x, op->a, depth, out);
    if (op->kind == FG_OP_FOR) {
        fg_buffer_add_c(out, answer == FG_NO && now(x, op->a) == FG_YES ? ", but not yet for " : ", for ");
        fg_buffer_add_time(out, x->program->gate.lastings[op->rule]);
    } else if (answer != FG_UNSURE) {
        fg_buffer_add_c(out, op->kind == FG_OP_STARTS
                                 ? (answer == FG_YES ? ", which starts now" : ", which does not start now")
                                 : (answer == FG_YES ? ", which ends now" : ", which does not end now"));
    }
}

static void yes_in_reason(const fg_explainer *x, uint16_t slot, fg_buffer *out)
{
    const fg_op *op = fg_yes_in_op(x->program, slot);
    const fg_comparison *wanted = &x->program->op_sources[slot].comparison;
    const uint16_t *slots = x->program->gate.slots;
    int yes = 0;
    for (uint16_t i = 0; i < op->b; i++) yes += now(x, slots[op->rule + i]) == FG_YES;
    fg_buffer_add_number(out, yes);
    fg_buffer_add_c(out, " of ");
    fg_buffer_add_number(out, op->b);
    fg_buffer_add_c(out, wanted->kind == FG_COMPARE_AT_MOST  ? " are yes, at most "
                         : wanted->kind == FG_COMPARE_WITHIN ? " are yes, exactly "
                                                             : " are yes, at least ");
    fg_buffer_add_number(out, wanted->kind == FG_COMPARE_NONE ? op->a : wanted->a);
    fg_buffer_add_c(out, wanted->kind == FG_COMPARE_AT_MOST ? " allowed" : " needed");
}

static void plays_reason(const fg_explainer *x, const fg_op *op, fg_buffer *out)
{
    const uint16_t played = fg_output_plays(x->run, op->a);
    fg_buffer_add(out, x->outputs[op->a]->name);
    fg_buffer_add_c(out, " plays ");
    fg_buffer_add(out, played == FG_INDEX_NONE ? (fg_text){"nothing", 7} : x->sequences[played]->name);
    fg_buffer_add_c(out, " (");
    fg_explain(x, x->outputs[op->a], out);
    fg_buffer_add_c(out, ")");
}

/* "previously side is n: yes", in the words of the gate file. */
static void previously_reason(const fg_explainer *x, uint16_t slot, fg_buffer *out)
{
    const fg_span span = x->program->op_sources[slot].span;
    const fg_text text = x->program->sources[span.source].text;
    const fg_verdict answer = now(x, slot);
    fg_buffer_add(out, (fg_text){text.at + span.at, span.size});
    fg_buffer_add_c(out, answer == FG_YES ? ": yes" : answer == FG_NO ? ": no" : ": unsure");
}

static void reason(const fg_explainer *x, uint16_t slot, int depth, fg_buffer *out)
{
    const fg_op *op = &x->program->gate.ops[slot];
    if (fg_yes_in_op(x->program, slot)) {
        yes_in_reason(x, slot, out);
        return;
    }
    switch ((fg_op_kind)op->kind) {
    case FG_OP_SENSOR: fg_explain_sensor(x, x->sensors[op->rule], out); return;
    case FG_OP_FLAG: flag_reason(x, x->flags[op->rule], out); return;
    case FG_OP_THRESHOLD: threshold_reason(x, op, slot, out); return;
    case FG_OP_HYSTERESIS: hysteresis_reason(x, op, slot, out); return;
    case FG_OP_BANDS: bands_reason(x, op, slot, out); return;
    case FG_OP_COMPARE: compare_reason(x, op, slot, out); return;
    case FG_OP_IS:
        if (x->slot_owners[op->a]) long_form(x, slot, depth, out);
        return;
    case FG_OP_NOT:
    case FG_OP_AND:
    case FG_OP_OR: condition_reason(x, slot, depth, out); return;
    case FG_OP_SENSOR_FAULTY:
        if (now(x, slot) == FG_YES) {
            add_faulty(x, x->sensors[op->rule], out);
            return;
        }
        add_reading(x, op->rule, out);
        fg_buffer_add_c(out, " is not faulty");
        return;
    case FG_OP_FLAG_FAULTY:
        fg_buffer_add(out, x->flags[op->rule]->name);
        fg_buffer_add_c(out, now(x, slot) == FG_YES ? " is faulty: " : " is not faulty: ");
        flag_reason(x, x->flags[op->rule], out);
        return;
    case FG_OP_UNSURE: long_form(x, op->a, depth, out); return;
    case FG_OP_OUTPUT_IS: output_is_reason(x, op, out); return;
    case FG_OP_OUTPUT_PLAYS: plays_reason(x, op, out); return;
    case FG_OP_COMPARE_COUNT: compare_count_reason(x, op, slot, out); return;
    case FG_OP_PREVIOUSLY: previously_reason(x, slot, out); return;
    case FG_OP_FOR:
    case FG_OP_STARTS:
    case FG_OP_ENDS: behind_reason(x, op, slot, depth, out); return;
    case FG_OP_LATCH: latch_reason(x, op, slot, depth, out); return;
    case FG_OP_COUNT: count_reason(x, op->rule, out); return;
    case FG_OP_PULSE: pulse_reason(x, slot, op->rule, depth, out); return;
    case FG_OP_OUTPUT: return;
    default: parts_reason(x, op, depth, out); return;
    }
}

void fg_explain_slot(const fg_explainer *x, uint16_t slot, fg_buffer *out)
{
    const fg_op *op = &x->program->gate.ops[slot];
    const bool joint = op->kind == FG_OP_AND || op->kind == FG_OP_OR || op->kind == FG_OP_NOT;
    if (joint && !fg_yes_in_op(x->program, slot))
        condition_reason(x, slot, 0, out);
    else
        long_form(x, slot, 0, out);
}

/* ---- outputs ---- */

/* What moves the level of a row by itself. */
static void add_movement(const fg_explainer *x, const fg_row *row, fg_buffer *out)
{
    const fg_gate *gate = &x->program->gate;
    if (row->level.form == FG_FORM_PLAY) {
        fg_buffer_add_c(out, "; plays ");
        fg_buffer_add(out, x->sequences[row->level.number]->name);
    } else if (row->level.form == FG_FORM_SWEEP) {
        fg_buffer_add_c(out, "; sweeps");
    } else if (row->level.form == FG_FORM_FOLLOW) {
        const fg_follow *follow = &gate->follows[row->level.number];
        fg_buffer_add_c(out, "; follows ");
        if (follow->count)
            add_count(x, follow->source, out);
        else
            add_reading(x, follow->source, out);
    }
}

/* The faulty sensor that a row follows or takes its tempo from; NULL if there is none. */
static const fg_declared *lost_source(const fg_explainer *x, const fg_row *row)
{
    const fg_gate *gate = &x->program->gate;
    uint16_t follows[1] = {FG_INDEX_NONE};
    const fg_sequence *s = row->level.form == FG_FORM_PLAY ? &gate->sequences[row->level.number] : NULL;
    if (row->level.form == FG_FORM_FOLLOW) follows[0] = (uint16_t)row->level.number;
    const uint16_t sources = s ? s->segment_count : 1;
    for (uint16_t i = 0; i < sources; i++) {
        const uint16_t number = s ? gate->segments[s->first_segment + i].tempo : follows[0];
        if (number == FG_INDEX_NONE || gate->follows[number].count) continue;
        const uint16_t sensor = gate->follows[number].source;
        if (!fg_sensor_at(x->run, sensor)->ok) return x->sensors[sensor];
    }
    return NULL;
}

/* Is this row unsure because of what it follows? */
static bool row_lost(const fg_explainer *x, const fg_row *row)
{
    return !(row->when == FG_ROW_WHEN && now(x, row->slot) == FG_NO) && lost_source(x, row);
}

/* Reasons in a row, each told once: rows on the same bands are unsure for the same reason. */
typedef struct reasons {
    fg_buffer *out;
    size_t begins[16], count; /* where each stands, from its first character on */
} reasons;

static void add_row_reason(const fg_explainer *x, const fg_row *row, const char *lead, reasons *told)
{
    fg_buffer *out = told->out;
    const size_t before = out->size;
    fg_buffer_add_c(out, told->count ? "; " : lead);
    const size_t begin = out->size;
    if (row_lost(x, row))
        add_faulty(x, lost_source(x, row), out);
    else
        fg_explain_slot(x, row->slot, out);
    if (out->full) return;
    const size_t size = out->size - begin;
    for (size_t i = 0; i < told->count; i++) {
        if (told->begins[i] + size > before || memcmp(out->text + told->begins[i], out->text + begin, size) != 0)
            continue;
        const size_t end = told->begins[i] + size;
        if (end != before && memcmp(out->text + end, "; ", 2) != 0) continue;
        out->size = before;
        return;
    }
    if (told->count < sizeof told->begins / sizeof *told->begins) told->begins[told->count++] = begin;
}

static void rest_reason(const fg_explainer *x, const fg_output *output, fg_buffer *out)
{
    const fg_row *rows = fg_output_rows(&x->program->gate, output);
    int turned = 0;
    reasons told = {.out = out};
    fg_buffer_add_c(out, "no row holds");
    for (uint16_t i = 0; i < output->row_count; i++) turned += rows[i].when == FG_ROW_WHEN && changed(x, rows[i].slot);
    for (uint16_t i = 0; i < output->row_count; i++) {
        if (!row_lost(x, &rows[i]) && (rows[i].when != FG_ROW_WHEN || (turned && !changed(x, rows[i].slot)))) continue;
        add_row_reason(x, &rows[i], ": ", &told);
    }
}

static void unsure_rows(const fg_explainer *x, const fg_output *output, uint16_t count, fg_buffer *out)
{
    const fg_row *rows = fg_output_rows(&x->program->gate, output);
    reasons told = {.out = out};
    for (uint16_t i = 0; i < count; i++) {
        if (!row_lost(x, &rows[i]) && (rows[i].when != FG_ROW_WHEN || now(x, rows[i].slot) != FG_UNSURE)) continue;
        add_row_reason(x, &rows[i], "", &told);
    }
}

static void output_reason(const fg_explainer *x, const fg_declared *d, fg_buffer *out)
{
    const fg_output_state *state = fg_output_at(x->run, d->index);
    const fg_output *output = &x->program->gate.outputs[d->index];
    if (state->unsure) {
        fg_buffer_add_c(out, "rests because a row is unsure: ");
        unsure_rows(x, output, output->row_count, out);
        return;
    }
    if (state->row == FG_INDEX_NONE) {
        rest_reason(x, output, out);
        return;
    }
    const fg_row *row = &x->program->gate.rows[output->first_row + state->row];
    fg_buffer_add_c(out, "row ");
    fg_buffer_add_number(out, state->row + 1);
    fg_buffer_add_c(out, ": ");
    if (row->when == FG_ROW_WHEN) {
        fg_explain_slot(x, row->slot, out);
    } else if (row->when == FG_ROW_IF_UNSURE) {
        fg_buffer_add_c(out, "a row above is unsure: ");
        unsure_rows(x, output, state->row, out);
    } else {
        fg_buffer_add_c(out, state->row ? "no row above it holds" : "always");
    }
    add_movement(x, row, out);
}

void fg_explain(const fg_explainer *x, const fg_declared *d, fg_buffer *out)
{
    if (fg_kind_is(d->kind, FG_KIND_IS_OUTPUT))
        output_reason(x, d, out);
    else if (d->slot != FG_INDEX_NONE)
        reason(x, d->slot, 0, out);
}
