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
    if (!output)
        tool_say("fickle: there is no room for the results in the temporary folder: %s\n", strerror(errno));
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

static void show_line(const char *line, size_t size, const char *const paints[2])
{
    const char *const end = line + size;
    size_t length = 0;
    for (const char *paint; (paint = next_paint(line, paints, &length)); line = paint + length) {
        fg_text_show(stdout, (fg_text){line, (size_t)(paint - line)});
        fwrite(paint, 1, length, stdout);
    }
    fg_text_show(stdout, (fg_text){line, (size_t)(end - line)});
}

static void copy_shown(FILE *output)
{
    const char *const paints[2] = {tool_paint(false), tool_paint(true)};
    char *line = NULL;
    size_t room = 0;
    for (ssize_t size; (size = getline(&line, &room, output)) > 0;) {
        const bool ended = line[size - 1] == '\n';
        show_line(line, (size_t)(ended ? size - 1 : size), paints);
        if (ended) fputc('\n', stdout);
    }
    free(line);
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

void tool_xml(FILE *output, fg_text text)
{
    char *shown = NULL;
    size_t size = 0;
    FILE *out = open_memstream(&shown, &size); /* XML has neither control characters nor U+FFFE */
    if (out) fg_text_show(out, text);
    if (out) fclose(out);
    for (size_t i = 0; shown && i < size; i++) {
        const char c = shown[i];
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
    if (!shown) fputs("?", output);
    free(shown);
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
