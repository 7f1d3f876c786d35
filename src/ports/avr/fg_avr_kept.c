/* SPDX-License-Identifier: MIT */
#include "fg_avr_kept.h"

#include <avr/eeprom.h>

static uint16_t place(const fg_avr_kept *k, uint8_t slot, uint8_t byte)
{
    return (uint16_t)(k->at + (uint16_t)slot * (k->size + (uint16_t)FG_AVR_KEPT_TAIL) + byte);
}

static uint8_t read(uint16_t at) { return eeprom_read_byte((const uint8_t *)at); }

/* Has a slot a number? One that is written has not, between its first byte and its last, but for what was there before.
 */
static bool has_number(const fg_avr_kept *k, uint8_t slot, uint8_t *number)
{
    *number = read(place(k, slot, k->size));
    return (*number ^ read(place(k, slot, (uint8_t)(k->size + 1)))) == UINT8_MAX;
}

/* The newest is the slot with the highest number, by a comparison modulo 256: never more than 100 are there at once. */
static bool find_newest(fg_avr_kept *k)
{
    bool any = false;
    for (uint8_t slot = 0; slot < k->slots; slot++) {
        uint8_t number;
        if (!has_number(k, slot, &number) || (any && (int8_t)(number - k->number) <= 0)) continue;
        any = true;
        k->slot = slot;
        k->number = number;
    }
    return any;
}

static void load(const fg_avr_kept *k, uint8_t slot)
{
    for (uint8_t i = 0; i < k->size; i++) k->bytes[i] = read(place(k, slot, i));
}

static void know(fg_avr_kept *k)
{
    if (!k->known && !find_newest(k)) k->tried = k->slots;
    k->known = true;
}

bool fg_avr_kept_read(fg_avr_kept *k)
{
    know(k);
    for (; k->tried < k->slots; k->tried++) {
        const uint8_t slot = (uint8_t)((k->slot + k->slots - k->tried) % k->slots);
        uint8_t number;
        if (!has_number(k, slot, &number) || number != (uint8_t)(k->number - k->tried)) continue;
        load(k, slot);
        k->tried++;
        return true;
    }
    return false;
}

bool fg_avr_kept_may_save(const fg_avr_kept *k) { return k->written > k->size + 1; }

void fg_avr_kept_save(fg_avr_kept *k)
{
    bool same = true;
    know(k);
    for (uint8_t i = 0; i < k->size && same; i++) same = k->bytes[i] == read(place(k, k->slot, i));
    if (same) return;
    k->slot = (uint8_t)((k->slot + 1) % k->slots);
    k->number++;
    k->written = 0;
}

bool fg_avr_kept_work(fg_avr_kept *k)
{
    if (fg_avr_kept_may_save(k)) return false;
    if (!eeprom_is_ready()) return true;
    const uint8_t byte = k->written < k->size    ? k->bytes[k->written]
                         : k->written == k->size ? k->number
                                                 : (uint8_t)~k->number;
    const uint16_t at = place(k, k->slot, k->written);
    k->written++;
    if (read(at) != byte) eeprom_write_byte((uint8_t *)at, byte);
    return true;
}
