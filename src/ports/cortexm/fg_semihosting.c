/* SPDX-License-Identifier: MIT */
/* A port by Arm semihosting (Arm, Semihosting for AArch32 and AArch64, 2.0: operations SYS_OPEN, SYS_WRITE0, SYS_READ,
 * SYS_EXIT_EXTENDED). */
#include "fg_semihosting.h"

enum { SYS_OPEN = 0x01, SYS_WRITE = 0x05, SYS_READ = 0x06, SYS_EXIT_EXTENDED = 0x20, APPLICATION_EXIT = 0x20026 };

static uint32_t call(uint32_t operation, const void *block)
{
    register uint32_t r0 __asm__("r0") = operation;
    register const void *r1 __asm__("r1") = block;
    __asm__ volatile("bkpt 0xab" : "+r"(r0) : "r"(r1) : "memory");
    return r0;
}

static size_t length(const char *text)
{
    size_t size = 0;
    while (text[size]) size++;
    return size;
}

static uint32_t open_file(const char *path, uint32_t mode)
{
    const uintptr_t block[] = {(uintptr_t)path, mode, length(path)};
    return call(SYS_OPEN, block);
}

void fg_semihosting_put(const char *text, size_t size)
{
    static uint32_t console;
    if (!console) console = open_file(":tt", 4); /* write */
    const uintptr_t block[] = {console, (uintptr_t)text, size};
    (void)call(SYS_WRITE, block);
}

void fg_semihosting_leave(int32_t status)
{
    const uint32_t block[] = {APPLICATION_EXIT, (uint32_t)status};
    (void)call(SYS_EXIT_EXTENDED, block);
    for (;;) continue;
}

/* ---- lines ---- */

/* False at the end of the file, or if the line is too long. */
static bool read_line(fg_semihosting *board)
{
    for (size_t size = 0; size < sizeof board->line; size++) {
        const uintptr_t block[] = {(uintptr_t)board->file, (uintptr_t)&board->line[size], 1};
        if (call(SYS_READ, block) != 0) return false;
        if (board->line[size] != '\n') continue;
        board->line[size] = '\0';
        return true;
    }
    return false;
}

bool fg_semihosting_start(fg_semihosting *board, const char *path)
{
    board->file = (int32_t)open_file(path, 0);
    return board->file != -1 && read_line(board);
}

static size_t cell_size(const char *at)
{
    size_t size = 0;
    while (at[size] && at[size] != ',' && at[size] != '\r') size++;
    return size;
}

static fg_reading reading_of(const fg_semihosting *board, uint16_t input, const char *cell, size_t size)
{
    fg_reading reading = {0, board->now, FG_READING_NONE};
    const uint8_t kind = board->inputs[input];
    const uint8_t decimals = kind == FG_SEMIHOSTING_VALUE ? board->gate->sensors[input].decimals : 0;
    if (!size) return reading;
    const bool good = fg_value_read(cell, size, decimals, &reading.value) == FG_OK &&
                      (kind != FG_SEMIHOSTING_FLAG || reading.value == 0 || reading.value == 1);
    reading.kind = !good ? FG_READING_FAULT : kind == FG_SEMIHOSTING_COUNTS ? FG_READING_COUNTS : FG_READING_VALUE;
    return reading;
}

bool fg_semihosting_next(fg_semihosting *board)
{
    const uint16_t inputs = (uint16_t)(board->gate->size.sensors + board->gate->size.flags);
    const char *at = board->line;
    int32_t time = 0;
    if (!read_line(board)) return false;
    size_t size = cell_size(at);
    if (fg_value_read(at, size, 0, &time) != FG_OK) return false;
    board->now = (fg_time)time;
    for (uint16_t i = 0; i < inputs && i < FG_SEMIHOSTING_INPUTS; i++) {
        board->readings[i].kind = FG_READING_NONE;
        if (board->inputs[i] == FG_SEMIHOSTING_NOT_READ) continue;
        at += size + (at[size] == ',');
        size = cell_size(at);
        board->readings[i] = reading_of(board, i, at, size);
    }
    return true;
}

/* ---- the port ---- */

static fg_time now_ms(void *context) { return ((fg_semihosting *)context)->now; }

static void read_input(void *context, uint16_t input, fg_reading *reading)
{
    const fg_semihosting *board = (const fg_semihosting *)context;
    if (input < FG_SEMIHOSTING_INPUTS && board->readings[input].kind != FG_READING_NONE)
        *reading = board->readings[input];
}

static void put_number(uint32_t number)
{
    char text[FG_VALUE_TEXT_SIZE];
    fg_semihosting_put(text, fg_value_write((fg_value)number, 0, text));
}

static void write_output(void *context, uint16_t output, const fg_level *level)
{
    const fg_semihosting *board = (const fg_semihosting *)context;
    char text[128];
    const size_t size = fg_output_text(board->run, output, text, sizeof text);
    (void)level;
    put_number(board->now);
    fg_semihosting_put(",", 1);
    put_number(output);
    fg_semihosting_put(",", 1);
    fg_semihosting_put(text, size < sizeof text ? size : sizeof text);
    fg_semihosting_put("\n", 1);
}

fg_port fg_semihosting_port(fg_semihosting *board)
{
    return (fg_port){sizeof(fg_port), board, now_ms, read_input, write_output, NULL};
}
