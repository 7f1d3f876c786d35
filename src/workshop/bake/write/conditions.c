/* SPDX-License-Identifier: MIT */
/* Ops that hang on answers or on the clock. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>
#include <string.h>

/* ---- ranges ---- */

/* The name of what an op belongs to. */
static fg_text owner(const coder *c, uint16_t slot)
{
    const fg_declared *d = fg_code_owner(c, slot);
    return d ? d->name : fg_text_of("line");
}

/* The labels that `is` asks for: "is_fair_or_high". */
static const char *labels_of(coder *c, const fg_op *op)
{
    const fg_declared *bands = fg_code_declared(c, FG_KIND_BANDS, fg_code_op(c, op->a)->rule);
    const char *all = "";
    for (uint16_t i = 0; i < op->b && strlen(all) < 40; i++) {
        const fg_verdict answer = c->gate->labels[op->rule + i];
        const fg_text label =
            answer > FG_UNSURE && answer <= bands->label_count ? bands->labels[answer - 1] : fg_text_of("none");
        all = fg_code_say(c, "%s%s%.*s", all, i ? "_or_" : "_is_", (int)label.size, label.at);
    }
    return all;
}

/* A name for the local of an answer that has none in the gate, by what it is. */
static const char *name_of(coder *c, uint16_t slot)
{
    static const char *const suffixes[FG_OP_COUNT + 1] = {
        [FG_OP_FOR] = "_for",           [FG_OP_STARTS] = "_starts",
        [FG_OP_ENDS] = "_ends",         [FG_OP_AT_LEAST] = "_enough",
        [FG_OP_AND] = "_both",          [FG_OP_OR] = "_either",
        [FG_OP_NOT] = "_not",           [FG_OP_PREVIOUSLY] = "_before",
        [FG_OP_COMPARE] = "_limit",     [FG_OP_COMPARE_COUNT] = "_limit",
        [FG_OP_UNSURE] = "_unsure",     [FG_OP_SENSOR_FAULTY] = "_faulty",
        [FG_OP_FLAG_FAULTY] = "_faulty"};
    const fg_op *op = fg_code_op(c, slot);
    if (op->kind == FG_OP_IS)
        return fg_code_local(c, fg_code_declared(c, FG_KIND_BANDS, fg_code_op(c, op->a)->rule)->name, labels_of(c, op));
    return fg_code_local(c, owner(c, slot), suffixes[op->kind] ? suffixes[op->kind] : "_part");
}

/* Sets the variable of an answer, or makes it one of this step. `remembers`: working `value` out changes the state. */
static void answer(coder *c, uint16_t slot, const char *value, bool remembers)
{
    if (c->slots[slot]) {
        fg_code_line(c, 1, "%s = %s;", c->slots[slot], value);
        return;
    }
    if (!(c->asked[slot] & ~CODE_BY_VALUE)) { /* nobody asks, but time and edges go on */
        fg_code_line(c, 1, "(void)%s;", value);
        return;
    }
    const char *name = name_of(c, slot);
    fg_code_define(c, 1, (code_definition){"uint8_t", name, "", value, remembers});
    c->slots[slot] = name;
}

static void lasting(coder *c, uint16_t slot, const fg_op *op)
{
    const fg_time time = c->gate->lastings[op->rule];
    const bool is_short_time = time <= CODE_SHORT_TIME;
    const char *waited =
        fg_code_member(c, is_short_time ? "uint16_t" : "uint32_t", fg_code_word(c, owner(c, slot), "_waited"), 0,
                       "1 more than the ms since it was yes");
    answer(c, slot,
           fg_code_say(c, "%s(&%s, %s, %s, %" PRIu32 "u)", is_short_time ? "\3lasts" : "\3lasts_long", waited,
                       fg_code_value(c, op->a), is_short_time ? "\3passed" : "\3gone", time),
           true);
}

static void edge(coder *c, uint16_t slot, const fg_op *op)
{
    const bool starts = op->kind == FG_OP_STARTS;
    const char *last = fg_code_member(c, "uint8_t", fg_code_word(c, owner(c, slot), starts ? "_was" : "_was_on"), 0,
                                      "the last sure answer");
    answer(c, slot, fg_code_say(c, "%s(&%s, %s)", starts ? "\3starts" : "\3ends", last, fg_code_value(c, op->a)), true);
}

