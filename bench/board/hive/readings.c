/* SPDX-License-Identifier: MIT */
/* Made-up readings, the same at every run: the weight of the hive walks over each of its limits, dwells there on, one
 * below and one above it, and the two scales share it evenly, or lean to one side up to, on and beyond the limits of
 * lean. The lid is opened now and then, also while the hive is too heavy and shortly before it becomes so. */
#include "board.h"

#define TABLE static const int16_t
#ifdef __AVR__
#include <avr/pgmspace.h>
#define AT(table, i) ((int16_t)pgm_read_word(&(table)[i]))
#define IN_FLASH     PROGMEM
#else
#define AT(table, i) ((table)[i])
#define IN_FLASH
#endif

/* Tenths of a kilogram behind the tare, for a second each; 0.1 is added and taken away within it. */
TABLE weights[] IN_FLASH = {0,   50,  95,  100, 105, 104, 99,  250, 254, 255, 249, 245, 244, 600,
                            604, 605, 599, 595, 594, 700, 749, 750, 750, 751, 700, 750, 760, 750,
                            740, 750, 800, 801, 799, 790, 400, 400, 30,  -50, 0,   320};
/* How much the left scale has more. Both have whole tenths, so an odd difference is left to the other. */
TABLE leans[] IN_FLASH = {0, 20, 49, 50, 51, 80, 81, 79, 60, 50, 49, 82, -81, -80, -50, -49, -40};

enum { WEIGHTS = sizeof weights / sizeof *weights, LEANS = sizeof leans / sizeof *leans };

void board_read(uint16_t i, board_readings *now)
{
    static const int8_t shift[5] = {0, 1, -1, 0, 0};
    const int16_t all = (int16_t)(AT(weights, i / 20 % WEIGHTS) + 120 + shift[i / 4 % 5]);
    const int16_t lean = AT(leans, i / 13 % LEANS), odd = (int16_t)((all + lean) & 1);
    now->now_ms = (uint32_t)i * 50;
    now->left = (int16_t)((all + lean + odd) / 2);
    now->right = (int16_t)(all - now->left);
    if (now->left < 0) now->left = 0;
    if (now->right < 0) now->right = 0;
    now->lid = i % 97 < 6 || i % 131 == 7 || (i > 600 && i % 53 > 40);
}
