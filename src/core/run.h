/* The state of one run: one block of the caller's memory, this head first, then a table for each kind of state. */
#ifndef FICKLEGATE_CORE_RUN_H
#define FICKLEGATE_CORE_RUN_H

#include <ficklegate/gate.h>

struct fg_run {
    const fg_gate *gate;
    fg_sensor_state *sensors;
    fg_flag_state *flags;
    fg_threshold_state *thresholds;
    fg_hysteresis_state *hysteresis;
    fg_bands_state *bands;
    fg_output_state *outputs;
    fg_verdict *answers;
};

/* Works out the rows of an output and sets its level. */
void fg_output_step(const fg_output *output, const fg_row *rows, const fg_verdict *answers, fg_output_state *state);

/* Is an output at a level of this pattern? */
bool fg_pattern_fits(const fg_pattern *pattern, const fg_level *level);

#endif
