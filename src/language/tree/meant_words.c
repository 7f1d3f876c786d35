/* SPDX-License-Identifier: MIT */
/* Words and signs of other languages. Each table is the whole of what is known; the messages are made of it. */
#include "language/tree/meant_words.h"

#include "language/text/lexer.h"

#define SEQUENCE_FIRST "write it as a sequence and play it: sequence NAME { "

/* ---- declarations ---- */

static const fg_meant statements[] = {
    {"led", "write lamp {} { on when CONDITION }", "lamp"},
    {"light", "write lamp {} { on when CONDITION }", "lamp"},
    {"bulb", "write lamp {} { on when CONDITION }", "lamp"},
    {"button", "write flag {}", "flag"},
    {"key", "write flag {}", "flag"},
    {"input", "write flag {} for yes and no, sensor {} { unit cm } for a number", NULL},
    {"switch", "write flag {} for one that is read, relay {} { on when CONDITION } for one that is switched", NULL},
    {"output", "write lamp {} { on when CONDITION }, or relay, motor, servo, buzzer, bar, display", NULL},
    {"fan", "write motor {} { forward when CONDITION }, or relay {} { on when CONDITION }", NULL},
    {"pump", "write motor {} { forward when CONDITION }, or relay {} { on when CONDITION }", NULL},
    {"heater", "write relay {} { on when CONDITION }", "relay"},
    {"valve", "write relay {} { on when CONDITION }", "relay"},
    {"siren", "write buzzer {} { 880Hz when CONDITION }", NULL},
    {"speaker", "write buzzer {} { 880Hz when CONDITION }", NULL},
    {"beeper", "write buzzer {} { 880Hz when CONDITION }", NULL},
    {"alarm", "write buzzer {} { 880Hz when CONDITION }, or latch {} { set when CONDITION; clear when FLAG }", NULL},
    {"lcd", "write display {} { size 16x2; show \"text\" when CONDITION }", "display"},
    {"oled", "write display {} { size 16x2; show \"text\" when CONDITION }", "display"},
    {"screen", "write display {} { size 16x2; show \"text\" when CONDITION }", "display"},
    {"print", "write display NAME { size 16x2; show \"text\" when CONDITION }", NULL},
    {"echo", "write display NAME { size 16x2; show \"text\" when CONDITION }", NULL},
    {"log", "leave it out: a replay reports every change", NULL},
    {"blink", SEQUENCE_FIRST "on for 500ms; off for 500ms; repeat }, and in the lamp: play NAME when CONDITION", NULL},
    {"flash", SEQUENCE_FIRST "on for 500ms; off for 500ms; repeat }, and in the lamp: play NAME when CONDITION", NULL},
    {"beep", SEQUENCE_FIRST "880Hz for 200ms; quiet for 200ms; repeat }, and in the buzzer: play NAME when CONDITION",
     NULL},
    {"delay", "put the time behind a condition: KEY for 5s; or write pulse NAME { start when CONDITION; last 5s }",
     NULL},
    {"wait", "put the time behind a condition: KEY for 5s; or write pulse NAME { start when CONDITION; last 5s }",
     NULL},
    {"sleep", "put the time behind a condition: KEY for 5s; or write pulse NAME { start when CONDITION; last 5s }",
     NULL},
    {"timer", "write pulse {} { start when CONDITION; last 5s }", NULL},
    {"if", "say what is switched, then when: lamp NAME { on when CONDITION }", NULL},
    {"when", "say what is switched, then when: lamp NAME { on when CONDITION }", NULL},
    {"while", "say what is switched, then when: lamp NAME { on when CONDITION }", NULL},
    {"else", "write a row without a condition, as the last: lamp NAME { on when CONDITION; off }", NULL},
    {"elif", "write one row below the other: lamp NAME { on when CONDITION; on 40% when CONDITION }", NULL},
    {"then", "say what is switched, then when: lamp NAME { on when CONDITION }", NULL},
    {"const", "write number {} = 5", "number"},
    {"let", "write number {} = 5", "number"},
    {"var", "write number {} = 5", "number"},
    {"int", "write number {} = 5", "number"},
    {"float", "write number {} = 5", "number"},
    {"double", "write number {} = 5", "number"},
    {"constant", "write number {} = 5", "number"},
    {"define", "write number {} = 5", NULL},
    {"set", "write number {} = 5", NULL},
    {"bool", "write condition {} = CONDITION", "condition"},
    {"analog", "write sensor {} { unit cm; raw 0..1023 reads 0..250 }", NULL},
    {"probe", "write sensor {} { unit cm }", "sensor"},
    {"range", "write bands {} from SENSOR { low | 20 | high }", NULL},
    {"ranges", "write bands {} from SENSOR { low | 20 | high }", NULL},
    {"band", "write bands {} from SENSOR { low | 20 | high }", "bands"},
    {"rule", "write threshold {} from SENSOR { over 20 }, or bands {} from SENSOR { low | 20 | high }", NULL},
    {"counter", "write count {} { add when CONDITION }", "count"},
    {"void", "leave it out: every declaration is at work at every step", NULL},
    {"loop", "leave it out: every declaration is at work at every step", NULL},
    {"setup", "leave it out: every declaration is at work at every step", NULL},
    {"test", "write trial \"name\" { readings \"FILE.csv\"; expect CONDITION at 2s }", NULL},
    {"expect", "write it in a trial: trial \"name\" { readings \"FILE.csv\"; expect CONDITION at 2s }", NULL},
    {"import", "write include \"FILE.gate\"", "include"},
};

