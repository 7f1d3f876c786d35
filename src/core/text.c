/* Texts: levels in their one form, and what a display shows, cut by characters. */
#include "run.h"

#include "mem.h"

/* ---- levels ---- */

typedef struct writer {
    char *text;
    size_t room, size; /* `size` goes on when the room is used up */
} writer;

static void put(writer *w, char c)
{
    if (w->size < w->room) w->text[w->size] = c;
    w->size++;
}

static void put_text(writer *w, const char *text)
{
    while (*text) put(w, *text++);
}

static void put_number(writer *w, int32_t number)
{
    char text[FG_VALUE_TEXT_SIZE];
    (void)fg_value_write(number, 0, text);
    put_text(w, text);
}

static const struct {
    uint32_t rgb;
    const char *name;
} colours[] = {
#define FG_COLOUR_ROW(rgb, name) {rgb, name},
    FG_COLOURS(FG_COLOUR_ROW)
#undef FG_COLOUR_ROW
};

static void put_colour(writer *w, uint32_t colour)
{
    const uint32_t rgb = FG_COLOUR_RGB(colour);
    if (!colour) return;
    put(w, ' ');
    for (size_t i = 0; FG_COLOUR_SOURCE(colour) == FG_COLOUR_NAMED && i < sizeof colours / sizeof *colours; i++)
        if (colours[i].rgb == rgb) put_text(w, colours[i].name);
    if (FG_COLOUR_SOURCE(colour) != FG_COLOUR_WRITTEN) return;
    put(w, '"');
    for (int shift = 20; shift >= 0; shift -= 4) put(w, "0123456789abcdef"[(rgb >> shift) & 15]);
    put(w, '"');
}

const char *fg_form_word(fg_form form)
{
    static const char *const words[] = {
#define FG_FORM_WORD(code, word) word,
        FG_FORMS(FG_FORM_WORD)
#undef FG_FORM_WORD
    };
    return words[form];
}

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

size_t fg_level_text(const fg_level *level, char *text)
{
    writer w = {text, FG_LEVEL_TEXT_SIZE - 1, 0};
    put_level(&w, level);
    const size_t size = w.size < w.room ? w.size : w.room;
    text[size] = '\0';
    return size;
}

static void put_quoted(writer *w, fg_string line)
{
    put(w, '"');
    for (uint16_t i = 0; i < line.size; i++) {
        if (line.at[i] == '"') put(w, '"');
        put(w, line.at[i]);
    }
    put(w, '"');
}

/* ---- displays ---- */

enum {
    LINE_HEAD = 3,
    BYTES_OF_A_CHARACTER = 4
}; /* a line: its size in two bytes, whether it is there, its characters */

static unsigned line_size(const fg_output *output)
{
    return LINE_HEAD + (unsigned)output->columns * BYTES_OF_A_CHARACTER;
}

static char *line_at(const fg_run *run, const fg_output *output, uint8_t line)
{
    return run->texts + output->text_at + (size_t)line * line_size(output);
}

static fg_string line_text(const char *at)
{
    return (fg_string){at + LINE_HEAD, (uint16_t)((unsigned char)at[0] | (unsigned char)at[1] << 8)};
}

fg_string fg_display_line(const fg_run *run, uint16_t output, uint8_t line)
{
    if (output >= run->gate->count.outputs) return (fg_string){0};
    const fg_output *display = &run->gate->outputs[output];
    if (display->kind != FG_DISPLAY || line >= display->lines) return (fg_string){0};
    return line_text(line_at(run, display, line));
}

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

size_t fg_output_text(const fg_run *run, uint16_t output, char *text, size_t room)
{
    writer w = {text, text ? room : 0, 0};
    if (output < run->gate->count.outputs) put_output(&w, run, output);
    return w.size;
}

/* A line as it is written, or only held against what is there. */
typedef struct sheet {
    fg_run *run;
    char *at; /* the characters of the line */
    uint16_t size, was;
    uint16_t room; /* bytes there are, whatever stands in the text */
    uint8_t left;  /* characters that still fit */
    bool writes, differs, cut;
} sheet;

