/* SPDX-License-Identifier: MIT */
/* Parts that a chip with little flash can leave out: compile with -DFG_WITHOUT_SUMS=1 (sensors worked out from others)
 * or -DFG_WITHOUT_TEXTS=1 (displays). No struct changes; fg_run_start refuses a gate that needs what is not there.
 * -DFG_WITHOUT_SHORT_CUTS=1 works every line out at every step, also where nothing has changed: smaller and slower,
 * with the same answers. */
#ifndef FICKLEGATE_CORE_PARTS_H
#define FICKLEGATE_CORE_PARTS_H

#ifndef FG_WITHOUT_SUMS
#define FG_WITHOUT_SUMS 0
#endif
#ifndef FG_WITHOUT_TEXTS
#define FG_WITHOUT_TEXTS 0
#endif
#ifndef FG_WITHOUT_SHORT_CUTS
#define FG_WITHOUT_SHORT_CUTS 0
#endif

#endif