/* ---- rows and levels ---- */

/* The same with whose row it is. */
typedef struct meant_of {
    uint32_t kinds;
    fg_meant meant;
} meant_of;

#define OF_SENSOR     FG_KIND_BIT(FG_KIND_SENSOR)
#define OF_THRESHOLD  FG_KIND_BIT(FG_KIND_THRESHOLD)
#define OF_HYSTERESIS FG_KIND_BIT(FG_KIND_HYSTERESIS)
#define OF_LAMP       FG_KIND_BIT(FG_KIND_LAMP)
#define OF_RELAY      FG_KIND_BIT(FG_KIND_RELAY)
#define OF_BUZZER     FG_KIND_BIT(FG_KIND_BUZZER)
#define OF_MOTOR      FG_KIND_BIT(FG_KIND_MOTOR)
#define OF_BAR        FG_KIND_BIT(FG_KIND_BAR)
#define OF_DISPLAY    FG_KIND_BIT(FG_KIND_DISPLAY)
#define OF_SEQUENCE   FG_KIND_BIT(FG_KIND_SEQUENCE)
#define OF_SERVO      FG_KIND_BIT(FG_KIND_SERVO)
#define OF_OUTPUTS    FG_KINDS_WITH(FG_KIND_IS_OUTPUT)

static const meant_of rows[] = {
    {OF_SENSOR, {"pin", "leave it out: which pin it is stands in the board's own code", NULL}},
    {OF_SENSOR, {"min", "write trust LOWEST..HIGHEST: what lies outside is faulty", NULL}},
    {OF_SENSOR, {"max", "write trust LOWEST..HIGHEST: what lies outside is faulty", NULL}},
    {OF_SENSOR, {"range", "write trust LOWEST..HIGHEST: what lies outside is faulty", NULL}},
    {OF_SENSOR, {"limits", "write trust LOWEST..HIGHEST: what lies outside is faulty", NULL}},
    {OF_SENSOR, {"average", "write mean 5, or median 5", "mean"}},
    {OF_SENSOR, {"avg", "write mean 5, or median 5", "mean"}},
    {OF_SENSOR, {"smooth", "write mean 5, or median 5", NULL}},
    {OF_SENSOR, {"filter", "write mean 5, or median 5", NULL}},
    {OF_SENSOR, {"map", "write raw 0..1023 reads 0..100", NULL}},
    {OF_SENSOR, {"scale", "write raw 0..1023 reads 0..100", NULL}},
    {OF_SENSOR, {"resolution", "write step 0.1", "step"}},
    {OF_SENSOR, {"precision", "write step 0.1", "step"}},
    {OF_SENSOR, {"decimals", "write step 0.1 for one decimal, step 0.01 for two", NULL}},
    {OF_SENSOR, {"units", "write unit cm", "unit"}},
    {OF_SENSOR, {"timeout", "write stale after 5s", NULL}},
    {OF_SENSOR, {"offset", "write zero when FLAG", NULL}},
    {OF_SENSOR, {"tare", "write zero when FLAG", NULL}},
    {OF_THRESHOLD, {"equals", "write near 20 by 1, or within 19..21: a reading is hardly ever exactly a number", NULL}},
    {OF_THRESHOLD, {"equal", "write near 20 by 1, or within 19..21: a reading is hardly ever exactly a number", NULL}},
    {OF_THRESHOLD, {"is", "write over 20, or near 20 by 1", NULL}},
    {OF_THRESHOLD, {"on", "write over 20; with two limits declare it as hysteresis: on over 20; off under 10", NULL}},
    {OF_THRESHOLD, {"max", "write over 20: yes above it", NULL}},
    {OF_THRESHOLD, {"min", "write under 20: yes below it", NULL}},
    {OF_HYSTERESIS, {"over", "write on over 20; off under 10", NULL}},
    {OF_HYSTERESIS, {"under", "write on over 20; off under 10", NULL}},
    {OF_HYSTERESIS, {"at", "write on at least 20; off at most 10", NULL}},
    {OF_HYSTERESIS, {"high", "write on over 20; off under 10", NULL}},
    {OF_HYSTERESIS, {"low", "write on over 20; off under 10", NULL}},
    {OF_HYSTERESIS, {"margin", "move its two limits apart instead: on over 20; off under 10", NULL}},
    {FG_KIND_BIT(FG_KIND_LATCH), {"on", "write set when CONDITION", "set"}},
    {FG_KIND_BIT(FG_KIND_LATCH), {"off", "write clear when CONDITION", "clear"}},
    {FG_KIND_BIT(FG_KIND_LATCH), {"reset", "write clear when CONDITION", "clear"}},
    {FG_KIND_BIT(FG_KIND_COUNT), {"up", "write add when CONDITION", "add"}},
    {FG_KIND_BIT(FG_KIND_COUNT), {"down", "write take when CONDITION", "take"}},
    {FG_KIND_BIT(FG_KIND_COUNT), {"reset", "write zero when CONDITION", "zero"}},
    {FG_KIND_BIT(FG_KIND_COUNT), {"max", "write limit 0..8", NULL}},
    {FG_KIND_BIT(FG_KIND_PULSE), {"for", "write last 5s", "last"}},
    {FG_KIND_BIT(FG_KIND_PULSE), {"time", "write last 5s", "last"}},
    {FG_KIND_BIT(FG_KIND_PULSE), {"lasts", "write last 5s", "last"}},
    {FG_KIND_BIT(FG_KIND_PULSE), {"duration", "write last 5s", "last"}},
};

