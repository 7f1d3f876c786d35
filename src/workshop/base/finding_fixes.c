/* SPDX-License-Identifier: MIT */
/* Mends that are certain: each finding may say which characters give way to which. */
#include "workshop/base/buffer.h"

#include <ficklegate/findings.h>

#include <stdlib.h>

/* Those of the gate file itself, in the order of the text. */
static int by_place(const void *a, const void *b)
{
    const fg_finding *x = *(const fg_finding *const *)a, *y = *(const fg_finding *const *)b;
    return (x->fix_span.at > y->fix_span.at) - (x->fix_span.at < y->fix_span.at);
}

/* The text with the mends of one run; one that lies in another waits for the next run. Empty: no memory. */
static fg_text with_fixes(const fg_program *program, fg_text text, uint32_t *count)
{
    const fg_finding **found = calloc((size_t)program->finding_count + 1, sizeof(const fg_finding *));
    fg_buffer out = {0};
    size_t fixes = 0, at = 0;
    *count = 0;
    if (!found) return (fg_text){0};
    for (uint32_t i = 0; i < program->finding_count; i++)
        if (program->findings[i].fix.at && !program->findings[i].fix_span.source)
            found[fixes++] = &program->findings[i];
    qsort(found, fixes, sizeof(const fg_finding *), by_place);
    for (size_t i = 0; i < fixes; i++) {
        const fg_span span = found[i]->fix_span;
        if (span.at < at || span.at + span.size > text.size) continue;
        fg_buffer_add(&out, (fg_text){text.at + at, span.at - at});
        fg_buffer_add(&out, found[i]->fix);
        at = (size_t)span.at + span.size;
        ++*count;
    }
    fg_buffer_add(&out, (fg_text){text.at + at, text.size - at});
    free(found);
    if (!out.full) return fg_buffer_text(&out);
    fg_buffer_free(&out);
    return (fg_text){0};
}

fg_status fg_gate_fixed(const char *path, fg_text text, fg_settings settings, fg_text *fixed, uint32_t *count,
                        fg_mistake *mistake)
{
    enum { RUNS_MOST = 20 };
    fg_text now = {0};
    *fixed = (fg_text){0};
    *count = 0;
    for (int run = 0; run < RUNS_MOST; run++) {
        fg_gate_file file;
        uint32_t more = 0;
        fg_text next = {0};
        const fg_status status = fg_gate_file_of_text(&file, path, now.at ? now : text, settings, mistake);
        const bool read = status == FG_OK || status == FG_ERROR_GATE;
        if (read) next = with_fixes(&file.program, now.at ? now : text, &more);
        fg_gate_file_close(&file);
        fg_text_free(now);
        if (!read) return status;
        if (!next.at) return fg_mistake_set(mistake, FG_ERROR_MEMORY, path, 0, "there is not enough memory to fix it");
        now = next;
        *count += more;
        if (!more) break;
    }
    *fixed = now;
    return FG_OK;
}
