/* SPDX-License-Identifier: MIT-0 OR MIT */
/* Parts of baked gates: whole numbers, and windows of the last readings. */

/* The shortest way from one value to another on a circle, half a turn as negative; 0: no circle. */
static int64_t way(int32_t from, int32_t to, int32_t circle)
{
    int64_t distance = (int64_t)to - from;
    if (circle == 0) return distance;
    if (distance * 2 >= circle) distance -= circle;
    if (distance * 2 < -(int64_t)circle) distance += circle;
    return distance;
}

/* The same for values below 2^29 with either sign. */
static int32_t way_32(int32_t from, int32_t to, int32_t circle)
{
    int32_t distance = to - from;
    if (circle == 0) return distance;
    if (distance * 2 >= circle) distance -= circle;
    if (distance * 2 < -circle) distance += circle;
    return distance;
}

/* A value on a circle. */
static int32_t wrapped_32(int32_t value, int32_t circle)
{
    const int32_t rest = value % circle;
    return rest < 0 ? rest + circle : rest;
}

/* A value on a circle. */
static int32_t wrapped(int64_t value, int32_t circle)
{
    const int64_t rest = value % circle;
    return (int32_t)(rest < 0 ? rest + circle : rest);
}

/* a / by to the nearest, halves away from zero; `by` above 0. */
static int32_t rounded_32(int32_t a, int32_t by)
{
    const int32_t whole = a / by, rest = a % by;
    if (rest < 0) return whole - (-rest >= by + rest);
    return whole + (rest >= by - rest);
}

static int16_t lower_16(int16_t a, int16_t b) { return a < b ? a : b; }

static int16_t higher_16(int16_t a, int16_t b) { return a > b ? a : b; }

static int16_t magnitude_16(int16_t a) { return (int16_t)(a < 0 ? -a : a); }

static int32_t lower_32(int32_t a, int32_t b) { return a < b ? a : b; }

static int32_t higher_32(int32_t a, int32_t b) { return a > b ? a : b; }

static int32_t magnitude_32(int32_t a) { return a < 0 ? -a : a; }

/* Puts a value into a ring in place of the oldest. */
static void ring_put(int32_t *ring, fg_ring *r, uint8_t size, int32_t value)
{
    ring[r->head] = value;
    r->head = (uint8_t)(r->head + 1 < size ? r->head + 1 : 0);
    if (r->count < size) r->count++;
}

/* Puts a value into a ring in place of the oldest. */
static void ring_put_16(int16_t *ring, fg_ring *r, uint8_t size, int16_t value)
{
    ring[r->head] = value;
    r->head = (uint8_t)(r->head + 1 < size ? r->head + 1 : 0);
    if (r->count < size) r->count++;
}

/* From the oldest time in a ring to the newest; 2^31 where it is that long or longer. As long as no two steps were far
 * apart (2^25 ms) the difference says so; `far`: for how many steps more that is not sure. */
static uint32_t ring_took(const uint32_t *times, const fg_ring *r, uint8_t size, uint8_t *far)
{
    const uint8_t newest = (uint8_t)(r->head ? r->head - 1 : size - 1), oldest = r->count < size ? 0 : r->head;
    const uint8_t before = (uint8_t)(newest ? newest - 1 : size - 1);
    uint32_t took = 0;
    if (r->count > 1 && times[newest] - times[before] >= 0x2000000u)
        *far = size;
    else if (*far)
        --*far;
    if (!*far) return times[newest] - times[oldest];
    for (uint8_t i = oldest; i != newest && took < 0x80000000u;) {
        const uint8_t next = (uint8_t)(i + 1 < size ? i + 1 : 0);
        const uint32_t step = times[next] - times[i];
        took = step < 0x80000000u ? took + step : 0x80000000u;
        i = next;
    }
    return took;
}

/* The median of the last `size` values, of an even number the lower of the two in the middle. */
static int32_t median(int32_t *ring, int32_t *sorted, fg_ring *r, uint8_t size, int32_t value)
{
    uint8_t at = r->count;
    if (r->count == size) { /* the oldest gives way */
        const int32_t oldest = ring[r->head];
        at = 0;
        while (at + 1 < size && sorted[at] < oldest) at++;
        for (; at + 1 < size && sorted[at + 1] < value; at++) sorted[at] = sorted[at + 1];
    }
    for (; at > 0 && sorted[at - 1] > value; at--) sorted[at] = sorted[at - 1];
    sorted[at] = value;
    ring_put(ring, r, size, value);
    return sorted[(r->count - 1) / 2];
}