static const meant_of levels[] = {
    {OF_LAMP,
     {"blink", SEQUENCE_FIRST "on for 500ms; off for 500ms; repeat }, and here play NAME when CONDITION", NULL}},
    {OF_LAMP,
     {"flash", SEQUENCE_FIRST "on for 500ms; off for 500ms; repeat }, and here play NAME when CONDITION", NULL}},
    {OF_LAMP, {"colour", "write the colour behind on: on red when CONDITION", NULL}},
    {OF_LAMP, {"color", "write the colour behind on: on red when CONDITION", NULL}},
    {OF_LAMP, {"brightness", "write on 40%", NULL}},
    {OF_LAMP, {"dim", "write on 40%", NULL}},
    {OF_LAMP | OF_RELAY, {"high", "write on", "on"}},
    {OF_LAMP | OF_RELAY, {"low", "write off", "off"}},
    {OF_LAMP | OF_RELAY, {"true", "write on", "on"}},
    {OF_LAMP | OF_RELAY, {"false", "write off", "off"}},
    {OF_RELAY, {"closed", "write on", "on"}},
    {OF_RELAY, {"open", "write off", "off"}},
    {OF_BUZZER,
     {"beep", SEQUENCE_FIRST "880Hz for 200ms; quiet for 200ms; repeat }, and here play NAME when CONDITION", NULL}},
    {OF_BUZZER, {"on", "write its tone: 880Hz when CONDITION", NULL}},
    {OF_BUZZER, {"off", "write quiet", "quiet"}},
    {OF_BUZZER, {"tone", "write 880Hz when CONDITION", NULL}},
    {OF_BUZZER, {"note", "write the note alone: C5 when CONDITION", NULL}},
    {OF_MOTOR, {"on", "write forward when CONDITION, or forward 80% when CONDITION", NULL}},
    {OF_MOTOR, {"off", "write stop", "stop"}},
    {OF_MOTOR, {"forwards", "write forward", "forward"}},
    {OF_MOTOR, {"backward", "write back", "back"}},
    {OF_MOTOR, {"backwards", "write back", "back"}},
    {OF_MOTOR, {"reverse", "write back", "back"}},
    {OF_MOTOR, {"left", "write forward or back: which way that turns hangs on the wires", NULL}},
    {OF_MOTOR, {"right", "write forward or back: which way that turns hangs on the wires", NULL}},
    {OF_MOTOR, {"speed", "write forward 80%", NULL}},
    {OF_SERVO, {"angle", "write the angle alone: 90 deg when CONDITION", NULL}},
    {OF_SERVO, {"turn", "write the angle alone: 90 deg when CONDITION", NULL}},
    {OF_SERVO, {"on", "write the angle: 90 deg when CONDITION", NULL}},
    {OF_BAR, {"show", "write fill 5, or follow SENSOR A..B", NULL}},
    {OF_BAR, {"on", "write fill 5, or follow SENSOR A..B", NULL}},
    {OF_DISPLAY, {"print", "write show \"text\"", "show"}},
    {OF_DISPLAY, {"text", "write show \"text\"", "show"}},
    {OF_DISPLAY, {"on", "write show \"text\"", NULL}},
    {OF_DISPLAY, {"off", "write blank", "blank"}},
    {OF_DISPLAY, {"clear", "write blank", "blank"}},
    {OF_SEQUENCE, {"loop", "write repeat", "repeat"}},
    {OF_SEQUENCE, {"again", "write repeat", "repeat"}},
    {OF_SEQUENCE, {"wait", "write the level it waits at: off for 500ms", NULL}},
    {OF_SEQUENCE, {"pause", "write the level it waits at: off for 500ms", NULL}},
    {OF_OUTPUTS, {"else", "write the level alone, as the last row: it holds when no row above does", NULL}},
    {OF_OUTPUTS, {"otherwise", "write the level alone, as the last row: it holds when no row above does", NULL}},
    {OF_OUTPUTS, {"when", "write the level first: LEVEL when CONDITION", NULL}},
    {OF_OUTPUTS, {"if", "write the level first: LEVEL when CONDITION", NULL}},
};

