/* SPDX-License-Identifier: MIT */
/* What outlives a loss of power: calls in the header that write it as bytes and take it back. The bytes are those of
 * fg_run_save (src/core/saved.c). */
#include "workshop/bake/write/write.h"

#include <inttypes.h>

static uint32_t most_of(const fg_count *rule) { return (uint32_t)rule->high - (uint32_t)rule->low; }

static void write_helpers(coder *c)
{
    const char *n = c->name;
    fg_code_line(c, 0, "\nstatic inline void %s_saved_put(uint8_t *at, uint32_t number, uint8_t bytes)", n);
    fg_code_line(c, 0, "{");
    fg_code_line(c, 1, "for (uint8_t i = 0; i < bytes; i++) at[i] = (uint8_t)(number >> (8 * i));");
    fg_code_line(c, 0, "}");
    fg_code_line(c, 0, "\nstatic inline uint32_t %s_saved_get(const uint8_t *at, uint8_t bytes)", n);
    fg_code_line(c, 0, "{");
    fg_code_line(c, 1, "uint32_t number = 0;");
    fg_code_line(c, 1, "for (uint8_t i = 0; i < bytes; i++) number |= (uint32_t)at[i] << (8 * i);");
    fg_code_line(c, 1, "return number;");
    fg_code_line(c, 0, "}");
    fg_code_line(c, 0, "\n/* CRC-32 of IEEE 802.3. */");
    fg_code_line(c, 0, "static inline uint32_t %s_saved_check(const uint8_t *bytes)", n);
    fg_code_line(c, 0, "{");
    fg_code_line(c, 1, "uint32_t crc = 0xffffffffu;");
    fg_code_line(c, 1, "for (uint16_t i = 0; i < %s_SAVED - 4; i++) {", c->capitals);
    fg_code_line(c, 2, "crc ^= bytes[i];");
    fg_code_line(c, 2, "for (uint8_t bit = 0; bit < 8; bit++) crc = (crc & 1u) ? (crc >> 1) ^ 0xedb88320u : crc >> 1;");
    fg_code_line(c, 1, "}");
    fg_code_line(c, 1, "return ~crc;");
    fg_code_line(c, 0, "}");
}

static void put(coder *c, const char *number, unsigned *at, unsigned bytes)
{
    fg_code_line(c, 1, "%s_saved_put(bytes + %u, %s, %u);", c->name, *at, number, bytes);
    *at += bytes;
}

/* The latches of one byte, as a number. */
static const char *latches_from(coder *c, uint16_t first)
{
    const char *all = NULL;
    for (uint16_t i = first; i < c->gate->size.latches && i < first + 8; i++) {
        if (!c->latches[i]) continue;
        const char *one = fg_code_say(c, "(%s ? %uu : 0u)", fg_code_latch_is_on(c, i), 1u << (i - first));
        all = all ? fg_code_say(c, "%s | %s", all, one) : one;
    }
    return all ? all : "0";
}

/* Is there anything of it in the state? */
static bool touches_state(const coder *c)
{
    bool any = c->gate->size.counters;
    for (uint16_t i = 0; i < c->gate->size.latches; i++) any = any || c->latches[i];
    for (uint16_t i = 0; i < c->gate->size.sensors; i++) any = any || c->zeros[i];
    return any;
}

static void write_save(coder *c)
{
    const fg_gate_sizes *n = &c->gate->size;
    unsigned at = 0;
    fg_code_line(c, 0,
                 "\n/* Writes what has to outlive a loss of power into %s_SAVED bytes: latches, counts and zeros,\n * "
                 "with the gate's hash and "
                 "a checksum. Keep them where writing may break off, and give them back by %s_restore. */",
                 c->capitals, c->name);
    fg_code_line(c, 0, "static inline void %s_save(const %s_state *s, uint8_t *bytes)", c->name, c->name);
    fg_code_line(c, 0, "{");
    if (!touches_state(c)) fg_code_line(c, 1, "(void)s;");
    put(c, fg_code_say(c, "(uint32_t)(%s_HASH ^ (%s_HASH >> 32))", c->capitals, c->capitals), &at, FG_SAVED_HEAD);
    for (uint16_t i = 0; i < n->latches; i = (uint16_t)(i + 8)) put(c, latches_from(c, i), &at, 1);
    for (uint16_t i = 0; i < n->counters; i++) {
        const fg_count *rule = &c->gate->counters[i].rule;
        const char *value = fg_code_say(c, "(uint32_t)%s - %" PRIu32 "u", c->counts[i], (uint32_t)rule->low);
        put(c, rule->low ? value : fg_code_say(c, "(uint32_t)%s", c->counts[i]), &at, fg_count_saved_bytes(rule));
    }
    for (uint16_t i = 0; i < n->sensors; i++)
        if (c->gate->sensors[i].stages & FG_STAGE_ZERO)
            put(c, c->zeros[i] ? fg_code_say(c, "(uint32_t)%s", c->zeros[i]) : "0", &at, FG_SAVED_ZERO);
    put(c, fg_code_say(c, "%s_saved_check(bytes)", c->name), &at, FG_SAVED_CHECK);
    fg_code_line(c, 0, "}");
}

