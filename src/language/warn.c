/* What runs, but is probably not meant: each with the exact readings concerned. */
#include "front.h"

/* ---- what nothing uses, clears or can win ---- */

static bool has(const fg_symbol *s, fg_attribute attribute) { return s->attributes >> attribute & 1; }

static void unused(fg_front *f, const fg_symbol *s)
{
    if (s->used || (s->kind != FG_KIND_SENSOR && s->kind != FG_KIND_NUMBER && s->kind != FG_KIND_SEQUENCE)) return;
    fg_say(f, FG_FIND_UNUSED, s->span, "nothing uses the {} '{}'", "use it, or take it out",
           fg_text_c(fg_kind_word(s->kind)), s->name);
}

static void rows_that_never_win(fg_front *f, const fg_symbol *output)
{
    const fg_node *always = NULL;
    bool first = true;
    for (const fg_node *row = output->body; row; row = row->next) {
        if (row->kind != NODE_ROW) continue;
        if (always)
            fg_say(f, FG_FIND_NEVER_WINS, row->span, "this row can never win: '{}' above it always holds",
                   "put it above, or take it out", fg_span_text(f, always->span));
        else if (first && row->role == FG_IF_UNSURE)
            fg_say(f, FG_FIND_NEVER_WINS, row->span,
                   "this row can never win: no row stands above it that could be unsure",
                   "put it below the row it is meant for");
        if (row->role == FG_ALWAYS && !always) always = row;
        first = false;
    }
}

/* The rows of an output stand in the table in the order of its text. */
static void unsure_rows(fg_front *f, const fg_symbol *output, const bool *sure)
{
    const fg_row *table = &f->tables->rows[f->tables->outputs[output->index].first_row];
    const fg_node *open = NULL;
    if (output->kind != FG_KIND_MOTOR && output->kind != FG_KIND_RELAY && output->kind != FG_KIND_SERVO) return;
    for (const fg_node *row = output->body; row; row = row->next) {
        if (row->kind != NODE_ROW) continue;
        if (row->role == FG_IF_UNSURE) return;
        const fg_node *follow = row->first->first && row->first->first->kind == NODE_FOLLOW ? row->first->first : NULL;
        const bool lost = follow && follow->symbol->kind == FG_KIND_SENSOR;
        if (!open && (lost || (row->role == FG_WHEN && !sure[table->slot]))) open = row;
        table++;
    }
    if (open)
        fg_say(f, FG_FIND_UNSURE, open->span, "when this is unsure the {} {} rests",
               "say so, or otherwise, with a row LEVEL if unsure", fg_text_c(fg_kind_word(output->kind)), output->name);
}

/* ---- times and the pace ---- */

static void against_pace(fg_front *f, const fg_node *number, fg_text what, bool segment)
{
    const fg_time every = f->program->gate.every;
    const fg_text pace = fg_text_of_value_unit(f, every, 0, T("ms"));
    fg_time time = 0;
    if (!every || !fg_quantity_duration(f, number, what, &time) || !time || time % every == 0) return;
    const fg_time up = (time / every + 1) * every;
    fg_say(f, FG_FIND_TIME, number->span,
           time < every ? "{} of {} is shorter than a step of {}" : "{} of {} is no multiple of a step of {}",
           segment ? "the change comes with the first step after it; the sequence does not drift"
                   : "it works as {}, the first step after it",
           what, fg_text_of_value_unit(f, time, 0, T("ms")), pace, fg_text_of_value_unit(f, up, 0, T("ms")));
}

static void times_in(fg_front *f, const fg_node *node)
{
    for (; node; node = node->next) {
        if (node->kind == NODE_FOR) against_pace(f, node->last, T("'for'"), false);
        if (node->kind == NODE_SEGMENT && node->last->kind != NODE_FOLLOW)
            against_pace(f, node->last, T("this time"), true);
        if (node->kind == NODE_ATTRIBUTE && node->attribute == ATTR_SETTLE && node->first)
            against_pace(f, node->first, T("'settle'"), false);
        if (node->first) times_in(f, node->first);
    }
}

/* ---- limits that no reading reaches ---- */

/* The readings a sensor can have: its trust, or what its scale reads. */
static bool readings_of(fg_front *f, const fg_symbol *sensor, int64_t *low, int64_t *high, const char **what)
{
    const fg_sensor *s = &f->tables->sensors[sensor->index];
    if (s->circle || s->stages & FG_STAGE_ZERO) return false;
    if (s->trust == FG_TRUST_RANGE) {
        *low = s->trusted.low;
        *high = s->trusted.high;
        *what = "trust";
        return true;
    }
    const fg_node *raw = fg_check_attribute(sensor, ATTR_RAW);
    fg_value first = 0, last = 0;
    if (!raw || s->line_count != 1 || !raw->first->negated) return false;
    fg_quantity a = fg_quantity_of(f, raw->first->first), b = fg_quantity_of(f, raw->first->last);
    if (!fg_line_value(s->lines, 1, (int32_t)a.num, &first) || !fg_line_value(s->lines, 1, (int32_t)b.num, &last))
        return false;
    *low = first < last ? first : last;
    *high = first < last ? last : first;
    *what = "its scale";
    return true;
}

