/* SPDX-License-Identifier: MIT */
/* The check of everything that was read, in the order in which one part needs another. */
#include "language/check/check.h"

/* Numbers that nothing asked yet are worked out too, so that a mistake in one is not silent. Working it out is no use
 * of it. */
static void check_numbers(fg_compiler *c)
{
    for (fg_symbol *s = c->symbols; s; s = s->next) {
        if (s->kind != FG_KIND_NUMBER || s->worked_out) continue;
        const bool used = s->used;
        const fg_node name = {.kind = NODE_NUMBER_NAME, .span = s->span, .word = s->name};
        (void)fg_quantity_of(c, &name);
        s->used = used;
    }
}

/* The first sensor that this one is worked out from and that is not checked. */
static fg_symbol *unchecked_part(const fg_symbol *sensor)
{
    for (const fg_use *use = sensor->uses; use; use = use->next)
        if (use->symbol->kind == FG_KIND_SENSOR && !use->symbol->worked_out && !use->symbol->visited)
            return use->symbol;
    return NULL;
}

/* Sensors are checked in the order of dependence; the list keeps it for lowering. */
static void check_next_sensor(fg_compiler *c, fg_symbol *sensor)
{
    fg_check_sensor(c, sensor);
    sensor->worked_out = true;
    if (c->sensors_last)
        c->sensors_last->next_sensor = sensor;
    else
        c->sensors_checked = sensor;
    c->sensors_last = sensor;
}

/* Sensors in the order of dependence: a sum needs the units and steps of its operands. */
static void check_sensors(fg_compiler *c)
{
    fg_symbol **stack = FG_TAKE(fg_symbol *, &c->arena, c->symbol_count + 1);
    for (fg_symbol *s = c->symbols; s && stack; s = s->next) {
        uint32_t depth = 0;
        if (s->kind != FG_KIND_SENSOR || s->worked_out) continue;
        stack[depth++] = s;
        while (depth) {
            stack[depth - 1]->visited = true;
            fg_symbol *part = unchecked_part(stack[depth - 1]);
            if (part)
                stack[depth++] = part;
            else
                check_next_sensor(c, stack[--depth]);
        }
    }
    for (fg_symbol *s = c->symbols; s; s = s->next)
        if (s->kind == FG_KIND_SENSOR) s->visited = false;
}

/* What conditions and levels look at: limits, labels, the ranges of outputs and counts. */
static void check_declarations(fg_compiler *c)
{
    for (fg_symbol *s = c->symbols; s; s = s->next) {
        if (s->kind == FG_KIND_FLAG) fg_check_flag(c, s);
        if (fg_kind_is(s->kind, FG_KIND_ON_SENSOR)) fg_check_rule(c, s);
        if (fg_kind_is(s->kind, FG_KIND_IS_OUTPUT) || s->kind == FG_KIND_COUNT) fg_check_output_attributes(c, s);
    }
}

/* What hangs on conditions comes last: limits and levels in it need their sensors and outputs checked. */
static void check_bodies(fg_compiler *c)
{
    for (fg_symbol *s = c->symbols; s; s = s->next) {
        if (s->kind == FG_KIND_CONDITION && s->body) (void)fg_check_condition(c, s->body);
        if (fg_kind_is(s->kind, FG_KIND_LISTENS)) fg_check_listener(c, s);
        if (s->kind == FG_KIND_SEQUENCE) fg_check_sequence(c, s);
        if (fg_kind_is(s->kind, FG_KIND_IS_OUTPUT)) fg_check_output_rows(c, s);
    }
}

/* A gate without `every` steps with its readings. */
static void check_pace(fg_compiler *c)
{
    if (c->pace && fg_quantity_duration(c, c->pace, T("'every'"), &c->every) && !c->every)
        fg_report(c, FG_FIND_RANGE, c->pace->span, "a gate cannot step every 0 ms",
                  "write a time above 0, or leave 'every' out");
}

/* The order is one of need. Names first, since everything asks them. Numbers before sensors, whose attributes are
 * numbers. Sensors before rules, which take unit and step from them. Bodies with conditions after that, then the order
 * in which all of it is worked out. Trials and scenes look at what is there and change nothing. */
void fg_check(fg_compiler *c)
{
    fg_check_names(c);
    if (c->symbol_count > UINT16_MAX) {
        fg_report(c, FG_FIND_TOO_MANY, (fg_span){0}, "a gate has at most 65535 names", "split it into two gates");
        return;
    }
    check_numbers(c);
    c->notes_moves = true;
    check_sensors(c);
    check_declarations(c);
    check_bodies(c);
    c->notes_moves = false;
    check_pace(c);
    fg_check_order(c);
    fg_check_trials(c);
    fg_check_promises(c);
    fg_check_scenes(c);
    fg_check_moves(c);
}
