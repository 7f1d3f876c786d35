/* SPDX-License-Identifier: MIT */
/* Outputs, sequences, and the rules that listen to conditions. */
#include "language/tree/meant.h"

/* ---- rows that are a word and what stands behind it ---- */

typedef enum listen_shape {
    LISTEN_WHEN,
    LISTEN_WORD,
    LISTEN_NUMBER,
    LISTEN_RANGE,
    LISTEN_LAST,
    LISTEN_REPEAT,
    LISTEN_SIZE
} listen_shape;

static const struct {
    const char *word;
    fg_kind kind;
    fg_attribute attribute;
    listen_shape shape;
} rows[] = {
    {"set", FG_KIND_LATCH, ATTR_SET, LISTEN_WHEN},
    {"clear", FG_KIND_LATCH, ATTR_CLEAR, LISTEN_WHEN},
    {"add", FG_KIND_COUNT, ATTR_ADD, LISTEN_WHEN},
    {"take", FG_KIND_COUNT, ATTR_TAKE, LISTEN_WHEN},
    {"zero", FG_KIND_COUNT, ATTR_ZERO_WHEN, LISTEN_WHEN},
    {"limit", FG_KIND_COUNT, ATTR_LIMIT, LISTEN_RANGE},
    {"first", FG_KIND_COUNT, ATTR_FIRST, LISTEN_NUMBER},
    {"start", FG_KIND_PULSE, ATTR_START, LISTEN_WHEN},
    {"last", FG_KIND_PULSE, ATTR_LAST, LISTEN_LAST},
    {"again", FG_KIND_PULSE, ATTR_AGAIN, LISTEN_WHEN},
    {"stop", FG_KIND_PULSE, ATTR_STOP, LISTEN_WHEN},
    {"restarts", FG_KIND_PULSE, ATTR_RESTARTS, LISTEN_WORD},
    {"repeat", FG_KIND_SEQUENCE, ATTR_REPEAT, LISTEN_REPEAT},
    {"resumes", FG_KIND_SEQUENCE, ATTR_RESUMES, LISTEN_WORD},
    {"range", FG_KIND_SERVO, ATTR_RANGE, LISTEN_RANGE},
    {"rest", FG_KIND_SERVO, ATTR_REST, LISTEN_NUMBER},
    {"lights", FG_KIND_BAR, ATTR_LIGHTS, LISTEN_NUMBER},
    {"single", FG_KIND_BAR, ATTR_SINGLE, LISTEN_WORD},
    {"size", FG_KIND_DISPLAY, ATTR_SIZE, LISTEN_SIZE},
};

enum { ROWS = sizeof rows / sizeof *rows };

/* A part that is broken breaks the whole. */
static void add(fg_node *node, fg_node *child)
{
    if (child->kind == NODE_BROKEN)
        node->kind = NODE_BROKEN;
    else
        fg_node_add(node, child);
}

/* when CONDITION */
static void parse_when(fg_compiler *c, fg_node *node)
{
    const fg_text word = fg_span_text(c, node->span), here = fg_lex_text(c);
    if (!fg_parse_at_word(c, "when") && fg_parse_at(c, TOK_NAME) && !c->lost) {
        const bool meant_if = fg_text_is(here, "if");
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "'when' is missing after '{}'", "write {} when CONDITION", word,
                  word);
        fg_report_fix(c, meant_if ? fg_lex_span(c) : (fg_span){fg_lex_span(c).at, 0, fg_lex_span(c).source},
                      meant_if ? T("when") : T("when "));
        c->lost = true;
    }
    if (!fg_parse_expect_word(c, "when", "write when and a condition after it")) return;
    node->row.has_when = true;
    add(node, fg_parse_condition(c));
}

/* size 16x2 */
static void parse_size(fg_compiler *c, fg_node *node)
{
    node->word = fg_lex_text(c);
    if (!fg_parse_at(c, TOK_NUMBER) || fg_lex_behind(c) != 'x') {
        fg_parse_wrong(c, "a size", "write columns and lines: size 16x2");
        return;
    }
    fg_lex_next(c);
    node->row.lines = fg_lex_text(c);
    fg_lex_next(c);
}

/* What stands behind the word of a row, as its line in the table says. */
static void parse_shape(fg_compiler *c, fg_node *node, listen_shape shape)
{
    switch (shape) {
    case LISTEN_WORD: return;
    case LISTEN_WHEN: parse_when(c, node); return;
    case LISTEN_NUMBER: add(node, fg_parse_number(c)); return;
    case LISTEN_RANGE: add(node, fg_parse_range(c)); return;
    case LISTEN_SIZE: parse_size(c, node); return;
    case LISTEN_LAST:
        add(node, fg_parse_number(c));
        if (node->kind != NODE_BROKEN && fg_parse_at_word(c, "when")) parse_when(c, node);
        return;
    case LISTEN_REPEAT:
        if (fg_parse_at_row_end(c)) return;
        add(node, fg_parse_number(c));
        if (!fg_parse_accept_word(c, "times")) (void)fg_parse_expect_word(c, "time", "write repeat, or repeat 3 times");
        return;
    }
}

