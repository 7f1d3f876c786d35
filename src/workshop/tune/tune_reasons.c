/* SPDX-License-Identifier: MIT */
/* The reason for each recommended number, in one sentence. */
#include "workshop/tune/tuning.h"

#include <inttypes.h>

static void add_limit(fg_buffer *out, const fg_tuning *t, const fg_tuned_cut *cut, fg_value position)
{
    const int64_t number = cut->writes_below ? (int64_t)position - 1 : position;
    fg_buffer_add_value(out, t->circle ? fg_wrap(number, t->circle) : (fg_value)number, t->rule);
}

static void add_label(fg_buffer *out, const fg_tuning *t, fg_verdict label)
{
    fg_buffer_add(out, fg_answer_text(t->rule, label));
}

/* A share of 100 in whole per cent; what is more than nothing is at least "under 1 %". */
static void add_share(fg_buffer *out, uint64_t part, uint64_t of)
{
    const uint64_t share = of ? (part * 200 + of) / (2 * of) : 0;
    if (part && !share) fg_buffer_add_c(out, "under ");
    fg_buffer_add_number(out, (int64_t)(part && !share ? 1 : share));
    fg_buffer_add_c(out, " %");
}

static void add_space(fg_buffer *out, const fg_tuning *t, const fg_tuned_cut *cut)
{
    const fg_declared bare = {.decimals = t->rule->decimals};
    fg_buffer_add_c(out, "there is no reading between ");
    fg_buffer_add_value(out, cut->last_below, &bare);
    fg_buffer_add_c(out, " and ");
    fg_buffer_add_value(out, cut->first_above, t->rule);
}

/* "11 % of the heavy readings are among the light ones" */
static void add_overlap(fg_buffer *out, const fg_tuning *t, const fg_tuned_cut *cut)
{
    const bool below = cut->below_wrong * cut->above_readings >= cut->above_wrong * cut->below_readings;
    add_share(out, below ? cut->below_wrong : cut->above_wrong, below ? cut->below_readings : cut->above_readings);
    fg_buffer_add_c(out, " of the ");
    add_label(out, t, below ? cut->below : cut->above);
    fg_buffer_add_c(out, " readings are among the ");
    add_label(out, t, below ? cut->above : cut->below);
    fg_buffer_add_c(out, " ones: no single limit separates them");
}

void fg_tuning_because(fg_tuning *t, size_t number)
{
    const fg_tuned_cut *cut = &t->cuts[number];
    fg_buffer *out = &t->because[number];
    out->size = 0;
    if (!cut->tuned) {
        fg_buffer_add_c(out, "unchanged: there are no readings of both labels");
    } else if (cut->chosen == cut->now && !cut->gap) {
        add_limit(out, t, cut, cut->now);
        fg_buffer_add_c(out, " stays: ");
        if (t->rule->kind == FG_KIND_HYSTERESIS && t->tuned.wrong_now && t->tuned.wrong_now == t->tuned.wrong_best)
            fg_buffer_add_c(out, "played in order, other limits get no fewer wrong");
        else if (cut->wrong_best)
            add_overlap(out, t, cut);
        else
            add_space(out, t, cut);
    } else {
        add_limit(out, t, cut, cut->chosen);
        fg_buffer_add_c(out, cut->gap ? ": closes the gap; " : ": ");
        if (cut->wrong_best) {
            add_overlap(out, t, cut);
        } else {
            fg_buffer_add_c(out, "in the middle, ");
            add_space(out, t, cut);
        }
        if (cut->wrong_halfway > cut->wrong_best) {
            fg_buffer_add_c(out, "; halfway between the medians gets ");
            fg_buffer_add_number(out, (int64_t)(cut->wrong_halfway - cut->wrong_best));
            fg_buffer_add_c(out, " more wrong");
        }
    }
    fg_buffer_end(out);
}