static void at_least(coder *c, uint16_t slot, const fg_op *op)
{
    const char *yes = "", *open = "";
    bool sure = true;
    for (uint16_t i = 0; i < op->b; i++) {
        const uint16_t one = c->gate->slots[op->rule + i];
        const code_test y = fg_code_yes(c, one), n = fg_code_no(c, one);
        yes = fg_code_say(c, "%s%s(%s)", yes, i ? " + " : "", y.text);
        open = fg_code_say(c, "%s%s(%s)", open, i ? " + " : "", fg_code_not(c, n).text);
        sure = sure && fg_code_is_sure(c, one);
    }
    if (sure)
        answer(c, slot, fg_code_say(c, "%s >= %u ? \3YES : \3NO", yes, op->a), false);
    else
        answer(c, slot, fg_code_say(c, "%s >= %u ? \3YES\v : %s < %u ? \3NO\v : \3UNSURE", yes, op->a, open, op->a),
               false);
}

/* `if (TEST)` in front of what follows, or "else" where the test always holds; nothing where it never does. */
static bool write_if(coder *c, const char **lead, code_test test)
{
    if (test.join == CODE_FALSE) return false;
    if (test.join == CODE_TRUE)
        fg_code_line(c, 1, "%s{", *lead);
    else
        fg_code_line(c, 1, "%sif (%s) {", *lead, test.text);
    *lead = "} else ";
    return true;
}

/* A latch that a missing reading can make unsure remembers apart from its answer whether it is on. What is unsure could
 * be yes or no: where that matters the latch is unsure and keeps what it was. */
static void open_latch(coder *c, uint16_t slot, const fg_op *op)
{
    const char *is = c->slots[slot];
    const char *on = fg_code_member(c, "bool", fg_code_word(c, owner(c, slot), "_on"), 0, "what it keeps while unsure");
    const bool clear_wins = c->gate->latches[op->rule].clear_wins;
    const uint16_t stronger = clear_wins ? op->b : op->a, weaker = clear_wins ? op->a : op->b;
    const char *const answers[] = {"\3YES", "\3NO"}, *const states[] = {"true", "false"};
    const char *wins = answers[clear_wins], *yields = answers[!clear_wins];
    const code_test stays = clear_wins ? fg_code_not(c, fg_code_atom(on)) : fg_code_atom(on),
                    gives_way = fg_code_not(c, stays);
    const code_test open = fg_code_open(c, weaker), changes = fg_code_yes(c, weaker);
    const char *lead = "";
    c->latches[op->rule] = on;
    if (write_if(c, &lead, fg_code_yes(c, stronger))) {
        fg_code_line(c, 2, "%s = %s;", on, states[clear_wins]);
        fg_code_line(c, 2, "%s = %s;", is, wins);
    }
    if (write_if(c, &lead, fg_code_open(c, stronger)))
        fg_code_line(c, 2, "%s = %s ? %s : \3UNSURE;", is, fg_code_both(c, stays, fg_code_no(c, weaker)).text, wins);
    if (*lead) fg_code_line(c, 1, "} else {");
    if (changes.join != CODE_FALSE)
        fg_code_line(c, *lead ? 2 : 1, "if (%s) %s = %s;", changes.text, on, states[!clear_wins]);
    if (open.join == CODE_FALSE)
        fg_code_line(c, *lead ? 2 : 1, "%s = %s ? %s : %s;", is, gives_way.text, yields, wins);
    else
        fg_code_line(c, *lead ? 2 : 1, "%s = %s ? %s : %s ? \3UNSURE : %s;", is, gives_way.text, yields, open.text,
                     wins);
    if (*lead) fg_code_line(c, 1, "}");
}

/* A latch that is always sure is on where it answers yes. */
static bool keeps_apart(const coder *c, uint16_t latch)
{
    for (uint16_t i = 0; i < c->gate->size.ops; i++)
        if (c->gate->ops[i].kind == FG_OP_LATCH && c->gate->ops[i].rule == latch) return !fg_code_is_sure(c, i);
    return false;
}

const char *fg_code_latch_is_on(coder *c, uint16_t latch)
{
    return keeps_apart(c, latch) ? c->latches[latch] : fg_code_say(c, "%s == %s_YES", c->latches[latch], c->capitals);
}

const char *fg_code_latch_switch_on(coder *c, uint16_t latch)
{
    const char *is = keeps_apart(c, latch) ? "true" : fg_code_say(c, "%s_YES", c->capitals);
    return fg_code_say(c, "%s = %s", c->latches[latch], is);
}

