/* Sensors whose rules need no look. */
#ifndef FICKLEGATE_CORE_CALM_H
#define FICKLEGATE_CORE_CALM_H

#include <ficklegate/gate.h>

/* After the rules behind a sensor's line have been worked out: if none of them waits, the sensor is calm as long as its
 * value stays between the limits that it now stands between. */
void fg_sensor_calms(fg_run *run, const fg_op *sensor);

#endif
