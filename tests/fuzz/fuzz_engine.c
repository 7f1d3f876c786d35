/* SPDX-License-Identifier: MIT */
/* Any gate with any readings: what stands before the first line of === is the gate, the bytes behind it are readings. A
 * step never leaves its memory, an answer is always one of those there are, two runs on the same readings are the
 * same, and so is one that takes no short cuts. */
#include <ficklegate.h>
#include <ficklegate/language.h>

#include "core/run.h"

#include <stdlib.h>
#include <string.h>

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size);

static fg_value value_of(const uint8_t *bytes)
{
    static const fg_value odd[] = {INT32_MIN, INT32_MAX, 0, -1, 1};
    if (bytes[1] < 5) return odd[bytes[1]];
    return (fg_value)((bytes[1] - 128) * (bytes[2] < 200 ? bytes[2] : 1 << (bytes[2] % 24)));
}

static void feed(fg_run *run, const fg_gate *gate, const uint8_t *bytes, fg_time now)
{
    const uint16_t sensor = (uint16_t)(gate->size.sensors ? bytes[0] % gate->size.sensors : 0);
    const uint16_t flag = (uint16_t)(gate->size.flags ? bytes[0] % gate->size.flags : 0);
    switch (bytes[3] % 6) {
    case 0: fg_feed_counts(run, sensor, value_of(bytes), now); return;
    case 1: fg_feed_fault(run, sensor, now); return;
    case 2: fg_feed_flag(run, flag, bytes[1] & 1, now); return;
    case 3: fg_feed_flag_fault(run, flag, now); return;
    default: fg_feed(run, sensor, value_of(bytes), now); return;
    }
}

static void check(const fg_run *run, const fg_gate *gate)
{
    char text[64];
    for (uint16_t i = 0; i < gate->size.ops; i++) {
        const fg_verdict answer = fg_answer(run, i);
        if (gate->ops[i].kind != FG_OP_BANDS && answer > FG_YES) abort();
    }
    for (uint16_t i = 0; i < gate->size.outputs; i++) {
        const fg_level *level = &fg_output_at(run, i)->level;
        const fg_level normal = fg_level_normal(*level);
        if (level->percent > 100 || level->form >= FG_FORM_HOLD || !fg_level_same(level, &normal)) abort();
        (void)fg_output_text(run, i, text, sizeof text);
    }
}

static uint32_t hash_of(const fg_run *run, const fg_gate *gate, uint32_t hash)
{
    for (uint16_t i = 0; i < gate->size.ops; i++) hash = (hash ^ fg_answer(run, i)) * 16777619u;
    for (uint16_t i = 0; i < gate->size.sensors; i++) {
        const fg_sensor_state *state = fg_sensor_at(run, i);
        hash = (hash ^ (state->ok ? (uint32_t)state->value : 7u)) * 16777619u;
    }
    for (uint16_t i = 0; i < gate->size.outputs; i++) {
        const fg_output_state *state = fg_output_at(run, i);
        hash = (hash ^ (uint32_t)state->level.number ^ (uint32_t)state->level.percent << 24) * 16777619u;
        hash = (hash ^ state->changed ^ (uint32_t)state->row << 8 ^ (uint32_t)state->unsure << 4) * 16777619u;
        for (uint8_t line = 0; line < 2; line++) {
            const fg_text text = fg_display_line(run, i, line);
            for (uint16_t k = 0; k < text.size; k++) hash = (hash ^ (uint8_t)text.at[k]) * 16777619u;
        }
    }
    return hash;
}

/* `all`: every line is worked out at every step, also where the engine would know that it stays. */
static uint32_t play(const fg_gate *gate, const uint8_t *bytes, size_t size, int stain, bool all)
{
    const size_t needed = fg_run_size(gate);
    fg_run *run;
    void *memory = malloc(needed);
    uint32_t hash = 2166136261u;
    fg_time now = 0xfffff000u;
    if (!memory) return 0;
    memset(memory, stain, needed);
    if (fg_run_start(gate, memory, needed, &run) != FG_OK) abort();
    for (size_t i = 0; i + 4 <= size && i < 400; i += 4) {
        feed(run, gate, bytes + i, now);
        if (bytes[i + 3] & 0x80) continue;
        if (all) run->begun = run->outputs_steady = false;
        fg_step(run, now);
        check(run, gate);
        hash = hash_of(run, gate, hash);
        now += bytes[i + 2] < 250 ? bytes[i + 2] * 10u : 1u << (bytes[i + 2] - 226);
    }
    free(memory);
    return hash;
}

int LLVMFuzzerTestOneInput(const uint8_t *data, size_t size)
{
    size_t gate_size = 0;
    while (gate_size + 4 < size && memcmp(data + gate_size, "\n===", 4) != 0) gate_size++;
    if (gate_size + 4 >= size) return 0;
    const size_t room = 200 * gate_size + (1 << 17);
    const fg_language_input input = {.text = {(const char *)data, gate_size}, .trial = FG_TRIAL_NONE};
    fg_program program;
    void *memory = malloc(room);
    if (memory && fg_language_compile(&input, memory, room, &program) == FG_OK) {
        const uint8_t *bytes = data + gate_size + 4;
        const size_t left = size - gate_size - 4;
        const uint32_t hash = play(&program.gate, bytes, left, 0x00, false);
        if (hash != play(&program.gate, bytes, left, 0xa5, false)) abort();
        if (hash != play(&program.gate, bytes, left, 0x00, true)) abort();
    }
    free(memory);
    return 0;
}