static void latch(coder *c, uint16_t slot, const fg_op *op)
{
    if (!fg_code_is_sure(c, slot)) {
        open_latch(c, slot, op);
        return;
    }
    const char *is = c->slots[slot];
    c->latches[op->rule] = is;
    const code_test set = fg_code_yes(c, op->a), clear = fg_code_yes(c, op->b);
    const code_test off = fg_code_either(c, clear, fg_code_is(c, is, "\3UNSURE"));
    if (c->gate->latches[op->rule].clear_wins) {
        if (clear.join != CODE_FALSE) fg_code_line(c, 1, "if (%s)", clear.text);
        if (clear.join != CODE_FALSE) fg_code_line(c, 2, "%s = \3NO;", is);
        fg_code_line(c, 1, "%sif (%s)", clear.join != CODE_FALSE ? "else " : "", set.text);
        fg_code_line(c, 2, "%s = \3YES;", is);
        fg_code_line(c, 1, "else if (%s == \3UNSURE)", is);
        fg_code_line(c, 2, "%s = \3NO;", is);
        return;
    }
    fg_code_line(c, 1, "if (%s)", set.text);
    fg_code_line(c, 2, "%s = \3YES;", is);
    fg_code_line(c, 1, "else if (%s)", off.text);
    fg_code_line(c, 2, "%s = \3NO;", is);
}

/* A start of a condition, as a local; NULL if there is none. Who asks for the same one shares it. */
static const char *start_of(coder *c, uint16_t slot, fg_text name, const char *suffix, const char *local)
{
    if (slot == FG_INDEX_NONE) return NULL;
    if (c->started[slot]) return c->started[slot];
    const char *last = fg_code_member(c, "uint8_t", fg_code_word(c, name, suffix), 0, "the last sure answer");
    const char *word = fg_code_local(c, name, local);
    const char *value = fg_code_say(c, "\3starts(&%s, %s) == \3YES", last, fg_code_value(c, slot));
    fg_code_define(c, 1, (code_definition){"bool", word, "", value, true});
    return c->started[slot] = word;
}

static void count(coder *c, uint16_t slot, const fg_op *op)
{
    const fg_counter *counting = &c->gate->counters[op->rule];
    const char *value = c->counts[op->rule];
    const fg_text name = owner(c, slot);
    const char *more = start_of(c, counting->add, name, "_add", "_more");
    const char *fewer = start_of(c, counting->take, name, "_take", "_fewer");
    const char *lead = "";
    if (counting->zero != FG_INDEX_NONE) {
        fg_code_line(c, 1, "if (%s)", fg_code_yes(c, counting->zero).text);
        fg_code_line(c, 2, "%s = %s;", value, fg_code_number(c, counting->rule.first));
        lead = "else ";
    }
    if (more) {
        fg_code_line(c, 1, "%sif (%s%s%s && %s < %s)", lead, more, fewer ? " && !" : "", fewer ? fewer : "", value,
                     fg_code_number(c, counting->rule.high));
        fg_code_line(c, 2, "%s++;", value);
        lead = "else ";
    }
    if (fewer) {
        fg_code_line(c, 1, "%sif (%s%s%s && %s > %s)", lead, fewer, more ? " && !" : "", more ? more : "", value,
                     fg_code_number(c, counting->rule.low));
        fg_code_line(c, 2, "%s--;", value);
    }
}

/* How long a pulse that starts now lasts: the first row that holds. `always`: set if one of them surely does. */
static const char *length_of(coder *c, const fg_pulser *p, bool *always)
{
    const char *before = "";
    for (uint16_t i = 0; i < p->length_count; i++) {
        const fg_pulse_length *last = &c->gate->pulse_lengths[p->first_length + i];
        const code_test yes = last->slot == FG_INDEX_NONE ? code_always : fg_code_yes(c, last->slot);
        *always = yes.join == CODE_TRUE;
        if (*always) return fg_code_say(c, "%s%" PRIu32 "u", before, last->time);
        if (yes.join != CODE_FALSE) before = fg_code_say(c, "%s%s ? %" PRIu32 "u : ", before, yes.text, last->time);
    }
    return fg_code_say(c, "%s0", before);
}

