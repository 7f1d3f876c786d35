/* Values on a circle, such as degrees of a compass. */
#include <ficklegate/smooth.h>

int64_t fg_way(fg_value from, fg_value to, fg_value circle)
{
    int64_t way = (int64_t)to - from;
    if (!circle) return way;
    if (way * 2 >= circle) way -= circle;
    if (way * 2 < -(int64_t)circle) way += circle;
    return way;
}

fg_value fg_wrap(int64_t value, fg_value circle)
{
    int64_t rest = value % circle;
    return (fg_value)(rest < 0 ? rest + circle : rest);
}
