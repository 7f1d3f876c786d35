/* Answers and levels as they are written. */
#include <ficklegate/workshop.h>

#include <string.h>

static fg_text constant(const char *text) { return (fg_text){text, strlen(text)}; }

fg_text fg_answer_text(const fg_declared *declared, fg_verdict answer)
{
    if (declared->kind == FG_KIND_SENSOR) return constant(answer == FG_YES ? "ok" : "faulty");
    if (answer == FG_UNSURE) return constant("unsure");
    if (declared->kind != FG_KIND_BANDS) return constant(answer == FG_YES ? "yes" : "no");
    if (answer != FG_NONE && answer <= declared->label_count) return declared->labels[answer - 1];
    return constant("none");
}

const char *fg_outcome_word(fg_outcome outcome)
{
    static const char *const words[] = {
#define FG_OUTCOME_WORD(code, word) word,
        FG_OUTCOMES(FG_OUTCOME_WORD)
#undef FG_OUTCOME_WORD
    };
    return words[outcome];
}

static bool same_letters(fg_text text, const char *word)
{
    size_t i = 0;
    for (; i < text.size && word[i]; i++) {
        char c = text.at[i];
        if (c >= 'A' && c <= 'Z') c = (char)(c - 'A' + 'a');
        if (c != word[i]) return false;
    }
    return i == text.size && !word[i];
}

bool fg_flag_word(fg_text word, bool *yes)
{
    static const char *const words[] = {"0", "1", "no", "yes", "false", "true", "off", "on"};
    for (int i = 0; i < 8; i++)
        if (same_letters(word, words[i])) {
            *yes = i & 1;
            return true;
        }
    return false;
}
