/* SPDX-License-Identifier: MIT */
/* Texts and numbers as the tool writes them. */
#include "tool.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

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

void tool_tap_text(FILE *output, fg_text text)
{
    for (size_t i = 0; i < text.size; i++) {
        if (text.at[i] == '#' || text.at[i] == '\\') fputc('\\', output);
        fputc(text.at[i], output);
    }
}
