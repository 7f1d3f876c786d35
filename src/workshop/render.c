/* Answers and levels as they are written. */
#include <ficklegate/workshop.h>

#include <inttypes.h>
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

static const char *colour_name(uint32_t rgb)
{
    static const struct {
        uint32_t rgb;
        const char *name;
    } names[] = {{0xff0000, "red"},    {0xff8000, "orange"},  {0xffbf00, "amber"},
                 {0xffff00, "yellow"}, {0x00ff00, "green"},   {0x00ffff, "cyan"},
                 {0x0000ff, "blue"},   {0xff00ff, "magenta"}, {0xffffff, "white"}};
    for (size_t i = 0; i < sizeof names / sizeof *names; i++)
        if (names[i].rgb == rgb) return names[i].name;
    return "?";
}

size_t fg_level_text(const fg_level *level, char *text)
{
    static const char *const words[] = {
#define FG_FORM_WORD(code, word) word,
        FG_FORMS(FG_FORM_WORD)
#undef FG_FORM_WORD
    };
    char strength[8] = "", colour[16] = "";
    const uint32_t rgb = FG_COLOUR_RGB(level->colour);
    if (level->percent && level->percent < 100) snprintf(strength, sizeof strength, " %u%%", level->percent);
    if (FG_COLOUR_SOURCE(level->colour) == FG_COLOUR_NAMED) snprintf(colour, sizeof colour, " %s", colour_name(rgb));
    if (FG_COLOUR_SOURCE(level->colour) == FG_COLOUR_WRITTEN)
        snprintf(colour, sizeof colour, " \"%06" PRIx32 "\"", rgb);
    int size;
    if (level->form == FG_FORM_TONE)
        size = snprintf(text, FG_LEVEL_TEXT_SIZE, "%" PRId32 "Hz%s", level->number, strength);
    else
        size = snprintf(text, FG_LEVEL_TEXT_SIZE, "%s%s%s", words[level->form], colour, strength);
    return size > 0 ? (size_t)size : 0;
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
