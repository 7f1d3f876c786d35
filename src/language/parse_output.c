/* Outputs: rows of a level with `when`, with `if unsure`, or with neither. */
#include "front.h"

/* ---- notes and colours ---- */

int32_t fg_note_hz(fg_text word)
{
    /* Octave 9 in millionths of a Hz, 440 * 2^((n - 69) / 12); each octave below is half of it. */
    static const int64_t octave_9[] = {8372018090,  8869844191,  9397272573,  9956063479,  10548081821, 11175303406,
                                       11839821527, 12543853951, 13289750323, 14080000000, 14917240369, 15804265640};
    static const uint8_t white[] = {9, 11, 0, 2, 4, 5, 7}; /* A to G above C */
    if (word.size < 2 || word.size > 3 || word.at[0] < 'A' || word.at[0] > 'G') return 0;
    const char octave = word.at[word.size - 1];
    const bool sharp = word.size == 3;
    if (octave < '0' || octave > '9' || (sharp && word.at[1] != '#')) return 0;
    int semitone = white[word.at[0] - 'A'] + sharp, down = '9' - octave;
    if (semitone == 12) { /* B# is the C above */
        semitone = 0;
        down--;
    }
    int64_t hz = octave_9[semitone], divisor = (int64_t)1000000 << (down < 0 ? 0 : down);
    if (down < 0) hz *= 2;
    return (int32_t)((hz + divisor / 2) / divisor);
}

static const struct {
    const char *word;
    uint32_t rgb;
} colours[] = {{"red", 0xff0000},    {"orange", 0xff8000},  {"amber", 0xffbf00},
               {"yellow", 0xffff00}, {"green", 0x00ff00},   {"cyan", 0x00ffff},
               {"blue", 0x0000ff},   {"magenta", 0xff00ff}, {"white", 0xffffff}};

enum { COLOURS = sizeof colours / sizeof *colours };

static bool colour_named(fg_text word, uint32_t *colour)
{
    for (uint32_t i = 0; i < COLOURS; i++)
        if (fg_text_is(word, colours[i].word)) {
            *colour = FG_COLOUR(FG_COLOUR_NAMED, colours[i].rgb);
            return true;
        }
    return false;
}

static int hex_digit(char c)
{
    if (c >= '0' && c <= '9') return c - '0';
    if (c >= 'a' && c <= 'f') return c - 'a' + 10;
    return c >= 'A' && c <= 'F' ? c - 'A' + 10 : -1;
}

static void parse_written_colour(fg_front *f, fg_node *level)
{
    fg_span span = fg_lex_span(f);
    fg_text text;
    uint32_t rgb = 0;
    (void)fg_parse_string(f, &text, "");
    bool good = text.size == 6;
    for (size_t i = 0; good && i < text.size; i++) {
        int digit = hex_digit(text.at[i]);
        good = digit >= 0;
        rgb = rgb << 4 | (uint32_t)(digit & 15);
    }
    if (!good)
        fg_say(f, FG_FIND_LEVEL, span, "a colour in quotes is six digits 0-9 and a-f: red, green, blue, two each",
               "write \"ff8000\" or a name like amber");
    level->colour = FG_COLOUR(FG_COLOUR_WRITTEN, rgb);
}

/* ---- levels ---- */

/* Which forms each kind of output has, and what may stand behind them. */
static const struct {
    fg_kind kind;
    fg_form form;
    bool colour, percent;
} forms[] = {
    {FG_KIND_LAMP, FG_FORM_ON, true, true},      {FG_KIND_LAMP, FG_FORM_OFF, false, false},
    {FG_KIND_LAMP, FG_FORM_HOLD, false, false},  {FG_KIND_RELAY, FG_FORM_ON, false, false},
    {FG_KIND_RELAY, FG_FORM_OFF, false, false},  {FG_KIND_BUZZER, FG_FORM_QUIET, false, false},
    {FG_KIND_BUZZER, FG_FORM_TONE, false, true}, {FG_KIND_MOTOR, FG_FORM_FORWARD, false, true},
    {FG_KIND_MOTOR, FG_FORM_BACK, false, true},  {FG_KIND_MOTOR, FG_FORM_STOP, false, false},
    {FG_KIND_MOTOR, FG_FORM_HOLD, false, false},
};

enum { FORMS = sizeof forms / sizeof *forms };

static const char *levels_of(fg_kind kind)
{
    switch (kind) {
    case FG_KIND_LAMP: return "on, off, on 40%, on amber, on \"ff8000\" 40%, hold";
    case FG_KIND_RELAY: return "on, off";
    case FG_KIND_BUZZER: return "880Hz, C5, C#5, 880Hz 40%, quiet";
    default: return "forward 80%, back 30%, stop, hold";
    }
}

static const char *form_word(fg_form form)
{
    static const char *const words[] = {
#define FG_FORM_WORD(code, word) word,
        FG_FORMS(FG_FORM_WORD)
#undef FG_FORM_WORD
    };
    return words[form];
}

