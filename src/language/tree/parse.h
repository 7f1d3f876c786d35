/* SPDX-License-Identifier: MIT */
/* Tokens to the tree: one function a rule of the grammar. */
#ifndef FICKLEGATE_LANGUAGE_TREE_PARSE_H
#define FICKLEGATE_LANGUAGE_TREE_PARSE_H

#include "language/text/findings.h"
#include "language/text/lexer.h"
#include "language/tree/names.h"

/* Reads the gate file and all it includes: the statements into c->symbols, c->trials, c->promises
 * and c->scenes. */
void fg_parse(fg_compiler *c);
/* A node of this kind; the spare one if the arena is full, so never NULL. */
fg_node *fg_node_new(fg_compiler *c, fg_node_kind kind, fg_span span);
/* Puts a child behind the others. */
void fg_node_add(fg_node *parent, fg_node *child);
/* Puts a row behind the others of a declaration. */
void fg_symbol_add(fg_symbol *symbol, fg_node *node);
/* The attribute of a declaration, or its row that listens; NULL if it has none. */
/* A literal in one of the sources: its sign and digits. False for one that was set for this run. */
bool fg_node_digits(const fg_compiler *c, const fg_node *literal, fg_span *span);
fg_node *fg_node_attribute(const fg_symbol *symbol, fg_attribute attribute);
/* The second condition of an expectation: of `always while`, `never while`, `within T of`; NULL if it has none. */
fg_node *fg_node_expect_other(const fg_node *expect);
/* The number of a label among those of its bands; -1 if it is none. */
int fg_symbol_label(const fg_symbol *bands, fg_text word);
/* Numbers the labels of bands in the order of their first mention. */
void fg_symbol_collect_labels(fg_compiler *c, fg_symbol *bands);
/* Reports a brace or bracket that was opened at `open` and is not closed. Once a row. */
void fg_parse_not_closed(fg_compiler *c, fg_span open);
/* `from`, as long as what was read since. */
fg_span fg_span_to_here(const fg_compiler *c, fg_span from);
/* Is the present token of this kind? */
bool fg_parse_at(const fg_compiler *c, fg_token_kind kind);
/* Is it this word? */
bool fg_parse_at_word(const fg_compiler *c, const char *word);
/* Takes the token if it is of this kind. False: it is another, and stays. */
bool fg_parse_accept(fg_compiler *c, fg_token_kind kind);
/* The same for a word. */
bool fg_parse_accept_word(fg_compiler *c, const char *word);
/* Takes the word, or reports it as missing; `instead`: what to write. */
bool fg_parse_expect_word(fg_compiler *c, const char *word, const char *instead);
/* Reports what was expected here. The rest of the row is lost: nothing more is said about it. */
void fg_parse_wrong(fg_compiler *c, const char *wanted, const char *instead);
/* Ends a row: at its end, or reports what stands there instead and skips it. */
void fg_parse_row_end(fg_compiler *c);
/* Goes to the end of the row, quietly. */
void fg_parse_skip_row(fg_compiler *c);
/* Has the row ended (line end, semicolon, closing brace, end of text)? */
bool fg_parse_at_row_end(const fg_compiler *c);
/* A row that begins with no word this declaration knows. `words`: those it knows, NULL behind the last. */
void fg_parse_unknown_row(fg_compiler *c, fg_symbol *symbol, const char *const *words);
/* { row; row } : opens it; then, before each row, says whether another comes. */
typedef struct fg_block {
    fg_span open;
} fg_block;
/* False: there is no brace, which was reported, and the row was skipped. */
bool fg_parse_block_open(fg_compiler *c, fg_block *block);
/* The same of a declaration: the message shows what it looks like, and nothing more is said about it. */
bool fg_parse_block_of(fg_compiler *c, fg_symbol *symbol, fg_block *block);
/* Before each row. False: the block has ended. */
bool fg_parse_block_row(fg_compiler *c, const fg_block *block);
/* A text in quotes, without them and with "" as one quote. False: reported. */
bool fg_parse_string(fg_compiler *c, fg_text *text, const char *instead);
/* A name that is declared or asked here; empty if there is none, which was reported. `what`: for the message. */
fg_text fg_parse_name(fg_compiler *c, fg_span *span, const char *what);
/* The name of a new declaration of this kind; empty if there is none, which was reported. With c->lost it was reported
 * and is read. */
