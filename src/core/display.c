/* SPDX-License-Identifier: MIT */
/* Texts: levels in their one form, and what a display shows, cut by characters. */
#include "run.h"

#include "mem.h"

/* ---- levels ---- */

typedef struct writer {
    char *text;
    size_t room, size; /* `size` goes on when the room is used up */
} writer;

/* Counts what does not fit as well, so that the caller learns how much room it takes. */
static void put(writer *w, char c)
{
    if (w->size < w->room) w->text[w->size] = c;
    w->size++;
}

/* A text that ends in NUL. */
static void put_text(writer *w, const char *text)
{
    while (*text) put(w, *text++);
}

/* A whole number, as decimal digits. */
static void put_number(writer *w, int32_t number)
{
    char text[FG_VALUE_TEXT_SIZE];
    (void)fg_value_write(number, 0, text);
    put_text(w, text);
}

/* A colour is told as it was written: by its name, or by its digits in quotes. `on red` and `on "ff0000"` are two
 * levels. */
static void put_colour(writer *w, uint32_t colour)
{
    const uint32_t rgb = FG_COLOUR_RGB(colour);
    if (!colour) return;
    put(w, ' ');
    uint32_t named = 0;
    const char *name = FG_COLOUR_SOURCE(colour) == FG_COLOUR_NAMED ? fg_colour_name(0, &named) : NULL;
    for (size_t i = 1; name && named != rgb; i++) name = fg_colour_name(i, &named);
    if (name) put_text(w, name);
    if (FG_COLOUR_SOURCE(colour) != FG_COLOUR_WRITTEN) return;
    put(w, '"');
    for (int shift = 20; shift >= 0; shift -= 4) put(w, "0123456789abcdef"[(rgb >> shift) & 15]);
    put(w, '"');
}

/* One level has one text only, so that texts can be compared: strength is left out where it is 100 %, and zero
 * strength has become the rest before it comes here (fg_level_normal). */
static void put_level(writer *w, const fg_level *level)
{
    if (level->form == FG_FORM_TONE || level->form == FG_FORM_TURN) {
        put_number(w, level->number);
        put_text(w, level->form == FG_FORM_TONE ? "Hz" : " deg");
    } else {
        put_text(w, fg_form_word((fg_form)level->form));
    }
    if (level->form == FG_FORM_FILL || level->form == FG_FORM_LIGHT) {
        put(w, ' ');
        put_number(w, level->number);
    }
    put_colour(w, level->colour);
    if (!level->percent || level->percent >= 100) return;
    put(w, ' ');
    put_number(w, level->percent);
    put(w, '%');
}

/* FG_LEVEL_TEXT_SIZE holds the longest level there is; the cut is for levels made by hand. */
size_t fg_level_text(const fg_level *level, char *text)
{
    writer w = {text, FG_LEVEL_TEXT_SIZE - 1, 0};
    put_level(&w, level);
    const size_t size = w.size < w.room ? w.size : w.room;
    text[size] = '\0';
    return size;
}

/* A quote inside is doubled, as the gate language writes it. */
static void put_quoted(writer *w, fg_text line)
{
    put(w, '"');
    for (size_t i = 0; i < line.size; i++) {
        if (line.at[i] == '"') put(w, '"');
        put(w, line.at[i]);
    }
    put(w, '"');
}

/* ---- displays ---- */

/* The memory of a display: for each line a head (its size in two bytes, and whether it is there), then room for its
 * columns of FG_CHARACTER_BYTES_MOST bytes. The size of a line is one macro, which the compiler uses too. */
static char *line_at(const fg_run *run, const fg_output *output, uint8_t line)
{
    return run->texts + output->text_at + (size_t)line * fg_display_line_bytes(output->columns);
}

/* The size stands in two bytes, the lower one first, so that the head needs no alignment. */
static fg_text line_text(const char *at)
{
    const fg_text text = {at + FG_DISPLAY_LINE_HEAD,
                          (size_t)((unsigned char)at[0] | (unsigned)(unsigned char)at[1] << 8)};
    return text;
}

fg_text fg_display_line(const fg_run *run, uint16_t output, uint8_t line)
{
    const fg_text nothing = {0};
    if (output >= run->gate->size.outputs) return nothing;
    const fg_output *display = &run->gate->outputs[output];
    if (display->kind != FG_OUTPUT_DISPLAY || line >= display->lines) return nothing;
    return line_text(line_at(run, display, line));
}

/* The lines of a display follow each other as in the gate language. The first line that is not there ends them: lines
 * are filled from the top. */
static void put_output(writer *w, const fg_run *run, uint16_t number)
{
    const fg_output *output = &run->gate->outputs[number];
    const fg_level *level = &run->outputs[number].level;
    put_level(w, level);
    for (uint8_t i = 0; level->form == FG_FORM_SHOW && i < output->lines; i++) {
        const char *at = line_at(run, output, i);
        if (!at[2]) break;
        put_text(w, i ? ", " : " ");
        put_quoted(w, line_text(at));
    }
}

/* With no room it only measures. */
size_t fg_output_text(const fg_run *run, uint16_t output, char *text, size_t room)
{
    writer w = {text, text ? room : 0, 0};
    if (output < run->gate->size.outputs) put_output(&w, run, output);
    return w.size;
}

