/* SPDX-License-Identifier: MIT */
/* What a person is told of a live run. */
#include "workshop/live/live.h"

#include <stdarg.h>

void fg_live_tell(fg_live *l, const char *format, ...)
{
    char text[600];
    va_list values;
    if (!l->options.tell) return;
    va_start(values, format);
    (void)vsnprintf(text, sizeof text, format, values);
    va_end(values);
    l->told.size = 0; /* what came over a line may hold anything */
    fg_buffer_add_shown(&l->told, fg_text_of(text));
    fg_buffer_end(&l->told);
    if (!l->told.full) l->options.tell(l->options.context, l->told.text);
}
