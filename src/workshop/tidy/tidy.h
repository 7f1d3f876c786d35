/* SPDX-License-Identifier: MIT */
/* What the files of this folder share: a gate file cut into tokens, and tokens into lines. tokens.c cuts, tidy.c makes
 * rows and blocks of them, layout.c puts lines below each other. */
#ifndef FICKLEGATE_WORKSHOP_TIDY_H
#define FICKLEGATE_WORKSHOP_TIDY_H

#include "workshop/base/buffer.h"

#include <ficklegate/tidy.h>

typedef enum fg_tidy_kind {
    FG_TIDY_WORD, /* anything without blanks that is nothing below */
    FG_TIDY_STRING,
    FG_TIDY_COMMENT,
    FG_TIDY_SIGN, /* , | = ( ) */
    FG_TIDY_OPEN,
    FG_TIDY_CLOSE,
    FG_TIDY_SEMICOLON,
    FG_TIDY_END
} fg_tidy_kind;

typedef struct fg_tidy_token {
    fg_tidy_kind kind;
    fg_text text;
    bool apart;        /* a blank or a line end stands in front */
    uint32_t newlines; /* in front */
} fg_tidy_token;

typedef struct fg_tidy_tokens {
    fg_tidy_token *at;
    size_t count, room;
    bool full;
} fg_tidy_tokens;

/* The last one is FG_TIDY_END. False: no memory, or `mistake` says what is not closed. */
bool fg_tidy_cut(const char *path, fg_text text, fg_tidy_tokens *tokens, fg_mistake *mistake);
/* Does the row go on behind `before`, though a line end stands in front of `after`? Outside of brackets. */
bool fg_tidy_goes_on(const fg_tidy_token *before, const fg_tidy_token *after);

/* A line: its columns, then its comment. */
enum { FG_TIDY_COLUMNS = 4 };

typedef struct fg_tidy_line {
    uint32_t indent, blanks;        /* blanks: empty lines in front */
    char *columns[FG_TIDY_COLUMNS]; /* the last one is the rest; NULL: none */
    bool aligned;                   /* stands in columns with its neighbours that do too */
    char *comment;                  /* NULL: none */
} fg_tidy_line;

typedef struct fg_tidy_lines {
    fg_tidy_line *at;
    size_t count, room;
    bool full;
} fg_tidy_lines;

/* In characters. */
uint32_t fg_tidy_width(fg_text text);
void fg_tidy_add_line(fg_tidy_lines *lines, fg_tidy_line line);
/* All lines as a text, below each other. */
void fg_tidy_lay_out(const fg_tidy_lines *lines, fg_buffer *out);

#endif
