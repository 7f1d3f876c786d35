/* SPDX-License-Identifier: MIT */
/* Levels: what an output can be at, and what moves by itself. */
#include "language/tree/meant.h"

#include "core/mem.h"

/* ---- notes and colours ---- */

/* A letter, a sharp if there is one, an octave: A4 is 440 Hz, rounded to whole Hz. 0 if the word is no note. */
int32_t fg_note_hz(fg_text word)
{
    /* Octave 9 in millionths of a Hz, 440 * 2^((n - 69) / 12); each octave below is half of it. */
    static const int64_t octave_9[] = {8372018090,  8869844191,  9397272573,  9956063479,  10548081821, 11175303406,
                                       11839821527, 12543853951, 13289750323, 14080000000, 14917240369, 15804265640};
    static const uint8_t white[] = {9, 11, 0, 2, 4, 5, 7}; /* A to G above C */
    if (word.size < 2 || word.size > 3 || word.at[0] < 'A' || word.at[0] > 'G') return 0;
    /* The octave stands last, with or without a sharp before it. */
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

/* One of FG_COLOURS. */
bool fg_colour_named(fg_text word, uint32_t *colour)
{
    uint32_t rgb;
    for (size_t i = 0;; i++) {
        const char *name = fg_colour_name(i, &rgb);
        if (!name) return false;
        if (!fg_text_is(word, name)) continue;
        *colour = FG_COLOUR(FG_COLOUR_NAMED, rgb);
        return true;
    }
}

/* "RRGGBB" */
static void parse_written_colour(fg_compiler *c, fg_node *level)
{
    fg_span span = fg_lex_span(c);
    fg_text text;
    uint32_t rgb = 0;
    (void)fg_parse_string(c, &text, "");
    bool good = text.size == 6;
    for (size_t i = 0; good && i < text.size; i++) {
        int digit = fg_hex_digit(text.at[i]);
        good = digit >= 0;
        rgb = rgb << 4 | (uint32_t)(digit & 15);
    }
    if (!good)
        fg_report(c, FG_FIND_LEVEL, span, "a colour in quotes is six digits 0-9 and a-f: red, green, blue, two each",
                  "write \"ff8000\" or a name like amber");
    level->level.colour = FG_COLOUR(FG_COLOUR_WRITTEN, rgb);
}

/* ---- which levels there are ---- */

/* What messages say of the levels of each output: all of them, and one that a trial may ask for. */
static const struct {
    const char *all, *one;
} levels[] = {
    [FG_OUTPUT_LAMP] = {"on, off, on 40%, on amber, on \"ff8000\" 40%, hold, play, follow", "on"},
    [FG_OUTPUT_RELAY] = {"on, off, play", "on"},
    [FG_OUTPUT_BUZZER] = {"880Hz, C5, C#5, 880Hz 40%, quiet, play, follow", "880Hz"},
    [FG_OUTPUT_MOTOR] = {"forward 80%, back 30%, stop, hold, play, follow", "forward 80%"},
    [FG_OUTPUT_SERVO] = {"90 deg, sweep 20..160 in 2s, hold, play, follow", "90 deg"},
    [FG_OUTPUT_BAR] = {"fill 5, light 3, off, hold, play, follow", "fill 5"},
    [FG_OUTPUT_DISPLAY] = {"show \"text\", blank, play", "\"GALE\""},
};

FG_STATIC_ASSERT(sizeof levels / sizeof *levels == FG_OUTPUT_KINDS, "a text for each output");

/* For messages. A sequence belongs to no output, so any plain level may stand in it. */
static const char *levels_of(const fg_symbol *owner)
{
    if (fg_kind_is(owner->kind, FG_KIND_IS_OUTPUT)) return levels[owner->kind - FG_KIND_LAMP].all;
    return "a plain level of an output, like on 40%, 880Hz, forward 80%, 90 deg, fill 5 or show \"text\"";
}

/* Outputs are numbered in the order of their kinds. */
bool fg_level_fits(fg_form form, fg_kind output)
{
    return fg_kind_is(output, FG_KIND_IS_OUTPUT) && fg_form_fits(form, (fg_output_kind)(output - FG_KIND_LAMP));
}

/* hold, play, follow, sweep: how a row sets an output, not what it is at. */
static bool in_rows(fg_form form) { return fg_form_traits(form) & FG_FORM_IN_ROWS; }

/* A sequence is made of what an output can be at, and a trial asks for that. */
static bool allowed(const fg_compiler *c, fg_form form, const fg_symbol *owner)
{
    if (owner->kind == FG_KIND_SEQUENCE) return !in_rows(form);
    return !(c->in_trial && in_rows(form)) && fg_level_fits(form, owner->kind);
}

/* The form whose word stands here; FG_FORMS_IN_ALL if none does. */
static int word_form(const fg_compiler *c)
{
    int form = 0;
    while (form < FG_FORMS_IN_ALL &&
           (fg_form_traits((fg_form)form) & FG_FORM_IS_NUMBER || !fg_parse_at_word(c, fg_form_word((fg_form)form))))
        form++;
    return form;
}

/* `On`: the form whose word it is in other letters; FG_FORMS_IN_ALL if it is none. */
static int form_in_other_case(const fg_compiler *c, const fg_symbol *owner)
{
    int form = 0;
    while (form < FG_FORMS_IN_ALL &&
           (fg_form_traits((fg_form)form) & FG_FORM_IS_NUMBER || !allowed(c, (fg_form)form, owner) ||
            !fg_parse_at(c, TOK_NAME) || !fg_meant_word(fg_lex_text(c), fg_form_word((fg_form)form))))
        form++;
    return form;
}

/* `red is never on`: the level behind the word, for the message. */
static fg_text behind_text(fg_compiler *c, const fg_symbol *owner)
{
    const fg_token next = fg_parse_peek(c);
    if (next.kind == TOK_NAME) return (fg_text){c->lexer.text.at + next.at, next.end - next.at};
    return fg_text_of(levels[owner->kind - FG_KIND_LAMP].one);
}

/* In a trial the words of rows are known, but ask for nothing; the message says what to ask instead. */
static fg_node *no_such_level(fg_compiler *c, fg_node *level, const fg_symbol *owner)
{
    const fg_text kind = fg_text_of(fg_kind_word(owner->kind)), here = fg_lex_text(c);
    const int form = word_form(c);
    int other_case;
    const fg_meant *meant = fg_parse_at(c, TOK_NAME) ? fg_meant_level(owner->kind, here) : NULL;
    uint32_t colour;
    if (fg_parse_at(c, TOK_FOREIGN)) fg_meant_sign(c);
    if (!c->lost && c->in_trial && form < FG_FORMS_IN_ALL && in_rows((fg_form)form) &&
        fg_level_fits((fg_form)form, owner->kind))
        fg_report(c, FG_FIND_LEVEL, fg_lex_span(c), "'{}' is how a row sets the {}; a trial asks for what it is at",
                  form == FG_FORM_PLAY ? "write {} plays SEQUENCE, or name a level: {} is {}"
                                       : "name the level it comes to: {} is LEVEL, as in {} is {}",
                  fg_span_text(c, fg_lex_span(c)), kind, owner->name, owner->name,
                  fg_text_of(levels[owner->kind - FG_KIND_LAMP].one));
    else if (!c->lost && c->in_trial && (fg_text_is(here, "never") || fg_text_is(here, "always")))
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "'{}' goes after the expectation", "write {} is {} {}", here,
                  owner->name, behind_text(c, owner), here);
    else if (!c->lost && meant) {
        fg_report(c, FG_FIND_LEVEL, fg_lex_span(c), "a {} has no level '{}'", meant->instead, kind, here);
        if (meant->fix) fg_report_fix(c, fg_lex_span(c), fg_text_of(meant->fix));
    } else if (!c->lost && fg_parse_at(c, TOK_NAME) && fg_kind_is(owner->kind, FG_KIND_IS_OUTPUT) &&
               owner->kind == FG_KIND_LAMP && fg_colour_named(here, &colour)) {
        fg_report(c, FG_FIND_LEVEL, fg_lex_span(c), "a colour is no level by itself", "write on {}", here);
        fg_report_fix(c, fg_lex_span(c), fg_text_join(c, T("on "), "", here));
    } else if (!c->lost && (other_case = form_in_other_case(c, owner)) < FG_FORMS_IN_ALL) {
        const fg_text word = fg_text_of(fg_form_word((fg_form)other_case));
        fg_report(c, FG_FIND_LEVEL, fg_lex_span(c), "a {} has no level '{}'", "did you mean '{}'?", kind, here, word);
        fg_report_fix(c, fg_lex_span(c), word);
    } else if (!c->lost)
        fg_report(c, FG_FIND_LEVEL, fg_lex_span(c), "a {} has no level '{}'", "it can be: {}", kind,
                  fg_span_text(c, fg_lex_span(c)), fg_text_of(levels_of(owner)));
    c->lost = true;
    level->kind = NODE_BROKEN;
    return level;
}