/* One byte; a character that does not fit any more ends the line. */
static void lay(sheet *s, char c)
{
    const bool begins = ((unsigned char)c & 0xc0) != 0x80;
    if ((begins && !s->left) || s->size >= s->room) s->cut = true; /* a text may hold bytes that begin no character */
    if (s->cut) return;
    s->left = (uint8_t)(s->left - begins);
    if (s->size >= s->was || s->at[s->size] != c) s->differs = true;
    if (s->writes) s->at[s->size] = c;
    s->size++;
}

static void lay_text(sheet *s, const char *text, size_t size)
{
    for (size_t i = 0; i < size; i++) lay(s, text[i]);
}

static void lay_value(sheet *s, fg_value value, uint8_t decimals)
{
    char text[FG_VALUE_TEXT_SIZE];
    lay_text(s, text, fg_value_write(value, decimals, text));
}

static void lay_sensor(sheet *s, const fg_piece *piece)
{
    const fg_sensor_state *state = &s->run->sensors[piece->index];
    if (!state->ok) {
        lay(s, '?');
        return;
    }
    lay_value(s, state->value, s->run->gate->sensors[piece->index].decimals);
    lay_text(s, piece->text.at, piece->text.size);
}

static void lay_bands(sheet *s, const fg_piece *piece)
{
    const fg_verdict answer = s->run->answers[piece->index];
    if (answer == FG_UNSURE) {
        lay(s, '?');
    } else if (answer == FG_NONE) {
        lay_text(s, "none", 4);
    } else {
        const fg_string text = s->run->gate->strings[piece->first_label + answer - 1];
        lay_text(s, text.at, text.size);
    }
}

static void lay_output(sheet *s, const fg_piece *piece)
{
    /* Longer than a line can be need not be written. */
    char text[64];
    const size_t size = fg_output_text(s->run, piece->index, text, sizeof text);
    lay_text(s, text, size < sizeof text ? size : sizeof text);
}

static void lay_piece(sheet *s, const fg_piece *piece)
{
    const fg_verdict answer = piece->kind == FG_PIECE_ANSWER ? s->run->answers[piece->index] : (fg_verdict)FG_UNSURE;
    switch ((fg_piece_kind)piece->kind) {
    case FG_PIECE_TEXT: lay_text(s, piece->text.at, piece->text.size); return;
    case FG_PIECE_SENSOR: lay_sensor(s, piece); return;
    case FG_PIECE_ANSWER:
        lay_text(s,
                 answer == FG_YES  ? "yes"
                 : answer == FG_NO ? "no"
                                   : "?",
                 answer == FG_YES  ? 3
                 : answer == FG_NO ? 2
                                   : 1);
        return;
    case FG_PIECE_BANDS: lay_bands(s, piece); return;
    case FG_PIECE_COUNT: lay_value(s, s->run->counts[piece->index].value, 0); return;
    case FG_PIECE_OUTPUT: lay_output(s, piece); return;
    }
}

/* One line of a text, written or compared; true if it is another than what is there. */
static bool lay_line(fg_run *run, const fg_output *output, uint8_t line, const fg_show *show, bool writes)
{
    char *head = line_at(run, output, line);
    const bool there = show && line < show->line_count;
    const bool was_there = head[2];
    sheet s = {.run = run,
               .at = head + LINE_HEAD,
               .was = line_text(head).size,
               .room = (uint16_t)(output->columns * BYTES_OF_A_CHARACTER),
               .left = output->columns,
               .writes = writes};
    if (there) {
        const fg_line_of_text *l = &run->gate->lines[show->first_line + line];
        for (uint16_t i = 0; i < l->piece_count && !s.cut; i++) lay_piece(&s, &run->gate->pieces[l->first_piece + i]);
    }
    const bool differs = s.differs || s.size != s.was || there != was_there;
    if (writes) {
        head[0] = (char)(s.size & 0xff);
        head[1] = (char)(s.size >> 8);
        head[2] = (char)there;
    }
    return differs;
}

bool fg_display_write(fg_run *run, const fg_output *output, const fg_level *level)
{
    const fg_show *show = level->form == FG_FORM_SHOW ? &run->gate->shows[level->number] : NULL;
    bool differs = false;
    for (uint8_t i = 0; i < output->lines; i++)
        if (lay_line(run, output, i, show, true)) differs = true;
    return differs;
}

bool fg_display_shows(fg_run *run, const fg_output *output, uint16_t show)
{
    for (uint8_t i = 0; i < output->lines; i++)
        if (lay_line(run, output, i, &run->gate->shows[show], false)) return false;
    return true;
}
