/* SPDX-License-Identifier: MIT */
/* A few bytes that outlive a loss of power, in the EEPROM of an AVR: what NAME_save writes.
 *
 * A cell of EEPROM is good for 100,000 writes, and a write takes 3.4 ms, in which the power may go. So the bytes go to
 * a ring of slots, one after the other, and a slot counts only when it is whole: until then the one before counts. With
 * 51 slots of 20 bytes a count may change five million times. Nothing waits: fg_avr_kept_work writes a byte when the
 * EEPROM is ready, and only if it differs from what is there.
 *
 *     static uint8_t bytes[SCALE_SAVED];
 *     static fg_avr_kept kept = FG_AVR_KEPT(0, 1024, bytes);
 *
 *     while (fg_avr_kept_read(&kept) && !scale_restore(&gate, bytes)) continue; // the newest that is whole, if there
 * is one for (;;) { if (fg_avr_kept_work(&kept) || !fg_avr_due(SCALE_EVERY_MS)) continue;
 *         ...
 *         scale_step(&gate, now);
 *         if (fg_avr_kept_may_save(&kept)) {
 *             scale_save(&gate, bytes);
 *             fg_avr_kept_save(&kept);
 *         }
 *     }
 */
#ifndef FG_AVR_KEPT_H
#define FG_AVR_KEPT_H

#include <stdbool.h>
#include <stdint.h>

/* Behind the bytes of a slot stand its number and the complement of it: the number is one more than in the slot that
 * was written before, modulo 256. */
enum { FG_AVR_KEPT_TAIL = 2 };

/* Its members are its own. `at`: the first byte of the EEPROM that it may use, `room`: how many, for 2 to 100 slots.
 * `bytes`: `size` of them, 1 to 100, to be read and saved. */
typedef struct fg_avr_kept {
    uint16_t at;
    uint8_t slots, size;
    uint8_t *bytes;
    uint8_t slot, number; /* of the newest; the next one is written behind it */
    uint8_t tried;        /* how many were given back */
    uint8_t written;      /* bytes of the slot that is written; above size + 1: none is */
    bool known;           /* the newest was looked for */
} fg_avr_kept;

#define FG_AVR_KEPT_SLOTS(room, size)                                                                                  \
    ((room) / ((size) + FG_AVR_KEPT_TAIL) > 100 ? 100 : (room) / ((size) + FG_AVR_KEPT_TAIL))

/* A constant: this part of the EEPROM for this array of bytes. */
#define FG_AVR_KEPT(at, room, bytes)                                                                                   \
    {                                                                                                                  \
        (at), FG_AVR_KEPT_SLOTS(room, sizeof(bytes)), sizeof(bytes), (bytes), 0, 0, 0, 255, false                      \
    }

/* Reads what was saved, the newest first, then with each call the one before. False if there is no more. Whether the
 * bytes are whole says NAME_restore. */
bool fg_avr_kept_read(fg_avr_kept *kept);

/* Is the last save through? Until then the bytes must stay as they are. */
bool fg_avr_kept_may_save(const fg_avr_kept *kept);

/* Saves the bytes, unless they are those that were saved last: fg_avr_kept_work writes them. */
void fg_avr_kept_save(fg_avr_kept *kept);

/* Writes the next byte if the EEPROM is ready. True while there is more to write. */
bool fg_avr_kept_work(fg_avr_kept *kept);

#endif
