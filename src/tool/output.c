/* SPDX-License-Identifier: MIT */
/* Results on standard output: gathered first, so that a run that goes wrong leaves none half written. */
#include "tool.h"

#include <errno.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

FILE *tool_output_open(void)
{
    FILE *output = tmpfile();
    if (!output) tool_say("fickle: error: cannot store the results in the temporary folder: %s\n", strerror(errno));
    return output;
}

/* Where the next colour begins that tool_paint wrote, and how long it is; nothing else of a terminal gets through. */
static const char *next_paint(const char *line, const char *const paints[2], size_t *length)
{
    const char *first = NULL;
    for (int on = 0; on < 2; on++) {
        const char *at = *paints[on] ? strstr(line, paints[on]) : NULL;
        if (!at || (first && first < at)) continue;
        first = at;
        *length = strlen(paints[on]);
    }
    return first;
}

static void show(const char *text, size_t size, const char *const paints[2])
{
    const char *const end = text + size;
    size_t length = 0;
    for (const char *paint; (paint = next_paint(text, paints, &length)) && paint < end; text = paint + length) {
        fg_text_show(stdout, (fg_text){text, (size_t)(paint - text)});
        fwrite(paint, 1, length, stdout);
    }
    fg_text_show(stdout, (fg_text){text, (size_t)(end - text)});
}

/* A line that is longer than the room is taken in pieces, none of which ends within a character. */
static size_t end_of_piece(const char *text, size_t size)
{
    size_t end = size;
    while (end > 1 && ((unsigned char)text[end - 1] & 0xc0) == 0x80) end--;
    return end > 1 && end < size ? end - 1 : end; /* before the first byte of that character */
}

/* Line by line, in memory that is there already: what has been worked out is printed whole. */
static void copy_shown(FILE *output)
{
    static char room[1 << 16];
    const char *const paints[2] = {tool_paint(false), tool_paint(true)};
    size_t size = 0, got;
    while ((got = fread(room + size, 1, sizeof room - 1 - size, output)) > 0 || size) {
        size_t from = 0;
        size += got;
        room[size] = '\0';
        for (const char *newline; (newline = memchr(room + from, '\n', size - from));) {
            const size_t end = (size_t)(newline - room);
            show(room + from, end - from, paints);
            fputc('\n', stdout);
            from = end + 1;
        }
        if (!from) {
            from = got ? end_of_piece(room, size) : size;
            show(room, from, paints);
        }
        memmove(room, room + from, size - from);
        size -= from;
    }
}

void tool_output_show(fg_text text)
{
    const char *const paints[2] = {tool_paint(false), tool_paint(true)};
    for (const char *newline; text.size && (newline = memchr(text.at, '\n', text.size));) {
        const size_t size = (size_t)(newline - text.at);
        show(text.at, size, paints);
        fputc('\n', stdout);
        text = (fg_text){text.at + size + 1, text.size - size - 1};
    }
    show(text.at, text.size, paints);
}

int tool_output_close(FILE *output, tool_form form, bool good)
{
    char block[1 << 16];
    size_t size;
    bool failed = ferror(output) || fflush(output) != 0;
    int error = errno;
    if (good && !failed) {
        rewind(output);
        errno = 0;
        if (form == FORM_TEXT || form == FORM_TAP)
            copy_shown(output);
        else
            while ((size = fread(block, 1, sizeof block, output)) > 0 && fwrite(block, 1, size, stdout) == size)
                continue;
        failed = ferror(output) || ferror(stdout) || fflush(stdout) != 0;
        error = errno;
    }
    fclose(output);
    if (!good || !failed) return good ? EXIT_WELL : EXIT_WRONG;
    clearerr(stdout); /* it is told here */
    if (error != EPIPE) tool_say("fickle: error: cannot write the results: %s\n", strerror(error));
    return EXIT_WRONG;
}

static int flush_error; /* errno of the first flush that failed */

bool tool_output_flush(void)
{
    errno = 0;
    if (fflush(stdout) == 0 && !ferror(stdout)) return true;
    if (!flush_error) flush_error = errno ? errno : EIO;
    return false;
}

void tool_output_check(void)
{
    if (tool_output_flush()) return;
    if (flush_error != EPIPE) tool_say("fickle: error: cannot write the results: %s\n", strerror(flush_error));
    _exit(EXIT_WRONG);
}