static void unreached(fg_front *f, const fg_symbol *sensor, const fg_node *number)
{
    int64_t low, high, value = 0;
    const char *what;
    const fg_slot_for slot = fg_check_limit_of(sensor, false);
    if (!readings_of(f, sensor, &low, &high, &what) || !fg_quantity_steps(f, number, &slot, &value)) return;
    if (value >= low && value <= high) return;
    fg_say(f, FG_FIND_UNREACHED, number->span, "no reading of {} reaches {}: {} goes from {}",
           "move the limit, or what stands against it", sensor->name,
           fg_text_of_value_unit(f, value, sensor->decimals, sensor->unit), fg_text_c(what),
           fg_check_readings(f, sensor, low, high));
}

static void limits_in(fg_front *f, const fg_symbol *sensor, const fg_node *node)
{
    for (; node; node = node->next) {
        const fg_symbol *compared = node->kind == NODE_COMPARE ? node->symbol : sensor;
        if (compared && node->kind >= NODE_OVER && node->kind <= NODE_OUTSIDE)
            for (const fg_node *number = node->first; number; number = number->next) unreached(f, compared, number);
        if (compared && (node->kind == NODE_CUT || node->kind == NODE_NEAR)) unreached(f, compared, node->first);
        if (node->first && node->kind != NODE_CUT && node->kind != NODE_ATTRIBUTE) limits_in(f, compared, node->first);
    }
}

/* ---- conditions that are always the same ---- */

static bool comparison_holds(const fg_threshold *range, fg_value value)
{
    return fg_range_holds(&range->range, value) != range->outside;
}

/* Is there a reading at which all comparisons of this sensor in the chain are `wanted`? Between their ends nothing
 * changes, so the ends and their neighbours are enough. */
static bool some_reading(fg_front *f, const fg_node *chain, const fg_symbol *sensor, bool wanted)
{
    enum { MOST = 32 };
    fg_threshold ranges[MOST];
    uint32_t count = 0;
    for (const fg_node *part = chain->first; part && count < MOST; part = part->next)
        if (part->kind == NODE_COMPARE && part->symbol == sensor &&
            fg_check_comparison(f, part->first, sensor, 0, &ranges[count]))
            count++;
    if (count < 2 || count == MOST) return true;
    for (uint32_t i = 0; i < count; i++)
        for (int k = 0; k < 6; k++) {
            const int64_t at = (int64_t)(k < 3 ? ranges[i].range.low : ranges[i].range.high) + k % 3 - 1;
            uint32_t same = 0;
            if (at < INT32_MIN || at > INT32_MAX || (sensor->circle && (at < 0 || at >= sensor->circle))) continue;
            while (same < count && comparison_holds(&ranges[same], (fg_value)at) == wanted) same++;
            if (same == count) return true;
        }
    return false;
}

static void constant_chain(fg_front *f, const fg_node *chain)
{
    const bool all = chain->kind == NODE_AND;
    for (const fg_node *part = chain->first; part; part = part->next) {
        const fg_node *earlier = chain->first;
        if (part->kind != NODE_COMPARE) continue;
        while (earlier != part && !(earlier->kind == NODE_COMPARE && earlier->symbol == part->symbol))
            earlier = earlier->next;
        if (earlier != part || some_reading(f, chain, part->symbol, all)) continue;
        fg_say(f, FG_FIND_CONSTANT, chain->span,
               all ? "this is never yes: no reading of {} is all of it"
                   : "this is never no: every reading of {} is one of it",
               all ? "did you mean 'or'?" : "did you mean 'and'?", part->symbol->name);
    }
}

static void constants_in(fg_front *f, const fg_node *node)
{
    for (; node; node = node->next) {
        if (node->kind == NODE_AND || node->kind == NODE_OR) constant_chain(f, node);
        if (node->first) constants_in(f, node->first);
    }
}

void fg_check_warnings(fg_front *f)
{
    const fg_gate *gate = &f->program->gate;
    bool *sure = FG_TAKE(bool, &f->arena, (size_t)gate->count.ops + gate->count.watched + 1);
    if (!sure) return;
    fg_gate_sure_lines(gate, sure);
    for (const fg_symbol *s = f->symbols; s; s = s->next) {
        unused(f, s);
        times_in(f, s->body);
        limits_in(f, s->sensor, s->body);
        constants_in(f, s->body);
        if (s->kind == FG_KIND_BANDS) fg_warn_bands(f, s, &f->tables->bands[s->index]);
        if (s->kind == FG_KIND_LATCH && !has(s, ATTR_CLEAR))
            fg_say(f, FG_FIND_UNUSED, s->span, "nothing clears the latch {}: once set it stays",
                   "add clear when and a condition", s->name);
        if (!fg_kind_is_output(s->kind)) continue;
        rows_that_never_win(f, s);
        unsure_rows(f, s, sure);
    }
}
