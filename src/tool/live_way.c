/* SPDX-License-Identifier: MIT */
/* fickle live --to: outputs that are switched for real, a line a change. */
#include "live.h"

#include <stdlib.h>
#include <string.h>

struct live_way {
    const char *to;
    fg_serial *serial;
    fg_broker *broker; /* both NULL: standard output */
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
    if (fg_broker_is(to)) {
        way->broker = live_broker_open(s->options, to, false, "gate");
        if (way->broker) return way;
        free(way);
        return NULL;
    }
    way->lent = s->serial && fg_file_same(to, s->options->common.recording);
    way->serial = way->lent ? s->serial : fg_serial_open(to, s->options->baud, &mistake);
    if (way->serial) return way;
    tool_print_mistake(&mistake);
    free(way);
    return NULL;
}

int live_way_handle(const live_way *way) { return way && way->broker ? fg_broker_handle(way->broker) : -1; }

static void tell(void *context, const char *text)
{
    char whole[200];
    snprintf(whole, sizeof whole, "outputs: %s", text);
    live_tell(context, whole);
}

void live_way_turn(live_session *s)
{
    const fg_broker_sink sink = {.context = s, .tell = tell};
    if (s->way && s->way->broker) (void)fg_broker_turn(s->way->broker, &sink);
}

static bool send(live_way *way, fg_text name, fg_text level)
{
    fg_memory_file line;
    if (way->broker) return fg_broker_publish(way->broker, name, level, true);
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
    if (!good && !way->serial && !way->broker) s->quits = true; /* nobody reads it any more */
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
    fg_broker_close(way->broker);
    if (!way->lent) fg_serial_close(way->serial);
    free(way);
    s->way = NULL;
}
