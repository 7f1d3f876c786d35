/* SPDX-License-Identifier: MIT */
/* What runs but is odd.
 *
 * Warnings never change what a gate does; `--strict` makes them count. Each asks something that can be proved from the
 * text or the tables alone: that no reading reaches a limit, that a row can never win, that an answer is always the
 * same. What is only unlikely is not warned of.
 */
#include "language/warn/warn.h"

/* ---- what nothing uses, clears or can win ---- */

/* Was the attribute written? */
static bool has(const fg_symbol *s, fg_attribute attribute) { return s->attributes >> attribute & 1; }

/* Only what does nothing by itself: a condition or a latch may be there for trials. */
static void unused(fg_compiler *c, const fg_symbol *s)
{
    if (s->used || (s->kind != FG_KIND_SENSOR && s->kind != FG_KIND_NUMBER && s->kind != FG_KIND_SEQUENCE)) return;
    fg_report(c, FG_FIND_UNUSED, s->span, "nothing uses the {} '{}'", "use it, or remove it",
              fg_text_of(fg_kind_word(s->kind)), s->name);
}

/* Below a row without a condition nothing can win, and above the first row nothing can be unsure. */
static void rows_that_never_win(fg_compiler *c, const fg_symbol *output)
{
    const fg_node *always = NULL;
    bool first = true;
    for (const fg_node *row = output->body; row; row = row->next) {
        if (row->kind != NODE_ROW) continue;
        if (always)
            fg_report(c, FG_FIND_NEVER_WINS, row->span, "this row can never win: '{}' above it always holds",
                      "move it above that row, or remove it", fg_span_text(c, always->span));
        else if (first && row->when == FG_ROW_IF_UNSURE)
            fg_report(c, FG_FIND_NEVER_WINS, row->span, "this row can never win: no row above it can be unsure",
                      "put it below the row it is meant for");
        if (row->when == FG_ROW_ALWAYS && !always) always = row;
        first = false;
    }
}

/* The rows of an output stand in the table in the order of its text. */
static void unsure_rows(fg_compiler *c, const fg_symbol *output, const bool *sure)
{
    const fg_gate *gate = &c->program->gate;
    const fg_row *table = fg_output_rows(gate, &gate->outputs[output->index]);
    const fg_node *open = NULL;
    if (!fg_kind_is(output->kind, FG_KIND_GUARDED)) return;
    for (const fg_node *row = output->body; row; row = row->next) {
        if (row->kind != NODE_ROW) continue;
        if (row->when == FG_ROW_IF_UNSURE) return;
        const fg_node *follow = row->first->first && row->first->first->kind == NODE_FOLLOW ? row->first->first : NULL;
        const bool lost = follow && follow->symbol->kind == FG_KIND_SENSOR;
        if (!open && (lost || (row->when == FG_ROW_WHEN && !sure[table->slot]))) open = row;
        table++;
    }
    if (open)
        fg_report(c, FG_FIND_UNSURE, open->span, "while this is unsure, the {} {} rests",
                  "say what should happen then: add a row LEVEL if unsure", fg_text_of(fg_kind_word(output->kind)),
                  output->name);
}

/* ---- times and the pace ---- */

/* A gate looks once every step, so a time between two steps works as the next step. It is told, because a person who
 * wrote 250 ms at a pace of 100 will measure 300. */
static void against_pace(fg_compiler *c, fg_node *number, fg_text what, bool segment)
{
    const fg_time every = c->every;
    const fg_text pace = fg_text_of_value_unit(c, every, 0, T("ms"));
    fg_time time = 0;
    if (!every || !fg_quantity_duration(c, number, what, &time) || !time || time % every == 0) return;
    /* The first step that comes after the time. */
    const fg_time up = (time / every + 1) * every;
    fg_report(c, FG_FIND_TIME, number->span,
              time < every ? "{} of {} is shorter than a step of {}" : "{} of {} is not a multiple of a step of {}",
              segment ? "the change comes with the first step after it; the sequence does not drift"
                      : "it takes effect after {}, at the next step",
              what, fg_text_of_value_unit(c, time, 0, T("ms")), pace, fg_text_of_value_unit(c, up, 0, T("ms")));
}

/* Every time in a body, at any depth. */
static void times_in(fg_compiler *c, fg_node *node)
{
    for (; node; node = node->next) {
        if (node->kind == NODE_FOR) against_pace(c, node->last, T("'for'"), false);
        if (node->kind == NODE_SEGMENT && node->last->kind != NODE_FOLLOW)
            against_pace(c, node->last, T("this time"), true);
        if (node->kind == NODE_ATTRIBUTE && node->row.attribute == ATTR_SETTLE && node->first)
            against_pace(c, node->first, T("'settle'"), false);
        if (node->first) times_in(c, node->first);
    }
}

