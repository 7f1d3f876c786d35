/* SPDX-License-Identifier: MIT */
/* Broken promises: each is told in one line, at once or when its turn comes. */
#include "tool.h"

#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

char *tool_broken_text(const fg_program *program, const fg_broken *broken, const char *where)
{
    const fg_text gate = program->sources[broken->row->span.source].name, name = broken->promise->text;
    const char *quote = name.size ? "\"" : "", *in = where ? " in " : "";
    const bool late = broken->row->kind == FG_EXPECT_WITHIN;
    const char *is = broken->answer == FG_YES  ? (late ? "yes, but too late" : "yes")
                     : broken->answer == FG_NO ? "no"
                                               : "unsure";
    char *text;
    const int size = asprintf(
        &text, "%.*s:%" PRIu32 ": %s %s%.*s%s%sis broken%s%s at %" PRId64 ".%03" PRId64 " s: '%.*s'; it is %s: %.*s\n",
        (int)gate.size, gate.at, broken->line, name.size ? "the promise" : "this promise", quote, (int)name.size,
        name.at, quote, name.size ? " " : "", in, where ? where : "", broken->t_ms / 1000, broken->t_ms % 1000,
        (int)broken->written.size, broken->written.at, is, (int)broken->because.size, broken->because.at);
    return size < 0 ? NULL : text;
}

bool tool_broken_add(tool_broken *b, const fg_broken *broken)
{
    char *text = tool_broken_text(b->program, broken, b->where);
    b->count++;
    if (text && !b->waits) {
        tool_say("%s", text);
    } else if (text) {
        const size_t size = b->kept ? strlen(b->kept) : 0;
        char *kept = realloc(b->kept, size + strlen(text) + 1);
        b->failed = b->failed || !kept;
        if (kept) memcpy(kept + size, text, strlen(text) + 1);
        if (kept) b->kept = kept;
    }
    b->failed = b->failed || !text;
    free(text);
    return !b->failed;
}

void tool_broken_end(tool_broken *b)
{
    if (b->kept) tool_say("%s", b->kept);
    free(b->kept);
    b->kept = NULL;
}
