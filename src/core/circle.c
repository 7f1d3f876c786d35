/* SPDX-License-Identifier: MIT */
/* Values on a circle, such as degrees of a compass. */
#include <ficklegate/smooth.h>

/* The shorter way round, from -circle/2 up to below circle/2: of the two ways across, both half a circle long, it is
 * the negative one. 64 bits hold twice any difference of two values. */
int64_t fg_way(fg_value from, fg_value to, fg_value circle)
{
    int64_t way = (int64_t)to - from;
    if (!circle) return way;
    if (way * 2 >= circle) way -= circle;
    if (way * 2 < -(int64_t)circle) way += circle;
    return way;
}

/* The rest of C has the sign of the dividend, so a negative one is lifted by one circle. */
fg_value fg_wrap(int64_t value, fg_value circle)
{
    int64_t rest = value % circle;
    return (fg_value)(rest < 0 ? rest + circle : rest);
}
