/* SPDX-License-Identifier: MIT */
/* gen ROWS SEED > rec.csv
 *
 * Makes up readings of a model harbour, one row every 100 ms. Whole numbers throughout, so the same ROWS and SEED
 * give the same bytes on every machine. Every row is complete and every cell is a number.
 */
#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>

static uint64_t state;

static uint32_t random16(void)
{
    state ^= state >> 12;
    state ^= state << 25;
    state ^= state >> 27;
    return (uint32_t)((state * 0x2545F4914F6CDD1DULL) >> 48);
}

/* Roughly normal, mean 0, with this standard deviation. */
static int64_t noise(int64_t deviation)
{
    int64_t sum = 0;
    for (int i = 0; i < 6; i++) sum += random16();
    return (sum - 6 * 32768) * deviation / 46341;
}

/* A round wave from -height to +height, one turn every `period` rows. */
static int64_t wave(int64_t row, int64_t period, int64_t height)
{
    int64_t phase = row % period * 65536 / period;
    int64_t half = phase & 0x7fff;
    int64_t arch = half * (0x8000 - half) >> 13;
    return (phase & 0x8000 ? -arch : arch) * height / 32768;
}

static int64_t at_least_zero(int64_t v) { return v < 0 ? 0 : v; }

/* Thousandths to tenths, for a value that is not negative. */
static int64_t tenths(int64_t v) { return (at_least_zero(v) + 50) / 100; }

int main(int argc, char **argv)
{
    if (argc != 3) {
        fputs("usage: gen ROWS SEED > rec.csv\n", stderr);
        return 2;
    }
    int64_t rows = atoll(argv[1]);
    state = (uint64_t)atoll(argv[2]) * 0x9E3779B97F4A7C15ULL + 0xD1B54A32D192ED03ULL;
    if (!state) state = 1;

    int64_t level = 6000; /* bilge, thousandths of a cm */
    int64_t gust = 0;     /* thousandths of a m/s */
    int draining = 0, key = 0;
    int64_t vane = 200, key_left = 500;

    puts("t_ms,depth,bilge,wind,vane,rock_x,rock_y,rock_z,key");
    for (int64_t i = 0; i < rows; i++) {
        int64_t depth = 105000 + wave(i, 15013, 100000) + wave(i, 6113, 12000) + wave(i, 63, 3000) + noise(1500);

        level += draining ? -40 : 6;
        if (level < 4600) draining = 0;
        if (level > 12300) draining = 1;
        int64_t bilge = level + noise(200);

        gust = gust * 98 / 100 + noise(250);
        int64_t wind = 9000 + wave(i, 7001, 5000) + gust + noise(800);

        vane = (vane + random16() % 5 + 358) % 360;

        int64_t rocking = 36 + wave(i, 3001, 30);
        int64_t x = noise(rocking) + wave(i, 41, 40);
        int64_t y = noise(rocking);
        int64_t z = 1000 + noise(rocking * 6 / 5);

        if (--key_left <= 0) {
            key = !key;
            key_left = 200 + random16() % 4000;
        }
        int64_t d = tenths(depth), b = tenths(bilge), w = tenths(wind);
        printf("%" PRId64 ",%" PRId64 ".%" PRId64 ",%" PRId64 ".%" PRId64 ",%" PRId64 ".%" PRId64 ",%" PRId64
               ",%" PRId64 ",%" PRId64 ",%" PRId64 ",%d\n",
               i * 100, d / 10, d % 10, b / 10, b % 10, w / 10, w % 10, vane, x, y, z, key);
    }
    return ferror(stdout) || fflush(stdout) ? 1 : 0;
}
