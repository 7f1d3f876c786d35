/* SPDX-License-Identifier: MIT */
/* Flags: what is kept of them, and what the rules see. */
#include "workshop/bake/write/write.h"

#include <inttypes.h>

void fg_code_flag(coder *c, uint16_t number)
{
    code_flag *f = &c->flags[number];
    const fg_flag *rule = &c->gate->flags[number];
    const fg_text name = f->declared->name;
    if (rule->stages & FG_STAGE_STALE) fg_code_line(c, 1, "\3stamp(&%s, &%s, \3now, \3back);", f->at, f->fresh);
    if (rule->stages & FG_STAGE_STALE)
        fg_code_line(c, 1, "if ((uint32_t)(\3now - %s) > %" PRIu32 "u) %s = \3UNSURE; /* stale */", f->at, rule->stale,
                     f->newest);
    const char *level = f->newest;
    if (rule->stages & FG_STAGE_BRIDGE) {
        const char *type = fg_code_clock_type(rule->bridge);
        const char *good = fg_code_member(c, "uint8_t", fg_code_word(c, name, "_good"), 0,
                                          "the last good one, and how long ago in ms");
        const char *waited = fg_code_member(c, type, fg_code_word(c, name, "_good_for"), 0, NULL);
        level = fg_code_local(c, name, "_now");
        fg_code_line(c, 1, "uint8_t %s = %s;", level, f->newest);
        fg_code_line(c, 1, "if (%s != \3UNSURE) { /* bridge */", level);
        fg_code_line(c, 2, "%s = %s;", good, level);
        fg_code_line(c, 2, "%s = 0;", waited);
        fg_code_line(c, 1, "} else if (%s != \3UNSURE) {", good);
        fg_code_line(c, 2, "%s = (%s)(%s + %s);", waited, type, waited, fg_code_clock(rule->bridge));
        fg_code_line(c, 2, "if (%s > %" PRIu32 "u) %s = \3UNSURE;", waited, rule->bridge, good);
        fg_code_line(c, 2, "%s = %s;", level, good);
        fg_code_line(c, 1, "}");
    }
    f->bridged = level;
    if (rule->settle) {
        const bool is_short_time = rule->settle <= CODE_SHORT_TIME;
        const char *type = fg_code_say(c, is_short_time ? "%s_settling" : "%s_settling_long", c->name);
        const char *settling = fg_code_member(c, type, fg_code_word(c, name, "_settled"), 0, NULL);
        if (is_short_time)
            c->settling = true;
        else
            c->settling_long = true;
        if (is_short_time) c->settle_calls++;
        fg_code_line(c, 1, "\3settle%s(&%s, %s, %s, %" PRIu32 "u);", is_short_time ? "" : "_long", settling, level,
                     fg_code_clock(rule->settle), rule->settle);
        level = fg_code_say(c, "%s.is", settling);
    } else if (rule->stages & FG_STAGE_BRIDGE) {
        const char *kept = fg_code_member(c, "uint8_t", fg_code_word(c, name, "_is"), 0, NULL);
        fg_code_line(c, 1, "%s = %s;", kept, level);
        level = kept;
    }
    f->answer = level;
}
