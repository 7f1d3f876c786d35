/* SPDX-License-Identifier: MIT */
/* What was tried: each answer of each rule, each row of each output, each limit from both sides, each sensor's fault.
 */
#include "workshop/base/limits.h"

#include <ficklegate/coverage.h>

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

typedef enum item_kind { ITEM_ANSWER, ITEM_ROW, ITEM_FAULT, ITEM_LIMIT, ITEM_MARGIN } item_kind;

/* One thing that may happen. */
typedef struct item {
    item_kind kind;
    bool tried;
    fg_verdict answer;     /* ITEM_ANSWER */
    int8_t beside;         /* ITEM_LIMIT: -1, 0, 1 step from it */
    uint16_t number;       /* slot, output or sensor */
    uint16_t row;          /* ITEM_ROW */
    uint16_t slot, corner; /* ITEM_LIMIT, ITEM_MARGIN: the slot of the rule, and which of its limits */
    fg_value limit;        /* ITEM_LIMIT, ITEM_MARGIN */
    fg_value margin;       /* ITEM_MARGIN */
    uint32_t declared;
} item;

struct fg_coverage {
    const fg_program *program, *now; /* now: the one whose steps come */
    item *items;
    size_t count, room;
    bool full;
};

static void add(fg_coverage *c, item it)
{
    if (c->count == c->room) {
        const size_t room = c->room ? 2 * c->room : 64;
        item *items = realloc(c->items, room * sizeof *items);
        c->full = c->full || !items;
        if (!items) return;
        c->items = items;
        c->room = room;
    }
    c->items[c->count++] = it;
}

/* ---- everything that may happen ---- */

static void add_limits(fg_coverage *c, uint16_t slot, uint32_t declared)
{
    fg_value corners[FG_LIMITS_MOST];
    const fg_op *op = &c->program->gate.ops[slot];
    const size_t count = fg_limits_of(c->program, slot, corners);
    const fg_value margin = c->program->op_sources[slot].margin;
    for (uint16_t i = 0; i < count; i++) {
        for (int8_t k = -1; k <= 1; k++)
            add(c, (item){.kind = ITEM_LIMIT,
                          .beside = k,
                          .number = op->a,
                          .slot = slot,
                          .corner = i,
                          .limit = fg_limit_beside(c->program, op->a, corners[i], k),
                          .declared = declared});
        if (margin > 1)
            add(c, (item){.kind = ITEM_MARGIN,
                          .number = op->a,
                          .slot = slot,
                          .corner = i,
                          .limit = corners[i],
                          .margin = margin,
                          .declared = declared});
    }
}

static void add_answers(fg_coverage *c, const fg_declared *d, uint32_t number)
{
    item it = {.kind = ITEM_ANSWER, .number = d->slot, .declared = number};
    if (fg_kind_is(d->kind, FG_KIND_LABELS)) {
        for (uint16_t i = 0; i < d->label_count; i++) {
            it.answer = fg_label(i);
            add(c, it);
        }
        return;
    }
    it.answer = FG_YES;
    add(c, it);
    it.answer = FG_NO;
    add(c, it);
}

static void add_name(fg_coverage *c, const fg_declared *d, uint32_t number)
{
    const fg_gate *gate = &c->program->gate;
    const bool answers = fg_kind_is(d->kind, FG_KIND_YES_NO | FG_KIND_LABELS) && !fg_kind_is(d->kind, FG_KIND_READ);
    if (d->kind == FG_KIND_SENSOR) add(c, (item){.kind = ITEM_FAULT, .number = d->index, .declared = number});
    if (answers) add_answers(c, d, number);
    if (fg_kind_is(d->kind, FG_KIND_ON_SENSOR)) add_limits(c, d->slot, number);
    if (!fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) return;
    for (uint16_t i = 0; i < gate->outputs[d->index].row_count; i++)
        add(c, (item){.kind = ITEM_ROW, .number = d->index, .row = i, .declared = number});
}

/* The limits that stand in conditions belong to their sensors. */
static void add_compares(fg_coverage *c)
{
    const fg_gate *gate = &c->program->gate;
    for (uint16_t slot = 0; slot < gate->size.ops; slot++) {
        uint32_t i = 0;
        if (gate->ops[slot].kind != FG_OP_COMPARE) continue;
        while (c->program->declared[i].kind != FG_KIND_SENSOR || c->program->declared[i].index != gate->ops[slot].a)
            i++;
        add_limits(c, slot, i);
    }
}

fg_coverage *fg_coverage_start(const fg_program *program)
{
    fg_coverage *c = calloc(1, sizeof *c);
    if (!c) return NULL;
    c->program = c->now = program;
    for (uint32_t i = 0; i < program->declared_count; i++) add_name(c, &program->declared[i], i);
    add_compares(c);
    if (!c->full) return c;
    fg_coverage_end(c);
    return NULL;
}

void fg_coverage_end(fg_coverage *c)
{
    if (c) free(c->items);
    free(c);
}

