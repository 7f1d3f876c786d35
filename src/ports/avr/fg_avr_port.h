/* SPDX-License-Identifier: MIT */
/* A port for the library's engine on the ATmega328P and its kin: see fg_avr.h.
 *
 *     const fg_port port = fg_avr_port(&board);
 *     for (;;) if (fg_avr_due(50)) fg_port_step(&port, run);
 */
#ifndef FG_AVR_PORT_H
#define FG_AVR_PORT_H

#include <ficklegate.h>

#include "fg_avr.h"

/* The port of a board, which lives as long. Inputs are numbered as in the gate, sensors, then flags. */
fg_port fg_avr_port(const fg_avr *board);

#endif