/* ---- limits that no reading reaches ---- */

/* The readings a sensor can have: its trust, or what its scale reads. */
static bool readings_of(fg_compiler *c, const fg_symbol *sensor, int64_t *low, int64_t *high, const char **what)
{
    const fg_sensor *s = sensor->checked.sensor;
    if (s->circle || s->stages & FG_STAGE_ZERO) return false;
    if (s->trust == FG_TRUST_RANGE) {
        *low = s->trusted.low;
        *high = s->trusted.high;
        *what = "trust";
        return true;
    }
    const fg_node *raw = fg_node_attribute(sensor, ATTR_RAW);
    fg_value first = 0, last = 0;
    if (!raw || s->scale_count != 1 || !raw->first->is_range) return false;
    fg_quantity a = fg_quantity_of(c, raw->first->first), b = fg_quantity_of(c, raw->first->last);
    if (!fg_scale_value(s->scale, 1, (int32_t)a.num, &first) || !fg_scale_value(s->scale, 1, (int32_t)b.num, &last))
        return false;
    *low = first < last ? first : last;
    *high = first < last ? last : first;
    *what = "its scale";
    return true;
}

/* What needs time to pass: the words for it; NULL if the node is none of it. */
static const char *timed(const fg_node *node)
{
    if (node->kind == NODE_FOR) return "'for'";
    if (node->kind == NODE_SEGMENT) return "sequence";
    if (node->kind == NODE_LEVEL && node->level.form == FG_FORM_SWEEP) return "sweep";
    return node->kind == NODE_ATTRIBUTE && node->row.attribute == ATTR_LAST ? "pulse" : NULL;
}

/* The first node of a body that needs time. */
static const fg_node *first_timed(const fg_node *node)
{
    for (; node; node = node->next) {
        if (timed(node)) return node;
        const fg_node *inside = first_timed(node->first);
        if (inside) return inside;
    }
    return NULL;
}

/* Without `every` a gate looks only when a reading comes, so nothing ends in between. Said once: the mend is one row.
 */
static void without_pace(fg_compiler *c)
{
    for (const fg_symbol *s = c->symbols; s && !c->pace; s = s->next) {
        const fg_node *node = first_timed(s->body);
        if (!node) continue;
        fg_report(c, FG_FIND_TIME, node->span, "without 'every' this {} can change only when a reading comes",
                  "write every 50ms at the top, or how often the board looks", fg_text_of(timed(node)));
        return;
    }
}

/* `trust` or a circle bounds what a sensor can read. A limit beyond that never turns its rule. */
static void unreached(fg_compiler *c, const fg_symbol *sensor, const fg_node *number)
{
    int64_t low, high, value = 0;
    const char *what;
    const fg_number_spec slot = fg_check_limit_of(sensor, false);
    if (!readings_of(c, sensor, &low, &high, &what) || !fg_quantity_steps(c, number, &slot, &value)) return;
    if (value >= low && value <= high) return;
    fg_report(c, FG_FIND_UNREACHED, number->span, "no reading of {} reaches {}: {} goes from {}",
              "move the limit, or widen what bounds the readings", sensor->name,
              fg_text_of_value_unit(c, value, sensor->decimals, sensor->unit), fg_text_of(what),
              fg_check_readings(c, sensor, low, high));
}

/* Limits of comparisons and cuts. In a condition the sensor is the one that is compared. */
static void limits_in(fg_compiler *c, const fg_symbol *sensor, const fg_node *node)
{
    for (; node; node = node->next) {
        const fg_symbol *compared = node->kind == NODE_COMPARE ? node->symbol : sensor;
        const bool comparison = compared && node->kind == NODE_COMPARISON;
        const bool round = comparison && fg_comparison_form_of((fg_comparison_kind)node->comparison)->traits &
                                             FG_COMPARE_ROUND; /* its second number is a distance */
        for (const fg_node *number = node->first; comparison && number; number = round ? NULL : number->next)
            unreached(c, compared, number);
        if (compared && node->kind == NODE_CUT) unreached(c, compared, node->first);
        if (node->first && node->kind != NODE_CUT && node->kind != NODE_EQUAL) limits_in(c, compared, node->first);
    }
}

/* ---- conditions that are always the same ---- */

/* With `outside` it is the other way round. */
static bool comparison_holds(const fg_compare *compare, fg_value value)
{
    return fg_range_holds(&compare->range, value) != compare->outside;
}

