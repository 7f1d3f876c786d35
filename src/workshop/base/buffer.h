/* SPDX-License-Identifier: MIT */
/* A text that grows. */
#ifndef FICKLEGATE_WORKSHOP_BUFFER_H
#define FICKLEGATE_WORKSHOP_BUFFER_H

#include <ficklegate/files.h>

typedef struct fg_buffer {
    char *text;
    size_t size, room;
    bool full; /* there was no memory for more: what came later is missing */
} fg_buffer;

void fg_buffer_add(fg_buffer *b, fg_text text);
/* A text without the blanks around it. */
fg_text fg_text_trimmed(fg_text text);
/* A copy that ends in NUL, the caller's to free(); NULL without memory. */
char *fg_c_string_of(fg_text text);
/* Room for at least so many characters. */
void fg_buffer_room(fg_buffer *b, size_t size);
void fg_buffer_add_c(fg_buffer *b, const char *text);
/* Puts a NUL behind the text that is no part of it, so that `text` is a C string until more is added. */
void fg_buffer_end(fg_buffer *b);
/* A text with visible escapes: see fg_text_show. */
void fg_buffer_add_shown(fg_buffer *b, fg_text text);
/* As much of it as there is `room` for, its NUL included; whole characters. */
void fg_text_keep(char *to, size_t room, fg_text text);
/* A value with its decimals and, unless it has none, its unit behind a space. */
void fg_buffer_add_value(fg_buffer *b, fg_value value, const fg_declared *declared);
/* A value without zeros behind: 12, not 12.0. `text`: FG_VALUE_TEXT_SIZE characters, ends in NUL. */
void fg_value_short(fg_value value, uint8_t decimals, char *text);
/* A time in the shortest of ms, s: "250 ms", "2 s", "12.5 s". */
void fg_buffer_add_time(fg_buffer *b, int64_t ms);
void fg_buffer_add_number(fg_buffer *b, int64_t number);
fg_text fg_buffer_text(const fg_buffer *b);
void fg_buffer_free(fg_buffer *b);

/* What a name is now, as it is reported; the text may live in `b`, which is emptied first. */
fg_text fg_text_now(fg_buffer *b, const fg_declared *declared, const fg_run *run);

/* The words of a flag in a recording: 0 1 no yes false true off on, in any letter case. */
bool fg_flag_word(fg_text word, bool *yes);

/* Opens a file to read: a descriptor, or -1 with a mistake, also if it is a folder, a pipe or a device, which would be
 * read for ever or not at all. "-" is standard input, whatever that is. */
int fg_input_open(const char *path, fg_mistake *mistake);

/* A mistake with its file, line and a text made as printf does. Returns `status`. */
#if defined(__GNUC__)
__attribute__((format(printf, 5, 6)))
#endif
fg_status
fg_mistake_set(fg_mistake *mistake, fg_status status, const char *file, uint64_t line, const char *format, ...);

/* What is written at a place of the gate, in one line: without comments, and with one blank where there are more. */
void fg_buffer_add_written(fg_buffer *b, const fg_program *program, fg_span span);

#endif
