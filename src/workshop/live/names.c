/* SPDX-License-Identifier: MIT */
/* The names that come, and what each is for. */
#include "workshop/live/live.h"

#include <stdlib.h>
#include <string.h>

/* What a person calls it here: --column NAME=COLUMN. */
static fg_text renamed(const fg_live *l, fg_text name)
{
    const fg_recording_options *o = &l->options.reading;
    for (size_t i = 0; i < o->column_count; i++)
        if (fg_text_same(o->columns[i].value, name)) return o->columns[i].name;
    return name;
}

static bool holds(fg_text text, fg_text part)
{
    for (size_t i = 0; part.size > 2 && i + part.size <= text.size; i++)
        if (fg_text_alike((fg_text){text.at + i, part.size}, part)) return true;
    return false;
}

/* The sensor or flag that such a name may have been meant for, or NULL. */
static const fg_declared *meant_by(const fg_live *l, fg_text name)
{
    fg_text unit;
    const fg_text bare = fg_column_name(name, &unit);
    const fg_declared *best = NULL;
    for (uint32_t i = 0; i < l->player.program->declared_count; i++) {
        const fg_declared *d = &l->player.program->declared[i];
        if (!fg_program_reads(l->player.program, d)) continue;
        if (fg_text_alike(bare, d->name)) return d;
        if (!best && holds(bare, d->name)) best = d;
    }
    return best;
}

static void tell_unused(fg_live *l, fg_text name)
{
    const fg_declared *d = meant_by(l, name);
    if (!d) return;
    char shown[FG_SHOWN_MOST + 1];
    fg_text_keep(shown, sizeof shown, name);
    fg_live_tell(l, "the board sends '%s', which nothing uses; if it is %.*s, write --column %.*s=%s", shown,
                 (int)d->name.size, d->name.at, (int)d->name.size, d->name.at, shown);
}

static fg_live_name *add(fg_live *l, fg_text name)
{
    if (l->name_count == FG_LIVE_NAMES_MOST) return NULL;
    fg_live_name *n = &l->names[l->name_count];
    *n = (fg_live_name){.name = fg_c_string_of(name), .time = FG_TIME_NONE};
    if (!n->name) return NULL;
    l->name_count++;
    const fg_text own = renamed(l, name);
    const bool read = fg_player_input(&l->player, own, &n->input);
    if (read && n->input.counts && !l->player.program->gate.sensors[n->input.declared->index].scale_count) {
        fg_live_tell(l, "'%.*s' are counts, but the sensor has no 'raw ... reads' to make units of them", (int)own.size,
                     own.at);
        n->input.declared = NULL;
        return n;
    }
    if (read) return n;
    n->time = fg_time_kind_of(own);
    if (n->time != FG_TIME_NONE) return n;
    const fg_declared *says = fg_player_said_of(&l->player, own);
    if (l->player.sayings) n->said_of = says;
    if (!says) tell_unused(l, name);
    return n;
}

fg_live_name *fg_live_name_of(fg_live *l, fg_text name)
{
    for (size_t k = 0; k < l->name_count; k++) {
        const size_t i = (l->name_next + k) % l->name_count;
        const size_t size = strlen(l->names[i].name);
        if (size != name.size || memcmp(l->names[i].name, name.at, size) != 0) continue;
        l->name_next = i + 1;
        return &l->names[i];
    }
    return add(l, name);
}

void fg_live_names_end(fg_live *l)
{
    for (size_t i = 0; i < l->name_count; i++) {
        free(l->names[i].name);
        free(l->names[i].unit);
    }
}
