/* SPDX-License-Identifier: MIT */
/* Texts of a display: plain characters, and {NAME} or {NAME unit} for what has a value. */
#include "language/tree/parse.h"

#include "core/mem.h"

/* A piece is plain text or a name; their order is that of the text. */
static fg_node *add_piece(fg_compiler *c, fg_node *text, fg_text word)
{
    fg_node *piece = fg_node_new(c, NODE_PIECE, text->span);
    piece->word = word;
    fg_node_add(text, piece);
    return piece;
}

static bool is_blank(char c) { return c == ' ' || c == '\t'; }

/* Without the blanks around it. */
static fg_text trimmed(fg_text text)
{
    while (text.size && is_blank(text.at[0])) text = (fg_text){text.at + 1, text.size - 1};
    while (text.size && is_blank(text.at[text.size - 1])) text.size--;
    return text;
}

/* Where a part of the text stands in its source, in which a quote is written twice. */
static fg_span span_of(const fg_compiler *c, const fg_node *text, fg_text part)
{
    if (text->span.source >= c->source_count) return text->span;
    const char *source = c->sources[text->span.source].text.at;
    uint32_t at = text->span.at + 1; /* behind the quote that opens it */
    for (const char *passed = text->word.at; passed < part.at; passed++) at += source[at] == '"' ? 2 : 1;
    return (fg_span){at, (uint32_t)part.size, text->span.source};
}

/* {NAME} or {NAME unit}. A sequence shows nothing, everything else may be shown. */
static void add_name(fg_compiler *c, fg_node *text, fg_text inside)
{
    const uint32_t shown = ~FG_KIND_BIT(FG_KIND_SEQUENCE);
    size_t space = 0;
    inside = trimmed(inside);
    while (space < inside.size && !is_blank(inside.at[space])) space++;
    const fg_text name = {inside.at, space}, behind = trimmed((fg_text){inside.at + space, inside.size - space});
    const fg_span span = name.size ? span_of(c, text, name) : text->span;
    fg_symbol *symbol = name.size ? fg_name_use(c, name, span, shown) : NULL;
    if (!name.size)
        fg_report(c, FG_FIND_SYNTAX, text->span, "there is no name in these {}",
                  "write the name of what is shown, and {} for a brace", T("{ }"), T("{{"));
    if (behind.size && !fg_text_is(behind, "unit"))
        fg_report(c, FG_FIND_SYNTAX, text->span, "the name is followed by '{}'", "only the word unit can follow",
                  behind);
    if (!symbol) {
        text->kind = NODE_BROKEN;
        return;
    }
    fg_name_depend(c, symbol, span);
    fg_node *piece = add_piece(c, text, name);
    piece->symbol = symbol;
    piece->with_unit = behind.size != 0;
}

/* From the brace at `from`: what it means, and where the text goes on. */
static size_t add_brace(fg_compiler *c, fg_node *text, size_t from)
{
    const fg_text word = text->word;
    const char brace = word.at[from];
    if (from + 1 < word.size && word.at[from + 1] == brace) {
        (void)add_piece(c, text, (fg_text){word.at + from, 1});
        return from + 2;
    }
    const size_t end = brace == '{' ? fg_text_byte(word, from, '}') : word.size;
    if (end == word.size) {
        fg_report(c, FG_FIND_NOT_CLOSED, text->span,
                  brace == '{' ? "a { in this text is never closed" : "a } in this text closes nothing",
                  "write {} for a plain brace", brace == '{' ? T("{{") : T("}}"));
        text->kind = NODE_BROKEN;
        return end;
    }
    add_name(c, text, (fg_text){word.at + from + 1, end - from - 1});
    return end + 1;
}

/* A text falls apart at its braces. `{{` and `}}` are braces themselves. */
void fg_parse_text(fg_compiler *c, fg_node *text)
{
    const fg_text word = text->word;
    size_t from = 0;
    while (from < word.size && text->kind != NODE_BROKEN) {
        /* Everything up to the next brace is shown as it stands. */
        size_t brace = from;
        while (brace < word.size && word.at[brace] != '{' && word.at[brace] != '}') brace++;
        if (brace > from) (void)add_piece(c, text, (fg_text){word.at + from, brace - from});
        from = brace < word.size ? add_brace(c, text, brace) : brace;
    }
}