/* Is there a reading at which all comparisons of this sensor in the chain are `wanted`? Between their ends nothing
 * changes, so the ends and their neighbours are enough. */
static bool some_reading(const fg_node *chain, const fg_symbol *sensor, bool wanted)
{
    enum { MOST = 32 };
    const fg_compare *compares[MOST];
    uint32_t count = 0;
    for (const fg_node *part = chain->first; part && count < MOST; part = part->next)
        if (part->kind == NODE_COMPARE && part->symbol == sensor) compares[count++] = &part->found.compare;
    if (count < 2 || count == MOST) return true;
    for (uint32_t i = 0; i < count; i++)
        for (int k = 0; k < 6; k++) {
            const fg_range *range = &compares[i]->range;
            const int64_t at = (int64_t)(k < 3 ? range->low : range->high) + k % 3 - 1;
            uint32_t same = 0;
            if (at < INT32_MIN || at > INT32_MAX || (sensor->circle && (at < 0 || at >= sensor->circle))) continue;
            while (same < count && comparison_holds(compares[same], (fg_value)at) == wanted) same++;
            if (same == count) return true;
        }
    return false;
}

/* `depth over 5 and depth under 3` is never yes. Each sensor is looked at once, at its first comparison in the chain.
 */
static void constant_chain(fg_compiler *c, const fg_node *chain)
{
    const bool all = chain->kind == NODE_AND;
    for (const fg_node *part = chain->first; part; part = part->next) {
        const fg_node *earlier = chain->first;
        if (part->kind != NODE_COMPARE) continue;
        /* Only the first comparison of a sensor in the chain looks: the others would say the same again. */
        while (earlier != part && !(earlier->kind == NODE_COMPARE && earlier->symbol == part->symbol))
            earlier = earlier->next;
        if (earlier != part || some_reading(chain, part->symbol, all)) continue;
        fg_report(c, FG_FIND_CONSTANT, chain->span,
                  all ? "this is never yes: no reading of {} satisfies all of it"
                      : "this is never no: every reading of {} satisfies part of it",
                  all ? "did you mean 'or'?" : "did you mean 'and'?", part->symbol->name);
    }
}

/* Every `and` and `or`, at any depth. */
static void constants_in(fg_compiler *c, const fg_node *node)
{
    for (; node; node = node->next) {
        if (node->kind == NODE_AND || node->kind == NODE_OR) constant_chain(c, node);
        if (node->first) constants_in(c, node->first);
    }
}

/* Both limits at one number leave nothing between them where noise would not matter. */
static void no_dead_band(fg_compiler *c, const fg_symbol *rule)
{
    const fg_node *on = NULL, *off = NULL;
    fg_value a = 0, b = 0;
    for (const fg_node *node = rule->body; node; node = node->next) {
        if (node->kind == NODE_ON) on = node->first;
        if (node->kind == NODE_OFF) off = node->first;
    }
    if (!on || !off || !rule->sensor) return;
    a = (fg_value)on->first->found.steps;
    b = (fg_value)off->first->found.steps;
    if (a != b) return;
    fg_report(c, FG_FIND_DEAD_BAND, off->span, "{} switches on and off at one number, so noise there causes chatter",
              "move the two limits apart, by more than the noise", rule->name);
}

/* Runs only on a gate without mistakes, so it may ask the finished tables. */
void fg_warn(fg_compiler *c)
{
    const fg_gate *gate = &c->program->gate;
    bool *sure = FG_TAKE(bool, &c->arena, (size_t)gate->size.ops + gate->size.watched + 1);
    if (!sure) return;
    fg_gate_sure_slots(gate, sure);
    without_pace(c);
    for (const fg_symbol *s = c->symbols; s; s = s->next) {
        unused(c, s);
        times_in(c, s->body);
        limits_in(c, s->sensor, s->body);
        constants_in(c, s->body);
        if (fg_kind_is(s->kind, FG_KIND_LABELS)) fg_warn_bands(c, s);
        if (s->kind == FG_KIND_HYSTERESIS) no_dead_band(c, s);
        if (s->kind == FG_KIND_LATCH && !has(s, ATTR_CLEAR))
            fg_report(c, FG_FIND_UNUSED, s->span, "nothing clears the latch {}: once set, it stays set",
                      "add clear when and a condition", s->name);
        if (!fg_kind_is(s->kind, FG_KIND_IS_OUTPUT)) continue;
        rows_that_never_win(c, s);
        unsure_rows(c, s, sure);
    }
    fg_warn_kept(c);
}
