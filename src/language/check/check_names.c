/* SPDX-License-Identifier: MIT */
/* Names: everybody's number in the table of its kind, and whom rules and sensors name. */
#include "language/check/check.h"

/* Before all other uses: a rule needs its sensor first. */
static void use_first(fg_compiler *c, fg_symbol *s, fg_symbol *used, fg_span span)
{
    fg_use *use = used ? FG_TAKE(fg_use, &c->arena, 1) : NULL;
    if (!use) return;
    *use = (fg_use){used, span, s->uses};
    if (!s->uses) s->uses_last = use;
    s->uses = use;
}

/* To its sensor's list, in the order of declaration. */
static void add_rule(fg_symbol *rule)
{
    fg_symbol **end = rule->sensor ? &rule->sensor->rules_end : NULL;
    if (!end) return;
    if (*end)
        (*end)->next_rule = rule;
    else
        rule->sensor->rules = rule;
    *end = rule;
}

/* A rule is checked and worked out behind its sensor, so it counts as a use. */
static void find_sensor(fg_compiler *c, fg_symbol *rule)
{
    rule->sensor = fg_name_use(c, rule->from, rule->from_span, FG_KIND_BIT(FG_KIND_SENSOR));
    use_first(c, rule, rule->sensor, rule->from_span);
    add_rule(rule);
}

/* The flag that sets the zero is worked out before the sensor. */
static void find_zero_flag(fg_compiler *c, fg_symbol *sensor)
{
    const fg_node *zero = fg_node_attribute(sensor, ATTR_ZERO);
    if (!zero || !zero->word.size) return;
    sensor->zero_flag = fg_name_use(c, zero->word, zero->row.name_span, FG_KIND_BIT(FG_KIND_FLAG));
    use_first(c, sensor, sensor->zero_flag, zero->row.name_span);
}

/* Numbers each name within its kind, which is its place in the table, and resolves what a declaration names outside of
 * conditions. Outputs are numbered together: they share one table. */
void fg_check_names(fg_compiler *c)
{
    uint32_t counts[FG_KINDS_IN_ALL] = {0}, outputs = 0;
    for (fg_symbol *s = c->symbols; s; s = s->next) {
        s->index = (uint16_t)(fg_kind_is(s->kind, FG_KIND_IS_OUTPUT) ? outputs++ : counts[s->kind]++);
        s->visited = s->visited && s->kind == FG_KIND_NUMBER;
        if (s->from.size) find_sensor(c, s);
        if (s->kind == FG_KIND_SENSOR) find_zero_flag(c, s);
        fg_check_sum_uses(c, s);
    }
}