static const fg_meant trial_rows[] = {
    {"recording", "write readings \"FILE.csv\"", "readings"},
    {"file", "write readings \"FILE.csv\"", "readings"},
    {"scene", "write readings \"NAME\": it may be the name of a scene", "readings"},
    {"replay", "write readings \"FILE.csv\"", "readings"},
    {"check", "write expect CONDITION at 2s", "expect"},
    {"assert", "write expect CONDITION at 2s", "expect"},
    {"number", "write set NAME = VALUE", "set"},
};

bool fg_meant_word(fg_text word, const char *known) { return fg_text_alike(word, fg_text_of(known)); }

const fg_meant *fg_meant_statement(fg_text word)
{
    for (size_t i = 0; i < sizeof statements / sizeof *statements; i++)
        if (fg_meant_word(word, statements[i].word)) return &statements[i];
    return NULL;
}

static const fg_meant *find_of(const meant_of *table, size_t count, fg_kind kind, fg_text word)
{
    for (size_t i = 0; i < count; i++)
        if (table[i].kinds & FG_KIND_BIT(kind) && fg_meant_word(word, table[i].meant.word)) return &table[i].meant;
    return NULL;
}

const fg_meant *fg_meant_row(fg_kind kind, fg_text word)
{
    return find_of(rows, sizeof rows / sizeof *rows, kind, word);
}