static void pulse(coder *c, uint16_t slot, const fg_op *op)
{
    const fg_pulser *p = &c->gate->pulses[op->rule];
    const fg_text name = owner(c, slot);
    fg_time longest = 0;
    for (uint16_t i = 0; i < p->length_count; i++)
        if (c->gate->pulse_lengths[p->first_length + i].time > longest)
            longest = c->gate->pulse_lengths[p->first_length + i].time;
    const bool is_short_time = longest <= CODE_SHORT_TIME;
    const char *type = is_short_time ? "uint16_t" : "uint32_t", *clock = is_short_time ? "\3passed" : "\3gone";
    const char *left = fg_code_member(c, type, fg_code_word(c, name, "_left"), 0, "ms");
    const char *spent = NULL, *asked = NULL;
    const char *start = start_of(c, p->start, name, "_start", "_starts");
    if (p->rule.again) {
        spent = fg_code_member(c, "bool", fg_code_word(c, name, "_spent"), 0, "it waits for `again`");
        asked = start_of(c, p->again, name, "_again", "_asked");
    }
    bool always_lasts = false;
    const char *length = fg_code_local(c, name, "_length");
    fg_code_define(c, 1, (code_definition){type, length, "", length_of(c, p, &always_lasts), false});
    const code_test no_stop = p->stop == FG_INDEX_NONE ? code_always : fg_code_no(c, p->stop);
    const char *over = fg_code_say(c, "%s <= %s", left, clock);
    if (no_stop.join != CODE_TRUE) over = fg_code_say(c, "%s || %s", fg_code_not(c, no_stop).text, over);
    fg_code_line(c, 1, "if (%s && (%s)) {", left, over);
    fg_code_line(c, 2, "%s = 0;", left);
    if (spent) fg_code_line(c, 2, "%s = true;", spent);
    fg_code_line(c, 1, "} else if (%s) {", left);
    fg_code_line(c, 2, "%s = (%s)(%s - %s);", left, type, left, clock);
    fg_code_line(c, 1, "}");
    if (asked) fg_code_line(c, 1, "if (%s) %s = false;", asked, spent);
    code_test may = fg_code_both(c, fg_code_atom(start), no_stop);
    if (!always_lasts) may = fg_code_both(c, may, fg_code_atom(length));
    const code_test lasting = fg_code_atom(left), over_for_now = fg_code_not(c, lasting);
    const code_test ready = spent ? fg_code_not(c, fg_code_atom(spent)) : code_always;
    if (p->rule.again && p->rule.restarts) may = fg_code_both(c, may, fg_code_either(c, lasting, ready));
    if (!p->rule.restarts) may = fg_code_both(c, may, fg_code_both(c, over_for_now, ready));
    fg_code_line(c, 1, "if (%s) %s = %s;", may.text, left, length);
    fg_code_line(c, 1, "%s = %s ? \3YES : \3NO;", c->slots[slot], left);
}

/* What was one step ago is asked where it is kept, unless it has to outlive the step. */
static void previously(coder *c, uint16_t slot, const fg_op *op)
{
    const char *kept = c->previously[op->rule];
    if (c->slots[slot] || c->asked[slot] & CODE_BY_VALUE)
        answer(c, slot, kept, false);
    else
        c->slots[slot] = kept;
}

void fg_code_condition(coder *c, uint16_t slot)
{
    const fg_op *op = fg_code_op(c, slot);
    switch ((fg_op_kind)op->kind) {
    case FG_OP_FOR: lasting(c, slot, op); return;
    case FG_OP_STARTS:
    case FG_OP_ENDS: edge(c, slot, op); return;
    case FG_OP_AT_LEAST: at_least(c, slot, op); return;
    case FG_OP_LATCH: latch(c, slot, op); return;
    case FG_OP_COUNT: count(c, slot, op); return;
    case FG_OP_PULSE: pulse(c, slot, op); return;
    case FG_OP_PREVIOUSLY: previously(c, slot, op); return;
    default: break;
    }
    const uint8_t times = c->asked[slot] & (uint8_t)~CODE_BY_VALUE;
    const bool by_value = c->asked[slot] & CODE_BY_VALUE;
    if (c->slots[slot])
        fg_code_line(c, 1, "%s = %s;", c->slots[slot], fg_code_worked_out(c, slot));
    else if (by_value || (times > 1 && !fg_code_is_short(c, slot)))
        answer(c, slot, fg_code_worked_out(c, slot), false);
}
