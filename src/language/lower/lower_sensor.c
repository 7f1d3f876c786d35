/* SPDX-License-Identifier: MIT */
/* Sensors: the terms of sums, and the windows of rates and smoothing. */
#include "language/lower/lower.h"

#include "language/tree/functions.h"

/* A term that does not fit was reported by the push. */
static void add_term(fg_compiler *c, fg_term term, fg_span span) { (void)fg_push_terms(c, term, span); }

/* How many millionths a step of a sensor is. */
static int64_t millionths(const fg_symbol *sensor)
{
    int64_t number = 1;
    for (int digits = sensor->decimals; digits < FG_DECIMALS_MOST; digits++) number *= 10;
    return number;
}

static void lower_sum(fg_compiler *c, const fg_node *node);

/* rate, dip, peak: a window of the sensor's values, and of a rate of their times. */
static void lower_window(fg_compiler *c, const fg_node *call, fg_term_kind kind)
{
    const fg_symbol *sensor = call->first->symbol;
    const uint32_t steps = (uint32_t)call->first->next->found.steps;
    const fg_term term = {.number = millionths(sensor),
                          .sensor = sensor->index,
                          .window = fg_add_windows(c, 1, call->span),
                          /* A rate keeps the times behind the values, so it needs room for twice as many. */
                          .window_at = fg_add_window_values(c, kind == FG_TERM_RATE ? 2 * steps : steps, call->span),
                          .kind = (uint8_t)kind,
                          .count = (uint8_t)steps};
    add_term(c, term, call->span);
}

/* Operands first, then the function, as a stack machine wants it. `lowest(a, b, c)` becomes a b lowest c lowest. */
static void lower_call(fg_compiler *c, const fg_node *call)
{
    const fg_function *function = fg_function_find(call->word);
    uint8_t count = 0;
    if (function->window) {
        lower_window(c, call, function->term);
        return;
    }
    for (const fg_node *operand = call->first; operand; operand = operand->next, count++) {
        lower_sum(c, operand);
        if (function->two_at_a_time && count) add_term(c, (fg_term){.kind = (uint8_t)function->term}, call->span);
    }
    if (!function->two_at_a_time) add_term(c, (fg_term){.kind = (uint8_t)function->term, .count = count}, call->span);
}

/* The term of an operator. */
static fg_term_kind joint(uint8_t node)
{
    if (node == NODE_SUM) return FG_TERM_ADD;
    if (node == NODE_DIFFERENCE) return FG_TERM_SUBTRACT;
    return node == NODE_PRODUCT ? FG_TERM_MULTIPLY : FG_TERM_DIVIDE;
}

/* Operands first, as a stack machine wants them. */
static void lower_sum(fg_compiler *c, const fg_node *node)
{
    switch ((fg_node_kind)node->kind) {
    case NODE_LITERAL:
    case NODE_NUMBER_NAME:
        if (node->symbol)
            add_term(
                c, (fg_term){.number = millionths(node->symbol), .sensor = node->symbol->index, .kind = FG_TERM_SENSOR},
                node->span);
        else
            add_term(c, (fg_term){.number = node->found.steps, .kind = FG_TERM_NUMBER}, node->span);
        return;
    case NODE_CALL: lower_call(c, node); return;
    case NODE_NEGATIVE:
        lower_sum(c, node->first);
        add_term(c, (fg_term){.kind = FG_TERM_NEGATE}, node->span);
        return;
    default:
        lower_sum(c, node->first);
        lower_sum(c, node->last);
        add_term(c, (fg_term){.kind = (uint8_t)joint(node->kind)}, node->span);
        return;
    }
}

/* Indices follow the order of declaration, terms and windows the order of the check. */
void fg_lower_sensors(fg_compiler *c)
{
    fg_tables *t = c->tables;
    for (const fg_symbol *s = c->symbols; s; s = s->next)
        if (s->kind == FG_KIND_SENSOR) (void)fg_push_sensors(c, *s->checked.sensor, s->span);
    for (const fg_symbol *s = c->sensors_checked; s && s->index < t->sensors.used; s = s->next_sensor) {
        fg_sensor *sensor = fg_at_sensors(t, s->index);
        sensor->first_term = (uint16_t)t->terms.used;
        if (s->sum) lower_sum(c, s->sum);
        sensor->term_count = (uint16_t)(t->terms.used - sensor->first_term);
        /* A sensor that is read has no terms; its first one means nothing then, and is 0 in every table. */
        if (!sensor->term_count) sensor->first_term = 0;
        if (sensor->window) sensor->window_at = fg_add_window_values(c, fg_window_room(sensor), s->span);
    }
}
