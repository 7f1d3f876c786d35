/* SPDX-License-Identifier: MIT */
/** @file
 * The workshop: everything that a person does with a gate on a hosted machine. Each idea has a header of its own. */
#ifndef FICKLEGATE_WORKSHOP_H
#define FICKLEGATE_WORKSHOP_H

#include <ficklegate/bake.h>
#include <ficklegate/broker.h>
#include <ficklegate/compare.h>
#include <ficklegate/coverage.h>
#include <ficklegate/draw.h>
#include <ficklegate/edit.h>
#include <ficklegate/files.h>
#include <ficklegate/findings.h>
#include <ficklegate/handle.h>
#include <ficklegate/jobs.h>
#include <ficklegate/keep.h>
#include <ficklegate/lines.h>
#include <ficklegate/live.h>
#include <ficklegate/number_lines.h>
#include <ficklegate/page.h>
#include <ficklegate/promise.h>
#include <ficklegate/recordings.h>
#include <ficklegate/replay.h>
#include <ficklegate/save.h>
#include <ficklegate/scenes.h>
#include <ficklegate/serial.h>
#include <ficklegate/stand_in.h>
#include <ficklegate/summary.h>
#include <ficklegate/tidy.h>
#include <ficklegate/trials.h>
#include <ficklegate/tune.h>
#include <ficklegate/watch.h>
#include <ficklegate/why.h>

#endif
