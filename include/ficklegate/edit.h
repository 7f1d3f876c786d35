/* SPDX-License-Identifier: MIT */
/** @file
 * Editing: what stands at a place of a gate file, and what may stand there. Works on gates with mistakes too.
 *
 *     void print_name(const fg_program *program, uint32_t at)
 *     {
 *         const uint32_t name = fg_edit_name_at(program, 0, at, NULL);
 *         fg_text text = {0};
 *         if (name == FG_DECLARED_NONE) return;
 *         if (fg_edit_hover(program, &program->declared[name], &text) == FG_OK) fg_text_show(stdout, text);
 *         fg_text_free(text);
 *     }
 */
#ifndef FICKLEGATE_EDIT_H
#define FICKLEGATE_EDIT_H

#include <ficklegate/files.h>

FG_PUBLIC_BEGIN

/** The name that stands at byte `at` of a source, or just in front of it, where it is declared or used: its place in
 * fg_program.declared, and where it stands (`span` may be NULL). FG_DECLARED_NONE if none does. */
uint32_t fg_edit_name_at(const fg_program *program, uint16_t source, uint32_t at, fg_span *span);

/** What is known of a name, for whoever points at it: its kind, unit and step, its declaration as written, and of a
 * rule its number line. Plain lines; give the text back with fg_text_free. FG_ERROR_MEMORY. */
FG_MUST_CHECK fg_status fg_edit_hover(const fg_program *program, const fg_declared *declared, fg_text *text);

/** What the attribute that stands at byte `at` of a text does, in a line, and where it stands; NULL: there is none. */
const char *fg_edit_attribute_at(fg_text text, uint32_t at, fg_span *span);

/** Number `i` of the words that begin a row of some statement and are no attribute; NULL behind the last. Some come
 * twice. */
const char *fg_edit_row_word(size_t i);

typedef enum fg_choice_sort {
    FG_CHOICE_IS_STATEMENT, /**< begins a statement */
    FG_CHOICE_IS_ROW,       /**< begins a row of a block */
    FG_CHOICE_IS_NAME,      /**< is declared */
    FG_CHOICE_IS_LABEL,     /**< of bands */
    FG_CHOICE_IS_WORD       /**< of conditions */
} fg_choice_sort;

/** Tells every word that may stand at byte `at` of a text: labels behind `NAME is`, rows of the block around it, names
 * and words where a condition is. `program`: the text as it was compiled last, which may be a few letters older. What
 * stands in front of `at` already is not looked at: whoever asks picks those that begin so. */
void fg_edit_choices(const fg_program *program, fg_text text, uint32_t at, void *context,
                     void (*tell)(void *context, fg_text word, fg_choice_sort sort, const fg_declared *declared));

/** Kinds of words in a text, for colours. */
#define FG_PAINTS(X)                                                                                                   \
    X(FG_PAINT_NONE, "")                                                                                               \
    X(FG_PAINT_COMMENT, "comment")                                                                                     \
    X(FG_PAINT_STRING, "string")                                                                                       \
    X(FG_PAINT_NUMBER, "number")                                                                                       \
    X(FG_PAINT_STATEMENT, "keyword")                                                                                   \
    X(FG_PAINT_WORD, "operator")                                                                                       \
    X(FG_PAINT_NAME, "variable")

typedef enum fg_paint {
#define FG_PAINT_CODE(code, word) code,
    FG_PAINTS(FG_PAINT_CODE)
#undef FG_PAINT_CODE
} fg_paint;

/** Tells each word of source number `source` that has a colour, in the order of the text. `text`: as it was compiled.
 */
void fg_edit_paint(const fg_program *program, uint16_t source, fg_text text, void *context,
                   void (*tell)(void *context, fg_span span, fg_paint paint));

/** Tells each block of a text: where its braces stand. */
void fg_edit_blocks(fg_text text, void *context, void (*tell)(void *context, uint32_t from, uint32_t to));

/** Tells what the text of a source leaves to be worked out: behind a label how wide its band is, behind a number that
 * comes from others its value. `at`: the byte it belongs in front of. A gate with mistakes has no widths. */
void fg_edit_hints(const fg_program *program, uint16_t source, void *context,
                   void (*tell)(void *context, uint32_t at, fg_text hint));

FG_PUBLIC_END
#endif
