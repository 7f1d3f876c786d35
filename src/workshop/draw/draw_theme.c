/* SPDX-License-Identifier: MIT */
/* What all pictures share: colours, texts, the head of a script for gnuplot. */
#include "workshop/draw/draw_theme.h"

#include <stdlib.h>
#include <string.h>

const fg_theme *fg_theme_of(bool on_dark)
{
    static const fg_theme light = {"#ffffff", "#202428", "#b8bec4", "#c04a00", "#10405f", "#d55e00", "#00795a"};
    static const fg_theme dark = {"#101418", "#e6e6e6", "#4a5258", "#ff8a3c", "#9ad4f5", "#ff8a3c", "#2fd1a5"};
    return on_dark ? &dark : &light;
}

const char *fg_plot_fill(size_t number)
{
    static const char *const fills[FG_FILLS] = {"#56b4e9", "#e69f00", "#009e73", "#f0e442",
                                                "#cc79a7", "#d55e00", "#0072b2"};
    return fills[number % FG_FILLS];
}

uint32_t fg_plot_rgb(const char *colour) { return (uint32_t)strtoul(colour + 1, NULL, 16); /* behind the # */ }

const char *fg_plot_mixed(const fg_theme *theme, const char *colour, int share, char *mixed)
{
    const uint32_t over = fg_plot_rgb(colour), under = fg_plot_rgb(theme->paper);
    uint32_t rgb = 0;
    for (int shift = 16; shift >= 0; shift -= 8) {
        const int a = (int)(over >> shift & 255), b = (int)(under >> shift & 255);
        rgb = rgb << 8 | (uint32_t)(b + (a - b) * share / 100);
    }
    snprintf(mixed, FG_COLOUR_TEXT, "#%06x", (unsigned)rgb);
    return mixed;
}

/* As much of a text as `most` bytes hold, whole characters only. */
static fg_text shortened(fg_text text, size_t most)
{
    size_t size = text.size < most ? text.size : most;
    while (size < text.size && size && ((unsigned char)text.at[size] & 0xc0) == 0x80) size--;
    return (fg_text){text.at, size};
}

/* Writes a text as a person may see it, with other words for one of its signs, and in double quotes also for the
 * backslash. `]]>` ends something in XML wherever it stands, and gnuplot writes it as it is: a blank keeps it apart. */
static void put_text(FILE *out, fg_text text, char quote, const char *quoted, const char *backslash)
{
    char room[FG_ESCAPE_SIZE];
    int brackets = 0;
    fputc(quote, out);
    while (text.size) {
        const fg_text piece = fg_text_next_shown(&text, room);
        for (size_t i = 0; i < piece.size; i++) {
            const char c = piece.at[i];
            if (c == '>' && brackets > 1) fputc(' ', out);
            brackets = c == ']' ? brackets + 1 : 0;
            if (c == quote)
                fputs(quoted, out);
            else if (c == '\\')
                fputs(backslash, out);
            else
                fputc(c, out);
        }
    }
    fputc(quote, out);
}

/* In single quotes gnuplot replaces nothing: no `commands`, no escapes, no macros. A line end alone would end the text,
 * so control characters are visible. A quote is put between two texts: doubled, as the manual has it, it is misread at
 * the beginning of a text. */
void fg_plot_text(FILE *out, fg_text text, size_t most)
{
    put_text(out, shortened(text, most), '\'', "'.\"\\047\".'", "\\");
}

/* In a block of data a quote ends a text even behind a backslash, but not as \042. */
void fg_plot_datum(FILE *out, fg_text text, size_t most) { put_text(out, shortened(text, most), '"', "\\042", "\\\\"); }

const char *fg_picture_ending(const char *path)
{
    const size_t size = strlen(path);
    const char *end = size > 4 ? path + size - 4 : "";
    return !strcmp(end, ".png") || !strcmp(end, ".svg") ? end : NULL;
}

void fg_plot_head(FILE *out, const fg_theme *theme, uint32_t width, uint32_t height, const char *path)
{
    const bool svg = !strcmp(fg_picture_ending(path), ".svg");
    fprintf(out,
            "set encoding utf8\nset terminal %s noenhanced size %u,%u %sbackground rgb '%s' font 'DejaVu Sans,9'\n",
            svg ? "svg" : "pngcairo", width, height, svg ? "dynamic " : "", theme->paper);
}
