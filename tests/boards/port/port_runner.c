/* SPDX-License-Identifier: MIT */
/* port_runner FIRMWARE.elf RECORDING.csv: plays a recording (t_ms,depth.raw,key, a row every 50 ms) as a voltage and a
 * pin to a firmware in simavr, and prints what its outputs do after each step, read from the chip's registers and pins.
 */
#include "../avr_timers.h"

#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <stdio.h>
#include <stdlib.h>

enum { PORTD = 0x2b };

static void run_until(avr_t *avr, uint64_t cycle)
{
    while (avr->cycle < cycle) {
        const int state = avr_run(avr);
        if (state == cpu_Done || state == cpu_Crashed) {
            fputs("port_runner: the firmware stopped\n", stderr);
            exit(1);
        }
    }
}

static unsigned percent_of(const avr_t *avr, int connect, int compare)
{
    if (!(avr->data[TCCR1A] & connect)) return 0;
    return (avr->data[compare] * 100u + 254) / 255;
}

int main(int argc, char **argv)
{
    elf_firmware_t firmware = {0};
    FILE *recording = argc == 3 ? fopen(argv[2], "r") : NULL;
    if (!recording || elf_read_firmware(argv[1], &firmware)) return 2;
    avr_t *avr = avr_make_mcu_by_name("atmega328p");
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr->frequency = 16000000;
    avr->vcc = avr->avcc = avr->aref = 5000;
    avr_load_firmware(avr, &firmware);
    unsigned t, counts, key;
    if (fscanf(recording, "%*[^\n]") == EOF) return 2;
    /* The first step comes at once; each later one 50 ms after the one before. Readings change half a step before. */
    for (uint64_t step = 0; fscanf(recording, "%u,%u,%u", &t, &counts, &key) == 3; step++) {
        avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC3), (counts * 5000 + 1022) / 1023);
        avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('D'), 2), !key);
        run_until(avr, step * 800000 + 400000);
        printf("%u,%u,%u%u,%u,%u\n", t, percent_of(avr, 0x80, OCR1AL), percent_of(avr, 0x20, OCR1BL),
               avr->data[PORTD] >> 7 & 1, avr->data[PORTD] >> 4 & 1, tone_of(avr));
    }
    fclose(recording);
    return 0;
}