static const char *get(coder *c, unsigned *at, unsigned bytes)
{
    const char *got = fg_code_say(c, "%s_saved_get(bytes + %u, %u)", c->name, *at, bytes);
    *at += bytes;
    return got;
}

static void write_checks(coder *c)
{
    const fg_gate_sizes *n = &c->gate->size;
    unsigned at = 0;
    fg_code_line(c, 1, "if (%s != (uint32_t)(%s_HASH ^ (%s_HASH >> 32))) return false;", get(c, &at, FG_SAVED_HEAD),
                 c->capitals, c->capitals);
    fg_code_line(c, 1, "if (%s_saved_get(bytes + %s_SAVED - 4, 4) != %s_saved_check(bytes)) return false;", c->name,
                 c->capitals, c->name);
    at += (n->latches + 7u) / 8;
    for (uint16_t i = 0; i < n->counters; i++) {
        const fg_count *rule = &c->gate->counters[i].rule;
        const char *got = get(c, &at, fg_count_saved_bytes(rule));
        if (most_of(rule) != UINT32_MAX) fg_code_line(c, 1, "if (%s > %" PRIu32 "u) return false;", got, most_of(rule));
    }
}

static void write_restore(coder *c)
{
    const fg_gate_sizes *n = &c->gate->size;
    unsigned at = FG_SAVED_HEAD;
    fg_code_line(
        c, 0,
        "\n/* Takes it back, between %s_start and the first step. False if the bytes are damaged or of another "
        "gate:\n * nothing is changed then, and the gate begins afresh. */",
        c->name);
    fg_code_line(c, 0, "static inline bool %s_restore(%s_state *s, const uint8_t *bytes)", c->name, c->name);
    fg_code_line(c, 0, "{");
    if (!touches_state(c)) fg_code_line(c, 1, "(void)s;");
    write_checks(c);
    for (uint16_t i = 0; i < n->latches; i++) {
        if (!c->latches[i]) continue;
        fg_code_line(c, 1, "if (bytes[%u] & %uu) %s;", FG_SAVED_HEAD + i / 8u, 1u << i % 8,
                     fg_code_latch_switch_on(c, i));
    }
    at += (n->latches + 7u) / 8;
    for (uint16_t i = 0; i < n->counters; i++) {
        const fg_count *rule = &c->gate->counters[i].rule;
        const char *got = get(c, &at, fg_count_saved_bytes(rule)), *type = fg_code_type(rule->low, rule->high);
        if (rule->low) got = fg_code_say(c, "%s + %" PRIu32 "u", got, (uint32_t)rule->low);
        fg_code_line(c, 1, "%s = (%s)(%s);", c->counts[i], type, got);
    }
    for (uint16_t i = 0; i < n->sensors; i++) {
        if (!(c->gate->sensors[i].stages & FG_STAGE_ZERO)) continue;
        const char *got = get(c, &at, FG_SAVED_ZERO);
        if (c->zeros[i]) fg_code_line(c, 1, "%s = (int32_t)%s;", c->zeros[i], got);
    }
    fg_code_line(c, 1, "return true;");
    fg_code_line(c, 0, "}");
}

void fg_code_saved(coder *c)
{
    if (!fg_bake_keeps(c->baker)) return;
    write_helpers(c);
    write_save(c);
    write_restore(c);
}
