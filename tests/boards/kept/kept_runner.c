/* SPDX-License-Identifier: MIT */
/* kept_runner FIRMWARE.elf CUTS: the firmware of examples/beehive/board in simavr. Somebody lifts the hive again and
 * again, and sometimes sets the scale to zero. The power goes at random moments, most of them while the EEPROM is
 * written; a byte that is being written then is left with any value. What the firmware begins with the next time is
 * what it saved last, or what it was about to save. */
#include <simavr/avr_adc.h>
#include <simavr/avr_eeprom.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { BYTES = 1024, MS = 16000, WRITE = 34 * MS / 10, NOTHING = -1 };

static uint8_t kept[BYTES]; /* of the EEPROM, from one life of the chip to the next */
static char line[80];
static size_t size;
static bool begun, saving; /* in this life: it said what it began with; it said that it saves, just now */
static long before = NOTHING, after = NOTHING;
static unsigned lives, in_writing, afresh;
static uint32_t state = 2463534242u;

static uint32_t dice(uint32_t sides)
{
    state ^= state << 13; /* xorshift (Marsaglia 2003) */
    state ^= state >> 17;
    state ^= state << 5;
    return state % sides;
}

static void fail(const char *what)
{
    fprintf(stderr, "kept: life %u: %s; before it was %ld, it was about to be %ld\n", lives, what, before, after);
    exit(1);
}

static void on_line(void)
{
    const char *number = strchr(line, '=');
    const long lifts = number ? strtol(number + 1, NULL, 10) : NOTHING;
    if (!strncmp(line, "begins afresh", 13)) {
        begun = true;
        afresh++;
        if (before != NOTHING) fail(line);
    } else if (!strncmp(line, "kept", 4)) {
        begun = true;
        if (lifts != before && lifts != after) fail(line);
        before = after = lifts;
    } else if (!strncmp(line, "saving", 6)) {
        saving = true;
        before = after;
        after = lifts;
    } else {
        fail(line);
    }
}

static void on_byte(avr_irq_t *irq, uint32_t byte, void *context)
{
    (void)irq, (void)context;
    if (byte != '\n' && size < sizeof line - 1) {
        line[size++] = (char)byte;
        return;
    }
    line[size] = '\0';
    size = 0;
    on_line();
}

static void run_until(avr_t *avr, avr_cycle_count_t cycle)
{
    while (avr->cycle < cycle) {
        const int is = avr_run(avr);
        if (is == cpu_Done || is == cpu_Crashed) fail("the firmware stopped");
    }
}

/* The simulator would sleep as long as the chip does. */
static void sleep_at_once(avr_t *avr, avr_cycle_count_t cycles) { (void)avr, (void)cycles; }

static avr_t *power_on(elf_firmware_t *firmware)
{
    avr_t *avr = avr_make_mcu_by_name("atmega328p");
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr->frequency = 16000000;
    avr->vcc = avr->avcc = avr->aref = 5000;
    avr->sleep = sleep_at_once;
    avr_load_firmware(avr, firmware);
    uint32_t flags = 0;
    avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= ~(uint32_t)AVR_UART_FLAG_STDIO;
    avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    avr_irq_register_notify(avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT), on_byte, NULL);
    avr_ioctl(avr, AVR_IOCTL_EEPROM_SET, &(avr_eeprom_desc_t){.ee = kept, .size = BYTES});
    return avr;
}

/* Which byte is being written, or NOTHING. */
static int look(avr_t *avr, avr_cycle_count_t *written)
{
    static int last;
    avr_eeprom_desc_t now = {0};
    avr_ioctl(avr, AVR_IOCTL_EEPROM_GET, &now);
    for (int i = 0; i < BYTES; i++) {
        if (now.ee[i] == kept[i]) continue;
        last = i;
        *written = avr->cycle;
        kept[i] = now.ee[i];
    }
    return *written && avr->cycle - *written < WRITE ? last : NOTHING;
}

/* One life: the hive stands, is lifted, and the power goes while that is saved, or at any moment. */
static void live(elf_firmware_t *firmware)
{
    avr_t *avr = power_on(firmware);
    avr_irq_t *scale = avr_io_getirq(avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0);
    avr_irq_t *tare = avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('D'), 2);
    const avr_cycle_count_t lifted = (avr_cycle_count_t)(450 + dice(150)) * MS;
    avr_cycle_count_t cut = (avr_cycle_count_t)(1 + dice(1100)) * MS, written = 0;
    const bool tares = dice(8) == 0, any_moment = dice(4) == 0;
    int torn = NOTHING;
    begun = saving = false;
    size = 0;
    if (!any_moment) cut = (avr_cycle_count_t)4000 * MS;
    avr_raise_irq(avr_io_getirq(avr, AVR_IOCTL_IOPORT_GETIRQ('D'), 3), 1);
    while (avr->cycle < cut) {
        avr_raise_irq(scale, avr->cycle < lifted ? 2100 : 20);
        avr_raise_irq(tare, !(tares && avr->cycle > 100 * MS && avr->cycle < 500 * MS));
        run_until(avr, avr->cycle + MS / 4);
        torn = look(avr, &written);
        if (saving && !any_moment && avr->cycle > lifted) cut = avr->cycle + dice(26 * MS);
        saving = false;
    }
    if (!begun && cut > 20 * MS) fail("it said nothing");
    in_writing += torn != NOTHING;
    if (torn != NOTHING && dice(2)) kept[torn] = (uint8_t)dice(256);
    avr_terminate(avr);
    free(avr);
}

int main(int argc, char **argv)
{
    elf_firmware_t firmware = {0};
    if (argc != 3 || elf_read_firmware(argv[1], &firmware)) return 2;
    memset(kept, 0xff, sizeof kept);
    const unsigned cuts = (unsigned)atoi(argv[2]);
    while (lives < cuts) {
        lives++;
        live(&firmware);
    }
    printf(
        "kept: the power went %u times, %u times while a byte was written; each time the chip began with what it had "
        "saved, or was about to save, and %u times afresh before there was anything\n",
        lives, in_writing, afresh);
    return in_writing * 4 > lives ? 0 : 1;
}
