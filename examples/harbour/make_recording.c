/* make_recording > spring-tide.csv: ten minutes of Pebble Quay, made up. Whole numbers only, so it prints the same
 * bytes on every machine.
 *
 * The tide rises from low to high water and falls again, with ripples of a centimetre around every limit. The bilge
 * fills and is pumped out. The wind has one gust of a second, one of twenty, and a while close to the limit of a gale.
 * The vane turns slowly through north and back. Two readings are bad: an echo that shows the pipe's whole length, and a
 * wind gauge that answers with a word. */
#include <inttypes.h>
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
    if (i >= 4200 && i < 4300) wind = 140 + noise(state, 6);  /* around the limit */
    return wind;
}

int main(void)
{
    uint32_t state = 20261123;
    int32_t bilge = 6000, draining = 0; /* thousandths of a cm */
    puts("# Pebble Quay, a made-up spring tide: depth in counts of the echo's converter, all else in its unit");
    puts("t_ms,depth.raw,bilge,wind,vane,key");
    for (int32_t i = 0; i < ROWS; i++) {
        const int64_t depth = 84000 + wave(i + 4500, ROWS, 76000) + noise(&state, 900); /* thousandths of a cm */
        int32_t counts = (int32_t)((depth * 1023 + 125000) / 250000);
        if (i == 2500) counts = 1023;
        bilge += draining ? -45 : 7;
        if (bilge < 4600) draining = 0;
        if (bilge > 12400) draining = 1;
        const int32_t level = bilge / 100 + noise(&state, 2);
        const int32_t wind = wind_at(i, &state);
        const int32_t vane = (int32_t)((wave(i, 5200, 70) + 350 + noise(&state, 3) + 360) % 360);
        const int key = i >= 700 && i < 5200;
        printf("%" PRId32 ",%" PRId32 ",%" PRId32 ".%" PRId32 ",", i * STEP_MS, counts, level / 10, level % 10);
        if (i == 2000)
            printf("error");
        else
            printf("%" PRId32 ".%" PRId32, wind / 10, wind % 10);
        printf(",%" PRId32 ",%d\n", vane, key);
    }
    return ferror(stdout) || fflush(stdout) ? 1 : 0;
}
