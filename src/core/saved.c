/* SPDX-License-Identifier: MIT */
/* What outlives a loss of power, as a few bytes: the gate's hash, latches, counts and zeros, a checksum. The numbers
 * stand with their lowest byte first. The straight code of a gate writes the same bytes (src/workshop/bake). */
#include "run.h"

static bool has_zero(const fg_sensor *sensor) { return sensor->stages & FG_STAGE_ZERO; }

size_t fg_run_saved_size(const fg_gate *gate)
{
    size_t size = FG_SAVED_HEAD + (gate->size.latches + 7u) / 8 + FG_SAVED_CHECK;
    for (uint16_t i = 0; i < gate->size.counters; i++) size += fg_count_saved_bytes(&gate->counters[i].rule);
    for (uint16_t i = 0; i < gate->size.sensors; i++) size += has_zero(&gate->sensors[i]) ? FG_SAVED_ZERO : 0;
    return size;
}

static unsigned char *append_bytes(unsigned char *at, uint32_t number, uint8_t bytes)
{
    for (uint8_t i = 0; i < bytes; i++) *at++ = (unsigned char)(number >> 8 * i);
    return at;
}

static uint32_t take_bytes(const unsigned char **at, uint8_t bytes)
{
    uint32_t number = 0;
    for (uint8_t i = 0; i < bytes; i++) number |= (uint32_t) * (*at)++ << 8 * i;
    return number;
}

/* CRC-32 of IEEE 802.3, bit by bit: a table would be larger than the rest. */
static uint32_t check_of(const unsigned char *bytes, size_t size)
{
    uint32_t crc = UINT32_MAX;
    for (size_t i = 0; i < size; i++) {
        crc ^= bytes[i];
        for (uint8_t bit = 0; bit < 8; bit++) crc = crc & 1 ? crc >> 1 ^ 0xedb88320u : crc >> 1;
    }
    return ~crc;
}

static uint32_t short_hash(const fg_gate *gate) { return (uint32_t)(gate->hash ^ gate->hash >> 32); }

fg_status fg_run_save(const fg_run *run, void *bytes, size_t room)
{
    const fg_gate *gate = run->gate;
    unsigned char *const first = (unsigned char *)bytes;
    if (room < fg_run_saved_size(gate)) return FG_ERROR_MEMORY;
    unsigned char *at = append_bytes(first, short_hash(gate), FG_SAVED_HEAD);
    for (uint16_t i = 0; i < gate->size.latches; i = (uint16_t)(i + 8)) {
        uint8_t on = 0;
        for (uint16_t k = i; k < gate->size.latches && k < i + 8; k++)
            on = (uint8_t)(on | (unsigned)run->latches[k].on << (k - i));
        *at++ = on;
    }
    for (uint16_t i = 0; i < gate->size.counters; i++) {
        const fg_count *rule = &gate->counters[i].rule;
        at = append_bytes(at, (uint32_t)run->counters[i].value - (uint32_t)rule->low, fg_count_saved_bytes(rule));
    }
    for (uint16_t i = 0; i < gate->size.sensors; i++)
        if (has_zero(&gate->sensors[i])) at = append_bytes(at, (uint32_t)run->sensors[i].zero, FG_SAVED_ZERO);
    (void)append_bytes(at, check_of(first, (size_t)(at - first)), FG_SAVED_CHECK);
    return FG_OK;
}

/* Are these bytes whole, and of this gate? */
static bool is_whole(const fg_gate *gate, const unsigned char *bytes, size_t size)
{
    if (size != fg_run_saved_size(gate)) return false;
    const unsigned char *at = bytes, *check = bytes + size - FG_SAVED_CHECK;
    if (take_bytes(&at, FG_SAVED_HEAD) != short_hash(gate) ||
        take_bytes(&check, FG_SAVED_CHECK) != check_of(bytes, size - FG_SAVED_CHECK))
        return false;
    at += (gate->size.latches + 7u) / 8;
    for (uint16_t i = 0; i < gate->size.counters; i++) {
        const fg_count *rule = &gate->counters[i].rule;
        if (take_bytes(&at, fg_count_saved_bytes(rule)) > (uint32_t)rule->high - (uint32_t)rule->low) return false;
    }
    return true;
}

fg_status fg_run_restore(fg_run *run, const void *bytes, size_t size)
{
    const fg_gate *gate = run->gate;
    const unsigned char *at = (const unsigned char *)bytes + FG_SAVED_HEAD;
    if (run->begun) return FG_ERROR_ARGUMENT;
    if (!is_whole(gate, (const unsigned char *)bytes, size)) return FG_ERROR_GATE;
    for (uint16_t i = 0; i < gate->size.latches; i++) run->latches[i].on = at[i / 8] >> i % 8 & 1;
    at += (gate->size.latches + 7u) / 8;
    for (uint16_t i = 0; i < gate->size.counters; i++) {
        const fg_count *rule = &gate->counters[i].rule;
        run->counters[i].value = (fg_value)(take_bytes(&at, fg_count_saved_bytes(rule)) + (uint32_t)rule->low);
        run->counters[i].begun = true;
    }
    for (uint16_t i = 0; i < gate->size.sensors; i++)
        if (has_zero(&gate->sensors[i])) run->sensors[i].zero = (fg_value)take_bytes(&at, FG_SAVED_ZERO);
    return FG_OK;
}