/* `clear wins`, `set wins` */
static bool parse_wins(fg_compiler *c, fg_symbol *symbol)
{
    const bool clear = fg_parse_at_word(c, "clear");
    if (symbol->kind != FG_KIND_LATCH || !(clear || fg_parse_at_word(c, "set")) || !fg_parse_peek_word(c, "wins"))
        return false;
    fg_node *node = fg_node_new(c, NODE_ATTRIBUTE, fg_lex_span(c));
    node->row.attribute = clear ? ATTR_CLEAR_WINS : ATTR_SET_WINS;
    if (symbol->attributes & ((uint64_t)1 << ATTR_CLEAR_WINS | (uint64_t)1 << ATTR_SET_WINS))
        fg_report(c, FG_FIND_TWICE, node->span, "who wins is said twice in {}", "keep only one", symbol->name);
    symbol->attributes |= (uint64_t)1 << node->row.attribute;
    fg_lex_next(c);
    fg_lex_next(c);
    fg_symbol_add(symbol, node);
    return true;
}

/* A row that begins with a word of the table. False: it is none. Only `last` may stand several times, each with its
 * condition. */
static bool parse_word_row(fg_compiler *c, fg_symbol *symbol)
{
    int i = 0;
    if (parse_wins(c, symbol)) return true;
    while (i < ROWS && !(rows[i].kind == symbol->kind && fg_parse_at_word(c, rows[i].word))) i++;
    if (i == ROWS) return false;
    fg_node *node = fg_node_new(c, NODE_ATTRIBUTE, fg_lex_span(c));
    node->row.attribute = (uint8_t)rows[i].attribute;
    if (symbol->attributes >> rows[i].attribute & 1 && rows[i].attribute != ATTR_LAST)
        fg_report(c, FG_FIND_TWICE, node->span, "'{}' appears twice in {}", "keep only one", fg_lex_text(c),
                  symbol->name);
    symbol->attributes |= (uint64_t)1 << rows[i].attribute;
    fg_lex_next(c);
    parse_shape(c, node, rows[i].shape);
    node->span = fg_span_to_here(c, node->span);
    if (c->lost) node->kind = NODE_BROKEN;
    fg_symbol_add(symbol, node);
    return true;
}

/* Lists the words that this declaration can have. */
static void unknown_row(fg_compiler *c, fg_symbol *symbol)
{
    const char *words[ROWS + 1] = {NULL};
    size_t count = 0;
    for (int i = 0; i < ROWS; i++)
        if (rows[i].kind == symbol->kind) words[count++] = rows[i].word;
    fg_parse_unknown_row(c, symbol, words);
}

/* latch, count or pulse NAME { ROW ... } */
void fg_parse_listener(fg_compiler *c, fg_symbol *symbol)
{
    fg_block block;
    if (!fg_parse_block_of(c, symbol, &block)) return;
    while (fg_parse_block_row(c, &block)) {
        if (!parse_word_row(c, symbol)) unknown_row(c, symbol);
        fg_parse_row_end(c);
    }
}

/* ---- sequences ---- */

/* `on 250ms`: the time was read as the strength of the level, or stands behind it alone. */
static void time_without_for(fg_compiler *c, const fg_node *level)
{
    const fg_node *last = level->last;
    const bool strength =
        last && last->part == PART_PERCENT && last->kind == NODE_LITERAL && fg_unit_ms(last->literal.unit);
    if (c->lost || (!strength && !fg_parse_at(c, TOK_NUMBER))) return;
    fg_span here = strength ? last->span : fg_lex_span(c);
    while (!strength && here.at + here.size < c->lexer.text.size && c->lexer.text.at[here.at + here.size] >= 'a')
        here.size++;
    fg_report(c, FG_FIND_SYNTAX, here, "'for' is missing before the time", "write LEVEL for {}", fg_span_text(c, here));
    fg_report_fix(c, (fg_span){here.at, 0, here.source}, T("for "));
    c->lost = true;
}

