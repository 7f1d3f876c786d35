/* Outputs, sequences, and the rules that listen to conditions. */
#include "front.h"

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

static void add(fg_node *node, fg_node *child)
{
    if (child->kind == NODE_BROKEN)
        node->kind = NODE_BROKEN;
    else
        fg_node_add(node, child);
}

static void parse_when(fg_front *f, fg_node *node)
{
    if (!fg_parse_expect_word(f, "when", "write when and a condition behind it")) return;
    node->role = FG_WHEN;
    add(node, fg_parse_condition(f));
}

/* size 16x2 */
static void parse_size(fg_front *f, fg_node *node)
{
    node->word = fg_lex_text(f);
    if (!fg_parse_at(f, TOK_NUMBER) || fg_lex_behind(f) != 'x') {
        fg_parse_wrong(f, "a size", "write columns and lines, as in 16x2");
        return;
    }
    fg_lex_next(f);
    node->unit = fg_lex_text(f);
    fg_lex_next(f);
}

static void parse_shape(fg_front *f, fg_node *node, listen_shape shape)
{
    switch (shape) {
    case LISTEN_WORD: return;
    case LISTEN_WHEN: parse_when(f, node); return;
    case LISTEN_NUMBER: add(node, fg_parse_number(f)); return;
    case LISTEN_RANGE: add(node, fg_parse_range(f)); return;
    case LISTEN_SIZE: parse_size(f, node); return;
    case LISTEN_LAST:
        add(node, fg_parse_number(f));
        node->role = FG_ALWAYS;
        if (node->kind != NODE_BROKEN && fg_parse_at_word(f, "when")) parse_when(f, node);
        return;
    case LISTEN_REPEAT:
        if (fg_parse_at_row_end(f)) return;
        add(node, fg_parse_number(f));
        if (!fg_parse_accept_word(f, "times")) (void)fg_parse_expect_word(f, "time", "write repeat, or repeat 3 times");
        return;
    }
}

/* `clear wins`, `set wins` */
static bool parse_wins(fg_front *f, fg_symbol *symbol)
{
    const bool clear = fg_parse_at_word(f, "clear");
    if (symbol->kind != FG_KIND_LATCH || !(clear || fg_parse_at_word(f, "set")) || !fg_parse_peek_word(f, "wins"))
        return false;
    fg_node *node = fg_node_new(f, NODE_LISTEN, fg_lex_span(f));
    node->attribute = clear ? ATTR_CLEAR_WINS : ATTR_SET_WINS;
    if (symbol->attributes & ((uint64_t)1 << ATTR_CLEAR_WINS | (uint64_t)1 << ATTR_SET_WINS))
        fg_say(f, FG_FIND_TWICE, node->span, "who wins is said twice in {}", "keep one of them", symbol->name);
    symbol->attributes |= (uint64_t)1 << node->attribute;
    fg_lex_next(f);
    fg_lex_next(f);
    fg_symbol_add(symbol, node);
    return true;
}

static bool parse_word_row(fg_front *f, fg_symbol *symbol)
{
    int i = 0;
    if (parse_wins(f, symbol)) return true;
    while (i < ROWS && !(rows[i].kind == symbol->kind && fg_parse_at_word(f, rows[i].word))) i++;
    if (i == ROWS) return false;
    fg_node *node = fg_node_new(f, NODE_LISTEN, fg_lex_span(f));
    node->attribute = (uint8_t)rows[i].attribute;
    node->role = FG_ALWAYS;
    if (symbol->attributes >> rows[i].attribute & 1 && rows[i].attribute != ATTR_LAST)
        fg_say(f, FG_FIND_TWICE, node->span, "'{}' stands twice in {}", "keep one of them", fg_lex_text(f),
               symbol->name);
    symbol->attributes |= (uint64_t)1 << rows[i].attribute;
    fg_lex_next(f);
    parse_shape(f, node, rows[i].shape);
    node->span = fg_span_to_here(f, node->span);
    if (f->lost) node->kind = NODE_BROKEN;
    fg_symbol_add(symbol, node);
    return true;
}

