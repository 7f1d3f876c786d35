/* SPDX-License-Identifier: MIT */
/* A gate file cut into words, texts, comments and signs, with the line ends and blanks in front of them. */
#include "workshop/tidy/tidy.h"

#include <stdlib.h>
#include <string.h>

static void add(fg_tidy_tokens *t, fg_tidy_token token)
{
    if (t->count == t->room) {
        const size_t room = t->room ? 2 * t->room : 256;
        fg_tidy_token *at = realloc(t->at, room * sizeof *at);
        t->full = t->full || !at;
        if (!at) return;
        t->at = at;
        t->room = room;
    }
    t->at[t->count++] = token;
}

static bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\n' || c == '\v' || c == '\f'; }

static bool is_sign(char c) { return c == ',' || c == '|' || c == '=' || c == '(' || c == ')'; }

static bool ends_word(char c) { return is_blank(c) || is_sign(c) || c == '"' || c == ';' || c == '{' || c == '}'; }

/* Up to its closing quote; 0: it is not closed on its line. */
static size_t string_size(fg_text text, size_t at)
{
    for (size_t i = at + 1; i < text.size && text.at[i] != '\n'; i++) {
        if (text.at[i] != '"') continue;
        if (i + 1 < text.size && text.at[i + 1] == '"')
            i++;
        else
            return i + 1 - at;
    }
    return 0;
}

static size_t comment_size(fg_text text, size_t at)
{
    const char *newline = memchr(text.at + at, '\n', text.size - at);
    size_t size = newline ? (size_t)(newline - text.at) - at : text.size - at;
    while (size && is_blank(text.at[at + size - 1])) size--;
    return size;
}

/* Two signs of other languages stay together, so that the message about them stays the same. */
static bool is_foreign_pair(fg_text text, size_t at)
{
    const char a = text.at[at];
    char b = '\0';
    if (at + 1 < text.size) b = text.at[at + 1];
    return (a == '|' && b == '|') || (a == '=' && (b == '=' || b == '>' || b == '<'));
}

static fg_tidy_kind kind_of(fg_text text, size_t at, bool may_be_comment)
{
    switch (text.at[at]) {
    case '"': return FG_TIDY_STRING;
    case '{': return FG_TIDY_OPEN;
    case '}': return FG_TIDY_CLOSE;
    case ';': return FG_TIDY_SEMICOLON;
    case '#': return may_be_comment ? FG_TIDY_COMMENT : FG_TIDY_WORD;
    default: return is_sign(text.at[at]) && !is_foreign_pair(text, at) ? FG_TIDY_SIGN : FG_TIDY_WORD;
    }
}

static size_t size_of(fg_text text, size_t at, fg_tidy_kind kind)
{
    size_t size = 1;
    if (kind == FG_TIDY_STRING) return string_size(text, at);
    if (kind == FG_TIDY_COMMENT) return comment_size(text, at);
    if (kind != FG_TIDY_WORD) return 1;
    if (is_foreign_pair(text, at)) return 2;
    while (at + size < text.size && !ends_word(text.at[at + size])) size++;
    return size;
}

bool fg_tidy_cut(const char *path, fg_text text, fg_tidy_tokens *t, fg_mistake *mistake)
{
    static const char mark[] = "\xef\xbb\xbf";
    uint64_t line = 1, opened = 0;
    size_t at = text.size >= 3 && !memcmp(text.at, mark, 3) ? 3 : 0;
    while (!t->full) {
        fg_tidy_token token = {.apart = !t->count};
        for (; at < text.size && is_blank(text.at[at]); at++) {
            token.apart = true;
            token.newlines += text.at[at] == '\n';
        }
        line += token.newlines;
        if (at == text.size) {
            token.kind = FG_TIDY_END;
            add(t, token);
            break;
        }
        const fg_tidy_kind before = t->count ? t->at[t->count - 1].kind : FG_TIDY_SEMICOLON;
        const bool behind = before == FG_TIDY_SEMICOLON || before == FG_TIDY_OPEN || before == FG_TIDY_CLOSE;
        token.kind = kind_of(text, at, token.apart || behind);
        token.text = (fg_text){text.at + at, size_of(text, at, token.kind)};
        at += token.text.size;
        add(t, token);
        if (!token.text.size) {
            (void)fg_mistake_set(mistake, FG_ERROR_GATE, path, line,
                                 "a text is not closed on its line; end it with \"");
            return false;
        }
        if ((token.kind == FG_TIDY_OPEN && opened) || (token.kind == FG_TIDY_CLOSE && !opened)) {
            (void)fg_mistake_set(mistake, FG_ERROR_GATE, path, line,
                                 token.kind == FG_TIDY_OPEN ? "a block begins inside of another; close that with }"
                                                            : "this } closes nothing; remove it");
            return false;
        }
        if (token.kind == FG_TIDY_OPEN) opened = line;
        if (token.kind == FG_TIDY_CLOSE) opened = 0;
    }
    if (opened && !t->full)
        (void)fg_mistake_set(mistake, FG_ERROR_GATE, path, opened,
                             "the block that begins here is not closed; end it with }");
    return !opened && !t->full;
}

static bool is_one_of(fg_text text, const char *const *words, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (fg_text_is(text, words[i])) return true;
    return false;
}

bool fg_tidy_goes_on(const fg_tidy_token *before, const fg_tidy_token *after)
{
    static const char *const asks[] = {"and", "or", "not", "when"}, *const joins[] = {"and", "or"};
    if (after->kind == FG_TIDY_OPEN) return true;
    if (after->kind == FG_TIDY_SIGN && after->text.at[0] == '|') return true;
    if (after->kind == FG_TIDY_WORD && is_one_of(after->text, joins, 2)) return true;
    if (before->kind == FG_TIDY_SIGN) return before->text.at[0] != ')';
    if (before->kind != FG_TIDY_WORD || !before->text.size) return false;
    const char last = before->text.at[before->text.size - 1];
    return is_one_of(before->text, asks, 4) || last == '+' || last == '-' || last == '*' || last == '/';
}
