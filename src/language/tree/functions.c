/* SPDX-License-Identifier: MIT */
/* The functions of sums: one row each. */
#include "language/tree/functions.h"

#include "language/text/findings.h"
#include "language/tree/names.h"

static const fg_function functions[] = {
    {"abs", FG_TERM_ABS, 1, 1, false, false},        {"length", FG_TERM_LENGTH, 2, 3, false, false},
    {"lowest", FG_TERM_LOWEST, 2, 100, true, false}, {"highest", FG_TERM_HIGHEST, 2, 100, true, false},
    {"angle", FG_TERM_ANGLE, 2, 2, false, false},    {"rate", FG_TERM_RATE, 2, 2, false, true},
    {"dip", FG_TERM_DIP, 2, 2, false, true},         {"peak", FG_TERM_PEAK, 2, 2, false, true},
};

enum { FUNCTIONS = sizeof functions / sizeof *functions };

/* NULL if the word is no function. */
const fg_function *fg_function_find(fg_text word)
{
    for (int i = 0; i < FUNCTIONS; i++)
        if (fg_text_is(word, functions[i].word)) return &functions[i];
    return NULL;
}

/* For "did you mean"; empty if none is near. */
fg_text fg_function_nearest(fg_text word)
{
    fg_text best = {0};
    size_t distance = fg_name_reach(word) + 1;
    for (int i = 0; i < FUNCTIONS; i++) fg_name_nearest_add(word, fg_text_of(functions[i].word), &best, &distance);
    return best;
}

/* All of them, for a message. */
fg_text fg_function_words(fg_compiler *c)
{
    fg_text all = {0};
    for (int i = 0; i < FUNCTIONS; i++)
        all = i ? fg_text_join(c, all, ", ", fg_text_of(functions[i].word)) : fg_text_of(functions[i].word);
    return all;
}