static fg_node *no_such_level(fg_front *f, fg_node *level, const fg_symbol *output)
{
    if (!f->lost)
        fg_say(f, FG_FIND_LEVEL, fg_lex_span(f), "a {} has no level '{}'", "it can be: {}",
               fg_text_c(fg_kind_word(output->kind)), fg_span_text(f, fg_lex_span(f)),
               fg_text_c(levels_of(output->kind)));
    f->lost = true;
    level->kind = NODE_BROKEN;
    return level;
}

/* Is here a number that belongs to the level, and not a word that goes on with the row? */
static bool at_number(const fg_front *f)
{
    if (fg_parse_at(f, TOK_NUMBER) || fg_parse_at(f, TOK_MINUS)) return true;
    if (!fg_parse_at(f, TOK_NAME) || fg_word_reserved(fg_lex_text(f))) return false;
    const fg_symbol *symbol = fg_name_find(f, fg_lex_text(f));
    return !f->in_trial || (symbol && symbol->kind == FG_KIND_NUMBER);
}

static void add_number(fg_front *f, fg_node *level, uint8_t role)
{
    fg_node *number = fg_parse_number(f);
    if (number->kind == NODE_BROKEN) {
        level->kind = NODE_BROKEN;
        return;
    }
    number->role = role;
    fg_node_add(level, number);
}

static void parse_strength(fg_front *f, fg_node *level, const fg_symbol *output, int form)
{
    if (level->kind == NODE_BROKEN) return;
    if (forms[form].colour) {
        if (fg_parse_at(f, TOK_STRING))
            parse_written_colour(f, level);
        else if (fg_parse_at(f, TOK_NAME) && colour_named(fg_lex_text(f), &level->colour))
            fg_lex_next(f);
    }
    if (!at_number(f)) return;
    if (forms[form].percent)
        add_number(f, level, ROLE_PERCENT);
    else
        (void)no_such_level(f, level, output);
}

/* Which of the forms of this kind a word is; FORMS if none. */
static int form_of(fg_kind kind, fg_text word)
{
    int i = 0;
    while (i < FORMS &&
           !(forms[i].kind == kind && forms[i].form != FG_FORM_TONE && fg_text_is(word, form_word(forms[i].form))))
        i++;
    return i;
}

static int tone_of(const fg_front *f, fg_kind kind)
{
    const fg_symbol *symbol = fg_parse_at(f, TOK_NAME) ? fg_name_find(f, fg_lex_text(f)) : NULL;
    bool tone = fg_parse_at(f, TOK_NUMBER) || fg_parse_at(f, TOK_NOTE) || fg_parse_at(f, TOK_MINUS);
    if (fg_parse_at(f, TOK_NAME)) tone = fg_note_hz(fg_lex_text(f)) || (symbol && symbol->kind == FG_KIND_NUMBER);
    int i = 0;
    while (i < FORMS && !(tone && forms[i].kind == kind && forms[i].form == FG_FORM_TONE)) i++;
    return i;
}

fg_node *fg_parse_level(fg_front *f, fg_symbol *output)
{
    fg_span from = fg_lex_span(f);
    fg_node *level = fg_node_new(f, NODE_LEVEL, from);
    level->word = fg_lex_text(f);
    int form = tone_of(f, output->kind);
    if (form == FORMS && fg_parse_at(f, TOK_NAME)) form = form_of(output->kind, level->word);
    if (form == FORMS || (f->in_trial && forms[form].form == FG_FORM_HOLD)) return no_such_level(f, level, output);
    level->role = (uint8_t)forms[form].form;
    if (forms[form].form == FG_FORM_TONE && !fg_note_hz(level->word))
        add_number(f, level, ROLE_NUMBER);
    else
        fg_lex_next(f);
    parse_strength(f, level, output, form);
    level->span = fg_span_to_here(f, from);
    return level;
}

/* ---- rows ---- */

static fg_node *parse_row(fg_front *f, fg_symbol *output)
{
    fg_node *row = fg_node_new(f, NODE_ROW, fg_lex_span(f));
    fg_node *level = fg_parse_level(f, output);
    row->role = FG_ALWAYS;
    if (level->kind == NODE_BROKEN) {
        row->kind = NODE_BROKEN;
        return row;
    }
    fg_node_add(row, level);
    if (fg_parse_accept_word(f, "when")) {
        fg_node *condition = fg_parse_condition(f);
        row->role = FG_WHEN;
        fg_node_add(row, condition);
        if (condition->kind == NODE_BROKEN) row->kind = NODE_BROKEN;
    } else if (fg_parse_accept_word(f, "if")) {
        row->role = FG_IF_UNSURE;
        (void)fg_parse_expect_word(f, "unsure", "write if unsure");
    } else if (!fg_parse_at_row_end(f)) {
        fg_parse_wrong(f, "'when'", "write LEVEL when CONDITION, LEVEL if unsure, or just LEVEL");
    }
    row->span = fg_span_to_here(f, row->span);
    return row;
}

void fg_parse_output(fg_front *f, fg_symbol *output)
{
    fg_block block;
    if (!fg_parse_block_open(f, &block)) return;
    while (fg_parse_block_row(f, &block)) {
        fg_symbol_add(output, parse_row(f, output));
        fg_parse_row_end(f);
    }
}
