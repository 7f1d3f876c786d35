/* SPDX-License-Identifier: MIT */
/* What was meant where a condition or a number is wrong: read on, and told with the words that belong there. */
#include "language/tree/meant.h"

static bool at_sign(const fg_compiler *c, const char *sign)
{
    return fg_parse_at(c, TOK_FOREIGN) && fg_text_is(fg_lex_text(c), sign);
}

/* With a blank on both sides, also where there was none. */
static fg_text apart(fg_compiler *c, fg_span span, fg_text words)
{
    const fg_text text = c->lexer.text;
    const bool before = span.at && text.at[span.at - 1] != ' ';
    const bool behind = span.at + span.size < text.size && text.at[span.at + span.size] != ' ';
    return fg_text_join(c, before ? T(" ") : T(""), "", behind ? fg_text_join(c, words, " ", T("")) : words);
}

/* Signs and words that compare: what follows the word may be left out (`more than`). */
static const struct {
    const char *sign, *second, *words;
} comparisons[] = {
    {">", NULL, "over"},
    {"<", NULL, "under"},
    {">=", NULL, "at least"},
    {"=>", NULL, "at least"},
    {"<=", NULL, "at most"},
    {"=<", NULL, "at most"},
    {"\xE2\x89\xA5", NULL, "at least"},
    {"\xE2\x89\xA4", NULL, "at most"},
    {"above", NULL, "over"},
    {"below", NULL, "under"},
    {"more", "than", "over"},
    {"greater", "than", "over"},
    {"higher", "than", "over"},
    {"larger", "than", "over"},
    {"bigger", "than", "over"},
    {"less", "than", "under"},
    {"lower", "than", "under"},
    {"smaller", "than", "under"},
    {"exceeds", NULL, "over"},
    {"beyond", NULL, "over"},
    {"between", NULL, "within"},
};

enum { COMPARISONS = sizeof comparisons / sizeof *comparisons };

/* Its number in the table; COMPARISONS if it is none. */
static size_t comparison_here(fg_compiler *c)
{
    size_t i = 0;
    const fg_text here = fg_lex_text(c);
    if (!fg_parse_at(c, TOK_FOREIGN) && !fg_parse_at(c, TOK_NAME)) return COMPARISONS;
    while (i < COMPARISONS && !fg_text_is(here, comparisons[i].sign)) i++;
    return i;
}

bool fg_meant_compares(fg_compiler *c) { return comparison_here(c) < COMPARISONS; }

fg_meant_comparison fg_meant_take_comparison(fg_compiler *c)
{
    const size_t i = comparison_here(c);
    fg_meant_comparison taken = {
        .sign = fg_lex_text(c), .words = fg_text_of(comparisons[i].words), .span = fg_lex_span(c)};
    fg_lex_next(c);
    if (comparisons[i].second && fg_parse_accept_word(c, comparisons[i].second))
        taken.span = fg_span_to_here(c, taken.span);
    return taken;
}

void fg_meant_say_comparison(fg_compiler *c, const fg_meant_comparison *taken, fg_text subject, fg_text numbers)
{
    fg_report(c, FG_FIND_SYNTAX, taken->span, "a gate file has no '{}'", "write {}{}{} {}", taken->sign, subject,
              subject.size ? T(" ") : T(""), taken->words, numbers);
    if (!fg_text_is(taken->words, "within")) fg_report_fix(c, taken->span, apart(c, taken->span, taken->words));
    if (fg_parse_at(c, TOK_FOREIGN) && fg_meant_compares(c)) c->lost = true; /* 10 < depth < 20: said once */
}

/* ---- the same, or not ---- */

bool fg_meant_same(fg_compiler *c, bool *negated)
{
    *negated = at_sign(c, "!=") || at_sign(c, "<>") || at_sign(c, "\xE2\x89\xA0");
    return *negated || at_sign(c, "==") || fg_parse_at(c, TOK_EQUALS) || fg_parse_at_word(c, "equals");
}

static bool is_listed(fg_text word, const char *const *words)
{
    for (; *words; words++)
        if (fg_meant_word(word, *words)) return true;
    return false;
}

static const char *const no_words[] = {"0", "no", "false", "off", "released", "up", "low", NULL};
static const char *const yes_words[] = {"1", "yes", "true", "on", "pressed", "down", "high", "active", NULL};

static void say_yes(fg_compiler *c, const fg_symbol *symbol, fg_span whole, bool no)
{
    const fg_text asked = no ? fg_text_join(c, T("not "), "", symbol->name) : symbol->name;
    fg_report(c, FG_FIND_SYNTAX, whole, "{} is yes or no by itself", "write {}", symbol->name, asked);
    fg_report_fix(c, whole, asked);
}