/* ---- parts ---- */

/* Is here a number that belongs to the level, and not a word that goes on with the row? */
static bool at_number(const fg_compiler *c)
{
    if (fg_parse_at(c, TOK_NUMBER) || fg_parse_at(c, TOK_MINUS)) return true;
    if (!fg_parse_at(c, TOK_NAME) || fg_word_reserved(fg_lex_text(c))) return false;
    const fg_symbol *symbol = fg_name_find(c, fg_lex_text(c));
    return !c->in_trial || (symbol && symbol->kind == FG_KIND_NUMBER);
}

/* A level is as broken as its parts. */
static void add_part(fg_node *level, fg_node *child, fg_level_part part)
{
    if (child->kind == NODE_BROKEN) {
        level->kind = NODE_BROKEN;
        return;
    }
    child->part = (uint8_t)part;
    fg_node_add(level, child);
}

/* Colour and percent. A relay is `on` without either; in a sequence nobody knows yet whose level it is. */
static void parse_strength(fg_compiler *c, fg_node *level, fg_form form, const fg_symbol *output)
{
    const uint8_t traits = output->kind == FG_KIND_RELAY ? 0 : fg_form_traits(form);
    if (level->kind == NODE_BROKEN) return;
    if (traits & FG_FORM_HAS_COLOUR) {
        if (fg_parse_at(c, TOK_STRING))
            parse_written_colour(c, level);
        else if (fg_parse_at(c, TOK_NAME) && fg_colour_named(fg_lex_text(c), &level->level.colour))
            fg_lex_next(c);
    }
    if (fg_parse_at_word(c, "for") || !at_number(c)) return;
    if (output->kind == FG_KIND_SEQUENCE && !(traits & FG_FORM_HAS_PERCENT)) return; /* told by the segment */
    if (traits & FG_FORM_HAS_PERCENT)
        add_part(level, fg_parse_number(c), PART_PERCENT);
    else if (output->kind == FG_KIND_RELAY && fg_parse_at(c, TOK_NUMBER)) {
        fg_report(c, FG_FIND_LEVEL, fg_lex_span(c), "a relay has no strength",
                  "write on alone, or declare it as lamp or motor");
        c->lost = true;
        level->kind = NODE_BROKEN;
    } else
        (void)no_such_level(c, level, output);
}

