/* Levels: what an output can be at, and what moves by itself. */
#include "front.h"

#include "core/mem.h"

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
} colours[] = {
#define FG_COLOUR_ROW(rgb, name) {name, rgb},
    FG_COLOURS(FG_COLOUR_ROW)
#undef FG_COLOUR_ROW
};

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

/* ---- which levels there are ---- */

#define ANY_OUTPUT                                                                                                     \
    (KIND(FG_KIND_LAMP) | KIND(FG_KIND_RELAY) | KIND(FG_KIND_BUZZER) | KIND(FG_KIND_MOTOR) | KIND(FG_KIND_SERVO) |     \
     KIND(FG_KIND_BAR) | KIND(FG_KIND_DISPLAY))
#define FOLLOWERS                                                                                                      \
    (KIND(FG_KIND_LAMP) | KIND(FG_KIND_BUZZER) | KIND(FG_KIND_MOTOR) | KIND(FG_KIND_SERVO) | KIND(FG_KIND_BAR))
#define HOLDERS (KIND(FG_KIND_LAMP) | KIND(FG_KIND_MOTOR) | KIND(FG_KIND_SERVO) | KIND(FG_KIND_BAR))

/* Whose each form is. */
static uint32_t kinds_of(fg_form form)
{
    switch (form) {
    case FG_FORM_OFF: return KIND(FG_KIND_LAMP) | KIND(FG_KIND_RELAY) | KIND(FG_KIND_BAR);
    case FG_FORM_ON: return KIND(FG_KIND_LAMP) | KIND(FG_KIND_RELAY);
    case FG_FORM_QUIET:
    case FG_FORM_TONE: return KIND(FG_KIND_BUZZER);
    case FG_FORM_STOP:
    case FG_FORM_FORWARD:
    case FG_FORM_BACK: return KIND(FG_KIND_MOTOR);
    case FG_FORM_TURN:
    case FG_FORM_SWEEP: return KIND(FG_KIND_SERVO);
    case FG_FORM_FILL:
    case FG_FORM_LIGHT: return KIND(FG_KIND_BAR);
    case FG_FORM_SHOW:
    case FG_FORM_BLANK: return KIND(FG_KIND_DISPLAY);
    case FG_FORM_HOLD: return HOLDERS;
    case FG_FORM_PLAY: return ANY_OUTPUT;
    case FG_FORM_FOLLOW: return FOLLOWERS;
    }
    return 0;
}

static const char *levels_of(fg_kind kind)
{
    switch (kind) {
    case FG_KIND_LAMP: return "on, off, on 40%, on amber, on \"ff8000\" 40%, hold, play, follow";
    case FG_KIND_RELAY: return "on, off, play";
    case FG_KIND_BUZZER: return "880Hz, C5, C#5, 880Hz 40%, quiet, play, follow";
    case FG_KIND_MOTOR: return "forward 80%, back 30%, stop, hold, play, follow";
    case FG_KIND_SERVO: return "90 deg, sweep 20..160 in 2s, hold, play, follow";
    case FG_KIND_BAR: return "fill 5, light 3, off, hold, play, follow";
    case FG_KIND_DISPLAY: return "show \"text\", blank, play";
    default: return "a plain level of an output, like on 40%, 880Hz, forward 80%, 90 deg, fill 5 or show \"text\"";
    }
}

/* One that a trial may ask for. */
static const char *level_of(fg_kind kind)
{
    switch (kind) {
    case FG_KIND_BUZZER: return "880Hz";
    case FG_KIND_MOTOR: return "forward 80%";
    case FG_KIND_SERVO: return "90 deg";
    case FG_KIND_BAR: return "fill 5";
    case FG_KIND_DISPLAY: return "\"GALE\"";
    default: return "on";
    }
}

bool fg_level_fits(fg_form form, fg_kind kind) { return kinds_of(form) & KIND(kind); }

/* A sequence is made of plain levels only. */
static bool allowed(const fg_front *f, fg_form form, const fg_symbol *output)
{
    if (f->in_sequence) return form < FG_FORM_HOLD;
    if (f->in_trial && form >= FG_FORM_HOLD) return false;
    return fg_level_fits(form, output->kind);
}

