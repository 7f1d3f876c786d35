/* SPDX-License-Identifier: MIT */
/* Makes the readings of the proofing box, the same on every machine: `look` (somebody watches the sensor and warms it
 * with a hand), `notes` (somebody writes down whether the dough wants heat), `evening` (an evening with an old
 * thermostat), `shelf` (three minutes of the shelf, as its converters count). */
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

static void print_reading(int32_t t_ms, int32_t hundredths)
{
    const int32_t tenths = (hundredths + 5) / 10;
    printf("%" PRId32 ",%" PRId32 ".%" PRId32, t_ms, tenths / 10, tenths % 10);
}

static void print_row(int32_t t_ms, int32_t hundredths)
{
    print_reading(t_ms, hundredths);
    putchar('\n');
}

/* A minute: 21 degrees in the room, then a hand around the sensor. */
static void look(uint32_t *state)
{
    int32_t box = 2130;
    puts("t_ms,box");
    for (int32_t i = 0; i <= 60; i++) {
        if (i >= 20 && i < 40)
            box += (3050 - box) / 12;
        else
            box += (2130 - box) / 15;
        print_row(i * 1000, box + noise(state, 15));
    }
}

/* Seven moments, each twenty seconds long: does the dough want heat? */
static void notes(uint32_t *state)
{
    static const int16_t moments[][2] = {{2210, 1}, {2860, 0}, {2440, 1}, {2735, 0}, {2560, 1}, {3010, 0}, {2595, 1}};
    puts("t_ms,box,heat");
    for (int32_t i = 0; i < 7 * 20; i++) {
        const int16_t *moment = moments[i / 20];
        print_reading(i * 1000, moment[0] + i % 20 + noise(state, 15));
        puts(moment[1] ? ",yes" : ",no");
    }
}

/* Forty minutes: it warms up, an old thermostat swings too far, somebody opens the lid, a reading is lost. */
static void evening(uint32_t *state)
{
    int32_t box = 2030, heat = 1;
    puts("t_ms,box");
    for (int32_t i = 0; i <= 1200; i++) {
        if (box > 2830) heat = 0;
        if (box < 2480) heat = 1;
        box += heat ? 4 : -3;
        if (i >= 760 && i < 800) box -= 12;
        if (i == 450 || i == 451)
            printf("%" PRId32 ",?\n", i * 2000);
        else
            print_row(i * 2000, box + noise(state, 15));
    }
}

/* Three minutes, every 100 ms: it warms up, the door is opened, it gets too warm and the fan cools it, the air gets
 * damp twice, and both wires come off for a moment. */
static void shelf(uint32_t *state)
{
    int32_t warmth = 2080, damp = 5500; /* hundredths of a degree, of a percent */
    puts("t_ms,warmth.raw,damp.raw,door");
    for (int32_t i = 0; i < 1800; i++) {
        const int door = (i >= 400 && i < 460) || (i >= 1200 && i < 1320);
        warmth += door ? (1900 - warmth) / 150 : i < 900 ? (3600 - warmth) / 320 : (2150 - warmth) / 260;
        damp += (i >= 500 && i < 800) || (i >= 1250 && i < 1500) ? (9300 - damp) / 60 : (5600 - damp) / 50;
        const int32_t warm_counts = ((warmth + noise(state, 10)) * 1023 + 3000) / 6000,
                      damp_counts = ((damp + noise(state, 40)) * 1023 + 5000) / 10000;
        printf("%" PRId32 ",%" PRId32 ",%" PRId32 ",%d\n", i * 100, i >= 1000 && i < 1040 ? 1023 : warm_counts,
               i >= 1400 && i < 1430 ? 1023 : damp_counts, door);
    }
}

int main(int argc, char **argv)
{
    uint32_t state = 20261123;
    const char *what = argc == 2 ? argv[1] : "";
    if (!strcmp(what, "look"))
        look(&state);
    else if (!strcmp(what, "notes"))
        notes(&state);
    else if (!strcmp(what, "evening"))
        evening(&state);
    else if (!strcmp(what, "shelf"))
        shelf(&state);
    else
        fputs("say which: look, notes, evening or shelf\n", stderr);
    return ferror(stdout) || fflush(stdout) || !*what ? 1 : 0;
}
