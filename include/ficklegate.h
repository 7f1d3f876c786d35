/* SPDX-License-Identifier: MIT */
/** @file
 * Fickle Gate: readings in, conditions and switched outputs out, the same on every machine.
 *
 * This header is what a board needs: values, rules, conditioning, gates, ports. The language that reads gate files is
 * <ficklegate/language.h>, recordings and trials are <ficklegate/workshop.h>, the simulated board is
 * <ficklegate/sim.h>.
 */
#ifndef FICKLEGATE_H
#define FICKLEGATE_H

#include <ficklegate/gate.h>
#include <ficklegate/kinds.h>
#include <ficklegate/port.h>
#include <ficklegate/rules.h>
#include <ficklegate/smooth.h>
#include <ficklegate/text.h>
#include <ficklegate/value.h>
#include <ficklegate/version.h>

#endif
