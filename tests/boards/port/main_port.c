/* SPDX-License-Identifier: MIT */
/* The firmware of the port's test: a plain main with a polling loop. */
#include <fg_avr_port.h>

#include "port.h"

static const fg_avr_input inputs[] = {
    [PORT_SENSOR_DEPTH] = {FG_AVR_CONVERTER, 3},
    [1 + PORT_FLAG_KEY] = {FG_AVR_LOW, FG_AVR_PIN(FG_AVR_D, 2)},
};
static const fg_avr_output outputs[] = {
    [PORT_OUTPUT_GREEN] = {FG_AVR_PULSE_A, FG_AVR_NO_PIN},
    [PORT_OUTPUT_PUMP] = {FG_AVR_PULSE_B, FG_AVR_PIN(FG_AVR_D, 7)},
    [PORT_OUTPUT_BOOM] = {FG_AVR_SWITCH, FG_AVR_PIN(FG_AVR_D, 4)},
    [PORT_OUTPUT_HORN] = {FG_AVR_TONE, FG_AVR_NO_PIN},
};
static const fg_avr board = {inputs, outputs, 2, 4};

int main(void)
{
    static unsigned char memory[400];
    fg_run *run;
    if (fg_run_start(&port_gate, memory, sizeof memory, &run) != FG_OK) return 1;
    const fg_port port = fg_avr_port(&board);
    fg_avr_start(&board);
    for (;;)
        if (fg_avr_due(50)) fg_port_step(&port, run);
}
