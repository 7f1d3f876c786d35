/* SPDX-License-Identifier: MIT */
/* The labels by name, and what was read under each: its middle, its spread, how it drifts, and how noisy the readings
 * are. */
#include "workshop/base/sort.h"
#include "workshop/tune/tuning.h"

#include <stdlib.h>

/* ---- names ---- */

fg_verdict fg_label_verdict(const fg_tuning *t, uint16_t label)
{
    if (!fg_kind_is(t->rule->kind, FG_KIND_LABELS)) return label ? FG_YES : FG_NO;
    return label < t->rule->label_count ? fg_label(label) : FG_NONE;
}

uint16_t fg_tuning_label_named(const fg_tuning *t, fg_text name)
{
    const fg_declared *rule = t->rule;
    bool yes;
    if (!fg_kind_is(rule->kind, FG_KIND_LABELS)) return fg_flag_word(name, &yes) ? yes : FG_LABEL_OTHER;
    for (uint16_t i = 0; i < rule->label_count; i++)
        if (fg_text_same(rule->labels[i], name)) return i;
    for (uint16_t i = 0; i < rule->label_count; i++)
        if (fg_text_alike(rule->labels[i], name)) return i;
    return fg_text_alike(name, fg_text_of("none")) ? rule->label_count : FG_LABEL_OTHER;
}

uint16_t fg_tuning_label(fg_tuning *t, fg_text word)
{
    word = fg_text_trimmed(word);
    if (!word.size) return FG_LABEL_EMPTY;
    const uint16_t label = fg_tuning_label_named(t, word);
    if (label != FG_LABEL_OTHER) return label;
    if (!*t->tuned.unknown_label) fg_text_keep(t->tuned.unknown_label, sizeof t->tuned.unknown_label, word);
    return FG_LABEL_OTHER;
}

/* ---- readings ---- */

fg_value fg_tuning_median(fg_value *values, size_t count)
{
    if (!count) return 0;
    fg_sort_values(values, count);
    return values[(count - 1) / 2];
}

fg_value fg_tuning_distance(const fg_tuning *t, fg_value from, fg_value to)
{
    const int64_t way = fg_way(from, to, t->circle), far = way < 0 ? -way : way;
    return (fg_value)(far > INT32_MAX ? INT32_MAX : far);
}

/* Sorted values of a circle, turned so that they begin behind the widest space between two of them. */
static size_t widest_space(const fg_value *values, size_t count, fg_value circle)
{
    size_t at = 0;
    int64_t widest = (int64_t)values[0] + circle - values[count - 1];
    for (size_t i = 1; i < count; i++) {
        if ((int64_t)values[i] - values[i - 1] <= widest) continue;
        widest = (int64_t)values[i] - values[i - 1];
        at = i;
    }
    return at;
}

/* `values`: the label's readings, in any order; they are used up. */
static void describe(const fg_tuning *t, fg_value *values, size_t count, fg_tuned_label *out)
{
    if (!count) return;
    fg_sort_values(values, count);
    const size_t begin = t->circle ? widest_space(values, count, t->circle) : 0;
    out->readings = count;
    out->lowest = values[begin];
    out->median = values[(begin + (count - 1) / 2) % count];
    out->highest = values[(begin + count - 1) % count];
    for (size_t i = 0; i < count; i++) values[i] = fg_tuning_distance(t, out->median, values[i]);
    out->spread = fg_tuning_median(values, count);
}

/* One sample: `count` readings of one label in a row. */
static void drift_of(const fg_tuning *t, const fg_labelled *steps, size_t count, fg_value *room, fg_tuned_label *out)
{
    const size_t quarter = count / 4;
    out->samples++;
    if (count < 8) return;
    for (size_t i = 0; i < quarter; i++) room[i] = (fg_value)fg_way(steps[0].value, steps[i].value, t->circle);
    const int64_t first = fg_tuning_median(room, quarter);
    for (size_t i = 0; i < quarter; i++)
        room[i] = (fg_value)fg_way(steps[0].value, steps[count - quarter + i].value, t->circle);
    const int64_t drift = fg_tuning_median(room, quarter) - first, far = drift < 0 ? -drift : drift;
    const int64_t known = out->drift < 0 ? -(int64_t)out->drift : out->drift;
    if (!out->drifts || far > known) out->drift = (fg_value)(far > INT32_MAX ? INT32_MAX : drift);
    out->drifts = true;
}

static void describe_samples(fg_tuning *t, fg_value *room, fg_tuned_label *of, size_t *move_count, fg_value *moves)
{
    for (size_t i = 0, end; i < t->step_count; i = end) {
        const uint16_t label = t->steps[i].label;
        for (end = i + 1; end < t->step_count && t->steps[end].label == label; end++) {
            if (label >= FG_LABEL_OTHER) continue;
            moves[(*move_count)++] = fg_tuning_distance(t, t->steps[end - 1].value, t->steps[end].value);
        }
        if (label < FG_LABEL_OTHER) drift_of(t, t->steps + i, end - i, room, &of[label]);
    }
}

/* Labels that nobody used are left out of the list. */
bool fg_tuning_describe(fg_tuning *t, const uint64_t *readings)
{
    fg_tuned *out = &t->tuned;
    fg_value *room = malloc((t->step_count + 1) * sizeof *room), *moves = malloc((t->step_count + 1) * sizeof *moves);
    fg_tuned_label *of = calloc((size_t)t->labels + 1, sizeof *of);
    size_t move_count = 0;
    const bool good = room && moves && of;
    if (good) describe_samples(t, room, of, &move_count, moves);
    out->label_count = 0;
    for (uint16_t label = 0; good && label < t->labels; label++) {
        size_t count = 0;
        if (!readings[label]) continue;
        for (size_t i = 0; i < t->step_count; i++)
            if (t->steps[i].label == label) room[count++] = t->steps[i].value;
        of[label].label = fg_label_verdict(t, label);
        describe(t, room, count, &of[label]);
        of[out->label_count++] = of[label];
    }
    out->moves = move_count;
    if (good && move_count) {
        fg_sort_values(moves, move_count);
        out->move = moves[(move_count - 1) * 9 / 10];
    }
    /* Normal noise of deviation s: nine of ten moves are within 1.645 * sqrt 2 * s, and 3 s is 9/7 of that. */
    const int64_t noise = ((int64_t)out->move * 9 + 6) / 7;
    out->noise = (fg_value)(noise > INT32_MAX ? INT32_MAX : noise);
    free(room);
    free(moves);
    free(t->of_labels);
    t->of_labels = of;
    out->labels = of;
    return good;
}
