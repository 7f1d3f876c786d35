/* SPDX-License-Identifier: MIT */
/* make_recording > spring-tide.csv: ten minutes of Pebble Quay, made up. Whole numbers only, so it prints the same
 * bytes on every machine.
 *
 * The tide rises from low to high water and falls again, with ripples of a centimetre around every limit. The bilge
 * fills and is pumped out. The wind has one gust of a second, one of twenty, and a while close to the limit of a gale.
 * The vane turns slowly through north and back. Two readings are bad: an echo that shows the pipe's whole length, and a
 * wind gauge that answers with a word. Every five seconds somebody writes down what the tide looks like. */
#include <inttypes.h>
#include <stddef.h>
#include <stdint.h>
#include <stdio.h>

enum { ROWS = 6000, STEP_MS = 100 };

/* A small generator of noise: xorshift of 32 bits (Marsaglia, 2003). */
static int32_t noise(uint32_t *state, int32_t most)
{
    *state ^= *state << 13;
    *state ^= *state >> 17;
    *state ^= *state << 5;
    return (int32_t)(*state % (uint32_t)(2 * most + 1)) - most;
}

/* A round wave: -size at 0, +size half a period later; two parabolas. */
static int64_t wave(int64_t at, int64_t period, int64_t size)
{
    const int64_t half = period / 2, t = at % period;
    const int64_t u = t < half ? t : t - half;          /* 0 .. half */
    const int64_t arc = 4 * u * (half - u);             /* 0 .. half^2 */
    const int64_t shifted = arc * size / (half * half); /* 0 .. size */
    return t < half ? shifted : -shifted;
}

static int32_t wind_at(int32_t i, uint32_t *state)
{
    int32_t wind = 80 + (int32_t)wave(i, 1300, 12) + noise(state, 8);
    if (i >= 1500 && i < 1510) wind = 165 + noise(state, 5);  /* one second: not yet a gale */
    if (i >= 3000 && i < 3200) wind = 172 + noise(state, 12); /* twenty seconds */
    if (i >= 5600 && i < 5750) wind = 270 + noise(state, 15); /* a storm, at low water */
    if (i >= 4200 && i < 4300) wind = 140 + noise(state, 6);  /* around the limit */
    return wind;
}

/* Counts of the wind gauge's converter: 120 at rest, 400 at 12 m/s, 900 at 30 m/s. */
static int32_t wind_counts(int32_t tenths)
{
    return tenths <= 120 ? 120 + tenths * 280 / 120 : 400 + (tenths - 120) * 500 / 180;
}

/* The pontoon: still, a swell that rocks it, and a while in which it lies over to starboard. */
static void rock(int32_t i, uint32_t *state, int32_t *x, int32_t *y, int32_t *z)
{
    const int32_t swing = i >= 3300 && i < 3900 ? (int32_t)wave(i, 30, 420) : (int32_t)wave(i, 45, 20);
    *x = 35 + swing / 2 + noise(state, 6);
    *y = -20 + swing + (i >= 4500 && i < 4800 ? -(int32_t)wave(i - 4500, 600, 400) : 0) + noise(state, 6);
    *z = 1000 + swing + noise(state, 6);
}

/* When boats lie at the landing stage. */
static int boat_at(int32_t i)
{
    static const int32_t stays[][2] = {{1200, 1400}, {1500, 1900}, {2600, 2900}, {3300, 3400}, {5650, 5700}};
    for (size_t k = 0; k < sizeof stays / sizeof *stays; k++)
        if (i >= stays[k][0] && i < stays[k][1]) return 1;
    return 0;
}

/* What one sees of a depth in thousandths of a cm. */
static const char *seen(int64_t depth)
{
    return depth < 20000 ? "aground" : depth < 60000 ? "shallow" : depth < 140000 ? "fair" : "high";
}

int main(void)
{
    uint32_t state = 20261123;
    int32_t bilge = 6000, draining = 0; /* thousandths of a cm */
    puts("# Pebble Quay, a made-up spring tide: depth and wind in counts of their converters, all else in its unit");
    puts("t_ms,depth.raw,bilge,wind.raw,vane,rock_x,rock_y,rock_z,key,ack,level,boat,tide_seen");
    for (int32_t i = 0; i < ROWS; i++) {
        const int64_t depth = 84000 + wave(i + 4500, ROWS, 76000) + noise(&state, 900); /* thousandths of a cm */
        int32_t counts = (int32_t)((depth * 1023 + 125000) / 250000), x, y, z;
        if (i == 2500) counts = 1023;
        bilge += draining ? -45 : 7;
        if (bilge < 4600) draining = 0;
        if (bilge > 12400) draining = 1;
        const int32_t level = bilge / 100 + noise(&state, 2);
        const int32_t wind = wind_at(i, &state);
        const int32_t vane = (int32_t)((wave(i, 5200, 70) + 350 + noise(&state, 3) + 360) % 360);
        rock(i, &state, &x, &y, &z);
        printf("%" PRId32 ",%" PRId32 ",", i * STEP_MS, counts);
        if (i == 4000)
            printf("nan,");
        else
            printf("%" PRId32 ".%" PRId32 ",", level / 10, level % 10);
        if (i == 2000)
            printf("error");
        else
            printf("%" PRId32, wind_counts(wind));
        /* The button bounces once; the pontoon is levelled at 5 s, its switch lost for two readings there. */
        const int ack = i == 705 || (i >= 707 && i < 715) || (i >= 5900 && i < 5905);
        printf(",%" PRId32 ",%" PRId32 ",", vane, x);
        if (i == 4650)
            printf("?");
        else
            printf("%" PRId32, y);
        printf(",%" PRId32 ",%d,%d,", z, i >= 700 && i < 5200, ack);
        if (i == 55 || i == 56)
            printf("lost");
        else
            printf("%d", i >= 50 && i < 60 ? 0 : 1);
        printf(",%d,%s\n", boat_at(i), i % 50 == 20 ? seen(84000 + wave(i + 4500, ROWS, 76000)) : "");
    }
    return ferror(stdout) || fflush(stdout) ? 1 : 0;
}
