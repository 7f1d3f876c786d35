/* SPDX-License-Identifier: MIT */
/* The words of the language that a name or a unit cannot be. */
#include "language/text/words.h"

#include <ficklegate/language.h>

/* Words of conditions. A name may be none of them, or a condition could be read in two ways. */
static const char *const reserved[] = {"and",       "or",         "not",    "is",      "in",   "for",   "starts",
                                       "ends",      "previously", "faulty", "unsure",  "over", "under", "at",
                                       "least",     "most",       "within", "outside", "near", "when",  "if",
                                       "otherwise", "none",       "yes",    "no",      NULL};

/* Words that may follow a number one space on and are no units. */
static const char *const followers[] = {"by",      "to",      "reads",   "times",   "time",   "from",   "every",
                                        "always",  "never",   "begins",  "while",   "end",    "goes",   "of",
                                        "changes", "matches", "between", "through", "settle", "margin", "unit",
                                        "step",    "raw",     "trust",   "circle",  "on",     "off",    NULL};

/* `words` ends with NULL. */
bool fg_word_listed(fg_text word, const char *const *words)
{
    for (; *words; words++)
        if (fg_text_is(word, *words)) return true;
    return false;
}

/* Words that may follow a condition and are not reserved. */
static const char *const goers_on[] = {"always", "never",   "begins",  "from",  "goes",
                                       "plays",  "changes", "matches", "while", NULL};

bool fg_word_goes_on(fg_text word) { return fg_word_listed(word, goers_on); }
bool fg_word_reserved(fg_text word) { return fg_word_listed(word, reserved); }
bool fg_word_unit_follows_not(fg_text word) { return fg_word_listed(word, followers); }

const char *fg_condition_word(size_t i) { return i < sizeof reserved / sizeof *reserved ? reserved[i] : NULL; }

/* Letters are those of ASCII. */
static bool is_name(fg_text word)
{
    for (size_t i = 0; i < word.size; i++) {
        const char c = word.at[i];
        const bool letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
        if (!letter && !(i && ((c >= '0' && c <= '9') || c == '_'))) return false;
    }
    return word.size != 0;
}

bool fg_name_fits(fg_text word) { return is_name(word) && !fg_word_reserved(word); }

bool fg_label_fits(fg_text word)
{
    static const char *const allowed[] = {"near", "over",  "under", "within", "outside",
                                          "in",   "least", "most",  "is",     NULL};
    if (!is_name(word) || fg_text_is(word, "margin") || fg_text_is(word, "settle")) return false;
    return !fg_word_reserved(word) || fg_word_listed(word, allowed);
}
