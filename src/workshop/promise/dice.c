/* SPDX-License-Identifier: MIT */
/* Numbers by chance. */
#include "workshop/promise/ask.h"

/* SplitMix64 (Steele, Lea and Flood, Fast Splittable Pseudorandom Number Generators, 2014). Below `most`. */
uint32_t fg_dice_throw(fg_dice *d, uint32_t most)
{
    uint64_t z = d->state += UINT64_C(0x9e3779b97f4a7c15);
    z = (z ^ z >> 30) * UINT64_C(0xbf58476d1ce4e5b9);
    z = (z ^ z >> 27) * UINT64_C(0x94d049bb133111eb);
    return (uint32_t)((z ^ z >> 31) % most);
}