void fg_coverage_use(fg_coverage *c, const fg_program *program)
{
    fg_value corners[FG_LIMITS_MOST] = {0};
    c->now = program;
    for (size_t i = 0; i < c->count; i++) {
        item *it = &c->items[i];
        if (it->kind != ITEM_LIMIT && it->kind != ITEM_MARGIN) continue;
        it->margin = program->op_sources[it->slot].margin;
        if (it->corner < fg_limits_of(program, it->slot, corners))
            it->limit = fg_limit_beside(program, it->number, corners[it->corner], it->beside);
    }
}

/* ---- what happens ---- */

/* Further than a step from the limit, and no further than the margin; on a circle the short way. */
static bool within_margin(const fg_program *program, const item *it, fg_value value)
{
    const fg_value circle = program->gate.sensors[it->number].circle;
    int64_t away = (int64_t)value - it->limit;
    if (away < 0) away = -away;
    if (circle && away > circle / 2) away = circle - away;
    return away > 1 && away <= it->margin;
}

static bool happens(const fg_program *program, const item *it, const fg_run *run)
{
    fg_value value;
    switch (it->kind) {
    case ITEM_ANSWER: return fg_answer(run, it->number) == it->answer;
    case ITEM_ROW: return fg_output_at(run, it->number)->row == it->row;
    case ITEM_FAULT: return !fg_sensor_value(run, it->number, &value);
    case ITEM_LIMIT: return fg_sensor_value(run, it->number, &value) && value == it->limit;
    case ITEM_MARGIN: return fg_sensor_value(run, it->number, &value) && within_margin(program, it, value);
    }
    return false;
}

void fg_coverage_step(fg_coverage *c, const fg_run *run)
{
    for (size_t i = 0; i < c->count; i++)
        if (!c->items[i].tried && happens(c->now, &c->items[i], run)) c->items[i].tried = true;
}

void fg_coverage_add(fg_coverage *c, const fg_coverage *other)
{
    for (size_t i = 0; i < c->count && i < other->count; i++)
        c->items[i].tried = c->items[i].tried || other->items[i].tried;
}

void fg_coverage_count(const fg_coverage *c, uint64_t *tried, uint64_t *all)
{
    *all = c->count;
    *tried = 0;
    for (size_t i = 0; i < c->count; i++) *tried += c->items[i].tried;
}

/* ---- what did not ---- */

static void say_row(const fg_program *program, const item *it, fg_buffer *out)
{
    const fg_row *row = &program->gate.rows[program->gate.outputs[it->number].first_row + it->row];
    char text[FG_LEVEL_TEXT_SIZE];
    fg_buffer_add_c(out, "row ");
    fg_buffer_add_number(out, it->row + 1);
    fg_buffer_add_c(out, " (");
    if (fg_form_is_plain(row->level.form)) {
        const size_t size = fg_level_text(&row->level, text);
        fg_buffer_add(out, (fg_text){text, size});
    } else {
        fg_buffer_add_c(out, fg_form_word((fg_form)row->level.form));
    }
    fg_buffer_add_c(out, ") never won");
}

static void say(const fg_program *program, const item *it, fg_buffer *out)
{
    const fg_declared *d = &program->declared[it->declared];
    fg_value corners[FG_LIMITS_MOST] = {0};
    switch (it->kind) {
    case ITEM_ANSWER:
        fg_buffer_add_c(out, "never ");
        fg_buffer_add(out, fg_answer_text(d, it->answer));
        return;
    case ITEM_ROW: say_row(program, it, out); return;
    case ITEM_FAULT: fg_buffer_add_c(out, "never faulty"); return;
    case ITEM_LIMIT:
        fg_buffer_add_c(out, it->beside ? "no reading one step from a limit, at " : "no reading on the limit ");
        (void)fg_limits_of(program, it->slot, corners); /* the gate's own, not those that a trial sets */
        fg_buffer_add_value(out, fg_limit_beside(program, it->number, corners[it->corner], it->beside), d);
        return;
    case ITEM_MARGIN:
        fg_buffer_add_c(out, "no reading deeper in the margin of the limit ");
        (void)fg_limits_of(program, it->slot, corners);
        fg_buffer_add_value(out, corners[it->corner], d);
        return;
    }
}

bool fg_coverage_untried(const fg_coverage *c, void *context,
                         void (*tell)(void *context, const fg_declared *declared, fg_text what))
{
    fg_buffer out = {0};
    for (uint32_t d = 0; d < c->program->declared_count && !out.full; d++) {
        for (size_t i = 0; i < c->count; i++) {
            if (c->items[i].tried || c->items[i].declared != d) continue;
            out.size = 0;
            say(c->program, &c->items[i], &out);
            tell(context, &c->program->declared[d], fg_buffer_text(&out));
        }
    }
    const bool good = !out.full;
    fg_buffer_free(&out);
    return good;
}
