/* SPDX-License-Identifier: MIT */
/* shelf_runner FIRMWARE.elf RECORDING.csv SERIAL.log: plays a recording (t_ms,warmth.raw,damp.raw,door, a row every
 * 100 ms) as voltages and a pin to a firmware in simavr, and prints what its pins do after each step: the duty of red,
 * green and blue of 255, the duty of the fan in %, whether it goes back, the heater. What comes over the serial line is
 * kept as it is. */
#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <stdio.h>
#include <stdlib.h>

enum { STEP = 1600000 }; /* 100 ms at 16 MHz */

/* In the data space of the ATmega328P. */
enum { EICRA = 0x69, PORTD = 0x2b, DDRB = 0x24, DDRD = 0x2a };
enum { TCCR1A = 0x80, OCR1A = 0x88, OCR1B = 0x8a, TCCR2A = 0xb0, OCR2A = 0xb3, OCR2B = 0xb4 };

static FILE *serial;

static void on_serial(avr_irq_t *irq, uint32_t byte, void *context)
{
    (void)irq, (void)context;
    fputc((int)byte, serial);
}

/* What a pin puts out of 255: what its timer compares with, where that is connected and the pin is an output. */
static unsigned duty(const avr_t *avr, int control, int bit, int compare, int direction, int pin)
{
    if (!(avr->data[control] & 1 << bit) || !(avr->data[direction] & 1 << pin)) return 0;
    return avr->data[compare];
}

static void print_step(const avr_t *avr, unsigned t)
{
    const unsigned fan = duty(avr, TCCR2A, 5, OCR2B, DDRD, 3);
    printf("%u,%u,%u,%u,%u,%u,%u\n", t, duty(avr, TCCR1A, 7, OCR1A, DDRB, 1), duty(avr, TCCR1A, 5, OCR1B, DDRB, 2),
           duty(avr, TCCR2A, 7, OCR2A, DDRB, 3), (fan * 100 + 254) / 255, avr->data[PORTD] >> 7 & 1,
           avr->data[PORTD] >> 2 & 1);
}

static void set_voltage(avr_t *avr, int channel, unsigned counts)
{
    avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + channel), (counts * 5000 + 1022) / 1023);
}

static void run_until(avr_t *avr, uint64_t cycle)
{
    while (avr->cycle < cycle) {
        const int state = avr_run(avr);
        if (state == cpu_Done || state == cpu_Crashed) {
            fputs("shelf_runner: the firmware stopped\n", stderr);
            exit(1);
        }
    }
}

/* A chip that sleeps does so without the computer waiting for it. */
static void on_sleep(avr_t *avr, avr_cycle_count_t cycles) { (void)avr, (void)cycles; }

int main(int argc, char **argv)
{
    elf_firmware_t firmware = {0};
    FILE *recording = argc == 4 ? fopen(argv[2], "r") : NULL;
    serial = argc == 4 ? fopen(argv[3], "w") : NULL;
    if (!recording || !serial || elf_read_firmware(argv[1], &firmware)) return 2;
    avr_t *avr = avr_make_mcu_by_name("atmega328p");
    uint32_t flags = 0;
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr->sleep = on_sleep;
    avr->frequency = 16000000;
    avr->vcc = avr->avcc = avr->aref = 5000;
    avr_load_firmware(avr, &firmware);
    avr->data[EICRA] = 0x0f; /* or the simulator wakes it for each pin at ground, asked or not */
    avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= ~(uint32_t)AVR_UART_FLAG_STDIO;
    avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), on_serial, NULL);
    unsigned t, warmth, damp, door;
    if (fscanf(recording, "%*[^\n]") == EOF) return 2;
    /* The first step comes at once; each later one 100 ms after the one before. Readings change half a step before. */
    for (uint64_t step = 0; fscanf(recording, "%u,%u,%u,%u", &t, &warmth, &damp, &door) == 4; step++) {
        set_voltage(avr, 0, warmth);
        set_voltage(avr, 1, damp);
        avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('D'), 4), !door);
        run_until(avr, step * STEP + STEP / 2);
        print_step(avr, t);
    }
    fclose(recording);
    fclose(serial);
    return 0;
}
