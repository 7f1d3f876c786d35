/* SPDX-License-Identifier: MIT */
/* --only, --from and --to: a part of what a recording holds. */
#include "tool.h"

#include <string.h>

error_t tool_part_option(int key, const char *argument, struct argp_state *state)
{
    tool_options *o = state->input;
    switch (key) {
    case 'O': o->only = argument; return 0;
    case TOOL_OPTION_FROM:
        if (!tool_time(argument, &o->from))
            tool_wrong_use(state, "--from needs a time, as in 12.5s, not '%s'", argument);
        return 0;
    case TOOL_OPTION_TO:
        if (!tool_time(argument, &o->to) || !o->to)
            tool_wrong_use(state, "--to needs a time, as in 12.5s, not '%s'", argument);
        return 0;
    case ARGP_KEY_END:
        if (o->to && o->to <= o->from) tool_wrong_use(state, "--to has to come after --from");
        return ARGP_ERR_UNKNOWN;
    default: return ARGP_ERR_UNKNOWN;
    }
}

static bool can_be_shown(const fg_declared *d) { return d->kind != FG_KIND_NUMBER && d->kind != FG_KIND_SEQUENCE; }

bool tool_names(const tool_options *options, const fg_gate_file *file, tool_chosen *chosen)
{
    const char *at = options->only;
    chosen->count = 0;
    while (at && *at) {
        const size_t size = strcspn(at, ",");
        const fg_text name = {at, size};
        const fg_declared *d = fg_program_find(&file->program, name);
        if (!d || !can_be_shown(d)) {
            tool_say("%s: error: --only takes names of sensors, flags, rules and outputs of the gate, and '%.*s' is "
                     "none\n",
                     tool_path(file->path), (int)name.size, name.at);
            return false;
        }
        if (chosen->count == TOOL_NAMES_MOST) {
            tool_say("%s: error: --only takes %d names at most\n", tool_path(file->path), TOOL_NAMES_MOST);
            return false;
        }
        chosen->names[chosen->count++] = d;
        at += size + (at[size] == ',');
    }
    return true;
}

bool tool_is_chosen(const tool_chosen *chosen, const fg_declared *declared)
{
    for (size_t i = 0; i < chosen->count; i++)
        if (chosen->names[i] == declared) return true;
    return !chosen->count;
}
