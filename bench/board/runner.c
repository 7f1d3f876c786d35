/* SPDX-License-Identifier: MIT */
/* runner FIRMWARE.elf: runs it in the simulator and prints cycles per step, the deepest stack, and a hash of all
 * answers. */
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_io.h>
#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

enum { MARKS = 0x3e, ANSWERS = 0x4a, SP_LOW = 0x5d, SP_HIGH = 0x5e };

static uint64_t began, marks_cost, sum, most, steps;
static uint32_t hash = 2166136261u; /* FNV-1a, 32 bits */
static unsigned stack_at_start, deepest, stack_most;
static bool stepping, calibrated, done;

static unsigned stack_pointer(const avr_t *avr) { return avr->data[SP_LOW] | (unsigned)avr->data[SP_HIGH] << 8; }

static void on_mark(avr_t *avr, avr_io_addr_t at, uint8_t mark, void *unused)
{
    (void)at, (void)unused;
    if (mark == 1) {
        began = avr->cycle;
        stack_at_start = deepest = stack_pointer(avr);
        stepping = true;
    } else if (mark == 2 && !calibrated) {
        marks_cost = avr->cycle - began;
        calibrated = true;
        stepping = false;
    } else if (mark == 2) {
        uint64_t cycles = avr->cycle - began - marks_cost;
        sum += cycles;
        if (cycles > most) most = cycles;
        if (stack_at_start - deepest > stack_most) stack_most = stack_at_start - deepest;
        steps++;
        stepping = false;
    } else {
        done = true;
    }
}

static void on_answer(avr_t *avr, avr_io_addr_t at, uint8_t answer, void *unused)
{
    (void)avr, (void)at, (void)unused;
    hash = (hash ^ answer) * 16777619u;
}

int main(int argc, char **argv)
{
    elf_firmware_t firmware = {0};
    if (argc != 2 || elf_read_firmware(argv[1], &firmware)) {
        fputs("usage: runner FIRMWARE.elf\n", stderr);
        return 2;
    }
    avr_t *avr = avr_make_mcu_by_name("atmega328p");
    if (!avr) return 2;
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr->frequency = 16000000;
    avr_load_firmware(avr, &firmware);
    avr_register_io_write(avr, MARKS, on_mark, NULL);
    avr_register_io_write(avr, ANSWERS, on_answer, NULL);
    while (!done && avr->cycle < 1000000000u) {
        int state = avr_run(avr);
        if (state == cpu_Done || state == cpu_Crashed) break;
        if (stepping && stack_pointer(avr) < deepest) deepest = stack_pointer(avr);
    }
    if (!done || !steps) {
        fputs("runner: the firmware did not come to its end\n", stderr);
        return 1;
    }
    printf("%llu %.1f %llu %u %08x\n", (unsigned long long)steps, (double)sum / (double)steps, (unsigned long long)most,
           stack_most, (unsigned)hash);
    return 0;
}
