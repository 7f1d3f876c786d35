/* SPDX-License-Identifier: MIT */
/* host readings | lines | hash: the same readings on this computer.
 *   readings  the recording, to replay board.gate on
 *   lines     t_ms,name,was,is as a replay prints them
 *   hash      of all answers, to compare with the board's
 */
#include <stdio.h>
#include <string.h>
#include "board.h"

typedef struct {
    int depth, bilge, wind, rocking, key;
} reading;
#define READINGS_ARE static const reading readings[READINGS]
#include "readings.h"

static const char *const names[BOARD_ANSWERS] = {"tide",  "breeze",   "pumping", "rough", "gale", "may_land",
                                                 "alarm", "landings", "green",   "pump",  "horn", "flagstaff"};

static const char *in_words(int which, uint8_t v, char *text, size_t size)
{
    static const char *const tides[] = {"aground", "shallow", "fair", "high", "flood"};
    static const char *const breezes[] = {"calm", "light", "fresh", "strong", "storm"};
    if (which == ANSWER_LANDINGS)
        snprintf(text, size, "%d", v);
    else if (which == ANSWER_FLAGSTAFF)
        snprintf(text, size, "%d deg", v);
    else if (which == ANSWER_GREEN && v > 0 && v < 100)
        snprintf(text, size, "on %d%%", v);
    else if (which == ANSWER_GREEN)
        return v ? "on" : "off";
    else if (which == ANSWER_PUMP && v)
        snprintf(text, size, "forward %d%%", v);
    else if (which == ANSWER_PUMP)
        return "stop";
    else if (which == ANSWER_HORN && v)
        snprintf(text, size, "%d0Hz", v);
    else if (which == ANSWER_HORN)
        return "quiet";
    else if (v == BOARD_UNSURE)
        return "unsure";
    else if (which == ANSWER_TIDE && v < 5)
        return tides[v];
    else if (which == ANSWER_BREEZE && v < 5)
        return breezes[v];
    else
        return v ? "yes" : "no";
    return text;
}

int main(int argc, char **argv)
{
    const char *what = argc == 2 ? argv[1] : "";
    uint8_t was[BOARD_ANSWERS], is[BOARD_ANSWERS];
    uint32_t hash = 2166136261u;
    int lines = strcmp(what, "lines") == 0;

    if (strcmp(what, "readings") == 0) {
        puts("t_ms,depth,bilge,wind,rocking,key");
        for (int i = 0; i < READINGS; i++) {
            reading r = readings[i];
            printf("%d,%d.%d,%d.%d,%d.%d,%d,%d\n", i * READINGS_EVERY_MS, r.depth / 10, r.depth % 10, r.bilge / 10,
                   r.bilge % 10, r.wind / 10, r.wind % 10, r.rocking, r.key);
        }
        return 0;
    }
    if (!lines && strcmp(what, "hash")) {
        fputs("usage: host readings | lines | hash\n", stderr);
        return 2;
    }
    if (lines) puts("t_ms,name,was,is");
    board_start();
    for (int i = 0; i < READINGS; i++) {
        reading r = readings[i];
        board_readings now = {(uint32_t)(i * READINGS_EVERY_MS),
                              (int16_t)r.depth,
                              (int16_t)r.bilge,
                              (int16_t)r.wind,
                              (int16_t)r.rocking,
                              (uint8_t)r.key};
        board_step(&now);
        board_answers(is);
        for (int k = 0; k < BOARD_ANSWERS; k++) hash = (hash ^ is[k]) * 16777619u;
        if (lines) {
            const char *const sensors[] = {"depth", "bilge", "wind", "rocking"};
            for (int k = 0; i == 0 && k < 4; k++) printf("0,%s,,ok\n", sensors[k]);
            if (i == 0 || r.key != readings[i - 1].key)
                printf("%d,key,%s,%s\n", i * READINGS_EVERY_MS,
                       i == 0  ? ""
                       : r.key ? "no"
                               : "yes",
                       r.key ? "yes" : "no");
            for (int k = 0; k < BOARD_ANSWERS; k++) {
                char a[24], b[24];
                if (i == 0 || was[k] != is[k])
                    printf("%d,%s,%s,%s\n", i * READINGS_EVERY_MS, names[k],
                           i == 0 ? "" : in_words(k, was[k], a, sizeof a), in_words(k, is[k], b, sizeof b));
            }
            memcpy(was, is, sizeof was);
        }
    }
    if (!lines) printf("%08x\n", (unsigned)hash);
    return 0;
}
