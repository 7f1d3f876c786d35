/* Scenes: how long, how often, and rows that say what each sensor and flag does. */
#include "front.h"

/* The words between the numbers of a row, in order; an empty word: a number follows right away. */
static const struct {
    const char *word;
    uint32_t kinds;
    const char *words[4];
    const char *how;
} forms[] = {
    [FG_SCENE_STAYS] = {"stays", KIND(FG_KIND_SENSOR), {""}, "write NAME stays 40"},
    [FG_SCENE_RAMPS] = {"ramps",
                        KIND(FG_KIND_SENSOR),
                        {"", "to", "from", "to"},
                        "write NAME ramps 40 to 180 from 10s to 50s"},
    [FG_SCENE_JUMPS] = {"jumps", KIND(FG_KIND_SENSOR), {"to", "at"}, "write NAME jumps to 90 at 20s"},
    [FG_SCENE_SWINGS] = {"swings", KIND(FG_KIND_SENSOR), {"", "to", "every"}, "write NAME swings 60 to 120 every 12s"},
    [FG_SCENE_NOISE] = {"noise", KIND(FG_KIND_SENSOR), {""}, "write NAME noise 2"},
    [FG_SCENE_DROPS] = {"drops",
                        KIND(FG_KIND_SENSOR) | KIND(FG_KIND_FLAG),
                        {"out from", "to"},
                        "write NAME drops out from 20s to 22s"},
    [FG_SCENE_FALLS] = {"falls",
                        KIND(FG_KIND_SENSOR) | KIND(FG_KIND_FLAG),
                        {"silent from", "to"},
                        "write NAME falls silent from 20s to 30s"},
    [FG_SCENE_READS] = {"reads", KIND(FG_KIND_SENSOR), {"", "from", "to"}, "write NAME reads 999 from 30s to 31s"},
    [FG_SCENE_PRESSES] = {"presses", KIND(FG_KIND_FLAG), {"at", "for"}, "write NAME presses at 5s for 200ms"},
};

enum { FORMS = sizeof forms / sizeof *forms };

/* The words in front of a number: one, or two with a blank between them. */
static bool expect_words(fg_front *f, const char *words, const char *how)
{
    char word[8];
    while (*words) {
        size_t size = 0;
        for (; *words && *words != ' ' && size + 1 < sizeof word; words++) word[size++] = *words;
        word[size] = '\0';
        if (*words) words++;
        if (!fg_parse_expect_word(f, word, how)) return false;
    }
    return true;
}

static void parse_numbers(fg_front *f, fg_node *row)
{
    for (int i = 0; i < 4 && forms[row->role].words[i]; i++) {
        if (!expect_words(f, forms[row->role].words[i], forms[row->role].how)) break;
        fg_node *number = fg_parse_number(f);
        if (number->kind == NODE_BROKEN) break;
        fg_node_add(row, number);
    }
    if (f->lost) row->kind = NODE_BROKEN;
}

static int verb_behind(fg_front *f)
{
    for (int i = 0; i < FORMS; i++)
        if (fg_parse_peek_word(f, forms[i].word)) return i;
    return FORMS;
}

static void parse_row(fg_front *f, fg_scene_node *scene, int verb)
{
    fg_node *row = fg_node_new(f, NODE_SCENE_ROW, fg_lex_span(f));
    const fg_symbol *found = fg_name_find(f, fg_lex_text(f));
    const bool used = found && found->used;
    row->role = (uint8_t)verb;
    row->symbol = fg_name_use(f, fg_lex_text(f), fg_lex_span(f), forms[verb].kinds);
    if (row->symbol) row->symbol->used = used; /* to be in a scene is no use */
    fg_lex_next(f);
    fg_lex_next(f);
    fg_parse_own_unit(f, row->symbol);
    parse_numbers(f, row);
    fg_parse_own_unit_end(f);
    row->span = fg_span_to_here(f, row->span);
    if (!row->symbol || row->kind == NODE_BROKEN) return;
    if (scene->rows_last)
        scene->rows_last->next = row;
    else
        scene->rows = row;
    scene->rows_last = row;
    scene->row_count++;
}

static void parse_attribute(fg_front *f, fg_node **number)
{
    if (*number) fg_say(f, FG_FIND_TWICE, fg_lex_span(f), "'{}' stands twice", "keep one of them", fg_lex_text(f));
    fg_lex_next(f);
    fg_node *node = fg_parse_number(f);
    if (node->kind != NODE_BROKEN) *number = node;
}

void fg_parse_scene(fg_front *f, fg_scene_node *scene)
{
    fg_block block;
    if (!fg_parse_block_open(f, &block)) return;
    while (fg_parse_block_row(f, &block)) {
        const int verb = fg_parse_at(f, TOK_NAME) ? verb_behind(f) : FORMS;
        if (verb < FORMS) {
            parse_row(f, scene, verb);
        } else if (fg_parse_at_word(f, "lasts")) {
            parse_attribute(f, &scene->lasts);
        } else if (fg_parse_at_word(f, "every")) {
            parse_attribute(f, &scene->every);
        } else if (fg_parse_at_word(f, "seed")) {
            parse_attribute(f, &scene->seed);
        } else {
            fg_say(f, FG_FIND_UNKNOWN_WORD, fg_lex_span(f), "'{}' does not begin a row of a scene",
                   "write lasts T, every T, seed N, or a sensor or flag with stays, ramps, jumps, swings, noise, drops "
                   "out, "
                   "falls silent, reads or presses",
                   fg_span_text(f, fg_lex_span(f)));
            f->lost = true;
        }
        fg_parse_row_end(f);
    }
    if (!scene->lasts && !f->lost)
        fg_say(f, FG_FIND_MISSING, scene->span, "this scene does not say how long it lasts", "add lasts 60s");
}