fg_text fg_parse_new_name(fg_compiler *c, fg_span *span, fg_kind kind);
/* Does a word stand here that begins a declaration? */
bool fg_parse_at_kind_word(const fg_compiler *c);
/* Takes the token, or reports it as missing. */
bool fg_parse_expect(fg_compiler *c, fg_token_kind kind, const char *wanted, const char *instead);
/* A number with its unit, or the name of one. */
fg_node *fg_parse_number(fg_compiler *c);
/* The same where a comma may follow that divides a list. */
fg_node *fg_parse_number_of_list(fg_compiler *c);
/* The sum of a sensor: with functions, and without units. */
fg_node *fg_parse_sensor_sum(fg_compiler *c);
/* A unit behind the last of several numbers holds for all: gives `a` the unit of `b` if it has none. */
void fg_parse_share_unit(fg_node *a, fg_node *b);
/* What a number may be worked out from. */
fg_node *fg_parse_number_expression(fg_compiler *c);
/* A..B, as a comparison `within`. */
fg_node *fg_parse_range(fg_compiler *c);
/* A comparison with its numbers. */
fg_node *fg_parse_comparison(fg_compiler *c);
/* The same where it is said of somebody, whose name a message repeats. */
fg_node *fg_parse_comparison_of(fg_compiler *c, fg_text subject);
/* Does one begin here, also in signs or words of another language, which is reported when it is read? */
bool fg_parse_at_comparison(fg_compiler *c);
/* Until fg_parse_own_unit_end numbers are of this sensor: its unit may be a word of conditions (`over 5 in`). */
void fg_parse_own_unit(fg_compiler *c, const fg_symbol *sensor);
/* Words are words again. */
void fg_parse_own_unit_end(fg_compiler *c);
/* The token after the present one. */
fg_token fg_parse_peek(fg_compiler *c);
/* Is the token behind the present one this word? */
bool fg_parse_peek_word(fg_compiler *c, const char *word);

/* { ROW ... } of a sensor, a flag or a rule on a sensor. False if there is no brace. */
bool fg_parse_rows(fg_compiler *c, fg_symbol *symbol);
/* A condition; broken as a whole if any part of it is. */
fg_node *fg_parse_condition(fg_compiler *c);
/* What stands behind `condition NAME`. */
void fg_parse_condition_statement(fg_compiler *c, fg_symbol *symbol);
/* The block of an output: attributes and rows. */
void fg_parse_output(fg_compiler *c, fg_symbol *output);
/* The block of a sequence: segments, `repeat`, `resumes`. */
void fg_parse_sequence(fg_compiler *c, fg_symbol *sequence);
/* Latch, count, pulse. */
void fg_parse_listener(fg_compiler *c, fg_symbol *symbol);
/* The source of a follow and its one or two ranges. */
fg_node *fg_parse_follow(fg_compiler *c);
/* The pieces of a text, as its children. */
void fg_parse_text(fg_compiler *c, fg_node *text);
/* A level of this output, or of a sequence; with all that stands behind its word. */
fg_node *fg_parse_level(fg_compiler *c, fg_symbol *output);
/* A note in scientific pitch (A4 = 440 Hz, equal temperament) in whole Hz; 0 if the word is none. */
int32_t fg_note_hz(fg_text word);
/* The colour of this name. False: there is none. */
bool fg_colour_named(fg_text word, uint32_t *colour);
/* Has this kind of output levels of this form? False for what is no output. */
bool fg_level_fits(fg_form form, fg_kind output);
/* The block of a trial. */
void fg_parse_trial(fg_compiler *c, fg_trial_node *trial);
/* The block of a promise. */
void fg_parse_promise(fg_compiler *c, fg_promise_node *promise);
/* The block of a scene. */
void fg_parse_scene(fg_compiler *c, fg_scene_node *scene);

#endif
