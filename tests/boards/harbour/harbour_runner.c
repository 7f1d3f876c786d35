/* SPDX-License-Identifier: MIT */
/* harbour_runner FIRMWARE.elf RECORDING.csv SERIAL.log: plays the harbour's recording to its firmware in simavr, as
 * voltages and pins, and prints what pins, timers and serial line do at each step: t, green, red, beacon, boom, winch,
 * Hz of the horn, per cent of the pump (back is negative), degrees of the flagstaff, the bar, the display. What comes
 * over the serial line is kept as it is. */
#include "../avr_timers.h"

#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { EICRA = 0x69, PORTB = 0x25, PORTD = 0x2b };
enum { STEP = 1600000, CELLS = 12 }; /* 100 ms at 16 MHz */

static char display[128], bar[32] = "?";
static FILE *serial;
static uint64_t slept; /* cycles */

/* ---- what comes out ---- */

/* What stands behind NAME= in a line, up to `end`. */
static void take(const char *line, const char *name, const char *end, char *to, size_t room)
{
    const char *at = strstr(line, name);
    if (!at) return;
    at += strlen(name);
    const char *stop = *end ? strstr(at, end) : at + strlen(at);
    snprintf(to, room, "%.*s", stop ? (int)(stop - at) : (int)strlen(at), at);
}

static void on_serial(avr_irq_t *irq, uint32_t byte, void *context)
{
    static char line[600];
    static size_t size;
    (void)irq, (void)context;
    fputc((int)byte, serial);
    if (byte != '\n') {
        if (size + 1 < sizeof line) line[size++] = (char)byte;
        return;
    }
    line[size] = '\0';
    take(line, " gauge=", " board=", bar, sizeof bar);
    take(line, " board=", "", display, sizeof display);
    size = 0;
}

static unsigned word_at(const avr_t *avr, int at) { return avr->data[at] | (unsigned)avr->data[at + 1] << 8; }

static int pump_of(const avr_t *avr)
{
    const int period = (int)word_at(avr, ICR1L) + 1;
    if (!(avr->data[TCCR1A] & 0x20) || period < 2) return 0;
    const int percent = ((int)word_at(avr, OCR1BL) + 1) * 100 / period;
    return avr->data[PORTB] >> 5 & 1 ? -percent : percent;
}

static unsigned degrees_of(const avr_t *avr) { return ((word_at(avr, OCR1AL) - 2000u) * 180 + 1000) / 2000; }

static void print_step(const avr_t *avr, const char *t)
{
    const unsigned b = avr->data[PORTB], d = avr->data[PORTD];
    printf("%s\t%u\t%u\t%u\t%u\t%u\t%u\t%d\t%u\t%s\t%s\n", t, d >> 2 & 1, d >> 3 & 1, b & 1, b >> 4 & 1, d & 1,
           tone_of(avr), pump_of(avr), degrees_of(avr), bar, display);
}

/* ---- what goes in ---- */

/* Counts as the voltage half way into them; what is no number is a wire that came off. */
static void set_voltage(avr_t *avr, int channel, const char *cell, double counts_each, int at_zero)
{
    char *end;
    const double value = strtod(cell, &end);
    const bool off = end == cell || *end || !strcmp(cell, "nan");
    const int counts = off ? 1023 : (int)(value * counts_each + (value < 0 ? -0.5 : 0.5)) - at_zero;
    avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + channel),
                  ((unsigned)counts * 5000u + 1022) / 1023);
}

/* A switch to ground; what is neither leaves it as it was. */
static void set_pin(avr_t *avr, int pin, const char *cell)
{
    if (!strcmp(cell, "0") || !strcmp(cell, "1"))
        avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('D'), pin), *cell == '0');
}

/* t_ms,depth.raw,bilge,wind.raw,vane,rock_x,rock_y,rock_z,key,ack,level,boat,... */
static void set_inputs(avr_t *avr, char *const *cells)
{
    set_voltage(avr, 0, cells[1], 1, 0);
    set_voltage(avr, 1, cells[3], 1, 0);
    set_voltage(avr, 2, cells[2], 10, 0);
    set_voltage(avr, 3, cells[4], 1, 0);
    set_voltage(avr, 4, cells[5], 1, -512);
    set_voltage(avr, 5, cells[6], 1, -512);
    set_voltage(avr, 6, cells[7], 1, 488);
    for (int i = 0; i < 4; i++) set_pin(avr, 4 + i, cells[8 + i]);
}

static void run_until(avr_t *avr, uint64_t cycle)
{
    while (avr->cycle < cycle) {
        const int state = avr_run(avr);
        if (state == cpu_Done || state == cpu_Crashed) {
            fputs("harbour_runner: the firmware stopped\n", stderr);
            exit(1);
        }
    }
}

/* A chip that sleeps does so without the computer waiting for it. */
static void on_sleep(avr_t *avr, avr_cycle_count_t cycles)
{
    (void)avr;
    slept += cycles;
}

static avr_t *make_chip(elf_firmware_t *firmware)
{
    avr_t *avr = avr_make_mcu_by_name("atmega328p");
    uint32_t flags = 0;
    if (!avr) exit(2);
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr->sleep = on_sleep;
    avr->frequency = 16000000;
    avr->vcc = avr->avcc = avr->aref = 5000;
    avr_load_firmware(avr, firmware);
    avr->data[EICRA] = 0x0f; /* or the simulator wakes it for each pin at ground, asked or not */
    avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= ~(uint32_t)AVR_UART_FLAG_STDIO;
    avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), on_serial, NULL);
    return avr;
}

int main(int argc, char **argv)
{
    elf_firmware_t firmware = {0};
    char line[256];
    FILE *recording = argc == 4 ? fopen(argv[2], "r") : NULL;
    serial = argc == 4 ? fopen(argv[3], "w") : NULL;
    if (!recording || !serial || elf_read_firmware(argv[1], &firmware)) return 2;
    avr_t *avr = make_chip(&firmware);
    /* The first step comes at once; each later one 100 ms after the one before. Readings change half a step before. */
    uint64_t step = 0;
    while (fgets(line, sizeof line, recording)) {
        char *cells[CELLS + 1] = {NULL}, *at = line;
        if (*line < '0' || *line > '9') continue; /* the heading, and comments */
        for (int i = 0; i <= CELLS && at; i++) cells[i] = strsep(&at, ",\n");
        if (!cells[CELLS - 1]) return 2;
        set_inputs(avr, cells);
        run_until(avr, step++ * STEP + STEP / 2);
        print_step(avr, cells[0]);
    }
    fclose(recording);
    fclose(serial);
    fprintf(stderr, "%llu cycles a step in which the chip does not sleep\n",
            (unsigned long long)((avr->cycle - slept) / (step ? step : 1)));
    return 0;
}
