/* SPDX-License-Identifier: MIT-0 OR MIT */
/* Parts of baked gates: answers and time. Each part is copied into a baked file where it is called; `fg_` becomes the
 * gate's own name. */

/* Yes where a no has turned into a yes; what is unsure in between does not count. */
static uint8_t starts(uint8_t *last, uint8_t answer)
{
    const uint8_t before = *last;
    if (answer == UNSURE) return UNSURE;
    *last = answer;
    return answer == YES && before == NO ? YES : NO;
}

/* Yes where a yes has turned into a no; what is unsure in between does not count. */
static uint8_t ends(uint8_t *last, uint8_t answer)
{
    const uint8_t before = *last;
    if (answer == UNSURE) return UNSURE;
    *last = answer;
    return answer == NO && before == YES ? YES : NO;
}

/* Yes once the answer has been yes without a break for `time` ms. `*waited`: 0, or 1 more than the ms since then. */
static uint8_t lasts(uint16_t *waited, uint8_t answer, uint16_t passed, uint16_t time)
{
    if (answer != YES) {
        *waited = 0;
        return answer;
    }
    if (*waited == 0)
        *waited = 1;
    else if (*waited <= time)
        *waited = (uint16_t)(*waited + passed);
    return *waited > time ? YES : NO;
}

/* Yes once the answer has been yes without a break for `time` ms. `*waited`: 0, or 1 more than the ms since then. */
static uint8_t lasts_long(uint32_t *waited, uint8_t answer, uint32_t gone, uint32_t time)
{
    if (answer != YES) {
        *waited = 0;
        return answer;
    }
    if (*waited == 0)
        *waited = 1;
    else if (*waited <= time)
        *waited += gone;
    return *waited > time ? YES : NO;
}

/* Another answer than the present one is believed once it has come out at every step for `time` ms (above 0). Of the
 * present one time runs too, to no effect. */
static void settle(fg_settling *rule, uint8_t came, uint16_t passed, uint16_t time)
{
    const bool other = came != rule->next;
    if (other || rule->left > passed) {
        rule->left = other ? time : (uint16_t)(rule->left - passed);
        rule->next = came;
        if (came != UNSURE) return;
    }
    rule->is = came;
}

/* The same for longer times. */
static void settle_long(fg_settling_long *rule, uint8_t came, uint32_t gone, uint32_t time)
{
    const bool other = came != rule->next;
    if (other || rule->left > gone) {
        rule->left = other ? time : rule->left - gone;
        rule->next = came;
        if (came != UNSURE) return;
    }
    rule->is = came;
}

/* The same while the reading stays within a distance of its value at the first step of the wait, else the wait begins
 * again. */
static void settle_within(fg_settling_within *rule, uint8_t came, uint32_t gone, uint32_t time, int32_t reading,
                          int32_t distance, int32_t circle)
{
    if (came == rule->is || came == UNSURE) {
        rule->is = rule->next = came;
        return;
    }
    const int32_t moved = way_32(rule->began, reading, circle);
    if (came != rule->next || moved > distance || -moved > distance) {
        rule->next = came;
        rule->waited = 0;
        rule->began = reading;
    } else {
        rule->waited += gone;
    }
    if (rule->waited >= time) rule->is = came;
}

/* The same for readings of 2^29 steps and more. */
static void settle_within_long(fg_settling_within *rule, uint8_t came, uint32_t gone, uint32_t time, int32_t reading,
                               int32_t distance, int32_t circle)
{
    if (came == rule->is || came == UNSURE) {
        rule->is = rule->next = came;
        return;
    }
    const int64_t moved = way(rule->began, reading, circle);
    if (came != rule->next || moved > distance || -moved > distance) {
        rule->next = came;
        rule->waited = 0;
        rule->began = reading;
    } else {
        rule->waited += gone;
    }
    if (rule->waited >= time) rule->is = came;
}

/* When a reading was taken: one that is stamped after the step is new, and a clock that goes back ages none. */
static void stamp(uint32_t *at, bool *fresh, uint32_t now, uint32_t back)
{
    if (!*fresh)
        *at -= back;
    else if ((uint32_t)(now - *at) >= 0x80000000u)
        *at = now;
    *fresh = false;
}

/* A clock that goes back takes the times of a window with it. */
static void turn_back(uint32_t *times, uint8_t count, uint32_t back)
{
    for (uint8_t i = 0; back && i < count; i++) times[i] -= back;
}
