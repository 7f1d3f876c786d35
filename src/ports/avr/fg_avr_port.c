/* SPDX-License-Identifier: MIT */
/* The chip behind the engine's callbacks. */
#include "fg_avr_port.h"

static fg_time now_ms(void *context)
{
    (void)context;
    return fg_avr_now();
}

static void read_input(void *context, uint16_t input, fg_reading *reading)
{
    const fg_avr *board = (const fg_avr *)context;
    if (input >= board->input_count || board->inputs[input].kind == FG_AVR_NOT_READ) return;
    reading->kind = board->inputs[input].kind == FG_AVR_CONVERTER ? FG_READING_COUNTS : FG_READING_VALUE;
    reading->value = fg_avr_read(board, input);
}

static void write_output(void *context, uint16_t output, const fg_level *level)
{
    int16_t number = level->percent;
    if (level->form == FG_FORM_BACK) number = (int16_t)-number;
    if (level->form == FG_FORM_TONE || level->form == FG_FORM_TURN) number = (int16_t)level->number;
    fg_avr_write((const fg_avr *)context, output, number);
}

fg_port fg_avr_port(const fg_avr *board)
{
    return (fg_port){sizeof(fg_port), (void *)(uintptr_t)board, now_ms, read_input, write_output, NULL};
}
