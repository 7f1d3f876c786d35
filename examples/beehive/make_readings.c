/* SPDX-License-Identifier: MIT */
/* Makes the readings of the beehive, the same on every machine: `weighings` (the keeper looked in and wrote down what
 * the stores were like) and `season` (a season in ten minutes, with what the keeper saw now and then). */
#include <inttypes.h>
#include <stdint.h>
#include <stdio.h>
#include <string.h>

/* A linear congruential generator (Knuth, The Art of Computer Programming, volume 2, table 1 in 3.3.4); the sum of
 * three of its numbers is roughly normal. */
static int32_t noise(uint32_t *state, int32_t spread)
{
    int32_t sum = 0;
    for (int i = 0; i < 3; i++) {
        *state = *state * 1664525u + 1013904223u;
        sum += (int32_t)(*state >> 16) % (2 * spread + 1) - spread;
    }
    return sum / 2;
}

/* Grams as tens of grams behind a point. */
static void print_row(int32_t t_ms, int32_t grams, const char *seen)
{
    const int32_t hundredths = (grams + 5) / 10;
    printf("%" PRId32 ",%" PRId32 ".%02" PRId32 ",%s\n", t_ms, hundredths / 100, hundredths % 100, seen);
}

/* Twelve weighings of forty readings. The scale creeps while the load sits on it, and wind shakes the hive. */
static void weighings(uint32_t *state)
{
    static const struct {
        int32_t grams;
        const char *seen;
    } list[] = {{13200, "hungry"}, {22400, "enough"}, {33800, "full"},   {15900, "hungry"},
                {27300, "enough"}, {41000, "full"},   {17700, "hungry"}, {20900, "enough"},
                {35600, "full"},   {11400, "hungry"}, {29600, "enough"}, {38200, "full"}};
    puts("t_ms,weight,seen");
    for (int32_t i = 0; i < 12 * 40; i++)
        print_row(i * 500, list[i / 40].grams + i % 40 * 9 + noise(state, 420), list[i / 40].seen);
}

/* Up through spring and down through winter; a word of the keeper every ten seconds. */
static void season(uint32_t *state)
{
    puts("t_ms,weight,seen");
    for (int32_t i = 0; i <= 1200; i++) {
        const int32_t grams = i < 700 ? 12000 + i * 40 : 40000 - (i - 700) * 52;
        const char *seen = grams < 19300 ? "hungry" : grams < 31700 ? "enough" : "full";
        print_row(i * 500, grams + noise(state, 420), i % 20 == 10 ? seen : "");
    }
}

int main(int argc, char **argv)
{
    uint32_t state = 20261123;
    const char *what = argc == 2 ? argv[1] : "";
    if (!strcmp(what, "weighings"))
        weighings(&state);
    else if (!strcmp(what, "season"))
        season(&state);
    else
        fputs("say which: weighings or season\n", stderr);
    return ferror(stdout) || fflush(stdout) || !*what ? 1 : 0;
}
