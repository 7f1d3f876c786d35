/* SPDX-License-Identifier: MIT */
/* Steady: working it out again would give what it gave at the last step.
 *
 * Between two neighbouring limits of the rules on a sensor every reading gives the same answers. So a sensor is steady
 * as long as its value stays between them and none of its rules waits for time to pass. */
#include "steady.h"

#include "run.h"

/* Narrows `same` to the readings that are on the same side of a range as `value`. */
static void narrow(fg_range *same, const fg_range *range, fg_value value)
{
    if (range->low <= value && range->low > same->low) same->low = range->low;
    if (range->low > value && range->low <= same->high) same->high = range->low - 1;
    if (range->high >= value && range->high < same->high) same->high = range->high;
    if (range->high < value && range->high >= same->low) same->low = range->high + 1;
}

/* A rule that is unsure, or has a candidate, may turn by time alone: its sensor cannot be steady. */
static bool waits(const fg_settle_state *state)
{
    return state->present == FG_UNSURE || state->candidate != state->present;
}

/* False if the rule waits. */
static bool narrow_to_rule(const fg_run *run, const fg_op *op, fg_range *same, fg_value value)
{
    fg_rule_range range;
    switch (op->kind) {
#define FG_NARROW(NAME, name, table)                                                                                   \
    case FG_OP_##NAME:                                                                                                 \
        for (uint16_t i = 0; fg_##name##_range(&run->gate->table[op->rule], i, &range); i++) {                         \
            narrow(same, range.range, value);                                                                          \
            if (range.kept != range.range) narrow(same, range.kept, value);                                            \
        }                                                                                                              \
        return !waits(&run->table[op->rule].settle);
        FG_SENSOR_RULES(FG_NARROW)
#undef FG_NARROW
    default: return true;
    }
}

/* `spared` says how many rules stand behind the op of the sensor. The range is narrowed by each of them; it always
 * holds the present value. */
void fg_sensor_find_steady(fg_run *run, const fg_op *sensor)
{
    fg_sensor_state *state = &run->sensors[sensor->rule];
    fg_range same = {INT32_MIN, INT32_MAX};
    bool steady = state->ok;
    for (uint8_t i = 1; steady && i <= sensor->spared; i++)
        steady = narrow_to_rule(run, sensor + i, &same, state->value);
    state->steady = steady;
    state->steady_range = same;
}
