/* SPDX-License-Identifier: MIT */
/* Answers and levels as they are written. */
#include "workshop/base/buffer.h"

#include <string.h>

void fg_value_short(fg_value value, uint8_t decimals, char *text)
{
    size_t size = fg_value_write(value, decimals, text);
    if (decimals) {
        while (text[size - 1] == '0') size--;
        if (text[size - 1] == '.') size--;
    }
    text[size] = '\0';
}

fg_text fg_answer_text(const fg_declared *declared, fg_verdict answer)
{
    if (declared->kind == FG_KIND_SENSOR) return fg_text_of(answer == FG_YES ? "ok" : "faulty");
    if (answer == FG_UNSURE) return fg_text_of("unsure");
    if (!fg_kind_is(declared->kind, FG_KIND_LABELS)) return fg_text_of(answer == FG_YES ? "yes" : "no");
    if (answer != FG_NONE && answer <= declared->label_count) return declared->labels[answer - 1];
    return fg_text_of("none");
}

static bool same_letters(fg_text text, const char *word)
{
    size_t i = 0;
    for (; i < text.size && word[i]; i++) {
        char c = text.at[i];
        if (c >= 'A' && c <= 'Z') c = (char)(c - 'A' + 'a');
        if (c != word[i]) return false;
    }
    return i == text.size && !word[i];
}

bool fg_flag_word(fg_text word, bool *yes)
{
    static const char *const words[] = {"0", "1", "no", "yes", "false", "true", "off", "on"};
    for (int i = 0; i < 8; i++)
        if (same_letters(word, words[i])) {
            *yes = i & 1;
            return true;
        }
    return false;
}

fg_text fg_text_now(fg_buffer *b, const fg_declared *declared, const fg_run *run)
{
    b->size = 0;
    if (declared->kind == FG_KIND_COUNT) {
        fg_buffer_add_number(b, fg_count_value(run, declared->index));
    } else if (fg_kind_is(declared->kind, FG_KIND_IS_OUTPUT)) {
        const size_t size = fg_output_text(run, declared->index, NULL, 0);
        fg_buffer_room(b, size);
        if (!b->full) b->size = fg_output_text(run, declared->index, b->text, size);
    } else {
        return fg_answer_text(declared, fg_answer(run, declared->slot));
    }
    return fg_buffer_text(b);
}

bool fg_csv_needs_quotes(fg_text cell)
{
    for (size_t i = 0; i < cell.size; i++)
        if (cell.at[i] == ',' || cell.at[i] == '"' || cell.at[i] == '\r' || cell.at[i] == '\n') return true;
    return false;
}

void fg_csv_cell(FILE *file, fg_text cell)
{
    if (!fg_csv_needs_quotes(cell)) {
        if (cell.size) fwrite(cell.at, 1, cell.size, file);
        return;
    }
    fputc('"', file);
    for (const char *quote; (quote = memchr(cell.at, '"', cell.size));) {
        const size_t size = (size_t)(quote - cell.at) + 1;
        fwrite(cell.at, 1, size, file);
        fputc('"', file);
        cell = (fg_text){cell.at + size, cell.size - size};
    }
    fwrite(cell.at, 1, cell.size, file);
    fputc('"', file);
}
