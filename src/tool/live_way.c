/* fickle live --to: outputs that are switched for real, a line a change. */
#include "live.h"

#include <stdlib.h>
#include <string.h>

struct live_way {
    const char *to;
    fg_serial *serial; /* NULL: standard output */
    bool lent;         /* it is the source's own line */
    bool told;         /* that it cannot be written to */
};

live_way *live_way_open(live_session *s, const char *to)
{
    fg_mistake mistake;
    live_way *way = calloc(1, sizeof *way);
    if (!way) {
        tool_no_memory();
        return NULL;
    }
    way->to = to;
    if (!strcmp(to, "-")) return way;
    way->lent = s->serial && fg_file_same(to, s->options->common.recording);
    way->serial = way->lent ? s->serial : fg_serial_open(to, s->options->baud, &mistake);
    if (way->serial) return way;
    tool_print_mistake(&mistake);
    free(way);
    return NULL;
}

static bool send(live_way *way, fg_text name, fg_text level)
{
    fg_memory_file line;
    if (!fg_memory_file_open(&line)) return false;
    tool_text(line.file, name);
    fputc('=', line.file);
    tool_text(line.file, level);
    fputc('\n', line.file);
    if (!fg_memory_file_close(&line)) return false;
    bool good = true;
    if (way->serial)
        good = fg_serial_write(way->serial, line.text, line.size);
    else
        good = fwrite(line.text, 1, line.size, stdout) == line.size && tool_output_flush();
    free(line.text);
    return good;
}

void live_way_switch(live_session *s, fg_text name, fg_text level)
{
    live_way *way = s->way;
    const bool good = send(way, name, level);
    if (!good && !way->serial) s->quits = true; /* nobody reads it any more */
    if (!good && !way->told) live_tell(s, "the outputs cannot be switched now: nothing takes the lines");
    way->told = !good;
}

void live_way_end(live_session *s)
{
    live_way *way = s->way;
    if (!way) return;
    const fg_program *program = &s->file->program;
    for (uint32_t i = 0; i < program->declared_count; i++) {
        const fg_declared *d = &program->declared[i];
        char text[FG_LEVEL_TEXT_SIZE];
        if (!fg_kind_is(d->kind, FG_KIND_IS_OUTPUT)) continue;
        (void)send(way, d->name, (fg_text){text, fg_level_text(&program->gate.outputs[d->index].rest, text)});
    }
    if (!way->lent) fg_serial_close(way->serial);
    free(way);
    s->way = NULL;
}
