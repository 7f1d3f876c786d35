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
    if (!output) tool_say("fickle: there is no room for the results in the temporary folder: %s\n", strerror(errno));
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

/* Line by line, in memory that is there already: what has been worked out is printed whole. A line that is longer is
 * taken in pieces, none of which ends within a character. */
static void copy_shown(FILE *output)
{
    static char room[1 << 16];
    const char *const paints[2] = {tool_paint(false), tool_paint(true)};
    size_t size = 0, got;
    while ((got = fread(room + size, 1, sizeof room - 1 - size, output)) > 0 || size) {
        size += got;
        room[size] = '\0';
        const char *newline = memchr(room, '\n', size);
        size_t end = newline ? (size_t)(newline - room) : size;
        while (!newline && got && end > 1 && ((unsigned char)room[end - 1] & 0xc0) == 0x80) end--;
        if (!newline && got && end > 1 && end < size) end--; /* the first byte of that character */
        show(room, end, paints);
        if (newline) fputc('\n', stdout);
        end += newline != NULL;
        memmove(room, room + end, size - end);
        size -= end;
    }
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
    if (error != EPIPE) tool_say("fickle: error: the results cannot be written: %s\n", strerror(error));
    return EXIT_WRONG;
}

void tool_output_check(void)
{
    errno = 0;
    if (fflush(stdout) == 0 && !ferror(stdout)) return;
    if (errno != EPIPE) tool_say("fickle: error: the results cannot be written: %s\n", strerror(errno ? errno : EIO));
    _exit(EXIT_WRONG);
}

bool tool_same(fg_text a, fg_text b) { return a.size == b.size && (!a.size || !memcmp(a.at, b.at, a.size)); }

bool tool_is(fg_text text, const char *word) { return tool_same(text, (fg_text){word, strlen(word)}); }

void tool_text(FILE *output, fg_text text)
{
    if (text.size) fwrite(text.at, 1, text.size, output);
}

bool tool_is_plain(fg_text text)
{
    char room[FG_ESCAPE_SIZE];
    while (text.size)
        if (fg_text_next_shown(&text, room).at == room) return false;
    return true;
}

/* XML has neither control characters nor U+FFFE: they are shown as escapes. */
void tool_xml(FILE *output, fg_text text)
{
    char room[FG_ESCAPE_SIZE];
    while (text.size) {
        const fg_text piece = fg_text_next_shown(&text, room);
        for (size_t i = 0; i < piece.size; i++) {
            const char c = piece.at[i];
            if (c == '<')
                fputs("&lt;", output);
            else if (c == '>')
                fputs("&gt;", output);
            else if (c == '&')
                fputs("&amp;", output);
            else if (c == '"')
                fputs("&quot;", output);
            else
                fputc(c, output);
        }
    }
}

int tool_width(void)
{
    struct winsize window;
    if (!isatty(STDOUT_FILENO) || ioctl(STDOUT_FILENO, TIOCGWINSZ, &window) != 0 || window.ws_col < 40) return 0;
    return window.ws_col;
}

const char *tool_paint(bool on)
{
    const char *no = getenv("NO_COLOR");
    if (!isatty(STDOUT_FILENO) || (no && *no)) return "";
    return on ? "\033[31;1m" : "\033[0m";
}

static int characters(fg_text text)
{
    int count = 0;
    for (size_t i = 0; i < text.size; i++) count += ((unsigned char)text.at[i] & 0xc0) != 0x80;
    return count;
}

void tool_wrapped(FILE *output, fg_text text, int indent)
{
    const int room = tool_width() - indent;
    if (room < 20) {
        tool_text(output, text);
        return;
    }
    while (characters(text) > room) {
        size_t cut = 0, at = 0;
        for (int column = 0; at < text.size && column <= room; at++) {
            column += ((unsigned char)text.at[at] & 0xc0) != 0x80;
            if (text.at[at] == ' ' && column <= room) cut = at;
        }
        if (!cut) break;
        tool_text(output, (fg_text){text.at, cut});
        fprintf(output, "\n%*s", indent, "");
        text = (fg_text){text.at + cut + 1, text.size - cut - 1};
    }
    tool_text(output, text);
}

const char *tool_grouped(uint64_t number, char room[32])
{
    char digits[24];
    int size = snprintf(digits, sizeof digits, "%" PRIu64, number), to = 0;
    for (int i = 0; i < size; i++) {
        if (i && (size - i) % 3 == 0) room[to++] = ',';
        room[to++] = digits[i];
    }
    room[to] = '\0';
    return room;
}

const char *tool_counted(uint64_t number, const char *thing, char room[64])
{
    char digits[32];
    snprintf(room, 64, "%s %s%s", tool_grouped(number, digits), thing, number == 1 ? "" : "s");
    return room;
}
