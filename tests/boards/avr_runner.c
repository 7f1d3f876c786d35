/* SPDX-License-Identifier: MIT */
/* avr_runner CHIP FIRMWARE.elf: runs a firmware in simavr until it says that it has ended, and prints what it put out,
 * and how deep its stack got between its marks, if it made some.
 */
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_io.h>
#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

enum { TEXT = 0x3e, END = 0x4a, MARK = 0x4b, SP_LOW = 0x5d, SP_HIGH = 0x5e }; /* GPIOR0 to 2 in the data space */

static bool ended, marked;
static unsigned began, most;

static unsigned stack_pointer(const avr_t *avr) { return avr->data[SP_LOW] | (unsigned)avr->data[SP_HIGH] << 8; }

static void on_text(avr_t *avr, avr_io_addr_t at, uint8_t byte, void *context)
{
    (void)avr, (void)at, (void)context;
    putchar(byte);
}

static void on_end(avr_t *avr, avr_io_addr_t at, uint8_t byte, void *context)
{
    (void)avr, (void)at, (void)byte, (void)context;
    ended = true;
}

/* 1: what is measured begins, 2: it has ended. */
static void on_mark(avr_t *avr, avr_io_addr_t at, uint8_t byte, void *context)
{
    (void)at, (void)context;
    marked = byte == 1;
    began = stack_pointer(avr);
}

int main(int argc, char **argv)
{
    elf_firmware_t firmware = {0};
    if (argc != 3 || elf_read_firmware(argv[2], &firmware)) return 2;
    avr_t *avr = avr_make_mcu_by_name(argv[1]);
    if (!avr) return 2;
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr->frequency = 16000000;
    avr_load_firmware(avr, &firmware);
    avr_register_io_write(avr, TEXT, on_text, NULL);
    avr_register_io_write(avr, END, on_end, NULL);
    avr_register_io_write(avr, MARK, on_mark, NULL);
    while (!ended && avr->cycle < 40000000000u) {
        int state = avr_run(avr);
        if (marked && stack_pointer(avr) + most < began) most = began - stack_pointer(avr);
        if (state == cpu_Done || state == cpu_Crashed) break;
    }
    if (most) printf("stack %u\n", most);
    if (!ended) fputs("avr_runner: the firmware did not come to its end\n", stderr);
    return ended ? 0 : 1;
}
