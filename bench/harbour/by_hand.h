/* SPDX-License-Identifier: MIT */
/* The harbour of examples/harbour as a careful engineer writes it without a gate language: what goes in, what comes
 * out. */
#ifndef BY_HAND_H
#define BY_HAND_H

#include <stdbool.h>
#include <stdint.h>

typedef int32_t answer;
enum { UNSURE, NO, YES };

enum { DEPTH, BILGE, WIND, VANE, ROCK_X, ROCK_Y, ROCK_Z, READ_SENSORS };
enum { KEY, ACK, LEVEL, BOAT, FLAGS };

/* One row: depth and wind in counts, bilge in tenths, the rest in whole units. */
typedef struct {
    uint32_t now;
    int32_t value[READ_SENSORS];
    bool bad[READ_SENSORS];
    uint8_t flag[FLAGS]; /* YES, NO; UNSURE where it cannot be read */
} harbour_row;

/* In the order of declaration: what the replay reports. */
enum {
    IS_DEPTH,
    IS_BILGE,
    IS_WIND,
    IS_VANE,
    IS_ROCK_X,
    IS_ROCK_Y,
    IS_ROCK_Z,
    IS_ROCKING,
    IS_HEEL,
    IS_RISING,
    IS_CREST,
    IS_KEY,
    IS_ACK,
    IS_LEVEL,
    IS_BOAT,
    IS_TIDE,
    IS_WIND_FROM,
    IS_LIST,
    IS_GALE,
    IS_SWELL,
    IS_PUMPING,
    IS_ROUGH,
    IS_STORM,
    IS_MAY_LAND,
    IS_BLIND,
    IS_BUSY,
    IS_FLOODING,
    IS_TURNED,
    IS_WAITING,
    IS_DONE,
    IS_ALARM,
    IS_LANDINGS,
    IS_GREETING,
    IS_GREEN,
    IS_RED,
    IS_BEACON,
    IS_BOOM,
    IS_HORN,
    IS_PUMP,
    IS_WINCH,
    IS_FLAGSTAFF,
    IS_GAUGE,
    IS_BOARD,
    HARBOUR_NAMES
};

/* Sensors: YES is ok, NO is faulty. Bands: 0 is unsure, then the labels. Levels: see the LEVEL_ codes. A display counts
 * up when its text changes. */
typedef struct {
    int32_t is[HARBOUR_NAMES];
    char board[2][32]; /* 20 columns of them are shown */
    uint8_t board_lines;
} harbour_answers;

enum { AGROUND = 1, SHALLOW, FAIR, HIGH };
enum { ONSHORE = 1, ALONG, OFFSHORE };
enum { PORT = 1, STARBOARD, UPRIGHT };

/* Lamps: strength in % and which colour. */
enum { LAMP_AMBER = 1000, LAMP_RED = 2000, LAMP_FF8000 = 3000 };
/* Horn: Hz, and half strength. */
enum { HORN_HALF = 100000 };
/* Gauge: lights filled, or the one that is lit. */
enum { GAUGE_LIGHT = 1000 };

void harbour_start(void);
void harbour_step(const harbour_row *row, harbour_answers *answers);

#endif
