/* SPDX-License-Identifier: MIT */
/* How long something has lasted. A clock that goes back never makes it longer: as FG_TIME_BACK says, differences of
 * 2^31 and more are backwards. */
#ifndef FICKLEGATE_CORE_SINCE_H
#define FICKLEGATE_CORE_SINCE_H

#include <ficklegate/value.h>

#define FG_TIME_BACK 0x80000000u

/* The time from `since` to `now`; if that is backwards, it begins anew now. */
static inline fg_time fg_passed(fg_time *since, fg_time now)
{
    if (now - *since >= FG_TIME_BACK) *since = now;
    return now - *since;
}

#endif
