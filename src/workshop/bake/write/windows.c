/* SPDX-License-Identifier: MIT */
/* What all sums need: how fine a step is, how large a length may be, and the windows, which see every step, whatever
 * becomes of the rest. */
#include "workshop/bake/write/write.h"

int32_t fg_code_millionths(uint8_t decimals)
{
    int32_t step = 1000000;
    while (decimals--) step /= 10;
    return step;
}

/* How large the values of a length may be for the short way: 32 bits hold the squares, and a root this small is never
 * so close below a half that rounding it to a millionth first would move it up to the half. That needs a root below a
 * quarter of the millionths in a step: the next square root below k + 1/2 is 1 / (8k) away. */
int32_t fg_code_short_most(uint8_t decimals)
{
    static const int32_t most[FG_DECIMALS_MOST + 1] = {32767, 14433, 1443, 144};
    return most[decimals];
}

code_window fg_code_window(coder *c, uint16_t number, const fg_term *t)
{
    const fg_text name = c->sensors[number].declared->name;
    const code_sensor *of = &c->sensors[t->sensor];
    const bool narrow = fg_code_is_narrow(of) && t->kind != FG_TERM_RATE;
    const char *kind = t->kind == FG_TERM_RATE ? "rate" : t->kind == FG_TERM_DIP ? "dip" : "peak";
    code_window w = {.narrow = narrow};
    w.values = fg_code_member(c, narrow ? "int16_t" : "int32_t",
                              fg_code_word(c, name, fg_code_say(c, "_%s_last", kind)), t->count, "the last steps");
    if (t->kind == FG_TERM_RATE)
        w.far = fg_code_member(c, "uint8_t", fg_code_word(c, name, fg_code_say(c, "_%s_far", kind)), 0,
                               "steps on which its times may be wide");
    if (t->kind == FG_TERM_RATE)
        w.times = fg_code_member(c, "uint32_t", fg_code_word(c, name, fg_code_say(c, "_%s_times", kind)), t->count,
                                 "when they were");
    w.ring = fg_code_member(c, fg_code_say(c, "%s_ring", c->name),
                            fg_code_word(c, name, fg_code_say(c, "_%s_ring", kind)), 0, NULL);
    c->ring = true;
    return w;
}

const char *fg_code_best_in_window(coder *c, uint16_t number, const fg_term *t)
{
    const code_sensor *of = &c->sensors[t->sensor];
    const code_window w = fg_code_window(c, number, t);
    const char *name = fg_code_local(c, c->sensors[number].declared->name, t->kind == FG_TERM_DIP ? "_dip" : "_peak");
    fg_code_line(c, 1, "%s %s = 0;", w.narrow ? "int16_t" : "int32_t", name);
    fg_code_line(c, 1, "if (%s) {", of->ok);
    fg_code_line(c, 2, "\3ring_put%s(%s, &%s, %u, %s);", w.narrow ? "_16" : "", w.values, w.ring, t->count, of->value);
    fg_code_line(c, 2, "%s = %s%s(%s, %s.count);", name, t->kind == FG_TERM_DIP ? "\3lowest_of" : "\3highest_of",
                 w.narrow ? "_16" : "", w.values, w.ring);
    fg_code_line(c, 1, "} else {");
    fg_code_line(c, 2, "%s.count = %s.head = 0;", w.ring, w.ring);
    fg_code_line(c, 1, "}");
    return name;
}