/* A comma may also stand between the parts of a list that this level is in. */
static bool another_line(fg_compiler *c) { return !c->in_trial || fg_parse_peek(c).kind == TOK_STRING; }

/* show "LINE" { , "LINE" } */
static void parse_show(fg_compiler *c, fg_node *level)
{
    do {
        fg_node *text = fg_node_new(c, NODE_SHOWN_LINE, fg_lex_span(c));
        const fg_symbol *named = fg_parse_at(c, TOK_NAME) ? fg_name_find(c, fg_lex_text(c)) : NULL;
        if (named && !c->lost) {
            const fg_text quoted = fg_text_join(c, fg_text_join(c, T("\"{"), "", named->name), "", T("}\""));
            fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c),
                      "put what is shown in quotes, and a name in braces inside them", "write show {}", quoted);
            fg_report_fix(c, fg_lex_span(c), quoted);
            c->lost = true;
        }
        if (c->lost || !fg_parse_string(c, &text->word, "put the text in quotes: show \"GALE\"")) {
            level->kind = NODE_BROKEN;
            return;
        }
        fg_parse_text(c, text);
        add_part(level, text, PART_NUMBER);
    } while (another_line(c) && fg_parse_accept(c, TOK_COMMA));
}

/* play SEQUENCE [through]. Reading it makes the output hang on the sequence, which is lowered first. */
static void parse_play(fg_compiler *c, fg_node *level)
{
    level->word = fg_parse_name(c, &level->level.name_span, "the name of a sequence");
    level->symbol =
        level->word.size ? fg_name_use(c, level->word, level->level.name_span, FG_KIND_BIT(FG_KIND_SEQUENCE)) : NULL;
    if (!level->symbol) {
        level->kind = NODE_BROKEN;
        return;
    }
    fg_name_depend(c, level->symbol, level->level.name_span);
    level->level.through = fg_parse_accept_word(c, "through");
}