/* LEVEL for (T | follow SOURCE A..B to T..T). A tempo has no range of its own, so it needs the times it goes to. */
static void parse_segment(fg_compiler *c, fg_symbol *sequence)
{
    fg_node *segment = fg_node_new(c, NODE_SEGMENT, fg_lex_span(c));
    fg_node *level = fg_parse_level(c, sequence);
    add(segment, level);
    fg_symbol_add(sequence, segment);
    if (segment->kind != NODE_BROKEN && !fg_parse_at_word(c, "for")) time_without_for(c, level);
    if (segment->kind == NODE_BROKEN || !fg_parse_expect_word(c, "for", "write LEVEL for TIME")) {
        segment->kind = NODE_BROKEN;
        return;
    }
    const bool follows = fg_parse_accept_word(c, "follow");
    add(segment, follows ? fg_parse_follow(c) : fg_parse_number(c));
    segment->span = fg_span_to_here(c, segment->span);
    /* The only child is the range of the source: the second one is missing. */
    if (follows && segment->kind != NODE_BROKEN && segment->last->first == segment->last->last) {
        fg_report(c, FG_FIND_MISSING, segment->last->span, "a tempo needs the times it goes to", "add to 50ms..800ms");
        segment->kind = NODE_BROKEN;
    }
}

/* sequence NAME { SEGMENT ... [repeat ...] [resumes] } */
void fg_parse_sequence(fg_compiler *c, fg_symbol *sequence)
{
    fg_block block;
    if (!fg_parse_block_of(c, sequence, &block)) return;
    while (fg_parse_block_row(c, &block)) {
        if (!parse_word_row(c, sequence)) parse_segment(c, sequence);
        fg_parse_row_end(c);
    }
}

/* ---- outputs ---- */

/* `on if key` */
static void if_condition(fg_compiler *c)
{
    fg_span word = fg_lex_span(c);
    word.at = c->lexer.before_end - 2; /* the `if` that was taken */
    word.size = 2;
    if (fg_parse_at_row_end(c) || !fg_parse_at(c, TOK_NAME)) {
        (void)fg_parse_expect_word(c, "unsure", "write if unsure, or when and a condition");
        return;
    }
    fg_report(c, FG_FIND_SYNTAX, word, "'if' can only be followed by 'unsure'", "write when {}", fg_lex_text(c));
    fg_report_fix(c, word, T("when"));
    c->lost = true;
}

/* LEVEL [when CONDITION | if unsure] */
static fg_node *parse_row(fg_compiler *c, fg_symbol *output)
{
    fg_node *row = fg_node_new(c, NODE_ROW, fg_lex_span(c));
    fg_node *level = fg_parse_level(c, output);
    row->when = FG_ROW_ALWAYS;
    if (level->kind == NODE_BROKEN) {
        row->kind = NODE_BROKEN;
        return row;
    }
    fg_node_add(row, level);
    if (fg_parse_accept_word(c, "when")) {
        row->when = FG_ROW_WHEN;
        add(row, fg_parse_condition(c));
    } else if (fg_parse_accept_word(c, "if")) {
        row->when = FG_ROW_IF_UNSURE;
        if (!fg_parse_accept_word(c, "unsure")) if_condition(c);
    } else if (fg_parse_at_word(c, "for")) {
        const fg_text words = fg_span_text(c, fg_span_to_here(c, row->span));
        fg_report(c, FG_FIND_SYNTAX, fg_lex_span(c), "a row holds as long as its condition does, so it takes no time",
                  "write pulse NAME { start when CONDITION; last 5s } and here {} when NAME", words);
        c->lost = true;
    } else if (fg_parse_at_word(c, "otherwise") || fg_parse_at_word(c, "else")) {
        const fg_text word = fg_lex_text(c);
        const fg_span from = row->span, here = fg_lex_span(c);
        fg_report(c, FG_FIND_SYNTAX, here, "'{}' is not needed: a row without a condition holds when no row above does",
                  "write {} alone, as the last row", word, fg_span_text(c, fg_span_to_here(c, from)));
        c->lost = true;
    } else if (!fg_parse_at_row_end(c)) {
        fg_parse_wrong(c, "'when'", "write LEVEL when CONDITION, LEVEL if unsure, or just LEVEL");
    }
    row->span = fg_span_to_here(c, row->span);
    return row;
}

/* `rest 90` is an attribute, `rest when key` the level of a number called so. */
static bool at_attribute(fg_compiler *c)
{
    const fg_token next = fg_parse_peek(c);
    if (fg_parse_at_word(c, "single")) return true;
    return next.kind == TOK_NUMBER || next.kind == TOK_MINUS ||
           (next.kind == TOK_NAME && !fg_parse_peek_word(c, "when") && !fg_parse_peek_word(c, "if"));
}

/* An attribute and a level may begin with the same kind of token, so attributes are asked for first: `rest 90 deg` is
 * no level. */
void fg_parse_output(fg_compiler *c, fg_symbol *output)
{
    fg_block block;
    if (!fg_parse_block_of(c, output, &block)) return;
    while (fg_parse_block_row(c, &block)) {
        if (!at_attribute(c) || !parse_word_row(c, output)) fg_symbol_add(output, parse_row(c, output));
        fg_parse_row_end(c);
    }
}