bool fg_meant_yes_word(fg_compiler *c)
{
    const fg_text word = fg_lex_text(c);
    return fg_parse_at(c, TOK_NAME) && (is_listed(word, yes_words) || is_listed(word, no_words));
}

void fg_meant_yes(fg_compiler *c, const fg_symbol *symbol, fg_span from, bool negated)
{
    const bool value = fg_parse_at(c, TOK_NAME) || fg_parse_at(c, TOK_NUMBER);
    const bool no = value && is_listed(fg_lex_text(c), no_words);
    if (value) fg_lex_next(c);
    say_yes(c, symbol, fg_span_to_here(c, from), no != negated);
}

void fg_meant_equality(fg_compiler *c, const fg_symbol *symbol, fg_span from)
{
    const fg_text sign = fg_lex_text(c), name = symbol->name;
    bool negated;
    (void)fg_meant_same(c, &negated);
    fg_span span = fg_lex_span(c);
    fg_lex_next(c);
    const bool value = fg_parse_at(c, TOK_NAME) || fg_parse_at(c, TOK_NUMBER);
    const fg_text word = value ? fg_lex_text(c) : T("LABEL");
    if (value) fg_lex_next(c);
    const fg_span whole = fg_span_to_here(c, from);
    if (fg_kind_is(symbol->kind, FG_KIND_LABELS) || symbol->kind == FG_KIND_COUNT) {
        const fg_text is = negated ? T("is not") : T("is");
        fg_report(c, FG_FIND_SYNTAX, span, "a gate file has no '{}' here", "write {} {} {}", sign, name, is, word);
        fg_report_fix(c, span, apart(c, span, is));
    } else if (symbol->kind == FG_KIND_SENSOR) {
        fg_report(c, FG_FIND_KIND, whole, "a reading is hardly ever exactly a number, so this cannot be asked",
                  negated ? "write {} outside A..B" : "write {} near {} by T, or {} within A..B", name,
                  value ? word : T("N"), name);
    } else if (fg_kind_is(symbol->kind, FG_KIND_IS_OUTPUT)) {
        fg_report(c, FG_FIND_KIND, whole, "what an output does can only be asked in a trial or a promise",
                  "write {} is {} in a trial; here ask the condition that switches it", name,
                  value ? word : T("LEVEL"));
    } else {
        say_yes(c, symbol, whole, is_listed(word, no_words) != negated);
    }
}

bool fg_meant_at(fg_compiler *c, const char *word)
{
    static const struct {
        const char *sign, *word;
    } joiners[] = {{"&&", "and"}, {"&", "and"}, {"||", "or"}, {"!", "not"}};
    if (fg_parse_at(c, TOK_BAR)) return fg_text_is(fg_text_of(word), "or");
    for (size_t i = 0; i < sizeof joiners / sizeof *joiners; i++)
        if (at_sign(c, joiners[i].sign) && fg_text_is(fg_text_of(word), joiners[i].word)) return true;
    return false;
}

bool fg_meant_accept(fg_compiler *c, const char *word)
{
    const fg_text sign = fg_lex_text(c);
    const fg_span span = fg_lex_span(c);
    if (!fg_meant_at(c, word)) return false;
    fg_report(c, FG_FIND_SYNTAX, span, "a gate file has no '{}'", "write {}", sign, fg_text_of(word));
    fg_report_fix(c, span, apart(c, span, fg_text_of(word)));
    fg_lex_next(c);
    return true;
}

bool fg_meant_decimal_comma(fg_compiler *c, fg_node *number)
{
    const fg_span comma = fg_lex_span(c);
    const char behind = fg_lex_behind(c);
    if (!fg_parse_at(c, TOK_COMMA) || c->lexer.before_end != comma.at || behind < '0' || behind > '9') return false;
    const char before = c->lexer.text.at[comma.at - 1];
    if (before < '0' || before > '9') return false; /* a unit stands between */
    fg_lex_next(c);
    number->word = fg_text_join(c, number->word, ".", fg_lex_text(c));
    number->literal.unit = (fg_text){0};
    (void)fg_lex_unit(c, &number->literal.unit, &number->literal.unit_span);
    fg_lex_next(c);
    fg_report(c, FG_FIND_SYNTAX, fg_span_to_here(c, number->span), "a number has a decimal point, not a comma",
              "write {}", number->word);
    fg_report_fix(c, comma, T("."));
    return true;
}