/* SOURCE A..B [to C..D] */
fg_node *fg_parse_follow(fg_compiler *c)
{
    fg_node *follow = fg_node_new(c, NODE_FOLLOW, fg_lex_span(c));
    fg_span span;
    fg_text name = fg_parse_name(c, &span, "the name of a sensor or count");
    follow->symbol = name.size ? fg_name_use(c, name, span, FG_KINDS_WITH(FG_KIND_MEASURED)) : NULL;
    if (!follow->symbol) {
        follow->kind = NODE_BROKEN;
        c->lost = true;
        return follow;
    }
    fg_name_depend(c, follow->symbol, span);
    if (fg_parse_at_row_end(c) && !c->lost) {
        fg_report(c, FG_FIND_SYNTAX, span, "what is followed needs its lowest and highest value",
                  "write follow {} A..B", name);
        c->lost = true;
        follow->kind = NODE_BROKEN;
        return follow;
    }
    fg_parse_own_unit(c, follow->symbol);
    add_part(follow, fg_parse_range(c), PART_RANGE);
    fg_parse_own_unit_end(c);
    if (fg_parse_accept_word(c, "to")) add_part(follow, fg_parse_range(c), PART_RANGE);
    follow->span = fg_span_to_here(c, follow->span);
    return follow;
}

/* A..B in T */
static void parse_sweep(fg_compiler *c, fg_node *level)
{
    add_part(level, fg_parse_range(c), PART_RANGE);
    if (level->kind == NODE_BROKEN || !fg_parse_expect_word(c, "in", "write sweep A..B in T: T from end to end"))
        return;
    add_part(level, fg_parse_number(c), PART_TIME);
}

/* ---- the level ---- */

/* The form that a number or a note begins here; FG_FORMS_IN_ALL if it begins none. In a sequence a bare number is a
 * tone until its unit is known. */
static int number_form(const fg_compiler *c, const fg_symbol *output)
{
    const fg_text word = fg_lex_text(c);
    const bool buzzer = output->kind == FG_KIND_SEQUENCE || output->kind == FG_KIND_BUZZER;
    const bool number = fg_parse_at(c, TOK_NUMBER) || fg_parse_at(c, TOK_MINUS);
    const fg_symbol *symbol = fg_parse_at(c, TOK_NAME) ? fg_name_find(c, word) : NULL;
    const bool note = fg_parse_at(c, TOK_NOTE) || (fg_parse_at(c, TOK_NAME) && fg_note_hz(word));
    if (buzzer && (note || number)) return FG_FORM_TONE;
    if (!number && !(symbol && symbol->kind == FG_KIND_NUMBER)) return FG_FORMS_IN_ALL;
    if (output->kind == FG_KIND_SERVO) return FG_FORM_TURN;
    return buzzer ? (int)FG_FORM_TONE : (int)FG_FORMS_IN_ALL;
}

/* What stands behind the word of a level. */
static void parse_rest_of(fg_compiler *c, fg_node *level, fg_form form, const fg_symbol *output)
{
    switch (form) {
    case FG_FORM_FILL:
    case FG_FORM_LIGHT: add_part(level, fg_parse_number(c), PART_NUMBER); return;
    case FG_FORM_SHOW: parse_show(c, level); return;
    case FG_FORM_PLAY: parse_play(c, level); return;
    case FG_FORM_FOLLOW: add_part(level, fg_parse_follow(c), PART_RANGE); return;
    case FG_FORM_SWEEP: parse_sweep(c, level); return;
    case FG_FORM_TURN: return;
    default: parse_strength(c, level, form, output); return;
    }
}

/* A number that is a level by itself (880Hz, 90 deg, a note), or a word with its parts. In a trial a text alone is
 * what a display shows. */
fg_node *fg_parse_level(fg_compiler *c, fg_symbol *output)
{
    fg_span from = fg_lex_span(c);
    fg_node *level = fg_node_new(c, NODE_LEVEL, from);
    level->word = fg_lex_text(c);
    /* `expect board is "GALE"` */
    if (c->in_trial && output->kind == FG_KIND_DISPLAY && fg_parse_at(c, TOK_STRING)) {
        level->level.form = FG_FORM_SHOW;
        parse_show(c, level);
        level->span = fg_span_to_here(c, from);
        return level;
    }
    int form = number_form(c, output);
    if (form == FG_FORMS_IN_ALL) {
        form = word_form(c);
        if (form == FG_FORMS_IN_ALL || !allowed(c, (fg_form)form, output)) return no_such_level(c, level, output);
        level->level.form = (uint8_t)form;
        fg_lex_next(c);
    } else {
        level->level.form = (uint8_t)form;
        if (form == FG_FORM_TONE && fg_note_hz(level->word))
            fg_lex_next(c);
        else
            add_part(level, fg_parse_number(c), PART_NUMBER);
    }
    parse_rest_of(c, level, (fg_form)form, output);
    level->span = fg_span_to_here(c, from);
    return level;
}
