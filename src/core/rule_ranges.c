/* SPDX-License-Identifier: MIT */
/* The ranges of any rule on a sensor, so that whoever looks at limits need not know the kinds of rules. */
#include <ficklegate/gate.h>

/* A comparison in a condition counts as a rule with one range and no margin. */
bool fg_op_range(const fg_gate *gate, const fg_op *op, uint16_t i, fg_rule_range *range)
{
    switch (op->kind) {
#define FG_RULE_RANGE(NAME, name, table)                                                                               \
    case FG_OP_##NAME: return fg_##name##_range(&gate->table[op->rule], i, range);
        FG_SENSOR_RULES(FG_RULE_RANGE)
#undef FG_RULE_RANGE
    case FG_OP_COMPARE: {
        const fg_compare *compare = &gate->compares[op->rule];
        range->range = range->kept = &compare->range;
        range->answer = fg_sure(!compare->outside);
        return i == 0;
    }
    default: return false;
    }
}

/* A comparison does not settle. */
const fg_settle *fg_op_settle(const fg_gate *gate, const fg_op *op)
{
    switch (op->kind) {
#define FG_RULE_SETTLE(NAME, name, table)                                                                              \
    case FG_OP_##NAME: return &gate->table[op->rule].settle;
        FG_SENSOR_RULES(FG_RULE_SETTLE)
#undef FG_RULE_SETTLE
    default: return NULL;
    }
}