static void unknown_row(fg_front *f, const fg_symbol *symbol)
{
    const char *words[ROWS + 1] = {NULL};
    size_t count = 0;
    for (int i = 0; i < ROWS; i++)
        if (rows[i].kind == symbol->kind) words[count++] = rows[i].word;
    fg_parse_unknown_row(f, symbol, words);
}

void fg_parse_listener(fg_front *f, fg_symbol *symbol)
{
    fg_block block;
    if (!fg_parse_block_open(f, &block)) return;
    while (fg_parse_block_row(f, &block)) {
        if (!parse_word_row(f, symbol)) unknown_row(f, symbol);
        fg_parse_row_end(f);
    }
}

/* ---- sequences ---- */

static void parse_segment(fg_front *f, fg_symbol *sequence)
{
    fg_node *segment = fg_node_new(f, NODE_SEGMENT, fg_lex_span(f));
    fg_node *level = fg_parse_level(f, sequence);
    add(segment, level);
    fg_symbol_add(sequence, segment);
    if (segment->kind == NODE_BROKEN || !fg_parse_expect_word(f, "for", "write LEVEL for TIME")) {
        segment->kind = NODE_BROKEN;
        return;
    }
    const bool follows = fg_parse_accept_word(f, "follow");
    add(segment, follows ? fg_parse_follow(f) : fg_parse_number(f));
    segment->span = fg_span_to_here(f, segment->span);
    if (follows && segment->kind != NODE_BROKEN && segment->last->first == segment->last->last) {
        fg_say(f, FG_FIND_MISSING, segment->last->span, "a tempo needs the times it goes to", "add to 50ms..800ms");
        segment->kind = NODE_BROKEN;
    }
}

void fg_parse_sequence(fg_front *f, fg_symbol *sequence)
{
    fg_block block;
    if (!fg_parse_block_open(f, &block)) return;
    f->in_sequence = true;
    while (fg_parse_block_row(f, &block)) {
        if (!parse_word_row(f, sequence)) parse_segment(f, sequence);
        fg_parse_row_end(f);
    }
    f->in_sequence = false;
}

/* ---- outputs ---- */

static fg_node *parse_row(fg_front *f, fg_symbol *output)
{
    fg_node *row = fg_node_new(f, NODE_ROW, fg_lex_span(f));
    fg_node *level = fg_parse_level(f, output);
    row->role = FG_ALWAYS;
    if (level->kind == NODE_BROKEN) {
        row->kind = NODE_BROKEN;
        return row;
    }
    fg_node_add(row, level);
    if (fg_parse_accept_word(f, "when")) {
        row->role = FG_WHEN;
        add(row, fg_parse_condition(f));
    } else if (fg_parse_accept_word(f, "if")) {
        row->role = FG_IF_UNSURE;
        (void)fg_parse_expect_word(f, "unsure", "write if unsure");
    } else if (!fg_parse_at_row_end(f)) {
        fg_parse_wrong(f, "'when'", "write LEVEL when CONDITION, LEVEL if unsure, or just LEVEL");
    }
    row->span = fg_span_to_here(f, row->span);
    return row;
}

/* `rest 90` is an attribute, `rest when key` the level of a number called so. */
static bool at_attribute(fg_front *f)
{
    const fg_token next = fg_parse_peek(f);
    if (fg_parse_at_word(f, "single")) return true;
    return next.kind == TOK_NUMBER || next.kind == TOK_MINUS ||
           (next.kind == TOK_NAME && !fg_parse_peek_word(f, "when") && !fg_parse_peek_word(f, "if"));
}

void fg_parse_output(fg_front *f, fg_symbol *output)
{
    fg_block block;
    if (!fg_parse_block_open(f, &block)) return;
    while (fg_parse_block_row(f, &block)) {
        if (!at_attribute(f) || !parse_word_row(f, output)) fg_symbol_add(output, parse_row(f, output));
        fg_parse_row_end(f);
    }
}