const fg_meant *fg_meant_level(fg_kind kind, fg_text word)
{
    return find_of(levels, sizeof levels / sizeof *levels, kind, word);
}

const fg_meant *fg_meant_trial(fg_text word)
{
    for (size_t i = 0; i < sizeof trial_rows / sizeof *trial_rows; i++)
        if (fg_meant_word(word, trial_rows[i].word)) return &trial_rows[i];
    return NULL;
}

/* ---- signs ---- */

static const fg_meant signs[] = {
    {">", "write over", NULL},
    {"<", "write under", NULL},
    {">=", "write at least", NULL},
    {"=>", "write at least", NULL},
    {"\xE2\x89\xA5", "write at least", NULL},
    {"<=", "write at most", NULL},
    {"=<", "write at most", NULL},
    {"\xE2\x89\xA4", "write at most", NULL},
    {"==", "write BANDS is LABEL, or for a reading near N by T", NULL},
    {"!=", "write BANDS is not LABEL, or for a reading outside A..B", NULL},
    {"<>", "write BANDS is not LABEL, or for a reading outside A..B", NULL},
    {"\xE2\x89\xA0", "write BANDS is not LABEL, or for a reading outside A..B", NULL},
    {"&&", "write and", NULL},
    {"&", "write and", NULL},
    {"||", "write or", NULL},
    {"!", "write not", NULL},
    {":", "leave it out", NULL},
    {"[", "put rows in { }", NULL},
    {"]", "put rows in { }", NULL},
    {"'", "put texts in \"quotes\"", NULL},
};

void fg_meant_sign(fg_compiler *c)
{
    const fg_text here = fg_span_text(c, fg_lex_span(c));
    const char *instead = "names are letters, digits and _; put texts in \"quotes\"";
    if (c->lost) return;
    for (size_t i = 0; i < sizeof signs / sizeof *signs; i++)
        if (fg_text_is(here, signs[i].word)) instead = signs[i].instead;
    fg_report(c, FG_FIND_TEXT, fg_lex_span(c), "'{}' means nothing here", instead, here);
    c->lost = true;
}

/* ---- a brace that is not closed ---- */

void fg_meant_not_closed(fg_compiler *c, fg_span open, fg_place end)
{
    const fg_text text = c->lexer.text;
    for (size_t i = open.at; i + 6 < text.size && text.at[i] != '\n'; i++) {
        size_t digits = 0;
        while (text.at[i] == '#' && digits < 6 && fg_hex_digit(text.at[i + 1 + digits]) >= 0) digits++;
        if (digits < 6) continue;
        const fg_span colour = {(uint32_t)i, 7, open.source};
        const fg_text code = fg_text_join(c, fg_text_join(c, T("\""), "", (fg_text){text.at + i + 1, 6}), "", T("\""));
        fg_report(c, FG_FIND_SYNTAX, colour, "# begins a comment, so the rest of this line is not read",
                  "write the colour in quotes: on {}", code);
        fg_report_fix(c, colour, code);
        return;
    }
    fg_report(c, FG_FIND_NOT_CLOSED, open, "this {} is not closed before line {}", "add the closing one where it ends",
              fg_span_text(c, open), fg_text_of_value(c, end.line, 0));
}