/* The form whose first word stands here; FG_FORM_TONE if none does. */
static fg_form word_form(const fg_front *f)
{
    for (int form = 0; form <= FG_FORM_SWEEP; form++)
        if (form != FG_FORM_TONE && form != FG_FORM_TURN && fg_parse_at_word(f, fg_form_word((fg_form)form)))
            return (fg_form)form;
    return FG_FORM_TONE;
}

static fg_node *no_such_level(fg_front *f, fg_node *level, const fg_symbol *output)
{
    const fg_kind kind = f->in_sequence ? FG_KIND_SEQUENCE : output->kind;
    const fg_form moves = word_form(f);
    if (!f->lost && f->in_trial && moves >= FG_FORM_HOLD && fg_level_fits(moves, kind))
        fg_say(f, FG_FIND_LEVEL, fg_lex_span(f), "'{}' is how a row sets the {}; a trial asks for what it is at",
               moves == FG_FORM_PLAY ? "write {} plays SEQUENCE, or name a level: {} is {}"
                                     : "name the level it comes to: {} is LEVEL, as in {} is {}",
               fg_span_text(f, fg_lex_span(f)), fg_text_c(fg_kind_word(kind)), output->name, output->name,
               fg_text_c(level_of(kind)));
    else if (!f->lost)
        fg_say(f, FG_FIND_LEVEL, fg_lex_span(f), "a {} has no level '{}'", "it can be: {}",
               fg_text_c(fg_kind_word(kind)), fg_span_text(f, fg_lex_span(f)), fg_text_c(levels_of(kind)));
    f->lost = true;
    level->kind = NODE_BROKEN;
    return level;
}

/* ---- parts ---- */

/* Is here a number that belongs to the level, and not a word that goes on with the row? */
static bool at_number(const fg_front *f)
{
    if (fg_parse_at(f, TOK_NUMBER) || fg_parse_at(f, TOK_MINUS)) return true;
    if (!fg_parse_at(f, TOK_NAME) || fg_word_reserved(fg_lex_text(f))) return false;
    const fg_symbol *symbol = fg_name_find(f, fg_lex_text(f));
    return !f->in_trial || (symbol && symbol->kind == FG_KIND_NUMBER);
}

static void add_child(fg_node *level, fg_node *child, uint8_t role)
{
    if (child->kind == NODE_BROKEN) {
        level->kind = NODE_BROKEN;
        return;
    }
    child->role = role;
    fg_node_add(level, child);
}

static void parse_strength(fg_front *f, fg_node *level, const fg_symbol *output)
{
    const fg_form form = (fg_form)level->role;
    const bool relay = !f->in_sequence && output->kind == FG_KIND_RELAY;
    if (level->kind == NODE_BROKEN) return;
    if (form == FG_FORM_ON && !relay) {
        if (fg_parse_at(f, TOK_STRING))
            parse_written_colour(f, level);
        else if (fg_parse_at(f, TOK_NAME) && colour_named(fg_lex_text(f), &level->colour))
            fg_lex_next(f);
    }
    if (fg_parse_at_word(f, "for") || !at_number(f)) return;
    if (form == FG_FORM_ON ? !relay : form == FG_FORM_TONE || form == FG_FORM_FORWARD || form == FG_FORM_BACK)
        add_child(level, fg_parse_number(f), ROLE_PERCENT);
    else
        (void)no_such_level(f, level, output);
}

/* A comma may also stand between the parts of a list that this level is in. */
static bool another_line(fg_front *f) { return !f->in_trial || fg_parse_peek(f).kind == TOK_STRING; }

static void parse_show(fg_front *f, fg_node *level)
{
    do {
        fg_node *text = fg_node_new(f, NODE_TEXT, fg_lex_span(f));
        if (!fg_parse_string(f, &text->word, "a text stands in quotes: show \"GALE\"")) {
            level->kind = NODE_BROKEN;
            return;
        }
        fg_parse_text(f, text);
        add_child(level, text, ROLE_NUMBER);
    } while (another_line(f) && fg_parse_accept(f, TOK_COMMA));
}

static void parse_play(fg_front *f, fg_node *level)
{
    level->word = fg_parse_name(f, &level->unit_span, "the name of a sequence");
    level->symbol = level->word.size ? fg_name_use(f, level->word, level->unit_span, KIND(FG_KIND_SEQUENCE)) : NULL;
    if (!level->symbol) {
        level->kind = NODE_BROKEN;
        return;
    }
    fg_parse_depend(f, level->symbol, level->unit_span);
    level->negated = fg_parse_accept_word(f, "through");
}

