/* SPDX-License-Identifier: MIT */
/* What a page is answered, as JSON. */
#include "workshop/page/session.h"

#include <stdlib.h>

const char *fg_page_answer(fg_page *page, json_t *answer)
{
    free(page->answer);
    page->answer = answer ? json_dumps(answer, JSON_COMPACT | JSON_REAL_PRECISION(12)) : NULL;
    json_decref(answer);
    return page->answer;
}

json_t *fg_page_text(fg_text text)
{
    json_t *plain = json_stringn(text.size ? text.at : "", text.size);
    fg_buffer shown = {0};
    while (!plain && text.size) {
        char room[FG_ESCAPE_SIZE];
        fg_buffer_add(&shown, fg_text_next_shown(&text, room));
    }
    if (!plain && !shown.full) plain = json_stringn(shown.text, shown.size);
    fg_buffer_free(&shown);
    return plain;
}

const char *fg_page_mistake(fg_page *page, const fg_mistake *mistake)
{
    return fg_page_answer(page, json_pack("{s:{s:o, s:I, s:o}}", "mistake", "file",
                                          fg_page_text(fg_text_of(mistake->file)), "line", (json_int_t)mistake->line,
                                          "text", fg_page_text(fg_text_of(mistake->text))));
}

json_t *fg_page_value(fg_value steps, uint8_t decimals, bool good)
{
    double value = steps;
    if (!good) return json_null();
    for (uint8_t i = 0; i < decimals; i++) value /= 10;
    return json_real(value);
}

json_t *fg_page_broken_row(const fg_page *page, const fg_broken *broken)
{
    const fg_program *program = &page->file.program;
    return json_pack("{s:f, s:I, s:o, s:o, s:o, s:o}", "t", (double)broken->t_ms, "line", (json_int_t)broken->line,
                     "file", fg_page_text(program->sources[broken->row->span.source].name), "promise",
                     fg_page_text(broken->promise->text), "row", fg_page_text(broken->written), "because",
                     fg_page_text(broken->because));
}
