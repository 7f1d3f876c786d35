/* SPDX-License-Identifier: MIT */
/* What the lexer makes of a text. */
#ifndef FICKLEGATE_LANGUAGE_TEXT_TOKEN_H
#define FICKLEGATE_LANGUAGE_TEXT_TOKEN_H

#include <ficklegate/language.h>

typedef enum fg_token_kind {
    TOK_END,
    TOK_NEWLINE,
    TOK_SEMICOLON,
    TOK_OPEN_BRACE,
    TOK_CLOSE_BRACE,
    TOK_OPEN,
    TOK_CLOSE,
    TOK_COMMA,
    TOK_BAR,
    TOK_EQUALS,
    TOK_PLUS,
    TOK_MINUS,
    TOK_TIMES,
    TOK_SLASH,
    TOK_DOTS,
    TOK_NAME,
    TOK_NOTE, /* C#5; a note without a sharp is a name */
    TOK_NUMBER,
    TOK_STRING,
    TOK_FOREIGN /* a sign that means nothing here */
} fg_token_kind;

typedef struct fg_token {
    fg_token_kind kind;
    uint32_t at, end;
} fg_token;

typedef struct fg_lexer {
    fg_text text;
    uint16_t source;
    uint32_t at;
    uint32_t depth;      /* open ( */
    fg_token token;      /* the present one */
    uint32_t before_end; /* where the one before ended */
    uint32_t row_end;    /* where the last one ended that is no end of a row */
} fg_lexer;

#endif