fg_node *fg_parse_follow(fg_front *f)
{
    fg_node *follow = fg_node_new(f, NODE_FOLLOW, fg_lex_span(f));
    fg_span span;
    fg_text name = fg_parse_name(f, &span, "the name of a sensor or count");
    follow->symbol = name.size ? fg_name_use(f, name, span, KIND(FG_KIND_SENSOR) | KIND(FG_KIND_COUNT)) : NULL;
    if (!follow->symbol) {
        follow->kind = NODE_BROKEN;
        f->lost = true;
        return follow;
    }
    fg_parse_depend(f, follow->symbol, span);
    fg_parse_own_unit(f, follow->symbol);
    add_child(follow, fg_parse_range(f), ROLE_RANGE);
    fg_parse_own_unit_end(f);
    if (fg_parse_accept_word(f, "to")) add_child(follow, fg_parse_range(f), ROLE_RANGE);
    follow->span = fg_span_to_here(f, follow->span);
    return follow;
}

static void parse_sweep(fg_front *f, fg_node *level)
{
    add_child(level, fg_parse_range(f), ROLE_RANGE);
    if (level->kind == NODE_BROKEN || !fg_parse_expect_word(f, "in", "write sweep A..B in T: T from end to end"))
        return;
    add_child(level, fg_parse_number(f), ROLE_TIME);
}

/* ---- the level ---- */

/* The form a number or a note stands for here; FG_FORM_HOLD if it is none. */
static fg_form number_form(const fg_front *f, const fg_symbol *output)
{
    const fg_text word = fg_lex_text(f);
    const bool servo = !f->in_sequence && output->kind == FG_KIND_SERVO;
    const bool buzzer = f->in_sequence || output->kind == FG_KIND_BUZZER;
    const bool number = fg_parse_at(f, TOK_NUMBER) || fg_parse_at(f, TOK_MINUS);
    const fg_symbol *symbol = fg_parse_at(f, TOK_NAME) ? fg_name_find(f, word) : NULL;
    const bool note = fg_parse_at(f, TOK_NOTE) || (fg_parse_at(f, TOK_NAME) && fg_note_hz(word));
    if (buzzer && (note || number)) return FG_FORM_TONE;
    if (!number && !(symbol && symbol->kind == FG_KIND_NUMBER)) return FG_FORM_HOLD;
    return servo ? FG_FORM_TURN : buzzer ? FG_FORM_TONE : FG_FORM_HOLD;
}

static void parse_rest_of(fg_front *f, fg_node *level, const fg_symbol *output)
{
    switch ((fg_form)level->role) {
    case FG_FORM_FILL:
    case FG_FORM_LIGHT: add_child(level, fg_parse_number(f), ROLE_NUMBER); return;
    case FG_FORM_SHOW: parse_show(f, level); return;
    case FG_FORM_PLAY: parse_play(f, level); return;
    case FG_FORM_FOLLOW: add_child(level, fg_parse_follow(f), ROLE_RANGE); return;
    case FG_FORM_SWEEP: parse_sweep(f, level); return;
    case FG_FORM_TURN: return;
    default: parse_strength(f, level, output); return;
    }
}

fg_node *fg_parse_level(fg_front *f, fg_symbol *output)
{
    fg_span from = fg_lex_span(f);
    fg_node *level = fg_node_new(f, NODE_LEVEL, from);
    level->word = fg_lex_text(f);
    if (f->in_trial && output->kind == FG_KIND_DISPLAY && fg_parse_at(f, TOK_STRING)) {
        level->role = FG_FORM_SHOW;
        parse_show(f, level);
        level->span = fg_span_to_here(f, from);
        return level;
    }
    fg_form form = number_form(f, output);
    if (form == FG_FORM_HOLD) {
        form = word_form(f);
        if (form == FG_FORM_TONE || !allowed(f, form, output)) return no_such_level(f, level, output);
        level->role = (uint8_t)form;
        fg_lex_next(f);
    } else {
        level->role = (uint8_t)form;
        if (form == FG_FORM_TONE && fg_note_hz(level->word))
            fg_lex_next(f);
        else
            add_child(level, fg_parse_number(f), ROLE_NUMBER);
    }
    parse_rest_of(f, level, output);
    level->span = fg_span_to_here(f, from);
    return level;
}
