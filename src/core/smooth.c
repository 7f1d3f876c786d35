/* Sensor conditioning, stage by stage. */
#include <ficklegate/smooth.h>

#include "wide.h"

bool fg_line_value(const fg_line *lines, uint8_t count, int32_t counts, fg_value *value)
{
    while (count > 1 && counts > lines->up_to) {
        lines++;
        count--;
    }
    int64_t units;
    fg_wide sum = fg_wide_sum(fg_wide_product(counts, lines->slope), fg_wide_of(lines->offset));
    if (!fg_wide_quotient(sum, lines->divisor, &units)) return false;
    if (units < INT32_MIN || units > INT32_MAX) return false;
    *value = (fg_value)units;
    return true;
}

fg_value fg_wrap(int64_t value, fg_value circle)
{
    int64_t rest = value % circle;
    return (fg_value)(rest < 0 ? rest + circle : rest);
}

bool fg_sensor_step(const fg_sensor *sensor, fg_sensor_state *state, fg_time now)
{
    (void)now;
    fg_value value = state->newest;
    state->ok = state->heard == FG_HEARD_VALUE;
    if (state->ok && sensor->trust == FG_TRUST_RANGE) state->ok = fg_range_holds(&sensor->trusted, value);
    if (state->ok && sensor->circle) value = fg_wrap(value, sensor->circle);
    if (state->ok && sensor->trust == FG_TRUST_WRAP) state->ok = fg_range_holds(&sensor->trusted, value);
    if (state->ok) state->value = value;
    return state->ok;
}
