/* Between two neighbouring limits of all the rules on a sensor no reading is told from another. So as long as the value
 * stays there, and no rule waits for time to pass, what came out at the last step comes out again. */
#include "calm.h"

#include "run.h"

/* Narrows `same` to the readings that are on the same side of a range as `value`. */
static void narrow(fg_range *same, const fg_range *range, fg_value value)
{
    if (range->low <= value && range->low > same->low) same->low = range->low;
    if (range->low > value && range->low <= same->high) same->high = range->low - 1;
    if (range->high >= value && range->high < same->high) same->high = range->high;
    if (range->high < value && range->high >= same->low) same->low = range->high + 1;
}

static bool waits(const fg_settle_state *state)
{
    return state->present == FG_UNSURE || state->candidate != state->present;
}

/* False if the rule waits. */
static bool narrow_to_rule(const fg_run *run, const fg_op *op, fg_range *same, fg_value value)
{
    const fg_gate *gate = run->gate;
    if (op->kind == FG_OP_THRESHOLD) {
        const fg_threshold *rule = &gate->thresholds[op->rule];
        narrow(same, &rule->range, value);
        narrow(same, &rule->kept, value);
        return !waits(&run->thresholds[op->rule].settle);
    }
    if (op->kind == FG_OP_HYSTERESIS) {
        const fg_hysteresis *rule = &gate->hysteresis[op->rule];
        narrow(same, &rule->on, value);
        narrow(same, &rule->off, value);
        return !waits(&run->hysteresis[op->rule].settle);
    }
    const fg_bands *rule = &gate->bands[op->rule];
    for (uint16_t i = 0; i < rule->count; i++) {
        narrow(same, &rule->bands[i].range, value);
        narrow(same, &rule->bands[i].kept, value);
    }
    return !waits(&run->bands[op->rule].settle);
}

void fg_sensor_calms(fg_run *run, const fg_op *sensor)
{
    fg_sensor_state *state = &run->sensors[sensor->rule];
    fg_range same = {INT32_MIN, INT32_MAX};
    bool calm = state->ok;
    for (uint8_t i = 1; calm && i <= sensor->spared; i++) calm = narrow_to_rule(run, sensor + i, &same, state->value);
    state->calm = calm;
    state->same = same;
}
