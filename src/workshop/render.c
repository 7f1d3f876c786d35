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