/* A line of a display while it is written, or only compared with what is there. */
typedef struct line_writer {
    fg_run *run;
    char *at; /* the characters of the line */
    uint16_t size, was;
    uint16_t room; /* bytes there are, whatever stands in the text */
    uint8_t left;  /* characters that still fit */
    bool writes, differs, cut;
} line_writer;

/* One byte; a character that does not fit any more ends the line. */
static void write_byte(line_writer *s, char c)
{
    const bool begins = ((unsigned char)c & 0xc0) != 0x80;
    if ((begins && !s->left) || s->size >= s->room) s->cut = true; /* a text may hold bytes that begin no character */
    if (s->cut) return;
    s->left = (uint8_t)(s->left - begins);
    if (s->size >= s->was || s->at[s->size] != c) s->differs = true;
    if (s->writes) s->at[s->size] = c;
    s->size++;
}

/* Bytes one by one, since a line is cut in front of a whole character. */
static void write_text(line_writer *s, const char *text, size_t size)
{
    for (size_t i = 0; i < size; i++) write_byte(s, text[i]);
}

/* A value as it is read aloud: with its decimals, without its unit, which the piece has as its own text. */
static void write_value(line_writer *s, fg_value value, uint8_t decimals)
{
    char text[FG_VALUE_TEXT_SIZE];
    write_text(s, text, fg_value_write(value, decimals, text));
}

/* A faulty sensor shows `?`, and no unit behind it: nobody should take the last reading for a present one. */
static void write_sensor(line_writer *s, const fg_piece *piece)
{
    const fg_sensor_state *state = &s->run->sensors[piece->index];
    if (!state->ok) {
        write_byte(s, '?');
        return;
    }
    write_value(s, state->value, s->run->gate->sensors[piece->index].decimals);
    write_text(s, piece->text.at, piece->text.size);
}

/* Labels may have texts of their own, `onshore "->"`. They stand in the order of the labels, from `first_label` on. */
static void write_bands(line_writer *s, const fg_piece *piece)
{
    const fg_verdict answer = s->run->answers[piece->index];
    if (answer == FG_UNSURE) {
        write_byte(s, '?');
    } else if (answer == FG_NONE) {
        write_text(s, "none", 4);
    } else {
        const fg_text text = s->run->gate->label_texts[piece->first_label + answer - 1];
        write_text(s, text.at, text.size);
    }
}

static void write_output(line_writer *s, const fg_piece *piece)
{
    /* Longer than a line can be need not be written. */
    char text[64];
    const size_t size = fg_output_text(s->run, piece->index, text, sizeof text);
    write_text(s, text, size < sizeof text ? size : sizeof text);
}

/* The answer is looked up before the switch only where the piece has one: other pieces use `index` for another table.
 */
static void write_piece(line_writer *s, const fg_piece *piece)
{
    const fg_verdict answer = piece->kind == FG_PIECE_ANSWER ? s->run->answers[piece->index] : (fg_verdict)FG_UNSURE;
    switch ((fg_piece_kind)piece->kind) {
    case FG_PIECE_TEXT: write_text(s, piece->text.at, piece->text.size); return;
    case FG_PIECE_SENSOR: write_sensor(s, piece); return;
    case FG_PIECE_ANSWER:
        write_text(s,
                   answer == FG_YES  ? "yes"
                   : answer == FG_NO ? "no"
                                     : "?",
                   answer == FG_YES  ? 3
                   : answer == FG_NO ? 2
                                     : 1);
        return;
    case FG_PIECE_BANDS: write_bands(s, piece); return;
    case FG_PIECE_COUNT: write_value(s, s->run->counters[piece->index].value, 0); return;
    case FG_PIECE_OUTPUT: write_output(s, piece); return;
    }
}

/* One line of a text, written or compared; true if it is another than what is there. */
static bool write_line(fg_run *run, const fg_output *output, uint8_t line, const fg_show *show, bool writes)
{
    char *head = line_at(run, output, line);
    const bool there = show && line < show->line_count;
    const bool was_there = head[2];
    line_writer s = {0};
    s.run = run;
    s.at = head + FG_DISPLAY_LINE_HEAD;
    s.was = (uint16_t)line_text(head).size;
    s.room = (uint16_t)(output->columns * FG_CHARACTER_BYTES_MOST);
    s.left = output->columns;
    s.writes = writes;
    if (there) {
        const fg_show_line *l = &run->gate->show_lines[show->first_line + line];
        for (uint16_t i = 0; i < l->piece_count && !s.cut; i++) write_piece(&s, &run->gate->pieces[l->first_piece + i]);
    }
    const bool differs = s.differs || s.size != s.was || there != was_there;
    if (writes) {
        head[0] = (char)(s.size & 0xff);
        head[1] = (char)(s.size >> 8);
        head[2] = (char)there;
    }
    return differs;
}

/* Every line is written, also those that are no longer there: what stood in them is cleared. */
bool fg_display_write(fg_run *run, const fg_output *output, const fg_level *level)
{
    const fg_show *show = level->form == FG_FORM_SHOW ? &run->gate->shows[level->number] : NULL;
    bool differs = false;
    for (uint8_t i = 0; i < output->lines; i++)
        if (write_line(run, output, i, show, true)) differs = true;
    return differs;
}

/* Compares without writing: a trial asks whether a display shows a text, and asking must not change it. */
bool fg_display_shows(fg_run *run, const fg_output *output, uint16_t show)
{
    for (uint8_t i = 0; i < output->lines; i++)
        if (write_line(run, output, i, &run->gate->shows[show], false)) return false;
    return true;
}