/* The median of the last `size` values, of an even number the lower of the two in the middle. */
static int16_t median_16(int16_t *ring, int16_t *sorted, fg_ring *r, uint8_t size, int16_t value)
{
    uint8_t at = r->count;
    if (r->count == size) { /* the oldest gives way */
        const int16_t oldest = ring[r->head];
        at = 0;
        while (at + 1 < size && sorted[at] < oldest) at++;
        for (; at + 1 < size && sorted[at + 1] < value; at++) sorted[at] = sorted[at + 1];
    }
    for (; at > 0 && sorted[at - 1] > value; at--) sorted[at] = sorted[at - 1];
    sorted[at] = value;
    ring_put_16(ring, r, size, value);
    return sorted[(r->count - 1) / 2];
}

/* The mean of the last `size` values. */
static int32_t mean(int32_t *ring, fg_ring *r, uint8_t size, int32_t value)
{
    int64_t sum = 0;
    ring_put(ring, r, size, value);
    for (uint8_t i = 0; i < r->count; i++) sum += ring[i];
    return (int32_t)fg_rounded(sum, r->count);
}

/* The mean of the last `size` values. */
static int16_t mean_16(int16_t *ring, fg_ring *r, uint8_t size, int16_t value)
{
    int32_t sum = 0;
    ring_put_16(ring, r, size, value);
    for (uint8_t i = 0; i < r->count; i++) sum += ring[i];
    return (int16_t)rounded_32(sum, r->count);
}

/* The median on a circle: of the shortest ways from the newest, added to the newest. `sorted`: room for `size`. */
static int32_t circle_median(int32_t *ring, fg_ring *r, uint8_t size, int32_t circle, int32_t value, int32_t *sorted)
{
    ring_put(ring, r, size, value);
    for (uint8_t i = 0; i < r->count; i++) {
        const int32_t distance = way_32(value, ring[i], circle);
        uint8_t at = i;
        for (; at > 0 && sorted[at - 1] > distance; at--) sorted[at] = sorted[at - 1];
        sorted[at] = distance;
    }
    return wrapped_32(value + sorted[(r->count - 1) / 2], circle);
}

/* The mean on a circle: of the shortest ways from the newest, added to the newest. */
static int32_t circle_mean(int32_t *ring, fg_ring *r, uint8_t size, int32_t circle, int32_t value)
{
    int64_t sum = 0;
    ring_put(ring, r, size, value);
    for (uint8_t i = 0; i < r->count; i++) sum += way_32(value, ring[i], circle);
    return wrapped_32(value + (int32_t)fg_rounded(sum, r->count), circle);
}

/* The same for circles of 2^29 steps and more: of the shortest ways from the newest, added to the newest. `sorted`:
 * room for `size`. */
static int32_t circle_median_long(int32_t *ring, fg_ring *r, uint8_t size, int32_t circle, int32_t value,
                                  int32_t *sorted)
{
    ring_put(ring, r, size, value);
    for (uint8_t i = 0; i < r->count; i++) {
        const int32_t distance = (int32_t)way(value, ring[i], circle);
        uint8_t at = i;
        for (; at > 0 && sorted[at - 1] > distance; at--) sorted[at] = sorted[at - 1];
        sorted[at] = distance;
    }
    return wrapped((int64_t)value + sorted[(r->count - 1) / 2], circle);
}

/* The same for circles of 2^29 steps and more: of the shortest ways from the newest, added to the newest. */
static int32_t circle_mean_long(int32_t *ring, fg_ring *r, uint8_t size, int32_t circle, int32_t value)
{
    int64_t sum = 0;
    ring_put(ring, r, size, value);
    for (uint8_t i = 0; i < r->count; i++) sum += way(value, ring[i], circle);
    return wrapped((int64_t)value + fg_rounded(sum, r->count), circle);
}

/* The lowest value in a ring; it holds at least one. */
static int32_t lowest_of(const int32_t *ring, uint8_t count)
{
    int32_t best = ring[0];
    for (uint8_t i = 1; i < count; i++)
        if (ring[i] < best) best = ring[i];
    return best;
}

/* The highest value in a ring; it holds at least one. */
static int32_t highest_of(const int32_t *ring, uint8_t count)
{
    int32_t best = ring[0];
    for (uint8_t i = 1; i < count; i++)
        if (ring[i] > best) best = ring[i];
    return best;
}

/* The lowest value in a ring; it holds at least one. */
static int16_t lowest_of_16(const int16_t *ring, uint8_t count)
{
    int16_t best = ring[0];
    for (uint8_t i = 1; i < count; i++)
        if (ring[i] < best) best = ring[i];
    return best;
}

/* The highest value in a ring; it holds at least one. */
static int16_t highest_of_16(const int16_t *ring, uint8_t count)
{
    int16_t best = ring[0];
    for (uint8_t i = 1; i < count; i++)
        if (ring[i] > best) best = ring[i];
    return best;
}
