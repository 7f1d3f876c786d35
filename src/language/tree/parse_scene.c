/* SPDX-License-Identifier: MIT */
/* Scenes: how long, how often, and rows that say what each sensor and flag does. */
#include "language/tree/parse.h"

/* The words between the numbers of a row, in order; an empty word: a number follows right away. */
static const struct {
    const char *word;
    uint32_t kinds;
    const char *words[4];
    const char *how;
} forms[] = {
    [FG_SCENE_STAYS] = {"stays", FG_KIND_BIT(FG_KIND_SENSOR), {""}, "write NAME stays 40"},
    [FG_SCENE_RAMPS] = {"ramps",
                        FG_KIND_BIT(FG_KIND_SENSOR),
                        {"", "to", "from", "to"},
                        "write NAME ramps 40 to 180 from 10s to 50s"},
    [FG_SCENE_JUMPS] = {"jumps", FG_KIND_BIT(FG_KIND_SENSOR), {"to", "at"}, "write NAME jumps to 90 at 20s"},
    [FG_SCENE_SWINGS] = {"swings",
                         FG_KIND_BIT(FG_KIND_SENSOR),
                         {"", "to", "every"},
                         "write NAME swings 60 to 120 every 12s"},
    [FG_SCENE_NOISE] = {"noise", FG_KIND_BIT(FG_KIND_SENSOR), {""}, "write NAME noise 2"},
    [FG_SCENE_DROPS] = {"drops",
                        FG_KIND_BIT(FG_KIND_SENSOR) | FG_KIND_BIT(FG_KIND_FLAG),
                        {"out from", "to"},
                        "write NAME drops out from 20s to 22s"},
    [FG_SCENE_FALLS] = {"falls",
                        FG_KIND_BIT(FG_KIND_SENSOR) | FG_KIND_BIT(FG_KIND_FLAG),
                        {"silent from", "to"},
                        "write NAME falls silent from 20s to 30s"},
    [FG_SCENE_READS] = {"reads",
                        FG_KIND_BIT(FG_KIND_SENSOR),
                        {"", "from", "to"},
                        "write NAME reads 999 from 30s to 31s"},
    [FG_SCENE_PRESSES] = {"presses", FG_KIND_BIT(FG_KIND_FLAG), {"at", "for"}, "write NAME presses at 5s for 200ms"},
};

enum { FORMS = sizeof forms / sizeof *forms };

/* The words in front of a number: one, or two with a blank between them. */
static bool expect_words(fg_compiler *c, const char *words, const char *how)
{
    char word[8];
    while (*words) {
        size_t size = 0;
        for (; *words && *words != ' ' && size + 1 < sizeof word; words++) word[size++] = *words;
        word[size] = '\0';
        if (*words) words++;
        if (!fg_parse_expect_word(c, word, how)) return false;
    }
    return true;
}

/* The numbers of a row, each behind the words that lead to it. */
static void parse_numbers(fg_compiler *c, fg_node *row, int verb)
{
    for (int i = 0; i < 4 && forms[verb].words[i]; i++) {
        if (!expect_words(c, forms[verb].words[i], forms[verb].how)) break;
        fg_node *number = fg_parse_number(c);
        if (number->kind == NODE_BROKEN) break;
        fg_node_add(row, number);
    }
    if (c->lost) row->kind = NODE_BROKEN;
}

/* Which form of row it is says the word behind the name: `depth ramps ...`. */
static int verb_behind(fg_compiler *c)
{
    for (int i = 0; i < FORMS; i++)
        if (fg_parse_peek_word(c, forms[i].word)) return i;
    return FORMS;
}

/* Lists the rows there are, from the same table that reads them. */
static void unknown_row(fg_compiler *c)
{
    fg_text all = {0};
    for (int i = 0; i < FORMS; i++) {
        fg_text form = fg_text_of(forms[i].word);
        const fg_text behind = fg_text_of(forms[i].words[0]);
        const size_t first = fg_text_byte(behind, 0, ' '); /* falls silent, drops out */
        if (first < behind.size) form = fg_text_join(c, form, " ", (fg_text){behind.at, first});
        all = i ? fg_text_join(c, all, i + 1 == FORMS ? " or " : ", ", form) : form;
    }
    fg_report(c, FG_FIND_UNKNOWN_WORD, fg_lex_span(c), "'{}' does not begin a row of a scene",
              "write lasts T, every T, seed N, or a sensor or flag with {}", fg_span_text(c, fg_lex_span(c)), all);
}

/* NAME VERB NUMBERS. A scene makes readings up and looks at nothing, so a sensor that stands only in a scene is still
 * unused. */
static void parse_row(fg_compiler *c, fg_scene_node *scene, int verb)
{
    fg_node *row = fg_node_new(c, NODE_SCENE_ROW, fg_lex_span(c));
    const fg_symbol *found = fg_name_find(c, fg_lex_text(c));
    const bool used = found && found->used;
    row->scene_row = (uint8_t)verb;
    row->symbol = fg_name_use(c, fg_lex_text(c), fg_lex_span(c), forms[verb].kinds);
    if (row->symbol) row->symbol->used = used; /* to be in a scene is no use */
    fg_lex_next(c);
    fg_lex_next(c);
    fg_parse_own_unit(c, row->symbol);
    parse_numbers(c, row, verb);
    fg_parse_own_unit_end(c);
    row->span = fg_span_to_here(c, row->span);
    if (!row->symbol || row->kind == NODE_BROKEN) return;
    if (scene->rows_last)
        scene->rows_last->next = row;
    else
        scene->rows = row;
    scene->rows_last = row;
    scene->row_count++;
}

/* lasts T | every T | seed N */
static void parse_attribute(fg_compiler *c, fg_node **number)
{
    if (*number) fg_report(c, FG_FIND_TWICE, fg_lex_span(c), "'{}' stands twice", "keep only one", fg_lex_text(c));
    fg_lex_next(c);
    fg_node *node = fg_parse_number(c);
    if (node->kind != NODE_BROKEN) *number = node;
}

/* scene "NAME" { ROW ... }. Without `lasts` nobody knows when it ends. */
void fg_parse_scene(fg_compiler *c, fg_scene_node *scene)
{
    fg_block block;
    if (!fg_parse_block_open(c, &block)) return;
    while (fg_parse_block_row(c, &block)) {
        const int verb = fg_parse_at(c, TOK_NAME) ? verb_behind(c) : FORMS;
        if (verb < FORMS) {
            parse_row(c, scene, verb);
        } else if (fg_parse_at_word(c, "lasts")) {
            parse_attribute(c, &scene->lasts);
        } else if (fg_parse_at_word(c, "every")) {
            parse_attribute(c, &scene->every);
        } else if (fg_parse_at_word(c, "seed")) {
            parse_attribute(c, &scene->seed);
        } else {
            unknown_row(c);
            c->lost = true;
        }
        fg_parse_row_end(c);
    }
    if (!scene->lasts && !c->lost)
        fg_report(c, FG_FIND_MISSING, scene->span, "this scene does not say how long it lasts", "add lasts 60s");
}
