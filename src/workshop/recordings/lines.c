/* SPDX-License-Identifier: MIT */
/* Lines as boards print them, taken apart. */
#include <ficklegate/lines.h>

/* ---- characters ---- */

typedef struct scanner {
    fg_text text;
    size_t at;
} scanner;

static char here(const scanner *s, size_t ahead)
{
    if (s->at + ahead >= s->text.size) return '\0';
    return s->text.at[s->at + ahead];
}

static bool is_digit(char c) { return c >= '0' && c <= '9'; }
static bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; }
static bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r'; }
static bool divides(char c) { return is_blank(c) || c == ',' || c == ';' || c == '\0'; }

static void skip_blanks(scanner *s)
{
    while (is_blank(here(s, 0))) s->at++;
}

static fg_text since(const scanner *s, size_t begin) { return (fg_text){s->text.at + begin, s->at - begin}; }

/* ---- parts ---- */

/* 12:00:01 or 12:00:01.250, with a blank or a sign that divides behind it. */
static fg_text clock_of(scanner *s)
{
    const size_t begin = s->at;
    for (int part = 0; part < 3; part++) {
        const size_t digits = s->at;
        while (is_digit(here(s, 0))) s->at++;
        const size_t size = s->at - digits;
        if (size < 1 || size > 2 || (part < 2 && here(s, 0) != ':')) break;
        if (part < 2) {
            s->at++;
            continue;
        }
        if (here(s, 0) == '.' && is_digit(here(s, 1)))
            for (s->at++; is_digit(here(s, 0));) s->at++;
        if (divides(here(s, 0))) return since(s, begin);
    }
    s->at = begin;
    return (fg_text){0};
}

/* A number as fg_value_read takes it; empty if none begins here. */
static fg_text number_of(scanner *s)
{
    const size_t begin = s->at;
    bool digits = false;
    if (here(s, 0) == '-' || here(s, 0) == '+') s->at++;
    for (; is_digit(here(s, 0)); digits = true) s->at++;
    if (here(s, 0) == '.')
        for (s->at++; is_digit(here(s, 0)); digits = true) s->at++;
    if (!digits) {
        s->at = begin;
        return (fg_text){0};
    }
    const char sign = here(s, 1);
    if ((here(s, 0) == 'e' || here(s, 0) == 'E') &&
        (is_digit(sign) || ((sign == '-' || sign == '+') && is_digit(here(s, 2)))))
        for (s->at += 2; is_digit(here(s, 0));) s->at++;
    return since(s, begin);
}

/* Up to what divides; a comma before a digit is a decimal one, and belongs to it. */
static fg_text word_of(scanner *s)
{
    const size_t begin = s->at;
    while (!divides(here(s, 0)) ||
           (here(s, 0) == ',' && s->at > begin && is_digit(here(s, 1)) && is_digit(s->text.at[s->at - 1])))
        s->at++;
    return since(s, begin);
}

static bool is_name(scanner s);

/* A level such as `forward 80%` or `show "low", "water"`: up to what divides it from the next reading. */
static fg_text words_of(scanner *s)
{
    const size_t begin = s->at;
    size_t end = begin;
    bool quoted = false;
    for (; s->at < s->text.size; s->at++) {
        const char c = here(s, 0);
        if (c == '"') quoted = !quoted;
        if (quoted || !divides(c)) end = s->at + 1;
        if (quoted || !divides(c)) continue;
        scanner next = {s->text, s->at + 1};
        skip_blanks(&next);
        if (c == ',' ? here(&next, 0) != '"' : c != ' ' || is_name(next)) break;
    }
    s->at = end;
    return since(s, begin);
}

/* NAME = or NAME : with the blanks around the sign. Empty, and nothing is taken, if it is none. */
static fg_text name_of(scanner *s)
{
    const size_t begin = s->at;
    if (!is_letter(here(s, 0))) return (fg_text){0};
    while (is_letter(here(s, 0)) || is_digit(here(s, 0)) || here(s, 0) == '.' || here(s, 0) == '-') s->at++;
    const fg_text name = since(s, begin);
    skip_blanks(s);
    if (here(s, 0) == '=' || here(s, 0) == ':') {
        s->at++;
        skip_blanks(s);
        return name;
    }
    s->at = begin;
    return (fg_text){0};
}

static bool is_name(scanner s) { return name_of(&s).size != 0; }

/* Behind a number: right behind it, or a blank on if it is no name that begins the next reading. */
static fg_text unit_of(scanner *s)
{
    const size_t begin = s->at;
    skip_blanks(s);
    if (here(s, 0) == '\0' || here(s, 0) == ',' || here(s, 0) == ';' || is_digit(here(s, 0)) || here(s, 0) == '-' ||
        here(s, 0) == '+' || here(s, 0) == '.' || is_name(*s)) {
        s->at = begin;
        return (fg_text){0};
    }
    return word_of(s);
}

/* The share behind a tone, as in 523Hz 50%, which is one level. */
static bool takes_share(scanner *s)
{
    scanner next = *s;
    skip_blanks(&next);
    if (next.at == s->at || !number_of(&next).size || here(&next, 0) != '%' || !divides(here(&next, 1))) return false;
    s->at = next.at + 1;
    return true;
}

/* ---- the line ---- */

static bool take_reading(scanner *s, fg_line_reading *reading)
{
    *reading = (fg_line_reading){.name = name_of(s)};
    const size_t begin = s->at;
    reading->value = number_of(s);
    if (reading->name.size && reading->value.size && here(s, 0) == ',' && is_digit(here(s, 1))) {
        s->at = begin; /* depth=12,5 is kept as it is written */
        reading->value = word_of(s);
        reading->unit = unit_of(s);
        return true;
    }
    if (reading->value.size) {
        if (reading->name.size) reading->unit = unit_of(s);
        if (reading->unit.size && takes_share(s))
            *reading = (fg_line_reading){.name = reading->name, .value = since(s, begin)};
        return divides(here(s, 0));
    }
    if (!reading->name.size) return false;
    if (is_blank(s->text.at[s->at - 1]) && is_name(*s)) return true; /* `depth= wind=3` */
    reading->value = words_of(s);
    return true; /* also `depth=`, which was not read */
}

void fg_line_read(fg_text text, fg_line *line)
{
    scanner s = {text, 0};
    bool named = false, numbers = false;
    line->kind = FG_LINE_EMPTY;
    line->count = 0;
    skip_blanks(&s);
    line->clock = clock_of(&s);
    for (;;) {
        while (s.at < text.size && divides(here(&s, 0)) && here(&s, 0)) s.at++;
        if (s.at >= text.size) break;
        if (here(&s, 0) == '#' && !line->count && !line->clock.size) break;
        line->kind = FG_LINE_OTHER;
        if (line->count == FG_LINE_READINGS_MOST || !take_reading(&s, &line->readings[line->count])) {
            line->count = 0;
            return;
        }
        const bool has_name = line->readings[line->count++].name.size != 0;
        named = named || has_name;
        numbers = numbers || !has_name;
    }
    if (!line->count) return;
    if (named && numbers)
        line->count = 0;
    else
        line->kind = named ? FG_LINE_NAMED : FG_LINE_NUMBERS;
}
